"""Tables: cells that touch in a lattice, or texts in columns between even rules."""

from __future__ import annotations

import itertools
from dataclasses import replace

from neige.core.model import Fill, Node, Reading, Rect, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.cuts import compose
from neige.core.outline.paragraphs import paragraphs, tight

MIN_ROWS = 3
MIN_COLUMNS = 2
STRIP = 72.0  # px: a table's head is no higher
STRIP_OFF = 6.0  # px between it and where the first row was taken to begin
CHIP = 40.0  # px: what is no higher may stand in a table's row
UNEVEN = 10.0  # px by which rows of a pile may differ
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
    least = max(MIN_COLUMNS, len(column_edges(rows, boxes)) - 1)

    def holds(box: Rect) -> bool:
        return sum(1 for b in boxes if b.inside(box, 0.7)) >= least

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


def take_tables(
    children: list[Node], lines: list[int], leaves: list[Node], reading: Reading
) -> tuple[list[Node], list[int], list[Node]]:
    """Take tables out of a holder's content: (holders left and tables, lines left, leaves left)."""
    plain = [c for c in children if c.surface and c.surface.picture < 0]
    by_surface = {id(c.surface): c for c in plain}
    tables: list[Node] = []
    used: set[int] = set()
    for lattice in cell_lattices([c.surface for c in plain if c.surface]):
        cells: list[list[tuple[Rect, list[Node]]]] = []
        for row in lattice:
            out = []
            for s in row:
                cell = by_surface[id(s)]
                used.add(id(cell))
                content = cell.children
                out.append((s.rect, content))
            cells.append(out)
        rect = union(s.rect for row in lattice for s in row)
        head = _heads(cells, reading)
        table = table_node(rect, cells, None, head)
        for tr, row in zip(table.children, lattice):
            for td, s in zip(tr.children, row):
                td.surface = s
                if by_surface[id(s)].kind == "row" and len(td.children) > 1:
                    td.children = [Node("row", union(c.rect for c in td.children), children=td.children)]
        tables.append(table)
    children = [c for c in children if id(c) not in used]
    children = _row_piles(children, tables, reading)
    boxes = [reading.lines[i].box for i in lines] + [
        n.rect for n in (*leaves, *children) if n.kind in ("image", "block") and n.rect.h <= CHIP
    ]
    rules = [n for n in leaves if n.kind == "rule"]
    for rect, rows in ruled_rows(reading, [r.rect for r in rules], boxes):
        if any(c.surface and c.rect.meet(rect) > 0 and not c.rect.inside(rect) for c in children):
            continue
        starts = column_edges(rows, boxes)
        strip = head_strip(rect, rows, starts, children)
        if strip is not None:
            rows[0] = edges(rows[0].x, strip.rect.bottom, rows[0].right, rows[0].bottom)
            rect = edges(rect.x, strip.rect.y, rect.right, rect.bottom)
        taken = [i for i in lines if any(reading.lines[i].box.inside(r, 0.7) for r in rows)]
        kept = [
            n for n in (*children, *leaves) if n.kind != "rule" and any(n.rect.inside(r, 0.7) for r in rows)
        ]
        ends = [*starts[1:], rect.right]
        left = [rect.x, *starts[1:]]
        cells = []
        for r in rows:
            cells_of_row: list[tuple[Rect, list[Node]]] = []
            for a, b in zip(left, ends):
                box = edges(a, r.y, b, r.bottom)
                texts = paragraphs(
                    reading,
                    [
                        i
                        for i in taken
                        if reading.lines[i].box.cy > r.y
                        and reading.lines[i].box.cy < r.bottom
                        and a - 2 <= reading.lines[i].box.x < b - 2
                    ],
                )
                others = [n for n in kept if n.rect.inside(r, 0.7) and a - 2 <= n.rect.x < b - 2]
                content = [*texts, *others]
                cells_of_row.append((box, [compose(content, lambda n: tight(n, reading))] if content else []))
            cells.append(cells_of_row)
        if strip is None and is_list(cells, _heads(cells, reading)):
            continue
        if strip is not None:
            texts = [t for t in strip.walk() if t.kind in ("text", "image")]
            titles = [
                (
                    edges(a, strip.rect.y, b, strip.rect.bottom),
                    [t for t in texts if a - 2 <= t.rect.x < b - 2],
                )
                for a, b in zip(left, ends)
            ]
            cells.insert(0, titles)
            children = [c for c in children if c is not strip]
        table = table_node(rect, cells, None, strip is not None or _heads(cells, reading))
        if strip is not None and (paint := strip.surface) is not None:
            sides = (paint.border[0], 0.0, paint.border[2], 0.0)
            for td in table.children[0].children:
                td.surface = replace(paint, rect=td.rect, border=sides, radius=0.0, corners=None, shadow=None)
        between = [
            r
            for r in rules
            if r.rect.y >= rect.y - 2 and r.rect.bottom <= rect.bottom + 2 and abs(r.rect.x - rect.x) < 4
        ]
        for rule in between:
            _border_row(table, rule)
        tables.append(table)
        lines = [i for i in lines if i not in taken]
        leaves = [n for n in leaves if n not in between and n not in kept]
        children = [c for c in children if c not in kept]
    return [*children, *tables], lines, leaves


