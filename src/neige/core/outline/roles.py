"""What each part is: evidence adds up to landmarks, headings, links, buttons, fields, lists. Tags are HTML's own."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable

from neige.core.model import Node, Reading
from neige.core.model.geometry import edges, union
from neige.core.outline.icons import link_icons
from neige.core.outline.links import link_pages, link_pictures, link_texts
from neige.core.outline.menus import (
    as_menu,
    find_foot,
    find_menus,
    give_room,
    open_menus,
    set_alike,
    stack_lists,
    wrap_searches,
)
from neige.core.outline.words import ACTION, body_style, heading_styles, node_text, texts_in
from neige.core.reading.colour import chroma, contrast

SUBMIT = re.compile(
    r"\b(sign in|log ?in|login|submit|send|search|save|continue|register|redeem|subscribe|report)\b", re.I
)
FIELD_WORDS = {
    "email": ("email", "email"),
    "e-mail": ("email", "email"),
    "password": ("password", "current-password"),
    "first name": ("text", "given-name"),
    "last name": ("text", "family-name"),
    "username": ("text", "username"),
    "name on card": ("text", "cc-name"),
    "card number": ("text", "cc-number"),
    "expir": ("text", "cc-exp"),
    "cvv": ("text", "cc-csc"),
    "phone": ("tel", "tel"),
    "search": ("search", "off"),
    "name": ("text", "name"),
    "address 2": ("text", "address-line2"),
    "address": ("text", "address-line1"),
    "zip": ("text", "postal-code"),
    "country": ("text", "country-name"),
    "url": ("url", "url"),
    "date": ("text", "off"),
    "number": ("text", "off"),
}
BUTTON_MAX = (420.0, 76.0)  # px: larger filled boxes with words are cards
LABEL_OFF = 12.0  # px by which a label may begin elsewhere than its field
LABEL_BESIDE = 14.0  # px between a field and the label beside it
FIELD_HEIGHT = (20.0, 72.0)
TEXTAREA = (76.0, 420.0)  # px high
MOSTLY = 0.72  # of the page's middle that is no section but the middle itself
FORM = 900.0  # px: a form that holds the page's landmarks is no higher
FORM_WORDS = 60  # words that a form has at most, besides a dozen for each field
BAR = 130.0  # px: the page's bar is no higher
NARROW_PAGE = 600.0  # px
THIN = 3.0  # px: a lower band is a line
SITE_MAP = 420.0  # px that a footer's columns of links are high at most
PANEL_HEAD = 84.0  # px: a higher strip at a card's top is not its head


def find_controls(content: list[Node], holder: Node, reading: Reading) -> list[Node]:
    """Turn finished boxes into buttons, fields, badges; join checkboxes to their labels. `content` is one holder's."""
    out = [_control(n, holder, reading) for n in content]
    return _choices(out, reading)


