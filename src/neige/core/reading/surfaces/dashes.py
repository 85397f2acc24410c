"""Dashed borders: runs of like dashes along four sides that close a frame. Device px in here, CSS px out.

A dash is a small solid rectangle; rectangles of one thickness at even distances along one line are a dashed side, and four
such sides a frame. How long the dashes are is the drawing program's choice, so only their rhythm is looked at.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Surface
from neige.core.reading.colour import to_hex, unpack
from neige.core.reading.surfaces.flat import Specks, rounded_mask
from neige.core.reading.surfaces.remains import device_slices

THICK = 4  # px at 1x: a thicker dash is something else
LONG = 18  # px at 1x
FEWEST = 4  # dashes of a side
INK = 24  # 8-bit steps: an anti-aliased dash at a corner
SAME = 0.93  # IoU of a surface with the dashed frame round it
RADII = (0, 2, 4, 6, 8, 10, 12, 14, 16, 20, 24, 28, 32)  # px at 1x that are tried

Side = tuple[int, int, int, int, int]  # line (y or x), first, last along it, thickness, packed colour


def dashed_frames(pixels: NDArray[np.uint8], specks: Specks, scale: int) -> list[Surface]:
    """Surfaces whose four sides are dashed."""
    level = _sides(specks, scale)
    plumb = _sides(specks[:, [1, 0, 3, 2, 4]], scale)
    out: list[Surface] = []
    for i, top in enumerate(level):
        for bottom in level[i + 1 :]:
            frame = _frame(top, bottom, plumb, scale)
            if frame is None:
                continue
            x0, y0, x1, y1 = frame
            thick, colour = top[3], unpack(top[4])
            part = pixels[y0:y1, x0:x1]
            ink = np.abs(part.astype(np.int16) - colour).max(axis=2) <= INK
            inner = part[thick + 2 : -thick - 2, thick + 2 : -thick - 2].reshape(-1, 3)
            out.append(
                Surface(
                    Rect(x0 / scale, y0 / scale, (x1 - x0) / scale, (y1 - y0) / scale),
                    Fill(to_hex(np.median(inner, axis=0))),
                    _radius(ink, thick, scale),
                    (thick / scale,) * 4,
                    to_hex(colour),
                    border_style="dashed",
                )
            )
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
