"""Gradients: areas whose colour changes slowly along one direction, or outwards from a centre. Device px.

Cells of CELL x CELL px (medians, so that text on them does not matter) are grown together where neighbours differ by
little; a group whose colours are a function of one coordinate (along a line, or of the distance from a centre) is a gradient,
with stops where that function bends.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from neige.core.model import Fill
from neige.core.reading.colour import to_hex

CELL = 8
NEAR = 5  # 8-bit steps between neighbouring cells of one gradient
MIN_CELLS = 40
MIN_RANGE = 6.0  # 8-bit steps from end to end; less is a flat fill with noise
INLIER = 3.0
REACH = 2  # cells to both sides between which a slope is taken
INLIER_SHARE = 0.86
LARGE_SHARE = 0.7  # suffices for a quarter of the page: the soft shadows of what lies on it are many
CHANGING = 0.6  # of its length along which a gradient changes at least
BARE = 0.9  # of the cells at one height, from dark to light: shadows, which lie on most of them, are darker
EVEN, EVENLY = 1.2, 0.75  # 8-bit steps off a straight line, of so much of a page's length at least
FADED = 0.9  # of a gradient's cells that are left, where it fades to flat ground
BAND = (0.9, 80)  # of the page's width, and px: a band that may be shaded from within
FAINT, TURNS = 16.0, 2.0  # 8-bit steps from end to end at most; and back again at least
SHADED, WAVERS = 3.0, 0.7  # 8-bit steps by which its edges are darker at least; by which its shade may waver
BEND = 2.0  # 8-bit steps a colour may be off the straight line between two stops


@dataclass(frozen=True)
class Ramp:
    """Colour as a function of t in px: `at` (n,) ascending, `colours` (n, 3). `box`: x0, y0, x1, y1.

    t = x*dx + y*dy; round a `centre` (x, y, k) it is the distance from x, y with heights taken k times.
    """

    dx: float
    dy: float
    at: NDArray[np.float64]
    colours: NDArray[np.float64]
    box: tuple[int, int, int, int]
    centre: tuple[float, float, float] | None = None

    def predict(self, x: NDArray, y: NDArray) -> NDArray[np.float32]:
        t = x * self.dx + y * self.dy if self.centre is None else _distance(self.centre, x, y)
        return np.stack([np.interp(t, self.at, self.colours[:, c]) for c in range(3)], axis=-1).astype(
            np.float32
        )

    def fill(self, box: tuple[int, int, int, int]) -> Fill:
        """As a CSS gradient on `box`."""
        x0, y0, x1, y1 = box
        w, h = x1 - x0, y1 - y0
        if self.centre is not None:
            return self._radial(box)
        length = abs(w * self.dx) + abs(h * self.dy)
        middle = (x0 + x1) / 2 * self.dx + (y0 + y1) / 2 * self.dy
        ends = np.array([middle - length / 2, middle + length / 2])
        inner = self.at[(self.at > ends[0] + 0.02 * length) & (self.at < ends[1] - 0.02 * length)]
        points = np.concatenate([ends[:1], inner, ends[1:]])
        colours = self._extrapolated(points)
        kept = _bends(points, colours)
        stops = tuple((round(float((points[i] - ends[0]) / length), 3), to_hex(colours[i])) for i in kept)
        angle = float(np.rad2deg(np.arctan2(self.dx, -self.dy))) % 360
        nearest = round(angle / 45) * 45
        return Fill(
            to_hex(colours.mean(axis=0)),
            float(nearest % 360) if abs(angle - nearest) < 2.5 else round(angle, 1),
            stops,
        )

    def _radial(self, box: tuple[int, int, int, int]) -> Fill:
        """As a CSS radial gradient whose ending shape passes through the corner of `box` that is farthest from its centre."""
        assert self.centre is not None
        x0, y0, x1, y1 = box
        cx, cy, k = self.centre
        end = float(_distance(self.centre, np.array([x0, x1, x0, x1]), np.array([y0, y0, y1, y1])).max())
        inner = self.at[(self.at > 0.02 * end) & (self.at < 0.98 * end)]
        points = np.concatenate([[0.0], inner, [end]])
        colours = self._extrapolated(points)
        stops = tuple((round(float(points[i] / end), 3), to_hex(colours[i])) for i in _bends(points, colours))
        w, h = x1 - x0, y1 - y0
        centre = (_tidy((cx - x0) / w), _tidy((cy - y0) / h))
        return Fill(
            to_hex(colours.mean(axis=0)),
            stops=stops,
            centre=centre,
            radii=(round(end / w, 4), round(end / k / h, 4)),
        )

    def _extrapolated(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        out = np.stack([np.interp(points, self.at, self.colours[:, c]) for c in range(3)], axis=-1)
        n = max(2, len(self.at) // 4)
        for end, part in ((points < self.at[0], slice(None, n)), (points > self.at[-1], slice(-n, None))):
            if end.any():
                for c in range(3):
                    slope, base = np.polyfit(self.at[part], self.colours[part, c], 1)
                    out[end, c] = np.clip(base + slope * points[end], 0, 255)
        return out


def _bends(at: NDArray[np.float64], colours: NDArray[np.float64]) -> list[int]:
    """Indices of the fewest points whose polyline stays within BEND of all (Ramer 1972)."""
    kept = [0, len(at) - 1]
    stack = [(0, len(at) - 1)]
    while stack and len(kept) < 6:
        a, b = stack.pop()
        if b - a < 2:
            continue
        t = ((at[a + 1 : b] - at[a]) / max(at[b] - at[a], 1e-9))[:, None]
        off = np.abs(colours[a] + t * (colours[b] - colours[a]) - colours[a + 1 : b]).max(axis=1)
        worst = int(off.argmax())
        if off[worst] > BEND:
            kept.append(a + 1 + worst)
            stack += [(a, a + 1 + worst), (a + 1 + worst, b)]
    return sorted(kept)


def find_ramps(pixels: NDArray[np.uint8]) -> list[Ramp]:
    """All linear gradients of a picture, largest first."""
    h, w = pixels.shape[0] // CELL, pixels.shape[1] // CELL
    if h < 3 or w < 3:
        return []
    cells = np.median(
        pixels[: h * CELL, : w * CELL]
        .reshape(h, CELL, w, CELL, 3)
        .transpose(0, 2, 1, 3, 4)
        .reshape(h, w, CELL * CELL, 3)[:, :, ::3],
        axis=2,
    )
    index = np.arange(h * w).reshape(h, w)
    across = np.abs(np.diff(cells, axis=1)).max(axis=2) <= NEAR
    down = np.abs(np.diff(cells, axis=0)).max(axis=2) <= NEAR
    a = np.concatenate([index[:, :-1][across], index[:-1][down]])
    b = np.concatenate([index[:, 1:][across], index[1:][down]])
    _, labels = connected_components(
        coo_matrix((np.ones(len(a), np.int8), (a, b)), shape=(h * w, h * w)), directed=False
    )
    counts = np.bincount(labels)
    flat = cells.reshape(-1, 3)

    def fit(members: NDArray[np.int64]) -> Ramp | None:
        args = flat[members], members % w, members // w, 0.25 * h * w
        return _fit(*args) or _fit_down(*args) or _fit_radial(*args)

    ramps: list[Ramp] = []
    groups: list[NDArray[np.int64]] = []
    for number in np.argsort(-counts, kind="stable"):
        if counts[number] < MIN_CELLS:
            break
        members = np.flatnonzero(labels == number)
        ramp = fit(members)
        if ramp is None:
            continue
        for i, other in enumerate(ramps):  # a panel that lies across a gradient parts it in two
            whole = fit(np.concatenate([groups[i], members])) if _in_line(other, ramp) else None
            if (
                whole is not None
                and _likeness(whole, flat[members], members % w, members // w) >= LARGE_SHARE
            ):
                ramps[i], groups[i] = whole, np.concatenate([groups[i], members])
                break
        else:
            ramps.append(ramp)
            groups.append(members)
    return [r for r in ramps if not (_is_shade(r, w * CELL) or _is_shade_of_cards(r))]


def _likeness(
    ramp: Ramp, colours: NDArray[np.float64], cx: NDArray[np.int64], cy: NDArray[np.int64]
) -> float:
    """Share of cells that have a gradient's colours: what lies on a large one is lost in it otherwise."""
    off = np.abs(ramp.predict(_middles(cx), _middles(cy)) - colours).max(axis=1)
    return float((off <= INLIER).mean())


