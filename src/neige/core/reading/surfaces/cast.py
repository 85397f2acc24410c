"""Shadows that the page's bar or its side panel casts over whatever lies beside it: their strength is read where grounds of
different colours are dimmed alike, and undone, so that what lies under them can be read.

A shadow of colour c and strength a over a ground g shows as g + (c - g) a (source-over compositing, CSS Compositing 1); along a
straight side, and far from its ends, a box shadow's strength depends on the distance alone: a Gaussian's integral.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from neige.core.model import Rect, Shadow, Surface
from neige.core.reading.colour import pack, unpack

REACHES = (56, 28)  # px at 1x that are looked at beside the edge
BAR, PANEL = (16, 140), (48, 420)  # px at 1x from the page's edge to that of the bar, or of the panel
ALONG = 0.95  # of its length that an edge shows
SCREEN = 0.4  # of the picture's height that a panel as high as the screen takes at least: what stays in place ends there
FLAT = 6  # px at the far end of the reach that tell a ground's own colour
LINE = 2  # px at 1x beside the edge that may be a border of something else
SHARE, GROUNDS = 0.02, 2  # of the edge's length that a ground takes at least; so many of them
BRIGHT = 48.0  # 8-bit: darker channels tell nothing
NEAR, STEEP = (
    10,
    (0.035, 0.016),
)  # px at 1x beside the edge; by which strengths may differ from one px to the next, there and beyond
ALIKE = 0.02  # by which the strengths that two grounds tell may differ
FAINT, STRONG = 0.02, 0.6  # strength at the edge
GONE = 0.008  # strength at the reach's end
SEEN = 12  # px of the far end in one colour, which is a ground's then
SNAP = 2  # 8-bit steps from a ground's colour that are rounding
GAP = 4  # px: what hides the edge for a moment
ON_EDGE = 1.5  # px between the edge and a surface's side


@dataclass(frozen=True)
class Cast:
    """A shadow that was undone: the box (CSS px) of what casts it, and the shadow."""

    box: Rect
    shadow: Shadow


def lift_casts(pixels: NDArray[np.uint8], scale: int) -> tuple[NDArray[np.uint8], list[Cast]]:
    """The picture (h, w, 3) without the shadows of its bar and its side panels, and these."""
    out, casts = pixels, []
    width = pixels.shape[1] / scale
    for at, _, profile in _edges(pixels, scale, BAR):
        out = _lifted(out, at, profile)
        casts.append(Cast(Rect(0, 0, width, at / scale), _shadow(profile, scale, down=True)))
    for flip in (False, True):
        turned = out.transpose(1, 0, 2)[:: -1 if flip else 1]
        for at, end, profile in _edges(turned, scale, PANEL, SCREEN):
            ebb = None if end == turned.shape[1] else _ebb(turned, at, end, profile, scale)
            turned = _lifted(turned, at, profile, ebb)
            long = end if ebb is None else np.count_nonzero(ebb > 0.5)
            box = Rect(width - at / scale if flip else 0, 0, at / scale, long / scale)
            casts.append(Cast(box, _shadow(profile, scale, down=False)))
            out = np.ascontiguousarray(turned[:: -1 if flip else 1].transpose(1, 0, 2))
    return out, casts


def shaded(cast: Cast) -> Rect:
    """Where a shadow lies (CSS px) beside what casts it."""
    b, reach = cast.box, cast.shadow.reach
    if b.w > b.h:
        return Rect(b.x, b.bottom, b.w, reach)
    return Rect(b.right if b.x <= 0 else b.x - reach, b.y, reach, b.h)


def give_casts(surfaces: list[Surface], casts: Sequence[Cast]) -> list[Surface]:
    """The surfaces, with the shadows of those that cast them."""
    out = list(surfaces)
    for cast in casts:
        b = cast.box
        down = b.w > b.h

        def casts_it(s: Surface, b: Rect = b, down: bool = down) -> bool:
            r = s.rect
            if down:
                return abs(r.bottom - b.bottom) <= ON_EDGE and r.w >= ALONG * b.w
            edge = abs(r.right - b.right) if b.x <= 0 else abs(r.x - b.x)
            return edge <= ON_EDGE and r.h >= 0.5 * b.h

        found = max((s for s in out if casts_it(s)), key=lambda s: s.rect.area, default=None)
        if found is not None:
            shadow, lower = cast.shadow, round(b.bottom - found.rect.bottom)
            if not down and 0 < abs(lower) <= REACHES[0]:
                shadow = replace(shadow, dy=float(lower))
            out[out.index(found)] = replace(found, shadow=shadow)
    return out


def _edges(
    pixels: NDArray[np.uint8], scale: int, where: tuple[int, int], least: float = 1.0
) -> list[tuple[int, int, NDArray[np.float64]]]:
    """(row, where it ends, strengths under it) of the first edge across the picture, between these distances from the top, that
    casts a shadow. It begins at the left and is at least `least` of the picture's width long."""
    low, high = where[0] * scale, min(where[1] * scale, pixels.shape[0] - (REACHES[0] + FLAT) * scale)
    if high <= low:
        return []
    strip = pixels[low - 1 : high].astype(np.int16)
    steps = np.abs(np.diff(strip, axis=0)).max(axis=2) > 1
    shortest = round(least * pixels.shape[1])
    for at in (np.flatnonzero(steps[:, :shortest].mean(axis=1) >= ALONG) + low).tolist():
        for reach in REACHES:  # other things may begin before the longest shadow ends
            end = _end(pixels, at, reach * scale, scale) if least < 1 else pixels.shape[1]
            profile = _profile(pixels[:, :end], at, reach * scale, scale) if end >= shortest else None
            if profile is not None:
                return [(at, end, profile)]
    return []