def _control(n: Node, holder: Node, reading: Reading) -> Node:
    s = n.surface
    if s is None or n.kind not in ("block", "row") or n.tag != "div" or s.picture >= 0:
        return n
    texts = texts_in(n)
    words = node_text(n).split()
    low, high = FIELD_HEIGHT
    ground = holder.surface.fill.colour if holder.surface else reading.background.colour
    framed = sum(1 for b in s.border if b) >= 3
    empty = not texts and not any(k.surface for k in n.children)
    if empty:
        if (
            low + 2 <= n.rect.h <= high
            and n.rect.w >= 1.2 * n.rect.h
            and framed
            and contrast(s.fill.colour, "#ffffff") < 1.6
        ):
            return _field(n, "", reading)
        return n
    if not texts:
        return n
    inked = reading.styles[texts[0].style]
    one_line = len(texts) == 1 and len(texts[0].lines) == 1
    left = texts[0].rect.x - n.rect.x
    right = n.rect.right - texts[-1].rect.right
    written_right = right
    pictures = [k for k in n.walk() if k.kind == "image"]
    if pictures:
        left = min(left, min(p.rect.x for p in pictures) - n.rect.x)
        right = min(right, n.rect.right - max(p.rect.right for p in pictures))
    even = abs(left - right) <= max(4.0, 0.12 * n.rect.w)
    pale = contrast(s.fill.colour, "#ffffff") < 1.35
    asks = bool(re.match(r"search\b", node_text(n), re.I)) and right < 60
    if one_line and len(words) <= 4 and asks and low <= n.rect.h <= high and n.rect.w >= 4 * n.rect.h and (
        framed or s.fill.colour != ground
    ) and written_right > 0.4 * n.rect.w:  # fmt: skip
        return _field(n, node_text(n), reading)
    counted = (
        len(pictures) == 1
        and one_line
        and node_text(n).isdigit()
        and pictures[0].rect.x > texts[0].rect.right
    )
    if counted and framed and pale and low <= n.rect.h <= high and n.rect.w >= 1.4 * n.rect.h:
        return _field(n, node_text(n), reading)  # so many at a time
    if (
        one_line and len(words) <= 8 and TEXTAREA[0] < n.rect.h <= TEXTAREA[1] and n.rect.w >= 160 and pale and framed
        and texts[0].rect.y - n.rect.y < 24 and left < 40 and not pictures
        and (contrast(inked.colour, s.fill.colour) < 7 or len(words) <= 3)
    ):  # fmt: skip
        return _field(n, node_text(n), reading)
    two_lines = (
        len(texts) == 1
        and len(texts[0].lines) == 2
        and bool(ACTION.match(node_text(n)))
        and not framed
        and not pale
    )
    if (one_line or two_lines) and len(words) <= 6 and n.rect.h <= BUTTON_MAX[1]:
        muted = contrast(inked.colour, s.fill.colour) < 7 and chroma(inked.colour) < 0.06
        if (
            low <= n.rect.h
            and (framed or (pale and s.fill.colour != ground))
            and pale
            and n.rect.w >= 110
            and written_right > 1.8 * max(left, 0.0) + 12
            and texts[0].rect.x - n.rect.x < 60
            and (muted or framed)
            and inked.weight < 600
            and chroma(inked.colour) < 0.09
        ):
            return _field(n, node_text(n), reading)
        asking = bool(ACTION.match(node_text(n))) and not pale
        # the rest of an uneven button is an icon that could not be told from what is behind it
        nearly = (
            asking
            and len(words) <= 4
            and n.rect.w <= BUTTON_MAX[0]
            and min(left, right) >= 8
            and max(left, right) < 90
        )
        if (
            (even and n.rect.w <= BUTTON_MAX[0])
            or (even and ACTION.match(node_text(n)) and n.rect.w < 900)
            or nearly
        ):
            v_even = abs((texts[0].rect.cy) - n.rect.cy) <= 5
            if (
                v_even
                and n.rect.h < 25
                and inked.size < 15.5
                and n.rect.w < 160
                and not ACTION.match(node_text(n))
            ):
                n.tag = "span"
                n.reasons.append("a small filled label")
                n.attributes["role"] = "badge"
            elif v_even and n.rect.h >= 24 and (s.fill.colour != ground or framed):
                n.tag = "a"
                n.attributes["role"] = "button"
                n.reasons.append("short centred words on a filled or outlined box")
    return n


