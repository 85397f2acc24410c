"""Distances between marks as CSS has them, and the scale of steps that explains them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np

from neige.core.model import Gap, Line, Rect, SpacingScale, Surface, TypeStyle

STEPS = (16.0, 12.0, 10.0, 8.0, 6.0, 5.0, 4.0)  # px; finer steps explain anything
NEAR = 0.6  # px between a distance and a multiple of the step
LARGEST = 160.0  # px: wider distances are what is left over, not spacing
EXPLAINED = 0.72  # of the distances that a step must explain, or the next finer one is tried
EVEN = 1.0  # px by which the distances of an even row differ
USUAL_LEADING = 1.2  # of the size: a lone line's line height is not seen


def text_boxes(lines: Sequence[Line], styles: Sequence[TypeStyle]) -> list[Rect]:
    """One box a paragraph: as wide as its words, as high as its line boxes, so that distances from it are CSS distances.

    The line height is that between its baselines; half of what it exceeds the font's ascent and descent by lies above.
    """
    groups: list[list[Line]] = []
    for n in sorted(lines, key=lambda n: (n.baseline, n.box.x)):
        for g in reversed(groups[-24:]):
            last = g[-1]
            pitch = n.baseline - last.baseline
            size = styles[n.style].size
            overlap = min(last.box.right, n.box.right) - max(last.box.x, n.box.x)
            even = len(g) < 2 or abs(pitch - (g[-1].baseline - g[-2].baseline)) <= EVEN
            if last.style == n.style and 0.9 * size <= pitch <= 2.2 * size and overlap > 0 and even:
                g.append(n)
                break
        else:
            groups.append([n])
    out = []
    for g in groups:
        style = styles[g[0].style]
        pitch = (g[-1].baseline - g[0].baseline) / (len(g) - 1) if len(g) > 1 else USUAL_LEADING * style.size
        extra = (pitch - style.ascent - style.descent) / 2
        x, right = min(n.box.x for n in g), max(n.box.right for n in g)
        top, bottom = g[0].baseline - style.ascent - extra, g[-1].baseline + style.descent + extra
        out.append(Rect(x, top, right - x, bottom - top))
    return out


def find_gaps(boxes: Sequence[Rect], panels: Sequence[Rect]) -> list[Gap]:
    """The distances (CSS px) from each box to its next neighbour to the right and below in the same panel, and to the panel's sides.

    `boxes` may contain the panels: these are neighbours of one another, too.
    """
    hosts = {i: _host(r, panels) for i, r in enumerate(boxes)}
    out: list[Gap] = []
    for i, r in enumerate(boxes):
        fellows = [o for j, o in enumerate(boxes) if j != i and hosts[j] is hosts[i]]
        right = [o for o in fellows if o.x >= r.right - 0.5 and min(o.bottom, r.bottom) - max(o.y, r.y) > 1]
        below = [o for o in fellows if o.y >= r.bottom - 0.5 and min(o.right, r.right) - max(o.x, r.x) > 1]
        if right:
            o = min(right, key=lambda o: o.x)
            y = (max(o.y, r.y) + min(o.bottom, r.bottom)) / 2
            out.append(Gap("between", "inline", r.right, y, round(o.x - r.right, 2)))
        if below:
            o = min(below, key=lambda o: o.y)
            x = (max(o.x, r.x) + min(o.right, r.right)) / 2
            out.append(Gap("between", "block", x, r.bottom, round(o.y - r.bottom, 2)))
        host = hosts[i]
        if host is not None:
            if not any(o.x < r.x - 0.5 for o in fellows):
                out.append(Gap("padding", "inline", host.x, r.cy, round(r.x - host.x, 2)))
            if not any(o.y < r.y - 0.5 for o in fellows):
                out.append(Gap("padding", "block", r.cx, host.y, round(r.y - host.y, 2)))
            if not any(o.bottom > r.bottom + 0.5 for o in fellows):
                out.append(Gap("padding", "block", r.cx, r.bottom, round(host.bottom - r.bottom, 2)))
    return [g for g in out if 0.5 <= g.size <= 4 * LARGEST]


def _host(r: Rect, panels: Sequence[Rect]) -> Rect | None:
    around = [p for p in panels if p is not r and r.inside(p, 0.98) and p.area > 1.02 * r.area]
    return min(around, key=lambda p: p.area) if around else None


def scale_of_gaps(gaps: Sequence[Gap]) -> SpacingScale:
    """The coarsest step of which most distances are multiples, the values in use (with how often), and the leftovers."""
    sizes = np.array([g.size for g in gaps if g.size <= LARGEST])
    if sizes.size == 0:
        return SpacingScale(4.0, (), (), 0.0)

    def fits(step: float) -> np.ndarray:
        near = np.maximum(1, np.round(sizes / step)) * step
        return np.abs(sizes - near) <= NEAR

    # a step explains a share by chance, 2 NEAR / step: what counts is what it explains beyond that
    def gain(step: float) -> float:
        chance = min(0.95, 2 * NEAR / step)
        return float((fits(step).mean() - chance) / (1 - chance))

    step = next((s for s in STEPS if fits(s).mean() >= EXPLAINED), max(STEPS, key=lambda s: (gain(s), s)))
    good = fits(step)
    used = Counter((np.maximum(1, np.round(sizes[good] / step)) * step).tolist())
    odd = Counter(np.round(sizes[~good], 1).tolist())
    return SpacingScale(
        step,
        tuple(sorted((float(v), n) for v, n in used.items())),
        tuple(sorted((float(v), n) for v, n in odd.items())),
        round(float(good.mean()), 4),
    )


def panels_of(surfaces: Sequence[Surface]) -> list[Rect]:
    """The surfaces' boxes inside their borders: what padding is measured from."""
    return [
        Rect(
            s.rect.x + s.border[3],
            s.rect.y + s.border[0],
            s.rect.w - s.border[1] - s.border[3],
            s.rect.h - s.border[0] - s.border[2],
        )
        for s in surfaces
    ]
