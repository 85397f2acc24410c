"""Boxes to tick, radio buttons and switches, each with the text beside it as its label."""

from __future__ import annotations

from neige.core.model import Node, Reading, Rect, Surface
from neige.core.model.geometry import union
from neige.core.reading.colour import chroma, contrast

CHOICE = (9.0, 44.0)  # px that a box to tick is wide
LONE_CHOICE = 20.0  # px that it is wide at most if there is no other like it
TICKED = 24.0  # px that a ticked box is wide at most
BESIDE = 1.8  # times its label's size that a larger one without a rim is wide at most: else it is somebody's picture
NEXT_ROW = 64.0  # px from one row's box to the next one's
AFTER = 18.0  # px from a box to its label
TICK_WIDE, TICK_FLAT = (0.4, 0.85), (1.1, 1.8)  # of the box's width, and times its own height


def find_choices(content: list[Node], reading: Reading) -> list[Node]:
    """A small framed square or disc right before a text is a check box or radio button with that label; so is a picture of that
    size in line with one: it is the one that was chosen."""
    out = _switches(content)
    boxes = [
        n
        for n in content
        if (n.surface or n.kind == "image")
        and CHOICE[0] <= n.rect.w <= CHOICE[1]
        and abs(n.rect.w - n.rect.h) <= 1.5
        and all(c.kind == "image" for c in n.children)
    ]
    framed = [
        n
        for n in boxes
        if not n.children
        and n.surface
        and (any(n.surface.border) or contrast(n.surface.fill.colour, "#ffffff") < 1.2)
        and not any(c.rect.meet(n.rect) for c in reading.cutouts)  # drawn in its box, and larger than that
    ]
    elsewhere = _frames(reading) if boxes else []
    for box in boxes:
        s, disc = box.surface, False
        like = [
            f
            for f in framed
            if f is not box and abs(f.rect.cx - box.rect.cx) <= 2 and abs(f.rect.w - box.rect.w) <= 5
        ]
        if box.kind == "image":  # a disc is the chosen one of discs, a square of squares
            disc = reading.cutouts[box.cutout].radius >= 0.4 * box.rect.w
            like = [f for f in like if f.surface and (f.surface.radius >= 0.4 * f.rect.w) == disc]
        if not like and s is not None:  # each may be in a row of its own
            like = [Node("block", f.rect, surface=f) for f in elsewhere if _in_line(f, s)]
        elif not like:
            like = [Node("block", f.rect, surface=f) for f in elsewhere if _in_next_row(f, box.rect, disc)]
        rimmed = any(f.surface and any(f.surface.border) for f in (box, *like))
        chosen = ((box.kind == "image" or bool(box.children)) and bool(like)) or _is_ticked(box)
        label = next(
            (
                t
                for t in out
                if t.kind == "text"
                and 2 <= t.rect.x - box.rect.right <= max(AFTER, reading.styles[t.style].size)
                and abs(t.rect.cy - box.rect.cy) <= 5
                and (rimmed or box.rect.w <= max(TICKED, BESIDE * reading.styles[t.style].size))
            ),
            None,
        )
        single = box.rect.w > LONE_CHOICE and not like and not _is_ticked(box)
        if label is None or single or not (box in framed or chosen) or label.tag != "p":
            continue
        of = like[0].surface if chosen and s is None and like else s
        radio = bool(of and of.radius >= 0.4 * of.rect.w)
        place = box.rect
        if box.kind == "image" and like:  # an icon's box may be larger than what is drawn in it
            side = like[0].rect.w
            place = Rect(round(box.rect.cx - side / 2), round(box.rect.cy - side / 2), side, side)
        node = Node("field", place, tag="input", surface=s, style=label.style)
        node.attributes["type"] = "radio" if radio else "checkbox"
        if chosen:
            node.attributes["checked"] = s.fill.colour if s else _liveliest(reading)
            node.surface = None
        _join(out, box, node, label)
    return out


