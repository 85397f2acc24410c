"""The page's head, menus, middle, sections and foot, told from its bands."""

from __future__ import annotations

import re

from neige.core.model import Node, Reading
from neige.core.model.geometry import union
from neige.core.outline.columns import name_columns
from neige.core.outline.menus import as_menu, set_alike
from neige.core.outline.stacks import as_link
from neige.core.outline.targets import give_room
from neige.core.outline.top_bar import BAR
from neige.core.outline.words import COPYRIGHT, body_style, heading_styles, node_text, texts_in

MOSTLY = 0.72  # of the page's middle that is no section but the middle itself
NARROW_PAGE = 600.0  # px
SIGN_SIZE = 36.0  # px: a name in the page's bar is no larger
THIN = 3.0  # px: a lower band is a line
MARK_GAP = 24.0  # px between a mark and the name it stands before
SITE_MAP = 420.0  # px that a footer's columns of links are high at most
APART = 1.15  # times as large as the entries beside it: a wordmark
HALF = 0.38  # of the page's width from which a column is no column at its side
NOTICE = 64.0  # px: what stands over the page's bar is no higher


def _short_texts(node: Node) -> list[Node]:
    return [t for t in texts_in(node) if len(t.lines) == 1 and len(node_text(t).split()) <= 3]


def find_landmarks(root: Node, reading: Reading) -> None:
    """Tag the page's bands, or the columns of a page in columns: header, nav, main with its sections, footer."""
    bands = root.children
    if len(bands) == 1 and bands[0].attributes.get("page"):
        page = bands[0]
        page.attributes["name"] = "page"
        halves = [c for c in page.children if c.rect.w > HALF * root.rect.w]
        if (
            len(halves) > 1
        ):  # a page in two halves has no column at its side: the half to fill in is its middle
            asked = [sum(d.kind == "field" for d in c.walk()) for c in halves]
            halves[asked.index(max(asked))].tag = "main"
        for col in page.children:
            if len(halves) > 1 and col in halves:
                continue
            if col.attributes.get("edge") and len(_short_texts(col)) >= 2:
                col.tag = "nav" if len(_short_texts(col)) >= 0.6 * max(1, len(texts_in(col))) else "aside"
                col.attributes["label"] = "Sections"
            elif col.rect.w > 0.5 * root.rect.w:
                col.tag = "main"
                _without_whole(col)
                for c in col.children:
                    heads = any(t.style in heading_styles(reading) for t in texts_in(c))
                    if c.attributes.get("band") and c.surface is None and heads:
                        c.tag = "section"
                if col.children:
                    first, last = col.children[0], col.children[-1]
                    if (
                        first.rect.bottom < 140
                        and first.kind in ("row", "grid", "block")
                        and texts_in(first)
                        and len(col.children) > 2
                        and first.surface
                    ):
                        first.tag = "header"
                    ends = last.surface and last.rect.w > 0.9 * col.rect.w and not last.surface.radius
                    if ends and _is_foot(last, root, reading):
                        last.tag = "footer"
        for col in [c for c in page.children if c.tag == "main"]:
            name_columns(col, reading)
        return
    header: list[Node] = []
    for band in bands[:2]:
        # of a picture with nothing but a bar on it, the bar tells
        held = union(c.rect for c in band.children) if band.surface and band.children else band.rect
        if held.bottom < 260 and held.h < 190 and not header and _is_head(band, reading):
            header.append(band)
            if (
                band is bands[0]
                and len(bands) > 2
                and bands[1].rect.bottom < 1.5 * BAR
                and _is_menu(bands[1], reading)
            ):
                header.append(bands[1])
    footer: list[Node] = []
    if len(bands) > 1 and bands[-1] not in header and _is_foot(bands[-1], root, reading):
        footer.append(bands[-1])
        between = [b for b in bands[-2:-1] if b.rect.h <= THIN]
        above = next((b for b in reversed(bands[:-1]) if b.rect.h > THIN), None)
        if (
            above is not None
            and above not in header
            and above is not bands[0]
            and _is_site_map(above, bands[-1])
        ):
            footer = [above, *between, bands[-1]]
    above_head = bands[0] if header and header[0] is not bands[0] and bands[0].rect.h <= NOTICE else None
    middle = [b for b in bands if b not in header and b not in footer and b is not above_head]
    out: list[Node] = []
    for h in header:
        if h is not header[0]:  # under the header a menu of its own
            as_menu(h, reading, "Sections")
        else:
            h.tag = "header"
        out.append(h)
    if middle:
        for m in middle:
            m.tag = (
                "section"
                if len(middle) > 1 and any(t.style in heading_styles(reading) for t in texts_in(m))
                else "div"
            )
        height = sum(m.rect.h for m in middle)
        for m in middle:
            if m.tag == "section" and m.rect.h > MOSTLY * height:
                m.tag = "div"  # nearly all of the page is no section of it
        gap = middle[0].rect.y - (header[-1].rect.bottom if header else 0.0)
        if len(middle) == 1 and middle[0].surface is None and middle[0].kind == "block":
            main = middle[0]  # it needs no box of its own inside
            main.tag = "main"
        else:
            main = Node("block", union(m.rect for m in middle), tag="main", children=middle, width="fill")
            for a, m in zip([None, *middle], middle):
                m.gap = m.rect.y - a.rect.bottom if a else 0.0
        main.gap = gap
        out += name_columns(main, reading)
    if len(footer) > 1:
        foot = Node("block", union(f.rect for f in footer), tag="footer", children=footer, width="fill")
        foot.gap = footer[0].rect.y - (middle[-1].rect.bottom if middle else 0.0)
        footer[0].gap = 0.0
        out.append(foot)
    elif footer:
        footer[0].tag = "footer"
        out.append(footer[0])
    if above_head is not None:  # a notice over the page's bar is part of its head
        bar = header[0]
        bar.tag = "div"
        bar.gap = bar.rect.y - above_head.rect.bottom
        out[0] = Node(
            "block",
            union([above_head.rect, bar.rect]),
            tag="header",
            children=[above_head, bar],
            width="fill",
        )
    root.children = out
    for area in header[:1]:
        _navigation(area, reading, "Main")
        _tools(area)


