"""Cards put together from what shows of them: head, body and foot, frames whose picture hides the fill, partly covered panels."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Rect, Rule, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces.panels import FLUSH, FULL

SHADED = 6.0  # px that a card's shadow adds to a picture cut at its edge
FRAME = 60.0  # px from which an upright line may be a card's side
WHOLE = (
    0.93  # confidence of an area that is its own colour nearly all over: it is in front of what straddles it
)
SIDE_PANEL, PANEL_HIGH = 420.0, 400.0  # px: a panel at the page's side is no wider, and at least as high
LARGE = 20_000.0  # px² from which a plain area may be a flat part of a picture
LINE_OFF = 6.0  # 8-bit steps between the side lines of one card
ROWS = 4  # so many areas on top of each other are rows
WIDE = 32.0  # px of blur that the shadow of a card of rows has at most
SAME_FILL = 2  # 8-bit steps between the colours of pieces of one fill
CELL = 120.0  # px that a table's cell is high for each of its rows at most


def join_stacks(surfaces: list[Surface], page_width: float) -> list[Surface]:
    """Regions piled up with the same left and right edge are the head, body and foot of one card: give them that card.

    Evidence: the same side borders, or a radius or shadow at the pile's outer ends only.
    """
    out = list(surfaces)
    groups: dict[tuple[int, int], list[Surface]] = {}
    spanned = _spanned(surfaces)
    for s in surfaces:
        if (
            s.rect.w < page_width * FULL
            and id(s) not in spanned
            and not any(beside(s.rect, o.rect) for o in surfaces)
        ):
            groups.setdefault((round(s.rect.x), round(s.rect.right)), []).append(s)
    for members in groups.values():
        members.sort(key=lambda s: s.rect.y)
        pile: list[Surface] = []
        for s in members:
            below = pile and -1.6 <= s.rect.y - pile[-1].rect.bottom <= 1.6 and _same_frame(pile[-1], s)
            if not below and len(pile) > 1:
                _replace_pile(out, pile)
            pile = [*pile, s] if below else [s]
        if len(pile) > 1:
            _replace_pile(out, pile)
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def join_alike(surfaces: list[Surface]) -> list[Surface]:
    """Boxes that abut with the same two sides in line, in colours that cannot be told apart, are one: a rasteriser may round a
    translucent fill otherwise from one tile to the next."""
    out = sorted(surfaces, key=lambda s: (s.rect.y, s.rect.x))
    n = 0
    while n < len(out):
        a = out[n]
        other = next((b for b in out if b is not a and _one_fill(a, b)), None)
        if other is None:
            n += 1
            continue
        r, q = a.rect, other.rect
        whole = edges(min(r.x, q.x), min(r.y, q.y), max(r.right, q.right), max(r.bottom, q.bottom))
        larger = a if r.area >= q.area else other
        shadow = a.shadow or other.shadow
        joined = replace(larger, rect=whole, radius=max(a.radius, other.radius), corners=None, shadow=shadow)
        out = [joined if s is a else s for s in out if s is not other]
        n = 0
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def _one_fill(a: Surface, b: Surface) -> bool:
    if a.fill.stops or b.fill.stops or a.fill.colour == b.fill.colour or any(a.border) or any(b.border):
        return False
    r, q = a.rect, b.rect
    level = abs(r.y - q.y) <= 1 and abs(r.h - q.h) <= 1 and abs(r.right - q.x) <= 1
    if not level:
        return False
    return all(
        abs(int(a.fill.colour[i : i + 2], 16) - int(b.fill.colour[i : i + 2], 16)) <= SAME_FILL
        for i in (1, 3, 5)
    )


def drop_straddled(surfaces: list[Surface], page_width: float) -> list[Surface]:
    """A plain area that a framed or filled card straddles is a flat part of a picture behind it, not a surface of the layout.

    Bands from side to side, or beside a panel at the page's side, stay: a card may well reach over the end of one. So does what
    is whole: it lies on the other.
    """
    panels = [
        s.rect
        for s in surfaces
        if s.rect.w <= SIDE_PANEL
        and s.rect.h >= PANEL_HIGH
        and (s.rect.x < 1 or s.rect.right > page_width - 1)
    ]
    first = max((r.right for r in panels if r.x < 1), default=0.0)
    last = min((r.x for r in panels if r.x >= 1), default=page_width)

    def is_band(r: Rect) -> bool:
        return r.w > FULL * page_width or (r.x <= first + 1 and r.right >= last - 1)

    def straddles(a: Surface, b: Surface) -> bool:
        r, o = a.rect, b.rect
        w, h = min(r.right, o.right) - max(r.x, o.x), min(r.bottom, o.bottom) - max(r.y, o.y)
        share = max(0.0, w) * max(0.0, h) / max(r.area, 1.0)
        return r.area < o.area and r.area > LARGE and 0.15 < share < 0.85

    return [
        b
        for b in surfaces
        if any(b.border)
        or b.shadow
        or b.confidence >= WHOLE
        or is_band(b.rect)
        or not any(straddles(a, b) for a in surfaces)
    ]


def beside(a: Rect, b: Rect) -> bool:
    """True for neighbouring cells of one row: they touch, and have the same top and height."""
    same_row = abs(a.y - b.y) <= 1.5 and abs(a.h - b.h) <= 1.5
    return same_row and min(abs(a.right - b.x), abs(b.right - a.x)) <= 2.5


def _spanned(surfaces: list[Surface]) -> set[int]:
    """Cells (by id()) that take several rows, and those in these rows: framed all round, low, and together as high as the first."""
    framed = [s for s in surfaces if all(s.border)]
    out: set[int] = set()
    for s in framed:
        r = s.rect
        within = [
            o
            for o in framed
            if o is not s and o.rect.h <= CELL and o.rect.y >= r.y - 1.5 and o.rect.bottom <= r.bottom + 1.5
        ]
        for rows in (
            [o for o in within if abs(o.rect.x - r.right) <= 2.5],
            [o for o in within if abs(r.x - o.rect.right) <= 2.5],
        ):
            if len(rows) > 1 and abs(sum(o.rect.h for o in rows) - r.h) <= 2.5 * len(rows):
                out |= {id(s), *(id(o) for o in rows)}
    return out


def _same_frame(a: Surface, b: Surface) -> bool:
    framed = (
        a.border[1]
        and a.border[3]
        and b.border[1]
        and b.border[3]
        and _near(a.border_colour, b.border_colour)
    )
    soft = a.shadow is not None and b.shadow is not None
    hood = any(
        p.border[1] and p.border[3] and p.border_colour == q.fill.colour and not any(q.border)
        for p, q in ((a, b), (b, a))
    )  # a head in the colour of the card's border
    return bool(framed or soft or hood)


def _shared_shadow(pile: list[Surface]) -> Shadow | None:
    """The shadow of a pile's ends; what looks like a wide one along many rows is the next row."""
    shadows = [s.shadow for s in (pile[-1], pile[0]) if s.shadow]
    return next((s for s in shadows if s.blur <= WIDE or len(pile) < ROWS), None)


