"""Underscores in code, which the recogniser takes for spaces, or two of them for one."""

from __future__ import annotations

from statistics import median

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.ink import spans
from neige.core.reading.text.recognise import Spelling

WIDE = 0.35  # of the ink height that one is wide at least
TWO = (1.55, 2.6)  # times as wide as the letters are apart: two of them,
LONG = 0.9  # if they are that much of the ink height as well: slanted letters are close to each other


def with_underscores(s: Spelling, inked: NDArray[np.bool_], ink_height: float) -> Spelling:
    """What was read, with "_" for each space in which there is a line below the letters, and two for each long one.

    A dotted or a painted ground makes the recogniser pass over them; two of them make one line. `inked`: (h, w)."""
    width = inked.shape[1]
    columns = inked.any(axis=0)
    if not columns.any():
        return s
    lowest = inked.shape[0] - 1 - inked[::-1].argmax(axis=0)
    base = float(np.median(lowest[columns]))
    low = columns & (inked.argmax(axis=0) > base)
    lines = [(a, b) for a, b in spans(low) if b - a >= WIDE * ink_height]
    if not lines:
        return s
    places = [p * width for p in s.places]
    out = list(s.text)
    for k in (k for k, c in enumerate(s.text) if c == " " and 0 < k < len(s.text) - 1):
        a, b = int(places[k - 1]), int(np.ceil(places[k + 1]))
        inside = any(min(b, d) - max(a, c) >= WIDE * ink_height for c, d in lines)
        if inside and s.text[k - 1].isalnum() and s.text[k + 1].isalnum():
            out[k] = "_"
    steps = [b - a for a, b, c in zip(places, places[1:], s.text[1:]) if c != " " and b > a]
    step = median(steps) if steps else 0.0
    text, at, scores = "", list[float](), list[float]()
    for c, place, score in zip(out, places, s.scores):
        line = next((n for n in lines if n[0] - step / 2 <= place <= n[1] + step / 2), None)
        alone = (
            line
            and sum(o == "_" and line[0] - step / 2 <= p <= line[1] + step / 2 for o, p in zip(out, places))
            == 1
        )
        long = max(TWO[0] * step, LONG * ink_height)
        two = c == "_" and line and alone and long <= line[1] - line[0] <= TWO[1] * step
        text += "__" if two else c
        at += [place / width] * (2 if two else 1)
        scores += [score] * (2 if two else 1)
    return Spelling(text, tuple(at), tuple(scores))
