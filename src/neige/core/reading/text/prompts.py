"""The dots with which an interpreter asks for the next line, under the ">>>" with which it asks for the first: the detector
passes over three dots."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.ink import spans
from neige.core.reading.text.raw import RawLine, RawWord, around

FIRST, NEXT = ">>>", "..."
INK = 40.0  # 8-bit steps from the ground
DOT = 0.2  # of the first prompt's width that a dot is wide and high at most
ADVANCE = (0.3, 0.46)  # of that width from dot to dot
EVEN = 1.0  # px at 1x by which these distances differ
LONGEST = 80.0  # times that width that the lines under one prompt take at most
STEP = 1.4  # times that width from one line to the next at most
SURE = 0.95


def read_prompts(lines: list[RawLine], pixels: NDArray[np.uint8], scale: int) -> list[RawLine]:
    """The lines, with a line of three dots for each prompt of that kind that was passed over or read dot by dot. `pixels`: device
    px (h, w, 3)."""
    out = list(lines)
    for line in lines:
        if line.words[0].text == FIRST and line.flat:
            for found in _below(line, pixels, scale):
                out = _with(out, found)
    return out


def _with(lines: list[RawLine], found: RawLine) -> list[RawLine]:
    """The lines with three dots that were found, unless they have them; single dots that were read there are none."""
    x0, y0, x1, y1 = found.box
    out: list[RawLine] = []
    for line in lines:
        over = [w for w in line.words if w.box[0] < x1 and w.box[2] > x0 and w.box[1] < y1 and w.box[3] > y0]
        if any(w.text.startswith(NEXT) for w in over):
            return lines
        words = tuple(w for w in line.words if not (w in over and set(w.text) == {"."}))
        if words:
            same = len(words) == len(line.words)
            out.append(line if same else replace(line, words=words, box=around([w.box for w in words])))
    return [*out, found]


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
