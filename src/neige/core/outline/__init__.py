"""Outline: a `Reading` to an `Outline`: the semantic tree with layout intent. No CSS strings in here."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

from neige.core.model import Fill, Node, Outline, Pin, Reading, Rect, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.borders import bare_fills
from neige.core.outline.check import check
from neige.core.outline.code import code_between, code_block
from neige.core.outline.columns import extend_columns
from neige.core.outline.containers import contain
from neige.core.outline.controls import find_controls
from neige.core.outline.cuts import compose
from neige.core.outline.floats import afloat, find_floats
from neige.core.outline.inlays import find_inlays, lay_in, without_inlays
from neige.core.outline.layout import lay_out
from neige.core.outline.middle import widen_columns
from neige.core.outline.names import give_names
from neige.core.outline.paragraphs import BULLET, paragraphs, tight
from neige.core.outline.pins import Corrections
from neige.core.outline.roles import give_roles
from neige.core.outline.tables import take_tables
from neige.core.outline.tidy import take_back, tidy, true_up
from neige.core.outline.words import COPYRIGHT, body_style, heading_styles, node_text, words_of
from neige.core.reading.colour import contrast

__all__ = ["arrange", "check", "take_back", "tidy", "true_up"]

LINE = 3.0  # px: a thicker one is a band
FULL = 0.985  # of the page's width: a band
BAR = 120.0  # px from the page's top above which its bar ends
SECOND_BAR = 4  # entries that a bar under the first has at least
CUT = 4.0  # px from the picture's end: what is there may be the upper part of letters
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
    floats = [c for c in root.children if c.attributes.get("floats")]
    root.children = extend_columns([c for c in root.children if c not in floats])
    _bands(root, reading)
    said.regroup(root, reading)
    lay_in(root, reading, inlays)
    widen_columns(root)
    lay_out(root, reading, 0.0, reading.width)
    said.share(root)
    title = give_roles(root, reading)
    bare_fills(root, reading.background.colour)
    contain(root)
    root.children += [afloat(c, reading) for c in floats]
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
    items = take_tables(node, children, marks.get(id(node), []), leaves.get(id(node), []), reading)
    small = [n.rect for n in (*items[0], *items[2]) if n.surface is not None or n.kind == "image"]
    uncut = [n for n in items[2] if n.kind != "image" or n.rect.bottom < reading.height - CUT]
    alone = node.surface is not None and node.tag != "body" and not items[0] and not uncut
    block = code_block(reading, items[1]) if alone else None
    blocks = [block] if block else code_between(reading, items[1])
    coded = {i for b in blocks for i in b.lines}
    texts = [*blocks, *paragraphs(reading, [i for i in items[1] if i not in coded], small)]
    content = [*(_framed_photo(n, reading) for n in items[0]), *texts, *items[2]]
    content = _join_bullets(content, reading)
    content = find_controls(content, node, reading)
    if node.tag == "body" and (floats := find_floats(content, node.rect)):
        _compose(node, [c for c in content if c not in floats], reading)
        node.children += floats
    elif content:
        _compose(node, content, reading)


def _compose(node: Node, content: list[Node], reading: Reading) -> None:
    """Give a holder its content, cut into rows and columns."""
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


def _join_bullets(content: list[Node], reading: Reading) -> list[Node]:
    """A bullet that stands alone, or a dot cut out as an icon, belongs to the text at its right."""
    texts = [n for n in content if n.kind == "text"]
    owners: dict[int, Node] = {}
    for n in content:
        dot = n.kind == "text" and len(n.lines) == 1 and BULLET.match(reading.lines[n.lines[0]].text)
        small = n.kind == "image" and n.rect.w <= 9 and n.rect.h <= 9
        beside = (
            t
            for t in texts
            if t is not n
            and 3 <= t.rect.x - n.rect.right <= 22
            and abs(reading.lines[t.lines[0]].box.cy - n.rect.cy) < 7
        )
        if (dot or small) and (owner := next(beside, None)):
            owners[id(n)] = owner
    dots = [n for n in content if id(n) in owners]
    for n in dots:
        alone = n.kind == "image" and not any(o is not n and abs(o.rect.x - n.rect.x) <= 2 for o in dots)
        if alone:  # a light before a word, no item of a list
            del owners[id(n)]
        else:
            owners[id(n)].attributes.setdefault("bullet", "•")
    return [n for n in content if id(n) not in owners]


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
            if (
                n.kind == "rule"
                and n.surface
                and n.rect.h <= LINE
                and len(bands) == 1
                and bands[0].rect.h < BAR
            ):
                bar = bands[0]  # the line under the page's bar is its border
                bar.rect = edges(0, bar.rect.y, width, n.rect.bottom)
                side = (0.0, 0.0, n.rect.h, 0.0)
                bar.surface = Surface(bar.rect, Fill(""), border=side, border_colour=n.surface.fill.colour)
                continue
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
