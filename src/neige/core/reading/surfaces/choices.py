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
from neige.core.reading.colour import away_from, to_hex

SIZES = (7.0, 26.0)  # px: the hole's side
LINE = 4.0  # px that the line and its corners reach beyond the hole
FAINT = 10  # 8-bit steps from the ground
ROUND, LEAST = (6.0, 44.0), 9.0  # px: the box of a round mark, and of one that may be a radio button
TRACK, LONG = (10.0, 40.0), (1.4, 2.4)  # px that a switch is high, and how many times as long
HALF = 0.45  # of the difference between two colours: where the edge between them is
KNOB = 0.4  # of its height that its knob is high at least
RIM = 3.0  # px in which a ring's line is at least most of what there is
SQUARE = 0.9  # of its box that a frame's filled shape takes up
DISC = 0.94  # agreement of the filled shape with a disc


def close_rings(surfaces: list[Surface], pixels: NDArray[np.uint8], scale: int) -> list[Surface]:
    """The surfaces with small holes of rings grown to the ring's outer edge, with its line as their border."""
    return [closed_ring(s, pixels, scale) or s for s in surfaces]


def closed_ring(s: Surface, pixels: NDArray[np.uint8], scale: int) -> Surface | None:
    """The ring or frame that a small plain square is the hole of, or None. `pixels`: device px (h, w, 3)."""
    # a thick ring's inner edge may have been taken for a line, and the rest of it for that line's shadow
    soft = all(0 < b <= 1 for b in s.border)
    r = s.rect.grow(-1) if soft else s.rect
    if any(s.border) and not soft:
        return None
    if (s.shadow and not soft) or s.fill.stops or not SIZES[0] <= r.w <= SIZES[1] or abs(r.w - r.h) > 1.5:
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
    ink = (away_from(crop, ground) > FAINT).astype(np.uint8)
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
    if agree < DISC and (soft or own.mean() < SQUARE):
        return None  # an icon's outline
    inked = np.abs(first - ground).max(axis=1) / max(1.0, float(np.abs(colour - ground).max()))
    inked = inked.reshape(-1, 2).mean(axis=1)[: round(r.h * scale / 2)]
    thick = max(1, round((min(around) if agree < DISC else float(inked.sum())) / scale))
    rect = Rect((x0 + x) / scale, (y0 + y) / scale, w / scale, h / scale)
    radius = rect.w / 2 if agree >= DISC else min(4.0, max(around) / scale)
    return replace(
        s, rect=rect, radius=radius, corners=None, border=(float(thick),) * 4, border_colour=to_hex(colour.astype(np.float64)),
        shadow=None,
    )  # fmt: skip


def settle_choices(
    cutouts: list[Cutout], pixels: NDArray[np.uint8], scale: int
) -> tuple[list[Cutout], list[Surface]]:
    """(cutouts, surfaces): marks that are an empty ring, a disc of one colour, or a switch, are surfaces; of other round ones (a
    disc with a dot in it) the radius is told."""
    out: list[Cutout] = []
    found: list[Surface] = []
    for c in cutouts:
        if c.kind == "icon" and (switch := _switch(c, pixels, scale)):
            found += switch
            continue
        shape = _outline(c, pixels, scale)
        if shape is None:
            out.append(c)
            continue
        rect, ground, line, thick, filled = shape
        if filled == "hollow":
            fill = Fill(to_hex(ground))
            found.append(Surface(rect, fill, rect.w / 2, (thick,) * 4, to_hex(line)))
        elif filled == "solid":
            found.append(Surface(rect, Fill(to_hex(line)), rect.w / 2))
        elif rect.w >= LEAST:
            out.append(replace(c, rect=rect, radius=rect.w / 2))
        else:
            out.append(c)
    return out, found


