"""From raw lines to lines with styles: pieces get their type, types are parted by ink, and lines are put together again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Line, Pin, Rect, TypeStyle, Word
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex, oklab, to_hex
from neige.core.reading.text.lines import RawLine, around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue, shape
from neige.core.reading.type.decide import find_types
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.match import SAME_INK, Match, ink_colour, match
from neige.core.reading.type.pieces import Piece, cut_pieces

SHORT = 3  # letters: no more can be an icon misread
ICONIC = set("QOoXxVvCcUu")  # letters that icons are read as: a glass, a ring, a cross, chevrons
UNLIKE_ICON = 0.12  # residual from which one of these, alone, is an icon
UNLIKE_ONE = (
    0.3,
    0.06,
)  # residual from which a single letter is an icon: drawn as it is, or fitted like the picture
UNLIKE = 0.56  # and a short line
SUBSTITUTE = 0.9  # correlation under which a style's face is only the closest there is
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
SAME_WIDTH = 0.03  # of a word's width that it may be off
TWIN = 0.06  # of the size by which a word's may differ from its line's without being another
BLACK = 10.0  # 8-bit steps: darker channels are black
COLOURED = 60  # 8-bit steps between a ground's channels from which its mixture with white is telling
BETWEEN = 6  # 8-bit steps that a mixture may be off


def set_type(
    raw: list[RawLine], pixels: NDArray[np.uint8], scale: int, pins: Sequence[Pin] = ()
) -> tuple[list[Line], list[TypeStyle]]:
    """Give every line its type. `pixels`: device px (h, w, 3). Lines keep their order; the styles are in order of use.

    A pin of kind "type" sets the type of all lines that share its line's.
    """
    if not raw:
        return [], []
    pieces = [p for i, line in enumerate(raw) for p in cut_pieces(i, line, pixels)]
    return _styled(find_types(pieces, pins, scale), raw, scale)


def _styled(types: list[Type], raw: list[RawLine], scale: int) -> tuple[list[Line], list[TypeStyle]]:
    """Part types by colour and decoration into styles, and put the lines together again."""
    entries: list[tuple[Type, list[tuple[Piece, Match]], NDArray[np.float64]]] = []
    for kind in types:
        buckets: list[
            tuple[NDArray[np.float64], tuple[bool, bool], list[tuple[Piece, Match, NDArray[np.float64]]]]
        ] = []
        for p in sorted(kind.members, key=lambda p: (-p.letters, p.line, p.origin)):
            found = match(p, kind.row, kind.size, kind.tracking, scale) if p.flat else _unmatched(p, kind)
            colour = ink_colour(p, found)
            lab = _seen(colour)
            loose = SAME_INK * (1 + 12 / max(p.letters, 4)) * (1 if found.residual < 0.2 else 2)
            ruled = (p.words[0].underline, p.words[0].strike)
            alike = [(float(np.linalg.norm(b[0] - lab)), k) for k, b in enumerate(buckets) if b[1] == ruled]
            away, nearest = min(alike, default=(9.0, -1))
            if away < loose:
                buckets[nearest][2].append((p, found, colour))
            else:
                buckets.append((lab, ruled, [(p, found, colour)]))
        for _, _, bucket in buckets:
            weights = [p.letters * max(0.02, 1 - 3 * m.residual) for p, m, _ in bucket]
            entries.append((kind, [(p, m) for p, m, _ in bucket], _median([c for *_, c in bucket], weights)))
    entries.sort(key=lambda e: (-sum(p.letters for p, _ in e[1]), e[1][0][0].line))
    for n, (kind, of, colour) in enumerate(entries):  # one ink under two types is one ink
        lab = _seen(colour)
        near = [e[2] for e in entries[:n] if float(np.linalg.norm(_seen(e[2]) - lab)) < 0.6 * SAME_INK]
        if near:
            entries[n] = (kind, of, near[0])
    styles = [
        _style(kind, [p for p, _ in of], [m for _, m in of], colour, scale) for kind, of, colour in entries
    ]
    by_line: dict[int, list[tuple[Piece, Match, int]]] = defaultdict(list)
    for number, (_, of, _) in enumerate(entries):
        for p, m in of:
            by_line[p.line].append((p, m, number))
    lines = []
    for number, line in enumerate(raw):
        made = _line(
            line, sorted(by_line[number], key=lambda x: x[0].words[0].box[0]), entries, styles, scale
        )
        if made is not None:
            lines.append(made)
    clean = [_without_marks(_steady(n, styles), styles) for n in lines]
    return _in_use(_as_elsewhere(_as_above(clean, styles), styles), styles)


def _seen(colour: NDArray[np.float64]) -> NDArray[np.float64]:
    """An ink in OKLab, blacks that no screen tells apart taken for one."""
    return oklab(np.maximum(colour, BLACK))


def _steady(line: Line, styles: list[TypeStyle]) -> Line:
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
        ink = float(np.linalg.norm(oklab(from_hex(s.colour)) - oklab(from_hex(main.colour))))
        plain = (s.underline, s.strike) == (main.underline, main.strike)
        twin = (
            s.family == main.family and s.italic == main.italic and abs(s.weight - main.weight) <= 100
            and abs(s.size / main.size - 1) <= TWIN and ink < 0.05
        )  # fmt: skip
        foreign = s.family != main.family and "monospace" not in (s.category, main.category) and ink < 0.12 and (
            abs(s.size / main.size - 1) <= 0.15
        )  # fmt: skip
        tiny = sum(c.isalnum() for c in w.text) <= 1 and abs(s.size / main.size - 1) < 0.4 and ink < 0.1
        sign = (
            not any(c.isalnum() for c in w.text)
            and len(w.text) == 1
            and abs(s.size / main.size - 1) < ODD_SIGN
        )
        if plain and (twin or tiny or foreign):
            out.append(replace(w, style=line.style))
        elif (
            sign and not (s.underline or s.strike) and 0 < i < len(line.words) - 1
        ):  # an angle between names, in an ink of its own
            out.append(replace(w, style=_inked(main, s.colour, styles)))
        else:
            out.append(w)
    return replace(line, words=tuple(out))


def _inked(main: TypeStyle, colour: str, styles: list[TypeStyle]) -> int:
    """A style that is another's in an ink of its own: one there is, or else a new one."""
    own = replace(main, colour=colour, underline=False, strike=False)
    looks = [(t.family, t.size, t.weight, t.italic, t.colour, t.underline, t.strike) for t in styles]
    look = (own.family, own.size, own.weight, own.italic, own.colour, False, False)
    if look not in looks:
        styles.append(own)
    return looks.index(look) if look in looks else len(styles) - 1