def _without_whole(col: Node) -> None:
    """A band that is nearly all of its column is no part of it: what is in it is the column's."""
    out: list[Node] = []
    for c in col.children:
        whole = (
            c.kind == "block" and c.surface is None and c.rect.h > MOSTLY * col.rect.h and not any(c.padding)
        )
        if whole and c.attributes.get("band") and len(c.children) > 1:
            c.children[0].gap += c.gap
            out += c.children
        else:
            out.append(c)
    col.children = out


def _is_menu(band: Node, reading: Reading) -> bool:
    """A low band of nothing but short texts of the usual size beside each other."""
    texts = texts_in(band)
    base = reading.styles[body_style(reading)].size
    brief = all(
        len(t.lines) == 1 and len(node_text(t).split()) <= 3 and reading.styles[t.style].size <= 1.35 * base
        for t in texts
    )
    level = (
        max((t.rect.y for t in texts), default=0.0) - min((t.rect.y for t in texts), default=0.0)
        <= 0.5 * band.rect.h
    )
    return len(texts) >= 4 and brief and level and band.rect.h <= 0.7 * BAR


def _is_site_map(band: Node, foot: Node) -> bool:
    """Does a band above the foot belong to it: many short texts on the same ground, or columns of them?"""
    if band.rect.h > SITE_MAP:
        return False
    short = len(_short_texts(band))
    if band.surface and foot.surface and short >= 4 and band.surface.fill.colour == foot.surface.fill.colour:
        return True
    return link_columns(band) >= 2 and not any(
        t.attributes.get("head") == "1" and len(t.lines) > 1 for t in texts_in(band)
    )


def link_columns(part: Node) -> int:
    """How many columns of short lines under one another, as where a site's pages are listed, a part has."""
    return sum(
        1
        for n in part.walk()
        if n.kind == "block" and len(n.children) >= 3 and sum(map(_nav_item, n.children)) >= 0.75 * len(n.children)
        and all(c.kind == "text" for c in n.children)
    )  # fmt: skip


def _is_head(band: Node, reading: Reading) -> bool:
    short = _short_texts(band)
    texts = texts_in(band)
    if band.rect.w < NARROW_PAGE:  # words in a box break there
        boxed = {id(t) for c in band.walk() if c.surface is not None and c is not band for t in texts_in(c)}
        texts = [t for t in texts if len(t.lines) == 1 or id(t) not in boxed]
    tools = sum(1 for n in band.walk() if n.kind in ("field", "image"))
    enough = len(short) >= 2 or (len(short) == 1 and tools >= 2 and band.rect.h < 110)
    # nothing but the mark and the name, right beside it unless the screen is small
    marks = [n.rect for n in band.walk() if n.kind == "image"]
    signed = len(short) == 1 and any(0 <= short[0].rect.x - m.right <= MARK_GAP for m in marks)
    narrow = band.rect.w < NARROW_PAGE
    named = len(short) == 1 and tools >= 1 and band.rect.y < 8 and band.rect.h < 110 and (narrow or signed)
    asks = (
        len(short) == 1 and any(n.kind == "field" for n in band.walk()) and band.rect.y < 8 and band.surface
    )
    # a strip across the top with nothing but the name in it
    sign = (
        len(texts) == len(short) == 1 and band.rect.y < 1 and band.rect.h < BAR and bool(band.surface)
        and band.rect.x < 1 and reading.styles[short[0].style].size <= SIGN_SIZE
    )  # fmt: skip
    enough = bool(enough or (asks and band.rect.h < 110) or sign) or (
        named and len(node_text(short[0]).split()) <= 2
    )
    return enough and len(short) >= 0.7 * len(texts) and all(len(t.lines) == 1 for t in texts)


