"""Icons that lead somewhere: rows of marks, buttons with nothing but an icon, the tools at the end of the page's bar."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Reading
from neige.core.outline.menus import TOP
from neige.core.outline.places import AUTO
from neige.core.outline.stacks import as_link
from neige.core.outline.targets import give_room
from neige.core.outline.words import ACTION, node_text, texts_in, words_of

LARGEST = 40.0  # px: a larger picture is no icon in a row of them
TOOL = 28.0  # px: an icon in the page's bar
ACTION_WORDS = 2  # beside an icon
BUTTON = 72.0  # px: the largest button that has only an icon
RAIL = 110.0  # px: a column of icons is no wider
LEAST = 9.0  # px: smaller ones are dots of a chart, or lights
MARKS = 3  # so many icons beside each other lead somewhere
APART = 0.45  # of an icon's height: closer ones are one scale (stars)
EVEN = 0.34  # of the usual pitch by which a row's pitches may differ
TARGET, LEAST_PAD = 40.0, 3.0  # px that a tool in a bar is large with its padding; px of that at least
FACE = (16.0, 56.0)  # px: the picture of whoever is signed in


def link_icons(root: Node, reading: Reading) -> None:
    """Link icons that stand where only links or buttons do. Their names are for the developer to give: they are numbered."""
    linked = {id(d) for n in root.walk() if n.tag in ("a", "button", "label", "search") for d in n.walk()}
    for n in root.walk():
        if n.attributes.get("edge") and n.kind == "block":
            _column_of_marks(n, reading)
        if n.kind in ("row", "grid") and id(n) not in linked:
            _row_of_marks(n, reading)
            _row_of_buttons(n, reading)
    for head in (n for n in root.walk() if n.tag in ("header", "nav") and n.rect.y < TOP and n.rect.h < TOP):
        _tools(head, reading)
        break


def link_actions(root: Node) -> None:
    """A small picture and a word or two that say what can be done, and nothing else, lead somewhere."""
    linked = {id(d) for n in root.walk() if n.tag in ("a", "button", "label") for d in n.walk()}
    for n in root.walk():
        if (
            n.kind != "row"
            or n.tag != "div"
            or n.surface is not None
            or id(n) in linked
            or len(n.children) != 2
        ):
            continue
        mark, words = n.children
        small = mark.kind == "image" and max(mark.rect.w, mark.rect.h) <= TOOL
        said = words.kind == "text" and len(words_of(words)) <= ACTION_WORDS and len(words.lines) == 1
        if small and said and ACTION.match(node_text(words)):
            as_link(n)
            n.reasons.append("an icon and what can be done")


def _column_of_marks(side: Node, reading: Reading) -> None:
    """A narrow column at the page's side with nothing but icons is its navigation."""
    leaves = [d for d in side.walk() if not d.children]
    if len(leaves) < MARKS or side.rect.w > RAIL or not all(_is_icon(d, reading, LARGEST) for d in leaves):
        return
    side.tag = "nav"
    side.attributes["label"] = "Sections"
    side.reasons.append("a column of icons at the page's side")
    for k, c in enumerate(side.children, 1):
        if c.kind == "image":
            c.attributes["linked"] = "1"
            c.attributes.setdefault("alt", f"Section {k}")
        elif _is_icon_box(c, reading):
            c.tag = "a"
            c.attributes |= {"role": "button", "label": f"Section {k}"}


def _is_icon(n: Node, reading: Reading, largest: float) -> bool:
    high = max(n.rect.w, n.rect.h)
    return n.kind == "image" and LEAST <= high <= largest and reading.cutouts[n.cutout].kind == "icon"


