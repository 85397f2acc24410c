"""Layout intent: padding, gaps, alignment and columns of every node, so that flow alone puts things where they were seen.

Conventions (see `Node`): in a block `gap` is the space above a child and `inset` its offset from the content's leading
edge; in a row `gap` is the space before a child (AUTO: all that is free) and `inset` its offset from the row's top; in a grid
`columns` are shares in px, negative for a fixed track, and `inset` is again the offset from the top.
"""

from __future__ import annotations

import itertools

from neige.core.model import Node, Reading
from neige.core.model.geometry import edges
from neige.core.outline.middle import CENTRED, middle_columns
from neige.core.outline.paragraphs import baseline_offset, wrap_bounds

AUTO = -10_000.0
NEAR = 2.5  # px: two edges this close are meant to be one
OFF_MIDDLE = 8.0  # px from which text about a middle has one of its own
OUTSET = 64.0  # px that centred columns may reach beyond the box their text spans
GUTTER = 96.0  # px between columns of a grid at most
SPARE = 2.0  # px that a column's longest line leaves free at least
FAR_SIDE, NEAR_SIDE = (
    0.4,
    0.1,
)  # of the room before a row that stands at the end, and of that the room after it
AT_END = 2.0  # times the room after what stands at a box's end, and a gutter, that is before it at least
MIDDLE = 0.8  # of a box's width that a part in its middle takes at most
PANEL = 420.0  # px: a painted box as wide is a column, however little stands in it
WIDE_SURFACE = 120.0  # px: a wider surface in a row asks for a column of its own


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
    x0, x1 = inner.x + node.padding[3], inner.right - node.padding[1]
    if node.kind == "block":
        _stack(node, reading, x0, x1, inner.y + node.padding[0])
    else:
        _side_by_side(node, reading, x0, x1, inner.y + node.padding[0])


def _in_middle(c: Node, x0: float, x1: float) -> bool:
    return abs(c.rect.cx - (x0 + x1) / 2) <= CENTRED


def _padding(node: Node, x0: float, y0: float, x1: float, y1: float) -> tuple[float, float, float, float]:
    kids = node.children
    left = max(0.0, min(c.rect.x for c in kids) - x0)
    right = max(0.0, x1 - max(c.rect.right for c in kids))
    solid = [c for c in kids if c.kind != "text" or c.surface]
    if node.attributes.get("container"):
        left = right = float(node.attributes["container"])
    elif all(_in_middle(c, x0, x1) for c in kids):
        left = right = min(left, right)
    elif abs(left - right) > CENTRED and any(
        _in_middle(c, x0, x1) and c.rect.w < MIDDLE * (x1 - x0) and c.rect.x > x0 + left for c in kids
    ):
        left = right = min(left, right)  # what stands in the middle of the box stays there
    elif left > AT_END * right + GUTTER and (
        (node.kind == "row" and _hugging(node))
        or all(c.tag in ("a", "button") and c.surface is not None for c in kids)
    ):
        left = right  # what stands at the end of its box
    elif not solid or x1 - max(c.rect.right for c in solid) > left * 1.2 + 6:
        right = min(right, left)
    top = max(0.0, min(c.rect.y for c in kids) - y0)
    bottom = max(0.0, y1 - max(c.rect.bottom for c in kids))
    return (top, right, bottom, left)


def _with_room(
    node: Node, reading: Reading, padding: tuple[float, float, float, float]
) -> tuple[float, float, float, float]:
    """Padding that leaves the widest wrapped text between it a hair of room: its words must not break for want of it."""
    top, right, bottom, left = padding
    border = sum(node.surface.border[1::2]) if node.surface else 0.0
    room = node.rect.w - border - left - right
    wrapped = [c for c in node.children if c.kind == "text" and len(c.lines) > 1 and c.surface is None]
    need = max((c.rect.w + 2 * SPARE - room for c in wrapped), default=0.0) if node.kind == "block" else 0.0
    if not 0 < need <= 2 * SPARE or min(left, right) < need:
        return padding
    middle = all(c.align == "center" for c in wrapped)
    return (top, right - need / 2, bottom, left - need / 2) if middle else (top, right - need, bottom, left)


