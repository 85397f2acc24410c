"""Residuals to corrections of causes: gaps, insets, padding, shares, measures. Structure is never touched.

In flow every error pushes what follows. So errors are measured between neighbours: a child's gap is corrected by how much
farther it lies from the sibling before it (or from its parent's edge) than it should. All corrections of a round are
independent of each other and are taken together.
"""

from __future__ import annotations

import itertools

import numpy as np

from neige.core.model import Drawing, DrawnWord, Node, Outline, Reading
from neige.core.outline.places import AUTO
from neige.core.proof.residuals import CAPPED, HALF, Residual, paired, residuals, usable
from neige.core.proof.table_corrections import correct_cell, correct_drop, correct_rows

LEAST = 0.12  # px: smaller residuals are left alone,
COARSE = 0.75  # and smaller than this where setting halves of px right puts other things off
BEYOND = 24.0  # px that a paragraph may reach beyond its place
BROKEN = 1.5  # times as high as a line is a word that goes over two
ROUNDED = 0.7  # px that painted edges may be off by rounding
NEAR = 2.0  # px by which columns and rows are moved across at most: what is in them may be off by itself
SPARE = 0.6  # px that a line may be wider than it was measured


def uncured(outline: Outline, reading: Reading, drawing: Drawing) -> frozenset[int]:
    """The parts that are drawn higher or lower than they were seen and do not come right: what follows them has to make up for it.
    Where something inside a part can, the part itself will come right."""
    return innermost(
        outline,
        {
            i
            for i, o in residuals(outline, reading, drawing)[1].items()
            if abs(o.bottom - o.top) > COARSE and not o.wrapped
        },
    )


def innermost(outline: Outline, stuck: set[int]) -> frozenset[int]:
    """The nodes among these in which none of them has something after it that could make up for it."""
    followed = {
        c.id
        for n in outline.root.walk()
        if n.kind == "block"
        for c in (n.children if n.surface else n.children[:-1])
    }
    inside = stuck & followed
    return frozenset(
        n.id for n in outline.root.walk() if n.id in stuck and not any(d.id in inside for d in n.walk()[1:])
    )


def correct(
    outline: Outline,
    reading: Reading,
    drawing: Drawing,
    *,
    absolute: bool = False,
    least: float = LEAST,
    stuck: frozenset[int] = frozenset(),
) -> tuple[Outline, int]:
    """(a corrected copy of the outline, number of values changed).

    Normally every part is expected to cure its own height, so that only the step from its end to the next part counts.
    `absolute`: parts are taken to be as tall as they will get, and what follows them is put where it belongs all the same; `stuck` parts are in any case. Residuals below `least` px are left alone.
    """
    out = outline.copy()
    words, off = residuals(out, reading, drawing)
    changes = 0
    placed = {id(c) for n in out.root.walk() if n.kind == "row" for c in n.children}
    for n in out.root.walk():
        if n.kind == "text":
            changes += _rewrap(n, reading, words, drawing)
        elif n.kind == "block" and n.children:
            steady = id(n) in placed and n.gap != AUTO
            changes += _block(n, off, out.root, absolute, least, stuck, steady)
        elif n.kind == "row" and n.children:
            changes += _row(n, off, least, id(n) in placed)
        elif n.kind == "grid" and n.children:
            changes += _grid(n, off, drawing, least)
        elif n.kind == "td":
            changes += correct_cell(n, off)
        elif n.kind == "table":
            changes += correct_rows(n, drawing) + correct_drop(n, off)
    return out, changes


