"""Bars beside a text: a thick line down the side of something is that side's border, and what only says something is a quotation."""

from __future__ import annotations

from neige.core.model import Fill, Node, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.words import node_text, texts_in

BAR = (1.5, 12.0)  # px
TALL = 16.0  # px
NEAR = 40.0  # px between the bar and what it stands beside
BEYOND = 3.0  # px by which what it stands beside may reach above or below it
WORDS = 8  # a quotation says more


def border_bars(root: Node) -> None:
    """Make the bar before a part that part's border. Nothing is moved on the page."""
    for n in root.walk():
        if n.kind not in ("row", "grid") or n.surface is not None or len(n.children) != 2 or n.tag != "div":
            continue
        bar, part = n.children
        beside = part.kind in ("text", "block") and part.surface is None and part.tag in ("div", "p")
        plain_bar = bar.kind == "rule" or (bar.kind == "block" and not bar.children)
        upright = plain_bar and BAR[0] <= bar.rect.w <= BAR[1] and bar.rect.h >= TALL
        within = part.rect.y >= bar.rect.y - BEYOND and part.rect.bottom <= bar.rect.bottom + BEYOND
        gap = part.rect.x - bar.rect.right
        if not (beside and upright and within and 4 <= gap <= NEAR and bar.surface):
            continue
        n.rect = union([edges(bar.rect.x, bar.rect.y, n.rect.right, bar.rect.bottom), part.rect])
        ink = bar.surface.fill.colour
        n.surface = Surface(n.rect, Fill(""), border=(0.0, 0.0, 0.0, bar.rect.w), border_colour=ink)
        n.padding = (max(0.0, part.rect.y - n.rect.y), 0.0, max(0.0, n.rect.bottom - part.rect.bottom), gap)
        n.kind, n.columns, n.column_gap, n.align, n.cross = "block", [], 0.0, "start", "start"
        part.gap = part.inset = 0.0
        part.width = "fill"
        plain = part.kind == "text" or all(c.kind == "text" for c in part.children)
        n.children = part.children if part.kind == "block" and not any(part.padding) else [part]
        if plain and len(node_text(n).split()) >= WORDS and all(t.tag == "p" for t in texts_in(n)):
            n.tag = "blockquote"
            n.reasons.append("a text beside a bar")
