"""Where a table's rows and columns are: edges that end rows, texts that stand in the same columns."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from neige.core.model import Node, Rect
from neige.core.model.geometry import edges

MIN_ROWS = 3
MIN_COLUMNS = 2
TOUCH = 2.5  # px between neighbouring cells, or edges that are one
LEVEL = 3.0  # px by which the middles of a row's cells may differ
OVER = 12.0  # px by which a head may begin or end elsewhere than what is under it
ROW = (18.0, 130.0)  # px of a row's height
HIGHER = 1.7  # times as high as usual: no row of the table
MOST = 0.7  # of the columns that a head names at least
SOME = 0.6  # of the columns that three names or more are over: that of a face and a name is over both
NAMED = 4  # names, each where its column begins or ends, are a head however many columns there are
CLOSE = 16.0  # px between pictures in one column at most
CROWDED = 3  # things beside each other over one column are no names of it
MARK = 18.0  # px: a larger thing in a head is a name
SURE = 3  # names over columns are a head, wherever they stand over them
ACROSS = 2  # columns that a text begins before and ends after at least, in which no name of a sum is
UNEVEN = 10.0  # px by which painted rows may differ


class _Edge(NamedTuple):
    """Where one row of a table ends and the next begins: a line's two sides, or a painted edge (both the same)."""

    top: float
    bottom: float


def row_edges(strips: list[Node], rules: list[Node]) -> list[_Edge]:
    """The places where rows end, top first; edges that touch are one."""
    lines = [_Edge(r.rect.y, r.rect.bottom) for r in rules]
    painted = [_Edge(y, y) for s in strips for y in (s.rect.y, s.rect.bottom)]
    out: list[_Edge] = []
    for e in sorted([*lines, *painted]):
        if out and e.top - out[-1].bottom <= TOUCH:
            out[-1] = _Edge(out[-1].top, max(out[-1].bottom, e.bottom))
        else:
            out.append(e)
    return out


def row_runs(borders: list[_Edge], span: Rect, boxes: list[Rect]) -> Iterator[list[_Edge]]:
    """Runs of edges that are a row's height apart, with something in each row between them; and the parts of these whose rows
    have several things in them."""
    for least in (1, MIN_COLUMNS):
        run = borders[:1]
        for e in [*borders[1:], None]:
            if e is not None:
                row = edges(span.x, run[-1].bottom, span.right, e.top)
                if ROW[0] <= row.h <= ROW[1] and sum(b.inside(row, 0.7) for b in boxes) >= least:
                    run.append(e)
                    continue
            if len(run) >= MIN_ROWS - 1:
                yield run
            run = [e] if e is not None else []


