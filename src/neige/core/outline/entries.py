"""Entries parted by lines: like things under one another with a line after each are a list, and the lines are their borders."""

from __future__ import annotations

from dataclasses import replace

from neige.core.model import Fill, Node, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.places import NEAR
from neige.core.outline.words import node_text

LEAST = 3  # entries
THIN = 3.0  # px: a thicker line is a thing of its own
SHORT = 0.9  # of the entries' width that a line runs along at least
UNEVEN = 1.6  # times the lowest entry that the highest may be, if each is more than a line of text
WORDS = 60  # that an entry says at most
HOLDERS = ("div", "section", "main", "aside", "article", "li")


def border_entries(root: Node) -> None:
    """Make lists of runs of like parts with lines between them. Nothing is moved: gaps and lines become padding and border."""
    for n in root.walk():
        if n.kind == "block" and n.tag in HOLDERS and not n.attributes.get("list"):
            for first, last in reversed(_runs(n)):
                _make_list(n, first, last)


def _runs(n: Node) -> list[tuple[int, int]]:
    """(first, last) of runs of children: entry, line, entry, line, ... entry (a line may end it)."""
    kids, out, i = n.children, [], 0
    while i < len(kids):
        j = i
        entries: list[Node] = []
        while j < len(kids) and _is_entry(kids[j]) and (not entries or _alike(entries[0], kids[j])):
            entries.append(kids[j])
            if j + 1 < len(kids) and _parts(kids[j + 1], kids[j]):
                j += 2
            else:
                j += 1
                break
        if len(entries) >= LEAST:
            out.append((i, j - 1))
            i = j
        else:
            i += 1
    return out


def _is_entry(c: Node) -> bool:
    """A part that a list's entry can be: not painted itself, no landmark, no heading alone, not too much said."""
    if c.kind not in ("block", "row", "grid", "text") or c.surface is not None or c.attributes.get("band"):
        return False
    return c.tag in ("div", "p", "a") and 1 <= len(node_text(c).split()) <= WORDS and not any(
        d.kind in ("table", "field") or d.tag in ("nav", "header", "footer", "h1") for d in c.walk()
    )  # fmt: skip


def _parts(line: Node, entry: Node) -> bool:
    return line.kind == "rule" and line.rect.h <= THIN and line.rect.w >= SHORT * entry.rect.w


def _alike(a: Node, b: Node) -> bool:
    """Are two parts entries of one list: made of the same kinds of things, and of much the same height?"""
    low, high = sorted((a.rect.h, b.rect.h))
    kinds = [{d.kind for d in n.walk() if not d.children} for n in (a, b)]
    first = [next((d.style for d in n.walk() if d.kind == "text"), -1) for n in (a, b)]
    return high <= UNEVEN * low + 30 and kinds[0] == kinds[1] and first[0] == first[1]


def _make_list(n: Node, first: int, last: int) -> None:
    part = n.children[first : last + 1]
    left, right = min(c.rect.x for c in part), max(c.rect.right for c in part)
    border = n.surface.border if n.surface else (0.0, 0.0, 0.0, 0.0)
    before = max(0.0, left - n.rect.x - border[3] - n.padding[3])
    after = max(0.0, n.rect.right - border[1] - n.padding[1] - right)
    for c in part:
        c.inset = max(0.0, c.inset - before)
    entries: list[Node] = []
    for c in part:
        if c.kind != "rule":
            top = c.gap if entries else 0.0
            box = Node("block", edges(left, c.rect.y - top, right, c.rect.bottom), children=[c], width="fill")
            box.padding = (top, 0.0, 0.0, 0.0)
            if not entries:
                box.gap = c.gap
            c.gap = 0.0
            entries.append(box)
            continue
        box = entries[-1]
        box.rect = edges(left, box.rect.y, right, c.rect.bottom)
        box.padding = (*box.padding[:2], c.gap, box.padding[3])
        ink = c.surface.fill.colour if c.surface else "#000000"
        box.surface = Surface(box.rect, Fill(""), border=(0.0, 0.0, c.rect.h, 0.0), border_colour=ink)
    entries = [_bare(e) for e in entries]
    group = Node("block", union(e.rect for e in entries), children=entries, width="fill", gap=entries[0].gap)
    if before > NEAR:
        group.inset = before
        group.width = "max" if after > NEAR else "fill"
    group.attributes["list"] = "1"
    group.reasons.append("like parts with lines between them")
    entries[0].gap = 0.0
    n.children[first : last + 1] = [group]


def _bare(box: Node) -> Node:
    """An entry without a wrapper of its own, where what is in it is a part that can take its padding and border."""
    inner = box.children[0]
    if (
        inner.kind == "text"
        or inner.tag != "div"
        or inner.inset > 0.5
        or any(inner.padding)
        or inner.width not in ("fill",)
    ):
        return box
    inner.padding, inner.surface, inner.gap = box.padding, box.surface, box.gap
    inner.rect = box.rect
    if inner.surface is not None:
        inner.surface = replace(inner.surface, rect=box.rect)
    return inner
