"""Columns of entries at the page's side, or beside what they lead to."""

from __future__ import annotations

import itertools
from dataclasses import replace
from statistics import median

from neige.core.model import Node, Reading, Rect
from neige.core.model.geometry import union
from neige.core.outline.places import AUTO
from neige.core.outline.stacks import ITEM_WORDS, as_link, is_entry, link_whole, wrap_runs
from neige.core.outline.targets import (
    LEVEL,
    TARGET_HIGH,
    current_of,
    widen_alone,
    widen_targets,
)
from neige.core.outline.words import node_text, texts_in, words_of

SECOND = 4  # entries that a second bar has at least
AT_SIDE, SET_IN = 8.0, 48.0  # px from the page's side at most; if it has icons
MARKED = 40.0  # px that such an icon is wide and high at most
HALF = 0.5  # of the column's height: what is higher holds its entries
SIDE = (56.0, 360.0)  # px: widths of a column at the page's side
TALL = 0.3  # of the page's height that such a column has at least
SECTIONS = 7  # entries that a column without a ground of its own has at least
SECTIONS_TOP, SECTIONS_HIGH = 320.0, 140.0  # px
RUN_ON = 5.0  # px between lines of one paragraph in a narrow column
ARROW = 22.0  # px: the largest arrow or counter at an entry's end
NARROW_SIDE = 130.0  # px: in a wider column icons stand before their words
PAIRED = 32.0  # px: the largest icon above its words, and the farthest
LINKED = 3  # entries beside which longer ones are entries, too
AT_EDGE, PANEL = 24.0, 420.0  # px of a panel from the page's side at most, and of its height at least
ICONED = 3  # entries with icons, from which a word in capitals without one leads nowhere
BRAND, BRAND_GAP = 110.0, 12.0  # px that the mark over its menu is high at most, and above the menu at least
COUNT = 4  # letters of the number at an entry's end


def is_side(n: Node, root: Node) -> bool:
    r = n.rect
    room = min(r.x, root.rect.right - r.right)
    if (
        room > SET_IN
        or not SIDE[0] <= r.w <= SIDE[1]
        or r.h < min(TALL * root.rect.h, 420.0)
        or n.kind != "block"
        or (room > AT_SIDE and not _is_iconed(n))
    ):
        return False
    texts = texts_in(n)
    short = [t for t in texts if len(t.lines) == 1 and len(words_of(t)) <= ITEM_WORDS + 1]
    return len(short) >= 4 and len(short) >= 0.6 * len(texts)


def _is_iconed(column: Node) -> bool:
    """Does a column have entries that all begin with a small picture, at one place?"""
    marks = [
        n.children[0].rect.x
        for n in column.walk()
        if n.kind == "row" and n.rect.h <= TARGET_HIGH and len(n.children) == 2 and not texts_in(n.children[0])
        and len(texts_in(n)) == 1 and max(n.children[0].rect.w, n.children[0].rect.h) <= MARKED
    ]  # fmt: skip
    middle = median(marks) if marks else 0.0
    return sum(abs(x - middle) <= LEVEL for x in marks) > ICONED


def beside_content(n: Node) -> Node | None:
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


def make_side(side: Node, reading: Reading) -> None:
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
            link_whole(n)
    entries = [n for n in side.walk() if is_entry(n) and n.tag not in ("a", "span")]
    inner = {id(d) for n in entries if n.kind == "row" for d in n.walk()[1:]}
    cards = {id(d) for n in side.walk() if n.rect.h <= HALF * side.rect.h and _offers(n) for d in n.walk()}
    entries = [n for n in entries if id(n) not in inner and id(n) not in cards]
    counts: dict[float, int] = {}
    for n in entries:
        size = reading.styles[texts_in(n)[0].style].size
        counts[size] = counts.get(size, 0) + 1
    if not counts:
        return
    usual = max(counts, key=lambda s: (counts[s], s))
    iconed = [
        n
        for n in side.walk()
        if (n in entries or n.tag == "a")
        and any(d.kind == "image" or (d.kind == "block" and not d.children) for d in n.walk())
    ]
    lines = [t for t in texts_in(side) if len(t.lines) > 1 or t in entries]
    lines = lines if any(len(t.lines) > 1 for t in lines) else []
    told = [t for t in texts_in(side) if node_text(t).endswith(":")]
    told += [b for a, b in itertools.pairwise(texts_in(side)) if a in told]  # "signed in as:", and who
    for n in entries:
        text = texts_in(n)[0]
        if text in told:
            continue
        style = reading.styles[text.style]
        if any(
            d is not n
            and (len(d.lines) > 1 or d.style != text.style)
            and 0 <= max(d.rect.y - n.rect.bottom, n.rect.y - d.rect.bottom) < RUN_ON
            for d in lines
        ):
            continue  # a line of a paragraph that was read in several styles
        small = style.size < 0.93 * usual or (len(iconed) >= ICONED and n not in iconed)
        caption = small and " ".join(words_of(text)).isupper()
        if not caption and abs(style.size - usual) <= 0.2 * usual:
            as_link(n)
    for holder in side.walk():
        _link_longer(holder)
    for holder in side.walk():
        if holder.kind == "block":
            box = current_of(holder.children, stacked=True)
            wrap_runs(holder, lambda c, box=box: c.tag == "a" and (c.surface is None or c is box), 2)  # type: ignore[misc]
    box = next((c for n in side.walk() if (c := current_of(n.children, stacked=True))), None)
    for holder in side.walk():
        widen_targets(holder, box)
    for holder in side.walk():
        for a, b in itertools.pairwise(holder.children):
            b.gap -= float(a.attributes.get("spread", 0))
    for holder in side.walk():
        widen_alone(holder)
    _end_within(side)


