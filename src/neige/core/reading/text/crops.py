"""What is cut out around a detected box to be read: its ink's box, on its own ground, without its neighbours."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import FLAT_SHARE, Ink, ground_colour, measure_ink, spans
from neige.core.reading.text.strokes import INKED, letters_and_rules, unframed

OTHER_GROUND = 30.0  # 8-bit steps between a badge and what it lies on
CORNER = 0.6  # of a badge's height that a round corner takes at most
EDGE = 0.3  # of a crop's height that the edge of a box beside the text takes at its end
WHOLE = 0.9  # of its upper and lower side that is, and of a row beyond the box that a text is in
BEYOND = 0.5  # of a crop's rows that are beyond that box at most
TRIES = 4  # how often a box that cuts letters is looked at again,
GROWS = 0.3  # and of its height that it is larger each time
SHORT, HIGHER = 4.0, 2.4  # times its height that such a box is wide, and that its letters are high, at most
LETTERS, BESIDE = 3.0, 0.2  # of its height that its line may go on beside it, and that its letters are apart
RIM = 0.66  # of the rim of a badge (whose ends may be round) that is in its colour


def line_limits(boxes: list[Box], height: int) -> list[tuple[float, float]]:
    """For every box how far up and down its line may reach: half-way into the overlap with its neighbours above and below."""
    if not boxes:
        return []
    b = np.array(boxes)
    out = []
    for x0, y0, x1, y1 in boxes:
        overlap = np.minimum(b[:, 2], x1) - np.maximum(b[:, 0], x0) > 2
        above = b[overlap & (b[:, 1] < y0 - 0.3 * (y1 - y0)) & (b[:, 3] < y1 - 0.3 * (y1 - y0))]
        below = b[overlap & (b[:, 3] > y1 + 0.3 * (y1 - y0)) & (b[:, 1] > y0 + 0.3 * (y1 - y0))]
        top = max((above[:, 3].max() + y0) / 2 if len(above) else 0.0, 0.0)
        bottom = min((below[:, 1].min() + y1) / 2 if len(below) else float(height), float(height))
        out.append((min(top, y0 + 0.25 * (y1 - y0)), max(bottom, y1 - 0.25 * (y1 - y0))))
    return out


def own_ground(pixels: NDArray[np.uint8], box: Box) -> tuple[int, int, int, int]:
    """How far (x0, y0, x1, y1) the ground of a box reaches: a badge hardly larger than its text must not count as ink itself.

    That is everywhere, unless the middle of the box stands on another flat colour than its surroundings.
    """
    height, width = pixels.shape[:2]
    x0, y0, x1, y1 = box
    h = y1 - y0
    core = pixels[int(y0 + 0.2 * h) : int(np.ceil(y1 - 0.2 * h)), int(x0) : int(np.ceil(x1))]
    a, b = max(0, int(y0 - 0.5 * h)), min(height, int(np.ceil(y1 + 0.5 * h)))
    c, d = max(0, int(x0 - 0.5 * h)), min(width, int(np.ceil(x1 + 0.5 * h)))
    around_it = pixels[a:b, c:d]
    everywhere = (0, 0, width, height)
    if core.size == 0:
        return everywhere
    inner, share = ground_colour(core)
    rim = np.concatenate([around_it[0], around_it[-1], around_it[:, 0], around_it[:, -1]])
    outer, _ = ground_colour(rim[None])
    if share < FLAT_SHARE or np.abs(inner - outer).max() < OTHER_GROUND:
        return everywhere
    on = away_from(around_it, inner) <= 10
    rows, columns = np.flatnonzero(on.mean(axis=1) > 0.25), np.flatnonzero(on.mean(axis=0) > 0.25)
    if rows.size < 4 or columns.size < 4:
        return everywhere
    part = on[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    own_rim = np.concatenate([part[1], part[-2], part[2:-2, 1], part[2:-2, -2]])
    corner = part.shape[0] // 2
    between = part[[1, -2], corner : part.shape[1] - corner]  # its round ends
    if own_rim.mean() < RIM or (between.size and between.mean() < WHOLE):  # bold letters, not a badge
        return everywhere
    return c + int(columns[0]), a + int(rows[0]), c + int(columns[-1]) + 1, a + int(rows[-1]) + 1


def fill_corners(badge: NDArray[np.uint8]) -> None:
    """Paint a badge's corners in its own colour, in place: what shows beyond round ends is no letter's ink."""
    h, w = badge.shape[:2]
    inner = np.rint(ground_colour(badge[h // 4 : max(h // 4 + 1, 3 * h // 4)])[0]).astype(np.uint8)
    other = away_from(badge, inner) > 10
    _count, labels, stats, _ = cv2.connectedComponentsWithStats(other.astype(np.uint8), connectivity=8)
    for y, x in ((0, 0), (0, w - 1), (h - 1, 0), (h - 1, w - 1)):
        n = labels[y, x]
        if n and stats[n, cv2.CC_STAT_WIDTH] <= CORNER * h and stats[n, cv2.CC_STAT_HEIGHT] <= CORNER * h:
            badge[labels == n] = inner


def trim(
    pixels: NDArray[np.uint8],
    box: Box,
    limits: tuple[float, float],
    ground: tuple[int, int, int, int],
    noise: float,
) -> tuple[Box, Ink | None]:
    """Fit a detected box to the ink around it on a flat ground; on a busy ground the box stays as it is (and no ink is given).

    Where ink goes on above or below what is looked at, a short box was found too small (a large figure, say), and is looked at
    again as a larger one.
    """
    high = box[3] - box[1]
    found, ink, cut = _trim(pixels, box, limits, ground, noise)
    larger = box
    for _ in range(TRIES):
        if not any(cut) or box[2] - box[0] > SHORT * high:
            break
        reach = GROWS * (box[3] - box[1])
        larger = (box[0], larger[1] - reach * cut[0], box[2], larger[3] + reach * cut[1])
        whole, more, cut = _trim(pixels, larger, limits, ground, noise, more=True)
        if more is not None and not any(cut) and whole[3] - whole[1] <= HIGHER * high:
            return whole, more
    return found, ink


def _trim(
    pixels: NDArray[np.uint8],
    box: Box,
    limits: tuple[float, float],
    ground: tuple[int, int, int, int],
    noise: float,
    more: bool = False,
) -> tuple[Box, Ink | None, tuple[bool, bool]]:
    """What `trim` gives for one box, and whether its ink goes on above it and below it. `more`: with the letters beside it."""
    whole = (False, False)
    x0, y0, x1, y1 = box
    h = y1 - y0
    reach = (LETTERS if more else 0.35) * h
    left, right = max(ground[0], int(x0 - reach)), min(ground[2], int(np.ceil(x1 + reach)))
    top, bottom = (
        int(max(limits[0], ground[1], y0 - 0.2 * h)),
        int(np.ceil(min(limits[1], ground[3], y1 + 0.2 * h))),
    )
    if bottom - top < 3 or right - left < 3:
        return box, None, whole
    ink = measure_ink(pixels[top:bottom, left:right], noise)
    if not ink.flat:
        return box, None, whole
    inked, _ = letters_and_rules(unframed(ink.cover > INKED, x1 - x0, h), 1.6 * h, 1.12 * h)
    core = slice(max(0, int(y0 + 0.25 * h) - top), max(1, int(np.ceil(y1 - 0.25 * h)) - top))
    rows = spans(inked.max(axis=1))
    rows = [r for r in rows if r[0] < core.stop and r[1] > core.start]
    if not rows:
        return box, None, whole
    first, last = rows[0][0], rows[-1][1]
    # accents and descenders stand off the core by little: take neighbouring runs within a fifth of the height
    for a, b in spans(inked.max(axis=1)):
        if b <= first and first - b <= 0.16 * h and b - a <= 0.4 * h:
            first = a
        if a >= last and a - last <= 0.16 * h and b - a <= 0.4 * h:
            last = b
    columns = inked[first:last].max(axis=0)
    inner = (max(0, int(x0) - left), min(right - left, int(np.ceil(x1)) - left))
    runs = [r for r in spans(columns) if r[1] > inner[0] and r[0] < inner[1]]
    if not runs:
        return box, None, whole
    if more:
        every = spans(columns)
        a, b = every.index(runs[0]), every.index(runs[-1])
        while a and every[a][0] - every[a - 1][1] <= BESIDE * h:
            a -= 1
        while b + 1 < len(every) and every[b + 1][0] - every[b][1] <= BESIDE * h:
            b += 1
        runs = every[a : b + 1]
    highest, lowest = max(limits[0], ground[1], 0), min(limits[1], ground[3], pixels.shape[0])
    cut = (first == 0 and top > highest + 1, last == bottom - top and bottom < lowest - 1)
    return (left + runs[0][0], top + first, left + runs[-1][1], top + last), ink, cut


def without_neighbours(
    crop: NDArray[np.uint8], start: int, end: int, ink: Ink | None = None
) -> NDArray[np.uint8]:
    """The crop without the edge of a box that stands right beside the text, which would be read as a letter's ink, and without
    what lies beyond the edges of the box that the text is in.

    `start`, `end`: columns where the text's own `ink` begins and ends. Bold letters on a photo may be what is commonest there."""
    ground, _ = ground_colour(crop)
    if ink is not None and ink.pictured and np.abs(ground - ink.colour).max() < OTHER_GROUND:
        return crop
    other = away_from(crop, ground) > OTHER_GROUND
    across = other.mean(axis=1) >= WHOLE
    top = int(np.argmin(across)) if across[0] else 0
    bottom = int(np.argmin(across[::-1])) if across[-1] else 0
    if top + bottom > BEYOND * crop.shape[0]:
        top = bottom = 0
    inked = other[top : crop.shape[0] - bottom].mean(axis=0)
    left = int(np.argmax(inked == 0)) if inked[0] >= EDGE else 0
    right = int(np.argmax(inked[::-1] == 0)) if inked[-1] >= EDGE else 0
    left = left if left < start else 0
    right = right if right < crop.shape[1] - end else 0
    if not (top or bottom or left or right):
        return crop
    out = crop.copy()
    out[:top] = out[crop.shape[0] - bottom :] = out[:, :left] = out[:, crop.shape[1] - right :] = np.rint(
        ground
    )
    return out
