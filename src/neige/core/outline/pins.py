"""The developer's corrections of the outline, put in where they belong.

What regroups parts comes before anything is laid out, so that distances follow from it. Shares of columns come after that, roles
after the outline's own, names and order last: order changes the document, not what is drawn.
A part is found by its place in the picture; of several in one place, by the element it was when it was pinned.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from neige.core.model import Node, Pin, Reading, Rect
from neige.core.model.geometry import union
from neige.core.model.outline import HEADINGS
from neige.core.model.pin import AREA_ROLES, TEXT_ROLES
from neige.core.outline.cuts import compose
from neige.core.outline.names import slug
from neige.core.outline.paragraphs import text_node, tight

NEAR = 0.7  # IoU of a pin's rectangle and the part it is about
COVERED = 0.85  # of a part that a rectangle drawn round it must cover


@dataclass
class Corrections:
    """The pins that are about the outline, and in words those that could not be followed."""

    pins: Sequence[Pin]
    unmet: list[str] = field(default_factory=list)

    def of(self, *kinds: str) -> list[Pin]:
        return [p for p in self.pins if p.kind in kinds]

    def miss(self, pin: Pin, why: str) -> None:
        self.unmet.append(f"{pin}: {why}")

    def regroup(self, root: Node, reading: Reading) -> None:
        """Wrap, unwrap, join and divide, in the order they were asked for."""
        for pin in self.of("wrap", "unwrap", "join", "divide"):
            work = {"wrap": _wrap, "unwrap": _unwrap, "join": _join, "divide": _divide}[pin.kind]
            why = work(root, pin, reading)
            if why:
                self.miss(pin, why)

    def share(self, root: Node) -> None:
        """Give grids the shares of their columns that were asked for."""
        for pin in self.of("shares"):
            grids = [n for n in root.walk() if n.kind == "grid" and len(n.columns) == len(pin.shares)]
            grid = max(grids, key=lambda n: n.rect.iou(pin.rect), default=None)
            if grid is None or grid.rect.iou(pin.rect) < NEAR:
                self.miss(pin, f"there are no {len(pin.shares)} columns in this place")
                continue
            room = sum(abs(c) for c in grid.columns)
            grid.columns = [room * s / sum(pin.shares) for s in pin.shares]
            grid.attributes["pinned"] = "shares"

    def set_roles(self, root: Node) -> None:
        for pin in self.of("role", "like"):
            node = find_part(root, pin)
            if node is None:
                self.miss(pin, "there is no such part any more")
            elif pin.kind == "role":
                why = _give(node, pin.to)
                if why:
                    self.miss(pin, why)
            else:
                model = find_part(root, pin, of=pin.like)
                if model is None:
                    self.miss(pin, "the part it should be like is gone")
                else:
                    _be_like(node, model)

    def set_names(self, root: Node) -> None:
        for pin in self.of("rename", "like"):
            node = find_part(root, pin)
            if node is None:
                continue  # said already, or
            if pin.kind == "rename":
                node.name = slug(pin.name, 4) or node.name
            else:
                model = find_part(root, pin, of=pin.like)
                if model is not None and model.name:
                    node.name = model.name

    def reorder(self, root: Node) -> None:
        """Move parts in the document. Where they are drawn stays: CSS `order` says so on wide screens."""
        for pin in self.of("order"):
            node = find_part(root, pin)
            parent = next((p for p in root.walk() if node in p.children), None) if node else None
            if node is None or parent is None:
                self.miss(pin, "there is no such part any more")
                continue
            if parent.kind not in ("block", "row", "grid"):
                self.miss(pin, "rows and cells of a table keep their order")
                continue
            others = [c for c in parent.in_reading_order() if c is not node]
            at = next((i for i, c in enumerate(others) if pin.like and c.rect.iou(pin.like) > NEAR), None)
            if at is None:
                self.miss(pin, "the part it should stand next to is not beside it")
                continue
            at += pin.to == "after"
            for i, c in enumerate([*others[:at], node, *others[at:]]):
                c.attributes["read"] = str(i)


def find_part(root: Node, pin: Pin, of: Rect | None = None) -> Node | None:
    """The part in a pin's place; among several the one that is still the element it was, then the outermost."""
    place = of or pin.rect
    near = [(n.rect.iou(place), n) for n in root.walk()[1:]]
    best = max((iou for iou, _ in near), default=0.0)
    if best < NEAR:
        return None
    like = [n for iou, n in near if iou > best - 0.02]
    return next((n for n in like if of is None and pin.was and n.tag == pin.was), like[0])


