"""Tables without lines and strips: rows of texts one under another whose beginnings, ends or middles agree column by column, with figures in one.

Links in columns at the foot of a page, and cards side by side, stand in rows and columns, too: their columns are as far from each other, and hold no figures.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from typing import NamedTuple

from neige.core.model import Line, Node, Reading, Rect
from neige.core.model.geometry import edges, union
from neige.core.outline.paragraphs import line_bounds

COLUMNS, ROWS = 3, 3  # at least
LEVEL = 3.0  # px by which the baselines of a row may differ
APART = 0.35  # em between rows of several lines
HIGHER = 2.2  # times the usual distance: no more rows of this table
FILLED = 0.7  # share of rows with hardly a cell missing, and of a column's cells that hold figures
EDGE = 2.5  # px by which a column's cells may be off its edge or middle
EVEN = 6.0  # px by which the distances between like columns may differ
EVEN_COLUMNS = 4  # or fewer, evenly spaced: columns of a page
LONG = 6  # rows from which a table needs no head


class Grid(NamedTuple):
    """A table's rows, the x at which its columns but the first begin, and the lines between its rows, px."""

    rows: list[Rect]
    bounds: list[float]
    rules: list[Node]


Row = list[list[Line]]  # of a table: its cells' lines


def open_grids(lines: list[int], rules: list[Node], reading: Reading) -> Iterator[Grid]:
    """The tables among a holder's lines (numbers of the reading's), from top to bottom."""
    texts = sorted((reading.lines[i] for i in lines), key=lambda n: (n.baseline, n.box.x))
    taken: set[int] = set()
    for rows in (_levels(texts), _bands(texts, reading)):
        for run in _runs(rows):
            if any(id(n) in taken for row in run for n in row):
                continue
            grid = _grid(run, rules, reading)
            if grid:
                taken |= {id(n) for row in run for n in row}
                yield grid


def _levels(texts: list[Line]) -> list[list[Line]]:
    """Lines on one baseline."""
    out: list[list[Line]] = []
    for n in texts:
        if out and n.baseline - out[-1][0].baseline <= LEVEL:
            out[-1].append(n)
        else:
            out.append([n])
    return out


def _bands(texts: list[Line], reading: Reading) -> list[list[Line]]:
    """Lines beside each other or hardly apart, one above another: rows whose cells have several lines."""
    out: list[list[Line]] = []
    bottom = 0.0
    for n in sorted(texts, key=lambda n: n.box.y):
        if out and n.box.y - bottom <= APART * reading.styles[n.style].size:
            out[-1].append(n)
            bottom = max(bottom, n.box.bottom)
        else:
            out.append([n])
            bottom = n.box.bottom
    return out