def _near(a: str, b: str) -> bool:
    """Two colours that differ by no more than a line does that shines through a little."""
    return a == b or bool(a and b and float(np.abs(from_hex(a) - from_hex(b)).max()) <= LINE_OFF)


def _replace_pile(out: list[Surface], pile: list[Surface]) -> None:
    first, last = pile[0], pile[-1]
    rect = edges(first.rect.x, first.rect.y, first.rect.right, last.rect.bottom)
    body = max(pile, key=lambda s: s.rect.area)
    framed = next((s for s in pile if s.border[1] and s.border[3]), first)
    sides = framed.border[3]
    hood = any(s.fill.colour == framed.border_colour and not any(s.border) for s in (first, last))
    border = (
        (sides, sides, sides, sides)
        if hood
        else (first.border[0], first.border[1], last.border[2], first.border[3])
    )
    radius = max(first.radius, last.radius) if first.radius or last.radius else 0.0
    out.append(
        Surface(
            rect,
            body.fill,
            radius,
            border,
            framed.border_colour,
            _shared_shadow(pile),
            body.confidence,
        )
    )
    for i, s in enumerate(pile):
        out.remove(s)
        if s is body and s.fill == body.fill and i == len(pile) - 1:
            continue  # the body is the card itself
        inner = edges(
            rect.x + border[3],
            max(s.rect.y, rect.y + border[0]) + (0 if i == 0 else s.border[0]),
            rect.right - border[1],
            s.rect.bottom if i < len(pile) - 1 else s.rect.bottom - border[2],
        )
        below = s.border[2] if i < len(pile) - 1 else 0.0
        out.append(
            replace(
                s,
                rect=inner,
                radius=0.0,
                border=(0.0, 0.0, below, 0.0),
                border_colour=s.border_colour if below else "",
                shadow=None,
            )
        )


