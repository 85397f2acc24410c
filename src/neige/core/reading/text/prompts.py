"""The dots with which an interpreter asks for the next line, under the ">>>" with which it asks for the first: the detector
passes over three dots."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.ink import spans
from neige.core.reading.text.raw import RawLine, RawWord

FIRST, NEXT = ">>>", "..."
INK = 40.0  # 8-bit steps from the ground
DOT = 0.2  # of the first prompt's width that a dot is wide and high at most
ADVANCE = (0.3, 0.46)  # of that width from dot to dot
EVEN = 1.0  # px at 1x by which these distances differ
LONGEST = 80.0  # times that width that the lines under one prompt take at most
STEP = 1.4  # times that width from one line to the next at most
SURE = 0.95


def read_prompts(lines: list[RawLine], pixels: NDArray[np.uint8], scale: int) -> list[RawLine]:
    """The lines, with a line of three dots for each prompt of that kind. `pixels`: device px (h, w, 3)."""
    out = list(lines)
    for line in lines:
        if line.words[0].text == FIRST and line.flat:
            out += _below(line, pixels, scale)
    return out


def _below(line: RawLine, pixels: NDArray[np.uint8], scale: int) -> list[RawLine]:
    x0, _, x1, bottom = line.words[0].box
    wide = x1 - x0
    left, top = max(0, int(x0) - scale), int(np.ceil(bottom)) + scale
    strip = pixels[top : top + int(LONGEST * wide), left : int(np.ceil(x1)) + scale].astype(np.float64)
    inked = away_from(strip, line.ground) > INK
    out: list[RawLine] = []
    last = 0
    for a, b in spans(np.asarray(inked.any(axis=1))):
        dots = spans(np.asarray(inked[a:b].any(axis=0)))
        if len(dots) != 3 or a - last > STEP * wide or max(b - a, *(d - c for c, d in dots)) > DOT * wide:
            break
        middles = [(c + d) / 2 for c, d in dots]
        steps = np.diff(middles)
        if np.ptp(steps) > EVEN * scale or not ADVANCE[0] * wide <= steps.mean() <= ADVANCE[1] * wide:
            break
        box = (float(left + dots[0][0]), float(top + a), float(left + dots[-1][1]), float(top + b))
        own = strip[a:b][inked[a:b]]
        red, green, blue = (float(v) for v in own[np.abs(own - line.ground).max(axis=1).argmax()])
        word = RawWord(NEXT, box, (red, green, blue), SURE)
        out.append(RawLine((word,), box, line.ground, True, SURE))
        last = b
    return out
