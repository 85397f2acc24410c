"""Boxes that cast more than one shadow: a close one that holds the edge and a wide one that lifts, as most style sheets write them.

One shadow that is fitted to two is off by a few steps everywhere, and where the two overlap above or below a box, the first px of shade
are taken for a border of it, or the last for a box round it. So the sides of what casts shade are looked at again: without such a
border, with one shadow and with two (the model is that of `shadows.py`), and what explains them best with the fewest is kept.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Shadow, Surface
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces.fitted_shadows import (
    EDGES,
    FITS,
    HIGH,
    LOW,
    MANY,
    SHADE,
    edge_of,
    fewest,
    fit,
    off_by,
)
from neige.core.reading.surfaces.shadows import (
    DARK,
    LEAST,
    MEMBERS,
    NEAR,
    Edge,
    Samples,
    Side,
    around,
    sides_of,
)
from neige.core.reading.surfaces.sides import host_of

RIM = 2.0  # px that shade taken for a border is wide at most,
RIM_SHADE = (2.0, 70.0)  # 8-bit steps that it is darker than the ground,
RIM_TINT = 0.04  # shares of it by which its channels may differ
HALO = 5.0  # 8-bit steps that shade taken for a box is darker than the ground at most
ROUNDED = 1.2  # 8-bit steps off, in whole px
BETTER, BY = 0.7, 0.25  # share of the error before, and 8-bit steps less, for which shadows are changed
MOST = 3.0  # 8-bit steps that any place may be off
SHARE = 0.04  # of the darkest shade that shadows may be off, where that is more; any place twice as much
LEVEL = -0.5  # px upwards that a shadow may be off
FADE = 60.0  # 8-bit steps by which shade may fade from one px to the next
ASIDE = 1.0  # px that one is found to be moved to the side where others fall, too
SOFT = 3  # px that it fades in at least
RISE = 1.1  # 8-bit steps by which it may grow darker from one px to the next
BEYOND = 4  # px beside the last shade that are looked at, too
ALIKE, ALIKE_PX = 2.0, 12  # 8-bit steps, px beside boxes that cast the same


@dataclass(frozen=True)
class _Case:
    """A surface, as it is without shade taken for a border, what is beside it, and the colour of its ground. `framed`: what is beside it
    if that is a border; empty where it has none."""

    at: int
    surface: Surface
    sides: tuple[Side, ...]
    ground: str
    framed: tuple[Side, ...] = ()


def fit_several(
    surfaces: list[Surface], background: Fill, pixels: NDArray[np.uint8], scale: int
) -> list[Surface]:
    """The surfaces; those beside which one shadow, or none, explains less than others do have these.

    `pixels`: device px (h, w, 3) without compression noise."""
    groups: dict[tuple[object, ...], list[_Case]] = defaultdict(list)
    halos = [s for s in surfaces if _is_halo(s, surfaces, background)]
    there = [s for s in surfaces if all(s is not o for o in halos)]
    for n, s in enumerate(surfaces):
        case = _case(n, s, there, background, pixels, scale)
        if case is not None:
            groups[case.ground, s.fill, round(s.radius), s.border].append(case)
    out = list(surfaces)
    found: dict[str, list[Shadow]] = defaultdict(list)  # on each ground: boxes of other colours cast the same
    for cases in groups.values():
        left = sorted(cases, key=lambda c: (-sum(len(s.at) for s in c.sides), c.at))
        while left:
            alike = [c for c in left if _are_alike(left[0], c)]
            left = [c for c in left if all(c is not o for o in alike)]
            now = [_off_now(c, surfaces[c.at].shadow) for c in alike]
            if max(now) <= FITS and all(c.surface is surfaces[c.at] for c in alike):
                continue
            first, sides = alike[0], [s for c in alike[:MEMBERS] for s in c.sides]
            edge = edge_of(sides)
            rings = around(first.surface, pixels, scale, max(len(s.at) for s in first.sides) / scale)
            most = fewest(first.framed, edge) if first.framed else MANY

            def are_few(shadow: Shadow, most: int = most) -> bool:
                return len(shadow.layers) <= most  # else a border and fewer of them are less

            known = filter(are_few, found[first.ground])
            fitted = itertools.takewhile(are_few, fit(sides, edge, first.sides, rings, first.ground))
            for shadow in itertools.chain(known, fitted):
                v = _as_fitted(shadow, first.ground)
                better = [
                    c for c, off in zip(alike, now, strict=True) if _is_better(v, edge, c, off, surfaces)
                ]
                for c in better:
                    out[c.at] = replace(c.surface, shadow=shadow)
                if better:
                    found[first.ground] = [shadow, *(s for s in found[first.ground] if s != shadow)]
                    break
    return out


def _are_alike(a: _Case, b: _Case) -> bool:
    """Is as much shade beside two boxes?"""
    sides = {s.way: s for s in b.sides}
    for s in a.sides:
        other = sides.get(s.way)
        count = min(len(s.at), len(other.at), ALIKE_PX) if other else 0
        if other and count and np.abs(s.drop[:count] - other.drop[:count]).max() > ALIKE:
            return False
    return True


def _case(
    n: int, s: Surface, surfaces: Sequence[Surface], background: Fill, pixels: NDArray[np.uint8], scale: int
) -> _Case | None:
    """What is beside surface `n` that may cast shade on even ground; None where there is none, or another kind."""
    if (
        s.shadow is None
        or abs(s.shadow.dx) > ASIDE
        or s.shadow.under
        or s.inner
        or s.accent
        or min(s.rect.w, s.rect.h) < LEAST
    ):
        return None
    host = host_of(s, surfaces)
    fill = host.fill if host else background
    if fill.stops or from_hex(fill.colour).max() < DARK:
        return None
    bare = _without_rim(s, fill.colour)

    def beside(own: Surface) -> tuple[Side, ...]:
        others = [own if o is s else o for o in surfaces]
        boxes = np.array([(o.rect.x, o.rect.y, o.rect.right, o.rect.bottom) for o in others])
        sides = sides_of(own, boxes, others.index(own), fill.colour, pixels, scale, FADE)
        return tuple(_as_far(s, scale) for s in sides if len(s.at)) if _fades(sides[2]) else ()

    sides = beside(bare)
    return _Case(n, bare, sides, fill.colour, () if bare is s else beside(s)) if sides else None


def _fades(below: Side) -> bool:
    """Does shade below a box grow paler, over several px?"""
    seen = below.drop[below.drop > SHADE]
    return bool(len(seen) >= SOFT and (np.diff(seen) <= RISE).all())


def _as_far(s: Side, scale: int) -> Side:
    """What is beside a side, as far as there is shade."""
    last = int(np.flatnonzero(np.abs(s.drop) > SHADE)[-1:].sum()) + 1 + BEYOND * scale
    return replace(s, at=s.at[:last], drop=s.drop[:last])


def _without_rim(s: Surface, ground: str) -> Surface:
    """A surface without a border above or below that is as dark as shade."""
    top, right, bottom, left = s.border
    if right or left or s.corners or not 0 < max(top, bottom) <= RIM or s.border_style != "solid":
        return s
    level = from_hex(ground)
    share = (level - from_hex(s.border_colour)) / np.maximum(level, 1.0)
    drop = float((level - from_hex(s.border_colour)).mean())
    if not RIM_SHADE[0] <= drop <= RIM_SHADE[1] or share.min() < 0 or np.ptp(share) > RIM_TINT:
        return s
    r = s.rect
    own = Rect(r.x, r.y + top, r.w, r.h - top - bottom)
    inner = max(0.0, s.radius - max(top, bottom))  # of a border's corners (CSS Backgrounds 3)
    return replace(s, rect=own, radius=inner, border=(0.0,) * 4, border_colour="")


def _is_halo(s: Surface, surfaces: Sequence[Surface], background: Fill) -> bool:
    """Is a surface a little darker than its ground, and nothing else, and does something that casts shade stand on it?"""
    if s.shadow or s.inner or s.fill.stops or any(s.border) or s.picture >= 0:
        return False
    host = host_of(s, surfaces)
    ground = host.fill if host else background
    if ground.stops:
        return False
    darker = from_hex(ground.colour) - from_hex(s.fill.colour)
    return bool(
        darker.min() >= 0
        and 0 < darker.max() <= HALO
        and any(o.shadow and o.rect.inside(s.rect) and o.rect.area >= 0.25 * s.rect.area for o in surfaces)
    )


def _off_now(case: _Case, shadow: Shadow | None) -> float:
    """8-bit steps that what a surface has is off, without shade taken for its border."""
    v = _as_fitted(shadow, case.ground)
    return min(off_by(Samples(case.sides, edge), v) for edge in EDGES)


def _as_fitted(shadow: Shadow | None, ground: str) -> NDArray[np.float64]:
    """Shadows as what is fitted: opacity of a black one, standard deviation, dy, spread of each."""
    light = max(1.0, float(from_hex(ground).mean()))
    layers = shadow.layers if shadow else ()
    return np.array(
        [
            (
                s.opacity * (1 - float(from_hex(s.colour).mean()) / light),
                max(0.25, s.blur / 2),
                s.dy,
                s.spread,
            )
            for s in layers
        ]
    ).ravel()


def _is_better(
    v: NDArray[np.float64], edge: Edge, case: _Case, before: float, surfaces: Sequence[Surface]
) -> bool:
    """Do shadows explain what is beside a surface, and better than what it has, or as well without shade taken for its border?"""
    found = Samples(case.sides, edge)
    off, error, peak = found.drawn(v) - found.drop, off_by(found, v), float(found.drop.max())
    if not v.size or not all(_is_likely(layer) for layer in v.reshape(-1, 4).tolist()):
        return False
    if error > max(ROUNDED, SHARE * peak) or float(np.abs(off).max()) > max(MOST, 2 * SHARE * peak):
        return False
    return case.surface is not surfaces[case.at] or error <= min(BETTER * before, before - BY)


def _is_likely(layer: Sequence[float]) -> bool:
    """Is it a shadow that people write: downwards, not nearly black, and not hard and far off?"""
    opacity, sigma, dy, spread = layer
    within = opacity <= 0.98 * HIGH[0] and 0.98 * LOW[3] <= spread <= 0.98 * HIGH[3]
    return within and LEVEL <= dy <= 2 * sigma + NEAR
