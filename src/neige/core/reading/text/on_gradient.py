"""Ink on a gradient: where the ground's colours are known, they are taken off, and a line stands on flat ground."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.surfaces.gradient import Ramp
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import MIN_CONTRAST
from neige.core.reading.text.raw import RawLine

REACH = 0.5  # of a line's height round it that is evened with it
GROUND = 0.35  # of that which is the gradient's at least; the rest is ink
PUREST = 0.9  # of the way from the ground that ink is at least whose colour is the line's
MOST = 1.5  # of that way at most
Ramps = Mapping[tuple[int, int, int], Ramp]


def even_lines(
    raw: Sequence[RawLine], pixels: NDArray[np.uint8], working: NDArray[np.uint8], ramps: Ramps
) -> tuple[list[RawLine], NDArray[np.uint8]]:
    """(lines, pixels) of `even_gradients`, with lines that know the ground on which they stand now."""
    evened, grounds = even_gradients([line.box for line in raw], pixels, working, ramps)
    return [
        line if ground is None else replace(line, ground=ground, flat=True, pictured=False)
        for line, ground in zip(raw, grounds)
    ], evened


def even_gradients(
    boxes: Sequence[Box], pixels: NDArray[np.uint8], working: NDArray[np.uint8], ramps: Ramps
) -> tuple[NDArray[np.uint8], list[tuple[float, float, float] | None]]:
    """(a picture (h, w, 3) in which places that lie on a gradient lie on its usual colour there, that colour for each of them).

    `working`: the picture in which every gradient is one flat colour, a key of `ramps`. Device px."""
    grounds: list[tuple[float, float, float] | None] = [None] * len(boxes)
    if not ramps:
        return pixels, grounds
    height, width = pixels.shape[:2]
    out = pixels.copy()
    for n, (left, top, right, bottom) in enumerate(boxes):
        reach = max(4.0, REACH * (bottom - top))
        x0, y0 = max(0, int(left - reach)), max(0, int(top - reach))
        x1, y1 = min(width, int(right + reach) + 1), min(height, int(bottom + reach) + 1)
        part = working[y0:y1, x0:x1]
        own = {key: float((part == key).all(axis=2).mean()) for key in ramps} if part.size else {}
        key = max(own, key=lambda k: own[k], default=None)
        if key is None or own[key] < GROUND:
            continue
        y, x = np.mgrid[y0:y1, x0:x1]
        ground = ramps[key].predict(x + 0.5, y + 0.5).astype(np.float64)
        usual = ground.reshape(-1, 3).mean(axis=0)
        evened = _on(usual, pixels[y0:y1, x0:x1].astype(np.float64), ground)
        out[y0:y1, x0:x1] = np.clip(np.rint(evened), 0, 255).astype(np.uint8)
        grounds[n] = (float(usual[0]), float(usual[1]), float(usual[2]))
    return out, grounds


def _on(
    usual: NDArray[np.float64], crop: NDArray[np.float64], ground: NDArray[np.float64]
) -> NDArray[np.float64]:
    """A crop (h, w, 3) with its ink on one colour instead of its `ground` (h, w, 3): as much of each pixel is ink as was."""
    away = crop - ground
    far = np.abs(away).max(axis=2)
    peak = float(np.quantile(far, 0.995))
    if peak < MIN_CONTRAST:
        return np.asarray(away + usual)
    ink = np.median(crop[far >= PUREST * peak], axis=0)
    way = ink - ground
    cover = np.clip((away * way).sum(axis=2) / np.maximum((way * way).sum(axis=2), 1.0), 0.0, MOST)[..., None]
    return np.asarray(usual + cover * (ink - usual) + away - cover * way)
