"""Outline: a `Reading` to an `Outline`: the semantic tree with layout intent. No CSS strings in here."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import replace

from neige.core.model import Fill, Node, Outline, Pin, Reading, Rect, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.check import check
from neige.core.outline.containers import contain
from neige.core.outline.controls import find_controls
from neige.core.outline.cuts import compose
from neige.core.outline.inlays import find_inlays, lay_in, without_inlays
from neige.core.outline.layout import lay_out
from neige.core.outline.names import give_names
from neige.core.outline.paragraphs import BULLET, paragraphs, tight
from neige.core.outline.pins import Corrections
from neige.core.outline.roles import give_roles
from neige.core.outline.tables import (
    cell_lattices,
    column_edges,
    columns_agree,
    head_strip,
    is_list,
    ruled_rows,
    table_node,
)
from neige.core.outline.tidy import take_back, tidy, true_up
from neige.core.outline.words import body_style, heading_styles, node_text, words_of
from neige.core.reading.colour import contrast

__all__ = ["arrange", "check", "take_back", "tidy", "true_up"]

FULL = 0.985  # of the page's width: a band
COPYRIGHT = re.compile(r"©|\(c\) |copyright|all rights reserved", re.I)
BAR = 120.0  # px from the page's top above which its bar ends
SECOND_BAR = 4  # entries that a bar under the first has at least
CHIP = 40.0  # px: what is no higher may stand in a table's row
SCRAP = 8.0  # px: what is thinner, at a photo's edge, is a piece of it
FRAME = 24.0  # px of margin that a photo's frame has at most
SIDE_COLUMN = 480.0  # px that a column at the page's side is high at least
SIDE_WIDTHS = (56.0, 420.0)  # px
SECTION_GAP = 40.0  # px above a heading that starts a new section


def arrange(reading: Reading, pins: Sequence[Pin] = ()) -> Outline:
    """Build the tree of a page from its marks, with the developer's corrections of it. Every mark of the reading is in it once."""
    said = Corrections(pins)
    page = Rect(0, 0, reading.width, reading.height)
    root = Node("block", page, tag="body", surface=Surface(page, reading.background))
    inlays = find_inlays(reading)
    tree = _nest(root, _holders(without_inlays(reading, inlays)))
    _fill(root, tree, reading)
    _bands(root, reading)
    said.regroup(root, reading)
    lay_in(root, reading, inlays)
    lay_out(root, reading, 0.0, reading.width)
    said.share(root)
    title = give_roles(root, reading)
    contain(root)
    said.set_roles(root)
    give_names(root, reading)
    said.set_names(root)
    said.reorder(root)
    for i, node in enumerate(root.walk()):
        node.id = i
    return Outline(root, title, unmet=said.unmet)


def _holders(reading: Reading) -> list[Node]:
    """Surfaces and pictures that have something on them, as nodes, largest first; backdrops are surfaces with a picture."""
    out = [Node("block", s.rect, surface=s) for s in reading.surfaces]
    for i, c in enumerate(reading.cutouts):
        if c.backdrop:
            out.append(Node("block", c.rect, surface=Surface(c.rect, Fill(c.ground), c.radius, picture=i)))
    return sorted(out, key=lambda n: (-n.rect.area, n.rect.y, n.rect.x))


def _nest(root: Node, holders: list[Node]) -> dict[int, list[Node]]:
    """Children of every holder by id(): each belongs to the smallest larger one that contains it."""
    inside: dict[int, list[Node]] = {id(root): []}
    placed = [root]
    for node in holders:
        host = next(
            (
                h
                for h in reversed(placed)
                if node.rect.inside(h.rect, 0.9) and h.rect.area > node.rect.area * 1.0001
            ),
            root,
        )
        inside[id(host)].append(node)
        inside[id(node)] = []
        placed.append(node)
    return inside


