"""Cards that lines from side to side cut into head, rows and foot: one area with lines on it. Device px."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Surface
from neige.core.reading.colour import to_hex
from neige.core.reading.surfaces.flat import Region
from neige.core.reading.surfaces.frame import find_border, rings
from neige.core.reading.surfaces.panels import FLUSH, FULL

EDGE = 1  # px by which the sides of a card's parts may differ
LINE = 2  # px at 1x of what cuts them
WIDE = 120.0  # px at 1x from which they are parts of a card: cells and bars are narrower
NEAR = 16.0  # 8-bit steps by which a foot or a striped row is off the card's colour


def pile_up(
    regions: list[Region], pixels: NDArray[np.uint8], background: Fill, page_width: int, scale: int
) -> list[Region]:
    """The regions, with every pile of them that a card's lines part as the card; parts in its own colour are none any more.

    Those that have frames of their own stay apart: they are rows of a list, and `join_stacks` sees what they are in.
    """
    columns: dict[int, list[Region]] = {}
    for r in regions:
        wide = WIDE * scale <= r.x1 - r.x0 < FULL * page_width
        if wide and to_hex(r.colour) != background.colour and not _is_cell(r, regions, scale):
            columns.setdefault(round(r.x0 / (EDGE + 1)), []).append(r)
    out = list(regions)
    done: set[int] = set()
    for key in sorted(columns):
        column = sorted(
            (r for k in (key, key + 1) for r in columns.get(k, []) if id(r) not in done), key=lambda r: r.y0
        )
        for pile in _runs(column, scale):
            card = _card(pile) if len(pile) > 1 else None
            if card is None or all(_is_framed(p, pixels, scale) for p in pile):
                continue
            done |= {id(p) for p in pile}
            own = {id(p) for p in pile if p.colour == card.colour}
            parts = {id(p) for p in pile}
            out = [card, *(replace(p, radius=0.0) if id(p) in parts else p for p in out if id(p) not in own)]
    return out


def _runs(column: list[Region], scale: int) -> list[list[Region]]:
    """Regions under one another, parted where more than a line lies between."""
    out: list[list[Region]] = []
    for r in column:
        if out and _goes_on(out[-1][-1], r, scale):
            out[-1].append(r)
        else:
            out.append([r])
    return out


def _is_cell(r: Region, regions: list[Region], scale: int) -> bool:
    """Does another stand right beside it, level with it and as high?"""
    return any(
        abs(o.y0 - r.y0) <= EDGE
        and abs(o.y1 - r.y1) <= EDGE
        and 0 < max(o.x0 - r.x1, r.x0 - o.x1) <= LINE * scale
        for o in regions
    )


def _is_framed(r: Region, pixels: NDArray[np.uint8], scale: int) -> bool:
    """Are there lines along both sides?"""
    border = find_border(rings(pixels, r, 26 * scale), np.array(r.colour), scale)
    return bool(border.widths[1] and border.widths[3])


def _goes_on(a: Region, b: Region, scale: int) -> bool:
    return abs(a.x0 - b.x0) <= EDGE and abs(a.x1 - b.x1) <= EDGE and 0 < b.y0 - a.y1 <= LINE * scale


def _card(pile: list[Region]) -> Region | None:
    """The card of a pile: two parts at least have its colour, the others nearly have."""
    areas: dict[tuple[float, float, float], int] = {}
    for p in pile:
        areas[p.colour] = areas.get(p.colour, 0) + p.area
    colour = max(areas, key=lambda c: areas[c])
    off = max(float(np.abs(np.array(p.colour) - colour).max()) for p in pile)
    if sum(p.colour == colour for p in pile) < 2 or off > NEAR:
        return None
    first, last = pile[0], pile[-1]
    whole = (last.y1 - first.y0) * (max(p.x1 for p in pile) - min(p.x0 for p in pile))
    return Region(
        min(p.x0 for p in pile), first.y0, max(p.x1 for p in pile), last.y1, max(first.radius, last.radius), colour,
        sum(p.filled * p.area for p in pile if p.colour == colour) / whole,
    )  # fmt: skip


def without_own_shade(surfaces: list[Surface]) -> list[Surface]:
    """Parts of a card that reach from its one side to the other cast no shadow of their own: it is the card's."""

    def part(s: Surface) -> bool:
        return any(
            o is not s
            and o.shadow is not None
            and s.rect.inside(o.rect, 0.98)
            and s.rect.area < o.rect.area
            and abs(s.rect.x - o.rect.x) <= FLUSH
            and abs(s.rect.right - o.rect.right) <= FLUSH
            for o in surfaces
        )

    return [replace(s, shadow=None) if s.shadow is not None and part(s) else s for s in surfaces]
