"""Words set in several types: in a signature of code the module's name, the function's in bold, larger brackets, arguments in italics.

A word that its line's type does not draw is read from the left: as much of it as one of the page's types of code draws, then the
next; a name or a sign that none of them draws may be in another weight, slant or size of the same family.
"""

from __future__ import annotations

import re

import numpy as np

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue
from neige.core.reading.type.kinds import Type, written_sizes
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import INKED, Piece
from neige.core.reading.type.settle import ink_width

TOKENS = re.compile(r"\w+|\W")
MIXED = 0.12  # residual from which a word may be in several types,
DRAWN = 0.06  # and up to which a stretch of it is drawn by one
CUT = 0.25  # letters' worth of ink that each stretch costs
USUAL = 0.2  # residual of lines up to which their type may be a word's
WEIGHTS = (400, 700)
ALIKE = 0.03  # residual of one letter up to which two types draw it alike
ROOM = 0.1  # em that a stretch may be wider than what is left of its word
SMALL = 0.7  # of a word's height: the size that a stretch is first taken to have, or else that height
TALL = 0.1  # of a size by which what its ink's height says may be off
PATIENCE = 20  # words looked into in vain, one after the other, after which a page has no more
LONGEST = 60  # characters of a word that is looked into,
SIGNS = 24  # and names and signs in it


def part_mixed(types: list[Type], scale: int) -> None:
    """Cut words of code where their type changes; the types found there join `types`. Sizes in device px."""
    codes = [t for t in types if t.instance.face.category == "monospace"]
    used = sorted({t.instance.face.family for t in codes if t.usual <= USUAL})
    if not used:
        return
    failed = 0
    for kind in [*codes, *(t for t in types if t.usual > USUAL and t not in codes)]:
        for p in [p for p in kind.members if p.flat]:
            misfits = match(p, kind.row, kind.size, kind.tracking, scale).words
            parted: dict[int, list[tuple[Piece, Type]]] = {}
            for n in np.flatnonzero(misfits > MIXED).tolist():
                word = p.words[n]
                if 2 <= len(word.text) <= LONGEST and not word.pinned and failed < PATIENCE:
                    parted[n] = _stretches(p, word, types, used, scale)
                    failed = 0 if parted[n] else failed + 1
            if not any(parted.values()):
                continue
            kind.members.remove(p)
            kept: list[RawWord] = []
            for n, word in enumerate(p.words):
                if not parted.get(n):
                    kept.append(word)
                if kept and (parted.get(n) or n == len(p.words) - 1):
                    kind.members.append(p.part(kept))
                    kept = []
                for piece, home in parted.get(n, []):
                    if home not in types:
                        types.append(home)
                    home.members.append(piece)
    types[:] = [t for t in types if t.members]


def _stretches(
    p: Piece, word: RawWord, types: list[Type], families: list[str], scale: int
) -> list[tuple[Piece, Type]]:
    """A word's stretches, each with the type that draws it; none if something in it is drawn by nothing, or one type draws it all.

    Of all ways to cut it at its signs the one is taken that leaves least ink unexplained, each cut counted as a share of a letter.
    """
    tokens = TOKENS.findall(word.text)
    if not 2 <= len(tokens) <= SIGNS:
        return []
    known = _codes(types)
    ways: dict[tuple[int, int], tuple[float, list[tuple[Piece, Type]]] | None] = {}

    def best_from(start: int, left: float) -> tuple[float, list[tuple[Piece, Type]]] | None:
        if start == len(tokens):
            return 0.0, []
        if (start, round(left)) in ways:
            return ways[start, round(left)]
        best: tuple[float, list[tuple[Piece, Type]]] | None = None
        tried = [
            (end, _drawn(p, word, "".join(tokens[start:end]), left, known, scale))
            for end in range(start + 1, len(tokens) + 1)
        ]
        if not any(found for _, found in tried):
            tried = []
            for end in range(start + 1, len(tokens) + 1):
                text = "".join(tokens[start:end])
                tried.append(
                    (end, _drawn(p, word, text, left, _kin(p, word, text, left, families, scale), scale))
                )
        for end, found in tried:
            if found is None:
                continue
            residual, piece, kind = found
            rest = best_from(end, _next_ink(p, piece.words[0].box[2], word.box[2]))
            if rest is None:
                continue
            cost = CUT + residual * piece.letters + rest[0]
            if best is None or cost < best[0] - 1e-9:
                best = cost, [(piece, kind), *rest[1]]
        if best and best[1][0][1] not in known:
            known.append(best[1][0][1])
        ways[start, round(left)] = best
        return best

    found = best_from(0, word.box[0])
    parts = found[1] if found else []
    if len({id(t) for _, t in parts}) < 2:
        return []
    out = parts[:1]
    for piece, kind in parts[1:]:
        last, before = out[-1]
        (first,), (second,) = last.words, piece.words
        one = (
            p.stretch(word, first.text + second.text, first.box[0], second.box[2]) if kind is before else None
        )
        if one:
            out[-1] = one, kind
        else:
            out.append((piece, kind))
    return out


