"""Side columns: a manual's contents beside its text. The text's column goes on below the other; it is the page's middle, the
other a navigation."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Reading
from neige.core.model.geometry import edges, union
from neige.core.outline.words import COPYRIGHT, node_text, texts_in

CONTENTS, ON_PAGE = "Contents", "On this page"
BAR = 160.0  # px from the top that a page's head ends at
EDGE = 4.0  # px by which what goes on may begin before its column
WIDER = 1.6  # times as wide as any other is a text's column
MIDDLE = 8.0  # px by which what stands in the page's middle may be off it
GOES_ON = 120.0  # px that it goes on at least
RUNNING = 3  # parts that a text's column has at least
NARROW = 0.4  # of the columns' width that one at the side has at most
ENTRY = 7  # words of an entry of a contents list at most
ENTRIES, MOSTLY = 4, 0.8  # of them in such a column; of its texts that they are
PROSE, SENTENCES = 8, 3  # words of a sentence; so many make a text
TALL = 0.6  # of the page's middle that its columns take up
PICTURE = 48.0  # px: of larger ones a manual has no more than its mark,
MARK = 160.0  # so far from the column's top at most


def extend_columns(parts: list[Node]) -> list[Node]:
    """The parts of a page, top to bottom, with those that follow on columns and stand in the widest of them put into it."""
    out: list[Node] = []
    left = list(parts)
    while left:
        n = left.pop(0)
        out.append(n)
        wide = _text_column(n)
        if wide is None:
            continue
        at = n.children.index(wide)
        low = max((c.rect.right for c in n.children[:at]), default=0.0)
        high = min((c.rect.x for c in n.children[at + 1 :]), default=float("inf"))
        x = low if at else wide.rect.x - EDGE
        count = next((i for i, p in enumerate(left) if p.rect.x < x or p.rect.right > high), len(left))
        while count and _is_page_foot(left[count - 1], n, wide):
            count -= 1
        more, rest = left[:count], left[count:]
        if not more or more[-1].rect.bottom - wide.rect.bottom < GOES_ON:
            continue
        wide.children += more
        wide.rect = union([wide.rect, *(p.rect for p in more)])
        n.rect = union([n.rect, wide.rect])
        left = rest
    return out


def _is_page_foot(p: Node, n: Node, wide: Node) -> bool:
    """Does a part stand in the middle of all columns, rather than of the widest, or say whose page it is?"""
    middle = abs(p.rect.cx - n.rect.cx) <= MIDDLE < abs(p.rect.cx - wide.rect.cx)
    return middle or bool(COPYRIGHT.search(node_text(p)))


def _text_column(n: Node) -> Node | None:
    """The column of running text among columns without a box around them."""
    kids = n.children
    if n.kind not in ("row", "grid") or n.surface is not None or not 2 <= len(kids) <= 3:
        return None
    wide = max(kids, key=lambda c: c.rect.w)
    others = [c for c in kids if c is not wide]
    plain = wide.kind == "block" and wide.surface is None and len(wide.children) >= RUNNING
    return wide if plain and all(wide.rect.w >= WIDER * c.rect.w for c in others) else None


def name_columns(main: Node, reading: Reading) -> list[Node]:
    """A page's middle; where it is a text beside its contents, its bands: the text is the middle and the contents are a navigation."""
    inner = [main, *main.children, *(d for c in main.children for d in c.children)]
    grid = next((c for c in inner if c.kind in ("row", "grid") and c.rect.h >= TALL * main.rect.h), None)
    if grid is None or len(grid.children) < 2 or (grid is main and main.surface is not None):
        return [main]
    wide = max(grid.children, key=lambda c: c.rect.w)
    sides = [c for c in grid.children if c is not wide and c.kind != "rule"]
    beside = bool(sides) and all(wide.rect.w >= WIDER * c.rect.w and _is_contents(c, grid) for c in sides)
    texts = texts_in(wide)
    prose = sum(len(node_text(t).split()) >= PROSE for t in texts) >= SENTENCES
    largest = max((reading.styles[t.style].size for t in texts_in(main)), default=0.0)
    titled = any(
        reading.styles[t.style].size == largest for t in texts
    )  # the page's title stands over its text
    if wide.kind != "block" or not (beside and prose and titled):
        return [main]
    main.tag, wide.tag = "div", "main"
    wide.attributes["article"] = "1"
    wide.reasons.append("a text beside its contents")
    for i, c in enumerate(sides):
        c.tag = "nav"
        c.attributes["label"] = CONTENTS if i == 0 else ON_PAGE
        c.reasons.append("short lines beside a text")
    if grid is main or grid in main.children or not main.children[0].attributes.get("band"):
        return [main]
    for band in main.children:
        band.tag = "div"
    first = main.children[0]
    first.gap += main.gap
    if first.rect.bottom <= min(BAR, wide.rect.y):
        first.tag = "header"
    return main.children


