"""Sides that are none: a card's thick border found once more as an area of its own, and room taken for a border."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from neige.core.model import Fill, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex

OFF = 1.2  # px
SAME = 3.0  # 8-bit steps


def settle_sides(surfaces: list[Surface], background: Fill) -> list[Surface]:
    """The surfaces without those that are another's border, and without borders in the colour of what is behind them."""
    out = []
    for s in surfaces:
        if any(o is not s and _is_border_of(s, o) for o in surfaces):
            continue
        wide = [n for n in range(4) if s.border[n] > 1]
        if len(wide) == 1 and sum(1 for w in s.border if w) == 1 and not s.accent:
            hosts = [
                o
                for o in surfaces
                if o is not s and s.rect.inside(o.rect, 0.99) and o.rect.area > s.rect.area
            ]
            behind = min(hosts, key=lambda o: o.rect.area).fill if hosts else background
            if not behind.stops and s.border_colour and _alike(behind.colour, s.border_colour):
                top, right, bottom, left = s.border
                r = s.rect
                inner = edges(r.x + left, r.y + top, r.right - right, r.bottom - bottom)
                s = replace(s, rect=inner, border=(0.0, 0.0, 0.0, 0.0), border_colour="")
        out.append(s)
    return out


def _is_border_of(s: Surface, o: Surface) -> bool:
    """Does a thin area cover just one side's border of another surface, in its colour?"""
    a, b = s.rect, o.rect
    if s.fill.stops or any(s.border) or o.rect.area <= s.rect.area:
        return False
    ink = o.accent[2] if o.accent else o.border_colour
    top, right, bottom, left = o.border
    upright = abs(a.y - b.y) <= OFF and abs(a.bottom - b.bottom) <= OFF
    level = abs(a.x - b.x) <= OFF and abs(a.right - b.right) <= OFF
    at = (
        (upright and left > 1 and abs(a.x - b.x) <= OFF and abs(a.w - left) <= OFF)
        or (upright and right > 1 and abs(a.right - b.right) <= OFF and abs(a.w - right) <= OFF)
        or (level and top > 1 and abs(a.y - b.y) <= OFF and abs(a.h - top) <= OFF)
        or (level and bottom > 1 and abs(a.bottom - b.bottom) <= OFF and abs(a.h - bottom) <= OFF)
    )
    return at and bool(ink) and _alike(s.fill.colour, ink)


def _alike(a: str, b: str) -> bool:
    return float(np.abs(from_hex(a) - from_hex(b)).max()) <= SAME
