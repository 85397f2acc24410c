"""Pieces put where they belong once the page's types are known: strays, rare types, sizes that are one, icons."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import shape
from neige.core.reading.type.kinds import (
    UNLIKE_EACH_OTHER,
    Type,
    mean_residual,
    oddity,
    sample_of,
    size_near,
    typical,
)
from neige.core.reading.type.match import locate, match
from neige.core.reading.type.pieces import Piece
from neige.core.reading.type.settle import settle

WELL = 0.14  # residual up to which a type explains its ink
DOUBTFUL = 0.12  # residual from which one word is tried in other types
FOUND = 0.9  # correlation at which a word is found inside ink
TIDY = 0.5  # times as many letters as in another size has at least a size that people write
NEAR_SIZE = 0.022  # by which sizes of one family differ that may be meant to be one
DRAWN = 0.08  # residual up to which a type draws a whole piece that is found in another
FAIR = 0.035  # residual up to which no other type is tried for a whole piece
BADLY = 0.1  # residual from which a type that is not spaced out, either, may be of mixed lines
WELL_SET = 0.06  # residual up to which one word is drawn well
PROVEN = 12  # letters of a type that is sure
SIZES = 0.07  # of a size, how far others are tried in which mixed lines may be set,
LINES = 4  # which are looked at
MOSTLY = 0.35  # share of a line's letters by which it draws more of them well than the line's own
EXACT, MISDRAWN, SOME = 0.02, 0.1, 5  # residuals of words that have so many letters at least
GLUED = 0.14  # em: what stands nearer to a word is part of it
UNLIKE_TWO = 0.55  # and a pair of letters
ICON = 0.4  # residual from which a lone sign beside words is an icon
BULLETS = "•▪◦‣"  # signs before entries,
BULLET = 0.55  # and of the ink height of the rest that they are high at most


def take_strays(types: list[Type], scale: int) -> list[Piece]:
    """Take pieces out of types that do not draw them: into the one that does best, or, if none does, into the result."""
    out: list[Piece] = []
    for kind in list(types):
        if kind.usual > UNLIKE_EACH_OTHER:
            continue
        for p in list(kind.members):
            if not p.flat:
                continue
            own = match(p, kind.row, kind.size, kind.tracking, scale).residual
            if own > FAIR and kind.usual <= FAIR:  # a lost letter is no other type
                settle(p, kind.row, kind.size, kind.tracking, kind.usual, scale)
                own = match(p, kind.row, kind.size, kind.tracking, scale).residual
            if own <= FAIR:
                continue
            if len(p.words) == 1 and (mate := _as_its_line(p, kind, types, scale)):
                mate.members.append(p)
                kind.members.remove(p)
                continue
            tried = [
                (match(p, t.row, t.size, t.tracking, scale).residual, n)
                for n, t in enumerate(types)
                if t is not kind and size_near(p, t)
            ]
            best, n = min(tried, default=(1.0, -1))
            far = max(0.05, 3 * kind.usual)
            unlike = own > far and (len(p.words) < 3 or typical(p, kind, scale) > far)
            # two weights of one size in one group: what the other draws three times as well is the other's
            if (p.letters >= 6 and best < 0.35 * own and best <= DRAWN) or (
                unlike and best < 0.6 * own and best <= max(0.05, min(DRAWN, 3 * types[n].usual))
            ):
                types[n].members.append(p)
            elif unlike and own > max(0.1, 4 * kind.usual):
                out.append(p)
            else:
                continue
            kind.members.remove(p)
    types[:] = [t for t in types if t.members]
    return out


def _as_its_line(p: Piece, kind: Type, types: list[Type], scale: int) -> Type | None:
    """The type of what is before or after a word that has lost a letter, which draws it once that is found; it is spelt so then."""
    for t in types:
        if t is kind or t.usual > FAIR or not any(m.line == p.line for m in t.members):
            continue
        again = p.part(p.words)
        settle(again, t.row, t.size, t.tracking, t.usual, scale)
        if match(again, t.row, t.size, t.tracking, scale).residual <= FAIR:
            p.spell(again.words)
            return t
    return None


def absorb_rare(types: list[Type], scale: int) -> None:
    """Give the pieces of rare types to a commoner one that draws them as well: one word cannot tell close sizes apart."""
    letters = {id(t): t.letters for t in types}
    for rare in sorted(types, key=lambda t: letters[id(t)]):
        for p in list(rare.members):
            if not p.flat:
                continue
            own = match(p, rare.row, rare.size, rare.tracking, scale).residual
            best: tuple[float, Type] | None = None
            for t in types:
                if t is rare or letters[id(t)] < max(2 * letters[id(rare)], 12) or not size_near(p, t):
                    continue
                found = match(p, t.row, t.size, t.tracking, scale).residual
                if (found <= own + 0.006 + 0.25 / max(p.letters, 5) and found <= 3 * t.usual + 0.03) and (
                    best is None or found < best[0]
                ):
                    best = found, t
            if best is not None:
                rare.members.remove(p)
                best[1].members.append(p)
                letters[id(rare)] -= p.letters
                letters[id(best[1])] += p.letters
    types[:] = [t for t in types if t.members]


def agree(types: list[Type], scale: int) -> None:
    """Types of one family whose sizes hardly differ are set at the size of the one with more letters, or at one that people write,
    if that draws them as well: bold and italic words stand in lines of another weight, at the same size."""
    for t in sorted(types, key=lambda t: t.letters):
        sample = sample_of(t.members)
        for u in sorted(types, key=lambda u: -u.letters):
            near = 0 < abs(t.size / u.size - 1) <= NEAR_SIZE and abs(t.tracking - u.tracking) < 0.02
            tidier = oddity(u.size / scale) < oddity(t.size / scale) and u.letters >= TIDY * t.letters
            if u is t or not near or not (u.letters >= 1.5 * t.letters or tidier) or not sample:
                continue
            if u.instance.face.family != t.instance.face.family:
                continue
            drawn = mean_residual([match(p, t.row, u.size, t.tracking, scale) for p in sample], sample)
            own = mean_residual([match(p, t.row, t.size, t.tracking, scale) for p in sample], sample)
            if drawn <= own + 0.01 + 0.3 / max(t.letters, 6):
                t.size = u.size
                break


def take_mixed(types: list[Type], scale: int) -> None:
    """Give lines of words in several types (names in bold) to the one that draws most of them: together they were drawn half well
    by a type between these, which is no other line's. What it does not draw is parted from it later."""
    good = [t for t in types if t.usual <= FAIR and t.letters >= PROVEN]
    for kind in [t for t in types if t.usual > (FAIR if t.tracking else BADLY)]:
        _set_plain(kind, scale)
    for kind in [t for t in types if t.usual > FAIR and good]:
        for p in [p for p in kind.members if p.flat and len(p.words) >= 3]:
            parts = [p.part([w]) for w in p.words]
            shares = [_well_drawn(parts, t, scale) for t in (kind, *good)]
            best = int(np.argmax(shares[1:]))
            if shares[best + 1] >= MOSTLY + shares[0] or _exactly_drawn(parts, kind, good[best], scale):
                kind.members.remove(p)
                good[best].members.append(p)
    types[:] = [t for t in types if t.members]