def _is_contents(side: Node, grid: Node) -> bool:
    texts = texts_in(side)
    short = [t for t in texts if len(node_text(t).split()) <= ENTRY]
    low = side.rect.y + MARK
    pictures = any(
        d.kind == "image" and max(d.rect.w, d.rect.h) > PICTURE and d.rect.y > low for d in side.walk()
    )
    pressed = sum(d.attributes.get("role") == "button" for d in side.walk())
    fields = sum(d.kind == "field" for d in side.walk())
    cards = sum(
        c.surface is not None and all(c.surface.border) and len(texts_in(c)) > 1 for c in side.children
    )
    return (
        side.kind in ("block", "grid", "row")
        and side.rect.w <= NARROW * grid.rect.w
        and len(short) >= max(ENTRIES, MOSTLY * len(texts))
        and not pictures
        and pressed <= fields
        and cards < 2  # contents are one list
    )


def part_articles(root: Node) -> None:
    """A text beside its contents is divided where its headings of the second level are; what its contents list leads there."""
    for n in root.walk():
        if n.tag == "nav" and n.attributes.get("label") in (CONTENTS, ON_PAGE):
            for t in texts_in(n):
                if t.tag == "p" and len(node_text(t).split()) <= ENTRY and node_text(t)[-1:] != ":":
                    t.tag = "a"
            for holder in n.walk():
                _list_entries(holder)
        if not n.attributes.pop("article", ""):
            continue
        heads = [i for i, c in enumerate(n.children) if c.kind == "text" and c.tag == "h2"]
        if not heads:
            continue
        x, right = n.rect.x, n.rect.right
        if n.surface is not None:
            x, right = x + n.padding[3] + n.surface.border[3], right - n.padding[1] - n.surface.border[1]
        else:
            x, right = x + n.padding[3], right - n.padding[1]
        out = n.children[: heads[0]]
        end = len(n.children) - (n.children[-1].tag == "footer")
        for a, b in zip(heads, [*heads[1:], end]):
            part = n.children[a:b]
            section = Node(
                "block", edges(x, part[0].rect.y, right, part[-1].rect.bottom), tag="section", children=part, width="fill", gap=part[0].gap,
                reasons=["a heading and what follows it"],
            )  # fmt: skip
            part[0].gap = 0.0
            out.append(section)
        n.children = [*out, *n.children[end:]]


def _list_entries(holder: Node) -> None:
    """Put the entries that follow on each other in a block, all with bullets or all without, into lists."""
    if holder.kind != "block" or holder.attributes.get("list"):
        return
    out: list[Node] = []
    for (entry, bullet), run in itertools.groupby(
        holder.children, key=lambda c: (c.kind == "text" and c.tag == "a", bool(c.attributes.get("bullet")))
    ):
        part = list(run)
        if not entry or len(part) < 2 or len(part) == len(holder.children):
            out += part
            continue
        box = Node("block", union(c.rect for c in part), children=part, width="fill", gap=part[0].gap)
        box.attributes["list"] = "bullets" if bullet else "1"
        part[0].gap = 0.0
        out.append(box)
    holder.children = out
