"""From detected boxes to lines of words with tight ink boxes. Everything here is in device px."""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.cells import join_cells
from neige.core.reading.text.detect import Box
from neige.core.reading.text.ink import FLAT_SHARE, Ink, edge, ground_colour, measure_ink, spans
from neige.core.reading.text.recognise import Recogniser, Spelling

INKED = 0.18  # cover from which a pixel counts as ink when boxes are drawn around it
SPLIT_GAP = 1.15  # of the ink height: a wider gap parts two texts that stand on one baseline
OTHER_GROUND = 30.0  # 8-bit steps between a badge and what it lies on
RINGS = set("Oo0QC©●◯○")
FRAMED = 0.86  # of a box's width and height that an outline round its words takes
HOLLOW = 0.3  # of its box that an outline covers at most
CORNER = 0.6  # of a badge's height that a round corner takes at most
DOTS, ALTERNATE = 13, 0.85  # px in which ink and ground take turns, and the share of px where they do
DOTTED = 0.7  # of a word that a line of dots runs along at least
CROWDED = 0.35  # of the px above or below a line of dots that may be ink
BROKEN = 0.4  # of the run that starts an underline: its pieces between descenders are as long
GIVEN = 0.7  # of a word whose descenders an underline gives way to, at most
EDGE = 0.3  # of a crop's height that the edge of a box beside the text takes at its end
RIM = 0.66  # of the rim of a badge (whose ends may be round) that is in its colour
LONG_LINE = 24.0  # times its height: longer crops are read in parts
AWAY = 0.1  # px of width that a gap loses for each px that it stands off its space
BULLET, APART = (
    0.45,
    0.3,
)  # of the ink height: a bullet's size at most, and what it stands off the letters at least
HALF_WAY = (0.22, 0.72)  # of the ink height that a bullet's middle stands above its lower end
MIN_CONFIDENCE = 0.5  # of a line; less is not kept as text (it is left as a region)
SYMBOLS = set("@#&?€$£¥%•·–—→←↑↓©®™½¼¾")  # that may stand alone; any other lone sign is an icon misread


@dataclass(frozen=True, slots=True)
class RawWord:
    """Text with the box of its ink (x0, y0, x1, y1) and its own colour."""

    text: str
    box: Box
    colour: tuple[float, float, float]
    confidence: float
    underline: bool = False
    strike: bool = False
    pinned: bool = False  # a person said what it says
    inlaid: tuple[float, float, float] | None = None  # the colour of the box in the line that it is in


@dataclass(frozen=True, slots=True)
class RawLine:
    """Words on one baseline before their type is known."""

    words: tuple[RawWord, ...]
    box: Box
    ground: tuple[float, float, float]
    flat: bool
    confidence: float

    @property
    def text(self) -> str:
        return " ".join(w.text for w in self.words)


def _limits(boxes: list[Box], height: int) -> list[tuple[float, float]]:
    """For every box how far up and down its line may reach: half-way into the overlap with its neighbours above and below."""
    if not boxes:
        return []
    b = np.array(boxes)
    out = []
    for x0, y0, x1, y1 in boxes:
        overlap = np.minimum(b[:, 2], x1) - np.maximum(b[:, 0], x0) > 2
        above = b[overlap & (b[:, 1] < y0 - 0.3 * (y1 - y0)) & (b[:, 3] < y1 - 0.3 * (y1 - y0))]
        below = b[overlap & (b[:, 3] > y1 + 0.3 * (y1 - y0)) & (b[:, 1] > y0 + 0.3 * (y1 - y0))]
        top = max((above[:, 3].max() + y0) / 2 if len(above) else 0.0, 0.0)
        bottom = min((below[:, 1].min() + y1) / 2 if len(below) else float(height), float(height))
        out.append((min(top, y0 + 0.25 * (y1 - y0)), max(bottom, y1 - 0.25 * (y1 - y0))))
    return out


