"""Where marks part along one axis, and whether their columns or their rows are parted first."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Rect
from neige.core.model.geometry import union
from neige.core.outline.words import COPYRIGHT, node_text, texts_in

CORRIDOR = 24.0  # px: the free room between a menu and what it stands beside
LEVEL_TOPS = 1.5  # px by which the columns under a heading may begin elsewhere
MARKS, MARK = 3, 16.0  # small pictures, and px that they are wide and high at most
OFF_MIDDLE = 8.0  # px that fewer stand off the middle of what is beside them
BADGE = (90.0, 28.0)  # px that a badge is wide and high at most
HAIR = 1.0  # px that even a thin line may overlap
BAR_ENTRIES, BAR_HIGH, BAR_LEVEL, BAR_GAPS = 4, 48.0, 6.0, (8.0, 48.0)  # entries, and px
PAIR_EDGE = 1.5  # px by which the ends of values at the right may differ
ROWS, CENTRED = 2, 3.0  # rows, and px between the middles of what is in one of them
NAME_WORDS = 3  # of an entry in such a list at most
LARGER = 1.12  # times as high a heading is as what is under it
LOWER = 0.7  # of the height of what a lower thing stands beside
SAME_GAP = 0.55  # of the widest gap: narrower gaps are cut later, inside the parts
COLUMNS_FIRST = 0.95  # columns are cut before rows if their gap is at least this share of the rows' gap


def columns_first(
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
        columns = headed or _of_names(nodes)
        if even and wide >= 0.8 * len(y_parts) and y_gap >= 0.8 * min(heights) and not columns:
            return False
    return True


def _of_names(nodes: list[Node]) -> bool:
    """Short lines in one style, none with a figure in it: lists of names side by side, not the rows of a table."""
    lines = all(n.kind == "text" and len(n.lines) == 1 for n in nodes)
    short = lines and all(len(node_text(n).split()) <= NAME_WORDS for n in nodes)
    return (
        short
        and len({n.style for n in nodes}) == 1
        and not any(c.isdigit() for n in nodes for c in node_text(n))
    )


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


def divide(spans: list[tuple[float, float]], tolerance: float) -> tuple[list[list[int]], float]:
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
