"""Names and values: rows under one another, each a name at the left and what it comes to at the right, are a `dl`."""

from __future__ import annotations

from neige.core.model import Node
from neige.core.model.geometry import union
from neige.core.outline.borders import THIN, put_over
from neige.core.outline.places import AUTO, NEAR
from neige.core.outline.words import node_text

LEAST = 2  # rows
WORDS = 6  # of a name or value
HIGH = 64.0  # px: a row is no higher
FIGURE_SHARE = 0.5  # of the values that have a figure in them


def find_pairs(root: Node) -> None:
    """Wrap runs of such rows in a block. Nothing is moved on the page."""
    for n in root.walk():
        if n.kind != "block" or n.attributes.get("list"):
            continue
        run: list[Node] = []
        line: Node | None = None
        for c in [*n.children, None]:
            if c is not None and _is_pair(c) and (not run or _in_line(run[0], c)):
                if run and line is not None:
                    put_over(line, c)
                    n.children.remove(line)
                run.append(c)
                line = None
                continue
            if c is not None and run and line is None and _parts(c, run[0]):
                line = c
                continue
            if len(run) >= LEAST and _counts(run):
                _wrap(n, run)
            run, line = [c] if c is not None and _is_pair(c) else [], None


def _is_pair(c: Node) -> bool:
    if c.kind != "row" or c.tag != "div" or len(c.children) != 2 or c.rect.h > HIGH:
        return False
    if c.surface is not None and (c.surface.fill.colour or c.surface.fill.stops):
        return False
    name, value = c.children
    return (
        all(
            t.kind == "text" and t.tag in ("p", "span") and len(t.lines) == 1
            and 1 <= len(node_text(t).split()) <= WORDS and not t.attributes.get("bullet")
            for t in (name, value)
        )
        and value.gap == AUTO
    )  # fmt: skip


def _parts(c: Node, pair: Node) -> bool:
    """Is a part the line over a sum, as long as the rows?"""
    name, value = pair.children
    return (
        c.kind == "rule" and c.rect.h <= THIN and c.surface is not None
        and abs(c.rect.x - name.rect.x) <= NEAR and abs(c.rect.right - value.rect.right) <= NEAR
    )  # fmt: skip


def _in_line(a: Node, b: Node) -> bool:
    return abs(a.children[0].rect.x - b.children[0].rect.x) <= NEAR and (
        abs(a.children[1].rect.right - b.children[1].rect.right) <= NEAR
    )


def _counts(run: list[Node]) -> bool:
    figures = sum(any(ch.isdigit() for ch in node_text(c.children[1])) for c in run)
    return figures >= FIGURE_SHARE * len(run)


def _wrap(holder: Node, run: list[Node]) -> None:
    rows = [union([*(k.rect for k in c.children), *([c.rect] if c.surface else [])]) for c in run]
    box = union(rows)
    border = holder.surface.border[3] if holder.surface else 0.0
    inset = max(0.0, box.x - holder.rect.x - border - holder.padding[3])
    end = holder.rect.right - holder.padding[1] - box.right
    at = holder.children.index(run[0])
    group = Node("block", box, tag="dl", children=run, gap=run[0].gap, width="fill")
    group.reasons.append("names at the left and their values at the right")
    if inset > NEAR:
        group.width, group.align = "max", "end" if abs(end) <= NEAR else "start"
        group.inset = inset if group.align == "start" else 0.0
    for c, r in zip(run, rows):
        c.inset = c.children[0].gap = 0.0
        c.padding = (c.padding[0], 0.0, c.padding[2], 0.0)
        c.rect, c.width, c.align = r, "fill", "start"
        c.children[0].tag, c.children[1].tag = "dt", "dd"
    run[0].gap = 0.0
    holder.children[at : at + len(run)] = [group]
