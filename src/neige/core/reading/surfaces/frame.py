"""What surrounds a flat region: its border and its shadow, read from the pixel rings outside it. Device px."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d
from scipy.optimize import least_squares
from scipy.special import erf

from neige.core.reading.surfaces.flat import Region

RING = 26  # px at 1x looked at outside each side; blur radii beyond twice that are rare
MAX_BORDER = 6  # px at 1x
GOES_ON = 4  # px at 1x that ground goes on
SAME = 3  # 8-bit steps within which two sides' colours are one
DIFFERENT = 4.0  # 8-bit steps in any channel
EVEN_GROUND = 8  # px that are all alike: the ground beside a surface
INNER = 12  # px at 1x that an inner shadow is deep at most
FIRST_SHADE, SHADE = 10.0, 3.0  # 8-bit steps: its innermost line at most, its outermost at least
BAND_SHADE = 40  # px at 1x that the shade in a band is deep at most
LINE = 8.0  # 8-bit steps by which a border is darker than the shade beside it
WAVERS = 0.7  # 8-bit steps by which a shade may fall back
STEP = 40.0  # 8-bit steps from one px to the next where a shadow that was level would have to end
EDGE = 12.0  # 8-bit steps from one px to the next where a neighbour begins
RISE, LEVEL = (
    3.0,
    0.6,
)  # 8-bit steps by which the ground between two is lighter in its middle; of that, how unlike its ends may be
NEIGHBOUR = 6.0  # 8-bit steps from it at which something else begins


@dataclass(frozen=True, slots=True)
class Border:
    """Widths top, right, bottom, left; colour (3,) 0..255."""

    widths: tuple[int, int, int, int]
    colour: tuple[float, float, float] | None


@dataclass(frozen=True, slots=True)
class SoftShadow:
    dx: float
    dy: float
    sigma: float
    spread: float
    colour: tuple[float, float, float]
    opacity: float


def rings(pixels: NDArray[Any], region: Region, depth: int) -> list[NDArray[np.float64]]:
    """For top, right, bottom, left: the median colours (n <= depth, 3) of the lines parallel to that side, going outwards."""
    height, width = pixels.shape[:2]
    x0, y0, x1, y1 = region.x0, region.y0, region.x1, region.y1
    inset = int(min(region.radius + 2, (x1 - x0) / 2 - 1, (y1 - y0) / 2 - 1))
    inset = max(0, inset)
    across, down = (
        slice(x0 + inset, max(x0 + inset + 1, x1 - inset)),
        slice(y0 + inset, max(y0 + inset + 1, y1 - inset)),
    )
    top = pixels[max(0, y0 - depth) : y0, across][::-1]
    bottom = pixels[y1 : min(height, y1 + depth), across]
    left = pixels[down, max(0, x0 - depth) : x0][:, ::-1].transpose(1, 0, 2)
    right = pixels[down, x1 : min(width, x1 + depth)].transpose(1, 0, 2)
    return [_median_lines(side) for side in (top, right, bottom, left)]


def _median_lines(side: NDArray[Any]) -> NDArray[np.float64]:
    if side.size == 0:
        return np.zeros((0, 3))
    step = max(1, side.shape[1] // 200)
    return np.median(side[:, ::step], axis=1).astype(np.float64)


def find_border(around: list[NDArray[np.float64]], fill: NDArray[np.float64], scale: int) -> Border:
    """Constant lines next to the region that differ both from its fill and from what lies beyond them."""
    widths, colours = [], []
    for side in around:
        width = 0
        if len(side) >= 2:
            first = side[0]
            same = np.abs(side - first).max(axis=1) <= 3
            n = int(np.argmin(same)) if not same.all() else len(side)
            steps = np.abs(np.diff(side[: n + 4], axis=0)).max(axis=1) if len(side) > n else np.zeros(0)
            if same.all() and 2 * scale <= n <= MAX_BORDER * scale:  # up to the picture's edge
                steps = np.array([*np.zeros(n - 1), np.abs(first - fill).max()])
            jump = steps[n - 1] if n - 1 < len(steps) else 0.0
            after = float(steps[n]) if n < len(steps) else 0.0
            if (
                n <= MAX_BORDER * scale
                and np.abs(first - fill).max() >= DIFFERENT
                and jump >= DIFFERENT
                and after <= max(3.0, 0.34 * jump)
            ):
                width = n
                colours.append(first)
        widths.append(width)
    if not colours:
        return Border((0, 0, 0, 0), None)
    middle = np.median(np.array(colours), axis=0)
    widest = [w for w in widths if w]
    far = [(np.abs(c - middle).max(), -w) for c, w in zip(colours, widest)]
    reference = colours[min(range(len(far)), key=lambda i: far[i])] if len(colours) == 2 else middle
    if len(colours) == 4 and np.abs(colours[1] - colours[3]).max() <= DIFFERENT:
        reference = colours[1]  # a row of a card: lines of its own above and below, the card's at its sides
    kept = [w if w and np.abs(side[0] - reference).max() <= 40 else 0 for w, side in zip(widths, around)]
    bare = [side for w, side in zip(widths, around) if not w]
    # the ground between two boxes alike is no border of theirs
    for i, (w, side) in enumerate(zip(kept, around)):
        apart = w and len(side) > w and np.abs(side[w] - fill).max() <= SAME
        on = 2 * w + GOES_ON * scale
        if apart and any(len(b) >= on and np.abs(b[:on] - side[0]).max() <= SAME for b in bare):
            kept[i] = 0
    if not any(kept):
        return Border((0, 0, 0, 0), None)
    if kept.count(0) == 1 and len({w for w in kept if w}) == 1:  # a shadow follows on the fourth side
        side, thick = around[kept.index(0)], max(kept)
        if len(side) > thick and np.abs(side[:thick] - reference).max() <= DIFFERENT:
            kept[kept.index(0)] = thick
    return Border(
        (kept[0], kept[1], kept[2], kept[3]), (float(reference[0]), float(reference[1]), float(reference[2]))
    )


def _up_to_neighbour(outer: NDArray[np.float64], border: int) -> tuple[NDArray[np.float64], int]:
    """(a side's profile (n, 3) up to where its even ground ends, if something else begins there: a card in the next column; 0).

    Where the ground between two boxes is nowhere even, for both cast their shadows on it: (its nearer half, how wide it is)."""
    steps = np.abs(np.diff(outer, axis=0)).max(axis=1) if len(outer) > 1 else np.zeros(0)
    for i in range(len(steps) - EVEN_GROUND):
        if (steps[i : i + EVEN_GROUND] <= 0.34).all():
            beyond = np.flatnonzero(np.abs(outer[i:] - outer[i]).max(axis=1) > NEIGHBOUR)
            return (outer[: i + int(beyond[0])] if beyond.size else outer), 0
    edge = np.flatnonzero(steps >= EDGE)
    gap = int(edge[0]) + 1 - border if edge.size else 0
    if gap < 2 * EVEN_GROUND:
        return outer, 0
    level = outer[:gap].mean(axis=1)
    middle = int(level.argmax())
    rise = level[middle] - level[0]
    if rise >= RISE and middle >= 3 * gap / 4:
        return outer[:gap], 0  # faded before that begins
    even = abs(level[gap - 1] - level[0]) <= LEVEL * max(rise, 1e-6)
    if rise < RISE or not even or not gap / 4 <= middle <= 3 * gap / 4:
        return outer, 0
    return outer[: gap // 2], gap


# drops outwards (or inwards), what dx and dy add to its reach, and how far off a neighbour is that casts as much (0: none)
Side = tuple[NDArray[np.float64] | None, int, int, int]


def _fit_shadow(
    sides: list[Side], strongest: float, scale: int
) -> tuple[float, float, float, float, float, float]:
    """(amplitude, sigma, dx, dy, spread, root mean square error) of a blurred box whose edge the sides' drops are."""

    def profile(d: NDArray[np.float64], amplitude: float, sigma: float, reach: float) -> NDArray[np.float64]:
        return np.asarray(amplitude * 0.5 * (1 - erf((d - reach) / (np.sqrt(2) * max(sigma, 0.2)))))

    def residual(v: NDArray[np.float64]) -> NDArray[np.float64]:
        amplitude, sigma, dx, dy, spread = v
        parts = []
        for d, x, y, gap in sides:
            if d is None:
                continue
            at, off = np.arange(len(d), dtype=np.float64) + 0.5, x * dx + y * dy
            drawn = profile(at, amplitude, sigma, spread + off)
            parts.append(d - drawn - (profile(gap - at, amplitude, sigma, spread - off) if gap else 0.0))
        return np.concatenate([*parts, [0.05 * dx, 0.08 * spread]])

    start = np.array([2 * strongest, 3.0 * scale, 0.0, 1.0 * scale, 0.0])
    fit = least_squares(
        residual,
        start,
        bounds=(
            [0, 0.3, -12 * scale, -8 * scale, -8 * scale],
            [600, 40 * scale, 12 * scale, 30 * scale, 8 * scale],
        ),
        max_nfev=60,
    )
    amplitude, sigma, dx, dy, spread = (float(v) for v in fit.x)
    return amplitude, sigma, dx, dy, spread, float(np.sqrt(np.mean(fit.fun**2)))


def find_inner_shadow(
    around: list[NDArray[np.float64]], fill: NDArray[np.float64], scale: int
) -> tuple[SoftShadow, tuple[int, int, int, int]] | None:
    """(inner shadow, lines of it at the top, right, bottom and left) that lie between a flat region and the border round it:
    outwards the fill grows darker and darker, and then comes the border's line, darker than that and than what is beyond."""
    shades: list[NDArray[np.float64]] = []
    for side in around:
        drop = (fill - side[: (INNER + 2) * scale]).mean(axis=1)
        if len(drop) < 2:
            return None
        line = int(drop.argmax())
        shade = drop[:line]
        if line + 1 >= len(drop) or drop[line] < DIFFERENT or (np.diff(shade, prepend=0.0) <= 0).any():
            return None
        shades.append(shade)
    top = shades[0]
    if (
        len(top) < 2 * scale
        or top[0] > FIRST_SHADE
        or top[-1] < SHADE
        or max(map(len, shades)) > INNER * scale
    ):
        return None
    return _inner_shadow(shades, fill, scale)


def _inner_shadow(
    shades: list[NDArray[np.float64]], fill: NDArray[np.float64], scale: int
) -> tuple[SoftShadow, tuple[int, int, int, int]] | None:
    """The inner shadow that makes a fill darker by `shades`, outwards from where it is flat; None if none does."""
    top = shades[0]
    inwards = [np.concatenate([s[::-1], np.zeros(2 * scale)]) for s in shades]
    ways = ((0, 1), (-1, 0), (0, -1), (1, 0))
    fitted = _fit_shadow([(d, x, y, 0) for d, (x, y) in zip(inwards, ways)], float(top[-1]), scale)
    amplitude, sigma, dx, dy, spread, error = fitted
    if error > 0.25 * top[-1]:
        return None
    dark = SoftShadow(
        dx, dy, sigma, spread, (0.0, 0.0, 0.0), min(1.0, amplitude / max(1.0, float(fill.mean())))
    )
    return dark, (len(shades[0]), len(shades[1]), len(shades[2]), len(shades[3]))


def find_band_shade(
    around: list[NDArray[np.float64]], fill: NDArray[np.float64], scale: int
) -> tuple[SoftShadow, tuple[int, int, int, int]] | None:
    """(inner shadow, lines of it at the top, right, bottom and left) of a band from side to side that is shaded all over: outwards
    the flat rest of it grows darker, up to where something else begins at once (above, below) or the page ends (at its sides). A line at its
    ends is its border's."""
    drops = [(fill - side).mean(axis=1) for side in around]
    shades: list[NDArray[np.float64]] = []
    for i, drop in enumerate(drops):
        steps = np.diff(drop)
        edge = np.flatnonzero((steps < -EDGE) | (steps > STEP))
        if i % 2 == 0 and not edge.size:
            return None
        shades.append(drop[: int(edge[0]) + 1] if i % 2 == 0 else drop)
    top, bottom = shades[0], shades[2]
    if min(len(top), len(bottom)) < 3 * scale:
        return None
    if max(float(s[-1] - s[-2]) for s in (top, bottom)) >= LINE:
        shades[0], shades[2] = top[:-1], bottom[:-1]
    if any((np.diff(s) < -WAVERS).any() for s in shades) or min(s[-1] for s in shades if len(s)) < SHADE:
        return None
    if max(s[0] for s in shades if len(s)) > FIRST_SHADE or max(map(len, shades)) > BAND_SHADE * scale:
        return None
    return _inner_shadow(shades, fill, scale)


def _has_step(drop: NDArray[np.float64]) -> bool:
    """Is a side's profile level, and then falls at once: a bar that ends there, no shadow?"""
    falls = -np.diff(drop)
    return bool(((falls[1:] > STEP) & (np.abs(falls[:-1]) <= 1)).any())


def find_shadow(around: list[NDArray[np.float64]], border: Border, scale: int) -> SoftShadow | None:
    """Fit an outer box shadow: along each side it decays as a*(1 - erf((d - s)/(sqrt2 sigma)))/2 (CSS Backgrounds 3: the box
    blurred by a Gaussian of half the blur radius, moved by the offset, grown by the spread)."""
    profiles: list[NDArray[np.float64] | None] = []
    gaps: list[int] = []
    ground = None
    for side, width in zip(around, border.widths):
        outer, gap = _up_to_neighbour(side[width:], max(border.widths))
        gaps.append(gap)
        if len(outer) < 5:
            profiles.append(None)
            continue
        ground = outer[-1] if ground is None or outer[-1].sum() > ground.sum() else ground
        profiles.append(outer)
    if ground is None:
        return None
    drops = [None if p is None else (ground - p).mean(axis=1) for p in profiles]
    stepped = [d is not None and _has_step(d[: 12 * scale]) for d in drops]
    if (
        max(len(d) for d in drops if d is not None) > 40 * scale
    ):  # a wide, faint shadow moves in whole 8-bit steps
        drops = [None if d is None else uniform_filter1d(d, 5 * scale, mode="nearest") for d in drops]
    strongest = max((float(d[0]) for d in drops if d is not None), default=0.0)
    if strongest < 1.5:
        return None
    # a shadow fades: steadily falling, over at least three px, on at least two sides
    soft = [
        d is not None
        and d[0] >= 1.0
        and bool((np.diff(d[: 12 * scale]) <= 0.75).all())
        and int((np.abs(np.diff(d)) > 0.2).sum()) >= 2
        and (bool(gap) or d[-1] <= 0.25 * max(strongest, 1e-6))
        and not step
        for d, step, gap in zip(drops, stepped, gaps)
    ]
    if sum(soft) < 2 or drops[2] is None or not soft[2]:
        return None
    top, right, bottom, left = (d if d is not None and s else None for d, s in zip(drops, soft))

    ways = ((top, 0, -1), (right, 1, 0), (bottom, 0, 1), (left, -1, 0))
    fitted = _fit_shadow([(d, x, y, gap) for (d, x, y), gap in zip(ways, gaps)], strongest, scale)
    amplitude, sigma, dx, dy, spread, error = fitted
    if error > max(1.5, 0.2 * strongest):
        return None
    thrown = max(abs(dx), abs(dy))
    if spread >= 7.5 * scale and (2 * sigma < 10 * scale or abs(dx) > scale):
        return None  # as far out as the fit goes, and nearly hard or aside: a line, a neighbour's edge or its shadow
    if abs(dx) >= 11.5 * scale or (thrown > 10 * scale and 2 * sigma < 0.5 * thrown):
        return None  # a fit that ran to its bounds: a far, hard shadow is something else that lies there
    base = float(ground.mean())
    opacity = min(1.0, amplitude / max(base, 1.0))
    if spread < -3 * scale and (abs(dx) > 5 * scale or opacity > 0.9):
        return (
            None  # a dark shadow that hides under its own box: the rings hold a line or a neighbour's shade
        )
    outer = next(d for d in (bottom, right, left, top) if d is not None)
    side = profiles[2] if profiles[2] is not None else around[2]
    drop = ground - side[0]
    tint = np.clip(ground - drop / max(opacity * float(outer[0]) / max(amplitude, 1e-6), 1e-3), 0, 255)
    return SoftShadow(dx, dy, sigma, spread, (float(tint[0]), float(tint[1]), float(tint[2])), opacity)
