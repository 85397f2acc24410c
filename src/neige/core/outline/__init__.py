"""Outline: a `Reading` to an `Outline`: the semantic tree with layout intent. No CSS strings in here."""

from __future__ import annotations

from collections.abc import Sequence

from neige.core.model import Cutout, Fill, Node, Outline, Pin, Reading, Rect, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.bands import BAR, SIDE_COLUMN, part_bands
from neige.core.outline.borders import bare_fills
from neige.core.outline.check import check
from neige.core.outline.code import code_between, code_block, pad_code
from neige.core.outline.columns import extend_columns
from neige.core.outline.containers import contain
from neige.core.outline.controls import find_controls, rim_buttons
from neige.core.outline.cuts import compose
from neige.core.outline.floats import afloat, find_floats
from neige.core.outline.forms import send_forms
from neige.core.outline.front import Layers, bring_forward
from neige.core.outline.inlays import find_inlays, lay_in, without_inlays
from neige.core.outline.layout import lay_out
from neige.core.outline.middle import widen_columns
from neige.core.outline.names import give_names
from neige.core.outline.paragraphs import BULLET, justify_alike, paragraphs, tight
from neige.core.outline.pins import Corrections
from neige.core.outline.roles import give_roles
from neige.core.outline.tables import take_tables
from neige.core.outline.tidy import take_back, tidy, true_up
from neige.core.outline.tiles import mark_tiles
from neige.core.outline.words import node_text
from neige.core.reading.colour import contrast

__all__ = ["arrange", "check", "take_back", "tidy", "true_up"]

CUT = 4.0  # px from the picture's end: what is there may be the upper part of letters
ACROSS = 0.25  # of what lies across a card's edge that is on the card at least
LEVEL = 7.0  # px between the middles of what is in one row
EMPTY = (8.0, 26.0)  # px from a bullet to where its list's words begin
EMPTY_NEAR = 40.0  # px from an empty entry to the one beside it
SMALL_DOT = 0.2  # of the size: a middle dot is no higher
SCRAP = 8.0  # px: what is thinner, at a photo's edge, is a piece of it
FRAME = 24.0  # px of margin that a photo's frame has at most
SIDE_WIDTHS = (56.0, 420.0)  # px
WHOLE = 0.98  # of the page, that the photo behind it takes


def arrange(reading: Reading, pins: Sequence[Pin] = ()) -> Outline:
    """Build the tree of a page from its marks, with the developer's corrections of it. Every mark of the reading is in it once."""
    said = Corrections(pins)
    page = Rect(0, 0, reading.width, reading.height)
    photo = next((i for i, c in enumerate(reading.cutouts) if c.backdrop and page.inside(c.rect, WHOLE)), -1)
    root = Node("block", page, tag="body", surface=Surface(page, reading.background, picture=photo))
    inlays = find_inlays(reading)
    layers = {id(s): k for k, s in enumerate(reading.surfaces)}
    tree = _nest(root, _holders(without_inlays(reading, inlays)), layers)
    _fill(root, tree, layers, reading)
    floats = [c for c in root.children if c.attributes.get("floats")]
    root.children = extend_columns([c for c in root.children if c not in floats])
    part_bands(root, reading)
    said.regroup(root, reading)
    lay_in(root, reading, inlays)
    pad_code(root, reading)
    widen_columns(root)
    justify_alike(root, reading)
    lay_out(root, reading, 0.0, reading.width)
    said.share(root)
    title = give_roles(root, reading)
    mark_tiles(root)
    bare_fills(root, reading.background.colour)
    contain(root)
    root.children += [afloat(c, reading) for c in floats]
    said.set_roles(root)
    send_forms(root)
    give_names(root, reading)
    said.set_names(root)
    said.reorder(root)
    bring_forward(root, layers)
    rim_buttons(root)
    for i, node in enumerate(root.walk()):
        node.id = i
    return Outline(root, title, unmet=said.unmet)


def _holders(reading: Reading) -> list[Node]:
    """Surfaces and pictures that have something on them, as nodes, largest first; backdrops are surfaces with a picture."""
    page = Rect(0, 0, reading.width, reading.height)
    out = [Node("block", s.rect, surface=s) for s in reading.surfaces]
    for i, c in enumerate(reading.cutouts):
        if c.backdrop and not page.inside(c.rect, WHOLE):
            out.append(Node("block", c.rect, surface=Surface(c.rect, Fill(c.ground), c.radius, picture=i)))
    return sorted(out, key=lambda n: (-n.rect.area, n.rect.y, n.rect.x))


def _nest(root: Node, holders: list[Node], layers: Layers) -> dict[int, list[Node]]:
    """Children of every holder by id(): each belongs to the smallest larger one that contains it, or to what is in front of that."""
    inside: dict[int, list[Node]] = {id(root): []}
    placed = [root]
    for node in holders:
        around = (
            h
            for h in reversed(placed)
            if node.rect.inside(h.rect, 0.9) and h.rect.area > node.rect.area * 1.0001
        )
        larger = [h for h in reversed(placed) if h.rect.area > node.rect.area * 1.0001]
        host = _in_front(node.rect, next(around, root), larger, layers)
        inside[id(host)].append(node)
        inside[id(node)] = []
        placed.append(node)
    return inside


