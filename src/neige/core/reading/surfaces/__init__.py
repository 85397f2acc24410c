"""Surfaces, rules and cutouts: everything in a picture that is not text.

Flat and gradient regions with a rectangle's outline become surfaces with border, radius and shadow; they are painted back,
and what the painting does not explain is cut out as images and icons, or counted as unexplained.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Picture, Rect, Rule, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import apart, pack, to_hex, unpack
from neige.core.reading.paint import gradient as painted_gradient
from neige.core.reading.paint import paint, paint_rule
from neige.core.reading.surfaces.cards import (
    accent_sides,
    complete_tracks,
    drop_ground,
    drop_shade,
    drop_straddled,
    extend_to_images,
    fit_in,
    join_alike,
    join_sides,
    join_stacks,
    pool_alike,
)
from neige.core.reading.surfaces.cast import Cast, give_casts, lift_casts
from neige.core.reading.surfaces.choices import close_rings, close_switches, closed_ring, settle_choices
from neige.core.reading.surfaces.corners import round_corners, tidy
from neige.core.reading.surfaces.dashes import dashed_frames, frame_of, put_dashed
from neige.core.reading.surfaces.flat import Hull, Region, find_regions, snap_to_dominant
from neige.core.reading.surfaces.frame import (
    Border,
    SoftShadow,
    find_border,
    find_inner_shadow,
    find_shadow,
    rings,
)
from neige.core.reading.surfaces.framed import frame_on, frame_up, frames_of_sides
from neige.core.reading.surfaces.gradient import Ramp, find_ramps, flatten
from neige.core.reading.surfaces.panels import bridge_bars, bridge_panels, join_side_panels
from neige.core.reading.surfaces.pictures import box_icons, grow_to_pale, split_mosaics, take_shapes
from neige.core.reading.surfaces.pieces import absorb_skies, uncover
from neige.core.reading.surfaces.remains import device_slices, find_cutouts, soft_shade
from neige.core.reading.surfaces.rules import find_rules
from neige.core.reading.surfaces.sides import frame_pictures, settle_sides, share_borders

EXPLAINED = 7.0  # 8-bit steps by which a painted pixel may differ from the picture
RINGING = (
    17  # px: how far compression noise reaches from an edge, both ways (a block of colour is 16 px wide)
)
KNOB = 32.0  # px: a small region, whose border may be the ground that shows at its sides
SHADE = 28.0  # 8-bit steps by which the thin shadow under a button is darker than the ground
RING = 3  # 8-bit steps between the ground and the outermost rings of shadows on it
WHITE = 0.5  # of the height of the commonest colour's bands that white bands need to be the page's ground
FULL = 0.995  # of the page's width: a band
WIDE_SHADOW = 20_000.0  # px² from which a surface may throw a shadow more than a few px wide


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
    """What can be found before any text is known. In `bare` the shadows `casts` are undone, in `pixels` compression noise, too;
    in `working` gradients are flat."""

    pixels: NDArray[np.uint8]
    working: NDArray[np.uint8]
    ramps: dict[tuple[int, int, int], Ramp]
    regions: list[Region]
    hulls: list[Hull]
    rules: list[Rule]
    dashed: list[Surface]
    bare: NDArray[np.uint8]
    casts: list[Cast]


def scan_surfaces(picture: Picture) -> SurfaceScan:
    """Gradients, flat regions and thin lines. Needs no text, so that it can run while the text is read."""
    bare, casts = (picture.pixels, []) if picture.noise else lift_casts(picture.pixels, picture.scale)
    found = find_ramps(bare)
    pixels = snap_to_dominant(bare, picture.noise) if picture.noise else bare
    working, ramps = flatten(pixels, found, bare, picture.noise)
    regions, hulls, specks = find_regions(working, picture.scale, picture.noise > 0)
    dashed = dashed_frames(pixels, specks, picture.scale)
    rules = find_rules(working, picture.scale)
    return SurfaceScan(pixels, working, ramps, regions, hulls, rules, dashed, bare, casts)


@dataclass(frozen=True)
class Panels:
    """What is painted flat: the page's ground, surfaces, and lines."""

    background: Fill
    surfaces: list[Surface]
    rules: list[Rule]


