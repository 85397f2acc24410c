"""The few types that a page is set in: decided from pooled lines by drawing, tried on every line and then on every word.

Global before local: a page uses few types. Groups of lines that look set alike are taken from the largest down; each first
tries the types already found and only founds a new one if its ink asks for it. Words that a line's type does not explain are
then tried in the page's other types (bold, italic, code inside a line), and only what is left is doubted letter by letter.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Pin
from neige.core.reading.colour import oklab
from neige.core.reading.pins import is_about
from neige.core.reading.text.lines import RawWord, around
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import Face, Instance, catalogue, shape
from neige.core.reading.type.match import SAME_INK, Match, ink_colour, locate, match
from neige.core.reading.type.pieces import Piece
from neige.core.reading.type.settle import join_words, settle

SAMPLE = 3  # pieces of a group that are drawn to judge a type
LIKELY = 10  # instances, by edges, that are drawn both ways
TELLING_LINES = 8  # that say how the page's text was drawn
TELLING = 48  # letters of a long line that are drawn
ENERGY = 900.0  # chi² that the whole ink's energy is worth
OUTSIDE = 8.0  # chi² for a family that the page does not use
ODD_WEIGHT = 2.0  # chi² for a weight other than 400 and 700
ODD_SIZE = 3.0  # chi² for a size that is no whole or half px
CAP_MEAN = 9.0  # mean chi² per edge beyond which fits are equally bad
WELL = 0.14  # residual up to which a type explains its ink
DOUBTFUL = 0.12  # residual from which one word is tried in other types
KNOWN_INK = 6.0  # chi² that a candidate gains whose ink is one of the page's
PLAIN = (oklab(np.array([255.0, 255.0, 255.0])), oklab(np.zeros(3)))
UNLIKE_EACH_OTHER = 0.22  # residual of a group's type from which its members are taken one by one
SETTLED = (
    0.05  # residual up to which a group is taken for one type without looking at its members by themselves
)
FOUND = 0.9  # correlation at which a word is found inside ink
NEAR_SIZE = 0.022  # by which sizes of one family differ that may be meant to be one
HOPELESS = 45.0  # chi² above the best so far at which a candidate is not drawn any further
WELL_SET = 0.05  # residual of the right face, fitted like the picture, at most
WORDY = 6  # letters
WIDER = 24  # families that are drawn where none of the likeliest is right
RESIZED = 3  # of the likeliest types, whose neighbouring sizes are drawn as well
REACHES = ((90.0, 0.09), (250.0, 0.05), (float("inf"), 0.025))  # of a size, by the widest line's px
FAIR = 0.035  # residual up to which no other type is tried for a whole piece
GLUED = 0.14  # em: what stands nearer to a word is part of it
UNLIKE_TWO = 0.55  # and a pair of letters
ICON = 0.4  # residual from which a lone sign beside words is an icon
CODE_SIZES = (
    0.8,
    0.85,
    0.875,
    0.9,
    0.9375,
    1.0,
)  # of the line's size: code inside a line is usually set smaller


@dataclass(eq=False)
class Type:
    """Catalogue instance `row` at `size` and `tracking` (device px); `usual`: the residual of its own lines."""

    row: int
    size: float
    tracking: float
    usual: float
    runners: tuple[tuple[str, float], ...] = ()
    ink: NDArray[np.float64] | None = None  # OKLab of its largest piece's ink
    members: list[Piece] = field(default_factory=list)

    @property
    def instance(self) -> Instance:
        return catalogue().instances[self.row]

    @property
    def letters(self) -> int:
        return sum(p.letters for p in self.members)


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
    for _ in range(2):  # what strays make types of their own may draw others that stayed
        for p in _strays(types, scale):
            _found_type([p], [fits_of[id(p)]], types, families, sigma, scale)
    _absorb_rare(types, scale)
    _agree(types, scale)
    for kind in types:
        _untangle_icons(kind, types, scale)
    for kind in list(types):
        _split_words(kind, types, families, scale)
    _pin_types(types, pins, sigma, scale)
    for kind in types:
        for p in kind.members:
            if p.flat and kind.usual < 0.4:
                _drop_icons(p, kind, scale)
                settle(p, kind.row, kind.size, kind.tracking, kind.usual, scale)
                join_words(p, kind.row, kind.size, kind.tracking, scale)
    return _unequal(types)


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


def _sample(members: Sequence[Piece], most: int = SAMPLE) -> list[Piece]:
    """The longest pieces whose ink can be compared with a drawing, or enough of their words to tell."""
    out = []
    for p in sorted((p for p in members if p.flat), key=lambda p: -p.letters)[:most]:
        count = int(np.searchsorted(np.cumsum([len(w.text) for w in p.words]), TELLING)) + 1
        out.append(p.part(p.words[:count]) if count < len(p.words) else p)
    return out


def _mean(found: Sequence[Match], sample: Sequence[Piece]) -> float:
    return float(np.average([m.residual for m in found], weights=[p.letters for p in sample]))


def _found_type(
    members: list[Piece], fits: list[Fits], types: list[Type], families: list[int], sigma: float, scale: int
) -> None:
    """Put a group into a type that already explains it, or found one."""
    sample = _sample(members)
    tried: list[tuple[float, Type]] = []
    for t in types:
        if sample and any(_size_near(p, t) for p in sample):
            tried.append((_mean([match(p, t.row, t.size, t.tracking, scale) for p in sample], sample), t))
    best, kind = min(tried, key=lambda x: x[0], default=(1.0, None))
    if kind is not None and best <= min(kind.usual + 0.006, UNLIKE_EACH_OTHER):
        kind.members += members
        return
    if len(members) == 1 and sample and len(members[0].words) >= 3:
        # one word read wrongly, or in bold, must not found a type for its whole line
        for _, t in sorted(tried, key=lambda x: x[0])[:2]:
            if _typical(members[0], t, scale) <= max(0.03, 2 * t.usual):
                t.members += members
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
    letters = sum(p.letters for p in sample)
    margin = 0.008 + 0.5 / max(letters, 10)
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


def _typical(p: Piece, t: Type, scale: int) -> float:
    """How badly a type draws a piece's words, odd ones not counted: the (lower) median of their residuals."""
    return float(np.quantile(match(p, t.row, t.size, t.tracking, scale).words, 0.5, method="lower"))


