"""Navigation: bars at the top of the page wherever they stand, columns at its side, the wordmark, and stacks of links or items.

All of it changes tags and moves space from gaps into paddings; nothing is moved on the page.
"""

from __future__ import annotations

import itertools
import re

from neige.core.model import Node, Reading, Rect
from neige.core.model.geometry import union
from neige.core.outline.places import AUTO
from neige.core.outline.sides import SECOND, beside_content, is_side, make_side
from neige.core.outline.stacks import ITEM_WORDS, as_link, is_entry, link_whole
from neige.core.outline.targets import (
    LEVEL,
    give_room,
    is_plain_link,
)
from neige.core.outline.words import TURN, body_style, node_text, texts_in, words_of
from neige.core.reading.colour import away

TOP = 150.0  # px from the page's top within which a bar is its header
LOW_MENU = 480.0  # px within which the menu stands of a page that begins with its name,
LOW_ENTRIES = 4  # and how many entries it has at least
BAR = 130.0  # px: a higher row is no bar
TITLE = 1.35  # of the running text's size: larger texts of several words are headings, not entries
MOST_ROOM = 64.0  # px above a bar that are its own
NEAR_WEIGHT = 200  # by which entries of one menu may have been read too light or heavy
NEAR_INK = 0.12  # in OKLab likewise
CARET = (10.0, 2.3)  # px that the arrow on a button is wide, and times as wide as high, at most
CHEVRON = (5.0, 14.0)  # px wide
SEARCH = re.compile(r"(search|go|find)\b", re.I)  # what a button beside a field to search with says


def find_menus(root: Node, reading: Reading) -> None:
    """Tag the page's bars and side columns, and link their entries; run after the landmarks of the page's bands are known."""
    if not any(n.tag == "nav" and n.rect.y < TOP and n.rect.h < BAR for n in root.walk()):
        within = {id(d) for n in root.walk() if n.tag == "nav" for d in n.walk()}
        bars = [n for n in root.walk() if id(n) not in within and _is_bar(n, root, reading)]
        if bars:  # of two bars the one with more entries is the menu; of one within another, the outer
            as_menu(max(bars, key=lambda n: (_entries(n), len(n.walk()), -n.rect.y)), reading, "Main")
    if not any(n.tag == "nav" and n.rect.y < LOW_MENU for n in root.walk()):
        rows = [n for n in root.walk() if _is_low_menu(n)]
        if rows:
            as_menu(min(rows, key=lambda n: n.rect.y), reading, "Main")
    # a second bar under the first: the sections
    taken = {id(d) for n in root.walk() if n.tag in ("nav", "header") for d in n.walk()}
    second = [
        n for n in root.walk() if id(n) not in taken and _is_bar(n, root, reading) and _entries(n) >= SECOND
    ]
    if second:
        as_menu(max(second, key=lambda n: (_entries(n), len(n.walk()))), reading, "Sections")
    beside = [c for n in root.walk() if (c := beside_content(n)) is not None]
    for n in root.walk():
        if n.tag in ("div", "aside", "nav") and (is_side(n, root) or any(n is c for c in beside)):
            make_side(n, reading)
            break
    for n in root.walk():
        _fill_bar(n)
    _wordmark(root, reading)


BAR_ENTRIES = 4  # that a bar has at least whose last stands apart


def link_apart(root: Node) -> None:
    """What stands apart from a bar's entries, at its other end, an icon and a word set as theirs, is an entry, too; a badge may be on it."""
    for bar in (n for n in root.walk() if n.tag == "nav" and n.kind == "row"):
        led = [d for d in bar.walk() if d.tag in ("a", "button") and texts_in(d)]
        styles = {texts_in(d)[0].style for d in led if d.surface is None}
        for c in bar.children:
            texts = texts_in(c)
            named = [t for t in texts if t.style in styles]
            brief = len(named) == 1 and len(words_of(named[0])) <= ITEM_WORDS and len(texts) <= 2
            free = c.kind == "row" and c.tag == "div" and not c.attributes.get("list")
            if free and brief and not any(d.tag in ("a", "button") or d.kind == "field" for d in c.walk()):
                link_whole(c)
                c.reasons.append("set as the entries of its bar")
        _take_last(bar, styles)


def _take_last(bar: Node, styles: set[int]) -> None:
    """A word by itself at the other end of a bar, set as the entries of its list, is the last of them."""
    if len(bar.children) != 2:
        return
    entries, last = bar.children
    if not entries.attributes.get("list") or len(entries.children) < BAR_ENTRIES:
        return
    plain = last.kind == "text" and last.tag == "p" and len(last.lines) == 1 and last.surface is None
    if not plain or last.gap != AUTO or last.style not in styles or len(words_of(last)) > 2:
        return
    as_link(last)
    last.reasons.append("set as the entries of its bar")
    if pad := entries.children[-1].attributes.get("pad"):
        last.attributes["pad"] = pad
    last.inset = entries.children[-1].inset
    entries.children.append(last)
    entries.rect, entries.width = union([entries.rect, last.rect]), "grow"
    bar.children = [entries]


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
    boxed = {id(t) for d in n.walk() if d is not n and d.surface is not None for t in texts_in(d)}
    plain = [t for t in entries if t not in titles and id(t) not in boxed]
    if titles and len(plain) < 2:
        return False  # a title, what stands above it, and buttons
    named = sum(any(ch.isalpha() for w in words_of(t) for ch in w) for t in entries)
    asked = any(d.kind == "field" for d in n.walk())
    if any(d.kind == "field" for d in n.children) or (asked and len(plain) < LOW_ENTRIES):
        return False  # a bar to search in, with where one is and tools beside that
    return named >= 2 and len(short) == len(texts)


