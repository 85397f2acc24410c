"""A read crop cut into words at measured gaps, with tight ink boxes. Everything here is in device px."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from
from neige.core.reading.text.bars import with_bars
from neige.core.reading.text.cells import join_cells
from neige.core.reading.text.dots import with_dots
from neige.core.reading.text.ink import Ink, edge, measure_ink, spans
from neige.core.reading.text.marks import (
    BULLETS,
    begins_with_bullet,
    ends_in_mark,
    hearts,
    icon_after,
    icon_before,
    logos,
    without_icons,
)
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import Spelling
from neige.core.reading.text.sizes import ink_gaps, right_case, size_gaps
from neige.core.reading.text.spaces import LONE_GAP, find_spaces, lone_signs
from neige.core.reading.text.stars import READ as STARS
from neige.core.reading.text.stars import ends_stars, spell_stars
from neige.core.reading.text.strokes import INKED, dotted_lines, letters_and_rules
from neige.core.reading.text.underscores import with_underscores

SPLIT_GAP = 1.15  # of the ink height: a wider gap parts two texts that stand on one baseline
ENTRIES = 0.85  # if no gap is less: these are no spaces
DOTTED = 0.7  # of a word that a line of dots runs along at least
GIVEN = 0.7  # of a word whose descenders an underline gives way to, at most
AFTER_STOP = 1.2  # times as wide a gap parts them where a sentence ends
BESIDE_DOT = 1.6  # times as wide may lie on either side of a dot between words
SIGNS = set(".:_-/")  # within words of code
UNDER = 0.4  # of the ink height from a word's foot downwards, where it may be underlined
UNDER_BOTH = 0.3  # of each of two words under which a line of dots runs, where descenders hide the rest
RUNS_ON = 0.6  # of the room between two words that one line under both takes at least: it may give way to a descender
GOES_ON = (0.25, 0.9)  # of a word beside that, which parts the line it is under; one farther below is whole
DEGREES = re.compile(r"(?<=\d\d)º")  # that sign is no ordinal's
LETTERS, NARROWEST = 5, 0.28  # letters, and of their height that each is wide at least
DISCS, DISC = BULLETS | {"●"}, 0.6  # of the ink height that one is high at least


def split_words(crop: NDArray[np.uint8], spelling: Spelling, noise: float) -> list[RawLine]:
    """Cut a crop into words at measured gaps. Each recognised space claims the widest ink gap between its neighbours."""
    text = spelling.text
    if not text.strip():
        return []
    ink = measure_ink(crop, noise)
    height, width = crop.shape[:2]
    covered = ink.cover > INKED
    dotted = dotted_lines(covered)
    # the stem of a lone letter may be as high as its place
    tall = 0.97 * height if len(text.strip()) > 1 else np.inf
    inked, ruled = letters_and_rules(covered, 1.1 * height, tall, dotted)
    marks = logos(inked) or hearts(crop, inked)
    if marks:
        for a, b in marks:
            inked[:, a:b] = False
        spelling = spelling.without([(a / width, b / width) for a, b in marks])
        if not spelling.text.strip():
            return []
        text = spelling.text
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
    spelling = replace(spelling, text=DEGREES.sub("°", spelling.text))
    spelling = with_underscores(spelling, inked, ink_height)
    spelling = with_dots(spelling, runs, inked, ink_height)
    spelling, tokens, cuts = find_spaces(spelling, width, gaps, runs, ink_height)
    text, places = spelling.text, [p * width for p in spelling.places]
    out_cuts: list[tuple[float, float]] = []
    # Unclaimed gaps as wide as an em part words that the recogniser glued, unless a digit's tabular space explains them.
    claimed = sorted(b - a for a, b in cuts if b > a)
    usual = claimed[len(claimed) // 2] if claimed else 0.35 * ink_height
    out_tokens = []
    for i, (word, start, end) in enumerate(tokens):
        pieces = [(right_case((word, start, end), places, runs, inked), start, end)]
        for sign, before, after in lone_signs(pieces[0], places, runs, ink_height):
            w, s, e = pieces[-1]
            if sign > s:
                out_cuts.append(before)
            if sign < e:
                out_cuts.append(after)
            parts = [
                (w[: sign - s], s, sign - 1),
                (w[sign - s], sign, sign),
                (w[sign - s + 1 :], sign + 1, e),
            ]
            pieces[-1:] = [p for p in parts if p[0]]
        changes = size_gaps((word, start, end), places, runs, inked)
        changes += ink_gaps(places[start], places[end], runs, crop, ink.ground, LONE_GAP * ink_height)
        for gap in gaps:
            if gap in cuts or gap in out_cuts:
                continue
            w, s, e = pieces[-1]
            at = next(
                (k for k in range(s + 1, e + 1) if places[k - 1] < (gap[0] + gap[1]) / 2 <= places[k]), None
            )
            # an eye is read as "©", and no space after it
            mark = at is not None and (w[at - s - 1] == "©" or ends_stars(w, at - s))
            least = LONE_GAP * ink_height if mark else max(0.55 * ink_height, 1.5 * usual, 4)
            if gap[1] - gap[0] < least and gap not in changes:
                continue
            stop = at is not None and s < at < e and w[at - s] in ".,'·"
            if gap in changes and at is not None and stop and places[at] < gap[1]:
                at += 1  # it was read into the gap
                pieces[-1:] = [(w[: at - s - 1], s, at - 2), (w[at - s :], at, e)]
                out_cuts.append(gap)
                continue
            if at is not None and SIGNS & {w[at - s - 1], w[at - s]} and gap[1] - gap[0] < ink_height:
                continue  # in a font of one width there is much room beside a full stop
            if at is not None:
                pieces[-1:] = [(w[: at - s], s, at - 1), (w[at - s :], at, e)]
                out_cuts.append(gap)
        out_tokens += pieces
        if i < len(cuts):
            out_cuts.append(cuts[i])
    tokens, cuts = join_cells(out_tokens, sorted(out_cuts), runs)
    first_ink, last_ink = without_icons(
        runs, places[tokens[0][1]], places[tokens[-1][2]], ink_height, float(width)
    )
    if text.lstrip()[0].isalnum() and begins_with_bullet(inked, runs, ink_height):
        first_ink = max(first_ink, (runs[0][1] + runs[1][0]) / 2)
    if text.rstrip()[-1].isalnum() and ends_in_mark(inked, runs, ink_height):
        last_ink = min(last_ink, (runs[-2][1] + runs[-1][0]) / 2)
    limits = [first_ink, *(v for cut in cuts for v in cut), last_ink]
    tokens, limits = with_bars(tokens, limits, runs, inked, ink_height)
    for i, (_, start, end) in enumerate(tokens):
        between = [r for r in runs if limits[2 * i] <= r[0] and r[1] <= limits[2 * i + 1]]
        if i > 0:
            limits[2 * i] = icon_before(between, places[start], ink_height) or limits[2 * i]
        if i + 1 < len(tokens):
            limits[2 * i + 1] = icon_after(between, places[end], ink_height) or limits[2 * i + 1]
    starred = all(set(t[0]) <= STARS for t in tokens)
    words: list[RawWord] = []
    ended = 0
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
        colour = (
            (float(ink.colour[0]), float(ink.colour[1]), float(ink.colour[2]))
            if ink.pictured
            else _word_colour(crop[own, first:last], ink)
        )
        word = spell_stars(word, column, ink_height, starred)
        score = float(np.mean(spelling.scores[start : end + 1]))
        both = (int(words[-1].box[0]), ended, first, last) if words else (first, last, first, last)
        low = _lines_below(ruled, inked, dotted, int(bottom - UNDER * ink_height), both)
        under, apart = _one_line(words, low, ended, (first, last), under)
        words.append(RawWord(word, (left, top, right, bottom), colour, score, under, strike, apart=apart))
        ended = last
    ahead = words[0] if len(words) > 1 else None
    if ahead and ahead.text in DISCS and ahead.box[3] - ahead.box[1] >= DISC * ink_height:
        words = words[1:]  # a disc that tells a state, and no letter
    if not words or (ink.pictured and _squeezed(words, ink_height)):
        return []
    return _split_lines(words, ink, 0.7 * ink_height if len(words) == 1 else ink_height, spelling.confidence)


def _squeezed(words: list[RawWord], ink_height: float) -> bool:
    """Is what was taken for ink on a photo narrower than any face sets so many letters? It is some of the photo."""
    letters = sum(len(w.text) for w in words)
    return letters >= LETTERS and words[-1].box[2] - words[0].box[0] < NARROWEST * ink_height * letters


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


def _lines_below(
    ruled: NDArray[np.bool_],
    inked: NDArray[np.bool_],
    dotted: NDArray[np.bool_],
    top: int,
    both: tuple[int, int, int, int],
) -> NDArray[np.bool_]:
    """What is ruled from a row of a line on. Where letters come down to a line of dots under two words (`both`: where each begins
    and ends), its dots were taken for their ink."""
    low = ruled[top:].copy()
    a, b, c, d = both
    rows = (dotted[top:, a:b].mean(axis=1) >= UNDER_BOTH) & (dotted[top:, c:d].mean(axis=1) >= UNDER_BOTH)
    dots = np.pad(ruled[top:][rows] | inked[top:][rows], ((0, 0), (1, 1)))
    low[rows] = dots[:, 1:-1] | (dots[:, :-2] & dots[:, 2:])
    return low


def _one_line(
    words: list[RawWord], low: NDArray[np.bool_], ended: int, columns: tuple[int, int], under: bool
) -> tuple[bool, bool]:
    """(is a word underlined, and apart from the one before it, which `ended` there?). `low`: what is ruled at their feet.

    A short word with descenders, which the line gives way to, is under a line that goes on to the next; the last of `words`
    becomes so, in place."""
    before = words[-1] if words else None
    between = low[:, ended : columns[0]]
    runs_on = not between.size or float(between.mean(axis=1).max()) >= RUNS_ON
    if before is None or not runs_on:
        return under, before is not None and under and before.underline
    if under != before.underline:
        a, b = (int(before.box[0]), ended) if under else columns
        own = low[:, a:b]
        if own.size and GOES_ON[0] <= float(own.mean(axis=1).max()) <= GOES_ON[1]:
            words[-1] = replace(before, underline=True)
            return True, False
    return under, False


def _word_colour(crop: NDArray[np.uint8], ink: Ink) -> tuple[float, float, float]:
    """The colour of one word's ink: the purest tenth of its pixels, by distance from the ground."""
    away = away_from(crop, ink.ground)
    strongest = np.quantile(away, 0.99) if away.size else 0
    pure = away >= max(0.85 * strongest, 12)
    colour = np.median(crop[pure].reshape(-1, 3), axis=0) if pure.any() else ink.colour
    return (float(colour[0]), float(colour[1]), float(colour[2]))


def _split_lines(words: list[RawWord], ink: Ink, ink_height: float, confidence: float) -> list[RawLine]:
    groups: list[list[RawWord]] = [[words[0]]]
    rooms = [b.box[0] - a.box[2] for a, b in itertools.pairwise(words)]
    entries = len(rooms) > 1 and min(rooms) >= ENTRIES * ink_height and all(len(w.text) > 2 for w in words)
    links = all(w.underline for w in words)
    for a, b in itertools.pairwise(words):
        wider = BESIDE_DOT if "·" in (a.text, b.text) else AFTER_STOP if a.text[-1] in ".!?" else 1.0
        gap = SPLIT_GAP * wider * ink_height
        if entries or (links and b.apart) or b.box[0] - a.box[2] > gap:
            groups.append([])
        groups[-1].append(b)
    ground = (float(ink.ground[0]), float(ink.ground[1]), float(ink.ground[2]))
    return [
        RawLine(tuple(g), around([w.box for w in g]), ground, ink.flat, confidence, ink.pictured)
        for g in groups
    ]
