"""Cards known by their frame: lines at their sides, or beyond where their fill ends, with a picture or a table over the rest."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np

from neige.core.model import Fill, Rect, Rule, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex

FRAME = 60.0  # px from which an upright line may be a card's side
CORNER = 16.0  # px that a rounded corner leaves between a side and the top
HIDDEN = 0.6  # of a frame's rest that another box takes up
SHADED = 3.0  # 8-bit steps by which a neighbour's shadow may darken one side more than the other
JOINT = 1.5  # px between pieces of a line that another crosses
SIDE = 40.0  # px that the sides of a frame are long at least


def frame_up(
    surfaces: list[Surface], rules: list[Rule], along: bool = False
) -> tuple[list[Surface], list[Rule]]:
    """Lines that are the sides and top of a card whose picture hides where its fill begins become the card's border; `along`:
    only those that run along all of the fill, too."""
    upright = [r for r in rules if r.rect.h >= FRAME and r.rect.w <= 3]
    flat = [r for r in rules if r.rect.w >= 8 and r.rect.h <= 3]
    for i, s in enumerate(surfaces):
        left = next(
            (
                r
                for r in upright
                if abs(r.rect.x - s.rect.x) <= 1.5
                and r.rect.y < s.rect.y - 20
                and _meets(r, s)
                and (not along or r.rect.bottom >= s.rect.bottom - CORNER)
            ),
            None,
        )
        right = next(
            (
                r
                for r in upright
                if left and abs(r.rect.right - s.rect.right) <= 1.5 and abs(r.rect.y - left.rect.y) <= 2
            ),
            None,
        )
        if left is None or right is None:
            continue
        top = [
            r
            for r in flat
            if r.rect.x >= s.rect.x - 1
            and r.rect.right <= s.rect.right + 1
            and 0 <= left.rect.y - r.rect.y <= CORNER
        ]
        if sum(r.rect.w for r in top) < 0.6 * s.rect.w:
            continue
        y = min(r.rect.y for r in top)
        more = edges(s.rect.x, y, s.rect.right, s.rect.y)
        if along and any(o is not s and o.rect.meet(more) > HIDDEN * more.area for o in surfaces):
            continue  # another box
        wide = left.rect.w
        surfaces[i] = replace(
            s, rect=edges(s.rect.x, y, s.rect.right, s.rect.bottom), border=(wide, wide, wide, wide), border_colour=left.colour,
            radius=max(s.radius, float(round(left.rect.y - y))),
        )  # fmt: skip
        used = {id(left), id(right), *(id(r) for r in top)}
        rules = [r for r in rules if id(r) not in used]
    return sorted(surfaces, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), rules


def frame_on(surfaces: list[Surface], rules: list[Rule]) -> tuple[list[Surface], list[Rule]]:
    """`frame_up` for cards that go on below, to the left or to the right of where their fill ends."""
    for way in ("below", "left", "right"):
        turned = [replace(s, rect=_turn(s.rect, way)) for s in surfaces]
        surfaces, rules = frame_up(turned, [replace(r, rect=_turn(r.rect, way)) for r in rules], along=True)
        surfaces = [replace(s, rect=_turn(s.rect, way, back=True)) for s in surfaces]
        rules = [replace(r, rect=_turn(r.rect, way, back=True)) for r in rules]
    return surfaces, rules


def _turn(r: Rect, way: str, back: bool = False) -> Rect:
    """A box as it lies when what is below, left or right of things is above them."""
    if way == "below":
        return Rect(r.x, -r.bottom, r.w, r.h)
    if way == "left":
        return Rect(r.y, r.x, r.h, r.w)
    return Rect(-r.bottom, r.x, r.h, r.w) if back else Rect(r.y, -r.right, r.h, r.w)


def frames_of_sides(
    surfaces: list[Surface], rules: list[Rule], ground: Fill
) -> tuple[list[Surface], list[Rule]]:
    """Two upright lines side by side, from one height to one, are the sides of a frame: what fills it from side to side tells
    where its corners end. A picture up to its edge, or a table over its corner, hides the rest of it."""
    whole, parts = _joined([r for r in rules if r.rect.h > r.rect.w <= 3])
    uprights = sorted((r for r in whole if r.rect.h >= SIDE), key=lambda r: r.rect.x)
    out, used = list(surfaces), set[int]()
    for a, b in itertools.combinations(uprights, 2):
        like = (
            _one_ink(a, b) and abs(a.rect.y - b.rect.y) <= 1.5 and abs(a.rect.bottom - b.rect.bottom) <= 1.5
        )
        x0, x1, wide = a.rect.x, b.rect.right, a.rect.w
        if not like or x1 - x0 < SIDE or {id(a), id(b)} & used:
            continue
        if (id(a) in parts or id(b) in parts) and any(
            _beside(s.rect, edges(x0, a.rect.y, x1, a.rect.bottom)) for s in out
        ):
            continue  # the lines of a table
        pieces = [
            s
            for s in out
            if abs(s.rect.x - x0) <= wide + 1 and abs(s.rect.right - x1) <= wide + 1
            and s.rect.y < a.rect.bottom and s.rect.bottom > a.rect.y
        ]  # fmt: skip
        tops = [s.rect.y for s in pieces if a.rect.y - CORNER <= s.rect.y <= a.rect.y + wide]
        ends = [
            s.rect.bottom for s in pieces if a.rect.bottom - wide <= s.rect.bottom <= a.rect.bottom + CORNER
        ]
        closing = [] if tops or ends else _closing(rules, a, edges(x0, a.rect.y, x1, a.rect.bottom))
        tops += [r.rect.y for r in closing[:1]]
        ends += [r.rect.bottom for r in closing[1:]]
        if not tops and not ends:
            continue
        corner = max(a.rect.y - min(tops, default=a.rect.y), max(ends, default=a.rect.bottom) - a.rect.bottom)
        box = edges(x0, min(tops, default=a.rect.y - corner), x1, max(ends, default=a.rect.bottom + corner))
        if any(
            s.rect.iou(box) > 0.97 or s.rect.y < box.y - wide or s.rect.bottom > box.bottom + wide
            for s in pieces
        ):
            continue  # the frame is known, or the lines are in something larger
        if any(s.shadow and s.rect.x > x0 + wide / 2 for s in pieces):
            continue  # where a shadow begins
        used |= {id(a), id(b), *map(id, closing)}
        frames = [
            s for s in pieces if all(s.border) and any(o is not s and o.rect.inside(s.rect) for o in pieces)
        ]
        plain = [s for s in pieces if not s.fill.stops and not any(s is f for f in frames)]
        fills = {s.fill: sum(o.rect.area for o in plain if o.fill == s.fill) for s in plain}
        under = min((s for s in out if box.inside(s.rect, 0.99)), key=lambda s: s.rect.area, default=None)
        fill = max(fills, key=lambda f: fills[f], default=under.fill if under else ground)
        cast = next((s.shadow for s in pieces if s.shadow), None)
        inner = Rect(x0 + wide, box.y + wide, box.w - 2 * wide, box.h - 2 * wide)
        for s in pieces:
            own = edges(
                max(s.rect.x, inner.x),
                max(s.rect.y, inner.y),
                min(s.rect.right, inner.right),
                min(s.rect.bottom, inner.bottom),
            )
            first, last = s.rect.y <= inner.y, s.rect.bottom >= inner.bottom
            sides = (0.0 if first else s.border[0], 0.0, 0.0 if last else s.border[2], 0.0)
            itself = s.fill == fill and (first or last) and not any(sides)
            i = next(k for k, o in enumerate(out) if o is s)
            gone = itself or any(s is f for f in frames)
            out[i : i + 1] = [] if gone else [replace(s, rect=own, border=sides, shadow=None, radius=0.0)]
        out.append(Surface(box, fill, float(round(corner)), (wide,) * 4, a.colour, cast))
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), [
        r for r in rules if id(r) not in {id(p) for u in used for p in parts.get(u, ())} | used
    ]


def _closing(rules: list[Rule], side: Rule, box: Rect) -> list[Rule]:
    """The two lines in the ink of a frame's sides that close it above and below, corners between; none if one is missing."""

    def closes(r: Rule, off: float) -> bool:
        line = r.rect
        level = line.w > line.h <= 3 and 0 <= off <= CORNER and abs(line.cx - box.cx) <= 1
        return level and abs(line.w - box.w + 2 * off) <= 3 and _one_ink(r, side)

    above = next((r for r in rules if closes(r, box.y - r.rect.y)), None)
    below = next((r for r in rules if closes(r, r.rect.bottom - box.bottom)), None)
    return [above, below] if above and below else []


