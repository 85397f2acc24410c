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
from neige.core.reading.paint import paint, paint_rule
from neige.core.reading.surfaces.badges import take_badges
from neige.core.reading.surfaces.boxes import painted_boxes
from neige.core.reading.surfaces.cards import (
    accent_sides,
    drop_straddled,
    extend_to_images,
    fit_in,
    join_alike,
    join_sides,
    join_stacks,
    pool_alike,
)
from neige.core.reading.surfaces.cast import Cast, give_casts, lift_casts, shaded
from neige.core.reading.surfaces.choices import close_rings, close_switches, settle_choices
from neige.core.reading.surfaces.corners import Measured, round_corners
from neige.core.reading.surfaces.dashes import dashed_frames, dotted_lines, frame_of, put_dashed
from neige.core.reading.surfaces.ends import lay_under
from neige.core.reading.surfaces.flat import Hull, Region, find_regions, snap_to_dominant
from neige.core.reading.surfaces.flatten import flatten
from neige.core.reading.surfaces.framed import frame_on, frame_up, frames_of_sides
from neige.core.reading.surfaces.free_lines import free_lines
from neige.core.reading.surfaces.gradient import Ramp, find_ramps
from neige.core.reading.surfaces.ground import page_ground
from neige.core.reading.surfaces.layers import in_layers
from neige.core.reading.surfaces.painted import without_photos
from neige.core.reading.surfaces.panels import (
    bridge_bars,
    bridge_cards,
    bridge_panels,
    join_side_panels,
    lay_under_cells,
)
from neige.core.reading.surfaces.pictured import bare_ground, in_picture, is_photo, on_photo
from neige.core.reading.surfaces.pictures import (
    box_icons,
    drop_faint,
    grow_to_pale,
    is_opaque,
    split_mosaics,
    take_shapes,
)
from neige.core.reading.surfaces.pieces import absorb_skies, uncover
from neige.core.reading.surfaces.piles import pile_up, without_own_shade
from neige.core.reading.surfaces.remains import device_slices, find_cutouts, lies_across, soft_shade
from neige.core.reading.surfaces.rules import find_rules
from neige.core.reading.surfaces.several_shadows import fit_several
from neige.core.reading.surfaces.shade import (
    drop_ground,
    drop_shade,
    drop_spill,
    join_shade,
    strips_of_ground,
)
from neige.core.reading.surfaces.shaded_bands import shaded_bands
from neige.core.reading.surfaces.shadows import cards_of_stacks, drop_cast_shade, share_shadows
from neige.core.reading.surfaces.sides import (
    frame_pictures,
    leave_to_host,
    mark_entries,
    settle_sides,
    share_borders,
    take_rims,
)
from neige.core.reading.surfaces.small_gradients import find_small
from neige.core.reading.surfaces.tracks import complete_tracks, thin_tracks

EXPLAINED = 7.0  # 8-bit steps by which a painted pixel may differ from the picture
DOUBTFUL = 8.0  # 8-bit steps that the picture is off around a surface on average, if its shadow is doubted
LIFTED = 32  # 8-bit steps from the painting up to which what is left of a lifted shadow is no picture's
SMALL = 120.0  # px: what casts its shadow around it and is no card with a picture
RINGING = (
    17  # px: how far compression noise reaches from an edge, both ways (a block of colour is 16 px wide)
)
Known = Sequence[
    tuple[Rect, str]
]  # places (CSS px) and what they are: "image", "icon", "surface" or "ignore"


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
class Gradients:
    """The gradients of a picture. In `bare` its shadows `casts` are undone, in `pixels` compression noise, too; in `working` gradients
    are flat, in colours that are keys of `ramps`."""

    pixels: NDArray[np.uint8]
    working: NDArray[np.uint8]
    ramps: dict[tuple[int, int, int], Ramp]
    bare: NDArray[np.uint8]
    casts: list[Cast]


