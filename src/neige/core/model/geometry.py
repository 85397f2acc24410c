"""Rectangles in CSS px."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Rect:
    """A half-open rectangle: x, y of the top left corner, width and height, in CSS px (floats)."""

    x: float
    y: float
    w: float
    h: float

    @property
    def right(self) -> float:
        return self.x + self.w

    @property
    def bottom(self) -> float:
        return self.y + self.h

    @property
    def cx(self) -> float:
        return self.x + self.w / 2

    @property
    def cy(self) -> float:
        return self.y + self.h / 2

    @property
    def area(self) -> float:
        return max(0.0, self.w) * max(0.0, self.h)

    def meet(self, other: Rect) -> float:
        """Area of the intersection."""
        # asked hundreds of thousands of times a page: no properties, and most rectangles are apart
        x0, x1, u0, u1 = self.x, self.x + self.w, other.x, other.x + other.w
        w = (x1 if x1 < u1 else u1) - (x0 if x0 > u0 else u0)
        if w <= 0:
            return 0.0
        y0, y1, v0, v1 = self.y, self.y + self.h, other.y, other.y + other.h
        h = (y1 if y1 < v1 else v1) - (y0 if y0 > v0 else v0)
        return w * h if h > 0 else 0.0

    def inside(self, other: Rect, share: float = 0.85) -> bool:
        """True if at least `share` of this rectangle's area lies in `other`."""
        return self.meet(other) >= share * max(self.area, 1e-9)

    def iou(self, other: Rect) -> float:
        both = self.meet(other)
        return both / max(self.area + other.area - both, 1e-9)

    def grow(self, by: float) -> Rect:
        return Rect(self.x - by, self.y - by, self.w + 2 * by, self.h + 2 * by)


def edges(x0: float, y0: float, x1: float, y1: float) -> Rect:
    """The rectangle between two corners."""
    return Rect(x0, y0, x1 - x0, y1 - y0)


def union(rects: Iterable[Rect]) -> Rect:
    """The smallest rectangle around all of them; ValueError if there is none."""
    rs = list(rects)
    return edges(
        min(r.x for r in rs), min(r.y for r in rs), max(r.right for r in rs), max(r.bottom for r in rs)
    )
