"""Lists in lists: entries that are set in under another one are a list of that entry's own."""

from __future__ import annotations

import itertools
from dataclasses import replace
from statistics import median

from neige.core.model import Node
from neige.core.model.geometry import edges, union
from neige.core.outline.lists import marks

LEVEL = 3.0  # px by which the beginnings of entries of one level may differ
STEP = (8.0, 60.0)  # px that a level is set in
LEVELS = 5  # at most
EXACT = 0.75  # px: an inset of less is none


def nest_lists(root: Node) -> None:
    """Give the entries of lists that are set in to the entry above them."""
    inner = {id(c) for n in root.walk() if n.attributes.get("list") for c in n.children}
    for n in root.walk():
        if n.kind == "block" and n.attributes.get("list", "ol") != "ol" and id(n) not in inner:
            entries = _entries(n)
            levels = _levels(entries)
            if levels:
                n.children = _nested(entries, levels)
                n.attributes["list"] = marks(n)
                n.reasons.append("entries set in under others")
    for n in root.walk():
        if n.kind == "block" and n.attributes.get("list") and n.tag != "nav":
            _indent(n)


def _indent(n: Node) -> None:
    """What all entries of a list are set in by is the list's own padding."""
    insets = [c.inset for c in n.children]
    plain = all(c.align == "start" and c.surface is None and c.kind in ("text", "block") for c in n.children)
    if not plain or len(insets) < 2 or min(insets) <= LEVEL or max(insets) - min(insets) > LEVEL:
        return
    if any(c.attributes.keys() & {"outset", "aside", "lead"} for c in n.children):
        return
    inset = median(insets)
    _rebase(n.children, inset)
    top, right, bottom, left = n.padding
    n.padding = (top, right, bottom, left + inset)
    n.rect = edges(
        min(n.rect.x, min(c.rect.x for c in n.children) - inset), n.rect.y, n.rect.right, n.rect.bottom
    )


def _rebase(entries: list[Node], base: float) -> None:
    """Say of entries how far they are set in beyond `base` px."""
    for c in entries:
        c.inset = c.inset - base if abs(c.inset - base) >= EXACT else 0.0


def _entries(n: Node) -> list[Node]:
    """The entries of a list, those of lists in it as if they were its own."""
    out: list[Node] = []
    for c in n.children:
        if (
            c.kind == "block"
            and c.attributes.get("list", "ol") != "ol"
            and c.surface is None
            and c.tag == "div"
        ):
            for i, d in enumerate(c.children):
                out.append(replace(d, gap=d.gap if i else c.gap, inset=d.inset + c.inset))
        else:
            out.append(c)
    return out


def _levels(entries: list[Node]) -> list[int]:
    """How deep each entry is; none if they are not set in, or not so that each level begins under an entry of the one before."""
    if any(c.surface is not None or c.align == "center" or not _is_item(c) for c in entries):
        return []
    begins = [_begin(c) for c in entries]
    steps = [x for a, x in itertools.pairwise(sorted(begins)) if x - a > LEVEL]
    starts = [min(begins), *steps] if begins else []
    widths = [b - a for a, b in itertools.pairwise(starts)]
    if not 1 < len(starts) <= LEVELS or not all(STEP[0] <= w <= STEP[1] for w in widths):
        return []
    out = [sum(x >= s - EXACT for s in starts) - 1 for x in begins]
    rises = all(b - a <= 1 for a, b in itertools.pairwise(out))
    return out if out[0] == 0 and rises else []


def _is_item(c: Node) -> bool:
    """A text, or a block of texts that begins with one."""
    return c.kind == "text" or (
        c.kind == "block" and bool(c.children) and all(d.kind == "text" for d in c.children)
    )


def _begin(c: Node) -> float:
    return c.rect.x if c.kind == "text" else c.children[0].rect.x


def _nested(entries: list[Node], levels: list[int]) -> list[Node]:
    """The entries of the first level, each with the list of those that follow it deeper."""
    out: list[Node] = []
    i = 0
    while i < len(entries):
        end = next((k for k in range(i + 1, len(entries)) if levels[k] <= levels[i]), len(entries))
        head, under = entries[i], entries[i + 1 : end]
        out.append(_item(head, _nested(under, levels[i + 1 : end])) if under else head)
        i = end
    return out


def _item(head: Node, under: list[Node]) -> Node:
    """An entry with a list of its own."""
    first = under[0]
    base = first.inset
    _rebase(under, base)
    box = Node(
        "block", union(c.rect for c in under), children=under, width="fill", gap=first.gap, inset=base - head.inset
    )  # fmt: skip
    first.gap = 0.0
    box.attributes["list"] = marks(box)
    item = head
    if head.kind == "text":
        item = Node("block", head.rect, children=[head], gap=head.gap, inset=head.inset, width="fill")
        if bullet := head.attributes.get("bullet"):
            item.attributes["bullet"] = bullet
        head.gap = head.inset = 0.0
    item.children = [*item.children, box]
    item.rect = union([item.rect, box.rect])
    return item
