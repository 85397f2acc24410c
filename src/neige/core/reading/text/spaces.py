"""Where the spaces of a line lie: which gap of its ink each recognised space is, which are none, and which were passed over.

A token is a word with the places of its first and last character in the spelling. All in device px."""

from __future__ import annotations

import itertools
import re

from neige.core.reading.text.cells import Gap, Token
from neige.core.reading.text.marks import APART, BULLETS
from neige.core.reading.text.recognise import Spelling

AWAY = 0.1  # px of width that a gap loses for each px that it stands off its space
QUOTES = set("'\"`’‘“”()[]{}")
TELLING_GAPS = 3  # spaces in a line that tell how wide one is,
SLIGHT = 0.6  # and of that a gap that is none
NARROW = 0.35  # of the ink height that a bracket is wide at most
LONE = set("|/·–—+=&»›")  # signs that stand between words
LONE_GAP = 0.24  # of the ink height, what is on both sides of them
VALUE = re.compile(r"[$€£]?\d")


def find_spaces(
    spelling: Spelling,
    width: int,
    gaps: list[tuple[int, int]],
    runs: list[tuple[int, int]],
    ink_height: float,
) -> tuple[Spelling, list[Token], list[Gap]]:
    """(the spelling without spaces that are none, its tokens, the gap that each space between two of them claims).

    `width`: of the crop; `runs`: columns of ink, `gaps` what is between them."""
    tokens, cuts = _tokens(spelling, width, gaps, ink_height)
    none = _no_spaces(tokens, cuts, runs, NARROW * ink_height)
    if none:
        spelling = spelling.only([i for i in range(len(spelling.text)) if i not in none])
        tokens, cuts = _tokens(spelling, width, gaps, ink_height)
    return spelling, tokens, cuts


def _tokens(
    spelling: Spelling, width: int, gaps: list[tuple[int, int]], ink_height: float
) -> tuple[list[Token], list[Gap]]:
    """(words with the places of their first and last character, the gap (px) that each space between two of them claims)."""
    tokens = [(m.group(), m.start(), m.end() - 1) for m in re.finditer(r"\S+", spelling.text)]
    places, first = spelling.places, tokens[0][0]
    if first[0] in BULLETS and len(first) > 1 and gaps and gaps[0][1] - gaps[0][0] >= APART * ink_height:
        word, start, end = tokens[0]  # read into the first word
        tokens[:1] = [(word[0], start, start), (word[1:], start + 1, end)]
    spaces = [
        (places[end] * width, places[start] * width)
        for (_, _, end), (_, start, _) in itertools.pairwise(tokens)
    ]
    return tokens, _claim(spaces, gaps, ink_height)


def _claim(
    spaces: list[tuple[float, float]], gaps: list[tuple[int, int]], ink_height: float
) -> list[tuple[float, float]]:
    """The ink gap of each recognised space, left to right and none twice: the widest together. A space without one gets its middle.

    `spaces`: places (px) of the letters before and after each. Chosen one by one, a one-letter word's two spaces would claim the
    wider gap both, and the word between them would be lost.
    """
    best: list[tuple[float, tuple[tuple[float, float], ...]]] = [
        (0.0, ())
    ]  # (sum of widths, cuts) so far, by where it ends
    for lo, hi in spaces:
        middle = (lo + hi) / 2
        choices: list[tuple[float, tuple[float, float]]] = [(0.0, (middle, middle))]
        for g in gaps:
            if g[1] > lo - 1 and g[0] < hi + 1 and g[1] - g[0] >= 1:
                width = min(g[1], hi + ink_height) - max(g[0], lo - ink_height)
                choices.append((width - AWAY * abs((g[0] + g[1]) / 2 - middle), (float(g[0]), float(g[1]))))
        following = []
        for width, cut in choices:
            # a cut begins where ink lies between it and the one before
            before = [
                b
                for b in best
                if not b[1] or b[1][-1][1] < cut[0] or (b[1][-1][1] <= cut[0] and cut[0] == cut[1])
            ]
            if before:
                total, chain = max(before, key=lambda b: b[0])
                following.append((total + width, (*chain, cut)))
        best = following or [(b[0], (*b[1], (max(middle, b[1][-1][1]),) * 2)) for b in best]
    return list(max(best, key=lambda b: b[0])[1])


def _no_spaces(
    tokens: list[Token],
    cuts: list[Gap],
    runs: list[tuple[int, int]],
    narrow: float,
) -> list[int]:
    """The places of spaces that the room around a sign in characters of one width was taken for.

    One read between a name and its empty brackets has claimed the gap inside these if that is wider than the one before them; one
    beside a quote or a bracket, a gap that is far narrower than the line's others."""
    out: list[int] = []
    wide = [b - a for a, b in cuts]
    usual = sorted(wide)[len(wide) // 2] if len(wide) >= TELLING_GAPS else 0.0
    for cut, gap, (before, after) in zip(cuts, wide, itertools.pairwise(tokens)):
        beside = [b - a for a, b in runs if b == cut[0] or a == cut[1]]
        call = after[0].startswith("()") and len(beside) == 2 and max(beside) <= narrow
        quoted = before[0][-1] in QUOTES or after[0][0] in QUOTES
        if call or (quoted and gap < SLIGHT * usual):
            out += range(before[2] + 1, after[1])
    return out


def lone_signs(
    token: Token, places: list[float], runs: list[tuple[int, int]], ink_height: float
) -> list[tuple[int, Gap, Gap]]:
    """Signs in a token that stand as far from what is before and after them as words do: (place in the text, gap before, gap
    after) each. The recogniser often drops the spaces beside them."""
    word, start, end = token
    out: list[tuple[int, Gap, Gap]] = []
    for at in range(start, end + 1):
        if word[at - start] not in LONE or start == end:
            continue
        if at == start and VALUE.match(word[1:]):
            continue  # its own sign
        i = min(range(len(runs)), key=lambda k: abs((runs[k][0] + runs[k][1]) / 2 - places[at]))
        if not 0 < i < len(runs) - 1:
            continue
        before, after = (runs[i - 1][1], runs[i][0]), (runs[i][1], runs[i + 1][0])
        inside = [
            b[0] - a[1]
            for k, (a, b) in enumerate(itertools.pairwise(runs))
            if places[start] < a[1] < places[end] and k not in (i - 1, i)
        ]
        letters = sorted(inside)[(len(inside) - 1) // 2] if inside else 0
        room = [b - a for a, b in (before, after)[at == start : 1 + (at < end)]]
        if min(room) >= max(LONE_GAP * ink_height, 2 * letters):
            out.append((at, before, after))
    return out
