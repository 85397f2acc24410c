"""Type is fitted, not classified: which family, weight, size and tracking draw these words with these edges?

For a line with words i the ink edges are x0 + size * edge_i + tracking * n_i, where edge_i comes from the font's advances and
glyph boxes and n_i counts the characters before it; the ink height is size * (ymax - ymin). Least squares over a line gives
size and tracking for every instance of the catalogue at once, from a table; the best are shaped with kerning, and
drawn glyphs decide among the last few. A page uses two or three families: that prior is worth more than any single line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from statistics import median

import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type.catalogue import AVERAGE, catalogue, shape

SIGMA = 0.4  # px at 1x: standard error of a measured ink edge
CAP = 25.0  # an edge farther off than 5 sigma is a misreading, not evidence
MAX_FAMILIES = 4
FAMILY_COST = 40.0  # chi² another family must save on the page
TRACKING_COST = 18.0  # chi² that tracking must save in a style, or it is zero
SHORTLIST = 12
SPACEABLE = 4  # characters of a line whose edges can tell tracking


@dataclass(frozen=True)
class Edges:
    """One line's evidence. `left`, `right`, `top`, `bottom` (n,) in device px; words as character indices in the table."""

    texts: tuple[str, ...]
    left: NDArray[np.float64]
    right: NDArray[np.float64]
    top: NDArray[np.float64]
    bottom: NDArray[np.float64]


@dataclass(frozen=True)
class LineFit:
    """A line set in catalogue instance `row`: sizes in device px, `x` of the pen per word, `baseline`; `chi` is the misfit."""

    row: int
    size: float
    tracking: float
    chi: float


def edges_of(words: Sequence[RawWord]) -> Edges:
    boxes = np.array([w.box for w in words], dtype=np.float64).reshape(-1, 4)
    return Edges(tuple(w.text for w in words), boxes[:, 0], boxes[:, 2], boxes[:, 1], boxes[:, 3])


def _model(
    e: Edges,
) -> tuple[
    NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]
]:
    """For all instances (I): left and right edges (I, n) and ink height (I,) per px of size, and characters before each edge (n,)."""
    table, places = catalogue().table.astype(np.float64), catalogue().places
    fallback = places["n"]
    text = " ".join(e.texts)
    index = np.array([places.get(c, fallback) for c in text])
    # characters without a table row (or missing in a face) count as an average letter
    advance = table[:, index, 0].astype(np.float64)
    pen = np.concatenate([np.zeros((len(table), 1)), np.cumsum(advance, axis=1)], axis=1)
    starts, at = [], 0
    for word in e.texts:
        starts.append((at, at + len(word) - 1))
        at += len(word) + 1
    first, last = np.array([s for s, _ in starts]), np.array([t for _, t in starts])
    left = pen[:, first] + table[:, index[first], 1]
    right = pen[:, last] + table[:, index[last], 2]
    solid = index[[i for i, c in enumerate(text) if c != " "]]
    low, high = table[:, solid, 3].min(axis=1), table[:, solid, 4].max(axis=1)
    return left, right, (high - low).astype(np.float64), first.astype(np.float64), last.astype(np.float64)


def fit_all(e: Edges, sigma: float) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """(chi², size, tracking) of every instance for one line, without kerning."""
    left, right, height, n_left, n_right = _model(e)
    measured = np.concatenate([e.left, e.right])
    predicted = np.concatenate([left, right], axis=1)
    counts = np.concatenate([n_left, n_right])
    tall = float(e.bottom.max() - e.top.min())
    chi, size = _solve(predicted, measured, height, tall, sigma)
    tracking = np.zeros_like(size)
    if len(" ".join(e.texts)) >= 4 and measured.size >= 2:
        chi_t, size_t, track_t = _solve_tracked(predicted, counts, measured, height, tall, sigma)
        better = (
            (chi_t + TRACKING_COST < chi)
            & (np.abs(track_t) > 0.012 * size_t)
            & (np.abs(track_t) < 0.4 * size_t)
        )
        chi, size, tracking = (
            np.where(better, chi_t + TRACKING_COST, chi),
            np.where(better, size_t, size),
            np.where(better, track_t, 0.0),
        )
    return chi, size, tracking