@dataclass(frozen=True)
class SurfaceScan(Gradients):
    """What can be found before any text is known."""

    regions: list[Region]
    hulls: list[Hull]
    rules: list[Rule]
    dashed: list[Surface]


def scan_gradients(picture: Picture) -> Gradients:
    """Where colours change along a line or round a centre."""
    bare, casts = (picture.pixels, []) if picture.noise else lift_casts(picture.pixels, picture.scale)
    found = find_ramps(bare)
    if not picture.noise:
        found = without_photos(found, bare)
        found += find_small(bare, found, picture.scale)
    pixels = snap_to_dominant(bare, picture.noise) if picture.noise else bare
    return Gradients(pixels, *flatten(pixels, found, bare, picture.noise), bare, casts)


def scan_surfaces(picture: Picture, found: Gradients | None = None) -> SurfaceScan:
    """Gradients, flat regions and thin lines. Needs no text, so that it can run while the text is read."""
    g = found or scan_gradients(picture)
    regions, hulls, specks = find_regions(g.working, picture.scale, picture.noise > 0)
    dashed = dashed_frames(g.pixels, specks, picture.scale)
    dotted, lines = dotted_lines(g.pixels, picture.scale)
    rules = find_rules(g.working, picture.scale) + lines
    return SurfaceScan(**vars(g), regions=regions, hulls=hulls, rules=rules, dashed=dashed + dotted)


@dataclass(frozen=True)
class Panels:
    """What is painted flat: the page's ground, surfaces, and lines."""

    background: Fill
    surfaces: list[Surface]
    rules: list[Rule]
    corners: Measured


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
    background = page_ground(scan.working, scan.hulls, scan.ramps)
    regions = pile_up(regions, scan.pixels, background, round(picture.width * scale), scale)
    surfaces = without_own_shade(painted_boxes(regions, scan.pixels, scan.ramps, background, scale))
    surfaces = bridge_bars(bridge_panels(join_alike(surfaces), picture.width), picture.width)
    surfaces = close_rings(bridge_cards(surfaces, picture.width), scan.pixels, scale)
    surfaces = drop_straddled(join_sides(join_stacks(surfaces, picture.width)), picture.width)
    measured: Measured = {}
    surfaces = drop_shade(round_corners(scan.pixels, join_shade(surfaces), scale, (), measured))
    rules = [r for r in scan.rules if not _in_word(r.rect, text) and _stands_out(r, surfaces, background)]
    surfaces, rules = join_side_panels(surfaces, rules, picture.width)
    surfaces, rules = frame_on(*frames_of_sides(surfaces, rules, background))
    surfaces = strips_of_ground(surfaces, scan.pixels, background, scale)
    surfaces, rules = accent_sides(put_dashed(surfaces, scan.dashed), rules)
    surfaces, rules = thin_tracks(surfaces, rules, scan.pixels, scale)
    if not picture.noise:
        surfaces = share_shadows(surfaces, background, scan.pixels, scale)
        surfaces = cards_of_stacks(surfaces, background, scan.pixels, scale)
        surfaces = drop_cast_shade(fit_several(surfaces, background, scan.pixels, scale), background)
    surfaces = share_borders(
        settle_sides(fit_in(complete_tracks(surfaces, text, scan.pixels, scale)), background)
    )
    surfaces = lay_under_cells(lay_under(leave_to_host(surfaces)))
    surfaces = drop_spill(drop_ground(give_casts(surfaces, scan.casts), background), background)
    rules = free_lines(rules, surfaces, background)
    return Panels(background, *mark_entries(surfaces, rules, text), measured)