def _frames(reading: Reading) -> list[Surface]:
    """The framed squares and discs of the page that may be boxes to tick, with nothing in them."""
    small = [
        s
        for s in reading.surfaces
        if CHOICE[0] <= s.rect.w <= CHOICE[1] and abs(s.rect.w - s.rect.h) <= 1.5 and all(s.border)
    ]
    marks = [*(n.ink for n in reading.lines), *(c.rect for c in reading.cutouts)]
    return [s for s in small if not any(m.meet(s.rect) for m in marks)]


def _in_line(a: Surface, b: Surface) -> bool:
    """Are two boxes one above the other, as large, and as round?"""
    level = abs(a.rect.cx - b.rect.cx) <= 2 and abs(a.rect.cy - b.rect.cy) > a.rect.h
    return level and abs(a.rect.w - b.rect.w) <= 1 and abs(a.radius - b.radius) <= 2


def _in_next_row(empty: Surface, picture: Rect, disc: bool) -> bool:
    """Is a box to tick in the row above or below a picture, which is about as large, and a disc as well, or neither is?"""
    level = abs(empty.rect.cx - picture.cx) <= 2 and abs(empty.rect.w - picture.w) <= 5
    near = empty.rect.h < abs(empty.rect.cy - picture.cy) <= NEXT_ROW
    return level and near and (empty.radius >= 0.4 * empty.rect.w) == disc


def _is_ticked(box: Node) -> bool:
    """A small filled square with nothing but a tick in its middle: wider than high, and half as wide as the square or more."""
    tick = box.children[0] if len(box.children) == 1 else None
    if box.surface is None or tick is None or tick.kind != "image" or box.rect.w > TICKED:
        return False
    r, t = box.rect, tick.rect
    middle = abs(t.cx - r.cx) <= 1.5 and abs(t.cy - r.cy) <= 2.5
    sized = TICK_WIDE[0] * r.w <= t.w <= TICK_WIDE[1] * r.w and TICK_FLAT[0] <= t.w / t.h <= TICK_FLAT[1]
    return middle and sized and box.surface.radius < 0.4 * r.w


def _join(out: list[Node], box: Node, field: Node, label: Node) -> None:
    """Put a choice made of `box`, and its label, into a row in the box's place."""
    both = sorted([field, label], key=lambda n: n.rect.x)
    row = Node("row", union([box.rect, label.rect]), tag="div", children=both)
    row.attributes["role"] = "choice"
    label.tag = "label"
    out[out.index(box)] = row
    out.remove(label)


def _switches(content: list[Node]) -> list[Node]:
    """The content with capsules that have a disc at one end, and the texts level with them, as check boxes that look like
    switches, with their labels."""
    out = list(content)
    for n in content:
        knob = n.children[0] if len(n.children) == 1 else None
        if n.surface is None or knob is None or knob.surface is None or knob.children:
            continue
        r, k = n.rect, knob.rect
        capsule = n.surface.radius >= 0.4 * r.h and 1.4 * r.h <= r.w <= 2.4 * r.h
        level = [t for t in out if t.kind == "text" and t.tag == "p" and abs(t.rect.cy - r.cy) <= 8]
        if not capsule or knob.surface.radius < 0.4 * k.h or not level:
            continue
        label = min(level, key=lambda t: max(t.rect.x - r.right, r.x - t.rect.right))
        field = Node("field", r, tag="input", surface=n.surface, style=label.style)
        on = k.cx > r.cx
        field.attributes |= {"type": "checkbox", "role": "switch"} | ({"checked": "1"} if on else {})
        place = r.right - k.cx if on else k.cx - r.x
        field.attributes["knob"] = f"{knob.surface.fill.colour} {k.w / 2:.2f} {place:.2f}"
        _join(out, n, field, label)
    return out


def _liveliest(reading: Reading) -> str:
    """The palette's strongest colour, which is what chosen fields are painted in."""
    return max((p.colour for p in reading.palette), key=lambda c: (chroma(c), c), default="#000000")
