"""Flat and gradient regions to surfaces: what each is filled with, its border, its corners and its shadow."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import to_hex
from neige.core.reading.paint import gradient as painted_gradient
from neige.core.reading.surfaces.choices import closed_ring
from neige.core.reading.surfaces.corners import tidy
from neige.core.reading.surfaces.flat import Region
from neige.core.reading.surfaces.frame import (
    BAND_SHADE,
    Border,
    SoftShadow,
    find_band_shade,
    find_border,
    find_inner_shadow,
    find_shadow,
    rings,
)
from neige.core.reading.surfaces.gradient import Ramp
from neige.core.reading.surfaces.ground import fill_of

KNOB = 32.0  # px: a small region, whose border may be the ground that shows at its sides
SHADE = 28.0  # 8-bit steps by which the thin shadow under a button is darker than the ground
LOW, NEARLY_ROUND = (
    44.0,
    0.6,
)  # px that an outlined pill is high, and of half of that its ends' measured radius
BARE, PLAIN = 0.3, 12.0  # of its height at both ends in which nothing stands, within 8-bit steps
FADING, FADES = 4, 3.0  # px in which a shadow's edge grows paler, from its second on by so many 8-bit steps
BEYOND = 6  # px from a box's side outwards in which there is its ground alone
ACROSS = 0.9  # of the picture's width that the flat rest of a shaded band takes up
FRAME_OF = 0.97  # overlap of a border's outline with the box that it frames
WIDE_SHADOW = 20_000.0  # px² from which a surface may throw a shadow more than a few px wide


def painted_boxes(
    regions: list[Region],
    pixels: NDArray[np.uint8],
    ramps: dict[tuple[int, int, int], Ramp],
    background: Fill,
    scale: int,
) -> list[Surface]:
    """The surfaces that regions (device px) are, with all that shows at their edges; pieces of the page's ground are none."""
    height, width = pixels.shape[:2]
    evened = _evened(pixels, background) if background.stops else None
    out: list[Surface] = []
    for region in regions:
        box = (region.x0, region.y0, region.x1, region.y1)
        fill = fill_of(region.colour, box, ramps)
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
        inner = None
        if not fill.stops:
            inner = find_inner_shadow(around, np.array(region.colour), scale)
            if inner is None and region.x1 - region.x0 >= ACROSS * width:
                far = rings(pixels, region, BAND_SHADE * scale)
                inner = find_band_shade(far, np.array(region.colour), scale)
        if inner is not None:
            t, r, b, left = inner[1]
            across = (
                region.x1 + r - region.x0 + left >= width
            )  # a band whose flat rest is round, but not itself
            radius = 0.0 if region.radius == 0 or across else region.radius + max(inner[1])
            region = replace(
                region, x0=region.x0 - left, y0=region.y0 - t, x1=region.x1 + r, y1=region.y1 + b, radius=radius
            )  # fmt: skip
            around = rings(pixels, region, 26 * scale)
        border = find_border(
            around, np.array(region.colour) if not fill.stops else _at_edge(pixels, region), scale
        )
        if border.colour and (_is_shade(around, border) or _is_ground(around, border)):
            border = replace(border, widths=(0, 0, 0, 0), colour=None)
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
        pill = _is_pill(region) or _is_open_pill(region, border, pixels, scale)
        if pill and border.widths[0] == border.widths[2]:
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
        corner = half if pill else region.radius
        radius = (corner + (max(border.widths) if corner else 0)) / scale
        out.append(
            Surface(
                rect, fill, tidy(min(radius, min(rect.w, rect.h) / 2)), (top / scale, right / scale, bottom / scale, left / scale),
                to_hex(border.colour) if border.colour else "", _shadow(shadow, scale), round(min(1.0, 0.5 + region.filled / 2), 3),
                inner=_shadow(inner[0], scale) if inner else None,
            )
        )  # fmt: skip
    return _drop_repeats(out)


def _is_shade(around: list[NDArray[np.float64]], border: Border) -> bool:
    """Are lines beside a box, but neither above nor below it, where a soft shadow begins? It goes on growing paler, under the box
    as well."""
    top, right, bottom, left = border.widths
    if top or bottom or not right == left == 1:
        return False
    sides = [side[:FADING].mean(axis=1) for side in around[1:]]
    return all(len(s) == FADING and bool((np.diff(s) >= 0).all()) and s[-1] - s[1] >= FADES for s in sides)


def _is_ground(around: list[NDArray[np.float64]], border: Border) -> bool:
    """Are lines on some sides only of the colour that is beyond the others: the ground, which shows between what stands there?"""
    bare = [side for side, width in zip(around, border.widths) if not width]
    return 0 < len(bare) < 4 and all(
        len(side) > BEYOND and np.abs(side[1 : BEYOND + 1] - np.array(border.colour)).max() <= 1
        for side in bare
    )


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


def _is_open_pill(region: Region, border: Border, pixels: NDArray[np.uint8], scale: int) -> bool:
    """True for a low box with lines above and below it alone, and ends that are nearly round: an outlined pill, if nothing stands
    in its ends (the knob of a switch does)."""
    top, right, bottom, left = border.widths
    high = region.y1 - region.y0
    if (
        not 0 < top == bottom
        or right
        or left
        or high > LOW * scale
        or region.radius < NEARLY_ROUND * high / 2
    ):
        return False
    row, end = pixels[(region.y0 + region.y1) // 2, region.x0 : region.x1], max(1, round(BARE * high))
    ends = np.concatenate([row[:end], row[-end:]]).astype(np.float64)
    return bool(np.abs(ends - region.colour).max() <= PLAIN)


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
    """Leave out what is found twice: by its colour, or by two lines of the shade in it."""
    out: list[Surface] = []
    for s in surfaces:
        same = [o for o in out if o.rect.iou(s.rect) > 0.97 and (o.fill == s.fill or (o.inner and s.inner))]
        if all(o.inner and s.confidence > o.confidence for o in same):
            out = [*(o for o in out if o not in same), s]
    framed = [s for s in out if all(s.border)]
    return [s for s in out if any(s.border) or not any(_is_frame_of(s, o) for o in framed)]


def _is_frame_of(s: Surface, o: Surface) -> bool:
    """Is a box what another's border shows of it?"""
    return s.fill.colour == o.border_colour and not s.fill.stops and o.rect.iou(s.rect) > FRAME_OF
