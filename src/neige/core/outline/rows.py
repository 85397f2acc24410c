"""Parts side by side: rows whose parts keep their width, grids whose columns share the room, and what stands level across them."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Reading
from neige.core.model.geometry import edges
from neige.core.outline.middle import CENTRED, middle_columns
from neige.core.outline.paragraphs import wrap_bounds
from neige.core.outline.places import AUTO, NEAR, SPARE, place_text

Extent = tuple[Node, float, float]
OUTSET = 64.0  # px that centred columns may reach beyond the box their text spans
GUTTER = 96.0  # px between columns of a grid at most
PANEL = 420.0  # px: a painted box as wide is a column, however little stands in it
WIDE_SURFACE = 120.0  # px: a wider surface in a row asks for a column of its own


def hugging(row: Node) -> bool:
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


def side_by_side(node: Node, reading: Reading, x0: float, x1: float, y: float) -> list[Extent]:
    """Lay out a row, or a grid where its parts share the room; each part with the border box that it gets across."""
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
        return _columns(node, reading, x0, x1)
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
    return [(child, child.rect.x, child.rect.right) for child in kids]


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
            or (k is kids[1] and _ends_alike(k))
            for k in kids
        )
        and not any(k.surface is not None and k.rect.w > PANEL and k.tag == "div" for k in kids)
        and not any(len(d.lines) > 1 or d.rect.w > 420 for k in kids for d in k.walk() if not d.children)
    )


def _ends_alike(stack: Node) -> bool:
    """Do the single lines of a stack end at one place, and begin at others?"""
    rects = [c.rect for c in stack.children]
    lines = all(c.kind == "text" and len(c.lines) == 1 for c in stack.children)
    if stack.kind != "block" or stack.surface is not None or len(rects) < 2 or not lines:
        return False
    ends, starts = [r.right for r in rects], [r.x for r in rects]
    return max(ends) - min(ends) <= 1.6 and max(starts) - min(starts) > NEAR


def _cross(node: Node, reading: Reading, top: float, bottom: float) -> None:
    """Alignment across a row: whichever of stretch, centre, top, bottom spreads least; else each part's own offset."""
    kids = node.children
    middles = [c.rect.cy for c in kids]
    spread = {
        "center": max(middles) - min(middles),
        "start": max(c.rect.y for c in kids) - min(c.rect.y for c in kids),
        "end": max(c.rect.bottom for c in kids) - min(c.rect.bottom for c in kids),
    }
    even = 1.6 if all(c.surface for c in kids) else 1.0  # words beside a box are hardly ever as high as it is
    if spread["start"] <= even and spread["end"] <= even and any(c.surface for c in kids):
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


def _columns(node: Node, reading: Reading, x0: float, x1: float) -> list[Extent]:
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
    extents: list[Extent] = []
    for c, left, track in zip(kids, lefts, tracks):
        c.gap = 0.0
        c.width = "fill"
        if c.kind == "text" and not c.surface:
            inset = c.inset
            if len(c.lines) == 1 and len(reading.lines[c.lines[0]].words) == 1:
                c.attributes["nowrap"] = "1"  # a column as narrow as its one word must not part it
            place_text(
                c,
                reading,
                left,
                left + track,
                c.rect.x - left,
                abs(c.rect.cx - left - track / 2) <= CENTRED and c.rect.x - left > 6,
                alone=False,
            )
            c.inset = inset
        elif solid(c) and not even_columns and track - c.rect.w > 2 * NEAR:
            c.width = "max"
        elif c.kind == "image":
            c.width = "hug"
        extents.append((c, left, left + track if c.width == "fill" else c.rect.right))
    return extents


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
