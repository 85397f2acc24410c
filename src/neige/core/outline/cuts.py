"""Recursive cuts: marks that lie apart become rows and columns; the wide gaps cut first."""

from __future__ import annotations

import itertools
from collections.abc import Callable

from neige.core.model import Node, Rect
from neige.core.model.geometry import edges, union
from neige.core.outline.words import COPYRIGHT, node_text, texts_in

Tight = Callable[[Node], Rect]
TOLERANCES = (0.5, 1.5, 3.0, 6.0, 10.0, 16.0)  # px of overlap that is forgiven, tried in turn
CORRIDOR = 24.0  # px: the free room between a menu and what it stands beside
CAPTION_GAP = 8.0  # px between pictures over texts
CAPTION = 0.6  # of the room between a picture and its text that the gap beside them has at least
CARD = 0.5  # the same, where the columns are cards
FILLED = 0.97  # of a column's width that a picture or a bar in it takes
BESIDE = 120.0  # px that a column beside another is high at least,
FAR = 96.0  # and that what goes on under it is away at most
PANEL = (340.0, 480.0, 1100.0)  # px that a floating panel is wide at most, and high at least and at most,
PANEL_OFF = 40.0  # and how far from the page's corner it floats
LABEL_OVER = 20.0  # px between a label and the field under it
LEVEL_TOPS = 1.5  # px by which the columns under a heading may begin elsewhere
SIDE = 0.4  # of all columns that the menu takes at most
ENTRIES = 2  # single lines that it has at least
COLUMN_EDGE = 3.0  # px by which the beginnings of a column's parts may differ
HANGING = 0.5  # of the room between columns: what ends one of them is no farther below the others
INDENT = 48.0  # px by which lists are set in under their heading
MARKS, MARK = 3, 16.0  # small pictures, and px that they are wide and high at most
OFF_MIDDLE = 8.0  # px that fewer stand off the middle of what is beside them
BADGE = (90.0, 28.0)  # px that a badge is wide and high at most
HAIR = 1.0  # px that even a thin line may overlap
BAR_ENTRIES, BAR_HIGH, BAR_LEVEL, BAR_GAPS = 4, 48.0, 6.0, (8.0, 48.0)  # entries, and px
PAIR_EDGE = 1.5  # px by which the ends of values at the right may differ
ROWS, CENTRED = 2, 3.0  # rows, and px between the middles of what is in one of them
LARGER = 1.12  # times as high a heading is as what is under it
LOWER = 0.7  # of the height of what a lower thing stands beside
SAME_GAP = 0.55  # of the widest gap: narrower gaps are cut later, inside the parts
COLUMNS_FIRST = 0.95  # columns are cut before rows if their gap is at least this share of the rows' gap


def compose(nodes: list[Node], tight: Tight) -> Node:
    """One node that lays out all of `nodes`: the node itself if there is one, else a block or row of parts."""
    if len(nodes) == 1:
        return nodes[0]
    boxes = [tight(n) for n in nodes]
    for tolerance in TOLERANCES:
        y_parts, y_gap = _cut([(b.y, b.bottom) for b in boxes], tolerance)
        x_parts, x_gap = _cut([(b.x, b.right) for b in boxes], tolerance)
        if len(y_parts) == 1 and len(x_parts) == 1:
            continue
        if len(x_parts) == 1 or (
            len(y_parts) > 1 and not _columns_first(nodes, boxes, x_parts, x_gap, y_parts, y_gap)
        ):
            rows = _with_corridors(nodes, boxes, y_parts, tolerance)
            if len(rows) == 1:
                return _group("row", [compose([nodes[i] for i in part], tight) for part in x_parts])
            return _group("block", [compose([nodes[i] for i in part], tight) for part in rows])
        return _group("row", [compose([nodes[i] for i in part], tight) for part in x_parts])
    order = sorted(range(len(nodes)), key=lambda i: (round(boxes[i].cy / 6), boxes[i].x))
    return _group("block", [nodes[i] for i in order])


