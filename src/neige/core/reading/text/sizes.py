"""What the heights of a word's letters tell: its first one's case, and where another size begins within it, as of a figure and
its unit ("1.24M"), or of a price and the one before it ("$49$65").

Such parts stand closer than words do, so no space is read between them. Capitals, figures and tall letters of one size are about
as high as each other, and the letters without a stem as high as X_HEIGHT of that."""

from __future__ import annotations

import itertools
from bisect import bisect_left
from collections.abc import Sequence
from statistics import median

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import oklab

LOW = set("acemnorsuvwxz")
X_HEIGHT = 0.73  # of the height of capitals, about
TALL = set("bdfhkl$€£%&")
ALIKE = 1.22  # times as high one letter of a size may be as another, by its kind
OTHER, LEAST = 1.3, 3.0  # times as high, and px at least, that letters of another size are
SAME_SHAPE = set("cosuvwxz")
STEMS = set("bdhkl")
CAPITALS = 2  # in a word, from which others are told,
AS_HIGH = 0.9  # which are so much of their height at least
MOSTLY = 0.5  # of a word's letters that are capitals, if any small one may be
TOLD, CLEAR = (
    10.0,
    0.7,
)  # px of small letters that tell; share of the difference to tall ones that a capital is higher
LEVEL = 0.06  # of the greater height by which the smaller may reach beyond the other

INK = 0.16  # OKLab between two letters' purest inks that are of two colours
THIN = 3  # px of a run of ink that is never pure
BESIDE = 24.0  # 8-bit steps that its colour is beside the way from the ground to the other's at most

Gap = tuple[int, int]  # px, from the end of ink to the next ink


def size_gaps(
    token: tuple[str, int, int],
    places: Sequence[float],
    runs: Sequence[tuple[int, int]],
    inked: NDArray[np.bool_],
) -> list[Gap]:
    """The gaps in a word (its text, the places of its first and last letter) at which its letters change their size.

    `places`: px of each letter's middle in the crop; `runs`: columns of ink; `inked`: (h, w)."""
    word, start, _ = token
    if len(word) < 2 or not any(c.isdigit() for c in word):
        return []
    inks, joined = _inks(token, places, runs)
    talls = [_is_tall(c) for c in word]
    groups: list[list[tuple[int, float, int, int]]] = []  # (place, height as of a capital, top, bottom)
    for at, (c, tall, (a, b)) in enumerate(zip(word, talls, inks)):
        if (not tall and c not in LOW) or (a, b) in joined:
            continue
        rows = np.flatnonzero(inked[:, a:b].any(axis=1))
        high = float(rows[-1] + 1 - rows[0]) / (1.0 if tall else X_HEIGHT)
        letter = (at, high, int(rows[0]), int(rows[-1]) + 1)
        usual = median(h for _, h, _, _ in groups[-1]) if groups else 0.0
        if groups and max(usual, high) <= max(ALIKE * min(usual, high), min(usual, high) + 1.5):
            groups[-1].append(letter)
        else:
            groups.append([letter])
    return [g for a, b in itertools.pairwise(groups) if (g := _gap(word, start, a, b, places, runs))]


def right_case(
    token: tuple[str, int, int],
    places: Sequence[float],
    runs: Sequence[tuple[int, int]],
    inked: NDArray[np.bool_],
) -> str:
    """A word whose capitals of the same shape as their small letters (C and c) were read as small ones.

    Its first letter is one if it is as high as the tall letters after it, or as much higher than the low ones as they are; any other
    if it is as high as the word's capitals."""
    word, start, _ = token
    if len(word) < 3 or not LOW & set(word):
        return word
    inks, joined = _inks(token, places, runs)
    highs = [
        0.0 if i in joined else float(np.ptp(np.flatnonzero(inked[:, i[0] : i[1]].any(axis=1)))) + 1
        for i in inks
    ]
    capitals = [h for c, h in zip(word, highs) if c.isupper() and h]
    if len(capitals) >= CAPITALS:
        level = AS_HIGH * median(capitals)
        others = SAME_SHAPE if len(capitals) < MOSTLY * len(word) else LOW
        large = [c in others and h >= level for c, h in zip(word, highs)]
        return "".join(c.upper() if up else c for c, up in zip(word, large))
    first = inks[0]
    if (
        not highs[0]
        or word[0] not in SAME_SHAPE
        or not first[0] <= places[start] <= first[1] < places[start + 1]
    ):
        return word
    low = [h for c, h in zip(word[1:], highs[1:]) if c in LOW and h]
    tall = [h for c, h in zip(word[1:], highs[1:]) if c in STEMS and h]
    if not low:
        return word
    small = median(low)
    most = median(tall) if tall else small / X_HEIGHT
    capital = small >= TOLD and highs[0] - small > CLEAR * (most - small)
    return word[0].upper() + word[1:] if capital else word


