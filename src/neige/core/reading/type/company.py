"""Lines set as those beside, above and elsewhere on the page: what one of them cannot tell, the others do."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from neige.core.model import Line, Rect, TypeStyle, Word
from neige.core.model.geometry import edges, union
from neige.core.reading.colour import away, from_hex, oklab
from neige.core.reading.text.raw import around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue, row_of, shape
from neige.core.reading.type.settle import ink_width

ODD_SIGN = 0.6  # of its line's size by which an angle's or a dot's may differ
APART = 0.3  # of its size that a larger letter stands apart from a line if it is an icon
ODD_MARK = 0.3  # of its line's size by which a sign's may differ
WELL = 0.12  # residual of a line that its face draws well
LIKELY, BAD = (
    0.8,
    0.3,
)  # correlation of a style that others may be set in, and residual of lines that may be set so
WIDE_TEXT = 8  # characters of such a line
NEARLY, FAR_OFF = (
    0.15,
    0.4,
)  # of its size that it may be off, where half of its words are as wide, and where all are
OTHER_INK = 0.1  # in OKLab
HEADLINE_WEIGHTS = (400, 600, 700)
SAME_SIZE = 0.035  # of the size by which the sizes that a line's words would have may differ
SAME_WIDTH = 0.03  # of a word's width that it may be off
CODED_LINES, CODED_FIT = 3, 0.97  # of a style of code that is sure
BOLDER = 250  # of weight by which a short word in its line's own face differs if it is set so
HALF = 0.5  # of a cell: less is no space in code
BEHIND = 0.9  # px that a stop may stand behind its code: it is still joined to it (see `Line.text`)
STOPS, STOP_GAP = ".,;:", 0.4  # and of the size, how far they may be from their word
NO_ROOM = 0.06  # of the size: words nearer to each other are one
NEAR_CODE = 5.0  # times the size from a line of signs to the code that it is part of, up, down or aside
SAME_ROW = 0.15  # of the size by which baselines of one row may differ
SIGNS = 0.12  # of the size by which a line of signs may have been measured larger or smaller than the code around it
PALEST = 0.6  # of the way from the ground to its ink that a thin sign seems to go at least
SAME_HUE = 0.05  # in OKLab, off that way
TWIN = 0.06  # of the size by which a word's may differ from its line's without being another


def steady(line: Line, styles: list[TypeStyle]) -> Line:
    """A lone word measured in a near twin of its line's type, in another family, or too short to tell, is set as the words
    around it: code, bold and italic words stand in a line, but no two families of text."""
    if len(line.words) < 3:
        return line
    main = styles[line.style]
    out = []
    for i, w in enumerate(line.words):
        s = styles[w.style]
        beside = [line.words[k].style for k in (i - 1, i + 1) if 0 <= k < len(line.words)]
        if w.style == line.style or w.style in beside:
            out.append(w)
            continue
        ink = away(s.colour, main.colour)
        plain = (s.underline, s.strike) == (main.underline, main.strike)
        twin = (
            s.family == main.family and s.italic == main.italic and abs(s.weight - main.weight) <= 100
            and abs(s.size / main.size - 1) <= TWIN and ink < 0.05
        )  # fmt: skip
        foreign = s.family != main.family and "monospace" not in (s.category, main.category) and ink < 0.12 and (
            abs(s.size / main.size - 1) <= 0.15
        )  # fmt: skip
        tiny = sum(c.isalnum() for c in w.text) <= 1 and abs(s.size / main.size - 1) < 0.4 and ink < 0.1
        leaning = (  # the name of a variable: one letter leans, or does not, as plainly as a word
            s.family == main.family and s.italic != main.italic and abs(s.weight - main.weight) <= 100
            and abs(s.size / main.size - 1) <= TWIN and w.text[:1].isalpha()
        )  # fmt: skip
        sign = (
            not any(c.isalnum() for c in w.text)
            and len(w.text) == 1
            and abs(s.size / main.size - 1) < ODD_SIGN
        )
        bold = (  # a number before its words
            s.family == main.family and s.italic == main.italic and abs(s.weight - main.weight) >= BOLDER
            and abs(s.size / main.size - 1) <= TWIN and len(w.text) >= 2
        )  # fmt: skip
        coded = (  # a key, or a variable's name: a letter of the code that stands elsewhere on the page
            s.category == "monospace" != main.category and s.lines >= CODED_LINES and s.fit >= CODED_FIT and w.text[:1].isalpha()
        )  # fmt: skip
        if plain and (twin or (tiny and not (bold or leaning or coded)) or foreign):
            out.append(replace(w, style=line.style))
        elif (
            sign and not (s.underline or s.strike) and 0 < i < len(line.words) - 1
        ):  # an angle between names, in an ink of its own
            out.append(replace(w, style=_inked(main, s.colour, styles)))
        else:
            out.append(w)
    return replace(line, words=tuple(out))


def part_stops(line: Line, styles: list[TypeStyle]) -> Line:
    """The comma or stop after code in prose is the prose's where the code's own would leave no room for the space after it."""
    prose = [w.style for w in line.words if styles[w.style].category != "monospace"]
    if not prose:
        return line
    style = max(sorted(set(prose)), key=prose.count)
    t = styles[style]
    out: list[Word] = []
    for w, following in zip(line.words, [*line.words[1:], None]):
        s = styles[w.style]
        advance = w.w / len(w.text)
        coded = s.category == "monospace" and w.text[-1] in STOPS and following is not None
        room = following.x - w.x - w.w if coded and following else advance
        lone = len(w.text) == 1 and bool(out) and styles[out[-1].style].category == "monospace"
        ends = w.text[-1] in ",;" or room < NO_ROOM * s.size  # code may end in a stop itself
        own = len(w.text) >= 3 and ends
        if room >= HALF * advance or not (lone or own):
            out.append(w)
            continue
        sign, row = w.text[-1], row_of(t)
        stop = shape(row, sign).advance * t.size
        if lone:
            end, ink = out[-1].x + out[-1].w, w.ink
        else:  # where its ink ends: between it and the code there may be the room in the code's box
            end = w.x + w.w - advance
            start = max(min(end, w.ink.right), w.ink.right - ink_width(sign, row, t.size, 0.0))
            ink = edges(start, w.ink.y, w.ink.right, w.ink.bottom)
            rest = edges(w.ink.x, w.ink.y, min(end, start), w.ink.bottom)
            out.append(replace(w, text=w.text[:-1], w=w.w - advance, ink=rest))
            end += min(max(0.0, start - f.extent(row, sign, 1) * t.size - end), BEHIND)
        out.append(Word(w.text[-1], end, stop, ink, style, w.confidence))
    return replace(line, words=tuple(out))


def whole(line: Line, styles: list[TypeStyle]) -> Line:
    """Words of code that were cut where its type changes, and came to one style in the end, are one word again."""
    words = list(line.words[:1])
    for w in line.words[1:]:
        last = words[-1]
        s = styles[w.style]
        if w.style == last.style and s.category == "monospace" and w.x - last.x - last.w < NO_ROOM * s.size:
            ink = union([last.ink, w.ink])
            sure = min(last.confidence, w.confidence)
            words[-1] = replace(last, text=last.text + w.text, w=w.x + w.w - last.x, ink=ink, confidence=sure)
        else:
            words.append(w)
    return replace(line, words=tuple(words)) if len(words) < len(line.words) else line


def signs_of_code(lines: list[Line], styles: list[TypeStyle]) -> list[Line]:
    """A line of code that has no more than a bracket or two is set as the code above, below or beside it, and so is a sign among
    words of code: signs hardly tell a face or a size."""
    lines = [_signs_among_code(n, styles) for n in lines]
    coded = [n for n in lines if styles[n.style].category == "monospace" and any(c.isalnum() for c in n.text)]
    out = list(lines)
    for k, n in enumerate(lines):
        s = styles[n.style]
        if any(c.isalnum() for c in n.text):
            continue
        far = NEAR_CODE if s.category == "monospace" else SAME_ROW
        near = [
            m
            for m in coded
            if abs(m.baseline - n.baseline) <= far * s.size
            and abs(styles[m.style].size / s.size - 1) <= SIGNS
            and max(n.box.x - m.box.right, m.box.x - n.box.right) <= NEAR_CODE * s.size
        ]
        if not near:
            continue
        t = styles[min(near, key=lambda m: (abs(m.baseline - n.baseline), m.box.x)).style]
        if (s.face, s.size, s.weight, s.colour) != (t.face, t.size, t.weight, t.colour):
            style = _as_inked(t, s.colour, n.ground, [m.style for m in near], styles)
            words = tuple(_as_sign(w, style, styles) for w in n.words)
            box = edges(words[0].x, n.baseline - t.ascent, words[-1].x + words[-1].w, n.baseline + t.descent)
            out[k] = replace(n, words=words, style=style, box=box)
    return out


def _signs_among_code(line: Line, styles: list[TypeStyle]) -> Line:
    main = styles[line.style]
    if main.category != "monospace":
        return line
    odd = [
        styles[w.style].category != "monospace" and not any(c.isalnum() for c in w.text) for w in line.words
    ]
    if not any(odd):
        return line
    own = [w.style for w, o in zip(line.words, odd) if not o]
    words = (
        _as_sign(w, _as_inked(main, styles[w.style].colour, line.ground, own, styles), styles) if o else w
        for w, o in zip(line.words, odd)
    )
    return replace(line, words=tuple(words))


def _as_inked(main: TypeStyle, colour: str, ground: str, near: list[int], styles: list[TypeStyle]) -> int:
    """A type in the ink of a sign, which is so thin that it may seem paler than it is: that of what is near, if it is that ink
    and some of its ground."""
    seen, under = oklab(from_hex(colour)), oklab(from_hex(ground))
    for k in sorted(set(near), key=near.index):
        t = styles[k]
        if (t.face, t.size, t.weight) != (main.face, main.size, main.weight):
            continue
        away = oklab(from_hex(t.colour)) - under
        share = float((seen - under) @ away) / max(float(away @ away), 1e-9)
        if PALEST <= share <= 1 / PALEST and np.linalg.norm(seen - under - share * away) < SAME_HUE:
            return k
    return _inked(main, colour, styles)


def _as_sign(w: Word, style: int, styles: list[TypeStyle]) -> Word:
    """A word of signs in another style, where its ink begins."""
    t = styles[style]
    row = row_of(t)
    wide = shape(row, w.text, abs(t.tracking) > 0.01).advance * t.size + t.tracking * len(w.text)
    return replace(w, style=style, x=w.ink.x - f.extent(row, w.text[0], 1) * t.size, w=wide)


def _inked(main: TypeStyle, colour: str, styles: list[TypeStyle]) -> int:
    """A style that is another's in an ink of its own: one there is, or else a new one."""
    own = replace(main, colour=colour, underline=False, strike=False)
    looks = [(t.family, t.size, t.weight, t.italic, t.colour, t.underline, t.strike) for t in styles]
    look = (own.family, own.size, own.weight, own.italic, own.colour, False, False)
    if look not in looks:
        styles.append(own)
    return looks.index(look) if look in looks else len(styles) - 1


