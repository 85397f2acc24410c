"""Buttons, fields, badges and choices: finished boxes that are something to press or to fill in."""

from __future__ import annotations

import re
from dataclasses import replace

from neige.core.model import Node, Reading, Rect
from neige.core.model.geometry import edges
from neige.core.outline.asked import find_asked
from neige.core.outline.choices import find_choices
from neige.core.outline.fields import (
    FIELD_HEIGHT,
    FIELD_WORDS,
    LARGE_FIELD,
    as_field,
    looks_like_fields,
    stacked_fields,
)
from neige.core.outline.stacks import link_whole
from neige.core.outline.words import ACTION, TURN, body_style, node_text, texts_in
from neige.core.reading.colour import chroma, contrast

BUTTON_MAX = (420.0, 76.0)  # px: larger filled boxes with words are cards
COUNT_HIGH = 34.0  # px: a capsule that says how many is no higher
BUTTON_LARGE = 100.0  # px: what says what to do may be as high
ADDRESS = re.compile(r"\S+@\S+\.\w+|https?://\S+")  # nobody writes these on a button
ASKING = re.compile(r"(search|find)\b", re.I)
KEY_SIGNS, KEY = 6, 28.0  # signs on the key that leads to a search, and px that it is high at most
LEVEL_BOXES = 2.0  # px between the middles of boxes side by side
BAR_HIGH, BAR_WIDE = 84.0, 220.0  # px: a frame that a field and its button share
BAR_START, BAR_END, BAR_PAD = 64.0, 16.0, 16.0  # px at its ends, and before the words
FIELD_USUAL = 48.0  # px that a field is high as a rule
ASKED = 4  # words that a higher one says when it is empty
GRIP = 14.0  # px: what a field's size is changed by, at its lower right corner
BESIDE = (0.5, 0.2)  # of a field's width: an icon in it is no wider, and no farther from an end
OPENS = re.compile(
    r"(more )?(actions?|options|tools|export|manage)|dropdown( button)?|more", re.I
)  # on a button with an arrow
CHEVRON = 18.0  # px: the arrow at the end of a select, and how far from it its words and the arrow are
MUTED_ON_DARK = 10.0  # contrast of what a field says before it is filled in
DARK = 7.0  # contrast to white from which a ground is dark: fields on it are, too
TINT = 1.06  # contrast to its ground that a field without a frame has at least
PICTURED = "#777777"  # the ground on a picture: neither dark nor what anything on it is painted in
ENTRY_EDGE = 3.0  # px by which entries of a menu may begin elsewhere, or boxes be wider,
RIMMED, RIM = 24.0, 1.0  # px that a button is high at least, and of its border
INITIALS = re.compile(r"[A-Z]{2}")
SAME_SIZE = 0.06  # and by which their sizes may differ
ENTRY_STEP = 1.5  # heights of the current one's box to the next entry at most
AMOUNT = 32.0  # px between how many and the button that takes them
BUTTON_PAD = 8.0  # px by which an icon and words in the middle of a box are nearer one end
TOUCHING = 2.0  # px between cells of a table
WRITTEN = 16  # words in a field of one line at most
SNUG = 5.0  # px at the sides of words: no button has so little room
WIDE_BUTTON = 700.0  # px: a vivid box with centred words that is no wider is a button, not a card
TEXTAREA = (76.0, 420.0)  # px high


def find_controls(content: list[Node], holder: Node, reading: Reading) -> list[Node]:
    """Turn finished boxes into buttons, fields, badges; join checkboxes to their labels. `content` is one holder's."""
    out = _divided(_initials([_control(n, holder, reading) for n in content]), holder)
    out = find_choices(_amounts(_counts(_bar_with_button(out, holder, reading)), reading), reading)
    return find_asked(out, reading)


