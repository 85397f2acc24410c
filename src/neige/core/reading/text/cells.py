"""Characters of one width stand on even cells: the gaps round their narrow signs are as wide as spaces, and are none.

The whole line is in cells, or, in a line of prose, a few words of it that a full stop or a hyphen seems to part."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from statistics import median

import numpy as np

Token = tuple[str, int, int]  # a word, the places of its first and last character
Gap = tuple[float, float]  # px, from the end of ink to the next ink

LEAST = 5  # characters that tell whether a line is in cells; of a few words of it, one more
KNOWN = 0.8  # of a line's characters that have ink of their own
OFF = 0.15  # of a cell that the middle of a character's ink may be off its middle at most,
ON_AVERAGE = 0.07  # and on average
SIGNS = set(".,:;-_=/\\|()[]{}<>'\"`~*+!?#$&")  # one of which stands at such a gap


JOINTS = set(".-_/()[]{}=")  # that stand inside a word of code, without the marks that end words of prose


def join_cells(
    tokens: Sequence[Token], cuts: Sequence[Gap], runs: Sequence[tuple[int, int]]
) -> tuple[list[Token], list[Gap]]:
    """(words, gaps between them), without the gaps that lie between neighbouring cells.

    `tokens` are words as recognised, `cuts` the gap (px) that each space between two of them claimed, `runs` the columns of ink.
    """
    middles = [_middles(t, runs, cuts, i) for i, t in enumerate(tokens)]
    known = sum(len(m) for m in middles) >= KNOWN * sum(len(t[0]) for t in tokens)
    line = _cells(middles) if known else [[] for _ in tokens]
    kept, gaps = [tokens[0]], list[Gap]()
    for i, cut in enumerate(cuts):
        before, word = tokens[i][0], tokens[i + 1]
        sign = before[-1] in SIGNS or word[0][0] in SIGNS
        joint = before[-1] in JOINTS and (word[0][0].islower() or word[0][0] in JOINTS)
        near = (
            [range(max(0, k), min(len(tokens), k + n)) for k, n in ((i, 2), (i, 3), (i - 1, 3))]
            if joint
            else []
        )
        if (sign and _neighbours(line, i)) or any(
            _neighbours(_cells(middles[w.start : w.stop], LEAST + 1), i - w.start) for w in near
        ):
            text, start, _ = kept[-1]
            kept[-1] = (text + word[0], start, word[2])
        else:
            kept.append(word)
            gaps.append(cut)
    return kept, gaps


def _neighbours(cells: Sequence[Sequence[int]], i: int) -> bool:
    """Does the word after the `i`th begin in the cell next to its last one?"""
    return bool(cells[i] and cells[i + 1] and cells[i + 1][0] - cells[i][-1] == 1)


def _middles(token: Token, runs: Sequence[tuple[int, int]], cuts: Sequence[Gap], i: int) -> list[float]:
    """The middles of a word's characters, if each of them has a run of ink of its own."""
    lowest = cuts[i - 1][1] if i else 0.0
    highest = cuts[i][0] if i < len(cuts) else float("inf")
    own = [(a + b) / 2 for a, b in runs if lowest <= a and b <= highest]
    return own if len(own) == len(token[0]) else []


def _cells(words: Sequence[Sequence[float]], least: int = LEAST) -> list[list[int]]:
    """For every word the cells that its characters (their middles, px) are in; none, if the line is not in cells of one width."""
    none: list[list[int]] = [[] for _ in words]
    steps = [b - a for word in words for a, b in itertools.pairwise(word)]
    x = [m for word in words for m in word]
    if len(x) < least or not steps:
        return none
    width = median(steps)
    cells = np.cumsum([0, *(max(1, round((b - a) / width)) for a, b in itertools.pairwise(x))])
    width, start = np.polyfit(cells, x, 1)
    off = np.abs(np.asarray(x) - start - width * cells) / width
    if off.max() > OFF or off.mean() > ON_AVERAGE:
        return none
    left = iter(int(c) for c in cells)
    return [[next(left) for _ in word] for word in words]
