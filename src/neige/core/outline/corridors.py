"""Rows that are put together again: columns whose gaps happen to lie level, and what stands beside a menu or a panel."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Rect
from neige.core.model.geometry import edges, union
from neige.core.outline.divide import BAR_HIGH, CORRIDOR, columns_first, divide
from neige.core.outline.words import texts_in

CAPTION_GAP = 8.0  # px between pictures over texts
CAPTION = 0.6  # of the room between a picture and its text that the gap beside them has at least
CARD = 0.5  # the same, where the columns are cards
FILLED = 0.97  # of a column's width that a picture or a bar in it takes
BESIDE = 120.0  # px that a column beside another is high at least,
FAR = 96.0  # and that what goes on under it is away at most
PANEL = (340.0, 480.0, 1100.0)  # px that a floating panel is wide at most, and high at least and at most,
PANEL_OFF = 40.0  # and how far from the page's corner it floats
LABEL_OVER = 20.0  # px between a label and the field under it
SIDE = 0.4  # of all columns that the menu takes at most
ENTRIES = 2  # single lines that it has at least
COLUMN_EDGE = 3.0  # px by which the beginnings of a column's parts may differ
HANGING = 0.5  # of the room between columns: what ends one of them is no farther below the others
INDENT = 48.0  # px by which lists are set in under their heading


def with_corridors(
    nodes: list[Node], boxes: list[Rect], y_parts: list[list[int]], tolerance: float
) -> list[list[int]]:
    """Rows through which one free corridor runs down are put together again: a menu beside a text has gaps, too, and some of them
    happen to lie level with the text's. What is as wide as the page (a bar) must not part what stands under it."""
    if len(y_parts) < 2:
        return y_parts
    out: list[list[int]] = []
    first = y_parts[0]
    for n, part in enumerate(y_parts):
        both = [*out[-1], *part] if out else part
        beside = _beside(boxes, out[-1], tolerance) if out else []
        if beside and _under_column(boxes, beside, y_parts[n:], tolerance):
            before = [i for i in out[-1] if i not in beside]
            out[-1:] = [*([before] if before else []), [*beside, *part]]
        elif out and (
            (_corridor(boxes, out[-1], part, tolerance) and _as_columns(nodes, boxes, both, tolerance))
            or _goes_on(nodes, boxes, first, out[-1], part, tolerance)
            or _hangs(boxes, out[-1], part, tolerance)
            or _stands_beside(nodes, boxes, out[-1], part)
        ):
            out[-1] = both
        else:
            out.append(part)
            first = part
    columns = divide([(b.x, b.right) for b in boxes], tolerance)[0]
    return out if len(out) > 1 or len(columns) > 1 else y_parts


def _name_fields_under(texts: list[Node], fields: list[Node]) -> bool:
    """Are these single lines, each right over the beginning of its own field?"""
    if len(texts) != len(fields) or any(f.kind != "field" for f in fields):
        return False
    pairs = list(zip(sorted(texts, key=lambda n: n.rect.x), sorted(fields, key=lambda n: n.rect.x)))
    return all(
        t.kind == "text"
        and len(t.lines) == 1
        and abs(t.rect.x - f.rect.x) <= COLUMN_EDGE
        and 0 <= f.rect.y - t.rect.bottom <= LABEL_OVER
        for t, f in pairs
    )


def _goes_on(
    nodes: list[Node],
    boxes: list[Rect],
    first: list[int],
    above: list[int],
    part: list[int],
    tolerance: float,
) -> bool:
    """Do the columns of a row go on in the next: headings, the texts under them, the lists under these, bars as wide as they are?
    What looks like their first row is the next row of a grid."""
    columns = [divide([(boxes[i].x, boxes[i].right) for i in p], tolerance)[0] for p in (above, part)]
    if len(columns[0]) != len(columns[1]):
        return False
    starts = [[min(nodes[p[k]].rect.x for k in c) for c in cs] for p, cs in zip((above, part), columns)]
    steps = [b - a for a, b in zip(*starts)]
    both = [nodes[i] for i in (*above, *part)]
    if _name_fields_under([nodes[i] for i in above], [nodes[i] for i in part]):
        return True
    wholes = [
        union(nodes[p[k]].rect for p, cs in zip((above, part), columns) for k in cs[j])
        for j in range(len(steps))
    ]

    def ends(n: Node) -> bool:
        bar = n.surface is not None and n.rect.h <= BAR_HIGH and texts_in(n)
        return bool(bar) and any(
            abs(n.rect.x - w.x) <= 1 and abs(n.rect.right - w.right) <= 1 for w in wholes
        )

    widths = [w.w for w in wholes]
    pictured = all(nodes[i].kind == "image" for i in above)
    # pictures or bars that fill each of the equal columns: these are cards
    filled = max(widths) - min(widths) <= COLUMN_EDGE and all(
        any(
            n.kind != "text" and n.rect.iou(edges(w.x, n.rect.y, w.right, n.rect.bottom)) > FILLED
            for n in both
        )
        for w in wholes
    )
    indented = max(steps) <= INDENT and (filled or all("bullet" in nodes[i].attributes for i in part))
    if max(steps) - min(steps) > COLUMN_EDGE or not (
        abs(steps[0]) <= COLUMN_EDGE or (steps[0] > 0 and indented)
    ):
        return False
    near = CAPTION if pictured else CARD if filled else 1.0
    if not _corridor(boxes, above, part, tolerance, CAPTION_GAP if pictured or filled else CORRIDOR, near):
        return False
    text = all(n.kind in ("text", "image") or ends(n) for n in both) and any(len(n.lines) > 1 for n in both)

    def looks(row: list[int]) -> set[tuple[str, int]]:
        return {(nodes[i].kind, next((t.style for t in texts_in(nodes[i])), -1)) for i in row}

    def head(row: list[int]) -> list[int]:
        top = min(boxes[i].y for i in row)
        return [i for i in row if boxes[i].y <= top + COLUMN_EDGE]

    return text and not (looks(head(first)) & looks(head(part)) if filled else looks(first) & looks(part))