def _solve(
    predicted: NDArray, measured: NDArray, height: NDArray, tall: float, sigma: float
) -> tuple[NDArray, NDArray]:
    """Least squares for offset and size, the ink height being one more equation; chi² with outliers capped."""
    weight_h = 0.5  # the height is two edges, each uncertain by hinting and stray ink
    pm, mm = predicted.mean(axis=1, keepdims=True), measured.mean()
    top = ((predicted - pm) * (measured - mm)).sum(axis=1) + weight_h * height * tall
    below = ((predicted - pm) ** 2).sum(axis=1) + weight_h * height**2
    size = top / np.maximum(below, 1e-9)
    off = (measured - mm)[None] - size[:, None] * (predicted - pm)
    chi = np.minimum((off / sigma) ** 2, CAP).sum(axis=1) + np.minimum(
        weight_h * ((tall - size * height) / sigma) ** 2, 2 * CAP
    )
    return chi, size


def _solve_tracked(
    predicted: NDArray, counts: NDArray, measured: NDArray, height: NDArray, tall: float, sigma: float
) -> tuple[NDArray, NDArray, NDArray]:
    weight_h = 0.5
    p = predicted - predicted.mean(axis=1, keepdims=True)
    c = (counts - counts.mean())[None]
    m = (measured - measured.mean())[None]
    a11, a12, a22 = (p * p).sum(1) + weight_h * height**2, (p * c).sum(1), (c * c).sum(1) + 1e-9
    b1, b2 = (p * m).sum(1) + weight_h * height * tall, (c * m).sum(1)
    det = np.maximum(a11 * a22 - a12**2, 1e-9)
    size, tracking = (a22 * b1 - a12 * b2) / det, (a11 * b2 - a12 * b1) / det
    off = m - size[:, None] * p - tracking[:, None] * c
    chi = np.minimum((off / sigma) ** 2, CAP).sum(axis=1) + np.minimum(
        weight_h * ((tall - size * height) / sigma) ** 2, 2 * CAP
    )
    return chi, size, tracking


def page_families(chis: Sequence[NDArray[np.float64]]) -> list[int]:
    """The few families that together explain all lines: greedy, each new one must save FAMILY_COST in chi²."""
    cat = catalogue()
    best = np.stack([_per_family(c, cat.family_of, len(cat.families)) for c in chis])
    capped = np.minimum(best, best.min(axis=1, keepdims=True) + 60)
    chosen: list[int] = []
    current = np.full(len(capped), np.inf)
    while len(chosen) < MAX_FAMILIES:
        totals = np.minimum(current[:, None], capped).sum(axis=0)
        pick = int(totals.argmin())
        if chosen and current.sum() - totals[pick] < FAMILY_COST:
            break
        chosen.append(pick)
        current = np.minimum(current, capped[:, pick])
    return chosen


def _per_family(chi: NDArray[np.float64], family_of: NDArray[np.int32], n: int) -> NDArray[np.float64]:
    out = np.full(n, np.inf)
    np.minimum.at(out, family_of, chi)
    return out


def refit(
    e: Edges, row: int, sigma: float, tracked: bool | None = None, size: float | None = None
) -> LineFit:
    """Fit one instance with kerning. `tracked`: None decides by chi²; `size` in device px holds the size fixed."""
    if tracked is None:
        plain, spaced = refits(e, row, sigma)
        return spaced if spaced is not None and spaced.chi + TRACKING_COST < plain.chi else plain
    return _refit(e, row, sigma, tracked and len(" ".join(e.texts)) >= SPACEABLE, size)


def refits(e: Edges, row: int, sigma: float) -> tuple[LineFit, LineFit | None]:
    """One instance fitted with kerning, without tracking and with it (None: too few letters tell)."""
    plain = _refit(e, row, sigma, False)
    return plain, _refit(e, row, sigma, True) if len(" ".join(e.texts)) >= SPACEABLE else None


