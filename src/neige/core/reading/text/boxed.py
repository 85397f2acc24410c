"""Words in small boxes: where a number in a pill follows a word, its ink is not the pill but what is written in it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.surfaces.flat import Region
from neige.core.reading.surfaces.rectangles import rounded_mask
from neige.core.reading.text.ink import measure_ink
from neige.core.reading.text.raw import RawLine, RawWord

EDGE = 2.0  # px at 1x by which a word's ink may differ from its box
HIGH = (9.0, 40.0)  # px at 1x that such a box is high
LETTERS = 4  # that are in it at most
TALL = 0.7  # of the word's height that the box at its end is high at least: it is no letter
NUMBER = re.compile(r"\d{1,3}\+?$")
SOLID = 0.5  # of its box that a disc or pill fills at least, what is written in it taken off
EMPTY = 0.97  # of its box that a region with nothing on it fills
OWN_INK = 40.0  # 8-bit steps from the other letters' ink: a box nearer to it is a letter,
HIGHER = 1.15  # unless it is so many times as high as they are
INKED = 0.3  # cover from which a pixel is ink


def lift_boxed(
    lines: Sequence[RawLine], regions: Sequence[Region], pixels: NDArray[np.uint8], scale: int
) -> list[RawLine]:
    """The lines, with words that took their box for their ink as lines of their own, on the box's colour. Boxes in device px."""
    small = [r for r in regions if HIGH[0] <= (r.y1 - r.y0) / scale <= HIGH[1] and r.filled < EMPTY]
    out: list[RawLine] = []
    for line in lines:
        kept: list[RawWord] = []
        for w in (part for word in line.words for part in _parted(word, small, pixels, scale)):
            first = kept[-1] if kept else line.words[0]
            own = w is line.words[0]
            initials = len(w.text) > 1 and (w.text.isupper() or w.text.isdigit())  # or a number
            may = initials or not own
            box = next((r for r in small if _is_ink(r, w, scale)), None) if may else None
            # several letters are no single region of one colour, but for the disc or pill that they are in
            letter = (
                box is not None and not own and _is_letter(box, first.colour, first.box[3] - first.box[1])
            )
            letter = letter or (box is not None and own and box.filled < SOLID)
            short = len(w.text) <= LETTERS and not letter
            lifted = _written_in(box, w, pixels) if box is not None and short else None
            if lifted is None:
                kept.append(w)
            else:
                out.append(lifted)
        if kept == list(line.words):
            out.append(line)
        elif kept:
            boxes = np.array([w.box for w in kept])
            corners = [*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0)]
            x0, y0, x1, y1 = (float(v) for v in corners)
            out.append(replace(line, words=tuple(kept), box=(x0, y0, x1, y1)))
    return out


def _parted(w: RawWord, boxes: list[Region], pixels: NDArray[np.uint8], scale: int) -> list[RawWord]:
    """A word, or it and the number in a box at its end that was read as part of it."""
    number = NUMBER.search(w.text)
    x0, y0, x1, y1 = w.box
    box = next(
        (
            r
            for r in boxes
            if number and number.start() and x0 + EDGE * scale < r.x0 < (r.x0 + r.x1) / 2 < x1 <= r.x1 + EDGE * scale
            and r.y0 >= y0 - EDGE * scale and r.y1 <= y1 + EDGE * scale and r.y1 - r.y0 >= TALL * (y1 - y0)
        ),
        None,
    )  # fmt: skip
    if number is None or box is None:
        return [w]
    ink = measure_ink(pixels[int(y0) : int(y1) + 1, int(x0) : box.x0 - 1])
    dark = np.asarray(ink.cover >= INKED)
    rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
    if not rows.size or _is_letter(box, tuple(ink.colour), float(rows[-1] - rows[0] + 1)):
        return [w]
    own = (x0, int(y0) + float(rows[0]), int(x0) + float(columns[-1]) + 1, int(y0) + float(rows[-1]) + 1)
    pill = (float(box.x0), float(box.y0), float(box.x1), float(box.y1))
    return [
        replace(w, text=w.text[: number.start()], box=own),
        replace(w, text=number.group(), box=pill),
    ]


def _is_letter(r: Region, ink: tuple[float, ...], high: float) -> bool:
    """Is a region one of the letters beside it: in their ink, and no higher than they are?"""
    return bool(np.abs(np.subtract(ink, r.colour)).max() < OWN_INK and r.y1 - r.y0 < HIGHER * high)


def _is_ink(r: Region, w: RawWord, scale: int) -> bool:
    return all(abs(a - b) <= EDGE * scale for a, b in zip((r.x0, r.y0, r.x1, r.y1), w.box))


def _written_in(r: Region, w: RawWord, pixels: NDArray[np.uint8]) -> RawLine | None:
    """The word as a line on the box's colour, with the box of its own ink; None if there is nothing in the box."""
    inset = max(1, round(0.3 * r.radius))
    x0, y0 = r.x0 + inset, r.y0 + 1
    crop = pixels[y0 : r.y1 - 1, x0 : r.x1 - inset]
    if crop.size == 0:
        return None
    ink = measure_ink(crop)
    within = cv2.erode(
        (rounded_mask(r.y1 - r.y0, r.x1 - r.x0, r.radius) > 0.99).astype(np.uint8), np.ones((3, 3))
    )
    dark = (ink.cover >= INKED) & (within[1:-1, inset : r.x1 - r.x0 - inset] > 0)
    rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
    if not rows.size or rows.size >= crop.shape[0] or columns.size >= crop.shape[1]:
        return None
    box = (float(x0 + columns[0]), float(y0 + rows[0]), float(x0 + columns[-1] + 1), float(y0 + rows[-1] + 1))
    red, green, blue = (float(v) for v in ink.colour)
    word = replace(w, box=box, colour=(red, green, blue))
    around = tuple(float(v) for v in ink.ground)  # a region on a gradient has the colour that stands for it
    return RawLine((word,), box, (around[0], around[1], around[2]), ink.flat, w.confidence)
