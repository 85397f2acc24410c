"""The tinted end of a button, where its icon stands: the button goes on beneath it, to the outer edge that both share."""

from __future__ import annotations

from dataclasses import replace

from neige.core.model import Rect, Surface
from neige.core.model.geometry import edges
from neige.core.reading.surfaces.sides import OFF, alike

HIGHEST = 80.0  # px: what is higher is no button
CORNER = 2.5  # px beyond the tint's radius that its button may begin inside it


def lay_under(surfaces: list[Surface]) -> list[Surface]:
    """The surfaces with those that begin inside a tint of their own height moved to where the tint begins; a line round the tint
    in the button's colour is the button's, not the tint's."""
    out = list(surfaces)
    for n, whole in enumerate(out):
        for m, end in enumerate(out):
            side = _side(end, whole) if end is not whole else 0
            if not side:
                continue
            a, b = end.rect, out[n].rect
            box = edges(min(a.x, b.x), b.y, max(a.right, b.right), b.bottom)
            own, its = whole.corners or (whole.radius,) * 4, end.corners or (end.radius,) * 4
            corners = (its[0], own[1], own[2], its[3]) if side < 0 else (own[0], its[1], its[2], own[3])
            out[n] = replace(
                whole, rect=box, corners=None if len(set(corners)) == 1 else corners, radius=max(corners)
            )
            if any(end.border):
                top, right, bottom, left = end.border
                inner = edges(a.x + left, a.y + top, a.right - right, a.bottom - bottom)
                out[m] = replace(
                    end, rect=inner, border=(0.0,) * 4, border_colour="", corners=None, radius=0.0
                )
            break
    return out


def _side(end: Surface, whole: Surface) -> int:
    """-1 or 1: `end` is the tinted left or right end of `whole`; 0: it is not."""
    a, b = end.rect, whole.rect
    if (
        b.h > HIGHEST
        or abs(a.y - b.y) > OFF
        or abs(a.bottom - b.bottom) > OFF
        or a.w >= b.w
        or any(whole.border)
    ):
        return 0
    if any(end.border) and not alike(end.border_colour, whole.fill.colour):
        return 0
    reach = end.radius + CORNER

    def within(outer: float, begins: float, far: Rect) -> bool:
        return 0 < outer <= reach and begins < min(far.right, a.right)

    if within(b.x - a.x, b.x, b) and b.right > a.right + OFF:
        return -1
    return 1 if within(a.right - b.right, a.x, b) and b.x < a.x - OFF else 0