def _initials(content: list[Node]) -> list[Node]:
    """One letter in a square or a disc by itself is a mark, or somebody's initial; several alike are to choose from. Two capitals in
    a disc are somebody's initials."""
    for n in content:
        r = n.surface.radius if n.surface else 0.0
        disc = abs(n.rect.w - n.rect.h) <= 2 and r >= 0.45 * n.rect.h
        if disc and n.attributes.get("role") == "button" and INITIALS.fullmatch(node_text(n)):
            n.tag = "span"
            n.attributes["role"] = "badge"
            n.reasons.append("initials in a disc")
    square = [
        n
        for n in content
        if n.attributes.get("role") == "button"
        and len(node_text(n)) == 1
        and node_text(n).isalpha()
        and abs(n.rect.w - n.rect.h) <= 0.2 * n.rect.h
    ]
    for n in square:
        alike = (o for o in square if o is not n and abs(o.rect.w - n.rect.w) <= 2)
        if not any(abs(o.rect.cy - n.rect.cy) <= LEVEL_BOXES for o in alike):
            n.tag = "span"
            n.attributes["role"] = "badge"
            n.reasons.append("one letter in a box of its own")
    return content


def _divided(content: list[Node], holder: Node) -> list[Node]:
    """Cells that lines part, as wide as each other and all together as their card, each with an icon and a few words in its middle:
    what can be done with what the card shows."""
    cells = [n for n in content if n.tag == "div" and n.surface is not None and _is_choice(n)]
    for first in filter(_parted, cells):
        row = [n for n in cells if abs(n.rect.y - first.rect.y) <= 1 and abs(n.rect.h - first.rect.h) <= 1]
        like = all(abs(n.rect.w - first.rect.w) <= ENTRY_EDGE for n in row)
        full = sum(n.rect.w for n in row) >= holder.rect.w - ENTRY_EDGE
        if len(row) > 1 and like and full and sum(_parted(n) for n in row) >= len(row) - 1:
            for n in row:
                link_whole(n)
                n.reasons.append("an icon and words in the middle of one of the cells of a card")
    return content


def _parted(n: Node) -> bool:
    """Has a box nothing but a line at one of its sides?"""
    s = n.surface
    return s is not None and bool(s.border[1]) != bool(s.border[3]) and not s.border[0] and not s.border[2]


def _is_choice(n: Node) -> bool:
    """An icon and a few words after it, in the middle of their box?"""
    texts, pictures = texts_in(n), [k for k in n.walk() if k.kind == "image"]
    pair = len(texts) == len(pictures) == 1 and len(texts[0].lines) == 1
    if not pair or any(map(str.isdigit, node_text(n))):
        return False
    start, end = pictures[0].rect.x - n.rect.x, n.rect.right - texts[0].rect.right
    return abs(start - end) <= BUTTON_PAD and len(node_text(n).split()) <= 3


def _counts(content: list[Node]) -> list[Node]:
    """The one low capsule with nothing but a number in it, and no other number level with it, says how many there are."""
    numbers = _numbers(content)
    n = numbers[0] if len(numbers) == 1 else None
    if n is None or n.surface is None or n.surface.radius < 0.4 * n.rect.h or n.rect.h > COUNT_HIGH:
        return content
    if not any(
        c is not n and node_text(c).isdigit() and abs(c.rect.cy - n.rect.cy) <= LEVEL_BOXES for c in content
    ):
        n.tag = "span"
        n.attributes["role"] = "badge"
        n.reasons.append("a number in a capsule")
    return content


def _numbers(content: list[Node]) -> list[Node]:
    """The buttons with nothing but a number on them."""
    return [n for n in content if n.attributes.get("role") == "button" and node_text(n).isdigit()]


def _amounts(content: list[Node], reading: Reading) -> list[Node]:
    """The one framed pale box with nothing but a number in it, before a button with words that is as high, is to be filled in."""
    numbers = _numbers(content)
    if len(numbers) != 1:
        return content
    n = numbers[0]
    framed = (
        n.surface is not None and all(n.surface.border) and contrast(n.surface.fill.colour, "#ffffff") < 1.2
    )
    beside = any(
        c.attributes.get("role") == "button"
        and any(w.isalpha() for w in node_text(c).split())
        and abs(c.rect.cy - n.rect.cy) <= 2
        and abs(c.rect.h - n.rect.h) <= 4
        and 0 < c.rect.x - n.rect.right <= AMOUNT
        for c in content
    )
    return [as_field(c, node_text(c), reading) if c is n and framed and beside else c for c in content]