def _size_near(p: Piece, t: Type) -> bool:
    """Could a piece be set in a type? Its width must agree within a tenth, or an em for short ones."""
    text = " ".join(p.edges.texts)
    width = shape(t.row, text, abs(t.tracking) > 0.01).advance * t.size + t.tracking * len(text)
    return abs(width - p.width) <= max(0.08 * p.width, (0.45 if len(p.words) < 3 else 0.95) * t.size)


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
    sample = _sample(longest)
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
            drawn = _mean(found, sample[: len(found)])
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
        if not tracked:
            refits = [f.refit(p.edges, row, sigma, tracked=False) for p in longest]
        raw_size = float(np.average([r.size for r in refits], weights=widths**2))
        tracking = float(np.average([r.tracking for r in refits], weights=widths**2)) if tracked else 0.0
        size = tidy_size(raw_size / scale, float(widths.max()) / scale) * scale
        weigh(row, size, tracking, tracked, sum(r.chi for r in refits))

    def resize(t: Type) -> None:
        """Heights that were fitted to px make measured sizes a little wrong: try those nearby that people write."""
        tracked = abs(t.tracking) > 0.01
        for size in written_sizes(t.size / scale, float(widths.max()) / scale):
            if abs(size * scale - t.size) < 0.01:
                continue
            refits = [
                f.refit(p.edges, t.row, sigma, tracked=tracked and p.letters >= 4, size=size * scale)
                for p in longest
            ]
            tracking = float(np.average([r.tracking for r in refits], weights=widths**2)) if tracked else 0.0
            weigh(t.row, size * scale, tracking, tracked, sum(r.chi for r in refits))

    for row in short:
        score(row)
    # advances alone do not tell close weights apart: those of the two faces that draw best are all tried
    leads: list[Face] = []
    for _, t in sorted(scored, key=lambda s: (s[0], s[1].row)):
        if all(t.instance.face.family != face.family for face in leads):
            leads.append(t.instance.face)
    for lead in leads[:2]:
        for instance in cat.instances:
            same = instance.face.family == lead.family and instance.face.italic == lead.italic
            if same and instance.row not in short:
                score(instance.row)
    telling = sum(p.letters for p in sample) >= WORDY  # an icon is like a letter of some face
    if telling and min(t.usual for _, t in scored) > WELL_SET:  # the right face would be drawn better
        tried = {t.row for _, t in scored}
        best_rows: dict[int, int] = {}
        for row in np.argsort(total, kind="stable").tolist():
            best_rows.setdefault(int(cat.family_of[row]), row)
        for row in list(best_rows.values())[:WIDER]:
            if row not in tried:
                score(row)
    if sample:
        for _, t in sorted(scored, key=lambda s: (s[0], s[1].row))[:RESIZED]:
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


