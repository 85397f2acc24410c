"""One place read again: from a close-up picture of it, or from the picture's own pixels enlarged.

Small, pale or crowded text that a recogniser missed at its own size is often plain at twice or three times that. Only what the
place says, and where, is taken from there: type and ink are still measured on the picture itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.errors import PinError
from neige.core.reading.text.detect import Box, detect_lines
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import Recogniser

ENLARGED = 2  # times, without a close-up
LARGEST = 8.0  # times: a closer close-up is shrunk to that
FIND = 24  # px around a place in which its close-up is looked for
LIKE = 0.5  # correlation of a close-up with its place at least
PROPORTION = 0.12  # by which width and height of the two may stand otherwise
INSIDE = 0.6  # of a line's box that lies in the place


def read_again(
    lines: Sequence[RawLine],
    pixels: NDArray[np.uint8],
    place: Box,
    close_up: NDArray[np.uint8] | None,
    recogniser: Recogniser,
    noise: float,
    scale: int,
) -> list[RawLine]:
    """`lines` with those in `place` (x0, y0, x1, y1 device px of `pixels`) read anew. `close_up` (h, w, 3) shows the place larger.

    Raises PinError if the close-up shows something else. A place in which nothing is found then keeps what was read before.
    """
    height, width = pixels.shape[:2]
    x0, y0 = max(0, int(place[0])), max(0, int(place[1]))
    x1, y1 = min(width, int(np.ceil(place[2]))), min(height, int(np.ceil(place[3])))
    if x1 - x0 < 4 or y1 - y0 < 4:
        return list(lines)
    crop = pixels[y0:y1, x0:x1]
    if close_up is None:
        large = np.asarray(
            cv2.resize(crop, None, fx=ENLARGED, fy=ENLARGED, interpolation=cv2.INTER_CUBIC), np.uint8
        )
        across = down = float(ENLARGED)
        left, top = x0, y0
    else:
        large, across, down, left, top = _registered(pixels, (x0, y0, x1, y1), close_up)
    at_2x = ENLARGED / scale  # text is looked for at twice its CSS size
    small = cv2.resize(large, None, fx=at_2x / across, fy=at_2x / down, interpolation=cv2.INTER_AREA)
    boxes: list[Box] = [
        (b[0] * across / at_2x, b[1] * down / at_2x, b[2] * across / at_2x, b[3] * down / at_2x)
        for b in detect_lines(np.ascontiguousarray(small, np.uint8))
    ]
    found, _ = read_lines(np.ascontiguousarray(large, np.uint8), boxes, recogniser, noise)
    if not found:
        return list(lines)

    def put(b: Box) -> Box:
        return (left + b[0] / across, top + b[1] / down, left + b[2] / across, top + b[3] / down)

    anew = [_put(line, [replace(w, box=put(w.box)) for w in line.words]) for line in found]
    return [line for line in lines if _inside(line.box, place) < INSIDE] + anew


def _put(line: RawLine, words: list[RawWord]) -> RawLine:
    return replace(line, words=tuple(words), box=around([w.box for w in words]))


def _inside(box: Box, place: Box) -> float:
    w = min(box[2], place[2]) - max(box[0], place[0])
    h = min(box[3], place[3]) - max(box[1], place[1])
    return max(0.0, w) * max(0.0, h) / max((box[2] - box[0]) * (box[3] - box[1]), 1e-6)


def _registered(
    pixels: NDArray[np.uint8], place: tuple[int, int, int, int], close_up: NDArray[np.uint8]
) -> tuple[NDArray[np.uint8], float, float, int, int]:
    """(close-up, times it is larger across and down, x and y where it begins), found by correlation near its place."""
    x0, y0, x1, y1 = place
    w, h = x1 - x0, y1 - y0
    across, down = close_up.shape[1] / w, close_up.shape[0] / h
    if min(across, down) < 1 or abs(across / down - 1) > PROPORTION:
        raise PinError(
            f"The close-up is {close_up.shape[1]} by {close_up.shape[0]} px; it must show the same {w} by {h} px of the picture, larger."
        )
    if max(across, down) > LARGEST:
        closest = (round(w * LARGEST), round(h * LARGEST))
        close_up = np.asarray(cv2.resize(close_up, closest, interpolation=cv2.INTER_AREA), np.uint8)
        across = down = LARGEST
    shrunk = np.asarray(cv2.resize(close_up, (w, h), interpolation=cv2.INTER_AREA), np.uint8)
    a, b = max(0, x0 - FIND), max(0, y0 - FIND)
    near = pixels[b : min(pixels.shape[0], y1 + FIND), a : min(pixels.shape[1], x1 + FIND)]
    scores = cv2.matchTemplate(np.ascontiguousarray(near), np.ascontiguousarray(shrunk), cv2.TM_CCOEFF_NORMED)
    _, best, _, at = cv2.minMaxLoc(scores)
    if best < LIKE:
        raise PinError("The close-up does not show that place of the picture.")
    return close_up, across, down, a + at[0], b + at[1]