def extend_to_images(
    surfaces: list[Surface], cutouts: list[Cutout], width: float
) -> tuple[list[Surface], list[Cutout]]:
    """A card whose picture fills its top (or bottom, or side) from edge to edge begins with the picture, not beside it.

    A picture that stands out by no more than the card's shadow is cut at the card's edges. A picture under a band as wide as
    the page (`width` px) is a band of its own.
    """
    out, cut = [], list(cutouts)
    for s in surfaces:
        if s.rect.x <= FLUSH and s.rect.right >= width - FLUSH:
            out.append(s)
            continue
        inner = edges(
            s.rect.x + s.border[3],
            s.rect.y + s.border[0],
            s.rect.right - s.border[1],
            s.rect.bottom - s.border[2],
        )
        near = SHADED if s.shadow else FLUSH
        for n, c in enumerate(cut):
            if c.kind != "image":
                continue
            r = c.rect
            if not c.backdrop and abs(r.x - inner.x) <= near and abs(r.right - inner.right) <= near:
                if abs(inner.y - r.bottom) <= FLUSH:
                    s = replace(
                        s,
                        rect=edges(s.rect.x, r.y - s.border[3], s.rect.right, s.rect.bottom),
                        border=(s.border[3], *s.border[1:]),
                    )
                    cut[n] = replace(c, rect=edges(inner.x, r.y, inner.right, r.bottom))
                elif abs(r.y - inner.bottom) <= FLUSH:
                    s = replace(
                        s,
                        rect=edges(s.rect.x, s.rect.y, s.rect.right, r.bottom + s.border[3]),
                        border=(s.border[0], s.border[1], s.border[3], s.border[3]),
                    )
                    cut[n] = replace(c, rect=edges(inner.x, r.y, inner.right, r.bottom))
            if abs(r.y - inner.y) <= FLUSH and abs(r.bottom - inner.bottom) <= FLUSH:
                if abs(inner.x - r.right) <= FLUSH:
                    s = replace(s, rect=edges(r.x - s.border[3], s.rect.y, s.rect.right, s.rect.bottom))
                elif abs(r.x - inner.right) <= FLUSH:
                    s = replace(s, rect=edges(s.rect.x, s.rect.y, r.right + s.border[1], s.rect.bottom))
        out.append(s)
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), cut


def join_sides(surfaces: list[Surface]) -> list[Surface]:
    """Two areas side by side in one frame (a card and the plain picture at its side) get the card they share."""
    out = list(surfaces)
    for a in surfaces:
        for b in surfaces:
            level = abs(a.rect.y - b.rect.y) <= 1.5 and abs(a.rect.bottom - b.rect.bottom) <= 1.5
            framed = (
                a.border[0] and a.border[2] and a.border[3] and b.border[0] and b.border[2] and b.border[1]
            )
            open_between = not a.border[1] and not b.border[3]
            if (
                level and framed and open_between and abs(a.rect.right - b.rect.x) <= 1.5
                and a.border_colour == b.border_colour and a.fill != b.fill and a in out and b in out
            ):  # fmt: skip
                wide, other = (a, b) if a.rect.w >= b.rect.w else (b, a)
                rect = edges(a.rect.x, a.rect.y, b.rect.right, a.rect.bottom)
                border = (a.border[0], b.border[1], a.border[2], a.border[3])
                out.remove(a)
                out.remove(b)
                out.append(replace(wide, rect=rect, border=border, shadow=a.shadow or b.shadow))
                top, foot = rect.y + border[0], rect.bottom - border[2]
                box = edges(
                    rect.x + border[3] if other is a else other.rect.x, top,
                    rect.right - border[1] if other is b else other.rect.right, foot,
                )  # fmt: skip
                out.append(
                    replace(
                        other,
                        rect=box,
                        border=(0.0, 0.0, 0.0, 0.0),
                        border_colour="",
                        radius=0.0,
                        shadow=None,
                    )
                )
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def accent_sides(surfaces: list[Surface], rules: list[Rule]) -> tuple[list[Surface], list[Rule]]:
    """A coloured line along one whole side of a card is that side's border."""
    left = [r for r in rules if min(r.rect.w, r.rect.h) >= 2]
    thin = [r for r in rules if min(r.rect.w, r.rect.h) < 2]
    out = []
    for s in surfaces:
        for r in list(left) if s.rect.w >= FRAME else []:
            line = r.rect
            upright = line.h >= line.w
            thick, length = min(line.w, line.h), max(line.w, line.h)
            side = s.rect.h if upright else s.rect.w
            slack = 2 * s.radius + 3
            if s.accent is not None or not side - slack - 2 <= length <= side + 2:
                continue
            if upright and abs(line.cy - s.rect.cy) <= slack / 2 + 1:
                if abs(line.right - s.rect.x) <= 1.5:
                    s = replace(
                        s,
                        rect=edges(line.x, s.rect.y, s.rect.right, s.rect.bottom),
                        border=(*s.border[:3], thick),
                        accent=(3, thick, r.colour),
                    )
                elif abs(line.x - s.rect.right) <= 1.5:
                    s = replace(
                        s,
                        rect=edges(s.rect.x, s.rect.y, line.right, s.rect.bottom),
                        border=(s.border[0], thick, *s.border[2:]),
                        accent=(1, thick, r.colour),
                    )
                else:
                    continue
                left.remove(r)
            elif (
                not upright
                and abs(line.cx - s.rect.cx) <= slack / 2 + 1
                and abs(line.bottom - s.rect.y) <= 1.5
            ):
                s = replace(
                    s,
                    rect=edges(s.rect.x, line.y, s.rect.right, s.rect.bottom),
                    border=(thick, *s.border[1:]),
                    accent=(0, thick, r.colour),
                )
                left.remove(r)
        out.append(s)
    return out, sorted(thin + left, key=lambda r: (r.rect.y, r.rect.x))


