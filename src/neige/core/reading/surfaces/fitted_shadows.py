"""What shadows darken the ground beside boxes as it is there: one or two, fitted to all their sides at once, in CSS terms.

Two shadows leave (1 - a)(1 - b) of the ground where they overlap. A blur is a Gaussian's, or that of three boxes over each other, by which
browsers without a graphics card blur; at most 1 % apart, but fitted with the other, a shadow comes out paler, narrower and wider spread.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares
from scipy.special import ndtr

from neige.core.model import Shadow
from neige.core.reading.colour import from_hex, to_hex
from neige.core.reading.surfaces.shadows import TINTED, Edge, Samples, Side, of_boxes

EDGES: tuple[Edge, ...] = (ndtr, of_boxes)
FITS = 0.55  # 8-bit steps (root mean square) off: rounding, and what a blur is off both
HOPELESS = 3.0  # 8-bit steps that one shadow is off where two are not enough, either,
OF_PEAK = 0.02  # and share of the darkest shade more
BETTER = 0.7  # share of the error before for which more is fitted
SPREAD_COSTS = 0.3  # 8-bit steps a px
LOW = (0.0, 0.5, -1.0, -20.0)  # opacity, standard deviation, dy, spread
HIGH = (0.6, 40.0, 40.0, 4.0)
SHADE = 0.5  # 8-bit steps
RIGHT, LEFT = 1, 3  # which of a box's sides
MANY = 3  # shadows: more than are fitted
FAINTEST = 0.004  # share of the ground that a shadow takes at least
AGAIN = 4  # times that opacities are solved


def edge_of(sides: Sequence[Side]) -> Edge:
    """How the shadows beside some sides are blurred: whichever one of them explains more by."""
    return min(EDGES, key=lambda edge: _first(_samples(sides, edge))[0])


def fewest(sides: Sequence[Side], edge: Edge) -> int:
    """How many shadows it takes; MANY where two are not enough."""
    found = _samples(sides, edge)
    v = next(_fits(found), None)
    return MANY if v is None or off_by(found, v) > FITS else v.size // 4


def fit(
    sides: Sequence[Side],
    edge: Edge,
    first: Sequence[Side],
    rings: Sequence[NDArray[np.float64]],
    ground: str,
) -> Iterator[Shadow]:
    """Shadows that may be what is beside some sides, the fewest first. `first`: those of one of the boxes, `rings` the colours (n, 3) of the
    lines beside each of its four sides, on a ground of one colour."""
    for fitted in _fits(_samples(sides, edge)):
        shadow = _in_css(fitted, first, edge, rings, ground)
        if shadow:
            yield shadow


def _samples(sides: Sequence[Side], edge: Edge) -> Samples:
    """Sides, each once; what is at a box's left is what is at its right."""
    several = {(s.way if s.way != LEFT else RIGHT, s.gap, s.drop.tobytes()): s for s in sides}
    return Samples(list(several.values()), edge)


def _first(found: Samples) -> tuple[float, NDArray[np.float64]]:
    """(how far off it is, the shadow without spread that is nearest)."""
    peak, deep = float((found.drop / found.level).max()), float(found.counts.max())
    starts = ((min(0.8, 1.5 * peak), share * deep, share * deep, 0.0) for share in (0.15, 0.4))
    return _nearest(found, [_solved(found, np.array(start), False) for start in starts])


def _nearest(found: Samples, tried: Sequence[NDArray[np.float64]]) -> tuple[float, NDArray[np.float64]]:
    off, n = min((off_by(found, v), n) for n, v in enumerate(tried))
    return off, tried[n]


def _fits(found: Samples) -> Iterator[NDArray[np.float64]]:
    """Shadows that darken the ground as it is, the fewest first: one or two, without spread and with it."""
    least, best = _first(found)
    if least <= FITS:
        yield best
    off, spread = _nearest(found, [_solved(found, best, True)])
    if off <= FITS:
        yield spread
    if off <= BETTER * least:
        least, best = off, spread
    if least > HOPELESS + OF_PEAK * found.drop.max():
        return
    a, sigma, dy, wide = best.tolist()
    starts = (
        (a / 2, 0.4 * sigma, 0.4 * dy, 0.0, a / 2, 1.3 * sigma, 1.2 * dy, wide),
        (a / 2, sigma, dy, 0.0, a / 2, 2 * sigma, 2 * dy, wide),
    )
    for spreads in (False, True):
        off, two = _nearest(found, [_solved(found, np.array(start), spreads) for start in starts])
        if off <= FITS:
            yield _in_order(two)
        if off <= BETTER * least:
            least, best = off, two
    if least > FITS:
        yield _in_order(best)