def _fill(node: Node, inside: dict[int, list[Node]], reading: Reading) -> None:
    """Give every holder its texts, pictures and rules, then compose its content; deepest first."""
    marks: dict[int, list[int]] = {}
    hosts = [node]
    stack = [node]
    while stack:
        n = stack.pop()
        for child in inside[id(n)]:
            hosts.append(child)
            stack.append(child)
    by_area = sorted(hosts, key=lambda h: h.rect.area)

    def host_of(rect: Rect) -> Node:
        return next((h for h in by_area if rect.inside(h.rect, 0.8)), node)

    for i, line in enumerate(reading.lines):
        size = reading.styles[line.style].size
        ink = edges(line.box.x, line.baseline - 0.7 * size, line.box.right, line.baseline + 0.1 * size)
        marks.setdefault(id(host_of(ink)), []).append(i)
    leaves: dict[int, list[Node]] = {}
    for i, c in enumerate(reading.cutouts):
        if not c.backdrop:
            leaves.setdefault(id(host_of(c.rect)), []).append(Node("image", c.rect, tag="img", cutout=i))
    underlined = [w.ink for line in reading.lines for w in line.words]
    for r in reading.rules:
        if any(
            r.rect.inside(w.grow(4), 0.6)
            for w in underlined
            if r.rect.w <= 1.3 * w.w + 8 or r.rect.h > r.rect.w
        ):
            continue
        if any(
            abs(r.rect.y - line.baseline) < 0.3 * reading.styles[line.style].size
            and r.rect.inside(line.box.grow(3), 0.9)
            for line in reading.lines
        ):
            continue
        probe = r.rect if r.rect.area else r.rect.grow(0.5)
        leaves.setdefault(id(host_of(probe)), []).append(
            Node("rule", r.rect, tag="hr", surface=Surface(r.rect, Fill(r.colour)))
        )
    _build(node, inside, marks, leaves, reading)


def _build(
    node: Node,
    inside: dict[int, list[Node]],
    marks: dict[int, list[int]],
    leaves: dict[int, list[Node]],
    reading: Reading,
) -> None:
    children = inside[id(node)]
    for child in children:
        _build(child, inside, marks, leaves, reading)
    items = _tables(children, marks.get(id(node), []), leaves.get(id(node), []), reading)
    small = [n.rect for n in (*items[0], *items[2]) if n.surface is not None or n.kind == "image"]
    texts = paragraphs(reading, items[1], small)
    content = [*(_framed_photo(n, reading) for n in items[0]), *texts, *items[2]]
    content = _join_bullets(content, reading)
    content = find_controls(content, node, reading)
    if not content:
        return
    if node.tag == "body" and (side := _side_column(content, reading)):
        rest = [c for c in content if c is not side]
        beside = compose(rest, lambda n: tight(n, reading))
        if beside.kind != "block" or beside.surface is not None or beside.tag != "div":
            beside = Node("block", beside.rect, children=[beside])
        order = [side, beside] if side.rect.x < beside.rect.x else [beside, side]
        node.children = [Node("row", union(c.rect for c in order), children=order)]
        return
    bar, rest = _top_bar(node, content, reading)
    if bar:
        below = compose(rest, lambda n: tight(n, reading))
        plain = below.kind == "block" and below.surface is None and below.tag == "div" and below.children
        node.children = [compose(bar, lambda n: tight(n, reading)), *(below.children if plain else [below])]
        return
    whole = compose(content, lambda n: tight(n, reading))
    if whole.kind == "block" and whole.surface is None and whole.tag == "div" and whole.children:
        node.children = whole.children
    elif whole.kind == "row" and node.tag != "body":
        node.kind, node.children = "row", whole.children
    else:
        node.children = [whole]