def oddity(size: float) -> float:
    """What a size in px costs for not being one that people write: whole, a half, or a twentieth of the root's size."""
    if size % 1 < 1e-6:
        return 0.0
    near = min((size * k) % 1 if (size * k) % 1 < 0.5 else 1 - (size * k) % 1 for k in (2.0, 1.25))
    return 0.5 * ODD_SIZE if near < 1e-3 else ODD_SIZE


def written_sizes(size: float, widest: float) -> list[float]:
    """Sizes in px near `size` that people write; how near depends on what the widest line (px) can tell."""
    reach = next(r for w, r in REACHES if widest < w) * size
    steps = [
        k * step
        for step in (0.5, 0.8)
        for k in range(int((size - reach) / step), int((size + reach) / step) + 2)
    ]
    return sorted({round(s, 2) for s in steps if abs(s - size) <= reach})


def tidy_size(size: float, widest: float) -> float:
    """Whole px if the evidence allows, else half, else fifths or tenths: the tolerance is what the widest line can tell."""
    tolerance = float(np.clip(size * 0.9 / max(widest, 1.0), 0.012, 0.45))
    for step in (1.0, 0.5, 0.2, 0.1):
        near = round(size / step) * step
        if abs(near - size) <= tolerance * (1.3 if step == 1 else 0.6):
            return round(near, 3)
    return round(size, 2)


def _strays(types: list[Type], scale: int) -> list[Piece]:
    """Take pieces out of types that do not draw them: into the one that does best, or, if none does, into the result."""
    out: list[Piece] = []
    for kind in list(types):
        if kind.usual > UNLIKE_EACH_OTHER:
            continue
        for p in list(kind.members):
            if not p.flat:
                continue
            own = match(p, kind.row, kind.size, kind.tracking, scale).residual
            if own <= FAIR:
                continue
            tried = [
                (match(p, t.row, t.size, t.tracking, scale).residual, n)
                for n, t in enumerate(types)
                if t is not kind and _size_near(p, t)
            ]
            best, n = min(tried, default=(1.0, -1))
            far = max(0.05, 3 * kind.usual)
            unlike = own > far and (len(p.words) < 3 or _typical(p, kind, scale) > far)
            # two weights of one size in one group: what the other draws three times as well is the other's
            if (p.letters >= 6 and best < 0.35 * own) or (
                unlike and best < 0.6 * own and best <= max(0.05, 3 * types[n].usual)
            ):
                types[n].members.append(p)
            elif unlike and own > max(0.1, 4 * kind.usual):
                out.append(p)
            else:
                continue
            kind.members.remove(p)
    types[:] = [t for t in types if t.members]
    return out


def _absorb_rare(types: list[Type], scale: int) -> None:
    """Give the pieces of rare types to a commoner one that draws them as well: one word cannot tell close sizes apart."""
    letters = {id(t): t.letters for t in types}
    for rare in sorted(types, key=lambda t: letters[id(t)]):
        for p in list(rare.members):
            if not p.flat:
                continue
            own = match(p, rare.row, rare.size, rare.tracking, scale).residual
            best: tuple[float, Type] | None = None
            for t in types:
                if t is rare or letters[id(t)] < max(2 * letters[id(rare)], 12) or not _size_near(p, t):
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


