"""Sides that are none: a card's thick border found once more as an area of its own, and room taken for a border."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Fill, Rect, Rule, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex

OFF = 1.2  # px
FRAME = 3.0  # px: a thicker line is no frame of a picture
SAME = 3.0  # 8-bit steps
RIMMED = 24.0  # px of a photo's side at least,
RIM, HAIR = (0.3, 0.97), 1.5  # how much of it pieces of its rim take, and px that these are thick at most
BAR, SEVERAL = 90.0, 3.0  # px that a bar of entries is high at most; times as wide as one of them
THICK, ENTRY, ON_EDGE = (
    (1.5, 5.0),
    24.0,
    2.0,
)  # px of the line under the current entry; its length; its distance from the foot


def host_of(s: Surface, surfaces: Sequence[Surface], share: float = 0.999) -> Surface | None:
    """The smallest surface that a smaller one lies on, all but a `share` of it."""
    hosts = [o for o in surfaces if o.rect.area > s.rect.area and s.rect.inside(o.rect, share)]
    return min(hosts, key=lambda o: o.rect.area, default=None)


def settle_sides(surfaces: list[Surface], background: Fill) -> list[Surface]:
    """The surfaces without those that are another's border, which has its colour then, and without borders in the colour of what
    is behind them."""
    strips = {
        n: (k, side)
        for n, s in enumerate(surfaces)
        for k, o in enumerate(surfaces)
        if o is not s and (side := _side_of(s, o)) is not None
    }
    surfaces = list(surfaces)
    for n, (k, side) in strips.items():
        o, colour = surfaces[k], surfaces[n].fill.colour
        if o.accent is None and not alike(colour, o.border_colour):
            surfaces[k] = replace(o, accent=(side, o.border[side], colour))
    out = []
    for n, s in enumerate(surfaces):
        if n in strips:
            continue
        wide = [n for n in range(4) if s.border[n] > 1]
        if len(wide) == 1 and sum(1 for w in s.border if w) == 1 and not s.accent:
            host = host_of(s, surfaces, 0.99)
            behind = host.fill if host else background
            if not behind.stops and s.border_colour and alike(behind.colour, s.border_colour):
                top, right, bottom, left = s.border
                r = s.rect
                inner = edges(r.x + left, r.y + top, r.right - right, r.bottom - bottom)
                s = replace(s, rect=inner, border=(0.0, 0.0, 0.0, 0.0), border_colour="")
        out.append(s)
    return out


def share_borders(surfaces: list[Surface]) -> list[Surface]:
    """A line between two boxes that touch was found as a side of both: it is the upper one's, or the left one's, alone.

    The table of cells, each framed all round, keeps its lattice: there both have all four sides. Twice as thick as the sides that
    no other touches, it is a line of each.
    """
    out = _halve(surfaces)
    for n, s in enumerate(out):
        if not s.border[0] and not s.border[3]:
            continue
        r, (top, right, bottom, left) = s.rect, s.border
        others = [o for o in out if o is not s and not (all(o.border) and all(s.border))]
        above = top and any(
            o.border[2] == top
            and abs(o.rect.bottom - r.y - top) <= OFF / 2
            and o.rect.x <= r.x + OFF
            and o.rect.right >= r.right - OFF
            and alike(o.border_colour, s.border_colour)
            for o in others
            if o.border_colour and s.border_colour
        )
        before = left and any(
            o.border[1] == left
            and abs(o.rect.right - r.x - left) <= OFF / 2
            and o.rect.y <= r.y + OFF
            and o.rect.bottom >= r.bottom - OFF
            for o in others
        )
        if above or before:
            a, b = (top if above else 0.0), (left if before else 0.0)
            sides = (top - a, right, bottom, left - b)
            out[n] = replace(s, rect=edges(r.x + b, r.y + a, r.right, r.bottom), border=sides)
    return out


def _halve(surfaces: list[Surface]) -> list[Surface]:
    """Boxes framed all round that touch: what lies between two of them, twice their thinnest side, is half each."""
    out = list(surfaces)
    framed = [n for n, s in enumerate(out) if all(s.border)]
    touching = [(i, k) for i, k in itertools.permutations(framed, 2) if _abut(out[i], out[k])]
    left, last = len(touching), -1
    while left != last:  # a box that has got its share of one line tells how thick its others are
        last = left
        for pair in list(touching):
            a, b = (out[n] for n in pair)
            thin = min(*a.border, *b.border)
            for after, before in ((1, 3), (2, 0)):
                end, start = (a.rect.right, b.rect.x) if after == 1 else (a.rect.bottom, b.rect.y)
                own = alike(a.border_colour, b.border_colour) and abs(end - start - 2 * thin) <= OFF / 2
                if own and a.border[after] == b.border[before] == 2 * thin:
                    out[pair[0]], out[pair[1]] = _thinner(a, after, thin), _thinner(b, before, thin)
                    touching.remove(pair)
                    break
        left = len(touching)
    return out


def _thinner(s: Surface, side: int, by: float) -> Surface:
    """A box without the outer part, `by` px, of one of its sides (0 top, 1 right, 2 bottom, 3 left)."""
    r, (top, right, bottom, left) = s.rect, (by if n == side else 0.0 for n in range(4))
    border = (s.border[0] - top, s.border[1] - right, s.border[2] - bottom, s.border[3] - left)
    inner = edges(r.x + left, r.y + top, r.right - right, r.bottom - bottom)
    return replace(s, rect=inner, border=border)


def leave_to_host(surfaces: list[Surface]) -> list[Surface]:
    """A side that runs along the border of the box it lies in is that box's: a part of a card that lines divide has the lines alone.

    The table of cells, each framed all round, keeps its lattice.
    """
    out, framed = list[Surface](), [s for s in surfaces if all(s.border)]
    for s in surfaces:
        lattice = all(s.border) and any(o is not s and _abut(s, o) for o in framed)
        if lattice or not any(s.border):
            out.append(s)
            continue
        host = host_of(s, surfaces)
        taken = [host is not None and _same_side(s, host, n) for n in range(4)]
        if host is None or not any(taken) or s.fill != host.fill or s.shadow or s.accent:
            out.append(s)
            continue
        top, right, bottom, left = (w if t else 0.0 for w, t in zip(s.border, taken, strict=True))
        r, own = s.rect, (s.border[0] - top, s.border[1] - right, s.border[2] - bottom, s.border[3] - left)
        inner = edges(r.x + left, r.y + top, r.right - right, r.bottom - bottom)
        ink = s.border_colour if any(own) else ""
        out.append(replace(s, rect=inner, border=own, border_colour=ink, radius=0.0, corners=None))
    return out


def _abut(s: Surface, o: Surface) -> bool:
    """Do two boxes share a side from end to end, but for their borders?"""
    a, b, off = s.rect, o.rect, max(OFF, *s.border)
    beside = min(abs(a.right - b.x), abs(b.right - a.x)) <= off
    below = min(abs(a.bottom - b.y), abs(b.bottom - a.y)) <= off
    level = abs(a.y - b.y) <= OFF and abs(a.h - b.h) <= OFF
    return (level and beside) or (abs(a.x - b.x) <= OFF and abs(a.w - b.w) <= OFF and below)


def _same_side(s: Surface, host: Surface, side: int) -> bool:
    """Is one side of a box (0 top, 1 right, 2 bottom, 3 left) a piece of its host's?"""
    a, b = s.rect, host.rect
    off = (a.y - b.y, b.right - a.right, b.bottom - a.bottom, a.x - b.x)[side]
    wide = s.border[side]
    return (
        wide > 0
        and wide == host.border[side]
        and abs(off) <= OFF / 2
        and alike(s.border_colour, host.border_colour)
    )


