"""The bar at a page's top: the head that it is part of, the navigation that it is, and the room around it."""

from __future__ import annotations

from neige.core.model import Node, Rect
from neige.core.model.geometry import union

BAR = 130.0  # px: the page's bar is no higher
HEAD_MENU = 160.0  # px from the page's top within which its menu ends
PICTURED = 2.0  # times as high as a bar what is below it in the page's head: a picture
WHOLE = 0.9  # of the page's head that its navigation takes, each way, if it is the head


def bar_of_head(root: Node) -> None:
    """A head that is a picture with nothing but a bar at its top: the bar is the navigation, as wide as the page."""
    head = next((c for c in root.children if c.tag == "header"), None)
    if head is None or head.surface is None:
        return
    whole = head.kind == "block" and len(head.children) == 1 and head.children[0].tag == "nav"
    row = head.children[0] if whole else head
    top, right, bottom, left = row.padding
    high = row.rect.h - top - bottom
    if row.kind not in ("row", "grid") or top > BAR or high > BAR or bottom < PICTURED * high:
        return
    low = Rect(row.rect.x, row.rect.y, row.rect.w, 2 * top + high)
    if whole:
        row.rect, row.padding = low, (top, right, top, left)
        head.padding = (*head.padding[:2], bottom - top, head.padding[3])
        return
    for n in head.walk():
        if n.tag == "nav":
            n.tag = "div"
            n.attributes.pop("label", None)
    bar = Node(
        head.kind, low, tag="nav", children=head.children, width="fill",
        padding=(top, right, top, left), columns=head.columns, column_gap=head.column_gap, cross=head.cross, align=head.align,
        attributes={"label": "Main", "band": "1"}, reasons=["the bar at the top of the page's head"],
    )  # fmt: skip
    head.kind, head.children, head.padding = "block", [bar], (0.0, 0.0, bottom - top, 0.0)
    head.columns, head.column_gap, head.cross, head.align = [], 0.0, "start", "start"


def bare_bar(root: Node) -> None:
    """A head that holds nothing but the page's navigation, which is as large, needs no box of its own: the bar is the navigation."""
    for holder in root.walk():
        head = next((c for c in holder.children if c.tag == "header"), None)
        nav = head.children[0] if head is not None and len(head.children) == 1 else None
        if head is None or nav is None or nav.tag != "nav" or head.kind != "block" or nav.surface is not None:
            continue
        if nav.rect.h < WHOLE * head.rect.h or nav.rect.w < WHOLE * head.rect.w or nav.rect.h > BAR:
            continue
        outer, inner = head.padding, nav.padding
        head.kind, head.tag, head.children, head.columns = nav.kind, "nav", nav.children, nav.columns
        head.column_gap, head.cross, head.align = nav.column_gap, nav.cross, nav.align
        head.padding = (outer[0] + inner[0], outer[1] + inner[1], outer[2] + inner[2], outer[3] + inner[3])
        head.attributes = head.attributes | nav.attributes
        head.reasons += nav.reasons
        return


def room_below(root: Node) -> None:
    """A navigation at the top of a column, without a box of its own, has as much room below as above."""
    for n in root.walk():
        for bar, after in zip(n.children[:1], n.children[1:2]):
            above = bar.rect.y - root.rect.y
            room = min(above, after.gap)
            if n.kind != "block" or bar.tag != "nav" or bar.surface or bar.kind not in ("row", "grid"):
                continue
            if bar.padding[2] or above > BAR / 2 or room < 1 or bar.rect.h > BAR:
                continue
            bar.padding = (*bar.padding[:2], room, bar.padding[3])
            bar.rect = Rect(bar.rect.x, bar.rect.y, bar.rect.w, bar.rect.h + room)
            after.gap -= room


def lift_head(root: Node) -> None:
    """The first band of the middle is the page's head if its menu is in it: a picture with the menu and the title on it."""
    main = next((c for c in root.children if c.tag == "main"), None)
    if main is None or main.kind != "block" or main.surface is not None or len(main.children) < 2:
        return
    first, rest = main.children[0], main.children[1:]
    menu = any(n.tag == "nav" and n.rect.bottom < HEAD_MENU for n in first.walk())
    if (
        any(c.tag == "header" for c in root.walk())
        or not menu
        or first.tag not in ("section", "div")
        or not first.attributes.get("band")
        or first.rect.w < 0.99 * root.rect.w
        or any(main.padding)
    ):
        return
    first.tag, first.gap = "header", main.gap
    first.reasons.append("the band at the page's top with its menu")
    main.children, main.gap = rest, rest[0].gap
    main.rect = union(c.rect for c in rest)
    rest[0].gap = 0.0
    root.children.insert(root.children.index(main), first)
