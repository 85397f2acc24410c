"""A picture in which every gradient is one flat colour, so that regions can be found on it."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.surfaces.gradient import CELL, INLIER, Ramp

MIN_FLAT = 24  # px; the insides of letters are left alone
MOST_FLAT = 4000  # parts; what is in more of them is a texture
FLAT_SHARE, AROUND_SHARE = 0.8, 0.6  # of one colour, in it and round it: no part of a gradient


def flatten(
    pixels: NDArray[np.uint8], ramps: list[Ramp], seen: NDArray[np.uint8], noise: float = 0.0
) -> tuple[NDArray[np.uint8], dict[tuple[int, int, int], Ramp]]:
    """A copy of the picture in which every gradient is one flat colour found nowhere else in it, and which colour means which.

    `seen` is the picture as it came, `noise` (8-bit steps) that of its compression; `pixels` has it undone on flat ground.
    """
    if not ramps:
        return pixels, {}
    out = pixels.copy()
    meaning: dict[tuple[int, int, int], Ramp] = {}
    height, width = pixels.shape[:2]
    if noise:
        seen = np.asarray(cv2.medianBlur(seen, 3), np.uint8)
    for i, ramp in enumerate(ramps[:40]):
        x0, y0, x1, y1 = ramp.box
        x0, y0, x1, y1 = (
            max(0, x0 - CELL),
            max(0, y0 - CELL),
            min(width, x1 + 2 * CELL),
            min(height, y1 + 2 * CELL),
        )
        y, x = np.mgrid[y0:y1, x0:x1]
        off = away_from(ramp.predict(x + 0.5, y + 0.5), seen[y0:y1, x0:x1])
        key = (1 + 3 * i, 254 - 2 * i, 131)
        like = off <= INLIER + 1.5 + 4 * noise
        _leave_flat(like, seen[y0:y1, x0:x1])
        out[y0:y1, x0:x1][like] = key
        meaning[key] = ramp
    return out, meaning


def _leave_flat(like: NDArray[np.bool_], pixels: NDArray[np.uint8]) -> None:
    """Take from `like`, in place, what has a gradient's colour by chance: one flat colour within another flat colour.

    A field's pale line on a white card is none of the gradient far around that card.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats(like.astype(np.uint8), connectivity=4)
    packed = pixels.astype(np.uint32) @ np.array([1 << 16, 1 << 8, 1], np.uint32)
    areas = stats[:, cv2.CC_STAT_AREA]
    largest = 1 + int(areas[1:].argmax()) if count > 1 else 0
    parts = [k for k in range(1, count) if areas[k] >= MIN_FLAT and k != largest]
    for k in parts if len(parts) <= MOST_FLAT else []:
        x, y, w, h = (int(v) for v in stats[k, :4])
        part = np.s_[max(0, y - 2) : y + h + 2, max(0, x - 2) : x + w + 2]
        own = (labels[part] == k).astype(np.uint8)
        around = np.asarray(cv2.dilate(own, np.ones((3, 3), np.uint8)), bool) & (own == 0)
        if all(
            _commonest(packed[part][m]) >= share
            for m, share in ((own > 0, FLAT_SHARE), (around, AROUND_SHARE))
        ):
            like[part][own > 0] = False


def _commonest(colours: NDArray[np.uint32]) -> float:
    """Share of the colour found most often."""
    return float(np.unique(colours, return_counts=True)[1].max() / len(colours)) if len(colours) else 0.0