def _beside(boxes: list[Rect], above: list[int], tolerance: float) -> list[int]:
    """The last of what is above that stands in two columns: what is over both of them is not among these."""
    order = sorted(above, key=lambda i: boxes[i].y)
    starts, end = [0], boxes[order[0]].bottom
    for n, i in enumerate(order[1:], start=1):
        if boxes[i].y >= end - tolerance:
            starts.append(n)
        end = max(end, boxes[i].bottom)
    out: list[int] = []
    for start in reversed(starts):
        columns, apart = divide([(boxes[i].x, boxes[i].right) for i in order[start:]], tolerance)
        if len(columns) == 2 and apart >= CORRIDOR:
            out = order[start:]
        elif out or len(columns) > 1:
            break
    return out


def _under_column(boxes: list[Rect], above: list[int], rest: list[list[int]], tolerance: float) -> bool:
    """Does the wider of two columns go on below the other's end? Then what comes next begins where it does and, where it is the
    first column, ends there, too; nothing that comes next reaches into the other."""
    columns, _ = divide([(boxes[i].x, boxes[i].right) for i in above], tolerance)
    sides = [union(boxes[above[k]] for k in c) for c in columns]
    wide, other = (f(sides, key=lambda r: r.w) for f in (max, min))
    whole = union(sides)
    if whole.h < BESIDE or other.w > SIDE * whole.w or wide.bottom < other.bottom - BESIDE:
        return False
    run = []
    for part in rest:
        own = union(boxes[i] for i in part)
        if own.x < wide.x - COLUMN_EDGE or own.right > wide.right + COLUMN_EDGE:
            break
        run.append(own)
    if not run or run[0].y - whole.bottom > FAR or abs(run[0].x - wide.x) > COLUMN_EDGE:
        return False
    return wide.x > other.x or any(abs(r.right - wide.right) <= COLUMN_EDGE for r in run)


def floats(n: Node) -> bool:
    """Is this a panel that floats in the page's upper corner, as high as a screen or nearly so?"""
    r, (wide, low, high) = n.rect, PANEL
    return n.surface is not None and max(r.x, r.y) <= PANEL_OFF and r.w <= wide and low <= r.h <= high


def _stands_beside(nodes: list[Node], boxes: list[Rect], above: list[int], part: list[int]) -> bool:
    """Does a part stand beside a panel that floats in the page's corner, as all does that is level with the panel?"""
    panel = next((i for i in above if floats(nodes[i])), None)
    return panel is not None and all(boxes[i].x > boxes[panel].right for i in (*above, *part) if i != panel)


def _hangs(boxes: list[Rect], above: list[int], part: list[int], tolerance: float) -> bool:
    """Does a part end one of the columns above it, a shorter one, nearer to them than they are to each other?"""
    columns, apart = divide([(boxes[i].x, boxes[i].right) for i in above], tolerance)
    own = union(boxes[i] for i in part)
    wholes = [union(boxes[above[k]] for k in c) for c in columns]
    low = max(w.bottom for w in wholes)
    return own.y - low <= HANGING * apart and any(
        abs(w.x - own.x) <= COLUMN_EDGE
        and own.right <= w.right + COLUMN_EDGE
        and w.bottom < low - COLUMN_EDGE
        for w in wholes
    )


def _corridor(
    boxes: list[Rect],
    above: list[int],
    below: list[int],
    tolerance: float,
    least: float = CORRIDOR,
    near: float = 1.0,
) -> bool:
    """Does the same gap (at least `least` px) part two rows into columns, as wide as the room between them, times `near`?"""
    spans = []
    for part in (above, below):
        columns, gap = divide([(boxes[i].x, boxes[i].right) for i in part], tolerance)
        if len(columns) < 2 or gap < least:
            return False
        groups = [[boxes[part[k]] for k in column] for column in columns]
        spans.append([(max(b.right for b in a), min(b.x for b in c)) for a, c in itertools.pairwise(groups)])
    between = min(boxes[i].y for i in below) - max(boxes[i].bottom for i in above)
    shared = max((min(b, d) - max(a, c) for a, b in spans[0] for c, d in spans[1]), default=0.0)
    return shared >= max(least, near * between)


def _as_columns(nodes: list[Node], boxes: list[Rect], part: list[int], tolerance: float) -> bool:
    """Would these, by themselves, be cut into columns, the first of them a narrow one of texts?"""
    own, found = [nodes[i] for i in part], [boxes[i] for i in part]
    y_parts, y_gap = divide([(b.y, b.bottom) for b in found], tolerance)
    x_parts, x_gap = divide([(b.x, b.right) for b in found], tolerance)
    if len(x_parts) < 2 or not columns_first(own, found, x_parts, x_gap, y_parts, y_gap):
        return False
    columns = [[(own[i], found[i]) for i in p] for p in x_parts]
    widths = [max(b.right for _, b in c) - min(b.x for _, b in c) for c in columns]
    side = min((0, -1), key=lambda k: widths[k])
    texts = [n for n, _ in columns[side] if n.kind == "text"]
    others = [n for c in columns if c is not columns[side] for n, _ in c]
    if all(n.kind == "text" and len(n.lines) == 1 for n in others):
        return False  # names and their values
    return (
        widths[side] <= SIDE * sum(widths) and len(texts) >= ENTRIES and all(len(n.lines) == 1 for n in texts)
    )
