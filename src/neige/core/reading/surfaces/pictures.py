"""Which of the flat areas found are parts of a picture: shapes of an icon, the pale ground of a product photo."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Rect, Rule, Surface
from neige.core.reading.colour import apart, away_from, from_hex
from neige.core.reading.surfaces.cards import beside
from neige.core.reading.surfaces.rectangles import rounded_mask
from neige.core.reading.surfaces.remains import device_slices

LARGEST_PLATEAU = 20_000.0  # px²
SMALL = 96.0  # px: the longest side of what may be a shape in an icon
ODD = 20.0  # px: smaller things do not have borders on some of their sides only
BOX = (10.0, 28.0)  # px: sides of check boxes and radio buttons
FAINT = 3.0  # 8-bit steps from its ground at which nobody sees a panel
INKED = 0.02  # of a faint panel's area that has other ink on it, when it is a picture's ground
OFF_CENTRE = 0.14  # of the side by which a mark in a badge may be off its middle
RING = (2.5, 5.0)  # px around a shape in which the rest of its icon would touch it
EM_BOXES = (12.0, 16.0, 20.0, 24.0, 28.0, 32.0, 40.0, 48.0, 64.0, 80.0, 96.0)
CARET, FLAT = 9.0, 1.3  # px and width to height: a mark no larger, and so flat, is an arrow head that opens,
DOT = 5.0  # px: and one no larger at all a dot; they have no box of their own
UPRIGHT = 3.0  # height to width of a mark from which it is a bar
COVERS = 0.93  # of its box that an opaque mark covers
PALE_MIN = 24.0  # px: longer side of a picture that may have a pale ground
PALE_FILL = 0.6  # of the box round a pale ground that it must fill
ABUT, FELLOWS = 2.5, 2  # px between the sides of cells; cells that share a side with one
TILE = 80.0  # px: the shortest side of a photo in a mosaic
JUMP = 10  # 8-bit steps
SEEN, CARD_EDGE = 0.1, 2.0  # of a row that no card covers at least; px round these
ACROSS = 0.5  # of a picture's width that a card across a seam of it takes
SEAM = 0.8  # of the rows that jump at a seam
REACHES = 0.1  # of a word's box inside and outside a picture that it reaches into
ROUND_WORDS = 4.0  # px round words that are left out
UNSEEN, REST = 12.0, 0.01  # 8-bit steps from its ground by which nobody sees a picture, but for so much of it


def take_shapes(
    surfaces: list[Surface],
    remains: NDArray[np.bool_],
    text: list[Rect],
    background: Fill,
    page_area: float,
    scale: int,
) -> list[Surface]:
    """The surfaces that are not parts of pictures; the boxes of those that are get marked in `remains` (H, W), in place."""
    ink = remains.copy()
    for t in text:
        ink[device_slices(t.grow(2), scale)] = False
    kept = []
    for s in surfaces:
        worded = any(s.rect.x <= t.cx <= s.rect.right and s.rect.y <= t.cy <= s.rect.bottom for t in text)
        part = (
            not worded
            and s.rect.area < 0.25 * page_area
            and _is_shape(s, surfaces, ink, background, scale)
            and not _is_cell(s, surfaces)
        )
        if part:
            remains[device_slices(s.rect, scale)] = True
        else:
            kept.append(s)
    return kept


def _is_cell(s: Surface, surfaces: list[Surface]) -> bool:
    """Is a framed box one of several that share whole sides: a table's cell, with something in it that could not be read?"""
    if not all(s.border) or s.radius > ABUT:
        return False
    r = s.rect

    def under(o: Rect) -> bool:
        touch = min(abs(o.y - r.bottom), abs(r.y - o.bottom)) <= ABUT
        return touch and abs(o.x - r.x) <= ABUT and abs(o.w - r.w) <= ABUT

    cells = (o.rect for o in surfaces if o is not s and all(o.border))
    return sum(beside(r, o) or under(o) for o in cells) >= FELLOWS


def _unseen(
    s: Surface, surfaces: list[Surface], ink: NDArray[np.bool_], background: Fill, scale: int
) -> bool:
    """A plateau in the shade of something else: hardly another colour than its ground, with an edge on one side at most."""
    if sum(1 for w in s.border if w) != 1 or s.shadow is not None or s.fill.stops or s.accent:
        return False
    hosts = [o for o in surfaces if o is not s and s.rect.inside(o.rect, 0.98) and o.rect.area > s.rect.area]
    host = min(hosts, key=lambda o: o.rect.area).fill if hosts else background
    off = float(np.abs(from_hex(host.colour) - from_hex(s.fill.colour)).max())
    return not host.stops and off <= FAINT and not s.rect.area > LARGEST_PLATEAU


