"""The page's foot, where it has no band of its own: the box or the small texts around its copyright line."""

from __future__ import annotations

from neige.core.model import Node, Reading, Rect
from neige.core.model.geometry import union
from neige.core.outline.words import COPYRIGHT, body_style, words_of

LOW = 0.55  # of the page's height below which its foot begins
FOOT = 0.35  # of the page's height that its foot has at most
FOOT_GAP = 24.0  # px above a foot that has no box of its own
FOOT_WORDS = 90  # a foot without a box of its own says no more
FOOT_PICTURE = 48.0  # px: a higher picture is none of a foot's


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
    _part_foot(root, way, reading)


def _part_foot(root: Node, way: list[Node], reading: Reading) -> bool:
    """Part the last small texts of the page's middle, the copyright line among them, from what is above the gap over them;
    the room below them is above them as well, if it is there."""
    main = root.children[-1] if root.children else None
    if (
        main is None
        or main.tag != "main"
        or main.kind != "block"
        or main not in way
        or main.surface is not None
    ):
        return False
    kids = main.children
    at = next((i for i, c in enumerate(kids) if c in way), 0)
    base = reading.styles[body_style(reading)].size

    def small(c: Node) -> bool:
        return c.kind != "table" and not any(
            d.kind in ("field", "table")
            or d.surface is not None
            or (d.kind == "image" and d.rect.h > FOOT_PICTURE)
            or (d.kind == "text" and reading.styles[d.style].size > 1.2 * base)
            for d in c.walk()
        )

    first = at
    while first > 1 and kids[first].gap < FOOT_GAP and small(kids[first - 1]):
        first -= 1
    part = kids[first:]
    if (
        not first
        or kids[first].gap < FOOT_GAP
        or not all(map(small, part))
        or sum(len(words_of(c)) for c in part) > FOOT_WORDS
    ):
        return False
    box = union(c.rect for c in part)
    if box.y < LOW * root.rect.h or box.h > FOOT * root.rect.h:
        return False
    x, w = main.rect.x, main.rect.w
    foot = Node(
        "block", Rect(x, box.y, w, main.rect.bottom - box.y), tag="footer", children=part, width="fill", gap=part[0].gap,
        padding=(0.0, main.padding[1], main.padding[2], main.padding[3]),
        attributes={k: v for k, v in main.attributes.items() if k in ("band", "container")},
        reasons=["small texts around the copyright line at the page's end"],
    )  # fmt: skip
    room = min(foot.gap, foot.padding[2])
    foot.gap, foot.padding = foot.gap - room, (room, *foot.padding[1:])
    foot.rect = Rect(x, box.y - room, w, foot.rect.h + room)
    part[0].gap = 0.0
    main.children = kids[:first]
    main.rect = Rect(x, main.rect.y, w, kids[first - 1].rect.bottom - main.rect.y)
    main.padding = (*main.padding[:2], 0.0, main.padding[3])
    root.children.append(foot)
    return True
