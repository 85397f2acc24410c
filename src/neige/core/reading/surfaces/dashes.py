"""Dashed and dotted borders: runs of like dashes along four sides that close a frame. Device px in here, CSS px out.

A dash is a small solid rectangle; rectangles of one thickness at even distances along one line are a dashed side, and four
such sides a frame. How long the dashes are is the drawing program's choice, so only their rhythm is looked at. The dots of a
line one px thick are px in its colour and in its ground's by turns; thicker ones are round, and no line that can be told here.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Rule, Surface
from neige.core.reading.colour import away_from, pack, to_hex, unpack
from neige.core.reading.surfaces.flat import Specks
from neige.core.reading.surfaces.rectangles import rounded_mask
from neige.core.reading.surfaces.remains import device_slices

THICK = 4  # px at 1x: a thicker dash is something else
LONG = 18  # px at 1x
FEWEST = 4  # dashes of a side
SEEN = 12.0  # 8-bit steps of dots from their ground: what differs less is a gradient, dithered
DOTTED = 25  # px that a dotted line is long at least
INK = 24  # 8-bit steps: an anti-aliased dash at a corner
SAME = 0.93  # IoU of a surface with the dashed frame round it
RADII = (0, 2, 4, 6, 8, 10, 12, 14, 16, 20, 24, 28, 32)  # px at 1x that are tried

Side = tuple[int, int, int, int, int]  # line (y or x), first, last along it, thickness, packed colour


def dashed_frames(pixels: NDArray[np.uint8], specks: Specks, scale: int) -> list[Surface]:
    """Surfaces whose four sides are dashed."""
    level, plumb = _sides(specks, scale), _sides(specks[:, [1, 0, 3, 2, 4]], scale)
    return [s for s, *_ in _frames(pixels, level, plumb, scale, "dashed")]


def dotted_lines(pixels: NDArray[np.uint8], scale: int) -> tuple[list[Surface], list[Rule]]:
    """(surfaces whose four sides are dotted, the dotted lines that are no side of one)."""
    level, plumb = _dotted(pixels), _dotted(np.ascontiguousarray(pixels.transpose(1, 0, 2)))
    found = _frames(pixels, level, plumb, scale, "dotted")
    sides = {side for _, top, bottom in found for side in (top, bottom)}
    rules = [
        Rule(Rect(x0 / scale, y / scale, (x1 - x0) / scale, 1 / scale), to_hex(unpack(colour)), "dotted")
        for y, x0, x1, _, colour in level
        if (y, x0, x1, 1, colour) not in sides
    ]
    return [s for s, *_ in found], rules


def _dotted(pixels: NDArray[np.uint8]) -> list[Side]:
    """Level lines, one px thick, of px that have one colour and the ground's by turns."""
    packed = pack(pixels)
    if min(packed.shape) < 4:
        return []
    out: list[Side] = []
    by_turns = (packed[:, :-2] == packed[:, 2:]) & (packed[:, :-2] != packed[:, 1:-1])
    for y in np.flatnonzero(np.count_nonzero(by_turns, axis=1) >= DOTTED - 2).tolist():
        if not 0 < y < len(packed) - 1:
            continue
        row, above, below = packed[y], packed[y - 1], packed[y + 1]
        # one px and the next but one alike, and the one between them as the px above and below
        plain = (above[:-2] == row[1:-1]) & (above[1:-1] == row[1:-1]) & (below[:-2] == row[1:-1])
        dots = np.flatnonzero(by_turns[y] & plain)
        for run in np.split(dots, np.flatnonzero(np.diff(dots) != 2) + 1):
            seen = np.abs(unpack(int(row[run[0]])) - unpack(int(row[run[0] + 1]))).max() if len(run) else 0.0
            if 2 * len(run) < DOTTED or seen < SEEN:
                continue
            colour, first, last = int(row[run[0]]), int(run[0]), int(run[-1]) + 3
            while first and int(row[first - 1]) == colour:  # corners are full
                first -= 1
            while last < len(row) and int(row[last]) == colour:
                last += 1
            out.append((y, first, last, 1, colour))
    # rows of dots under each other are a pattern
    rows = {y: [s for s in out if s[0] == y] for y in {s[0] for s in out}}
    near = {s: [o for d in (-2, 2) for o in rows.get(s[0] + d, [])] for s in out}
    return [s for s in out if not any(o[1] < s[2] and s[1] < o[2] for o in near[s])]


def _frames(
    pixels: NDArray[np.uint8], level: list[Side], plumb: list[Side], scale: int, style: str
) -> list[tuple[Surface, Side, Side]]:
    """Surfaces with such sides, each with its upper and its lower one."""
    out: list[tuple[Surface, Side, Side]] = []
    for i, top in enumerate(level):
        for bottom in level[i + 1 :]:
            frame = _frame(top, bottom, plumb, scale)
            if frame is None:
                continue
            x0, y0, x1, y1 = frame
            thick, colour = top[3], unpack(top[4])
            part = pixels[y0:y1, x0:x1]
            ink = away_from(part, colour) <= INK
            inner = part[thick + 2 : -thick - 2, thick + 2 : -thick - 2].reshape(-1, 3)
            surface = Surface(
                Rect(x0 / scale, y0 / scale, (x1 - x0) / scale, (y1 - y0) / scale),
                Fill(to_hex(np.median(inner, axis=0))),
                _radius(ink, thick, scale),
                (thick / scale,) * 4,
                to_hex(colour),
                border_style=style,
            )
            out.append((surface, top, bottom))
    return out