def as_above(lines: list[Line], styles: list[TypeStyle]) -> list[Line]:
    """A line that no face draws well (on a photo, say), right above or below one of nearly its size and ink, is set like that one
    if that one is drawn better: the lines of one text have one family."""
    out = list(lines)
    for n, line in enumerate(lines):
        s = styles[line.style]
        if line.residual < WELL or s.category == "monospace" or len({w.style for w in line.words}) > 1:
            continue
        near = [
            m
            for m in lines
            if m is not line
            and m.residual <= line.residual
            and len(m.text) >= 0.8 * len(line.text)
            and _one_text(line, m, s, styles[m.style])
        ]
        if not near:
            continue
        style = min(near, key=lambda m: (m.residual, abs(m.baseline - line.baseline))).style
        row, t = row_of(styles[style]), styles[style]
        words = tuple(
            replace(
                w,
                style=style,
                w=shape(row, w.text, abs(t.tracking) > 0.01).advance * t.size + t.tracking * len(w.text),
            )
            for w in line.words
        )
        box = Rect(
            line.box.x, line.baseline - t.ascent, words[-1].x + words[-1].w - line.box.x, t.ascent + t.descent
        )
        out[n] = replace(line, words=words, style=style, box=box)
    return out


def as_elsewhere(lines: list[Line], styles: list[TypeStyle]) -> list[Line]:
    """A line on a photo that nothing draws well is set like others on the page that are drawn better, if most of its words are as
    wide in their type: what is behind letters hides where ink ends, but hardly of all of them."""
    out = list(lines)
    good = {m.style for m in lines if styles[m.style].fit >= LIKELY and styles[m.style].lines >= 2}
    for n, line in enumerate(lines):
        s = styles[line.style]
        one = len({w.style for w in line.words}) == 1 and line.style not in good
        if line.residual < BAD or len(line.text) < WIDE_TEXT or not one:
            continue
        tried = []
        for k in sorted(good):
            t = styles[k]
            away = abs(s.size / t.size - 1)
            if away > FAR_OFF or t.category == "monospace":
                continue
            off = [abs(_wide(w.text, t) / max(w.ink.w, 1.0) - 1) for w in line.words if len(w.text) >= 3]
            same = sum(o <= SAME_WIDTH for o in off)
            if (off and same >= 0.5 * len(off) and away <= NEARLY) or (len(off) > 1 and same == len(off)):
                tried.append((float(np.median(off)), k))
        best = min(tried)[1] if tried else _in_family(line, good, styles)
        if best is not None:
            inks = oklab(from_hex(styles[best].colour)), oklab(from_hex(s.colour))
            if (
                float(np.linalg.norm(inks[0] - inks[1])) > OTHER_INK
            ):  # the letters are as there, their ink is their own
                best = _inked(styles[best], s.colour, styles)
            out[n] = _set_anew(line, best, styles)
    return out


