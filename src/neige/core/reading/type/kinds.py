"""A type that lines are set in, how well it draws them, and the sizes that people write."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.type.catalogue import Instance, catalogue, shape
from neige.core.reading.type.match import Match, match
from neige.core.reading.type.pieces import Piece

SAMPLE = 3  # pieces of a group that are drawn to judge a type
TELLING = 48  # letters of a long line that are drawn
ODD_SIZE = 3.0  # chi² for a size that is no whole or half px
REACHES = ((90.0, 0.09), (250.0, 0.05), (float("inf"), 0.025))  # of a size, by the widest line's px
UNLIKE_EACH_OTHER = 0.22  # residual of a group's type from which its members are taken one by one


@dataclass(eq=False)
class Type:
    """Catalogue instance `row` at `size` and `tracking` (device px); `usual`: the residual of its own lines."""

    row: int
    size: float
    tracking: float
    usual: float
    runners: tuple[tuple[str, float], ...] = ()
    ink: NDArray[np.float64] | None = None  # OKLab of its largest piece's ink
    members: list[Piece] = field(default_factory=list)

    @property
    def instance(self) -> Instance:
        return catalogue().instances[self.row]

    @property
    def letters(self) -> int:
        return sum(p.letters for p in self.members)


def sample_of(members: Sequence[Piece], most: int = SAMPLE) -> list[Piece]:
    """The longest pieces whose ink can be compared with a drawing, or enough of their words to tell."""
    out = []
    for p in sorted((p for p in members if p.flat), key=lambda p: -p.letters)[:most]:
        count = int(np.searchsorted(np.cumsum([len(w.text) for w in p.words]), TELLING)) + 1
        out.append(p.part(p.words[:count]) if count < len(p.words) else p)
    return out


def mean_residual(found: Sequence[Match], sample: Sequence[Piece]) -> float:
    return float(np.average([m.residual for m in found], weights=[p.letters for p in sample]))


def typical(p: Piece, t: Type, scale: int) -> float:
    """How badly a type draws a piece's words, odd ones not counted: the (lower) median of their residuals."""
    return float(np.quantile(match(p, t.row, t.size, t.tracking, scale).words, 0.5, method="lower"))


def size_near(p: Piece, t: Type) -> bool:
    """Could a piece be set in a type? Its width must agree within a tenth, or an em for short ones."""
    text = " ".join(p.edges.texts)
    width = shape(t.row, text, abs(t.tracking) > 0.01).advance * t.size + t.tracking * len(text)
    return abs(width - p.width) <= max(0.08 * p.width, (0.45 if len(p.words) < 3 else 0.95) * t.size)


def oddity(size: float) -> float:
    """What a size in px costs for not being one that people write: whole, a half, or a twentieth of the root's size."""
    if size % 1 < 1e-6:
        return 0.0
    near = min((size * k) % 1 if (size * k) % 1 < 0.5 else 1 - (size * k) % 1 for k in (2.0, 1.25))
    return 0.5 * ODD_SIZE if near < 1e-3 else ODD_SIZE


def written_sizes(size: float, widest: float) -> list[float]:
    """Sizes in px near `size` that people write; how near depends on what the widest line (px) can tell."""
    reach = next(r for w, r in REACHES if widest < w) * size
    steps = [
        k * step
        for step in (0.5, 0.8)
        for k in range(int((size - reach) / step), int((size + reach) / step) + 2)
    ]
    return sorted({round(s, 2) for s in steps if abs(s - size) <= reach})


def tidy_size(size: float, widest: float) -> float:
    """Whole px if the evidence allows, else half, else fifths or tenths: the tolerance is what the widest line can tell."""
    tolerance = float(np.clip(size * 0.9 / max(widest, 1.0), 0.012, 0.45))
    for step in (1.0, 0.5, 0.2, 0.1):
        near = round(size / step) * step
        if abs(near - size) <= tolerance * (1.3 if step == 1 else 0.6):
            return round(near, 3)
    return round(size, 2)
