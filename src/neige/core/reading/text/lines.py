"""From detected boxes to lines of words with tight ink boxes. Everything here is in device px."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.crops import fill_corners, line_limits, own_ground, trim, without_neighbours
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import measure_ink, spans
from neige.core.reading.text.raw import RawLine, around, shift
from neige.core.reading.text.recognise import Recogniser, Spelling
from neige.core.reading.text.strokes import INKED, letters_and_rules
from neige.core.reading.text.words import split_words

RINGS = set("Oo0QC©●◯○")
ONE_SPACE = 0.8  # of their ink's height between two parts of a line at most
BESIDE_DOT = 1.8  # of it, if there is a dot between them
LEVEL = 0.75  # of the lower one's height that they share,
ALIKE = 1.6  # times as high as that the other is at most
SAME_INK, SAME_GROUND = 24.0, 8.0  # 8-bit steps
SMALLER = 0.6  # times as high as a word beside it
FAINT = 40.0  # 8-bit steps from its ground: a letter's edge
COVERED = 0.8  # of a word that a longer one covers which it is the end of
LONG_LINE = 24.0  # times its height: longer crops are read in parts
MIN_CONFIDENCE = 0.5  # of a line; less is not kept as text (it is left as a region)
SYMBOLS = set("@#&?€$£¥%•·–—→←↑↓©®™½¼¾")  # that may stand alone; any other lone sign is an icon misread


def read_lines(
    pixels: NDArray[np.uint8], boxes: list[Box], recogniser: Recogniser, noise: float
) -> tuple[list[RawLine], list[Box]]:
    """All lines of words in the boxes, and the boxes in which nothing could be read."""
    height, _ = pixels.shape[:2]
    limits = line_limits(boxes, height)
    crops, kept = [], []
    pixels = pixels.copy()
    for box, (lowest, highest) in zip(boxes, limits):
        ground = own_ground(pixels, box)
        if ground[3] - ground[1] < height:
            fill_corners(pixels[ground[1] : ground[3], ground[0] : ground[2]])
        (x0, y0, x1, y1), ink = trim(pixels, box, (lowest, highest), ground, noise)
        pad = 0.35 * (y1 - y0) if ink is not None else 0.0
        a, b = int(max(y0 - pad, lowest, ground[1])), int(np.ceil(min(y1 + pad, highest, ground[3])))
        before, after = _beside((x0, y0, x1, y1), boxes)
        c, d = int(max(x0 - pad, ground[0], before)), int(np.ceil(min(x1 + pad, ground[2], after)))
        if b - a < 4 or d - c < 3:
            continue
        crops.append(without_neighbours(pixels[a:b, c:d], round(x0) - c, round(x1) - c, ink))
        kept.append((a, c, ink is not None))
    lines: list[RawLine] = []
    unread: list[Box] = []
    for crop, (top, left, _), spelling in zip(crops, kept, _spell(crops, recogniser, noise)):
        found = split_words(crop, spelling, noise)
        text = spelling.text.strip()
        if len(text) == 1 and not text.isalnum() and text not in SYMBOLS:
            continue
        if spelling.confidence < MIN_CONFIDENCE or not found or not any(c.isalnum() for c in spelling.text):
            if spelling.confidence < MIN_CONFIDENCE or not found:
                unread.append((left, top, left + crop.shape[1], top + crop.shape[0]))
                continue
            if len(spelling.text.strip()) == 1 and spelling.confidence < 0.9:
                continue
        lines += [shift(line, left, top) for line in found]
    lines = [_without_next(n, lines, pixels) for n in lines]
    return _without_choices(join_lines(drop_repeats(lines))), unread


def _beside(b: Box, boxes: list[Box]) -> tuple[float, float]:
    """Half-way to what is lower and stands before and after a line on its level: the ink there is not its own."""
    level = [
        o
        for o in boxes
        if min(o[3], b[3]) - max(o[1], b[1]) > 0.5 * (o[3] - o[1]) and o[3] - o[1] < SMALLER * (b[3] - b[1])
    ]
    before = max(((o[2] + b[0]) / 2 for o in level if o[2] <= b[0]), default=0.0)
    return before, min(((o[0] + b[2]) / 2 for o in level if o[0] >= b[2]), default=float("inf"))


def _without_next(n: RawLine, lines: list[RawLine], pixels: NDArray[np.uint8]) -> RawLine:
    """A line whose last word took in the first of the smaller line right beside it, without that."""
    last = n.words[-1]
    x0, y0, x1, y1 = last.box
    for o in lines:
        a, top, b, bottom = o.words[0].box
        within = o is not n and x0 < a and b <= x1 + 1 and bottom - top < SMALLER * (y1 - y0)
        if not within or min(bottom, y1) - max(top, y0) < 0.9 * (bottom - top):
            continue
        part = pixels[int(y0) : int(np.ceil(y1)), int(x0) : int(a)].astype(np.float64)
        inked = np.flatnonzero((away_from(part, n.ground) > FAINT).any(axis=0))
        if inked.size:
            box = (x0, y0, int(x0) + float(inked[-1]) + 1, y1)
            words = (*n.words[:-1], replace(last, box=box))
            return replace(n, words=words, box=around([w.box for w in words]))
    return n


def _without_choices(lines: list[RawLine]) -> list[RawLine]:
    """Leave out single round letters, as wide as high and larger than capitals, right before a label: chosen radio buttons."""
    out = []
    for line in lines:
        x0, y0, x1, y1 = line.words[0].box
        ring = (
            len(line.words) == 1
            and line.text in RINGS
            and abs((x1 - x0) - (y1 - y0)) <= 1.2
            and line.confidence < 0.9
        )
        label = ring and any(
            0.2 * (x1 - x0) <= n.words[0].box[0] - x1 <= 1.3 * (x1 - x0)
            and abs((n.words[0].box[1] + n.words[0].box[3]) / 2 - (y0 + y1) / 2) <= 0.3 * (y1 - y0)
            for n in lines
            if n is not line
        )
        if not label:
            out.append(line)
    return out


def _spell(crops: list[NDArray[np.uint8]], recogniser: Recogniser, noise: float) -> list[Spelling]:
    """Read crops, long ones in parts: over a whole long line the recogniser drops letters. Parts end at wide ink gaps."""
    parts: list[NDArray[np.uint8]] = []
    bounds: list[list[tuple[int, int]]] = []
    for crop in crops:
        cuts = _cuts(crop, noise) if crop.shape[1] > LONG_LINE * crop.shape[0] else []
        ends = [0, *cuts, crop.shape[1]]
        bounds.append(list(itertools.pairwise(ends)))
        parts += [crop[:, a:b] for a, b in bounds[-1]]
    read = iter(recogniser(parts))
    out = []
    for crop, spans_of in zip(crops, bounds):
        text, places, scores = "", [], []
        for a, b in spans_of:
            s = next(read)
            if text and s.text:
                text += " "
                places.append(a / crop.shape[1])
                scores.append(1.0)
            text += s.text
            places += [(a + p * (b - a)) / crop.shape[1] for p in s.places]
            scores += s.scores
        out.append(Spelling(text, tuple(places), tuple(scores)))
    return out


def _cuts(crop: NDArray[np.uint8], noise: float) -> list[int]:
    """Where to cut a long line: near equal parts, in the widest gap thereabouts that is plainly one between words."""
    ink = measure_ink(crop, noise)
    height, width = crop.shape[:2]
    inked, _ = letters_and_rules(ink.cover > INKED, 1.1 * height, 0.97 * height)
    runs = spans(inked.max(axis=0))
    gaps = [
        (b[0] - a[1], (a[1] + b[0]) / 2)
        for a, b in itertools.pairwise(runs)
        if b[0] - a[1] >= max(3, 0.1 * height)
    ]
    count = int(np.ceil(width / (LONG_LINE * 0.75 * height)))
    reach = 0.3 * width / count
    cuts = []
    for k in range(1, count):
        near = [g for g in gaps if abs(g[1] - k * width / count) <= reach]
        if near:
            cuts.append(round(max(near)[1]))
    return sorted(set(cuts))


def join_lines(lines: list[RawLine]) -> list[RawLine]:
    """Lines that were found in parts, put together: on one baseline, in one ink on one ground, a space apart."""
    out: list[RawLine] = []
    for line in sorted(lines, key=lambda n: n.box[0]):
        before = next((n for n, o in enumerate(out) if _goes_on(o, line)), None)
        if before is None:
            out.append(line)
            continue
        first = out[before]
        words = (*first.words, *line.words)
        out[before] = replace(
            first,
            words=words,
            box=around([w.box for w in words]),
            confidence=min(first.confidence, line.confidence),
        )
    return sorted(out, key=lambda n: (n.box[1], n.box[0]))


def _goes_on(a: RawLine, b: RawLine) -> bool:
    low, high = max(a.box[1], b.box[1]), min(a.box[3], b.box[3])
    heights = sorted((a.box[3] - a.box[1], b.box[3] - b.box[1]))
    gap = b.box[0] - a.box[2]
    parted = "·" in (a.words[-1].text, b.words[0].text)
    most = (BESIDE_DOT if parted else ONE_SPACE) * heights[1]
    if not (a.flat and b.flat) or not 0 < gap <= most or high - low < LEVEL * heights[0]:
        return False
    if b.words[0].apart:
        return False
    inks = np.abs(np.subtract(a.words[-1].colour, b.words[0].colour)).max()
    grounds = np.abs(np.subtract(a.ground, b.ground)).max()
    return heights[1] <= ALIKE * heights[0] and bool(inks <= SAME_INK) and bool(grounds <= SAME_GROUND)


def drop_repeats(lines: list[RawLine]) -> list[RawLine]:
    """Drop what another, surer line already covers: whole lines, and words at the ends of lines."""
    out: list[RawLine] = []
    for line in sorted(lines, key=lambda n: -n.confidence * len(n.text)):
        area = _area(line.box)
        if any(_shared(line.box, o.box) > 0.5 * area for o in out):
            continue
        near = [w for o in out if _shared(line.box, o.box) for w in o.words]
        words = tuple(
            w
            for w in line.words
            if not any(
                len(o.text) > len(w.text) and _shared(w.box, o.box) > COVERED * _area(w.box) for o in near
            )
        )
        if words:
            same = len(words) == len(line.words)
            out.append(line if same else replace(line, words=words, box=around([w.box for w in words])))
    return sorted(out, key=lambda n: (n.box[1], n.box[0]))


def _area(b: Box) -> float:
    return max(1.0, (b[2] - b[0]) * (b[3] - b[1]))


def _shared(a: Box, b: Box) -> float:
    """The area that two boxes share."""
    return max(0.0, min(a[2], b[2]) - max(a[0], b[0])) * max(0.0, min(a[3], b[3]) - max(a[1], b[1]))