def _in_family(line: Line, good: set[int], styles: list[TypeStyle]) -> int | None:
    """A style of one of the page's families in which a line's words are as wide as seen, at a size of its own: a headline."""
    words = [w for w in line.words if len(w.text) >= 3]
    if len(words) < 2 or sum(len(w.text) for w in words) < WIDE_TEXT:
        return None
    s = styles[line.style]
    families = {styles[k].family: styles[k] for k in sorted(good) if styles[k].category != "monospace"}
    tried = []
    for instance in catalogue().instances:
        face = instance.face
        like = families.get(face.family)
        if like is None or face.italic or instance.weight not in (like.weight, *HEADLINE_WEIGHTS):
            continue
        one = replace(s, family=face.family, category=face.category, face=face.file, weight=instance.weight, italic=False, size=1.0, tracking=0.0)  # fmt: skip
        sizes = [w.ink.w / max(_wide(w.text, one), 1e-3) for w in words]
        size = float(np.median(sizes))
        apart = (max(sizes) - min(sizes)) / size
        if apart <= SAME_SIZE and abs(size / s.size - 1) <= FAR_OFF:
            tried.append((apart, face.file, instance.weight, size, face, one))
    if not tried:
        return None
    _, _, _, size, face, one = min(tried, key=lambda t: t[:3])
    size = round(size, 1)
    styles.append(
        replace(
            one, size=size, ascent=float(round(face.ascent * size)), descent=float(round(face.descent * size)), runners=(), substitute=False,
        )
    )  # fmt: skip
    return len(styles) - 1


