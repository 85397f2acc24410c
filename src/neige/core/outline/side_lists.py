"""The menu at a page's side is one list: entries alone, in boxes, or with counters beside them, and the captions among them."""

from __future__ import annotations

from itertools import groupby

from neige.core.model import Node, Reading
from neige.core.model.geometry import union
from neige.core.outline.even_entries import MOST_TEXTS, even_entries, is_counted
from neige.core.outline.sides import SIDE
from neige.core.outline.words import node_text, texts_in

ENTRIES = 3  # links that make a list
CAPTION_WORDS = 4


def join_side_lists(root: Node, reading: Reading) -> None:
    """Put the lists of a side menu, and the entries and captions between them, into one."""
    for nav in root.walk():
        if nav.tag == "nav" and nav.kind == "block" and nav.rect.w <= SIDE[1]:
            for holder in nav.walk():
                if (
                    holder.kind == "block"
                    and not holder.attributes.get("list")
                    and holder.tag in ("nav", "div")
                ):
                    _join(holder, reading)
            for holder, menu in [(nav, nav), *((h, c) for h in nav.walk() for c in h.children)]:
                if menu.kind == "block" and menu.attributes.get("list"):
                    even_entries(holder, menu)


def _join(holder: Node, reading: Reading) -> None:
    links = [d for c in holder.children for d in c.walk() if d.tag == "a" and texts_in(d)]
    if len(links) < ENTRIES or holder.align != "start":
        return
    sizes = [reading.styles[texts_in(d)[0].style].size for d in links]
    usual = max(set(sizes), key=sizes.count)
    out: list[Node] = []
    for entries, group in groupby(holder.children, lambda c: _is_part(c, reading, usual)):
        run = list(group)
        leading = [
            e for c in run for e in (c.children if _is_list(c) else [c]) if not _is_caption(e, reading, usual)
        ]
        out += [_list_of(run)] if entries and len(run) > 1 and len(leading) >= ENTRIES else run
    holder.children = out


def _is_part(c: Node, reading: Reading, usual: float) -> bool:
    return _is_list(c) or _is_link(c) or is_counted(c) or _is_caption(c, reading, usual)


def _list_of(parts: list[Node]) -> Node:
    """One list of lists and entries under one another, which stay where they are."""
    items: list[Node] = []
    for c in parts:
        if not _is_list(c):
            items.append(c)
            continue
        c.children[0].gap += c.gap
        for e in c.children:
            e.inset = max(0.0, e.inset) + max(0.0, c.inset)
        items += c.children
    node = Node("block", union(c.rect for c in items), children=items, width="fill", gap=items[0].gap)
    node.attributes["list"] = "1"
    node.reasons.append("entries and their captions in the menu at the page's side")
    items[0].gap = 0.0
    return node


def _is_list(c: Node) -> bool:
    plain = c.kind == "block" and c.tag == "div" and c.surface is None and not any(c.padding)
    return plain and c.attributes.get("list") == "1" and c.align == "start" and bool(c.children)


def _is_link(c: Node) -> bool:
    return c.tag == "a" and 1 <= len(texts_in(c)) <= MOST_TEXTS


def _is_caption(c: Node, reading: Reading, usual: float) -> bool:
    """A short line that is smaller than the entries, or all in capitals."""
    if c.kind != "text" or c.tag != "p" or len(c.lines) != 1 or c.surface is not None:
        return False
    words = node_text(c)
    small = words.isupper() or reading.styles[c.style].size < usual
    return small and len(words.split()) <= CAPTION_WORDS
