"""Recursive cuts: marks that lie apart become rows and columns; the wide gaps cut first."""

from __future__ import annotations

from collections.abc import Callable

from neige.core.model import Node, Rect
from neige.core.model.geometry import union
from neige.core.outline.corridors import with_corridors
from neige.core.outline.divide import columns_first, divide

Tight = Callable[[Node], Rect]
TOLERANCES = (0.5, 1.5, 3.0, 6.0, 10.0, 16.0)  # px of overlap that is forgiven, tried in turn


def compose(nodes: list[Node], tight: Tight) -> Node:
    """One node that lays out all of `nodes`: the node itself if there is one, else a block or row of parts."""
    if len(nodes) == 1:
        return nodes[0]
    boxes = [tight(n) for n in nodes]
    for tolerance in TOLERANCES:
        y_parts, y_gap = divide([(b.y, b.bottom) for b in boxes], tolerance)
        x_parts, x_gap = divide([(b.x, b.right) for b in boxes], tolerance)
        if len(y_parts) == 1 and len(x_parts) == 1:
            continue
        if len(x_parts) == 1 or (
            len(y_parts) > 1 and not columns_first(nodes, boxes, x_parts, x_gap, y_parts, y_gap)
        ):
            rows = with_corridors(nodes, boxes, y_parts, tolerance)
            if len(rows) == 1:
                return _group("row", [compose([nodes[i] for i in part], tight) for part in x_parts])
            return _group("block", [compose([nodes[i] for i in part], tight) for part in rows])
        return _group("row", [compose([nodes[i] for i in part], tight) for part in x_parts])
    order = sorted(range(len(nodes)), key=lambda i: (round(boxes[i].cy / 6), boxes[i].x))
    return _group("block", [nodes[i] for i in order])


def _group(kind: str, children: list[Node]) -> Node:
    flat: list[Node] = []
    for child in children:
        # a block in a block needs no wrapper of its own
        if kind == "block" and child.kind == "block" and child.surface is None and child.tag == "div":
            flat.extend(child.children)
        else:
            flat.append(child)
    if kind == "row":
        flat = _one_row(flat)
    return Node(kind, union(c.rect for c in flat), children=flat)


def _one_row(parts: list[Node]) -> list[Node]:
    """Columns that look alike are one row of them, though ragged text leaves wider gaps between some than between others."""
    whole = [k for c in parts for k in (c.children if _is_bare_row(c) else [c])]
    looks = {
        tuple((k.kind, k.style if k.kind == "text" else -1) for k in c.children[:2])
        if c.kind == "block" and c.surface is None and len(c.children) >= 2
        else None
        for c in whole
    }
    alike = len(whole) > len(parts) and len(looks) == 1 and None not in looks
    return whole if alike else parts


def _is_bare_row(n: Node) -> bool:
    return n.kind == "row" and n.surface is None and n.tag == "div"