def without_high_ends(run: list[_Edge]) -> list[_Edge]:
    """A run without ends that are much higher than its rows usually are: what comes before or after a table."""
    while len(run) > MIN_ROWS:
        high = [b.top - a.bottom for a, b in itertools.pairwise(run)]
        most = HIGHER * sorted(high)[(len(high) - 1) // 2]
        if high[0] > most:
            run = run[1:]
        elif high[-1] > most:
            run = run[:-1]
        else:
            break
    return run


def are_even(rows: list[Rect]) -> bool:
    """Are all rows but the head about as high as each other?"""
    usual = sorted(r.h for r in rows)[len(rows) // 2]
    return all(abs(r.h - usual) <= UNEVEN for r in rows[1:]) and rows[0].h <= usual + UNEVEN


def from_head(rows: list[Rect]) -> list[Rect]:
    """The rows from the last on that may be a head, which is all that is not as high as the others: before it are a card's head
    and tools. As they are if they are not even then."""
    for n in range(len(rows) - MIN_ROWS + 1):
        if are_even(rows[n:]):
            return rows[n:]
    return rows


def with_ends(run: list[_Edge], span: Rect, boxes: list[Rect]) -> list[Rect]:
    """Row boxes between the edges, and the rows before the first and after the last edge if texts stand there."""
    x, right = span.x, span.right
    rows = [edges(x, a.bottom, right, b.top) for a, b in itertools.pairwise(run)]
    usual = sorted(r.h for r in rows)[len(rows) // 2]
    least = max(MIN_COLUMNS, len(column_edges(rows, boxes)) - 1)

    def holds(box: Rect, least: int = least) -> bool:
        return sum(1 for b in boxes if b.inside(box, 0.7)) >= least

    first = edges(x, run[0].top - usual, right, run[0].top)
    last = edges(x, run[-1].bottom, right, run[-1].bottom + usual)

    def text_in(box: Rect) -> tuple[float, float]:
        inside = [b for b in boxes if b.inside(box, 0.7)]
        return min(b.y for b in inside), max(b.bottom for b in inside)

    # as far from the text on the open side as the edge is on the other
    if holds(first, min(least, SURE)):
        lowest = max((b for b in boxes if b.inside(first, 0.7)), key=lambda b: b.cy)
        # without the end of what is over the table
        level = edges(x, lowest.y - LEVEL, right, first.bottom)
        top, bottom = text_in(level if holds(level, min(least, SURE)) else first)
        rows.insert(0, edges(x, max(first.y, top - (run[0].top - bottom)), right, run[0].top))
    if holds(last):
        top, bottom = text_in(last)
        rows.append(edges(x, run[-1].bottom, right, min(last.bottom, bottom + top - run[-1].bottom)))
    return rows


def without_caption(rows: list[Rect], boxes: list[Rect]) -> list[Rect]:
    """The rows without first ones in which most columns have nothing: what is over a table is its card's head."""
    starts = column_edges(rows[1:], boxes)
    if not starts or len(rows) <= MIN_ROWS:
        return rows
    inside = [b for b in boxes if b.inside(rows[0], 0.7)]
    below = [b for r in rows[1:] for b in boxes if b.inside(r, 0.7)]
    over = _over(inside, starts, below)
    columns = set(over)
    aside = any(
        min(min(abs(b.x - k.x), abs(b.right - k.right), abs(b.cx - k.cx)) for k in below) > OVER
        for b in inside
    )
    # what a head leaves empty are columns of numbers, icons, buttons; pictures beside each other in one are like columns
    least = min(len(starts) - 1, MOST * len(starts))
    if not aside and len(inside) == len(columns):
        least = min(least, NAMED, max(SURE, SOME * len(starts)))
    named = [c for b, c in zip(inside, over) if max(b.w, b.h) > MARK]
    crowded = max((named.count(c) for c in columns), default=0) >= CROWDED  # a menu or numbers of pages
    few = crowded or len(columns) < least or (len(columns) < min(len(starts), SURE) and aside)
    return without_caption(rows[1:], boxes) if few else rows


def without_foot(rows: list[Rect], boxes: list[Rect]) -> list[Rect]:
    """The rows without a last one whose things run across the columns of the rows before, or stand in none: a card's foot that
    tells how many entries there are, or turns pages."""
    usual = sorted(r.h for r in rows)[len(rows) // 2]
    body = [r for r in rows[:-1] if abs(r.h - usual) <= TOUCH]
    if len(rows) <= MIN_ROWS or len(body) < MIN_ROWS:
        return rows
    starts = column_edges(body, boxes)
    columns = [b for r in body for b in boxes if b.inside(r, 0.7)]
    last = [b for b in boxes if b.inside(rows[-1], 0.7)]
    across = [sum(b.x < s - OVER and b.right > s + OVER for s in starts) for b in last]
    astray = [
        all(min(abs(b.x - k.x), abs(b.right - k.right), abs(b.cx - k.cx)) > LEVEL for k in columns)
        for b in last
    ]
    stray = sum(bool(a) or b for a, b in zip(across, astray))
    foot = max(across, default=0) >= ACROSS or (any(across) and 2 * stray > len(last))
    return rows[:-1] if foot else rows


def _over(heads: list[Rect], starts: list[float], below: list[Rect]) -> list[int]:
    """The column that each head stands over; what it is a head of may end far behind it, but the column before ends before it."""
    ends = [
        max((b.right for b in below if a - 1 <= b.x < e - 1), default=a)
        for a, e in itertools.pairwise([*starts, float("inf")])
    ]

    def column(h: Rect) -> int:
        shared = [min(h.right, e) - max(h.x, s) for s, e in zip(starts, ends)]
        widest = max(range(len(shared)), key=lambda i: shared[i])
        return (
            widest
            if shared[widest] > 0
            else next((i for i, e in enumerate(ends) if h.cx <= e), len(ends) - 1)
        )

    return [column(h) for h in heads]


def column_starts(rows: list[Rect], boxes: list[Rect]) -> list[float]:
    """Where columns begin: where the rows' texts do, or the head over them if it has one for each or for most."""
    starts = column_edges(rows[1:], boxes)
    heads = [b for b in boxes if b.inside(rows[0], 0.7)]
    below = [b for r in rows[1:] for b in boxes if b.inside(r, 0.7)]
    over = _over(heads, starts, below) if starts else []
    if len(set(over)) < len(over):  # beside names stand the arrows that sort by them
        heads = [b for b in heads if max(b.w, b.h) > MARK]
        over = _over(heads, starts, below) if starts else []
    if len(over) < SURE or len(set(over)) < len(over):
        return column_edges(rows, boxes)
    first = dict(zip(over, heads))
    out: list[float] = []
    for i, s in enumerate(starts):
        end = max((b.right for b in below if b.x < s - 1), default=0.0)
        start = min(s, first[i].x) if i in first else s
        if not out or (
            start > out[-1] + TOUCH and (i in first or s - end > CLOSE)
        ):  # else it goes on what is before it
            out.append(start)
    return out


def column_edges(rows: list[Rect], boxes: list[Rect]) -> list[float]:
    """Where columns begin: gaps in the texts' projection over all rows."""
    spans = sorted((b.x, b.right) for r in rows for b in boxes if b.inside(r, 0.7))
    if not spans:
        return []
    starts, end = [spans[0][0]], spans[0][1]
    for a, b in spans[1:]:
        if a > end + 6:
            starts.append(a)
        end = max(end, b)
    return starts


def column_bounds(rows: list[Rect], starts: list[float], boxes: list[Rect]) -> list[float]:
    """Where each column but the first begins: as far before its texts as the first column's are from the table's edge, or half the
    room that the column before leaves; columns whose texts are centred have them in their middle."""
    inside = [b for r in rows for b in boxes if b.inside(r, 0.7)]
    pad = max(0.0, starts[0] - rows[0].x)
    columns = [[b for b in inside if a - 3 <= b.x < e - 3] for a, e in itertools.pairwise([*starts, 1e9])]
    middles = [_middle(c) for c in columns]
    out = [0.0] * len(columns) + [rows[0].right]
    for i in range(len(columns) - 1, 0, -1):
        start, middle = starts[i], middles[i]
        end = max((k.right for k in columns[i - 1]), default=start)
        out[i] = start - (pad if end <= start - 2 * pad + LEVEL else min(pad, max(0.0, start - end) / 2))
        if middle is not None:
            before = middles[i - 1]
            halfway = (before + middle) / 2 if before is not None else 2 * middle - out[i + 1]
            if end <= halfway <= start:
                out[i] = halfway
    return out[1:-1]


def _middle(column: list[Rect]) -> float | None:
    """Where a column's texts have their middles, if these agree and their beginnings do not."""
    if len(column) < MIN_ROWS:
        return None
    middles, lefts = sorted(b.cx for b in column), sorted(b.x for b in column)
    same = middles[-1] - middles[0] <= LEVEL and lefts[-1] - lefts[0] > LEVEL
    return middles[len(middles) // 2] if same else None


def columns_agree(rows: list[Rect], boxes: list[Rect]) -> bool:
    """True if there are at least three rows whose boxes stand in the same columns, each cell in the row's middle or its first line
    level with the others'."""
    if len(rows) < MIN_ROWS:
        return False
    starts = column_starts(rows, boxes)
    if len(starts) < MIN_COLUMNS:
        return False
    counts, sums = [], 0
    for r in rows:
        columns: dict[int, list[Rect]] = defaultdict(list)
        for b in boxes:
            if b.inside(r, 0.7):
                columns[max(i for i, s in enumerate(starts) if b.x >= s - 1)].append(b)
        counts.append(len(columns))
        # what is summed up under a table's last columns
        sums = sums + 1 if 2 <= len(columns) < len(starts) - 1 and len(starts) - 1 in columns else 0
        middles = [b.cy for column in columns.values() for b in column]
        firsts = [min(b.cy for b in column) for column in columns.values()]
        if middles and max(middles) - min(middles) > 0.5 * r.h and max(firsts) - min(firsts) > LEVEL:
            return False
    counts = counts[: len(counts) - sums] if len(counts) - sums >= MIN_ROWS else counts
    return sum(c >= max(MIN_COLUMNS, len(starts) - 1) for c in counts) >= 0.7 * len(counts)
