"""The page's foot, where it has no band of its own: the box or the small texts around its copyright line."""

from __future__ import annotations

from neige.core.model import Node, Reading, Rect
from neige.core.model.geometry import union
from neige.core.outline.landmarks import link_columns
from neige.core.outline.words import COPYRIGHT, TURN, body_style, texts_in, words_of

REASON = "small texts at the page's end"
LOW = 0.55  # of the page's height below which its foot begins
FOOT = 0.35  # of the page's height that its foot has at most
FOOT_GAP = 24.0  # px above a foot that has no box of its own
FOOT_WORDS = 90  # a foot without a box of its own says no more
FOOT_PICTURE = 48.0  # px: a higher picture is none of a foot's
MAPPED = 2  # columns of links
QUIET = 30  # words of a foot that has no copyright line,
LINE_HIGH, LINE_GAP = 72.0, 12.0  # px that it is high at most, and stands below the rest at least
RULE_ABOVE = 40.0  # px above it at most that a rule is which parts it from what the page says
ENDLESS = 4.0  # times the room above a foot's words, or more, below them: it is not the foot's
AT_ENDS = 0.85  # of the column's width that it takes, where no rule does


def find_foot(root: Node, reading: Reading) -> None:
    """Without a band of its own the page's foot is the largest low box round its copyright line that stands at the end, or
    what stands at the end of the page around that line, below the widest gap."""
    if any(n.tag == "footer" for n in root.walk()):
        return
    height = root.rect.h

    def path(n: Node) -> list[Node]:
        """The way down to the last text that is a copyright line."""
        for c in reversed(n.children):
            if c.kind == "text" and COPYRIGHT.search(" ".join(words_of(c))):
                return [n, c]
            below = path(c)
            if below:
                return [n, *below]
        return []

    way = path(root)
    if len(way) > 2 and way[2].kind != "text" and _part_foot(root, way, reading):
        return
    column = next((n for n in way if n.tag == "main"), None)
    if column is not None and column not in root.children and _part_foot(root, way, reading):
        return
    for n in way[1:]:
        low = n.rect.y > LOW * height and n.rect.h < FOOT * height
        if (
            low
            and n.tag in ("div", "section", "p")
            and not any(d.tag in ("h1", "main", "table") for d in n.walk())
        ):
            if n.kind == "text":
                break
            n.tag = "footer"
            n.reasons.append("the box of the copyright line at the page's end")
            return
    if _part_foot(root, way, reading) or way:
        return
    column = next((n for n in root.walk() if n.tag == "main"), None)
    if column is None or not column.children or not _quiet_line(column, root, reading):
        return
    last = column.children[-1]
    if last.kind == "block" and last.attributes.get("band"):
        last.tag = "footer"
        last.reasons.append("a band with a line of small text at the page's end")
    else:
        _part_foot(root, [root, column, column.children[-1]], reading, LINE_GAP)


def trim_foot(root: Node) -> None:
    """A foot's ground that goes on down to the page's end, long after its words, is the page's: the foot ends as far below its
    words as it begins above them."""
    for n in [n for n in root.walk() if n.tag == "footer" and n.surface and n.kind in ("row", "grid")]:
        top, right, bottom, left = n.padding
        own = max(top, LINE_GAP)
        if n.rect.bottom < root.rect.bottom - 1 or bottom < max(ENDLESS * own, LINE_HIGH):
            continue
        foot = Node(
            n.kind, Rect(n.rect.x, n.rect.y, n.rect.w, n.rect.h - bottom + own), tag="footer", children=n.children,
            padding=(top, right, own, left), columns=n.columns, column_gap=n.column_gap, cross=n.cross, align=n.align,
            width="fill", reasons=n.reasons,
        )  # fmt: skip
        n.kind, n.tag, n.children, n.reasons = "block", "div", [foot], ["the ground below the page's foot"]
        n.padding, n.columns, n.column_gap, n.cross, n.align = (0.0, 0.0, bottom - own, 0.0), [], 0.0, "start", "start"  # fmt: skip


def _quiet_line(main: Node, root: Node, reading: Reading) -> bool:
    """Is the last of the page's middle a line of small text under a rule, or from one end to the other?"""
    last, before = main.children[-1], main.children[:-1]
    if not before or last.rect.h > LINE_HIGH or last.rect.y < LOW * root.rect.h:
        return False
    texts = [d for d in last.walk() if d.kind == "text"]
    base = reading.styles[body_style(reading)].size
    words = sum(len(words_of(t)) for t in texts)
    if not 0 < words <= QUIET or any(reading.styles[t.style].size > 1.1 * base for t in texts):
        return False
    tail = before[-1]
    while tail.children:
        tail = tail.children[-1]
    ruled = tail.kind == "rule" and last.rect.y - tail.rect.bottom <= RULE_ABOVE
    wide = max(t.rect.right for t in texts) - min(t.rect.x for t in texts) >= AT_ENDS * main.rect.w
    return (ruled and tail.rect.w >= AT_ENDS * main.rect.w) or (wide and len(texts) > 1)