def _field(n: Node, placeholder: str, reading: Reading) -> Node:
    text = next((t for t in texts_in(n)), None)
    field = Node(
        "field", n.rect, tag="input", surface=n.surface, style=text.style if text else body_style(reading)
    )
    field.lines = list(text.lines) if text else []
    if text:
        field.padding = (
            0.0,
            8.0,
            0.0,
            max(2.0, text.rect.x - n.rect.x - (n.surface.border[3] if n.surface else 0)),
        )
        field.runs = text.runs
    else:
        field.padding = (0.0, 12.0, 0.0, 12.0)
    field.attributes["placeholder"] = placeholder
    kind = next(((k, v) for k, v in FIELD_WORDS.items() if k in placeholder.lower()), None)
    field.attributes["type"] = kind[1][0] if kind else "text"
    if kind and kind[1][1] != "off":
        field.attributes["autocomplete"] = kind[1][1]
    if n.rect.h > 76:
        field.tag = "textarea"
    icons = [k for k in n.walk() if k.kind == "image"]
    if icons:
        field.attributes["icons"] = str(len(icons))
        arrow = max(icons, key=lambda k: k.rect.x)
        at_end = n.rect.right - arrow.rect.right < 28 and arrow.rect.w <= 18
        if "search" in placeholder.lower() and len(icons) == 1:
            before = arrow.rect.cx < n.rect.cx
            field.attributes["mark"] = (
                f"{arrow.cutout} {'left' if before else 'right'} {(arrow.rect.x - n.rect.x) if before else n.rect.right - arrow.rect.right:.2f}"
            )
        if at_end and text and arrow.rect.x > text.rect.right and "search" not in placeholder.lower():
            field.tag = "select"
            field.attributes["choices"] = placeholder
            field.attributes["arrow"] = f"{arrow.cutout} {n.rect.right - arrow.rect.right:.2f}"
    return field


def _choices(content: list[Node], reading: Reading) -> list[Node]:
    """A small framed square or disc right before a text is a check box or radio button with that label; so is a picture of that
    size in line with one: it is the one that was chosen."""
    out = list(content)
    boxes = [
        n
        for n in content
        if (n.surface or n.kind == "image")
        and 9 <= n.rect.w <= 24
        and abs(n.rect.w - n.rect.h) <= 1.5
        and all(c.kind == "image" for c in n.children)
    ]
    framed = [
        n
        for n in boxes
        if not n.children
        and n.surface
        and (any(n.surface.border) or contrast(n.surface.fill.colour, "#ffffff") < 1.2)
    ]
    for box in boxes:
        s = box.surface
        like = [
            f
            for f in framed
            if f is not box and abs(f.rect.cx - box.rect.cx) <= 2 and abs(f.rect.w - box.rect.w) <= 3
        ]
        chosen = (box.kind == "image" or bool(box.children)) and bool(like)
        label = next(
            (
                t
                for t in out
                if t.kind == "text"
                and 2 <= t.rect.x - box.rect.right <= 16
                and abs(t.rect.cy - box.rect.cy) <= 5
            ),
            None,
        )
        if label is None or not (box in framed or chosen) or label.tag != "p":
            continue
        of = like[0].surface if chosen else s
        radio = bool(of and of.radius >= 0.4 * of.rect.w)
        node = Node("field", box.rect, tag="input", surface=s, style=label.style)
        node.attributes["type"] = "radio" if radio else "checkbox"
        if chosen:
            node.attributes["checked"] = s.fill.colour if s else _liveliest(reading)
            node.surface = None
        label.tag = "label"
        row = Node("row", union([box.rect, label.rect]), tag="div", children=[node, label])
        row.attributes["role"] = "choice"
        out[out.index(box)] = row
        out.remove(label)
    return out


def _liveliest(reading: Reading) -> str:
    """The palette's strongest colour, which is what chosen fields are painted in."""
    return max((p.colour for p in reading.palette), key=lambda c: (chroma(c), c), default="#000000")


def give_roles(root: Node, reading: Reading) -> str:
    """Set tags from evidence, top-down; the page's title is returned."""
    if not reading.styles:
        root.children = (
            [Node("block", root.rect, tag="main", children=root.children, width="fill")]
            if root.children
            else []
        )
        return "Untitled page"
    _landmarks(root, reading)
    find_foot(root, reading)
    find_menus(root, reading)
    _panel_heads(root, reading)
    _headings(root, reading)
    _labels(root)
    _label_rows(root)
    link_texts(root, reading)
    link_pictures(root, reading)
    link_icons(root, reading)
    link_pages(root)
    open_menus(root, reading)
    stack_lists(root, reading)
    _lists(root, reading)
    _forms(root)
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
        for col in page.children:
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
                    if last.surface and last.rect.w > 0.9 * col.rect.w and _is_foot(last, root, reading):
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
    middle = [b for b in bands if b not in header and b not in footer]
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
    root.children = out
    for area in header[:1]:
        _navigation(area, reading, "Main")


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
    enough = enough or (named and len(node_text(short[0]).split()) <= 2)
    return enough and len(short) >= 0.7 * len(texts) and all(len(t.lines) == 1 for t in texts)