def _row_of_marks(n: Node, reading: Reading) -> None:
    kids = n.children
    if len(kids) < MARKS or not all(_is_icon(c, reading, LARGEST) for c in kids):
        return
    heights = [c.rect.h for c in kids]
    pitch = [b.rect.cx - a.rect.cx for a, b in itertools.pairwise(kids)]
    gaps = [b.rect.x - a.rect.right for a, b in itertools.pairwise(kids)]
    usual = sorted(pitch)[len(pitch) // 2]
    even = max(abs(p - usual) for p in pitch) <= EVEN * usual
    if max(heights) > 2.2 * min(heights) or min(gaps) < APART * min(heights) or not even:
        return
    for k, c in enumerate(kids, 1):
        c.attributes["linked"] = "1"
        c.attributes.setdefault("alt", f"Link {k} of {len(kids)}")
    if n.kind == "row":
        give_room(n)
    if n.tag == "div" and not n.attributes.get("list"):
        n.attributes["list"] = "1"


def _row_of_buttons(n: Node, reading: Reading) -> None:
    """Like small boxes side by side, each with an icon and nothing else."""
    boxes = [c for c in n.children if _is_icon_box(c, reading)]
    if len(boxes) < 2 or len(boxes) < len(n.children):
        return
    sizes = [(c.rect.w, c.rect.h) for c in boxes]
    if (
        max(w for w, _ in sizes) - min(w for w, _ in sizes) > 4
        or max(h for _, h in sizes) - min(h for _, h in sizes) > 4
    ):
        return
    for k, c in enumerate(boxes, 1):
        c.tag = "a"
        c.attributes["role"] = "button"
        c.attributes["nth"] = f"{k} of {len(boxes)}"
        c.reasons.append("one of several like boxes with nothing but an icon")


def _is_icon_box(c: Node, reading: Reading) -> bool:
    icons = [d for d in c.walk() if not d.children]
    return (
        c.surface is not None
        and c.surface.picture < 0
        and c.tag == "div"
        and max(c.rect.w, c.rect.h) <= BUTTON
        and abs(c.rect.w - c.rect.h) <= 6
        and bool(icons)
        and all(_is_icon(d, reading, BUTTON) for d in icons)
    )


def _tools(head: Node, reading: Reading) -> None:
    """Lone icons in the page's bar, but its mark, are tools; a face with one or two short texts at its end is the account."""
    taken = {
        id(d) for n in head.walk() if n.tag in ("a", "button", "label", "search", "form") and n is not head for d in n.walk()
    }  # fmt: skip
    left = min((d.rect.x for d in head.walk() if not d.children), default=0.0)
    for row in head.walk():
        if row.kind != "row" or id(row) in taken:
            continue
        if row is not head and _is_account(row, head, reading):
            row.tag = "a"
            for d in row.walk()[1:]:
                d.tag = "span" if d.kind != "image" else d.tag
            taken |= {id(d) for d in row.walk()}
            continue
        found = [
            c
            for i, c in enumerate(row.children)
            if _is_icon(c, reading, TOOL)
            and c.rect.x > left + 2
            and id(c) not in taken
            and min(c.rect.w, c.rect.h) > 8
            # an icon right before or after words belongs to them
            and not any(
                k.kind == "text" and min(abs(k.rect.x - c.rect.right), abs(c.rect.x - k.rect.right)) < 12
                for k in row.children[max(0, i - 1) : i + 2]
            )
        ]
        dotted = [c for c in row.children if id(c) not in taken and _is_dotted(c, reading)]
        for k, c in enumerate(found, 1):
            c.attributes["linked"] = "1"
            c.attributes.setdefault("alt", f"Tool {k} of {len(found)}" if len(found) > 1 else "Tool")
        for c in dotted:
            c.tag = "a"
            c.attributes["label"] = "Tool with news"
            taken |= {id(d) for d in c.walk()}
        if (found or dotted) and len(found) + len(dotted) == len(row.children):
            give_room(row)
        for c in found:
            if not c.attributes.get("pad"):
                _reach_out(row, c, head)


def _reach_out(row: Node, c: Node, head: Node) -> None:
    """Padding for a tool that takes half of the room beside it at most and moves nothing: it is as easy to hit as the buttons."""
    kids = row.children
    i = kids.index(c)
    gaps = [k.gap for k in kids[i : i + 2] if k is not kids[0] and k.gap != AUTO]
    side = max(c.rect.w, c.rect.h)
    free = [(TARGET - side) / 2, *(g / 2 for g in gaps)]
    free += [c.rect.y - head.rect.y, head.rect.bottom - c.rect.bottom]
    pad = float(int(min(free)))
    if pad < LEAST_PAD:
        return
    c.attributes |= {"pad": f"{pad:g} {pad:g}", "reach": f"{pad:g}"}
    if c.gap != AUTO:
        c.gap -= pad
    if i + 1 == len(kids):
        c.attributes["end"] = f"{pad:g}"
    elif kids[i + 1].gap != AUTO:
        kids[i + 1].gap -= pad


def _is_dotted(n: Node, reading: Reading) -> bool:
    """An icon with a dot at its shoulder, which says that there is something new."""
    kids = n.children
    return (
        n.kind == "row"
        and n.surface is None
        and len(kids) == 2
        and _is_icon(kids[0], reading, TOOL)
        and kids[1].surface is not None
        and not kids[1].children
        and kids[1].rect.h <= 0.8 * kids[0].rect.h
        and kids[1].rect.y < kids[0].rect.cy
    )


def _is_account(row: Node, head: Node, reading: Reading) -> bool:
    texts = texts_in(row)
    faces = [d for d in row.walk() if d.kind == "image"]
    return (
        row.rect.right > head.rect.right - 0.2 * head.rect.w
        and row.surface is None
        and len(faces) == 1
        and FACE[0] <= faces[0].rect.h <= FACE[1]
        and reading.cutouts[faces[0].cutout].kind == "image"
        and 1 <= len(texts) <= 2
        and all(len(t.lines) == 1 and len(words_of(t)) <= 3 and t.tag == "p" for t in texts)
        and not any(d.tag in ("a", "button") or d.kind == "field" for d in row.walk())
    )
