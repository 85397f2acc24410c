"""Columns about their middles: as wide as each other, however ragged what is in them."""

from __future__ import annotations

import itertools

from neige.core.model import Node, Rect
from neige.core.model.geometry import edges, union

CENTRED = 3.0  # px by which a centred thing may be off
GUTTER = 24.0  # px between such columns
UNEVEN = 4.0  # px by which their middles may stand off even places


def widen_columns(root: Node) -> None:
    """Rows of columns about their middles take all of the room that columns so far apart have, where their holder has it."""

    def visit(n: Node, room: Rect) -> None:
        room = n.rect if n.surface is not None or n is root else room
        for i, c in enumerate(n.children):
            own = room
            if n.kind == "row":  # what stands beside it keeps its place
                left = n.children[i - 1].rect.right if i else room.x
                right = n.children[i + 1].rect.x if i + 1 < len(n.children) else room.right
                own = edges(min(left, c.rect.x), room.y, max(right, c.rect.right), room.bottom)
            visit(c, own)
            if n.kind == "block" and c.kind == "row" and c.surface is None:
                _widen(c, room)
        if n.surface is None and n.kind in ("block", "row") and not n.attributes.get("band") and n.children:
            box = union([n.rect, *(c.rect for c in n.children)])
            n.rect = edges(box.x, n.rect.y, box.right, n.rect.bottom)

    visit(root, root.rect)


def _widen(row: Node, room: Rect) -> None:
    centres = middle_columns(row.children)
    if not centres or len(centres) < 2:
        return
    pitches = [b - a for a, b in itertools.pairwise(centres)]
    pitch = (centres[-1] - centres[0]) / len(pitches)
    if max(abs(c - centres[0] - i * pitch) for i, c in enumerate(centres)) > UNEVEN:
        return
    width = min(pitch - GUTTER, 2 * min(centres[0] - room.x, room.right - centres[-1]))
    if width >= max(c.rect.w for c in row.children):
        row.rect = edges(centres[0] - width / 2, row.rect.y, centres[-1] + width / 2, row.rect.bottom)


def middle_columns(kids: list[Node]) -> list[float] | None:
    """The middles of the columns if every one is a stack of parts about a middle rather than along an edge, else None."""
    middles = []
    for k in kids:
        if k.kind != "block" or k.surface is not None or len(k.children) < 2:
            return None
        if any(c.surface is not None and c.rect.w >= k.rect.w - CENTRED for c in k.children):
            return None  # a card says where its column ends
        centres = sorted(c.rect.cx for c in k.children)
        middle = centres[len(centres) // 2]
        near = [c for c in k.children if abs(c.rect.cx - middle) <= CENTRED]
        lefts = [c.rect.x for c in near]
        if len(near) * 3 < len(k.children) * 2 or len(near) < 2 or max(lefts) - min(lefts) <= 6:
            return None
        middles.append(sum(c.rect.cx for c in near) / len(near))
    return middles
