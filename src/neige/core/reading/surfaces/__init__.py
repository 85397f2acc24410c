"""Surfaces, rules and cutouts: everything in a picture that is not text.

Flat and gradient regions with a rectangle's outline become surfaces with border, radius and shadow; they are painted back,
and what the painting does not explain is cut out as images and icons, or counted as unexplained.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Picture, Rect, Rule, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import apart, pack, to_hex
from neige.core.reading.paint import gradient as painted_gradient
from neige.core.reading.paint import paint, paint_rule
from neige.core.reading.surfaces.flat import Hull, Region, find_regions, snap_to_dominant
from neige.core.reading.surfaces.frame import SoftShadow, find_border, find_shadow, rings
from neige.core.reading.surfaces.gradient import Ramp, find_ramps, flatten
from neige.core.reading.surfaces.remains import find_cutouts, soft_shade
from neige.core.reading.surfaces.rules import find_rules

EXPLAINED = 7.0  # 8-bit steps by which a painted pixel may differ from the picture
WIDE_SHADOW = 20_000.0  # px² from which a surface may throw a shadow more than a few px wide
FRAME = 60.0  # px from which an upright line may be a card's side
CORNER = 16.0  # px that a rounded corner leaves between a side and the top
FULL = 0.995  # of the page's width: a band


@dataclass(frozen=True)
class Ground:
    """What was found besides text. `unexplained` is a share of the picture, `lost` are its larger places."""

    background: Fill
    surfaces: tuple[Surface, ...]
    rules: tuple[Rule, ...]
    cutouts: tuple[Cutout, ...]
    unexplained: float
    lost: tuple[Rect, ...]


@dataclass(frozen=True)
class SurfaceScan:
    """What can be found before any text is known. `pixels` have compression noise undone; in `working` gradients are flat."""

    pixels: NDArray[np.uint8]
    working: NDArray[np.uint8]
    ramps: dict[tuple[int, int, int], Ramp]
    regions: list[Region]
    hulls: list[Hull]
    rules: list[Rule]


def scan_surfaces(picture: Picture) -> SurfaceScan:
    """Gradients, flat regions and thin lines. Needs no text, so that it can run while the text is read."""
    pixels = snap_to_dominant(picture.pixels, picture.noise) if picture.noise else picture.pixels
    working, ramps = flatten(pixels, find_ramps(pixels))
    regions, hulls = find_regions(working, picture.scale)
    return SurfaceScan(pixels, working, ramps, regions, hulls, find_rules(working, picture.scale))


def read_surfaces(picture: Picture, text: list[Rect], scan: SurfaceScan | None = None) -> Ground:
    """Read everything but text. `text`: boxes (CSS px) of words already read; their ink is nobody's picture."""
    scale = picture.scale
    scan = scan or scan_surfaces(picture)
    regions = [r for r in scan.regions if not _in_glyph(r, text, scale)]
    background = _background(scan.working, scan.hulls, scan.ramps)
    surfaces = _surfaces(regions, scan.pixels, scan.ramps, background, scale)
    surfaces = _drop_straddled(_join_stacks(surfaces, picture.width), picture.width)
    rules = [r for r in scan.rules if not any(_on_edge(r.rect, s.rect) for s in surfaces)]
    canvas = _paint(picture, background, surfaces, rules)
    tolerance = EXPLAINED + 3 * picture.noise
    remains = apart(np.rint(canvas).astype(np.uint8), picture.pixels) > tolerance
    remains &= ~soft_shade(picture.pixels, canvas, remains)
    cutouts, lost, explained = find_cutouts(picture, remains, text, surfaces, background)
    surfaces = _drop_inside(surfaces, cutouts, text)
    rules = [r for r in rules if not any(r.rect.inside(c.rect, 0.7) for c in cutouts)]
    surfaces = _extend_to_images(surfaces, cutouts)
    rules = [r for r in rules if not any(_on_edge(r.rect, s.rect) for s in surfaces)]
    surfaces, rules = _frame_up(surfaces, rules)
    return Ground(background, tuple(surfaces), tuple(rules), tuple(cutouts), float(explained), tuple(lost))


