"""What each part is: evidence adds up to landmarks, headings, links, buttons, fields, lists. Tags are HTML's own."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable

from neige.core.model import Node, Reading
from neige.core.model.geometry import union
from neige.core.outline.borders import border_lines, join_strips
from neige.core.outline.disclosures import find_disclosures
from neige.core.outline.entries import border_entries
from neige.core.outline.foot import find_foot
from neige.core.outline.forms import (
    find_forms,
    group_choices,
    join_buttons,
    name_fields,
    name_rows_of_fields,
    tick_columns,
)
from neige.core.outline.headings import give_headings
from neige.core.outline.icons import link_icons
from neige.core.outline.links import link_fellows, link_pages, link_pictures, link_texts
from neige.core.outline.menus import (
    as_menu,
    find_menus,
    give_room,
    join_current,
    open_menus,
    set_alike,
    stack_lists,
    wrap_runs,
    wrap_searches,
)
from neige.core.outline.pairs import find_pairs
from neige.core.outline.quotes import border_bars
from neige.core.outline.trails import find_trails
from neige.core.outline.words import COPYRIGHT, body_style, heading_styles, node_text, texts_in

MOSTLY = 0.72  # of the page's middle that is no section but the middle itself
BAR = 130.0  # px: the page's bar is no higher
NARROW_PAGE = 600.0  # px
SIGN_SIZE = 36.0  # px: a name in the page's bar is no larger
THIN = 3.0  # px: a lower band is a line
SITE_MAP = 420.0  # px that a footer's columns of links are high at most
APART = 1.15  # times as large as the entries beside it: a wordmark
HALF = 0.38  # of the page's width from which a column is no column at its side
NOTICE = 64.0  # px: what stands over the page's bar is no higher
PILE, PILE_EDGE, PILE_ROW, PILE_WORDS = 3, 2.5, 130.0, 40  # rows that touch: how many, px, and words of one
TICKS = "✓✔✗✘×☑"
MARKED = 3  # rows with a sign before each
SIGN = 28.0  # px
PANEL_HEAD = 84.0  # px: a higher strip at a card's top is not its head


def give_roles(root: Node, reading: Reading) -> str:
    """Set tags from evidence, top-down; the page's title is returned."""
    if not reading.styles:
        root.children = (
            [Node("block", root.rect, tag="main", children=root.children, width="fill")]
            if root.children
            else []
        )
        return "Untitled page"
    join_current(root)
    join_strips(root)
    _landmarks(root, reading)
    find_foot(root, reading)
    _foot_heads(root, reading)
    find_menus(root, reading)
    _panel_heads(root, reading)
    border_bars(root)
    find_pairs(root)
    give_headings(root, reading)
    tick_columns(root)
    name_fields(root)
    name_rows_of_fields(root)
    link_texts(root, reading)
    find_trails(root)
    link_pictures(root, reading)
    link_icons(root, reading)
    link_fellows(root, reading)
    link_pages(root)
    open_menus(root, reading)
    stack_lists(root, reading)
    border_entries(root)
    border_lines(root)
    find_disclosures(root)
    _lists(root, reading)
    group_choices(root)
    find_forms(root)
    join_buttons(root)
    wrap_searches(root)
    first = next((n for n in root.walk() if n.tag == "h1"), None) or next(
        (n for n in root.walk() if n.kind == "text"), None
    )
    return node_text(first)[:80] if first else "Untitled page"


def _short_texts(node: Node) -> list[Node]:
    return [t for t in texts_in(node) if len(t.lines) == 1 and len(node_text(t).split()) <= 3]


def _landmarks(root: Node, reading: Reading) -> None:
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
        return
    header: list[Node] = []
    for band in bands[:2]:
        if band.rect.bottom < 260 and band.rect.h < 190 and not header and _is_head(band, reading):
            header.append(band)
            if len(bands) > 2 and bands[1].rect.bottom < 1.5 * BAR and _is_menu(bands[1], reading):
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
        out.append(main)
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
    columns = sum(
        1
        for n in band.walk()
        if n.kind == "block" and len(n.children) >= 3 and sum(map(_nav_item, n.children)) >= 0.75 * len(n.children)
        and all(c.kind == "text" for c in n.children)
    )  # fmt: skip
    return columns >= 2 and not any(
        t.attributes.get("head") == "1" and len(t.lines) > 1 for t in texts_in(band)
    )


