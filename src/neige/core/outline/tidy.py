"""The values somebody would have written: components that are alike share them, and lengths are whole px.

What was measured is a little uneven: text widths are fractions, edges are whole px. A person writes one padding for six cards and
whole px. Along a stack or a row the error of rounding is carried on to the next distance, so that it never adds up.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from neige.core.model import Node, Outline, Reading, Rect, Surface
from neige.core.outline.layout import columns_of, line_between
from neige.core.outline.paragraphs import wrap_bounds
from neige.core.outline.places import AUTO

ASTRAY = 0.6  # px by which a part must be drawn off its place to be moved by a whole one
ALIKE = 2.5  # px by which one length may differ between components that are alike
IN_CELLS = 1.0  # px that lengths in the cells of one table differ by
ROUNDING = 0.5  # px by which a line between columns is drawn off its place at most
ROOM = 0.2  # px of room that text mostly spares


def tidy(outline: Outline, reading: Reading, grain: float = 1.0) -> Outline:
    """The outline with its lengths pooled and rounded to multiples of `grain` px (0: as they are). Structure, roles and texts stay."""
    out = outline.copy()
    _pool(out.root, reading)
    if grain:
        _round(out.root, grain)
    return out


def _to(value: float, grain: float) -> float:
    return round(value / grain) * grain


def take_back(neat: Outline, measured: Outline, nodes: set[int]) -> None:
    """Give `nodes` of the tidied outline the lengths that were measured again: inside them, and of what they place."""
    exact = {n.id: n for n in measured.root.walk()}
    parents = {c.id: n for n in neat.root.walk() for c in n.children}
    # a text that breaks otherwise has too little room, and that is given by what is around it
    around = {i for i in nodes if exact[i].kind == "text"}
    for _ in range(2):
        around = {parents[i].id for i in around if i in parents}
        nodes = nodes | around
    for n in neat.root.walk():
        if n.id not in nodes:
            continue
        old = exact[n.id]
        n.padding, n.columns, n.column_gap, n.surface = (
            old.padding,
            list(old.columns),
            old.column_gap,
            old.surface,
        )
        if "measure" in old.attributes:
            n.attributes["measure"] = old.attributes["measure"]
        for c, o in zip(n.children, old.children):
            c.gap, c.inset = o.gap, o.inset
            if "measure" in o.attributes:
                c.attributes["measure"] = o.attributes["measure"]
            if c.kind == "text":
                c.attributes.pop("end", None)
                c.attributes |= {k: v for k, v in o.attributes.items() if k == "end"}


def true_up(neat: Outline, drawn: dict[int, Rect]) -> int:
    """Take whole px back out of the distances between parts that were drawn where they should not be; how many."""
    changed = 0
    for n in neat.root.walk():
        if n.kind != "block":
            continue
        before = 0.0
        for c in n.children:
            if c.id not in drawn:
                continue
            off = drawn[c.id].y - c.rect.y
            if n.id in drawn and c is n.children[0]:
                before = drawn[n.id].y - n.rect.y
            if ASTRAY < abs(off - before) < 6:
                c.gap -= round(off - before) or math.copysign(1, off - before)
                changed += 1
            before = off
    return changed


def shape(n: Node) -> tuple[object, ...]:
    """What makes two parts the same component: the same kinds of things inside one another, painted alike."""
    painted = (
        (n.surface.fill.colour, bool(n.surface.shadow)) if n.surface and not n.surface.fill.stops else ()
    )
    return (n.kind, n.tag, n.cross, n.align, painted, tuple(shape(c) for c in n.children))


def _pool(root: Node, reading: Reading) -> None:
    """Give instances of one component the same lengths, wherever they stand under one part of the page."""
    for area in root.walk():
        if area.kind == "table":
            _pool_cells(area)
        groups: dict[tuple[object, ...], list[Node]] = {}
        for n in (
            *area.children,
            *(c for row in area.children if row.kind in ("grid", "row") for c in row.children),
        ):
            if n.children and len(n.walk()) > 2:
                groups.setdefault(shape(n), []).append(n)
        listed = bool(area.attributes.get("list"))
        for c, after in itertools.zip_longest(area.children, area.children[1:]):
            if c.attributes.get("list") and c.kind == area.kind == "block":
                shift = _pool_steps(c.children)
                c.gap += shift
                if after is not None and AUTO not in (c.gap, after.gap):
                    after.gap -= shift
        for same in groups.values():
            if len(same) > 1 and (_same_size(same) or _entries(same, listed)):
                for parts in zip(*(n.walk() for n in same)):
                    _pool_values(list(parts), parts[0] is same[0], reading)
            if area.kind == "row" and same == area.children and _entries(same, listed):
                gaps = [n.gap for n in same[1:]]
                if AUTO not in gaps and max(gaps, default=0.0) - min(gaps, default=0.0) <= ALIKE:
                    for n in same[1:]:
                        n.gap = float(np.mean(gaps))


def _pool_steps(entries: list[Node]) -> float:
    """Entries of one kind that follow each other under one another have one distance; less than a px of it is in their padding.
    By how much that puts them too high on average, px."""
    plain = [n for n in entries if n.padding[0] and n.padding[2] and not n.surface]
    follow = [b for a, b in itertools.pairwise(entries) if a in plain and b in plain and a.tag == b.tag]
    gaps = [n.gap for n in follow]
    if len(gaps) < 2 or max(gaps) - min(gaps) > ALIKE:
        return 0.0
    mean = float(np.mean(gaps))
    more = mean / 2 if abs(mean) < 1.0 else 0.0
    for n in follow:
        _pool_gap(n, mean - 2 * more)
    for n, after in itertools.zip_longest(entries, entries[1:]):
        if n in plain:
            n.padding = (n.padding[0] + more, n.padding[1], n.padding[2] + more, n.padding[3])
            n.tweak["stepped"] = 1.0
            n.gap -= 0.0 if n in follow else more
            if after is not None and after not in follow:
                after.gap -= more
    low = np.cumsum([0.0, *(gap - mean for gap in gaps)])
    return float(low.mean())


def _pool_cells(table: Node) -> None:
    """The cells of a table have one distance from their leading border to what is in them, where it hardly differs: borders are
    drawn on whole px, so that what is left of it belongs to the columns' widths."""
    cells = [
        (i, td)
        for i, column in enumerate(columns_of(table))
        for td in column
        if td.align == "start" and td.children and "span" not in td.attributes
    ]
    usual = float(np.median([td.padding[3] for _, td in cells])) if cells else 0.0
    lined = line_between(table) > 0
    for column in range(len(table.columns)):
        own = [td for i, td in cells if i == column and abs(td.padding[3] - usual) <= IN_CELLS]
        if not own or len(own) < sum(i == column for i, _ in cells):
            continue
        over = float(np.median([td.padding[3] for td in own])) - usual
        if lined and abs(over) > ROUNDING:
            continue
        if column:
            table.columns[column - 1] += over
            table.columns[column] -= over
        for td in own:
            td.padding = (*td.padding[:3], usual)


