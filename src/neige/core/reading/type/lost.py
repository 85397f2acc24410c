"""Lost characters: a lone digit in a small box, or an arrow beside words, is often taken for an icon. The page's own types, drawn,
find it again."""

from __future__ import annotations

import string
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Line, Rect, Surface, TypeStyle, Word
from neige.core.model.geometry import edges, union
from neige.core.reading.colour import away_from, from_hex, oklab, to_hex
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue, row_of, shape
from neige.core.reading.type.match import SAME_INK, Match, ink_colour, match
from neige.core.reading.type.pieces import Piece, cut_pieces

DIGITS = tuple(string.digits)
UNITS = tuple("$€£%@#&")  # before or after a field
BOXED = (*DIGITS, *UNITS)
TURNS = (*DIGITS, *"«»‹›")  # beside the numbers of pages
PAIRS = ("],", "},", "})", "};", ");", "{}", "[]", "()", "]);", "})")
BRACKETS = (*"{}[]();>+", *PAIRS)  # alone in lines of code
SIGNS = tuple("→←↑↓›‹»«×|")  # beside words
OPERATORS = ("==", "+=", *string.ascii_letters, *string.digits, *string.punctuation)  # between words of code
SPACE = (0.08, 0.7)  # em between a word and a sign beside it
CODE_SPACE = 1.0  # em, the same where each has one width
BOX = (72.0, 56.0)  # px: a larger box with a mark in it is no box of a number
CENTRED = 3.0  # px that a character may be off its box's middle
ROW = 120.0  # px between numbers in a row
WIDE_ROW = 420.0  # px between numbers of one height in a row of cards
COLUMN = 120.0  # px between numbers under one another
ALIKE = 0.15  # of their height by which numbers of one row or column may differ
ICON = 48.0  # px
COUNT_APART = (2.0, 14.0)  # px between an icon and the digit after it
COUNT_HIGH = 20.0  # px that such a digit is high at most
COUNTED = 1.2  # times as wide as high that an icon and a digit are together at least
HIGH = (5.0, 36.0)  # px
TYPES = 24  # of the page that are tried: most of them have other sizes than the ink
OTHER = 0.02  # residual that a type of its own counts more
WIDE = 0.45  # em by which ink may be wider or narrower than its advance
CODED = 3  # lines of code on a surface on which thin ink may be a character
FRAME = 2.0  # px at a surface's edge that are not looked at
LEADING = 2.0  # em from a line of code down to a bracket in the next,
INDENT = 10.0  # which begins so much before it at most
THIN_INK = 80  # 8-bit steps from the ground
NARROW, HIGHEST = 0.6, 1.3  # of the size: a character is no wider, and no higher
SEEN = 0.11  # residual under which a character is what is there,
CLEAR = 2.2  # times better than any other
INK = 0.25  # of the way from the ground to the purest ink


def find_lost(
    cutouts: Sequence[Cutout], surfaces: Sequence[Surface], pixels: NDArray[np.uint8], scale: int,
    lines: Sequence[Line], styles: Sequence[TypeStyle],
) -> tuple[list[Cutout], list[Line], list[TypeStyle]]:  # fmt: skip
    """(the cutouts left, all lines, all styles): icons alone in the middle of a small box, or among code, that a type of the page draws are text."""
    left, found, known = [], list(lines), list(styles)
    thin = _thin_marks(cutouts, surfaces, pixels, scale, lines, styles)
    thin += _thin_turns(cutouts, surfaces, pixels, scale, lines)
    for whole in (*_without_counts(cutouts, pixels, scale, found, known), *thin):
        c = ink_of(whole, pixels, scale)
        fellows = _fellows(c, found)
        boxed = _box(c, surfaces) is not None
        among = TURNS if fellows else BOXED if boxed else DIGITS if _follows_icon(c, cutouts) else ()
        beside = None if among else _beside(c, found, known)
        if beside is not None:
            n = found[beside]
            code = known[n.style].category == "monospace"
            faces = faces_of(known, [n.style], True) if code else [known[n.style]]
            read = _read(c, pixels, scale, known, faces, (*SIGNS, *OPERATORS) if code else SIGNS)
            if read is not None and (code or read[1] is None):
                found[beside] = with_words(n, _in_new(read, known).words)
                continue
        among = among or (BRACKETS if _in_code(c, surfaces, lines, styles) else ())
        faces = faces_of(known, [n.style for n in fellows], among == BRACKETS)
        read = _read(c, pixels, scale, known, faces, among) if among else None
        if read is not None and (read[1] is None or read[0].text not in UNITS):  # icons draw units, too
            found.append(_in_new(read, known))
        elif whole not in thin:
            left.append(whole)
    return left, found, known