def _fill(
    colour: tuple[float, float, float],
    box: tuple[int, int, int, int],
    ramps: dict[tuple[int, int, int], Ramp],
) -> Fill:
    ramp = ramps.get((int(colour[0]), int(colour[1]), int(colour[2])))
    return ramp.fill(box) if ramp else Fill(to_hex(colour))


def _background(
    working: NDArray[np.uint8], hulls: list[Hull], ramps: dict[tuple[int, int, int], Ramp]
) -> Fill:
    """The page's own ground: the colour whose regions span most of the page, what lies on them included.

    Cards may well have more pixels than the page that shows between them, but the page reaches round them. Regions inside
    a region that is already counted do not count; without any, the commonest colour is taken.
    """
    height, width = working.shape[:2]
    votes: dict[int, float] = {}
    counted: list[Hull] = []
    for hull in sorted(hulls, key=lambda h: -(h[2] - h[0]) * (h[3] - h[1])):
        if not any(
            hull[0] >= c[0] and hull[1] >= c[1] and hull[2] <= c[2] and hull[3] <= c[3] for c in counted
        ):
            counted.append(hull)
            votes[hull[4]] = votes.get(hull[4], 0.0) + (hull[2] - hull[0]) * (hull[3] - hull[1])
    if not votes:
        values, counts = np.unique(pack(working[::2, ::2]), return_counts=True)
        votes = dict(zip(values.tolist(), counts.tolist()))
    best = max(sorted(votes), key=lambda v: votes[v])
    colour = (float(best >> 16 & 255), float(best >> 8 & 255), float(best & 255))
    return _fill(colour, (0, 0, width, height), ramps)


def _surfaces(
    regions: list[Region],
    pixels: NDArray[np.uint8],
    ramps: dict[tuple[int, int, int], Ramp],
    background: Fill,
    scale: int,
) -> list[Surface]:
    height, width = pixels.shape[:2]
    evened = _evened(pixels, background) if background.stops else None
    out: list[Surface] = []
    for region in regions:
        box = (region.x0, region.y0, region.x1, region.y1)
        fill = _fill(region.colour, box, ramps)
        band = region.x0 == 0 and region.x1 == width
        same = fill.colour == background.colour and fill.stops == background.stops
        if (band or region.area > 0.9 * width * height) and (same or (background.stops and fill.stops)):
            continue
        around = rings(pixels, region, 26 * scale)
        if background.stops and not fill.stops and _part_of(background, region, around, width, height):
            continue
        if not fill.stops:
            region = _grown(region, around)
            around = rings(pixels, region, 26 * scale)
        border = find_border(
            around, np.array(region.colour) if not fill.stops else _at_edge(pixels, region), scale
        )
        if (
            same
            and sum(1 for w in border.widths if w) < 2
            and _open_ground(pixels, region, around, background)
        ):
            continue  # a piece of the page's ground that other things happen to enclose
        if _is_pill(region) and border.widths[0] == border.widths[2]:
            # a pill's ends are points: its border there is no line to be seen, and its tip is a mixture
            if border.widths[0] and not border.widths[1] and not border.widths[3]:
                region = replace(region, x0=region.x0 - 1, x1=region.x1 + 1)
            border = replace(border, widths=(border.widths[0],) * 4)
        shadow = find_shadow(around, border, scale)
        if shadow is None and region.area > WIDE_SHADOW * scale * scale:
            far = rings(pixels if evened is None else evened, region, 64 * scale)
            shadow = find_shadow(far, border, scale)
        top, right, bottom, left = border.widths
        rect = edges(
            (region.x0 - left) / scale,
            (region.y0 - top) / scale,
            (region.x1 + right) / scale,
            (region.y1 + bottom) / scale,
        )
        half = min(region.x1 - region.x0, region.y1 - region.y0) / 2
        corner = half if _is_pill(region) else region.radius
        radius = (corner + (max(border.widths) if corner else 0)) / scale
        out.append(
            Surface(
                rect, fill, _tidy(min(radius, min(rect.w, rect.h) / 2)), (top / scale, right / scale, bottom / scale, left / scale),
                to_hex(border.colour) if border.colour else "", _shadow(shadow, scale), round(min(1.0, 0.5 + region.filled / 2), 3),
            )
        )  # fmt: skip
    return _drop_repeats(out)