def close_switches(
    surfaces: list[Surface], cutouts: list[Cutout], pixels: NDArray[np.uint8], scale: int
) -> tuple[list[Surface], list[Cutout]]:
    """(surfaces, cutouts) with switches whose knob was found by itself, and the rest of the track as a mark, put together."""
    knobs = [s for s in surfaces if abs(s.rect.w - s.rect.h) <= 1.5 and TRACK[0] / 2 <= s.rect.h <= TRACK[1]]
    out, left = list(surfaces), list(cutouts)
    for knob in knobs:
        rest = next((c for c in left if c.kind == "icon" and _of_one_switch(c.rect, knob.rect)), None)
        if rest is None:
            continue
        x0, y0 = min(rest.rect.x, knob.rect.x), min(rest.rect.y, knob.rect.y)
        x1, y1 = max(rest.rect.right, knob.rect.right), max(rest.rect.bottom, knob.rect.bottom)
        whole = Cutout(Rect(x0 - 1, y0 - 1, x1 - x0 + 2, y1 - y0 + 2), "icon", 0.0, False, rest.ground)
        switch = _switch(whole, pixels, scale)
        if switch:
            out = [s for s in out if s is not knob] + switch
            left = [c for c in left if c is not rest]
    return out, left


def _of_one_switch(track: Rect, knob: Rect) -> bool:
    beside = max(knob.x - track.right, track.x - knob.right)
    return (
        track.h >= knob.h - 1
        and abs(track.cy - knob.cy) <= 2
        and -knob.w <= beside <= 3
        and track.w <= 2 * track.h
    )


