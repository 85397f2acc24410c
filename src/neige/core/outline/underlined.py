"""Fields that are only underlined: a short text over a line, and under it another such pair, before the button that sends them."""

from __future__ import annotations

import itertools
from statistics import median

from neige.core.model import Fill, Node, Reading, Surface
from neige.core.model.geometry import edges
from neige.core.outline.fields import LARGE_FIELD, as_field
from neige.core.outline.words import body_style, node_text, texts_in

LEAST = 2  # fields of a form
WORDS = 4  # that a field asks with
BOLD = 600  # weight from which words ask for nothing
FLUSH = 6.0  # px by which a text may begin beside its line
BELOW = 160.0  # px of the line under its text
WIDE = 180.0  # px of a line at least
HIGH = 30.0  # px of a field at least
AREA = 96.0  # px: a higher one is a text area
FOLLOWS = 4  # parts after the last field among which the button stands


def find_underlined(root: Node, reading: Reading) -> None:
    """Turn such pairs into fields with a border at their end."""
    for holder in root.walk():
        if holder.kind != "block" or holder.tag not in ("div", "section", "main", "body"):
            continue
        pairs = _pairs(holder, reading)
        if len(pairs) < LEAST:
            continue
        last = holder.children.index(pairs[-1][1])
        after = holder.children[last + 1 : last + 1 + FOLLOWS]
        if not any(d.attributes.get("role") == "button" for c in after for d in c.walk()):
            continue
        _replace(holder, pairs, reading)


def _pairs(holder: Node, reading: Reading) -> list[tuple[Node, Node]]:
    """The texts and the lines under them, all lines of one length; headings with a line under them are none."""
    out = []
    large = LARGE_FIELD * reading.styles[body_style(reading)].size
    text: Node | None = None
    for c in holder.children:
        if c.kind == "text" and c.surface is None:
            style = reading.styles[c.style]
            short = len(c.lines) == 1 and len(node_text(c).split()) <= WORDS
            short = short and style.weight < BOLD and style.size <= large
            text = c if short and not c.attributes.get("under") else None
        elif c.kind == "rule" and c.rect.w >= WIDE and text is not None:
            under = 0 < c.rect.y - text.rect.bottom <= BELOW and abs(c.rect.x - text.rect.x) <= FLUSH
            if under and text.rect.w < 0.7 * c.rect.w:
                out.append((text, c))
            text = None
        elif c.kind != "image":
            text = None
    widths = [rule.rect.w for _, rule in out]
    return out if out and max(widths) - min(widths) <= 2 else []


def _replace(holder: Node, pairs: list[tuple[Node, Node]], reading: Reading) -> None:
    ends = [rule.rect.bottom for _, rule in pairs]
    heights = [2 * (end - text.rect.cy) for (text, _), end in zip(pairs, ends)]  # words stand in their middle
    pitches = [b - a for a, b in itertools.pairwise(ends)]
    apart = max(0.0, median(p - h for p, h in zip(pitches, heights[1:])))
    for i, (text, rule) in enumerate(pairs):
        most = (pitches[i - 1] if i else min(pitches)) - apart  # or they float, and the fields touch
        top = min(rule.rect.bottom - max(HIGH, min(heights[i], most)), text.rect.y - 1)
        ink = rule.surface.fill.colour if rule.surface else "#000000"
        box = edges(rule.rect.x, top, rule.rect.right, rule.rect.bottom)
        line = (0.0, 0.0, rule.rect.h, 0.0)
        ground = next((reading.lines[i].ground for t in texts_in(text) for i in t.lines), "#ffffff")
        paint = Surface(box, Fill(ground), 0.0, line, ink)
        field = as_field(Node("block", box, surface=paint, children=[text]), node_text(text), reading)
        field.tag = "textarea" if box.h > AREA else "input"
        first, last = holder.children.index(text), holder.children.index(rule)
        field.gap = text.gap - (text.rect.y - top)
        field.inset, field.width, field.align = rule.inset, rule.width, rule.align
        holder.children[first : last + 1] = [field]