def _is_shade(ramp: Ramp, width: int) -> bool:
    """Is a gradient the shade within a low band from side to side, darker towards both its edges?"""
    x0, y0, x1, y1 = ramp.box
    if ramp.centre is not None or abs(ramp.dy) < 0.99 or x1 - x0 < BAND[0] * width or y1 - y0 > BAND[1]:
        return False
    level = ramp.colours.mean(axis=1)
    top = int(level.argmax())
    rises = bool((np.diff(level[: top + 1]) >= -WAVERS).all() and (np.diff(level[top:]) <= WAVERS).all())
    return rises and level[top] - max(level[0], level[-1]) >= SHADED


def _is_shade_of_cards(ramp: Ramp) -> bool:
    """Is a faint gradient round a centre, now lighter and now darker, ground on which the shadows of cards lie?"""
    level = ramp.colours.mean(axis=1)
    steps = np.diff(level)
    back = min(float(steps[steps > 0].sum()), -float(steps[steps < 0].sum()))
    return ramp.centre is not None and float(np.ptp(level)) <= FAINT and back >= TURNS


def _tidy(share: float) -> float:
    """A share of a box, on its edge, its middle or a whole per cent where it is near."""
    nearest = round(share * 20) / 20
    return nearest if abs(share - nearest) < 0.006 else round(share, 3)


