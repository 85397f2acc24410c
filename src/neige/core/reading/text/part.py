"""Words that stand on one baseline but are not one text: what is more than two spaces apart is told apart."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from neige.core.model import Line, Rect, Surface, TypeStyle
from neige.core.model.geometry import edges, union

APART = 0.68  # em: a wider gap is no space, even where words are set wide
BESIDE = 3.0  # px by which the beginnings of one text's lines may differ
MARK = re.compile(r"^(\W|\d{1,2}[.)])$")


def part_lines(
    lines: Sequence[Line], styles: Sequence[TypeStyle], surfaces: Sequence[Surface], told: Sequence[Rect] = ()
) -> list[Line]:
    """The lines, parted at wide gaps. Lines of a paragraph stay whole, as do a mark and its text, words beside a box of their own,
    and what the developer said is one line (`told`)."""
    out: list[Line] = []
    for line in lines:
        size = styles[line.style].size
        groups = [[line.words[0]]]
        for a, b in zip(line.words, line.words[1:]):
            gap = edges(a.x + a.w, line.baseline - 0.6 * size, b.x, line.baseline)
            first = len(groups) == 1 and len(groups[0]) == 1 and bool(MARK.match(a.text))
            if gap.w > APART * size and not first and not _boxed(gap, surfaces):
                groups.append([])
            groups[-1].append(b)
        if len(groups) == 1 or _goes_on(line, lines, size) or any(line.ink.meet(r) for r in told):
            out.append(line)
            continue
        for words in groups:
            box = edges(words[0].x, line.box.y, words[-1].x + words[-1].w, line.box.bottom)
            ink = union([w.ink for w in words])
            style = max(
                (w.style for w in words), key=lambda k: sum(len(w.text) for w in words if w.style == k)
            )
            out.append(replace(line, words=tuple(words), box=box, ink=ink, style=style))
    return out


def _boxed(gap: Rect, surfaces: Sequence[Surface]) -> bool:
    """Does a small box begin or end in the gap?"""
    return any(
        s.rect.h < 3 * gap.h
        and s.rect.y < gap.cy < s.rect.bottom
        and any(gap.x < x < gap.right for x in (s.rect.x, s.rect.right))
        for s in surfaces
    )


def _goes_on(line: Line, lines: Sequence[Line], size: float) -> bool:
    """Is there a line above or below that begins where this one does, as in a paragraph?"""
    return any(
        o is not line and o.style == line.style and abs(o.box.x - line.box.x) <= BESIDE
        and 0.9 * size <= abs(o.baseline - line.baseline) <= 2 * size
        for o in lines
    )  # fmt: skip
