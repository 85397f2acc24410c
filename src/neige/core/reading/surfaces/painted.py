"""Which gradients were painted, and which are some of a photo. Device px."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.surfaces.gradient import CELL, Ramp

STRIPS = 24  # rows of cells that are looked at closely
SMOOTH, CELLS = (
    3.0,
    0.25,
)  # 8-bit steps by which neighbouring px of a gradient bend at most, in so many of its cells at least
LIKE, EXACT, MOSTLY = 4.5, 1.5, 0.7  # 8-bit steps off it of what is near it, and of so much of that


def without_photos(ramps: list[Ramp], pixels: NDArray[np.uint8]) -> list[Ramp]:
    """Gradients that were painted, of those found in a picture (h, w, 3): a clear sky has the grain of its photo, and is off the
    straightest line as often as on it."""
    return [r for r in ramps if _is_painted(r, pixels)]


def _is_painted(ramp: Ramp, pixels: NDArray[np.uint8]) -> bool:
    x0, y0, x1, y1 = ramp.box
    w, tops = (x1 - x0) // CELL * CELL, np.arange(y0, y1 - CELL + 1, CELL)
    tops = tops[:: max(1, len(tops) // STRIPS)]
    if not w or not len(tops):
        return True
    y = tops[:, None] + np.arange(CELL)
    strips = pixels[y, x0 : x0 + w].astype(np.int16)  # (strips, CELL, w, 3)
    off = away_from(ramp.predict(x0 + np.arange(w) + 0.5, y[:, :, None] + 0.5), strips)
    like = off <= LIKE
    if not like.any():  # of an edge
        return False
    bends = np.abs(np.diff(strips, 2, axis=2)).max(axis=3)
    straight = like[:, :, 2:] & like[:, :, 1:-1] & like[:, :, :-2]
    cells = np.pad(np.where(straight, bends, -1), ((0, 0), (0, 0), (1, 1)), constant_values=-1)
    grain = cells.reshape(len(tops), CELL, w // CELL, CELL).max(axis=(1, 3))
    told = grain[grain >= 0]
    smooth = not told.size or float(np.quantile(told, CELLS)) <= SMOOTH
    return smooth and float((off[like] <= EXACT).mean()) >= MOSTLY
