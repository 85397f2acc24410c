"""The three faces of every part: what was seen, what was written, what the browser drew."""

from __future__ import annotations

from neige.core.model import Drawing, Node, Outline, Page, Part
from neige.core.outline.words import node_text


def parts_of(outline: Outline, page: Page, drawing: Drawing) -> tuple[Part, ...]:
    """Every element of the page but those folded into their parent's line of code, in the document's order."""
    out: list[Part] = []

    def visit(n: Node, parent: int, depth: int) -> None:
        written = page.written.get(n.id)
        if written is None:  # a button's own words, a choice's wrapper
            for c in n.in_reading_order():
                visit(c, parent, depth)
            return
        drawn = drawing.nodes.get(n.id)
        out.append(
            Part(
                n.id, parent, depth, n.kind, written.tag, n.name, node_text(n)[:120], n.rect, drawn.rect if drawn else None,
                written.classes, written.lines, n.padding, tuple(n.columns), n.column_gap, tuple(n.reasons),
            )
        )  # fmt: skip
        for c in n.in_reading_order():
            visit(c, n.id, depth + 1)

    for c in outline.root.in_reading_order():
        visit(c, -1, 0)
    return tuple(out)
