"""Round pictures that lie half on a photo and half on the card below it: a face on a profile's banner."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

SMALLEST = 28  # px across
NUDGE = 14  # half px up to which a disc's outline is looked for around where its shade makes it seem to be
DISC, ROUND = (
    260.0,
    2.0,
)  # px: the diameter of the largest disc that may lie across a photo's edge, and how far it is off a circle


def find_discs(
    solid: NDArray[np.bool_], under: NDArray[np.bool_], pixels: NDArray[np.uint8], scale: int
) -> list[tuple[float, float, float]]:
    """Discs (x, y, radius) of which one half lies on the card `under` which a photo goes on, and the other on that photo."""
    out: list[tuple[float, float, float]] = []
    if not under.any():
        return out
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        (solid & under).astype(np.uint8), connectivity=4
    )
    for k in range(1, count):
        x, y, w, h, _area = (int(v) for v in stats[k])
        if not SMALLEST * scale <= w <= DISC * scale or h < 8 * scale:
            continue
        own = labels[y : y + h, x : x + w] == k
        at = np.arange(h) + 0.5
        left, right = own.argmax(axis=1).astype(float), w - own[:, ::-1].argmax(axis=1).astype(float)
        wide = right - left >= 0.6 * w  # nearer its end a shadow makes it longer
        if wide.sum() < 0.3 * h:
            continue
        px, py = np.concatenate([left[wide], right[wide]]), np.concatenate([at[wide], at[wide]])
        a, b, radius, off = _circle(px, py)
        a, b, radius, off = _circle(px, py, off <= np.quantile(off, 0.8))
        if 2 * radius <= DISC * scale and np.quantile(off, 0.7) <= ROUND * scale and own.mean() > 0.6:
            out.append(_sharpest(pixels.mean(axis=2), under, (x + a, y + b, radius), scale))
    return out


def _sharpest(
    grey: NDArray[np.float64], on_card: NDArray[np.bool_], circle: tuple[float, float, float], scale: int
) -> tuple[float, float, float]:
    """Of the circles near one, on whole half px, the one along which a picture jumps most: shade round a disc is no edge."""
    angle = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    cos, sin = np.cos(angle), np.sin(angle)
    middle = [round(2 * v / scale) * scale / 2 for v in circle]
    steps = np.arange(-NUDGE, NUDGE + 1) * scale / 2
    best, kept = -1.0, circle
    for b in middle[1] + steps:
        for a in middle[0] + steps[np.abs(steps) <= scale]:
            for r in middle[2] + steps[np.abs(steps) <= 2 * scale]:
                rows, columns = np.rint(b + r * sin - 0.5).astype(int), np.rint(a + r * cos - 0.5).astype(int)
                on = (rows >= 0) & (rows < grey.shape[0]) & (columns >= 0) & (columns < grey.shape[1])
                on[on] = on_card[rows[on], columns[on]]
                if on.sum() < 20:
                    continue
                inner = _at(grey, a + (r - scale) * cos[on], b + (r - scale) * sin[on])
                outer = _at(grey, a + (r + scale) * cos[on], b + (r + scale) * sin[on])
                jump = float(np.minimum(np.abs(inner - outer), 60).mean())
                if jump > best + 1e-9:
                    best, kept = jump, (float(a), float(b), float(r))
    return kept


def _at(grey: NDArray[np.float64], x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """The pixels in which points lie."""
    h, w = grey.shape
    return grey[np.clip(np.floor(y).astype(int), 0, h - 1), np.clip(np.floor(x).astype(int), 0, w - 1)]


def _circle(
    x: NDArray[np.float64], y: NDArray[np.float64], of: NDArray[np.bool_] | slice = slice(None)
) -> tuple[float, float, float, NDArray[np.float64]]:
    """Centre and radius of the circle through points, those `of` them, and how far each is off it (Kåsa 1976)."""
    design = np.stack([2 * x, 2 * y, np.ones_like(x)], axis=1)
    (a, b, c), *_ = np.linalg.lstsq(design[of], (x * x + y * y)[of], rcond=None)
    radius = float(np.sqrt(max(c + a * a + b * b, 0.0)))
    return float(a), float(b), radius, np.abs(np.hypot(x - a, y - b) - radius)
