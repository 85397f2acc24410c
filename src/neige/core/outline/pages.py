"""The pages of a list of pages: numbers that follow on each other side by side, and words that turn to the next one."""

from __future__ import annotations

import itertools

from neige.core.model import Node
from neige.core.outline.stacks import as_link
from neige.core.outline.targets import give_room
from neige.core.outline.words import TURN, node_text

PAGE = (140.0, 56.0)  # px: larger things lead to no page of a list
PAGES = 3  # numbers that follow on each other


def link_pages(root: Node) -> None:
    """Whole numbers that follow on each other side by side lead to pages; so does what stands beside them, and a pair of
    "older" and "newer"."""
    around = {id(c): n for n in root.walk() for c in n.children}
    for n in root.walk():
        if n.kind not in ("row", "grid") or n.tag not in ("div", "nav") or not n.children:
            continue
        _flatten(n)
        if any(len(node_text(c).split()) > 2 or c.rect.h > PAGE[1] or c.rect.w > PAGE[0] for c in n.children):
            continue
        turns = sum(bool(TURN.fullmatch(node_text(c))) for c in n.children)
        counted = _following(n.children) >= (2 if turns else PAGES)
        turned = turns == len(n.children) == 2
        if not counted and not turned:
            continue
        n = _with_turns(around.get(id(n)), n)
        n.tag = "nav"
        n.attributes["label"] = "Pages"
        for c in n.children:
            if c.kind == "text":
                c.tag = "a"
            elif c.surface is not None and c.kind in ("block", "row") and node_text(c):
                c.tag = "a"
                for d in c.walk()[1:]:
                    d.tag = "span" if d.kind == "text" else d.tag
            elif TURN.fullmatch(node_text(c)):
                as_link(c)
        give_room(n)
        if all(c.tag == "a" or _is_left_out(c) for c in n.children):
            n.attributes["list"] = "1"


def _following(kids: list[Node]) -> int:
    """How many numbers follow on each other side by side; 0 if one does not, other than after a cell that stands for those left out."""
    numbers = [(i, int(node_text(c))) for i, c in enumerate(kids) if node_text(c).isdecimal()]
    steps = [
        0 if b - a > 1 and j - i == 2 and _is_left_out(kids[i + 1]) else b - a
        for (i, a), (j, b) in itertools.pairwise(numbers)
    ]
    if not numbers or max(steps, default=0) > 1 or min(steps, default=1) < 0 or numbers[-1][1] > 999:
        return 0
    return sum(steps) + 1


def _is_left_out(c: Node) -> bool:
    """Does a cell stand for the pages that are not named: with dots in it, or whose dots were too small to read?"""
    said = node_text(c)
    return said in ("…", "...") or (
        not said and c.kind == "block" and c.surface is not None and not c.children
    )


def _with_turns(row: Node | None, pages: Node) -> Node:
    """The row of the numbers, together with the words before and after it that turn to the pages beside this one."""
    if row is None or row.kind != "row" or row.tag != "div" or row.surface is not None:
        return pages
    turns = [c for c in row.children if c is not pages]
    plain = (
        pages.kind == "row" and pages.surface is None and not any(pages.padding) and pages.cross == row.cross
    )
    if not turns or not plain or not all(TURN.fullmatch(node_text(c)) for c in turns):
        return pages
    pages.children[0].gap = pages.gap
    row.children = [d for c in row.children for d in (pages.children if c is pages else [c])]
    return row


def _flatten(row: Node) -> None:
    """Take numbers, and what stands beside them, in rows within a row of such out of these: the open page's box stands nearer to
    the next number than others do."""
    if not any(map(_leads_to_page, row.children)):
        return
    out: list[Node] = []
    for c in row.children:
        inner = c.kind == "row" and c.surface is None and c.tag == "div" and c.cross == row.cross
        if inner and all(map(_leads_to_page, c.children)):
            c.children[0].gap = c.gap
            out += c.children
        else:
            out.append(c)
    row.children = out


def _leads_to_page(c: Node) -> bool:
    """A page's number, a word that turns to one, or what stands for those left out."""
    return node_text(c).isdecimal() or bool(TURN.fullmatch(node_text(c))) or _is_left_out(c)
