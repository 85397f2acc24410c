"""Words that were taken for icons: marks as high as letters are read by themselves, and are text if a type of the page draws them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Line, Rect, Surface, TypeStyle
from neige.core.model.geometry import edges, union
from neige.core.reading.colour import away_from
from neige.core.reading.mistaken import is_cross
from neige.core.reading.text.detect import Box
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import Recogniser
from neige.core.reading.type.lost import INK, SEEN, as_line, faces_of, fitting, with_words
from neige.core.reading.type.pieces import cut_pieces

HIGH = (5.0, 84.0)  # px of what may be letters
WIDE = 200.0  # px
APART = 0.6  # of their height between the marks that make a word
LEVEL = 0.4  # of the lower one's height that they share,
ABOVE = 0.25  # or of the higher one's that is between parts of one letter
BADGE, MIDDLE = (14.0, 96.0), 2.5  # px: sides of what one letter may stand in, and how far off its middle
ROW = 3  # marks beside each other that may be icons and figures
LETTERS, BESIDE = 0.9, 8.0  # of them that lie in such a mark; px of an icon beside them
ROOM = 0.4  # of a mark's height around it in which its letters may go on
SURE = 0.5  # confidence: how a type draws it decides
# fmt: off
TAKEN = {  # for others
    "5": "$", "S": "$s", "V": "v", "O": "o0", "C": "c", "W": "w", "X": "x", "Z": "z", "l": "I1", "I": "l1", "o": "0",
}
# fmt: on
ARROWS = "↑↓→←↗↘▲▼"  # before figures
SPACE = (0.08, 0.9)  # em between words of one line
SIGNS = set("-<>&|^$%#@~/=+[]{}()*!?.,:;'\"")  # that stand in code and prices


def find_missed(
    cutouts: Sequence[Cutout], pixels: NDArray[np.uint8], scale: int, lines: Sequence[Line],
    styles: Sequence[TypeStyle], recogniser: Recogniser, noise: float,
    surfaces: Sequence[Surface] = (), told: Sequence[Rect] = (), known_marks: dict[Box, list[RawLine]] | None = None,
) -> tuple[list[Cutout], list[Line], list[TypeStyle]]:  # fmt: skip
    """(the cutouts left, all lines, all styles): what is read in marks, and drawn alike by a type of the page, is text.

    `told`: where the developer has said what is there. `known_marks`: what was read in marks before, by their box in device px;
    what is read now is added.
    """
    groups = _groups([c for c in cutouts if not any(r.meet(c.rect) for r in told)])
    read = {} if known_marks is None else known_marks
    gone: set[int] = set()
    out, known, rest = list(lines), list(styles), list[Cutout]()

    def settle(groups: list[list[Cutout]]) -> list[list[Cutout]]:
        """Put what is read in marks among the lines; the groups in which nothing is."""
        left = []
        boxes = [union(c.rect for c in g).grow(2) for g in groups]
        for group, box, found_in in zip(groups, boxes, _read(boxes, pixels, scale, recogniser, noise, read)):
            initial = _in_badge(box, surfaces)
            rid = (_without_arrow(n, pixels) for n in found_in)
            found = [r for n in rid if (r := _own(n, box, scale, out, initial)) is not None]
            line, style, beside = None, None, list[int]()
            if len(found) == 1:
                beside = _beside(found[0], out, known, scale)
                whole = _whole(found[0], union(c.rect for c in group), pixels, scale)
                wider = whole.box[2] - whole.box[0] - (found[0].box[2] - found[0].box[0]) > BESIDE * scale
                for n in (whole, found[0])[: 1 + wider]:  # its letters may stand beside an icon
                    line, style = _set(n, pixels, scale, known, [out[k].style for k in beside])
                    if line is not None:
                        break
            if line is None or is_cross(line, style or known[line.style], out, known):
                left.append(group)
                continue
            if style is not None:
                known.append(style)
                line = replace(
                    line,
                    style=len(known) - 1,
                    words=tuple(replace(w, style=len(known) - 1) for w in line.words),
                )
            gone.update(id(c) for c in group)
            icons = (_beside_letters(c, line.ink) for c in group)
            rest.extend(c for c in icons if c is not None)
            host = next((k for k in beside if abs(out[k].baseline - line.baseline) <= 1.5), None)
            if host is None:
                out.append(line)
            else:
                out[host] = with_words(out[host], line.words)
        return left

    # icons with figures between them are a row of marks: then each by itself
    settle([[c] for g in settle(groups) if len(g) >= ROW for c in g])
    return [*(c for c in cutouts if id(c) not in gone), *rest], out, known


def _without_arrow(n: RawLine, pixels: NDArray[np.uint8]) -> RawLine:
    """A line without the arrow before its first word, which is an icon: it has gone up, it has gone down."""
    first = n.words[0]
    if first.text[0] not in ARROWS or len(n.text) == 1:
        return n
    words = n.words[1:]
    if len(first.text) > 1:  # both in one word: it goes on after the first gap in their ink
        x0, y0, x1, y1 = (round(v) for v in first.box)
        away = away_from(pixels[y0:y1, x0:x1], n.ground)
        inked = away > INK * away.max(initial=0)
        columns = np.flatnonzero(inked.any(axis=0))
        gaps = np.flatnonzero(np.diff(columns) > 1)
        if not gaps.size:
            return n
        start = int(columns[gaps[0] + 1])
        rows = np.flatnonzero(inked[:, start:].any(axis=1))
        box = (float(x0 + start), float(y0 + rows[0]), first.box[2], float(y0 + rows[-1] + 1))
        words = (replace(first, text=first.text[1:], box=box), *words)
    return replace(n, words=words, box=around([w.box for w in words]))


def _beside_letters(c: Cutout, ink: Rect) -> Cutout | None:
    """What of a mark stands beside the letters that were read in it: the icon before a figure."""
    before, after = ink.x - c.rect.x, c.rect.right - ink.right
    if max(ink.x - c.rect.right, c.rect.x - ink.right) > 0 and c.rect.h > LEVEL * ink.h:
        return c
    if ink.meet(c.rect) < LETTERS * ink.area or max(before, after) < max(BESIDE, APART * ink.h):
        return None
    x0, x1 = (c.rect.x, ink.x - 1) if before >= after else (ink.right + 1, c.rect.right)
    return replace(c, rect=edges(x0, c.rect.y, x1, c.rect.bottom))


def _read(
    boxes: Sequence[Rect], pixels: NDArray[np.uint8], scale: int, recogniser: Recogniser, noise: float, known: dict[Box, list[RawLine]]
) -> list[list[RawLine]]:  # fmt: skip
    """The lines that are read in each box (CSS px); `known`: what was read before, by its box in device px, is added to."""
    device: list[Box] = [
        (float(r.x * scale), float(r.y * scale), float(r.right * scale), float(r.bottom * scale))
        for r in boxes
    ]
    new = [b for b in device if b not in known]
    found = read_lines(pixels, new, recogniser, noise)[0] if new else []
    for b in new:
        known[b] = [
            n for n in found if n.box[0] < b[2] and n.box[2] > b[0] and n.box[1] < b[3] and n.box[3] > b[1]
        ]
    return [known[b] for b in device]


def _groups(cutouts: Sequence[Cutout]) -> list[list[Cutout]]:
    """Marks as high as letters, those together that stand as close as letters and their parts do."""
    small = [c for c in cutouts if c.rect.h <= HIGH[1] and c.rect.w <= WIDE and not c.backdrop]
    small.sort(key=lambda c: c.rect.y)
    of = list(range(len(small)))  # the first member of each one's group

    def first(k: int) -> int:
        while of[k] != k:
            k = of[k]
        return k

    for k, c in enumerate(small):
        for n in range(k - 1, -1, -1):  # as far up as a mark reaches that may be close
            if c.rect.y - small[n].rect.y > (1 + ABOVE) * HIGH[1]:
                break
            if _close(small[n].rect, c.rect):
                a, b = sorted((first(n), first(k)))
                of[b] = a
    groups: dict[int, list[Cutout]] = {}
    for k, c in enumerate(small):
        groups.setdefault(first(k), []).append(c)
    boxes = [(g, union(c.rect for c in g)) for g in groups.values()]
    return [g for g, r in boxes if HIGH[0] <= r.h <= HIGH[1] and r.w <= WIDE]


def _close(a: Rect, b: Rect) -> bool:
    high = max(a.h, b.h)
    across, down = max(a.x, b.x) - min(a.right, b.right), max(a.y, b.y) - min(a.bottom, b.bottom)
    level = -down >= LEVEL * min(a.h, b.h)
    return (level and across <= APART * high) or (across < 0 and down <= ABOVE * high)


def _in_badge(box: Rect, surfaces: Sequence[Surface]) -> bool:
    """Does a mark stand in the middle of a square or disc?"""
    return any(
        BADGE[0] <= s.rect.h <= BADGE[1]
        and abs(s.rect.w - s.rect.h) <= 0.2 * s.rect.h
        and box.inside(s.rect, 0.99)
        and abs(box.cx - s.rect.cx) <= MIDDLE
        and abs(box.cy - s.rect.cy) <= MIDDLE
        for s in surfaces
    )


def _own(n: RawLine, box: Rect, scale: int, lines: Sequence[Line], initial: bool) -> RawLine | None:
    """What of a line lies in a group's box and is not known yet, if it may be words. `initial`: one letter may."""
    words = []
    for w in n.words:
        ink = edges(*(v / scale for v in w.box))
        known = any(k.ink.meet(ink) > 0.3 * ink.area for o in lines if o.box.meet(ink) for k in o.words)
        if ink.inside(box.grow(2), 0.9) and not known:
            words.append(w)
    text = "".join(w.text for w in words)
    letters = sum(c.isalnum() for c in text)
    plain = len(text) >= 2 and all(c.isalnum() or c in SIGNS for c in text) and (letters or len(text) == 2)
    plain = plain or (initial and len(text) == 1 and (text.isdigit() or text.isupper()))
    if not plain or any(w.confidence < SURE for w in words):
        return None
    return replace(n, words=tuple(words), box=around([w.box for w in words]))


