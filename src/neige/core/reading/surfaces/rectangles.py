"""The rounded rectangle, or the two or three rectangles, whose outline a region of one colour has. Everything is in device px."""

from __future__ import annotations

import itertools
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

MIN_PART = 24  # px: thinner parts of an L-shaped region are no surfaces
LEG = 4  # px: the sides of a card's border
COVERED, FRAME = 0.12, 0.03  # of its box that a region shows at least; that a frame around others shows
RIM, FRAMED = 5, 80  # px: a frame is no thinner, and no smaller
WHOLE_SIDE = 0.85  # of a side that is straight where hardly anything lies across it
SIDE_SHARE = 0.55  # of a side that must be straight for a region to count as a rectangle
BAND, BAND_PART = 96, 0.5  # px high at 1x, and of its region's height, that a band with a slanted edge is
BAND_FILLED = 0.35  # of it that shows
SMOOTH, MOSTLY = 3, 0.9  # px from column to column at most on so much of the slanted edge,
LEVELS = 12  # which takes so many heights at least
SMALL, POINT = 48, 6.0  # px: the sides of small round things are so short that their edges' softness decides


def fit_rectangle(mask: NDArray[np.bool_], scale: int = 1, cut_off: bool = False) -> float | None:
    """The corner radius of the rounded rectangle whose outline `mask` (tight in its box) has, or None if it has another outline.

    Content lying on the region makes holes in it and dents in its outline, so only the outline's ends are looked at: how
    many rows reach the left and right side, how many columns reach the top and bottom. `cut_off`: its lower side is the picture's,
    which may also cut what lies on it.
    """
    h, w = mask.shape
    if mask.mean() < COVERED and not (mask.mean() >= FRAME and _is_frame(mask, RIM * scale)):
        return None
    half = min(h, w) / 2
    sides = (mask[:, 0].mean(), mask[:, -1].mean(), mask[0].mean(), mask[-1].mean())
    corners = [_corner(mask[::a, ::b], half) for a, b in ((1, 1), (1, -1), (-1, 1), (-1, -1))]
    radius = float(np.median(corners))
    if max(corners) - min(corners) > max(2.0, 0.25 * radius):
        low = sorted(corners)[1]
        radius = low if radius > low + 2 else radius
    straight = [max(0.05, 1 - 2 * radius / n) for n in (h, h, w, w)]
    short = [max(h, w) <= SMALL and t * n <= POINT for n, t in zip((h, h, w, w), straight)]
    good = [
        s >= SIDE_SHARE * t or t <= 0.05 or p for s, t, p in zip(sides, straight, short)
    ]  # a pill's end is a point
    good[3] |= cut_off
    if sum(good) < 3:
        return None
    if not all(good) and mask.mean() < 0.5 and _between(mask).mean() < 0.5:
        return None
    ideal = rounded_mask(h, w, radius) > 0.5
    if mask.mean() > 0.97 and not (mask & ~ideal).any():
        return radius if radius >= 0.8 else 0.0
    filled = ndimage.binary_fill_holes(mask) if h * w < 4_000_000 else mask
    if half >= 14 and all(s >= WHOLE_SIDE * t for s, t in zip(sides, straight)):
        filled = filled | _between(mask)  # what lies across one side opens what is framed there
    outside = (filled & ~ideal).sum()
    missing = (ideal & ~filled).sum()
    if outside > 0.02 * ideal.sum() + 4 or missing > 0.45 * ideal.sum():
        return None
    if (
        half < 14 and missing > 0.12 * ideal.sum() + 4
    ):  # small things have no dents: they'd be glyphs or icons
        return None
    return radius if radius >= 0.8 else 0.0