def _end(pixels: NDArray[np.uint8], at: int, reach: int, scale: int) -> int:
    """Up to which column it is darker right under a row than farther away from it, on flat grounds."""
    far = pixels[at + reach : at + reach + FLAT * scale].astype(np.int16)
    flat = (far == far[:1]).all(axis=(0, 2))
    near = pixels[at + LINE * scale].astype(np.int16)
    known = np.flatnonzero(flat & (far[0].max(axis=1) >= BRIGHT))
    if not known.size:
        return 0
    dim = (1.0 - near[known].sum(axis=1) / far[0][known].sum(axis=1)) >= FAINT / 2
    share = np.cumsum(dim) / np.arange(1, known.size + 1)
    good = np.flatnonzero((share >= ALONG) & dim)
    if not good.size:
        return 0
    end = int(known[good[-1]]) + 1
    return pixels.shape[1] if pixels.shape[1] - end <= reach else end


def _ebb(
    pixels: NDArray[np.uint8], at: int, end: int, profile: NDArray[np.float64], scale: int
) -> NDArray[np.float64]:
    """How strong (0..1, falling) the shadow under a row is beside each px along it: whole before its end, gone well beyond."""
    reach = REACHES[0] * scale
    out = np.zeros(pixels.shape[1])
    first, last = max(0, end - reach), min(out.size, end + reach)
    out[:first] = 1.0
    part = pixels[at : at + profile.size, first:last].astype(np.float64)
    own = pixels[at + profile.size, first:last].astype(np.float64)
    under = np.nanmean(1.0 - part / np.where(own >= BRIGHT, own, np.nan), axis=2)
    told = np.clip(profile @ np.nan_to_num(under) / (profile @ profile), 0.0, 1.0)
    middling = np.array([np.median(told[max(0, k - FLAT) : k + FLAT + 1]) for k in range(told.size)])
    out[first:last] = np.minimum.accumulate(middling)
    return out


