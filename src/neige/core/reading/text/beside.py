"""Words that the detector passed over: ink like a line's own, a space beyond its end, is read together with it once more."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import measure_ink, spans
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.raw import RawLine
from neige.core.reading.text.recognise import Recogniser

LEAST = 20.0  # px of ink height: in smaller lines an icon is as likely
SPACE = (0.1, 0.85)  # of the line's ink height between it and the words that were passed over
REACH = 6.0  # times the ink height that these are wide at most
TALL = 0.4  # of the line's ink that theirs is high at least
INKED = 0.4  # cover from which a pixel is ink
SURE = 0.9  # confidence of each of the words
LETTERS = 2  # of each at least: a single one may be an icon


def read_beside(
    lines: list[RawLine], pixels: NDArray[np.uint8], recogniser: Recogniser, noise: float
) -> list[RawLine]:
    """The lines, with words of their own ink at their ends that no box was found for. `pixels`: device px (h, w, 3)."""
    out = list(lines)
    for n, line in enumerate(lines):
        box = _reached(line, lines, pixels)
        if box is None:
            continue
        found, _ = read_lines(pixels, [box], recogniser, noise)
        known = [w.text for w in line.words]
        for other in found:
            texts = [w.text for w in other.words]
            more = len(texts) - len(known)
            if more <= 0 or known not in (texts[: len(known)], texts[more:]):
                continue
            new = other.words[len(known) :] if texts[: len(known)] == known else other.words[:more]
            if all(w.confidence >= SURE and w.text.isalpha() and len(w.text) >= LETTERS for w in new):
                out[n] = other
    return out


def _reached(line: RawLine, lines: list[RawLine], pixels: NDArray[np.uint8]) -> Box | None:
    """A line's box with the ink beyond its ends that may be words of it, or None."""
    x0, y0, x1, y1 = line.box
    high = y1 - y0
    if not line.flat or high < LEAST or not any(c.isalpha() for c in line.text):
        return None
    left, right = max(0, int(x0 - REACH * high)), min(pixels.shape[1], int(x1 + REACH * high))
    taken = [o.box for o in lines if o is not line and o.box[1] < y1 and o.box[3] > y0]
    left = max([left, *(int(b[2]) + 1 for b in taken if b[2] <= x0 + 2)])
    right = min([right, *(int(b[0]) for b in taken if b[0] >= x1 - 2)])
    top, bottom = max(0, int(y0) - 2), min(pixels.shape[0], int(np.ceil(y1)) + 2)
    own = np.median([w.colour for w in line.words], axis=0)
    crop = pixels[top:bottom, left:right]
    if crop.size == 0:
        return None
    cover = measure_ink(crop).cover
    away = away_from(crop, line.ground)
    full = max(1.0, float(np.abs(own - line.ground).max()))
    inked = (cover > INKED) & (away < 1.15 * full + 12)
    if inked[[0, -1]].any(axis=0).mean() > 0.5:
        return None  # a frame, or something else that goes on above and below
    start, end = _grown(inked, round(x0) - left, round(x1) - left, high)
    if (start, end) == (round(x0) - left, round(x1) - left):
        return None
    return (min(x0, float(left + start)), y0, max(x1, float(left + end)), y1)


def _grown(inked: NDArray[np.bool_], start: int, end: int, high: float) -> tuple[int, int]:
    """The span of columns from `start` to `end` with the runs of ink that follow on it a space away, letters close to each other."""
    runs = [(a, b) for a, b in spans(np.asarray(inked.any(axis=0))) if _is_tall(inked[:, a:b], high)]
    for a, b in runs:
        gap = a - end
        if a >= end - 1 and gap <= SPACE[1] * high:
            end = max(end, b)
    for a, b in reversed(runs):
        if b <= start + 1 and start - b <= SPACE[1] * high:
            start = min(start, a)
    return start, end


def _is_tall(part: NDArray[np.bool_], high: float) -> bool:
    rows = np.flatnonzero(part.any(axis=1))
    return bool(rows.size) and TALL * high <= rows[-1] - rows[0] + 1 <= 1.2 * high