def _between(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What has the region (h, w) on all four sides of it, and the region."""
    rows = np.maximum.accumulate(mask, axis=1) & np.maximum.accumulate(mask[:, ::-1], axis=1)[:, ::-1]
    columns = np.maximum.accumulate(mask, axis=0) & np.maximum.accumulate(mask[::-1], axis=0)[::-1]
    return np.asarray(rows & columns)


def _is_frame(mask: NDArray[np.bool_], rim: int) -> bool:
    """Is a region (tight in its box) what others leave of a ground: thicker than a line (`rim`, px) all around?"""
    if min(mask.shape) < FRAMED:
        return False
    solid = cv2.erode(mask.astype(np.uint8), np.ones((rim, rim), np.uint8), borderValue=0) > 0
    sides = solid[:rim], solid[-rim:], solid[:, :rim].T, solid[:, -rim:].T
    return all(float(side.any(axis=0).mean()) >= SIDE_SHARE for side in sides)


def rectilinear_parts(mask: NDArray[np.bool_]) -> list[tuple[int, int, int, int, float]]:
    """The two or three rectangles (x0, y0, x1, y1, own share) that an L, T or U of one colour is made of, or none.

    A top bar and a sidebar in one colour are one region. Rows whose ends agree make a rectangle; what lies on it makes holes.
    """
    h, w = mask.shape
    first: NDArray[np.int64] = np.where(mask.any(axis=1), mask.argmax(axis=1), 0)
    last: NDArray[np.int64] = np.where(mask.any(axis=1), w - mask[:, ::-1].argmax(axis=1), w)
    ends = np.stack([first, last], axis=1)
    hollow = mask[:, LEG : max(LEG + 1, w - LEG)].mean(axis=1) < 0.02
    steps = np.flatnonzero((np.abs(np.diff(ends, axis=0)).max(axis=1) > 2) | (hollow[1:] != hollow[:-1])) + 1
    bounds = [0, *steps.tolist(), h]
    parts: list[tuple[int, int, int, int, float]] = []
    legs = False  # a head and the border of the card under it are one region too
    for a, b in itertools.pairwise(bounds):
        if b - a < MIN_PART:
            continue
        x0, x1 = int(np.median(first[a:b])), int(np.median(last[a:b]))
        filled = float(mask[a:b, x0:x1].mean()) if x1 > x0 else 0.0
        if hollow[a] and b - a > MIN_PART:
            legs = True
            continue
        if x1 - x0 < MIN_PART or filled < 0.35:
            return []
        if parts and abs(parts[-1][0] - x0) <= 2 and abs(parts[-1][2] - x1) <= 2:
            joined = float(mask[parts[-1][1] : b, x0:x1].mean())
            parts[-1] = (x0, parts[-1][1], x1, b, joined)
        else:
            parts.append((x0, a, x1, b, filled))
    covered = sum(int(mask[b:d, a:c].sum()) for a, b, c, d, _ in parts)
    fewest, least = (1, 0.9) if legs else (2, 0.97)
    return parts if fewest <= len(parts) <= 3 and covered >= least * mask.sum() else []


def band_part(mask: NDArray[np.bool_], scale: int = 1) -> list[tuple[int, int, int, int, float]]:
    """The rectangle (x0, y0, x1, y1, own share) of a band as wide as `mask`, whose upper or lower edge is slanted or a wave: its rows
    that reach both sides. What is above and below them stands out of it, and is somebody's drawing. None: []."""
    h, w = mask.shape
    turns = np.diff(np.pad((mask[:, 0] & mask[:, -1]).astype(np.int8), 1))
    starts, ends = np.flatnonzero(turns == 1), np.flatnonzero(turns == -1)
    if not len(starts):
        return []
    at = int((ends - starts).argmax())
    a, b = int(starts[at]), int(ends[at])
    if b - a < max(BAND * scale, BAND_PART * h) or b - a == h:
        return []
    edge = [e for e, past in ((mask.argmax(axis=0), a > 0), (mask[::-1].argmax(axis=0), b < h)) if past]
    smooth = all(
        (np.abs(np.diff(e)) <= SMOOTH * scale).mean() >= MOSTLY and len(np.unique(e)) >= LEVELS for e in edge
    )
    filled = float(mask[a:b].mean())
    return [(0, a, w, b, filled)] if smooth and filled >= BAND_FILLED else []


def _corner(quadrant: NDArray[np.bool_], half: float) -> float:
    """Radius of the top left corner from the area that is missing there.

    Anti-aliased pixels are not of the flat colour, so they are missing too; the table of missing areas is made from
    painted corners by the same count, and inverted.
    """
    n = max(1, int(half))
    part = quadrant[:n, :n]
    starts = np.where(part.any(axis=1), part.argmax(axis=1), n)
    # only the staircase that shrinks from the corner belongs to the curve
    starts = np.minimum.accumulate(starts)
    if starts[0] >= n and n > 6 and starts.min() >= n:
        return 0.0
    missing = float(starts[: max(1, int(np.argmax(starts == 0)) if (starts == 0).any() else n)].sum())
    if starts[0] == 0:
        return 0.0
    radii, areas = _corner_table()
    return float(min(np.interp(missing, areas, radii), half))


@cache
def _corner_table() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(radii, missing pixels of a painted corner of that radius)."""
    radii = np.concatenate([np.arange(0.0, 20.0, 0.5), np.arange(20.0, 201.0, 4.0)])
    areas = []
    for r in radii:
        n = int(r) + 3
        corner = rounded_mask(2 * n, 2 * n, float(r))[:n, :n] > 0.998
        areas.append(float((~corner).sum()))
    return radii, np.maximum.accumulate(np.array(areas)) + np.arange(len(radii)) * 1e-6


def rounded_mask(h: int, w: int, radius: float | tuple[float, float, float, float]) -> NDArray[np.float32]:
    """Cover (h, w) in 0..1 of a rounded rectangle that fills its box, anti-aliased by distance to the edge.

    `radius` in px: one, or one for each corner from the top left clockwise.
    """
    if isinstance(radius, tuple):
        out = np.ones((h, w), np.float32)
        top, left = (h + 1) // 2, (w + 1) // 2
        for i, r in enumerate(radius):
            rows = slice(0, top) if i < 2 else slice(top, h)
            columns = slice(left, w) if i in (1, 2) else slice(0, left)
            out[rows, columns] = rounded_mask(h, w, r)[rows, columns]
        return out
    if radius < 0.5:
        return np.ones((h, w), np.float32)
    r = min(radius, min(h, w) / 2)
    y = np.maximum(0, np.abs(np.arange(h) + 0.5 - h / 2) - (h / 2 - r))[:, None]
    x = np.maximum(0, np.abs(np.arange(w) + 0.5 - w / 2) - (w / 2 - r))[None, :]
    return np.clip(r + 0.5 - np.hypot(x, y), 0, 1).astype(np.float32)