def _is_shape(
    s: Surface, surfaces: list[Surface], ink: NDArray[np.bool_], background: Fill, scale: int
) -> bool:
    longest, shortest = max(s.rect.w, s.rect.h), min(s.rect.w, s.rect.h)
    sides = sum(1 for w in s.border if w)
    if not sides and s.shadow is None and not s.fill.stops:
        hosts = [
            o for o in surfaces if o is not s and s.rect.inside(o.rect, 0.98) and o.rect.area > s.rect.area
        ]
        host = min(hosts, key=lambda o: o.rect.area).fill if hosts else background
        off = float(np.abs(from_hex(host.colour) - from_hex(s.fill.colour)).max())
        if not host.stops and off <= FAINT:
            inside = ink[device_slices(s.rect.grow(2), scale)]
            return bool(inside.size) and float(inside.mean()) > INKED
    if longest > SMALL or (sides == 4 and BOX[0] <= shortest and longest <= BOX[1]):
        return False
    if 1 <= sides <= 3 and longest <= ODD and s.accent is None:
        return True
    ring = ink[device_slices(s.rect.grow(RING[1]), scale)].copy()
    within = s.rect.grow(RING[0])
    wide = s.rect.grow(RING[1])
    dy, dx = round((within.y - wide.y) * scale), round((within.x - wide.x) * scale)
    if ring.shape[0] > 2 * dy and ring.shape[1] > 2 * dx:
        ring[dy:-dy, dx:-dx] = False
    if ring.sum() >= 5 * scale * scale:
        return True
    inset = min(3.0, 0.15 * shortest)
    inside = ink[device_slices(s.rect.grow(-inset), scale)]
    if s.radius > 2:
        inside = inside & (rounded_mask(inside.shape[0], inside.shape[1], 1.25 * s.radius * scale) > 0.98)
    if inside.sum() < 12 * scale * scale:
        return False
    rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
    middle = (
        (columns[0] + columns[-1] + 1) / 2 / inside.shape[1],
        (rows[0] + rows[-1] + 1) / 2 / inside.shape[0],
    )
    off_centre = max(abs(middle[0] - 0.5), abs(middle[1] - 0.5)) > OFF_CENTRE
    cuts_edge = (
        rows[0] == 0
        or columns[0] == 0
        or rows[-1] == inside.shape[0] - 1
        or columns[-1] == inside.shape[1] - 1
    )
    return off_centre or cuts_edge


def box_icons(
    cutouts: list[Cutout],
    text: list[Rect],
    surfaces: list[Surface],
    rules: Sequence[Rule] = (),
    opaque: Sequence[Cutout] = (),
    page: Rect | None = None,
) -> list[Cutout]:
    """Icons in the square boxes they are drawn in, as far as these are on the `page`.

    A mark hardly ever touches all sides of its square: the box is the next usual size above its ink, centred on it, where
    nothing else is in its way. Arrow heads at a text's end are drawn in such squares, too; bars, dots and arrows that open are not, nor those
    that are `opaque`: a flag's edges are its own, nor the tick in a small box.
    """
    out: list[Cutout] = []
    for c in cutouts:
        r = c.rect
        ink = max(r.w, r.h)
        opens = ink <= CARET and r.w >= FLAT * r.h
        bare = not DOT < ink <= SMALL or opens or r.h > UPRIGHT * r.w or any(_is_tick(r, s) for s in surfaces)
        if c.kind != "icon" or bare or any(c is o for o in opaque):
            out.append(c)
            continue
        side = next((e for e in EM_BOXES if e >= ink - 0.5), ink)
        box = Rect(round(r.cx - side / 2), round(r.cy - side / 2), side, side)
        blocked = (
            box.x < 0
            or box.y < 0
            or (page is not None and not box.inside(page, 0.999))
            or any(box.meet(t) > 0 for t in (*text, *(n.rect for n in rules)))
            or any(box.meet(o.rect) > 0 for o in cutouts if o is not c)
            or any(
                box.meet(s.rect) > 0 and not (r.inside(s.rect, 0.5) and box.inside(s.rect, 0.999))
                for s in surfaces
            )
        )
        out.append(c if blocked else replace(c, rect=box))
    return out


def _is_tick(r: Rect, s: Surface) -> bool:
    """Does a mark lie in a box that is as small as those that are ticked?"""
    return max(s.rect.w, s.rect.h) <= BOX[1] and abs(s.rect.w - s.rect.h) <= 1.5 and r.inside(s.rect, 0.99)