def fit_in(surfaces: list[Surface]) -> list[Surface]:
    """The head or foot of a card has, at the card's corners, the card's radius less its border."""
    out = []
    for s in surfaces:
        host = next((h for h in surfaces if h is not s and h.radius and _flush_corners(s, h)), None)
        if host is not None:
            r = host.corners or (host.radius,) * 4
            at = _flush_corners(s, host)
            inner = max(0.0, max(r) - max(host.border))
            corners = tuple(max(0.0, r[i] - max(host.border)) if i in at else 0.0 for i in range(4))
            s = replace(s, radius=inner, corners=(corners[0], corners[1], corners[2], corners[3]))
        out.append(s)
    return out


def _flush_corners(s: Surface, host: Surface) -> tuple[int, ...]:
    """Which corners of `s` lie in the corners of `host`; it must fill the host's width."""
    a, b = s.rect, host.rect
    if abs(a.x - b.x - host.border[3]) > 1.2 or abs(b.right - host.border[1] - a.right) > 1.2:
        return ()
    top = abs(a.y - b.y - host.border[0]) <= 1.2
    low = abs(b.bottom - host.border[2] - a.bottom) <= 1.2
    if a.h >= b.h - 2:
        return ()
    return (0, 1) if top else (2, 3) if low else ()


def pool_alike(surfaces: list[Surface]) -> list[Surface]:
    """Boxes of one size in a row or a column are the same component: what most of them have, all have.

    A shadow lost against a neighbour's, a corner hidden by a picture.
    """
    groups: dict[tuple[int, int, int, int], list[int]] = {}
    for i, s in enumerate(surfaces):
        if s.rect.area > LARGE / 4:
            size = (round(s.rect.w / 2), round(s.rect.h / 2))
            groups.setdefault((*size, 0, round(s.rect.y / 2)), []).append(i)
            groups.setdefault((*size, 1, round(s.rect.x / 2)), []).append(i)
    out = list(surfaces)
    for members in groups.values():
        if len(members) < 3:
            continue
        shadows = [s.shadow for i in members if (s := out[i]).shadow is not None]
        radii = sorted(out[i].radius for i in members)
        usual = radii[len(radii) // 2]
        for i in members:
            s = out[i]
            if s.shadow is None and 2 * len(shadows) > len(members):
                s = replace(s, shadow=shadows[0])
            if abs(s.radius - usual) > 1 and sum(abs(r - usual) <= 1 for r in radii) > 0.6 * len(radii):
                s = replace(s, radius=usual, corners=None)
            out[i] = s
    return out
