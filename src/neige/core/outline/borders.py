"""Lines that belong to what they run along: under a heading or a link, over a card's foot. They become its border.

Nothing is moved on the page: gaps and lines become padding and border.
"""

from __future__ import annotations

import itertools
from dataclasses import replace

from neige.core.model import Fill, Node, Surface
from neige.core.model.geometry import edges, union
from neige.core.model.outline import HEADINGS
from neige.core.outline.words import node_text

THIN = 3.0  # px: a thicker line is a thing of its own
SAME = 3.0  # px by which the ends of a line under a text may differ from the text's
UNDER = 0.9  # of the text's size that a line of its own lies under it at most
NEAR = 36.0  # px between a line and the part that it is the upper side of
LINK_WORDS = 5
STRIP = (1.5, 14.0)  # px: how high the strip is that is the border of what it touches


def border_lines(root: Node) -> None:
    """Make borders of the lines under texts and over parts of the outline."""
    for n in root.walk():
        if n.kind != "block":
            continue
        kids = n.children
        for i in range(len(kids) - 1, -1, -1):
            line = kids[i]
            if line.kind != "rule" or line.rect.h > THIN or not line.surface or line.attributes:
                continue
            above = kids[i - 1] if i else None
            below = kids[i + 1] if i + 1 < len(kids) else None
            if above is not None and _is_under(line, above):
                _put_under(line, above)
            elif below is not None and _is_over(line, below):
                put_over(line, below)
            else:
                continue
            del kids[i]


def _is_under(line: Node, text: Node) -> bool:
    """Is a line a text's own: as long as its words, or right under a heading?"""
    if (
        text.kind != "text"
        or text.surface is not None
        or len(text.lines) > 2
        or text.attributes.get("bullet")
    ):
        return False
    own = abs(line.rect.x - text.rect.x) <= SAME and abs(line.rect.right - text.rect.right) <= SAME
    heads = text.tag in HEADINGS and line.rect.x <= text.rect.x + SAME and line.rect.w >= text.rect.w
    return line.gap <= UNDER * text.leading and bool((own and len(text.lines) == 1) or heads)


def _put_under(line: Node, text: Node) -> None:
    colour = line.surface.fill.colour if line.surface else "#000000"
    text.attributes["under"] = f"{max(0.0, line.gap):g} {line.rect.h:g} {colour}"
    if text.tag not in HEADINGS:
        text.width = "hug"
        if text.tag == "p" and len(node_text(text).split()) <= LINK_WORDS:
            text.tag = "a"
            text.reasons.append("a few words with a line of their own under them")
    elif line.width == "max":
        text.width = "max"
    text.rect = edges(text.rect.x, text.rect.y, max(text.rect.right, line.rect.right), line.rect.bottom)


def _is_over(line: Node, part: Node) -> bool:
    """Does a line run along the upper side of a part that has no box of its own?"""
    return (
        part.kind in ("block", "row", "grid")
        and part.tag in ("div", "ul", "section", "footer")
        and part.surface is None
        and not part.attributes.get("band")
        and part.width == "fill"
        and part.inset <= 0.5
        and line.inset <= 0.5
        and (line.width == "fill" or (line.width == "max" and part.rect.right <= line.rect.right + SAME))
        and 0 <= part.gap <= NEAR
        and not any(part.padding)
    )


def put_over(line: Node, part: Node) -> None:
    """Make a line the border of the part under it."""
    colour = line.surface.fill.colour if line.surface else "#000000"
    box = edges(line.rect.x, line.rect.y, line.rect.right, part.rect.bottom)
    part.surface = Surface(box, Fill(""), border=(line.rect.h, 0.0, 0.0, 0.0), border_colour=colour)
    part.padding = (part.gap, 0.0, 0.0, 0.0)
    if line.width == "max" and part.width == "fill":
        part.width = "max"
    part.rect, part.gap = box, line.gap


def join_strips(root: Node) -> None:
    """A low strip in a colour of its own right over a painted part, or under it, as wide as that, is its border."""
    for n in root.walk():
        if n.kind != "block":
            continue
        for a, b in reversed(list(itertools.pairwise(n.children))):
            part, strip = (b, a) if a.rect.h < b.rect.h else (a, b)
            if not (_is_strip(strip) and _takes_strip(part, strip)) or abs(b.rect.y - a.rect.bottom) > 1:
                continue
            s, paint = part.surface, strip.surface
            assert s is not None and paint is not None  # both tests ask for it
            high = strip.rect.h
            border = (high, 0.0, 0.0, 0.0) if strip is a else (0.0, 0.0, high, 0.0)
            if strip is a:
                part.gap = strip.gap
            part.rect = union([part.rect, strip.rect])
            part.surface = replace(s, rect=part.rect, border=border, border_colour=paint.fill.colour)
            n.children.remove(strip)


def _is_strip(n: Node) -> bool:
    s = n.surface
    bare = s is not None and not (n.children or s.fill.stops or s.shadow or s.radius or any(s.border))
    return bare and n.kind == "block" and n.tag == "div" and STRIP[0] <= n.rect.h <= STRIP[1]


def _takes_strip(part: Node, strip: Node) -> bool:
    s = part.surface
    plain = s is not None and not (s.fill.stops or s.shadow or s.radius or any(s.border) or s.picture >= 0)
    level = abs(part.rect.x - strip.rect.x) <= 1 and abs(part.rect.right - strip.rect.right) <= 1
    return plain and level and part.kind in ("block", "row", "grid") and part.rect.h >= 3 * strip.rect.h


def bare_fills(root: Node, ground: str) -> None:
    """What is painted in the colour it stands on is not painted, unless its shadow or its corners' border show; a table's cells
    have none, whatever lines are around them."""

    def visit(n: Node, behind: str) -> None:
        s = n.surface
        if s is not None and n is not root:
            plain = not s.fill.stops and s.picture < 0 and not s.shadow and not s.inner
            sides = sum(1 for b in s.border if b)
            pressed = n.tag == "button" or (n.tag == "a" and (sides != 1 or s.radius > 0))
            bare = plain and s.fill.colour == behind and n.kind != "field" and not pressed
            if bare and not sides:
                n.surface = None
            elif bare and (n.kind == "td" or (sides < 4 and (sides == 1 or not (s.radius or s.corners)))):
                n.surface = replace(s, fill=Fill(""))
            else:
                behind = "" if s.fill.stops or s.picture >= 0 else s.fill.colour or behind
        for c in n.children:
            visit(c, behind)

    visit(root, ground)
