"""Words of a line that its type does not draw, given to the types that do: names in bold, code, a sentence in italics."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type.catalogue import catalogue
from neige.core.reading.type.kinds import Type, size_near
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import Piece
from neige.core.reading.type.settle import ink_width, settle, surprise
from neige.core.reading.type.sort import DOUBTFUL, DRAWN, FAIR, PROVEN

HARDLY = 0.2  # residual of a type, and of half a line's words in it, from which it tells nothing of others
AFTER, CODE = ",.;:)", 2  # what may stand after a word of another type, which has so many characters at least
MOST = 0.8  # of a line's words: if its type draws less than the rest, it says little of them
TELLING = 3  # letters of a word that tells in what type it is
TOGETHER = 0.6  # of what a line's own type leaves unexplained, that types of the page leave together,
KNOWN, TELLS = 60, 3  # letters of a family from which it is the page's; of what can tell a face
CODE_SIZES = (0.8, 0.85, 0.875, 0.9, 0.9375, 1.0)  # of the line's size


def split_words(kind: Type, types: list[Type], families: list[int], scale: int) -> None:
    """Give words that their line's type does not draw to the type of the page, or of its family, that does."""
    for p in list(kind.members):
        if not p.flat or len(p.words) < 2:
            continue
        fits_of = match(p, kind.row, kind.size, kind.tracking, scale).words
        # a type found on mixed lines draws none of them well
        usual = min(kind.usual, float(np.quantile(fits_of, 0.5, method="lower")))
        if usual > HARDLY:
            continue
        limit = max(DOUBTFUL, 3 * usual)
        by_itself = (fits_of > limit).mean() > MOST and kind.usual < DRAWN
        fits_of = _misfits(p, kind, by_itself, scale)
        other = fits_of > limit
        mostly = bool(other.mean() > MOST)
        if not other.any() or (
            mostly and not any(len(w.text) >= TELLING for w, o in zip(p.words, other) if not o)
        ):
            continue
        if not mostly:
            settle(p, kind.row, kind.size, kind.tracking, kind.usual, scale)  # a lost letter is no other type
            _part_stops(p, kind, types, match(p, kind.row, kind.size, kind.tracking, scale).words, scale)
            fits_of = _misfits(p, kind, by_itself, scale)
        homes: list[Type | None] = [None] * len(p.words)
        # a long word tells best whether there is such a type, and short ones go with it
        for n in sorted(np.flatnonzero(fits_of > limit).tolist(), key=lambda n: -len(p.words[n].text)):
            bound = min(0.5 * float(fits_of[n]), max(0.1, 2.5 * usual))
            homes[n] = _home(p.part([p.words[n]]), bound, kind, types, families, scale)
        long = [n for n in np.flatnonzero(fits_of > limit).tolist() if len(p.words[n].text) >= TELLING]
        if not any(homes) or (mostly and sum(homes[n] is not None for n in long) < MOST * len(long)):
            continue
        kind.members.remove(p)
        start = 0
        for n in range(1, len(homes) + 1):
            if n == len(homes) or homes[n] is not homes[start]:
                (homes[start] or kind).members.append(p.part(p.words[start:n]))
                start = n


def take_together(types: list[Type], scale: int) -> None:
    """Give words in a face of their own to types of the page that, each drawing some of them, leave far less unexplained: lines with
    a name in bold, before that weight was known, looked like another face half as heavy."""
    good = [t for t in types if t.usual <= FAIR and t.letters >= PROVEN]
    families = {t.instance.face.family for t in good if t.letters >= KNOWN}
    good = [t for t in good if t.instance.face.family in families]
    for kind in [t for t in types if t.instance.face.family not in families and good]:
        for p in [p for p in kind.members if p.flat and p.letters >= TELLS]:
            words, letters = [p.part([w]) for w in p.words], [max(1, len(w.text)) for w in p.words]
            drawn = [[_drawn_by(t, w, scale) for t in good] for w in words]
            own = [match(w, kind.row, kind.size, kind.tracking, scale).residual for w in words]
            left = float(np.average(np.min(drawn, axis=1), weights=letters))
            if left > min(FAIR, TOGETHER * float(np.average(own, weights=letters))):
                continue
            kind.members.remove(p)
            homes = np.argmin(drawn, axis=1).tolist()
            for home, run in itertools.groupby(range(len(homes)), key=homes.__getitem__):
                good[home].members.append(p.part([p.words[n] for n in run]))
    types[:] = [t for t in types if t.members]