def _profile(pixels: NDArray[np.uint8], at: int, reach: int, scale: int) -> NDArray[np.float64] | None:
    """A shadow's strength (reach,) at each px under a row, if at least two grounds tell the same; else None."""
    far = pixels[at + reach : at + reach + FLAT * scale]
    own = far[0].astype(np.float64)
    bright = np.where(own >= BRIGHT, own, np.nan)
    flat = (far == far[:1]).all(axis=(0, 2)) & (own >= BRIGHT).any(axis=1)
    if not flat.any():
        return None
    under = 1.0 - np.nanmean(pixels[at : at + reach][:, flat] / bright[flat], axis=2)
    steps = np.abs(np.diff(under, axis=0))
    soft = np.where(np.arange(reach - 1) < NEAR * scale, STEEP[0], STEEP[1])[:, None]
    even = (steps[LINE * scale :] <= soft[LINE * scale :]).all(axis=0)
    values, which, counts = np.unique(pack(far[:1])[0][flat][even], return_inverse=True, return_counts=True)
    often = [k for k in range(len(values)) if counts[k] >= SHARE * pixels.shape[1]]
    told = [np.median(under[:, even][:, which == k], axis=1) for k in often]
    if len(told) < GROUNDS:
        return None
    strengths = np.median(told, axis=0)
    line = LINE * scale  # one of the grounds may begin with a line
    strengths[:line] = np.maximum(np.min(told, axis=0)[:line], strengths[line])
    apart = np.abs(np.array(told) - strengths)[:, line:].max()
    falls = np.diff(strengths).max() <= ALIKE / 2
    if apart > ALIKE or not falls or not FAINT <= strengths[0] <= STRONG or strengths[-1] > GONE:
        return None
    return np.asarray(np.maximum.accumulate(np.clip(strengths, 0, 1)[::-1])[::-1], np.float64)


def _lifted(
    pixels: NDArray[np.uint8], at: int, profile: NDArray[np.float64], ebb: NDArray[np.float64] | None = None
) -> NDArray[np.uint8]:
    """The picture with a black shadow of these strengths under a row, and of these shares of them along it, undone; what was one
    flat colour is one again."""
    out = pixels.copy()
    part = out[at : at + profile.size]
    strength = profile[:, None] * (np.ones(pixels.shape[1]) if ebb is None else ebb)
    bare = np.clip(part / (1.0 - strength)[:, :, None], 0, 255)
    far = pack(pixels[at + profile.size : at + profile.size + 1])[0]
    values, counts = np.unique(far, return_counts=True)
    lifted = np.rint(bare).astype(np.uint8)
    for value in values[counts >= SEEN].tolist():
        colour = np.asarray(unpack(value), np.float64)
        lifted[(np.abs(bare - colour) <= SNAP).all(axis=2)] = colour.astype(np.uint8)
    edge = np.abs(pixels[at].astype(np.int16) - pixels[at - 1]).max(axis=1) > 1
    beside = np.convolve(edge, np.ones(2 * GAP + 1), "same") > GAP  # where what casts it ends, so does this
    out[at : at + profile.size, beside] = lifted[:, beside]
    return out


def _shadow(profile: NDArray[np.float64], scale: int, down: bool) -> Shadow:
    """The black box shadow that is nearest to these strengths."""
    d = (np.arange(profile.size) + 0.5) / scale
    best = (np.inf, 0.0, 0.0, 0.0)
    for dy in range(0, 25 if down else 1):
        for blur in range(0, 61):
            shape = 1.0 - ndtr((d - dy) / max(blur / 2, 0.01))
            strength = float(shape @ profile / max(shape @ shape, 1e-9))
            error = float(((strength * shape - profile) ** 2).sum())
            if error < best[0] - 1e-9:
                best = (error, float(dy), float(blur), strength)
    _, dy_, blur_, strength = best
    return Shadow(0.0, dy_, blur_, 0.0, "#000000", round(min(1.0, strength), 3))
