"""Ink on a photo or a gradient: letters are the one colour that repeats exactly there, and the ground is what shows around them."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from, pack, unpack

EXACT = 0.012  # of a crop's pixels that are the ink's own colour at least,
FEWEST = 12  # and how many
RIM = 2  # rows at a crop's top and bottom, where hardly a letter reaches
AT_RIM = 0.3  # of its share elsewhere that the ink's colour has there at most
APART = 60.0  # 8-bit steps between the ink and most of its ground
NEARLY = 40  # 8-bit steps from the ink's colour within which a pixel beside its own is a letter's as well
OWN = 2  # 8-bit steps from the ink's colour that a pixel of its own has at most
THIN = 0.3  # share of thin strokes' pixels that have it at most
INKY = 0.55  # of the way from ink to ground, up to which a pixel is a thin stroke's;
STROKE = 0.25  # of a crop's height that no stroke is thick
SOFT = 2  # px around those that a letter's edge may cover
CONTRAST = 24.0  # 8-bit steps between ink and ground from which cover can be told
IN_RUNS = 0.5  # of the ink's pixels that have one like them beside: what repeats by chance is scattered


def ink_on_picture(crop: NDArray[np.uint8]) -> NDArray[np.float64] | None:
    """The colour (3,) of text in a crop (h, w, 3) whose ground is no flat colour; None if none repeats as letters do."""
    if crop.shape[0] < 4 * RIM:
        return None
    packed = pack(crop)
    values, counts = np.unique(packed, return_counts=True)
    rim = np.concatenate([packed[:RIM], packed[-RIM:]])
    best: tuple[int, int] | None = None
    for value, count in zip(values.tolist(), counts.tolist()):
        if count < max(FEWEST, EXACT * packed.size):
            continue
        exact = packed == value
        beside = np.pad(exact, 1)
        run = exact & (beside[:-2, 1:-1] | beside[2:, 1:-1] | beside[1:-1, :-2] | beside[1:-1, 2:])
        away = np.abs(crop[~exact].astype(np.int16) - unpack(value)).max(axis=1)
        if (
            (rim == value).mean() <= AT_RIM * exact[RIM:-RIM].mean()
            and run.sum() >= IN_RUNS * count
            and np.median(away) >= APART
            and (best is None or count > best[0])
        ):
            best = count, value
    return None if best is None else np.array(unpack(best[1]), np.float64)


def _thin(away: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Strokes so thin that few of their pixels have the ink's own colour: all that is nearer to it than to the ground, where the
    picture has nothing like it: no spot larger than a stroke, and hardly anything where hardly a letter reaches."""
    inky = away <= INKY * np.median(away)
    if (away <= OWN).sum() > THIN * inky.sum():
        return np.zeros_like(inky)
    size = max(3, round(STROKE * len(inky)))
    spots = cv2.morphologyEx(inky.astype(np.uint8), cv2.MORPH_OPEN, np.ones((size, size), np.uint8))
    rim = np.concatenate([inky[:RIM], inky[-RIM:]])
    return inky if not spots.any() and rim.mean() <= AT_RIM * inky.mean() else np.zeros_like(inky)


def cover_on_picture(
    crop: NDArray[np.uint8], colour: NDArray[np.float64]
) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    """(how much of each pixel is ink (h, w) in 0..1, the usual colour of the ground around it).

    The ground under the letters is filled in from their surroundings (Telea 2004).
    """
    away = away_from(crop, colour)
    exact = away <= OWN
    reach = np.ones((2 * SOFT + 1, 2 * SOFT + 1), np.uint8)
    near = cv2.dilate(exact.astype(np.uint8), reach) > 0
    letters = exact | (near & (away <= NEARLY)) | _thin(away)
    region = cv2.dilate(letters.astype(np.uint8), reach) > 0
    filled = cv2.inpaint(np.ascontiguousarray(crop), region.astype(np.uint8), 3, cv2.INPAINT_TELEA)
    ground = cv2.blur(filled, (3, 3)).astype(np.float64)
    way = colour - ground
    length = (way * way).sum(axis=2)
    cover = ((crop - ground) * way).sum(axis=2) / np.maximum(length, 1.0)
    told = away_from(way, 0.0) >= CONTRAST
    cover = np.where(region, np.where(told, cover, letters), 0.0)
    beside = crop[region & ~letters]
    usual = np.median(beside, axis=0) if beside.size else np.median(crop.reshape(-1, 3), axis=0)
    return np.clip(cover, 0, 1).astype(np.float32), np.asarray(usual, np.float64)
