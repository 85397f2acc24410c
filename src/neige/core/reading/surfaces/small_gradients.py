"""Gradients on small things: badges, buttons and tiles for icons, which have too few cells to be found as large ones are. Device px.

Pixels that hardly differ from their neighbours are grown together; a part with hard edges on all its sides, on flat ground, whose
colours are a function of one coordinate, is a gradient.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import apart
from neige.core.reading.surfaces.gradient import Ramp, fit_line

SMOOTH = 2  # 8-bit steps from one pixel to the next
SIDES = (14, 320)  # px of a small thing's sides
FILLS = 0.5  # of its box that is no ink on it
SOLID, BARE = 0.8, 0.2  # of its box that it and the words on it are; and that is not letters' edges
GROUND = 1500  # px of one colour: ground
RANGE = 6  # 8-bit steps from end to end at least
EDGE = 12  # 8-bit steps by which it stands out from its ground on every side
RIM, OUT, IN = 4, 3, 2  # px round it that are looked at; from its side outwards, and inwards
STEEP = 6  # steps from one px round it to the next at most, on even ground and in its shadow,
EVEN = 0.95  # for so much of what is round it
SAMPLE = 1500  # pixels that a gradient is fitted to
SAME = 0.7  # of its pixels that a gradient that is known draws as well
EXPLAINED = 3.0  # 8-bit steps


def find_small(pixels: NDArray[np.uint8], known: list[Ramp], scale: int) -> list[Ramp]:
    """Gradients of small things in a picture (h, w, 3) that `known` ones do not account for, from the top down."""
    smooth = _even(pixels, SMOOTH)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(smooth, connectivity=4)
    found: list[Ramp] = []

    def take(x: int, y: int, own: NDArray[np.bool_]) -> None:
        height, width = own.shape
        if _stands_out(pixels, x, y, width, height):
            ramp = _ramp_of(pixels, own, x, y, [*known, *found])
            found.extend([] if ramp is None else [ramp])

    for n in _sized(stats, FILLS, scale):
        x, y, width, height = (int(v) for v in stats[n, :4])
        take(x, y, labels[y : y + height, x : x + width] == n)
    for x, y, blob in _blobs(pixels, scale):
        own = blob & (smooth[y : y + blob.shape[0], x : x + blob.shape[1]] > 0)
        if own.mean() >= BARE:
            take(x, y, own)
    return found


def _even(pixels: NDArray[np.uint8], most: int) -> NDArray[np.uint8]:
    """1 where a pixel differs from each of the four beside it by so many 8-bit steps at most."""
    even = np.ones(pixels.shape[:2], np.uint8)
    for a, b in ((np.s_[:, :-1], np.s_[:, 1:]), (np.s_[:-1], np.s_[1:])):
        step = apart(pixels[a], pixels[b]) <= most
        even[a] &= step
        even[b] &= step
    return even


def _sized(stats: NDArray[Any], fills: float, scale: int) -> list[int]:
    """The parts, of some that were counted, that may be a small thing and fill their box."""
    least, most = SIDES[0] * scale, SIDES[1] * scale
    w, h, area = stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT], stats[:, cv2.CC_STAT_AREA]
    sized = (np.minimum(w, h) >= least - 2) & (np.maximum(w, h) <= most) & (area >= fills * w * h)
    sized[0] = False
    kept: list[int] = np.flatnonzero(sized).tolist()
    return kept


def _blobs(pixels: NDArray[np.uint8], scale: int) -> list[tuple[int, int, NDArray[np.bool_]]]:
    """(x, y, which px (h, w) of its box are its own) of what stands on even ground and fills its box, words on it included: they
    part its even pixels where it is hardly higher than they are."""
    _, labels, stats, _ = cv2.connectedComponentsWithStats(_even(pixels, 0), connectivity=4)
    ground = stats[:, cv2.CC_STAT_AREA] >= GROUND * scale * scale
    ground[0] = False
    _, labels, stats, _ = cv2.connectedComponentsWithStats((~ground[labels]).astype(np.uint8), connectivity=4)
    boxes = ((n, *(int(v) for v in stats[n, :4])) for n in _sized(stats, SOLID, scale))
    # the outermost px round them are the ground's last
    return [(x + 1, y + 1, labels[y + 1 : y + h - 1, x + 1 : x + w - 1] == n) for n, x, y, w, h in boxes]


def _stands_out(pixels: NDArray[np.uint8], x: int, y: int, w: int, h: int) -> bool:
    """Has a box hard edges on all its sides, on a ground of one colour, or one that only its shadow darkens?"""
    if x < RIM or y < RIM or x + w + RIM > pixels.shape[1] or y + h + RIM > pixels.shape[0]:
        return False
    across, down = slice(x + w // 4, x + w - w // 4), slice(y + h // 4, y + h - h // 4)
    sides = (
        (pixels[y - OUT, across], pixels[y + IN, across]),
        (pixels[y + h - 1 + OUT, across], pixels[y + h - 1 - IN, across]),
        (pixels[down, x - OUT], pixels[down, x + IN]),
        (pixels[down, x + w - 1 + OUT], pixels[down, x + w - 1 - IN]),
    )
    for outside, inside in sides:
        if np.abs(np.median(outside, axis=0) - np.median(inside, axis=0)).max() < EDGE:
            return False
    ring = [
        pixels[y - RIM, x - RIM : x + w + RIM],
        pixels[y + h - 1 + RIM, x - RIM : x + w + RIM],
        pixels[y - RIM : y + h + RIM, x - RIM],
        pixels[y - RIM : y + h + RIM, x + w - 1 + RIM],
    ]
    steps = np.concatenate([apart(side[1:], side[:-1]) for side in ring])
    return bool((steps <= STEEP).mean() >= EVEN)


def _ramp_of(
    pixels: NDArray[np.uint8], own: NDArray[np.bool_], x: int, y: int, known: list[Ramp]
) -> Ramp | None:
    """The gradient of the pixels that are `own` (h, w) in the box at (x, y), if none of the `known` is theirs."""
    rows, columns = np.nonzero(own)
    step = max(1, len(rows) // SAMPLE)
    rows, columns = rows[::step] + y, columns[::step] + x
    colours = pixels[rows, columns].astype(np.float64)
    if np.ptp(colours, axis=0).max() < RANGE:
        return None
    px, py = columns.astype(np.float64) + 0.5, rows.astype(np.float64) + 0.5
    for ramp in known:
        x0, y0, x1, y1 = ramp.box
        if x0 - RIM <= x and y0 - RIM <= y and x + own.shape[1] <= x1 + RIM and y + own.shape[0] <= y1 + RIM:
            off = np.abs(ramp.predict(px, py) - colours).max(axis=1)
            if (off <= EXPLAINED).mean() >= SAME:
                return None
    return fit_line(px, py, colours, (x, y, x + own.shape[1], y + own.shape[0]))