def _in_line(a: Ramp, b: Ramp) -> bool:
    """True if two gradients have one direction and boxes of one width or height that lie in line."""
    (ax0, ay0, ax1, ay1), (bx0, by0, bx1, by1) = a.box, b.box
    level = abs(ay0 - by0) <= 2 * CELL and abs(ay1 - by1) <= 2 * CELL
    plumb = abs(ax0 - bx0) <= 2 * CELL and abs(ax1 - bx1) <= 2 * CELL
    one_way = abs(a.dx * b.dx + a.dy * b.dy) > 0.98  # radial ones have no direction
    return one_way and (level or plumb) and _goes_on(a, b)


def _goes_on(a: Ramp, b: Ramp) -> bool:
    """Where one ends along their direction, are the other's colours about those that it would have come to?"""
    if a.dx * b.dx + a.dy * b.dy < 0:
        b = replace(b, dx=-b.dx, dy=-b.dy, at=-b.at[::-1], colours=b.colours[::-1])
    first, second = sorted((a, b), key=lambda r: float(r.at[0]))
    gap = max(0.0, float(second.at[0] - first.at[-1]))
    slopes = [float(np.abs(r.colours[-1] - r.colours[0]).max() / np.ptp(r.at)) for r in (first, second)]
    there = [float(np.interp(second.at[0], first.at, first.colours[:, c])) for c in range(3)]
    jump = float(np.abs(second.colours[0] - there).max())
    return jump <= 2 * NEAR + 2 * gap * max(slopes)


def _fit(
    colours: NDArray[np.float64], cx: NDArray[np.int64], cy: NDArray[np.int64], large: float
) -> Ramp | None:
    return fit_line(_middles(cx), _middles(cy), colours, _box(cx, cy), large)


def _fit_down(
    colours: NDArray[np.float64], cx: NDArray[np.int64], cy: NDArray[np.int64], large: float
) -> Ramp | None:
    """The faint gradient from one colour to another straight down a page, whose ground is changed by a step now and then and on
    which shadows lie: the line most of its heights agree on."""
    if len(colours) <= large:
        return None
    spread = np.quantile(colours, 0.98, axis=0) - np.quantile(colours, 0.02, axis=0)
    if spread.max() < MIN_RANGE:
        return None
    order = np.argsort(cy, kind="stable")
    rows, first = np.unique(cy[order], return_index=True)
    ground = np.array([np.quantile(part, BARE, axis=0) for part in np.split(colours[order], first[1:])])
    y = _middles(rows)
    line = np.stack([_agreed_line(ground[:, c], y) for c in range(3)], axis=1)
    even = float((np.abs(ground - line).max(axis=1) <= EVEN).mean())
    if np.ptp(line, axis=0).max() < MIN_RANGE or even < EVENLY:
        return None
    ramp = Ramp(0.0, 1.0, y[[0, -1]], np.clip(line[[0, -1]], 0, 255), _box(cx, cy))
    return ramp if _likeness(ramp, colours, cx, cy) >= LARGE_SHARE else None


