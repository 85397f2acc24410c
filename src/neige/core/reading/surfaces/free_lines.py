"""Which thin lines are nobody's border: those that part the rows of a striped table, and all that lie on no surface's edge."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from neige.core.model import Fill, Rect, Rule, Surface
from neige.core.reading.colour import away, from_hex, to_hex

PART = 0.5  # of a side that a line on it takes which is no border,
OTHER = 0.15  # and how far its colour is from the border's, in OKLab
ROW_LINE = 0.03  # in OKLab, between a line and the rows that it parts
ALONG, BEYOND = 0.9, 64.0  # of a side that its border runs along at least; px that it may go on


def free_lines(rules: Sequence[Rule], surfaces: list[Surface], background: Fill) -> list[Rule]:
    """The lines that are not part of a surface's border."""
    ruled = rulings(rules, surfaces, background)
    return [r for r in rules if r in ruled or not any(_on_edge(r, s) for s in surfaces)]


def rulings(rules: Sequence[Rule], surfaces: list[Surface], background: Fill) -> list[Rule]:
    """The lines between rows that have no border there, and the lines like these at the first row's upper or the last one's lower edge,
    as a striped table has them."""
    beside = [(r, _rows_beside(r, surfaces, background)) for r in rules]
    between = [r for r, rows in beside if rows == 2]

    def like(a: Rule, b: Rule) -> bool:
        return a.colour == b.colour and abs(a.rect.x - b.rect.x) <= 1 and abs(a.rect.w - b.rect.w) <= 1

    return [r for r, rows in beside if rows == 2 or (rows == 1 and any(like(r, b) for b in between))]


def _rows_beside(line: Rule, surfaces: list[Surface], background: Fill) -> int:
    """How many rows a line has above and below it that have no border there, all along and in neither's colour nor, towards the
    ground, in one between them, as a soft edge is."""
    rule = line.rect
    if rule.w < rule.h:
        return 0
    along = [s for s in surfaces if abs(s.rect.x - rule.x) <= 1.6 and abs(s.rect.right - rule.right) <= 1.6]
    above = [s for s in along if abs(s.rect.bottom - rule.y) <= 1]
    below = [s for s in along if abs(s.rect.y - rule.bottom) <= 1]
    if not above + below or any(s.border[2] for s in above) or any(s.border[0] for s in below):
        return 0
    hosts = [s for s in surfaces if rule.inside(s.rect, 0.99)]
    ground = min(hosts, key=lambda s: s.rect.area).fill if hosts else background
    fills = [from_hex((side[0].fill if side else ground).colour) for side in (above, below)]
    ink = from_hex(line.colour)
    mixed = ((ink >= np.minimum(*fills)) & (ink <= np.maximum(*fills))).all()
    if mixed or any(away(line.colour, to_hex(c)) <= ROW_LINE for c in fills):
        return 0
    return bool(above) + bool(below)


def _on_edge(line: Rule, surface: Surface) -> bool:
    """True if a thin line is part of a surface's border. A short one of another colour is not: it tells which entry of a bar is
    the current one."""
    rule, box = line.rect, surface.rect
    short = max(rule.w, rule.h) < PART * (box.w if rule.w >= rule.h else box.h)
    if short and away(line.colour, surface.border_colour or surface.fill.colour) > OTHER:
        return False
    if rule.w >= rule.h:
        near = min(abs(rule.y - box.y), abs(rule.bottom - box.bottom)) <= 1.6
        return near and rule.x >= box.x - 2 and rule.right <= box.right + 2
    near = min(abs(rule.x - box.x), abs(rule.right - box.right)) <= 1.6
    within = rule.y >= box.y - 2 and rule.bottom <= box.bottom + 2
    return near and (within or _goes_on(rule, surface))


def _goes_on(rule: Rect, surface: Surface) -> bool:
    """Is an upright line a box's border all along, and goes on a little where something lies across the box's edge?"""
    box = surface.rect
    left = abs(rule.x - box.x) <= 1.6
    border = surface.border[3] if left else surface.border[1]
    along = min(rule.bottom, box.bottom) - max(rule.y, box.y)
    beyond = max(box.y - rule.y, rule.bottom - box.bottom)
    return border > 0 and along >= ALONG * box.h and beyond <= min(BEYOND, 0.5 * box.h)
