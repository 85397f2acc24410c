"""Panels and bars that something from their one side to the other cuts in two: they go on behind it."""

from __future__ import annotations

from dataclasses import replace

from neige.core.model import Rect, Rule, Surface
from neige.core.model.geometry import edges, union

FULL = 0.995  # of the page's width: a band
FLUSH = 2.2  # px between a card's edge and a picture that ends there
BAR_HIGH, ENTRY_WIDE = 100.0, 180.0  # px that a bar is high, and an entry in it wide at most
ENTRY = 56.0  # px: the highest entry of a menu that a panel goes on behind
CARD_WIDE = 240.0  # px: a card that a band may divide
BAR_AND_LINE = 8.0  # px that the entry leaves free at its sides
CELLS, CELL_HIGH = 3, 24.0  # cells of a bar at least, and px that it is high
PART, SIDE_PANEL, LINE = (
    100.0,
    420.0,
    3.0,
)  # px: a panel's parts are as high, the panel as wide, the line as thick


def bridge_panels(surfaces: list[Surface], page_width: float, entry_high: float = ENTRY) -> list[Surface]:
    """A panel that an entry from its one side to the other cuts in two is one panel, and goes on behind the entry."""
    out = sorted(surfaces, key=lambda s: (s.rect.y, s.rect.x))
    for a in list(out):
        if a not in out or a.rect.w >= page_width * FULL or a.radius or a.border[2]:
            continue
        for b in out:
            alike = (
                abs(a.rect.x - b.rect.x) <= 1.5
                and abs(a.rect.right - b.rect.right) <= 1.5
                and a.fill == b.fill
                and a.border[1::2] == b.border[1::2]
                and not b.border[0]
                and not b.radius
            )
            if not alike:
                continue
            gap = edges(a.rect.x, a.rect.bottom, a.rect.right, b.rect.y)
            entry = next((c for c in out if c is not a and c is not b and _fills(c.rect, gap)), None)
            if (
                entry is not None
                and entry.rect.h <= entry_high
                and max(a.rect.h, b.rect.h) >= 3 * entry.rect.h
            ):
                out[out.index(a)] = replace(
                    a, rect=union([a.rect, b.rect]), border=(*a.border[:2], b.border[2], a.border[3])
                )
                out.remove(b)
                break
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def bridge_cards(surfaces: list[Surface], page_width: float) -> list[Surface]:
    """A card whose upper and lower part have one fill, and between them a band as wide as it is in another: the band lies on it."""
    out = sorted(surfaces, key=lambda s: (s.rect.y, s.rect.x))
    for a in list(out):
        if a not in out or a.rect.w >= page_width * FULL or not _is_part(a) or a.border[2]:
            continue
        for b in [b for b in out if b.rect.y > a.rect.bottom + PART and _flush(a.rect, b.rect)]:
            gap = edges(a.rect.x, a.rect.bottom - 1.5, a.rect.right, b.rect.y + 1.5)
            bands = [
                c
                for c in out
                if c is not a and c is not b and _flush(a.rect, c.rect) and c.rect.inside(gap, 0.99)
            ]
            filled = sum(c.rect.h for c in bands) >= b.rect.y - a.rect.bottom - 1.5
            plain = all(c.fill != a.fill and not c.radius and not any(c.border[1::2]) for c in bands)
            alike = a.fill == b.fill and a.border[1::2] == b.border[1::2] and not b.border[0] and _is_part(b)
            if not (filled and plain and alike):
                continue
            corners = (*(a.corners or (a.radius,) * 4)[:2], *(b.corners or (b.radius,) * 4)[2:])
            radius, several = max(corners), len(set(corners)) > 1
            border = (*a.border[:2], b.border[2], a.border[3])
            out[out.index(a)] = a = replace(
                a,
                rect=union([a.rect, b.rect]),
                border=border,
                radius=radius,
                corners=corners if several else None,
            )
            out.remove(b)
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def _is_part(s: Surface) -> bool:
    return s.rect.h >= PART and s.rect.w >= CARD_WIDE and s.border_style == "solid" and s.accent is None


def _flush(a: Rect, b: Rect) -> bool:
    return abs(a.x - b.x) <= 1.5 and abs(a.right - b.right) <= 1.5