def _bar_with_button(content: list[Node], holder: Node, reading: Reading) -> list[Node]:
    """A box with a button at its end and, before that, nothing but a short pale text is a field in a frame that both share."""
    r = holder.rect
    texts = [n for n in content if n.kind == "text"]
    boxes = [n for n in content if n.surface is not None]
    if holder.surface is None or len(texts) != 1 or len(boxes) != 1 or len(content) > 3:
        return content
    text, button = texts[0], boxes[0]
    style = reading.styles[text.style]
    key = len(node_text(button)) <= KEY_SIGNS and button.rect.h <= KEY and bool(ASKING.match(node_text(text)))
    shared = (
        r.h <= BAR_HIGH
        and r.w >= BAR_WIDE
        and (key or button.attributes.get("role") == "button")
        and r.right - button.rect.right <= BAR_END
        and button.rect.h >= 0.5 * r.h
        and text.rect.right < button.rect.x + (BAR_PAD if key else 0.0)
        and text.rect.x - r.x <= BAR_START
        and (key or button.rect.x - text.rect.right >= 0.1 * r.w)
    )
    pale = contrast(style.colour, holder.surface.fill.colour) < 7.5 and chroma(style.colour) < 0.06
    if not shared or not pale or len(text.lines) != 1 or len(node_text(text).split()) > 8:
        return content
    icons = [n for n in content if n.kind == "image"]
    start = max((n.rect.right for n in icons if n.rect.right < text.rect.x), default=text.rect.x - BAR_PAD)
    start = min(start, text.rect.x)
    top, bottom = button.rect.y, button.rect.bottom
    if key:
        top, bottom = r.y + holder.surface.border[0], r.bottom - holder.surface.border[2]
        for t in texts_in(button):
            t.tag = "span"
    room = Node("block", edges(max(start, r.x), top, button.rect.x, bottom), children=[text])
    button.tag = "kbd" if key else "button"
    return [as_field(room, node_text(text), reading) if n is text else n for n in content]