def _follows_icon(c: Cutout, cutouts: Sequence[Cutout]) -> bool:
    """Is a mark what an icon right before it counts: of the comments, say?"""
    if c.kind != "icon" or not HIGH[0] <= c.rect.h <= COUNT_HIGH or c.rect.w > c.rect.h:
        return False
    return any(
        o.kind == "icon"
        and not c.rect.inside(o.rect)
        and abs(o.rect.cy - c.rect.cy) <= CENTRED
        and abs(c.rect.x - o.rect.right) <= COUNT_APART[1]
        and o.rect.x < c.rect.x
        and max(o.rect.w, o.rect.h) <= ICON
        for o in cutouts
    )


def _without_counts(
    cutouts: Sequence[Cutout],
    pixels: NDArray[np.uint8],
    scale: int,
    found: list[Line],
    known: list[TypeStyle],
) -> list[Cutout]:
    """The cutouts, without the digits that were cut out with the icon right before them; these are added to the lines."""
    out: list[Cutout] = []
    for whole in cutouts:
        c = ink_of(whole, pixels, scale)
        count = _count(c, pixels, scale) if c.kind == "icon" and c.rect.w <= ICON else None
        read = count and _read(count[1], pixels, scale, known, faces_of(known), DIGITS)
        if count and read:
            found.append(_in_new(read, known))
            out.append(replace(whole, rect=count[0]))
        else:
            out.append(whole)
    return out