def _is_foot(band: Node, root: Node, reading: Reading) -> bool:
    texts = texts_in(band)
    if not texts or (band.rect.bottom < root.rect.h - 60 and band.rect.y < 0.6 * root.rect.h):
        return False
    base = reading.styles[body_style(reading)].size
    small = all(reading.styles[t.style].size <= 1.35 * base for t in texts)
    words = node_text(band)
    marked = bool(re.search(r"©|\(c\)|copyright|all rights|privacy|terms", words, re.I))
    return (marked and band.rect.h < 0.45 * root.rect.h) or (
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
    if best is area or (best.surface is not None and best.attributes.get("band")):
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
    """A short text alone in the strip at a card's top is the card's heading; so is the one over a column of a footer."""
    base = reading.styles[body_style(reading)]
    for n in root.walk():
        if n.surface is None or n.tag not in ("div", "li", "section", "article") or len(n.children) < 2:
            continue
        strip = n.children[0]
        texts = texts_in(strip)
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
    for foot in (n for n in root.walk() if n.tag == "footer"):
        for column in foot.walk():
            kids = [c for c in column.children if c.kind == "text"]
            if column.kind == "block" and len(kids) >= 3 and len(kids) == len(column.children):
                first, rest = kids[0], kids[1:]
                a, b = reading.styles[first.style], reading.styles[rest[0].style]
                stands_out = (
                    a.size > 1.04 * b.size or a.weight >= b.weight + 200 or (a.uppercase and not b.uppercase)
                )
                if stands_out and len({c.style for c in rest}) == 1 and len(node_text(first).split()) <= 4:
                    first.attributes["head"] = "1"


def _headings(root: Node, reading: Reading) -> None:
    ranks = heading_styles(reading)
    base = reading.styles[body_style(reading)]
    found: list[Node] = []

    def visit(n: Node, in_control: bool) -> None:
        inside = in_control or n.tag in (
            "a",
            "button",
            "nav",
            "footer",
            "label",
            "th",
            "td",
            "span",
            "header",
        )
        if n.kind == "text" and n.tag == "p" and not inside and n.style in ranks and len(n.lines) <= 4:
            words = node_text(n)
            letters = sum(c.isalpha() for c in words)
            if letters >= 3 and len(words.split()) <= 16 and letters > 0.4 * len(words.replace(" ", "")):
                found.append(n)
        elif n.kind == "text" and n.attributes.get("head") and n.tag in ("p", "span"):
            found.append(n)
        for c in n.children:
            visit(c, inside)

    visit(root, False)
    found = _without_subtitles(root, found, ranks, reading)
    sizes = sorted({round(ranks.get(n.style, base.size), 1) for n in found}, reverse=True)
    merged: list[float] = []
    for s in sizes:
        if not merged or merged[-1] - s > 0.06 * s:
            merged.append(s)
    if not found:
        return
    ranks = {**{n.style: base.size for n in found if n.style not in ranks}, **ranks}
    top = max(found, key=lambda n: ranks[n.style])  # the first of the largest
    for n in found:
        level = next(i for i, s in enumerate(merged) if s - ranks[n.style] <= 0.06 * s)
        n.tag = "h1" if n is top else f"h{min(6, max(2, level + 1))}"
        n.reasons.append(f"set at {reading.styles[n.style].size:g} px against {base.size:g} px text")
    _close_gaps(root)
    for n in root.walk(document=True):  # what stands before the title of the page is no heading of it
        if n.tag == "h1":
            break
        if n in found:
            n.tag = "p"


def _without_subtitles(
    root: Node, found: list[Node], ranks: dict[int, float], reading: Reading
) -> list[Node]:
    """A smaller text right under a heading belongs to it: a subtitle, if something else comes under the two of them."""
    out = list(found)
    for n in root.walk():
        for i, (a, b) in enumerate(itertools.pairwise(n.children)):
            if a not in out or b not in out or b.attributes.get("head"):
                continue
            size = reading.styles[b.style].size
            if b.gap <= 0.7 * size and ranks[b.style] < ranks[a.style] - 0.5 and i + 2 < len(n.children):
                out.remove(b)
    return out


def _close_gaps(root: Node) -> None:
    """No level is skipped on the way down, and headings that looked alike under one parent stay alike."""
    above: list[tuple[int, int]] = []  # (level by looks, level given)
    for n in root.walk():
        if not re.fullmatch(r"h[1-6]", n.tag):
            continue
        seen = int(n.tag[1])
        while above and above[-1][0] > seen:
            above.pop()
        if not above:
            given = min(seen, 2)
        elif above[-1][0] == seen:
            given = above[-1][1]
        else:
            given = above[-1][1] + 1
        above.append((seen, given))
        n.tag = f"h{min(6, given)}"


def _labels(root: Node) -> None:
    """The text right above (or before) a field names it."""
    for n in root.walk():
        kids = n.children
        for a, b in itertools.pairwise(kids):
            fields = [
                f
                for f in (b.walk() if b.kind in ("row", "block", "grid") and not b.surface else [b])
                if f.kind == "field"
            ]
            if (
                a.kind == "text"
                and a.tag in ("p", "h3", "h4", "h5", "h6")
                and len(a.lines) == 1
                and fields
                and b.rect.y - a.rect.bottom < 18
                and a.rect.x < fields[0].rect.right
                and len(node_text(a).split()) <= 6
            ):
                if (
                    fields[0].attributes.get("type") in ("checkbox", "radio")
                    or a.rect.bottom > fields[0].rect.cy
                ):
                    continue
                _name_field(fields[0], a)


def _label_rows(root: Node) -> None:
    """Texts side by side right above as many fields name them; so does the text right beside a field in its row."""
    for n in root.walk():
        for a, b in itertools.pairwise(n.children):
            texts = [t for t in a.children if t.kind == "text"] if a.kind in ("row", "grid") else []
            fields = [f for f in b.children if f.kind == "field"] if b.kind in ("row", "grid") else []
            if (
                len(texts) < 2
                or len(texts) != len(a.children)
                or len(texts) != len(fields)
                or b.rect.y - a.rect.bottom >= 18
            ):
                continue
            if all(
                t.tag == "p" and len(t.lines) == 1 and abs(t.rect.x - f.rect.x) <= LABEL_OFF
                for t, f in zip(texts, fields)
            ):
                for t, f in zip(texts, fields):
                    _name_field(f, t)
        if n.kind == "row":
            for a, b in itertools.pairwise(n.children):
                t, f = (a, b) if a.kind == "text" else (b, a)
                near = b.rect.x - a.rect.right <= LABEL_BESIDE and t.kind == "text" and f.kind == "field"
                if (
                    near
                    and t.tag == "p"
                    and len(t.lines) == 1
                    and len(node_text(t).split()) <= 4
                    and not f.attributes.get("name")
                ):
                    _name_field(f, t)


def _name_field(field: Node, label: Node) -> None:
    """Make a text the label of a field, and the field what its label says."""
    label.tag = "label"
    name = node_text(label)
    field.attributes["name"] = name
    kind = next((v for k, v in FIELD_WORDS.items() if k in name.lower()), None)
    if kind and field.attributes.get("type") == "text":
        field.attributes["type"] = kind[0]
        field.attributes["autocomplete"] = kind[1]


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
            ):
                n.attributes["list"] = "1"


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


