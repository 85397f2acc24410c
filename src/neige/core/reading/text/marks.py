"""What stands beside a line's words and is none of them: logos, hearts, icons, bullets, the arrows of menus. All in device px."""

from __future__ import annotations

import itertools

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.ink import spans

LETTERS = 3  # runs of ink in a line that may have a logo at its end
LOGO, HIGHER = 20, 1.15  # px of a logo's height; times as high as the rest of the line
HEART, HEARTY = (0.4, 1.3), 0.5  # of the line's height that such a mark is wide, and of its box that it fills
HEART_GAP = 0.24  # of that height, what is on both sides of it
LIVELY = 70.0  # 8-bit steps between its channels, and to the words' colours
SOLID, FILLED = 0.3, 0.62  # of its height a square of it is that has no hole; of its box that it fills
BULLETS = set("•·▪■◦○")  # as they are read
BULLET = 0.45  # of the ink height: a bullet's size at most,
APART = 0.3  # and what it stands off the letters at least
AT_END, BETWEEN = (
    (0.3, 0.12),
    (0.7, 0.25),
)  # of the ink height: an icon's width at a line's ends or in it, and its gap
BEYOND, NEXT = (
    0.42,
    0.75,
)  # of it, what an icon is before a character's middle at least, and the character at most
HALF_WAY = (0.22, 0.72)  # of the ink height that a bullet's middle stands above its lower end


def logos(inked: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The columns at a line's ends that are higher than the rest of it and more solid than any letter: a logo, whatever is cut
    out of it."""
    runs = spans(np.asarray(inked.any(axis=0)))
    if len(runs) < LETTERS:
        return []

    def height(part: NDArray[np.bool_]) -> int:
        rows = np.flatnonzero(part.any(axis=1))
        return int(rows[-1]) + 1 - int(rows[0]) if rows.size else 0

    def solid(run: tuple[int, int], rest: NDArray[np.bool_]) -> bool:
        part = inked[:, run[0] : run[1]]
        tall, wide = height(part), run[1] - run[0]
        if tall < max(LOGO, HIGHER * height(rest)) or part.sum() < FILLED * tall * max(wide, tall):
            return False
        square = np.ones((max(3, int(SOLID * tall)),) * 2, np.uint8)
        return bool(cv2.erode(part.astype(np.uint8), square, borderValue=0).any())

    (_, first), (last, _) = runs[0], runs[-1]
    sides = ((runs[0], inked[:, first:]), (runs[-1], inked[:, :last]))
    return [run for run, rest in sides if solid(run, rest)]


def hearts(crop: NDArray[np.uint8], inked: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The columns of solid marks among a line's words in a lively colour that none of the words has: hearts, stars."""
    runs = spans(np.asarray(inked.any(axis=0)))
    if len(runs) < LETTERS:
        return []
    rows = np.flatnonzero(inked.any(axis=1))
    high = int(rows[-1]) + 1 - int(rows[0])
    colours = [np.median(crop[:, a:b][_core(inked[:, a:b])].astype(np.float64), axis=0) for a, b in runs]
    out = []
    for k in range(1, len(runs)):
        (a, b), colour = runs[k], colours[k]
        if not HEART[0] * high <= b - a <= HEART[1] * high or np.ptp(colour) < LIVELY:
            continue
        part = inked[:, a:b]
        marked = np.flatnonzero(part.any(axis=1))
        box = part[int(marked[0]) : int(marked[-1]) + 1]
        before = a - runs[k - 1][1]
        after = runs[k + 1][0] - b if k + 1 < len(runs) else high
        others = [c for n, c in enumerate(colours) if n != k]
        alone = min(float(np.abs(c - colour).max()) for c in others) > LIVELY
        if alone and box.mean() >= HEARTY and min(before, after) >= HEART_GAP * high:
            out.append((a, b))
    return out


def _core(part: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The middle of strokes, or the strokes where they have none."""
    core = np.asarray(cv2.erode(part.astype(np.uint8), np.ones((3, 3), np.uint8), borderValue=0), bool)
    return core if core.any() else part


def without_icons(
    runs: list[tuple[int, int]], first: float, last: float, ink_height: float, width: float
) -> tuple[float, float]:
    """Where the letters begin and end: an icon before or after them is ink that no recognised character stands for.

    `first`, `last`: the places (px) of the first and last character.
    """
    start = icon_before(runs, first, ink_height, AT_END)
    end = icon_after(runs, last, ink_height, AT_END)
    return 0.0 if start is None else start, width if end is None else end


def icon_before(
    runs: list[tuple[int, int]], first: float, ink_height: float, least: tuple[float, float] = BETWEEN
) -> float | None:
    """Where a word begins behind an icon (None without one): a piece of ink that stands apart and lies before its first character,
    which is at `first`. `least`: of the ink height that it is wide, and that it stands off the next."""
    start = None
    for a, b in itertools.pairwise(runs):
        apart = a[1] < first - BEYOND * ink_height and b[0] - a[1] >= max(2.0, least[1] * ink_height)
        if apart and b[0] > first - NEXT * ink_height - 2 and a[1] - runs[0][0] > least[0] * ink_height:
            start = (a[1] + b[0]) / 2
    return start


def icon_after(
    runs: list[tuple[int, int]], last: float, ink_height: float, least: tuple[float, float] = BETWEEN
) -> float | None:
    """Where a word ends before an icon, the same the other way round; its last character is at `last`."""
    end = icon_before([(-b, -a) for a, b in reversed(runs)], -last, ink_height, least)
    return None if end is None else -end


def ends_in_mark(inked: NDArray[np.bool_], runs: list[tuple[int, int]], ink_height: float) -> bool:
    """Does something low stand well apart after the last letter: the arrow of a menu, which the recogniser passed over?"""
    if len(runs) < 2:
        return False
    a, b = runs[-1]
    tall = np.flatnonzero(inked[:, a:b].any(axis=1))
    apart = a - runs[-2][1] >= max(3.0, 0.22 * ink_height)
    return bool(
        apart and b - a <= 0.9 * ink_height and tall.size and tall[-1] - tall[0] + 1 < 0.45 * ink_height
    )


def begins_with_bullet(inked: NDArray[np.bool_], runs: list[tuple[int, int]], ink_height: float) -> bool:
    """Does a dot stand well apart before the first letter, half-way up, which the recogniser passed over?"""
    if len(runs) < 2:
        return False
    a, b = runs[0]
    tall = np.flatnonzero(inked[:, a:b].any(axis=1))
    if not tall.size:
        return False
    high = int(tall[-1] - tall[0]) + 1
    rows = np.flatnonzero(inked[:, b:].any(axis=1))
    up = (rows[-1] + 1 - (tall[0] + tall[-1] + 1) / 2) / (rows[-1] + 1 - rows[0])
    return bool(
        runs[1][0] - b >= max(3.0, APART * ink_height)
        and 2 <= high <= BULLET * ink_height
        and abs(b - a - high) <= max(1.0, 0.25 * high)
        and HALF_WAY[0] <= up <= HALF_WAY[1]
    )