def _one_ink(a: Rule, b: Rule) -> bool:
    return bool(np.abs(from_hex(a.colour) - from_hex(b.colour)).max() <= SHADED)


def _beside(r: Rect, box: Rect) -> bool:
    """Does a box share one of the other's sides, from outside?"""
    meets = r.y < box.bottom - 2 and r.bottom > box.y + 2
    return meets and (abs(r.right - box.x) <= 1.5 or abs(r.x - box.right) <= 1.5)


def _joined(uprights: list[Rule]) -> tuple[list[Rule], dict[int, list[Rule]]]:
    """(upright lines, the pieces of those that lines across part into pieces, by their id)."""
    out: list[Rule] = []
    parts: dict[int, list[Rule]] = {}
    for r in sorted(uprights, key=lambda r: (r.rect.x, r.rect.y)):
        last = out[-1] if out else None
        along = last is not None and (last.rect.x, last.rect.w) == (r.rect.x, r.rect.w) and _one_ink(last, r)
        if last is None or not along or not -1 <= r.rect.y - last.rect.bottom <= JOINT:
            out.append(r)
            continue
        out[-1] = replace(last, rect=edges(r.rect.x, last.rect.y, r.rect.right, r.rect.bottom))
        parts[id(out[-1])] = [*parts.pop(id(last), [last]), r]
    return out, parts


def _meets(rule: Rule, s: Surface) -> bool:
    """Does an upright line reach down along a surface's side?"""
    return s.rect.y - 3 <= rule.rect.bottom <= s.rect.bottom + 1