def _form_in_main(main: Node) -> bool:
    """Part the fields of the page's middle, with their labels and the button that sends them, from what is above and below them."""
    kids = main.children

    def holds(c: Node) -> bool:
        return any(
            d.kind == "field" or d.tag == "label" or d.attributes.get("role") == "button" for d in c.walk()
        )

    found = [i for i, c in enumerate(kids) if any(d.kind == "field" or d.tag == "label" for d in c.walk())]
    last = max((i for i, c in enumerate(kids) if holds(c)), default=0)
    buttons = [d for c in kids[: last + 1] for d in c.walk() if d.attributes.get("role") == "button"]
    if not found or not buttons:
        return False
    part = kids[found[0] : last + 1]
    if any(d.tag in ("nav", "table", "h1") for c in part for d in c.walk()) or sum(
        len(node_text(c).split()) for c in part
    ) > FORM_WORDS + 12 * len(found):
        return False
    form = Node(
        "block", union(c.rect for c in part), tag="form", children=part, width="fill", gap=part[0].gap
    )
    left = min(c.rect.x for c in part)
    form.rect = edges(
        min(left, main.rect.x + main.padding[3]),
        form.rect.y,
        main.rect.right - main.padding[1],
        form.rect.bottom,
    )
    part[0].gap = 0.0
    buttons[-1].tag = "button"
    main.children = [*kids[: found[0]], form, *kids[last + 1 :]]
    return True