def _rewrap(n: Node, reading: Reading, words: dict[int, list[DrawnWord]], drawing: Drawing) -> int:
    """Where the text broke elsewhere than in the picture, set a measure from the drawn widths; where its place is too narrow for
    that, it reaches beyond its end."""
    pairs = paired(n, reading, words.get(n.id, []))
    if (
        2 * len(pairs) < len(words.get(n.id, []))
        or not pairs
        or n.tag == "pre"
        or n.attributes.get("justify")
    ):
        return 0
    seen, drawn = [p[0] for p in pairs], [p[1] for p in pairs]
    style = reading.styles[n.style]
    breaks = [i for i in range(1, len(seen)) if seen[i][1] > seen[i - 1][1] + 0.4 * style.size]
    broke = [i for i in range(1, len(drawn)) if drawn[i].rect.y > drawn[i - 1].rect.y + 0.4 * style.size]
    if len(n.lines) == 1 and not n.attributes.get("nowrap"):
        tall = BROKEN * (style.ascent + style.descent)
        if any(d.rect.h > tall for d in drawn):  # a word in too narrow a box is broken within itself
            n.attributes["nowrap"] = "1"
            return 1
    if breaks == broke:
        return 0
    widths = [d.rect.w for d in drawn]
    space = _space(drawn, style.size)
    bounds = [0, *breaks, len(seen)]
    lines = [sum(widths[a:b]) + space * (b - a - 1) for a, b in itertools.pairwise(bounds)]
    low = max(lines)
    high = min((lines[i] + space + widths[bounds[i + 1]] for i in range(len(lines) - 1)), default=low + 4)
    if len(n.lines) == 1:
        n.attributes["nowrap"] = "1"
        return 1
    measure = (low + high) / 2 if high > low else low + 0.3
    measure = min(measure, low + 24)
    if n.width == "max" and abs(float(n.attributes.get("measure", 0)) - measure) < 0.3:
        box = drawing.nodes.get(n.id)
        short = measure - box.rect.w if box and n.align == "start" and "end" not in n.attributes else 0.0
        if not 0.1 < short <= BEYOND or len(broke) <= len(breaks):
            return 0
        n.attributes["end"] = f"{short:.2f}"
        return 1
    n.width = "max"
    n.attributes["measure"] = f"{measure:.2f}"
    return 1


def _space(drawn: list[DrawnWord], size: float) -> float:
    gaps = [
        b.rect.x - a.rect.right
        for a, b in itertools.pairwise(drawn)
        if abs(a.rect.y - b.rect.y) < 0.3 * size and b.rect.x > a.rect.right
    ]
    return float(np.median(gaps)) if gaps else 0.26 * size


def _block(
    n: Node, off: dict[int, Residual], root: Node, absolute: bool, least: float, stuck: frozenset[int], steady: bool
) -> int:  # fmt: skip
    """`steady`: a row puts the block where it belongs, so that what is in it is off by no more than it is off from the block."""
    changes = 0
    own = off.get(n.id)
    inner = n.surface is not None or bool(n.attributes.get("band"))
    carry = own.top if own and inner else 0.0 if n is root else None
    within = _indent(n, off) if own and n.surface else 0.0
    changes += within > 0
    for i, c in enumerate(n.children):
        o = off.get(c.id)
        if o is None:
            carry = None
            continue
        if carry is not None:
            step = o.top - carry
            if usable(step) and abs(step) > least:
                if i == 0 and inner and n is not root:
                    top, right, bottom, left = n.padding
                    room = top + min(c.gap, 0.0) - step  # less than none: it reaches above its parent
                    n.padding, c.gap = (max(0.0, room), right, bottom, left), min(0.0, room)
                else:
                    c.gap -= step
                changes += 1
        if own is not None:
            shift = o.left - (own.left if inner or steady else 0.0) - within
            changes += _centre(c, o, shift)
            if (
                c.align == "start"
                and c.width in ("fill", "max")
                and c.kind in ("text", "image", "row", "block", "grid", "field", "rule")
                and usable(shift)
                and abs(shift) > 0.2
                and (abs(shift) < 40)
            ):
                near = c.kind == "row" and abs(shift) < NEAR and not (c.children and c.children[0].gap)
                if c.kind not in ("text", "image") and c.surface is None and not near:
                    pass
                elif c.inset - shift >= -0.5:
                    c.inset = max(0.0, c.inset - shift)
                    changes += 1
        kept = absolute or c.id in stuck  # it stays as high as it is drawn
        carry = (o.top if absolute else None) if o.wrapped else o.top if kept else o.bottom
    if own and inner and n is not root and n.children:
        last = off.get(n.children[-1].id)
        if last and (absolute or (not last.wrapped and not own.wrapped)):
            kept = absolute or n.children[-1].id in stuck
            step = own.bottom - (last.top if kept else last.bottom)
            if usable(step) and abs(step) > least:
                top, right, bottom, left = n.padding
                n.padding = (top, right, max(0.0, bottom - step), left)
                changes += 1
    return changes


