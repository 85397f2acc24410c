"""The column grid: the lattice of column edges that explains most edges for the fewest parameters."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.model import ColumnGrid, Line, Pin, Rect, Surface

NEAR = 1.0  # px between an edge and a column's for the column to explain it
COLUMNS = range(2, 17)
GUTTERS = (8.0, 64.0)  # px
FULL = 0.97  # of the page's width: a band, which breaks the grid
SMALLEST = 0.4  # of the page's width that a container has at least
HOSTED = 0.98  # of a mark that lies in a panel for the panel's padding to place it, not the grid


def find_grid(
    width: float,
    surfaces: Sequence[Surface],
    boxes: Sequence[Rect],
    lines: Sequence[Line],
    pins: Sequence[Pin] = (),
) -> ColumnGrid | None:
    """The page's columns, or None if nothing stands in columns.

    `surfaces`, `boxes` (pictures) and `lines` are the page's marks, CSS px; a pin of kind "grid" outranks what is found. Each
    explained edge saves the bits of saying where it is, log2(container / places the lattice allows); the grid that saves most
    is the page's, so that twelve columns are never said where three explain as much.
    """
    bands = tuple(s.rect for s in surfaces if s.rect.w >= FULL * width)
    panels = [s.rect for s in surfaces if s.rect.w < FULL * width]
    items = [r for r in [*panels, *boxes] if r.w < FULL * width and r.w > 24 and not _hosted(r, panels)]
    texts = [r for r in _blocks(lines) if not _hosted(r, panels)]
    left = np.array([r.x for r in items] + [r.x for r in texts])
    right = np.array([r.right for r in items])
    pinned = next((p for p in reversed(pins) if p.kind == "grid"), None)
    if pinned is not None:
        return _made(
            pinned.rect.x, pinned.rect.right, pinned.columns, pinned.gutter, left, right, bands, width
        )
    if len(items) < 2:
        return None
    gutters = _gutters(items)
    best: tuple[float, float, float, int, float] | None = None
    for a, b in _containers(items, texts, width):
        for n, g in itertools.product(COLUMNS, gutters):
            if (b - a - (n - 1) * g) / n < max(g, 20.0):
                continue
            share = _explained(a, b, n, g, left, right)
            hits = int(share.sum())
            bits = hits * np.log2((b - a) / ((2 * NEAR + 1) * n)) - 12.0 - 2.0 * np.log2(n)
            inner = _inner(a, b, n, g, left, right)
            if inner >= 2 and (best is None or bits > best[0] + 1e-9):
                best = (float(bits), a, b, n, g)
    if best is None or best[0] <= 0:
        return None
    _, a, b, n, g = best
    return _made(a, b, n, g, left, right, bands, width)


def _made(
    a: float, b: float, n: int, g: float,
    left: NDArray[np.float64], right: NDArray[np.float64], bands: tuple[Rect, ...], width: float,
) -> ColumnGrid:  # fmt: skip
    share = _explained(a, b, n, g, left, right)
    column = (b - a - (n - 1) * g) / n
    return ColumnGrid(
        n, round(column, 3), round(g, 3), round(a, 3), round(b - a, 3), round(width - b, 3),
        round(float(share.mean()), 4) if share.size else 0.0, bands,
    )  # fmt: skip


def _lattice(a: float, b: float, n: int, g: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(left, right) edges of the columns."""
    column = (b - a - (n - 1) * g) / n
    starts: NDArray[np.float64] = a + np.arange(n, dtype=np.float64) * (column + g)
    return starts, starts + column


def _explained(
    a: float, b: float, n: int, g: float, left: NDArray[np.float64], right: NDArray[np.float64]
) -> NDArray[np.bool_]:
    starts, ends = _lattice(a, b, n, g)
    at_left = np.abs(left[:, None] - starts).min(axis=1) <= NEAR if left.size else np.zeros(0, bool)
    at_right = np.abs(right[:, None] - ends).min(axis=1) <= NEAR if right.size else np.zeros(0, bool)
    return np.concatenate([at_left, at_right])


def _inner(
    a: float, b: float, n: int, g: float, left: NDArray[np.float64], right: NDArray[np.float64]
) -> int:
    """How many edges stand on inner column edges; the container's own two sides prove no columns."""
    starts, ends = _lattice(a, b, n, g)
    at_left = (np.abs(left[:, None] - starts[1:]) <= NEAR).any(axis=1).sum() if left.size else 0
    at_right = (np.abs(right[:, None] - ends[:-1]) <= NEAR).any(axis=1).sum() if right.size else 0
    return int(at_left + at_right)


def _hosted(r: Rect, panels: Sequence[Rect]) -> bool:
    return any(p is not r and r.inside(p, HOSTED) and p.area > 1.02 * r.area for p in panels)


def _blocks(lines: Sequence[Line]) -> list[Rect]:
    """One box for lines below one another with the same left edge."""
    out: list[Rect] = []
    for n in sorted(lines, key=lambda n: (round(n.box.x), n.box.y)):
        last = out[-1] if out else None
        if last and abs(last.x - n.box.x) <= NEAR and -2 <= n.box.y - last.bottom <= 2 * n.box.h:
            out[-1] = Rect(
                last.x, last.y, max(last.right, n.box.right) - last.x, max(last.bottom, n.box.bottom) - last.y
            )
        else:
            out.append(n.box)
    return out


def _gutters(items: Sequence[Rect]) -> list[float]:
    """The commonest gaps between neighbours side by side, px."""
    gaps: Counter[float] = Counter()
    for r in items:
        beside = [
            o
            for o in items
            if o.x >= r.right - 0.5 and min(o.bottom, r.bottom) - max(o.y, r.y) > 0.3 * min(o.h, r.h)
        ]
        if beside:
            gap = min(o.x for o in beside) - r.right
            if GUTTERS[0] - 1 <= gap <= GUTTERS[1]:
                gaps[round(gap)] += 1
    return sorted(g for g, _ in sorted(gaps.items(), key=lambda t: (-t[1], t[0]))[:8])


def _containers(items: Sequence[Rect], texts: Sequence[Rect], width: float) -> list[tuple[float, float]]:
    """Left and right ends that the content may have, the commonest first."""
    lefts = Counter(round(r.x * 2) / 2 for r in [*items, *items, *texts])
    rights = Counter(round(r.right * 2) / 2 for r in items)
    common_l = [x for x, _ in sorted(lefts.items(), key=lambda t: (-t[1], t[0]))[:7]]
    common_r = [x for x, _ in sorted(rights.items(), key=lambda t: (-t[1], -t[0]))[:7]]
    extent = (min(r.x for r in items), max(r.right for r in items))
    pairs = [(a, b) for a in [*common_l, extent[0]] for b in [*common_r, width - a, extent[1]]]
    return sorted({(a, b) for a, b in pairs if b - a >= SMALLEST * width and a >= 0 and b <= width})