def put_dashed(surfaces: list[Surface], dashed: list[Surface]) -> list[Surface]:
    """Surfaces with the dashed frames on those that were found without, or added."""
    out = [s for s in surfaces if not any(s.rect.iou(d.rect) > SAME for d in dashed)]
    return sorted(out + dashed, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def frame_of(surface: Surface, shape: tuple[int, int], scale: int) -> NDArray[np.bool_]:
    """(H, W): where a dashed border is drawn, dashes and gaps."""
    out = np.zeros(shape, bool)
    rows, columns = device_slices(surface.rect, scale)
    thick = round(max(surface.border) * scale) + 2
    part = out[rows, columns]
    h, w = part.shape
    part |= _band(h, w, surface.radius * scale, thick)
    return out


def _sides(specks: Specks, scale: int) -> list[Side]:
    """Level runs of evenly spaced dashes, by line."""
    lines: dict[tuple[int, int, int], list[tuple[int, int]]] = {}
    fit = (specks[:, 3] <= THICK * scale) & (specks[:, 2] <= LONG * scale) & (specks[:, 2] >= specks[:, 3])
    specks = specks[fit]
    alike = (specks[:, 1] * 64 + specks[:, 3]) << 24 | specks[:, 4]
    _, which, counts = np.unique(alike, return_inverse=True, return_counts=True)
    for x, y, w, h, colour in specks[counts[which] >= FEWEST].tolist():
        lines.setdefault((y, h, colour), []).append((x, w))
    out: list[Side] = []
    for (y, h, colour), found in lines.items():
        if len(found) < FEWEST:
            continue
        found.sort()
        middles = [x + w / 2 for x, w in found]
        pitch = float(np.median(np.diff(middles)))
        if not h < pitch <= 2 * LONG * scale:
            continue
        first = 0
        for i in range(1, len(found) + 1):
            off = (middles[i] - middles[i - 1]) / pitch if i < len(found) else 9.0
            if (
                off < 2.3 and abs(off - round(off)) * pitch <= 1.2 * scale
            ):  # one dash may have lost its own colour
                continue
            if i - first >= FEWEST:
                out.append((y, found[first][0], sum(found[i - 1]), h, colour))
            first = i
    return sorted(out)


def _frame(top: Side, bottom: Side, plumb: list[Side], scale: int) -> tuple[int, int, int, int] | None:
    """x0, y0, x1, y1 of the frame two level sides make with two plumb ones between them."""
    slack = (max(RADII) + LONG) * scale
    if top[3:] != bottom[3:] or abs(top[1] - bottom[1]) > slack or abs(top[2] - bottom[2]) > slack:
        return None
    y0, y1 = top[0], bottom[0] + bottom[3]
    fit = [
        s
        for s in plumb
        if s[3:] == top[3:]
        and abs(s[1] - y0) <= slack
        and abs(s[2] - y1) <= slack
        and s[1] >= y0 - 1
        and s[2] <= y1 + 1
    ]
    left = [s for s in fit if -1 <= top[1] - s[0] <= slack]
    right = [s for s in fit if -1 <= s[0] + s[3] - top[2] <= slack]
    if not left or not right:
        return None
    x0, x1 = max(s[0] for s in left), min(s[0] + s[3] for s in right)
    return (x0, y0, x1, y1) if x1 - x0 > 2 * LONG * scale else None


def _band(h: int, w: int, radius: float, thick: int) -> NDArray[np.bool_]:
    """(h, w): a frame of that thickness."""
    out: NDArray[np.bool_] = rounded_mask(h, w, radius) > 0.2
    inner = rounded_mask(h - 2 * thick, w - 2 * thick, max(0.0, radius - thick)) > 0.5
    out[thick : h - thick, thick : w - thick] &= ~inner
    return out


def _radius(ink: NDArray[np.bool_], thick: int, scale: int) -> float:
    """The radius (CSS px) whose drawn corners hold most of the ink at the corners, and least of the bare ground."""
    h, w = ink.shape
    n = min((max(RADII) + 2) * scale, h // 2, w // 2)
    corners = np.zeros((h, w), bool)
    corners[:n, :n] = corners[:n, -n:] = corners[-n:, :n] = corners[-n:, -n:] = True
    held = []
    for r in RADII:
        if r * scale <= n:
            band = _band(h, w, r * scale, thick)
            held.append(float((ink & corners & band).sum() - 2 * (ink & corners & ~band).sum()))
    return float(RADII[int(np.argmax(held))])