def find_pictures(
    picture: Picture, panels: Panels, text: list[Rect], scan: SurfaceScan, known: Known = ()
) -> Ground:
    """Paint the panels back; what they leave unexplained is cut out. `known` places are what they are said to be."""
    scale, background, picture = picture.scale, panels.background, replace(picture, pixels=scan.bare)
    surfaces, rules, given = _told(panels, scan, known, scale)
    photo = not picture.noise and is_photo(background, surfaces, picture.pixels, scale)
    if photo:
        surfaces = on_photo(surfaces, picture.pixels, scale)
    surfaces = in_layers(surfaces, scan.pixels, scale)
    surfaces, canvas, off = _without_false_shadows(
        picture, background, surfaces, rules, scan.pixels, [c.shadow for c in scan.casts]
    )
    remains = off > EXPLAINED + 3 * picture.noise
    remains &= ~soft_shade(picture.pixels, canvas, remains)
    if photo:
        remains |= bare_ground(surfaces, remains.shape, scale)
    if picture.noise:  # ringing beside hard edges is a few px wide, and nobody's picture
        ringing = cv2.dilate(_hard_edges(canvas), np.ones((RINGING, RINGING), np.uint8)) > 0
        remains &= ~(ringing & (apart(np.rint(canvas).astype(np.uint8), picture.pixels) < 90))
    for cast in scan.casts:  # where two shadows meet, what is lifted is a few steps off
        at = device_slices(shaded(cast), scale)
        remains[at] &= off[at] > LIFTED
    for rect, kind in known:
        if kind != "surface":
            remains[device_slices(rect, scale)] = False
    for s in surfaces:
        if s.border_style != "solid":
            remains &= ~frame_of(s, remains.shape, scale)
    for r in rules:  # where dots begin is the browser's choice
        if r.style != "solid":
            remains[device_slices(r.rect, scale)] = False
    surfaces = take_shapes(surfaces, remains, text, background, picture.width * picture.height, scale)
    cutouts, lost, explained = find_cutouts(picture, remains, text, surfaces, background)
    if not picture.noise:
        faint = off > 0
        tiles = [s.rect for s in surfaces if s.fill.stops and max(s.rect.w, s.rect.h) <= SMALL]
        for place in [*text, *tiles]:  # a gradient is never exact
            faint[device_slices(place, scale)] = False
        _without_shadows(faint, surfaces, scale)
        cutouts = grow_to_pale(cutouts, faint, text, scale)
        badges, cutouts = take_badges(cutouts, picture.pixels, text, scale)
        surfaces = [*surfaces, *badges]
    cutouts = drop_faint(cutouts, picture.pixels, text, scale)
    cutouts = split_mosaics(cutouts, picture.pixels, text, surfaces, scale)
    surfaces, cutouts = absorb_skies(surfaces, cutouts, picture.pixels, text, scale)
    surfaces = _drop_inside(surfaces, cutouts, text)
    rules = [r for r in rules if not in_picture(r.rect, surfaces, cutouts)]
    surfaces, cutouts = extend_to_images(surfaces, uncover(cutouts, surfaces), picture.width)
    rules = free_lines(rules, surfaces, background)
    rules, cutouts = take_rims(rules, cutouts)
    surfaces, rules = frame_pictures(*frame_up(surfaces, rules), cutouts)
    photos = [c.rect for c in cutouts if c.kind == "image"]
    surfaces = pool_alike(fit_in(round_corners(scan.pixels, surfaces, scale, photos, panels.corners)))
    surfaces, cutouts = close_switches(surfaces, cutouts, picture.pixels, scale)
    cutouts, empty = settle_choices(cutouts, picture.pixels, scale)
    cutouts, bands = shaded_bands(cutouts, picture.pixels, scale)
    surfaces = in_layers([*surfaces, *empty, *bands], scan.pixels, scale)
    opaque = [c for c in cutouts if c.kind == "icon" and is_opaque(c, picture.pixels, scale)]
    page = Rect(0, 0, picture.width, picture.height)
    boxed = box_icons(cutouts, text, surfaces, rules, opaque, page)
    cutouts = sorted([*boxed, *given], key=lambda c: (c.rect.y, c.rect.x))
    return Ground(background, tuple(surfaces), tuple(rules), tuple(cutouts), float(explained), tuple(lost))