def _runs(rows: list[list[Line]]) -> Iterator[list[list[Line]]]:
    """Rows of several texts one right under another."""
    run: list[list[Line]] = []
    for row in [*rows, []]:
        wide = len({round(n.box.x / EDGE) for n in row}) >= COLUMNS - 1
        if wide and len(run) >= 2:
            steps = sorted(_middle(b) - _middle(a) for a, b in itertools.pairwise(run))
            wide = _middle(row) - _middle(run[-1]) <= HIGHER * steps[len(steps) // 2]
            if not wide and len(row) >= COLUMNS:  # another begins
                yield from _whole(run)
                run, wide = [], True
        if wide:
            run.append(row)
        else:
            yield from _whole(run)
            run = []


def _whole(run: list[list[Line]]) -> Iterator[list[list[Line]]]:
    if len(run) >= ROWS and sum(len(r) >= COLUMNS for r in run) >= FILLED * len(run):
        yield run


def _middle(row: list[Line]) -> float:
    box = union(n.box for n in row)
    return box.cy


def _grid(run: list[list[Line]], rules: list[Node], reading: Reading) -> Grid | None:
    spans = _columns(run)
    if len(spans) < COLUMNS:
        return None
    table = [[[n for n in row if a - 1 <= n.ink.cx <= b + 1] for a, b in spans] for row in run]
    filled = sum(sum(map(bool, row)) >= len(spans) - 1 for row in table)
    body = table[1:]
    if filled < FILLED * len(table) or not all(_aligned([row[i] for row in body]) for i in range(len(spans))):
        return None
    figures = [_figures([row[i] for row in body]) for i in range(1, len(spans))]
    box = union(n.box for row in run for n in row)
    under = [r for r in rules if _under_head(r.rect, run, box)]
    if not any(figures) or not (under or len(run) >= LONG or _has_head(table, reading)):
        return None
    if not under and len(spans) <= EVEN_COLUMNS and _evenly(spans):
        return None
    left, right = (under[0].rect.x, under[0].rect.right) if under else (box.x, box.right)
    begins = [min(n.box.x for row in table for n in row[i]) for i in range(len(spans))]
    ends = [max(n.box.right for row in table for n in row[i]) for i in range(len(spans))]
    bounds = _bounds(begins, ends, left)
    for i, x in enumerate(bounds):
        widest = min(line_bounds(reading, row[i])[1] for row in table if row[i])
        if begins[i] + widest <= x:  # so narrow that its lines break where they do
            bounds[i] = max(ends[i], (ends[i] + begins[i] + widest) / 2)
    return Grid(_row_boxes(run, left, right, under), bounds, under[:1])


def _columns(run: list[list[Line]]) -> list[tuple[float, float]]:
    """(left, right) of the columns: what the texts of all rows leave free lies between them."""
    spans: list[tuple[float, float]] = []
    for a, b in sorted((n.ink.x, n.ink.right) for row in run for n in row):
        if spans and a <= spans[-1][1]:
            spans[-1] = spans[-1][0], max(spans[-1][1], b)
        else:
            spans.append((a, b))
    return spans


def _aligned(column: list[list[Line]]) -> bool:
    """Do nearly all of a column's cells begin, end or have their middles at one place?"""
    boxes = [union(n.box for n in cell) for cell in column if cell]
    if not boxes:
        return False

    def agree(places: list[float]) -> bool:
        usual = sorted(places)[len(places) // 2]
        return sum(abs(p - usual) <= EDGE for p in places) >= 0.9 * len(places)

    return any(
        agree(list(p)) for p in ([b.x for b in boxes], [b.right for b in boxes], [b.cx for b in boxes])
    )


def _figures(column: list[list[Line]]) -> bool:
    said = [" ".join(n.text for n in cell) for cell in column if cell]
    return sum(any(c.isdigit() for c in t) for t in said) >= FILLED * max(1, len(column))


def _under_head(r: Rect, run: list[list[Line]], box: Rect) -> bool:
    """Does a line run under the first row, as wide as the table?"""
    top, bottom = max(n.ink.bottom for n in run[0]), min(n.ink.y for n in run[1])
    return top <= r.cy <= bottom and r.x <= box.x + EDGE and r.right >= box.right - EDGE and r.w > 10 * r.h


def _has_head(table: list[Row], reading: Reading) -> bool:
    """Is the first row set otherwise than those under it, with no figures in it?"""
    first = [n for cell in table[0] for n in cell]
    rest = {n.style for row in table[1:] for cell in row for n in cell}
    return not {n.style for n in first} & rest and not any(c.isdigit() for n in first for c in n.text)


def _evenly(spans: list[tuple[float, float]]) -> bool:
    """Are columns as far from each other as those of a page?"""
    steps = [[b[k] - a[k] for a, b in itertools.pairwise(spans)] for k in (0, 1)]
    return any(max(s) - min(s) <= EVEN for s in steps)


def _row_boxes(run: list[list[Line]], left: float, right: float, under: list[Node]) -> list[Rect]:
    """Boxes of rows that touch, a line between two left out."""
    tops = [min(n.box.y for n in row) for row in run]
    bottoms = [max(n.box.bottom for n in row) for row in run]
    between = [(a + b) / 2 for a, b in zip(bottoms, tops[1:])]
    half = min(b - a for a, b in zip(bottoms, between))
    ends = [tops[0] - half, *between, bottoms[-1] + half]
    out = [edges(left, a, right, b) for a, b in itertools.pairwise(ends)]
    if under:
        rule = under[0].rect
        out[0] = edges(left, 2 * _middle(run[0]) - rule.y, right, rule.y)
        out[1] = edges(left, rule.bottom, right, out[1].bottom)
    return out


def _bounds(begins: list[float], ends: list[float], left: float) -> list[float]:
    """Where columns begin: as far before their texts as the first's are from the table's edge, if there is that room."""
    pad = max(0.0, begins[0] - left)
    return [min(b, max(b - pad, (a + b) / 2)) for a, b in zip(ends, begins[1:])]
