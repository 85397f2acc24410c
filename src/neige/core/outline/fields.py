"""What is to be filled in: how fields look, what they ask for, and boxes that are several of them."""

from __future__ import annotations

from neige.core.model import Node, Reading, Surface
from neige.core.model.geometry import edges
from neige.core.outline.words import body_style, node_text, texts_in
from neige.core.reading.colour import contrast

FIELD_WORDS = {
    "email": ("email", "email"),
    "e-mail": ("email", "email"),
    "mail": ("email", "email"),
    "password": ("password", "current-password"),
    "first name": ("text", "given-name"),
    "last name": ("text", "family-name"),
    "username": ("text", "username"),
    "name on card": ("text", "cc-name"),
    "card number": ("text", "cc-number"),
    "expir": ("text", "cc-exp"),
    "cvv": ("text", "cc-csc"),
    "phone": ("tel", "tel"),
    "search": ("search", "off"),
    "name": ("text", "name"),
    "address 2": ("text", "address-line2"),
    "address": ("text", "address-line1"),
    "zip": ("text", "postal-code"),
    "country": ("text", "country-name"),
    "url": ("url", "url"),
    "date": ("text", "off"),
    "number": ("text", "off"),
}
FIELD_HEIGHT = (20.0, 72.0)
LARGE_FIELD = 1.5  # times the running text's size: words in a field are no larger
ALIKE = 2  # boxes of one line that a box looks like, from which it is a field whatever is in it


def as_field(n: Node, placeholder: str, reading: Reading, tag: str = "input") -> Node:
    """The field that a box is; `placeholder`: what is written in it."""
    text = next((t for t in texts_in(n)), None)
    field = Node(
        "field", n.rect, tag=tag, surface=n.surface, style=text.style if text else body_style(reading)
    )
    field.lines = list(text.lines) if text else []
    if text:
        field.padding = (
            0.0,
            8.0,
            0.0,
            max(2.0, text.rect.x - n.rect.x - (n.surface.border[3] if n.surface else 0)),
        )
        field.runs = text.runs
    else:
        field.padding = (0.0, 12.0, 0.0, 12.0)
    field.attributes["placeholder"] = placeholder
    kind = next(((k, v) for k, v in FIELD_WORDS.items() if k in placeholder.lower()), None)
    field.attributes["type"] = kind[1][0] if kind else "text"
    if kind and kind[1][1] != "off":
        field.attributes["autocomplete"] = kind[1][1]
    if n.rect.h > 76:
        field.tag = "textarea"
    icons = [k for k in n.walk() if k.kind == "image"]
    if icons:
        field.attributes["icons"] = str(len(icons))
        arrow = max(icons, key=lambda k: k.rect.x)
        at_end = n.rect.right - arrow.rect.right < 28 and arrow.rect.w <= 18
        # what is written there is not chosen: its icon searches, or shows it
        typed = field.attributes["type"] != "text"
        if typed and len(icons) == 1:
            before = arrow.rect.cx < n.rect.cx
            field.attributes["mark"] = (
                f"{arrow.cutout} {'left' if before else 'right'} {(arrow.rect.x - n.rect.x) if before else n.rect.right - arrow.rect.right:.2f}"
            )
        if at_end and text and arrow.rect.x > text.rect.right and not typed:
            field.tag = "select"
            field.attributes["choices"] = placeholder
            field.attributes["arrow"] = f"{arrow.cutout} {n.rect.right - arrow.rect.right:.2f}"
    return field


def looks_like_fields(s: Surface, reading: Reading) -> bool:
    """Are several other boxes as high as a field of one line, and painted as this one?"""
    low, high = FIELD_HEIGHT
    alike = [
        o for o in reading.surfaces
        if o.rect != s.rect and low <= o.rect.h <= high and o.rect.w >= 3 * o.rect.h and abs(o.radius - s.radius) <= 1
        and (o.fill.colour, o.border, o.border_colour) == (s.fill.colour, s.border, s.border_colour)
    ]  # fmt: skip
    return len(alike) >= ALIKE


def stacked_fields(n: Node, reading: Reading) -> Node | None:
    """Fields that share their borders, one under another: a frame in strips, with what to fill in in every one."""
    s = n.surface
    strips = _strips(n)
    if s is None or len(strips) < 2 or not all(s.border) or contrast(s.fill.colour, "#ffffff") > 1.35:
        return None
    low, high = FIELD_HEIGHT
    for text, top, end in strips:
        words = node_text(text).lower()
        asks = len(text.lines) == 1 and len(words.split()) <= 4 and any(k in words for k in FIELD_WORDS)
        if not asks or not top < text.rect.cy < end or not low <= end - top <= high:
            return None
    fields = []
    for i, (text, top, end) in enumerate(strips):
        box = edges(n.rect.x, top, n.rect.right, end)
        above, below = (s.radius if i == 0 else 0.0), (s.radius if i == len(strips) - 1 else 0.0)
        corners = (above, above, below, below) if s.radius else None
        paint = Surface(box, s.fill, 0.0, s.border, s.border_colour, corners=corners)
        fields.append(as_field(Node("block", box, surface=paint, children=[text]), node_text(text), reading))
    return Node("block", n.rect, children=fields)


def _strips(n: Node) -> list[tuple[Node, float, float]]:
    """The texts of a frame that is parted all across, by lines or into boxes, and where each one's strip begins and ends; neighbours
    share the line between them."""
    kids = sorted(n.children, key=lambda c: c.rect.y)
    if any(c.rect.w < 0.97 * n.rect.w - 4 for c in kids if c.kind != "text"):
        return []
    rules, texts = [c for c in kids if c.kind == "rule"], [c for c in kids if c.kind == "text"]
    if rules and len(texts) == len(rules) + 1 and len(kids) == len(texts) + len(rules):
        tops, ends = [n.rect.y, *(r.rect.y for r in rules)], [*(r.rect.bottom for r in rules), n.rect.bottom]
        return list(zip(texts, tops, ends))
    inner = [c.children[0] for c in kids if c.kind == "block" and c.surface and len(c.children) == 1]
    if len(inner) != len(kids) or any(t.kind != "text" for t in inner):
        return []
    line = n.surface.border[0] if n.surface else 0.0
    parted = [a.rect.bottom for a in kids[:-1]]
    return list(zip(inner, [n.rect.y, *(y - line for y in parted)], [*parted, n.rect.bottom]))
