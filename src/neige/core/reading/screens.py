"""Pictures of pages on a page: text that was made smaller with the picture, which no browser draws so, in several sizes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from neige.core.model import Line, Rect, Surface, TypeStyle
from neige.core.model.geometry import union

TINY = 9.4  # px: nobody sets text smaller, but for a note
SMALL = 12.8  # px: shrunk text is hardly larger,
BLURRED = (0.05, 3.0)  # and this much of it, and times what the page's other text does, no face explains
FEWEST, STYLES = 8, 3  # shrunk lines of a picture of a page, and the sizes and inks they come in
SET_SO = 4  # lines drawn well that say that the page's own text has this type
MOSTLY = 0.55  # of the lines in it that are shrunk
NEAR = 70.0  # px between the lines of one picture
HEADLINE = 130.0  # px that a headline takes between two groups of them,
LEVEL = 0.5  # and of the narrower group that is under the other
WIDE = 0.95  # of the page's width: a band of the page is no picture
LARGE = (160.0, 90.0)  # px of the least picture


def find_screens(
    lines: Sequence[Line], styles: Sequence[TypeStyle], surfaces: Sequence[Surface], width: float
) -> list[Rect]:
    """The places (CSS px) of screenshots within a page `width` px wide."""
    usual = sorted(n.residual for n in lines if styles[n.style].size > SMALL)
    blurred = max(BLURRED[0], BLURRED[1] * usual[len(usual) // 2] if usual else 0.0)
    look = {id(n): (styles[n.style].family, styles[n.style].size) for n in lines}
    sharp = Counter(look[id(n)] for n in lines if n.residual < blurred)
    shrunk = {
        id(n)
        for n in lines
        if (size := styles[n.style].size) < TINY
        or (size < SMALL and n.residual >= blurred and sharp[look[id(n)]] < SET_SO)
    }
    small = [n for n in lines if id(n) in shrunk]
    if len(small) < FEWEST:
        return []
    parts = [s.rect for s in surfaces if s.rect.w < WIDE * width and _is_screen(s.rect, lines, shrunk)]
    # those without a frame: all that the boxes of their lines take
    for part in _across(_clusters(small), lines, shrunk):
        place = union(n.ink for n in part)
        own = [
            s.rect
            for s in surfaces
            if s.rect.meet(place)
            and s.rect.w < WIDE * width
            and _share(s.rect, lines, shrunk) >= MOSTLY
            and not _beyond(s.rect, place, lines, shrunk)
        ]
        parts.append(union([place, *own]))
    out: list[Rect] = []
    for place in sorted((p for p in parts if _is_screen(p, lines, shrunk)), key=lambda r: -r.area):
        near = next((i for i, o in enumerate(out) if o.grow(NEAR / 2).meet(place)), None)
        if near is None:
            out.append(place)
        elif not place.inside(out[near], 0.5) and _is_screen(union([out[near], place]), lines, shrunk):
            out[near] = union([out[near], place])
    return out


def _is_screen(r: Rect, lines: Sequence[Line], shrunk: set[int]) -> bool:
    """Are the lines in a box mostly shrunk, many, in several styles, and the others among them?"""
    if r.w < LARGE[0] or r.h < LARGE[1]:
        return False
    part = [n for n in lines if id(n) in shrunk and n.ink.inside(r, 0.7)]
    return (
        len(part) >= FEWEST
        and len({n.style for n in part}) >= STYLES
        and _share(r, lines, shrunk) >= MOSTLY
        and not _beyond(r, union(n.ink for n in part), lines, shrunk)
    )


def _beyond(r: Rect, place: Rect, lines: Sequence[Line], shrunk: set[int]) -> bool:
    """Are there lines in a box far from the shrunk ones, which are not?"""
    near = place.grow(NEAR)
    return any(n.ink.inside(r, 0.7) and id(n) not in shrunk and not n.ink.meet(near) for n in lines)


def _clusters(lines: Sequence[Line]) -> list[list[Line]]:
    """Lines near each other, together."""
    parts: list[list[Line]] = []
    for line in lines:
        reach = line.ink.grow(NEAR)
        near = [p for p in parts if any(reach.meet(o.ink) for o in p)]
        parts = [p for p in parts if not any(p is n for n in near)]
        parts.append([line, *(o for p in near for o in p)])
    return parts


def _across(parts: list[list[Line]], lines: Sequence[Line], shrunk: set[int]) -> list[list[Line]]:
    """Groups under one another, put together where only a headline of the same picture stands between them."""
    out: list[list[Line]] = []
    for part in sorted(parts, key=lambda p: min(n.ink.y for n in p)):
        own = union(n.ink for n in part)
        for o in out:
            above = union(n.ink for n in o)
            level = min(own.right, above.right) - max(own.x, above.x)
            both = union([own, above])
            near = level >= LEVEL * min(own.w, above.w) and own.y - above.bottom <= HEADLINE
            if near and _share(both, lines, shrunk) >= MOSTLY and len(part) + len(o) >= FEWEST:
                o += part
                break
        else:
            out.append(list(part))
    return out


def _share(r: Rect, lines: Sequence[Line], shrunk: set[int]) -> float:
    """The share of the lines in a box that are shrunk."""
    inside = [id(n) in shrunk for n in lines if n.ink.inside(r, 0.7)]
    return sum(inside) / len(inside) if inside else 1.0