def _whole(n: RawLine, marks: Rect, pixels: NDArray[np.uint8], scale: int) -> RawLine:
    """A lone word with all the ink of its marks: what is above and below the letters that were read in it is of a letter, too."""
    if len(n.words) != 1:
        return n
    room = marks.grow(ROOM * marks.h)  # a mark may be cut smaller than its letters are
    x0, y0 = max(0, int(room.x * scale)), max(0, int(room.y * scale))
    crop = pixels[y0 : int(np.ceil(room.bottom * scale)), x0 : int(np.ceil(room.right * scale))]
    away = away_from(crop, n.ground)
    inked = away > INK * away.max()
    _, labels = cv2.connectedComponents(inked.astype(np.uint8), connectivity=8)
    part = np.s_[
        max(0, int(marks.y * scale) - y0) : int(np.ceil(marks.bottom * scale)) - y0,
        max(0, int(marks.x * scale) - x0) : int(np.ceil(marks.right * scale)) - x0,
    ]
    within = np.zeros_like(inked)
    within[part] = inked[part]
    whole = inked & np.isin(labels, np.unique(labels[within]))
    rim = np.concatenate([whole[0], whole[-1], whole[:, 0], whole[:, -1]])
    ys, xs = np.nonzero(within if rim.any() else whole)
    if not xs.size:
        return n
    left, top = x0 + float(xs.min()), y0 + float(ys.min())
    box = (left, top, x0 + float(xs.max()) + 1, y0 + float(ys.max()) + 1)
    return replace(n, words=(replace(n.words[0], box=box),), box=box)


