"""Containers: bands that paint nothing are as wide as what is in them, and stand in the middle with room beside them."""

from __future__ import annotations

from neige.core.model import Node
from neige.core.model.geometry import edges

FULL = 0.97  # of the page's width: a band
LEAST = 24.0  # px of room at both sides
EVEN = 1.5  # px by which the two may differ
NARROW = 0.6  # of the page's width
ROOMS = ("header", "main", "footer", "section", "div")


def contain(root: Node) -> None:
    """Turn the side padding of the page's unpainted bands into a width of their own; sections that share theirs leave it to
    the part around them. Nothing is moved on the page."""
    for n in root.walk():
        if n.tag == "main" and n.kind == "block" and not any(n.padding) and len(n.children) > 1:
            _lift(n, root)
    for n in root.walk():
        bar = n.tag == "nav" and any(n is c for c in root.children)  # it is the page's head
        if _is_roomy(n, root) and (n.tag in ROOMS or bar) and n.children:
            top, right, bottom, left = n.padding
            if (bar or n.tag in ("header", "footer")) and n.rect.w - left - right < NARROW * root.rect.w:
                continue  # the page's head and foot are the page's, however little they say
            n.rect = edges(n.rect.x + left, n.rect.y, n.rect.right - right, n.rect.bottom)
            n.padding = (top, 0.0, bottom, 0.0)
            n.width = "contained"


def _is_roomy(n: Node, root: Node) -> bool:
    """A band over the whole page, without paint, with the same room at both sides."""
    _, right, _, left = n.padding
    return (
        n.surface is None
        and "band" in n.attributes
        and n.kind in ("block", "row", "grid")
        and n.rect.w > FULL * root.rect.w
        and abs(left - right) < EVEN
        and left > LEAST
    )


def _lift(holder: Node, root: Node) -> None:
    """Give the room beside all of a holder's bands to the holder."""
    if not all(_is_roomy(c, root) and c.width == "fill" for c in holder.children):
        return
    lefts = [c.padding[3] for c in holder.children]
    if max(lefts) - min(lefts) > EVEN:
        return
    left = lefts[0]
    for c in holder.children:
        top, _, bottom, _ = c.padding
        c.padding = (top, 0.0, bottom, 0.0)
        c.rect = edges(holder.rect.x + left, c.rect.y, holder.rect.right - left, c.rect.bottom)
    holder.padding = (0.0, left, 0.0, left)
    holder.attributes["band"] = "1"