def _is_low_menu(n: Node) -> bool:
    """A row of nothing but words set alike and as far apart, under the name of a page that has no other menu."""
    if n.kind != "row" or n.tag != "div" or n.rect.y > LOW_MENU or len(n.children) < LOW_ENTRIES:
        return False
    alike = len({c.style for c in n.children}) == 1
    words = alike and all(
        c.kind == "text" and len(c.lines) == 1 and len(words_of(c)) <= 2 and words_of(c)[0].isalpha()
        for c in n.children
    )
    gaps = [b.rect.x - a.rect.right for a, b in itertools.pairwise(n.children)]
    return words and max(gaps) - min(gaps) <= LEVEL and min(gaps) > 2 * LEVEL


def _entries(bar: Node) -> int:
    """The most entries that stand side by side somewhere in a bar."""
    return max((sum(is_entry(c) for c in n.children) for n in bar.walk() if n.kind != "block"), default=0)


def as_menu(bar: Node, reading: Reading, label: str) -> None:
    """Make a bar a navigation with links, those side by side a list."""
    bar.tag = "nav"
    bar.attributes["label"] = label
    bar.reasons.append("short texts in a row at the top of the page")
    menu = max(
        (n for n in bar.walk() if n.kind != "block" and sum(is_entry(c) for c in n.children) >= 2),
        key=lambda n: sum(is_entry(c) for c in n.children),
        default=None,
    )
    for c in bar.walk():
        if _is_cell(c, bar):  # an entry between lines is as large as its cell
            link_whole(c)
    if menu is None:
        return
    for c in menu.children:
        as_link(c)
    set_alike([c for c in menu.children if is_plain_link(c)], reading)
    if menu.kind == "row":
        give_room(menu)
    if len(menu.children) >= 2 and all(c.tag in ("a", "img") for c in menu.children):
        menu.attributes["list"] = "1"


def _is_cell(c: Node, bar: Node) -> bool:
    """Is a part of a bar painted as that is, with an upright line at its side, and a few words in it?"""
    s, texts = c.surface, texts_in(c)
    if c is bar or s is None or bar.surface is None or s.fill != bar.surface.fill or c.tag != "div":
        return False
    lined = any(s.border[1::2]) and not (s.border[0] or s.border[2])
    return lined and len(texts) == 1 and len(texts[0].lines) == 1 and len(words_of(c)) <= ITEM_WORDS


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
            away(s.colour, of.colour) <= NEAR_INK
        ):  # fmt: skip
            t.style = usual
            for r in t.runs:
                r.style = usual


def open_menus(root: Node) -> None:
    """An entry of a menu, or a button, that ends in a small wide mark, a chevron, opens something: it is a button."""
    bars = {id(c) for nav in root.walk() if nav.tag in ("nav", "header") for c in nav.walk()}
    for c in root.walk():
        in_bar = c.surface is None and id(c) in bars
        if c.kind != "row" or c.tag not in ("a", "button") or not (in_bar or c.surface is not None):
            continue
        leaves = [d for d in c.walk() if not d.children]
        last = leaves[-1] if leaves else c
        w, h = last.rect.w, last.rect.h
        # on a button, a longer or flatter one may be an arrow to the right
        widest, flattest = (CHEVRON[1], 3.0) if in_bar else CARET
        wide = CHEVRON[0] <= w <= widest and 1.3 * h <= w <= flattest * h
        turns = TURN.fullmatch(node_text(c))  # its arrow tells where to
        if last.kind == "image" and wide and not turns and any(d.kind == "text" for d in leaves):
            c.tag = "button"
            c.attributes["opens"] = last.attributes["caret"] = "1"
            c.reasons.append("its words end in a chevron")


def wrap_searches(root: Node, boxed: bool = False) -> None:
    """A field to search with and the button beside it are a form; without a button (WCAG H32) it is a search by itself.

    `boxed`: only where the two have a box of their own, whatever other fields there are."""
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
                sends = [
                    k for k in rest if k.attributes.get("label") == "Search" or SEARCH.match(node_text(k))
                ]
                if boxed and not sends:
                    break
                n.tag = "form" if any(k.attributes.get("role") == "button" for k in rest) else "search"
                n.attributes["label"] = "Search"
            elif not boxed:
                form = Node(
                    "block", c.rect, tag="search", children=[c], gap=c.gap, inset=c.inset, width=c.width, align=c.align,
                    attributes={"label": "Search"},
                )  # fmt: skip
                c.gap = c.inset = 0.0
                c.width = "fill"
                n.children[i] = form
            break


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