def _agree(types: list[Type], scale: int) -> None:
    """Types of one family whose sizes hardly differ are set at the size of the one with more letters, if that draws them as well:
    bold and italic words stand in lines of another weight, at the same size."""
    for t in sorted(types, key=lambda t: t.letters):
        sample = _sample(t.members)
        for u in sorted(types, key=lambda u: -u.letters):
            near = 0 < abs(t.size / u.size - 1) <= NEAR_SIZE and abs(t.tracking - u.tracking) < 0.02
            if u is t or not near or u.letters < 1.5 * t.letters or not sample:
                continue
            if u.instance.face.family != t.instance.face.family:
                continue
            drawn = _mean([match(p, t.row, u.size, t.tracking, scale) for p in sample], sample)
            own = _mean([match(p, t.row, t.size, t.tracking, scale) for p in sample], sample)
            if drawn <= own + 0.01 + 0.3 / max(t.letters, 6):
                t.size = u.size
                break


def _untangle_icons(kind: Type, types: list[Type], scale: int) -> None:
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
        plain = [
            (_typical(p, t, scale), n) for n, t in enumerate(common) if t is not kind and _size_near(p, t)
        ]
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


def _drop_icons(p: Piece, kind: Type, scale: int) -> None:
    """Leave out a lone sign at either end that is an icon: its ink is not that sign, and the other words' ink is theirs."""
    for end in (0, -1):
        if len(p.words) < 2 or len(p.words[end].text) > 2 or p.words[end].text.isdigit():
            continue
        if p.words[end].text == "©" and p.words[1].text[:2] in ("19", "20"):
            continue
        misfits = match(p, kind.row, kind.size, kind.tracking, scale).words
        others = np.delete(misfits, end)
        if (
            misfits[end] > (ICON if len(p.words[end].text) == 1 else UNLIKE_TWO)
            and float(np.median(others)) < 0.25
        ):
            p.spell(p.words[1:] if end == 0 else p.words[:-1])


def _split_words(kind: Type, types: list[Type], families: list[int], scale: int) -> None:
    """Give words that their line's type does not draw to the type of the page, or of its family, that does."""
    if kind.usual > 0.2:
        return
    for p in list(kind.members):
        if not p.flat or len(p.words) < 2:
            continue
        fits_of = match(p, kind.row, kind.size, kind.tracking, scale).words
        limit = max(DOUBTFUL, 3 * kind.usual)
        if not (fits_of > limit).any() or (fits_of > limit).mean() > 0.8:
            continue
        settle(p, kind.row, kind.size, kind.tracking, kind.usual, scale)  # a lost letter is no other type
        fits_of = match(p, kind.row, kind.size, kind.tracking, scale).words
        homes: list[Type | None] = [None] * len(p.words)
        for n in np.flatnonzero(fits_of > limit).tolist():
            homes[n] = _home(p.part([p.words[n]]), float(fits_of[n]), kind, types, families, scale)
        if not any(homes):
            continue
        kind.members.remove(p)
        start = 0
        for n in range(1, len(homes) + 1):
            if n == len(homes) or homes[n] is not homes[start]:
                (homes[start] or kind).members.append(p.part(p.words[start:n]))
                start = n


def _home(
    p: Piece, misfit: float, kind: Type, types: list[Type], families: list[int], scale: int
) -> Type | None:
    """The type that draws one word far better than the line's own does, or None."""
    best: tuple[float, Type] | None = None
    bound = min(0.5 * misfit, max(0.1, 2.5 * kind.usual))
    for t in types:
        if t is not kind and _size_near(p, t) and t.usual < 0.2:
            found = match(p, t.row, t.size, t.tracking, scale).residual
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
            if not _size_near(p, t):
                continue
            found = match(p, t.row, t.size, 0.0, scale).residual
            if found < bound and (best is None or found < best[0] - 0.004):
                t.usual = found
                best = found, t
    if best is None:
        return None
    types.append(best[1])
    return best[1]


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
        drawn = _sample(kind.members)
        kind.usual = (
            _mean([match(p, kind.row, kind.size, kind.tracking, scale) for p in drawn], drawn)
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
