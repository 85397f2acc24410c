"""Tables: cells that touch in a lattice, rows of texts in columns between lines and painted strips, or such rows alone."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from neige.core.model import Fill, Node, Reading, Rect, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.controls import find_controls
from neige.core.outline.cuts import compose
from neige.core.outline.open_tables import open_grids
from neige.core.outline.paragraphs import paragraphs, tight
from neige.core.outline.spans import Lattice, spanned_lattices
from neige.core.outline.table_rows import (
    LEVEL,
    MIN_COLUMNS,
    MIN_ROWS,
    ROW,
    TOUCH,
    are_even,
    column_bounds,
    column_starts,
    columns_agree,
    from_head,
    row_edges,
    row_runs,
    with_ends,
    without_caption,
    without_foot,
    without_high_ends,
)
from neige.core.outline.words import texts_in

FREE_COLUMNS = 3  # columns from which a table need not have names down its side
FEW = 0.2  # of a table's texts that are in capitals like its head
CHIP = 40.0  # px: what is no higher may stand in a table's row
CELL = 120.0  # px that a cell of a lattice is high at most
SLACK = 3.0  # px left in a cell beside its text
WIDE = 120.0  # px that a row is wide at least

Cells = list[list[tuple[Rect, list[Node]]]]
Content = tuple[list[Node], list[int], list[Node]]  # of a holder: holders in it, lines, leaves


def take_tables(
    holder: Node, children: list[Node], lines: list[int], leaves: list[Node], reading: Reading
) -> Content:
    """Take tables out of a holder's content: (holders left and tables, lines left, leaves left)."""
    children = _take_lattices(children, reading)
    leaves = [n for n in leaves if not any(_frames(n, c) for c in children if c.kind == "table")]
    for strips, rules in _stacks(children, leaves):
        while found := _take_rows(holder, strips, rules, children, lines, leaves, reading):
            children, lines, leaves = found
            taken = next(c.rect for c in reversed(children) if c.kind == "table")
            strips = [s for s in strips if not s.rect.inside(taken, 0.9)]
            rules = [r for r in rules if any(n is r for n in leaves)]
    for grid in open_grids(lines, [n for n in leaves if n.kind == "rule"], reading):
        content = children, lines, leaves
        if not any(c.rect.meet(union(grid.rows)) > 0 for c in children):
            found = _tabulate(grid.rows, grid.bounds, [], grid.rules, [], holder, content, reading)
            children, lines, leaves = found or content
    return children, lines, leaves


def table_node(rect: Rect, cells: Cells, head: bool, side: bool) -> Node:
    """A table of rows of (cell box, content), with a row (`head`) or a column (`side`) of head cells."""
    table = Node("table", rect, tag="table")
    for n, row in enumerate(cells):
        tr = Node("tr", union(box for box, _ in row), tag="tr")
        for i, (box, content) in enumerate(row):
            heads = (head and n == 0) or (side and i == 0)
            tr.children.append(Node("td", box, tag="th" if heads else "td", children=content))
            for t in texts_in(tr.children[-1]):
                if len(t.lines) == 1 and t.rect.w > box.w - SLACK:
                    t.attributes["nowrap"] = "1"  # no letter may be drawn wider
        table.children.append(tr)
    return table


def cell_lattices(surfaces: list[Surface]) -> list[list[list[Surface]]]:
    """Groups of surfaces that form a lattice: rows of cells, all with the column edges of the first, or some of them."""
    rows: list[list[Surface]] = []
    level: list[list[Surface]] = []
    cells = [s for s in surfaces if s.rect.h <= CELL and s.radius < 3 and s.shadow is None]
    for s in sorted(cells, key=lambda s: (s.rect.cy, s.rect.x)):
        if level and s.rect.cy - level[-1][0].rect.cy <= LEVEL:
            level[-1].append(s)
        else:
            level.append([s])
    for members in level:
        members.sort(key=lambda s: s.rect.x)
        run = [members[0]]
        for s in members[1:]:
            if abs(s.rect.x - run[-1].rect.right) <= TOUCH and abs(s.rect.h - run[-1].rect.h) <= 2 * TOUCH:
                run.append(s)
            else:
                rows.append(run)
                run = [s]
        rows.append(run)
    rows = sorted((r for r in rows if len(r) >= MIN_COLUMNS), key=lambda r: (r[0].rect.y, r[0].rect.x))
    tables: list[list[list[Surface]]] = []
    for row in rows:
        for table in tables:
            last = table[-1]
            if spans_of(row, table[0]) and min(_apart(b, a) for a in row for b in last) <= TOUCH:
                table.append(row)
                break
        else:
            tables.append([row])
    return [t for t in tables if len(t) >= MIN_ROWS]


