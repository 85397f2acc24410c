"""Small rings and frames of one px: the boxes of choices, whose fill is that of what they lie on.

Their line is all anti-aliasing, so that nothing in it has the line's own colour. What is flat is the hole, and that is found as
a small square without a border. Filled, the ink around the hole tells the outer edge and whether it is a disc.
"""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Fill, Rect, Surface
from neige.core.reading.colour import to_hex

SIZES = (7.0, 26.0)  # px: the hole's side
LINE = 4.0  # px that the line and its corners reach beyond the hole
FAINT = 10  # 8-bit steps from the ground
ROUND = (9.0, 24.0)  # px: the box of a mark that may be a radio button
DISC = 0.94  # agreement of the filled shape with a disc


def close_rings(surfaces: list[Surface], pixels: NDArray[np.uint8], scale: int) -> list[Surface]:
    """The surfaces with small holes of rings grown to the ring's outer edge, with its line as their border."""
    return [closed_ring(s, pixels, scale) or s for s in surfaces]


def closed_ring(s: Surface, pixels: NDArray[np.uint8], scale: int) -> Surface | None:
    """The ring or frame that a small plain square is the hole of, or None. `pixels`: device px (h, w, 3)."""
    r = s.rect
    if any(s.border) or s.shadow or s.fill.stops or not SIZES[0] <= r.w <= SIZES[1] or abs(r.w - r.h) > 1.5:
        return None
    reach = LINE + 2
    x0, y0 = round((r.x - reach) * scale), round((r.y - reach) * scale)
    x1, y1 = round((r.right + reach) * scale), round((r.bottom + reach) * scale)
    if x0 < 0 or y0 < 0 or x1 > pixels.shape[1] or y1 > pixels.shape[0]:
        return None
    crop = pixels[y0:y1, x0:x1].astype(np.int16)
    rim = np.concatenate([crop[0], crop[-1], crop[:, 0], crop[:, -1]])
    ground = np.median(rim, axis=0)
    if np.abs(rim - ground).max() > FAINT:
        return None  # something else is near
    ink = (np.abs(crop - ground).max(axis=2) > FAINT).astype(np.uint8)
    contours, _ = cv2.findContours(ink, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return None
    outer = max(contours, key=cv2.contourArea)
    x, y, w, h = cv2.boundingRect(outer)
    hole = Rect(r.x * scale - x0, r.y * scale - y0, r.w * scale, r.h * scale)
    around = hole.x - x, hole.y - y, x + w - hole.right, y + h - hole.bottom
    if abs(w - h) > 1 or min(around) < 1 or max(around) > LINE * scale:
        return None
    filled = np.zeros(ink.shape, np.uint8)
    cv2.drawContours(filled, [outer], -1, 1, cv2.FILLED)
    own = filled[y : y + h, x : x + w] > 0
    yy, xx = np.mgrid[:h, :w] + 0.5
    disc = np.hypot(xx - w / 2, yy - h / 2) <= w / 2
    agree = (own & disc).sum() / max(1, (own | disc).sum())
    line = crop[y : y + h, x + w // 2 - 1 : x + w // 2 + 1].reshape(-1, 2, 3)
    first = line[: h // 2].reshape(-1, 3)
    colour = first[np.abs(first - ground).max(axis=1).argmax()]
    thick = max(1, round(min(around) / scale)) if agree < DISC else 1
    rect = Rect((x0 + x) / scale, (y0 + y) / scale, w / scale, h / scale)
    radius = rect.w / 2 if agree >= DISC else min(4.0, max(around) / scale)
    return replace(
        s, rect=rect, radius=radius, corners=None, border=(float(thick),) * 4, border_colour=to_hex(colour.astype(np.float64))
    )  # fmt: skip


def settle_choices(
    cutouts: list[Cutout], pixels: NDArray[np.uint8], scale: int
) -> tuple[list[Cutout], list[Surface]]:
    """(cutouts, rings): marks that are an empty ring are surfaces; of round ones (a disc with a dot in it) the radius is told."""
    out: list[Cutout] = []
    found: list[Surface] = []
    for c in cutouts:
        shape = _outline(c, pixels, scale) if c.kind == "icon" else None
        if shape is None:
            out.append(c)
            continue
        rect, ground, line, hollow = shape
        if hollow:
            fill = Fill(to_hex(ground))
            found.append(Surface(rect, fill, rect.w / 2, (1.0,) * 4, to_hex(line)))
        else:
            out.append(replace(c, rect=rect, radius=rect.w / 2))
    return out, found


def _outline(
    c: Cutout, pixels: NDArray[np.uint8], scale: int
) -> tuple[Rect, NDArray[np.float64], NDArray[np.float64], bool] | None:
    """(box, ground, line's colour, whether it is hollow) of a mark whose outline is a circle, else None."""
    r = c.rect
    if not ROUND[0] <= max(r.w, r.h) <= ROUND[1] or abs(r.w - r.h) > 2:
        return None
    reach = round(2 * scale)
    x0, y0 = round(r.x * scale) - reach, round(r.y * scale) - reach
    x1, y1 = round(r.right * scale) + reach, round(r.bottom * scale) + reach
    if x0 < 0 or y0 < 0 or x1 > pixels.shape[1] or y1 > pixels.shape[0]:
        return None
    crop = pixels[y0:y1, x0:x1].astype(np.int16)
    ground = np.median(np.concatenate([crop[0], crop[-1], crop[:, 0], crop[:, -1]]), axis=0)
    away = np.abs(crop - ground).max(axis=2)
    ink = (away > FAINT).astype(np.uint8)
    contours, _ = cv2.findContours(ink, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if len(contours) != 1:
        return None
    x, y, w, h = cv2.boundingRect(contours[0])
    filled = np.zeros(ink.shape, np.uint8)
    cv2.drawContours(filled, [contours[0]], -1, 1, cv2.FILLED)
    own = filled[y : y + h, x : x + w] > 0
    yy, xx = np.mgrid[:h, :w] + 0.5
    far = np.hypot(xx - w / 2, yy - h / 2)
    disc = far <= w / 2
    if abs(w - h) > 1 or (own & disc).sum() / max(1, (own | disc).sum()) < DISC:
        return None
    part, off = crop[y : y + h, x : x + w], away[y : y + h, x : x + w]
    inside = far <= 0.3 * w
    rim = (far <= 0.5 * w) & (far > 0.36 * w)
    if off[rim].max() < 3 * FAINT or (off[rim] > FAINT).mean() < 0.6:
        return None
    line = np.median(part[rim & (off >= 0.8 * off[rim].max())].reshape(-1, 3), axis=0)
    rect = Rect((x0 + x) / scale, (y0 + y) / scale, w / scale, h / scale)
    return rect, ground.astype(np.float64), line.astype(np.float64), bool((off[inside] <= FAINT).all())
