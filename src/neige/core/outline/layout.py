"""Layout intent: padding, gaps, alignment and columns of every node, so that flow alone puts things where they were seen.

Conventions (see `Node`): in a block `gap` is the space above a child and `inset` its offset from the content's leading
edge; in a row `gap` is the space before a child (AUTO: all that is free) and `inset` its offset from the row's top; in a grid
`columns` are shares in px, negative for a fixed track, and `inset` is again the offset from the top.
"""

from __future__ import annotations

import itertools
from statistics import median

from neige.core.model import Node, Reading
from neige.core.model.geometry import edges
from neige.core.outline.middle import CENTRED
from neige.core.outline.paragraphs import baseline_offset
from neige.core.outline.places import AUTO, FAR_SIDE, NEAR, NEAR_SIDE, SPARE, place_text
from neige.core.outline.rows import GUTTER, hugging, side_by_side
from neige.core.outline.table_rows import MARK

FLUSH = 0.6  # px by which texts that begin at one place were read to begin elsewhere
TIGHT = 0.6  # px that a single line has at least, or it might be parted
SHARED = 0.5  # px by which a border lies off the edge of the column that it shares with the one before
FAR_OFF = 24.0  # px: what is alike and that far from both sides of its cells stands in their middle
SAME_ROOM = 0.8  # px
AT_END = 2.0  # times the room after what stands at a box's end, and a gutter, that is before it at least
MOST = 0.7  # of its place that a box at its end takes to be all of it but for what is before it
PART = 0.6  # of a cell's width: a box that takes less is as wide as it is
MIDDLE = 0.8  # of a box's width that a part in its middle takes at most
ARROWS = 2  # names in a table's head with an arrow each
BESIDE = 16.0  # px that words keep from a box's sides where these do not come near them


def lay_out(node: Node, reading: Reading, left: float, right: float) -> None:
    """Set the layout of `node`'s children, top-down. `left`, `right`: the extent its parent gives it (border box)."""
    if node.kind == "table":
        _cells(node, reading)
        return
    if not node.children or node.kind == "field":
        return
    border = node.surface.border if node.surface else (0.0, 0.0, 0.0, 0.0)
    if node.surface:
        left, right = node.rect.x, node.rect.right
    inner = edges(left + border[3], node.rect.y + border[0], right - border[1], node.rect.bottom - border[2])
    if node.surface or node.attributes.get("band"):
        node.padding = _with_room(node, reading, _padding(node, inner.x, inner.y, inner.right, inner.bottom))
    for child in node.children:
        beyond = child.rect.bottom - inner.bottom
        if 0.5 < beyond <= border[2]:  # a line under the current entry lies on the bar's own
            child.attributes["beyond"] = f"{beyond:g}"
    x0, x1 = inner.x + node.padding[3], inner.right - node.padding[1]
    if node.kind == "block":
        _stack(node, reading, x0, x1, inner.y + node.padding[0])
    else:
        for child, start, end in side_by_side(node, reading, x0, x1, inner.y + node.padding[0]):
            lay_out(child, reading, start, end)


def _in_middle(c: Node, x0: float, x1: float) -> bool:
    return abs(c.rect.cx - (x0 + x1) / 2) <= CENTRED


def _padding(node: Node, x0: float, y0: float, x1: float, y1: float) -> tuple[float, float, float, float]:
    kids = node.children
    left = max(0.0, _begin(kids) - x0)
    right = max(0.0, x1 - max(c.rect.right for c in kids))
    solid = [c for c in kids if c.kind != "text" or c.surface]
    if node.attributes.get("container"):
        left = right = float(node.attributes["container"])
    elif min(left, right) > 2 * BESIDE and _is_label(node) and all(_in_middle(c, x0, x1) for c in kids):
        left = right = (
            BESIDE  # its words are as wide as they are, and so is it: what is between is nobody's room
        )
    elif all(_in_middle(c, x0, x1) for c in kids):
        exact = node.width == "hug" and not any(c.kind == "text" for c in kids)
        left = right = (left + right) / 2 if exact else min(left, right)
    elif abs(left - right) > CENTRED and any(
        _in_middle(c, x0, x1) and c.rect.w < MIDDLE * (x1 - x0) and c.rect.x > x0 + left for c in kids
    ):
        left = right = min(left, right)  # what stands in the middle of the box stays there
    elif left > AT_END * right + GUTTER and (
        (node.kind == "row" and hugging(node))
        or all(c.tag in ("a", "button") and c.surface is not None for c in kids)
    ):
        left = right  # what stands at the end of its box
    elif not solid or x1 - max(c.rect.right for c in solid) > left * 1.2 + 6:
        right = min(right, left)
    top = max(0.0, min(c.rect.y for c in kids) - y0)
    bottom = max(0.0, y1 - max(c.rect.bottom for c in kids))
    return (top, right, bottom, left)


