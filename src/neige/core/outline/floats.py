"""What floats: a button in the page's margin, beside which nothing else stands, is in nobody's row or column."""

from __future__ import annotations

from neige.core.model import Node, Reading, Rect
from neige.core.outline.layout import lay_out
from neige.core.outline.words import texts_in

SIZES = (24.0, 96.0)  # px of its sides
MARGIN = 48.0  # px from the page's edge at most
FREE = 6.0  # px between it and what the page holds
FULL = 0.97  # of the page's width: what it stands in front of
OTHERS = 3
HANGS = 4.0  # px between it and the card it hangs on
ACROSS, HIGHER = (
    0.1,
    3.0,
)  # of its width that is on either side of a card's edge at least, and its heights that the card is high


def find_floats(content: list[Node], page: Rect) -> list[Node]:
    """The parts among a page's content that float; they are told by their attribute "floats"."""
    out = []
    for c in content:
        r = c.rect
        small = SIZES[0] <= min(r.w, r.h) and max(r.w, r.h) <= SIZES[1]
        if c.surface is None or c.surface.picture >= 0 or not small:
            continue
        others = [o.rect for o in content if o is not c and o.rect.w < FULL * page.w]
        left, right = r.x <= MARGIN, page.right - r.right <= MARGIN
        free = (left and all(o.x >= r.right + FREE for o in others)) or (
            right and all(o.right <= r.x - FREE for o in others)
        )
        beside = any(o.y < r.y and o.bottom > r.bottom for o in others)
        corner = page.bottom - r.bottom <= MARGIN
        around = any(o.y < r.y for o in others) and (corner or any(o.bottom > r.bottom for o in others))
        if free and len(others) >= OTHERS and (beside or around):
            c.attributes["floats"] = "1"
            c.reasons.append("alone in the page's margin")
            out.append(c)
    for c in content:
        if c not in out and any(_across(c, o) for o in content if o.surface is not None):
            c.attributes["floats"] = "1"
            c.reasons.append("across the side of a card")
            out.append(c)
    return out


def _across(c: Node, card: Node) -> bool:
    """Does something small without words lie across the left or right edge of something far higher, or a picture hang on it?"""
    r, o = c.rect, card.rect
    if c is card or c.kind == "text" or texts_in(c) or max(r.w, r.h) > SIZES[1] or o.h < HIGHER * r.h:
        return False
    level = r.y > o.y and r.bottom < o.bottom
    over = any(r.x < edge - ACROSS * r.w and edge + ACROSS * r.w < r.right for edge in (o.x, o.right))
    hangs = c.kind == "image" and (abs(r.x - o.right) <= HANGS or abs(o.x - r.right) <= HANGS)
    return level and (over or hangs)


def afloat(n: Node, reading: Reading) -> Node:
    """A part that floats with its layout: one without words is a button."""
    lay_out(n, reading, n.rect.x, n.rect.right)
    if n.tag == "div" and not texts_in(n):
        n.tag = "button"
        n.attributes |= {"role": "button", "label": "Open"}
    return n