def _is_pill(region: Region) -> bool:
    """True for a pill or a disc."""
    return region.radius >= 0.85 * min(region.x1 - region.x0, region.y1 - region.y0) / 2 > 3


def _evened(pixels: NDArray[np.uint8], background: Fill) -> NDArray[np.float32]:
    """The picture with its gradient ground divided out: the ground is white, and a shadow on it is what it is on white."""
    height, width = pixels.shape[:2]
    ground = painted_gradient(background, height, width)
    # channels together: a dark channel alone is too coarse to divide
    share = pixels.sum(axis=2, dtype=np.float32) / np.maximum(ground.sum(axis=2), 1.0)
    return np.repeat(np.clip(share * 255, 0, 255)[..., None], 3, axis=2)


def _part_of(
    background: Fill, region: Region, around: list[NDArray[np.float64]], width: int, height: int
) -> bool:
    """True for a flat strip of the page's own gradient: it does not stand out from what is beside it."""
    beside = [
        np.abs(side[min(2, len(side) - 1)] - np.array(region.colour)).max() for side in around if len(side)
    ]
    if beside and float(np.median(beside)) > 12:
        return False
    at = painted_gradient(background, 9, 9)
    y = min(8, int(9 * (region.y0 + region.y1) / 2 / height))
    x = min(8, int(9 * (region.x0 + region.x1) / 2 / width))
    return bool(np.abs(at[y, x] - np.array(region.colour)).max() <= 14)


def _grown(region: Region, around: list[NDArray[np.float64]]) -> Region:
    """The region with the anti-aliased line outside each side added where that line is mostly its own colour.

    A pill's ends and edges at half a px are mixtures: a*fill + (1-a)*beyond; a of a half and more belongs to the region.
    """
    fill = np.array(region.colour)
    grow = [0, 0, 0, 0]
    for i, side in enumerate(around):
        if len(side) < 3 or np.abs(side[1] - fill).max() < 12:
            continue
        way = fill - side[1]
        a = float((side[0] - side[1]) @ way / (way @ way))
        off = np.abs(side[0] - side[1] - a * way).max()
        if a >= 0.5 and off <= 6 and np.abs(side[1] - side[2]).max() <= 3:
            grow[i] = 1
    top, right, bottom, left = grow
    return replace(
        region, x0=region.x0 - left, y0=region.y0 - top, x1=region.x1 + right, y1=region.y1 + bottom
    )


def _tidy(radius: float) -> float:
    whole = round(radius)
    return float(whole) if abs(radius - whole) < 0.45 else round(radius * 2) / 2


def _at_edge(pixels: NDArray[np.uint8], region: Region) -> NDArray[np.float64]:
    return np.median(pixels[region.y1 - 2 : region.y1, region.x0 : region.x1].reshape(-1, 3), axis=0).astype(
        np.float64
    )


def _open_ground(
    pixels: NDArray[np.uint8], region: Region, around: list[NDArray[np.float64]], background: Fill
) -> bool:
    """True if the region has no soft shadow or other ground around it: its colour goes on beyond thin things."""
    others = 0
    for side in around:
        if len(side) >= 6 and np.abs(side[2:6] - np.array(region.colour)).max() > 3:
            others += 1
    return others < 3


def _shadow(s: SoftShadow | None, scale: int) -> Shadow | None:
    if s is None:
        return None
    return Shadow(
        round(s.dx / scale),
        round(s.dy / scale),
        max(1, round(2 * s.sigma / scale)),
        round(s.spread / scale),
        to_hex(s.colour),
        round(s.opacity, 3),
    )


