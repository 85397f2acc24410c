"""Pieces: stretches of one line in one ink, which is what gets a type style."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from itertools import pairwise
from statistics import median
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import oklab
from neige.core.reading.text.on_picture import cover_on_picture
from neige.core.reading.text.raw import RawLine, RawWord
from neige.core.reading.type import fit as f

if TYPE_CHECKING:
    from neige.core.reading.type.kinds import Type
    from neige.core.reading.type.match import Match

OVER = 1.6  # of the way to the purest colour seen: thin ink of a common colour may be purer elsewhere
LUMA = np.array([0.2126, 0.7152, 0.0722])
FULLNESS = 0.22  # a browser draws coverage a of white text as a + FULLNESS a (1 - a), of black as a: measured in Chromium
INKED = 0.3  # cover of a column or row that has ink
PARTING = frozenset("·•")  # signs that stand between the parts of a line,
WIDER = 1.6  # times the space between other words is more than belongs around them;
SPACE = 0.55  # of a line's ink height is, where there is no other space;
DEEP, TALL = (
    frozenset("gjpqy,;()[]{}@$"),
    1.3,
)  # one without letters that go below it is so many times as high with them
MARGIN = 2  # px of ground kept around a piece's ink


@dataclass(eq=False)
class Piece:
    """`cover` (h, w) is measured ink relative to `ground` (0) and `colour` (1), with `origin` (x, y device px) at its top left."""

    line: int
    words: list[RawWord]
    colour: NDArray[np.float64]
    ground: NDArray[np.float64]
    cover: NDArray[np.float32]
    origin: tuple[int, int]
    flat: bool
    ruled: NDArray[np.bool_] | None = None  # (h,) rows of an underline or a strike, which are no letters' ink
    fitted: bool = False  # heights are fitted to whole px where it was drawn
    edges: f.Edges = field(init=False)
    fullness: float = field(init=False)
    letters: int = field(init=False)
    matches: dict[tuple[int, float, float, int], Match] = field(
        init=False
    )  # what was drawn for these words already
    alone: dict[tuple[int, ...], Type] = field(init=False)  # by families: the type it was found to be set in

    def __post_init__(self) -> None:
        self.spell(self.words)
        self.fullness = FULLNESS * float(self.colour @ LUMA) / 255

    def spell(self, words: list[RawWord]) -> None:
        """Take other words (or the same, retyped) for this ink."""
        self.words = words
        self.edges = f.edges_of(words)
        self.letters = sum(len(w.text) for w in words)
        self.matches = {}
        self.alone = {}

    def __getstate__(self) -> dict[str, object]:
        """What another process is given: what was drawn stays here."""
        return self.__dict__ | {"matches": {}, "alone": {}}

    @property
    def width(self) -> float:
        return float(self.edges.right.max() - self.edges.left.min())

    @property
    def stem(self) -> float:
        """Ink per px of ink height and width: grows with weight; to be compared only within a size."""
        height = float(self.edges.bottom.max() - self.edges.top.min())
        return float(self.cover.sum()) / max(height * float((self.edges.right - self.edges.left).sum()), 1.0)

    def part(self, words: list[RawWord], way: float = 1.0) -> Piece:
        """The piece that these of its words make; `way`: how far from the ground their ink is, where this piece's is at 1."""
        x0, x1 = (
            int(min(w.box[0] for w in words)) - MARGIN,
            int(np.ceil(max(w.box[2] for w in words))) + MARGIN,
        )
        a, b = max(0, x0 - self.origin[0]), max(1, x1 - self.origin[0])
        return Piece(
            self.line, words, self.ground + way * (self.colour - self.ground), self.ground, self.cover[:, a:b] / way,
            (self.origin[0] + a, self.origin[1]), self.flat, self.ruled, self.fitted,
        )  # fmt: skip

    def stretch(self, word: RawWord, text: str, left: float, right: float) -> Piece | None:
        """The ink of one of its words between two x (device px) by itself, as a word that says `text`; None: there is none."""
        piece = self.part([replace(word, text=text, box=(left, word.box[1], right, word.box[3]))])
        piece.cover = piece.cover.copy()
        piece.cover[:, : max(0, int(left) - piece.origin[0])] = 0
        piece.cover[:, round(right + 0.5) - piece.origin[0] :] = 0
        rows = np.flatnonzero((piece.cover > INKED).any(axis=1))
        if not rows.size:
            return None
        top, bottom = float(piece.origin[1] + rows[0]), float(piece.origin[1] + rows[-1] + 1)
        piece.spell([replace(piece.words[0], box=(left, top, right, bottom))])
        return piece


def cut_pieces(number: int, line: RawLine, pixels: NDArray[np.uint8]) -> list[Piece]:
    """Cut a line where its ink changes colour, an underline starts or ends, or a box in it does, and where a sign stands between
    its parts with more room around it than a space."""
    runs: list[list[RawWord]] = []
    apart = _between(line)
    for w in line.words:
        last = runs[-1][-1] if runs else None
        alike = last and (w.underline, w.strike, w.inlaid) == (last.underline, last.strike, last.inlaid)
        if alike and _near(w, runs[-1][0]) and not (id(w) in apart or id(last) in apart):
            runs[-1].append(w)
        else:
            runs.append([w])
    out = []
    for words in runs:
        ground = np.array(words[0].inlaid or line.ground)
        x0, x1 = (
            int(min(w.box[0] for w in words)) - MARGIN,
            int(np.ceil(max(w.box[2] for w in words))) + MARGIN,
        )
        y0, y1 = int(line.box[1]) - MARGIN, int(np.ceil(line.box[3])) + MARGIN
        x0, y0 = max(0, x0), max(0, y0)
        crop = pixels[y0:y1, x0:x1].astype(np.float64)
        colour = np.median(np.array([w.colour for w in words]), axis=0)
        way = colour - ground
        if line.pictured:
            cover, _ = cover_on_picture(pixels[y0:y1, x0:x1], colour)
        else:
            cover = np.clip(((crop - ground) @ way) / max(1.0, float(way @ way)), 0, OVER).astype(np.float32)
        ruled = None
        if words[0].underline or words[0].strike:
            ruled = (cover > 0.5).mean(axis=1) > 0.7
            cover[ruled] = 0
        out.append(Piece(number, words, colour, ground, cover, (x0, y0), line.flat, ruled))
    return out


def _between(line: RawLine) -> set[int]:
    """The signs (by id()) that part a line, farther from the words beside them than words are."""
    gaps = [b.box[0] - a.box[2] for a, b in pairwise(line.words)]
    spaces = [
        g for g, (a, b) in zip(gaps, pairwise(line.words)) if a.text not in PARTING and b.text not in PARTING
    ]
    deep = 1.0 if DEEP & set(line.text) else TALL
    room = WIDER * median(spaces) if spaces else SPACE * deep * (line.box[3] - line.box[1])
    return {
        id(w)
        for w, before, after in zip(line.words[1:], gaps, gaps[1:])
        if w.text in PARTING and min(before, after) > room
    }


def _near(a: RawWord, b: RawWord) -> bool:
    """Same ink? Thin and short words never reach their colour, so the tolerance is wide along the way to the ground."""
    d = oklab(np.array(a.colour)) - oklab(np.array(b.colour))
    return bool(abs(d[0]) < 0.16 and np.hypot(d[1], d[2]) < (0.07 if len(a.text) > 2 else 0.1))
