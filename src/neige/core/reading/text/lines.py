"""From detected boxes to lines of words with tight ink boxes. Everything here is in device px."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.crops import fill_corners, line_limits, own_ground, trim, without_neighbours
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import measure_ink, spans
from neige.core.reading.text.raw import RawLine, shift
from neige.core.reading.text.recognise import Recogniser, Spelling
from neige.core.reading.text.strokes import INKED, letters_and_rules
from neige.core.reading.text.words import split_words

RINGS = set("Oo0QC©●◯○")
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
        c, d = int(max(x0 - pad, ground[0])), int(np.ceil(min(x1 + pad, ground[2])))
        if b - a < 4 or d - c < 3:
            continue
        crops.append(without_neighbours(pixels[a:b, c:d], round(x0) - c, round(x1) - c))
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
    return _without_choices(_dedupe(lines)), unread


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


def _dedupe(lines: list[RawLine]) -> list[RawLine]:
    """Drop a line that another, surer one already covers."""
    out: list[RawLine] = []
    for line in sorted(lines, key=lambda n: -n.confidence * len(n.text)):
        x0, y0, x1, y1 = line.box
        area = max(1.0, (x1 - x0) * (y1 - y0))
        if not any(
            max(0, min(x1, o.box[2]) - max(x0, o.box[0])) * max(0, min(y1, o.box[3]) - max(y0, o.box[1]))
            > 0.5 * area
            for o in out
        ):
            out.append(line)
    return sorted(out, key=lambda n: (n.box[1], n.box[0]))
