"""Tables: cells that touch in a lattice, or texts in columns between even rules."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Reading, Rect, Surface
from neige.core.model.geometry import edges, union

MIN_ROWS = 3
MIN_COLUMNS = 2
STRIP = 72.0  # px: a table's head is no higher
STRIP_OFF = 6.0  # px between it and where the first row was taken to begin
TOUCH = 2.5  # px between neighbouring cells


def cell_lattices(surfaces: list[Surface]) -> list[list[list[Surface]]]:
    """Groups of surfaces that form a lattice: rows of cells, all rows with the same column edges."""
    rows: list[list[Surface]] = []
    by_row: dict[tuple[int, int], list[Surface]] = {}
    for s in surfaces:
        if s.rect.h <= 120 and s.radius < 3 and s.shadow is None:
            by_row.setdefault((round(s.rect.y / 2), round(s.rect.h / 2)), []).append(s)
    for members in by_row.values():
        members.sort(key=lambda s: s.rect.x)
        run = [members[0]]
        for s in members[1:]:
            if abs(s.rect.x - run[-1].rect.right) <= TOUCH:
                run.append(s)
            else:
                rows.append(run)
                run = [s]
        rows.append(run)
    rows = sorted((r for r in rows if len(r) >= MIN_COLUMNS), key=lambda r: (r[0].rect.x, r[0].rect.y))
    tables: list[list[list[Surface]]] = []
    for row in rows:
        for table in tables:
            last = table[-1]
            same = len(last) == len(row) and all(
                abs(a.rect.x - b.rect.x) <= TOUCH and abs(a.rect.right - b.rect.right) <= TOUCH
                for a, b in zip(last, row)
            )
            if same and abs(row[0].rect.y - last[0].rect.bottom) <= TOUCH:
                table.append(row)
                break
        else:
            tables.append([row])
    return [t for t in tables if len(t) >= MIN_ROWS]


def ruled_rows(reading: Reading, rules: list[Rect], boxes: list[Rect]) -> list[tuple[Rect, list[Rect]]]:
    """(table box, row boxes): runs of at least three like horizontal rules between which texts (boxes) line up in columns."""
    flat = sorted(
        (r for r in rules if r.w > 10 * r.h and r.w > 120), key=lambda r: (round(r.x), round(r.right), r.y)
    )
    groups: dict[tuple[int, int], list[Rect]] = {}
    for r in flat:
        groups.setdefault((round(r.x / 3), round(r.right / 3)), []).append(r)
    found = []
    for members in groups.values():
        members.sort(key=lambda r: r.y)
        run = [members[0]]
        following: list[Rect | None] = [*members[1:], None]
        for rule in following:
            if rule is not None and 18 <= rule.y - run[-1].y <= 110:
                run.append(rule)
                continue
            if len(run) >= MIN_ROWS:
                rows = _with_ends(run, boxes)
                if columns_agree(rows, boxes):
                    found.append((union(rows), rows))
            if rule is not None:
                run = [rule]
    return found


def _with_ends(run: list[Rect], boxes: list[Rect]) -> list[Rect]:
    """Row boxes between the rules, and the rows before the first and after the last rule if texts stand there."""
    x, right = run[0].x, run[0].right
    rows = [edges(x, a.bottom, right, b.y) for a, b in itertools.pairwise(run)]
    usual = sorted(r.h for r in rows)[len(rows) // 2]

    def holds(box: Rect) -> bool:
        return sum(1 for b in boxes if b.inside(box, 0.7)) >= MIN_COLUMNS

    first, last = (
        edges(x, run[0].y - usual, right, run[0].y),
        edges(x, run[-1].bottom, right, run[-1].bottom + usual),
    )

    def text_in(box: Rect) -> tuple[float, float]:
        inside = [b for b in boxes if b.inside(box, 0.7)]
        return min(b.y for b in inside), max(b.bottom for b in inside)

    # as far from the text on the open side as the rule is on the other
    if holds(first):
        top, bottom = text_in(first)
        rows.insert(0, edges(x, max(first.y, top - (run[0].y - bottom)), right, run[0].y))
    if holds(last):
        top, bottom = text_in(last)
        rows.append(edges(x, run[-1].bottom, right, min(last.bottom, bottom + top - run[-1].bottom)))
    return rows


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


def columns_agree(rows: list[Rect], boxes: list[Rect]) -> bool:
    """True if there are at least three rows of one line each whose boxes stand in the same three or more columns."""
    if len(rows) < MIN_ROWS:
        return False
    starts = column_edges(rows, boxes)
    if len(starts) < 3:
        return False
    counts = []
    for r in rows:
        inside = [b for b in boxes if b.inside(r, 0.7)]
        counts.append(len({max(i for i, s in enumerate(starts) if b.x >= s - 1) for b in inside}))
        centres = [b.cy for b in inside]
        if centres and max(centres) - min(centres) > 0.5 * r.h:
            return False
    return sum(c >= len(starts) - 1 for c in counts) >= 0.7 * len(rows)


def head_strip(rect: Rect, rows: list[Rect], starts: list[float], holders: list[Node]) -> Node | None:
    """The painted strip right above a table's first row whose texts begin where the columns do: it holds the head."""
    for n in holders:
        r = n.rect
        texts = [t for t in n.walk() if t.kind == "text"]
        level = (
            abs(r.x - rect.x) <= TOUCH
            and abs(r.right - rect.right) <= TOUCH
            and rows[0].y - STRIP_OFF <= r.bottom <= rows[0].bottom - STRIP_OFF
        )
        if (
            n.surface is None
            or n.surface.picture >= 0
            or not level
            or r.h > STRIP
            or len(texts) < MIN_COLUMNS
        ):
            continue
        columns = [max((i for i, s in enumerate(starts) if t.rect.x >= s - 3), default=-1) for t in texts]
        if -1 not in columns and len(set(columns)) == len(texts) and all(len(t.lines) == 1 for t in texts):
            return n
    return None


def is_list(cells: list[list[tuple[Rect, list[Node]]]], head: bool) -> bool:
    """Are rows between lines the entries of a list: no head, and texts on top of each other in most of them?"""

    def stacked(row: list[tuple[Rect, list[Node]]]) -> bool:
        return any(sum(d.kind == "text" for c in content for d in c.walk()) > 1 for _, content in row)

    return not head and sum(map(stacked, cells)) > 0.5 * len(cells)


def table_node(
    rect: Rect, cells: list[list[tuple[Rect, list[Node]]]], surface: Surface | None, head: bool
) -> Node:
    """A table of rows of (cell box, content)."""
    table = Node("table", rect, tag="table", surface=surface)
    for n, row in enumerate(cells):
        tr = Node("tr", union(box for box, _ in row), tag="tr")
        for box, content in row:
            td = Node("td", box, tag="th" if head and n == 0 else "td", children=content)
            tr.children.append(td)
        table.children.append(tr)
    return table