def _is_tall(c: str) -> bool:
    return c.isdigit() or c.isupper() or c in TALL


def _inks(
    token: tuple[str, int, int], places: Sequence[float], runs: Sequence[tuple[int, int]]
) -> tuple[list[tuple[int, int]], set[tuple[int, int]]]:
    """(the run of ink of each letter of a word, the runs that several have whose heights differ)."""
    word, start, end = token
    inks = [_run_at(x, runs) for x in places[start : end + 1]]
    pairs = zip(inks, inks[1:], word, word[1:])
    return inks, {a for a, b, c, d in pairs if a == b and not (_is_tall(c) and _is_tall(d))}


def _run_at(x: float, runs: Sequence[tuple[int, int]]) -> tuple[int, int]:
    """The run, of some in their order, that holds a place or is nearest to it."""
    k = bisect_left(runs, x, key=lambda r: r[1])
    return min(runs[max(0, k - 1) : k + 1], key=lambda r: max(r[0] - x, x - r[1], 0.0))


def ink_gaps(
    first: float,
    last: float,
    runs: Sequence[tuple[int, int]],
    crop: NDArray[np.uint8],
    ground: NDArray[np.float64],
    least: float,
) -> list[Gap]:
    """The gaps of at least `least` px between a word's first and last letter (px) at which its ink changes its colour: what is
    before and after stands as far apart as words do."""
    return [
        (a[1], b[0])
        for a, b in itertools.pairwise(runs)
        if first < (a[1] + b[0]) / 2 < last and b[0] - a[1] >= least and _other_ink(crop, a, b, ground)
    ]


def _other_ink(
    crop: NDArray[np.uint8], a: tuple[int, int], b: tuple[int, int], ground: NDArray[np.float64]
) -> bool:
    """Are two runs of ink of two colours? One of a few px (a quote) is never pure: it may be the other's, let through."""
    one, other = _purest(crop, a, ground), _purest(crop, b, ground)
    if np.linalg.norm(oklab(one) - oklab(other)) <= INK:
        return False
    (pale, width), (full, _) = sorted(
        ((one, a[1] - a[0]), (other, b[1] - b[0])), key=lambda x: float(np.abs(x[0] - ground).max())
    )
    way = full - ground
    share = float((pale - ground) @ way) / max(1.0, float(way @ way))
    return width > THIN or float(np.abs(pale - ground - share * way).max()) > BESIDE


def _purest(
    crop: NDArray[np.uint8], run: tuple[int, int], ground: NDArray[np.float64]
) -> NDArray[np.float64]:
    """The colour (0..255) of the pixels of a run of ink that are farthest from the ground."""
    pixels = crop[:, run[0] : run[1]].reshape(-1, 3).astype(np.float64)
    away = np.abs(pixels - ground).max(axis=1)
    return np.asarray(np.median(pixels[away >= 0.9 * away.max()], axis=0))


def _gap(
    word: str,
    start: int,
    a: Sequence[tuple[int, float, int, int]],
    b: Sequence[tuple[int, float, int, int]],
    places: Sequence[float],
    runs: Sequence[tuple[int, int]],
) -> Gap | None:
    """The gap between two groups of letters, if they are of two sizes and one is no higher or lower than the other."""
    high, low = (median(n[1] for n in g) for g in (a, b))
    if max(high, low) < max(OTHER * min(high, low), min(high, low) + LEAST):
        return None
    if not any(word[n[0]].isalnum() for n in (a if high > low else b)):
        return None  # signs are higher than figures in many faces
    before, after = a[-1][0], b[0][0]
    if _kind(word[before]) == _kind(word[after]):
        return None
    reach = LEVEL * max(high, low) + 1
    (_, _, top, bottom), (_, _, small_top, small_bottom) = (a[-1], b[0]) if high > low else (b[0], a[-1])
    if small_top < top - reach or small_bottom > bottom + reach:
        return None
    between = [
        (p[1], q[0])
        for p, q in itertools.pairwise(runs)
        if places[start + before] < (p[1] + q[0]) / 2 < places[start + after]
    ]
    return max(between, key=lambda g: g[1] - g[0], default=None)


def _kind(c: str) -> str:
    return "digit" if c.isdigit() else "letter" if c.isalpha() else "sign"
