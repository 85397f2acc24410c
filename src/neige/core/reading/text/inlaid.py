"""Boxes inside a line, round a word of code or a key: where they end a word ends, and what is in them is read by itself."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.surfaces.flat import Region
from neige.core.reading.text.detect import Box
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.raw import RawLine, RawWord, around, shift
from neige.core.reading.text.recognise import Recogniser

HIGH = (0.95, 2.2)  # times the line's ink that such a box is high
HOLLOW = 0.8  # the same, where its outline was taken for the line's ink
SPILL = 0.2  # of the ink's height that may stand out of it
WIDE = 0.9  # of the line that it takes at most
OTHER = 5.0  # 8-bit steps from the line's ground at least
FRAMED, EVEN, SEEN = (
    1.15,
    6.0,
    3.0,
)  # times the line's ink that a box without a tint is high; 8-bit steps within its outline, and from the ground
SAME_INK = 24.0  # 8-bit steps between a letter and the line's ink
ACROSS = 2.0  # px at 1x by which a word must lie on both sides of a box's edge to be cut there
NARROW = 0.6  # of the ink's height: no more than a sign stands there
OPENING, CLOSING = "([{\"'“‘", ".,;:!?)]}\"'”’…"
FULL, HALF = (
    0.9,
    0.5,
)  # of its box's height and width that a word takes whose ink is the box's outline as well
ROOM = 0.6  # of the ink's height that is put around what is read by itself
ROUND = 1.0  # px: the corners of a box whose outline comes in at its sides; of a square one only letters do
SURE = 0.6  # confidence of what is read by itself, or the words stay as they were


def read_inlaid(
    lines: Sequence[RawLine], regions: Sequence[Region], pixels: NDArray[np.uint8], scale: int,
    recogniser: Recogniser, noise: float,
) -> list[RawLine]:  # fmt: skip
    """The lines, with the words in boxes of their own tint told as such, and those in and across them read again, apart. `pixels`, boxes: device px."""
    out = []
    for line in lines:
        boxes = _inlays(line, regions, pixels, scale) if line.flat and len(line.text) > 1 else []
        words = list(line.words)
        outlined = [r for r in boxes if _is_pill(r, line, scale) and any(_holds_outline(w, r) for w in words)]
        for r in boxes:
            if not any(w.pinned for w in words):  # what a person said stays
                words = _parted(words, line, r, pixels, scale, recogniser, noise)
            words = [replace(w, inlaid=r.colour) if _is_in(w, r) else w for w in words]
        if words == list(line.words):
            out.append(line)
            continue
        own = [next((n for n, r in enumerate(outlined) if _is_in(w, r)), -1) for w in words]
        # a pill's words are a line
        for _, part in itertools.groupby(zip(own, words), key=lambda pair: pair[0]):
            held = tuple(w for _, w in part)
            first = held[0] is words[0]
            out.append(
                replace(
                    line, words=held, box=around([w.box for w in held]), bullet=line.bullet if first else None
                )
            )
    return out


def _is_pill(r: Region, line: RawLine, scale: int) -> bool:
    """Is a box round, or an outline on the line's own ground? A square tint round a word of code is part of its sentence, however
    high that word's letters are."""
    return r.radius >= ROUND * scale or bool(np.abs(np.subtract(r.colour, line.ground)).max() < OTHER)


def _is_in(w: RawWord, r: Region) -> bool:
    return r.x0 < (w.box[0] + w.box[2]) / 2 < r.x1


def _inlays(line: RawLine, regions: Sequence[Region], pixels: NDArray[np.uint8], scale: int) -> list[Region]:
    x0, y0, x1, y1 = line.box
    h = y1 - y0
    near = [
        r
        for r in regions
        if r.x0 > x0 - h and r.x1 < x1 + h
        and r.y0 <= y0 + SPILL * h and r.y1 >= y1 - SPILL * h and HOLLOW * h <= r.y1 - r.y0 <= HIGH[1] * h
    ]  # fmt: skip
    return [
        r
        for r in near
        if any(_holds_outline(w, r) and not _in_ink(w, r) for w in line.words)
        or (
            r.x1 - r.x0 < WIDE * (x1 - x0)
            and r.y1 - r.y0 >= HIGH[0] * h
            and (np.abs(np.subtract(r.colour, line.ground)).max() >= OTHER or _is_framed(r, line, pixels))
            and any(w.box[0] < r.x0 - scale or w.box[2] > r.x1 + scale for w in line.words)
            and not _is_letter(r, line)
        )
    ]


def _is_framed(r: Region, line: RawLine, pixels: NDArray[np.uint8]) -> bool:
    """Is a region of the line's own ground a box, with one line of another colour along all its sides?"""
    if r.y1 - r.y0 < FRAMED * (line.box[3] - line.box[1]) or min(r.x0, r.y0) < 1:
        return False
    inset = 1 + round(r.radius)
    middle = [
        pixels[r.y0 - 1, r.x0 + inset : r.x1 - inset], pixels[r.y1 : r.y1 + 1, r.x0 + inset : r.x1 - inset].reshape(-1, 3),
        pixels[r.y0 + inset : r.y1 - inset, r.x0 - 1], pixels[r.y0 + inset : r.y1 - inset, r.x1 : r.x1 + 1].reshape(-1, 3),
    ]  # fmt: skip
    if any(len(side) < 2 for side in middle):
        return False
    sides = np.concatenate(middle).astype(np.float64)
    return bool(
        np.ptp(sides, axis=0).max() <= EVEN and np.abs(sides.mean(axis=0) - line.ground).max() >= SEEN
    )