def _is_head(band: Node, reading: Reading) -> bool:
    short = _short_texts(band)
    texts = texts_in(band)
    tools = sum(1 for n in band.walk() if n.kind in ("field", "image"))
    enough = len(short) >= 2 or (len(short) == 1 and tools >= 2 and band.rect.h < 110)
    # on a small screen nothing but the mark and the name
    named = (
        len(short) == 1 and tools >= 1 and band.rect.y < 8 and band.rect.h < 110 and band.rect.w < NARROW_PAGE
    )
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
    return (marked and high < 0.45 * root.rect.h) or (
        small
        and band.rect.h < 260
        and band.rect.y > 0.55 * root.rect.h
        and len(words.split()) < 60
        and bool(band.surface)
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
        _as_link(c)
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
                _as_link(c)


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


def _as_link(c: Node) -> None:
    if c.kind == "text" and c.tag == "p":
        c.tag = "a"
    elif c.kind == "row" and c.tag == "div":
        c.tag = "a"
        for t in texts_in(c):
            t.tag = "span"


def _panel_heads(root: Node, reading: Reading) -> None:
    """A short text alone in the strip at a card's top is the card's heading."""
    base = reading.styles[body_style(reading)]
    for n in root.walk():
        if n.surface is None or n.tag not in ("div", "li", "section", "article") or len(n.children) < 2:
            continue
        strip, below = n.children[:2]
        texts = texts_in(strip)
        if piled(strip, below) and [t.style for t in texts_in(below)][:1] == [t.style for t in texts][:1]:
            continue  # the first of several rows
        if (
            strip.surface is not None
            and strip.tag in ("div", "a")
            and strip.rect.h <= PANEL_HEAD
            and strip.rect.h < 0.5 * n.rect.h
            and abs(strip.rect.x - n.rect.x) <= 4
            and abs(strip.rect.right - n.rect.right) <= 4
            and strip.rect.y - n.rect.y <= 4
            and 1 <= len(texts) <= 2
            and len(texts[0].lines) == 1
            and len(node_text(texts[0]).split()) <= 6
            and reading.styles[texts[0].style].size >= 0.95 * base.size
        ):
            if strip.tag == "a":
                strip.tag = "div"
                strip.attributes.pop("role", None)
                for d in strip.walk()[1:]:
                    d.tag = "p" if d.kind == "text" else d.tag
            texts[0].attributes["head"] = "1"


def _foot_heads(root: Node, reading: Reading) -> None:
    """The first text over a column of a footer that stands out from what is under it is the column's heading."""
    for foot in (n for n in root.walk() if n.tag == "footer"):
        for column in foot.walk():
            kids = [c for c in column.children if c.kind == "text"]
            if column.kind != "block" or len(kids) < 2 or len(kids) < len(column.children):
                continue
            first, rest = kids[0], [reading.styles[c.style] for c in kids[1:]]
            a = reading.styles[first.style]
            stands_out = (
                a.size > 1.04 * max(b.size for b in rest)
                or a.weight >= max(b.weight for b in rest) + 200
                or (a.uppercase and not any(b.uppercase for b in rest))
            )
            if stands_out and len(first.lines) == 1 and len(node_text(first).split()) <= 4:
                first.attributes["head"] = "1"


def _loose_shape(n: Node) -> frozenset:
    return frozenset(
        (d.kind, bool(d.surface), d.tag if d.tag in ("a", "h2", "h3", "h4", "h5", "input", "img") else "")
        for d in n.walk()
    )


def _lists(root: Node, reading: Reading) -> None:
    """Bulleted texts, navigation entries, and three or more like siblings are lists."""
    for n in root.walk():
        if n.kind not in ("block", "row", "grid") or n.tag not in (
            "div",
            "nav",
            "section",
            "main",
            "footer",
            "header",
            "aside",
        ):
            continue
        _wrap_runs(n, lambda c: bool(c.attributes.get("bullet")), 2 if n.tag != "nav" else 99, reading)
        if n.tag not in ("nav", "header"):
            wrap_runs(n, _is_marked, MARKED)
            wrap_runs(n, _row_of_pile(n), PILE)
        if (
            n.tag == "nav"
            and n.kind in ("row", "block")
            and all(c.tag in ("a", "span", "div", "img") for c in n.children)
            and not any(d.attributes.get("list") for d in n.walk())
        ):
            n.attributes["list"] = "1"
        elif n.tag == "div" and len(n.children) >= 3 and not n.attributes.get("band"):
            kinds = [_loose_shape(c) for c in n.children]
            plain_texts = all(c.kind == "text" for c in n.children)
            links = all(c.tag == "a" and not c.surface for c in n.children)
            same_surface = (
                all(c.surface for c in n.children)
                and len(
                    {(round(c.rect.w / 8), c.surface.fill.colour if c.surface else "") for c in n.children}
                )
                == 1
            )
            brief = all(len(node_text(c).split()) <= 12 and c.rect.h <= 90 for c in n.children)
            if links or (
                brief
                and not plain_texts
                and len(set(kinds)) == 1
                and (same_surface or n.kind in ("row", "grid") or all(len(c.walk()) > 2 for c in n.children))
                and not any(c.tag in ("a", "input", "tr", "td", "span", "img", "hr") for c in n.children)
                and not all(any(d.kind == "field" for d in c.walk()) for c in n.children)
            ):
                n.attributes["list"] = "1"


def piled(a: Node, b: Node) -> bool:
    """Are two parts painted rows of one pile: as wide as each other, of about the same height, and touching?"""
    return (
        a.surface is not None
        and b.surface is not None
        and abs(a.rect.x - b.rect.x) <= PILE_EDGE
        and abs(a.rect.right - b.rect.right) <= PILE_EDGE
        and abs(b.rect.y - a.rect.bottom) <= PILE_EDGE
        and max(a.rect.h, b.rect.h) <= min(PILE_ROW, 1.7 * min(a.rect.h, b.rect.h))
    )


def _row_of_pile(n: Node) -> Callable[[Node], bool]:
    """A test for the rows of a pile in a box; one with a heading or a field is something else."""
    kids = n.children
    rows = {id(c) for pair in itertools.pairwise(kids) if piled(*pair) for c in pair}

    def test(c: Node) -> bool:
        plain = c.tag in ("div", "a") and not any(
            d.kind in ("field", "table") or d.tag in ("h2", "h3", "h4", "h5", "h6", "summary", "button") for d in c.walk()
        )  # fmt: skip
        return id(c) in rows and plain and 0 < len(node_text(c).split()) <= PILE_WORDS

    return test


def _is_marked(c: Node) -> bool:
    """A row of a small sign, a tick or a dot, and a text: an entry of a list with marks of its own. The sign may be a letter."""
    if c.kind == "text" and c.tag == "p":
        return len(node_text(c).split()) > 1 and node_text(c)[0] in TICKS
    if c.kind not in ("row", "grid") or c.surface is not None or len(c.children) != 2 or c.tag != "div":
        return False
    sign, text = c.children
    bare = sign.kind == "image" or (sign.kind == "block" and sign.surface is not None and not sign.children)
    return bool(
        bare
        and max(sign.rect.w, sign.rect.h) <= SIGN
        and text.kind == "text"
        and text.tag == "p"
        and text.rect.x - sign.rect.right <= SIGN
        and sign.rect.y <= text.rect.y + text.leading
    )


def _gather_items(children: list[Node], test: Callable[[Node], bool]) -> list[Node]:
    """Join what follows a bulleted text, indented like it, to its item: a list item may have several paragraphs."""
    out: list[Node] = []
    margin = min(c.rect.x for c in children)
    for c in children:
        head = out[-1] if out else None
        first = head.children[0] if head is not None and head.children and not test(c) else head
        if (
            head is not None
            and first is not None
            and test(head)
            and not test(c)
            and c.kind == "text"
            and c.tag == "p"
            and first.kind == "text"
            and first.tag == "p"
            and c.rect.x - margin > 12
            and abs(c.rect.x - first.rect.x) <= 3
            and (c.rect.y - head.rect.bottom) < 3 * max(c.leading, 12.0)
        ):
            if head.kind == "text":
                item = Node("block", head.rect, children=[head], gap=head.gap, inset=head.inset, width="fill")
                item.attributes["bullet"] = head.attributes["bullet"]
                head.gap = head.inset = 0.0
                head.tag = "p"
                out[-1] = head = item
            c.inset = 0.0
            head.children.append(c)
            head.rect = union([head.rect, c.rect])
        else:
            out.append(c)
    return out


def _wrap_runs(n: Node, test: Callable[[Node], bool], least: int, reading: Reading) -> None:
    """Put runs of bulleted children of a block into a list node of their own."""
    if n.kind != "block" or not any(test(c) for c in n.children):
        return
    n.children = _gather_items(n.children, test)
    out: list[Node] = []
    run: list[Node] = []

    def close() -> None:
        if len(run) >= least:
            box = union(c.rect for c in run)
            node = Node("block", box, tag="div", children=list(run), width="fill", gap=run[0].gap)
            node.attributes["list"] = (
                "ol" if str(run[0].attributes.get("bullet", "")).rstrip(".)").isdigit() else "bullets"
            )
            run[0].gap = 0.0
            out.append(node)
        else:
            out.extend(run)
        run.clear()

    for c in n.children:
        if test(c):
            run.append(c)
        else:
            close()
            out.append(c)
    close()
    if (
        len(out) == 1
        and out[0] is not n
        and out[0].attributes.get("list")
        and n.surface is None
        and n.tag == "div"
        and not n.attributes.get("band")
    ):
        n.attributes["list"] = out[0].attributes["list"]
        return
    n.children = out
