"""Stars of a rating ("★★★★☆"), which are read as asterisks, if at all: as high as the letters beside them, full or hollow."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

READ = set("*★☆✩✭")  # as they are read
FULL, HOLLOW = "★", "☆"
HIGH, LEAST = 0.62, 7  # of the letters' height beside it; px: an asterisk is less
SQUARE = 1.35  # times as wide as high, or as high as wide, at most
CORE = 0.55  # of the middle of a full one that is inked at least
SEVERAL, LARGE = 3, 11  # and px high: they tell themselves, without letters


def ends_stars(word: str, at: int) -> bool:
    """Does a word turn from stars into something else, or into stars, before its letter `at`?"""
    return (word[at - 1] in READ) != (word[at] in READ)


def spell_stars(word: str, cover: NDArray[np.float32], ink_height: float, alone: bool) -> str:
    """A word of asterisks, in stars if its ink is: `cover` (h, w), 0..1; `alone`: nothing else is in the line."""
    if set(word) - READ:
        return word
    _, _, stats, _ = cv2.connectedComponentsWithStats((cover > 0.2).astype(np.uint8), connectivity=8)
    boxes = sorted((int(x), int(y), int(w), int(h)) for x, y, w, h, _ in stats[1:] if max(w, h) > 2)
    if not boxes or (alone and len(boxes) < SEVERAL):
        return word
    least = LARGE if alone else max(LEAST, HIGH * ink_height)
    if any(max(w, h) > SQUARE * min(w, h) or h < least for _, _, w, h in boxes):
        return word
    out = ""
    for x, y, w, h in boxes:
        core = cover[y + h // 3 : y + h - h // 3, x + w // 3 : x + w - w // 3]
        out += FULL if core.size and core.mean() >= CORE else HOLLOW
    return out
