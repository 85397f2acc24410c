"""One group of lines on trial: which of all instances, at which size and tracking, draws them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.colour import oklab
from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import Face, catalogue
from neige.core.reading.type.kinds import Type, mean_residual, oddity, sample_of, tidy_size, written_sizes
from neige.core.reading.type.match import SAME_INK, Match, ink_colour, match
from neige.core.reading.type.pieces import Piece

LONGEST = 5  # members whose edges rank the instances
ENERGY = 900.0  # chi² that the whole ink's energy is worth
OUTSIDE = 8.0  # chi² for a family that the page does not use
OUTSIDE_EDGES = 12.0  # the same where only edges are compared
ODD_WEIGHT = 2.0  # chi² for a weight other than 400 and 700
CAP_MEAN = 9.0  # mean chi² per edge beyond which fits are equally bad
MOST_EDGES = 40
KNOWN_INK = 6.0  # chi² that a candidate gains whose ink is one of the page's
PLAIN = (oklab(np.array([255.0, 255.0, 255.0])), oklab(np.zeros(3)))
HOPELESS = 45.0  # chi² above the best so far at which a candidate is not drawn any further,
GLANCE = 90.0  # and above it in the first few words,
FIRST = 12  # which have so many letters
FOUND = 0.012  # residual under which a face is taken for the right one
WELL_SET = 0.05  # residual of the right face, fitted like the picture, at most
WORDY = 6  # letters
PARTLY = 0.4  # of a text's letters
TIGHT = 1.12  # times the size that widths ask for, that tight type is set in at most
SPACED = 0.8  # of the size that the width of spaced capitals asks for, that they are set in at least
WIDER = 24  # families that are drawn where none of the likeliest is right
UNKNOWN = 0.45  # residual of the likeliest faces from which none but those of code is tried besides
DRAWN = 0.5  # residual of the best face from which no size of any would draw it
RESIZED = 3  # of the likeliest types, whose neighbouring sizes are drawn as well
UNDRAWN = 0.35  # residual that stands for ink that cannot be compared with a drawing

Fits = tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]


class Trial:
    """Edges rank all instances, drawn ink decides among the best.

    Small type cannot tell a heavier weight from a darker ink; an ink that the page already uses (`inks`, OKLab) tips the scale.
    """

    def __init__(
        self, members: list[Piece], fits: list[Fits], families: list[int], inks: list[NDArray[np.float64]], sigma: float, scale: int
    ) -> None:  # fmt: skip
        self.cat, self.families, self.inks, self.sigma, self.scale = catalogue(), families, inks, sigma, scale
        order = sorted(range(len(members)), key=lambda i: (-members[i].letters, i))[:LONGEST]
        self.longest = [members[i] for i in order]
        self.chi = np.sum([fits[i][0] for i in order], axis=0)
        self.sample = sample_of(self.longest)
        self.edges = sum(2 * len(p.words) for p in self.longest)
        self.widths = np.array([p.width for p in self.longest])
        self.glance = _first_words(self.sample)
        self.telling = sum(p.letters for p in self.sample) >= WORDY  # an icon is like a letter of some face
        self.scored: list[tuple[float, Type]] = []
        self.lowest = float("inf")

    def best(self) -> Type:
        """The type that costs least, with the families that come next."""
        short = self._shortlist()
        for inside in (
            True,
            False,
        ):  # the page's own families first: where one of them draws the text, no other is tried
            if inside or not self._well_set():
                for row in short:
                    if self._inside(row) == inside:
                        self._score(row)
        self._score_weights()
        if (
            self.telling and self._least() > WELL_SET and not self._partly()
        ):  # the right face would be drawn better
            self._score_wider(self._least() > UNKNOWN)
            self._score_weights()
            if all(w.text.isupper() or not w.text.isalpha() for p in self.longest for w in p.words):
                self._track(SPACED, 1.0)
            if self._least() > WELL_SET:
                self._track(1.0, TIGHT)
        if self.sample and self._least() <= DRAWN:
            for t in list(self._ranked())[: 1 if self._well_set() else RESIZED]:
                self._resize(t)
        self.scored.sort(key=lambda s: (s[0], s[1].row, s[1].size))
        best = self.scored[0][1]
        runners: dict[str, float] = {}
        for _, t in self.scored[1:]:
            if t.instance.face.family != best.instance.face.family:
                runners.setdefault(t.instance.face.family, round(float(np.sqrt(1 - t.usual)), 3))
        best.runners = tuple(list(runners.items())[:3])
        return best

    def _shortlist(self) -> list[int]:
        """The best instance of each of the likeliest families, and a few more of the page's own."""
        outside = ~np.isin(self.cat.family_of, self.families)
        ranked = np.argsort(self.chi + outside * OUTSIDE_EDGES, kind="stable")
        short: list[int] = []
        seen: dict[int, int] = defaultdict(int)
        first = int(self.cat.family_of[ranked[0]])
        for row in ranked:
            family = int(self.cat.family_of[row])
            if seen[family] < (6 if family == first or family in self.families else 1):
                short.append(int(row))
                seen[family] += 1
            if len(short) >= f.SHORTLIST:
                break
        for (
            row
        ) in ranked:  # edges may lie (letters that touch): the page's own families are drawn in any case
            family = int(self.cat.family_of[row])
            if family in self.families and not seen[family]:
                short.append(int(row))
                seen[family] += 1
        return short

    def _inside(self, row: int) -> bool:
        return int(self.cat.family_of[row]) in self.families

    def _ranked(self) -> Iterator[Type]:
        """The types tried so far, the likeliest first."""
        return (t for _, t in sorted(self.scored, key=lambda s: (s[0], s[1].row)))

    def _least(self) -> float:
        return min((t.usual for _, t in self.scored), default=1.0)

    def _well_set(self) -> bool:
        """Is the face found, as far as a drawing can tell?"""
        return self.telling and self._least() <= FOUND

    def _partly(self) -> bool:
        """Does the best face draw much of the text well? Then what it does not draw is set otherwise, not all of it."""
        t = next(self._ranked())
        well = total = 0
        for p in self.sample:
            for word, misfit in zip(p.words, match(p, t.row, t.size, t.tracking, self.scale).words):
                total += len(word.text)
                well += len(word.text) * (misfit <= WELL_SET)
        return well >= PARTLY * total

    def _weigh(self, row: int, size: float, tracking: float, tracked: bool, misfit: float) -> None:
        """Draw the sample at a size, and say what that costs. `misfit`: chi² of all edges."""
        cost = min(CAP_MEAN, misfit / max(1, self.edges)) * min(MOST_EDGES, self.edges)
        cost += f.TRACKING_COST if tracked else 0
        cost += 0 if self._inside(row) else OUTSIDE if self.sample else 4 * OUTSIDE
        cost += 0 if self.cat.instances[row].weight in (400, 700) else ODD_WEIGHT
        cost += oddity(size / self.scale)
        if cost - KNOWN_INK > self.lowest:  # however well it draws
            return
        found: list[Match] = []
        drawn, least, ink = UNDRAWN, UNDRAWN, None

        def hopeless(above: float) -> bool:
            return cost + ENERGY * min(drawn, 0.6) - KNOWN_INK > self.lowest + above

        if self.glance is not None:
            drawn = least = match(self.glance, row, size, tracking, self.scale).residual
        if self.glance is None or not hopeless(GLANCE):
            for p in self.sample:
                found.append(match(p, row, size, tracking, self.scale))
                drawn = mean_residual(found, self.sample[: len(found)])
                if hopeless(HOPELESS):
                    break
            else:
                ink = oklab(ink_colour(self.sample[0], found[0])) if found else None
            least = min((m.residual for m in found), default=least)
        cost += ENERGY * min(drawn, 0.6)
        cost -= KNOWN_INK if ink is not None and self._known(ink) else 0
        self.lowest = min(self.lowest, cost)
        self.scored.append((cost, Type(row, size, tracking, (drawn + 2 * least) / 3, ink=ink)))

    def _known(self, ink: NDArray[np.float64]) -> bool:
        """Is an ink one that the page uses already, or plain white or black?"""
        return any(float(np.linalg.norm(ink - k)) < 0.5 * SAME_INK for k in [*self.inks, *PLAIN])

    def _score(self, row: int) -> None:
        """Try an instance at the size that the edges ask for, and with tracking if they ask for that."""
        both = [f.refits(p.edges, row, self.sigma) for p in self.longest]
        plain = [p for p, _ in both]
        fitted = [s if s is not None and s.chi + f.TRACKING_COST < p.chi else p for p, s in both]
        tracked = sum(abs(r.tracking) > 0.01 for r in fitted) * 2 > len(fitted)
        for spaced, fit in ((True, fitted), (False, plain)):
            if spaced and not tracked:
                continue
            raw_size = float(np.average([r.size for r in fit], weights=self.widths**2))
            tracking = float(np.average([r.tracking for r in fit], weights=self.widths**2)) if spaced else 0.0
            size = tidy_size(raw_size / self.scale, float(self.widths.max()) / self.scale) * self.scale
            self._weigh(row, size, tracking, spaced, sum(r.chi for r in fit))

    def _score_at(self, row: int, size: float, tracked: bool) -> None:
        fit = [
            f.refit(p.edges, row, self.sigma, tracked=tracked and p.letters >= 4, size=size)
            for p in self.longest
        ]
        tracking = float(np.average([r.tracking for r in fit], weights=self.widths**2)) if tracked else 0.0
        self._weigh(row, size, tracking, tracked, sum(r.chi for r in fit))

    def _score_weights(self) -> None:
        """Advances alone do not tell close weights apart: those of the two faces that draw best are all tried."""
        leads: list[Face] = []
        for t in self._ranked():
            if all(t.instance.face.family != face.family for face in leads):
                leads.append(t.instance.face)
        tried = {t.row for _, t in self.scored}
        for lead in leads[: 1 if self._well_set() else 2]:
            for instance in self.cat.instances:
                same = instance.face.family == lead.family and instance.face.italic == lead.italic
                if same and instance.row not in tried:
                    self._score(instance.row)

    def _score_wider(self, unlike: bool) -> None:
        """Try the best instances of more families; where the likeliest draw something `unlike` it, of those whose letters are all as
        wide as each other, which no width of a word tells."""
        tried = {t.row for _, t in self.scored}
        best_rows: dict[int, int] = {}
        for row in np.argsort(self.chi, kind="stable").tolist():
            best_rows.setdefault(int(self.cat.family_of[row]), row)
        if unlike:
            rows = [r for r in best_rows.values() if self.cat.instances[r].face.category == "monospace"]
        else:
            rows = list(best_rows.values())[:WIDER]
        for row in rows:
            if row not in tried:
                self._score(row)

    def _track(self, least: float, most: float) -> None:
        """Capitals are often spaced: the size that their widths ask for is then too large; where type is set tight it is too small.
        Tries whole px between `least` and `most` times that size, in the page's own families only."""
        for row in np.flatnonzero(np.isin(self.cat.family_of, self.families)).tolist():
            if self.cat.instances[row].face.italic or self.cat.instances[row].weight < 400:
                continue
            plain = [f.refit(p.edges, row, self.sigma, tracked=False).size for p in self.longest]
            asked = float(np.average(plain, weights=self.widths**2)) / self.scale
            for size in range(int(np.ceil(least * asked)), int(most * asked) + 1):
                self._score_at(row, size * self.scale, True)

    def _resize(self, t: Type) -> None:
        """Heights that were fitted to px make measured sizes a little wrong: try those nearby that people write."""
        for size in written_sizes(t.size / self.scale, float(self.widths.max()) / self.scale):
            if abs(size * self.scale - t.size) >= 0.01:
                self._score_at(t.row, size * self.scale, abs(t.tracking) > 0.01)


def _first_words(sample: Sequence[Piece]) -> Piece | None:
    """The first words of the longest piece, by which most types are seen to be wrong; none where that is most of it."""
    if not sample:
        return None
    words, letters = sample[0].words, 0
    for count, w in enumerate(words, start=1):
        letters += len(w.text)
        if letters >= FIRST:
            return sample[0].part(words[:count]) if 2 * letters <= sample[0].letters else None
    return None