def _as_above(lines: list[Line], styles: list[TypeStyle]) -> list[Line]:
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


def _as_elsewhere(lines: list[Line], styles: list[TypeStyle]) -> list[Line]:
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
        if tried:
            out[n] = _set_anew(line, min(tried)[1], styles)
    return out


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
    ink = float(np.linalg.norm(oklab(from_hex(s.colour)) - oklab(from_hex(t.colour))))
    return (
        s.family != t.family
        and t.category != "monospace"
        and level
        and 0.9 * s.size <= pitch <= 1.7 * s.size
        and abs(s.size / t.size - 1) <= (0.1 if a.residual < 0.3 else 0.22)
        and ink < 0.1
        and (s.underline, s.uppercase) == (t.underline, t.uppercase)
    )


def _without_marks(line: Line, styles: list[TypeStyle]) -> Line:
    """Leave out a lone sign at a line's end that is drawn much larger or smaller than its words, or a larger letter apart from
    them: an icon that looks like it."""
    words = list(line.words)
    for end in (0, -1):
        if len(words) < 2:
            break
        w, size = words[end], styles[line.style].size
        odd = abs(styles[w.style].size / size - 1) > ODD_MARK and w.style != line.style
        beside = words[1 if end == 0 else -2].ink
        gap = max(beside.x - w.ink.right, w.ink.x - beside.right)
        letter = w.text.isalpha() and styles[w.style].size > size and gap > APART * size
        if odd and len(w.text) == 1 and (letter or not w.text.isalnum()) and w.text not in "•·–—":
            words.pop(end)
    if len(words) == len(line.words):
        return line
    box = edges(words[0].x, line.box.y, words[-1].x + words[-1].w, line.box.bottom)
    ink = around([(w.ink.x, w.ink.y, w.ink.right, w.ink.bottom) for w in words])
    return replace(line, words=tuple(words), box=box, ink=edges(*ink))


def _unmatched(p: Piece, kind: Type) -> Match:
    base = round(f.baseline_of(p.edges, kind.row, kind.size))
    pens = f.pen_positions(p.edges, kind.row, kind.size, kind.tracking)
    return Match(0.35, 1.0, np.full(len(p.words), 0.35), pens, base)


def _median(colours: list[NDArray[np.float64]], weights: list[float]) -> NDArray[np.float64]:
    """Weighted median by channel."""
    values, w = np.array(colours), np.array(weights)
    out = []
    for channel in values.T:
        order = np.argsort(channel, kind="stable")
        total = np.cumsum(w[order])
        out.append(channel[order][int(np.searchsorted(total, total[-1] / 2))])
    return np.array(out)