def mark_entries(
    surfaces: list[Surface], rules: list[Rule], text: Sequence[Rect]
) -> tuple[list[Surface], list[Rule]]:
    """A short line at the foot of a bar, under words in the middle above it, is the lower border of these words' entry."""
    out, left = list(surfaces), list(rules)
    for line in rules:
        r = line.rect
        bars = [
            s
            for s in surfaces
            if s.rect.h <= BAR and s.rect.w > SEVERAL * r.w and not s.fill.stops and s.rect.y < r.y - r.h
            if abs(s.rect.bottom - r.bottom) <= ON_EDGE and s.rect.x <= r.x and r.right <= s.rect.right
        ]
        if not bars or not THICK[0] <= r.h <= THICK[1] or r.w < ENTRY:
            continue
        bar = min(bars, key=lambda s: s.rect.area)
        above = [t for t in text if bar.rect.y <= t.y and t.bottom <= r.y and r.x <= t.cx <= r.right]
        over = any(t.x < r.x - OFF or t.right > r.right + OFF for t in above)
        if above and not over:
            box = edges(r.x, bar.rect.y + bar.border[0], r.right, r.bottom)
            out.append(
                Surface(box, Fill(bar.fill.colour), border=(0.0, 0.0, r.h, 0.0), border_colour=line.colour)
            )
            left.remove(line)
    return out, left


