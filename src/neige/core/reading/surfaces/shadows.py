"""Shadows of boxes alike: a page's cards cast one shadow, which falls twice on what is between two of them, and its fields one that
is a px or two of shade below their borders. What one box's sides cannot tell, those of all of them can.

The median lines beside each side of boxes of one fill and one corner radius, on one ground, tell how much darker that is there. A box
shadow is the box, grown by the spread and moved by the offset, under a Gaussian of half the blur radius (CSS Backgrounds 3):
F(x) F(y), F the difference of two Gaussian integrals. Where two fall on one place, (1 - a)(1 - b) of the ground is left. CSS px in here.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares
from scipy.special import ndtr

from neige.core.model import Fill, Rect, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex, to_hex

DEPTH = 48.0  # px beside a box that are looked at
LEAST = 12.0  # px: the shorter side of what casts a shadow
DARK = 48.0  # 8-bit: on darker ground a shadow is not to be seen
JUMP = 12.0  # 8-bit steps from one px to the next where something else begins
LIGHTER = 1.5  # 8-bit steps by which shade may be lighter than its ground
SEEN, GOES_ON = 1.5, 0.75  # 8-bit steps of shade below a box in the first px, and in the second
FACING = 0.5  # of a side that its neighbours take up, if what they cast falls on all of the room between
IN_WAY = 0.2  # of a side that what stands before it takes up, if the ground is looked at no further
MEMBERS = 12  # boxes that a shadow is fitted to
STARTS = ((0.5, 1.0), (2.0, 2.0), (8.0, 4.0), (14.0, 14.0))  # px: standard deviation, offset downwards
NO_SPREAD = 1.0  # 8-bit steps that a px of spread counts: most shadows have none
TINTED = 0.75  # of how much it darkens one channel that a shadow with a colour darkens another at most
SPREAD = 6.0  # px at most
BLACK, NEAR = 0.9, 3.0  # opacity at most; px that a hard shadow is off its box at most
TOUCH = 1.0  # px: a box that near is another cell of a table, or what this one is a part of
GRID = 9  # places across and down at which shade is looked at
ON = 0.5  # of an area that lies on a box and is no shade beside it
AREA, RIM = (
    (0.75, 2.0),
    (0.2, 1.0),
)  # 8-bit steps: shade that shadows make of ground at least, and how far off it is at most
TOLD = 8.0  # 8-bit steps of shade from which its colour is told
LIT = 3  # px, those that are lightest against it, that tell that a shadow is not there
OFF, OF_PEAK = 0.8, 0.12  # 8-bit steps, and share of its darkest, that a shadow is off on average at most


@dataclass(frozen=True)
class Side:
    """What is beside one side (0 top, 1 right, 2 bottom, 3 left) of a box `w` x `h`: by how many 8-bit steps of `level` the ground is
    darker at distances `at`, and how far off a box is that may cast the same (inf: none)."""

    way: int
    w: float
    h: float
    at: NDArray[np.float64]
    drop: NDArray[np.float64]
    gap: float
    level: float


def share_shadows(
    surfaces: list[Surface],
    background: Fill,
    pixels: NDArray[np.uint8],
    scale: int,
) -> list[Surface]:
    """The surfaces; those that have a shadow in common with others, or a faint one of their own, have it.

    `pixels`: device px (h, w, 3) without compression noise."""
    groups: dict[tuple[Fill, str, int], list[int]] = defaultdict(list)
    grounds = [_ground_of(s, surfaces, background) for s in surfaces]
    for n, (s, ground) in enumerate(zip(surfaces, grounds, strict=True)):
        if ground is None or from_hex(ground).max() < DARK or min(s.rect.w, s.rect.h) < LEAST:
            continue
        if s.inner is None and s.picture < 0:
            groups[s.fill, ground, round(s.radius)].append(n)
    out = list(surfaces)
    for (_, ground, _), members in groups.items():
        sides = {n: _sides(n, surfaces, ground, pixels, scale) for n in members}
        left = [n for n in members if _is_shaded(sides[n]) and not any(s.gap < TOUCH for s in sides[n])]
        while left:
            left = sorted(left, key=lambda n: -sum(len(s.at) for s in sides[n]))
            fitted = _fit([s for n in left[:MEMBERS] for s in sides[n]])
            cast = [n for n in left if _is_likely(fitted) and _explains(fitted, sides[n])]
            if not cast and len(left) == 1:
                break
            if not cast:  # boxes that look alike, but do not cast the same
                left = left[1:]
                continue
            for n in cast:
                out[n] = replace(out[n], shadow=_shadow(fitted, out[n].rect, ground, pixels, scale))
            left = [n for n in left if n not in cast]
    for s in sorted(out, key=lambda s: -s.rect.area):  # of shade within shade the outermost first
        if _is_shade(s, out, _ground_of(s, out, background)):
            out.remove(s)
    return out


def _is_shade(s: Surface, surfaces: Sequence[Surface], ground: str | None) -> bool:
    """Is a flat area without anything at its edges what the shadows beside it make of the ground there?"""
    if ground is None or any(s.border) or s.inner or s.fill.stops or s.picture >= 0:
        return False
    left, free = np.ones((GRID, GRID)), np.ones((GRID, GRID), bool)
    xs, ys = (np.linspace(a, b, GRID) for a, b in ((s.rect.x, s.rect.right), (s.rect.y, s.rect.bottom)))
    for o in surfaces:
        if o.shadow is None or s.rect.inside(o.rect, ON):
            continue
        c, r = o.shadow, o.rect
        v = (max(c.blur / 2, 0.25), c.dy, c.spread)
        across, down = _covered(xs - r.x - c.dx, r.w, 0.0, v), _covered(ys - r.y, r.h, c.dy, v)
        left *= 1 - c.opacity * np.outer(down, across)
        if r.inside(s.rect, ON):  # a line of equal shade round it: only where that runs
            free[1:-1, 1:-1] = False
    ground_colour = from_hex(ground).astype(np.float64)
    shade = float(np.quantile(1 - left[free], 0.5 if free.all() else 0.75)) * ground_colour
    off = np.abs(ground_colour - shade - from_hex(s.fill.colour)).max()
    least, most = AREA if free.all() else RIM
    return bool(shade.max() >= least and off <= max(most, shade.max() / 2))


def _ground_of(s: Surface, surfaces: Sequence[Surface], background: Fill) -> str | None:
    """The colour that a surface lies on; None: more than one."""
    hosts = [o for o in surfaces if o.rect.area > s.rect.area and s.rect.inside(o.rect, 0.999)]
    fill = min(hosts, key=lambda o: o.rect.area).fill if hosts else background
    return None if fill.stops else fill.colour


def _sides(
    n: int, surfaces: Sequence[Surface], ground: str, pixels: NDArray[np.uint8], scale: int
) -> list[Side]:
    """What is beside a box, as far as nothing else stands there."""
    s, level = surfaces[n], from_hex(ground)
    r, inset = s.rect, s.radius + 2
    out = list[Side]()
    for way in range(4):
        beyond = [_beyond(r, o.rect, way) for o in surfaces if o is not s]
        beyond = [(away, share) for away, share in beyond if -2 * TOUCH <= away <= 2 * DEPTH and share > 0]
        rows = {away: sum(share for at, share in beyond if away <= at <= away + 1) for away, _ in beyond}
        gap = min((away for away, share in rows.items() if share >= FACING), default=np.inf)
        reach = min([DEPTH, *(away for away, share in beyond if share >= IN_WAY)])
        lines = _lines(r, way, reach, inset, pixels, scale)
        drop = (level - lines).mean(axis=1)
        jumps = np.flatnonzero(np.abs(np.diff(drop)) > JUMP)
        ends = np.flatnonzero(drop < -LIGHTER)
        stop = min([len(drop), *(int(v) for v in ends[:1]), *(int(v) + 1 for v in jumps[:1])])
        at = (np.arange(stop) + 0.5) / scale
        out.append(Side(way, r.w, r.h, at, drop[:stop], float(gap), float(level.mean())))
    return out


def _beyond(r: Rect, o: Rect, way: int) -> tuple[float, float]:
    """(px from one side of a box to another beyond it, or to the inner side of what holds it; share of the side before which that
    stands)."""
    level = (
        (max(r.x, o.x), min(r.right, o.right)) if way % 2 == 0 else (max(r.y, o.y), min(r.bottom, o.bottom))
    )
    share = (level[1] - level[0]) / (r.w if way % 2 == 0 else r.h)
    outside = (r.y - o.bottom, o.x - r.right, o.y - r.bottom, r.x - o.right)[way]
    held = (r.y - o.y, o.right - r.right, o.bottom - r.bottom, r.x - o.x)[way]
    return (held if r.inside(o, 0.999) else outside), share


def _lines(
    r: Rect, way: int, reach: float, inset: float, pixels: NDArray[np.uint8], scale: int
) -> NDArray[np.float64]:
    """The median colours (n, 3) of the device px's lines along a side of a box, outwards."""
    height, width = pixels.shape[:2]
    x0, y0, x1, y1 = (round(v * scale) for v in (r.x, r.y, r.right, r.bottom))
    deep = max(0, int(reach * scale))
    dx, dy = (max(0, round(min(inset, v / 2 - 1) * scale)) for v in (r.w, r.h))
    across, down = slice(max(0, x0 + dx), max(0, x1 - dx)), slice(max(0, y0 + dy), max(0, y1 - dy))
    if way == 0:
        part = pixels[max(0, y0 - deep) : max(0, y0), across][::-1]
    elif way == 1:
        part = pixels[down, x1 : min(width, x1 + deep)].transpose(1, 0, 2)
    elif way == 2:
        part = pixels[y1 : min(height, y1 + deep), across]
    else:
        part = pixels[down, max(0, x0 - deep) : max(0, x0)][:, ::-1].transpose(1, 0, 2)
    if not part.size:
        return np.zeros((0, 3))
    return np.median(part[:, :: max(1, part.shape[1] // 200)], axis=1).astype(np.float64)


def _is_shaded(sides: Sequence[Side]) -> bool:
    """Is it darker below a box than farther down, and beside it no darker than there?"""
    below, beside = sides[2].drop, [s.drop for s in (sides[1], sides[3]) if len(s.drop)]
    if len(below) < 3 or not beside:
        return False
    fades = bool((np.diff(below[:3]) <= 0.34).all())
    lowest = all(d[0] <= below[0] + 1 for d in beside)
    return bool(below[0] >= SEEN and below[1] >= GOES_ON and fades and lowest)


Blur = tuple[float, float, float]  # of a shadow: standard deviation, dy, spread


def _covered(x: NDArray[np.float64], size: float, off: float, v: Blur) -> NDArray[np.float64]:
    """How much of a blurred box from 0 to `size`, moved by `off`, is at `x`."""
    sigma, _, spread = v
    return np.asarray(ndtr((x + spread - off) / sigma) - ndtr((x - size - spread - off) / sigma))


def _one(s: Side, at: NDArray[np.float64], v: Blur, facing: bool = False) -> NDArray[np.float64]:
    """How much of its opacity a shadow has at distances from the middle of a side of its box, or of what is `facing` it."""
    way = (s.way + 2) % 4 if facing else s.way
    along, size, off = (at, s.h, v[1]) if way % 2 == 0 else (at, s.w, 0.0)
    across = (s.w, 0.0) if way % 2 == 0 else (s.h, v[1])
    middle = _covered(np.array([across[0] / 2]), *across, v)
    return _covered(-along if way in (0, 3) else size + along, size, off, v) * middle


def _drawn(v: NDArray[np.float64], s: Side) -> NDArray[np.float64]:
    """The 8-bit steps by which a shadow (opacity, standard deviation, dy, spread) darkens the ground beside a side. What stands
    opposite casts the same, or none, whichever is more like it."""
    blur = (float(v[1]), float(v[2]), float(v[3]))
    left = 1 - v[0] * _one(s, s.at, blur)
    alone = s.level * (1 - left)
    if not np.isfinite(s.gap):
        return alone
    both = s.level * (1 - left * (1 - v[0] * _one(s, s.gap - s.at, blur, facing=True)))
    return both if np.abs(both - s.drop).sum() < np.abs(alone - s.drop).sum() else alone


def _fit(sides: Sequence[Side]) -> NDArray[np.float64]:
    """The shadow (opacity, standard deviation, dy, spread) that darkens the ground beside some sides as they are, as far as one does."""
    strongest = max(float(s.drop[0] / s.level) for s in sides if len(s.drop))

    def off(v: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.concatenate([*(_drawn(v, s) - s.drop for s in sides if len(s.drop)), [NO_SPREAD * v[3]]])

    best, least = np.zeros(4), np.inf
    for sigma, dy in STARTS:
        start = np.array([min(0.9, 1.5 * strongest), sigma, dy, 0.0])
        bounds = ([0.0, 0.25, -2.0, -SPREAD], [1.0, 30.0, 30.0, SPREAD])
        fit = least_squares(off, start, bounds=bounds, loss="soft_l1", max_nfev=40)
        if fit.cost < least:
            best, least = fit.x, fit.cost
    return np.asarray(best)


def _is_likely(v: NDArray[np.float64]) -> bool:
    """Is it a shadow that people write: not all black, not hard and far off, and not as far out as the fit goes?"""
    opacity, sigma, dy, spread = v
    return bool(opacity <= BLACK and dy <= 2 * sigma + NEAR and abs(spread) < 0.98 * SPREAD)


def _explains(v: NDArray[np.float64], sides: Sequence[Side]) -> bool:
    """Does a shadow account for what is darker below a box and at one more of its sides, and is no side lighter than it would be?
    Darker it may be: others cast there, too."""
    explained = 0
    for s in sides:
        more = s.drop - _drawn(v, s)
        if len(more) and float(np.median(np.sort(more)[:LIT])) < -LIGHTER:
            return False
        close = len(more) > 0 and float(np.sqrt(np.mean(more**2))) <= max(OFF, OF_PEAK * float(s.drop.max()))
        if s.way == 2 and not close:
            return False
        explained += close
    return explained > 1


def _shadow(v: NDArray[np.float64], r: Rect, ground: str, pixels: NDArray[np.uint8], scale: int) -> Shadow:
    """A fitted shadow in CSS terms. Its colour is that of the ground's channels which it darkens less than the others."""
    opacity, sigma, dy, spread = (float(x) for x in v)
    below = edges(r.x, r.bottom, r.right, r.bottom + 2)
    level = from_hex(ground).astype(np.float64)
    drop = np.maximum(0.0, level - _lines(r, 2, below.h, 0.25 * r.w, pixels, scale)[0])
    share = drop / np.maximum(level, 1.0)
    most = max(float(share.max()), 1e-6)
    tint = np.zeros(3)
    if drop.max() >= TOLD and share.min() < TINTED * most:
        tint, opacity = level * (1 - share / most), min(1.0, opacity * most / float(share.mean()))
    return Shadow(
        0, round(dy), max(1, round(2 * sigma)), round(spread), to_hex(tuple(float(c) for c in tint)), round(opacity, 3)
    )  # fmt: skip