def _style(
    kind: Type, pieces: list[Piece], found: list[Match], colour: NDArray[np.float64], scale: int
) -> TypeStyle:
    face = kind.instance.face
    css = round(kind.size / scale, 3)
    texts = [w.text for p in pieces for w in p.words]
    letters = "".join(texts)
    upper = letters == letters.upper() and sum(c.isalpha() for c in letters) > 5
    fit = float(
        np.sqrt(max(0.0, 1 - np.average([m.residual for m in found], weights=[p.letters for p in pieces])))
    )
    first = pieces[0].words[0]
    return TypeStyle(
        face.family, face.category, face.file, css, kind.instance.weight, face.italic, round(kind.tracking / scale, 3), to_hex(colour),
        float(round(face.ascent * css)), float(round(face.descent * css)), first.underline, first.strike, upper, round(fit, 4), kind.runners,
        len({p.line for p in pieces}), _opacity(colour, pieces), fit < SUBSTITUTE and sum(p.letters for p in pieces if p.flat) >= 8,
        fitted=pieces[0].fitted,
    )  # fmt: skip


def _opacity(colour: NDArray[np.float64], pieces: list[Piece]) -> float:
    """How far white lets the ground through, 1 for a full ink: on a coloured ground, an ink exactly between it and white is
    white at an opacity, which is how such inks are made."""
    ground = np.median([p.ground for p in pieces], axis=0)
    if ground.max() - ground.min() < COLOURED or colour.min() > 250 or not all(p.flat for p in pieces):
        return 1.0
    way = 255 - ground
    share = float((colour - ground) @ way) / max(1.0, float(way @ way))
    near = np.abs(ground + share * way - colour).max() <= BETWEEN
    return round(share * 20) / 20 if near and 0.35 <= share <= 0.97 else 1.0


def _line(
    raw: RawLine, parts: list[tuple[Piece, Match, int]], entries: list, styles: list[TypeStyle], scale: int
) -> Line | None:
    """One line of words with its boxes, or None if it is an icon that looked like letters: no font draws it so."""
    if not parts:
        return None
    words: list[Word] = []
    weights: dict[int, float] = defaultdict(float)
    bases: dict[int, int] = {}
    for p, m, number in parts:
        kind: Type = entries[number][0]
        bases.setdefault(number, m.baseline)
        for w, pen, misfit in zip(p.words, m.pens, m.words):
            shaped = shape(kind.row, w.text, abs(kind.tracking) > 0.01)
            advance = shaped.advance * kind.size + kind.tracking * len(w.text)
            sure = w.confidence * float(np.clip(1.15 - misfit, 0.3, 1.0))
            words.append(
                Word(
                    w.text,
                    float(pen) / scale,
                    advance / scale,
                    edges(*(v / scale for v in w.box)),
                    number,
                    round(sure, 3),
                )
            )
            weights[number] += len(w.text)
    letters = sum(c.isalnum() for w in words for c in w.text)
    flat = [m.residual for p, m, _ in parts if p.flat]
    alone = "".join(w.text for w in words)
    figure = all(c.isdigit() or c in "+%$€£@#-−–" for c in alone)
    sure = figure and raw.confidence > 0.97
    letters = len(alone) if figure and letters else letters  # "−3%" is three signs that no icon is made of
    unlike = (
        UNLIKE_ICON
        if alone in ICONIC
        else UNLIKE_ONE[parts[0][0].fitted]
        if letters <= 1 and not sure
        else UNLIKE
    )
    if flat and letters <= SHORT and min(flat) > unlike:
        return None
    main = max(weights, key=lambda k: (weights[k], -k))
    style, base = styles[main], bases[main] / scale
    box = Rect(
        words[0].x, base - style.ascent, words[-1].x + words[-1].w - words[0].x, style.ascent + style.descent
    )
    face = entries[main][0].instance.face
    ink = edges(*(v / scale for v in around([w.box for p, _, _ in parts for w in p.words])))
    residual = float(np.average([m.residual for _, m, _ in parts], weights=[p.letters for p, _, _ in parts]))
    return Line(
        tuple(words), box, ink, base, round(face.x_height * style.size, 2), round(face.cap_height * style.size, 2), main,
        to_hex(raw.ground), round(raw.confidence, 3), round(residual, 4),
    )  # fmt: skip


def _in_use(lines: list[Line], styles: list[TypeStyle]) -> tuple[list[Line], list[TypeStyle]]:
    """Leave out styles that no line uses any more, and renumber."""
    used = sorted({w.style for line in lines for w in line.words} | {line.style for line in lines})
    place = {k: n for n, k in enumerate(used)}
    out = [
        replace(
            line, style=place[line.style], words=tuple(replace(w, style=place[w.style]) for w in line.words)
        )
        for line in lines
    ]
    counts: dict[int, int] = defaultdict(int)
    for line in out:
        for k in {w.style for w in line.words}:
            counts[k] += 1
    return out, [replace(styles[k], lines=counts[place[k]]) for k in used]


def row_of(style: TypeStyle) -> int:
    """The catalogue instance that a style is set in."""
    return next(
        i.row for i in catalogue().instances if i.face.file == style.face and i.weight == style.weight
    )
