"""Residuals: how far what the browser drew lies from what was seen, for words, for nodes and for the page."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace
from math import floor, isfinite
from statistics import median

from neige.core.model import Drawing, DrawnWord, Node, Outline, Reading
from neige.core.outline.layout import line_between

SNAPPED = 0.5  # px that a text drawn on the wrong px counts more
CAPPED = 20.0  # px: a single misplaced part counts no more than this
HALF = 0.3  # px: what is centred is corrected from there
MOST = 400.0  # px: a residual beyond this is not a matter of gaps
APART = 0.5  # of its size by which the words of a text's next line lie lower at least


@dataclass
class Residual:
    """How far a node's edges are off: drawn minus seen, px."""

    left: float
    top: float
    right: float
    bottom: float
    wrapped: bool


def usable(*values: float) -> bool:
    """Are residuals (px) a matter of what stands between parts?"""
    return all(isfinite(v) and abs(v) < MOST for v in values)


def misplacement(outline: Outline, reading: Reading, drawing: Drawing) -> float:
    """The total error of a round: mean over words of capped |dx| + |dy| in px, plus the page's height error in parts of it.

    Browsers draw text on whole px: half a px that falls the other way is seen as a whole one, and counts as more.
    """
    words = _words_by_node(outline, drawing)
    total, count = 0.0, 0
    for n in outline.root.walk():
        if n.kind != "text":
            continue
        for seen, drawn in paired(n, reading, words.get(n.id, [])):
            total += min(abs(drawn.rect.x - seen[0]), 30.0) + min(abs(drawn.rect.y - seen[1]), 30.0)
            total += SNAPPED * (floor(drawn.rect.y + 0.5) != floor(seen[1] + 0.5))
            count += 1
    return total / max(1, count) + min(30.0, abs(drawing.height - reading.height)) * 0.02


def astray(outline: Outline, reading: Reading, drawing: Drawing, within: float = 1.5) -> float:
    """The share of words drawn farther than `within` px from where they were seen, across or down."""
    words = _words_by_node(outline, drawing)
    off = [
        max(abs(drawn.rect.x - seen[0]), abs(drawn.rect.y - seen[1])) > within
        for n in outline.root.walk()
        if n.kind == "text"
        for seen, drawn in paired(n, reading, words.get(n.id, []))
    ]
    return sum(off) / max(1, len(off))


def unrest(outline: Outline, reading: Reading, drawing: Drawing) -> dict[int, float]:
    """For every node that places children or breaks text: how far (px, summed and capped) it puts them from where it should.

    Unlike `misplacement` it does not add up down the page, so that a change can be judged where it was made.
    """
    _words, off = residuals(outline, reading, drawing)
    out: dict[int, float] = {}
    for n in outline.root.walk():
        if n.kind == "text":
            found = off.get(n.id)
            out[n.id] = 20.0 if found and found.wrapped else 0.0
            continue
        own = off.get(n.id)
        kids = [(c, off[c.id]) for c in n.children if c.id in off]
        if not kids:
            continue
        if n.kind in ("block", "td"):
            inner = n.surface is not None or bool(n.attributes.get("band")) or n is outline.root
            carry = own.top if own and inner else kids[0][1].top
            total = 0.0
            for _, o in kids:
                total += min(abs(o.top - carry), CAPPED)
                carry = o.bottom
            if own and inner:
                total += min(abs(own.bottom - carry), CAPPED)
            total += sum(min(abs(o.left - (own.left if own else 0.0)), CAPPED) for _, o in kids) / 2
        elif n.kind == "table":
            tops = [drawing.nodes[r.id].rect.y - r.rect.y for r in n.children if r.id in drawing.nodes]
            total = sum(min(abs(b - a), CAPPED) for a, b in itertools.pairwise(tops))
        else:
            tops = [o.top for _, o in kids]
            total = sum(min(abs(t - min(tops)), CAPPED) for t in tops)
            before = kids[0][1].left
            for _, o in kids:
                total += min(abs(o.left - before), CAPPED)
                before = o.right if n.kind == "row" else o.left
        out[n.id] = total
    return out


def residuals(
    outline: Outline, reading: Reading, drawing: Drawing
) -> tuple[dict[int, list[DrawnWord]], dict[int, Residual]]:
    """The drawn words of every text, and how far every node is off."""
    words = _words_by_node(outline, drawing)
    off: dict[int, Residual] = {}
    for n in reversed(outline.root.walk()):
        found = _measure(n, reading, drawing, words, off)
        if found:
            off[n.id] = found
    return words, off


def _words_by_node(outline: Outline, drawing: Drawing) -> dict[int, list[DrawnWord]]:
    """The drawn words of every text. The text of a button or a cell is written into the element around it, and has its words."""
    out: dict[int, list[DrawnWord]] = {}
    for w in drawing.words:
        out.setdefault(w.node, []).append(w)
    for n in outline.root.walk():
        if (
            len(n.children) == 1
            and n.children[0].kind == "text"
            and n.id in out
            and n.children[0].id not in out
        ):
            out[n.children[0].id] = out[n.id]
    return out