def _side_of(s: Surface, o: Surface) -> int | None:
    """The side (0 top, 1 right, 2 bottom, 3 left) of another surface whose thick border a thin area covers. In another colour than
    the other sides it is that side's own, with these sides at its ends."""
    a, b = s.rect, o.rect
    if s.fill.stops or o.rect.area <= s.rect.area or not o.border_colour:
        return None
    top, right, bottom, left = o.border
    upright = abs(a.y - b.y) <= OFF and abs(a.bottom - b.bottom) <= OFF
    level = abs(a.x - b.x) <= OFF and abs(a.right - b.right) <= OFF
    at = (
        level and top > 1 and abs(a.y - b.y) <= OFF and abs(a.h - top) <= OFF,
        upright and right > 1 and abs(a.right - b.right) <= OFF and abs(a.w - right) <= OFF,
        level and bottom > 1 and abs(a.bottom - b.bottom) <= OFF and abs(a.h - bottom) <= OFF,
        upright and left > 1 and abs(a.x - b.x) <= OFF and abs(a.w - left) <= OFF,
    )
    side = next((n for n in range(4) if at[n]), None)
    if side is None:
        return None
    along = (s.border[0], s.border[2]) if side in (0, 2) else (s.border[1], s.border[3])
    ink = o.accent[2] if o.accent else o.border_colour
    own = o.accent is None and any(w for n, w in enumerate(o.border) if n != side)
    return side if not any(along) and (own or alike(s.fill.colour, ink)) else None


def alike(a: str, b: str) -> bool:
    """Are two colours (#rrggbb) the same but for rounding?"""
    return float(np.abs(from_hex(a) - from_hex(b)).max()) <= SAME


def frame_pictures(
    surfaces: list[Surface], rules: list[Rule], cutouts: list[Cutout]
) -> tuple[list[Surface], list[Rule]]:
    """Thin lines along at least three sides of a picture are its frame: a surface of their colour's border round it."""
    out, left = list(surfaces), list(rules)
    for c in cutouts:
        found = {side: r for r in left if (side := _side(r.rect, c.rect)) >= 0 and c.kind == "image"}
        if len(found) < 3 or len({r.colour for r in found.values()}) > 1:
            continue
        wide = min(min(r.rect.w, r.rect.h) for r in found.values())
        box = c.rect.grow(wide)
        out.append(
            Surface(box, Fill(c.ground), border=(wide,) * 4, border_colour=next(iter(found.values())).colour)
        )
        left = [r for r in left if not any(r is f for f in found.values())]
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), left


def take_rims(rules: list[Rule], cutouts: list[Cutout]) -> tuple[list[Rule], list[Cutout]]:
    """A photo's outermost row, darkened by a hairline that is painted on it, was found as pieces of lines beside it: it is the photo's."""
    left, out = list(rules), list[Cutout]()
    for c in cutouts:
        r = c.rect
        grown = [r.y, r.right, r.bottom, r.x]
        for side in range(4) if c.kind == "image" and min(r.w, r.h) >= RIMMED else ():
            pieces = [n for n in left if _rim_side(n.rect, r) == side]
            long, whole = sum(max(n.rect.w, n.rect.h) for n in pieces), r.w if side % 2 == 0 else r.h
            if RIM[0] * whole <= long <= RIM[1] * whole:
                grown[side] += (-1, 1, 1, -1)[side] * min(min(n.rect.w, n.rect.h) for n in pieces)
                left = [n for n in left if not any(n is p for p in pieces)]
        out.append(replace(c, rect=edges(grown[3], grown[0], grown[1], grown[2])))
    return left, out


def _rim_side(line: Rect, box: Rect) -> int:
    """Along which side of a box (0 top, 1 right, 2 bottom, 3 left) a hairline touches it, within its ends, or -1."""
    if line.w >= line.h:
        thick, start, end = line.h, line.x - box.x, line.right - box.right
        before, after = line.bottom - box.y, line.y - box.bottom
    else:
        thick, start, end = line.w, line.y - box.y, line.bottom - box.bottom
        before, after = line.right - box.x, line.x - box.right
    if thick > HAIR or start < -HAIR or end > HAIR or min(abs(before), abs(after)) > HAIR / 3:
        return -1
    flat, first = line.w >= line.h, abs(before) < abs(after)
    return (0 if first else 2) if flat else (3 if first else 1)


def _side(line: Rect, box: Rect) -> int:
    """Along which side of a box (0 top, 1 right, 2 bottom, 3 left) a thin line lies from end to end, or -1."""
    flat = line.w >= line.h
    if min(line.w, line.h) > FRAME:
        return -1
    if flat and line.x <= box.x + OFF and line.right >= box.right - OFF and line.w <= box.w + 2 * FRAME + OFF:
        return 0 if abs(line.bottom - box.y) <= OFF else 2 if abs(line.y - box.bottom) <= OFF else -1
    if (
        not flat
        and line.y <= box.y + OFF
        and line.bottom >= box.bottom - OFF
        and line.h <= box.h + 2 * FRAME + OFF
    ):
        return 3 if abs(line.right - box.x) <= OFF else 1 if abs(line.x - box.right) <= OFF else -1
    return -1
