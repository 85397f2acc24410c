"""The few types that a page is set in: decided from pooled lines by drawing, tried on every line and then on every word.

Global before local: a page uses few types. Groups of lines that look set alike are taken from the largest down; each first
tries the types already found and only founds a new one if its ink asks for it. Words that a line's type does not explain are
then tried in the page's other types (bold, italic, code inside a line), and only what is left is doubted letter by letter.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Pin
from neige.core.reading.colour import oklab
from neige.core.reading.pins import is_about
from neige.core.reading.text.raw import around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import Face, catalogue
from neige.core.reading.type.kinds import (
    UNLIKE_EACH_OTHER,
    Type,
    mean_residual,
    oddity,
    sample_of,
    size_near,
    tidy_size,
    typical,
    written_sizes,
)
from neige.core.reading.type.match import SAME_INK, Match, ink_colour, match
from neige.core.reading.type.pieces import Piece
from neige.core.reading.type.settle import join_words, settle
from neige.core.reading.type.sort import (
    absorb_rare,
    agree,
    drop_icons,
    split_words,
    take_strays,
    untangle_icons,
)

LIKELY = 10  # instances, by edges, that are drawn both ways
TELLING_LINES = 8  # that say how the page's text was drawn
ENERGY = 900.0  # chi² that the whole ink's energy is worth
OUTSIDE = 8.0  # chi² for a family that the page does not use
ODD_WEIGHT = 2.0  # chi² for a weight other than 400 and 700
CAP_MEAN = 9.0  # mean chi² per edge beyond which fits are equally bad
KNOWN_INK = 6.0  # chi² that a candidate gains whose ink is one of the page's
PLAIN = (oklab(np.array([255.0, 255.0, 255.0])), oklab(np.zeros(3)))
SETTLED = (
    0.05  # residual up to which a group is taken for one type without looking at its members by themselves
)
HOPELESS = 45.0  # chi² above the best so far at which a candidate is not drawn any further
FOUND = 0.012  # residual under which a face is taken for the right one
WELL_SET = 0.05  # residual of the right face, fitted like the picture, at most
WORDY = 6  # letters
SIGNS = 0.03  # residual of the words beside signs
MINUS = re.compile(r"^-(?=\d)")
PARTLY = 0.4  # of a text's letters
SPACED = 0.8  # of the size that the width of spaced capitals asks for, that they are set in at least
BETTER = 0.7  # of what a type leaves unexplained that another, tried later, leaves at most
FEW = 3  # lines: a group that signs may have set apart from their type
WIDER = 24  # families that are drawn where none of the likeliest is right
DRAWN = 0.5  # residual of the best face from which no size of any would draw it
RESIZED = 3  # of the likeliest types, whose neighbouring sizes are drawn as well


Fits = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]


def find_types(pieces: list[Piece], pins: Sequence[Pin], scale: int) -> list[Type]:
    """The types that pieces are set in, each with its pieces; their words are corrected on the way. Sizes in device px."""
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
    for _ in range(2):  # what strays make types of their own may draw others that stayed
        for p in take_strays(types, scale):
            _found_type([p], [fits_of[id(p)]], types, families, sigma, scale)
    absorb_rare(types, scale)
    agree(types, scale)
    for kind in types:
        untangle_icons(kind, types, scale)
    for kind in list(types):
        split_words(kind, types, families, scale)
    _pin_types(types, pins, sigma, scale)
    for kind in types:
        for p in kind.members:
            if p.flat and kind.usual < 0.4:
                drop_icons(p, kind, scale)
                settle(p, kind.row, kind.size, kind.tracking, kind.usual, scale)
                join_words(p, kind.row, kind.size, kind.tracking, scale)
    return _unequal(types)


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
        own = _decide(t.members, fits, sorted({*families, *used}), inks, sigma, scale)
        if own.usual < BETTER * t.usual:
            t.row, t.size, t.tracking, t.usual, t.ink, t.runners = (
                own.row, own.size, own.tracking, own.usual, own.ink, own.runners
            )  # fmt: skip


def _fit_heights(pieces: list[Piece], fits: list[Fits], scale: int) -> None:
    """Decide for the page whether its text was fitted to whole px when it was drawn (a browser at 1x) or not (a browser at
    2x, a drawing program): the drawing that leaves less of its longest lines unexplained says so."""
    totals = [0.0, 0.0]
    longest = sorted((i for i, p in enumerate(pieces) if p.flat), key=lambda i: (-pieces[i].letters, i))
    for i in longest[:TELLING_LINES]:
        p = pieces[i].part(pieces[i].words[:8])
        chi, sizes, tracking = fits[i]
        for fitted in (False, True):
            p.fitted = fitted
            p.matches.clear()
            rows = np.argsort(chi, kind="stable")[:LIKELY].tolist()
            found = [
                match(p, r, size, float(tracking[r]), scale)
                for r in rows
                for size in (float(sizes[r]), tidy_size(float(sizes[r]) / scale, p.width / scale) * scale)
            ]
            totals[fitted] += min(m.residual for m in found)
    for p in pieces:
        p.fitted = totals[True] < totals[False]


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
    if len(members) == 1 and sample and len(members[0].words) >= 3:
        # one word read wrongly, or in bold, must not found a type for its whole line
        for _, t in sorted(tried, key=lambda x: x[0])[:2]:
            if typical(members[0], t, scale) <= max(0.03, 2 * t.usual):
                t.members += members
                return
    if len(members) <= FEW and sample:
        left = [m for m, p in enumerate(members) if not _but_for_signs(p, types, scale)]
        members, fits = [members[m] for m in left], [fits[m] for m in left]
        sample = sample_of(members)
        if not members:
            return
    own = _decide(members, fits, families, [t.ink for t in types if t.ink is not None], sigma, scale)
    mixed = own.usual > UNLIKE_EACH_OTHER
    if own.usual > SETTLED and len(sample) > 1 and not mixed:  # is one of them drawn much better by itself?
        first = max(range(len(members)), key=lambda i: (members[i].flat, members[i].letters))
        mixed = _decide([members[first]], [fits[first]], families, [], sigma, scale).usual < 0.4 * own.usual
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


def _decide(
    members: list[Piece], fits: list[Fits], families: list[int], inks: list[NDArray[np.float64]], sigma: float, scale: int
) -> Type:  # fmt: skip
    """The instance, size and tracking that a group is set in: edges rank all instances, drawn ink decides among the best.

    Small type cannot tell a heavier weight from a darker ink; an ink that the page already uses (`inks`, OKLab) tips the scale.
    """
    cat = catalogue()
    order = sorted(range(len(members)), key=lambda i: (-members[i].letters, i))[:5]
    longest = [members[i] for i in order]
    total = np.sum([fits[i][0] for i in order], axis=0)
    outside = ~np.isin(cat.family_of, families)
    ranked = np.argsort(total + outside * 12.0, kind="stable")
    short: list[
        int
    ] = []  # the best instance of each of the likeliest families, and a few more of the page's own
    seen: dict[int, int] = defaultdict(int)
    first = int(cat.family_of[ranked[0]])
    for row in ranked:
        family = int(cat.family_of[row])
        if seen[family] < (6 if family == first or family in families else 1):
            short.append(int(row))
            seen[family] += 1
        if len(short) >= f.SHORTLIST:
            break
    for row in ranked:  # edges may lie (letters that touch): the page's own families are drawn in any case
        family = int(cat.family_of[row])
        if family in families and not seen[family]:
            short.append(int(row))
            seen[family] += 1
    sample = sample_of(longest)
    edges_n = min(40, sum(2 * len(p.words) for p in longest))
    widths = np.array([p.width for p in longest])
    scored: list[tuple[float, Type]] = []
    lowest = [float("inf")]

    def weigh(row: int, size: float, tracking: float, tracked: bool, misfit: float) -> None:
        """Draw the sample at a size, and say what that costs. `misfit`: chi² of all edges."""
        chi = min(CAP_MEAN, misfit / max(1, sum(2 * len(p.words) for p in longest))) * edges_n
        cost = chi + (f.TRACKING_COST if tracked else 0)
        cost += 0 if int(cat.family_of[row]) in families else OUTSIDE if sample else 4 * OUTSIDE
        cost += 0 if cat.instances[row].weight in (400, 700) else ODD_WEIGHT
        cost += oddity(size / scale)
        found: list[Match] = []
        drawn, least, ink = 0.35, 0.35, None
        for p in sample:
            found.append(match(p, row, size, tracking, scale))
            drawn = mean_residual(found, sample[: len(found)])
            if cost + ENERGY * min(drawn, 0.6) - KNOWN_INK > lowest[0] + HOPELESS:
                break
        if found:
            least = min(m.residual for m in found)
            ink = oklab(ink_colour(sample[0], found[0]))
        cost += ENERGY * min(drawn, 0.6)
        cost -= KNOWN_INK if ink is not None and _known(ink, inks) else 0
        lowest[0] = min(lowest[0], cost)
        scored.append((cost, Type(row, size, tracking, (drawn + 2 * least) / 3, ink=ink)))

    def score(row: int) -> None:
        refits = [f.refit(p.edges, row, sigma) for p in longest]
        tracked = sum(abs(r.tracking) > 0.01 for r in refits) * 2 > len(refits)
        plain = [f.refit(p.edges, row, sigma, tracked=False) for p in longest]
        for spaced, fit in ((True, refits), (False, plain)):
            if spaced and not tracked:
                continue
            raw_size = float(np.average([r.size for r in fit], weights=widths**2))
            tracking = float(np.average([r.tracking for r in fit], weights=widths**2)) if spaced else 0.0
            size = tidy_size(raw_size / scale, float(widths.max()) / scale) * scale
            weigh(row, size, tracking, spaced, sum(r.chi for r in fit))

    def score_at(row: int, size: float, tracked: bool) -> None:
        fit = [f.refit(p.edges, row, sigma, tracked=tracked and p.letters >= 4, size=size) for p in longest]
        tracking = float(np.average([r.tracking for r in fit], weights=widths**2)) if tracked else 0.0
        weigh(row, size, tracking, tracked, sum(r.chi for r in fit))

    def resize(t: Type) -> None:
        """Heights that were fitted to px make measured sizes a little wrong: try those nearby that people write."""
        for size in written_sizes(t.size / scale, float(widths.max()) / scale):
            if abs(size * scale - t.size) >= 0.01:
                score_at(t.row, size * scale, abs(t.tracking) > 0.01)

    def space_out() -> None:
        """Capitals are often spaced: the size that their widths ask for is then too large. In the page's own families only."""
        for row in np.flatnonzero(np.isin(cat.family_of, families)).tolist():
            if cat.instances[row].face.italic or cat.instances[row].weight < 400:
                continue
            plain = [f.refit(p.edges, row, sigma, tracked=False).size for p in longest]
            most = float(np.average(plain, weights=widths**2)) / scale
            for size in range(int(np.ceil(SPACED * most)), int(most) + 1):
                score_at(row, size * scale, True)

    def well_set() -> bool:
        """Is the face found, as far as a drawing can tell?"""
        return bool(telling) and min((t.usual for _, t in scored), default=1.0) <= FOUND

    def partly() -> bool:
        """Does the best face draw much of the text well? Then what it does not draw is set otherwise, not all of it."""
        t = min(scored, key=lambda s: (s[0], s[1].row))[1]
        well = total = 0
        for p in sample:
            for word, misfit in zip(p.words, match(p, t.row, t.size, t.tracking, scale).words):
                total += len(word.text)
                well += len(word.text) * (misfit <= WELL_SET)
        return well >= PARTLY * total

    telling = sum(p.letters for p in sample) >= WORDY  # an icon is like a letter of some face
    for inside in (
        True,
        False,
    ):  # the page's own families first: where one of them draws the text, no other is tried
        if inside or not well_set():
            for row in short:
                if (int(cat.family_of[row]) in families) == inside:
                    score(row)

    def score_weights() -> None:
        """Advances alone do not tell close weights apart: those of the two faces that draw best are all tried."""
        leads: list[Face] = []
        for _, t in sorted(scored, key=lambda s: (s[0], s[1].row)):
            if all(t.instance.face.family != face.family for face in leads):
                leads.append(t.instance.face)
        tried = {t.row for _, t in scored}
        for lead in leads[: 1 if well_set() else 2]:
            for instance in cat.instances:
                same = instance.face.family == lead.family and instance.face.italic == lead.italic
                if same and instance.row not in tried:
                    score(instance.row)

    score_weights()
    if (
        telling and min(t.usual for _, t in scored) > WELL_SET and not partly()
    ):  # the right face would be drawn better
        tried = {t.row for _, t in scored}
        best_rows: dict[int, int] = {}
        for row in np.argsort(total, kind="stable").tolist():
            best_rows.setdefault(int(cat.family_of[row]), row)
        for row in list(best_rows.values())[:WIDER]:
            if row not in tried:
                score(row)
        score_weights()
        if all(w.text.isupper() or not w.text.isalpha() for p in longest for w in p.words):
            space_out()
    if sample and min(t.usual for _, t in scored) <= DRAWN:
        for _, t in sorted(scored, key=lambda s: (s[0], s[1].row))[: 1 if well_set() else RESIZED]:
            resize(t)
    scored.sort(key=lambda s: (s[0], s[1].row, s[1].size))
    best = scored[0][1]
    runners: dict[str, float] = {}
    for _, t in scored[1:]:
        if t.instance.face.family != best.instance.face.family:
            runners.setdefault(t.instance.face.family, round(float(np.sqrt(1 - t.usual)), 3))
    best.runners = tuple(list(runners.items())[:3])
    return best


def _known(ink: NDArray[np.float64], inks: list[NDArray[np.float64]]) -> bool:
    """Is an ink one that the page uses already, or plain white or black?"""
    return any(float(np.linalg.norm(ink - k)) < 0.5 * SAME_INK for k in [*inks, *PLAIN])


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
