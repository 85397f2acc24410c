"""A photo behind the whole page, as behind many a form to log in: mist and sky are nearly even, but of no colour exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Rect, Surface
from neige.core.reading.colour import away_from, from_hex
from neige.core.reading.surfaces.remains import device_slices

NEAR = 8.0  # 8-bit steps from the ground's colour;
EXACT = 0.25  # of what is so near that has a painted ground's very colour at least: shadows lie on the rest
BESIDE = 2  # px from a surface's edge, inwards and outwards,
STEP = 6.0  # and the 8-bit steps between them that can be seen
SIDES = 2  # on which they are
ON_CARD = 0.9  # of a thin line that lies on a card,
IN_PICTURE = 0.7  # or in a picture


def bare_ground(surfaces: list[Surface], shape: tuple[int, ...], scale: int) -> NDArray[np.bool_]:
    """Where (h, w device px) none of the surfaces lies."""
    bare = np.ones(shape[:2], bool)
    for s in surfaces:
        bare[device_slices(s.rect, scale)] = False
    return bare


def is_photo(background: Fill, surfaces: list[Surface], pixels: NDArray[np.uint8], scale: int) -> bool:
    """Is what was taken for the ground of a page (h, w, 3) some of a photo?"""
    if background.stops:
        return False
    off = away_from(pixels[bare_ground(surfaces, pixels.shape, scale)], from_hex(background.colour))
    return bool((off == 0).sum() < EXACT * (off <= NEAR).sum())


def on_photo(surfaces: list[Surface], pixels: NDArray[np.uint8], scale: int) -> list[Surface]:
    """What lies on the photo behind a page, without even places in it; what shadows it casts is in the photo."""
    return [replace(s, shadow=None) for s in surfaces if _stands_out(s, pixels, scale)]


def _stands_out(s: Surface, pixels: NDArray[np.uint8], scale: int) -> bool:
    (top, bottom), (left, right) = ((at.start, at.stop - 1) for at in device_slices(s.rect, scale))
    by_columns = pixels.transpose(1, 0, 2)
    steps = []
    for lines, at, inwards, along in (
        (pixels, top, 1, slice(left, right)),
        (pixels, bottom, -1, slice(left, right)),
        (by_columns, left, 1, slice(top, bottom)),
        (by_columns, right, -1, slice(top, bottom)),
    ):
        inside, outside = at + inwards * BESIDE * scale, at - inwards * BESIDE * scale
        if 0 <= outside < len(lines) and 0 <= inside < len(lines):
            steps.append(np.median(away_from(lines[inside, along], lines[outside, along].astype(np.float64))))
    return sum(bool(v > STEP) for v in steps) >= SIDES


def in_picture(rule: Rect, surfaces: Sequence[Surface], cutouts: Sequence[Cutout]) -> bool:
    """Is a thin line some of a photo or illustration, and not of a card that lies on it?"""
    on = [s.rect for s in surfaces if rule.inside(s.rect, ON_CARD)]
    return any(rule.inside(c.rect, IN_PICTURE) and all(c.rect.inside(r, 0.98) for r in on) for c in cutouts)