def _agreed_line(values: NDArray[np.float64], at: NDArray[np.float64]) -> NDArray[np.float64]:
    """The line (n,) through values at rising places whose slope is the median of those between all pairs (Theil 1950, Sen 1968).
    SciPy has it, too, in a part whose loading takes most of a second."""
    a, b = np.triu_indices(len(at), 1)
    slope = np.median((values[b] - values[a]) / (at[b] - at[a]))
    return np.asarray(np.median(values) + slope * (at - np.median(at)))


def fit_line(
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    colours: NDArray[np.float64],
    box: tuple[int, int, int, int],
    large: float = np.inf,
) -> Ramp | None:
    """The linear gradient of `colours` (n, 3) at x and y (n,), if nearly all of them are one; in more than `large` places, most of them."""
    spread = np.quantile(colours, 0.98, axis=0) - np.quantile(colours, 0.02, axis=0)
    if spread.max() < MIN_RANGE:
        return None
    design = np.stack([np.ones_like(x), x, y], axis=1)
    good = np.ones(len(x), bool)
    slopes: NDArray[np.floating] = np.zeros((2, 3))
    for _ in range(3):
        if good.sum() < MIN_CELLS // 2:
            return None
        solution = np.linalg.lstsq(design[good], colours[good], rcond=None)[0]
        off = np.abs(design @ solution - colours).max(axis=1)
        good = off <= max(4.0, float(np.quantile(off, 0.8)))
        slopes = solution[1:]
    if np.abs(slopes).max() * max(np.ptp(x), np.ptp(y), 1) < MIN_RANGE * 0.5:
        return None
    values, vectors = np.linalg.eigh(slopes @ slopes.T)
    dx, dy = (float(v) for v in vectors[:, 1])
    if values[1] <= 0 or dy < 0 or (dy == 0 and dx < 0):
        dx, dy = -dx, -dy
    return _ramp(x, y, colours, Ramp(dx, dy, NONE, NONE, box), large)


NONE = np.zeros(0)


def _middles(cells: NDArray[np.int64]) -> NDArray[np.float64]:
    return (cells.astype(np.float64) + 0.5) * CELL


def _box(cx: NDArray[np.int64], cy: NDArray[np.int64]) -> tuple[int, int, int, int]:
    return int(cx.min()) * CELL, int(cy.min()) * CELL, (int(cx.max()) + 1) * CELL, (int(cy.max()) + 1) * CELL


def _distance(centre: tuple[float, float, float], x: NDArray, y: NDArray) -> NDArray[np.float64]:
    return np.hypot(x - centre[0], (y - centre[1]) * centre[2])