def _count(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> tuple[Rect, Cutout] | None:
    """(the icon, what stands beside it) where ink as narrow and high as a digit ends a wide cutout."""
    r = c.rect
    if r.w < COUNTED * r.h or c.backdrop:
        return None
    inked, _, _ = _inked(r, pixels, scale)
    columns = np.flatnonzero(inked.any(axis=0))
    gaps = np.flatnonzero(np.diff(columns) > COUNT_APART[0] * scale)
    if not gaps.size:
        return None
    end, start = int(columns[gaps[-1]]) + 1, int(columns[gaps[-1] + 1])
    rows, own = (np.flatnonzero(inked[:, a:b].any(axis=1)) for a, b in ((start, None), (0, end)))
    at = edges(r.x + start / scale, r.y + rows[0] / scale, r.right, r.y + (rows[-1] + 1) / scale)
    icon = edges(r.x, r.y + own[0] / scale, r.x + end / scale, r.y + (own[-1] + 1) / scale)
    like = at.w <= at.h and HIGH[0] <= at.h <= COUNT_HIGH and abs(at.cy - icon.cy) <= CENTRED
    return (icon, replace(c, rect=at)) if like and start - end <= COUNT_APART[1] * scale else None


def _thin_marks(
    cutouts: Sequence[Cutout], surfaces: Sequence[Surface], pixels: NDArray[np.uint8], scale: int,
    lines: Sequence[Line], styles: Sequence[TypeStyle],
) -> list[Cutout]:  # fmt: skip
    """Ink among code that is too thin for a picture, a bracket in a row of its own, say: what is in no line and no cutout, on a
    surface with lines of code, as narrow as one of its characters."""
    out: list[Cutout] = []
    for s in surfaces:
        code = [n for n in lines if styles[n.style].category == "monospace" and n.box.inside(s.rect, 0.9)]
        if len(code) < CODED or s.fill.stops or s.picture >= 0:
            continue
        inner = s.rect.grow(-FRAME)
        x0, y0 = max(0, round(inner.x * scale)), max(0, round(inner.y * scale))
        part = pixels[y0 : round(inner.bottom * scale), x0 : round(inner.right * scale)]
        away = away_from(part, np.array(from_hex(s.fill.colour), np.int16))
        ink = (away > THIN_INK).astype(np.uint8)
        for r in (
            *(n.ink for n in lines),
            *(c.rect for c in cutouts),
            *(o.rect for o in surfaces if o is not s),
        ):
            if r.meet(s.rect) and r.area < s.rect.area:
                g = r.grow(1)
                ink[
                    max(0, int(g.y * scale) - y0) : max(0, int(np.ceil(g.bottom * scale)) - y0),
                    max(0, int(g.x * scale) - x0) : max(0, int(np.ceil(g.right * scale)) - x0),
                ] = 0
        size = max(styles[n.style].size for n in code)
        _, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
        for x, y, w, h, _ in stats[1:].tolist():
            if w <= NARROW * size * scale and NARROW * size * scale < h <= HIGHEST * size * scale:
                at = Rect((x0 + x) / scale, (y0 + y) / scale, w / scale, h / scale)
                out.append(Cutout(at, "icon", ground=s.fill.colour))
    return out


def _thin_turns(
    cutouts: Sequence[Cutout], surfaces: Sequence[Surface], pixels: NDArray[np.uint8], scale: int, lines: Sequence[Line]
) -> list[Cutout]:  # fmt: skip
    """Ink too thin for a picture in a small box that begins or ends a row of boxes with numbers: the angle that turns to the page
    before or after."""
    small = [s for s in surfaces if s.rect.w <= BOX[0] and s.rect.h <= BOX[1] and not s.fill.stops]
    marks = [*(n.ink for n in lines), *(c.rect for c in cutouts)]
    numbered = [s for s in small if any(n.text.isdigit() and n.ink.inside(s.rect, 0.95) for n in lines)]
    out: list[Cutout] = []
    for s in small:
        row = [o for o in numbered if abs(o.rect.y - s.rect.y) <= 1 and abs(o.rect.h - s.rect.h) <= 1]
        beside = any(min(abs(o.rect.x - s.rect.right), abs(s.rect.x - o.rect.right)) <= BOX[0] for o in row)
        if len(row) < 2 or not beside or any(m.meet(s.rect) for m in marks):
            continue
        inner = s.rect.grow(-max(FRAME, *s.border) - 1)
        x0, y0 = max(0, round(inner.x * scale)), max(0, round(inner.y * scale))
        part = pixels[y0 : round(inner.bottom * scale), x0 : round(inner.right * scale)]
        ink = away_from(part, np.array(from_hex(s.fill.colour), np.int16)) > THIN_INK / 2
        ys, xs = np.nonzero(ink)
        if xs.size:
            box = (x0 + xs.min(), y0 + ys.min(), x0 + xs.max() + 1, y0 + ys.max() + 1)
            out.append(Cutout(edges(*(float(v) / scale for v in box)), "icon", ground=s.fill.colour))
    return out


def _in_new(read: tuple[Line, TypeStyle | None], known: list[TypeStyle]) -> Line:
    """A line of one word that was read, in its style; one that is new is added to those known."""
    line, style = read
    if style is None:
        return line
    known.append(style)
    return replace(line, style=len(known) - 1, words=(replace(line.words[0], style=len(known) - 1),))


def _beside(c: Cutout, lines: Sequence[Line], styles: Sequence[TypeStyle]) -> int | None:
    """The line with a word that a mark stands a space before or after, between its ascenders and descenders."""
    if c.kind != "icon":
        return None
    for i, n in enumerate(lines):
        size = styles[n.style].size
        apart = min(max(w.ink.x - c.rect.right, c.rect.x - w.ink.right) for w in n.words)
        most = CODE_SPACE if styles[n.style].category == "monospace" else SPACE[1]
        if SPACE[0] * size <= apart <= most * size and n.box.y <= c.rect.cy <= n.box.bottom:
            return i if c.rect.h <= 1.1 * size else None
    return None


def with_words(n: Line, more: Sequence[Word]) -> Line:
    """A line with more words, wherever they stand in it."""
    words = tuple(sorted((*n.words, *more), key=lambda w: w.x))
    box = edges(words[0].x, n.box.y, words[-1].x + words[-1].w, n.box.bottom)
    return replace(n, words=words, box=box, ink=union([n.ink, *(w.ink for w in more)]))


def ink_of(c: Cutout, pixels: NDArray[np.uint8], scale: int) -> Cutout:
    """A small icon without the room that was given to it to be as large as its fellows."""
    if c.kind != "icon" or max(c.rect.w, c.rect.h) > ICON:
        return c
    inked, x0, y0 = _inked(c.rect, pixels, scale)
    ys, xs = np.nonzero(inked)
    if not xs.size:
        return c
    box = (x0 + xs.min(), y0 + ys.min(), x0 + xs.max() + 1, y0 + ys.max() + 1)
    return replace(c, rect=edges(*(float(v) / scale for v in box)))


def _inked(r: Rect, pixels: NDArray[np.uint8], scale: int) -> tuple[NDArray[np.bool_], int, int]:
    """(where a mark's ink is (h, w), its left and top, device px): what is away from the colour above and below it."""
    x0, y0 = max(0, int(r.x * scale)), max(0, int(r.y * scale))
    crop = pixels[y0 : int(np.ceil(r.bottom * scale)), x0 : int(np.ceil(r.right * scale))]
    if crop.size == 0:
        return np.zeros((0, 0), bool), x0, y0
    away = away_from(crop, np.median([*crop[0], *crop[-1]], axis=0))
    return away > max(INK * away.max(), 1.0), x0, y0


def _box(c: Cutout, surfaces: Sequence[Surface]) -> Rect | None:
    """The small box in whose middle a mark stands."""
    if c.kind != "icon" or not HIGH[0] <= c.rect.h <= HIGH[1]:
        return None
    around = [
        s.rect
        for s in surfaces
        if c.rect.inside(s.rect, 0.95)
        and s.rect.w <= BOX[0]
        and s.rect.h <= BOX[1]
        and s.rect.w > c.rect.w + 4
    ]
    near = [r for r in around if abs(r.cx - c.rect.cx) <= CENTRED and abs(r.cy - c.rect.cy) <= CENTRED]
    return min(near, key=lambda r: r.area) if near else None


def _fellows(c: Cutout, lines: Sequence[Line]) -> list[Line]:
    """The numbers in one row with a mark, or in one column with it and as high."""

    def fellow(n: Line) -> bool:
        a, b = n.ink, c.rect
        apart, off = max(a.x - b.right, b.x - a.right), abs(a.cy - b.cy)
        edge = min(abs(a.x - b.x), abs(a.right - b.right), abs(a.cx - b.cx))
        stacked = edge <= CENTRED and max(a.y - b.bottom, b.y - a.bottom) <= COLUMN
        high = abs(a.h - b.h) <= max(ALIKE * a.h, 2.0)
        beside = (apart <= ROW and off <= CENTRED) or (apart <= WIDE_ROW and off <= 1 and high)
        return n.text.isdigit() and (beside or (stacked and high))

    return [n for n in lines if fellow(n)] if c.kind == "icon" else []


def _in_code(
    c: Cutout, surfaces: Sequence[Surface], lines: Sequence[Line], styles: Sequence[TypeStyle]
) -> bool:
    """Does a mark lie on a surface with lines of code, as high as they are, or right under one that begins no farther to the left?"""
    if c.kind != "icon" or not HIGH[0] <= c.rect.h <= HIGH[1]:
        return False
    hosts = [s.rect for s in surfaces if c.rect.inside(s.rect, 0.95)]
    host = min(hosts, key=lambda r: r.area, default=None)
    code = [n for n in lines if styles[n.style].category == "monospace" and host and n.box.inside(host, 0.9)]
    for n in lines if len(code) < 2 else ():
        size = styles[n.style].size
        under = 0 < c.rect.cy - n.box.cy <= LEADING * size and -INDENT * size <= c.rect.x - n.box.x <= size
        if styles[n.style].category == "monospace" and under:
            return c.rect.h <= HIGHEST * size
    return len(code) >= 2 and c.rect.h <= 1.3 * max(styles[n.style].size for n in code)


def _read(
    c: Cutout,
    pixels: NDArray[np.uint8],
    scale: int,
    styles: Sequence[TypeStyle],
    faces: Sequence[TypeStyle],
    among: tuple[str, ...],
) -> tuple[Line, TypeStyle | None] | None:
    r = c.rect.grow(1)
    x0, y0 = max(0, int(r.x * scale)), max(0, int(r.y * scale))
    crop = pixels[y0 : int(np.ceil(r.bottom * scale)), x0 : int(np.ceil(r.right * scale))].astype(np.float64)
    if crop.size == 0:
        return None
    rim = np.concatenate([crop[0], crop[-1], crop[:, 0], crop[:, -1]])
    ground = np.median(rim, axis=0)
    away = away_from(crop, ground)
    if away.max() < 40:
        return None
    pure = np.median(crop[away >= 0.9 * away.max()], axis=0)
    ys, xs = np.nonzero(away > INK * away.max())
    word = RawWord(
        "0", (x0 + float(xs.min()), y0 + float(ys.min()), x0 + float(xs.max()) + 1, y0 + float(ys.max()) + 1),
        (float(pure[0]), float(pure[1]), float(pure[2])), 1.0,
    )  # fmt: skip
    line = RawLine((word,), word.box, (float(ground[0]), float(ground[1]), float(ground[2])), True, 1.0)
    piece = cut_pieces(0, line, pixels)[0]
    tried = sorted(
        ((t, text) for text in among for t in fitting(piece, [replace(word, text=text)], scale, faces)),
        key=lambda t: (t[0].residual, t[0].order, t[1]),
    )
    if not tried or tried[0][0].residual > SEEN:
        return None
    best, text = tried[0]
    if any(other != text and t.residual < CLEAR * best.residual + 0.01 for t, other in tried):
        return None
    return as_line(piece, [replace(word, text=text)], best, styles, scale)


@dataclass(frozen=True)
class Fitting:
    """How well a type draws words: `residual`, with what was added for a type that the page has nowhere else; `order` of the type."""

    residual: float
    order: int
    match: Match
    style: TypeStyle


def fitting(piece: Piece, words: Sequence[RawWord], scale: int, faces: Sequence[TypeStyle]) -> list[Fitting]:
    """The types that draw words as high and as wide as their ink, the best first."""
    text = " ".join(w.text for w in words)
    box = around([w.box for w in words])
    width, height = (box[2] - box[0]) / scale, (box[3] - box[1]) / scale
    tried: list[Fitting] = []
    for order, s in enumerate(faces):
        row = row_of(s)
        piece.fitted = s.fitted
        top, bottom = f.ink_rows(row, text)
        if s.size and abs((top - bottom) * s.size - height) > 1.3:
            continue
        of = s if s.size else _sized(s, height / (top - bottom))
        if abs(shape(row, text).advance * of.size - width) > WIDE * of.size:
            continue
        piece.spell(list(words))
        found = match(piece, row, of.size * scale, 0.0, scale)
        odd = 0.0 if s.size else OTHER  # a size or weight that the page has nowhere else
        tried.append(Fitting(found.residual + odd, order, found, of))
    return sorted(tried, key=lambda t: (t.residual, t.order))


def faces_of(styles: Sequence[TypeStyle], first: Sequence[int] = (), code: bool = False) -> list[TypeStyle]:
    """The types that are tried: those of what is beside it (`first`), the page's own, the commonest first, then its commonest
    family's at the size (0) that the ink says. `code`: those of one width only."""
    seen: dict[tuple[str, float, int], TypeStyle] = {}
    for n in sorted(range(len(styles)), key=lambda n: (n not in first, -styles[n].lines, n)):
        s = styles[n]
        if not s.substitute and (not code or s.category == "monospace"):
            seen.setdefault((s.face, s.size, s.weight), s)
    own = list(seen.values())[:TYPES]
    kin = [
        replace(own[0], face=i.face.file, weight=i.weight, size=0.0)
        for i in catalogue().instances
        if own and i.face.family == own[0].family and not i.face.italic and i.weight in (400, 600, 700)
    ]
    return own + kin


def _sized(s: TypeStyle, size: float) -> TypeStyle:
    face = catalogue().instances[row_of(s)].face
    size = round(2 * size) / 2
    return replace(
        s, size=size, ascent=float(round(face.ascent * size)), descent=float(round(face.descent * size))
    )


def as_line(
    piece: Piece, words: Sequence[RawWord], fit: Fitting, styles: Sequence[TypeStyle], scale: int
) -> tuple[Line, TypeStyle | None]:
    """(the words as a line in the type that draws them, that type in their ink if the page has it nowhere else)."""
    s, m = fit.style, fit.match
    piece.spell(list(words))
    colour = ink_colour(piece, m)
    lab = oklab(colour)

    def same(t: TypeStyle) -> bool:
        ink = np.array([int(t.colour[i : i + 2], 16) for i in (1, 3, 5)], float)
        alike = (t.face, t.size, t.weight, t.underline, t.strike) == (s.face, s.size, s.weight, False, False)
        return alike and float(np.linalg.norm(oklab(ink) - lab)) < 2 * SAME_INK

    known = next((k for k, t in enumerate(styles) if same(t)), -1)
    new = None if known >= 0 else replace(s, colour=to_hex(colour), lines=1, underline=False, strike=False)
    row = row_of(s)
    face = catalogue().instances[row].face
    base, at = m.baseline / scale, max(known, 0)
    set_ = tuple(
        Word(
            w.text,
            float(pen) / scale,
            shape(row, w.text).advance * s.size,
            edges(*(v / scale for v in w.box)),
            at,
            0.9,
        )
        for w, pen in zip(words, m.pens)
    )
    box = edges(set_[0].x, base - s.ascent, set_[-1].x + set_[-1].w, base + s.descent)
    return Line(
        set_, box, union(w.ink for w in set_), base, round(face.x_height * s.size, 2), round(face.cap_height * s.size, 2), at,
        to_hex(piece.ground), 0.9, round(fit.residual, 4),
    ), new  # fmt: skip
