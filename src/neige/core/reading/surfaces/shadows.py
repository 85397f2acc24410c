"""Shadows of boxes alike: a page's cards cast one shadow, which falls twice on what is between two of them, and its fields one that
is a px or two of shade below their borders. What one box's sides cannot tell, those of all of them can.

The median lines beside each side of boxes of one fill and one corner radius, on one ground, tell how much darker that is there. A box
shadow is the box, grown by the spread and moved by the offset, under a Gaussian of half the blur radius (CSS Backgrounds 3):
F(x) F(y), F the difference of two Gaussian integrals. Where two fall on one place, (1 - a)(1 - b) of the ground is left. CSS px in here.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares
from scipy.special import ndtr

from neige.core.model import Fill, Rect, Shadow, Surface
from neige.core.model.geometry import union
from neige.core.reading.colour import from_hex, to_hex
from neige.core.reading.surfaces.flat import Region
from neige.core.reading.surfaces.frame import rings
from neige.core.reading.surfaces.sides import host_of

DEPTH = 48.0  # px beside a box that are looked at
LEAST = 12.0  # px: the shorter side of what casts a shadow
DARK = 48.0  # 8-bit: on darker ground a shadow is not to be seen
JUMP = 12.0  # 8-bit steps from one px to the next where something else begins
LIGHTER = 1.5  # 8-bit steps by which shade may be lighter than its ground
SEEN, GOES_ON = 1.5, 0.75  # 8-bit steps of shade below a box in the first px, and in the second
FACING = 0.5  # of a side that its neighbours take up, if what they cast falls on all of the room between
IN_WAY = 0.2  # of a side that what stands before it takes up, if the ground is looked at no further
TRIES = 3  # fits that explain none of the boxes alike
MEMBERS = 12  # boxes that a shadow is fitted to
STARTS = ((0.5, 1.0), (2.0, 2.0), (8.0, 4.0), (14.0, 14.0))  # px: standard deviation, offset downwards
NO_SPREAD = 1.0  # 8-bit steps that a px of spread counts: most shadows have none
TINTED = 0.75  # of how much it darkens one channel that a shadow with a colour darkens another at most
SPREAD = 6.0  # px at most
BLACK, NEAR = 0.9, 3.0  # opacity at most; px that a hard shadow is off its box at most
TOUCH = 1.0  # px: a box that near is another cell of a table, or what this one is a part of
FAR = 1e4  # px
STACKED = 0.6  # px by which what stands on something else may be off its edges
CARD_WIDE = 120.0  # px: what stands on a card of its own is no narrower
DEEP = 32.0  # 8-bit steps that flat shade is darker than its ground at most
GRID = 9  # places across and down at which shade is looked at
ON = 0.5  # of an area that lies on a box and is no shade beside it
WITHIN = 0.99  # of a box that lies in a larger one
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
        if s.inner is None and s.picture < 0 and _is_dark_below(s, ground, pixels, scale):
            groups[s.fill, ground, round(s.radius)].append(n)
    out = list(surfaces)
    boxes = np.array([(s.rect.x, s.rect.y, s.rect.right, s.rect.bottom) for s in surfaces])
    for (_, ground, _), members in groups.items():
        sides = {n: sides_of(surfaces[n], boxes, n, ground, pixels, scale) for n in members}
        left = [n for n in members if _is_shaded(sides[n]) and not any(s.gap < TOUCH for s in sides[n])]
        tried = 0
        while left and tried < TRIES:
            left = sorted(left, key=lambda n: -sum(len(s.at) for s in sides[n]))
            fitted = _fit([s for n in left[:MEMBERS] for s in sides[n]])
            cast = [n for n in left if _is_likely(fitted) and _explains(fitted, sides[n])]
            if not cast:  # boxes that look alike, but do not cast the same
                left, tried = left[1:], tried + 1
            for n in cast:
                out[n] = replace(out[n], shadow=_shadow(fitted, out[n], ground, pixels, scale))
            left = [n for n in left if n not in cast]
    return drop_cast_shade(out, background)


def drop_cast_shade(surfaces: list[Surface], background: Fill) -> list[Surface]:
    """The surfaces without what the shadows of others make of the ground beside them."""
    out = list(surfaces)
    plain = [s for s in out if not (any(s.border) or s.inner or s.fill.stops or s.picture >= 0)]
    for s in sorted(plain, key=lambda s: -s.rect.area):  # of shade within shade the outermost first
        if _is_shade(s, out, _ground_of(s, out, background)):
            out.remove(s)
    return out


def cards_of_stacks(
    surfaces: list[Surface], background: Fill, pixels: NDArray[np.uint8], scale: int
) -> list[Surface]:
    """The surfaces; what stands on each other edge to edge and casts one shadow together is on a card of its own."""
    cards: list[Surface] = []
    out = list(surfaces)
    for stack in _stacks([s for s in surfaces if s.shadow is None and s.picture < 0]):
        first = stack[0]
        rim = (
            first.border[0] if not any(first.border[1:]) else 0.0
        )  # it may be where the shadow shows above the card
        r = union(s.rect for s in stack)
        r = Rect(r.x, r.y + rim, r.w, r.h - rim)
        if any(r.inside(o.rect, 0.99) and o.rect.area <= 1.05 * r.area for o in surfaces if o not in stack):
            continue
        card = Surface(r, stack[-1].fill, max(first.radius, stack[-1].radius))
        ground = _ground_of(card, surfaces, background)
        if ground is None or not _is_dark_below(card, ground, pixels, scale):
            continue
        others = [s for s in surfaces if s not in stack]
        shaded = share_shadows([card, *others], background, pixels, scale)
        cast = next((s for s in shaded if s.rect == r), card)
        if cast.shadow is None:
            continue
        cards.append(cast)
        if rim:
            top = Rect(r.x, r.y, first.rect.w, first.rect.h - rim)
            out[out.index(first)] = replace(first, rect=top, border=(0.0,) * 4, border_colour="")
    return sorted([*out, *cards], key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def _stacks(surfaces: Sequence[Surface]) -> list[list[Surface]]:
    """Surfaces as wide as each other, each beginning where the one above it ends; two at least."""
    left = sorted(surfaces, key=lambda s: (s.rect.y, s.rect.x))
    out: list[list[Surface]] = []
    while left:
        stack = [left.pop(0)]
        while below := next((s for s in left if _continues(stack[-1].rect, s.rect)), None):
            stack.append(below)
            left.remove(below)
        if len(stack) > 1 and min(s.rect.w for s in stack) >= CARD_WIDE:
            out.append(stack)
    return out


def _continues(above: Rect, below: Rect) -> bool:
    edges_apart = max(abs(above.x - below.x), abs(above.right - below.right), abs(above.bottom - below.y))
    return edges_apart <= STACKED


def _is_shade(s: Surface, surfaces: Sequence[Surface], ground: str | None) -> bool:
    """Is a flat area without anything at its edges what the shadows beside it make of the ground there?"""
    if ground is None or not 0 <= float((from_hex(ground) - from_hex(s.fill.colour)).max()) <= DEEP:
        return False
    left, free = np.ones((GRID, GRID)), np.ones((GRID, GRID), bool)
    xs, ys = (np.linspace(a, b, GRID) for a, b in ((s.rect.x, s.rect.right), (s.rect.y, s.rect.bottom)))
    for o in surfaces:
        within = s.rect.inside(o.rect, ON) and not (s.shadow is None and o.rect.inside(s.rect, WITHIN))
        if o.shadow is None or within:
            continue
        r = o.rect
        for c in o.shadow.layers:
            v = (max(c.blur / 2, 0.25), c.dy, c.spread)
            across, down = _covered(xs - r.x - c.dx, r.w, 0.0, v), _covered(ys - r.y, r.h, c.dy, v)
            left *= 1 - c.opacity * np.outer(down, across)
        if r.inside(s.rect, ON):  # a line of equal shade round it: only where that runs
            free[1:-1, 1:-1] = False
    ground_colour = from_hex(ground)
    shade = float(np.quantile(1 - left[free], 0.5 if free.all() else 0.75)) * ground_colour
    off = np.abs(ground_colour - shade - from_hex(s.fill.colour)).max()
    least, most = AREA if free.all() else RIM
    return bool(shade.max() >= least and off <= max(most, shade.max() / 2))


def _ground_of(s: Surface, surfaces: Sequence[Surface], background: Fill) -> str | None:
    """The colour that a surface lies on; None: more than one."""
    host = host_of(s, surfaces)
    fill = host.fill if host else background
    return None if fill.stops else fill.colour


def sides_of(
    s: Surface,
    boxes: NDArray[np.float64],
    n: int,
    ground: str,
    pixels: NDArray[np.uint8],
    scale: int,
    fade: float = JUMP,
) -> list[Side]:
    """What is beside a surface, box `n` of `boxes` (k, 4: x, y, right, bottom), as far as nothing else stands there. `fade`: 8-bit
    steps that shade grows paler from one px to the next at most."""
    level = from_hex(ground)
    others = np.delete(boxes, n, axis=0)
    out = list[Side]()
    for way, whole in enumerate(around(s, pixels, scale, DEPTH)):
        away, share = _beyond(boxes[n], others, way)
        order = np.argsort(away, kind="stable")
        away, share = away[order], share[order]
        sums = np.concatenate([[0.0], np.cumsum(share)])
        row = sums[np.searchsorted(away, away + 1, side="right")] - sums[:-1]  # what stands as far off
        gap = float(away[row >= FACING].min(initial=np.inf))
        reach = float(away[share >= IN_WAY].min(initial=DEPTH))
        drop = (level - whole[: max(0, int(reach * scale))]).mean(axis=1)
        jumps = np.flatnonzero((np.diff(drop) > JUMP) | (np.diff(drop) < -fade))
        ends = np.flatnonzero(drop < -LIGHTER)
        stop = min([len(drop), *(int(v) for v in ends[:1]), *(int(v) + 1 for v in jumps[:1])])
        at = (np.arange(stop) + 0.5) / scale
        out.append(Side(way, s.rect.w, s.rect.h, at, drop[:stop], gap, float(level.mean())))
    return out


def _beyond(
    box: NDArray[np.float64], others: NDArray[np.float64], way: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(px from one side of a box to each of those that stand beyond it, or to the inner side of one that holds it; shares of the side
    before which they stand)."""
    first, last = (0, 2) if way % 2 == 0 else (1, 3)
    overlap = np.minimum(box[last], others[:, last]) - np.maximum(box[first], others[:, first])
    share = overlap / max(box[last] - box[first], 1e-9)
    side = (1, 2, 3, 0)[way]
    sign = 1.0 if way in (1, 2) else -1.0
    outside = sign * (others[:, (side + 2) % 4] - box[side])
    held = sign * (others[:, side] - box[side])
    holds = (others[:, :2] <= box[:2] + 0.01).all(axis=1) & (others[:, 2:] >= box[2:] - 0.01).all(axis=1)
    away = np.where(holds, held, outside)
    near = (share > 0) & (away >= -2 * TOUCH) & (away <= 2 * DEPTH)
    return away[near], share[near]