def _in_front(rect: Rect, host: Node, others: list[Node], layers: Layers) -> Node:
    """`host`, or the card across its lower edge if that lies under what is at `rect`, too, and is in front of both."""
    h, layer = host.rect, layers.get(id(host.surface), -1)
    return next(
        (
            o
            for o in others
            if o.rect.y > h.y + 1
            and o.rect.bottom > h.bottom
            and layers.get(id(o.surface), -1) > layer
            and rect.x >= o.rect.x - 1
            and rect.right <= o.rect.right + 1
            and rect.bottom <= o.rect.bottom + 1
            and rect.bottom - max(rect.y, o.rect.y) >= ACROSS * rect.h
        ),
        host,
    )


def _fill(node: Node, inside: dict[int, list[Node]], layers: Layers, reading: Reading) -> None:
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
        return _in_front(rect, next((h for h in by_area if rect.inside(h.rect, 0.8)), node), by_area, layers)

    def card_of(c: Cutout) -> Node:
        """The host of a picture; a round one across a card's upper edge is on that card."""
        r, host = c.rect, host_of(c.rect)
        on = (
            h
            for h in by_area
            if r.y < h.rect.y < r.bottom - ACROSS * r.h and h.rect.x <= r.x and r.right <= h.rect.right
        )
        return next(on, host) if host is node and c.radius else host

    for i, line in enumerate(reading.lines):
        size = reading.styles[line.style].size
        ink = edges(line.box.x, line.baseline - 0.7 * size, line.box.right, line.baseline + 0.1 * size)
        marks.setdefault(id(host_of(ink)), []).append(i)
    leaves: dict[int, list[Node]] = {}
    for i, c in enumerate(reading.cutouts):
        if not c.backdrop:
            leaves.setdefault(id(card_of(c)), []).append(Node("image", c.rect, tag="img", cutout=i))
    for r in reading.rules:
        probe = r.rect if r.rect.area else r.rect.grow(0.5)
        leaves.setdefault(id(host_of(probe)), []).append(
            Node("rule", r.rect, tag="hr", surface=Surface(r.rect, Fill(r.colour), border_style=r.style))
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


def _dot(n: Node, reading: Reading) -> str:
    """The dot that was seen, by its size."""
    line = reading.lines[n.lines[0]] if n.lines else None
    small = line is not None and line.ink.h <= SMALL_DOT * reading.styles[line.style].size
    return "·" if small else "•"


def _level(n: Node, content: list[Node]) -> list[Node]:
    """What stands right of a part, level with it: behind a number and one text only in a table's row there is more."""
    return [c for c in content if c.rect.x > n.rect.right and abs(c.rect.cy - n.rect.cy) < LEVEL]


def _join_bullets(content: list[Node], reading: Reading) -> list[Node]:
    """A bullet that stands alone, or a dot cut out as an icon, belongs to the text at its right."""
    texts = [n for n in content if n.kind == "text"]
    owners: dict[int, Node] = {}
    for n in content:
        dot = n.kind == "text" and len(n.lines) == 1 and BULLET.match(reading.lines[n.lines[0]].text)
        small = n.kind == "image" and reading.cutouts[n.cutout].dot
        beside = (
            t
            for t in texts
            if t is not n
            and 3 <= t.rect.x - n.rect.right <= 22
            and abs(reading.lines[t.lines[0]].box.cy - n.rect.cy) < LEVEL
        )
        row = n.kind == "text" and node_text(n)[:1].isdigit() and len(_level(n, content)) > 1
        if (dot or small) and not row and (owner := next(beside, None)):
            owners[id(n)] = owner
    dots = [n for n in content if id(n) in owners]
    for n in dots:
        alone = n.kind == "image" and not any(o is not n and abs(o.rect.x - n.rect.x) <= 2 for o in dots)
        if alone:  # a light before a word, no item of a list
            del owners[id(n)]
        else:
            owners[id(n)].attributes.setdefault("bullet", "•")
            owners[id(n)].attributes.setdefault("dot", _dot(n, reading))
    return [n for n in content if id(n) not in owners and not _is_empty_entry(n, texts, reading)]


def _is_empty_entry(n: Node, texts: list[Node], reading: Reading) -> bool:
    """A dot with nothing after it, over or under the dots of a list: an entry that says nothing."""
    dot = n.kind == "image" and reading.cutouts[n.cutout].dot
    return dot and any(
        t.attributes.get("bullet")
        and EMPTY[0] <= t.rect.x - n.rect.x <= EMPTY[1]
        and abs(t.rect.cy - n.rect.cy) <= EMPTY_NEAR
        for t in texts
    )