def _beside(n: RawLine, lines: Sequence[Line], styles: Sequence[TypeStyle], scale: int) -> list[int]:
    """The lines that words stand a space from, or between whose words they do."""
    ink = edges(*(v / scale for v in n.box))
    out = []
    for k, o in enumerate(lines):
        size = styles[o.style].size
        if not o.box.y <= ink.cy <= o.box.bottom or ink.h > 1.2 * size:
            continue
        gaps = [max(w.ink.x - ink.right, ink.x - w.ink.right) for w in o.words]
        if SPACE[0] * size <= min(gaps) <= SPACE[1] * size:
            out.append(k)
    return out


def _set(
    n: RawLine, pixels: NDArray[np.uint8], scale: int, styles: Sequence[TypeStyle], first: Sequence[int]
) -> tuple[Line | None, TypeStyle | None]:
    """(the line in a type of the page that draws it, the style if it is new); None if none does."""
    pieces = cut_pieces(0, n, pixels)
    if len(pieces) != 1:
        return None, None
    faces = faces_of(styles, first)
    for spellings in ([n.words], _spellings(n)):  # what was read, and only else what it is taken for
        tried = [(t, words) for words in spellings for t in fitting(pieces[0], words, scale, faces)]
        fit, words = min(tried, key=lambda t: t[0].residual, default=(None, ()))
        if fit is not None and fit.residual <= SEEN:
            return as_line(pieces[0], words, fit, styles, scale)
    return None, None


def _spellings(n: RawLine) -> list[tuple[RawWord, ...]]:
    """The words as they were read, with one letter as another that looks like it, or two alike as three ("(iii)")."""
    out = []
    for i, w in enumerate(n.words):
        for at, letter in enumerate(w.text):
            more = [2 * letter] if at and w.text[at - 1] == letter else []
            for other in [*TAKEN.get(letter, ""), *more]:
                text = w.text[:at] + other + w.text[at + 1 :]
                out.append((*n.words[:i], replace(w, text=text), *n.words[i + 1 :]))
    return out
