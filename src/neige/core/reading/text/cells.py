"""Characters of one width stand on even cells: the gaps round their narrow signs are as wide as spaces, and are none."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from statistics import median

Token = tuple[str, int, int]  # a word, the places of its first and last character
Gap = tuple[float, float]  # px, from the end of ink to the next ink

WINDOW = 6  # steps on either side that tell how wide a cell is,
STEPS = 3  # and how many of them at least
EVEN = 0.22  # of a cell that a step may differ from it: ink is not in the middle of every cell
NEXT = 1.25  # cells from one character's middle to the next one's at most; across a space there are two


def join_cells(
    tokens: Sequence[Token], cuts: Sequence[Gap], runs: Sequence[tuple[int, int]]
) -> tuple[list[Token], list[Gap]]:
    """(words, gaps between them), without the gaps that lie between neighbouring cells.

    `tokens` are words as recognised, `cuts` the gap (px) that each space between two of them claimed, `runs` the columns of ink.
    """
    middles = [_middles(t, runs, cuts, i) for i, t in enumerate(tokens)]
    steps = [[b - a for a, b in itertools.pairwise(m)] for m in middles]
    kept, gaps = [tokens[0]], list[Gap]()
    for i, cut in enumerate(cuts):
        word = tokens[i + 1]
        before, after = (
            [s for m in steps[: i + 1] for s in m][-WINDOW:],
            [s for m in steps[i + 1 :] for s in m][:WINDOW],
        )
        widths = [median(s) for s in (before, after) if len(s) >= STEPS and _even(s)]
        across = middles[i + 1][0] - middles[i][-1] if middles[i] and middles[i + 1] else 0.0
        if across > 0 and any(across <= NEXT * w for w in widths):
            text, start, _ = kept[-1]
            kept[-1] = (text + word[0], start, word[2])
        else:
            kept.append(word)
            gaps.append(cut)
    return kept, gaps


def _middles(token: Token, runs: Sequence[tuple[int, int]], cuts: Sequence[Gap], i: int) -> list[float]:
    """The middles of a word's characters, if each of them has a run of ink of its own."""
    lowest = cuts[i - 1][1] if i else 0.0
    highest = cuts[i][0] if i < len(cuts) else float("inf")
    own = [(a + b) / 2 for a, b in runs if lowest <= a and b <= highest]
    return own if len(own) == len(token[0]) else []


def _even(steps: Sequence[float]) -> bool:
    width = median(steps)
    return all(abs(s - width) <= EVEN * width for s in steps)
