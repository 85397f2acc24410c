"""From raw lines to lines with styles: pieces get their type, types are parted by ink, and lines are put together again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Line, Pin, Rect, TypeStyle, Word
from neige.core.model.geometry import edges, union
from neige.core.reading.colour import oklab, to_hex
from neige.core.reading.text.detect import Box
from neige.core.reading.text.raw import RawLine, around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import row_of, shape
from neige.core.reading.type.company import as_above, as_elsewhere, part_stops, steady, whole, without_marks
from neige.core.reading.type.decide import find_types
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.match import SAME_INK, WELL_DRAWN, Match, ink_colour, match
from neige.core.reading.type.naming import main_style
from neige.core.reading.type.pieces import Piece, cut_pieces
from neige.core.reading.type.underline import find_underlines, with_broken_underlines, without_feet

SHORT = 3  # letters: no more can be an icon misread
ICONIC = set("QOoXxVvCcUu")  # letters that icons are read as: a glass, a ring, a cross, chevrons
UNLIKE_ICON = 0.12  # residual from which one of these, alone, is an icon
UNLIKE_ONE = (
    0.3,
    0.06,
)  # residual from which a single letter is an icon: drawn as it is, or fitted like the picture
UNLIKE = 0.56  # and a short line
UNREAD, UNDRAWN = (
    0.9,
    0.45,
)  # confidence and residual of a lone word that is as likely a logo or a row of faces
SUBSTITUTE = 0.9  # correlation under which a style's face is only the closest there is
OTHER_INK = 0.16  # in OKLab: so far apart two inks are two, however few letters tell
TELLING = 4  # letters of a word that is not paler for being small,
DOUBTED = 0.11  # in OKLab: words that look farther from one of these are drawn one by one,
FAIRLY_DRAWN = 0.15  # residual of its drawing up to which that tells its ink,
OTHERWISE, STEPS = 0.1, 30  # and in OKLab and 8-bit steps: has an ink of its own
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
    lines, styles = _styled(find_types(pieces, pixels, pins, scale), raw, scale)
    styles = find_underlines(lines, styles, pixels, scale)
    lines, styles = _in_use(*without_feet(lines, styles, pixels, scale))
    return with_broken_underlines(lines, styles, pixels, scale), styles


def _styled(types: list[Type], raw: list[RawLine], scale: int) -> tuple[list[Line], list[TypeStyle]]:
    """Part types by colour and decoration into styles, and put the lines together again."""
    entries: list[tuple[Type, list[tuple[Piece, Match]], NDArray[np.float64]]] = []
    for kind in types:
        buckets: list[
            tuple[NDArray[np.float64], tuple[bool, bool], list[tuple[Piece, Match, NDArray[np.float64]]]]
        ] = []
        members = [part for p in kind.members for part in _by_ink(p, kind, scale)]
        for p in sorted(members, key=lambda p: (-p.letters, p.line, p.origin)):
            found = match(p, kind.row, kind.size, kind.tracking, scale) if p.flat else _unmatched(p, kind)
            colour = ink_colour(p, found)
            lab = _seen(colour)
            loose = SAME_INK * (1 + 12 / max(p.letters, 4)) * (1 if found.residual < 0.2 else 2)
            loose = min(loose, OTHER_INK)
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
            lines.append(_with_bullet(made, line.bullet, line.mark, styles, scale) if line.bullet else made)
    steadied = [steady(part_stops(n, styles), styles) for n in lines]
    clean = [without_marks(whole(n, styles), styles) for n in steadied]
    return _in_use(as_elsewhere(as_above(clean, styles), styles), styles)


def _by_ink(p: Piece, kind: Type, scale: int) -> list[Piece]:
    """A piece, parted where a word's ink is another than its neighbours'.

    How pure a small word's px get says little of its ink: the words that look otherwise are drawn one by one, and what the
    drawings cover tells each word's own.
    """
    if not p.flat or len(p.words) < 2:
        return [p]
    looks = np.array([oklab(np.array(w.colour)) for w in p.words])
    told = [n for n, w in enumerate(p.words) if len(w.text) >= TELLING]
    if not told or max(float(np.linalg.norm(looks - looks[n], axis=1).max()) for n in told) <= DOUBTED:
        return [p]
    ways: list[float] = [0.0] * len(p.words)  # from the ground to a word's ink; 0: it does not tell
    for n in (n for n, w in enumerate(p.words) if len(w.text) > 1):
        drawn = match(p.part([p.words[n]]), kind.row, kind.size, kind.tracking, scale)
        well = FAIRLY_DRAWN if len(p.words[n].text) >= TELLING else WELL_DRAWN
        ways[n] = drawn.slope if drawn.residual < well else 0.0
    groups: list[list[int]] = []
    for n in (n for n, way in enumerate(ways) if way):
        if groups and _same_ink(p, ways[n], ways[groups[-1][0]]):
            groups[-1].append(n)
        else:
            groups.append([n])
    if len(groups) <= 1:
        return [p]
    inks = [float(np.median([ways[n] for n in g])) for g in groups]
    of = {n: k for k, g in enumerate(groups) for n in range(g[0], g[-1] + 1)}
    for n in range(len(p.words)):  # what does not tell goes with the words before it
        of.setdefault(n, max((of[k] for k in range(n) if k in of), default=0))
    return [p.part([w for n, w in enumerate(p.words) if of[n] == k], ink) for k, ink in enumerate(inks)]


def _same_ink(p: Piece, a: float, b: float) -> bool:
    one, other = (np.clip(p.ground + way * (p.colour - p.ground), 0, 255) for way in (a, b))
    steps = float(np.abs(one - other).max())
    return steps < STEPS or float(np.linalg.norm(oklab(one) - oklab(other))) < OTHERWISE


def _with_bullet(line: Line, box: Box, mark: str, styles: list[TypeStyle], scale: int) -> Line:
    """A line with the bullet before it, in the line's own type: a dot or square tells nothing of that."""
    style = styles[line.style]
    ink = edges(*(v / scale for v in box))
    advance = shape(row_of(style), "•", False).advance * style.size  # most faces have no other mark
    word = Word(mark, ink.cx - advance / 2, advance, ink, line.style, line.confidence)
    whole = edges(word.x, line.box.y, line.box.right, line.box.bottom)
    return replace(line, words=(word, *line.words), box=whole, ink=union([ink, line.ink]))


def _seen(colour: NDArray[np.float64]) -> NDArray[np.float64]:
    """An ink in OKLab, blacks that no screen tells apart taken for one."""
    return oklab(np.maximum(colour, BLACK))


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
    if flat and len(words) == 1 and raw.confidence < UNREAD and min(flat) > UNDRAWN:
        return None
    main = main_style(weights, styles)
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
