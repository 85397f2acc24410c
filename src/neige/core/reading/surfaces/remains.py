"""What the painted surfaces leave unexplained: images, icons, or places nobody accounts for."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Picture, Rect, Surface
from neige.core.model.geometry import edges, union
from neige.core.reading.colour import pack, to_hex, unpack
from neige.core.reading.surfaces.discs import NUDGE, find_discs
from neige.core.reading.text.ink import spans

SMOOTH = 3  # 8-bit steps from one pixel to the next inside a shadow
DEEPEST = 110  # 8-bit steps by which a shadow darkens at most
BRIGHTEST = 40  # and by which a shadow painted too dark is off the other way
WEB = 0.05  # share of a box with words in it that an illustration inks at least
SPARSE = 0.2  # of a box that is no illustration: so much is unexplained at most,
PAVED = 0.5  # and so much are surfaces with words at least
TOUCHING = 8.0  # px between parts of one illustration
HALF = (
    0.5  # of a part's area from which one that lies in it, or nearly so, is no picture on it but a part, too
)
CARD = 8000.0  # px² from which a surface parts what lies across its edge
GROUNDED = 2000  # px of plain ground that a shadow passes into
CORE = 2.0  # px from a drawing's dense middle to its other parts,
CORE_PARTS = 3.0  # and times as large as it they are at most
ICON_MAX = 96  # px: larger things with few gaps are images
MIN_SIDE = 5  # px
JOIN = 3  # px: parts of one icon stand no farther apart
MARK = (3.0, 16.0)  # px: the smaller and the larger side of an arrow beside words
HOLLOW, EDGE, INSIDE = (
    120,
    0.1,
    0.02,
)  # px of a frame's side; its thickness; of its ink that is farther inside
MARKS = 3  # arrows under one another, which may stand anywhere
MARK_GAP = 18.0  # px from the words
IMAGE_DENSITY = 0.55  # of a box that must be unexplained for a photo
MIN_IMAGE = 28  # px
SOLID, ONE_COLOUR = 48.0, 0.25  # px: the side of an icon that is solid, and how much of it has its colour
BARE = 0.08  # of the tenth of its box at a corner that a disc inks at most: rounded corners ink more
UNCOVERED = 0.03  # of a photo's side that must be seen where a card lies on it


def soft_shade(
    pixels: NDArray[np.uint8], canvas: NDArray[np.float32], remains: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Which unexplained pixels are only shade: the painted ground, a little darker, and passing into it without an edge.

    A wide soft shadow is that. A picture has an edge where it begins.
    """
    if not remains.any():
        return remains
    smooth = np.ones(remains.shape, bool)
    for channel in range(3):  # one at a time: a quarter of the memory, and a third of the time
        off = pixels[..., channel].astype(np.int16) - np.rint(canvas[..., channel]).astype(np.int16)
        for axis in (0, 1):
            step = np.abs(np.diff(off, axis=axis)) <= SMOOTH
            a, b = (slice(None, -1), slice(None)), (slice(1, None), slice(None))
            if axis:
                a, b = a[::-1], b[::-1]
            smooth[a] &= step
            smooth[b] &= step
        smooth &= (off <= BRIGHTEST) & (off >= -DEEPEST)
    count, labels = cv2.connectedComponents(smooth.astype(np.uint8), connectivity=4)
    total = np.bincount(labels.ravel(), minlength=count)
    shaded = np.bincount(labels[remains], minlength=count)
    grounded = (total - shaded >= np.maximum(GROUNDED, 0.3 * shaded)) & (shaded > 0)
    grounded[0] = False
    return np.asarray(cv2.dilate(grounded[labels].astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) & remains


def find_cutouts(
    picture: Picture, remains: NDArray[np.bool_], text: list[Rect], surfaces: list[Surface], background: Fill
) -> tuple[list[Cutout], list[Rect], float]:
    """(cutouts, larger unexplained places, unexplained share). Text boxes are no part of anything unless a photo surrounds them."""
    scale = picture.scale
    free = remains.copy()
    inside_text = np.zeros_like(remains)
    for r in text:
        inside_text[device_slices(r.grow(2.5), scale)] = True
    _forgive_edges(free, surfaces, scale)
    photos, discs, textures = _photos(remains, inside_text, [s.rect for s in surfaces], picture.pixels, scale)
    cutouts: list[Cutout] = []
    for rect in (r for r in photos if not _is_drawn(r, picture)):
        over = [t for t in text if t.inside(rect, 0.8)]
        mask = textures[device_slices(rect, scale)]
        cutouts.append(Cutout(rect, "image", _disc_radius(mask, rect), bool(over), background.colour))
        held = [(at, free[at].copy()) for at in _in_front(rect, surfaces, scale)]
        free[device_slices(rect.grow(1), scale)] = False
        for at, marks in held:
            free[at] = marks
    for rect in discs:
        cutouts.append(Cutout(rect, "image", rect.w / 2, False, background.colour))
        free[device_slices(rect.grow(NUDGE / 2 + 1), scale)] = False
    free &= ~inside_text
    joined = cv2.morphologyEx(
        free.astype(np.uint8),
        cv2.MORPH_CLOSE,
        np.ones((2 * JOIN * scale + 1, 2 * JOIN * scale + 1), np.uint8),
    )
    for s in surfaces:  # what lies in two cards is not one thing
        if s.rect.area > CARD:
            for edge in _edges(s.rect):
                joined[device_slices(edge, scale)] = 0
    count, labels, stats, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    lost: list[Rect] = []
    boxes = []
    for i, (x, y, w, h, _area) in enumerate(stats[1:count], start=1):
        part = free[y : y + h, x : x + w]
        if _is_frame(labels[y : y + h, x : x + w] == i, scale):
            lost.append(Rect(x / scale, y / scale, w / scale, h / scale))
            continue
        rows, columns = np.flatnonzero(part.any(axis=1)), np.flatnonzero(part.any(axis=0))
        if rows.size == 0:
            continue
        x, y, w, h = x + columns[0], y + rows[0], columns[-1] - columns[0] + 1, rows[-1] - rows[0] + 1
        boxes.append((Rect(x / scale, y / scale, w / scale, h / scale), float(part.sum()) / (scale * scale)))
    cutouts, boxes = _cores(cutouts, boxes)
    found = _joined_illustrations(boxes)
    alike = _in_column([rect for rect, ink in found if _small(rect, ink)])
    for rect, ink in found:
        thin = min(rect.w, rect.h) < MIN_SIDE or max(rect.w, rect.h) > 14 * min(rect.w, rect.h)
        shell = (
            any(
                rect.inside(s.rect.grow(3 + 5 * picture.noise), 0.98) and rect.iou(s.rect) > 0.8
                for s in surfaces
            )
            and ink < 0.3 * rect.area
        )
        # thin remains of frames and shades that happen to touch are no picture of all that stands between them
        web = ink < WEB * rect.area and any(t.inside(rect, 0.8) for t in text)
        web = web or (ink < SPARSE * rect.area and _paved(rect, surfaces, text))
        if (thin or shell or web or ink < 10) and not _is_mark(rect, ink, text) and rect not in alike:
            if ink > 60:
                lost.append(rect)
            continue
        big = max(rect.w, rect.h) > ICON_MAX
        cutouts.append(Cutout(rect, "image" if big else "icon", 0.0, False, _ground(picture, rect)))
        free[device_slices(rect.grow(1), scale)] = False
    return sorted(cutouts, key=lambda c: (c.rect.y, c.rect.x)), lost, float((free & ~inside_text).mean())


def _is_drawn(rect: Rect, picture: Picture) -> bool:
    """Is something small of one colour for a good part, exactly: a solid icon, which fills its box as a photo does?"""
    if max(rect.w, rect.h) > SOLID:
        return False
    part = picture.pixels[device_slices(rect, picture.scale)]
    counts = np.unique(pack(part), return_counts=True)[1]
    return not picture.noise and bool(counts.max(initial=0) >= ONE_COLOUR * counts.sum())


def _paved(rect: Rect, surfaces: list[Surface], text: list[Rect]) -> bool:
    """Is a place for the most part surfaces with words on them, which are known already?"""
    inner = [s.rect for s in surfaces if s.rect.inside(rect, 0.9)]
    paved = [s for s in inner if not any(s is not o and s.inside(o, 0.98) for o in inner)]
    worded = [s for s in paved if any(t.inside(s, 0.9) for t in text)]
    return sum(s.area for s in worded) >= PAVED * rect.area


def _is_frame(own: NDArray[np.bool_], scale: int) -> bool:
    """Is something large (h, w) hollow: what is left along a card's edge, and no picture of all that is on the card?"""
    h, w = own.shape
    if min(h, w) < HOLLOW * scale:
        return False
    k = round(EDGE * min(h, w))
    return bool(own[k : h - k, k : w - k].sum() < INSIDE * own.sum())


def _in_front(photo: Rect, surfaces: list[Surface], scale: int) -> list[tuple[slice, slice]]:
    """Where cards lie on a photo that reach beyond its edge: what is there is on them."""
    inner = [
        edges(s.rect.x + 2, s.rect.y + 2, s.rect.right - 2, s.rect.bottom - 2)
        for s in surfaces
        if lies_across(s.rect, photo)
    ]
    boxes = [
        edges(max(r.x, photo.x), max(r.y, photo.y), min(r.right, photo.right), min(r.bottom, photo.bottom))
        for r in inner
    ]
    return [device_slices(b, scale) for b in boxes if b.w > 0 and b.h > 0]


def lies_across(a: Rect, b: Rect) -> bool:
    """Do two boxes meet, and neither lies in the other?"""
    return a.meet(b) > 0 and not a.inside(b, 0.98) and not b.inside(a, 0.98)


def _is_mark(rect: Rect, ink: float, text: list[Rect]) -> bool:
    """A small arrow or chevron that stands level with words, right before or after them."""
    return _small(rect, ink) and any(
        abs(t.cy - rect.cy) <= 0.5 * t.h and 2 <= max(rect.x - t.right, t.x - rect.right) <= MARK_GAP
        for t in text
    )


def _small(rect: Rect, ink: float) -> bool:
    low, high = MARK
    return low <= min(rect.w, rect.h) and 2 * low <= max(rect.w, rect.h) <= high and ink >= 2 * low


def _in_column(small: list[Rect]) -> list[Rect]:
    """Which small things stand under one another and are of one size: the arrows at the ends of a menu's entries."""
    return [
        r
        for r in small
        if sum(
            abs(o.x - r.x) <= 1 and abs(o.w - r.w) <= 1 and abs(o.h - r.h) <= 1 and abs(o.y - r.y) > r.h
            for o in small
        )
        >= MARKS - 1
    ]


def _joined_illustrations(boxes: list[tuple[Rect, float]]) -> list[tuple[Rect, float]]:
    """Large parts that overlap or nearly touch are one illustration: the pieces of a chart's area, its line and its dots."""
    out: list[tuple[Rect, float]] = []
    large: list[int] = []  # of `out`, the only ones that others are joined to
    for rect, ink in sorted(boxes, key=lambda b: -b[0].area):
        near = rect.grow(TOUCHING)
        for n in large:
            host, held = out[n]
            touching = min(near.right, host.right) > max(near.x, host.x) and min(
                near.bottom, host.bottom
            ) > max(near.y, host.y)
            if not touching or (rect.inside(host, 0.9) and rect.area <= HALF * host.area):
                continue
            both = union([rect, host])
            if both.area < 1.6 * (host.area + rect.area):
                out[n] = both, held + ink
                break
        else:
            if max(rect.w, rect.h) > ICON_MAX and min(rect.w, rect.h) > MIN_IMAGE:
                large.append(len(out))
            out.append((rect, ink))
    return out if len(out) == len(boxes) else _joined_illustrations(out)


def _cores(
    photos: list[Cutout], boxes: list[tuple[Rect, float]]
) -> tuple[list[Cutout], list[tuple[Rect, float]]]:
    """(photos, parts): what goes on beyond three of its sides or more is no photo but the dense middle of a drawing, which is one part."""
    kept, parts = list[Cutout](), list(boxes)
    for c in photos:
        r = c.rect
        around = [p for p in parts if p[0].grow(CORE).meet(r) > 0 and p[0].area < r.area * CORE_PARTS]
        on = [
            (p.right <= r.x + CORE, p.bottom <= r.y + CORE, p.x >= r.right - CORE, p.y >= r.bottom - CORE)
            for p, _ in around
        ]
        if c.backdrop or c.radius or sum(map(any, zip(*on, strict=True))) < 3:
            kept.append(c)
            continue
        parts = [p for p in parts if p not in around]
        parts.append((union([r, *(p for p, _ in around)]), r.area + sum(ink for _, ink in around)))
    return kept, parts


def _edges(r: Rect) -> tuple[Rect, Rect, Rect, Rect]:
    """The four sides of a box as lines 2 px thick."""
    return (
        Rect(r.x - 1, r.y - 1, r.w + 2, 2),
        Rect(r.x - 1, r.bottom - 1, r.w + 2, 2),
        Rect(r.x - 1, r.y - 1, 2, r.h + 2),
        Rect(r.right - 1, r.y - 1, 2, r.h + 2),
    )


def _forgive_edges(free: NDArray[np.bool_], surfaces: list[Surface], scale: int) -> None:
    """Clear what is left along the edges and in the corners of surfaces: anti-aliasing, and radii read half a px off."""
    for s in surfaces:
        r = s.rect
        side = max([*s.border, 0.0]) + 1.6
        corner = max(s.radius + 2.0, 2.5)
        if min(r.w, r.h) < 10:
            free[device_slices(r.grow(1.6), scale)] = False
            continue
        corner = (
            min(corner, 0.5 * min(r.w, r.h))
            if s.radius < 0.45 * min(r.w, r.h)
            else min(corner, 0.3 * min(r.w, r.h))
        )
        for x in (r.x - 1.6, r.right - corner):
            for y in (r.y - 1.6, r.bottom - corner):
                free[device_slices(Rect(x, y, corner + 1.6, corner + 1.6), scale)] = False
        for line in (
            Rect(r.x - 1.6, r.y - 1.6, r.w + 3.2, side + 1.6),
            Rect(r.x - 1.6, r.bottom - side, r.w + 3.2, side + 1.6),
            Rect(r.x - 1.6, r.y, side + 1.6, r.h),
            Rect(r.right - side, r.y, side + 1.6, r.h),
        ):
            part = free[device_slices(line, scale)]
            if part.size and part.mean() < 0.5:  # a picture flush with the edge is no fringe
                part[:] = False


def _photos(
    remains: NDArray[np.bool_],
    inside_text: NDArray[np.bool_],
    covers: list[Rect],
    pixels: NDArray[np.uint8],
    scale: int,
) -> tuple[list[Rect], list[Rect], NDArray[np.uint8]]:
    """Dense unexplained areas with straight sides, and discs that lie across their edge. Where one of `covers` lies across its edge, a photo goes on below."""
    outside = remains & ~inside_text
    side = 31 * scale
    share = cv2.blur(outside.astype(np.float32), (side, side)) / np.maximum(
        cv2.blur((~inside_text).astype(np.float32), (side, side)), 0.05
    )
    solid = (outside | (inside_text & (share > 0.6))).astype(np.uint8)
    kernel = np.ones((9 * scale | 1, 9 * scale | 1), np.uint8)
    closed = cv2.morphologyEx(solid, cv2.MORPH_CLOSE, kernel)
    opened = cv2.morphologyEx(closed, cv2.MORPH_OPEN, np.ones((14 * scale | 1, 14 * scale | 1), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(opened, connectivity=4)
    out: list[Rect] = []
    discs: list[Rect] = []
    for i in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[i])
        if min(w, h) < MIN_IMAGE * scale:
            continue
        own = labels[y : y + h, x : x + w] == i
        under = _under(Rect(x / scale, y / scale, w / scale, h / scale), covers, own.shape, scale)
        found = find_discs(solid[y : y + h, x : x + w] > 0, under, pixels[y : y + h, x : x + w], scale)
        discs += [
            Rect((x + a - r) / scale, (y + b - r) / scale, 2 * r / scale, 2 * r / scale) for a, b, r in found
        ]
        under &= solid[y : y + h, x : x + w] == 0
        for a, b, r in found:
            under[max(0, int(b - r)) : int(b + r) + 2, max(0, int(a - r)) : int(a + r) + 2] = True
        disc = area > 0.7 * w * h and abs(w - h) <= 2 * scale
        seen = solid[y : y + h, x : x + w] > 0
        box = (0, 0, w, h) if disc else _dense_box(own, under)
        parts = [box] if box and _is_filled(seen | under, box, scale) else []
        if not parts:  # photos above one another, which the shade beside what is between them joins
            for top, bottom in spans(own.mean(axis=1) >= 0.5):
                within = slice(top, bottom)
                if bottom - top >= MIN_IMAGE * scale and (part := _dense_box(own[within], under[within])):
                    parts.append((part[0], top + part[1], part[2], top + part[3]))
        out += [
            Rect((x + a) / scale, (y + b) / scale, (c - a) / scale, (d - b) / scale)
            for a, b, c, d in parts
            if _is_filled(seen | under, (a, b, c, d), scale)
        ]
    kept = [
        r
        for i, r in enumerate(out)
        if not any(r is not o and r.inside(o, 0.8) for j, o in enumerate(out) if j != i and o.area >= r.area)
    ]
    return kept, discs, np.asarray(closed, np.uint8)


def _dense_box(own: NDArray[np.bool_], under: NDArray[np.bool_]) -> tuple[int, int, int, int] | None:
    """(x0, y0, x1, y1) of the rows and columns that are mostly a photo's `own`; where something lies on it (`under`), as far as it
    is seen beside that."""
    rows, columns = own.mean(axis=1) >= 0.5, own.mean(axis=0) >= 0.5
    if not rows.any() or not columns.any():
        return None
    (y0, y1), (x0, x1) = _ends(rows), _ends(columns)
    if under.any():
        y0, y1 = _reach(_dense(own[:, x0:x1], under[:, x0:x1], 1), y0, y1)
        x0, x1 = _reach(_dense(own[y0:y1], under[y0:y1], 0), x0, x1)
    return x0, y0, x1, y1


def _is_filled(filled: NDArray[np.bool_], box: tuple[int, int, int, int], scale: int) -> bool:
    """Is so much of a box unexplained as of a photo's?"""
    x0, y0, x1, y1 = box
    return min(x1 - x0, y1 - y0) >= MIN_IMAGE * scale and bool(filled[y0:y1, x0:x1].mean() >= IMAGE_DENSITY)


def _under(box: Rect, covers: list[Rect], shape: tuple[int, ...], scale: int) -> NDArray[np.bool_]:
    """Where in `box` (h, w device px) something lies that reaches beyond its edge and is not what it lies on."""
    out = np.zeros(shape, bool)
    for c in covers:
        if lies_across(c, box):
            out[device_slices(Rect(c.x - box.x, c.y - box.y, c.w, c.h), scale)] = True
    return out


def _ends(along: NDArray[np.bool_]) -> tuple[int, int]:
    return int(along.argmax()), len(along) - int(along[::-1].argmax())


def _reach(along: NDArray[np.bool_], start: int, end: int) -> tuple[int, int]:
    """`start` and `end` moved outwards as long as what is next is true."""
    while start > 0 and along[start - 1]:
        start -= 1
    while end < len(along) and along[end]:
        end += 1
    return start, end


def _dense(own: NDArray[np.bool_], under: NDArray[np.bool_], axis: int) -> NDArray[np.bool_]:
    """Which rows (axis 1) or columns (axis 0) are mostly a photo's own where nothing covers them."""
    seen = (~under).sum(axis=axis)
    return ((own & ~under).sum(axis=axis) >= 0.5 * seen) & (seen >= UNCOVERED * under.shape[axis])


def _disc_radius(mask: NDArray[np.uint8], rect: Rect) -> float:
    """Half the side if the mask is a disc, else 0."""
    h, w = mask.shape
    if abs(h - w) > 0.04 * max(h, w) + 1:
        return 0.0
    k = max(1, int(0.1 * min(h, w)))
    corners = [mask[:k, :k], mask[:k, -k:], mask[-k:, :k], mask[-k:, -k:]]
    return rect.w / 2 if all(c.mean() < BARE for c in corners) else 0.0


def _ground(picture: Picture, rect: Rect) -> str:
    """The commonest colour on the ring around a box."""
    s = picture.scale
    h, w = picture.pixels.shape[:2]
    x0, y0, x1, y1 = (
        max(0, int(rect.x * s) - 2),
        max(0, int(rect.y * s) - 2),
        min(w, int(rect.right * s) + 2),
        min(h, int(rect.bottom * s) + 2),
    )
    part = picture.pixels[y0:y1, x0:x1]
    ring = np.concatenate([part[0], part[-1], part[:, 0], part[:, -1]])
    values, counts = np.unique(pack(ring[None])[0], return_counts=True)
    return to_hex(unpack(int(values[counts.argmax()])))


def device_slices(r: Rect, scale: int) -> tuple[slice, slice]:
    """Rows and columns of a picture in device px that a box in CSS px covers."""
    return (
        slice(max(0, round(r.y * scale)), max(0, round(r.bottom * scale))),
        slice(max(0, round(r.x * scale)), max(0, round(r.right * scale))),
    )