def _drop_repeats(surfaces: list[Surface]) -> list[Surface]:
    out: list[Surface] = []
    for s in surfaces:
        if not any(o.rect.iou(s.rect) > 0.97 and o.fill == s.fill for o in out):
            out.append(s)
    return out


def _join_stacks(surfaces: list[Surface], page_width: float) -> list[Surface]:
    """Regions piled up with the same left and right edge are the head, body and foot of one card: give them that card.

    Evidence: the same side borders, or a radius or shadow at the pile's outer ends only.
    """
    out = list(surfaces)
    groups: dict[tuple[int, int], list[Surface]] = {}
    for s in surfaces:
        if s.rect.w < page_width * FULL and not any(_beside(s.rect, o.rect) for o in surfaces):
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


def _frame_up(surfaces: list[Surface], rules: list[Rule]) -> tuple[list[Surface], list[Rule]]:
    """Lines that are the sides and top of a card whose picture hides where its fill begins become the card's border."""
    upright = [r for r in rules if r.rect.h >= FRAME and r.rect.w <= 3]
    flat = [r for r in rules if r.rect.w >= 8 and r.rect.h <= 3]
    for i, s in enumerate(surfaces):
        left = next(
            (
                r
                for r in upright
                if abs(r.rect.x - s.rect.x) <= 1.5 and r.rect.y < s.rect.y - 20 and _meets(r, s)
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
        wide = left.rect.w
        surfaces[i] = replace(
            s, rect=edges(s.rect.x, y, s.rect.right, s.rect.bottom), border=(wide, wide, wide, wide), border_colour=left.colour,
            radius=max(s.radius, float(round(left.rect.y - y))),
        )  # fmt: skip
        used = {id(left), id(right), *(id(r) for r in top)}
        rules = [r for r in rules if id(r) not in used]
    return sorted(surfaces, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), rules


def _meets(rule: Rule, s: Surface) -> bool:
    """Does an upright line reach down along a surface's side?"""
    return s.rect.y - 3 <= rule.rect.bottom <= s.rect.bottom + 1


def _drop_straddled(surfaces: list[Surface], page_width: float) -> list[Surface]:
    """A plain area that a framed or filled card straddles is a flat part of a picture behind it, not a surface of the layout.

    Bands from side to side stay: a card may well reach over the end of one.
    """

    def straddles(a: Surface, b: Surface) -> bool:
        r, o = a.rect, b.rect
        w, h = min(r.right, o.right) - max(r.x, o.x), min(r.bottom, o.bottom) - max(r.y, o.y)
        share = max(0.0, w) * max(0.0, h) / max(r.area, 1.0)
        return r.area < o.area and r.area > WIDE_SHADOW and 0.15 < share < 0.85

    return [
        b
        for b in surfaces
        if any(b.border)
        or b.shadow
        or b.rect.w > FULL * page_width
        or not any(straddles(a, b) for a in surfaces)
    ]


def _beside(a: Rect, b: Rect) -> bool:
    """True for neighbouring cells of one row: they touch, and have the same top and height."""
    same_row = abs(a.y - b.y) <= 1.5 and abs(a.h - b.h) <= 1.5
    return same_row and min(abs(a.right - b.x), abs(b.right - a.x)) <= 2.5


def _same_frame(a: Surface, b: Surface) -> bool:
    framed = (
        a.border[1] and a.border[3] and b.border[1] and b.border[3] and a.border_colour == b.border_colour
    )
    soft = a.shadow is not None and b.shadow is not None
    return bool(framed or soft)


def _replace_pile(out: list[Surface], pile: list[Surface]) -> None:
    first, last = pile[0], pile[-1]
    rect = edges(first.rect.x, first.rect.y, first.rect.right, last.rect.bottom)
    body = max(pile, key=lambda s: s.rect.area)
    border = (first.border[0], first.border[1], last.border[2], first.border[3])
    radius = max(first.radius, last.radius) if first.radius or last.radius else 0.0
    out.append(
        Surface(
            rect, body.fill, radius, border, first.border_colour, last.shadow or first.shadow, body.confidence
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


def _on_edge(rule: Rect, box: Rect) -> bool:
    """True if a thin line is part of a surface's border."""
    if rule.w >= rule.h:
        near = min(abs(rule.y - box.y), abs(rule.bottom - box.bottom)) <= 1.6
        return near and rule.x >= box.x - 2 and rule.right <= box.right + 2
    near = min(abs(rule.x - box.x), abs(rule.right - box.right)) <= 1.6
    return near and rule.y >= box.y - 2 and rule.bottom <= box.bottom + 2


def _paint(
    picture: Picture, background: Fill, surfaces: list[Surface], rules: list[Rule]
) -> NDArray[np.float32]:
    canvas = np.zeros(picture.pixels.shape, np.float32)
    paint(canvas, Surface(Rect(0, 0, picture.width, picture.height), background), picture.scale)
    for s in surfaces:
        paint(canvas, s, picture.scale)
    for r in rules:
        paint_rule(canvas, r, picture.scale)
    return canvas


def _in_glyph(region: Region, text: list[Rect], scale: int) -> bool:
    """True for the inside of a letter: a region lower than the text box it lies in."""
    r = edges(region.x0 / scale, region.y0 / scale, region.x1 / scale, region.y1 / scale)
    return any(r.inside(t.grow(1), 0.9) and r.h < 1.05 * t.h and r.w < 1.1 * t.h for t in text)


def _drop_inside(surfaces: list[Surface], cutouts: list[Cutout], text: list[Rect]) -> list[Surface]:
    """Flat areas of a photo or illustration are not surfaces of their own; on a backdrop those that hold text are."""
    out = []
    for s in surfaces:
        host = next(
            (c for c in cutouts if s.rect.inside(c.rect, 0.9) and s.rect.area < 0.95 * c.rect.area), None
        )
        if host is None or (host.backdrop and any(t.inside(s.rect, 0.9) for t in text)):
            out.append(s)
    return out


def _extend_to_images(surfaces: list[Surface], cutouts: list[Cutout]) -> list[Surface]:
    """A card whose picture fills its top (or bottom) from side to side begins with the picture, not under it."""
    out = []
    for s in surfaces:
        inner = edges(
            s.rect.x + s.border[3],
            s.rect.y + s.border[0],
            s.rect.right - s.border[1],
            s.rect.bottom - s.border[2],
        )
        for c in cutouts:
            if (
                c.kind == "image"
                and not c.backdrop
                and abs(c.rect.x - inner.x) <= 2.2
                and abs(c.rect.right - inner.right) <= 2.2
            ):
                if -2.2 <= inner.y - c.rect.bottom <= 2.2:
                    s = replace(
                        s,
                        rect=edges(s.rect.x, c.rect.y - s.border[3], s.rect.right, s.rect.bottom),
                        border=(s.border[3], *s.border[1:]),
                    )
                elif -2.2 <= c.rect.y - inner.bottom <= 2.2:
                    s = replace(
                        s,
                        rect=edges(s.rect.x, s.rect.y, s.rect.right, c.rect.bottom + s.border[3]),
                        border=(s.border[0], s.border[1], s.border[3], s.border[3]),
                    )
            if (
                c.kind == "image"
                and abs(c.rect.y - inner.y) <= 2.2
                and abs(c.rect.bottom - inner.bottom) <= 2.2
            ):
                if -2.2 <= inner.x - c.rect.right <= 2.2:
                    s = replace(s, rect=edges(c.rect.x - s.border[3], s.rect.y, s.rect.right, s.rect.bottom))
                elif -2.2 <= c.rect.x - inner.right <= 2.2:
                    s = replace(s, rect=edges(s.rect.x, s.rect.y, c.rect.right + s.border[1], s.rect.bottom))
        out.append(s)
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))