def _is_label(node: Node) -> bool:
    """Is a box that its words do not make wide written with nothing but words that take a line each?"""
    single = all(c.kind == "text" and c.surface is None and len(c.lines) == 1 for c in node.children)
    return (
        single
        and node.surface is not None
        and node.width != "hug"
        and node.tag not in ("a", "button", "span")
    )


def _begin(kids: list[Node]) -> float:
    """Where the parts of a box begin: paint tells it to the px, texts in the middle of what each of them tells."""
    first = min(c.rect.x for c in kids)
    flush = [c for c in kids if c.rect.x - first <= FLUSH]
    exact = [c.rect.x for c in flush if c.kind != "text" or c.surface]
    return min(exact) if exact else median(c.rect.x for c in flush)


def _with_room(
    node: Node, reading: Reading, padding: tuple[float, float, float, float]
) -> tuple[float, float, float, float]:
    """Padding that leaves the widest text between it a hair of room: its words must not break for want of it."""
    top, right, bottom, left = padding
    border = sum(node.surface.border[1::2]) if node.surface else 0.0
    room = node.rect.w - border - left - right
    # a box that is as wide as its words cannot be too narrow for them
    hugs = node.width == "hug" or node.tag in ("a", "button", "span")
    texts = [
        c
        for c in node.children
        if c.kind == "text"
        and c.surface is None
        and (len(c.lines) > 1 or (not hugs and room - c.rect.w < TIGHT))
    ]
    need = max((c.rect.w + 2 * SPARE - room for c in texts), default=0.0) if node.kind == "block" else 0.0
    if not 0 < need <= 2 * SPARE or min(left, right) < need:
        return padding
    x0, x1 = node.rect.x + left, node.rect.right - right
    middle = all(c.align == "center" or _in_middle(c, x0, x1) for c in texts)
    return (top, right - need / 2, bottom, left - need / 2) if middle else (top, right - need, bottom, left)


def _is_lined_up(child: Node, kids: list[Node], middle: float) -> bool:
    """Does a text begin where at least two others do that are in no middle: is it in the middle by chance?"""
    begins = (
        k for k in kids if k is not child and k.kind == "text" and abs(k.rect.x - child.rect.x) <= NEAR / 2
    )
    return child.kind == "text" and sum(abs(k.rect.cx - middle) > CENTRED for k in begins) >= 2


def _stack(node: Node, reading: Reading, x0: float, x1: float, y: float) -> None:
    kids = node.children
    _make_room(kids, reading)
    middle = (x0 + x1) / 2
    for i, child in enumerate(kids):
        child.gap = child.rect.y - (kids[i - 1].rect.bottom if i else y)
        left, right = child.rect.x - x0, x1 - child.rect.right
        slack = left + right
        off = abs(child.rect.cx - middle)
        centred = off <= CENTRED and slack > 2 * NEAR
        if centred and child.surface and abs(right) <= NEAR / 2 < off:
            centred = False  # it ends where its place does, and begins elsewhere
        centred = centred and not _is_lined_up(child, kids, middle)
        if child.kind == "text" and not child.surface:
            place_text(child, reading, x0, x1, left, centred, alone=len(kids) == 1)
        elif child.kind in ("row", "grid") and not child.surface:
            child.width, child.inset = "fill", 0.0
            if centred and left > 0.04 * (x1 - x0) and hugging(child):
                child.align = "center"
            elif abs(right) <= NEAR < left and hugging(child):
                child.align = "end"
            elif hugging(child) and left > FAR_SIDE * (x1 - x0) and right < NEAR_SIDE * left:
                child.align, child.padding = "end", (0.0, right, 0.0, 0.0)
            elif not hugging(child) and (left > NEAR or right > 0.06 * (x1 - x0)):
                child.width = "center" if centred else "max"
                child.inset = 0.0 if centred else left
            elif left > NEAR:
                child.inset = left
        elif slack <= 2 * NEAR:
            child.width, child.inset = "fill", left if left > NEAR / 2 and right <= NEAR / 2 else 0.0
            if child.surface and child.surface.border[3] and abs(left + child.surface.border[3]) < SHARED:
                child.inset = left  # its border is also that of what is beside it
        elif child.kind == "block" and not child.surface:
            child.width = (
                "center"
                if centred and left > NEAR
                else "max"
                if left > NEAR or right > 0.3 * (x1 - x0)
                else "fill"
            )
            child.inset = 0.0 if child.width == "center" else max(0.0, left)
            if child.width == "max" and left <= NEAR:
                child.width, child.inset = "fill", 0.0
        else:
            hug = "hug" if child.tag in ("a", "button", "span") or child.kind == "image" else "max"
            child.width = hug
            child.align = "center" if centred else "end" if abs(right) <= NEAR < left else "start"
            child.inset = left if child.align == "start" else 0.0
            if child.kind == "block" and centred and _ragged(child):  # an entry as wide as its menu
                child.width, child.align, child.attributes["outset"] = "fill", "start", f"{-slack / 2:.2f}"
            elif hug == "max" and child.align == "end" and child.rect.w > MOST * (x1 - x0):
                child.width, child.align, child.inset = "fill", "start", left
            elif hug == "max" and child.kind in (
                "row",
                "grid",
            ):  # where it stands says nothing of what is in it
                if child.align == "end":
                    child.attributes["at"] = "end"
                child.width = "center" if child.align == "center" else "max"
                child.align = "start"
        if child.width == "center" and left + NEAR / 2 < right:
            # ragged text ends before what it stands in does
            child.rect = edges(child.rect.x, child.rect.y, x1 - left, child.rect.bottom)
        lay_out(child, reading, *_extent(child, x0, x1))


