"""Ink on its ground: which colour the ground has, how much of each pixel is ink, and the boxes of words."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from, pack
from neige.core.reading.text.on_picture import cover_on_picture, ink_on_picture

FLAT_SHARE = 0.3  # of a crop's pixels in one colour: text on a flat ground rarely leaves less
MIN_CONTRAST = 18.0  # 8-bit steps between ink and ground; less is not ink

FOREIGN = 30.0  # 8-bit steps off the way from ground to ink
MUCH = 0.05  # of the pixels that lie so
STROKE = 0.22  # of a crop's height: no letter's stroke is as thick
RIM = 2  # rows at a crop's top and bottom, where hardly a letter reaches
AT_RIM, EVEN_RIM = 0.1, 0.6  # of these pixels that a ground takes at least, and that of bold letters
BOLD = 60.0  # 8-bit steps between these and their ground: what is less apart is a badge in its surroundings


@dataclass(frozen=True)
class Ink:
    """`cover` (h, w) in 0..1: how far a pixel is from the ground towards the ink. `ground`, `colour`: (3,) float sRGB 0..255.

    `flat`: the cover can be compared with a drawing; `pictured`: it was told from a ground that is a picture.
    """

    cover: NDArray[np.float32]
    ground: NDArray[np.float64]
    colour: NDArray[np.float64]
    flat: bool
    pictured: bool = False


def ground_colour(crop: NDArray[np.uint8], tolerance: int = 6) -> tuple[NDArray[np.float64], float]:
    """The commonest colour of a crop (h, w, 3), averaged over its neighbourhood of `tolerance`, and its share of the pixels."""
    flat = crop.reshape(-1, 3)
    packed = pack(flat)
    coarse = packed >> 9 & 0x7C00 | packed >> 6 & 0x3E0 | packed >> 3 & 0x1F  # 5 bits a channel
    mode = int(np.bincount(coarse).argmax())
    centre = flat[coarse == mode].mean(axis=0)
    near = away_from(flat, centre) <= tolerance
    if not near.any():
        return centre, 0.0
    return flat[near].mean(axis=0), float(near.mean())


def measure_ink(crop: NDArray[np.uint8], noise: float = 0.0) -> Ink:
    """Separate a crop of text into ground and ink.

    The ink's colour is taken where it is purest: the pixels farthest from the ground in the ground-to-ink direction.
    """
    tolerance = 6 + int(3 * noise)
    ground, share = ground_colour(crop, tolerance)
    # on a ground that changes, and in bold letters, the commonest colour may be the ink's: it is not at the rim
    rim = np.concatenate([crop[:RIM], crop[-RIM:]])
    if (away_from(rim, ground) <= tolerance).mean() < AT_RIM:
        other, even = ground_colour(rim, tolerance)
        if share < FLAT_SHARE:
            ground = np.median(rim.reshape(-1, 3), axis=0).astype(np.float64)
        elif even >= EVEN_RIM and np.abs(other - ground).max() >= BOLD:
            ground = other
            share = float((away_from(crop, ground) <= tolerance).mean())
        elif (
            even < EVEN_RIM
            and not noise
            and (told := _on_picture(crop))
            and np.abs(told.colour - ground).max() <= tolerance
        ):
            return told  # bold letters on a photo
    if share < FLAT_SHARE and not noise and (told := _on_picture(crop)):
        return told
    away = crop.astype(np.float64) - ground
    distance = away_from(away, 0.0)
    if distance.max() < MIN_CONTRAST:
        return Ink(np.zeros(crop.shape[:2], np.float32), ground, ground, share >= FLAT_SHARE)
    purest = distance >= max(MIN_CONTRAST, 0.9 * np.quantile(distance[distance >= MIN_CONTRAST], 0.98))
    colour = np.median(crop[purest].reshape(-1, 3), axis=0).astype(np.float64)
    direction = colour - ground
    cover = (away @ direction) / max(1.0, float(direction @ direction))
    even = share >= FLAT_SHARE and not noise
    if even and _is_picture(away, cover, direction) and (told := _on_picture(crop)):
        return told
    cover[distance < 0.5 * MIN_CONTRAST + 2 * noise] = 0
    return Ink(np.clip(cover, 0, 1).astype(np.float32), ground, colour, share >= FLAT_SHARE)


def _on_picture(crop: NDArray[np.uint8]) -> Ink | None:
    colour = ink_on_picture(crop)
    if colour is None:
        return None
    cover, ground = cover_on_picture(crop, colour)
    return Ink(cover, ground, colour, True, True)


def _is_picture(
    away: NDArray[np.float64], cover: NDArray[np.float64], direction: NDArray[np.float64]
) -> bool:
    """Is much of a crop neither ground nor ink nor a mixture of both, in pieces larger than the strokes of a second ink: a picture
    that is even in places?"""
    off = away_from(away, cover[..., None] * direction) > FOREIGN
    other = off | (cover * np.abs(direction).max() < -FOREIGN)
    if other.mean() <= MUCH:
        return False
    size = max(4, round(STROKE * other.shape[0]))
    dark = other | (cover > 0.5)  # what was taken for the ink may be the picture
    whole = cv2.morphologyEx(dark.astype(np.uint8), cv2.MORPH_OPEN, np.ones((size, size), np.uint8))
    goes_on = whole[[0, -1]].any() or whole[:, [0, -1]].any()  # a dot beside the text does not
    return bool(whole.mean() > MUCH / 2 and goes_on)


def spans(profile: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Half-open index ranges where a boolean profile is true."""
    steps = np.diff(np.concatenate([[0], profile.astype(np.int8), [0]]))
    return list(zip(np.flatnonzero(steps == 1).tolist(), np.flatnonzero(steps == -1).tolist()))


def edge(profile: NDArray[np.float32], first: int, last: int) -> tuple[float, float]:
    """Sub-pixel ends of ink in a profile of largest covers, whose inked range is [first, last): a half covered end pixel counts half."""
    peak = float(profile[first:last].max()) or 1.0
    lead = min(1.0, float(profile[first]) / peak)
    trail = min(1.0, float(profile[last - 1]) / peak)
    return first + (1 - lead if last - first > 1 else 0), last - (1 - trail if last - first > 1 else 0)