def _is_letter(r: Region, line: RawLine) -> bool:
    """Is a region what one bold letter is filled with?"""
    return any(_in_ink(w, r) for w in line.words) and r.x1 - r.x0 < r.y1 - r.y0


def _in_ink(w: RawWord, r: Region) -> bool:
    """Has a region the colour of a word's letters?"""
    return bool(np.abs(np.subtract(r.colour, w.colour)).max() <= SAME_INK)


def _holds_outline(w: RawWord, r: Region) -> bool:
    """Is a word's ink as high and as wide as the box that it is in? Then the box's outline was taken for its ink."""
    return (
        _is_in(w, r)
        and w.box[3] - w.box[1] >= FULL * (r.y1 - r.y0)
        and w.box[2] - w.box[0] >= HALF * (r.x1 - r.x0)
    )


def _parted(
    words: list[RawWord], line: RawLine, r: Region, pixels: NDArray[np.uint8], scale: int,
    recogniser: Recogniser, noise: float,
) -> list[RawWord]:  # fmt: skip
    """The words of a line with those in one box, and those across its edges, read apart."""
    edge, low, high = ACROSS * scale, line.box[1], line.box[3]
    touched = [w for w in words if w.box[0] < r.x1 - edge and w.box[2] > r.x0 + edge]
    before, after = (
        (min(w.box[0] for w in touched), max(w.box[2] for w in touched)) if touched else (0.0, 0.0)
    )
    left, right = before < r.x0 - edge, after > r.x1 + edge
    outlined = any(_holds_outline(w, r) for w in touched)
    if not touched or not (left or right or len(touched) > 1 or outlined):
        return words

    def apart(box: Box, ground: tuple[float, ...], ends: bool = False) -> list[RawWord]:
        return _read_apart(box, ground, pixels, recogniser, noise, ends)

    inner = apart(
        (r.x0 + 1, max(low, r.y0 + 1), r.x1 - 1, min(high, r.y1 - 1)),
        r.colour,
        outlined and r.radius >= ROUND * scale,
    )
    if not inner:
        return words
    out = [inner]
    sign = _sign(touched[0].text[:1], r.x0 - before, high - low, OPENING) if left else ""
    if sign:  # it belongs to the word, where the box does not hold it as well
        inner[0] = replace(
            inner[0], text=sign + inner[0].text, box=around([inner[0].box, (before, low, r.x0, high)])
        )
    elif left:
        beyond = apart((before, low, r.x0 - 1, high), line.ground)
        if beyond or not (outlined and r.x0 - before <= high - low):  # else it is the box's own end
            out.insert(0, beyond)
    sign = _sign(touched[-1].text[-1:], after - r.x1, high - low, CLOSING) if right else ""
    if sign:
        inner[-1] = replace(
            inner[-1], text=inner[-1].text + sign, box=around([inner[-1].box, (r.x1, low, after, high)])
        )
    elif right:
        beyond = apart((r.x1 + 1, low, after, high), line.ground)
        if beyond or not (outlined and after - r.x1 <= high - low):
            out.append(beyond)
    first = words.index(touched[0])
    return (
        words[:first] + [w for part in out for w in part] + words[first + len(touched) :]
        if all(out)
        else words
    )


def _sign(character: str, width: float, high: float, signs: str) -> str:
    """The punctuation that stands outside of a box: all there is room for."""
    return character if character in signs and width < NARROW * high else ""


def _read_apart(
    box: Box, ground: tuple[float, ...], pixels: NDArray[np.uint8], recogniser: Recogniser, noise: float, ends: bool
) -> list[RawWord]:  # fmt: skip
    """The words in a box, read with nothing but its ground around it; `ends`: without the ends of an outline at its sides."""
    x0, y0, x1, y1 = int(box[0]), int(box[1]), int(np.ceil(box[2])), int(np.ceil(box[3]))
    room = max(4, round(ROOM * (y1 - y0)))
    alone = np.empty((y1 - y0 + 2 * room, x1 - x0 + 2 * room, 3), np.uint8)
    alone[:] = np.rint(ground)
    crop = pixels[y0:y1, x0:x1]
    alone[room:-room, room:-room] = _without_ends(crop, ground) if ends else crop
    inner = (float(room), float(room), float(room + x1 - x0), float(room + y1 - y0))
    found, _ = read_lines(alone, [inner], recogniser, noise)
    words = [w for n in found for w in shift(n, x0 - room, y0 - room).words]
    return sorted(words, key=lambda w: w.box[0]) if all(w.confidence >= SURE for w in words) else []


def _without_ends(crop: NDArray[np.uint8], ground: tuple[float, ...]) -> NDArray[np.uint8]:
    """A crop without what comes in at its left and right: the round ends of an outline."""
    off = (away_from(crop, ground) > OTHER).astype(np.uint8)
    _count, labels = cv2.connectedComponents(off, connectivity=8)
    ends = np.setdiff1d(np.concatenate([labels[:, 0], labels[:, -1]]), [0])
    if not ends.size:
        return crop
    out = crop.copy()
    out[np.isin(labels, ends)] = np.rint(ground)
    return out
