"""Where a page stands: short names with a slash or an angle between them lead up to it; names with bars between them, across."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

from neige.core.model import Node
from neige.core.model.outline import Run
from neige.core.outline.words import node_text, texts_in

UP = re.compile(r"[/›»>→]")  # the last name is the page itself
BETWEEN = re.compile(rf"\s+{UP.pattern}\s+")
ACROSS = re.compile(r"\|")
NAME_WORDS, SITE_WORDS = 4, 6  # of a name, and of the first, which may be that of the whole site
TITLE = 100.0  # px between a trail's middle and that of the title, which it ends with, at most
SIGN = 14.0  # px: a picture between names is no larger


def find_trails(root: Node) -> None:
    """Make links of the names of trails: of single lines of text, and of rows of texts with signs between them."""
    lines = [t for t in texts_in(root) if len(t.lines) == 1 and len(node_text(t).split()) <= NAME_WORDS]
    for n in root.walk():
        if n.kind in ("block", "row", "grid"):
            _name_trails(n, lines)
        if n.kind == "row" and n.tag == "div" and len(n.children) >= 5 and not n.attributes.get("list"):
            _row(n)


def _is_titled(n: Node, lines: list[Node]) -> bool:
    """Does a line near this one say what it ends with: is that the page's title?"""
    last = BETWEEN.split(node_text(n))[-1].lower()
    near = (t for t in lines if t.leading > n.leading and abs(t.rect.cy - n.rect.cy) <= TITLE)
    return any(node_text(t).lower() == last for t in near)


def _name_trails(holder: Node, lines: list[Node]) -> None:
    for i, n in enumerate(holder.children):
        if n.kind != "text" or n.tag != "p" or len(n.lines) != 1:
            continue
        titled = _is_titled(n, lines)
        if len(n.runs) == 1 or titled:
            n.runs = _parted(n.runs, 1 if titled else 2) or n.runs
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


def _parted(runs: list[Run], least: int) -> list[Run]:
    """The runs of a line of names with `least` or more signs between them as runs of one name or sign, those that lead elsewhere as
    links; else nothing."""
    words = [(word, run) for run in runs for word in run.text.split()]
    for sign in (UP, ACROSS):
        at = [i for i, (w, _) in enumerate(words) if sign.fullmatch(w)]
        bounds = [-1, *at, len(words)]
        names = [words[a + 1 : b] for a, b in itertools.pairwise(bounds)]
        most = [SITE_WORDS if sign is UP and not i else NAME_WORDS for i in range(len(names))]
        if len(at) < least or not all(1 <= len(w) <= m and w[0][0][0].isalpha() for w, m in zip(names, most)):
            continue
        out = []
        for i, name in enumerate(names):
            here = sign is UP and i == len(names) - 1
            said = " ".join(word for word, _ in name)
            out.append(replace(name[0][1], text=said, tag="" if here else "a", glue=False))
            if i < len(at):
                between, run = words[at[i]]
                out.append(replace(run, text=between, glue=False))
        out[-1].glue = runs[-1].glue
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