def _top_bar(node: Node, content: list[Node], reading: Reading) -> tuple[list[Node], list[Node]]:
    """(the page's bar, everything else) where a band's first things, side by side at the page's top, are one; else ([], content).

    Without this a menu at the right and a headline at the left part into two columns.
    """
    if node.rect.y > 8 or node.rect.w < 0.9 * reading.width:
        return [], content
    bar = [c for c in content if tight(c, reading).bottom < BAR]
    rest = [c for c in content if c not in bar]
    if len(bar) < 3 or not rest:
        return [], content
    boxes = [tight(c, reading) for c in bar]
    level = max(b.cy for b in boxes) - min(b.cy for b in boxes) <= 14
    wide = max(b.right for b in boxes) - min(b.x for b in boxes) > 0.35 * node.rect.w
    free = min(tight(c, reading).y for c in rest) - max(b.bottom for b in boxes) >= 20
    brief = all(c.kind != "text" or (len(c.lines) == 1 and len(node_text(c).split()) <= 4) for c in bar)
    return (bar, rest) if level and wide and free and brief else ([], content)


def _side_column(content: list[Node], reading: Reading) -> Node | None:
    """The panel at the page's side that everything else leaves room for, down to the page's end: a column that stays in its
    place while the page scrolls ends where the window did when the picture was taken."""
    for c in content:
        r = c.rect
        if c.surface is None or r.y > 2 or r.h < SIDE_COLUMN or not SIDE_WIDTHS[0] <= r.w <= SIDE_WIDTHS[1]:
            continue
        others = [d.rect for d in content if d is not c]
        left, right = r.x <= 2, r.right >= reading.width - 2
        if (left and others and all(o.x >= r.right - 2 for o in others)) or (
            right and others and all(o.right <= r.x + 2 for o in others)
        ):
            return c
    return None


def _framed_photo(n: Node, reading: Reading) -> Node:
    """A box that holds nothing but a photo, with an even margin round it, is the photo's own frame."""
    leaves = [d for d in n.walk()[1:] if not d.children]
    photos = [c for c in leaves if c.kind == "image"]
    if n.surface is None or n.surface.picture >= 0 or n.tag != "div" or not photos:
        return n
    photo, box, border = max(photos, key=lambda c: c.rect.area), n.rect, n.surface.border
    scraps = [c for c in leaves if c is not photo]
    # a pale line at the photo's edge, or a piece of it that was cut by itself, is part of it
    near = all(
        c.kind in ("image", "rule") and min(c.rect.w, c.rect.h) <= SCRAP and c.rect.inside(photo.rect.grow(SCRAP), 0.99)
        and not (c.kind == "rule" and c.surface and contrast(c.surface.fill.colour, n.surface.fill.colour) > 1.25)
        for c in scraps
    )  # fmt: skip
    if not near or reading.cutouts[photo.cutout].kind != "image" or photo.tag != "img":
        return n
    inner = union([photo.rect, *(c.rect for c in scraps if c.kind == "image")])
    margins = (
        inner.y - box.y - border[0], box.right - border[1] - inner.right,
        box.bottom - border[2] - inner.bottom, inner.x - box.x - border[3],
    )  # fmt: skip
    if min(margins) < (-0.6 if any(border) else 1) or max(margins) > FRAME or max(margins) - min(margins) > 6:
        return n
    photo.rect, photo.surface = box, n.surface
    photo.padding = (max(0.0, margins[0]), max(0.0, margins[1]), max(0.0, margins[2]), max(0.0, margins[3]))
    return photo