def _part_foot(root: Node, way: list[Node], reading: Reading, least: float = FOOT_GAP) -> bool:
    """Part the last small texts of the page's middle, the copyright line among them, from what is above the gap over them;
    the room below them is above them as well, if it is there."""
    main = next((n for n in way if n.tag == "main"), None)
    if main is None or main.kind != "block" or main.surface is not None:
        return False
    inside = main is not root.children[-1]
    if inside and main in root.children:
        return False
    column = main if inside or not main.children else _last_band(main, way)
    kids = column.children
    at = next((i for i, c in enumerate(kids) if c in way), 0)
    base = reading.styles[body_style(reading)].size

    def small(c: Node) -> bool:
        return c.kind != "table" and not any(
            d.kind in ("field", "table")
            or (d.surface is not None and d.kind != "rule")
            or (d.kind == "image" and d.rect.h > FOOT_PICTURE)
            or (d.kind == "text" and reading.styles[d.style].size > 1.2 * base)
            for d in c.walk()
        )

    first = at
    while first > 1 and kids[first].gap < least and small(kids[first - 1]):
        first -= 1
    if first > 1:
        parted = kids[first - 1].kind == "rule" and first > 2
        lists = kids[first - 1 - parted]  # where the site's pages are listed
        high = kids[-1].rect.bottom - lists.rect.y <= FOOT * root.rect.h
        if (
            link_columns(lists) >= MAPPED
            and high
            and lists.rect.y >= LOW * root.rect.h
            and lists.gap >= least
        ):
            first -= 1 + parted
    said = [c for c in kids[first:] if link_columns(c) < MAPPED]
    rule = first - (kids[first].kind != "rule")
    if rule > 1 and kids[rule].kind == "rule" and _turns_pages(kids[rule - 1]):
        first = rule - 1
    part = kids[first:]
    if (
        not first
        or kids[first].gap < least
        or not all(map(small, said))
        or sum(len(words_of(c)) for c in part) > FOOT_WORDS
    ):
        return False
    box = union(c.rect for c in part)
    if box.y < LOW * root.rect.h or box.h > FOOT * root.rect.h:
        return False
    if inside:
        _last_of(main, part)
        return True
    x, w = column.rect.x, column.rect.w
    _, right, below, left = column.padding
    if all(c.kind == "text" and c.align == "center" for c in part):
        right = left = 0.0  # in the middle of the page, whatever stands above
    foot = Node(
        "block", Rect(x, box.y, w, column.rect.bottom - box.y), tag="footer", children=part, width="fill", gap=part[0].gap,
        padding=(0.0, right, below, left),
        attributes={k: v for k, v in column.attributes.items() if k in ("band", "container")},
        reasons=[REASON],
    )  # fmt: skip
    _share_room(foot, box)
    part[0].gap = 0.0
    column.children = kids[:first]
    for n in (column, main):
        n.rect = Rect(n.rect.x, n.rect.y, n.rect.w, kids[first - 1].rect.bottom - n.rect.y)
        n.padding = (*n.padding[:2], 0.0, n.padding[3])
    root.children.append(foot)
    return True


def _last_band(main: Node, way: list[Node]) -> Node:
    """The page's middle, or its last band if that is only painted with the page's ground and the foot's words are in it."""
    last = main.children[-1]
    band = (
        last.kind == "block"
        and last.surface is None
        and last.attributes.get("band")
        and len(last.children) > 1
    )
    return last if band and last in way and not any(main.padding) else main


def _turns_pages(n: Node) -> bool:
    """Does a row lead to the page before and the one after?"""
    return n.kind == "row" and any(TURN.fullmatch(" ".join(words_of(t))) for t in texts_in(n))


def _last_of(main: Node, part: list[Node]) -> None:
    """Put the last parts of a page's middle that stands in a column into a foot at its end."""
    top, right, bottom, left = main.padding
    box = union(c.rect for c in part)
    x, w = main.rect.x + left, main.rect.w - left - right
    below = main.rect.bottom - box.bottom
    own = below if below <= 2 * max(part[0].gap, LINE_GAP) else part[0].gap  # what else is free is the page's
    foot = Node(
        "block", Rect(x, box.y, w, box.h + own), tag="footer", children=part, width="fill", gap=part[0].gap,
        padding=(0.0, 0.0, own, 0.0), reasons=[REASON],
    )  # fmt: skip
    _share_room(foot, box)
    part[0].gap = 0.0
    main.padding = (top, right, max(0.0, bottom - own), left)
    main.children = [*main.children[: -len(part)], foot]


def _share_room(foot: Node, box: Rect) -> None:
    """The room below a foot's texts is above them as well, if it is there."""
    room = min(foot.gap, foot.padding[2])
    foot.gap, foot.padding = foot.gap - room, (room, *foot.padding[1:])
    foot.rect = Rect(foot.rect.x, box.y - room, foot.rect.w, foot.rect.h + room)
