"""Pieces that their own type hardly draws: where what lies beside a line was measured as its ink (a button's border, say), its height
tells a wrong size, and no type of that size is right. The page's own types, in their other weights, are tried as they are."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type.catalogue import catalogue, shape
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import Piece

BADLY, WELL = 0.4, 0.12  # residual of a type that draws nothing, and of one that does
KNOWN, WORDY = 0.08, 24  # residual and letters of a type that is the page's own
LETTERS = 4  # that tell a type
WEIGHTS = (400.0, 700.0)
NEAR = (0.03, 0.4)  # of a piece's width, and em, by which a type may set it wider or narrower


def take_kin(types: list[Type], scale: int) -> None:
    """Give what no type draws to the page's own types, or to their bold or italic, in place."""
    known = [t for t in types if t.usual <= KNOWN and t.letters >= WORDY]
    for kind in [t for t in types if t.usual > BADLY]:
        for p in [p for p in kind.members if p.flat and p.letters >= LETTERS]:
            if any(w.pinned for w in p.words):
                continue
            as_read = p.words
            residual, row, size, words = min(
                (found for words in _spellings(as_read) for found in _tried(p, words, known, scale)),
                key=lambda found: found[:3],
                default=(1.0, -1, 0.0, as_read),
            )
            p.spell(words if residual <= WELL else as_read)
            if residual > WELL:
                continue
            kind.members.remove(p)
            same = next((t for t in types if (t.row, t.size, t.tracking) == (row, size, 0.0)), None)
            if same is None:
                same = Type(row, size, 0.0, residual)
                types.append(same)
            same.members.append(p)
    types[:] = [t for t in types if t.members]


def _spellings(words: list[RawWord]) -> list[list[RawWord]]:
    """Words as they were read, and with hyphens for the dashes that a wrong type took for them."""
    plain = [replace(w, text=w.text.replace("–", "-")) for w in words]
    return [words] if plain == words else [words, plain]


def _tried(
    p: Piece, words: list[RawWord], known: list[Type], scale: int
) -> Iterator[tuple[float, int, float, list[RawWord]]]:
    """(residual, face, size, words) of a piece that says these words in each of its kin."""
    p.spell(words)
    for row, size in _kin(p, known):
        yield match(p, row, size, 0.0, scale).residual, row, size, words


def _kin(p: Piece, known: list[Type]) -> Iterator[tuple[int, float]]:
    """The faces (rows of the catalogue) and sizes of the page's own families that would set a piece about as wide as it is."""
    text = " ".join(p.edges.texts)
    sizes = dict.fromkeys((t.instance.face.family, t.size) for t in known)
    for family, size in sizes:
        for row, of in enumerate(catalogue().instances):
            if of.face.family == family and of.weight in WEIGHTS:
                off = abs(shape(row, text).advance * size - p.width)
                if off <= max(NEAR[0] * p.width, NEAR[1] * size):
                    yield row, size