def _ragged(box: Node) -> bool:
    """Do its words begin at its side and end well before the other: is it wider than they make it?"""
    texts = [c.rect for c in box.children if c.kind == "text"]
    if box.tag != "a" or len(texts) != len(box.children) or not texts:
        return False
    return box.rect.right - max(r.right for r in texts) > min(r.x for r in texts) - box.rect.x + 2 * CENTRED


def _extent(child: Node, x0: float, x1: float) -> tuple[float, float]:
    """The border box that a block's child gets across."""
    if child.width == "fill" and "outset" not in child.attributes:
        return x0 + child.inset, x1
    return child.rect.x, child.rect.right


def _make_room(kids: list[Node], reading: Reading) -> None:
    """Where the leading given to single lines makes neighbours overlap, take it back."""
    for a, b in itertools.pairwise(kids):
        short = a.rect.bottom - b.rect.y
        if short <= 0:
            continue
        for node in (a, b):
            if node.kind == "text" and len(node.lines) == 1 and node.surface is None:
                style = reading.styles[node.style]
                leading = max(float(round(style.size * 0.95)), node.leading - 2 * short)
                _set_leading(node, reading, leading)
                short = a.rect.bottom - b.rect.y
                if short <= 0:
                    break


def _set_leading(node: Node, reading: Reading, leading: float) -> None:
    style = reading.styles[node.style]
    top = reading.lines[node.lines[0]].baseline - baseline_offset(style.ascent, style.descent, leading)
    node.leading = leading
    node.rect = edges(node.rect.x, top, node.rect.right, top + leading * len(node.lines))


def _cells(table: Node, reading: Reading) -> None:
    """Column shares, row heights and the content's place in every cell."""
    _share_leading(table, reading)
    first = table.children[0].children
    ends = [
        *(td.rect.x for td in first[1:]),
        first[-1].rect.right - line_between(table),
    ]  # neighbours share the border between them
    table.columns = [end - td.rect.x for td, end in zip(first, ends)]
    spans = [td for tr in table.children for td in tr.children if "span" in td.attributes]
    for column in columns_of(table):
        cells = [td for td in column if td not in spans]
        _align_column([td for td in cells if td.tag == "td"] or cells)
        _align_column([td for td in cells if td.tag == "th"], like=cells[-1].align)
    for td in spans:
        _align_span(td)
    _pool_padding([td for tr in table.children for td in tr.children if td.children])
    for tr in table.children:
        for td in tr.children:
            for above, child in zip([None, *td.children], td.children):
                child.gap = child.rect.y - above.rect.bottom if above is not None else 0.0
                boxed = child.surface is not None and child.kind != "field"
                small = child.kind == "image" or (
                    boxed and (child.tag in ("a", "span", "button") or child.rect.w < PART * td.rect.w)
                )
                child.align, child.width = td.align, "hug" if small else "fill"
                lay_out(child, reading, child.rect.x, td.rect.right)
    _arrows_at_end(table.children[0])


def _share_leading(table: Node, reading: Reading) -> None:
    """Single lines in a table have the leading that shows where a cell of their style has several."""
    texts = [t for t in table.walk() if t.kind == "text" and t.surface is None]
    shown: dict[int, list[float]] = {}
    for t in texts:
        if len(t.lines) > 1:
            shown.setdefault(t.style, []).append(round(t.leading, 2))
    for t in texts:
        if len(t.lines) == 1 and t.style in shown:
            _set_leading(t, reading, max(set(shown[t.style]), key=lambda v: (shown[t.style].count(v), -v)))