def around(s: Surface, pixels: NDArray[np.uint8], scale: int, depth: float) -> list[NDArray[np.float64]]:
    """The median colours (n, 3) of the lines of device px beside each side of a box, outwards, `depth` CSS px of them."""
    r = s.rect
    x0, y0, x1, y1 = (max(0, round(v * scale)) for v in (r.x, r.y, r.right, r.bottom))
    colour = from_hex(s.fill.colour)
    box = Region(x0, y0, x1, y1, s.radius * scale, (colour[0], colour[1], colour[2]), 1.0)
    return rings(pixels, box, round(depth * scale))


def _is_dark_below(s: Surface, ground: str, pixels: NDArray[np.uint8], scale: int) -> bool:
    """Is the first px below a box darker than its ground?"""
    below = around(s, pixels, scale, 1.0)[2]
    return len(below) > 0 and float((from_hex(ground) - below[0]).mean()) >= SEEN


def _is_shaded(sides: Sequence[Side]) -> bool:
    """Is it darker below a box than farther down, and beside it no darker than there?"""
    below, beside = sides[2].drop, [s.drop for s in (sides[1], sides[3]) if len(s.drop)]
    if len(below) < 3 or not beside:
        return False
    fades = bool((np.diff(below[:3]) <= 0.34).all())
    lowest = all(d[0] <= below[0] + 1 for d in beside)
    return bool(below[0] >= SEEN and below[1] >= GOES_ON and fades and lowest)