def _tables(
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
        if between:
            table.attributes["rule"] = between[0].surface.fill.colour if between[0].surface else ""
        tables.append(table)
        lines = [i for i in lines if i not in taken]
        leaves = [n for n in leaves if n not in between and n not in kept]
        children = [c for c in children if c not in kept]
    return [*children, *tables], lines, leaves


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
            if pile and abs(c.rect.y - pile[-1].rect.bottom) <= 2.5 and abs(c.rect.h - pile[-1].rect.h) <= 14:
                pile.append(c)
            else:
                pile = [c]
                piles.append(pile)
        for pile in piles:
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


def _is_part(k: Node, row: Node) -> bool:
    """A control or badge inside a row: it goes into its cell whole."""
    return k is not row and k.surface is not None and k.tag in ("a", "span", "button", "input")


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


def _join_bullets(content: list[Node], reading: Reading) -> list[Node]:
    """A bullet that stands alone, or a dot cut out as an icon, belongs to the text at its right."""
    texts = [n for n in content if n.kind == "text"]
    out = []
    for n in content:
        dot = n.kind == "text" and len(n.lines) == 1 and BULLET.match(reading.lines[n.lines[0]].text)
        small = n.kind == "image" and n.rect.w <= 9 and n.rect.h <= 9
        if dot or small:
            owner = next(
                (
                    t
                    for t in texts
                    if t is not n
                    and 3 <= t.rect.x - n.rect.right <= 22
                    and abs(reading.lines[t.lines[0]].box.cy - n.rect.cy) < 7
                ),
                None,
            )
            if owner is not None:
                owner.attributes.setdefault("bullet", "•")
                continue
        out.append(n)
    return out


def _bands(root: Node, reading: Reading) -> None:
    """Divide the page into full-width bands: coloured ones as they are, what lies between as sections of its own."""
    width = reading.width
    kids = sorted(root.children, key=lambda n: (n.rect.y, n.rect.x))
    alone = len(kids) == 1 and kids[0].kind in ("row", "grid") and kids[0].surface is None
    if alone and (kids[0].rect.x <= 2 or kids[0].rect.right >= width - 2):
        _sidebar(root, kids[0], reading)
        return
    container = _container(kids, width)
    big = heading_styles(reading)
    base = reading.styles[body_style(reading)].size if reading.styles else 16.0
    bands: list[Node] = []
    group: list[Node] = []

    def close(bottom: float) -> None:
        if not group:
            return
        top = bands[-1].rect.bottom if bands else 0.0
        bands.append(
            Node("block", edges(0, top, width, bottom), children=list(group), attributes={"band": "1"})
        )
        group.clear()

    for n in kids:
        full = n.surface is not None and n.rect.w >= FULL * width
        if full:
            close(n.rect.y)
            n.attributes["band"] = "1"
            bands.append(n)
            continue
        gap = n.rect.y - group[-1].rect.bottom if group else 0.0
        if group and n is kids[-1] and gap >= SECTION_GAP and COPYRIGHT.search(node_text(n)):
            close(n.rect.y - gap / 2)
        if group:
            heading = n.kind == "text" and n.style in big and reading.styles[n.style].size >= 1.3 * base
            if heading and gap >= SECTION_GAP:
                close(n.rect.y - gap / 2)
            elif len(bands) <= 1 and _ends_bar(group, len(bands)):
                close(n.rect.y - gap / 2 if n.kind != "rule" else n.rect.y)
        group.append(n)
    close(reading.height)
    for band in bands:
        inner = [c.rect for c in band.children]
        if container and inner:
            box = union(inner)
            touches = abs(box.x - container) <= 3 or abs(width - box.right - container) <= 3
            if touches and box.x >= container - 3 and box.right <= width - container + 3:
                band.attributes["container"] = f"{container:.2f}"
    root.children = bands
    if bands and bands[-1].surface is None:
        bands[-1].rect = edges(
            0,
            bands[-1].rect.y,
            width,
            max(bands[-1].rect.bottom, max(c.rect.bottom for c in bands[-1].children)),
        )


def _sections(column: Node, reading: Reading) -> None:
    """Divide a page's wide column where lines run from side to side, or else where its largest headings of one kind stand far
    below what is above them."""
    kids = column.children
    rules = [i + 1 for i, n in enumerate(kids[:-1]) if n.kind == "rule" and n.rect.w >= FULL * column.rect.w]
    starts = [(kids[i - 1].rect.bottom, i) for i in rules] or _heads_apart(kids, reading)
    if not starts or starts[0][1] == 0:
        return
    tops = [column.rect.y, *(y for y, _ in starts), column.rect.bottom]
    bounds = [0, *(i for _, i in starts), len(kids)]
    column.children = [
        Node("block", edges(column.rect.x, top, column.rect.right, bottom), children=kids[a:b], attributes={"band": "1"})
        for top, bottom, a, b in zip(tops, tops[1:], bounds, bounds[1:])
    ]  # fmt: skip


def _heads_apart(kids: list[Node], reading: Reading) -> list[tuple[float, int]]:
    """(y, index) of the children that begin with the largest heading that occurs more than once, with room above it."""
    big = heading_styles(reading)
    base = reading.styles[body_style(reading)].size if reading.styles else 16.0
    found: dict[int, list[tuple[float, int]]] = {}
    for i, (above, n) in enumerate(itertools.pairwise(kids), start=1):
        gap = n.rect.y - above.rect.bottom
        first = next((t for t in n.walk() if t.kind == "text"), None)
        if (
            first is not None
            and first.style in big
            and reading.styles[first.style].size >= 1.3 * base
            and gap >= SECTION_GAP
        ):
            found.setdefault(first.style, []).append((n.rect.y - gap / 2, i))
    repeated = [k for k, v in found.items() if len(v) > 1]
    return found[max(repeated, key=lambda k: big[k])] if repeated else []


def _ends_bar(group: list[Node], above: int) -> bool:
    """Is what has been gathered at the page's top a bar, or the second one of two?"""
    rows = [g for g in group if g.kind != "rule"]
    if len(rows) != 1 or rows[0].kind != "row":
        return False
    if not above:
        return len(group) == 1 and rows[0].rect.bottom < 130
    brief = all(c.kind == "text" and len(c.lines) == 1 and len(words_of(c)) <= 3 for c in rows[0].children)
    return rows[0].rect.bottom < 1.5 * BAR and brief and len(rows[0].children) >= SECOND_BAR


def _container(kids: list[Node], width: float) -> float:
    """The page's side margin, if several parts agree on it: the leading edge most parts start at."""
    votes: dict[int, float] = {}
    for n in kids:
        for c in n.children if n.surface and n.rect.w >= FULL * width else [n]:
            if c.kind == "text" and abs(c.rect.cx - width / 2) < 3:
                continue
            for margin in (c.rect.x, width - c.rect.right):
                if 0.012 * width < margin < 0.4 * width:
                    votes[round(margin)] = votes.get(round(margin), 0.0) + c.rect.w
    if not votes:
        return 0.0
    best = max(sorted(votes), key=lambda m: votes[m] + votes.get(m + 1, 0.0) + votes.get(m - 1, 0.0))
    exact = [
        m
        for n in kids
        for c in (n.children if n.surface and n.rect.w >= FULL * width else [n])
        for m in (c.rect.x, width - c.rect.right)
        if abs(m - best) <= 1.5
    ]
    return sorted(exact)[len(exact) // 2]


def _sidebar(root: Node, row: Node, reading: Reading) -> None:
    """A page whose first cut is into columns: sidebar and content, each as tall as the page."""
    for child in row.children:
        if (
            child.surface
            and (child.rect.x <= 2 or child.rect.right >= reading.width - 2)
            and child.rect.h > min(0.6 * reading.height, SIDE_COLUMN)
        ):
            child.attributes["edge"] = "1"
        elif child.surface is None:
            top = min(c.rect.y for c in row.children)
            child.rect = edges(child.rect.x, min(top, child.rect.y), child.rect.right, child.rect.bottom)
            if child.kind == "block" and child.children:
                first = child.children[0]
                child.rect = replace(child.rect)
                child.attributes["band"] = "1"
                right = reading.width if child.rect.right > 0.7 * reading.width else child.rect.right
                left = next((c.rect.right for c in row.children if c.rect.right <= child.rect.x + 2), 0.0)
                child.rect = edges(
                    left,
                    min(0.0, first.rect.y) if first.rect.y < 4 else 0.0,
                    right,
                    max(child.rect.bottom, reading.height if right == reading.width else child.rect.bottom),
                )
                _sections(child, reading)
    row.attributes["page"] = "1"
    root.children = [row]