def join_side_panels(
    surfaces: list[Surface], rules: list[Rule], page_width: float
) -> tuple[list[Surface], list[Rule]]:
    """A panel at the page's side that a line from its one side to the other cuts in two is one panel with a line on it."""
    out, lines = sorted(surfaces, key=lambda s: s.rect.y), list(rules)
    for a in list(out):
        at_side = a.rect.x <= FLUSH or a.rect.right >= page_width - FLUSH
        if a not in out or not at_side or not a.rect.h >= PART <= a.rect.w <= SIDE_PANEL or a.radius:
            continue
        for b in out:
            line = a.border[2] or b.border[0]
            if (
                b is not a
                and abs(a.rect.x - b.rect.x) <= 1.5
                and abs(a.rect.right - b.rect.right) <= 1.5
                and -2 * line <= b.rect.y - a.rect.bottom <= 1
                and 0 < line <= LINE
                and a.fill == b.fill
                and b.rect.h >= PART
                and not b.radius
            ):
                sides = (min(a.border[1], b.border[1]), min(a.border[3], b.border[3]))
                rect = union([a.rect, b.rect])
                ink = b.border_colour if b.border[0] else a.border_colour
                between = edges(rect.x, b.rect.y, rect.right, b.rect.y + line)
                if not any(r.rect.iou(between) > 0.5 for r in lines):
                    lines.append(Rule(between, ink))
                whole = replace(a, rect=rect, border=(a.border[0], sides[0], b.border[2], sides[1]))
                out[out.index(a)] = whole
                out.remove(b)
                break
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), lines


def bridge_bars(surfaces: list[Surface], page_width: float) -> list[Surface]:
    """The same for a bar that an entry as high as itself cuts in two: what holds for panels, turned round."""
    low = [_turned(s) for s in surfaces if s.rect.h <= BAR_HIGH]
    rest = [s for s in surfaces if s.rect.h > BAR_HIGH]
    out = [*rest, *(_turned(s) for s in bridge_panels(low, page_width, ENTRY_WIDE))]
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def lay_under_cells(surfaces: list[Surface]) -> list[Surface]:
    """Several boxes of one fill beside each other, with nothing but thin upright lines between them, lie on one that is as large as
    all of them: the bar or the strip that the lines part."""

    def is_cell(s: Surface) -> bool:
        plain = not (s.fill.stops or s.shadow or s.inner or s.border[0] or s.border[2])
        return plain and s.radius < 1 and s.rect.h >= CELL_HIGH and s.border_style == "solid"

    cells = sorted((s for s in surfaces if is_cell(s)), key=lambda s: (round(s.rect.y), s.rect.x))
    out, taken = list(surfaces), set[int]()
    for n, first in enumerate(cells):
        if id(first) in taken:
            continue
        row = [first]
        for s in cells[n + 1 :]:
            a, b = row[-1].rect, s.rect
            line = row[-1].border[1] + s.border[3] or b.x - a.right
            level = abs(a.y - b.y) <= 1 and abs(a.h - b.h) <= 1 and -1 <= b.x - a.right <= LINE
            if level and 0 < line <= LINE and s.fill == first.fill and id(s) not in taken:
                row.append(s)
        whole = union(s.rect for s in row)
        ink = next((s.border_colour for s in row if s.border_colour), "")
        if len(row) < CELLS or not ink or any(o.rect.iou(whole) > 0.98 for o in surfaces):
            continue  # without ink what is between them is the ground behind all
        taken |= {id(s) for s in row}
        for cell, after in zip(row, [*row[1:], None]):
            r = cell.rect
            apart = after.rect.x - r.right if after and not after.border[3] else 0.0
            if cell.border[1] or cell.border[3]:
                continue
            out = [s for s in out if s is not cell]  # it is the ground,
            if apart >= 1:  # but for the line after it
                lined = (0.0, apart, 0.0, 0.0)
                box = edges(r.x, r.y, r.right + apart, r.bottom)
                out.append(replace(cell, rect=box, border=lined, border_colour=ink))
        out.append(Surface(whole, first.fill, confidence=min(s.confidence for s in row)))
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def _turned(s: Surface) -> Surface:
    """A surface with rows and columns swapped."""
    return replace(s, rect=Rect(s.rect.y, s.rect.x, s.rect.h, s.rect.w), border=s.border[::-1])


def _fills(entry: Rect, gap: Rect) -> bool:
    """Does an entry take up the room between two pieces of a panel, but for a bar at its side?"""
    return (
        gap.h > 0
        and abs(entry.y - gap.y) <= 1.5
        and abs(entry.bottom - gap.bottom) <= 1.5
        and entry.inside(gap, 0.9)
        and entry.w >= gap.w - BAR_AND_LINE
    )