Blur = tuple[float, float, float]  # of a shadow: standard deviation, dy, spread


Edge = Callable[
    [NDArray[np.float64]], NDArray[np.float64]
]  # how much of a blurred edge is at so many standard deviations


def _covered(
    x: NDArray[np.float64],
    size: float | NDArray[np.float64],
    off: float | NDArray[np.float64],
    v: Blur,
    edge: Edge = ndtr,
) -> NDArray[np.float64]:
    """How much of a blurred box from 0 to `size`, moved by `off`, is at `x`."""
    sigma, _, spread = v
    return np.asarray(edge((x + spread - off) / sigma) - edge((x - size - spread - off) / sigma))


def of_boxes(x: NDArray[np.float64]) -> NDArray[np.float64]:
    """A blurred edge at `x` standard deviations, where a browser blurs by three boxes over each other instead of a Gaussian: up to 0.01
    off that, and it ends where a Gaussian goes on."""
    t = np.clip(x / 2, -1.5, 1.5)
    a, b, c = t + 1.5, np.maximum(0.0, t + 0.5), np.maximum(0.0, t - 0.5)
    return np.asarray((a * a * a - 3 * (b * b * b - c * c * c)) / 6)


class Samples:
    """Sides as arrays, each distance of each side an entry. `edge`: how shadows there are blurred."""

    def __init__(self, sides: Sequence[Side], edge: Edge = ndtr) -> None:
        self.edge = edge
        self.counts = np.array([len(s.at) for s in sides])
        self.starts = np.concatenate([[0], np.cumsum(self.counts)[:-1]])
        self.at = np.concatenate([s.at for s in sides])
        self.drop = np.concatenate([s.drop for s in sides])
        way, w, h, gap, level = (
            np.array([float(getattr(s, n)) for s in sides]) for n in ("way", "w", "h", "gap", "level")
        )
        self.down_each = way % 2 == 0
        self.across_each = np.where(self.down_each, w, h)
        self.faced = bool(np.isfinite(gap).any())
        down, size, gap = (
            np.repeat(v, self.counts) for v in (self.down_each, np.where(self.down_each, h, w), gap)
        )
        self.level, self.down, self.size = np.repeat(level, self.counts), down, size
        self.before = np.repeat(
            (way == 0) | (way == 3), self.counts
        )  # sides that lie before where a box begins
        self.opposite = np.where(np.isfinite(gap), gap - self.at, FAR)

    def cover(self, v: Blur, opposite: bool = False) -> NDArray[np.float64]:
        """How much of a blurred box falls on each place; `opposite`: of the one that stands opposite."""
        across, beside = self.across_each, np.where(self.down_each, 0.0, v[1])
        middle = np.repeat(_covered(across / 2, across, beside, v, self.edge), self.counts)
        at, before = (self.opposite, ~self.before) if opposite else (self.at, self.before)
        off = np.where(self.down, v[1], 0.0)
        return middle * _covered(np.where(before, -at, self.size + at), self.size, off, v, self.edge)

    def drawn(self, v: NDArray[np.float64]) -> NDArray[np.float64]:
        """The 8-bit steps by which one or several shadows (opacity, standard deviation, dy, spread of each) darken the ground. What
        stands opposite casts the same, or none, whichever is more like it."""
        own, other = np.ones(self.at.size), np.ones(self.at.size)
        for opacity, sigma, dy, spread in v.reshape(-1, 4).tolist():
            own *= 1 - opacity * self.cover((sigma, dy, spread))
            if self.faced:
                other *= 1 - opacity * self.cover((sigma, dy, spread), opposite=True)
        if not self.faced:
            return self.level * (1 - own)
        alone, both = self.level * (1 - own), self.level * (1 - own * other)
        apart = (np.add.reduceat(np.abs(d - self.drop), self.starts) for d in (both, alone))
        return np.where(np.repeat(np.less(*apart), self.counts), both, alone)


