"""Small things painted with a gradient: a badge, a button, the disc behind initials. Too small for `gradient`, they were cut out."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Rect, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import away_from
from neige.core.reading.surfaces.gradient import Ramp
from neige.core.reading.surfaces.rectangles import rounded_mask
from neige.core.reading.surfaces.remains import device_slices

SIZES = (14.0, 300.0)  # px: its lower side at least, its longer one at most
SMOOTH = 5.0  # 8-bit steps from the plane through its colours
PAINTED = 0.55  # of it that has the plane's colours: the rest is what stands on it
CHANGES = 8.0  # 8-bit steps from its one end to the other
SHAPE = 0.97  # of its box in which it is a rounded rectangle
CLEAR = 0.35  # of what is along its edge, that is not its own
LOOSE = 3.0  # px by which it may have been cut too small
MARGIN = 0.08  # of its lower side that what stands on it keeps from its edge


def take_badges(
    cutouts: list[Cutout], pixels: NDArray[np.uint8], text: list[Rect], scale: int
) -> tuple[list[Surface], list[Cutout]]:
    """(the badges among the cutouts, as surfaces; the cutouts left, with what stands on the badges and is no text)."""
    badges: list[Surface] = []
    left: list[Cutout] = []
    for c in cutouts:
        found = _badge(c, pixels, scale)
        if found is None:
            left.append(c)
            continue
        badges.append(found[0])
        if found[1] is not None and not any(t.meet(found[1]) > 0 for t in text):
            left.append(replace(c, rect=found[1], kind="icon", radius=0.0, ground=found[0].fill.colour))
    return badges, left


def _badge(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> tuple[Surface, Rect | None] | None:
    r = c.rect
    if min(r.w, r.h) < SIZES[0] or max(r.w, r.h) > SIZES[1]:
        return None
    wide = r.grow(LOOSE)
    rows, columns = device_slices(wide, scale)
    around = pixels[rows, columns].astype(np.float64)
    ring = np.concatenate([around[0], around[-1], around[:, 0], around[:, -1]])
    ground = np.median(ring, axis=0)
    inked = away_from(around, ground) > 2 * SMOOTH
    ys, xs = np.flatnonzero(inked.any(axis=1)), np.flatnonzero(inked.any(axis=0))
    if not ys.size or not xs.size:
        return None
    part = around[ys[0] : ys[-1] + 1, xs[0] : xs[-1] + 1]
    r = Rect(
        (columns.start + xs[0]) / scale,
        (rows.start + ys[0]) / scale,
        part.shape[1] / scale,
        part.shape[0] / scale,
    )
    h, w = part.shape[:2]
    if min(h, w) < SIZES[0] * scale:
        return None
    y, x = np.mgrid[0:h, 0:w] + 0.5
    inset = max(1, round(0.15 * min(h, w)))
    inner = np.zeros((h, w), bool)
    inner[inset : h - inset, inset : w - inset] = True
    plane = _plane(x, y, part, inner)
    if plane is None:
        return None
    fit = plane[0] + plane[1] * x[..., None] + plane[2] * y[..., None]
    off = away_from(fit, part)
    like = off <= SMOOTH
    span = np.abs(plane[1]) * w + np.abs(plane[2]) * h
    if like[inner].mean() < PAINTED or span.max() < CHANGES:
        return None
    own = away_from(part, ground) > 0.5 * away_from(fit, ground)
    rim = ~inner  # what stands in the middle may have the ground's colour
    radius = max(
        (q / 2 for q in range(0, min(h, w) + 1)),
        key=lambda q: (_agree((rounded_mask(h, w, q) > 0.5)[rim], own[rim]), q),
    )
    mask = rounded_mask(h, w, radius) > 0.5
    if _agree(mask[rim], (own | like)[rim]) < SHAPE:
        return None
    edge = max(2, round(MARGIN * min(h, w)))
    deep = rounded_mask(h - 2 * edge, w - 2 * edge, max(0.0, radius - edge)) > 0.5
    ink = ~like & mask
    core = np.zeros_like(ink)
    core[edge : h - edge, edge : w - edge] = deep
    band = np.asarray(cv2.erode(mask.astype(np.uint8), np.ones((3, 3), np.uint8)), bool) & ~core
    if not band.any() or ink[band].mean() > CLEAR:
        return None
    fill = _ramp(plane, w, h).fill((0, 0, w, h))
    ys, xs = np.nonzero(ink & core)
    mark = None
    if ys.size >= 6 * scale * scale:
        x0, y0 = r.x + xs.min() / scale, r.y + ys.min() / scale
        mark = edges(
            float(x0), float(y0), float(r.x + (xs.max() + 1) / scale), float(r.y + (ys.max() + 1) / scale)
        )
    return Surface(Rect(float(r.x), float(r.y), r.w, r.h), fill, radius / scale, confidence=0.8), mark


def _plane(
    x: NDArray[np.float64], y: NDArray[np.float64], part: NDArray[np.float64], inner: NDArray[np.bool_]
) -> NDArray[np.float64] | None:
    """(3, 3): colour at 0, and its change a px right and down, of most pixels."""
    design = np.stack([np.ones(int(inner.sum())), x[inner], y[inner]], axis=1)
    colours = part[inner]
    good = np.abs(colours - np.median(colours, axis=0)).max(axis=1) <= 60
    for limit in (24.0, 10.0, SMOOTH, SMOOTH):
        if good.sum() < 0.4 * len(good):
            return None
        solution = np.linalg.lstsq(design[good], colours[good], rcond=None)[0]
        good = np.abs(design @ solution - colours).max(axis=1) <= limit
    return np.asarray(solution)


def _agree(a: NDArray[np.bool_], b: NDArray[np.bool_]) -> float:
    return float((a == b).mean())


def _ramp(plane: NDArray[np.float64], w: int, h: int) -> Ramp:
    """The gradient along the direction in which the colours change most."""
    values, vectors = np.linalg.eigh(plane[1:] @ plane[1:].T)
    dx, dy = (float(v) for v in vectors[:, int(values.argmax())])
    if dy < 0 or (dy == 0 and dx < 0):
        dx, dy = -dx, -dy
    slope = plane[1] * dx + plane[2] * dy
    middle = plane[0] + plane[1] * w / 2 + plane[2] * h / 2
    reach = (abs(w * dx) + abs(h * dy)) / 2
    at = w / 2 * dx + h / 2 * dy + np.array([-reach, reach])
    return Ramp(
        dx, dy, at, np.clip(np.stack([middle - slope * reach, middle + slope * reach]), 0, 255), (0, 0, w, h)
    )
