"""How a style is underlined: where the line runs, how thick it is, whether it is dotted, and its colour.

A browser's own underline crosses the descenders' upper part and has the text's colour. A line below the descenders is a border:
the box that it belongs to ends where the face's descent does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Line, Rect, Rule, TypeStyle, Underline, Word
from neige.core.reading.colour import away_from, to_hex
from neige.core.reading.type.catalogue import row_of, shape

WORDS = 12  # of a style that are measured
BELOW = 6.0  # px under the descent that a line may run
COVERED = 0.12  # of the ink's distance from the ground from which a px belongs to the line
SOLID, DOTTED = 0.85, (0.35, 0.65)  # share of a row's px that are covered
TURNS = 0.8  # share of a dotted row's px that differ from the one before
AT_BASE, UNDER = 0.3, 0.6  # of the size from the base line: a line there, and one under words, are theirs
ENDS = 4.0  # px that a line under words may end beside them
DESCEND = frozenset("gjpqyQ,;()[]{}|/_")  # what an underline gives way to
ASIDE = 0.25  # of a letter's advance that is left out at its sides,
LEAST, BETWEEN = 4, 0.6  # px at 1x that are looked at between those, and how many of them are covered
END = 1  # px at a word's ends that are left out


def find_underlines(
    lines: Sequence[Line], styles: Sequence[TypeStyle], pixels: NDArray[np.uint8], scale: int
) -> list[TypeStyle]:
    """The styles, the underlined ones with their line as it was drawn, if it could be measured on most of their words."""
    out = list(styles)
    for n, style in enumerate(styles):
        if not style.underline:
            continue
        words = [(line, w) for line in lines for w in line.words if w.style == n and w.w >= 12]
        words = sorted(words, key=lambda p: -p[1].w)[:WORDS]
        seen = [m for line, w in words if (m := _measure(line, w.x, w.x + w.w, style, pixels, scale))]
        if len(seen) * 2 <= len(words):
            continue
        dotted = sum(m[2] for m in seen) * 2 > len(seen)
        fit = [m for m in seen if m[2] == dotted]
        top, thick = (float(np.median([m[k] for m in fit])) for k in (0, 1))
        colour = np.median([m[3] for m in fit], axis=0)
        out[n] = replace(style, under=Underline(top, thick, dotted, to_hex(colour)))
    return out


def without_feet(
    lines: Sequence[Line], styles: Sequence[TypeStyle], pixels: NDArray[np.uint8], scale: int
) -> tuple[list[Line], list[TypeStyle]]:
    """(lines, styles): a style of which no word has a line below the base line is not underlined; what looked so were the feet of
    letters. Its words are given to one that is set alike, if there is any."""
    out = list(styles)
    plain: dict[int, int] = {}
    for n, s in enumerate(styles):
        if not s.underline or s.under is not None:
            continue
        own = [(line, w) for line in lines for w in line.words if w.style == n]
        if any(_measure(line, w.x, w.x + w.w, s, pixels, scale) for line, w in own):
            continue
        out[n] = replace(s, underline=False)
        plain[n] = next((k for k, t in enumerate(styles) if not t.underline and _set_alike(s, t)), n)
    told = [
        replace(
            line,
            words=tuple(replace(w, style=plain.get(w.style, w.style)) for w in line.words),
            style=plain.get(line.style, line.style),
        )
        for line in lines
    ]
    return told, out


def _set_alike(a: TypeStyle, b: TypeStyle) -> bool:
    return (a.face, a.size, a.weight, a.colour) == (b.face, b.size, b.weight, b.colour)


def with_broken_underlines(
    lines: Sequence[Line], styles: Sequence[TypeStyle], pixels: NDArray[np.uint8], scale: int
) -> list[Line]:
    """The lines; words that no line was found under, since it gives way to one descender after another ("Logging"), are underlined
    where what shows between these is on the row on which words set alike are."""
    twins: dict[int, int] = {}
    for n, s in enumerate(styles):
        for k, t in enumerate(styles):
            if not s.underline and t.under and _set_alike(s, t):
                twins[n] = k
    out: list[Line] = []
    for line in lines:
        likely = [k for k, w in enumerate(line.words) if w.style in twins]
        shown = {
            k: twins[line.words[k].style]
            for k in likely
            if _shows_between(line, line.words[k], styles[twins[line.words[k].style]], pixels, scale)
        }
        words = list(line.words)
        for k, twin in shown.items():
            beside = [n for n in (k - 1, k + 1) if 0 <= n < len(words)]
            linked = [n for n in beside if n in shown or line.words[n].style == twin]
            if all(_runs_on(line, min(k, n), styles[twin], pixels, scale) for n in linked):
                words[k] = replace(words[k], style=twin)
        if tuple(words) != line.words:
            letters = {w.style: sum(len(o.text) for o in words if o.style == w.style) for w in words}
            line = replace(line, words=tuple(words), style=max(letters, key=lambda n: letters[n]))
        out.append(line)
    return out


def _runs_on(line: Line, k: int, style: TypeStyle, pixels: NDArray[np.uint8], scale: int) -> bool:
    """Does an underline go on from a line's word `k` to the next? Where it does not, that is another link."""
    a, b = line.words[k], line.words[k + 1]
    gap = range(round((a.x + a.w) * scale), round(b.x * scale))
    return _share(line, gap, style, pixels, scale) >= BETWEEN