def _indent(n: Node, off: dict[int, Residual]) -> float:
    """How much less padding (px) a painted block has at its start after this: all that is in it lay farther in than it should."""
    shifts = [off[c.id].left - off[n.id].left for c in n.children if c.id in off and c.align == "start"]
    if len(shifts) < len(n.children) or not usable(*shifts) or min(shifts) <= HALF:
        return 0.0
    less = min([*shifts, n.padding[3]])
    n.padding = (*n.padding[:3], n.padding[3] - less)
    return float(less)


def _centre(c: Node, o: Residual, shift: float) -> int:
    """A text that is not centred in its block, but in a narrower place: that has room beside it."""
    if (
        c.kind != "text"
        or (c.align, c.width) != ("center", "fill")
        or o.wrapped
        or not COARSE < abs(shift) < 40
    ):
        return 0
    less = SPARE if shift > 0 else -SPARE  # or a word that just fits goes to the next line
    room = -float(c.attributes.get("end", 0)) - c.inset + 2 * shift - less  # more at its end than before it
    c.inset = max(0.0, -room)
    c.attributes.pop("end", None)
    if room > 0:
        c.attributes["end"] = f"{-room:.2f}"
    return 1


def _row(n: Node, off: dict[int, Residual], least: float, placed: bool) -> int:
    """`placed`: a row around it puts it where it belongs, and its first child with it."""
    changes = 0
    kids = [(c, off.get(c.id)) for c in n.children]
    before: float | None = None
    for i, (c, o) in enumerate(kids):
        if o is None:
            before = None
            continue
        if before is not None and c.gap != AUTO and n.align not in ("center", "end"):
            step = o.left - before
            if usable(step) and abs(step) > least:
                c.gap -= step
                changes += 1
        elif (
            i == 0
            and not placed
            and n.align == "start"
            and n.surface is None
            and usable(o.left)
            and abs(o.left) > 0.3
            and abs(o.left) < 30
            and c.gap - o.left >= 0
        ):
            c.gap -= o.left
            changes += 1
        before = _end(c, off)
    known = [o for _, o in kids if o]
    if not known:
        return changes
    return changes + _down(n, kids, off.get(n.id), least)


def _down(n: Node, kids: list[tuple[Node, Residual | None]], own: Residual | None, least: float) -> int:
    """Vertical places in a row or grid: first its padding, which moves all that is in it, then each part's own."""
    raised = _height(n, kids, own, least)
    return int(raised is not None) + _across(n, kids, own, least, raised or 0.0)


def _end(n: Node, off: dict[int, Residual]) -> float:
    """How far the end of a part in a row is off by what it can cure itself. A painted part's padding is as it is, often that of
    all buttons: what follows makes up for it."""
    own = off[n.id]
    kids = [c for c in n.children if c.id in off]
    if n.kind != "row" or not kids:
        return own.right
    inner = _end(kids[-1], off)
    return own.left + inner - off[kids[0].id].left if n.surface else inner


