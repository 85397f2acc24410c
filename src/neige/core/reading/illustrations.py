"""Illustrations on a ground of their own: a wordless box in whose middle shapes of many sizes lie in and on each other, or a
picture by itself, is one picture."""

from __future__ import annotations

from collections.abc import Sequence

from neige.core.model import Cutout, Line, Surface
from neige.core.model.geometry import union
from neige.core.reading.colour import from_hex, oklab

WIDE, HIGH = (120.0, 0.5), (90.0, 520.0)  # px, and of the page's width; px
SHAPES = 3  # in it at least
CENTRED = 6.0  # px that they may be off its middle
SIZES = 8.0  # times as large as the smallest is the largest
PALE = 0.9  # OKLab lightness of a panel that a picture may stand on by itself
WORDS = 0.2  # of a line that may reach into it


def join_illustrations(
    surfaces: Sequence[Surface], cutouts: Sequence[Cutout], lines: Sequence[Line], width: float
) -> tuple[tuple[Surface, ...], tuple[Cutout, ...]]:
    """(surfaces, cutouts) with each illustration as the one cutout that it is. `width`: the page's, CSS px."""
    left, marks = list(surfaces), list(cutouts)
    for s in surfaces:  # the largest first
        box = s.rect
        if not (WIDE[0] <= box.w <= WIDE[1] * width and HIGH[0] <= box.h <= HIGH[1]) or s not in left:
            continue
        if any(n.box.meet(box) > WORDS * n.box.area for n in lines):
            continue
        shapes = [o for o in left if o is not s and o.rect.inside(box, 0.95)]
        pieces = [c for c in marks if c.rect.inside(box, 0.95)]
        parts = [*(o.rect for o in shapes), *(c.rect for c in pieces)]
        alone = len(pieces) == 1 and not shapes and pieces[0].kind == "image" and _lightness(s) < PALE
        if (len(parts) < SHAPES and not alone) or any(c.backdrop for c in pieces):
            continue
        whole, areas = union(parts), [r.area for r in parts]
        middle = abs(whole.cx - box.cx) <= CENTRED and abs(whole.cy - box.cy) <= CENTRED
        if not middle or (max(areas) < SIZES * min(areas) and not alone):
            continue
        left = [o for o in left if o is not s and not any(o is k for k in shapes)]
        marks = [c for c in marks if not any(c is k for k in pieces)]
        marks.append(Cutout(box, "image", radius=s.radius))
    return tuple(left), tuple(sorted(marks, key=lambda c: (c.rect.y, c.rect.x)))


def _lightness(s: Surface) -> float:
    return float(oklab(from_hex(s.fill.colour))[0])
