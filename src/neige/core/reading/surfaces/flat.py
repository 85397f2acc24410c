"""Regions of one colour and which of them are rounded rectangles. Everything is in device px.

In mockups and screenshots flat fills are exact, so regions are connected components of equal colour; in noisy (JPEG)
pictures every pixel is first snapped to the nearest dominant colour of the picture.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from skimage.measure import label

from neige.core.reading.colour import pack, unpack
from neige.core.reading.surfaces.rectangles import (
    SIDE_SHARE,
    WHOLE_SIDE,
    band_part,
    fit_rectangle,
    rectilinear_parts,
)

MIN_AREA = 90  # px² at 1x; a smaller flat region is a glyph or part of an icon
SPECK = 72  # px² at 1x: a small solid rectangle is at most that large
FRINGE = 7  # px
RAGGED = 4  # px by which compression moves a region's edge
DOMINANT, DOMINANT_SHARE = 48, 0.001  # colours of a noisy picture at most, and the share of it that makes one
SAME_COLOUR = 3.0  # 8-bit steps between two modes of one colour
BROAD = 16  # px at 1x: thinner ones are where a shadow grows darker
WISPS, WISP = 2, 0.3  # px at 1x at a side, and of it, that what hardly reaches it takes at most


@dataclass(frozen=True, slots=True)
class Region:
    """A rounded rectangle of flat colour: half-open box, radius, colour (3,) 0..255; `filled` is its own share of the box."""

    x0: int
    y0: int
    x1: int
    y1: int
    radius: float
    colour: tuple[float, float, float]
    filled: float

    @property
    def area(self) -> int:
        return (self.x1 - self.x0) * (self.y1 - self.y0)


def snap_to_dominant(pixels: NDArray[np.uint8], noise: float) -> NDArray[np.uint8]:
    """Replace each pixel within reach of a dominant colour by that colour: undoes compression noise on flat ground.

    Dominant colours are the modes of a histogram in bins of 8 steps; a colour on the border of two bins is one colour.
    """
    smooth = np.asarray(cv2.medianBlur(pixels, 3), np.uint8)
    coarse = pack(np.asarray(smooth >> 3, np.uint8))
    values, counts = np.unique(coarse, return_counts=True)
    order = np.argsort(-counts, kind="stable")[:DOMINANT]
    out = smooth.copy()
    best = np.full(pixels.shape[:2], 6 + 4 * noise, np.float32)
    centres: list[NDArray[np.float64]] = []
    for i in order:
        if counts[i] < DOMINANT_SHARE * coarse.size:
            break
        centre = np.median(smooth[coarse == values[i]], axis=0)
        if any(np.abs(centre - c).max() <= SAME_COLOUR for c in centres):
            continue
        centres.append(centre)
        distance = np.abs(smooth.astype(np.float32) - centre).max(axis=2)
        near = distance < best
        out[near] = centre.astype(np.uint8)
        best[near] = distance[near]
    return out


SHADED = 0.004  # of the picture that a region takes up at least on which shadows may fall,
SHADED_SIDE = 40  # px at 1x of its shorter side,
PLAIN = 0.5  # of its box that is in its very colour at least: a dark photo's is not,
INSIDE = 0.01  # of what is farther from its sides than a shadow reaches, that may be shade
SHADE = 4  # 8-bit steps by which they may darken its sides for it to be known as one,
SHADOW_REACH, DEEP, HARD = (
    12,
    14.0,
    24.0,
)  # px at 1x that they reach, steps at most there, and the step to what throws them
FAINT_REACH = 40  # px at 1x that a faint shade of a few steps reaches,
FAINT_EDGE = 8.0  # and the step to what it ends at
Specks = NDArray[np.int64]  # (n, 5): x, y, width, height, packed colour
NET = 4  # px: lines are no thicker
SET_OFF = 4.0  # 8-bit steps between them and what is beside them
Hull = tuple[int, int, int, int, int]  # x0, y0, x1, y1, packed colour


def find_regions(
    pixels: NDArray[np.uint8], scale: int, noisy: bool = False
) -> tuple[list[Region], list[Hull], Specks]:
    """All flat rounded rectangles, largest first, the boxes of all larger flat regions of any outline, and the small solid ones.

    In a `noisy` picture what stands out of a region by less than FRINGE px is compression noise at its edge.
    """
    packed = pack(pixels)
    labels = label(packed, connectivity=1, background=-1).astype(np.int32)
    areas = np.bincount(labels.ravel())
    specks = find_specks(labels, areas, packed, scale)
    keep = np.flatnonzero(areas >= MIN_AREA * scale * scale)
    keep = keep[keep > 0]
    if keep.size == 0:
        return [], [], specks
    renumber = np.zeros(areas.size, np.int32)
    renumber[keep] = np.arange(1, keep.size + 1)
    numbered = renumber[labels]
    out, hulls = [], []
    for number, place in enumerate(ndimage.find_objects(numbered), start=1):
        if place is None:
            continue
        rows, columns = place
        h, w = rows.stop - rows.start, columns.stop - columns.start
        if min(h, w) < 4 * scale:
            continue
        mask = numbered[place] == number
        if noisy:
            mask, rows, columns = _without_fringe(mask, rows, columns)
            h, w = mask.shape
            if min(h, w) < 4 * scale:
                continue
        if h * w > 0.004 * labels.size and not _is_net(mask, pixels[rows, columns], scale):
            y, x = np.unravel_index(int(mask.argmax()), mask.shape)
            hulls.append(
                (
                    columns.start,
                    rows.start,
                    columns.stop,
                    rows.stop,
                    int(packed[rows.start + int(y), columns.start + int(x)]),
                )
            )
        cut_off = rows.stop == labels.shape[0]
        across = w == labels.shape[1] and min(mask[0].mean(), mask[-1].mean()) < SIDE_SHARE
        slanted = band_part(mask, scale) if across else []
        radius = None if slanted else fit_rectangle(mask, scale, cut_off)
        if radius is None and not slanted and (inner := _without_wisps(mask, pixels[rows, columns], scale)):
            mask, down, right = inner
            h, w = mask.shape
            rows = slice(rows.start + down, rows.start + down + h)
            columns = slice(columns.start + right, columns.start + right + w)
            radius = fit_rectangle(mask, scale, rows.stop == labels.shape[0])
        large = h * w > SHADED * labels.size and min(h, w) >= SHADED_SIDE * scale and mask.mean() >= PLAIN
        if radius is None and large and not slanted:  # shadows may fall on its sides
            mask = _with_shade(mask, pixels[rows, columns], SHADOW_REACH * scale)
            radius = fit_rectangle(mask, scale, cut_off)
        if radius is None:
            if h * w > 0.01 * labels.size:
                y, x = np.unravel_index(int(mask.argmax()), mask.shape)
                red, green, blue = (
                    float(v) for v in unpack(int(packed[rows.start + int(y), columns.start + int(x)]))
                )
                parts = slanted or rectilinear_parts(mask)
                out += [
                    Region(columns.start + a, rows.start + b, columns.start + c, rows.start + d, 0.0, (red, green, blue), filled)
                    for a, b, c, d, filled in parts
                ]  # fmt: skip
            continue
        y, x = np.unravel_index(int(mask.argmax()), mask.shape)
        colour = unpack(int(packed[rows.start + int(y), columns.start + int(x)]))
        out.append(
            Region(
                columns.start,
                rows.start,
                columns.stop,
                rows.stop,
                radius,
                (float(colour[0]), float(colour[1]), float(colour[2])),
                float(mask.mean()),
            )
        )
    out = [_to_edges(r, pixels, scale) for r in out]
    return sorted(out, key=lambda r: (-r.area, r.y0, r.x0)), hulls, specks


def _without_wisps(
    mask: NDArray[np.bool_], pixels: NDArray[np.uint8], scale: int
) -> tuple[NDArray[np.bool_], int, int] | None:
    """(a region without rows and columns at its sides that hardly anything of it reaches, rows and columns left out before it), or
    None if it has none: an inner shadow is a step off for all but a few px of its last row."""
    cut = [0, 0, 0, 0]
    own = pixels[mask][:1].astype(np.int16)
    for side in range(4):
        lines, colours = (mask, pixels) if side in (0, 2) else (mask.T, pixels.swapaxes(0, 1))
        if side in (1, 2):
            lines, colours = lines[::-1], colours[::-1]
        for k in range(min(WISPS * scale, len(lines) - 1)):
            if (
                lines[k].mean() >= WISP
                or np.median(np.abs(colours[k].astype(np.int16) - own).max(axis=1)) > SHADE
            ):
                break
            if lines[k + 1].mean() >= WHOLE_SIDE:
                cut[side] = k + 1
    if not any(cut):
        return None
    top, right, bottom, left = cut
    inner = mask[top : mask.shape[0] - bottom, left : mask.shape[1] - right]
    if min(inner.shape) < BROAD * scale:
        return None
    straight = min(inner[0].mean(), inner[-1].mean(), inner[:, 0].mean(), inner[:, -1].mean()) >= WHOLE_SIDE
    return (inner, top, left) if straight else None


def _with_shade(mask: NDArray[np.bool_], pixels: NDArray[np.uint8], reach: int) -> NDArray[np.bool_]:
    """A region with what is hardly another colour than it, where that touches it: shade at its sides. A photo's dark places are
    so all over, and stay as they are."""
    own = pixels[mask][0].astype(np.int16)
    near = (np.abs(pixels.astype(np.int16) - own).max(axis=2) <= SHADE).astype(np.uint8)
    _, labels = cv2.connectedComponents(near, connectivity=4)
    grown = np.isin(labels, np.unique(labels[mask]))
    added = (grown & ~mask)[reach:-reach, reach:-reach]
    return np.asarray(grown) if added.size and added.mean() <= INSIDE else mask


def _to_edges(r: Region, pixels: NDArray[np.uint8], scale: int) -> Region:
    """A region that ends where a neighbour's shadow begins on it goes on to that neighbour, whose edge is hard."""
    x0, y0, x1, y1 = r.x0, r.y0, r.x1, r.y1
    if min(x1 - x0, y1 - y0) < SHADED_SIDE * scale:
        return r
    across, down = pixels[y0:y1], pixels[:, x0:x1].transpose(1, 0, 2)
    reach = FAINT_REACH * scale
    x0 -= _faint_beside(across[:, max(0, x0 - reach - 1) : x0][:, ::-1], r.colour)
    x1 += _faint_beside(across[:, x1 : x1 + reach + 1], r.colour)
    if r.radius > 0:
        return replace(r, x0=x0, x1=x1)
    reach = SHADOW_REACH * scale
    x0 -= _shade_beside(across[:, max(0, x0 - reach - 1) : x0][:, ::-1], r.colour, reach)
    x1 += _shade_beside(across[:, x1 : x1 + reach + 1], r.colour, reach)
    y0 -= _shade_beside(down[:, max(0, y0 - reach - 1) : y0][:, ::-1], r.colour, reach)
    y1 += _shade_beside(down[:, y1 : y1 + reach + 1], r.colour, reach)
    return replace(r, x0=x0, y0=y0, x1=x1, y1=y1)