def is_opaque(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> bool:
    """Does a mark cover its whole box, but for its corners?"""
    part = pixels[device_slices(c.rect, scale)].astype(np.int16)
    inked = np.abs(part - np.rint(from_hex(c.ground)).astype(np.int16)).max(axis=2, initial=0) > FAINT
    return bool(inked.mean() >= COVERS) if inked.size else False


def grow_to_pale(
    cutouts: list[Cutout], faint: NDArray[np.bool_], text: list[Rect], scale: int
) -> list[Cutout]:
    """Pictures whose own ground is so pale that it is taken for the page's: cut where that ground ends.

    `faint` (H, W): pixels that are not exactly what was painted, text left out. Flat ground is exact, a photo's white is not.
    """
    solid = cv2.morphologyEx(faint.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(solid, connectivity=8)
    grown: dict[int, Rect] = {}
    out: list[Cutout] = []
    for c in cutouts:
        part = labels[device_slices(c.rect, scale)]
        numbers = np.bincount(part.ravel(), minlength=count)
        numbers[0] = 0
        best = int(numbers.argmax())
        x, y, w, h, area = (int(v) for v in stats[best])
        box = Rect(x / scale, y / scale, w / scale, h / scale)
        if (
            not numbers[best]
            or c.backdrop
            or max(c.rect.w, c.rect.h) < PALE_MIN
            or area < PALE_FILL * w * h
            or not 1.08 * c.rect.area < box.area < 12 * c.rect.area
            or any(t.meet(box) > 0 for t in text)
        ):
            out.append(c)
        elif best not in grown:
            grown[best] = box
    whole = [Cutout(r, "image", ground=cutouts[0].ground) for r in grown.values()]
    return whole + [c for c in out if not any(c.rect.inside(r, 0.8) for r in grown.values())]


def split_mosaics(
    cutouts: list[Cutout],
    pixels: NDArray[np.uint8],
    text: list[Rect],
    surfaces: Sequence[Surface],
    scale: int,
) -> list[Cutout]:
    """Photos that touch: cut along the straight seams that run through the whole picture. The edges of cards on it are none, and
    what a card lies across is one ground."""
    out: list[Cutout] = []
    for c in cutouts:
        if c.kind != "image" or c.radius or min(c.rect.w, c.rect.h) < 2 * TILE:
            out.append(c)
            continue
        part = pixels[device_slices(c.rect, scale)]
        bare = np.ones(part.shape[:2], bool)
        cards = [
            Rect(s.rect.x - c.rect.x, s.rect.y - c.rect.y, s.rect.w, s.rect.h)
            for s in surfaces
            if not c.rect.inside(s.rect, 0.98)
        ]
        for r in cards:
            bare[device_slices(r.grow(CARD_EDGE), scale)] = False
        xs, ys = _seams(part, bare, scale), _seams(part.transpose(1, 0, 2), bare.T, scale)
        wide = [r for r in cards if r.w > ACROSS * c.rect.w]
        ys = [y for y in ys if not any(r.y + TILE < y / scale < r.bottom - TILE for r in wide)]
        for y0, y1 in itertools.pairwise([0, *ys, part.shape[0]]):
            for x0, x1 in itertools.pairwise([0, *xs, part.shape[1]]):
                rect = Rect(
                    c.rect.x + x0 / scale, c.rect.y + y0 / scale, (x1 - x0) / scale, (y1 - y0) / scale
                )
                over = c.backdrop and any(t.inside(rect, 0.8) for t in text)
                out.append(replace(c, rect=rect, backdrop=over))
    return out


def _seams(part: NDArray[np.uint8], bare: NDArray[np.bool_], scale: int) -> list[int]:
    """Columns (px) before which nearly every row jumps, of those where the photo (h, w, 3) is `bare` (h, w), and beside which few do."""
    seen = bare[:, 1:] & bare[:, :-1]
    jumps = (apart(part[:, 1:], part[:, :-1]) > JUMP) & seen
    enough = seen.mean(axis=0) >= SEEN
    step = np.where(enough, jumps.sum(axis=0) / np.maximum(seen.sum(axis=0), 1), 0.0)
    out: list[int] = []
    for x in np.flatnonzero(step >= SEAM).tolist():
        beside = np.concatenate([step[max(0, x - 5) : x - 1], step[x + 2 : x + 6]])
        calm = beside.size > 0 and float(np.median(beside)) < 0.5 * step[x]
        if calm and x + 1 - (out[-1] if out else 0) >= TILE * scale and part.shape[1] - x - 1 >= TILE * scale:
            out.append(x + 1)
    return out


def drop_faint(
    cutouts: list[Cutout], pixels: NDArray[np.uint8], text: list[Rect], scale: int
) -> list[Cutout]:
    """Leave out pictures that hardly anyone sees and that words reach into from outside: a faint pattern on the ground, which would
    cover the beginnings of these words."""

    def faint(c: Cutout) -> bool:
        across = [t for t in text if t.meet(c.rect) > REACHES * t.area and not t.inside(c.rect, 1 - REACHES)]
        if c.kind != "image" or not across:
            return False
        x0, y0 = c.rect.x, c.rect.y
        off = away_from(pixels[device_slices(c.rect, scale)], from_hex(c.ground))
        for t in text:
            if t.meet(c.rect):
                g = t.grow(ROUND_WORDS)
                off[
                    max(0, int((g.y - y0) * scale)) : max(0, int((g.bottom - y0) * scale) + 1),
                    max(0, int((g.x - x0) * scale)) : max(0, int((g.right - x0) * scale) + 1),
                ] = 0
        return bool(float((off > UNSEEN).mean()) <= REST)

    return [c for c in cutouts if not faint(c)]