def _strokes(
    inked: NDArray[np.bool_], across: float, down: float, dotted: NDArray[np.bool_] | None = None
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Ink without its long straight runs (borders, rules, underlines), and the horizontal runs that were taken out.

    No letter has a horizontal run longer than an em or a vertical one taller than the line; `across` and `down` are those limits,
    `dotted` the lines of dots, if they are known.
    """
    mask = inked.astype(np.uint8)

    def runs(kernel: tuple[int, int]) -> NDArray[np.uint8]:  # what lies outside the crop is no ink
        opened = cv2.morphologyEx(
            mask, cv2.MORPH_OPEN, np.ones(kernel, np.uint8), borderType=cv2.BORDER_CONSTANT, borderValue=0
        )
        return np.asarray(opened, np.uint8)

    none = np.zeros_like(mask)
    flat = runs((1, max(3, round(across)))) if inked.shape[1] > across else none
    flat = flat | (_dotted(inked) if dotted is None else dotted)
    level = flat.max(axis=1, keepdims=True)
    if level.any():  # a line that gives way to descenders goes on in shorter runs on the same rows
        flat = flat | runs((1, max(3, round(BROKEN * across)))) & level
    tall = runs((max(3, round(down)), 1)) if inked.shape[0] > down else none
    if flat.mean() + tall.mean() > 0.4:  # solid ink: there is nothing else
        return inked, np.zeros_like(inked)
    return inked & (flat == 0) & (tall == 0), flat > 0


def _dotted(inked: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Lines of dots of one px a px apart (h, w), with hardly any ink right above and below them."""
    mask = inked.astype(np.uint8)
    if mask.shape[1] <= DOTS:
        return np.zeros_like(inked)
    turns = np.pad(np.abs(np.diff(mask.astype(np.int8), axis=1)), ((0, 0), (0, 1))).astype(np.float32)
    busy = cv2.blur(turns, (DOTS, 1), borderType=cv2.BORDER_CONSTANT) >= ALTERNATE
    if not busy.any():
        return np.zeros_like(inked)
    reach = np.ones((1, DOTS), np.uint8)
    rows = cv2.dilate(busy.astype(np.uint8), reach)
    beside = np.pad(mask, ((1, 1), (0, 0)))
    crowded = cv2.blur(np.maximum(beside[:-2], beside[2:]).astype(np.float32), (DOTS, 1)) > CROWDED
    no_dots = cv2.dilate((busy & crowded).astype(np.uint8), reach)
    return np.asarray((rows > 0) & (no_dots == 0))


def _unframed(inked: NDArray[np.bool_], width: float, height: float) -> NDArray[np.bool_]:
    """Ink without the outline of a button that was detected as one with its words: as large as the box, and nearly all hollow."""
    _count, labels, stats, _ = cv2.connectedComponentsWithStats(inked.astype(np.uint8), connectivity=8)
    w, h, area = stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT], stats[:, cv2.CC_STAT_AREA]
    frame = (w >= FRAMED * width) & (h >= FRAMED * height) & (w > 1.3 * height) & (area < HOLLOW * w * h)
    frame[0] = False
    return inked & ~frame[labels] if frame.any() else inked