def _control(n: Node, holder: Node, reading: Reading) -> Node:
    s = n.surface
    if s is None or n.kind not in ("block", "row") or n.tag != "div" or s.picture >= 0:
        return n
    if any(k.attributes.get("role") == "button" or k.kind == "field" for k in n.walk()[1:]):
        return n  # what holds a control is none
    stacked = stacked_fields(n, reading)
    if stacked is not None:
        return stacked
    texts = texts_in(n)
    words = node_text(n).split()
    low, high = FIELD_HEIGHT
    ground = holder.surface.fill.colour if holder.surface else reading.background.colour
    if holder.surface and holder.surface.picture >= 0:
        ground = PICTURED
    framed = sum(1 for b in s.border if b) >= 3
    empty = not texts and not any(k.surface for k in n.children)
    if empty:
        grips = [k for k in n.walk() if k.kind == "image"]
        corner = len(grips) == 1 and max(grips[0].rect.w, grips[0].rect.h) <= GRIP and (
            n.rect.right - grips[0].rect.right <= GRIP and n.rect.bottom - grips[0].rect.bottom <= GRIP
        )  # fmt: skip
        if corner and framed and TEXTAREA[0] / 2 < n.rect.h <= TEXTAREA[1] and n.rect.w >= 100:
            n.children = []  # the browser draws the grip at its corner
            return as_field(n, "", reading, "textarea")
        shown = any(g.rect.w > BESIDE[0] * n.rect.w or _off_ends(g, n) > BESIDE[1] * n.rect.w for g in grips)
        if (
            low + 2 <= n.rect.h <= high
            and n.rect.w >= 1.2 * n.rect.h
            and framed
            and not shown
            and contrast(s.fill.colour, "#ffffff") < 1.6
        ):
            return as_field(n, "", reading)
        return n
    if not texts:
        return n
    if _in_lattice(n.rect, reading):
        return n  # a table's cell
    inked = reading.styles[texts[0].style]
    one_line = len(texts) == 1 and len(texts[0].lines) == 1
    if one_line and len({r.style for r in texts[0].runs}) > 1 and len(words) > 2:
        return n  # what is written in a field or on a button is set alike
    if one_line and _among_entries(n, texts[0], reading):
        return n  # the current entry of a menu
    left = texts[0].rect.x - n.rect.x
    right = n.rect.right - texts[-1].rect.right
    written_right = right
    pictures = [k for k in n.walk() if k.kind == "image"]
    if pictures:
        left = min(left, min(p.rect.x for p in pictures) - n.rect.x)
        right = min(right, n.rect.right - max(p.rect.right for p in pictures))
    even = abs(left - right) <= max(4.0, 0.12 * n.rect.w)
    dark = contrast(ground, "#ffffff") > DARK and contrast(s.fill.colour, ground) < 1.6
    pale = contrast(s.fill.colour, "#ffffff") < 1.35 or dark
    if pale and n.rect.w > BUTTON_MAX[0] and s.border[2] and not any((s.border[0], s.border[1], s.border[3])):
        return n  # the head of a panel
    asks = bool(ASKING.match(node_text(n))) and (right < 60 or not pictures)
    if one_line and len(words) <= 4 and asks and low <= n.rect.h <= high and n.rect.w >= 4 * n.rect.h and (
        framed or s.fill.colour != ground
    ) and written_right > 0.4 * n.rect.w:  # fmt: skip
        return as_field(n, node_text(n), reading)
    counted = (
        len(pictures) == 1
        and one_line
        and node_text(n).isdigit()
        and pictures[0].rect.x > texts[0].rect.right
    )
    chevron = (
        one_line and len(pictures) == 1 and pictures[0].rect.x > texts[0].rect.right
        and pale and (framed or s.fill.colour != ground)
        and pictures[0].rect.w <= CHEVRON and n.rect.right - pictures[0].rect.right <= CHEVRON
        and texts[0].rect.x - n.rect.x <= CHEVRON and chroma(inked.colour) < 0.06 and low <= n.rect.h <= high
    )  # fmt: skip
    if chevron and not (TURN.fullmatch(node_text(n)) or OPENS.fullmatch(node_text(n))):
        return as_field(n, node_text(n), reading)
    if counted and framed and pale and low <= n.rect.h <= high and n.rect.w >= 1.4 * n.rect.h:
        return as_field(n, node_text(n), reading)  # so many at a time
    bare = not any(k.surface is not None for k in n.walk()[1:])
    if (
        bare and one_line and len(words) <= 8 and TEXTAREA[0] < n.rect.h <= TEXTAREA[1] and n.rect.w >= 160 and pale and (framed or (dark and s.fill.colour != ground))
        and texts[0].rect.y - n.rect.y < 24 and left < 40 and not pictures
        and (contrast(inked.colour, s.fill.colour) < 7 or len(words) <= 3)
    ):  # fmt: skip
        return as_field(n, node_text(n), reading)
    written = len(texts) == 1 and len(texts[0].lines) > 1 and inked.category != "monospace"
    written = written and n.rect.h <= TEXTAREA[1] and left < 40
    if (
        written
        and all(s.border)
        and pale
        and bare
        and texts[0].rect.y - n.rect.y < 24
        and looks_like_fields(s, reading)
    ):
        return as_field(n, node_text(n), reading, "textarea")
    if one_line and framed and pale and bare and ADDRESS.fullmatch(node_text(n)) and low <= n.rect.h <= high:
        return as_field(n, node_text(n), reading)
    two_lines = (
        len(texts) == 1
        and len(texts[0].lines) == 2
        and bool(ACTION.match(node_text(n)))
        and not framed
        and not pale
    )
    large = one_line and bool(ACTION.match(node_text(n))) and n.rect.h <= BUTTON_LARGE and even
    brief = len(words) <= 6 or (
        one_line and len(words) <= WRITTEN and framed and pale and looks_like_fields(s, reading)
    )
    if (one_line or two_lines) and brief and (n.rect.h <= BUTTON_MAX[1] or large):
        muted = (
            contrast(inked.colour, s.fill.colour) < (MUTED_ON_DARK if dark else 7)
            and chroma(inked.colour) < 0.06
        )
        if (
            bare
            and low <= n.rect.h
            and (framed or contrast(s.fill.colour, ground) >= TINT)
            and pale
            and n.rect.w >= 110
            and written_right > 1.8 * max(left, 0.0) + 12
            and texts[0].rect.x - n.rect.x < 60
            and (muted or framed)
            and inked.weight < 600
            and inked.size <= LARGE_FIELD * reading.styles[body_style(reading)].size
            and chroma(inked.colour) < 0.09
            and (n.rect.h <= FIELD_USUAL or _may_be_asked(node_text(n), muted))
        ):
            return as_field(n, node_text(n), reading)
        asking = bool(ACTION.match(node_text(n))) and not pale
        # the rest of an uneven button is an icon that could not be told from what is behind it
        nearly = (
            asking
            and len(words) <= 4
            and n.rect.w <= BUTTON_MAX[0]
            and min(left, right) >= 8
            and max(left, right) < 90
        )
        vivid = chroma(s.fill.colour) > 0.09 and s.radius > 0 and one_line and len(words) <= 4
        if (
            (even and n.rect.w <= (WIDE_BUTTON if vivid else BUTTON_MAX[0]))
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
            elif pale and (inked.category == "monospace" or max(left, right) < SNUG) and not (
                ACTION.match(node_text(n))
            ):  # fmt: skip
                n.reasons.append("words on a pale ground of their own: code, or marked")
            elif v_even and n.rect.h >= 24 and (s.fill.colour != ground or framed):
                n.tag = "a"
                n.attributes["role"] = "button"
                n.reasons.append("short centred words on a filled or outlined box")
    return n


def _may_be_asked(text: str, muted: bool) -> bool:
    """May a high box with this in it be a field: does it name what people are asked for, or is it a few muted words?"""
    return any(k in text.lower() for k in FIELD_WORDS) or (muted and len(text.split()) <= ASKED)


def _in_lattice(r: Rect, reading: Reading) -> bool:
    """Do boxes as high touch this one at a side, and boxes as wide above or below it?"""
    beside = any(
        min(abs(o.rect.x - r.right), abs(o.rect.right - r.x)) <= TOUCHING
        and abs(o.rect.y - r.y) <= TOUCHING
        and abs(o.rect.bottom - r.bottom) <= TOUCHING
        for o in reading.surfaces
    )
    return beside and any(
        min(abs(o.rect.y - r.bottom), abs(o.rect.bottom - r.y)) <= TOUCHING
        and abs(o.rect.x - r.x) <= TOUCHING
        and abs(o.rect.right - r.right) <= TOUCHING
        for o in reading.surfaces
    )


def _off_ends(picture: Node, box: Node) -> float:
    """px from a picture to the nearer end of its box."""
    return min(picture.rect.x - box.rect.x, box.rect.right - picture.rect.right)


def _among_entries(n: Node, text: Node, reading: Reading) -> bool:
    """Do lines as large begin right above and right below a box where its own does, none of them in a box as wide as that?"""
    size, base = reading.styles[text.style].size, reading.lines[text.lines[0]].baseline
    sides: set[bool] = set()
    for line in reading.lines:
        step = abs(line.baseline - base)
        level = (
            abs(line.box.x - text.rect.x) <= ENTRY_EDGE
            and abs(reading.styles[line.style].size / size - 1) <= SAME_SIZE
        )
        if not level or not n.rect.h <= step <= ENTRY_STEP * n.rect.h:
            continue
        if any(
            abs(s.rect.w - n.rect.w) <= ENTRY_EDGE and line.box.inside(s.rect, 0.9) for s in reading.surfaces
        ):
            return False
        sides.add(line.baseline < base)
    return len(sides) == 2


def rim_buttons(root: Node) -> None:
    """Filled buttons get a border in their own colour. It does not show, but where somebody's colours replace the page's (forced
    colours, CSS Color Adjustment 1) fills go and borders stay: a button without one would be no button any more."""
    for n in root.walk():
        s = n.surface
        pressed = n.tag == "button" or n.attributes.get("role") == "button"
        if not pressed or s is None or any(s.border) or s.fill.stops or not s.fill.colour or s.picture >= 0:
            continue
        if n.rect.h >= RIMMED and texts_in(n):
            n.surface = replace(s, border=(RIM,) * 4, border_colour=s.fill.colour)
            top, right, bottom, left = (max(0.0, p - RIM) for p in n.padding)
            n.padding = (top, right, bottom, left)