def _with_corridors(
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
    columns = _cut([(b.x, b.right) for b in boxes], tolerance)[0]
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
    columns = [_cut([(boxes[i].x, boxes[i].right) for i in p], tolerance)[0] for p in (above, part)]
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
        columns, apart = _cut([(boxes[i].x, boxes[i].right) for i in order[start:]], tolerance)
        if len(columns) == 2 and apart >= CORRIDOR:
            out = order[start:]
        elif out or len(columns) > 1:
            break
    return out


def _under_column(boxes: list[Rect], above: list[int], rest: list[list[int]], tolerance: float) -> bool:
    """Does the wider of two columns go on below the other's end? Then what comes next begins where it does and, where it is the
    first column, ends there, too; nothing that comes next reaches into the other."""
    columns, _ = _cut([(boxes[i].x, boxes[i].right) for i in above], tolerance)
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
    columns, apart = _cut([(boxes[i].x, boxes[i].right) for i in above], tolerance)
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
        columns, gap = _cut([(boxes[i].x, boxes[i].right) for i in part], tolerance)
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
    y_parts, y_gap = _cut([(b.y, b.bottom) for b in found], tolerance)
    x_parts, x_gap = _cut([(b.x, b.right) for b in found], tolerance)
    if len(x_parts) < 2 or not _columns_first(own, found, x_parts, x_gap, y_parts, y_gap):
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


def _columns_first(
    nodes: list[Node],
    boxes: list[Rect],
    x_parts: list[list[int]],
    x_gap: float,
    y_parts: list[list[int]],
    y_gap: float,
) -> bool:
    """Both cuts are possible: do the columns stand farther apart than the rows?"""
    if x_gap < COLUMNS_FIRST * y_gap or _pairs(nodes, boxes, x_parts, y_parts):
        return False
    if any(_is_bar([boxes[i] for i in p]) and not any(set(p) <= set(q) for q in x_parts) for p in y_parts):
        return False
    if _headed(nodes, boxes, x_parts, y_parts) or any(_marks(nodes, p) for p in x_parts):
        return False
    if _capped(nodes, boxes, y_parts) or _centred_rows(boxes, x_parts, y_parts):
        return False
    if _ends_in_foot(nodes, boxes, x_parts, y_parts):
        return False
    # A stack of like rows, each with something at both ends, is rows of one list, not columns: the rows' parts line up,
    # there are at least three, and they are evenly spaced with a clear gap.
    if len(y_parts) >= 3:
        tops = [min(boxes[i].y for i in p) for p in y_parts]
        steps = [b - a for a, b in itertools.pairwise(tops)]
        even = max(steps) - min(steps) <= 3
        wide = sum(1 for p in y_parts if len({k for k, q in enumerate(x_parts) for i in p if i in q}) >= 2)
        heights = [max(boxes[i].bottom for i in p) - min(boxes[i].y for i in p) for p in y_parts]
        headed = _under_headings(nodes, boxes, y_parts)
        if even and wide >= 0.8 * len(y_parts) and y_gap >= 0.8 * min(heights) and not headed:
            return False
    return True


def _under_headings(nodes: list[Node], boxes: list[Rect], y_parts: list[list[int]]) -> bool:
    """Single lines in columns, of which the first row is larger than all others, or all of it in one style and all others in
    another: headings, each with its list under it."""
    lines = all(n.kind == "text" and len(n.lines) == 1 for n in nodes)
    first, rest = y_parts[0], [i for p in y_parts[1:] for i in p]
    larger = min(boxes[i].h for i in first) >= LARGER * max(boxes[i].h for i in rest)
    own, others = ({nodes[i].style for i in p} for p in (first, rest))
    return lines and len(first) > 1 and (larger or (len(own) == len(others) == 1 and own != others))


def _marks(nodes: list[Node], column: list[int]) -> bool:
    """Small pictures and badges under one another, each level with something else: the arrows and counters of entries, no column
    of their own."""
    own = [nodes[i] for i in column]
    others = [n for i, n in enumerate(nodes) if i not in column]

    def small(n: Node) -> bool:
        badge = n.surface is not None and n.kind != "field" and n.rect.w <= BADGE[0] and n.rect.h <= BADGE[1]
        return badge or (n.kind == "image" and max(n.rect.w, n.rect.h) <= MARK)

    middle = union(o.rect for o in others).cy
    beside = len(own) < MARKS and any(abs(n.rect.cy - middle) <= OFF_MIDDLE for n in own)  # all of the others
    return not beside and all(
        small(n) and any(abs(o.rect.cy - n.rect.cy) <= BAR_LEVEL for o in others) for n in own
    )


def _headed(nodes: list[Node], boxes: list[Rect], x_parts: list[list[int]], y_parts: list[list[int]]) -> bool:
    """Does one line stand over columns that all begin level with each other under it: over them all, not over the first?"""
    if len(y_parts) < 2 or len(y_parts[0]) != 1:
        return False
    head = nodes[y_parts[0][0]]
    own = next(p for p in x_parts if y_parts[0][0] in p)
    if head.kind != "text" or len(head.lines) != 1 or own is not x_parts[0] or own == y_parts[0]:
        return False
    tops = [min(boxes[i].y for i in p if i != y_parts[0][0]) for p in x_parts]
    below = min(boxes[i].y for i in y_parts[1])
    return all(abs(t - below) <= LEVEL_TOPS for t in tops)


def _capped(nodes: list[Node], boxes: list[Rect], y_parts: list[list[int]]) -> bool:
    """Is the first row a title and, at the other end, a button: the head of what is under both?"""
    if len(y_parts) < 2 or len(y_parts[0]) != 2:
        return False
    title, control = sorted(y_parts[0], key=lambda i: boxes[i].x)
    below = union(boxes[i] for p in y_parts[1:] for i in p)
    painted = nodes[control].surface is not None and 0 < len(texts_in(nodes[control])) <= 2
    return (
        nodes[title].kind == "text"
        and len(nodes[title].lines) == 1
        and (painted or nodes[control].tag in ("a", "button"))
        and boxes[control].h <= BAR_HIGH
        and abs(boxes[title].cy - boxes[control].cy) <= OFF_MIDDLE
        and abs(boxes[control].right - below.right) <= CORRIDOR
        and abs(boxes[title].x - below.x) <= OFF_MIDDLE
    )


def _centred_rows(boxes: list[Rect], x_parts: list[list[int]], y_parts: list[list[int]]) -> bool:
    """Are these the rows of a list, in each of which a thing stands at the middle of higher ones beside it? Captions may stand
    between them."""
    pairs = 0
    for part in y_parts:
        cells = [union(boxes[i] for i in own) for p in x_parts if (own := [i for i in p if i in part])]
        if max(c.cy for c in cells) - min(c.cy for c in cells) > CENTRED or (
            len(cells) == 1 and len(part) > 1
        ):
            return False
        pairs += min(c.h for c in cells) <= LOWER * max(c.h for c in cells)
    return pairs >= ROWS


def _ends_in_foot(
    nodes: list[Node], boxes: list[Rect], x_parts: list[list[int]], y_parts: list[list[int]]
) -> bool:
    """Is the last row the copyright's line, with something beside it, from the first column to the last?"""
    last = y_parts[-1]
    across = all(set(last) & set(column) for column in (x_parts[0], x_parts[-1]))
    level = max(boxes[i].cy for i in last) - min(boxes[i].cy for i in last) <= BAR_LEVEL
    low = max(boxes[i].h for i in last) <= BAR_HIGH
    return across and level and low and any(COPYRIGHT.search(node_text(nodes[i])) for i in last)


def _is_bar(row: list[Rect]) -> bool:
    """Low things level with each other at even distances, as the entries of a menu are: no cut goes between them."""
    row = sorted(row, key=lambda b: b.x)
    gaps = [b.x - a.right for a, b in itertools.pairwise(row)]
    gaps = [g for g in gaps if g >= BAR_GAPS[0]]  # but not between a word and its badge
    if len(gaps) + 1 < BAR_ENTRIES:
        return False
    level = max(b.cy for b in row) - min(b.cy for b in row) <= BAR_LEVEL and max(b.h for b in row) <= BAR_HIGH
    return level and max(gaps) <= BAR_GAPS[1] and max(gaps) - min(gaps) <= BAR_LEVEL


def _pairs(nodes: list[Node], boxes: list[Rect], x_parts: list[list[int]], y_parts: list[list[int]]) -> bool:
    """Names at the left and their values at the right, whose ends line up while their beginnings do not?"""
    if len(x_parts) != 2 or any(n.kind != "text" for n in nodes):
        return False
    both = [sorted((boxes[i] for i in p), key=lambda b: b.x) for p in y_parts if len(p) == 2]
    if len(both) < 2 or any(len(p) > 2 for p in y_parts):
        return False
    ends, starts = [b.right for _, b in both], [b.x for _, b in both]
    lefts = [a.x for a, _ in both]
    return (
        len(x_parts[1]) == len(both)
        and max(ends) - min(ends) <= PAIR_EDGE
        and max(lefts) - min(lefts) <= PAIR_EDGE
        and max(starts) - min(starts) > 2 * PAIR_EDGE
    )


def _cut(spans: list[tuple[float, float]], tolerance: float) -> tuple[list[list[int]], float]:
    """Group spans at the wide gaps between them; (groups in order, widest gap). Overlaps up to `tolerance` are no overlaps."""
    order = sorted(range(len(spans)), key=lambda i: (spans[i][0], spans[i][1]))
    gaps: list[tuple[int, float]] = []
    end = spans[order[0]][1]
    for n, i in enumerate(order[1:], start=1):
        start = spans[i][0]
        slack = min(
            tolerance,
            max(HAIR, 0.3 * min(spans[i][1] - spans[i][0], spans[order[n - 1]][1] - spans[order[n - 1]][0])),
        )
        if start >= end - slack:
            gaps.append((n, max(0.0, start - end)))
        end = max(end, spans[i][1])
    if not gaps:
        return [order], 0.0
    widest = max(g for _, g in gaps)
    cuts = [n for n, g in gaps if g >= SAME_GAP * widest]
    bounds = [0, *cuts, len(order)]
    return [order[a:b] for a, b in itertools.pairwise(bounds)], widest


def _group(kind: str, children: list[Node]) -> Node:
    flat: list[Node] = []
    for child in children:
        # a block in a block needs no wrapper of its own
        if kind == "block" and child.kind == "block" and child.surface is None and child.tag == "div":
            flat.extend(child.children)
        else:
            flat.append(child)
    if kind == "row":
        flat = _one_row(flat)
    return Node(kind, union(c.rect for c in flat), children=flat)


def _one_row(parts: list[Node]) -> list[Node]:
    """Columns that look alike are one row of them, though ragged text leaves wider gaps between some than between others."""
    whole = [k for c in parts for k in (c.children if _is_bare_row(c) else [c])]
    looks = {
        tuple((k.kind, k.style if k.kind == "text" else -1) for k in c.children[:2])
        if c.kind == "block" and c.surface is None and len(c.children) >= 2
        else None
        for c in whole
    }
    alike = len(whole) > len(parts) and len(looks) == 1 and None not in looks
    return whole if alike else parts


def _is_bare_row(n: Node) -> bool:
    return n.kind == "row" and n.surface is None and n.tag == "div"