def own_ground(pixels: NDArray[np.uint8], box: Box) -> tuple[int, int, int, int]:
    """How far (x0, y0, x1, y1) the ground of a box reaches: a badge hardly larger than its text must not count as ink itself.

    That is everywhere, unless the middle of the box stands on another flat colour than its surroundings.
    """
    height, width = pixels.shape[:2]
    x0, y0, x1, y1 = box
    h = y1 - y0
    core = pixels[int(y0 + 0.2 * h) : int(np.ceil(y1 - 0.2 * h)), int(x0) : int(np.ceil(x1))]
    a, b = max(0, int(y0 - 0.5 * h)), min(height, int(np.ceil(y1 + 0.5 * h)))
    c, d = max(0, int(x0 - 0.5 * h)), min(width, int(np.ceil(x1 + 0.5 * h)))
    around_it = pixels[a:b, c:d]
    everywhere = (0, 0, width, height)
    if core.size == 0:
        return everywhere
    inner, share = ground_colour(core)
    rim = np.concatenate([around_it[0], around_it[-1], around_it[:, 0], around_it[:, -1]])
    outer, _ = ground_colour(rim[None])
    if share < FLAT_SHARE or np.abs(inner - outer).max() < OTHER_GROUND:
        return everywhere
    on = np.abs(around_it.astype(np.float64) - inner).max(axis=2) <= 10
    rows, columns = np.flatnonzero(on.mean(axis=1) > 0.25), np.flatnonzero(on.mean(axis=0) > 0.25)
    if rows.size < 4 or columns.size < 4:
        return everywhere
    part = on[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    own_rim = np.concatenate([part[1], part[-2], part[2:-2, 1], part[2:-2, -2]])
    if own_rim.mean() < RIM:  # bold letters, not a badge
        return everywhere
    return c + int(columns[0]), a + int(rows[0]), c + int(columns[-1]) + 1, a + int(rows[-1]) + 1


def _fill_corners(badge: NDArray[np.uint8]) -> None:
    """Paint a badge's corners in its own colour, in place: what shows beyond round ends is no letter's ink."""
    h, w = badge.shape[:2]
    inner = np.rint(ground_colour(badge[h // 4 : max(h // 4 + 1, 3 * h // 4)])[0]).astype(np.uint8)
    other = np.abs(badge.astype(np.int16) - inner).max(axis=2) > 10
    _count, labels, stats, _ = cv2.connectedComponentsWithStats(other.astype(np.uint8), connectivity=8)
    for y, x in ((0, 0), (0, w - 1), (h - 1, 0), (h - 1, w - 1)):
        n = labels[y, x]
        if n and stats[n, cv2.CC_STAT_WIDTH] <= CORNER * h and stats[n, cv2.CC_STAT_HEIGHT] <= CORNER * h:
            badge[labels == n] = inner


def trim(
    pixels: NDArray[np.uint8],
    box: Box,
    limits: tuple[float, float],
    ground: tuple[int, int, int, int],
    noise: float,
) -> tuple[Box, Ink | None]:
    """Fit a detected box to the ink around it on a flat ground; on a busy ground the box stays as it is (and no ink is given)."""
    x0, y0, x1, y1 = box
    h = y1 - y0
    left, right = max(ground[0], int(x0 - 0.35 * h)), min(ground[2], int(np.ceil(x1 + 0.35 * h)))
    top, bottom = (
        int(max(limits[0], ground[1], y0 - 0.2 * h)),
        int(np.ceil(min(limits[1], ground[3], y1 + 0.2 * h))),
    )
    if bottom - top < 3 or right - left < 3:
        return box, None
    ink = measure_ink(pixels[top:bottom, left:right], noise)
    if not ink.flat:
        return box, None
    inked, _ = _strokes(_unframed(ink.cover > INKED, x1 - x0, h), 1.6 * h, 1.12 * h)
    core = slice(max(0, int(y0 + 0.25 * h) - top), max(1, int(np.ceil(y1 - 0.25 * h)) - top))
    rows = spans(inked.max(axis=1))
    rows = [r for r in rows if r[0] < core.stop and r[1] > core.start]
    if not rows:
        return box, None
    first, last = rows[0][0], rows[-1][1]
    # accents and descenders stand off the core by little: take neighbouring runs within a fifth of the height
    for a, b in spans(inked.max(axis=1)):
        if b <= first and first - b <= 0.16 * h and b - a <= 0.4 * h:
            first = a
        if a >= last and a - last <= 0.16 * h and b - a <= 0.4 * h:
            last = b
    columns = inked[first:last].max(axis=0)
    inner = (max(0, int(x0) - left), min(right - left, int(np.ceil(x1)) - left))
    runs = [r for r in spans(columns) if r[1] > inner[0] and r[0] < inner[1]]
    if not runs:
        return box, None
    return (left + runs[0][0], top + first, left + runs[-1][1], top + last), ink


def read_lines(
    pixels: NDArray[np.uint8], boxes: list[Box], recogniser: Recogniser, noise: float
) -> tuple[list[RawLine], list[Box]]:
    """All lines of words in the boxes, and the boxes in which nothing could be read."""
    height, _ = pixels.shape[:2]
    limits = _limits(boxes, height)
    crops, kept = [], []
    pixels = pixels.copy()
    for box, (lowest, highest) in zip(boxes, limits):
        ground = own_ground(pixels, box)
        if ground[3] - ground[1] < height:
            _fill_corners(pixels[ground[1] : ground[3], ground[0] : ground[2]])
        (x0, y0, x1, y1), ink = trim(pixels, box, (lowest, highest), ground, noise)
        pad = 0.35 * (y1 - y0) if ink is not None else 0.0
        a, b = int(max(y0 - pad, lowest, ground[1])), int(np.ceil(min(y1 + pad, highest, ground[3])))
        c, d = int(max(x0 - pad, ground[0])), int(np.ceil(min(x1 + pad, ground[2])))
        if b - a < 4 or d - c < 3:
            continue
        crops.append(_without_neighbours(pixels[a:b, c:d], round(x0) - c, round(x1) - c))
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


def _without_neighbours(crop: NDArray[np.uint8], start: int, end: int) -> NDArray[np.uint8]:
    """The crop without the edge of a box that stands right beside the text, which would be read as a letter's ink.

    `start`, `end`: columns where the text's own ink begins and ends."""
    ground, _ = ground_colour(crop)
    inked = (np.abs(crop.astype(np.float64) - ground).max(axis=2) > OTHER_GROUND).mean(axis=0)
    left = int(np.argmax(inked == 0)) if inked[0] >= EDGE else 0
    right = int(np.argmax(inked[::-1] == 0)) if inked[-1] >= EDGE else 0
    if not (0 < left < start or 0 < right < crop.shape[1] - end):
        return crop
    out = crop.copy()
    if 0 < left < start:
        out[:, :left] = np.rint(ground)
    if 0 < right < crop.shape[1] - end:
        out[:, crop.shape[1] - right :] = np.rint(ground)
    return out


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
    inked, _ = _strokes(ink.cover > INKED, 1.1 * height, 0.97 * height)
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


def split_words(crop: NDArray[np.uint8], spelling: Spelling, noise: float) -> list[RawLine]:
    """Cut a crop into words at measured gaps. Each recognised space claims the widest ink gap between its neighbours."""
    text = spelling.text
    if not text.strip():
        return []
    ink = measure_ink(crop, noise)
    height, width = crop.shape[:2]
    covered = ink.cover > INKED
    dotted = _dotted(covered)
    inked, ruled = _strokes(covered, 1.1 * height, 0.97 * height, dotted)
    rows = _own_rows(inked)
    if not rows:
        return []
    inked[: rows[0][0]] = inked[rows[-1][1] :] = False
    profile = (ink.cover * inked).max(axis=0)
    runs = spans(profile > INKED)
    if not runs:
        return []
    ink_height = max(4, sum(b - a for a, b in rows))
    gaps = [(a[1], b[0]) for a, b in itertools.pairwise(runs)]
    tokens = [(m.group(), m.start(), m.end() - 1) for m in re.finditer(r"\S+", text)]
    places = [p * width for p in spelling.places]
    spaces = [(places[end], places[start]) for (_, _, end), (_, start, _) in itertools.pairwise(tokens)]
    cuts = _claim(spaces, gaps, ink_height)
    out_cuts: list[tuple[float, float]] = []
    # Unclaimed gaps as wide as an em part words that the recogniser glued, unless a digit's tabular space explains them.
    claimed = sorted(b - a for a, b in cuts if b > a)
    usual = claimed[len(claimed) // 2] if claimed else 0.35 * ink_height
    out_tokens = []
    for i, (word, start, end) in enumerate(tokens):
        pieces = [(word, start, end)]
        for gap in gaps:
            if gap in cuts or gap[1] - gap[0] < max(0.55 * ink_height, 1.5 * usual, 4):
                continue
            w, s, e = pieces[-1]
            at = next(
                (k for k in range(s + 1, e + 1) if places[k - 1] < (gap[0] + gap[1]) / 2 <= places[k]), None
            )
            if at is not None:
                pieces[-1:] = [(w[: at - s], s, at - 1), (w[at - s :], at, e)]
                out_cuts.append(gap)
        out_tokens += pieces
        if i < len(cuts):
            out_cuts.append(cuts[i])
    tokens, cuts = join_cells(out_tokens, sorted(out_cuts), runs)
    first_ink, last_ink = _without_icons(
        runs, places[tokens[0][1]], places[tokens[-1][2]], ink_height, float(width)
    )
    if text.lstrip()[0].isalnum() and _begins_with_bullet(inked, runs, ink_height):
        first_ink = max(first_ink, (runs[0][1] + runs[1][0]) / 2)
    if text.rstrip()[-1].isalnum() and _ends_in_mark(inked, runs, ink_height):
        last_ink = min(last_ink, (runs[-2][1] + runs[-1][0]) / 2)
    limits = [first_ink, *(v for cut in cuts for v in cut), last_ink]
    words = []
    for i, (word, start, end) in enumerate(tokens):
        a, b = int(limits[2 * i]), int(np.ceil(limits[2 * i + 1]))
        part = profile[a:b]
        inside = np.flatnonzero(part > INKED)
        if inside.size == 0:
            continue
        first, last = a + int(inside[0]), a + int(inside[-1]) + 1
        column = ink.cover[:, first:last] * inked[:, first:last]
        vertical = column.max(axis=1)
        marked = np.flatnonzero(vertical > INKED)
        top, bottom = edge(vertical, int(marked[0]), int(marked[-1]) + 1)
        left, right = edge(profile, first, last)
        under, strike = _ruled(ruled[:, first:last], inked[:, first:last], top, bottom)
        below = dotted[int(bottom) :, first:last].mean(axis=1)
        under |= bool(below.size and below.max() > DOTTED)
        own = slice(int(marked[0]), int(marked[-1]) + 1)
        colour = _word_colour(crop[own, first:last], ink)
        words.append(
            RawWord(
                word,
                (left, top, right, bottom),
                colour,
                float(np.mean(spelling.scores[start : end + 1])),
                under,
                strike,
            )
        )
    if not words:
        return []
    return _split_lines(words, ink, 0.7 * ink_height if len(words) == 1 else ink_height, spelling.confidence)


def _claim(
    spaces: list[tuple[float, float]], gaps: list[tuple[int, int]], ink_height: float
) -> list[tuple[float, float]]:
    """The ink gap of each recognised space, left to right and none twice: the widest together. A space without one gets its middle.

    `spaces`: places (px) of the letters before and after each. Chosen one by one, a one-letter word's two spaces would claim the
    wider gap both, and the word between them would be lost.
    """
    best: list[tuple[float, tuple[tuple[float, float], ...]]] = [
        (0.0, ())
    ]  # (sum of widths, cuts) so far, by where it ends
    for lo, hi in spaces:
        middle = (lo + hi) / 2
        choices: list[tuple[float, tuple[float, float]]] = [(0.0, (middle, middle))]
        for g in gaps:
            if g[1] > lo - 1 and g[0] < hi + 1 and g[1] - g[0] >= 1:
                width = min(g[1], hi + ink_height) - max(g[0], lo - ink_height)
                choices.append((width - AWAY * abs((g[0] + g[1]) / 2 - middle), (float(g[0]), float(g[1]))))
        following = []
        for width, cut in choices:
            # a cut begins where ink lies between it and the one before
            before = [
                b
                for b in best
                if not b[1] or b[1][-1][1] < cut[0] or (b[1][-1][1] <= cut[0] and cut[0] == cut[1])
            ]
            if before:
                total, chain = max(before, key=lambda b: b[0])
                following.append((total + width, (*chain, cut)))
        best = following or [(b[0], (*b[1], (max(middle, b[1][-1][1]),) * 2)) for b in best]
    return list(max(best, key=lambda b: b[0])[1])


def _own_rows(inked: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Row ranges of a line's own ink: what touches the crop's edge apart from it belongs to a neighbouring line."""
    rows = spans(inked.max(axis=1))
    tallest = max(rows, key=lambda r: r[1] - r[0], default=(0, 0))
    return [
        r
        for r in rows
        if r is tallest
        or not ((r[0] == 0 and r[1] <= tallest[0]) or (r[1] == inked.shape[0] and r[0] >= tallest[1]))
    ]


def _ruled(
    ruled: NDArray[np.bool_], inked: NDArray[np.bool_], top: float, bottom: float
) -> tuple[bool, bool]:
    """(underlined, struck through): a thin line low in a word or just below it, or through its middle.

    An underline may give way to descenders: their columns, and a little beside them, need not be ruled."""
    height = bottom - top
    under = strike = False
    low = inked[int(bottom - 0.2 * height) :].any(axis=0)
    reach = max(1, round(0.12 * height))
    given = np.convolve(low, np.ones(2 * reach + 1))[reach : reach + low.size] > 0.5
    owed = np.ones_like(given) if given.mean() > GIVEN else ~given
    for a, b in spans(ruled.mean(axis=1) > 0.7) or spans(ruled[:, owed].mean(axis=1) > 0.9):
        if b - a > max(2.0, 0.16 * height) or b >= ruled.shape[0]:
            continue
        under |= top + 0.6 * height <= a <= bottom + 0.35 * height
        strike |= top + 0.3 * height <= a < top + 0.6 * height
    return under, strike


def _without_icons(
    runs: list[tuple[int, int]], first: float, last: float, ink_height: float, width: float
) -> tuple[float, float]:
    """Where the letters begin and end: an icon before or after them is ink that no recognised character stands for.

    `first`, `last`: the places (px) of the first and last character.
    """
    start, end = 0.0, width
    for a, b in itertools.pairwise(runs):
        if (
            a[1] < first - 0.42 * ink_height
            and b[0] - a[1] >= max(2.0, 0.12 * ink_height)
            and b[0] > first - 0.75 * ink_height - 2
            and a[1] - runs[0][0] > 0.3 * ink_height
        ):
            start = (a[1] + b[0]) / 2
    for a, b in zip(runs[::-1], runs[::-1][1:]):
        if (
            a[0] > last + 0.42 * ink_height
            and a[0] - b[1] >= max(2.0, 0.12 * ink_height)
            and b[1] < last + 0.75 * ink_height + 2
            and runs[-1][1] - a[0] > 0.3 * ink_height
        ):
            end = (a[0] + b[1]) / 2
    return start, end


def _ends_in_mark(inked: NDArray[np.bool_], runs: list[tuple[int, int]], ink_height: float) -> bool:
    """Does something low stand well apart after the last letter: the arrow of a menu, which the recogniser passed over?"""
    if len(runs) < 2:
        return False
    a, b = runs[-1]
    tall = np.flatnonzero(inked[:, a:b].any(axis=1))
    apart = a - runs[-2][1] >= max(3.0, 0.22 * ink_height)
    return bool(
        apart and b - a <= 0.9 * ink_height and tall.size and tall[-1] - tall[0] + 1 < 0.45 * ink_height
    )


def _begins_with_bullet(inked: NDArray[np.bool_], runs: list[tuple[int, int]], ink_height: float) -> bool:
    """Does a dot stand well apart before the first letter, half-way up, which the recogniser passed over?"""
    if len(runs) < 2:
        return False
    a, b = runs[0]
    tall = np.flatnonzero(inked[:, a:b].any(axis=1))
    if not tall.size:
        return False
    high = int(tall[-1] - tall[0]) + 1
    rows = np.flatnonzero(inked[:, b:].any(axis=1))
    up = (rows[-1] + 1 - (tall[0] + tall[-1] + 1) / 2) / (rows[-1] + 1 - rows[0])
    return bool(
        runs[1][0] - b >= max(3.0, APART * ink_height)
        and 2 <= high <= BULLET * ink_height
        and abs(b - a - high) <= max(1.0, 0.25 * high)
        and HALF_WAY[0] <= up <= HALF_WAY[1]
    )


def _word_colour(crop: NDArray[np.uint8], ink: Ink) -> tuple[float, float, float]:
    """The colour of one word's ink: the purest tenth of its pixels, by distance from the ground."""
    away = np.abs(crop.astype(np.float64) - ink.ground).max(axis=2)
    strongest = np.quantile(away, 0.99) if away.size else 0
    pure = away >= max(0.85 * strongest, 12)
    colour = np.median(crop[pure].reshape(-1, 3), axis=0) if pure.any() else ink.colour
    return (float(colour[0]), float(colour[1]), float(colour[2]))


def _split_lines(words: list[RawWord], ink: Ink, ink_height: float, confidence: float) -> list[RawLine]:
    groups: list[list[RawWord]] = [[words[0]]]
    for a, b in itertools.pairwise(words):
        if b.box[0] - a.box[2] > SPLIT_GAP * ink_height:
            groups.append([])
        groups[-1].append(b)
    ground = tuple(float(v) for v in ink.ground)
    return [RawLine(tuple(g), around([w.box for w in g]), ground, ink.flat, confidence) for g in groups]  # type: ignore[arg-type]


def around(boxes: list[Box]) -> Box:
    """The smallest box that holds all."""
    return (
        min(b[0] for b in boxes),
        min(b[1] for b in boxes),
        max(b[2] for b in boxes),
        max(b[3] for b in boxes),
    )


def shift(line: RawLine, dx: float, dy: float) -> RawLine:
    def move(b: Box) -> Box:
        return (b[0] + dx, b[1] + dy, b[2] + dx, b[3] + dy)

    return replace(line, box=move(line.box), words=tuple(replace(w, box=move(w.box)) for w in line.words))


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