def _switch(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> list[Surface]:
    """The track and the knob of a mark that is a disc at one end of a capsule; else nothing."""
    r = c.rect
    if not TRACK[0] <= r.h <= TRACK[1] or not LONG[0] <= r.w / r.h <= LONG[1]:
        return []
    reach = round(2 * scale)
    x0, y0 = max(0, round(r.x * scale) - reach), max(0, round(r.y * scale) - reach)
    crop = pixels[y0 : round(r.bottom * scale) + reach, x0 : round(r.right * scale) + reach].astype(np.int16)
    ground = np.median(np.concatenate([crop[0], crop[-1], crop[:, 0], crop[:, -1]]), axis=0)
    off = away_from(crop, ground)
    track = _largest(off > max(FAINT, HALF * off.max()))
    hollow = track is None or not LONG[0] <= track[2] / track[3] <= LONG[1]
    if hollow:  # a track that is only outlined
        track = _largest(off > FAINT)
    if track is None or not LONG[0] <= track[2] / track[3] <= LONG[1]:
        return []
    x, y, w, h, own = track
    yy, xx = np.mgrid[:h, :w] + 0.5
    away = np.hypot(xx - np.clip(xx, h / 2, w - h / 2), yy - h / 2)
    if (own & (away <= h / 2)).sum() / max(1, (own | (away <= h / 2)).sum()) < DISC:
        return []
    part = crop[y : y + h, x : x + w]
    rim = (away <= 0.46 * h) & (away > 0.4 * h)
    if not rim.any():  # too low to have one
        return []
    colour = np.median(part[rim], axis=0)
    off = np.where(away <= 0.46 * h, away_from(part, colour), 0)
    knob = _largest(off > max(3 * FAINT, HALF * off.max()))
    if knob is None or abs(knob[2] - knob[3]) > 1 or not KNOB * h <= knob[3] <= h:
        return []
    kx, ky, kw, kh, disc = knob
    yy, xx = np.mgrid[:kh, :kw] + 0.5
    whole = np.hypot(xx - kw / 2, yy - kh / 2) <= kw / 2
    at_end = min(kx, w - kx - kw) <= 0.3 * h
    if not at_end or (disc & whole).sum() / (disc | whole).sum() < DISC - 0.04:
        return []
    box = Rect((x0 + x) / scale, (y0 + y) / scale, w / scale, h / scale)
    inner = Rect((x0 + x + kx) / scale, (y0 + y + ky) / scale, kw / scale, kh / scale)
    dot = np.median(part[ky : ky + kh, kx : kx + kw][whole], axis=0)
    whole_track = Surface(box, Fill(to_hex(colour.astype(np.float64))), box.h / 2)
    if hollow:
        rim = part[(away <= h / 2) & (away > h / 2 - scale)]
        line = rim[np.argsort(np.abs(rim - ground).max(axis=1))[-max(1, len(rim) // 3) :]]
        ink = to_hex(np.median(line, axis=0).astype(np.float64))
        whole_track = replace(whole_track, border=(1.0,) * 4, border_colour=ink)
    return [
        whole_track,
        Surface(inner, Fill(to_hex(dot.astype(np.float64))), inner.h / 2),
    ]


def _largest(mask: NDArray[np.bool_]) -> tuple[int, int, int, int, NDArray[np.bool_]] | None:
    """(x, y, width, height, shape with its holes filled) of the largest thing in a mask."""
    contours, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return None
    outer = max(contours, key=cv2.contourArea)
    x, y, w, h = cv2.boundingRect(outer)
    filled = np.zeros(mask.shape, np.uint8)
    cv2.drawContours(filled, [outer], -1, 1, cv2.FILLED)
    return x, y, w, h, filled[y : y + h, x : x + w] > 0


def _outline(
    c: Cutout, pixels: NDArray[np.uint8], scale: int
) -> tuple[Rect, NDArray[np.float64], NDArray[np.float64], float, str] | None:
    """(box, ground, line's colour and px, "hollow", "solid" or "") of a mark whose outline is a circle, else None."""
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
    away = away_from(crop, ground)
    ink = (away > FAINT).astype(np.uint8)
    contours, _ = cv2.findContours(ink, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if len(contours) != 1:
        return None
    x, y, w, h = cv2.boundingRect(contours[0])
    if w < ROUND[0] / 2 * scale:
        return None  # a speck has no rim
    solid = np.zeros(ink.shape, np.uint8)
    cv2.drawContours(solid, [contours[0]], -1, 1, cv2.FILLED)
    own = solid[y : y + h, x : x + w] > 0
    yy, xx = np.mgrid[:h, :w] + 0.5
    far = np.hypot(xx - w / 2, yy - h / 2)
    disc = far <= w / 2
    part, off = crop[y : y + h, x : x + w], away[y : y + h, x : x + w]
    cover, full = off / max(1, off.max()), np.clip((w + h) / 4 + 0.5 - far, 0, 1)
    alike = (own & disc).sum() / max(1, (own | disc).sum())
    drawn = np.minimum(cover, full).sum() / np.maximum(cover, full).sum()  # small ones: half anti-aliasing
    if abs(w - h) > 1 or max(alike, drawn) < DISC:
        return None
    inside = far <= 0.3 * w
    rim = (far <= 0.5 * w) & (far > max(0.36 * w, 0.5 * w - RIM * scale))
    if off[rim].max() < 3 * FAINT or (off[rim] > FAINT).mean() < 0.6:
        return None
    line = np.median(part[rim & (off >= 0.8 * off[rim].max())].reshape(-1, 3), axis=0)
    rect = Rect((x0 + x) / scale, (y0 + y) / scale, w / scale, h / scale)
    across = off[h // 2, : w // 2] / max(1.0, float(np.abs(line - ground).max()))
    thick = max(1.0, float(round(float(np.clip(across, 0, 1).sum()) / scale)))
    whole = np.median(part[inside].reshape(-1, 3), axis=0)
    filled = "hollow" if (off[inside] <= FAINT).all() else ""
    if not filled and (np.abs(part[far <= 0.5 * w - 1] - whole).max(axis=1) <= FAINT).all():
        filled, line = "solid", whole
    return rect, ground.astype(np.float64), line.astype(np.float64), thick, filled