def _arrows_at_end(head: Node) -> None:
    """The arrows that sort by a column stand at the end of its head's cell, whatever is said there."""
    found = [
        (td, row)
        for td in head.children
        for row in td.children[:1]
        if row.kind == "row"
        and [c.kind for c in row.children] == ["text", "image"]
        and max(row.children[1].rect.w, row.children[1].rect.h) <= MARK
        and 0 <= td.rect.right - row.rect.right <= FAR_OFF
    ]
    for td, row in found if len(found) >= ARROWS else ():
        top, _, bottom, left = td.padding
        td.padding = (top, float(round(td.rect.right - row.rect.right)), bottom, left)
        row.children[1].gap = AUTO


def line_between(table: Node) -> float:
    """px of the lines that cells of a table share with the cells beside them: collapsed borders, half of which lie in each."""
    sides = [td.surface.border[1::2] for tr in table.children for td in tr.children if td.surface]
    return max((w for pair in sides for w in pair), default=0.0)


def columns_of(table: Node) -> list[list[Node]]:
    """A table's cells by the column that they begin in."""
    wide = max(sum(int(td.attributes.get("span", 1)) for td in tr.children) for tr in table.children)
    out: list[list[Node]] = [[] for _ in range(wide)]
    below = [0] * len(out)  # rows that a cell from above still takes of a column
    for tr in table.children:
        at, taken = 0, list(below)
        for td in tr.children:
            while taken[at]:
                at += 1
            span = int(td.attributes.get("span", 1))
            out[at].append(td)
            below[at : at + span] = [int(td.attributes.get("rows", 1))] * span
            at += span
        below = [max(0, n - 1) for n in below]
    return out


def _align_span(td: Node) -> None:
    """What is in a cell of several columns stands at the side that it is nearer to, or in the middle."""
    if not td.children:
        return
    left, right = _room_beside(td)
    if abs(left - right) <= CENTRED:
        td.align = "center"
    elif right < left:
        td.align, td.padding = "end", (0.0, max(0.0, right), 0.0, 0.0)
    else:
        td.align, td.padding = "start", (0.0, 0.0, 0.0, max(0.0, left))


def _pool_padding(cells: list[Node]) -> None:
    """Cells have the same room at the side that their content stands at, but for fractions of a px in which letters begin and end."""
    rooms = sorted(room for td in cells if (room := max(td.padding[1], td.padding[3])) > NEAR)
    if not rooms:
        return
    usual = rooms[len(rooms) // 2]
    for td in cells:
        top, right, bottom, left = (usual if abs(p - usual) <= SAME_ROOM else p for p in td.padding)
        td.padding = (top, right, bottom, left)


def _room_beside(td: Node) -> tuple[float, float]:
    """px before and after what is in a cell, inside the lines at its sides."""
    _, after, _, before = td.surface.border if td.surface else (0.0, 0.0, 0.0, 0.0)
    return (
        min(k.rect.x for k in td.children) - td.rect.x - before,
        td.rect.right - after - max(k.rect.right for k in td.children),
    )


def _align_column(cells: list[Node], like: str = "") -> None:
    """Where the content of a column's cells stands in them: at the end if it ends at one place, in the middle if it has that there and
    neither begins nor ends at one place. `like`: how the cells are aligned that these are the heads of."""
    places = {id(td): _room_beside(td) for td in cells if td.children}
    if not places:
        return
    lefts, rights = (sorted(side) for side in zip(*places.values()))
    ragged_left, ragged_right = lefts[-1] - lefts[0] > NEAR, rights[-1] - rights[0] > NEAR
    usual, last = lefts[len(lefts) // 2], rights[len(rights) // 2]
    at_end = ragged_left and not ragged_right
    centred = all(abs(a - b) <= CENTRED and a > FAR_OFF for a, b in places.values())
    several = any(len(t.lines) > 1 for td in cells for k in td.children for t in k.walk() if t.kind == "text")
    after = usual if several and rights[0] >= usual - NEAR / 2 else 0.0  # or else lines would be longer
    if like and len(places) == 1:
        at_end = like == "end" and rights[0] < lefts[0]
    for td in cells:
        left, right = places.get(id(td), (0.0, 0.0))
        in_middle = abs(left - right) <= CENTRED and left > NEAR
        if at_end:
            td.align = "end"
            td.padding = (0.0, max(0.0, last if abs(right - last) <= NEAR / 2 else right), 0.0, 0.0)
        elif in_middle and (
            centred or (ragged_left and ragged_right if len(places) > 1 else like == "center")
        ):
            td.align = "center"
        else:
            td.align = "start"
            td.padding = (0.0, after, 0.0, max(0.0, usual if abs(left - usual) <= NEAR / 2 else left))
