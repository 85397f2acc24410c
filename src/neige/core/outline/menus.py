"""Navigation: bars at the top of the page wherever they stand, columns at its side, the wordmark, and stacks of links or items.

All of it changes tags and moves space from gaps into paddings; nothing is moved on the page.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from neige.core.model import Node, Reading, Rect
from neige.core.model.geometry import union
from neige.core.outline.layout import AUTO
from neige.core.outline.words import body_style, texts_in, words_of
from neige.core.reading.colour import from_hex, oklab

TOP = 150.0  # px from the page's top within which a bar is its header
BAR = 130.0  # px: a higher row is no bar
TITLE = 1.35  # of the running text's size: larger texts of several words are headings, not entries
SECOND = 4  # entries that a second bar has at least
MOST_ROOM = 64.0  # px above a bar that are its own
SIDE = (56.0, 360.0)  # px: widths of a column at the page's side
TALL = 0.3  # of the page's height that such a column has at least
SECTIONS = 7  # entries that a column without a ground of its own has at least
SECTIONS_TOP, SECTIONS_HIGH = 320.0, 140.0  # px
ITEM_WORDS = 4
TARGET_HIGH = 64.0  # px: the box of an entry is no higher
TARGET_SIZE = 34.0  # px that a link in a bar is high
MOST_REACH = 14.0  # px that a link reaches up and down at most
SIDE_ROOM = 8.0  # px of padding that a link in a row gets at most, left and right
NEAR_WEIGHT = 200  # by which entries of one menu may have been read too light or heavy
NEAR_INK = 0.12  # in OKLab likewise
RUN_ON = 5.0  # px between lines of one paragraph in a narrow column
CHEVRON = (5.0, 14.0)  # px wide
ARROW = 22.0  # px: the largest arrow or counter at an entry's end
LEVEL = 6.0  # px by which the middles of what belongs together may differ
NARROW_SIDE = 130.0  # px: in a wider column icons stand before their words
PAIRED = 32.0  # px: the largest icon above its words, and the farthest
TARGET = 14.0  # px of padding that a stacked entry gets at most, above and below
NEAR = 1.5  # px by which entries of one menu may begin elsewhere
EVEN = 2.0  # px by which the distances in a stack of entries may differ
ENTRY_WORDS = 7
COUNT = 4  # letters of the number at an entry's end


def find_menus(root: Node, reading: Reading) -> None:
    """Tag the page's bars and side columns, and link their entries; run after the landmarks of the page's bands are known."""
    if not any(n.tag == "nav" and n.rect.y < TOP and n.rect.h < BAR for n in root.walk()):
        bars = [n for n in root.walk() if _is_bar(n, root, reading)]
        if bars:  # of two bars the one with more entries is the menu; of one within another, the outer
            as_menu(max(bars, key=lambda n: (_entries(n), len(n.walk()), -n.rect.y)), reading, "Main")
    # a second bar under the first: the sections
    taken = {id(d) for n in root.walk() if n.tag in ("nav", "header") for d in n.walk()}
    second = [
        n for n in root.walk() if id(n) not in taken and _is_bar(n, root, reading) and _entries(n) >= SECOND
    ]
    if second:
        as_menu(max(second, key=lambda n: (_entries(n), len(n.walk()))), reading, "Sections")
    beside = [c for n in root.walk() if (c := _beside_content(n)) is not None]
    for n in root.walk():
        if n.tag in ("div", "aside", "nav") and (_is_side(n, root) or any(n is c for c in beside)):
            _make_side(n, reading)
            break
    for n in root.walk():
        _fill_bar(n)
    _wordmark(root, reading)


def join_current(root: Node) -> None:
    """The entry whose page is open has a box, which makes the room between it and its neighbours smaller than that between the
    others: what was cut apart there is put together again where the words are as far from each other."""
    for n in root.walk():
        if n.kind != "row" or n.rect.y > TOP:
            continue
        for group in [c for c in n.children if c.kind == "row" and c.surface is None and c.tag == "div"]:
            words = [texts_in(c) for c in group.children]
            boxed = sum(c.surface is not None for c in group.children)
            if boxed != 1 or len(words) < 2 or any(len(w) != 1 for w in words):
                continue
            texts = [w[0] for w in words]
            apart = [b.rect.x - a.rect.right for a, b in itertools.pairwise(texts)]
            plain = {w.style for c, w in zip(group.children, texts) if c.surface is None}
            while True:
                i = n.children.index(group)
                for k, at in ((i + 1, len(group.children)), (i - 1, 0)):
                    other = n.children[k] if 0 <= k < len(n.children) else None
                    if other is None or other.kind != "text" or other.style not in plain:
                        continue
                    far = other.rect.x - texts[-1].rect.right if at else texts[0].rect.x - other.rect.right
                    if abs(far - sum(apart) / len(apart)) > LEVEL:
                        continue
                    group.children.insert(at, other)
                    texts.insert(at, other)
                    n.children.remove(other)
                    if not at:
                        group.children[1].gap, group.gap, other.gap = group.gap, other.gap, 0.0
                    group.rect = union([group.rect, other.rect])
                    break
                else:
                    break


def _fill_bar(holder: Node) -> None:
    """A bar at the top of something tall has the room above it as its own padding, and as much of the room below."""
    bar = holder.children[0] if holder.children else None
    if (
        bar is None
        or bar.tag != "nav"
        or holder.kind != "block"
        or bar.surface is not None
        or bar.kind == "block"
    ):
        return
    room = holder.padding[0] + bar.gap
    if len(holder.children) < 2 or bar.rect.y > TOP or not 4 <= room <= MOST_ROOM or bar.tag == holder.tag:
        return
    below = max(0.0, min(room, holder.children[1].gap - 1))
    top, right, bottom, left = bar.padding
    bar.padding = (top + room, right, bottom + below, left)
    bar.rect = Rect(bar.rect.x, bar.rect.y - room, bar.rect.w, bar.rect.h + room + below)
    holder.padding = (0.0, *holder.padding[1:])
    bar.gap, holder.children[1].gap = 0.0, holder.children[1].gap - below


def _is_bar(n: Node, root: Node, reading: Reading) -> bool:
    if n is root or n.kind not in ("row", "grid") or n.tag not in ("div", "header"):
        return False
    r = n.rect
    if r.y > TOP - 40 or r.bottom > TOP or r.h > BAR or r.w < 0.25 * root.rect.w:
        return False
    texts = texts_in(n)
    short = [t for t in texts if len(t.lines) == 1 and len(words_of(t)) <= ITEM_WORDS]
    titles = [
        t for t in texts if reading.styles[t.style].size >= TITLE * reading.styles[body_style(reading)].size
    ]
    entries = [t for t in short if t not in titles[1:] and (t not in titles or len(words_of(t)) <= 2)]
    if titles and len(entries) < 3 and not any(t.kind == "text" and t.tag == "a" for t in texts):
        return False  # a title and one thing to do
    named = sum(any(ch.isalpha() for w in words_of(t) for ch in w) for t in entries)
    return named >= 2 and len(short) == len(texts) and not any(d.kind == "field" for d in n.children)


def _entries(bar: Node) -> int:
    """The most entries that stand side by side somewhere in a bar."""
    return max((sum(_is_entry(c) for c in n.children) for n in bar.walk() if n.kind != "block"), default=0)


def as_menu(bar: Node, reading: Reading, label: str) -> None:
    """Make a bar a navigation with links, those side by side a list."""
    bar.tag = "nav"
    bar.attributes["label"] = label
    bar.reasons.append("short texts in a row at the top of the page")
    menu = max(
        (n for n in bar.walk() if n.kind != "block" and sum(_is_entry(c) for c in n.children) >= 2),
        key=lambda n: sum(_is_entry(c) for c in n.children),
        default=None,
    )
    if menu is None:
        return
    for c in menu.children:
        as_link(c)
    set_alike([c for c in menu.children if _is_plain_link(c)], reading)
    if menu.kind == "row":
        give_room(menu)
    if len(menu.children) >= 2 and all(c.tag in ("a", "img") for c in menu.children):
        menu.attributes["list"] = "1"


def give_room(links: Node) -> None:
    """Links side by side get padding out of the gaps between them, and reach up and down without moving anything: targets
    large enough to hit (WCAG 2.2, 2.5.8 asks for 24 px), and no larger than what people write."""
    kids = links.children
    gaps = [c.gap for c in kids[1:] if c.gap > 0]
    if not gaps or min(gaps) < 8 or not any(_is_plain_link(c) for c in kids):
        return
    side, high = min(SIDE_ROOM, min(gaps) / 2), TARGET_SIZE
    box = current_of(kids)
    if box is not None:  # all have the box of the one that is open
        first = texts_in(box)[0]
        free = [
            c.gap / (_is_plain_link(c) + _is_plain_link(a))
            for a, c in itertools.pairwise(kids)
            if c.gap != AUTO and _is_plain_link(c) + _is_plain_link(a)
        ]
        side, high = min(first.rect.x - box.rect.x, *free), box.rect.h
    for i, c in enumerate(kids):
        plain = _is_plain_link(c)
        if plain:
            reach = max(0.0, min(MOST_REACH, (high - c.rect.h) / 2))
            c.attributes["reach"] = f"{reach:g}"
            if c.kind in ("text", "image"):
                c.attributes["pad"] = f"{reach:g} {side:g}"
            else:
                top, right, bottom, left = c.padding
                c.padding = (top + reach, right + side, bottom + reach, left + side)
        if i and c.gap != AUTO:
            c.gap -= side * (plain + _is_plain_link(kids[i - 1]))
        elif plain and not i:
            c.gap -= side
    if kids[-1].attributes.get("reach"):  # a bar from side to side must not reach beyond them
        ends = kids[-1] if links.attributes.get("band") or links.surface else links
        ends.attributes["end"] = f"{side:g}"


def current_of(entries: list[Node], stacked: bool = False) -> Node | None:
    """The one entry in a box of its own among links without: whose page is open. What is set in other letters, or in a stack
    begins elsewhere, is a button."""
    boxed = [c for c in entries if c.surface is not None and not (stacked and not _lined_up(c, entries))]
    plain = [t for c in entries if _is_plain_link(c) for t in texts_in(c)[:1]]
    if len(boxed) != 1 or boxed[0].tag != "a" or boxed[0].rect.h > TARGET_HIGH or not plain:
        return None
    if not stacked and not _evenly(boxed[0], entries):
        return None
    words = texts_in(boxed[0])
    if not 1 <= len(words) <= 2 or len(words[0].lines) != 1:
        return None
    return boxed[0] if abs(words[0].leading - plain[0].leading) <= 0.25 * plain[0].leading else None


def _evenly(box: Node, entries: list[Node]) -> bool:
    """Are the words in a box as far from its neighbours' as those are from each other, but for room that is free?"""
    texts = [texts_in(c)[0] for c in entries if texts_in(c)]
    gaps = [
        (b.rect.x - a.rect.right, any(t in box.walk() for t in (a, b))) for a, b in itertools.pairwise(texts)
    ]
    others = sorted(g for g, own in gaps if not own)
    if not others:
        return True
    usual = others[len(others) // 2]
    return all(abs(g - usual) <= LEVEL for g, own in gaps if own)


def _is_plain_link(c: Node) -> bool:
    """A link without a box of its own: its words, or an icon with them, or an icon alone."""
    if c.kind == "image":
        return bool(c.attributes.get("linked")) and c.surface is None
    return c.tag == "a" and c.surface is None and c.kind in ("text", "row")


def set_alike(entries: list[Node], reading: Reading) -> None:
    """Entries of one menu are set alike: short words that were read a little otherwise take the style of most."""
    texts = [t for c in entries for t in texts_in(c)]
    votes: dict[int, int] = {}
    for t in texts:
        votes[t.style] = votes.get(t.style, 0) + 1
    if not votes:
        return
    usual = max(votes, key=lambda k: (votes[k], -k))
    of = reading.styles[usual]
    if votes[usual] < 0.4 * len(texts):
        return
    for t in texts:
        s = reading.styles[t.style]
        near = abs(s.size - of.size) <= 0.06 * of.size and abs(s.weight - of.weight) <= NEAR_WEIGHT
        if near and s.italic == of.italic and s.uppercase == of.uppercase and s.underline == of.underline and (
            np.linalg.norm(oklab(from_hex(s.colour)) - oklab(from_hex(of.colour))) <= NEAR_INK
        ):  # fmt: skip
            t.style = usual
            for r in t.runs:
                r.style = usual


def open_menus(root: Node, reading: Reading) -> None:
    """An entry that ends in a small wide mark, a chevron, opens something: it is a button."""
    for nav in (n for n in root.walk() if n.tag in ("nav", "header")):
        for c in nav.walk():
            leaves = [d for d in c.walk() if not d.children]
            last = leaves[-1] if leaves else c
            if c.tag != "a" or c.kind != "row" or c.surface is not None or last.kind != "image":
                continue
            w, h = last.rect.w, last.rect.h
            if (
                any(d.kind == "text" for d in leaves)
                and CHEVRON[0] <= w <= CHEVRON[1]
                and 1.3 * h <= w <= 3 * h
            ):
                c.tag = "button"
                c.attributes["opens"] = "1"
                c.reasons.append("its words end in a chevron")


def wrap_searches(root: Node) -> None:
    """A field to search with and the button beside it are a form; without a button (WCAG H32) it is a search by itself."""
    inside = {id(d) for f in root.walk() if f.tag == "form" for d in f.walk()}
    for n in root.walk():
        for i, c in enumerate(n.children):
            if c.kind != "field" or c.attributes.get("type") != "search" or id(c) in inside:
                continue
            rest = [k for k in n.children if k is not c]
            for k in rest:  # a box with nothing but a glass, right at the field, sends it
                at = min(abs(k.rect.x - c.rect.right), abs(c.rect.x - k.rect.right)) <= LEVEL
                bare = (
                    k.surface is not None
                    and k.tag == "div"
                    and k.children
                    and all(d.kind == "image" for d in k.children)
                )
                if at and bare and abs(k.rect.h - c.rect.h) <= LEVEL:
                    k.tag = "button"
                    k.attributes |= {"role": "button", "label": "Search"}
            small = all(k.rect.w <= 1.6 * k.rect.h + 8 or k.attributes.get("role") == "button" for k in rest)
            if n.tag == "div" and len(rest) <= 1 and small and n.kind in ("row", "block", "grid"):
                n.tag = "form" if any(k.attributes.get("role") == "button" for k in rest) else "search"
                n.attributes["label"] = "Search"
            else:
                form = Node(
                    "block", c.rect, tag="search", children=[c], gap=c.gap, inset=c.inset, width=c.width, align=c.align,
                    attributes={"label": "Search"},
                )  # fmt: skip
                c.gap = c.inset = 0.0
                c.width = "fill"
                n.children[i] = form
            break


def _is_entry(c: Node) -> bool:
    """A short text, or a short text with a picture or badge beside it."""
    texts = texts_in(c)
    if c.kind == "text":
        return (
            len(c.lines) == 1
            and len(words_of(c)) <= ITEM_WORDS
            and c.tag in ("p", "a", "span")
            and "head" not in c.attributes
        )
    return (
        c.kind == "row"
        and c.surface is None
        and 1 <= len(texts) <= 2
        and len(c.walk()) <= 6
        and all(len(t.lines) == 1 for t in texts)
        and len(words_of(c)) <= ITEM_WORDS + 1
        and not any(d.kind == "field" for d in c.walk())
    )


def as_link(c: Node) -> None:
    """Make an entry a link; what is inside it becomes plain phrasing."""
    if c.kind == "text" and c.tag in ("p", "span", "h2", "h3", "h4", "h5", "h6"):
        c.tag = "a"
        for r in c.runs:
            r.tag = "" if r.tag == "a" else r.tag
    elif c.kind == "row" and c.tag == "div" and c.surface is None:
        c.tag = "a"
        for d in c.walk()[1:]:
            if d.kind == "text":
                d.tag = "span"
                for r in d.runs:
                    r.tag = ""
            elif d.tag in ("div", "a"):
                d.tag = "span"


def _is_side(n: Node, root: Node) -> bool:
    r = n.rect
    at_edge = r.x <= 8 or root.rect.right - r.right <= 8
    if (
        not at_edge
        or not SIDE[0] <= r.w <= SIDE[1]
        or r.h < min(TALL * root.rect.h, 420.0)
        or n.kind != "block"
    ):
        return False
    texts = texts_in(n)
    short = [t for t in texts if len(t.lines) == 1 and len(words_of(t)) <= ITEM_WORDS + 1]
    return len(short) >= 4 and len(short) >= 0.6 * len(texts)


def _beside_content(n: Node) -> Node | None:
    """The column of many short texts at the left or right of a much wider one, near the page's top: the sections of a manual."""
    if n.kind not in ("row", "grid") or n.rect.y > SECTIONS_TOP:
        return None
    columns = [c for c in n.children if c.kind == "block"]
    if len(columns) < 2 or any(c.kind not in ("block", "rule") for c in n.children):
        return None
    wide = max(columns, key=lambda c: c.rect.w)
    for c in (columns[0], columns[-1]):
        texts = texts_in(c)
        short = [t for t in texts if len(t.lines) == 1 and len(words_of(t)) <= ITEM_WORDS]
        boxed = c.surface or n.surface
        if (
            c is not wide
            and c.rect.w <= min(SIDE[1], wide.rect.w / 2)
            and c.rect.h >= SECTIONS_HIGH
            and ((len(short) >= SECTIONS and boxed is None) or (len(short) >= SECOND and _has_current(c)))
            and len(short) == len(texts)
            and not any(d.kind in ("field", "image", "table") for d in c.walk())
            and len(_painted(c)) <= 1
        ):
            return c
    return None


def _painted(column: Node) -> list[Node]:
    """The boxes in a column that are painted otherwise than the column."""
    ground = column.surface.fill.colour if column.surface else ""
    return [
        d
        for d in column.walk()[1:]
        if d.surface is not None and d.kind != "rule" and d.surface.fill.colour != ground
    ]


def _has_current(column: Node) -> bool:
    """Is one of a column's entries in a box of its own, as wide as the column: the section that is open?"""
    boxes = _painted(column)
    return len(boxes) == 1 and boxes[0].rect.h <= TARGET_HIGH and boxes[0].rect.w >= 0.8 * column.rect.w


def _make_side(side: Node, reading: Reading) -> None:
    """The column is the page's navigation; its commonest kind of entry are links, the others captions."""
    side.tag = "nav"
    side.attributes.setdefault("label", "Sections")
    side.reasons.append("a column of short texts at the page's side")
    for n in side.walk():
        _take_in_arrows(n)
        _pair_icons(n)
    for n in side.walk():  # the box of the section that is open
        if (
            n.surface is not None
            and n.tag == "div"
            and n.rect.h <= TARGET_HIGH
            and (side.surface is None or n.surface.fill.colour != side.surface.fill.colour)
            and (
                len(texts_in(n)) == 1 or (len(texts_in(n)) == 2 and len(words_of(texts_in(n)[1])[0]) <= COUNT)
            )
            and n is not side
        ):
            n.tag = "a"
            for d in n.walk()[1:]:
                d.tag = "span" if d.kind == "text" else d.tag
    entries = [n for n in side.walk() if _is_entry(n) and n.tag not in ("a", "span")]
    inner = {id(d) for n in entries if n.kind == "row" for d in n.walk()[1:]}
    entries = [n for n in entries if id(n) not in inner]
    counts: dict[float, int] = {}
    for n in entries:
        size = reading.styles[texts_in(n)[0].style].size
        counts[size] = counts.get(size, 0) + 1
    if not counts:
        return
    usual = max(counts, key=lambda s: (counts[s], s))
    lines = [t for t in texts_in(side) if len(t.lines) > 1 or t in entries]
    lines = lines if any(len(t.lines) > 1 for t in lines) else []
    for n in entries:
        text = texts_in(n)[0]
        style = reading.styles[text.style]
        if any(
            d is not n and 0 <= max(d.rect.y - n.rect.bottom, n.rect.y - d.rect.bottom) < RUN_ON
            for d in lines
        ):
            continue  # a line of a paragraph that was read in several styles
        caption = style.size < 0.93 * usual and " ".join(words_of(text)).isupper()
        if not caption and abs(style.size - usual) <= 0.2 * usual:
            as_link(n)
    for holder in side.walk():
        if holder.kind == "block":
            box = current_of(holder.children, stacked=True)
            wrap_runs(holder, lambda c, box=box: c.tag == "a" and (c.surface is None or c is box), 2)  # type: ignore[misc]
    box = next((c for n in side.walk() if (c := current_of(n.children, stacked=True))), None)
    for holder in side.walk():
        widen_targets(holder, box)
        for a, b in itertools.pairwise(holder.children):
            b.gap -= float(a.attributes.get("spread", 0))


def _lined_up(box: Node, entries: list[Node]) -> bool:
    """Does what is in the box begin where the other entries do?"""
    first = next(d for d in box.walk() if not d.children)
    return box.tag == "a" and any(abs(c.rect.x - first.rect.x) <= LEVEL for c in entries if _is_plain_link(c))


def _take_in_arrows(n: Node) -> None:
    """A column of small pictures beside a stack, each level with an entry, are the entries' own arrows and counters."""
    for i, c in enumerate(n.children):
        if c.kind not in ("row", "grid") or len(c.children) != 2:
            continue
        stack, column = c.children
        marks = [d for d in column.walk() if not d.children]
        entries = [e for e in stack.walk() if _is_entry(e)]
        inner = {id(d) for e in entries if e.kind == "row" for d in e.walk()[1:]}
        entries = [e for e in entries if id(e) not in inner]
        own = [next((e for e in entries if abs(e.rect.cy - m.rect.cy) <= LEVEL), None) for m in marks]
        if stack.kind != "block" or len(entries) < 3 or any(
            m.kind != "image" or max(m.rect.w, m.rect.h) > ARROW or e is None for m, e in zip(marks, own)
        ):  # fmt: skip
            continue
        right = max(m.rect.right for m in marks)
        for e in {id(e): e for e in own if e is not None}.values():
            mine = [m for m, o in zip(marks, own) if o is e]
            if e.kind == "text":  # the entry becomes a row: its words, and what stands at the end of it
                words = replace(e, gap=0.0, inset=0.0, width="hug")
                e.kind, e.runs, e.lines, e.children, e.cross = "row", [], [], [words], "center"
            for k, m in enumerate(mine):
                m.gap, m.inset = (AUTO if k == 0 else 8.0), 0.0
            e.children += mine
            e.rect = union([e.rect, *(m.rect for m in mine)])
            e.rect = Rect(e.rect.x, e.rect.y, right - e.rect.x, e.rect.h)
            e.cross, e.width = "center", "fill"
        stack.rect, stack.width = union([stack.rect, column.rect]), "fill"
        if c.surface is None and not any(c.padding):
            stack.gap, stack.inset = c.gap, c.inset
            n.children[i] = stack
        else:
            stack.gap = stack.inset = 0.0
            c.kind, c.children, c.columns = "block", [stack], []


def _pair_icons(n: Node) -> None:
    """In a narrow column an icon right above a short text, both about one middle, is one entry with it."""
    if n.kind != "block" or n.rect.w > NARROW_SIDE:
        return
    out: list[Node] = []
    for c in n.children:
        icon = out[-1] if out else None
        if (
            icon is not None and icon.kind == "image" and max(icon.rect.w, icon.rect.h) <= PAIRED
            and c.kind == "text" and _is_entry(c) and c.tag == "p"
            and abs(icon.rect.cx - c.rect.cx) <= LEVEL and 0 <= c.gap <= PAIRED
        ):  # fmt: skip
            pair = Node(
                "block", union([icon.rect, c.rect]), tag="a", children=[icon, c], gap=icon.gap, inset=0.0, width="fill",
                align="center", reasons=["an icon right above a short text"],
            )  # fmt: skip
            icon.gap = 0.0
            c.tag = "span"
            out[-1] = pair
        else:
            out.append(c)
    n.children = out


def widen_targets(stack: Node, box: Node | None = None) -> None:
    """Links under one another get padding out of the gaps between them, so that they are easy to hit; `box` is that of the one
    that is open, if the menu has one."""
    kids = stack.children
    if stack.attributes.get("list") != "1" or len(kids) < 2 or any(c.tag != "a" for c in kids):
        return
    if box is not None and _widen_like(box, kids):
        stack.gap += kids[0].gap
        stack.attributes["spread"] = f"{-kids[0].gap:g}"
        kids[0].gap = 0.0
        return
    if any(c.surface for c in kids):
        return
    least = min(c.gap for c in kids[1:])
    pad = round(min(TARGET, least / 2), 2)
    if pad < 2:
        return
    for i, c in enumerate(kids):
        if c.kind == "text":
            c.attributes["pad"] = f"{pad:g} 0"
        else:
            top, right, bottom, left = c.padding
            c.padding = (top + pad, right, bottom + pad, left)
        c.width = "fill"
        c.gap -= 2 * pad if i else 0.0
    stack.gap -= pad
    stack.attributes["spread"] = f"{pad:g}"


def _widen_like(box: Node, kids: list[Node]) -> bool:
    """All entries get the box of the one that is open, if they have the room."""
    pads = [(box.rect.h - c.rect.h) / 2 for c in kids]
    room = [c.gap - a - b for c, a, b in zip(kids[1:], pads, pads[1:])]
    if min([*pads, *room]) < -EVEN / 2 or any(c.surface for c in kids if c is not box):
        return False
    first = next(d for d in box.walk() if not d.children).rect.x - box.rect.x
    for i, (c, pad) in enumerate(zip(kids, pads)):
        if c is not box:
            left = max(0.0, min(c.inset, c.rect.x - box.rect.x))
            left = first if abs(left - first) <= NEAR else left
            if c.kind == "text":
                c.attributes["pad"] = f"{pad:g} {left:g}"
            else:
                top, right, bottom, before = c.padding
                c.padding = (top + pad, right + left, bottom + pad, before + left)
            c.width = "fill"
            c.inset = max(0.0, c.inset - left) if left != first else 0.0
        if i:
            c.gap -= pads[i - 1] + pad
    kids[0].gap -= pads[0]
    return True


def wrap_runs(n: Node, test: Callable[[Node], bool], least: int) -> None:
    """Put each run of at least `least` children that pass `test` into a list of their own."""
    if n.kind != "block" or n.attributes.get("list") or sum(map(test, n.children)) < least:
        return
    out: list[Node] = []
    run: list[Node] = []

    def close() -> None:
        if len(run) >= least and len(run) < len(n.children):
            node = Node("block", union(c.rect for c in run), children=list(run), width="fill", gap=run[0].gap)
            node.attributes["list"] = "1"
            run[0].gap = 0.0
            out.append(node)
        else:
            if len(run) >= least and n.tag == "div":
                n.attributes["list"] = "1"
            out.extend(run)
        run.clear()

    for c in n.children:
        if test(c):
            run.append(c)
        else:
            close()
            out.append(c)
    close()
    n.children = out


def _wordmark(root: Node, reading: Reading) -> None:
    """The first short text of the page's head, left of its navigation, leads home."""
    head = next((n for n in root.walk() if n.tag in ("header", "nav") and n.rect.y < TOP), None)
    if head is None or any(t.attributes.get("brand") for t in root.walk()):
        return
    texts = [t for t in texts_in(head) if t.rect.y < TOP]
    if not texts:
        return
    first = min(texts, key=lambda t: (t.rect.x, t.rect.y))
    side = head.attributes.get("label") == "Sections"
    if side and " ".join(words_of(first)).isupper():
        return  # a caption
    free = not any(
        first in a.walk() for a in head.walk() if a.tag in ("a", "button", "form", "search", "label", "li")
    )
    if (
        free
        and len(first.lines) == 1
        and len(words_of(first)) <= 3
        and first.kind == "text"
        and first.tag != "h1"
    ):
        as_link(first)
        first.attributes["brand"] = "1"


def stack_lists(root: Node, reading: Reading) -> None:
    """Runs of single links, or of short lines at even distances, under one another are lists."""
    foot = {id(d) for n in root.walk() if n.tag == "footer" for d in n.walk()}
    for n in root.walk():
        links = all(c.kind == "text" and c.tag == "a" and c.surface is None for c in n.children)
        if id(n) in foot and n.kind == "row" and n.tag == "div" and len(n.children) >= 2 and links:
            n.attributes["list"] = "1"
        if n.kind != "block" or n.tag not in ("div", "section", "main", "aside", "footer", "form", "td"):
            continue
        if n.tag == "form":
            continue
        _mend_links(n)
        headed = id(n) in foot or (bool(n.children) and "head" in n.children[0].attributes)
        wrap_runs(n, lambda c: c.kind == "text" and c.tag == "a" and c.surface is None, 2 if headed else 3)
        wrap_even_lines(n, reading)


def _mend_links(n: Node) -> None:
    """A line between links that is partly one and stands like them is one, too."""
    kids = n.children
    for i, c in enumerate(kids):
        if c.kind != "text" or c.tag != "p" or len(c.lines) != 1 or not any(r.tag == "a" for r in c.runs):
            continue
        beside = [kids[k] for k in (i - 1, i + 1) if 0 <= k < len(kids)]
        if beside and all(b.kind == "text" and b.tag == "a" and abs(b.rect.x - c.rect.x) < 3 for b in beside):
            as_link(c)


def wrap_even_lines(n: Node, reading: Reading) -> None:
    """Three or more short lines of one style at even distances, none a sentence, are a list."""
    kids = n.children
    runs: list[list[Node]] = []
    for c in kids:
        entry = (
            c.kind == "text"
            and c.tag == "p"
            and len(c.lines) == 1
            and 1 <= len(words_of(c)) <= ENTRY_WORDS
            and not words_of(c)[-1].endswith((".", ":", "?", "!"))
            and not c.attributes.get("bullet")
        )
        last = runs[-1][-1] if runs and runs[-1] else None
        if entry and last is not None and c.style == last.style:
            usual = runs[-1][1].gap if len(runs[-1]) > 1 else c.gap
            if abs(c.gap - usual) <= EVEN and c.gap <= 1.2 * c.rect.h:
                runs[-1].append(c)
                continue
        runs.append([c] if entry else [])
    long = {id(c) for run in runs if len(run) >= 3 for c in run}
    wrap_runs(n, lambda c: id(c) in long, 3)
