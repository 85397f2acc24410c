"""Words that stand on one baseline but are not one text: what is more than two spaces apart is told apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from neige.core.model import Line, Rect, Surface, TypeStyle, Word
from neige.core.model.geometry import edges, union
from neige.core.reading.text.rivers import CUT, MARK, River, find_rivers, inner_starts
from neige.core.reading.type.catalogue import row_of, shape

APART = 0.68  # em: a wider gap is no space, even where words are set wide
KEY, FIELD, AT_END = (
    (80.0, 28.0),
    64.0,
    16.0,
)  # px: a key's box, the field it is in, and how far it is from its end
CUT_OFF = 8.0  # px that words may seem to reach into it: it cuts them off
NUMBERS = 0.45  # em: and so much where the first column is one of numbers
NUMBER = "#"  # the head over a column of numbers
BESIDE = 3.0  # px by which the beginnings of one text's lines may differ


def part_lines(
    lines: Sequence[Line], styles: Sequence[TypeStyle], surfaces: Sequence[Surface], told: Sequence[Rect] = ()
) -> list[Line]:
    """The lines, parted at wide gaps and where a table's columns begin. Lines of a paragraph stay whole, as do a mark and its text,
    words beside a box of their own, and what the developer said is one line (`told`)."""
    out: list[Line] = []
    rivers = find_rivers(lines, styles)
    for line in lines:
        if any(line.ink.meet(r) for r in told):
            out.append(line)
            continue
        for cell in _cells(line, rivers, styles):
            out += _at_gaps(cell, lines, styles, surfaces)
    return out


def _at_gaps(
    line: Line, lines: Sequence[Line], styles: Sequence[TypeStyle], surfaces: Sequence[Surface]
) -> list[Line]:
    size = styles[line.style].size
    groups = [[line.words[0]]]
    numbered = False
    for a, b in zip(line.words, line.words[1:]):
        gap = edges(a.x + a.w, line.baseline - 0.6 * size, b.x, line.baseline)
        first = len(groups) == 1 and len(groups[0]) == 1
        numbers = first and (a.text == NUMBER or _numbered(a, b, lines))
        numbered |= numbers
        entry = first and not numbers and bool(MARK.match(a.text))
        apart = gap.w > (NUMBERS if numbers else APART) * size and not _boxed(gap, surfaces)
        if not entry and (apart or _before_key(gap, b, surfaces)):
            groups.append([])
        groups[-1].append(b)
    if len(groups) == 1 or (not numbered and _goes_on(line, lines, size)):
        return [line]
    return [line_of(line, words) for words in groups]


def _numbered(number: Word, text: Word, lines: Sequence[Line]) -> bool:
    """Do these stand under the heads of two columns, the first of them numbers?"""
    heads = [n for n in lines if n.words[0].text == NUMBER and abs(n.words[0].x - number.x) <= BESIDE]
    return any(
        abs(w.x - text.x) <= BESIDE and abs(o.baseline - n.baseline) <= BESIDE
        for n in heads
        if n.box.bottom < number.ink.y
        for o in lines
        for w in o.words
    )


def line_of(line: Line, words: Sequence[Word]) -> Line:
    """A part of a line by itself."""
    box = edges(words[0].x, line.box.y, words[-1].x + words[-1].w, line.box.bottom)
    style = max((w.style for w in words), key=lambda k: sum(len(w.text) for w in words if w.style == k))
    return replace(line, words=tuple(words), box=box, ink=union([w.ink for w in words]), style=style)


def _cells(line: Line, rivers: Sequence[River], styles: Sequence[TypeStyle]) -> list[Line]:
    """A line's parts in the columns of a table; a word that two cells were read as is two."""
    across = [r for r in rivers if r.top - 1 <= line.baseline <= r.bottom + 1]
    across = [r for r in across if line.box.x + 3 < r.x < line.box.right - 3]
    if not across:
        return [line]
    words = [part for w in line.words for part in _cut_word(w, across, styles[w.style])]
    groups = [[words[0]]]
    for w in words[1:]:
        if any(r.parts(w.x, line.baseline) for r in across):
            groups.append([])
        groups[-1].append(w)
    return [line_of(line, g) for g in groups]


def _cut_word(w: Word, across: Sequence[River], style: TypeStyle) -> list[Word]:
    """A word, or the two that it is if another column begins inside it."""
    row = row_of(style)
    for r in across:
        if not w.x + 3 < r.x < w.x + w.w - 3:
            continue
        off, at = min(
            ((abs(x - r.x), i) for x, i in inner_starts(w, style)), default=(CUT * style.size + 1, 0)
        )
        if off > CUT * style.size:
            continue
        first, second = w.text[:at], w.text[at:]
        advance = shape(row, first).advance * style.size
        pen = min(w.x, r.x - advance)
        one = replace(
            w,
            text=first,
            x=pen,
            w=advance,
            ink=edges(w.ink.x, w.ink.y, min(pen + advance, r.x - 0.5), w.ink.bottom),
        )
        two = replace(
            w, text=second, x=r.x, w=shape(row, second).advance * style.size,
            ink=edges(r.x, w.ink.y, max(w.ink.right, r.x + 1), w.ink.bottom),
        )  # fmt: skip
        return [one, *_cut_word(two, across, style)]
    return [w]


def _boxed(gap: Rect, surfaces: Sequence[Surface]) -> bool:
    """Does a small box begin or end in the gap?"""
    return any(
        s.rect.h < 3 * gap.h
        and s.rect.y < gap.cy < s.rect.bottom
        and any(gap.x < x < gap.right for x in (s.rect.x, s.rect.right))
        for s in surfaces
    )


def _before_key(gap: Rect, word: Word, surfaces: Sequence[Surface]) -> bool:
    """Does a box of its own at the end of a field begin before a word: the key that leads there?"""
    boxes = [s.rect for s in surfaces if s.rect.x <= word.ink.x and word.ink.inside(s.rect, 0.9)]
    return any(
        k.w <= KEY[0] and k.h <= KEY[1] and gap.x - CUT_OFF <= k.x and f.w >= 4 * f.h and k.h < f.h <= FIELD
        and 0 <= f.right - k.right <= AT_END and k.y - f.y >= 0 and k.bottom <= f.bottom
        for k in boxes for f in boxes if f is not k
    )  # fmt: skip


def _goes_on(line: Line, lines: Sequence[Line], size: float) -> bool:
    """Is there a line above or below that begins where this one does, as in a paragraph?"""
    return any(
        o is not line and o.style == line.style and abs(o.box.x - line.box.x) <= BESIDE
        and 0.9 * size <= abs(o.baseline - line.baseline) <= 2 * size
        for o in lines
    )  # fmt: skip
