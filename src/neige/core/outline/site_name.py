"""The site's name over a page without a menu: a line of text at the top that the line with the copyright at the end says again."""

from __future__ import annotations

import re
from dataclasses import replace

from neige.core.model import Node
from neige.core.model.geometry import edges
from neige.core.outline.words import node_text, texts_in

OWNER = re.compile(r"(?:©|\(c\)|copyright)[\s\d,–-]*(?:(?:©|\(c\)|by)\s*)?([^.,|·]+)", re.I)
TOP = 160.0  # px from the page's top that it ends at most
LONGEST = 4  # words


def lift_site_name(root: Node) -> None:
    """Put the name into a head of its own, before the page's middle."""
    main = next((c for c in root.children if c.tag == "main"), None)
    if main is None or main.kind != "block" or main.surface is not None or len(main.children) < 2:
        return
    if any(n.tag == "header" for n in root.walk()):
        return
    first, rest = main.children[0], main.children[1:]
    own = texts_in(first)
    alone = len(own) == 1 and not any(n.kind in ("image", "field", "table") for n in first.walk())
    if not alone or first.surface is not None or len(own[0].lines) != 1 or first.rect.bottom > TOP:
        return
    name = _plain(node_text(own[0]))
    if not 0 < len(name.split()) <= LONGEST or name not in _owners(root):
        return
    top, right, bottom, left = main.padding
    r, end = main.rect, first.rect.bottom
    head = replace(
        main, tag="header", rect=edges(r.x, r.y, r.right, end), children=[first], padding=(top, right, 0.0, left),
        attributes={k: v for k, v in main.attributes.items() if k in ("band", "container")},
        reasons=["the name in the line with the copyright"],
    )  # fmt: skip
    main.children, main.gap = rest, rest[0].gap
    main.rect, main.padding = edges(r.x, rest[0].rect.y, r.right, r.bottom), (0.0, right, bottom, left)
    rest[0].gap = 0.0
    root.children.insert(root.children.index(main), head)


def _owners(root: Node) -> set[str]:
    found = (OWNER.search(node_text(t)) for t in texts_in(root))
    return {_plain(m.group(1)) for m in found if m}


def _plain(text: str) -> str:
    return " ".join(re.findall(r"\w+", text.casefold()))
