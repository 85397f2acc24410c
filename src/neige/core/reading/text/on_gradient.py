"""Ink on a gradient: where the ground's colours are known, they are taken off, and a line stands on flat ground."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.surfaces.gradient import Ramp
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import MIN_CONTRAST

REACH = 0.5  # of a line's height round it that is evened with it
SLACK = 3  # px
GROUND = 0.35  # of that which is the gradient's at least; the rest is ink
PUREST = 0.9  # of the way from the ground that ink is at least whose colour is the line's
MOST = 1.5  # of that way at most


def even_gradients(
    boxes: Sequence[Box],
    pixels: NDArray[np.uint8],
    working: NDArray[np.uint8],
    ramps: Mapping[tuple[int, int, int], Ramp],
) -> NDArray[np.uint8]:
    """A picture (h, w, 3) in which places that lie on a gradient lie on its usual colour there.

    `working`: the picture in which every gradient is one flat colour, a key of `ramps`. Device px."""
    if not ramps:
        return pixels
    height, width = pixels.shape[:2]
    out = pixels.copy()
    for left, top, right, bottom in boxes:
        reach = max(4.0, REACH * (bottom - top))
        whole = (
            max(0, int(left - reach)), max(0, int(top - reach)),
            min(width, int(right + reach) + 1), min(height, int(bottom + reach) + 1),
        )  # fmt: skip
        own = {k: _share(working, whole, k) for k in ramps}
        key = max(own, key=lambda k: own[k])
        if own[key] < GROUND:  # a badge hardly larger than its word
            badges = {
                k: r.box for k, r in ramps.items() if own[k] and _inside((left, top, right, bottom), r.box)
            }
            key = max(badges, key=lambda k: _share(working, badges[k], k), default=key)
            whole = badges.get(key, whole)
            if _share(working, whole, key) < GROUND:
                continue
        x0, y0, x1, y1 = whole
        y, x = np.mgrid[y0:y1, x0:x1]
        ground = ramps[key].predict(x + 0.5, y + 0.5).astype(np.float64)
        usual = ground.reshape(-1, 3).mean(axis=0)
        evened = _on(usual, pixels[y0:y1, x0:x1].astype(np.float64), ground)
        out[y0:y1, x0:x1] = np.clip(np.rint(evened), 0, 255).astype(np.uint8)
    return out


def _share(working: NDArray[np.uint8], box: tuple[int, int, int, int], key: tuple[int, int, int]) -> float:
    """Of a box, how much is on the gradient that `key` stands for."""
    x0, y0, x1, y1 = box
    part = working[y0:y1, x0:x1]
    return float((part == key).all(axis=2).mean()) if part.size else 0.0


def _inside(text: Box, box: tuple[int, int, int, int]) -> bool:
    """Does a line lie in a box, but for what its own is too large?"""
    a, b, c, d = text
    return box[0] - SLACK <= a and box[1] - SLACK <= b and c <= box[2] + SLACK and d <= box[3] + SLACK


def _on(
    usual: NDArray[np.float64], crop: NDArray[np.float64], ground: NDArray[np.float64]
) -> NDArray[np.float64]:
    """A crop (h, w, 3) with its ink on one colour instead of its `ground` (h, w, 3): as much of each pixel is ink as was."""
    away = crop - ground
    far = away_from(away, 0.0)
    peak = float(np.quantile(far, 0.995))
    if peak < MIN_CONTRAST:
        return np.asarray(away + usual)
    ink = np.median(crop[far >= PUREST * peak], axis=0)
    way = ink - ground
    cover = np.clip((away * way).sum(axis=2) / np.maximum((way * way).sum(axis=2), 1.0), 0.0, MOST)[..., None]
    return np.asarray(usual + cover * (ink - usual) + away - cover * way)