Known = Sequence[
    tuple[Rect, str]
]  # places (CSS px) and what they are: "image", "icon", "surface" or "ignore"


def read_surfaces(
    picture: Picture, text: list[Rect], scan: SurfaceScan | None = None, known: Known = ()
) -> Ground:
    """Read everything but text. `text`: boxes (CSS px) of words already read; their ink is nobody's picture."""
    scan = scan or scan_surfaces(picture)
    return find_pictures(picture, find_panels(picture, text, scan), text, scan, known)


def find_panels(picture: Picture, text: list[Rect], scan: SurfaceScan) -> Panels:
    """Everything flat: regions with border, radius and shadow, put together to cards, and the lines that are nobody's border."""
    scale, picture = picture.scale, replace(picture, pixels=scan.bare)
    regions = [r for r in scan.regions if not _in_glyph(r, text, scale)]
    background = _background(scan.working, scan.hulls, scan.ramps)
    surfaces = _surfaces(regions, scan.pixels, scan.ramps, background, scale)
    surfaces = bridge_bars(bridge_panels(join_alike(surfaces), picture.width), picture.width)
    surfaces = close_rings(surfaces, scan.pixels, scale)
    surfaces = drop_straddled(join_sides(join_stacks(surfaces, picture.width)), picture.width)
    surfaces = drop_shade(round_corners(scan.pixels, surfaces, scale))
    rules = [r for r in scan.rules if not _in_word(r.rect, text)]
    surfaces, rules = join_side_panels(surfaces, rules, picture.width)
    surfaces, rules = frame_on(*frames_of_sides(surfaces, rules, background))
    surfaces, rules = accent_sides(put_dashed(surfaces, scan.dashed), rules)
    surfaces = share_borders(settle_sides(fit_in(complete_tracks(surfaces, text)), background))
    surfaces = drop_ground(give_casts(surfaces, scan.casts), background)
    return Panels(
        background, surfaces, [r for r in rules if not any(_on_edge(r.rect, s.rect) for s in surfaces)]
    )


def find_pictures(
    picture: Picture, panels: Panels, text: list[Rect], scan: SurfaceScan, known: Known = ()
) -> Ground:
    """Paint the panels back; what they leave unexplained is cut out. `known` places are what they are said to be."""
    scale, background, picture = picture.scale, panels.background, replace(picture, pixels=scan.bare)
    surfaces, rules, given = _told(panels, scan, known, scale)
    canvas = _paint(picture, background, surfaces, rules)
    off = apart(np.rint(canvas).astype(np.uint8), scan.pixels)
    remains = off > EXPLAINED + 3 * picture.noise
    remains &= ~soft_shade(picture.pixels, canvas, remains)
    if picture.noise:  # ringing beside hard edges is a few px wide, and nobody's picture
        ringing = cv2.dilate(_hard_edges(canvas), np.ones((RINGING, RINGING), np.uint8)) > 0
        remains &= ~(ringing & (apart(np.rint(canvas).astype(np.uint8), picture.pixels) < 90))
    for rect, kind in known:
        if kind != "surface":
            remains[device_slices(rect, scale)] = False
    for s in surfaces:
        if s.border_style == "dashed":
            remains &= ~frame_of(s, remains.shape, scale)
    surfaces = take_shapes(surfaces, remains, text, background, picture.width * picture.height, scale)
    cutouts, lost, explained = find_cutouts(picture, remains, text, surfaces, background)
    if not picture.noise:
        faint = off > 0
        for t in text:
            faint[device_slices(t, scale)] = False
        cutouts = grow_to_pale(cutouts, faint, text, scale)
    cutouts = split_mosaics(cutouts, picture.pixels, text, scale)
    surfaces, cutouts = absorb_skies(surfaces, cutouts, picture.pixels, text, scale)
    surfaces = _drop_inside(surfaces, cutouts, text)
    rules = [r for r in rules if not any(r.rect.inside(c.rect, 0.7) for c in cutouts)]
    surfaces, cutouts = extend_to_images(surfaces, uncover(cutouts, surfaces), picture.width)
    rules = [r for r in rules if not any(_on_edge(r.rect, s.rect) for s in surfaces)]
    surfaces, rules = frame_pictures(*frame_up(surfaces, rules), cutouts)
    photos = [c.rect for c in cutouts if c.kind == "image"]
    surfaces = pool_alike(fit_in(round_corners(scan.pixels, surfaces, scale, photos)))
    surfaces, cutouts = close_switches(surfaces, cutouts, picture.pixels, scale)
    cutouts, empty = settle_choices(cutouts, picture.pixels, scale)
    surfaces = sorted([*surfaces, *empty], key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))
    cutouts = sorted([*box_icons(cutouts, text, surfaces), *given], key=lambda c: (c.rect.y, c.rect.x))
    return Ground(background, tuple(surfaces), tuple(rules), tuple(cutouts), float(explained), tuple(lost))