def _fit(sides: Sequence[Side]) -> NDArray[np.float64]:
    """The shadow (opacity, standard deviation, dy, spread) that darkens the ground beside some sides as they are, as far as one does."""
    several = {(s.way, s.gap, s.drop.tobytes()): s for s in sides if len(s.at)}
    found = Samples(list(several.values()))
    strongest = float((found.drop / found.level).max())

    def off(v: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.append(found.drawn(v) - found.drop, NO_SPREAD * v[3])

    deep = max((float(s.at[s.drop > s.drop[0] / 2][-1]) for s in several.values() if s.way == 2), default=0.0)
    near = sorted(STARTS, key=lambda s: abs(np.log((s[0] + s[1]) / max(deep, 1.0))))[:2]
    best, least = np.zeros(4), np.inf
    for sigma, dy in near:
        start = np.array([min(0.9, 1.5 * strongest), sigma, dy, 0.0])
        bounds = ([0.0, 0.25, -2.0, -SPREAD], [1.0, 30.0, 30.0, SPREAD])
        fit = least_squares(off, start, bounds=bounds, loss="soft_l1", max_nfev=25)
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
        more = s.drop - Samples([s]).drawn(v) if len(s.at) else s.drop
        if len(more) and float(np.median(np.sort(more)[:LIT])) < -LIGHTER:
            return False
        close = len(more) > 0 and float(np.sqrt(np.mean(more**2))) <= max(OFF, OF_PEAK * float(s.drop.max()))
        if s.way == 2 and not close:
            return False
        explained += close
    return explained > 1


def _shadow(v: NDArray[np.float64], s: Surface, ground: str, pixels: NDArray[np.uint8], scale: int) -> Shadow:
    """A fitted shadow in CSS terms. Its colour is that of the ground's channels which it darkens less than the others."""
    opacity, sigma, dy, spread = (float(x) for x in v)
    level = from_hex(ground)
    drop = np.maximum(0.0, level - around(s, pixels, scale, 1.0)[2][0])
    share = drop / np.maximum(level, 1.0)
    most = max(float(share.max()), 1e-6)
    tint = np.zeros(3)
    if drop.max() >= TOLD and share.min() < TINTED * most:
        tint, opacity = level * (1 - share / most), min(1.0, opacity * most / float(share.mean()))
    return Shadow(
        0, round(dy), max(1, round(2 * sigma)), round(spread), to_hex(tuple(float(c) for c in tint)), round(opacity, 3)
    )  # fmt: skip