def _fit_radial(
    colours: NDArray[np.float64], cx: NDArray[np.int64], cy: NDArray[np.int64], large: float
) -> Ramp | None:
    """Round a centre: where the slopes of the colours' main component point from; then refined until colours at one distance agree."""
    x, y = _middles(cx), _middles(cy)
    middle = np.median(colours, axis=0)
    spread = np.quantile(colours, 0.98, axis=0) - np.quantile(colours, 0.02, axis=0)
    if spread.max() < MIN_RANGE:
        return None
    main = (colours - middle) @ np.linalg.svd(colours - middle, full_matrices=False)[2][0]
    grid = np.full((int(np.ptp(cy)) + 1, int(np.ptp(cx)) + 1), np.nan)
    grid[cy - cy.min(), cx - cx.min()] = main
    if min(grid.shape) < 2 * REACH + 1:
        return None
    gx, gy = np.full_like(grid, np.nan), np.full_like(grid, np.nan)
    gx[:, REACH:-REACH] = grid[:, 2 * REACH :] - grid[:, : -2 * REACH]
    gy[REACH:-REACH] = grid[2 * REACH :] - grid[: -2 * REACH]
    sx, sy = gx[cy - cy.min(), cx - cx.min()], gy[cy - cy.min(), cx - cx.min()]
    known = np.isfinite(sx) & np.isfinite(sy)
    if known.sum() < MIN_CELLS // 2:
        return None
    # slopes point from the centre: sx K (y - cy) = sy (x - cx) with K = k²; linear in K, K cy and cx
    design = np.stack([sx * y, -sx, sy], axis=1)[known]
    squared, scaled, at = np.linalg.lstsq(design, (sy * x)[known], rcond=None)[0]
    if not 0.06 < squared < 16:
        return None
    start = (float(at), float(scaled / squared), float(np.log(squared) / 2))
    step = max(1, len(x) // 2000)
    px, py, value = x[::step], y[::step], main[::step]

    def uneven(p: NDArray[np.float64]) -> float:
        """How much the colours at one distance differ."""
        order = np.argsort(_distance((p[0], p[1], float(np.exp(p[2]))), px, py), kind="stable")
        return float(np.abs(np.diff(value[order])).mean())

    simplex = np.array(start) + np.array([[0, 0, 0], [40, 0, 0], [0, 40, 0], [0, 0, 0.2]])
    found = minimize(
        uneven, start, method="Nelder-Mead", options={"initial_simplex": simplex, "maxfev": 200, "xatol": 0.2}
    ).x
    k = float(np.exp(found[2]))
    centre = (float(found[0]), float(found[1]), 1.0 if abs(k - 1) < 0.06 else k)
    return _ramp(x, y, colours, Ramp(0.0, 0.0, NONE, NONE, _box(cx, cy), centre), large)


def _ramp(
    x: NDArray[np.float64], y: NDArray[np.float64], colours: NDArray[np.float64], along: Ramp, large: float
) -> Ramp | None:
    """`along` with its colours, if they are a function of its coordinate for nearly all cells."""
    t = x * along.dx + y * along.dy if along.centre is None else _distance(along.centre, x, y)
    edges = np.linspace(t.min(), t.max() + 1e-6, 33)
    which = np.digitize(t, edges) - 1
    at, middle = [], []
    for i in range(32):
        part = which == i
        if part.sum() >= 2:
            at.append(float(t[part].mean()))
            inside = colours[part]
            # shadows darken part of a bin: where a bin is uneven its lighter cells are the ground
            uneven = np.ptp(inside, axis=0).max() > 5
            middle.append(np.quantile(inside, 0.75 if uneven else 0.5, axis=0))
    if len(at) < 4:
        return None
    ramp = replace(along, at=np.array(at), colours=np.array(middle))
    inlier = np.abs(ramp.predict(x, y) - colours).max(axis=1) <= INLIER
    if inlier.mean() < (LARGE_SHARE if len(colours) > large else INLIER_SHARE):
        return None
    # most neighbouring bins must differ: a few flat areas joined by shadows are not a gradient
    changing = np.abs(np.diff(np.array(middle), axis=0)).max(axis=1) > 0.15
    if along.centre is None and changing.mean() < CHANGING and changing.any():
        # where it has faded to the ground it lies on, it has ended
        first, last = int(changing.argmax()), len(changing) - int(changing[::-1].argmax())
        keep = (t >= at[first]) & (t <= at[last])
        if MIN_CELLS <= keep.sum() < FADED * len(t):
            x, y, half = x[keep], y[keep], CELL / 2
            box = (int(x.min() - half), int(y.min() - half), int(x.max() + half), int(y.max() + half))
            if last < len(changing):  # `flatten` looks a little farther than the cells
                down, over = abs(along.dy) > 0.9, abs(along.dx) > 0.9
                box = (*box[:2], box[2] - 2 * CELL * over, box[3] - 2 * CELL * down)
            return _ramp(x, y, colours[keep], replace(along, box=box), large)
    if along.centre is not None:  # beyond its last stop a radial gradient is flat
        changing = changing[: max(len(changing) // 3, len(changing) - int(changing[::-1].argmax()))]
    if changing.mean() < CHANGING:
        return None
    return ramp