def _hard_edges(canvas: NDArray[np.float32]) -> NDArray[np.uint8]:
    """1 where the painted picture jumps from one pixel to the next."""
    painted = np.rint(canvas).astype(np.uint8)
    out = np.zeros(painted.shape[:2], np.uint8)
    out[:, 1:] |= apart(painted[:, 1:], painted[:, :-1]) > 24
    out[1:] |= apart(painted[1:], painted[:-1]) > 24
    return out


def _told(
    panels: Panels, scan: SurfaceScan, known: Known, scale: int
) -> tuple[list[Surface], list[Rule], list[Cutout]]:
    """Surfaces, lines and cutouts with the places that are known taken for what they are."""
    surfaces, rules, cutouts = list(panels.surfaces), list(panels.rules), []
    for rect, kind in known:
        surfaces = [s for s in surfaces if not s.rect.inside(rect.grow(2), 0.9)]
        rules = [r for r in rules if not r.rect.inside(rect.grow(2), 0.7)]
        part = scan.pixels[device_slices(rect, scale)].reshape(-1, 3)
        if kind in ("image", "icon"):
            hosts = [s for s in surfaces if rect.inside(s.rect, 0.95)]
            ground = min(hosts, key=lambda s: s.rect.area).fill if hosts else panels.background
            cutouts.append(Cutout(rect, kind, ground=ground.colour))
        elif kind == "surface" and part.size:
            values, counts = np.unique(pack(part[None])[0], return_counts=True)
            surface = Surface(rect, Fill(to_hex(unpack(int(values[counts.argmax()])))))
            surfaces += round_corners(scan.pixels, [surface], scale)
    return sorted(surfaces, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), rules, cutouts


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
    bands = {
        c: sum(h[3] - h[1] for h in hulls if h[4] == c and h[2] - h[0] >= FULL * width)
        for c in (best, 0xFFFFFF)
    }
    if bands[0xFFFFFF] >= WHITE * max(bands[best], 1):
        best = 0xFFFFFF  # bands of white and of a tint: a page is white unless it says otherwise
    red, green, blue = best >> 16 & 255, best >> 8 & 255, best & 255
    sparse = working[::2, ::2].reshape(-1, 3)
    near = sparse[(np.abs(sparse.astype(np.int16) - (red, green, blue)) <= RING).all(axis=1)]
    if (red, green, blue) not in ramps and near.size:
        # a ring of a shadow's may span more of the page than the ground it lies on
        values, counts = np.unique(pack(near), return_counts=True)
        best = int(values[counts.argmax()])
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
        inner = find_inner_shadow(around, np.array(region.colour), scale) if not fill.stops else None
        if inner is not None:
            t, r, b, left = inner[1]
            deep = 0.0 if region.radius == 0 else max(inner[1])
            region = replace(
                region, x0=region.x0 - left, y0=region.y0 - t, x1=region.x1 + r, y1=region.y1 + b, radius=region.radius + deep
            )  # fmt: skip
            around = rings(pixels, region, 26 * scale)
        border = find_border(
            around, np.array(region.colour) if not fill.stops else _at_edge(pixels, region), scale
        )
        if (
            border.colour
            and region.x1 - region.x0 <= KNOB * scale
            and _is_host(border.colour, region, regions)
        ):
            border = replace(border, widths=(0, 0, 0, 0), colour=None)
        if (
            same
            and sum(1 for w in border.widths if w) < 2
            and _open_ground(pixels, region, around, background)
        ):
            # a piece of the page's ground that other things happen to enclose, unless it is a ring that does
            hole = edges(region.x0 / scale, region.y0 / scale, region.x1 / scale, region.y1 / scale)
            ring = closed_ring(Surface(hole, fill), pixels, scale)
            out += [ring] if ring else []
            continue
        if _is_pill(region) and border.widths[0] == border.widths[2]:
            # a pill's ends are points: its border there is no line to be seen, and its tip is a mixture
            if border.widths[0] and not border.widths[1] and not border.widths[3]:
                region = replace(region, x0=region.x0 - 1, x1=region.x1 + 1)
            border = replace(border, widths=(border.widths[0],) * 4)
        shadow = find_shadow(around, border, scale)
        if shadow is None and (cast := _cast(border, around, region, scale)):
            shadow, border = cast, replace(border, widths=(0, 0, 0, 0), colour=None)
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
                rect, fill, tidy(min(radius, min(rect.w, rect.h) / 2)), (top / scale, right / scale, bottom / scale, left / scale),
                to_hex(border.colour) if border.colour else "", _shadow(shadow, scale), round(min(1.0, 0.5 + region.filled / 2), 3),
                inner=_shadow(inner[0], scale) if inner else None,
            )
        )  # fmt: skip
    return _drop_repeats(out)