def _set_plain(kind: Type, scale: int) -> None:
    """Set a type that was spaced out or in, or made larger or smaller, so that lines with bolder words in them are as long as they
    are, in the size that draws most of their words well without that."""
    mixed = sorted((p for p in kind.members if p.flat and len(p.words) >= 3), key=lambda p: -p.letters)[
        :LINES
    ]
    if not mixed:
        return
    parts = [p.part([w]) for p in mixed for w in p.words]
    halves = range(int(2 * kind.size / scale * (1 - SIZES)), int(2 * kind.size / scale * (1 + SIZES)) + 2)
    plain = [Type(kind.row, k / 2 * scale, 0.0, kind.usual) for k in halves]
    shares = [_well_drawn(parts, t, scale) for t in (kind, *plain)]
    best = int(np.argmax(shares[1:]))
    if shares[best + 1] >= MOSTLY + shares[0]:
        kind.size, kind.tracking = plain[best].size, 0.0
        drawn = [match(p, kind.row, kind.size, 0.0, scale).words for p in mixed]
        kind.usual = float(np.median(np.concatenate(drawn)))


def _well_drawn(words: list[Piece], t: Type, scale: int) -> float:
    """The share of some words' letters that a type draws well."""
    drawn = [
        w
        for w in words
        if size_near(w, t) and match(w, t.row, t.size, t.tracking, scale).residual <= WELL_SET
    ]
    return sum(w.letters for w in drawn) / sum(w.letters for w in words)


def _exactly_drawn(words: list[Piece], kind: Type, other: Type, scale: int) -> bool:
    """Does another type draw some words so well that they can be set in nothing else, and their own type does not?"""
    exact = [
        w
        for w in words
        if size_near(w, other) and match(w, other.row, other.size, other.tracking, scale).residual <= EXACT
    ]
    letters = sum(w.letters for w in exact)
    own = [w.letters * match(w, kind.row, kind.size, kind.tracking, scale).residual for w in exact]
    return letters >= SOME and sum(own) >= MISDRAWN * letters