def _border_row(table: Node, rule: Node) -> None:
    """Make a line between rows the border of the cells above it, or of those below it where nothing is above."""
    r, colour = rule.rect, rule.surface.fill.colour if rule.surface else "#000000"
    above = next((tr for tr in table.children if abs(tr.rect.bottom - r.y) <= TOUCH), None)
    below = next((tr for tr in table.children if abs(tr.rect.y - r.bottom) <= TOUCH), None)
    tr = above or below
    if tr is None:
        return
    side = (0.0, 0.0, r.h, 0.0) if above else (r.h, 0.0, 0.0, 0.0)
    for cell in (tr, *tr.children):
        c = cell.rect
        top, bottom = (c.y, r.bottom) if above else (r.y, c.bottom)
        cell.rect = edges(c.x, top, c.right, bottom)
        if cell is not tr:
            paint = cell.surface or Surface(cell.rect, Fill(""), border_colour=colour)
            top, right, bottom, left = (a or b for a, b in zip(paint.border, side))
            cell.surface = replace(
                paint, rect=cell.rect, border=(top, right, bottom, left), border_colour=colour
            )


def _row_piles(children: list[Node], tables: list[Node], reading: Reading) -> list[Node]:
    """Surfaces piled up like rows, whose texts line up in columns, are a table's rows; the children that are left."""
    by_edges: dict[tuple[int, int], list[Node]] = {}
    for c in children:
        if c.surface and c.surface.picture < 0 and c.children and c.rect.h < 130:
            by_edges.setdefault((round(c.rect.x), round(c.rect.right)), []).append(c)
    out = list(children)
    for members in by_edges.values():
        members.sort(key=lambda c: c.rect.y)
        pile: list[Node] = []
        piles: list[list[Node]] = []
        for c in members:
            if (
                pile
                and abs(c.rect.y - pile[-1].rect.bottom) <= 2.5
                and abs(c.rect.h - pile[-1].rect.h) <= UNEVEN
            ):
                pile.append(c)
            else:
                pile = [c]
                piles.append(pile)
        for n, pile in enumerate(piles):
            above = piles[n - 1][0] if n and len(piles[n - 1]) == 1 and len(pile) > 1 else None
            if above is not None and _is_head_of(above, pile[0]):
                pile = [above, *pile]
            rows = [c.rect for c in pile]
            parts = [
                [
                    k
                    for k in c.walk()
                    if (k.kind in ("text", "image", "field") and not _inside_part(k, c)) or _is_part(k, c)
                ]
                for c in pile
            ]
            boxes = [k.rect for p in parts for k in p]
            if len(pile) < 3 or not columns_agree(rows, boxes):
                continue
            starts = column_edges(rows, boxes)
            left, ends = [rows[0].x, *starts[1:]], [*starts[1:], rows[0].right]
            cells: list[list[tuple[Rect, list[Node]]]] = []
            for row, content in zip(rows, parts):
                line = []
                for a, b in zip(left, ends):
                    mine = [k for k in content if a - 2 <= k.rect.x < b - 2]
                    line.append(
                        (
                            edges(a, row.y, b, row.bottom),
                            [compose(mine, lambda n: tight(n, reading))] if mine else [],
                        )
                    )
                cells.append(line)
            if is_list(cells, _heads(cells, reading)) or (pile[0] is above and not _heads(cells, reading)):
                continue
            table = table_node(union(rows), cells, None, _heads(cells, reading))
            for tr, c in zip(table.children, pile):
                for td in tr.children:
                    if c.surface:
                        td.surface = replace(
                            c.surface,
                            rect=td.rect,
                            border=(c.surface.border[0], 0.0, c.surface.border[2], 0.0),
                            radius=0.0,
                            shadow=None,
                        )
            tables.append(table)
            out = [c for c in out if c not in pile]
    return out


def _is_head_of(strip: Node, row: Node) -> bool:
    """Is a low strip of short texts right above a row?"""
    texts = [t for t in strip.walk() if t.kind == "text"]
    touching = abs(strip.rect.bottom - row.rect.y) <= TOUCH and strip.rect.h < row.rect.h
    return touching and len(texts) >= MIN_COLUMNS and all(len(t.lines) == 1 for t in texts)


def _is_part(k: Node, row: Node) -> bool:
    """A control or badge inside a row, or a box with nothing in it: it goes into its cell whole."""
    pressed = k.tag in ("a", "span", "button", "input")
    return k is not row and k.surface is not None and (pressed or not k.children)


def _inside_part(k: Node, row: Node) -> bool:
    return any(p is not k and _is_part(p, row) and any(c is k for c in p.walk()) for p in row.walk())


def _heads(cells: list[list[tuple[Rect, list[Node]]]], reading: Reading) -> bool:
    """True if the first row's texts are set otherwise than the second's (heavier, in capitals, or in another ink)."""

    def styles(row: list[tuple[Rect, list[Node]]]) -> set[int]:
        return {n.style for _, content in row for c in content for n in c.walk() if n.kind == "text"}

    first, second = styles(cells[0]), styles(cells[1])
    corner = not cells[0][0][1] and bool(cells[1][0][1]) and all(content for _, content in cells[0][1:])
    if corner and len(cells[0]) >= 3:
        return True  # nothing in the corner, names along the top and down the side
    if not first or first & second:
        return False
    heavy = max(reading.styles[s].weight for s in first) >= 600
    return heavy or all(reading.styles[s].uppercase for s in first)
