"""Inferring device pixels per CSS px from the raster alone."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

# Common viewport widths in CSS px; a raster 2 or 3 times one of these is probably at that scale.
COMMON_WIDTHS = (
    320,
    360,
    375,
    390,
    393,
    402,
    412,
    414,
    428,
    430,
    440,
    768,
    810,
    820,
    834,
    1024,
    1180,
    1194,
    1280,
    1366,
    1440,
    1512,
    1536,
    1728,
)
LONG = 61  # px: no letter has a straight edge that long
WIDE = 1921  # px; wider rasters than this are seldom at 1x


def infer_scale(pixels: NDArray[np.uint8]) -> int:
    """1, 2 or 3. A raster whose runs of equal pixels mostly have even (or threefold) edges at a doubled common width is at 2x (3x)."""
    width = pixels.shape[1]
    for scale in (3, 2):
        if width % scale or width // scale not in COMMON_WIDTHS:
            continue
        if width < WIDE and width in COMMON_WIDTHS and not _aligned(pixels, scale):
            continue
        if width >= WIDE or _aligned(pixels, scale):
            return scale
    if width >= 2200 and _aligned(pixels, 2):
        return 2
    return 1


def _aligned(pixels: NDArray[np.uint8], scale: int) -> bool:
    """True if long straight edges (box sides, rules) start on multiples of `scale` clearly more often than chance."""
    grey = pixels[:, :, 1].astype(np.int16)
    across = (np.abs(np.diff(grey, axis=0)) > 6).astype(np.uint8)
    down = (np.abs(np.diff(grey, axis=1)) > 6).astype(np.uint8)
    rows = (
        np.flatnonzero(cv2.morphologyEx(across, cv2.MORPH_OPEN, np.ones((1, LONG), np.uint8)).any(axis=1)) + 1
    )
    columns = (
        np.flatnonzero(cv2.morphologyEx(down, cv2.MORPH_OPEN, np.ones((LONG, 1), np.uint8)).any(axis=0)) + 1
    )
    places = np.concatenate([rows, columns])
    return places.size >= 4 and bool((places % scale == 0).mean() > 0.9)