def _wide(text: str, t: TypeStyle) -> float:
    """The width (px) of a word's ink in a type."""
    row = row_of(t)
    shaped = shape(row, text, abs(t.tracking) > 0.01)
    start, end = f.extent(row, text[0], 1), shaped.x[-1] + f.extent(row, text[-1], 2)
    return (end - start) * t.size + t.tracking * (len(text) - 1)


def _set_anew(line: Line, style: int, styles: list[TypeStyle]) -> Line:
    """A line in another style, its words in their places by that, from the word whose width agrees best."""
    t = styles[style]
    row, tracked = row_of(t), abs(t.tracking) > 0.01

    def advance(text: str) -> float:
        return shape(row, text, tracked).advance * t.size + t.tracking * len(text)

    starts = [
        0.0,
        *(advance(" ".join(w.text for w in line.words[:i]) + " ") for i in range(1, len(line.words))),
    ]
    off = [abs(_wide(w.text, t) / max(w.ink.w, 1.0) - 1) for w in line.words]
    best = off.index(min(off))
    word = line.words[best]
    left = word.ink.right - _wide(word.text, t) - f.extent(row, word.text[0], 1) * t.size - starts[best]
    words = []
    for w, start in zip(line.words, starts):
        x = left + start
        inked = x + f.extent(row, w.text[0], 1) * t.size
        ink = edges(inked, w.ink.y, inked + _wide(w.text, t), w.ink.bottom)
        words.append(replace(w, style=style, x=x, w=advance(w.text), ink=ink))
    lowest = min(0.0, *(f.extent(row, c, 3) for c in word.text))
    base = float(round(word.ink.bottom + lowest * t.size))
    box = edges(words[0].x, base - t.ascent, words[-1].x + words[-1].w, base + t.descent)
    inks = around([(w.ink.x, w.ink.y, w.ink.right, w.ink.bottom) for w in words])
    return replace(line, words=tuple(words), style=style, box=box, baseline=base, ink=edges(*inks))