def _is_host(colour: tuple[float, float, float], region: Region, regions: list[Region]) -> bool:
    """Is what looks like a small region's border the paint of what it lies on?"""
    return any(
        r.x0 <= region.x0 and r.y0 <= region.y0 and r.x1 >= region.x1 and r.y1 >= region.y1
        and r is not region and np.abs(np.array(r.colour) - colour).max() <= 1
        for r in regions
    )  # fmt: skip


def _cast(border: Border, around: list[NDArray[np.float64]], region: Region, scale: int) -> SoftShadow | None:
    """A line of shade under a filled box, a little darker than the ground, is the shadow it casts and no border."""
    top, right, bottom, left = border.widths
    below = around[2]
    if (
        top
        or right
        or left
        or not 0 < bottom <= 2 * scale
        or len(below) < bottom + 2
        or border.colour is None
    ):
        return None
    ground = below[bottom + 1]
    drop = ground - np.array(border.colour)
    fill = np.abs(np.array(region.colour) - ground).max()
    if not 2 <= drop.max() <= SHADE or drop.min() < 0 or fill < 2 * drop.max():
        return None
    opacity = float(drop.max() / max(ground.max(), 1.0))
    return SoftShadow(0.0, float(scale), 0.5 * scale, 0.0, (0.0, 0.0, 0.0), min(1.0, 1.3 * opacity))


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
        if 0.5 <= a <= 1.1 and off <= 6 and np.abs(side[1] - side[2]).max() <= 3:
            grow[i] = 1
    top, right, bottom, left = grow
    return replace(
        region, x0=region.x0 - left, y0=region.y0 - top, x1=region.x1 + right, y1=region.y1 + bottom
    )


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
    return any(
        r.h < 1.05 * t.h and r.w < max(1.1 * t.h, 0.7 * t.w) and r.inside(t.grow(1), 0.9) for t in text
    )


def _in_word(rule: Rect, text: list[Rect]) -> bool:
    """True for the stem or bar of a letter."""
    long = max(rule.w, rule.h)
    return any(long < 1.1 * t.h and rule.inside(t.grow(1), 0.9) for t in text)


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
