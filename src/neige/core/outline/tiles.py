"""Controls and badges of one width in a row, whatever they say: tiles, numbers of pages, initials. Their width is given, not their padding."""

from __future__ import annotations

from neige.core.model import Node
from neige.core.outline.words import texts_in

LEAST = 3  # in a row
SAME = 1.0  # px by which their widths may differ,
OTHER = 2.0  # and those of their texts do
CENTRED = 2.0  # px that a text's middle may be off


def mark_tiles(root: Node) -> None:
    """Give the members of such groups the attribute `tile`: their width in px."""
    for row in (n for n in root.walk() if n.kind == "row"):
        groups: dict[tuple[str, int], list[tuple[Node, float]]] = {}
        for c in row.children:
            text = _said(c) if c.tag in ("a", "button", "span") and c.surface else None
            if text:
                groups.setdefault((c.tag, round(c.rect.h)), []).append((c, text.rect.w))
        for group in groups.values():
            widths, said = sorted(c.rect.w for c, _ in group), [w for _, w in group]
            if len(group) >= LEAST and widths[-1] - widths[0] <= SAME and max(said) - min(said) >= OTHER:
                for c, _ in group:
                    c.attributes["tile"] = f"{widths[len(widths) // 2]:g}"


def _said(n: Node) -> Node | None:
    """The one text, of one line, that is all a control has in its middle."""
    texts = texts_in(n)
    alone = (
        len(n.children) == 1 and len(texts) == 1 and texts[0] is n.children[0] and len(texts[0].lines) == 1
    )
    return texts[0] if alone and abs(texts[0].rect.cx - n.rect.cx) <= CENTRED else None