def _covered(root: Node, place: Rect) -> tuple[Node, list[Node]] | None:
    """The deepest part that has children in a place, and those children."""
    found = None
    for parent in root.walk():
        inside = [c for c in parent.children if c.rect.inside(place, COVERED)]
        if inside and not parent.rect.inside(place, COVERED):
            found = (parent, inside)
            if len(inside) > 1:
                break
    return found


def _wrap(root: Node, pin: Pin, reading: Reading) -> str:
    found = _covered(root, pin.rect)
    if found is None:
        return "nothing lies in this place"
    parent, members = found
    if parent.kind not in ("block", "row", "grid"):
        return "cells of a table cannot be grouped"
    at = [i for i, c in enumerate(parent.children) if c in members]
    if at != list(range(at[0], at[-1] + 1)):
        return "other parts stand between them"
    if len(members) == len(parent.children) and parent.surface is None:
        return ""  # they are a group already
    group = compose(members, lambda n: tight(n, reading)) if len(members) > 1 else None
    if group is None or group.kind == "text":
        group = Node("block", union(m.rect for m in members), children=members)
    group.attributes["grouped"] = "1"
    parent.children[at[0] : at[-1] + 1] = [group]
    return ""


def _unwrap(root: Node, pin: Pin, reading: Reading) -> str:
    node = find_part(root, pin)
    parent = next((p for p in root.walk() if node in p.children), None) if node else None
    if node is None or parent is None or not node.children:
        return "there is no such group"
    if node.surface is not None:
        return "what it is painted with would be lost; tell that the panel is nothing of interest first"
    if parent.kind != node.kind and len(parent.children) > 1 and len(node.children) > 1:
        return "its parts lie in another direction than the ones around it"
    if len(parent.children) == 1 and parent.kind == "block":
        parent.kind = node.kind
    at = parent.children.index(node)
    parent.children[at : at + 1] = node.children
    return ""


def _join(root: Node, pin: Pin, reading: Reading) -> str:
    """Texts under one another become one paragraph."""
    found = _covered(root, pin.rect)
    if found is None or len(found[1]) < 2 or any(c.kind != "text" or c.surface for c in found[1]):
        return "there are no two texts to be joined"
    parent, members = found
    at = parent.children.index(members[0])
    lines = sorted((i for m in members for i in m.lines), key=lambda i: reading.lines[i].box.y)
    parent.children = [c for c in parent.children if c not in members]
    parent.children.insert(at, text_node(reading, lines))
    return ""


def _divide(root: Node, pin: Pin, reading: Reading) -> str:
    """A paragraph becomes two: the second begins with the first line below `x` px from the page's top."""
    node = find_part(root, pin)
    parent = next((p for p in root.walk() if node in p.children), None) if node else None
    if node is None or parent is None or node.kind != "text" or node.surface:
        return "there is no such text"
    above = [i for i in node.lines if reading.lines[i].box.cy < pin.x]
    below = [i for i in node.lines if i not in above]
    if not above or not below:
        return "it has no line above and below"
    parts = [text_node(reading, above), text_node(reading, below)]
    at = parent.children.index(node)
    if parent.kind == "row" or parent.kind == "grid":
        parts = [Node("block", node.rect, children=parts)]
    parent.children[at : at + 1] = parts
    return ""


def _give(node: Node, role: str) -> str:
    """Make a part what the developer says it is; "" or why not."""
    plain_text = node.kind == "text"
    if node.kind in ("field", "table", "tr", "td", "rule"):
        return f"a {node.tag} cannot be something else"
    if role in HEADINGS and not plain_text:
        inner = [n for n in node.walk() if n.kind == "text"]
        if len(inner) != 1:
            return "a heading has one text"
        node = inner[0]
        plain_text = True
    if plain_text and role not in TEXT_ROLES:
        return f"a text cannot be {role}"
    if not plain_text and node.kind == "image":
        return "a picture stays a picture; its description is in the asset sheet"
    if not plain_text and role not in AREA_ROLES:
        return f"a group cannot be {role}"
    node.attributes.pop("list", None)
    if role in ("ul", "ol"):
        node.tag, node.attributes["list"] = "div", "ol" if role == "ol" else "plain"
    else:
        node.tag = role
    if not plain_text and role in ("a", "button"):
        node.attributes["role"] = "button"
    node.reasons.append("said by hand")
    return ""


def _be_like(node: Node, model: Node) -> None:
    """The same component as another: its element, its role, and (once it has one) its name."""
    if (node.kind == "text") != (model.kind == "text"):
        return
    node.tag = model.tag
    for key in ("role", "list"):
        node.attributes.pop(key, None)
        if key in model.attributes:
            node.attributes[key] = model.attributes[key]
    node.reasons.append("made like another part by hand")