def _drawn_by(t: Type, word: Piece, scale: int) -> float:
    """What a type leaves unexplained of a word; all of it if the word is much wider or narrower in it."""
    return match(word, t.row, t.size, t.tracking, scale).residual if size_near(word, t) else 1.0


def _misfits(p: Piece, kind: Type, by_itself: bool, scale: int) -> NDArray[np.float64]:
    """What a type leaves unexplained of each word of a piece; of each `by_itself` where one base line suits none of them."""
    if not by_itself:
        return match(p, kind.row, kind.size, kind.tracking, scale).words
    alone = [match(p.part([w]), kind.row, kind.size, kind.tracking, scale).residual for w in p.words]
    return np.array(alone)


def _part_stops(p: Piece, kind: Type, types: list[Type], fits_of: NDArray[np.float64], scale: int) -> None:
    """Part a word of another type from the comma or stop after it, which is the line's: code in prose."""
    words: list[RawWord] = []
    for word, misfit in zip(p.words, fits_of):
        body = word.text.rstrip(AFTER)
        cut = word
        if len(body) == len(word.text) - 1 and len(body) >= CODE and misfit > DOUBTFUL and not word.pinned:
            bound = min(0.5 * float(misfit), max(0.1, 2.5 * kind.usual))
            for t in types:
                code = t is not kind and t.usual < 0.2 and t.instance.face.category == "monospace"
                if not code or not size_near(p.part([word]), t):
                    continue
                if match(p.part([word]), t.row, t.size, t.tracking, scale).residual < bound:
                    cut = word  # the stop is code, too
                    break
                x0, _, x1, _ = word.box
                end = min(x0 + ink_width(body, t.row, t.size, t.tracking), x1 - 1)
                alone = p.stretch(word, body, x0, end)
                if alone is None:
                    continue
                if any(surprise(w.text) for w in alone.words):
                    settle(alone, t.row, t.size, t.tracking, t.usual, scale)
                found = match(alone, t.row, t.size, t.tracking, scale).residual
                if found < bound:
                    bound, cut = found, alone.words[0]
        words.append(cut)
        if cut is not word:
            words.append(replace(word, text=word.text[-1], box=(cut.box[2] + 0.5, *word.box[1:])))
    if len(words) > len(p.words):
        p.spell(words)


def _home(
    p: Piece, bound: float, kind: Type, types: list[Type], families: list[int], scale: int
) -> Type | None:
    """The type that leaves less than `bound` of one word unexplained, far less than the line's own does, or None."""
    best: tuple[float, Type] | None = None
    for t in types:
        if t is not kind and size_near(p, t) and t.usual < 0.2:
            found = match(p, t.row, t.size, t.tracking, scale).residual
            if found >= bound and any(surprise(w.text) for w in p.words):  # it may say something else there
                again = p.part(p.words)
                settle(again, t.row, t.size, t.tracking, t.usual, scale)
                found = match(again, t.row, t.size, t.tracking, scale).residual
            if found < bound and (best is None or found < best[0]):
                best = found, t
    if best is not None:
        return best[1]
    cat = catalogue()
    face = kind.instance.face
    for i in cat.instances:
        mono = i.face.category == "monospace" and i.weight == 400 and not i.face.italic
        kin = (
            i.face.family == face.family
            and (i.face.italic or i.weight in (400, 600, 700))
            and i.row != kind.row
        )
        mono = mono and (
            int(cat.family_of[i.row]) in families or i.face.family in ("Liberation Mono", "DejaVu Sans Mono")
        )
        if not (kin or mono) or len(p.words[0].text) < 3:
            continue
        for share in CODE_SIZES if mono else (1.0,):
            t = Type(i.row, kind.size * share, 0.0, 1.0)
            if not size_near(p, t):
                continue
            found = match(p, t.row, t.size, 0.0, scale).residual
            if found < bound and (best is None or found < best[0] - 0.004):
                t.usual = found
                best = found, t
    if best is None:
        return None
    types.append(best[1])
    return best[1]
