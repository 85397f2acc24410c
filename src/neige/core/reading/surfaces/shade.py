"""What shadows make of surfaces: strips of shade are none, cards under a neighbour's shadow are whole, ground between shadows is ground."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex, pack

STRIP = 14.0  # px: the width of a strip of shade between cards
ALONG = 0.9  # of a card's height that its neighbour's shadow darkens,
DARKER, FALLS = 4.0, 48.0  # by 8-bit steps, and how many px wide at most
FRINGE_SHADE = 14.0  # 8-bit steps by which a neighbour's shadow darkens the edge of the ground at most
LEAST_STRIP, PART = 12.0, 0.5  # px that a card's head is high at least; of the card's height at most
MOSTLY = 0.6  # of its rows that shows its colour
SHADE_GAP = 14.0  # px from such a strip to the cards
SPILL = 2.0  # 8-bit steps that the end of a shadow is off its ground at most,
SPILT = 6.0  # px around what casts it


def join_shade(surfaces: list[Surface]) -> list[Surface]:
    """A card on whose side its neighbour's shadow falls reaches to the end of the strip that this darkens."""
    out = list(surfaces)
    for strip in [s for s in surfaces if s.rect.w <= FALLS and s.rect.h >= 3 * s.rect.w and not s.fill.stops]:
        r = strip.rect
        for n, card in enumerate(out):
            c = card.rect
            shade = np.abs(from_hex(card.fill.colour) - from_hex(strip.fill.colour)).max()
            level = r.y >= c.y - 1 and r.bottom <= c.bottom + 1 and r.h >= ALONG * c.h
            if card is strip or card.fill.stops or any(card.border) or not 0 < shade <= DARKER or not level:
                continue
            if c.x < r.x <= c.right + 1 < r.right or r.x < c.x - 1 <= r.right < c.right:
                whole = edges(min(c.x, r.x), c.y, max(c.right, r.right), c.bottom)
                out[n] = replace(card, rect=whole)
                out = [o for o in out if o is not strip]
                break
    return out


def drop_shade(surfaces: list[Surface]) -> list[Surface]:
    """The narrow flat strip between two cards where their shadows meet is no surface."""

    def between(s: Surface) -> bool:
        if any(s.border) or s.shadow or min(s.rect.w, s.rect.h) > STRIP:
            return False
        r = s.rect
        if r.h >= r.w:
            beside = [
                o.rect for o in surfaces if o is not s and o.rect.y <= r.y and o.rect.bottom >= r.bottom
            ]
            before = any(0 <= r.x - o.right <= SHADE_GAP for o in beside)
            return before and any(0 <= o.x - r.right <= SHADE_GAP for o in beside)
        beside = [o.rect for o in surfaces if o is not s and o.rect.x <= r.x and o.rect.right >= r.right]
        before = any(0 <= r.y - o.bottom <= SHADE_GAP for o in beside)
        return before and any(0 <= o.y - r.bottom <= SHADE_GAP for o in beside)

    return [s for s in surfaces if not between(s)]


def drop_spill(surfaces: list[Surface], background: Fill) -> list[Surface]:
    """What is a step off its ground, all around a surface that has a shadow, is the end of that shadow and no surface."""

    def spilt(s: Surface) -> bool:
        if s.fill.stops or any(s.border) or s.shadow:
            return False
        if not any(
            o.shadow and o.rect.inside(s.rect) and s.rect.inside(o.rect.grow(SPILT)) for o in surfaces
        ):
            return False
        under = [
            o for o in surfaces if o is not s and o.rect.area > s.rect.area and s.rect.inside(o.rect, 0.98)
        ]
        ground = min(under, key=lambda o: o.rect.area).fill if under else background
        off = np.abs(from_hex(s.fill.colour) - from_hex(ground.colour)).max()
        return not ground.stops and bool(off <= SPILL)

    return [s for s in surfaces if not spilt(s)]


def drop_ground(surfaces: list[Surface], background: Fill) -> list[Surface]:
    """The page's own ground between shadows that part it is no surface: in its colour, on nothing of another, without a frame."""

    def ground(s: Surface) -> bool:
        if (
            s.fill.stops
            or background.stops
            or s.fill.colour != background.colour
            or s.shadow
            or s.radius
            or s.picture >= 0
        ):
            return False
        own = from_hex(s.fill.colour)
        framed = sum(bool(b) for b in s.border) > 1 or (
            any(s.border) and np.abs(from_hex(s.border_colour) - own).max() > FRINGE_SHADE
        )
        on = (o for o in surfaces if o is not s and o.rect.area > s.rect.area and s.rect.inside(o.rect, 0.98))
        return not framed and not any(o.fill.colour != s.fill.colour for o in on)

    return [s for s in surfaces if not ground(s)]


def _holds(o: Surface, box: Rect, card: Surface, background: Fill) -> bool:
    """Is a surface in a card, in the page's colour, the whole of a strip whose words parted it?"""
    own = o is not card and o.fill.colour == background.colour and o.rect.inside(card.rect.grow(1), 0.99)
    return own and box.inside(o.rect, 0.98)


def strips_of_ground(
    surfaces: list[Surface], pixels: NDArray[np.uint8], background: Fill, scale: int
) -> list[Surface]:
    """A card's head or foot in the page's own colour, from one side border to the other. Where the card's corners are round it
    runs into the page, so that it is no region by itself."""
    if background.stops:
        return surfaces
    out = list(surfaces)
    ground = int(background.colour[1:], 16)
    for s in surfaces:
        top, right, bottom, left = s.border
        if not (left and right and s.fill.colour) or s.fill.stops or s.fill.colour == background.colour:
            continue
        x0, x1 = round((s.rect.x + left) * scale), round((s.rect.right - right) * scale)
        y0, y1 = round((s.rect.y + top) * scale), round((s.rect.bottom - bottom) * scale)
        x0, y0, x1 = max(0, x0), max(0, y0), min(x1, pixels.shape[1])
        if x1 <= x0 or y1 <= y0 or s.rect.h < 2 * LEAST_STRIP:
            continue
        own = pack(pixels[y0:y1, x0:x1]) == ground
        rows = np.count_nonzero(own, axis=1) >= MOSTLY * (x1 - x0)
        for ends in (rows, rows[::-1]):
            high = int(ends.argmin())
            if not LEAST_STRIP * scale <= high <= PART * len(rows):
                continue
            first = 0 if ends is rows else len(rows) - high
            box = edges(x0 / scale, (y0 + first) / scale, x1 / scale, (y0 + first + high) / scale)
            if not any(box.iou(o.rect) > 0.8 or _holds(o, box, s, background) for o in out):
                out.append(Surface(box, background, confidence=s.confidence))
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))
