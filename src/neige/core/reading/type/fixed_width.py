"""Code is read again cell by cell: where every character has one width and the face is known, each place on the line has one
character, and the face draws all that it can be.

A recogniser of words is no reader of code: it loses a quote or a prompt, takes O for 0, and parts a name at its stop. What the
type draws well stays as it was read; a cell that is drawn badly, or has ink and no character, is compared with all of them.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import away_from, oklab
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import coverage, draw_onto, shape
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import Piece, cut_pieces

NAME = re.compile(r"\w+")
CHARACTERS = "".join(map(chr, range(33, 127))) + "“”‘’–—…·→×"
ACCENT, DESCENT = 0.84, 0.26  # em above and below the baseline that are looked at
KNOWN = 0.15  # residual of a type from which its drawing tells no characters
MOSTLY = 0.5  # of a line's letters that are code: then all of it is
OFF_GRID = 0.12  # of an advance that words may be off their cells
BLANK = 0.22  # of a line's ink: a cell that has less is a space
GAP = 2  # spaces in a row beyond which what stands beside a line is not looked for
FINE = 0.06  # residual of a cell's character that is not doubted,
FAIR = 0.2  # and of one that stays if nothing else draws it
DRAWN = 0.1  # residual of another that replaces it,
BETTER = 0.6  # and of the one's residual that it leaves at most
ALONE, CLEAR = 0.08, 1.5  # residual of one where none was read; times that of the next best
FULL = 0.9  # of the rows looked at that a border beside a line inks, which ends it
SAME_INK = 0.1  # in OKLab: colours of cells that make one word
TELLS = 1.0  # px of ink that tell its colour
SAME_PHASE = 0.4  # px at 1x: places where a cell may begin that need not both be tried
LEVEL = 1  # px between the baselines of pieces of one line
LITTLE = 0.1  # of the ink that a line's cells usually have: what is left of less is no other character
SURE = 0.95  # confidence of what was read so

Drawings = dict[tuple[int, int, int, int, float, bool], tuple[NDArray[np.float32], NDArray[np.float32]]]


@dataclass
class _Cells:
    """A stretch of a line: `cover` (h, w) of its ink from device row `top` and column `left`, and its cells: the pen of each,
    its character as read ("" for none) and the piece and word (-1 for none) that it is part of."""

    kind: Type
    pieces: list[Piece]
    baseline: int
    pens: NDArray[np.float64]
    read: list[str]
    owner: list[tuple[int, int]]
    cover: NDArray[np.float32]
    pixels: NDArray[np.float64]
    top: int
    left: int
    drawings: Drawings

    def window(self, k: int) -> tuple[int, int]:
        """The columns of a cell in `cover`."""
        a, b = self.pens[k], self.pens[k] + self.advance
        return max(0, round(a) - self.left), min(self.cover.shape[1], max(round(a) + 1, round(b)) - self.left)

    @property
    def advance(self) -> float:
        return advance_of(self.kind)

    @cached_property
    def blank(self) -> list[bool]:
        """The cells without ink. One where the line under a link hides the "_" that was read is none."""
        hidden = any(p.ruled is not None and p.ruled.any() for p in self.pieces)
        return [
            float(self.cover[:, slice(*self.window(k))].max(initial=0.0)) < BLANK
            and not (hidden and self.read[k] == "_")
            for k in range(len(self.pens))
        ]

    def unexplained(self) -> float:
        """What the best character of each cell leaves of its ink, on average."""
        return float(
            np.mean([self.unlike(k).min() for k, blank in enumerate(self.blank) if not blank] or [1.0])
        )

    def unlike(self, k: int) -> NDArray[np.float32]:
        """The share of a cell's ink that each of CHARACTERS leaves unexplained."""
        a, b = self.window(k)
        ink = self.cover[:, a:b].ravel()
        explained = self._drawings(self.pens[k], b - a)[0] @ ink
        return np.asarray(1 - explained * explained / max(float(ink @ ink), 1e-6), np.float32)

    def energy(self, k: int) -> float:
        """How much ink a cell has: the sum of its squares."""
        ink = self.cover[:, slice(*self.window(k))].ravel()
        return float(ink @ ink)

    @cached_property
    def usual_energy(self) -> float:
        """How much ink the cells that have some have."""
        return float(np.median([self.energy(k) for k, blank in enumerate(self.blank) if not blank] or [0.0]))

    def ink_of(self, k: int, character: str) -> tuple[NDArray[np.float64], float]:
        """The colour (3,) 0..255 in which a character of CHARACTERS is drawn in a cell, and how much ink says so."""
        a, b = self.window(k)
        drawn, length = self._drawings(self.pens[k], b - a)
        at = CHARACTERS.index(character)
        way = (
            drawn[at].astype(np.float64)
            @ (self.pixels[:, a:b] - self.ground).reshape(-1, 3)
            / float(length[at])
        )
        return np.clip(self.ground + way, 0, 255), float(length[at])

    @property
    def ground(self) -> NDArray[np.float64]:
        return self.pieces[0].ground

    def _drawings(self, pen: float, wide: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """All characters (n, rows times columns) drawn in a cell, each made 1 long, and how long they were."""
        p, base, rows = self.pieces[0], self.baseline - self.top, self.cover.shape[0]
        fullness = round(p.fullness, 2)
        key = (round((pen - round(pen)) * 4), wide, rows, base, fullness, p.fitted)
        known = self.drawings.get(key)
        if known is None:
            blank = np.zeros((len(CHARACTERS), rows, wide), np.uint8)
            for canvas, character in zip(blank, CHARACTERS):
                draw_onto(
                    canvas, self.kind.row, character, self.kind.size, 0.0, pen - round(pen), base, p.fitted
                )
            drawn = coverage(blank).reshape(len(CHARACTERS), -1)
            drawn += np.float32(fullness) * drawn * (1 - drawn)
            length = np.maximum(np.linalg.norm(drawn, axis=1), 1e-3)
            known = self.drawings[key] = drawn / length[:, None], length
        return known


def advance_of(kind: Type) -> float:
    """The width of a cell, device px."""
    return shape(kind.row, "0").advance * kind.size + kind.tracking


def read_cells(types: list[Type], pixels: NDArray[np.uint8], scale: int) -> None:
    """Read the lines of code among the pieces of types again. `pixels`: device px (h, w, 3)."""
    boxes = np.array([w.box for t in types for p in t.members for w in p.words]).reshape(-1, 4)
    of_line: dict[int, list[tuple[Piece, Type]]] = defaultdict(list)
    for t in types:
        for p in t.members:
            of_line[p.line].append((p, t))
    for kind in list(types):
        if kind.instance.face.category != "monospace" or kind.usual > KNOWN:
            continue
        drawings: Drawings = {}
        for number in sorted({p.line for p in kind.members}):
            whole = of_line[number]
            own = [p for p, t in whole if t is kind]
            if not own:
                continue
            if sum(p.letters for p in own) >= MOSTLY * sum(p.letters for p, _ in whole):
                own += [p for p, t in whole if t is not kind and _is_misplaced(p, t, scale)]
            own.sort(key=lambda p: p.words[0].box[0])
            for run in _runs(own, boxes):
                cells = _cells_of(kind, run, boxes, pixels, scale, drawings)
                new = _read_again(cells, pixels) if cells is not None else None
                if new is None:
                    continue
                for t in types:
                    t.members = [p for p in t.members if p not in run]
                kind.members += new
                whole[:] = [(p, t) for p, t in whole if p not in run] + [(p, kind) for p in new]
    types[:] = [t for t in types if t.members]


def _is_misplaced(p: Piece, t: Type, scale: int) -> bool:
    """Is a piece of a line that is code in a type that hardly draws it?"""
    drawn = t.instance.face.category != "monospace" and p.flat and not any(w.pinned for w in p.words)
    return drawn and match(p, t.row, t.size, t.tracking, scale).residual > FAIR


def _runs(pieces: list[Piece], boxes: NDArray[np.float64]) -> list[list[Piece]]:
    """Pieces of one line between which no other words stand."""
    runs = [[pieces[0]]]
    for a, b in pairwise(pieces):
        left, right = a.words[-1].box[2], b.words[0].box[0]
        top, bottom = b.words[0].box[1], b.words[0].box[3]
        middle = (boxes[:, 0] + boxes[:, 2]) / 2
        between = (middle > left) & (middle < right) & (boxes[:, 1] < bottom) & (boxes[:, 3] > top)
        if between.any():
            runs.append([b])
        else:
            runs[-1].append(b)
    return runs


def _cells_of(
    kind: Type, pieces: list[Piece], boxes: NDArray[np.float64], pixels: NDArray[np.uint8], scale: int, drawings: Drawings
) -> _Cells | None:  # fmt: skip
    """The cells of a stretch of a line and of the ink beside it; None if its words do not stand in cells."""
    words = [w for p in pieces for w in p.words]
    if any(w.pinned for w in words) or not all(p.flat for p in pieces):
        return None
    found = [match(p, kind.row, kind.size, kind.tracking, scale) for p in pieces]
    bases = [m.baseline for m in found]
    if max(bases) - min(bases) > LEVEL:
        return None
    pens = np.concatenate([m.pens for m in found])
    advance, baseline = advance_of(kind), int(np.median(bases))
    off = (pens - pens[0] + advance / 2) % advance - advance / 2
    origin = float(pens[0] + np.median(off))
    if float(np.abs(pens[0] + off - origin).max()) <= OFF_GRID * advance and all(
        (m.words <= FAIR).all() for m in found
    ):
        return _laid(kind, pieces, origin, baseline, boxes, pixels, drawings)
    # a word that was read too long or too short stands beside its place; its first or its last letter does not
    ends = [
        (w.box[0] - f.extent(kind.row, w.text[0], 1) * kind.size, w.box[2] - f.extent(kind.row, w.text[-1], 2) * kind.size)
        for w in words
    ]  # fmt: skip
    phases: list[float] = []
    for place in (origin, *(x for pair in ends for x in pair)):
        phase = origin + (place - origin + advance / 2) % advance - advance / 2
        if all(abs(phase - x) > SAME_PHASE * scale for x in phases):
            phases.append(phase)
    laid = [_laid(kind, pieces, x, baseline, boxes, pixels, drawings) for x in phases]
    return min((c for c in laid if c is not None), key=lambda c: c.unexplained(), default=None)


def _laid(
    kind: Type, pieces: list[Piece], origin: float, baseline: int, boxes: NDArray[np.float64],
    pixels: NDArray[np.uint8], drawings: Drawings,
) -> _Cells | None:  # fmt: skip
    """The cells of a stretch of a line, one of which begins at `origin`, and of the ink beside it."""
    words = [(n, m, w) for n, p in enumerate(pieces) for m, w in enumerate(p.words)]
    advance = advance_of(kind)
    top = max(0, baseline - round(ACCENT * kind.size))
    bottom = min(len(pixels), baseline + round(DESCENT * kind.size))
    x0, x1 = min(w.box[0] for *_, w in words), max(w.box[2] for *_, w in words)
    level = boxes[(boxes[:, 1] < bottom) & (boxes[:, 3] > top)]
    before, after = level[level[:, 2] <= x0][:, 2], level[level[:, 0] >= x1][:, 0]
    left = int(np.ceil(before.max(initial=0.0))) + 1
    right = int(after.min(initial=float(pixels.shape[1]))) - 1
    first, last = round((x0 - origin) / advance - 0.3), round((x1 - origin) / advance - 0.7)
    lowest, most = int(np.ceil((left - origin) / advance)), int((right - origin) / advance) - 1
    band = pixels[top:bottom].astype(np.float64)
    ground = pieces[0].ground
    ink = max(1.0, float(np.abs(pieces[0].colour - ground).max()))

    def inked(k: int) -> bool | None:
        """Has a cell ink? None if the line ends before it."""
        a, b = max(0, round(origin + k * advance)), round(origin + (k + 1) * advance)
        rows = (np.abs(band[:, a:b] - ground).max(axis=2, initial=0.0) > BLANK * ink).any(axis=1)
        return None if b <= a or rows.mean() > FULL else bool(rows.any())

    for way in (-1, 1):
        k, blank = (first if way < 0 else last) + way, 0
        while lowest <= k <= most and blank < GAP:
            ink_here = inked(k)
            if ink_here is None:
                break
            blank = 0 if ink_here else blank + 1
            if ink_here:
                first, last = min(first, k), max(last, k)
            k += way
    count = last - first + 1
    if count < 1:
        return None
    read, owner = [""] * count, [(-1, -1)] * count
    for n, m, w in words:
        a, b = (w.box[0] - origin) / advance - first, (w.box[2] - origin) / advance - first
        begins = round(a - 0.3)
        for k in range(max(0, begins), min(count, begins + len(w.text))):
            read[k] = w.text[k - begins]
        for k in range(max(0, int(np.floor(a))), min(count, int(np.ceil(b)))):
            if a <= k + 0.5 <= b or (k, k + 1) == (np.floor(a), np.ceil(b)):
                owner[k] = (n, m)
    edge = max(0, round(origin + first * advance))
    part = band[:, edge : round(origin + (last + 1) * advance) + 1]
    cover = (away_from(part, ground) / ink).astype(np.float32)
    for p in pieces:
        for row in np.flatnonzero(p.ruled if p.ruled is not None else []) + p.origin[1] - top:
            if 0 <= row < len(cover):
                cover[row, max(0, p.origin[0] - edge) : p.origin[0] + p.cover.shape[1] - edge] = 0
    pens = origin + advance * np.arange(first, last + 1).astype(np.float64)
    return _Cells(kind, pieces, baseline, pens, read, owner, cover, part, top, edge, drawings)


def _read_again(cells: _Cells, pixels: NDArray[np.uint8]) -> list[Piece] | None:
    """The pieces that a stretch makes when each of its cells has been read; None if it was read as it is."""
    blank = cells.blank
    chosen = ["" if empty else _character(cells, k) for k, empty in enumerate(blank)]
    words: list[RawWord] = []
    kept: set[tuple[int, int]] = set()
    for run in _inked_runs(blank):
        if None in [chosen[k] for k in run]:
            kept |= {cells.owner[k] for k in run if cells.owner[k][0] >= 0}
    run_of: dict[int, int] = {}  # the run of cells that a word is part of
    for number, run in enumerate(_inked_runs(blank)):
        if any(chosen[k] is None or cells.owner[k] in kept for k in run):
            continue
        for part in _by_colour(cells, run, chosen):
            words.append(_word(cells, part, chosen))
            run_of[id(words[-1])] = number
    words += [cells.pieces[n].words[m] for n, m in kept]
    before = [w for p in cells.pieces for w in p.words]
    words.sort(key=lambda w: w.box[0])
    if not words or [w.text for w in words] == [w.text for w in before]:
        return None
    p = cells.pieces[0]
    red, green, blue = (float(v) for v in p.ground)
    line = RawLine(tuple(words), around([w.box for w in (*words, *before)]), (red, green, blue), True, SURE)
    made = cut_pieces(p.line, line, pixels)
    for one in made:
        one.fitted = p.fitted
        one.spell(_joined(one.words, run_of))
    return made if [w.text for q in made for w in q.words] != [w.text for w in before] else None


def _joined(words: list[RawWord], run_of: dict[int, int]) -> list[RawWord]:
    """The words of one ink, those of one run of cells joined."""
    out = []
    for _, run in groupby(words, lambda w: run_of.get(id(w), -id(w))):
        parts = list(run)
        whole = replace(parts[0], text="".join(w.text for w in parts), box=around([w.box for w in parts]))
        out.append(whole if len(parts) > 1 else parts[0])
    return out


def _inked_runs(blank: list[bool]) -> list[list[int]]:
    runs: list[list[int]] = []
    for k, empty in enumerate(blank):
        if empty:
            continue
        if runs and runs[-1][-1] == k - 1:
            runs[-1].append(k)
        else:
            runs.append([k])
    return runs


def _character(cells: _Cells, k: int) -> str | None:
    """What stands in a cell; None if the type draws nothing like it."""
    was = cells.read[k]
    unlike = cells.unlike(k)
    at = CHARACTERS.find(was) if was else -1
    own = float(unlike[at]) if at >= 0 else 1.0
    if own <= FINE:
        return was
    first, second = np.argsort(unlike, kind="stable")[:2]
    best, other = float(unlike[first]), CHARACTERS[first]
    if not was:
        return other if best <= ALONE and unlike[second] >= CLEAR * best else None
    if best <= DRAWN and best < BETTER * own:
        return other
    # of a stop's little ink a tint's edge is a large share, and yet hardly anything
    little = own * cells.energy(k) <= LITTLE * cells.usual_energy
    return was if own <= FAIR or little else None


def _by_colour(cells: _Cells, run: list[int], chosen: Sequence[str | None]) -> list[list[int]]:
    """A run of cells, parted where its ink changes: in code, a word may have several, but a name or a number has one."""
    tokens = [[run[0]]]
    for a, b in pairwise(run):
        if NAME.fullmatch(f"{chosen[a]}{chosen[b]}"):
            tokens[-1].append(b)
        else:
            tokens.append([b])
    parts = [tokens[0]]
    ink = _ink(cells, tokens[0], chosen)
    for before, token in pairwise(tokens):
        one, other = cells.owner[before[-1]][0], cells.owner[token[0]][0]
        new = _ink(cells, token, chosen)
        if ink is not None and new is not None:
            apart = float(np.linalg.norm(oklab(ink) - oklab(new))) > SAME_INK
        else:
            apart = one != other and min(one, other) >= 0
        ink = new if new is not None else ink
        if apart:
            parts.append(token)
        else:
            parts[-1] = [*parts[-1], *token]
    return parts


def _ink(cells: _Cells, run: Sequence[int], chosen: Sequence[str | None]) -> NDArray[np.float64] | None:
    """The colour (3,) of what stands in cells; None if it is too little to tell."""
    found = [cells.ink_of(k, c) for k in run if (c := chosen[k]) and c in CHARACTERS]
    weights = [ink**2 for _, ink in found]
    if not found or max(ink for _, ink in found) < TELLS:
        return None
    return np.asarray(np.average([colour for colour, _ in found], axis=0, weights=weights), np.float64)


def _word(cells: _Cells, run: list[int], chosen: Sequence[str | None]) -> RawWord:
    """The word that cells make, like the one that was read where most of them are."""
    text = "".join(chosen[k] or "" for k in run)
    owners = [cells.owner[k] for k in run if cells.owner[k][0] >= 0]
    n, m = max(owners, key=owners.count, default=(-1, -1))
    old = cells.pieces[n].words[m] if owners else None
    if old is not None and old.text == text:
        return old
    a, b = cells.window(run[0])[0], cells.window(run[-1])[1]
    inked = cells.cover[:, a:b] > BLANK
    ys, xs = np.flatnonzero(inked.any(axis=1)), np.flatnonzero(inked.any(axis=0))
    left, top = cells.left + a, cells.top
    box = (float(left + xs[0]), float(top + ys[0]), float(left + xs[-1] + 1), float(top + ys[-1] + 1))
    own = _ink(cells, run, chosen)
    if own is None and old is not None:
        return replace(old, text=text, box=box)
    part = cells.pixels[:, a:b].reshape(-1, 3)
    own = own if own is not None else part[np.abs(part - cells.ground).max(axis=1).argmax()]
    red, green, blue = (float(v) for v in own)
    if old is not None:
        return replace(old, text=text, box=box, colour=(red, green, blue))
    return RawWord(text, box, (red, green, blue), SURE)
