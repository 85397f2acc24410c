"""The few types that a page is set in: decided from pooled lines by drawing, tried on every line and then on every word.

Global before local: a page uses few types. Groups of lines that look set alike are taken from the largest down; each first
tries the types already found and only founds a new one if its ink asks for it. Words that a line's type does not explain are
then tried in the page's other types (bold, italic, code inside a line), and only what is left is doubted letter by letter.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.beside import beside
from neige.core.model import Pin
from neige.core.reading.pins import is_about
from neige.core.reading.text.raw import RawWord, around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue
from neige.core.reading.type.fixed_width import read_cells
from neige.core.reading.type.kin import take_kin
from neige.core.reading.type.kinds import (
    UNLIKE_EACH_OTHER,
    Type,
    mean_residual,
    sample_of,
    size_near,
    tidy_size,
    typical,
)
from neige.core.reading.type.match import match
from neige.core.reading.type.mixed import part_mixed
from neige.core.reading.type.pieces import Piece
from neige.core.reading.type.settle import join_words, settle
from neige.core.reading.type.sort import (
    BULLETS,
    absorb_rare,
    agree,
    drop_icons,
    take_mixed,
    take_strays,
    untangle_icons,
)
from neige.core.reading.type.split import split_words, take_together
from neige.core.reading.type.trial import WELL_SET, WORDY, Fits, Trial
from neige.core.reading.type.widths import measure_again

LIKELY = 10  # instances, by edges, that are drawn both ways,
LIKELIEST = 3  # and those that are enough where one of them
DRAWS = 0.05  # leaves so much unexplained at most
AT_ONCE = 4  # lines that are drawn so at once, half of them in the process beside
TELLING_LINES = 8  # that say how the page's text was drawn,
TELLS = 0.1  # which one of both drawings leaves unexplained so much of at most,
ASKED = 32  # and how many are asked at most
SETTLED = (
    0.05  # residual up to which a group is taken for one type without looking at its members by themselves
)
SIGNS = 0.03  # residual of the words beside signs
MINUS = re.compile(r"^-(?=\d)")
BETTER = 0.7  # of what a type leaves unexplained that another, tried later, leaves at most
MISDRAWN = 0.15  # residual from which signs before entries may be set in another type
SEVERAL = 12  # words that a line of several types has at most,
TELLING_LETTERS = 3  # and letters of one that tells its type
SAME_SIZE = 0.06  # of a size by which that of the next word may differ in one type
DRAWN = 0.4  # residual of a type up to which its drawings tell letters
MANY = 60  # lines that are worth the way to another process
FEW = 3  # lines: a group that signs may have set apart from their type


def find_types(pieces: list[Piece], pixels: NDArray[np.uint8], pins: Sequence[Pin], scale: int) -> list[Type]:
    """The types that pieces cut from `pixels` are set in, each with its pieces; their words are corrected on the way. Sizes in
    device px."""
    sigma = f.SIGMA * max(1.0, 0.75 * scale)
    cat = catalogue()
    fits = [f.fit_all(p.edges, sigma) for p in pieces]
    _fit_heights(pieces, fits, scale)
    families = f.page_families([x[0] for x, p in zip(fits, pieces) if p.letters >= 3] or [fits[0][0]])
    types: list[Type] = []
    for members in _groups(pieces, fits, np.isin(cat.family_of, families)):
        _found_type([pieces[m] for m in members], [fits[m] for m in members], types, families, sigma, scale)
    fits_of = {id(p): x for p, x in zip(pieces, fits)}
    _reconsider(types, fits_of, families, sigma, scale)
    _part_lines(types, sigma, scale)
    for _ in range(2):  # what strays make types of their own may draw others that stayed
        for p in take_strays(types, scale):
            _found_type([p], [fits_of.get(id(p)) or f.fit_all(p.edges, sigma)], types, families, sigma, scale)
    absorb_rare(types, scale)
    take_kin(types, scale)
    agree(types, scale)
    take_mixed(types, scale)
    for kind in types:
        untangle_icons(kind, types, scale)
    part_mixed(types, scale)
    for kind in list(types):
        split_words(kind, types, families, scale)
    take_together(types, scale)
    _pin_types(types, pins, sigma, scale)
    _spell(types, scale)
    measure_again(types, sigma, scale)
    types = _unequal(types)
    read_cells(types, pixels, scale)
    return types


def _spell(types: list[Type], scale: int) -> None:
    """Doubt the words of every line that is set in a known type; of many, every other one in the process beside."""
    lines = [(p, replace(t, members=[])) for t in types for p in t.members if p.flat and t.usual < DRAWN]
    own, other = (lines[::2], lines[1::2]) if len(lines) >= MANY else (lines, [])
    theirs = beside(_spelt, other, scale) if other else None
    spelt = zip((p for p, _ in own), _spelt(own, scale))
    for p, words in [*spelt, *(zip((p for p, _ in other), theirs.result()) if theirs else ())]:
        if words != p.words:
            p.spell(words)


def _spelt(lines: list[tuple[Piece, Type]], scale: int) -> list[list[RawWord]]:
    """The words of lines, without icons, corrected and joined."""
    for p, kind in lines:
        drop_icons(p, kind, scale)
        settle(p, kind.row, kind.size, kind.tracking, kind.usual, scale)
        join_words(p, kind.row, kind.size, kind.tracking, scale)
    return [p.words for p, _ in lines]


def _reconsider(
    types: list[Type], fits_of: dict[int, Fits], families: list[int], sigma: float, scale: int
) -> None:
    """Groups whose type does not draw them well are tried in the families that others have since been found to be set in."""
    cat = catalogue()
    used = {int(cat.family_of[t.row]) for t in types if t.usual <= WELL_SET and t.letters >= WORDY}
    new = sorted(used - set(families))
    inks = [t.ink for t in types if t.ink is not None]
    for t in types:
        badly = t.usual > WELL_SET and t.instance.face.family not in {cat.families[k] for k in used}
        if not badly or not new or not sample_of(t.members):
            continue
        fits = [fits_of[id(p)] for p in t.members]
        own = Trial(t.members, fits, sorted({*families, *used}), inks, sigma, scale).best()
        if own.usual < BETTER * t.usual:
            t.row, t.size, t.tracking, t.usual, t.ink, t.runners = (
                own.row, own.size, own.tracking, own.usual, own.ink, own.runners
            )  # fmt: skip


def _fit_heights(pieces: list[Piece], fits: list[Fits], scale: int) -> None:
    """Decide for the page whether its text was fitted to whole px when it was drawn (a browser at 1x) or not (a browser at
    2x, a drawing program): the drawing that leaves less of its longest lines unexplained says so. Lines that neither draws well
    (they are in several types, or misread) say nothing, unless all are such."""
    totals, doubtful, telling = [0.0, 0.0], [0.0, 0.0], 0
    longest = sorted((i for i, p in enumerate(pieces) if p.flat), key=lambda i: (-pieces[i].letters, i))
    asked = [(pieces[i].part(pieces[i].words[:8]), fits[i]) for i in longest[:ASKED]]
    while asked and telling < TELLING_LINES:
        own, other, asked = asked[:AT_ONCE:2], asked[1:AT_ONCE:2], asked[AT_ONCE:]
        theirs = beside(_unexplained, other, scale) if other else None
        mine = _unexplained(own, scale)
        for left in [*mine, *(theirs.result() if theirs else ())]:
            well = min(left) <= TELLS
            for k in (0, 1):
                (totals if well else doubtful)[k] += left[k]
            telling += well
    totals = totals if telling else doubtful
    for p in pieces:
        p.fitted = totals[True] < totals[False]


def _unexplained(asked: list[tuple[Piece, Fits]], scale: int) -> list[tuple[float, float]]:
    """What the likeliest types leave unexplained of each piece at least, with heights that were not fitted to px, and that were."""
    out = []
    for p, (chi, sizes, tracking) in asked:
        rows = np.argsort(chi, kind="stable")[:LIKELY].tolist()
        left = [1.0, 1.0]
        for some in (rows[:LIKELIEST], rows[LIKELIEST:]):
            for fitted in (False, True):
                p.fitted = fitted
                p.matches.clear()
                found = [
                    match(p, r, size, float(tracking[r]), scale).residual
                    for r in some
                    for size in (
                        float(sizes[r]),
                        tidy_size(float(sizes[r]) / scale, p.width / scale) * scale,
                    )
                ]
                left[fitted] = min([left[fitted], *found])
            if min(left) <= DRAWS:
                break
        out.append((left[0], left[1]))
    return out


def _groups(pieces: list[Piece], fits: list[Fits], allowed: NDArray[np.bool_]) -> list[list[int]]:
    """Pieces that look set alike in their best allowed instance: size within a few per cent, ink, slant, tracking; largest first."""
    cat = catalogue()
    keys = []
    for p, (chi, size, tracking) in zip(pieces, fits):
        best = int(np.where(allowed, chi, np.inf).argmin())
        keys.append(
            (float(size[best]), p.stem, bool(tracking[best] != 0), cat.instances[best].face.italic, int(cat.family_of[best]))
        )  # fmt: skip
    groups: dict[int, list[int]] = {}
    for i in sorted(range(len(pieces)), key=lambda i: -pieces[i].letters):
        em, stem, tracked, italic, family = keys[i]
        n = pieces[i].letters
        chi = fits[i][0]
        loose = min(0.07, 0.016 + 0.9 / max(1.0, pieces[i].width))
        for head in groups:
            s, t, k, slant, fam = keys[head]
            if (
                abs(em - s) <= loose * s + 0.05
                and abs(stem - t) <= 0.2 * max(stem, t) + 0.01
                and (fam == family or n <= 12 or chi[cat.family_of == fam].min() <= chi.min() + 12)
                and (tracked == k or n <= 6)
                and (italic == slant or n <= 8)
            ):
                groups[head].append(i)
                break
        else:
            groups[i] = [i]
    return sorted(groups.values(), key=lambda g: (-sum(pieces[m].letters for m in g), g[0]))


def _found_type(
    members: list[Piece], fits: list[Fits], types: list[Type], families: list[int], sigma: float, scale: int
) -> None:
    """Put a group into a type that already explains it, or found one."""
    sample = sample_of(members)
    tried: list[tuple[float, Type]] = []
    for t in types:
        if sample and any(size_near(p, t) for p in sample):
            tried.append(
                (mean_residual([match(p, t.row, t.size, t.tracking, scale) for p in sample], sample), t)
            )
    best, kind = min(tried, key=lambda x: x[0], default=(1.0, None))
    letters = sum(p.letters for p in sample)
    margin = 0.008 + 0.5 / max(letters, 10)
    alone = len(members) == 1 and best <= margin and best < 2.5 * kind.usual + 0.03 if kind else False
    if kind is not None and (best <= min(kind.usual + 0.006, UNLIKE_EACH_OTHER) or alone):
        kind.members += members  # however well a type of its own drew it, it would not be founded
        return
    if sample and (len(members) == 1 or best > UNLIKE_EACH_OTHER):
        # one word read wrongly, in bold or in code must not found a type for its whole line
        near = [t for _, t in sorted(tried, key=lambda x: x[0])[:2]]
        left = [m for m, p in enumerate(members) if not _mostly_explained(p, near, scale)]
        members, fits = [members[m] for m in left], [fits[m] for m in left]
        sample = sample_of(members)
        if not members:
            return
    if len(members) <= FEW and sample:
        left = [m for m, p in enumerate(members) if not _but_for_signs(p, types, scale)]
        members, fits = [members[m] for m in left], [fits[m] for m in left]
        sample = sample_of(members)
        if not members:
            return
    inks = [t.ink for t in types if t.ink is not None]
    own = _tried(members, fits, families, inks, sigma, scale)
    mixed = own.usual > UNLIKE_EACH_OTHER
    if own.usual > SETTLED and len(sample) > 1 and not mixed:  # is one of them drawn much better by itself?
        first = max(range(len(members)), key=lambda i: (members[i].flat, members[i].letters))
        single = _tried([members[first]], [fits[first]], families, inks, sigma, scale)
        mixed = single.usual < 0.4 * own.usual
    if mixed and len(members) > 1 and sample:
        for p, x in zip(members, fits):  # no one type draws them: they only looked alike
            _found_type([p], [x], types, families, sigma, scale)
        return
    if (
        kind is not None
        and best <= own.usual + margin
        and (best < 2.5 * kind.usual + 0.03 or best < own.usual or own.usual > 4 * kind.usual + 0.06)
    ):
        kind.members += members
        return
    if not sample:  # type on a photo: only its edges speak
        for t in types:
            if abs(t.size - own.size) < 0.06 * own.size:
                ours = sum(float(x[0].min()) for x in fits)
                if sum(f.refit(p.edges, t.row, sigma, size=t.size).chi for p in members) <= ours + 14:
                    t.members += members
                    return
    own.members = list(members)
    types.append(own)


def _tried(
    members: list[Piece], fits: list[Fits], families: list[int], inks: list[NDArray[np.float64]], sigma: float, scale: int
) -> Type:  # fmt: skip
    """The type that draws a group best. A piece by itself is tried once, however often it is asked for."""
    if len(members) > 1:
        return Trial(members, fits, families, inks, sigma, scale).best()
    key = tuple(families)
    if key not in members[0].alone:
        members[0].alone[key] = Trial(members, fits, families, inks, sigma, scale).best()
    return replace(members[0].alone[key], members=[])


def _mostly_explained(p: Piece, types: Sequence[Type], scale: int) -> bool:
    """Put a line into the first of these types that draws most of its words well, if one does."""
    if not p.flat or len(p.words) < 3:
        return False
    for t in types:
        if typical(p, t, scale) <= max(0.03, 2 * t.usual):
            t.members.append(p)
            return True
    return False


def _part_lines(types: list[Type], sigma: float, scale: int) -> None:
    """Lines that no one type draws (a heading with a name in it that is set as code) are parted where the page's families draw
    their words well."""
    cat = catalogue()
    used = sorted({int(cat.family_of[t.row]) for t in types if t.usual <= WELL_SET and t.letters >= WORDY})
    plain = max(
        types, key=lambda t: t.letters
    )  # what markers of lists are set in, whatever their entries begin with
    for t in [t for t in types if t is not plain and plain.usual <= WELL_SET]:
        for p in [p for p in t.members if p.flat and len(p.words) > 1 and p.words[0].text in BULLETS]:
            if match(p, t.row, t.size, t.tracking, scale).residual > MISDRAWN:
                t.members.remove(p)
                plain.members.append(p.part(p.words[:1]))
                rest = p.part(p.words[1:])
                _found_type([rest], [f.fit_all(rest.edges, sigma)], types, used, sigma, scale)
    types[:] = [t for t in types if t.members]
    for t in [t for t in types if t.usual > UNLIKE_EACH_OTHER and used]:
        for p in list(t.members):
            parts = _in_types(p, used, sigma, scale)
            if parts:
                t.members.remove(p)
            for part in parts:
                _found_type([part], [f.fit_all(part.edges, sigma)], types, used, sigma, scale)


def _in_types(piece: Piece, families: list[int], sigma: float, scale: int) -> list[Piece]:
    """The stretches of a line that no one type draws in which each is drawn well by one of its own, or none. What is too short to
    tell is set as what is before or after it, whichever draws it better."""
    if not piece.flat or not 2 <= len(piece.words) <= SEVERAL:
        return []
    parts = [piece.part([w]) for w in piece.words]
    telling = [p.letters >= TELLING_LETTERS for p in parts]
    own: list[Type | None] = [None] * len(parts)
    # the longest tell best, and the first that nothing draws is enough
    for n in sorted((n for n, tells in enumerate(telling) if tells), key=lambda n: -parts[n].letters):
        p = parts[n]
        best = Trial([p], [f.fit_all(p.edges, sigma)], families, [], sigma, scale).best()
        if best.usual > WELL_SET:
            return []
        own[n] = best
    if not any(telling):
        return []
    for n, p in enumerate(parts):
        if not telling[n]:
            before = [t for t in own[:n] if t is not None][-1:]
            near = before + [t for t in own[n + 1 :] if t is not None][:1]
            own[n] = min(near, key=lambda t: match(p, t.row, t.size, t.tracking, scale).residual)
    starts = [0, *(n for n in range(1, len(own)) if not _alike(own[n - 1], own[n]))]
    ends = [*starts[1:], len(own)]
    return [piece.part(piece.words[a:b]) for a, b in zip(starts, ends)] if len(starts) > 1 else []


def _alike(a: Type | None, b: Type | None) -> bool:
    """Are two words' own types one?"""
    return (
        a is not None
        and b is not None
        and a.instance.face is b.instance.face
        and abs(a.size / b.size - 1) <= SAME_SIZE
    )


