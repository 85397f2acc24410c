"""Entries of a menu, written alike: as wide as the menu, of one height and pitch, what ends them at one place."""

from __future__ import annotations

from itertools import pairwise
from statistics import fmean, median

from neige.core.model import Node
from neige.core.outline.places import AUTO
from neige.core.outline.stacks import link_whole
from neige.core.outline.targets import TARGET
from neige.core.outline.words import texts_in

ENTRIES = 3
MOST_TEXTS = 3  # in an entry: its words, and what is counted beside them
UNEVEN = 2.0  # px by which steps from one entry to the next may differ
CHANCE = 0.5  # px by which the room between an icon and its words may differ from entry to entry
STRAIGHT = 1.5  # px by which entries of one menu may begin, or what ends them end, elsewhere
SAME_HIGH = 1.0  # px
ROOM = 16.0  # px before what stands at an entry's end, at least


def even_entries(holder: Node, menu: Node) -> None:
    """Give the entries of a list one padding and one distance; `holder` is what the list stands in, or the list itself."""
    for c in menu.children:
        if is_counted(c) and not any(d.tag in ("a", "button") for k in c.children[1:] for d in k.walk()):
            link_whole(c)
    rows = [c for c in menu.children if c.tag in ("a", "button") and c.kind == "row" and c.surface is None]
    _pool(menu.children)
    if len(rows) >= ENTRIES:
        _align(rows)
        _space(holder, menu, rows)


def is_counted(c: Node) -> bool:
    """A row of one link and small things beside it."""
    links = [d for d in c.walk() if d.tag == "a"]
    plain = c.kind == "row" and c.tag == "div" and c.surface is None
    controls = any(d.kind == "field" or d.tag in ("form", "button", "nav") for d in c.walk())
    return plain and len(links) == 1 and len(texts_in(c)) <= MOST_TEXTS and not controls


def _pool(items: list[Node]) -> None:
    """Give entries one room between their icons and their words: what these hardly differ by is chance."""
    pairs = [n.children[:2] for c in items for n in c.walk() if n.kind == "row" and len(n.children) > 1]
    for kind in {mark.kind for mark, _ in pairs}:
        words = [text for mark, text in pairs if mark.kind == kind and text.kind == "text"]
        usual = median(n.gap for n in words) if words else 0.0
        for n in words:
            n.gap = usual if abs(n.gap - usual) <= CHANCE else n.gap


def _align(rows: list[Node]) -> None:
    """Where entries begin is their padding, and so is the room after what stands at their ends."""
    x0 = float(
        median([c.rect.x - c.inset for c in rows if c.inset] or [c.rect.x - c.padding[3] for c in rows])
    )
    ended = [c for c in rows if any(k.gap == AUTO for k in c.children)]
    x1 = float(median(c.rect.right + c.padding[1] for c in ended)) if ended else 0.0
    left = float(median(c.rect.x - x0 for c in rows))
    right = float(median(c.padding[1] for c in ended)) if ended else 0.0
    for c in rows:
        start, end = c.rect.x - x0, x1 - c.rect.right
        kids = c.children
        free = [b.rect.x - a.rect.right for a, b in pairwise(kids)]
        apart = max(range(len(free)), key=free.__getitem__) + 1 if free else 0
        ends = bool(ended) and bool(apart) and abs(end - right) <= STRAIGHT and free[apart - 1] > ROOM
        if ends:
            kids[apart].gap = AUTO
        c.width, c.inset, c.align, kids[0].gap = "fill", 0.0, "start", 0.0
        c.padding = (
            c.padding[0],
            right if ends else 0.0,
            c.padding[2],
            left if abs(start - left) <= STRAIGHT else max(0.0, start),
        )


def _space(holder: Node, menu: Node, rows: list[Node]) -> None:
    """One height and one distance for entries that follow each other evenly."""
    items = menu.children
    follow = [b for a, b in pairwise(items) if a in rows and b in rows]
    steps = [b.rect.cy - a.rect.cy for a, b in pairwise(items) if b in follow and a in rows]
    if not steps or max(steps) - min(steps) > UNEVEN:
        return
    pitch = fmean(steps)
    usual = median(c.rect.h for c in rows)
    inside = [i for i, c in enumerate(holder.children) if c is menu]
    after = holder.children[inside[0] + 1] if inside and inside[0] + 1 < len(holder.children) else None
    above = menu.gap if inside else menu.padding[0]
    below = after.gap if after is not None else 0.0 if inside else menu.padding[2]
    firsts = [c for c in rows if c not in follow]
    lasts = [(c, n) for c, n in zip(items, [*items[1:], None]) if c in rows and n not in follow]
    free = [
        TARGET,
        (pitch - usual) / 2,
        *(c.padding[0] + (above if c is items[0] else c.gap) for c in firsts),
        *(c.padding[2] + (below if n is None else n.gap) for c, n in lasts),
    ]
    pad = min(free)
    if pad < 0:
        return
    for c in firsts:
        more = c.padding[0] - _pad(c, pad, usual)
        if c is not items[0]:
            c.gap += more
        elif inside:
            menu.gap += more
        else:
            menu.padding = (menu.padding[0] + more, *menu.padding[1:])
    for c, n in lasts:
        more = c.padding[2] - _pad(c, pad, usual)
        if n is not None:
            n.gap += more
        elif after is not None:
            after.gap += more
        elif not inside:
            menu.padding = (*menu.padding[:2], menu.padding[2] + more, menu.padding[3])
    for c in rows:
        own = _pad(c, pad, usual)
        c.padding = (own, c.padding[1], own, c.padding[3])
    for c in follow:
        c.gap = pitch - usual - 2 * pad


def _pad(c: Node, pad: float, usual: float) -> float:
    """The padding of an entry that is to be as high as one of the usual height with `pad` px."""
    return pad if abs(c.rect.h - usual) <= SAME_HIGH else max(0.0, pad + (usual - c.rect.h) / 2)
