"""Where a page stands: short names with a slash or an angle between them lead up to it; names with bars between them, across."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

from neige.core.model import Node
from neige.core.model.outline import Run
from neige.core.outline.words import node_text

UP = re.compile(r"[/›»>→]")  # the last name is the page itself
BETWEEN = re.compile(rf"\s+{UP.pattern}\s+")
ACROSS = re.compile(r"\|")
NAME_WORDS, SITE_WORDS = 4, 6  # of a name, and of the first, which may be that of the whole site
SIGN = 14.0  # px: a picture between names is no larger


def find_trails(root: Node) -> None:
    """Make links of the names of trails: of single lines of text, and of rows of texts with signs between them."""
    for n in root.walk():
        if n.kind in ("block", "row", "grid"):
            _name_trails(n)
        if n.kind == "row" and n.tag == "div" and len(n.children) >= 5 and not n.attributes.get("list"):
            _row(n)


def _name_trails(holder: Node) -> None:
    for i, n in enumerate(holder.children):
        if n.kind != "text" or n.tag != "p" or len(n.lines) != 1:
            continue
        if len(n.runs) == 1:
            n.runs = _parted(n.runs[0]) or n.runs
        names = BETWEEN.split(node_text(n))
        links = [r.text for r in n.runs if r.tag == "a"]
        first, *others = names
        short = all(len(name.split()) <= NAME_WORDS and name[:1].isalpha() for name in others)
        short = short and len(first.split()) <= SITE_WORDS and first[:1].isalpha()
        if len(names) >= 2 and short and links == names[:-1] and holder.tag != "nav":
            nav = Node("block", n.rect, tag="nav", children=[n], gap=n.gap, width="fill")
            nav.attributes["label"] = "Breadcrumb"
            if holder.kind != "block":
                nav.width, n.width, nav.align = n.width, "fill", "start"
            n.gap = 0.0
            n.tag = "ol"
            holder.children[i] = nav


def _parted(run: Run) -> list[Run]:
    """A run of names with signs between them as runs of their own, those that lead elsewhere as links; else nothing."""
    words = run.text.split()
    for sign in (UP, ACROSS):
        at = [i for i, w in enumerate(words) if sign.fullmatch(w)]
        bounds = [-1, *at, len(words)]
        names = [words[a + 1 : b] for a, b in itertools.pairwise(bounds)]
        most = [SITE_WORDS if sign is UP and not i else NAME_WORDS for i in range(len(names))]
        if len(at) < 2 or not all(1 <= len(w) <= m and w[0][0].isalpha() for w, m in zip(names, most)):
            continue
        out = []
        for i, name in enumerate(names):
            here = sign is UP and i == len(names) - 1
            out.append(replace(run, text=" ".join(name), tag="" if here else "a", glue=False))
            if i < len(at):
                out.append(replace(run, text=words[at[i]], glue=False))
        out[-1].glue = run.glue
        return out
    return []


def _row(n: Node) -> None:
    names, signs = n.children[::2], n.children[1::2]

    def parts(c: Node) -> bool:
        small = c.kind == "image" and max(c.rect.w, c.rect.h) <= SIGN
        return small or (c.kind == "text" and bool(UP.fullmatch(node_text(c))))

    def names_a_page(c: Node) -> bool:
        plain = c.kind == "text" and len(c.lines) == 1 and c.tag in ("p", "a") and c.surface is None
        return plain and len(node_text(c).split()) <= NAME_WORDS and node_text(c)[:1].isalpha()

    if len(names) != len(signs) + 1 or not all(map(parts, signs)) or not all(map(names_a_page, names)):
        return
    if not any(c.kind == "text" for c in signs):
        return
    n.tag = "nav"
    n.attributes["label"] = "Breadcrumb"
    n.reasons.append("names with signs between them")
    for c in names[:-1]:
        c.tag = "a"
