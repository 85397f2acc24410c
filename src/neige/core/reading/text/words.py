"""A read crop cut into words at measured gaps, with tight ink boxes. Everything here is in device px."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.cells import join_cells
from neige.core.reading.text.dots import with_dots
from neige.core.reading.text.ink import Ink, edge, measure_ink, spans
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import Spelling
from neige.core.reading.text.sizes import ink_gaps, right_case, size_gaps
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
AWAY = 0.1  # px of width that a gap loses for each px that it stands off its space
QUOTES = set("'\"`’‘“”()[]{}")
TELLING_GAPS, SLIGHT = 3, 0.6  # spaces in a line that tell how wide one is; of that, a gap that is none
NARROW = 0.35  # of the ink height that a bracket is wide at most
SIGNS = set(".:_-/")  # within words of code
LONE, LONE_GAP = (
    set("|/·–—+=&»›"),
    0.24,
)  # that stand between words; of the ink height, what is on both sides of them
VALUE = re.compile(r"[$€£]?\d")
DEGREES = re.compile(r"(?<=\d\d)º")  # that sign is no ordinal's
LETTERS = 3  # runs of ink in a line that may have a logo at its end
LOGO, HIGHER = 20, 1.15  # px of a logo's height; times as high as the rest of the line
HEART, HEARTY = (0.4, 1.3), 0.5  # of the line's height that such a mark is wide, and of its box that it fills
LIVELY = 70.0  # 8-bit steps between its channels, and to the words' colours
SOLID, FILLED = 0.3, 0.62  # of its height a square of it is that has no hole; of its box that it fills
BULLETS = set("•·▪■◦○")  # as they are read
BULLET, APART = (
    0.45,
    0.3,
)  # of the ink height: a bullet's size at most, and what it stands off the letters at least
DISCS, DISC = BULLETS | {"●"}, 0.6  # of the ink height that one is high at least
HALF_WAY = (0.22, 0.72)  # of the ink height that a bullet's middle stands above its lower end


def split_words(crop: NDArray[np.uint8], spelling: Spelling, noise: float) -> list[RawLine]:
    """Cut a crop into words at measured gaps. Each recognised space claims the widest ink gap between its neighbours."""
    text = spelling.text
    if not text.strip():
        return []
    ink = measure_ink(crop, noise)
    height, width = crop.shape[:2]
    covered = ink.cover > INKED
    dotted = dotted_lines(covered)
    inked, ruled = letters_and_rules(covered, 1.1 * height, 0.97 * height, dotted)
    logos = _logos(inked) or _hearts(crop, inked)
    if logos:
        for a, b in logos:
            inked[:, a:b] = False
        spelling = _without(spelling, [(a / width, b / width) for a, b in logos])
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
    text = spelling.text
    places = [p * width for p in spelling.places]
    tokens, cuts = _tokens(text, places, gaps, ink_height)
    apart = _no_spaces(tokens, cuts, runs, NARROW * ink_height)
    if apart:
        spelling = _kept(spelling, [i for i in range(len(text)) if i not in apart])
        text, places = spelling.text, [p * width for p in spelling.places]
        tokens, cuts = _tokens(text, places, gaps, ink_height)
    out_cuts: list[tuple[float, float]] = []
    # Unclaimed gaps as wide as an em part words that the recogniser glued, unless a digit's tabular space explains them.
    claimed = sorted(b - a for a, b in cuts if b > a)
    usual = claimed[len(claimed) // 2] if claimed else 0.35 * ink_height
    out_tokens = []
    for i, (word, start, end) in enumerate(tokens):
        pieces = [(right_case((word, start, end), places, runs, inked), start, end)]
        for sign, before, after in _lone_signs(pieces[0], places, runs, ink_height):
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
    first_ink, last_ink = _without_icons(
        runs, places[tokens[0][1]], places[tokens[-1][2]], ink_height, float(width)
    )
    if text.lstrip()[0].isalnum() and _begins_with_bullet(inked, runs, ink_height):
        first_ink = max(first_ink, (runs[0][1] + runs[1][0]) / 2)
    if text.rstrip()[-1].isalnum() and _ends_in_mark(inked, runs, ink_height):
        last_ink = min(last_ink, (runs[-2][1] + runs[-1][0]) / 2)
    limits = [first_ink, *(v for cut in cuts for v in cut), last_ink]
    starred = all(set(t[0]) <= STARS for t in tokens)
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
        colour = (
            (float(ink.colour[0]), float(ink.colour[1]), float(ink.colour[2]))
            if ink.pictured
            else _word_colour(crop[own, first:last], ink)
        )
        word = spell_stars(word, column, ink_height, starred)
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
    ahead = words[0] if len(words) > 1 else None
    if ahead and ahead.text in DISCS and ahead.box[3] - ahead.box[1] >= DISC * ink_height:
        words = words[1:]  # a disc that tells a state, and no letter
    if not words:
        return []
    return _split_lines(words, ink, 0.7 * ink_height if len(words) == 1 else ink_height, spelling.confidence)


def _logos(inked: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The columns at a line's ends that are higher than the rest of it and more solid than any letter: a logo, whatever is cut
    out of it."""
    runs = spans(np.asarray(inked.any(axis=0)))
    if len(runs) < LETTERS:
        return []

    def height(part: NDArray[np.bool_]) -> int:
        rows = np.flatnonzero(part.any(axis=1))
        return int(rows[-1]) + 1 - int(rows[0]) if rows.size else 0

    def solid(run: tuple[int, int], rest: NDArray[np.bool_]) -> bool:
        part = inked[:, run[0] : run[1]]
        tall, wide = height(part), run[1] - run[0]
        if tall < max(LOGO, HIGHER * height(rest)) or part.sum() < FILLED * tall * max(wide, tall):
            return False
        square = np.ones((max(3, int(SOLID * tall)),) * 2, np.uint8)
        return bool(cv2.erode(part.astype(np.uint8), square, borderValue=0).any())

    (_, first), (last, _) = runs[0], runs[-1]
    sides = ((runs[0], inked[:, first:]), (runs[-1], inked[:, :last]))
    return [run for run, rest in sides if solid(run, rest)]


