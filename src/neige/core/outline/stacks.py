"""Entries and stacks of them: what may be one, how it becomes a link, and which runs are lists."""

from __future__ import annotations

from collections.abc import Callable
from itertools import groupby

from neige.core.model import Node, Reading
from neige.core.model.geometry import union
from neige.core.model.outline import SUBHEADINGS
from neige.core.outline.targets import (
    EVEN,
)
from neige.core.outline.words import node_text, texts_in, words_of

MARK = 28.0  # px that the mark before the words of a foot's link is wide and high at most
ITEM_WORDS = 4
ENTRY_WORDS = 7
SEPARATORS = ("·", "•", "|", "/")  # between entries


def is_entry(c: Node) -> bool:
    """A short text, or a short text with a picture or badge beside it."""
    texts = texts_in(c)
    if c.kind == "text":
        return (
            len(c.lines) == 1
            and len(words_of(c)) <= ITEM_WORDS
            and c.tag in ("p", "a", "span")
            and "head" not in c.attributes
        )
    return (
        _is_line(c)
        and 1 <= len(texts) <= 2
        and len(c.walk()) <= 6
        and all(len(t.lines) == 1 for t in texts)
        and len(words_of(c)) <= ITEM_WORDS + 1
        and not any(d.kind == "field" for d in c.walk())
    )


def _is_line(c: Node) -> bool:
    """Is a part a row that nothing is painted on, or only a line under it?"""
    if c.surface is None:
        return c.kind == "row"
    return c.surface.underlines and (c.kind == "row" or (c.kind == "block" and len(c.children) == 1))


def as_link(c: Node) -> None:
    """Make an entry a link, unless it only parts others; what is inside it becomes plain phrasing."""
    if node_text(c) in SEPARATORS:
        return
    if c.kind == "text" and c.tag in ("p", "span", *SUBHEADINGS):
        c.tag = "a"
        for r in c.runs:
            r.tag = "" if r.tag == "a" else r.tag
    elif _is_line(c) and c.tag == "div":
        link_whole(c)


def link_whole(c: Node) -> None:
    """Make a part a link with all that is in it."""
    c.tag = "a"
    for d in c.walk()[1:]:
        if d.kind == "text":
            d.tag = "span"
            for r in d.runs:
                r.tag = ""
        elif d.tag in ("div", "a"):
            d.tag = "span"


def wrap_runs(n: Node, test: Callable[[Node], bool], least: int) -> None:
    """Put each run of at least `least` children that pass `test` into a list of their own."""
    if n.kind != "block" or n.attributes.get("list") or sum(map(test, n.children)) < least:
        return
    out: list[Node] = []
    for passes, group in groupby(n.children, test):
        run = list(group)
        if not passes or len(run) < least:
            out += run
        elif len(run) < len(n.children):
            node = Node("block", union(c.rect for c in run), children=run, width="fill", gap=run[0].gap)
            node.attributes["list"] = "1"
            run[0].gap = 0.0
            out.append(node)
        else:
            out += run
            if n.tag == "div":
                n.attributes["list"] = "1"
    n.children = out


def stack_lists(root: Node, reading: Reading) -> None:
    """Runs of single links, or of short lines at even distances, under one another are lists."""
    foot = {id(d) for n in root.walk() if n.tag == "footer" for d in n.walk()}
    for n in root.walk():
        if id(n) in foot and n.kind == "row" and n.tag == "div" and len(n.children) >= 2:
            _list_of_foot(n)
        if n.kind != "block" or n.tag not in ("div", "section", "main", "aside", "footer", "form", "td"):
            continue
        if n.tag == "form":
            continue
        _mend_links(n)
        headed = id(n) in foot or (bool(n.children) and "head" in n.children[0].attributes)
        wrap_runs(n, _is_plain_link, 2 if headed else 3)
        wrap_even_lines(n, reading)


def _list_of_foot(row: Node) -> None:
    """Links side by side in a foot are a list; a few may have a mark before their words, which leads there, too."""
    links = [c for c in row.children if c.kind == "text" and c.tag == "a" and c.surface is None]
    marked = [c for c in row.children if _is_marked_link(c)]
    if len(links) + len(marked) == len(row.children) and len(links) > len(marked):
        for c in marked:
            link_whole(c)
        row.attributes["list"] = "1"


def _is_marked_link(c: Node) -> bool:
    """A row of a small picture and the words of a link."""
    if c.kind != "row" or c.tag != "div" or c.surface is not None or len(c.children) != 2:
        return False
    mark, link = c.children
    small = mark.kind == "image" and max(mark.rect.w, mark.rect.h) <= MARK
    return small and link.kind == "text" and link.tag == "a"


def _is_plain_link(c: Node) -> bool:
    """A link by itself, without a bullet: those with one are a list with what else has one (see `find_lists`)."""
    return c.kind == "text" and c.tag == "a" and c.surface is None and not c.attributes.get("bullet")


def _mend_links(n: Node) -> None:
    """A line between links that is partly one and stands like them is one, too."""
    kids = n.children
    for i, c in enumerate(kids):
        if c.kind != "text" or c.tag != "p" or len(c.lines) != 1 or not any(r.tag == "a" for r in c.runs):
            continue
        beside = [kids[k] for k in (i - 1, i + 1) if 0 <= k < len(kids)]
        if beside and all(b.kind == "text" and b.tag == "a" and abs(b.rect.x - c.rect.x) < 3 for b in beside):
            as_link(c)


def wrap_even_lines(n: Node, reading: Reading) -> None:
    """Three or more short lines of one style at even distances, none a sentence, are a list."""
    kids = n.children
    runs: list[list[Node]] = []
    for c in kids:
        entry = (
            c.kind == "text"
            and c.tag == "p"
            and len(c.lines) == 1
            and 1 <= len(words_of(c)) <= ENTRY_WORDS
            and not words_of(c)[-1].endswith((".", ":", "?", "!"))
            and not c.attributes.get("bullet")
        )
        last = runs[-1][-1] if runs and runs[-1] else None
        if entry and last is not None and c.style == last.style:
            usual = runs[-1][1].gap if len(runs[-1]) > 1 else c.gap
            if abs(c.gap - usual) <= EVEN and c.gap <= 1.2 * c.rect.h:
                runs[-1].append(c)
                continue
        runs.append([c] if entry else [])
    long = {id(c) for run in runs if len(run) >= 3 for c in run}
    wrap_runs(n, lambda c: id(c) in long, 3)
