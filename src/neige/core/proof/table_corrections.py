"""Residuals of tables to corrections: the heights of their rows, where words stand in these, and the room before them."""

from __future__ import annotations

import numpy as np

from neige.core.model import Drawing, Node
from neige.core.outline.layout import line_between
from neige.core.outline.places import EVEN_ROWS, UNSURE_ROWS
from neige.core.proof.residuals import HALF, Residual, usable

EVENLY = 0.04  # px by which rows that are as high as each other may all be off


def correct_rows(table: Node, drawing: Drawing) -> int:
    """Row heights: collapsed borders and tall content make rows other than they were written. Rows that are as high as each other
    but for where their lines fell stay so."""
    steps: list[tuple[Node, float]] = []
    for tr, following in zip(table.children, table.children[1:]):
        box = drawing.nodes.get(tr.id)
        below = drawing.nodes.get(following.id)
        full = box is not None and box.rect.h > tr.tweak.get("height", tr.rect.h) + HALF  # of what is in it
        if box and below and not full:
            steps.append((tr, (below.rect.y - box.rect.y) - (following.rect.y - tr.rect.y)))
    if not steps:
        return 0
    usual = float(np.median([tr.rect.h for tr, _ in steps]))
    even = [(tr, s) for tr, s in steps if abs(tr.rect.h - usual) <= EVEN_ROWS]
    common = float(np.mean([s for _, s in even])) if even else 0.0
    written = float(np.mean([tr.tweak.get("height", tr.rect.h) for tr, _ in even])) if even else 0.0
    unsure = max(EVENLY, UNSURE_ROWS / max(1, len(even)))
    changes = 0
    for tr, step in steps:
        own = tr.tweak.get("height", tr.rect.h)
        alike = abs(tr.rect.h - usual) <= EVEN_ROWS and abs(step - common) <= EVEN_ROWS
        own, step, least = (written, common, unsure) if alike else (own, step, HALF)
        if usable(step) and abs(step) > least:
            tr.tweak["height"] = max(4.0, own - step)
            changes += 1
    return changes


def correct_drop(table: Node, off: dict[int, Residual]) -> int:
    """What stands in the middle of its cell: the lines of a table are all as far off it, for a font's middle is not that of its
    letters; pictures each by themselves."""
    steps: list[tuple[Node, float]] = []
    half = line_between(table) / 2  # of a collapsed border, which lies outside the cell
    lined = [any(c.surface for c in tr.children) for tr in table.children]
    if len(lined) > 1:  # the last begins at the line under the one before it
        lined[-1] |= lined[-2]
    edged = {id(td) for tr, line in zip(table.children, lined) if line for td in tr.children}
    for td in (td for tr in table.children for td in tr.children if len(td.children) == 1):
        o, own = off.get(td.children[0].id), off.get(td.id)
        if id(td) not in edged and td.children[0].kind == "text":
            continue  # where nothing is painted its row is, was only guessed
        if o and own and abs(step := o.top - own.top + half) < 4:
            steps.append((td, step))
    lines = [s for td, s in steps if td.children[0].kind == "text"]
    usual = float(np.median(lines)) if lines else 0.0
    changes = 0
    for td, step in steps:
        kind = td.children[0].kind
        step = usual if kind == "text" else step if kind == "image" else 0.0
        if abs(step) > HALF:
            td.tweak["drop"] = td.tweak.get("drop", 0.0) - round(2 * step)
            changes += 1
    return changes


def correct_cell(n: Node, off: dict[int, Residual]) -> int:
    """The room before what stands in a cell."""
    changes = 0
    for c in n.children:
        o = off.get(c.id)
        if o and usable(o.left) and abs(o.left) > 0.3 and n.align == "start" and n.padding[3] - o.left >= 0:
            n.padding = (*n.padding[:3], n.padding[3] - o.left)
            changes += 1
    return changes
