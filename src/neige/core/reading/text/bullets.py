"""Bullets that the detector passed over: a dot, ring or square in the text's ink half-way up before the first word, and more under it."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.detect import Box
from neige.core.reading.text.raw import RawLine, around

BEFORE = (0.35, 2.2)  # of the line's ink height that a bullet stands before it
SIZE = (0.16, 0.55)  # of that height
RING = (0.3, 0.66)  # the same, of a ring; of its box that it fills at least
SQUARE, SOLID = 0.3, 0.6  # of its size by which it may be longer than wide; of its box that it fills
CORNERS = 5  # px that a square is wide whose corners can be told from a disc's
MIDDLE = (0.28, 0.72)  # of the ink's height, from above
INK = 60.0  # 8-bit steps by which its colour may differ from the line's
GREY = 30.0  # 8-bit steps between the channels of a bullet in another ink than the line's: a coloured dot tells a state
COVER = 0.4  # of the way from the ground to that colour from which a pixel is inked
COLUMN = 1.5  # px at 1x by which the bullets of a list stand elsewhere
LEAST = 2  # in a column
OPENING = "\"'“‘«([{<-@$/."  # and more after it: a name, an option of a command
SQUARES, ROUND, DOTS = "■▪", "oO0°", "•·●"


def read_bullets(lines: list[RawLine], pixels: NDArray[np.uint8], scale: int) -> list[RawLine]:
    """The lines, with the bullets before them. `pixels`: device px (h, w, 3)."""
    lines = [_without_square(line) for line in lines]
    found = {n: dot for n, line in enumerate(lines) if (dot := _bullet(line, lines, pixels)) is not None}
    seen = [n.words[0].box for n in lines if len(n.words) > 1 and n.words[0].text in DOTS]  # as a word
    rings = [box for box, mark in found.values() if mark == "◦"]
    out = [_without_ring(line, rings, scale) for line in lines]
    for n, (box, mark) in found.items():
        line = lines[n]
        column = [
            m
            for m, (o, other) in found.items()
            if other == mark
            and abs((o[0] + o[2]) / 2 - (box[0] + box[2]) / 2) <= COLUMN * scale
            and abs(lines[m].box[0] - line.box[0]) <= 3 * COLUMN * scale
        ]
        beside = [o for o in seen if abs((o[0] + o[2]) / 2 - (box[0] + box[2]) / 2) <= COLUMN * scale]
        if len(column) + (len(beside) if mark == DOTS[0] else 0) >= LEAST:
            out[n] = replace(line, bullet=box, mark=mark)
    return out


def _without_square(line: RawLine) -> RawLine:
    """A line whose bullet was read as a square letter, which few faces have, with that as its bullet."""
    if len(line.words) < 2 or line.words[0].text not in SQUARES:
        return line
    box, rest = line.words[0].box, line.words[1:]
    x0, y0, x1, y1 = around([w.box for w in rest])
    w, h = box[2] - box[0], box[3] - box[1]
    if max(w, h) > SIZE[1] * (y1 - y0) or abs(w - h) > max(1.0, SQUARE * h):
        return line
    return replace(line, words=rest, box=(x0, y0, x1, y1), bullet=box, mark="▪")


def _without_ring(line: RawLine, rings: list[Box], scale: int) -> RawLine:
    """A line whose bullet was read as a round letter, over or under a ring that was not, with that as its bullet."""
    if len(line.words) < 2 or line.words[0].text not in ROUND:
        return line
    box, rest = line.words[0].box, line.words[1:]
    if not any(abs(box[0] - r[0]) + abs(box[2] - r[2]) <= 2 * COLUMN * scale for r in rings):
        return line
    return replace(line, words=rest, box=around([w.box for w in rest]), bullet=box, mark="◦")


def _bullet(line: RawLine, lines: list[RawLine], pixels: NDArray[np.uint8]) -> tuple[Box, str] | None:
    """The box of the dot before a line, and what it is, if there is one and nothing else."""
    x0, y0, _, y1 = line.box
    h = y1 - y0
    first = line.words[0].text
    begins = first[:1].isalnum() or (len(first) > 1 and first[0] in OPENING)
    if not line.flat or line.pictured or not begins or h < 6:
        return None
    a, b = max(0, int(x0 - BEFORE[1] * h)), int(x0 - BEFORE[0] * h)
    top, bottom = max(0, int(y0)), min(pixels.shape[0], int(np.ceil(y1)))
    if b - a < 4:
        return None
    colour = np.array(line.words[0].colour)
    way = colour - line.ground
    crop = pixels[top:bottom, a:b].astype(np.float64) - line.ground
    cover = (crop @ way) / max(1.0, float(way @ way))
    inked = (away_from(crop, 0.0) > 0.5 * COVER * np.abs(way).max()).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(inked, connectivity=8)
    if count != 2:
        return None
    x, y, w, high, area = (int(v) for v in stats[1][:5])
    middle = (y + high / 2) / (bottom - top)
    part = cover[y : y + high, x : x + w]
    ring = bool(part[high // 2, w // 2] < COVER) and area >= RING[0] * w * high
    square = min(w, high) >= CORNERS and float(part[[0, 0, -1, -1], [0, -1, 0, -1]].min()) > 2 * COVER
    mark = "◦" if ring else "▪" if square else "•"
    dot = (
        SIZE[0] * h <= max(w, high) <= (RING[1] if ring else SIZE[1]) * h
        and abs(w - high) <= max(1.0, SQUARE * high)
        and (ring or area >= SOLID * w * high)
        and MIDDLE[0] <= middle <= MIDDLE[1]
        and x > 0
    )
    own = pixels[top:bottom, a:b][(labels == 1) & (cover > 2 * COVER)]
    if not dot or not own.size:
        return None
    ink = np.median(own, axis=0)
    if np.abs(ink - colour).max() > INK and np.ptp(ink) > GREY:  # a link has another ink than its bullet
        return None
    box = (float(a + x), float(top + y), float(a + x + w), float(top + y + high))
    alone = not any(
        o.box[2] > a and o.box[0] < b and o.box[1] < y1 and o.box[3] > y0 for o in lines if o is not line
    )
    return (box, mark) if alone else None