def _one_text(a: Line, b: Line, s: TypeStyle, t: TypeStyle) -> bool:
    """Do two lines in different families look like lines of one text?"""
    pitch = abs(a.baseline - b.baseline)
    level = abs(a.box.x - b.box.x) <= 0.2 * s.size or abs(a.box.cx - b.box.cx) <= 0.2 * s.size
    ink = away(s.colour, t.colour)
    return (
        s.family != t.family
        and t.category != "monospace"
        and level
        and 0.9 * s.size <= pitch <= 1.7 * s.size
        and abs(s.size / t.size - 1) <= (0.1 if a.residual < 0.3 else 0.22)
        and ink < 0.1
        and (s.underline, s.uppercase) == (t.underline, t.uppercase)
    )


def without_marks(line: Line, styles: list[TypeStyle]) -> Line:
    """Leave out a lone sign at a line's end that is drawn much larger or smaller than its words, or a larger letter apart from
    them: an icon that looks like it. A stop right after a word is set as that is."""
    words = list(line.words)
    for end in (0, -1):
        if len(words) < 2:
            break
        w, size = words[end], styles[line.style].size
        odd = abs(styles[w.style].size / size - 1) > ODD_MARK and w.style != line.style
        beside = words[1 if end == 0 else -2].ink
        gap = max(beside.x - w.ink.right, w.ink.x - beside.right)
        letter = w.text.isalpha() and styles[w.style].size > size and gap > APART * size
        if end and odd and w.text in STOPS and gap <= STOP_GAP * size:
            words[end] = replace(w, style=line.style)  # a sentence's end tells nothing of its own size
            continue
        if odd and len(w.text) == 1 and (letter or not w.text.isalnum()) and w.text not in "•·–—":
            words.pop(end)
    if words == list(line.words):
        return line
    box = edges(words[0].x, line.box.y, words[-1].x + words[-1].w, line.box.bottom)
    ink = around([(w.ink.x, w.ink.y, w.ink.right, w.ink.bottom) for w in words])
    return replace(line, words=tuple(words), box=box, ink=edges(*ink))