def _hearts(crop: NDArray[np.uint8], inked: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The columns of solid marks among a line's words in a lively colour that none of the words has: hearts, stars."""
    runs = spans(np.asarray(inked.any(axis=0)))
    if len(runs) < LETTERS:
        return []
    rows = np.flatnonzero(inked.any(axis=1))
    high = int(rows[-1]) + 1 - int(rows[0])
    colours = [np.median(crop[:, a:b][_core(inked[:, a:b])].astype(np.float64), axis=0) for a, b in runs]
    out = []
    for k in range(1, len(runs)):
        (a, b), colour = runs[k], colours[k]
        if not HEART[0] * high <= b - a <= HEART[1] * high or np.ptp(colour) < LIVELY:
            continue
        part = inked[:, a:b]
        marked = np.flatnonzero(part.any(axis=1))
        box = part[int(marked[0]) : int(marked[-1]) + 1]
        before = a - runs[k - 1][1]
        after = runs[k + 1][0] - b if k + 1 < len(runs) else high
        others = [c for n, c in enumerate(colours) if n != k]
        alone = min(float(np.abs(c - colour).max()) for c in others) > LIVELY
        if alone and box.mean() >= HEARTY and min(before, after) >= LONE_GAP * high:
            out.append((a, b))
    return out


def _core(part: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The middle of strokes, or the strokes where they have none."""
    core = np.asarray(cv2.erode(part.astype(np.uint8), np.ones((3, 3), np.uint8), borderValue=0), bool)
    return core if core.any() else part


def _without(spelling: Spelling, places: list[tuple[float, float]]) -> Spelling:
    """A spelling without the characters that were read at these places (shares of the crop's width)."""
    kept = [
        i
        for i, at in enumerate(spelling.places)
        if not any(a <= at <= b for a, b in places) or spelling.text[i].isspace()
    ]
    text = "".join(spelling.text[i] for i in kept)
    return _kept(spelling, kept[len(text) - len(text.lstrip()) : len(text.rstrip())])


def _kept(spelling: Spelling, kept: list[int]) -> Spelling:
    """A spelling's characters at some places of its text, in their order."""
    return Spelling(
        "".join(spelling.text[i] for i in kept),
        tuple(spelling.places[i] for i in kept),
        tuple(spelling.scores[i] for i in kept),
    )


def _lone_signs(
    token: tuple[str, int, int], places: list[float], runs: list[tuple[int, int]], ink_height: float
) -> list[tuple[int, tuple[float, float], tuple[float, float]]]:
    """Signs in a token that stand as far from what is before and after them as words do: (place in the text, gap before, gap
    after) each. The recogniser often drops the spaces beside them."""
    word, start, end = token
    out: list[tuple[int, tuple[float, float], tuple[float, float]]] = []
    for at in range(start, end + 1):
        if word[at - start] not in LONE or start == end:
            continue
        if at == start and VALUE.match(word[1:]):
            continue  # its own sign
        i = min(range(len(runs)), key=lambda k: abs((runs[k][0] + runs[k][1]) / 2 - places[at]))
        if not 0 < i < len(runs) - 1:
            continue
        before, after = (runs[i - 1][1], runs[i][0]), (runs[i][1], runs[i + 1][0])
        inside = [
            b[0] - a[1]
            for k, (a, b) in enumerate(itertools.pairwise(runs))
            if places[start] < a[1] < places[end] and k not in (i - 1, i)
        ]
        letters = sorted(inside)[(len(inside) - 1) // 2] if inside else 0
        room = [b - a for a, b in (before, after)[at == start : 1 + (at < end)]]
        if min(room) >= max(LONE_GAP * ink_height, 2 * letters):
            out.append((at, before, after))
    return out


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


def _tokens(
    text: str, places: list[float], gaps: list[tuple[int, int]], ink_height: float
) -> tuple[list[tuple[str, int, int]], list[tuple[float, float]]]:
    """(words with the places of their first and last character, the gap (px) that each space between two of them claims)."""
    tokens = [(m.group(), m.start(), m.end() - 1) for m in re.finditer(r"\S+", text)]
    first = tokens[0][0]
    if first[0] in BULLETS and len(first) > 1 and gaps and gaps[0][1] - gaps[0][0] >= APART * ink_height:
        word, start, end = tokens[0]  # read into the first word
        tokens[:1] = [(word[0], start, start), (word[1:], start + 1, end)]
    spaces = [(places[end], places[start]) for (_, _, end), (_, start, _) in itertools.pairwise(tokens)]
    return tokens, _claim(spaces, gaps, ink_height)


def _no_spaces(
    tokens: list[tuple[str, int, int]],
    cuts: list[tuple[float, float]],
    runs: list[tuple[int, int]],
    narrow: float,
) -> list[int]:
    """The places of spaces that the room around a sign in characters of one width was taken for.

    One read between a name and its empty brackets has claimed the gap inside these if that is wider than the one before them; one
    beside a quote or a bracket, a gap that is far narrower than the line's others."""
    out: list[int] = []
    wide = [b - a for a, b in cuts]
    usual = sorted(wide)[len(wide) // 2] if len(wide) >= TELLING_GAPS else 0.0
    for cut, gap, (before, after) in zip(cuts, wide, itertools.pairwise(tokens)):
        beside = [b - a for a, b in runs if b == cut[0] or a == cut[1]]
        call = after[0].startswith("()") and len(beside) == 2 and max(beside) <= narrow
        quoted = before[0][-1] in QUOTES or after[0][0] in QUOTES
        if call or (quoted and gap < SLIGHT * usual):
            out += range(before[2] + 1, after[1])
    return out


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
    rooms = [b.box[0] - a.box[2] for a, b in itertools.pairwise(words)]
    entries = len(rooms) > 1 and min(rooms) >= ENTRIES * ink_height and all(len(w.text) > 2 for w in words)
    for a, b in itertools.pairwise(words):
        wider = BESIDE_DOT if "·" in (a.text, b.text) else AFTER_STOP if a.text[-1] in ".!?" else 1.0
        gap = SPLIT_GAP * wider * ink_height
        if entries or b.box[0] - a.box[2] > gap:
            groups.append([])
        groups[-1].append(b)
    ground = (float(ink.ground[0]), float(ink.ground[1]), float(ink.ground[2]))
    return [
        RawLine(tuple(g), around([w.box for w in g]), ground, ink.flat, confidence, ink.pictured)
        for g in groups
    ]