def _same_size(nodes: list[Node]) -> bool:
    widths = [n.rect.w for n in nodes]
    return max(widths) - min(widths) <= 0.03 * max(widths) + 2


def _entries(nodes: list[Node], listed: bool) -> bool:
    """Are these rows of a list or a menu, an icon and a word each, which are as wide as what they say?"""
    heights = [n.rect.h for n in nodes]
    plain = all(n.kind == "row" and n.surface is None and (listed or n.tag in ("a", "button")) for n in nodes)
    return plain and max(heights) - min(heights) <= ALIKE


def _pool_values(parts: list[Node], outer: bool, reading: Reading) -> None:
    """`outer`: the parts are the components themselves, whose place is their parent's affair."""

    def pool(get: Callable[[Node], float], put: Callable[[Node, float], None], most: float = ALIKE) -> None:
        values = [get(p) for p in parts]
        if AUTO not in values and max(values) - min(values) <= most:
            # drawn edges are whole px: what a fraction makes 14 here and 15 there is 14.4 on average
            mean = float(np.mean(values))
            for p in parts:
                put(p, mean)

    for side in range(4):
        pool(
            lambda p, s=side: p.padding[s],  # type: ignore[misc]
            lambda p, v, s=side: setattr(p, "padding", (*p.padding[:s], v, *p.padding[s + 1 :])),  # type: ignore[misc]
        )
    if not outer:
        pool(lambda p: p.inset, lambda p, v: setattr(p, "inset", v))
        pool(lambda p: p.gap, _pool_gap)
    pool(lambda p: p.column_gap, lambda p, v: setattr(p, "column_gap", v))
    if len({len(p.columns) for p in parts}) == 1:
        for i in range(len(parts[0].columns)):
            pool(lambda p, k=i: p.columns[k], lambda p, v, k=i: p.columns.__setitem__(k, v))  # type: ignore[misc]
    if all("measure" in p.attributes and p.kind == "text" for p in parts):
        bounds = [wrap_bounds(reading, p) for p in parts]
        low, high = max(b[0] for b in bounds), min(b[1] for b in bounds)
        if high - low > 1.0:  # one width that breaks all of them where they were seen to break
            for p in parts:
                p.attributes["measure"] = f"{min((low + high) / 2, low + 24.0):.2f}"
    painted = [p.surface for p in parts if p.surface is not None]
    if len(painted) == len(parts):
        _pool_paint(parts, painted)