def _shade_beside(strip: NDArray[np.uint8], colour: tuple[float, ...], reach: int) -> int:
    """How many columns of a strip, whose first one is beside a region, are the region's colour getting darker up to a hard edge."""
    if strip.shape[1] < 2:
        return 0
    off = np.abs(np.median(strip.astype(np.float32), axis=0) - np.asarray(colour, np.float32)).max(axis=1)
    for k in range(1, min(reach, len(off) - 1) + 1):
        if off[k - 1] > DEEP or off[k] < off[k - 1]:
            return 0
        if off[k] - off[k - 1] >= HARD:
            return k
    return 0


def _faint_beside(strip: NDArray[np.uint8], colour: tuple[float, ...]) -> int:
    """How many columns of a strip, whose first one is beside a region, are the region's colour getting darker by a step now and
    then, up to a hard edge: a side panel's wide shadow on a dark card."""
    if strip.shape[1] < 2:
        return 0
    own = np.asarray(colour, np.float32)
    lines = np.median(strip.astype(np.float32), axis=0)
    off = np.abs(lines - own).max(axis=1)
    darker = np.asarray((lines <= own).all(axis=1))
    if not 0 < off[0] <= 1:
        return 0
    for k in range(1, len(off)):
        if off[k] - off[k - 1] >= FAINT_EDGE:
            return k
        if not darker[k] or off[k] > SHADE or not 0 <= off[k] - off[k - 1] <= 1:
            return 0
    return 0


