"""Icons in a column beside words: each mark has a size of its own, but they are drawn in boxes of one size at one place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from statistics import median

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Line, Rect, TypeStyle
from neige.core.reading.colour import away_from, from_hex
from neige.core.reading.type.lost import ink_of

COLUMN = 3  # icons that make one
LARGEST = 40.0  # px
ROOM = (2.0, 28.0)  # px between an icon and its words
LEVEL = 6.0  # px that their middles may differ by
STRAIGHT = 1.6  # px by which the middles of a column's icons, and where their words begin, may differ
DOT, TURNED = 9.0, 0.35  # px; of its mean ink by which a dot's differs from itself turned by a quarter
LIKE = 1.6  # times the smallest icon that the largest may be


def box_columns(
    cutouts: Sequence[Cutout],
    lines: Sequence[Line],
    styles: Sequence[TypeStyle],
    pixels: NDArray[np.uint8],
    scale: int,
) -> list[Cutout]:
    """The cutouts; icons that stand in a column before words of one size get one box, as far before and above them."""
    beside = {i: line for i, c in enumerate(cutouts) if (line := _words_of(c, lines)) is not None}
    out = list(cutouts)
    for column in _columns(cutouts, beside, styles):
        sides = [max(cutouts[i].rect.w, cutouts[i].rect.h) for i in column]
        side = max(sides)
        if side > LIKE * min(sides):
            continue
        middle = median(cutouts[i].rect.cx for i in column)
        above = median(beside[i].baseline - cutouts[i].rect.cy for i in column)
        for i in column:
            box = Rect(
                float(round(middle - side / 2)),
                float(round(beside[i].baseline - above - side / 2)),
                side,
                side,
            )
            blocked = box.right > beside[i].ink.x or any(
                box.meet(o.rect) > 0 for k, o in enumerate(cutouts) if k != i and not o.backdrop
            )
            if not blocked and ink_of(cutouts[i], pixels, scale).rect.inside(box, 0.999):
                out[i] = replace(cutouts[i], rect=box)
    return out


def tell_dots(cutouts: Sequence[Cutout], pixels: NDArray[np.uint8], scale: int) -> list[Cutout]:
    """The cutouts, small ones that are dots, rings or squares marked as such."""
    return [replace(c, dot=True) if c.kind == "icon" and _is_dot(c, pixels, scale) else c for c in cutouts]


def _is_dot(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> bool:
    r = ink_of(c, pixels, scale).rect
    if max(r.w, r.h) > DOT or abs(r.w - r.h) > 1.0:
        return False
    side = round(max(r.w, r.h) * scale)
    x0, y0 = round(r.x * scale), round(r.y * scale)
    part = pixels[y0 : y0 + side, x0 : x0 + side].astype(np.float64)
    if side < 1 or part.shape[:2] != (side, side):
        return False
    ink = away_from(part, from_hex(c.ground))
    ink /= max(float(ink.max()), 1.0)
    return float(np.abs(ink - np.rot90(ink)).mean()) <= TURNED * max(float(ink.mean()), 1e-6)


def _words_of(c: Cutout, lines: Sequence[Line]) -> Line | None:
    """The line that an icon stands right before."""
    r = c.rect
    if c.kind != "icon" or c.backdrop or max(r.w, r.h) > LARGEST:
        return None
    near = [n for n in lines if ROOM[0] <= n.ink.x - r.right <= ROOM[1] and abs(n.ink.cy - r.cy) <= LEVEL]
    return min(near, key=lambda n: n.ink.x, default=None)


def _columns(
    cutouts: Sequence[Cutout], beside: dict[int, Line], styles: Sequence[TypeStyle]
) -> list[list[int]]:
    columns: list[list[int]] = []
    for i in sorted(beside, key=lambda i: cutouts[i].rect.y):
        line, size = beside[i], styles[beside[i].style].size
        for column in columns:
            first = column[0]
            straight = abs(cutouts[first].rect.cx - cutouts[i].rect.cx) <= STRAIGHT
            begins = abs(beside[first].box.x - line.box.x) <= STRAIGHT
            if straight and begins and styles[beside[first].style].size == size:
                column.append(i)
                break
        else:
            columns.append([i])
    return [c for c in columns if sum(cutouts[i].rect.w == cutouts[i].rect.h for i in c) >= COLUMN]
