"""What was read, drawn over the picture in Neige's own marks: for the command line, and to look at without a browser.

Text: a full stroke on the baseline, ticks at the x-height at both ends of each word; doubtful words are struck under with
dots. What could not be read has bracketed corners. Surfaces have corner ticks, pictures a bracket left and right.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Picture, Reading, Rect

INK = (44, 97, 117)  # RGB: baselines
SIGNAL = (184, 57, 26)  # doubtful and unread
QUIET = (120, 134, 145)  # surfaces
PICTURES = (110, 84, 30)
DOUBTFUL = 0.85  # confidence of a word below which it is marked
FADE = 0.45  # how far the picture is faded towards white


def draw_overlay(picture: Picture, reading: Reading) -> NDArray[np.uint8]:
    """The picture (h, w, 3; device px), faded, with the marks of its reading."""
    k = picture.scale
    out = np.ascontiguousarray(
        np.clip(picture.pixels + (255.0 - picture.pixels) * FADE, 0, 255).astype(np.uint8)
    )

    def stroke(x0: float, y0: float, x1: float, y1: float, colour: tuple[int, int, int]) -> None:
        a, b = (round(x0 * k), round(y0 * k)), (round(x1 * k), round(y1 * k))
        cv2.line(out, a, b, colour, max(1, k), cv2.LINE_AA)

    def corners(r: Rect, colour: tuple[int, int, int], arm: float = 6.0) -> None:
        for x, sx in ((r.x, 1), (r.x + r.w - 1, -1)):
            for y, sy in ((r.y, 1), (r.y + r.h - 1, -1)):
                stroke(x, y, x + sx * min(arm, r.w / 3), y, colour)
                stroke(x, y, x, y + sy * min(arm, r.h / 3), colour)

    for s in reading.surfaces:
        corners(s.rect, QUIET)
    for c in reading.cutouts:
        for x, side in ((c.rect.x, 1), (c.rect.x + c.rect.w, -1)):
            stroke(x, c.rect.y, x, c.rect.y + c.rect.h, PICTURES)
            for y in (c.rect.y, c.rect.y + c.rect.h):
                stroke(x, y, x + side * 4, y, PICTURES)
    for line in reading.lines:
        for w in line.words:
            stroke(w.x, line.baseline, w.x + w.w, line.baseline, INK)
            for x in (w.x, w.x + w.w):
                stroke(x, line.baseline - line.x_height, x, line.baseline - line.x_height + 3, INK)
            if w.confidence < DOUBTFUL:
                for x in np.arange(w.x, w.x + w.w, 5.0):
                    stroke(x, line.baseline + 3, x + 2, line.baseline + 3, SIGNAL)
    for r in (*reading.unread, *(t.rect for t in reading.rotated)):
        corners(r, SIGNAL, 10.0)
    return out


def png(pixels: NDArray[np.uint8]) -> bytes:
    """Lossless PNG of RGB pixels (h, w, 3), compressed lightly."""
    bgr = np.ascontiguousarray(pixels[:, :, ::-1])
    return cv2.imencode(".png", bgr, [cv2.IMWRITE_PNG_COMPRESSION, 3])[1].tobytes()