def find_specks(labels: NDArray[np.int32], areas: NDArray[np.int64], packed: NDArray, scale: int) -> Specks:
    """The small solid rectangles among a picture's regions of one colour; `labels` (H, W) and their `areas`."""
    small = (areas >= 2) & (areas <= SPECK * scale * scale)
    small[0] = False
    y, x = np.nonzero(small[labels])
    which = labels[y, x]
    order = np.argsort(which, kind="stable")
    y, x, which = y[order], x[order], which[order]
    if not which.size:
        return np.zeros((0, 5), np.int64)
    starts = np.flatnonzero(np.diff(which, prepend=-1))
    x0, y0 = np.minimum.reduceat(x, starts), np.minimum.reduceat(y, starts)
    w, h = np.maximum.reduceat(x, starts) + 1 - x0, np.maximum.reduceat(y, starts) + 1 - y0
    solid = w * h == areas[which[starts]]
    out = np.stack([x0, y0, w, h, packed[y[starts], x[starts]]], axis=1)
    return np.asarray(out[solid], np.int64)


def _is_net(mask: NDArray[np.bool_], pixels: NDArray[np.uint8], scale: int) -> bool:
    """Is a region (mask and pixels of its box) nowhere thicker than a line and set off from what is beside it: the borders of
    rows and panels that meet? Where a shadow begins, the ground has thin rings, too, but hardly another colour."""
    solid = mask.astype(np.uint8)
    if cv2.erode(solid, np.ones((NET * scale + 1, NET * scale + 1), np.uint8), borderValue=0).any():
        return False
    beside = cv2.dilate(solid, np.ones((3, 3), np.uint8)).astype(bool) & ~mask
    own = pixels[mask][0].astype(np.int16)
    return (
        bool(beside.any())
        and float(np.median(np.abs(pixels[beside].astype(np.int16) - own).max(axis=1))) >= SET_OFF
    )


