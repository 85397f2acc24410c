"""What was read as letters and is none, or none that stand level: icons beside each other, a magnifying glass, ticks and crosses before words."""

from __future__ import annotations

from collections.abc import Sequence

from neige.core.model import Line, TypeStyle
from neige.core.reading.colour import away
from neige.core.reading.text.part import line_of

WORD, FEW = 3, 10  # letters of a word that says something; characters that icons are read as at most
UNLIKE = 0.7  # residual from which nothing draws it,
HARDLY, DOUBTED = 0.35, 0.7  # or from which it counts if it was read with less confidence
GLASSES, GLASS_APART = set("QOCGaoq0"), 0.6  # what a glass is read as, em or more before its words
TICKS, CROSSES = "√✓✔✗✘", "Xx×"  # what icons are read as,
BEFORE = (0.3, 3.0)  # and em from them to their words
OTHER_INK = 0.1  # in OKLab
ACROSS = 0.2  # of the smaller one's box that two pieces share
LONE = 0.15  # residual from which a letter or figure by itself is none: faces draw theirs twice as well
SEVERAL, NARROW, NARROW_OFF = 4, 0.35, 0.25  # letters; of their height that each is wide at least; residual


def is_marks(line: Line) -> bool:
    """Are these ticks, or icons or faces that were read as a few letters or figures, which no face draws?"""
    if all(w.text in TICKS for w in line.words):
        return True
    if len(line.text) == 1 and line.text.isalnum() and line.residual > LONE:
        return True
    letters = max(sum(c.isalpha() for c in w.text) for w in line.words)
    few = letters < WORD and sum(len(w.text) for w in line.words) <= FEW
    unlike = line.residual > UNLIKE or (line.residual > HARDLY and line.confidence < DOUBTED)
    return few and unlike


def is_slanted(line: Line, lines: Sequence[Line]) -> bool:
    """Is this a piece of words that climb or fall? Each is as high as no letters beside each other are, drawn by nothing, and lies
    across the next."""
    return _is_steep(line) and any(
        o is not line and _is_steep(o) and o.ink.meet(line.ink) > ACROSS * min(o.ink.area, line.ink.area)
        for o in lines
    )


def _is_steep(line: Line) -> bool:
    letters = len(line.text)
    return (
        len(line.words) == 1
        and letters >= SEVERAL
        and line.residual > NARROW_OFF
        and line.ink.w < NARROW * letters * line.ink.h
    )


def is_cross(line: Line, style: TypeStyle, lines: Sequence[Line], styles: Sequence[TypeStyle]) -> bool:
    """Is a line an X by itself before words in another ink: what is not to be had?"""
    return line.text in CROSSES and any(
        abs(n.ink.cy - line.ink.cy) <= 0.5 * style.size
        and BEFORE[0] * style.size <= n.ink.x - line.ink.right <= BEFORE[1] * style.size
        and away(style.colour, styles[n.style].colour) > OTHER_INK
        for n in lines
    )


def without_tick(line: Line, styles: Sequence[TypeStyle]) -> Line:
    """A line without the tick before it, which was read as a root, or the cross in an ink of its own."""
    if len(line.words) < 2:
        return line
    first, second = line.words[:2]
    other = away(styles[first.style].colour, styles[second.style].colour) > OTHER_INK
    mark = first.text in TICKS or (first.text in CROSSES and other)
    apart = second.x - first.ink.right > BEFORE[0] * styles[second.style].size
    return line_of(line, line.words[1:]) if mark and apart else line


def without_glass(line: Line, styles: Sequence[TypeStyle]) -> Line:
    """A line without the round letter before it that is set apart and in no type of the line's: the glass of a search is no Q."""
    if len(line.words) < 2 or line.words[0].text not in GLASSES:
        return line
    first, second = line.words[:2]
    apart = second.x - first.ink.right > GLASS_APART * styles[second.style].size
    if first.style == second.style or not apart:
        return line
    return line_of(line, line.words[1:])