def _forms(root: Node) -> None:
    """The smallest box around two or more fields with a button (or a field right beside its button) is a form; forms never nest."""

    def visit(n: Node) -> tuple[int, bool]:
        """(fields not yet in a form, whether a form is inside)."""
        count, holds = 0, False
        for c in n.children:
            k, h = visit(c)
            count, holds = count + k, holds or h
        if n.kind == "field":
            return 1, False
        if n.tag == "main" and n.kind == "block" and count >= 2 and not holds and _form_in_main(n):
            return 0, True
        if (
            holds
            or not count
            or n.kind not in ("block", "row", "grid")
            or n.tag not in ("div", "section")
            or "list" in n.attributes
        ):
            return count, holds
        buttons = [c for c in n.walk() if c.attributes.get("role") == "button"]
        beside = any(c.attributes.get("role") == "button" for c in n.children)
        if any(c.tag in ("nav", "main", "header", "h1") for c in n.walk()) and n.rect.h > FORM:
            return count, holds
        if len(node_text(n).split()) > FORM_WORDS + 12 * count:
            return count, holds
        if (count >= 2 and buttons) or (count == 1 and beside):
            n.tag = "form"
            buttons[-1].tag = "button"
            return 0, True
        return count, False

    visit(root)

    # a lone field beside its button inside a larger set of fields is part of that set's form
    def fields(n: Node) -> int:
        return sum(1 for f in n.walk() if f.kind == "field")

    def widen(n: Node) -> None:
        for c in n.children:
            widen(c)
        inner = [f for f in n.walk() if f.tag == "form"]
        if (
            n.tag == "div"
            and len(inner) == 1
            and fields(n) >= fields(inner[0]) + 3
            and "list" not in n.attributes
            and n.kind in ("block", "row", "grid")
        ):
            inner[0].tag, n.tag = "div", "form"

    widen(root)
    for n in root.walk():
        if (
            n.attributes.get("role") == "button"
            and n.tag == "a"
            and SUBMIT.search(node_text(n))
            and any(f.kind == "field" for f in root.walk())
        ):
            n.tag = "button"
        if n.tag in ("a", "button", "label", "span") and n.kind != "text":
            for c in n.walk()[1:]:  # interactive content does not nest
                if c.tag in ("a", "button", "p", "h1", "h2", "h3", "h4", "h5", "h6", "div"):
                    c.tag = "span"
                for r in c.runs:
                    r.tag = "" if r.tag == "a" else r.tag
        if n.kind == "text" and n.tag in ("a", "button"):
            for r in n.runs:
                r.tag = "" if r.tag == "a" else r.tag
