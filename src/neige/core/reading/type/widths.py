"""Sizes measured again when the words are known: lines that held another type's words, or words read wrongly, tell nothing more."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from neige.core.reading.type import fit as f
from neige.core.reading.type.kinds import Type, mean_residual, oddity, sample_of, tidy_size, written_sizes
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import Piece

LINES = 9  # the widest, that are measured
WIDE = 160.0  # px that the widest has at least
LETTERS = 8  # of a line that tells a size
NEAR = 0.02  # of a size by which the new one may differ
ROUNDED = 0.02  # px by which one that people write may differ from what is measured
SAME = 0.004  # px
DRAWN = 0.1  # residual of a type up to which its face is the right one
WORSE = 0.002  # residual by which it may be drawn worse at the new size


def measure_again(types: Sequence[Type], sigma: float, scale: int) -> None:
    """Set types to the size that most of their widest lines have, if their edges agree with it better."""
    for t in types:
        lines = sorted((p for p in t.members if p.flat and p.letters >= LETTERS), key=lambda p: -p.width)[
            :LINES
        ]
        if not lines or lines[0].width < WIDE * scale or abs(t.tracking) > 0.01 or t.usual > DRAWN:
            continue
        sizes = [f.refit(p.edges, t.row, sigma, tracked=False).size for p in lines]
        size = _middle(sizes, [p.width for p in lines])
        size = tidy_size(size / scale, lines[0].width / scale)
        near = written_sizes(size, lines[0].width / scale)
        size = min([size, *(n for n in near if abs(n - size) <= ROUNDED)], key=oddity) * scale
        if oddity(size / scale) > oddity(t.size / scale):
            continue
        if not SAME * scale < abs(size - t.size) <= NEAR * t.size:
            continue
        if _misfit(lines, t, size, sigma, scale) < _misfit(lines, t, t.size, sigma, scale):
            sample = sample_of(lines)
            usual = mean_residual([match(p, t.row, size, 0.0, scale) for p in sample], sample)
            before = mean_residual([match(p, t.row, t.size, 0.0, scale) for p in sample], sample)
            if usual <= before + WORSE:
                t.size, t.usual = size, t.usual + usual - before


def _misfit(lines: Sequence[Piece], t: Type, size: float, sigma: float, scale: int) -> float:
    """chi² of the lines' edges at a size."""
    return sum(f.refit(p.edges, t.row, sigma, tracked=False, size=size).chi for p in lines) + oddity(
        size / scale
    )


def _middle(values: Sequence[float], weights: Sequence[float]) -> float:
    """The median of values that count as much as their weights say."""
    order = np.argsort(values)
    total = np.cumsum(np.asarray(weights)[order])
    return float(np.asarray(values)[order][np.searchsorted(total, 0.5 * total[-1])])
