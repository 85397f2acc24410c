"""Strips with an inner shadow: what was cut out as a picture though each of its rows has one colour is painted, from top to bottom."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Surface
from neige.core.reading.colour import away_from, to_hex

HIGH, WIDE = (6.0, 160.0), 4.0  # px that a strip is high; times as wide as that, or more
MIDDLE = 0.1  # of its width at either end, where a shadow from the sides may lie
EVEN, MOSTLY = 2, 0.97  # 8-bit steps from its row's colour, and the share of px that are so near
LIKE = 2.0  # 8-bit steps by which a colour between two stops may be off
MOST = 10  # stops


def shaded_bands(
    cutouts: Sequence[Cutout], pixels: NDArray[np.uint8], scale: int
) -> tuple[list[Cutout], list[Surface]]:
    """(the cutouts that are left, the strips that the others are). `pixels`: the picture (h, w, 3), device px."""
    left: list[Cutout] = []
    bands: list[Surface] = []
    for c in cutouts:
        fill = _fill_of(c, pixels, scale) if _may_be(c) else None
        if fill is None:
            left.append(c)
        else:
            bands.append(Surface(c.rect, fill))
    return left, bands


def _may_be(c: Cutout) -> bool:
    r = c.rect
    return c.kind == "image" and not c.backdrop and HIGH[0] <= r.h <= HIGH[1] and r.w >= WIDE * r.h


def _fill_of(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> Fill | None:
    r = c.rect
    x0, x1 = round((r.x + MIDDLE * r.w) * scale), round((r.right - MIDDLE * r.w) * scale)
    part = pixels[round(r.y * scale) : round(r.bottom * scale), x0:x1].astype(np.int16)
    if not part.size:
        return None
    rows = np.median(part, axis=1)
    if (away_from(part, rows[:, None]) <= EVEN).mean() < MOSTLY:
        return None
    high = len(rows)
    places = np.arange(high, dtype=np.float64)
    kept = [0, high - 1]
    while len(kept) <= MOST:
        drawn = np.column_stack([np.interp(places, places[kept], rows[kept, k]) for k in range(3)])
        off = np.abs(drawn - rows).max(axis=1)
        if off.max() <= LIKE:
            break
        kept = sorted({*kept, int(off.argmax())})
    else:
        return None
    stops = tuple((round((k + 0.5) / high, 3), to_hex(rows[k])) for k in kept)
    return Fill(to_hex(np.median(rows, axis=0)), 180.0, stops)