def _without_fringe(
    mask: NDArray[np.bool_], rows: slice, columns: slice
) -> tuple[NDArray[np.bool_], slice, slice]:
    """A region without its ragged edge, in its own tight box."""
    kernel = np.ones((FRINGE, FRINGE), np.uint8)
    opened = cv2.morphologyEx(
        cv2.copyMakeBorder(mask.astype(np.uint8), 4, 4, 4, 4, cv2.BORDER_CONSTANT), cv2.MORPH_OPEN, kernel
    )
    solid: NDArray[np.bool_] = opened[4:-4, 4:-4] > 0
    y, x = np.flatnonzero(solid.any(axis=1)), np.flatnonzero(solid.any(axis=0))
    if y.size == 0:
        return np.zeros((0, 0), bool), rows, columns
    inner = solid[y[0] : y[-1] + 1, x[0] : x[-1] + 1]
    (left, right), (top, bottom) = _ragged(inner), _ragged(inner.T)
    inner = inner[top : inner.shape[0] - bottom, left : inner.shape[1] - right]
    y0, x0 = rows.start + int(y[0]) + top, columns.start + int(x[0]) + left
    return inner, slice(y0, y0 + inner.shape[0]), slice(x0, x0 + inner.shape[1])


def _ragged(mask: NDArray[np.bool_]) -> tuple[int, int]:
    """How many columns at the left and the right end of a region most of its middle rows do not reach; at most RAGGED."""
    n = mask.shape[0]
    middle = mask[n // 4 : n - n // 4]
    middle = middle[middle.any(axis=1)]
    if not len(middle) or mask.shape[1] < 4 * RAGGED:
        return 0, 0
    ends = (middle.argmax(axis=1), middle[:, ::-1].argmax(axis=1))
    off = [int(np.quantile(e, 0.4)) for e in ends]
    return (off[0] if off[0] <= RAGGED else 0), (off[1] if off[1] <= RAGGED else 0)