def _without_false_shadows(
    picture: Picture,
    background: Fill,
    surfaces: list[Surface],
    rules: list[Rule],
    pixels: NDArray[np.uint8],
    lifted: Sequence[Shadow] = (),
) -> tuple[list[Surface], NDArray[np.float32], NDArray[np.uint8]]:
    """(surfaces, painting, how far it is off): without the shadows around which the picture is more like it is without them.
    Those that were `lifted` are not in `pixels` any more."""

    def painted(these: list[Surface]) -> tuple[NDArray[np.float32], NDArray[np.uint8]]:
        canvas = _paint(picture, background, these, rules)
        return canvas, apart(np.rint(canvas).astype(np.uint8), pixels)

    def around(s: Surface, off: NDArray[np.uint8]) -> float:
        ring = off[device_slices(s.rect.grow(_reach(s)), picture.scale)].astype(np.float32)
        own = float(off[device_slices(s.rect, picture.scale)].sum(dtype=np.float64))
        return (float(ring.sum(dtype=np.float64)) - own) / max(
            1.0, ring.size - s.rect.area * picture.scale**2
        )

    canvas, off = painted(surfaces)
    doubted = {id(s) for s in surfaces if s.shadow and s.shadow not in lifted and around(s, off) > DOUBTFUL}
    if not doubted:
        return surfaces, canvas, off
    bare = [replace(s, shadow=None) if id(s) in doubted else s for s in surfaces]
    _, other = painted(bare)
    kept = [b if b is not s and around(s, other) < around(s, off) else s for s, b in zip(surfaces, bare)]
    return kept, *(painted(kept) if kept != surfaces else (canvas, off))


def _reach(s: Surface) -> float:
    """px that a surface's shadow reaches beyond it."""
    return s.shadow.reach if s.shadow else 0.0


def _without_shadows(faint: NDArray[np.bool_], surfaces: list[Surface], scale: int) -> None:
    """Leave out, in place, what lies in the reach of small surfaces' shadows: where these are a step off, no picture goes on."""
    for s in surfaces:
        if s.shadow is None or max(s.rect.w, s.rect.h) > SMALL:
            continue
        inside = faint[device_slices(s.rect, scale)].copy()
        faint[device_slices(s.rect.grow(_reach(s)), scale)] = False
        faint[device_slices(s.rect, scale)] = inside


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
    return surfaces, rules, cutouts


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


def _stands_out(rule: Rule, surfaces: list[Surface], background: Fill) -> bool:
    """False for what is only the ground that shows between two things."""
    hosts = [s for s in surfaces if rule.rect.inside(s.rect, 0.99)]
    ground = min(hosts, key=lambda s: s.rect.area).fill if hosts else background
    return bool(ground.stops) or rule.colour != ground.colour


def _in_word(rule: Rect, text: list[Rect]) -> bool:
    """True for the stem or bar of a letter."""
    long = max(rule.w, rule.h)
    return any(long < 1.1 * t.h and rule.inside(t.grow(1), 0.9) for t in text)


def _drop_inside(surfaces: list[Surface], cutouts: list[Cutout], text: list[Rect]) -> list[Surface]:
    """Flat areas of a photo or illustration are not surfaces of their own; on a backdrop those that hold text are, and what lies on
    flat cards with text in turn."""
    holding: dict[int, bool] = {}

    def holds_text(s: Surface) -> bool:
        if id(s) not in holding:
            holding[id(s)] = any(t.inside(s.rect, 0.9) for t in text)
        return holding[id(s)]

    def on_card(s: Surface, host: Cutout) -> bool:
        return any(
            s.rect.inside(o.rect, 0.98)
            and (lies_across(o.rect, host.rect) or (host.backdrop and not o.fill.stops and holds_text(o)))
            for o in surfaces
            if o is not s
        )

    out = []
    for s in surfaces:
        host = next(
            (c for c in cutouts if s.rect.inside(c.rect, 0.9) and s.rect.area < 0.95 * c.rect.area), None
        )
        if host is None or on_card(s, host) or (host.backdrop and holds_text(s)):
            out.append(s)
    return out
