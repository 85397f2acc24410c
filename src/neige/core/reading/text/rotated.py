"""Text that runs up or down: boxes far taller than wide are read turned by a quarter either way."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.detect import Box
from neige.core.reading.text.recognise import Recogniser

TALL = 2.2  # times as tall as wide
SHORTEST = 28  # device px of length
SURE = 0.85  # confidence that a turned reading needs
BETTER = 0.15  # by which it must be surer than the upright one


def read_rotated(
    pixels: NDArray[np.uint8], boxes: list[Box], recogniser: Recogniser
) -> tuple[list[tuple[str, Box, int, float]], list[Box]]:
    """(text, box, angle, confidence) of every box whose text is turned (angle: -90 up, 90 down), and the other boxes."""
    tall = [b for b in boxes if b[3] - b[1] >= max(SHORTEST, TALL * (b[2] - b[0]))]
    if not tall:
        return [], boxes
    crops = [pixels[int(b[1]) : int(np.ceil(b[3])), int(b[0]) : int(np.ceil(b[2]))] for b in tall]
    upright = recogniser(crops)
    up = recogniser([np.ascontiguousarray(np.rot90(c, -1)) for c in crops])
    down = recogniser([np.ascontiguousarray(np.rot90(c, 1)) for c in crops])
    found, turned = [], set()
    for box, plain, a, b in zip(tall, upright, up, down):
        angle, best = (-90, a) if a.confidence >= b.confidence else (90, b)
        text = best.text.strip()
        if sum(c.isalnum() for c in text) >= 2 and best.confidence >= max(SURE, plain.confidence + BETTER):
            found.append((text, box, angle, best.confidence))
            turned.add(box)
    return found, [b for b in boxes if b not in turned]