def _is_foot(band: Node, root: Node, reading: Reading) -> bool:
    texts = texts_in(band)
    if any(n.kind == "table" for n in band.walk()):
        return False
    words = node_text(band)
    marked = bool(re.search(r"©|\(c\)|copyright|all rights|privacy|terms", words, re.I))
    high_up = band.rect.bottom < root.rect.h - 60 and band.rect.y < 0.6 * root.rect.h
    if not texts or (high_up and not COPYRIGHT.search(words)):
        return False
    base = reading.styles[body_style(reading)].size
    small = all(reading.styles[t.style].size <= 1.35 * base for t in texts)
    high = band.rect.h if band.surface or not band.children else union(c.rect for c in band.children).h
    at_end = band.rect.bottom > root.rect.h - 60 and high < 0.3 * root.rect.h
    mapped = link_columns(band) >= 2 and len(_short_texts(band)) >= 0.8 * len(texts)
    return (
        (marked and high < 0.45 * root.rect.h)
        or (mapped and at_end)
        or (
            small
            and band.rect.h < 260
            and band.rect.y > 0.55 * root.rect.h
            and len(words.split()) < 60
            and bool(band.surface)
        )
    )


def _navigation(area: Node, reading: Reading, label: str) -> None:
    """The largest run of short single-line texts side by side (or stacked) in a header or footer is its navigation."""
    best, score = None, 0
    for n in area.walk():
        if n.kind not in ("row", "grid", "block") or n.tag not in ("div", "header"):
            continue
        items = [c for c in n.children if _nav_item(c)]
        if len(items) >= 3 and len(items) >= 0.6 * len(n.children) and len(items) > score:
            best, score = n, len(items)
    if best is None:
        return
    first = best.children[0]
    of = [reading.styles[c.style].size for c in best.children[1:] if c.kind == "text" and c.style >= 0]
    apart = first.kind == "text" and len(of) >= 2 and reading.styles[first.style].size >= APART * max(of)
    if best is area or apart or (best.surface is not None and best.attributes.get("band")):
        items = best.children
        start = next(i for i, c in enumerate(items) if _nav_item(c))
        # the wordmark stands apart from the list by size, weight or a picture
        if (
            start == 0
            and len(items) > 3
            and items[0].kind == "text"
            and items[1].kind == "text"
            and items[0].style != items[1].style
        ):
            start = 1
        end = len(items)
        while end > start and not _nav_item(items[end - 1]):
            end -= 1
        part = items[start:end]
        if len(part) < 2 or best.kind == "grid":
            return
        group = Node(
            best.kind if best.kind == "block" else "row",
            union(c.rect for c in part),
            children=part,
            cross=best.cross,
            width="hug",
        )
        group.gap, group.inset = part[0].gap, min(c.inset for c in part)
        part[0].gap = 0.0
        for c in part:
            c.inset -= group.inset
        best.children = [*items[:start], group, *items[end:]]
        best = group
    for c in best.children:
        as_link(c)
    if label == "Main" and area.kind == "row" and best is not area:
        # one row: the wordmark, the list and its call to action are the navigation together
        nav = Node(
            "row",
            area.rect,
            tag="nav",
            children=area.children,
            padding=area.padding,
            cross=area.cross,
            align=area.align,
            attributes={"band": "1"},
        )
        area.kind, area.children, area.padding = "block", [nav], (0.0, 0.0, 0.0, 0.0)
        best.attributes["list"] = "1"
    elif (
        label == "Main"
        and len(area.children) == 1
        and area.children[0].kind == "row"
        and area.children[0] is not best
        and area.children[0].tag == "div"
    ):
        nav = area.children[0]
        nav.tag = "nav"
        best.attributes["list"] = "1"
    else:
        nav = best
        best.tag = "nav"
    nav.attributes["label"] = label
    set_alike([c for c in best.children if c.tag == "a" and c.surface is None], reading)
    if best.kind == "row":
        give_room(best)


def _tools(area: Node) -> None:
    """Short words side by side in the page's head, beside its menu, lead somewhere, too."""
    menu = {id(d) for n in area.walk() if n.tag in ("a", "ul") or n.attributes.get("list") for d in n.walk()}
    for n in area.walk():
        words = [c for c in n.children if c.kind == "text" and c.tag == "p"]
        beside = n.kind == "row" and id(n) not in menu and len(words) >= 2 and len(words) == len(n.children)
        if beside and all(_nav_item(c) and node_text(c)[:1].isalpha() for c in words):
            for c in words:
                as_link(c)


def _nav_item(c: Node) -> bool:
    if c.kind == "text":
        return len(c.lines) == 1 and len(node_text(c).split()) <= 3
    if c.tag == "a":
        return True
    texts = texts_in(c)
    return (
        c.kind == "row"
        and c.surface is None
        and len(texts) == 1
        and len(texts[0].lines) == 1
        and len(node_text(c).split()) <= 3
        and len(c.children) <= 3
    )