def _but_for_signs(p: Piece, types: list[Type], scale: int) -> bool:
    """Put a line into the type that explains its words, if it has signs that its face may not have (an arrow, a star) beside
    them, or if what was read as hyphens are minus signs or dashes."""
    respelt = [
        [replace(w, text=MINUS.sub("−", w.text)) for w in p.words],
        [replace(w, text=w.text.replace("-", "–")) for w in p.words],
    ]
    for words in (p.words, *(r for r in respelt if r != list(p.words))):
        said = [w for w in words if any(c.isalnum() for c in w.text)]
        if not said or (len(said) == len(words) and words == p.words):
            continue
        part = p.part(said)
        tried = [
            (match(part, t.row, t.size, t.tracking, scale).residual, n)
            for n, t in enumerate(types)
            if size_near(part, t)
        ]
        best, n = min(tried, default=(1.0, -1))
        if n >= 0 and best <= max(SIGNS, 2 * types[n].usual):
            if words != p.words:
                p.spell(words)
            types[n].members.append(p)
            return True
    return False


def _pin_types(types: list[Type], pins: Sequence[Pin], sigma: float, scale: int) -> None:
    """Set the types that pins are about as they say; what they leave open (size, tracking) is fitted to the lines."""
    cat = catalogue()
    for pin in pins:
        if pin.kind != "type":
            continue
        votes = [
            (sum(p.letters for p in t.members if is_about(pin, around([w.box for w in p.words]), scale)), n)
            for n, t in enumerate(types)
        ]
        letters, n = max(votes, default=(0, -1))
        if not letters:
            continue
        kind = types[n]
        face = kind.instance.face
        family = pin.family or face.family
        italic = face.italic if pin.italic is None else pin.italic
        weight = pin.weight or kind.instance.weight
        same = [i for i in cat.instances if i.face.family == family]
        if not same:
            continue
        near = min(same, key=lambda i: (i.face.italic != italic, abs(i.weight - weight), i.row))
        sample = sorted(kind.members, key=lambda p: -p.letters)[:5]
        refits = [f.refit(p.edges, near.row, sigma, size=pin.size * scale or None) for p in sample]
        widths = np.array([p.width for p in sample]) ** 2
        size = float(np.average([r.size for r in refits], weights=widths))
        kind.row = near.row
        kind.size = pin.size * scale or tidy_size(size / scale, float(np.sqrt(widths.max())) / scale) * scale
        kind.tracking = float(np.average([r.tracking for r in refits], weights=widths))
        drawn = sample_of(kind.members)
        kind.usual = (
            mean_residual([match(p, kind.row, kind.size, kind.tracking, scale) for p in drawn], drawn)
            if drawn
            else 0.35
        )


def _unequal(types: list[Type]) -> list[Type]:
    """The types in use, those that came out the same joined."""
    out: dict[tuple[int, float, float], Type] = {}
    for t in types:
        if t.members:
            same = out.setdefault((t.row, round(t.size, 2), round(t.tracking, 2)), t)
            if same is not t:
                same.members += t.members
    return list(out.values())
