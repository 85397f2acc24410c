"""What is asked for: a word over a box names it, and pairs of them side by side are columns."""

from __future__ import annotations

from neige.core.model import Node, Reading
from neige.core.model.geometry import union
from neige.core.outline.fields import FIELD_HEIGHT, FIELD_WORDS, as_field
from neige.core.outline.words import node_text, texts_in
from neige.core.reading.colour import contrast

OVER = (-3.0, 16.0)  # px from the end of a name to its box,
EDGE = 2.5  # and by which it may begin elsewhere
BEFORE = 180.0  # px between a name and the field after it at most
NAME_WORDS, NAME_SIZE = 4, 1.15  # words of a name at most, and its size in parts of what is filled in
PAD = (4.0, 26.0)  # px before what is filled in
TEXTAREA = 240.0  # px: what is asked for in several lines is no higher
PALE = 1.35  # contrast with white, of what is filled in
LEVEL = 2.0  # px by which what stands side by side may differ
LEAST = 2  # boxes alike, each with a name


def find_asked(content: list[Node], reading: Reading) -> list[Node]:
    """Make boxes fields that look alike and have a short name each right above, of which one is a usual one; they need no frame.
    Then every field in a row or a column of fields goes with its name. `content` is one holder's."""
    names = {id(n): _name_over(n, content, reading) for n in content if _is_filled_in(n)}
    named = [(n, name) for n in content if (name := names.get(id(n))) is not None]
    fields: dict[int, Node] = {}
    for n, name in named:
        alike = [(o, other) for o, other in named if _alike(n, o) and other.style == name.style]
        usual = any(word in node_text(other).lower() for _, other in alike for word in FIELD_WORDS)
        if len(alike) >= LEAST and usual:
            fields[id(n)] = as_field(n, node_text(n), reading)
    for n in content:
        like = any(_painted_alike(n, f) and f.rect.w >= n.rect.w / 4 for f in fields.values())
        if (
            like
            and id(n) not in fields
            and n.tag == "div"
            and _has_room(n)
            and _name_over(n, content, reading)
        ):
            fields[id(n)] = as_field(n, node_text(n), reading)
    return _with_names([fields.get(id(n), n) for n in content], reading)


def _is_filled_in(n: Node) -> bool:
    """Is this a pale box as high as a field, with one short text at its beginning?"""
    texts, s = texts_in(n), n.surface
    if s is None or s.picture >= 0 or n.kind not in ("block", "row") or n.tag != "div" or len(texts) != 1:
        return False
    low, high = FIELD_HEIGHT
    t = texts[0]
    start = t.rect.x - n.rect.x
    beginning = PAD[0] <= start <= PAD[1] and n.rect.right - t.rect.right >= 0.5 * start
    one = len(t.lines) == 1 and len(n.walk()) == 2
    return (
        one
        and beginning
        and low <= n.rect.h <= high
        and n.rect.w >= 2 * n.rect.h
        and contrast(s.fill.colour, "#ffffff") < PALE
    )


def _has_room(n: Node) -> bool:
    """Is nothing in a box but a text, or nothing at all?"""
    low, _ = FIELD_HEIGHT
    return low <= n.rect.h <= TEXTAREA and len(n.walk()) <= 2 and all(c.kind == "text" for c in n.children)


def _name_over(n: Node, content: list[Node], reading: Reading) -> Node | None:
    """The short line right above a box, that begins where the box does and is no larger than what is in it."""
    size = reading.styles[texts_in(n)[0].style].size if texts_in(n) else reading.styles[n.style].size
    for t in content:
        if (
            t.kind == "text"
            and len(t.lines) == 1
            and OVER[0] <= n.rect.y - t.rect.bottom <= OVER[1]
            and abs(t.rect.x - n.rect.x) <= EDGE
            and len(node_text(t).split()) <= NAME_WORDS
            and reading.styles[t.style].size <= NAME_SIZE * size
        ):
            return t
    return None


def _alike(a: Node, b: Node) -> bool:
    return _painted_alike(a, b) and abs(a.rect.h - b.rect.h) <= LEVEL


def _painted_alike(a: Node, b: Node) -> bool:
    s, t = a.surface, b.surface
    if s is None or t is None:
        return False
    return (s.fill.colour, s.border) == (t.fill.colour, t.border) and abs(s.radius - t.radius) <= 1


def _name_before(n: Node, content: list[Node]) -> Node | None:
    """The short line before a field, level with it, with nothing between the two."""
    level = [c for c in content if c is not n and c.rect.bottom > n.rect.y and c.rect.y < n.rect.bottom]
    before = max((c for c in level if c.rect.right <= n.rect.x), key=lambda c: c.rect.right, default=None)
    if before is None or before.kind != "text" or n.rect.x - before.rect.right > BEFORE:
        return None
    short = len(before.lines) == 1 and len(node_text(before).split()) <= NAME_WORDS
    within = n.rect.y - LEVEL <= before.rect.y and before.rect.bottom <= n.rect.bottom + LEVEL
    return before if short and within else None


def _with_names(content: list[Node], reading: Reading) -> list[Node]:
    """Fields side by side, each with its name over it, are columns of a name and a field; under one another, each with its name
    before it, rows."""
    fields = [
        n for n in content if n.kind == "field" and n.attributes.get("type") not in ("checkbox", "radio")
    ]
    over = [(f, name) for f in fields if (name := _name_over(f, content, reading)) is not None]
    pairs: dict[int, tuple[str, Node]] = {}
    for f, name in over:
        if any(
            g is not f and abs(g.rect.y - f.rect.y) <= LEVEL and abs(other.rect.y - name.rect.y) <= LEVEL
            for g, other in over
        ):
            pairs[id(f)] = "block", name
    over_all = {id(f) for f, _ in over}
    before = [(f, t) for f in fields if id(f) not in over_all and (t := _name_before(f, content)) is not None]
    for f, name in before:
        if any(
            g is not f and abs(g.rect.x - f.rect.x) <= LEVEL and abs(other.rect.x - name.rect.x) <= LEVEL
            for g, other in before
        ):
            pairs[id(f)] = "row", name
    taken = {id(name) for _, name in pairs.values()}
    out = []
    for n in content:
        if id(n) in pairs:
            kind, name = pairs[id(n)]
            n = Node(kind, union((name.rect, n.rect)), children=[name, n], attributes={"asks": "1"})
        if id(n) not in taken:
            out.append(n)
    return out
