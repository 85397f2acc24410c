"""Thin straight lines with free ends. Device px in, CSS px out."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Rect, Rule
from neige.core.reading.colour import apart, to_hex

MAX_THICK = 4  # px at 1x
MIN_LONG = 24  # px at 1x
PRESSED = 100  # px at 1x that a line pressed into its ground, dark over light as browsers draw it, is long
STEP = 5  # 8-bit steps between a line and both its sides


def find_rules(pixels: NDArray[np.uint8], scale: int) -> list[Rule]:
    """Horizontal and vertical lines of one colour, at most MAX_THICK thick, that differ from the ground on both sides."""
    out = [
        Rule(Rect(x / scale, y / scale, w / scale, h / scale), c) for x, y, w, h, c in _along(pixels, scale)
    ]
    turned = np.ascontiguousarray(pixels.transpose(1, 0, 2))
    out += [
        Rule(Rect(y / scale, x / scale, h / scale, w / scale), c) for x, y, w, h, c in _along(turned, scale)
    ]
    return sorted(out, key=lambda r: (r.rect.y, r.rect.x))


def _along(pixels: NDArray[np.uint8], scale: int) -> list[tuple[int, int, int, int, str]]:
    height, width = pixels.shape[:2]
    found: list[tuple[int, int, int, int, str]] = []
    same_x = np.zeros((height, width), bool)
    same_x[:, 1:] = apart(pixels[:, 1:], pixels[:, :-1]) <= 1
    same_x[:, 0] = same_x[:, 1]
    taken = np.zeros((height, width), bool)
    step = apart(pixels[1:], pixels[:-1])  # between rows y and y + 1
    sharp, same_y = step >= STEP, step <= 2
    for thick in range(1, MAX_THICK * scale + 1):
        if height < thick + 2:
            break
        n = height - thick - 1
        line = sharp[:n] & sharp[thick : thick + n] & same_x[1 : n + 1]
        for k in range(1, thick):
            line &= same_y[k : k + n]
        least = MIN_LONG * scale | 1
        some, row_of = _rows_with(line, least)
        if not row_of.size:
            continue
        long = cv2.morphologyEx(some, cv2.MORPH_OPEN, np.ones((1, least), np.uint8))
        count, _, stats, _ = cv2.connectedComponentsWithStats(long, connectivity=4)
        for x, at, w, h, _area in stats[1:count]:
            y = row_of[at]
            if h == 2 and thick == 1 and w >= PRESSED * scale and _alike(pixels, y, y + 3, x, w):
                y += int(step[y, x + w // 2] < step[y + 2, x + w // 2])  # the darker one
            elif h != 1:
                continue
            if taken[y + 1, x + w // 2]:
                continue
            colour = np.median(pixels[y + 1 + thick // 2, x : x + w], axis=0)
            x = x - 1 if x > 0 else x
            taken[y + 1 : y + 1 + thick, x : x + w + 1] = True
            found.append((int(x), int(y) + 1, int(w) + 1, thick, to_hex(colour)))
    return found


def _rows_with(line: NDArray[np.bool_], least: int) -> tuple[NDArray[np.uint8], NDArray[np.int64]]:
    """(the rows of a mask in which so many px are set, an empty one between those that do not touch; which row each was)."""
    rows = np.flatnonzero(np.count_nonzero(line, axis=1) >= least)
    at = np.arange(rows.size) + np.concatenate([[0], np.cumsum(np.diff(rows) > 1)])[: rows.size]
    row_of = np.full(int(at[-1]) + 1 if rows.size else 0, -1)
    row_of[at] = rows
    some = np.zeros((row_of.size, line.shape[1]), np.uint8)
    some[at] = line[rows]
    return some, row_of


def _alike(pixels: NDArray[np.uint8], above: int, below: int, x: int, w: int) -> bool:
    """Is the ground above a pair of lines that below it?"""
    return bool(apart(pixels[above, x : x + w][None], pixels[below, x : x + w][None]).max() <= 2)