def _refit(e: Edges, row: int, sigma: float, track: bool, size: float | None = None) -> LineFit:
    predicted, counts, height = _kerned(row, e.texts, track)
    measured = np.concatenate([e.left, e.right])
    tall = float(e.bottom.max() - e.top.min())
    if size is not None:
        m, p = measured - measured.mean(), predicted - predicted.mean()
        c = counts - counts.mean()
        t = float((c * (m - size * p)).sum() / max((c * c).sum(), 1e-9)) if track else 0.0
        off = m - size * p - t * c
        return LineFit(row, size, t, float(np.minimum((off / sigma) ** 2, CAP).sum()))
    if track:
        chi, s, tr = _solve_tracked(predicted[None], counts, measured, np.array([height]), tall, sigma)
        return LineFit(row, float(s[0]), float(tr[0]), float(chi[0]))
    chi, s = _solve(predicted[None], measured, np.array([height]), tall, sigma)
    return LineFit(row, float(s[0]), 0.0, float(chi[0]))


@lru_cache(maxsize=20_000)
def _kerned(
    row: int, texts: tuple[str, ...], track: bool
) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
    """Of a line's words, kerned: their left and then their right edges in em (2n,), the characters before each (2n,), and how high
    their ink is, in em."""
    text = " ".join(texts)
    cat = catalogue()
    shaped = shape(row, text, track)
    pens: dict[int, float] = {}
    for cluster, x in zip(shaped.clusters, shaped.x):
        pens.setdefault(cluster, x)
    left, right, n_left, n_right, at = [], [], [], [], 0
    for word in texts:
        first, last = at, at + len(word) - 1
        left.append(pens.get(first, 0.0) + extent(row, word[0], 1))
        if last in pens:
            right.append(pens[last] + extent(row, word[-1], 2))
        else:  # the last letter is part of a ligature
            following = pens.get(last + 1, shaped.advance)
            right.append(following - (extent(row, word[-1], 0) - extent(row, word[-1], 2)))
        n_left.append(first)
        n_right.append(last)
        at += len(word) + 1
    places = [cat.places[c] for c in text if c != " " and c in cat.places]
    box = np.asarray(cat.table[row, places] if places else np.zeros((1, 5)), np.float64)
    height = float(box[:, 4].max()) - float(box[:, 3].min()) or 1.0
    return np.array(left + right), np.array(n_left + n_right, dtype=np.float64), height


def extent(row: int, char: str, column: int) -> float:
    """A character's advance (column 0), or its box's xmin, xmax, ymin, ymax (1 to 4), in em."""
    cat = catalogue()
    place = cat.places.get(char)
    return float(cat.table[row, place, column]) if place is not None else AVERAGE[column]


def baseline_of(e: Edges, row: int, size: float) -> float:
    """The baseline (device px, fractional) that the words' tops and bottoms agree on."""
    votes = []
    for word, top, bottom in zip(e.texts, e.top.tolist(), e.bottom.tolist()):
        reach = _reach(row, word)
        if reach is not None:
            votes += [top + size * reach[0], bottom + size * reach[1]]
    return median(votes) if votes else float(e.bottom.max())


@lru_cache(maxsize=20_000)
def _reach(row: int, word: str) -> tuple[float, float] | None:
    """How far a word's ink reaches above and below its baseline, in em, by the letters that have a row in the table."""
    cat = catalogue()
    places = [cat.places[c] for c in word if c in cat.places]
    if not places:
        return None
    box = cat.table[row, places]
    return float(box[:, 4].max()), float(box[:, 3].min())


def ink_rows(row: int, text: str) -> tuple[float, float]:
    """How far a text's ink reaches above and below its baseline (below: negative), in em."""
    return max(extent(row, c, 4) for c in text), min(extent(row, c, 3) for c in text)


def pen_positions(e: Edges, row: int, size: float, tracking: float) -> NDArray[np.float64]:
    """Where the pen of each word starts, from both its ink edges (device px)."""
    out = []
    for word, left, right in zip(e.texts, e.left.tolist(), e.right.tolist()):
        first, last = _ends(row, word, abs(tracking) > 0.01)
        start = left - size * first
        end = right - size * last - tracking * (len(word) - 1)
        out.append((start + end) / 2 if abs(start - end) < 2.5 else start)
    return np.array(out)


@lru_cache(maxsize=20_000)
def _ends(row: int, word: str, tracked: bool) -> tuple[float, float]:
    """Where a word's ink begins and ends, in em from its pen."""
    shaped = shape(row, word, tracked)
    whole = shaped.clusters[-1] == len(word) - 1
    return extent(row, word[0], 1), (
        shaped.x[-1] + extent(row, word[-1], 2) if whole else shaped.advance - 0.03
    )