def spans_of(row: list[Surface], first: list[Surface]) -> list[int]:
    """How many columns of a lattice each cell of a row takes, whose columns are the cells of its `first` row; [] if the row does not
    fit them."""
    ends = [s.rect.right for s in first]
    out: list[int] = []
    for cell in row:
        at = sum(out)
        k = next((i for i in range(at, len(ends)) if abs(ends[i] - cell.rect.right) <= TOUCH), None)
        if at >= len(first) or k is None or abs(first[at].rect.x - cell.rect.x) > TOUCH:
            return []
        out.append(k + 1 - at)
    return out if sum(out) == len(first) else []


def _under(s: Surface, lattice: list[list[Surface]]) -> Surface:
    """A cell under the head whose upper border is the head's thick line is as the other cells: of two borders the thicker is drawn."""
    below = sorted(o.border[0] for row in lattice[1:] for o in row)
    usual = below[len(below) // 2]
    heads = any(o.border[2] >= s.border[0] for o in lattice[0] if abs(o.rect.x - s.rect.x) <= TOUCH)
    return replace(s, border=(usual, *s.border[1:])) if heads and s.border[0] > usual > 0 else s


def _apart(above: Surface, below: Surface) -> float:
    """px between two cells over each other; one line may be the border of both."""
    gap = below.rect.y - above.rect.bottom
    shared = min(above.border[2], below.border[0])
    return min(abs(gap), abs(gap + shared))


def _take_lattices(children: list[Node], reading: Reading) -> list[Node]:
    """The holders that are left when those that are cells of a lattice have become tables, and these."""
    by_surface = {id(c.surface): c for c in children if c.surface and c.surface.picture < 0}
    tables: list[Node] = []
    used: set[int] = set()
    surfaces = [c.surface for c in children if id(c.surface) in by_surface and c.surface]
    for spanned in spanned_lattices(surfaces):
        tables.append(_spanned_table(spanned, by_surface, reading))
        used |= {id(by_surface[id(c.surface)]) for c in spanned.cells}
    for lattice in cell_lattices([s for s in surfaces if id(by_surface[id(s)]) not in used]):
        cells = [[(s.rect, by_surface[id(s)].children) for s in row] for row in lattice]
        used |= {id(by_surface[id(s)]) for row in lattice for s in row}
        table = table_node(
            union(s.rect for row in lattice for s in row), cells, *_heads(cells, reading, lattice)
        )
        for tr, row in zip(table.children, lattice):
            for td, s, span in zip(tr.children, row, spans_of(row, lattice[0])):
                if span > 1:
                    td.attributes["span"] = str(span)
                td.surface = _under(s, lattice) if row is lattice[1] else s
                _keep_row(td, by_surface[id(s)])
        tables.append(table)
    return [*(c for c in children if id(c) not in used), *tables]


def _spanned_table(lattice: Lattice, by_surface: dict[int, Node], reading: Reading) -> Node:
    """The table of a lattice in which cells take several rows or columns."""
    rows = [[c for c in lattice.cells if c.row == n] for n in range(len(lattice.tops) - 1)]
    cells = [[(c.surface.rect, by_surface[id(c.surface)].children) for c in row] for row in rows]
    rect = union(c.surface.rect for c in lattice.cells)
    painted = [[c.surface for c in row if c.rows == 1] or [row[0].surface] for row in rows]
    table = table_node(rect, cells, *_heads(cells, reading, painted))
    for tr, row, top, end in zip(table.children, rows, lattice.tops, lattice.tops[1:]):
        tr.rect = edges(rect.x, top, rect.right, end)
        for td, c in zip(tr.children, row):
            td.surface = replace(c.surface, shadow=None)  # that is the whole table's
            td.attributes |= {k: str(n) for k, n in (("span", c.columns), ("rows", c.rows)) if n > 1}
            _keep_row(td, by_surface[id(c.surface)])
    return table


def _keep_row(td: Node, box: Node) -> None:
    """What stood side by side in the box that a cell was stays so."""
    if box.kind == "row" and len(td.children) > 1:
        td.children = [Node("row", union(c.rect for c in td.children), children=td.children)]


def _frames(line: Node, table: Node) -> bool:
    """Does a line run along a side of a lattice, where its cells have their borders?"""
    a, b = line.rect, table.rect
    along = a.inside(b.grow(TOUCH), 0.99) and line.kind == "rule"
    level = min(abs(a.y - b.y), abs(a.bottom - b.bottom)) <= TOUCH and a.w > a.h
    return along and (level or (min(abs(a.x - b.x), abs(a.right - b.right)) <= TOUCH and a.h > a.w))


def _stacks(children: list[Node], leaves: list[Node]) -> Iterator[tuple[list[Node], list[Node]]]:
    """(painted strips, lines) that run from the same left to the same right edge, wherever they are among the holders."""
    strips = [n for c in children for n in _strips(c)]
    rules = [n for n in leaves if n.kind == "rule" and n.rect.w > max(WIDE, 10 * n.rect.h)]
    left = sorted((*strips, *rules), key=lambda n: (n.rect.x, n.rect.right, n.rect.y))
    while left:
        first = left[0].rect
        stack = [
            n for n in left if abs(n.rect.x - first.x) <= TOUCH and abs(n.rect.right - first.right) <= TOUCH
        ]
        left = [n for n in left if n not in stack]
        yield [n for n in stack if n.kind != "rule"], [n for n in stack if n.kind == "rule"]


def _strips(n: Node) -> Iterator[Node]:
    """A holder no higher than a row or two, and those in it that are as wide."""
    if n.surface is None or n.surface.picture >= 0 or n.rect.h > ROW[1] or n.rect.w < WIDE or not n.children:
        return
    yield n
    for c in n.children:
        if c.rect.w >= n.rect.w - 2 * TOUCH:
            yield from _strips(c)


def _take_rows(
    holder: Node,
    strips: list[Node],
    rules: list[Node],
    children: list[Node],
    lines: list[int],
    leaves: list[Node],
    reading: Reading,
) -> Content | None:
    """What `take_tables` gives, for the first table between these strips and lines; None: there is none."""
    if len(strips) + len(rules) < 2:
        return None
    parts = [k for s in strips for k in _parts(s)]
    parts = list({id(k): k for k in parts}.values())
    loose = [
        n
        for n in (*leaves, *children)
        if n.kind in ("image", "block") and n.rect.h <= CHIP and n not in strips
    ]
    boxes = [*(k.rect for k in parts), *(reading.lines[i].box for i in lines), *(n.rect for n in loose)]
    span = union(n.rect for n in (*strips, *rules))
    for run in map(without_high_ends, row_runs(row_edges(strips, rules), span, boxes)):
        rows = without_caption(without_foot(with_ends(run, span, boxes), boxes), boxes)
        rows = rows if rules else from_head(rows)
        if not (rules or are_even(rows)) or not columns_agree(rows, boxes):
            continue
        rect = union(rows)
        if any(c.surface and c.rect.meet(rect) > 0 and not c.rect.inside(rect.grow(TOUCH)) for c in children):
            continue
        bounds = column_bounds(rows, column_starts(rows, boxes), boxes)
        found = _tabulate(rows, bounds, strips, rules, parts, holder, (children, lines, leaves), reading)
        if found:
            return found
    return None


def _tabulate(
    rows: list[Rect],
    bounds: list[float],
    strips: list[Node],
    rules: list[Node],
    parts: list[Node],
    holder: Node,
    content: Content,
    reading: Reading,
) -> Content | None:
    """A holder's content with what lies in rows and between the bounds of columns as a table, None if that is none: `parts` are
    those of painted strips."""
    children, lines, leaves = content
    rect = union(rows)
    left, ends = [rect.x, *bounds], [*bounds, rect.right]
    taken = [i for i in lines if any(reading.lines[i].box.inside(r, 0.7) for r in rows)]
    kept = [
        n
        for n in (*children, *leaves)
        if n.kind != "rule" and n not in strips and any(n.rect.inside(r, 0.7) for r in rows)
    ]
    shown = find_controls(kept, holder, reading)
    cells: Cells = []
    for r in rows:
        row: list[tuple[Rect, list[Node]]] = []
        for a, b in zip(left, ends):
            mine = [
                i
                for i in taken
                if r.y < reading.lines[i].box.cy < r.bottom and a - 2 <= reading.lines[i].box.x < b - 2
            ]
            others = [k for k in (*parts, *shown) if k.rect.inside(r, 0.7) and a - 2 <= k.rect.x < b - 2]
            inside = [*paragraphs(reading, mine), *others]
            row.append(
                (edges(a, r.y, b, r.bottom), [compose(inside, lambda n: tight(n, reading))] if inside else [])
            )
        cells.append(row)
    painted = [_paint_of(r, strips) for r in rows]
    head, side = _heads(cells, reading, [[p] if p else [] for p in painted])
    if not (head or side) and all(
        sum(len(texts_in(c)) for _, inside in row for c in inside) <= 1 for row in cells
    ):
        return None  # entries with their icons and arrows
    worded = {i for row in cells for i, (_, inside) in enumerate(row) if any(map(texts_in, inside))}
    if len(worded) < 2:
        return None  # entries, one of them with those that it opens
    said = all(any(texts_in(c) for c in inside) for row in cells for _, inside in row)
    if is_list(cells, head) or (len(left) < FREE_COLUMNS and not (side and said)):
        return None
    table = table_node(rect, cells, head, side)
    for tr, paint in zip(table.children, painted):
        if paint is not None:
            tr.surface = Surface(tr.rect, paint.fill)
            _frame_row(tr, paint)
    between = [r for r in rules if rect.y - TOUCH <= r.rect.y and r.rect.bottom <= rect.bottom + TOUCH]
    for rule in between:
        _border_row(table, rule)
    gone = {id(n) for n in (*kept, *between, *(s for s in strips if s.rect.inside(rect, 0.9)))}
    return (
        [*(c for c in children if id(c) not in gone), table],
        [i for i in lines if i not in taken],
        [n for n in leaves if id(n) not in gone],
    )


def is_list(cells: Cells, head: bool) -> bool:
    """Are rows between lines the entries of a list: texts on top of each other in most of them, and in the first if it is taken
    for the head? Then it is the current entry."""

    def stacked(row: list[tuple[Rect, list[Node]]]) -> bool:
        return any(sum(d.kind == "text" for c in content for d in c.walk()) > 1 for _, content in row)

    return not (head and not stacked(cells[0])) and sum(map(stacked, cells)) > 0.5 * len(cells)


def _paint_of(row: Rect, strips: list[Node]) -> Surface | None:
    """What a row is painted with: the smallest strip that it lies on."""
    under = [s for s in strips if s.surface and row.inside(s.rect.grow(TOUCH), 0.99)]
    return min(under, key=lambda s: s.rect.area).surface if under else None


def _frame_row(tr: Node, paint: Surface) -> None:
    """Give a row's cells its borders where they are at the cell's sides."""
    top, right, bottom, left = paint.border
    for i, td in enumerate(tr.children):
        sides = (
            top if abs(paint.rect.y - td.rect.y) <= TOUCH else 0.0,
            right if i == len(tr.children) - 1 else 0.0,
            bottom if abs(paint.rect.bottom - td.rect.bottom) <= TOUCH else 0.0,
            left if i == 0 else 0.0,
        )
        if any(sides):
            td.surface = Surface(td.rect, Fill(""), border=sides, border_colour=paint.border_colour)


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


def _parts(row: Node) -> list[Node]:
    """What goes into the cells of a row: its texts and pictures, and controls and badges whole."""
    return [
        k
        for k in row.walk()
        if (k.kind in ("text", "image", "field") or _is_part(k, row)) and not _inside_part(k, row)
    ]


def _is_part(k: Node, row: Node) -> bool:
    """A control or badge inside a row, or a box with no words in it (a bar of progress): it goes into its cell whole."""
    pressed = k.tag in ("a", "span", "button", "input")
    wordless = k.rect.w < row.rect.w - 2 * TOUCH and not any(d.kind in ("text", "field") for d in k.walk())
    return k is not row and k.surface is not None and (pressed or wordless)


def _inside_part(k: Node, row: Node) -> bool:
    return any(p is not k and _is_part(p, row) and any(c is k for c in p.walk()) for p in row.walk())


def _heads(cells: Cells, reading: Reading, painted: Iterable[list[Surface]]) -> tuple[bool, bool]:
    """(does the first row, does the first column hold heads?): set otherwise than the rest (heavier, in capitals), or, the
    row, on a ground of its own."""

    def texts(row: list[tuple[Rect, list[Node]]]) -> list[Node]:
        return [n for _, content in row for c in content for n in c.walk() if n.kind == "text"]

    def styles(row: list[tuple[Rect, list[Node]]]) -> set[int]:
        return {n.style for n in texts(row)}

    def heavy(used: set[int]) -> bool:
        return bool(used) and max(reading.styles[s].weight for s in used) >= 600

    names = [styles(row[:1]) for row in cells[1:]]
    values = set().union(*(styles(row[1:]) for row in cells[1:]))
    side = all(map(heavy, names)) and not heavy(values)
    corner = not cells[0][0][1] and bool(cells[1][0][1]) and all(content for _, content in cells[0][1:])
    if corner and len(cells[0]) >= 3:
        return True, side  # nothing in the corner, names along the top and down the side
    grounds = [{s.fill.colour for s in row} for row in painted]
    own = len(grounds) > 2 and bool(grounds[0]) and not grounds[0] & (grounds[1] | grounds[2])
    words = [w for n in texts(cells[0]) for i in n.lines for w in reading.lines[i].text]
    if own and len(texts(cells[0])) >= len(cells[0]) and not any(w.isdigit() for w in words):
        return True, side
    said = [[reading.lines[i].text for n in texts(row) for i in n.lines] for row in cells]
    capitals = [sum(t.isupper() for t in row) for row in said]
    if (
        len(said[0]) >= FREE_COLUMNS
        and capitals[0] == len(said[0])
        and sum(capitals[1:]) <= FEW * sum(map(len, said))
    ):
        return True, side  # in capitals, whatever else is set in that style
    first, second = (styles(row[1:] if side else row) for row in cells[:2])
    if not first or first & second:
        return False, side
    return heavy(first) or all(reading.styles[s].uppercase for s in first), side