def _shows_between(line: Line, w: Word, style: TypeStyle, pixels: NDArray[np.uint8], scale: int) -> bool:
    """Is a style's underline under those letters of a word that have no descender?"""
    if style.under is None or style.under.dotted or not set(w.text) & DESCEND:
        return False
    row = row_of(style)
    ends = [w.x, *(w.x + shape(row, w.text[: k + 1]).advance * style.size for k in range(len(w.text)))]
    columns = [
        x
        for c, a, b in zip(w.text, ends, ends[1:])
        if c not in DESCEND
        for x in range(round((a + ASIDE * (b - a)) * scale), round((b - ASIDE * (b - a)) * scale))
    ]
    return len(columns) >= LEAST * scale and _share(line, columns, style, pixels, scale) >= BETWEEN


def _share(
    line: Line, columns: Sequence[int], style: TypeStyle, pixels: NDArray[np.uint8], scale: int
) -> float:
    """How many of these columns (device px) a style's underline covers under a line's text."""
    row = round((line.baseline + (style.under.top if style.under else 0.0)) * scale)
    if not columns or not 0 <= row < len(pixels) or max(columns) >= pixels.shape[1]:
        return 0.0
    ground = np.array([int(line.ground[i : i + 2], 16) for i in (1, 3, 5)], float)
    away = away_from(pixels[row, list(columns)].astype(np.float64), ground)
    return float((away > COVERED * 255).mean())


def without_underlines(
    rules: Sequence[Rule], lines: Sequence[Line], styles: Sequence[TypeStyle]
) -> list[Rule]:
    """The rules that are not the line under words, or a stroke of theirs."""
    words = [w.ink for line in lines for w in line.words]

    def is_words(rule: Rule) -> bool:
        r = rule.rect
        near = (w for w in words if r.w <= 1.3 * w.w + 8 or r.h > r.w)
        return any(r.inside(w.grow(4), 0.6) for w in near) or any(_is_under(r, n, styles) for n in lines)

    return [r for r in rules if not is_words(r)]


def _is_under(r: Rect, line: Line, styles: Sequence[TypeStyle]) -> bool:
    """Does a line run along a text's base line, or farther below it from the first to the last of words that are underlined?"""
    below, size = r.y - line.baseline, styles[line.style].size
    if abs(below) < AT_BASE * size and r.inside(line.box.grow(3), 0.9):
        return True
    if r.w < r.h or not 0 <= below <= UNDER * size:
        return False
    for under, run in groupby(line.words, lambda w: styles[w.style].underline):
        own = list(run)
        if under and max(abs(r.x - own[0].ink.x), abs(r.right - own[-1].ink.right)) <= ENDS:
            return True
    return False


def _measure(
    line: Line, left: float, right: float, style: TypeStyle, pixels: NDArray[np.uint8], scale: int
) -> tuple[float, float, bool, NDArray[np.float64]] | None:
    """(top below the baseline, thickness in CSS px, dotted, RGB) of the line under one word."""
    first = round((line.baseline + 0.5) * scale)
    last = round((line.baseline + style.descent + BELOW) * scale)
    crop = pixels[first:last, round(left * scale) + END : round(right * scale) - END].astype(np.float64)
    if crop.shape[0] < 2 or crop.shape[1] < 8:
        return None
    ground = np.array([int(line.ground[i : i + 2], 16) for i in (1, 3, 5)], float)
    away = away_from(crop, ground)
    if away.max() < 12:
        return None
    covered = away > COVERED * 255
    share = covered.mean(axis=1)
    turns = (covered[:, 1:] != covered[:, :-1]).mean(axis=1)
    solid = share >= SOLID
    dots = (share >= DOTTED[0]) & (share <= DOTTED[1]) & (turns >= TURNS)
    dotted = bool(dots.any() and not solid.any())
    rows = np.flatnonzero(dots if dotted else solid)
    if not rows.size:
        return None
    run = rows[: int(np.argmax(np.diff(rows, append=rows[-1] + 9) > 1)) + 1]
    strip, cover = crop[run], away[run]
    pure = strip[cover >= 0.9 * cover.max()]
    top = (first + float(run[0])) / scale - line.baseline
    return top, run.size / scale, dotted, np.median(pure, axis=0)
