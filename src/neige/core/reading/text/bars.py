"""Bars between the parts of a line ("Product | Category"), which the recogniser passes over with the spaces around them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

THIN = 0.16  # of the ink's height that a bar is thick at most, or 2 px;
TALL, SOLID = 0.95, 0.9  # and high at least; share of these px that are ink
APART = 0.3  # of it, that a bar is from what is before and after it at least
UPRIGHT = frozenset("|lI1!]")  # may be that themselves

Token = tuple[str, int, int]


def with_bars(
    tokens: list[Token],
    limits: list[float],
    runs: list[tuple[int, int]],
    inked: NDArray[np.bool_],
    ink_height: float,
) -> tuple[list[Token], list[float]]:
    """Words (text, first and last character) and where each begins and ends, with bars that were taken for the end of one or the
    beginning of the next. `runs`: of inked columns, `inked` (h, w)."""
    words, ends = [tokens[0]], list(limits[:2])
    for i, token in enumerate(tokens[1:], start=1):
        before = [r for r in runs if ends[-2] <= r[0] and r[1] <= ends[-1]]
        after = [r for r in runs if limits[2 * i] <= r[0] and r[1] <= limits[2 * i + 1]]
        start, bar = limits[2 * i], None
        if len(before) > 1 and len(after) > 0 and words[-1][0][-1] not in UPRIGHT:
            bar = _bar(before[-2], before[-1], after[0], inked, ink_height)
        if bar is not None:
            ends[-1] = (before[-2][1] + bar[0]) / 2
        elif len(after) > 1 and len(before) > 0 and token[0][0] not in UPRIGHT:
            bar = _bar(before[-1], after[0], after[1], inked, ink_height)
            start = start if bar is None else (bar[1] + after[1][0]) / 2
        if bar is not None:
            words.append(("|", words[-1][2], words[-1][2]))
            ends += [float(bar[0]), float(bar[1])]
        words.append(token)
        ends += [start, limits[2 * i + 1]]
    return words, ends


def _bar(
    left: tuple[int, int],
    run: tuple[int, int],
    right: tuple[int, int],
    inked: NDArray[np.bool_],
    ink_height: float,
) -> tuple[int, int] | None:
    """A run of columns between two others, if it is a bar."""
    a, b = run
    rows = np.flatnonzero(inked[:, a:b].any(axis=1))
    thin = b - a <= max(2.0, THIN * ink_height)
    apart = min(a - left[1], right[0] - b) >= APART * ink_height
    if not thin or not apart or not rows.size or rows[-1] - rows[0] + 1 < TALL * ink_height:
        return None
    return run if inked[rows[0] : rows[-1] + 1, a:b].mean() >= SOLID else None