def _stack(node: Node, reading: Reading, x0: float, x1: float, y: float) -> None:
    kids = node.children
    _make_room(kids, reading)
    middle = (x0 + x1) / 2
    for i, child in enumerate(kids):
        child.gap = child.rect.y - (kids[i - 1].rect.bottom if i else y)
        left, right = child.rect.x - x0, x1 - child.rect.right
        slack = left + right
        centred = abs(child.rect.cx - middle) <= CENTRED and slack > 2 * NEAR
        if child.kind == "text" and not child.surface:
            _place_text(child, reading, x0, x1, left, centred, alone=len(kids) == 1)
        elif child.kind in ("row", "grid") and not child.surface:
            child.width, child.inset = "fill", 0.0
            if centred and left > 0.04 * (x1 - x0) and _hugging(child):
                child.align = "center"
            elif abs(right) <= NEAR < left and _hugging(child):
                child.align = "end"
            elif _hugging(child) and left > FAR_SIDE * (x1 - x0) and right < NEAR_SIDE * left:
                child.align, child.padding = "end", (0.0, right, 0.0, 0.0)
            elif not _hugging(child) and (left > NEAR or right > 0.06 * (x1 - x0)):
                child.width = "center" if centred else "max"
                child.inset = 0.0 if centred else left
            elif left > NEAR:
                child.inset = left
        elif slack <= 2 * NEAR:
            child.width, child.inset = "fill", left if left > NEAR / 2 and right <= NEAR / 2 else 0.0
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
            if hug == "max" and child.kind in (
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


def _extent(child: Node, x0: float, x1: float) -> tuple[float, float]:
    """The border box that a block's child gets across."""
    if child.width == "fill":
        return x0 + child.inset, x1
    return child.rect.x, child.rect.right


def _place_text(
    child: Node, reading: Reading, x0: float, x1: float, left: float, centred: bool, alone: bool
) -> None:
    """Text stands at the leading edge, the middle or the trailing edge; wrapped text gets a measure where the box has another."""
    right = x1 - child.rect.right
    if child.align == "center" or (
        child.align == "" and centred and left > 6 and (left > 0.02 * (x1 - x0) or alone)
    ):
        child.align = "center"
    elif child.align == "end" or (child.align == "" and abs(right) <= NEAR and left > 24):
        child.align = "end"
    else:
        child.align = "start"
    child.width, child.inset = "fill", 0.0
    if child.align == "start" and left > 1.0:
        child.inset = left
    if len(child.lines) > 1 and child.tag != "pre":
        low, high = wrap_bounds(reading, child)
        room = x1 - x0 - child.inset
        if not low + 0.3 <= room < high - 0.3:
            child.width = "max"
            measure = min((low + high) / 2, low + 24.0)
            child.attributes["measure"] = f"{measure:.2f}"
            if child.align == "center" and abs(child.rect.cx - (x0 + x1) / 2) > OFF_MIDDLE:
                measure = max(low + 0.3, min(measure, child.rect.w + 2 * left))
                child.attributes["measure"] = f"{measure:.2f}"
                aside = max(0.0, left - (measure - child.rect.w) / 2)
                child.attributes["aside"] = f"{aside:.2f}"  # about a middle that is not the box's


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


def _hugging(row: Node) -> bool:
    """A row whose parts keep their own width, as against columns that share the room."""
    return not any(_wide(c) for c in row.children)


def _wide(c: Node) -> bool:
    if c.tag in ("a", "button") and c.surface:
        return False
    if c.kind == "text":
        return len(c.lines) > 1
    if c.kind == "image":
        return c.rect.w > 200
    if c.kind in ("field", "table"):
        return True
    if c.surface:
        return c.rect.w > WIDE_SURFACE
    if c.kind == "block":
        return any(_wide(k) for k in c.children) or c.rect.w > WIDE_SURFACE
    return any(_wide(k) for k in c.children)


def _side_by_side(node: Node, reading: Reading, x0: float, x1: float, y: float) -> None:
    kids = node.children
    _part(kids)
    top = min(c.rect.y for c in kids)
    bottom = max(c.rect.bottom for c in kids)
    if node.surface is None:
        y = top
    _cross(node, reading, y if node.surface else top, bottom)
    wide = [c for c in kids if _wide(c)]
    ends = _ends(kids)
    if wide and len(kids) > 1 and not (len(wide) == 1 and _rail(kids, wide[0])) and not ends:
        node.kind = "grid"
        _columns(node, reading, x0, x1)
        return
    node.kind = "row"
    gaps = [b.rect.x - a.rect.right for a, b in itertools.pairwise(kids)]
    for i, child in enumerate(kids):
        child.width = "grow" if child in wide and not ends else "hug"
        if i:
            child.gap = gaps[i - 1]
        else:
            child.gap = max(0.0, child.rect.x - x0)
        if child.kind == "text":
            child.align = "start" if len(child.lines) == 1 else child.align or "start"
            if len(child.lines) > 1 and child.tag != "pre":
                low, high = wrap_bounds(reading, child)
                child.width, child.attributes["measure"] = "max", f"{min((low + high) / 2, low + 24.0):.2f}"
    free = x1 - kids[-1].rect.right
    lead = kids[0].rect.x - x0
    apart = max(gaps, default=0.0)
    rest = sorted(gaps)[-2] if len(gaps) > 1 else 20.0
    if (
        abs(lead - free) <= CENTRED
        and NEAR < lead < 0.12 * (x1 - x0)
        and apart > max(32.0, 2.2 * rest)
        and not node.surface
    ):
        # from one side to the other, with the same margin at both
        margin = max(0.0, min(lead, free))
        node.padding, node.align = (0.0, margin, 0.0, margin), "start"
        kids[0].gap, kids[gaps.index(apart) + 1].gap = 0.0, AUTO
    elif abs(lead - free) <= CENTRED and lead > NEAR:
        node.align = "center"
        kids[0].gap = 0.0
    elif (
        node.width != "hug"
        and abs(free) <= NEAR
        and gaps
        and lead <= max(gaps)  # else all of it stands at the end
        and max(gaps) > 2.2 * (sorted(gaps)[-2] if len(gaps) > 1 else 20)
    ):
        kids[gaps.index(max(gaps)) + 1].gap = AUTO
    elif abs(free) <= NEAR and lead > 40:
        node.align = "end"
        kids[0].gap = 0.0
    for child in kids:
        lay_out(child, reading, child.rect.x, child.rect.right)


def _part(kids: list[Node]) -> None:
    """What goes on under its neighbour (a field under its button) ends where that begins."""
    for a, b in itertools.pairwise(kids):
        under = a.rect.right - b.rect.x
        if a.kind == "field" and b.surface is not None and NEAR < under < 0.6 * a.rect.w:
            a.rect = edges(a.rect.x, a.rect.y, b.rect.x, a.rect.bottom)


def _rail(kids: list[Node], wide: Node) -> bool:
    """One flexible part beside small ones in a low row (a search box in a header) stays a row."""
    return (
        all(k is wide or k.rect.w < 200 for k in kids)
        and max(k.rect.h for k in kids) < 72
        and wide.kind not in ("text", "block")
        and not wide.children
    )


def _ends(kids: list[Node]) -> bool:
    """Two low rows of small things, one at each end of a bar: what is free lies between them."""
    return (
        len(kids) == 2
        and kids[1].rect.x - kids[0].rect.right > GUTTER
        and max(k.rect.h for k in kids) < 72
        and all(
            k.kind == "row"
            or (k.kind == "image" and k.rect.w <= 72)
            or (k.kind == "text" and len(k.lines) == 1)
            for k in kids
        )
        and not any(k.surface is not None and k.rect.w > PANEL and k.tag == "div" for k in kids)
        and not any(len(d.lines) > 1 or d.rect.w > 420 for k in kids for d in k.walk() if not d.children)
    )


def _cross(node: Node, reading: Reading, top: float, bottom: float) -> None:
    """Alignment across a row: whichever of stretch, centre, top, bottom spreads least; else each part's own offset."""
    kids = node.children
    middles = [c.rect.cy for c in kids]
    spread = {
        "center": max(middles) - min(middles),
        "start": max(c.rect.y for c in kids) - min(c.rect.y for c in kids),
        "end": max(c.rect.bottom for c in kids) - min(c.rect.bottom for c in kids),
    }
    if spread["start"] <= 1.6 and spread["end"] <= 1.6 and any(c.surface for c in kids):
        node.cross = "stretch"
    elif spread["start"] <= 1.0:
        node.cross = "start"
    else:
        best = min(("center", "end"), key=lambda k: spread[k])
        node.cross = best if spread[best] <= 1.6 and not node.attributes.get("band") else "start"
        if node.cross == "center" and abs((top + bottom) / 2 - sum(middles) / len(middles)) > 1.6:
            node.cross = "start"
    for c in kids:
        c.inset = max(0.0, c.rect.y - top) if node.cross == "start" else 0.0


def _columns(node: Node, reading: Reading, x0: float, x1: float) -> None:
    """Tracks from the columns' leading edges; the gap is what surfaces leave between them, or else the least that text leaves."""
    kids = node.children
    lefts, rights = [c.rect.x for c in kids], [c.rect.right for c in kids]
    gaps = [max(0.0, b - a) for a, b in zip(rights, lefts[1:])]
    centres, even_columns = middle_columns(kids), False
    if centres and len(kids) > 1:
        pitch = (centres[-1] - centres[0]) / (len(kids) - 1)
        room = 2 * min(centres[0] - x0, x1 - centres[-1]) + OUTSET
        width = min(pitch - max(0.0, min(24.0, *gaps)), room)
        regular = max(abs(c - centres[0] - i * pitch) for i, c in enumerate(centres)) <= 4
        if regular and width >= max(c.rect.w for c in kids) - NEAR:
            even_columns = True
            lefts = [c - width / 2 for c in centres]
            rights = [c + width / 2 for c in centres]
            gaps = [pitch - width] * (len(kids) - 1)
            out = max(x0 - lefts[0], rights[-1] - x1)
            top, right, bottom, left = node.padding
            if min(left, right) >= out > 0.5:  # they reach into the room that the part has at its sides
                node.padding = (top, right - out, bottom, left - out)
                x0, x1 = x0 - out, x1 + out
            else:
                if out > 0.5:
                    node.attributes["outset"] = f"{out:.2f}"
                    x0 -= out
                x1 = rights[-1]
    gutters = min(gaps, default=0.0) <= GUTTER

    def solid(c: Node) -> bool:
        return _solid(c) or (gutters and _is_stack(c))

    gap = min(gaps)
    end = x1 if x1 - rights[-1] < 0.5 * (x1 - x0) or kids[-1].kind == "text" else rights[-1]
    if node.surface is None and not solid(kids[-1]) and len(kids) > 1:
        # ragged last column: if the lefts are even, it is as wide as the others
        pitches = [b - a for a, b in itertools.pairwise(lefts)]
        if max(pitches) - min(pitches) <= 3 and not any(solid(k) for k in kids) and len(kids) > 2:
            gap = min(gap, 24.0)
            even = lefts[-1] + pitches[-1] - gap
            fits = even <= x1 + 3 and kids[-1].rect.right <= even + 3
            end = even if fits else x1
    elif not any(solid(k) for k in kids):
        gap = min(gap, 32.0)
    if not any(solid(k) for k in kids):
        gap = min(gap, 32.0)
    if not any(solid(k) for k in kids[:-1]):
        gap = min(gap, GUTTER)  # what is free belongs to the text before it
    for k, last, following in zip(kids, rights, lefts[1:]):
        if not solid(k) and not even_columns:  # nor the other columns'
            gap = max(0.0, min(gap, following - last - SPARE))
    if node.surface is None and not node.attributes.get("band"):
        # the last column's lines must not break for want of a hundredth of a px
        need = lefts[-1] + max((wrap_bounds(reading, t)[0] for t in _wrapped(kids[-1])), default=0.0) + SPARE
        if end < need:
            node.rect = edges(node.rect.x, node.rect.y, node.rect.right + need - end, node.rect.bottom)
            x1, end = x1 + need - end, need
    tracks = [b - a - gap for a, b in itertools.pairwise(lefts)] + [max(8.0, end - lefts[-1])]
    node.columns = [-t if _fixed(c, t) else t for c, t in zip(kids, tracks)]
    if all(t < 0 for t in node.columns):
        node.columns[-1] = -node.columns[-1]
    node.column_gap = gap
    top, right, bottom, left = node.padding
    node.padding = (top, max(0.0, right + x1 - end), bottom, max(0.0, left + lefts[0] - x0))
    for c, left, track in zip(kids, lefts, tracks):
        c.gap = 0.0
        c.width = "fill"
        if c.kind == "text" and not c.surface:
            inset = c.inset
            if len(c.lines) == 1 and len(reading.lines[c.lines[0]].words) == 1:
                c.attributes["nowrap"] = "1"  # a column as narrow as its one word must not part it
            _place_text(
                c,
                reading,
                left,
                left + track,
                c.rect.x - left,
                abs(c.rect.cx - left - track / 2) <= CENTRED and c.rect.x - left > 6,
                alone=False,
            )
            c.inset = inset
        elif solid(c) and track - c.rect.w > 2 * NEAR:
            c.width = "max"
        elif c.kind == "image":
            c.width = "hug"
        lay_out(c, reading, left, left + track if c.width == "fill" else c.rect.right)


def _wrapped(column: Node) -> list[Node]:
    """The texts that break into lines along the leading edge of a column."""
    found = (
        [column]
        if column.kind == "text"
        else column.children
        if column.kind == "block" and not column.surface
        else []
    )
    return [
        t
        for t in found
        if t.kind == "text" and t.tag != "pre" and len(t.lines) > 1 and abs(t.rect.x - column.rect.x) <= NEAR
    ]


def _solid(c: Node) -> bool:
    return bool(c.surface) or c.kind in ("image", "field", "table", "rule")


def _is_stack(c: Node) -> bool:
    """A stack with paint from its one side to the other (a picture over its words): its edges are to be seen, too."""
    return c.kind == "block" and any(
        (_solid(k) or _is_stack(k))
        and k.kind != "rule"
        and abs(k.rect.x - c.rect.x) <= 1
        and abs(k.rect.right - c.rect.right) <= 1
        for k in c.children
    )


def _fixed(c: Node, track: float) -> bool:
    """Small pictures and icons keep their size; columns of text and cards share the room."""
    if c.kind == "image":
        return track <= 160
    if c.surface and c.attributes.get("edge"):
        return True
    return (
        c.kind != "text" and c.rect.w <= 72 and track <= 110 and not any(len(k.lines) > 1 for k in c.walk())
    )


def _cells(table: Node, reading: Reading) -> None:
    """Column shares, row heights and the content's place in every cell."""
    table.columns = [td.rect.w for td in table.children[0].children]
    for tr in table.children:
        for column, td in enumerate(tr.children):
            for child in td.children:
                left, right = child.rect.x - td.rect.x, td.rect.right - child.rect.right
                column_cells = [r.children[column] for r in table.children if column < len(r.children)]
                lefts = [k.rect.x - c.rect.x for c in column_cells for k in c.children]
                rights = [c.rect.right - k.rect.right for c in column_cells for k in c.children]
                ragged_left = max(lefts) - min(lefts) > NEAR
                ragged_right = max(rights) - min(rights) > NEAR
                if ragged_left and not ragged_right:
                    td.align = "end"
                    td.padding = (0.0, max(0.0, right), 0.0, 0.0)
                elif abs(left - right) <= CENTRED and ragged_left and ragged_right:
                    td.align = "center"
                else:
                    td.align = "start"
                    usual = sorted(lefts)[len(lefts) // 2]
                    td.padding = (0.0, 0.0, 0.0, max(0.0, usual if abs(left - usual) <= NEAR / 2 else left))
                small = child.kind == "image" or (
                    child.surface is not None and child.tag in ("a", "span", "button")
                )
                child.align, child.width = td.align, "hug" if small else "fill"
                lay_out(child, reading, child.rect.x, td.rect.right)
