"""The arrow of what opens: a triangle or a chevron, written as generated content in the text's colour rather than as a picture."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

LIKE = 0.78  # overlap with what was seen from which a shape is the arrow's
FULL = 0.8  # of its height that a triangle is thick in the middle
GRAIN = 0.25  # px: an arm's thickness is told no finer
FINE = 16  # parts of a px in which shapes are drawn to be compared
Points = list[tuple[float, float]]


def caret(cover: NDArray[np.float64]) -> tuple[Points, tuple[float, float, float, float]] | None:
    """(corners in px, box (x, y, w, h) in px) of a triangle or chevron that points down or up, or None if a mark is neither.

    `cover` (h, w): how far each px is inked, 0..1. The corners are relative to the box.
    """
    ys, xs = np.nonzero(cover > 0.12)
    if not xs.size:
        return None
    x0, x1, y0, y1 = (float(v) for v in (xs.min(), xs.max() + 1, ys.min(), ys.max() + 1))
    w, h = x1 - x0, y1 - y0
    if w < 4 or h < 2:
        return None
    thick = cover.sum(axis=0)
    middle = float(thick[int((x0 + x1) / 2)])
    arm = float(np.mean([thick[int(x0 + w / 4)], thick[int(x1 - w / 4)]]))
    arm = round(arm / GRAIN) * GRAIN  # arrows drawn alike are alike
    up = float((cover[: cover.shape[0] // 2, int((x0 + x1) / 2)]).sum()) > 0.6 * middle
    shapes: list[Points] = []
    if middle >= FULL * h:
        shapes.append([(0, 0), (w, 0), (w / 2, h)])
    if arm < h:
        t = arm
        shapes.append([(t / 2, 0), (w / 2, h - t), (w - t / 2, 0), (w, t / 2), (w / 2, h), (0, t / 2)])
    for corners in shapes:
        for turned in (up, not up):
            points = [(x, h - y) for x, y in corners] if turned else corners
            if _overlap(cover, points, x0, y0) >= LIKE:
                return points, (x0, y0, w, h)
    return None


def _overlap(cover: NDArray[np.float64], points: Points, x0: float, y0: float) -> float:
    h, w = cover.shape
    drawn = np.zeros((h * FINE, w * FINE), np.uint8)
    corners = np.array([[(x + x0) * FINE, (y + y0) * FINE] for x, y in points])
    cv2.fillPoly(drawn, [np.rint(corners).astype(np.int32)], 1)
    shape = drawn.reshape(h, FINE, w, FINE).mean(axis=(1, 3))
    return float(np.minimum(shape, cover).sum() / max(1e-6, np.maximum(shape, cover).sum()))


def polygon(points: Points, w: float, h: float) -> str:
    """The CSS shape of corners in a box, px."""

    def share(v: float, whole: float) -> str:
        return f"{100 * v / whole:.3g}%" if v else "0"

    return f"polygon({', '.join(f'{share(x, w)} {share(y, h)}' for x, y in points)})"
