"""Room for links: padding out of the gaps between them, and the box of the one that is open for all of them."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Reading
from neige.core.outline.places import AUTO
from neige.core.outline.top_bar import BAR
from neige.core.outline.words import texts_in

TARGET_HIGH = 64.0  # px: the box of an entry is no higher
TARGET_SIZE = 40.0  # px that a link in a bar is high
FOOT_SIZE, FOOT_SIDE = 24.0, 6.0  # px that one in a foot is high (2.5.8), and of padding at its sides
MOST_REACH = 14.0  # px that a link reaches up and down at most
SIDE_ROOM = 12.0  # px of padding that a link in a row gets at most, left and right
FEW = 3  # links in a foot
LEVEL = 6.0  # px by which the middles of what belongs together may differ
TARGET = 14.0  # px of padding that a stacked entry gets at most, above and below
NEAR = 1.5  # px by which entries of one menu may begin elsewhere
MOST_ALONE, CAPTION_ROOM = (
    20.0,
    4.0,
)  # px of padding for an entry that stands alone, and left to a caption beside it
SAME_BOX = 1.0  # px by which the boxes of links beside each other may begin or end elsewhere
EVEN = 2.0  # px by which the distances in a stack of entries may differ


def room_in_feet(root: Node) -> None:
    """Three or more links side by side in a foot get some room, less than those of a bar: many are written with none."""
    for foot in (n for n in root.walk() if n.tag == "footer"):
        for n in foot.walk():
            plain = len(n.children) >= FEW and all(c.kind == "text" and is_plain_link(c) for c in n.children)
            if n.kind == "row" and n.tag == "div" and plain and not n.attributes.get("dotted"):
                give_room(n, FOOT_SIZE, FOOT_SIDE)


def reach_in_bars(root: Node, reading: Reading) -> None:
    """Words that stand by themselves in a bar at the page's top, its name or its last link, are as high to hit as the others, other
    than underlined ones, which are text."""
    for bar in (n for n in root.walk() if n.tag in ("header", "nav") and n.rect.bottom <= BAR):
        for holder in bar.walk():
            for c in holder.children:
                alone = is_plain_link(c) and c.kind != "image" and not c.attributes.keys() & {"pad", "reach"}
                alone = alone and not any(reading.styles[t.style].underline for t in texts_in(c))
                if holder.kind in ("row", "grid") and alone and not holder.attributes.get("reach"):
                    reach = max(0.0, min(MOST_REACH, (TARGET_SIZE - c.rect.h) / 2))
                    c.attributes["reach"] = f"{reach:g}"
                    _pad(c, reach, 0.0)


def give_room(links: Node, size: float = TARGET_SIZE, room: float = SIDE_ROOM) -> None:
    """Links side by side get padding out of the gaps between them, and reach up and down without moving anything: targets
    that are easy to hit. `size`, `room`: px that they are high, and of padding at their sides at most.

    The sizes are those whose boxes overlap most with people's own: of 111 pages' links in bars three in four then do by half or
    more, of 68 pages' links in feet four in five (WCAG 2.2, 2.5.8 asks for 24 px).
    """
    kids = links.children
    gaps = [c.gap for c in kids[1:] if c.gap > 0]
    if not gaps or min(gaps) < 8 or not any(is_plain_link(c) for c in kids):
        return
    side, high = min(room, min(gaps) / 2), size
    box = current_of(kids)
    if box is not None:  # all have the box of the one that is open
        first = texts_in(box)[0]
        free = [
            c.gap / (is_plain_link(c) + is_plain_link(a))
            for a, c in itertools.pairwise(kids)
            if c.gap != AUTO and is_plain_link(c) + is_plain_link(a)
        ]
        side, high = min(first.rect.x - box.rect.x, *free), box.rect.h
    for i, c in enumerate(kids):
        plain = is_plain_link(c)
        if plain:
            reach = max(0.0, min(MOST_REACH, (high - c.rect.h) / 2))
            c.attributes["reach"] = f"{reach:g}"
            _pad(c, reach, side)
        if i and c.gap != AUTO:
            c.gap -= side * (plain + is_plain_link(kids[i - 1]))
        elif plain and not i:
            c.gap -= side
    bar = bool(links.attributes.get("band") or links.surface)
    if kids[-1].attributes.get("reach"):  # a bar from side to side must not reach beyond them
        (kids[-1] if bar else links).attributes["end"] = f"{side:g}"
    if bar or links.kind != "row":
        return
    if is_plain_link(kids[0]):
        kids[0].gap += side
        links.attributes["lead"] = f"{side:g}"
    if not all(c.attributes.get("reach") for c in kids):
        return
    reaches = [float(c.attributes["reach"]) for c in kids]
    tops = [c.inset - reach for c, reach in zip(kids, reaches)]
    ends = [c.inset + c.rect.h + reach for c, reach in zip(kids, reaches)]
    level = max(tops) - min(tops) <= SAME_BOX and max(ends) - min(ends) <= SAME_BOX
    if level and abs(max(ends) - links.rect.h + min(tops)) <= SAME_BOX / 4:  # as far down as up
        links.attributes["reach"] = f"{-min(tops):g}"  # the list reaches out, not each of its links
        for c in kids:
            c.inset = 0.0
            del c.attributes["reach"]


def _pad(c: Node, high: float, wide: float) -> None:
    """Give a link `high` px of padding above and below, and `wide` px at its sides."""
    if c.kind in ("text", "image"):
        c.attributes["pad"] = f"{high:g} {wide:g}"
    else:
        top, right, bottom, left = c.padding
        c.padding = (top + high, right + wide, bottom + high, left + wide)


def current_of(entries: list[Node], stacked: bool = False) -> Node | None:
    """The one entry in a box of its own among links without: whose page is open. What is set in other letters, or in a stack
    begins elsewhere, is a button."""
    boxed = [c for c in entries if c.surface is not None and not (stacked and not _lined_up(c, entries))]
    plain = [t for c in entries if is_plain_link(c) for t in texts_in(c)[:1]]
    if len(boxed) != 1 or boxed[0].tag != "a" or boxed[0].rect.h > TARGET_HIGH or not plain:
        return None
    if not stacked and not _evenly(boxed[0], entries):
        return None
    words = texts_in(boxed[0])
    if not 1 <= len(words) <= 2 or len(words[0].lines) != 1:
        return None
    return boxed[0] if abs(words[0].leading - plain[0].leading) <= 0.25 * plain[0].leading else None


def _evenly(box: Node, entries: list[Node]) -> bool:
    """Are the words in a box as far from its neighbours' as those are from each other, but for room that is free?"""
    texts = [texts_in(c)[0] for c in entries if texts_in(c)]
    gaps = [
        (b.rect.x - a.rect.right, any(t in box.walk() for t in (a, b))) for a, b in itertools.pairwise(texts)
    ]
    others = sorted(g for g, own in gaps if not own)
    if not others:
        return True
    usual = others[len(others) // 2]
    return all(abs(g - usual) <= LEVEL for g, own in gaps if own)


def is_plain_link(c: Node) -> bool:
    """A link without a box of its own: its words, or an icon with them, or an icon alone."""
    if c.kind == "image":
        return bool(c.attributes.get("linked")) and c.surface is None
    return c.tag == "a" and c.surface is None and c.kind in ("text", "row")


def _lined_up(box: Node, entries: list[Node]) -> bool:
    """Does what is in the box begin where the other entries do?"""
    first = next(d for d in box.walk() if not d.children)
    return box.tag == "a" and any(abs(c.rect.x - first.rect.x) <= LEVEL for c in entries if is_plain_link(c))


def widen_targets(stack: Node, box: Node | None = None) -> None:
    """Links under one another get padding out of the gaps between them, so that they are easy to hit; `box` is that of the one
    that is open, if the menu has one."""
    kids = stack.children
    if stack.attributes.get("list") != "1" or len(kids) < 2 or any(c.tag != "a" for c in kids):
        return
    if box is not None and _widen_like(box, kids):
        stack.gap += kids[0].gap
        stack.attributes["spread"] = f"{-kids[0].gap:g}"
        kids[0].gap = 0.0
        return
    if any(c.surface for c in kids):
        return
    least = min(c.gap for c in kids[1:])
    pad = round(min(TARGET, least / 2), 2)
    if pad < 2:
        return
    for i, c in enumerate(kids):
        _pad(c, pad, 0.0)
        c.width = "fill"
        c.gap -= 2 * pad if i else 0.0
    stack.gap -= pad
    stack.attributes["spread"] = f"{pad:g}"


def widen_alone(stack: Node) -> None:
    """A menu's entry that stands alone between captions or lines gets padding out of the room above and below it, as much of both."""
    if stack.kind != "block" or stack.attributes.get("list"):
        return
    kids, gaps = stack.children, [c.gap for c in stack.children]
    pads: dict[int, float] = {}
    for i, (before, c, after) in enumerate(zip(kids, kids[1:], kids[2:]), 1):
        if c.tag not in ("a", "button") or c.surface is not None or c.kind not in ("text", "row"):
            continue
        above, below = (
            g / 2 if n.tag in ("a", "button") else g - (CAPTION_ROOM if n.kind == "text" else 0.0)
            for n, g in ((before, gaps[i]), (after, gaps[i + 1]))
        )
        pads[i] = round(min(MOST_ALONE, above, below), 2)
    for i, c in enumerate(kids):
        pad = pads.get(i, 0.0)
        beside = [pads[k] for k in (i - 1, i + 1) if k in pads]
        pad = min([pad, *(p for p in beside if p >= pad - EVEN)])  # those of several have the same
        if pad < 2 or c.attributes.get("pad"):
            continue
        _pad(c, pad, 0.0)
        c.width = "fill"
        c.gap -= pad
        kids[i + 1].gap -= pad


def _widen_like(box: Node, kids: list[Node]) -> bool:
    """All entries get the box of the one that is open, if they have the room."""
    pads = [(box.rect.h - c.rect.h) / 2 for c in kids]
    room = [c.gap - a - b for c, a, b in zip(kids[1:], pads, pads[1:])]
    if min([*pads, *room]) < -EVEN / 2 or any(c.surface for c in kids if c is not box):
        return False
    first = next(d for d in box.walk() if not d.children).rect.x - box.rect.x
    for i, (c, pad) in enumerate(zip(kids, pads)):
        if c is not box:
            left = max(0.0, min(c.inset, c.rect.x - box.rect.x))
            left = first if abs(left - first) <= NEAR else left
            _pad(c, pad, left)
            c.width = "fill"
            c.inset = max(0.0, c.inset - left) if left != first else 0.0
        if i:
            c.gap -= pads[i - 1] + pad
    kids[0].gap -= pads[0]
    return True