def _codes(types: list[Type]) -> list[Type]:
    """The types of a page's code, each once."""
    out: dict[tuple[int, float, float], Type] = {}
    for t in types:
        if t.instance.face.category == "monospace" and t.usual <= USUAL:
            out.setdefault((t.row, t.size, t.tracking), t)
    return list(out.values())


def _drawn(
    p: Piece, word: RawWord, text: str, left: float, types: list[Type], scale: int
) -> tuple[float, Piece, Type] | None:
    """Of types that draw the ink from x `left` (device px) as `text`: what the best leaves unexplained, the piece, and the type.

    Where a few letters do not tell two apart, it is the one with more letters on the page."""
    found: list[tuple[float, Piece, Type]] = []
    for t in types:
        right = left + ink_width(text, t.row, t.size, t.tracking)
        if right > word.box[2] + ROOM * t.size:
            continue
        piece = p.stretch(word, text, left, min(right, word.box[2]))
        if piece is None:
            continue
        residual = match(piece, t.row, t.size, t.tracking, scale).residual
        if residual <= DRAWN:
            found.append((residual, piece, t))
    least = min((residual for residual, _, _ in found), default=0.0) + ALIKE / len(text)
    return max((x for x in found if x[0] <= least), key=lambda x: (x[2].letters, -x[0]), default=None)


def _kin(p: Piece, word: RawWord, text: str, left: float, families: list[str], scale: int) -> list[Type]:
    """Types in which a name or sign might be set: families of the page's code in every weight and slant, at sizes in which it
    would be as tall as its ink."""
    out = []
    tall = word.box[3] - word.box[1]
    for i in catalogue().instances:
        if i.face.family not in families or i.weight not in WEIGHTS:
            continue
        top, bottom = f.ink_rows(i.row, text)
        sizes: set[float] = set()
        for size in (SMALL * tall, tall):
            for _ in range(3):  # how wide it is tells which ink it is, and that how tall
                right = min(left + ink_width(text, i.row, size, 0.0), word.box[2])
                piece = p.stretch(word, text, left, right)
                if piece is None:
                    break
                size = (piece.words[0].box[3] - piece.words[0].box[1]) / max(top - bottom, 0.1)
            if piece is not None and 0.5 * tall <= size <= 2 * tall:
                near = written_sizes(size / scale, 1.0)
                sizes |= {s for s in near if abs(s * scale / size - 1) <= TALL}
        out += [Type(i.row, s * scale, 0.0, DRAWN) for s in sorted(sizes)]
    return out


def _next_ink(p: Piece, x: float, end: float) -> float:
    """The x (device px) at which a piece's ink goes on after `x`, or `end`. What the last letter inks of a column tells nothing."""
    first = max(0, int(np.ceil(x)) - p.origin[0])
    inked = p.cover[:, first:].max(axis=0, initial=0.0)
    columns = np.flatnonzero(inked > INKED)
    if not columns.size:
        return end
    return float(p.origin[0] + first + columns[0] + 1 - min(1.0, inked[columns[0]]))