def untangle_icons(kind: Type, types: list[Type], scale: int) -> None:
    """A piece that no type draws may be words with an icon read into them: look for the words inside its ink.

    A lone character that is not found is the icon itself and leaves the text.
    """
    common = sorted((t for t in types if t.usual < WELL), key=lambda t: -t.letters)[:6]
    for p in list(kind.members):
        if not p.flat:
            continue
        misfits = match(p, kind.row, kind.size, kind.tracking, scale).words
        if float(np.median(misfits)) < 0.3:
            continue
        plain = [(typical(p, t, scale), n) for n, t in enumerate(common) if t is not kind and size_near(p, t)]
        least, at = min(plain, default=(1.0, -1))
        if least < DOUBTFUL and len(p.words) >= 3:  # nothing is in its way: it was only with the wrong ones
            kind.members.remove(p)
            common[at].members.append(p)
            continue
        tall = float(p.edges.bottom.max() - p.edges.top.min())
        best: tuple[float, Type, list[tuple[float, float]], int] | None = None
        for t in common:
            if not 0.35 * t.size <= tall <= 1.9 * t.size:
                continue
            guess = round(f.baseline_of(p.edges, t.row, t.size))
            for base in range(guess - 3 * scale, guess + 3 * scale + 1, scale):
                found = [locate(p, n, t.row, t.size, t.tracking, base) for n in range(len(p.words))]
                solid = [s for (_, s), w in zip(found, p.words) if len(w.text) > 1 or w.text.isdigit()]
                score = float(np.mean(solid)) if solid else 0.0
                if best is None or score > best[0] + 0.004:
                    best = score, t, found, base
        if best is None or best[0] < min(FOUND, float(np.sqrt(1 - best[1].usual)) - 0.05):
            continue
        _, t, found, base = best
        words = []
        for w, (pen, score) in zip(p.words, found):
            if score < 0.8 and len(w.text) == 1:
                continue
            shaped = shape(t.row, w.text, abs(t.tracking) > 0.01)
            left = pen + t.size * f.extent(t.row, w.text[0], 1)
            right = (
                pen
                + t.size * (shaped.x[-1] + f.extent(t.row, w.text[-1], 2))
                + t.tracking * (len(w.text) - 1)
            )
            top, bottom = f.ink_rows(t.row, w.text)
            words.append(replace(w, box=(left, base - t.size * top, right, base - t.size * bottom)))
        if words and not _goes_on(p, words, GLUED * t.size):
            kind.members.remove(p)
            t.members.append(p.part(words))


def _goes_on(p: Piece, words: Sequence[RawWord], gap: float) -> bool:
    """Does a piece's ink go on right after the words found in it, or right before them? Then letters were lost, and no icon found."""
    inked = p.cover.max(axis=0) > 0.3
    end, start = round(words[-1].box[2]) - p.origin[0], round(words[0].box[0]) - p.origin[0]
    near = max(2, round(gap))
    after = p.edges.right.max() - words[-1].box[2] > 2 * gap and inked[end + 1 : end + 1 + near].any()
    before = (
        words[0].box[0] - p.edges.left.min() > 2 * gap
        and inked[max(0, start - 1 - near) : max(0, start - 1)].any()
    )
    return bool(after or before)


def drop_icons(p: Piece, kind: Type, scale: int) -> None:
    """Leave out a lone sign at either end that is an icon: its ink is not that sign, and the other words' ink is theirs."""
    for end in (0, -1):
        if len(p.words) < 2 or len(p.words[end].text) > 2 or p.words[end].text.isdigit():
            continue
        if p.words[end].text == "©" and p.words[1].text[:2] in ("19", "20"):
            continue
        if end == 0 and _is_bullet(p):
            continue
        misfits = match(p, kind.row, kind.size, kind.tracking, scale).words
        others = np.delete(misfits, end)
        if (
            misfits[end] > (ICON if len(p.words[end].text) == 1 else UNLIKE_TWO)
            and float(np.median(others)) < 0.25
        ):
            p.spell(p.words[1:] if end == 0 else p.words[:-1])


def _is_bullet(p: Piece) -> bool:
    """Is the first word a dot or square half-way up the letters? A browser draws the marks of lists by itself, whatever the face has."""
    mark, rest = p.words[0], p.words[1:]
    _, y0, _, y1 = mark.box
    w = mark.box[2] - mark.box[0]
    top, bottom = min(r.box[1] for r in rest), max(r.box[3] for r in rest)
    small = max(w, y1 - y0) <= BULLET * (bottom - top) and abs(w - (y1 - y0)) <= max(1.5, 0.3 * w)
    return mark.text in BULLETS and small and top < y0 and y1 < bottom