def _height(
    n: Node, kids: list[tuple[Node, Residual | None]], own: Residual | None, least: float
) -> float | None:
    """A painted row that is drawn lower or higher than it was seen, by more than its tallest part is (which cures itself): its
    padding makes up for it, above that part as far as that part is off. How far what is in it is moved by that, px; None: it is as high as it was."""
    known = [(c, o) for c, o in kids if o]
    if n.surface is None or own is None or own.wrapped or not known:
        return None
    _, tallest = max(known, key=lambda p: p[0].rect.h)
    whole = own.bottom - own.top
    rest = whole - (tallest.bottom - tallest.top)
    if not usable(whole, rest) or whole * rest <= 0 or not least < min(abs(whole), abs(rest)) < CAPPED:
        return None
    over = min(whole, rest, key=abs)
    top, right, bottom, left = n.padding
    above = (
        float(np.clip(tallest.top - own.top, min(over, 0.0), max(over, 0.0))) if n.cross == "center" else 0.0
    )
    n.padding = (max(0.0, top - above), right, max(0.0, bottom - over + above), left)
    return above


def _across(
    n: Node, kids: list[tuple[Node, Residual | None]], own: Residual | None, least: float, raised: float
) -> int:
    """Where a shared alignment leaves parts off by more than a px, each gets its own offset; all are `raised` already (px) by the padding.

    A part that is centred to within half a px is drawn a whole px off if that half falls the other way: a px of margin shifts it.
    """
    known = [(c, o) for c, o in kids if o]
    tops = [o.top for _, o in known]
    if not known or not usable(*tops) or any(o.wrapped for _, o in known):
        return 0
    if n.cross in ("center", "end") and max(tops) - min(tops) > 0.8:
        n.cross = "start"
        top = min(c.rect.y for c, _ in known)
        for c, _ in known:
            c.inset = max(0.0, c.rect.y - top)
        return 1
    if n.cross in ("center", "stretch") and own:
        changes = 0
        for c, o in known:
            step = o.top - own.top - raised
            if max(HALF, least) < abs(step) < 2 and c.kind in ("text", "row", "block") and c.surface is None:
                c.inset -= 2 * step if n.cross == "center" else min(step, c.inset)
                changes += 1
        return changes
    if n.cross != "start":
        return 0
    changes = 0
    lift = min(tops)
    for c, o in known:
        step = o.top - lift
        if abs(step) > least and abs(step) < 60:
            c.inset -= step
            changes += 1
    above = min(0.0, min(c.inset for c, _ in known))
    for c, _ in known:
        c.inset -= above
    low = lift - above - own.top if own and n.surface is not None else 0.0  # as they all will be then
    if usable(low) and abs(low) > max(COARSE, least):
        top, right, bottom, left = n.padding
        n.padding = (max(0.0, top - low), right, bottom + min(low, top), left)
        changes += 1
    return changes


def _grid(n: Node, off: dict[int, Residual], drawing: Drawing, least: float) -> int:
    if n.attributes.get("pinned") == "shares":
        return 0  # the developer's shares are not the picture's
    changes = 0
    kids = [(c, off.get(c.id)) for c in n.children]
    if all(o is not None for _, o in kids) and len(n.columns) == len(kids):
        lefts = [
            drawing.nodes[c.id].rect.x - c.rect.x if _painted(c) and c.id in drawing.nodes else o.left
            for c, o in kids
            if o
        ]
        for i in range(1, len(kids)):
            step = lefts[i] - lefts[i - 1]
            if (
                usable(step)
                and (
                    0.3 < abs(step) < 60
                    if kids[i][0].kind == "text"
                    else _painted(kids[i][0]) and ROUNDED < abs(step) < NEAR
                )
                and kids[i][0].align == "start"
                and kids[i - 1][0].align == "start"
            ):
                sign = 1 if n.columns[i - 1] > 0 else -1
                if n.columns[i - 1] * sign - step > 8:
                    n.columns[i - 1] -= sign * step
                    if n.columns[-1] > 0 and i < len(n.columns):
                        n.columns[i] += step if n.columns[i] > 0 else 0
                    changes += 1
    return changes + _down(n, kids, off.get(n.id), least)


def _painted(n: Node) -> bool:
    """Does a part show where it begins: has it paint, or is all that is in it painted?"""
    return n.surface is not None or (
        n.kind == "block" and bool(n.children) and all(map(_painted, n.children))
    )