def paired(n: Node, reading: Reading, drawn: list[DrawnWord]) -> list[tuple[tuple[float, float], DrawnWord]]:
    """The words of a text node in reading order: (x, top of the content area) as seen, and as drawn.

    Those that begin with the same letter of the text belong together, for a stop that is no part of the link before it is drawn as
    a word of its own. Of a text that is drawn in other words only the first and the last are sure. A bullet is none of the words.
    """
    seen = []
    for k, i in enumerate(n.lines):
        line = reading.lines[i]
        words = line.words
        mark = n.attributes.get("bullet") or n.attributes.get("parted")
        if k == 0 and len(words) > 1 and words[0].text == mark:
            words = words[1:]
        seen += [(w.text, (w.x, line.baseline - reading.styles[w.style].ascent)) for w in words]
    starts = _starts([text for text, _ in seen])
    begun = _starts([w.text for w in drawn])
    if starts[-1] != begun[-1]:  # the words are not the same
        both = [(s, d) for (_, s), d in zip(seen, drawn)]
        if len(seen) == len(drawn) or not both:
            return both
        return [(seen[0][1], drawn[0]), (seen[-1][1], drawn[-1])]
    at = {start: k for k, start in enumerate(begun[:-1])}
    out = []
    for (_, s), start, end in zip(seen, starts, starts[1:]):
        if start not in at:
            continue
        first = last = drawn[at[start]]
        for w in drawn[at[start] + 1 : at.get(end, len(drawn))]:
            last = w if w.rect.y < last.rect.bottom and w.rect.x >= last.rect.x else last
        whole = replace(first.rect, w=last.rect.right - first.rect.x)
        out.append((s, first if last is first else replace(first, rect=whole)))
    return out


def _starts(texts: list[str]) -> list[int]:
    """How many letters come before each word, and how many there are."""
    return [0, *itertools.accumulate(len(t) for t in texts)]


def _measure(
    n: Node, reading: Reading, drawing: Drawing, words: dict[int, list[DrawnWord]], off: dict[int, Residual]
) -> Residual | None:
    box = drawing.nodes.get(n.id)
    if n.kind == "text":
        pairs = paired(n, reading, words.get(n.id, []))
        if not pairs:
            return None
        style = reading.styles[n.style]
        seen, drawn = [p[0] for p in pairs], [p[1] for p in pairs]
        start = [(d, s) for d, s in zip(drawn, seen) if s[1] == seen[0][1]]
        heads = [
            p
            for p, q in zip(zip(drawn, seen), [None, *seen])
            if q is None or p[1][1] > q[1] + 0.6 * style.size
        ]
        # where the lines begin; what comes later also has the errors of the words before it
        left = median(d.rect.x - s[0] for d, s in (heads if len(heads) > 1 else start[:3]))
        if n.align == "center":
            left = (start[0][0].rect.x - start[0][1][0] + start[-1][0].rect.x - start[-1][1][0]) / 2
        top = drawn[0].rect.y - seen[0][1]
        heights = sorted(d.rect.y for d in drawn)
        lines = 1 + sum(b - a > APART * style.size for a, b in itertools.pairwise(heights))
        wrapped = (
            abs((drawn[-1].rect.y - drawn[0].rect.y) - (seen[-1][1] - seen[0][1])) > 0.5 * style.size
            and lines != 1
        ) or (lines == 1) != (len(n.lines) == 1)
        right = drawn[-1].rect.x - seen[-1][0]
        return Residual(left, top, right, drawn[-1].rect.y - seen[-1][1], wrapped)
    if box is None:
        # an element that was folded into another (a button's text, a cell's): it has its words or children
        return None
    r, want = box.rect, n.rect
    if (
        n.surface is None
        and n.kind in ("block", "row", "grid")
        and n.children
        and not n.attributes.get("band")
    ):
        # an arrow that is generated content moves with the words before it
        shown = [c for c in n.children if c.id in off or not c.attributes.get("caret")] or n.children
        first, last = off.get(shown[0].id), off.get(shown[-1].id)
        if first and last:
            kids = [off[c.id] for c in n.children if c.id in off]
            top = off[min((c for c in n.children if c.id in off), key=lambda c: c.rect.y).id].top
            bottom = off[max((c for c in n.children if c.id in off), key=lambda c: c.rect.bottom).id].bottom
            return Residual(first.left, top, last.right, bottom, any(k.wrapped for k in kids))
    wrapped = any(off[c.id].wrapped for c in n.children if c.id in off)
    if n.kind == "table" and (first := off.get(n.children[0].id)) and (last := off.get(n.children[-1].id)):
        half = line_between(n) / 2  # of a collapsed border, which lies outside the rows
        return Residual(r.x - want.x, first.top - half, r.right - want.right, last.bottom - half, wrapped)
    if not n.children and n.kind in ("image", "rule", "block"):
        # its own size is not to be corrected here: what comes after makes up for it
        return Residual(r.x - want.x, r.y - want.y, r.x - want.x, r.y - want.y, wrapped)
    return Residual(r.x - want.x, r.y - want.y, r.right - want.right, r.bottom - want.bottom, wrapped)