def _offers(n: Node) -> bool:
    """Is this a card in the menu's column that says something, with a button under it?"""
    buttons = [d for d in n.walk()[1:] if d.tag in ("a", "button") and d.surface is not None]
    return n.surface is not None and n.tag == "div" and len(buttons) == 1 and len(texts_in(n)) > 1


def _link_longer(holder: Node) -> None:
    """Among entries that lead somewhere, those that say more, in the same letters and no longer than two lines, do, too."""
    links = [c for c in holder.children if c.kind == "text" and c.tag == "a"]
    if holder.kind != "block" or len(links) < LINKED or 2 * len(links) < len(holder.children):
        return
    styles = {c.style for c in links}
    for c in holder.children:
        if c.kind == "text" and c.tag == "p" and c.style in styles and len(c.lines) <= 2:
            as_link(c)


def _end_within(side: Node) -> None:
    """What the padding of the last entries adds is taken from the room below them, up to the box that they are in."""
    for box in (n for n in side.walk() if n.surface is not None or n is side):
        last = box
        while last.children and not last.attributes.get("spread"):
            last = max(last.children, key=lambda c: c.rect.bottom)
        spread = float(last.attributes.get("spread", 0))
        if spread and last is not box:
            top, right, bottom, left = box.padding
            box.padding = (top, right, max(0.0, bottom - spread), left)


def _take_in_arrows(n: Node) -> None:
    """A column of small pictures beside a stack, each level with an entry, are the entries' own arrows and counters."""
    for i, c in enumerate(n.children):
        if c.kind not in ("row", "grid") or len(c.children) != 2:
            continue
        stack, column = c.children
        marks = [d for d in column.walk() if not d.children]
        entries = [e for e in stack.walk() if is_entry(e)]
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
            and c.kind == "text" and is_entry(c) and c.tag == "p"
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


def part_brands(root: Node) -> None:
    """A panel at the page's side with a mark or a name over its menu is that page's aside, and the menu in it the navigation."""
    for n in [n for n in root.walk() if n.tag == "nav" and n.kind == "block" and n.rect.w <= SIDE[1]]:
        at_edge = n.rect.x <= AT_EDGE or root.rect.right - n.rect.right <= AT_EDGE
        if not at_edge or n.rect.h < PANEL or n.attributes.get("list") or len(n.children) < 2:
            continue
        brand, rest = n.children[0], n.children[1:]
        ruled = rest[0].kind == "rule"
        rest = rest[1:] if ruled else rest
        styles = [t.style for c in rest for t in texts_in(c)]
        own = texts_in(brand)
        named = 0 < len(own) <= 2 and brand.rect.h <= BRAND and len(styles) >= 4
        if not named or own[0].style == max(set(styles), key=styles.count) or "head" in own[0].attributes:
            continue
        if not (ruled or rest[0].gap >= BRAND_GAP):
            continue
        nav = Node(
            "block", union(c.rect for c in rest), tag="nav", children=rest, width="fill", gap=rest[0].gap
        )
        nav.attributes["label"] = n.attributes.pop("label", "Sections")
        nav.reasons.append("the menu under a panel's mark")
        rest[0].gap = 0.0
        n.tag, n.children = "aside", [*n.children[: len(n.children) - len(rest)], nav]