def _pool_gap(part: Node, value: float) -> None:
    part.gap = value
    part.tweak["pooled"] = 1.0


def _near_whole(value: float) -> float:
    """A pooled length: whole px where that is meant, else tenths."""
    return float(round(value)) if abs(value - round(value)) <= 0.2 else round(value, 1)


def _pool_paint(parts: list[Node], painted: list[Surface]) -> None:
    shadows = [s.shadow for s in painted]
    commonest = max(shadows, key=lambda s: (shadows.count(s), -abs(s.spread) if s else 0.0))
    radius = float(np.median([s.radius for s in painted]))
    for p, s in zip(parts, painted):
        even = s.corners is None and abs(s.radius - radius) <= 1
        p.surface = replace(s, shadow=commonest if s.shadow else None, radius=radius if even else s.radius)


def _round(n: Node, grain: float) -> float:
    """Whole px for everything that places the children of `n`, and what is under them; by how much that makes it taller, px."""
    if "measure" in n.attributes:
        n.attributes["measure"] = f"{_to(float(n.attributes['measure']), grain):g}"
    if not n.children:
        return 0.0
    if n.kind in ("table", "tr"):
        for c in n.children:
            _round(c, grain)
        return 0.0
    top, right, bottom, left = n.padding
    # what is in it needs all the room it had, to the fraction of a px, or else words break
    if abs(left - right) < 0.6:
        start = end = math.floor((left + right) / 2 / grain + ROOM) * grain
    else:
        start = _to(left, grain)
        end = max(0, math.floor((left + right - start) / grain + ROOM) * grain)
    stepped = n.tweak.get("stepped")  # of many alike under one another: what each is too high would add up
    n.padding = (round(top, 2) if stepped else _to(top, grain), end, bottom, start)
    owed = top - n.padding[0]  # px by which what follows stands too high
    if n.kind in ("block", "td"):
        shift = left - n.padding[3]
        for c in n.children:
            written = _near_whole(c.gap) if c.tweak.get("pooled") else _to(c.gap + owed, grain)
            owed += c.gap - written
            c.gap = written
            owed -= _round(c, grain)
            c.inset = _to(c.inset + (shift if c.align == "start" and c.width != "center" else 0.0), grain)
    else:
        if n.kind == "row":
            _round_row(n, grain)
        else:
            _round_grid(n, grain)
        grown = [(c.inset + c.rect.h, _round(c, grain)) for c in n.children]
        owed -= max(grown)[1]
    below = round(bottom, 2) if stepped else _to(bottom + owed, grain) if bottom > 0.5 else bottom
    n.padding = (n.padding[0], n.padding[1], below, n.padding[3])
    return below - bottom - owed


def _round_row(n: Node, grain: float) -> None:
    owed = 0.0
    for c in n.children:
        c.inset = _to(c.inset, grain)
        if c.gap != AUTO:
            whole = _to(c.gap + owed, grain)
            owed, c.gap = c.gap + owed - whole, whole


def _round_grid(n: Node, grain: float) -> None:
    whole = _to(n.column_gap, grain)
    n.columns = [c + (n.column_gap - whole) * (-1 if c < 0 else 1) for c in n.columns[:-1]] + n.columns[-1:]
    n.column_gap = whole
    n.columns = _even([math.floor(c / grain) * grain if c < 0 else c for c in n.columns])
    for c in n.children:
        c.inset = _to(c.inset, grain)


def _even(columns: list[float]) -> list[float]:
    """Columns that differ by little are equal."""
    flexible = [c for c in columns if c > 0]
    if len(flexible) > 1 and max(flexible) - min(flexible) <= ALIKE:
        mean = sum(flexible) / len(flexible)
        return [mean if c > 0 else c for c in columns]
    return columns
