"""Columns of a table with hardly any room between them: words that begin at one place line after line, though not where a space
would put them.

A paragraph's words begin where the words before them end; that five lines in a row have one at the same px is no chance. Where the
distance to the word before is the same space in all of them, the lines begin alike (entries of a list), and nothing is parted.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from neige.core.model import Line, TypeStyle, Word
from neige.core.reading.type.catalogue import row_of, shape

RUN, LEAST = 5, 3  # lines in a row, and those in which the column's word was read by itself
CUT = 0.25  # em by which the letter that begins a cell may be read elsewhere
WELL_SET = 0.93  # correlation of a style's face from which its space is the page's
SAME = 1.2  # px by which their words may begin elsewhere
PITCH = 1.5  # px by which the lines' distances may differ,
SKIPPED = 3  # and lines without a word of their own there
HIGH = 4.0  # em between such lines at most
FAR = 20.0  # em: what is farther apart does not stand before it
NO_SPACE = 0.12  # em by which most distances to the words before differ from a space,
VARIED = 0.35  # or em between small and large ones
WIDE = 0.4  # em more than a space: where all are wider, the columns are apart without further ado
MARK = re.compile(r"^(\W|\d{1,2}[.)])$")  # before an entry of a list


@dataclass(frozen=True, slots=True)
class Start:
    """Where a word begins, and how far after what stands before it on its baseline (None: nothing does), px."""

    x: float
    baseline: float
    gap: float | None
    style: TypeStyle


@dataclass(frozen=True, slots=True)
class River:
    """Where a column's words begin, and its first and last baselines, px."""

    x: float
    top: float
    bottom: float

    def parts(self, x: float, baseline: float) -> bool:
        """Does a word that begins at `x` begin a column's cell?"""
        return abs(x - self.x) <= SAME and self.top - 1 <= baseline <= self.bottom + 1


def find_rivers(lines: Sequence[Line], styles: Sequence[TypeStyle]) -> list[River]:
    """The columns that begin inside lines, left to right."""
    starts: list[Start] = []
    level: dict[int, list[Line]] = defaultdict(list)
    for line in lines:
        level[round(line.baseline)].append(line)
    for line in lines:
        style, y = styles[line.style], round(line.baseline)
        if style.category == "monospace":
            continue
        before = [o.box.right for k in (y - 1, y, y + 1) for o in level[k] if o.box.right <= line.box.x + 1]
        reached = max(before, default=None)
        for i, w in enumerate(line.words):
            gap = w.x - reached if reached is not None else None
            if i != 1 or not MARK.match(line.words[0].text):  # else the first word of an entry
                near = gap if gap is not None and gap <= FAR * style.size else None
                starts.append(Start(w.x, line.baseline, near, style))
            reached = w.x + w.w
    starts.sort(key=lambda s: (s.x, s.baseline))
    spaces = _spaces(lines, styles)
    glued = [(x, n.baseline) for n in lines for w in n.words for x, _ in inner_starts(w, styles[w.style])]
    out: list[River] = []
    at = 0
    while at < len(starts):
        end = at
        while end < len(starts) and starts[end].x - starts[at].x <= SAME:
            end += 1
        out += _runs(sorted(starts[at:end], key=lambda s: s.baseline), spaces, glued)
        at = max(at + 1, end)
    return list(dict.fromkeys(_through(r, out) for r in out))


def _through(river: River, rivers: Sequence[River]) -> River:
    """A column from the first to the last row of its table: where its cells were read as one with those before, they are still its own."""
    beside = [r for r in rivers if r.top <= river.bottom and river.top <= r.bottom]
    return River(river.x, min(r.top for r in beside), max(r.bottom for r in beside))


def _spaces(lines: Sequence[Line], styles: Sequence[TypeStyle]) -> dict[TypeStyle, float]:
    """How far apart the words of a style are, em: by its face, or, where that only stands for another, as they usually are."""
    seen: dict[TypeStyle, list[float]] = defaultdict(list)
    for line in lines:
        style = styles[line.style]
        seen[style] += [(b.x - a.x - a.w) / style.size for a, b in zip(line.words, line.words[1:])]
    return {
        s: sorted(seen[s])[len(seen[s]) // 2]
        if s.fit < WELL_SET and seen[s]
        else shape(row_of(s), " ").advance + s.tracking / s.size
        for s in styles
    }


def _runs(
    group: list[Start], spaces: Mapping[TypeStyle, float], glued: Sequence[tuple[float, float]]
) -> list[River]:
    """The runs of lines an even distance (or two, or three of them) apart in which a column begins at one place."""
    out: list[River] = []
    run: list[Start] = []
    pitch = 0.0
    for s in group:
        step = s.baseline - run[-1].baseline if run else 0.0
        if run and step >= 0.8 * s.style.size:
            pitch = min(pitch, step) if pitch else step
            times = round(step / pitch)
            even = abs(step - times * pitch) <= PITCH and times <= 1 + SKIPPED
        else:
            even = not run
        if not even or pitch > HIGH * s.style.size:
            out += _river(run, spaces, glued)
            run, pitch = [], 0.0
        run.append(s)
    return out + _river(run, spaces, glued)


def _river(
    run: list[Start], spaces: Mapping[TypeStyle, float], glued: Sequence[tuple[float, float]]
) -> list[River]:
    """The column that begins in a run of lines, if one does. `glued`: where a word may begin inside what was read as one."""
    if len(run) < LEAST:
        return []
    x = sorted(s.x for s in run)[len(run) // 2]
    top, bottom, size = run[0].baseline, run[-1].baseline, run[0].style.size
    off = [s.gap / s.style.size - spaces[s.style] for s in run if s.gap is not None]
    inside = {y for at, y in glued if top < y < bottom and abs(at - x) <= CUT * size}
    off = sorted([*off, *(-spaces[run[0].style] for _ in inside)])
    n = len(off)
    if len(run) + len(inside) < RUN or 2 * n < len(run) or off[0] > WIDE:
        return []
    if off[n - 1 - n // 10] - off[n // 10] < VARIED and abs(off[n // 2]) < NO_SPACE:
        return []
    return [River(x, top, bottom)]


def inner_starts(w: Word, style: TypeStyle) -> list[tuple[float, int]]:
    """(x, letters before) of the places inside a word where another may begin: figures after letters, a currency, a capital."""
    row = row_of(style)
    return [
        (w.x + shape(row, w.text[:i]).advance * style.size, i)
        for i in range(1, len(w.text))
        if _begins_anew(w.text[i - 1], w.text[i])
    ]


def _begins_anew(before: str, after: str) -> bool:
    kinds = [(c.isdigit(), c.isalpha()) for c in (before, after)]
    apart = kinds[0] != kinds[1] and all(map(any, kinds))
    return after in "$€£¥(#+" or (before.islower() and after.isupper()) or apart
