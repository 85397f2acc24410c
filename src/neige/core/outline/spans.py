"""Lattices whose cells may span rows: boxes that tile a rectangle without gaps, as the cells of a table do."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Surface
from neige.core.outline.table_rows import MIN_COLUMNS, MIN_ROWS, TOUCH

HIGH = 120.0  # px of a cell for each row that it takes, at most
SHARED = 4.0  # px of a side that neighbours share at least
PLAIN = 0.6  # of the cells that take one row and one column at least
MOST = 400  # boxes that are looked at


class Cell(NamedTuple):
    """A box in a lattice: the row and column that it begins in, and how many of each it takes."""

    surface: Surface
    row: int
    column: int
    rows: int
    columns: int


class Lattice(NamedTuple):
    """Cells in reading order; `tops` are where rows begin and the last one ends (px)."""

    cells: list[Cell]
    tops: list[float]


def spanned_lattices(surfaces: list[Surface]) -> list[Lattice]:
    """The lattices among boxes in which some cell takes several rows, but none takes all; those of the first row take one column
    each."""
    boxes = [s for s in surfaces if s.radius < 3][:MOST]
    return [lattice for group in _touching(boxes) if (lattice := _lattice(group)) is not None]


def _touching(boxes: list[Surface]) -> list[list[Surface]]:
    """Groups of boxes, each of which shares a side, or some of one, with another of its group."""
    if not boxes:
        return []
    x0, y0, x1, y1 = np.array([(s.rect.x, s.rect.y, s.rect.right, s.rect.bottom) for s in boxes]).T
    level = np.minimum(y1[:, None], y1) - np.maximum(y0[:, None], y0) >= SHARED
    over = np.minimum(x1[:, None], x1) - np.maximum(x0[:, None], x0) >= SHARED
    beside = (np.abs(x1[:, None] - x0) <= TOUCH) & level
    under = (np.abs(y1[:, None] - y0) <= TOUCH) & over
    near = beside | beside.T | under | under.T
    left, out = set(range(len(boxes))), []
    while left:
        group, todo = set[int](), [min(left)]
        while todo:
            k = todo.pop()
            if k in group:
                continue
            group.add(k)
            todo += [int(n) for n in np.flatnonzero(near[k]) if int(n) not in group]
        left -= group
        out.append([boxes[k] for k in sorted(group)])
    return out


def _lattice(group: list[Surface]) -> Lattice | None:
    if len(group) < MIN_ROWS * MIN_COLUMNS:
        return None
    xs = _edges([v for s in group for v in (s.rect.x, s.rect.right)])
    ys = _edges([v for s in group for v in (s.rect.y, s.rect.bottom)])
    columns, rows = len(xs) - 1, len(ys) - 1
    if rows < MIN_ROWS or columns < MIN_COLUMNS:
        return None
    taken: NDArray[np.int_] = np.zeros((rows, columns), int)
    cells: list[Cell] = []
    for s in group:
        a, b, c, d = (
            int(np.argmin(np.abs(np.array(e) - v)))
            for e, v in ((ys, s.rect.y), (ys, s.rect.bottom), (xs, s.rect.x), (xs, s.rect.right))
        )
        taken[a:b, c:d] += 1
        cells.append(Cell(s, a, c, b - a, d - c))
    plain = sum(c.rows == c.columns == 1 for c in cells)
    whole = (taken == 1).all() and all(0 < c.surface.rect.h <= HIGH * c.rows for c in cells)
    spans = any(c.rows > 1 for c in cells) and all(c.columns == 1 for c in cells if not c.row)
    if any(c.rows == rows for c in cells):  # a panel beside a stack of others
        return None
    if not whole or not spans or plain < PLAIN * len(cells):
        return None
    return Lattice(sorted(cells, key=lambda c: (c.row, c.column)), ys)


def _edges(values: list[float]) -> list[float]:
    """Where sides are, each the mean of those that touch."""
    groups: list[list[float]] = []
    for v in sorted(values):
        if groups and v - groups[-1][-1] <= TOUCH:
            groups[-1].append(v)
        else:
            groups.append([v])
    return [sum(g) / len(g) for g in groups]