def _in_order(v: NDArray[np.float64]) -> NDArray[np.float64]:
    """Shadows, the closest first."""
    return np.array(sorted(v.reshape(-1, 4).tolist(), key=lambda s: s[1] + s[2])).ravel()


def off_by(found: Samples, v: NDArray[np.float64]) -> float:
    """8-bit steps (root mean square) that shadows are off, where there is shade or they make some."""
    drawn = found.drawn(v)
    there = (np.abs(found.drop) > SHADE) | (drawn > SHADE)
    return float(np.sqrt(((found.drop - drawn)[there] ** 2).sum() / max(1, there.sum())))


def _solved(found: Samples, start: NDArray[np.float64], spread: bool) -> NDArray[np.float64]:
    """The nearest shadows from a start, with or without spread."""
    count = start.size // 4
    low, high = np.tile(LOW, count), np.tile(HIGH, count)
    free = np.ones(start.size, bool)
    free[3::4] = spread

    def whole(v: NDArray[np.float64]) -> NDArray[np.float64]:
        out = np.zeros(start.size)
        out[free] = v
        return out

    def misses(v: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.append(found.drawn(whole(v)) - found.drop, SPREAD_COSTS * whole(v)[3::4])

    begin = np.clip(start, low + 1e-3, high - 1e-3)[free]
    return whole(
        least_squares(misses, begin, bounds=(low[free], high[free]), max_nfev=40, ftol=1e-4, xtol=1e-4).x
    )


def _in_css(
    v: NDArray[np.float64],
    first: Sequence[Side],
    edge: Edge,
    rings: Sequence[NDArray[np.float64]],
    ground: str,
) -> Shadow | None:
    """Fitted shadows in CSS terms, in whole px: how dark each makes each channel of the ground is solved again with these."""
    level = from_hex(ground)
    free = [s for s in first if not np.isfinite(s.gap)]
    sides = free if any(s.way == 2 for s in free) else first
    found = Samples(sides, edge)
    drops = np.concatenate([level - rings[s.way][: len(s.at)] for s in sides]) / np.maximum(level, 1.0)
    layers = v.reshape(-1, 4)
    blurs = itertools.product(*({max(1.0, np.floor(2 * s)), np.ceil(2 * s)} for s in layers[:, 1].tolist()))
    tried = []
    for blur in blurs:
        near = [
            (b / 2, round(dy), round(spread))
            for b, (_, _, dy, spread) in zip(blur, layers.tolist(), strict=True)
        ]
        shares, off = _strengths(np.stack([found.cover(n) for n in near], axis=1), drops)
        tried.append((off, near, shares))
    _, near, shares = min(tried, key=lambda t: t[0])
    under: Shadow | None = None
    for (sigma, dy, spread), share in reversed(list(zip(near, shares, strict=True))):
        most = float(share.max())
        if most <= FAINTEST:
            continue
        tint = level * (1 - share / most) if share.min() < TINTED * most else np.zeros(3)
        opacity = most if tint.any() else float(share.mean())
        colour = to_hex(tuple(float(c) for c in tint))
        under = Shadow(0, dy, round(2 * sigma), spread, colour, round(min(1.0, opacity), 3), under)
    return under


def _strengths(covers: NDArray[np.float64], drops: NDArray[np.float64]) -> tuple[NDArray[np.float64], float]:
    """(the shares (k, 3) of each channel of the ground that shadows with these `covers` (n, k) take, so that these `drops` (n, 3), shares
    of it, are lost; how far off they are on average). Where two overlap, the upper one hides some of the lower one's shade."""
    shares = np.zeros((covers.shape[1], 3))
    hidden = np.zeros_like(drops)
    for _ in range(AGAIN):
        shares = np.maximum(0.0, np.linalg.lstsq(covers, drops + hidden, rcond=None)[0])
        hidden = covers @ shares - 1 + np.prod(1 - shares * covers[:, :, None], axis=1)
    return shares, float(np.abs(covers @ shares - hidden - drops).mean())
