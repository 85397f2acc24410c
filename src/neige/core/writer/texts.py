"""Texts: their element with its place and type, the runs inside them, the steps of a trail."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from neige.core.model import Node
from neige.core.model.outline import Run
from neige.core.outline.words import ADDRESS, node_text
from neige.core.writer.element import Element
from neige.core.writer.place import tight_padding
from neige.core.writer.tokens import px, rem

if TYPE_CHECKING:
    from neige.core.writer.build import Builder

STRUT = 1.35  # times an entry's own line that a line of the body's text is at least, if it would hold entries in a row apart
SIGN = re.compile(r"(?:^|(?<=\s))(?=[/›»>→](?:\s|$))")  # where the next step of a trail begins


def text(
    b: Builder, n: Node, parent: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool
) -> Element:
    """A text's element: its class of type, shared by all that is set so, and one of its place and its own. `placed`, `narrow`: where
    it is in its parent, always and on small screens; `wrap_item`: as an entry of a list."""
    style = b.reading.styles[n.style]
    declarations = b.type.declarations(style, n.leading)
    if n.tag.startswith("h") and len(n.tag) == 2 and "font-weight" not in declarations:
        declarations["font-weight"] = str(style.weight)
    if n.tag.startswith("h") and len(n.tag) == 2 and "font-size" not in declarations:
        declarations["font-size"] = b.type.size(style.size)
    type_class = b.sheet.named(b.type.names[n.style], declarations)
    own: dict[str, str] = {}
    if n.align in ("center", "end"):
        own["text-align"] = n.align
    elif n.attributes.get("justify"):
        own["text-align"] = "justify"
    if n.attributes.get("hang"):  # the sign before its first line
        hang = float(n.attributes["hang"])
        own |= {"padding-inline-start": rem(hang), "text-indent": rem(-hang)}
    in_lines = style.bordered and len(n.lines) > 1  # with a border under each
    listed = wrap_item and n.tag in ("a", "span") and not in_lines and not parent.attributes.get("dotted")
    if listed and parent.kind != "row":
        # as blocks they are as high as their own lines, not as the list's
        own |= {"display": "block", "inline-size": "fit-content"}
    elif listed and b.type.strut > STRUT * n.leading > 0:
        own["display"] = "block"
    elif style.bordered and not wrap_item:
        own["inline-size"] = "fit-content"
    if n.attributes.get("pad"):
        own.pop("inline-size", None)
        block, inline = (float(v) for v in n.attributes["pad"].split())
        own["display"] = "block"
        own["padding"] = rem(block) if block == inline else f"{rem(block)} {rem(inline)}"
        if n.attributes.get("reach"):
            own["margin-block-end"] = rem(-float(n.attributes["reach"]))
    own_narrow: dict[str, str] = {}
    if n.tag == "pre":
        own["overflow-x"] = "auto"
        # on a narrow screen its lines break: nothing of them is hidden
        own_narrow |= {"white-space": "pre-wrap", "overflow-wrap": "anywhere"}
    if n.attributes.get("under"):  # a line of its own
        gap, thick, colour = n.attributes["under"].split()
        own["padding-block-end"] = rem(float(gap))
        own["border-block-end"] = f"{px(float(thick))} solid {b.colours.name(colour)}"
        if n.width == "hug":
            own |= {"display": "block", "inline-size": "fit-content"}
            n.attributes["nowrap"] = "1"
    if own.get("inline-size") == "fit-content" and parent.kind in ("block", "td"):
        if n.align == "center":
            own["margin-inline"] = "auto"
        elif n.align == "end":
            own["margin-inline-start"] = "auto"
    if n.attributes.get("nowrap"):
        own["white-space"] = "nowrap"
        own_narrow["white-space"] = "normal"
    tag = n.tag
    block_link = tag in ("a", "span", "label") and parent.kind in ("block", "td") and not wrap_item
    if block_link:
        hugs = (  # an entry of a menu, which has room above and below, is as wide as the menu
            {"inline-size": "fit-content"}
            if n.align != "end" and tag == "a" and not n.attributes.get("pad")
            else {}
        )
        if hugs and n.align == "center":
            hugs["margin-inline"] = "auto"
        placed = {"display": "block"} | hugs | placed
    part = "title" if tag[0] == "h" and len(tag) == 2 else {"a": "link", "label": "label"}.get(tag, "text")
    linked_item = wrap_item and tag != "p"
    if linked_item:
        own_class = b.sheet.named(f"{b.owner(parent)}__{part}", own, {}, own_narrow)
        spot = b.sheet.named(f"{b.owner(parent)}__item", placed, narrow)
    else:
        spot = b.sheet.named(f"{b.owner(parent)}__{part}", {**placed, **own}, narrow, own_narrow)
    attributes: dict[str, str] = {}
    if tag == "a":
        said = node_text(n)
        attributes["href"] = f"mailto:{said}" if ADDRESS.fullmatch(said) else "#"
    if tag == "button":
        attributes |= button_kind(n)
    if tag == "label" and n.attributes.get("for"):
        attributes["for"] = n.attributes["for"]
    content = runs(b, n)
    if tag == "ol":
        content = _steps(b, content)
    if tag == "pre":
        content = [Element("code", {}, content)]
    if wrap_item and tag == "p":
        return b.finish(Element("li", attributes, content, n.id), type_class, spot)
    if wrap_item:
        inner = b.finish(Element(tag, attributes, content, n.id), type_class, own_class)
        return b.finish(Element("li", {}, [inner]), spot)
    return b.finish(Element(tag, attributes, content, n.id), type_class, spot)


def runs(b: Builder, node: Node) -> list[Element | str]:
    """Inline content: text, and elements where the style changes or something is painted around it."""
    out: list[Element | str] = []
    main = b.reading.styles[node.style]
    before: Run | None = None
    for i, r in enumerate(node.runs):
        space = "" if r is node.runs[-1] or r.glue else " "
        style = b.reading.styles[r.style]
        if r.style == node.style and not r.tag and r.box is None:
            out.append(r.text + space)
            before = r
            continue
        declarations = b.type.declarations(style, 0.0, main) if r.style != node.style else {}
        if r.tag == "strong" and declarations.get("font-weight") == "700":
            declarations.pop("font-weight")
        if r.tag == "em":
            declarations.pop("font-style", None)
        if style.family != main.family or abs(style.size - main.size) > 0.01:
            declarations["line-height"] = "1"  # another face or size must not push its line's neighbours away
        if r.box is not None:
            declarations |= b.painter.paint(r.box) | {"padding": tight_padding(r.padding)}
        elif any(r.padding):
            declarations["padding-inline"] = rem(r.padding[1])
        if before and before.room:
            declarations["margin-inline-start"] = rem(before.room)
        if r.room and r is not node.runs[-1]:
            after = node.runs[i + 1]
            if after.style == node.style and not after.tag and after.box is None:
                declarations["margin-inline-end"] = rem(r.room)
        before = r
        name = "link" if r.tag == "a" else r.tag or ("mark" if r.box else b.type.names[r.style])
        cls = b.sheet.named(name, declarations)
        attributes = ({"class": cls} if cls else {}) | ({"href": "#"} if r.tag == "a" else {})
        out.append(Element(r.tag or "span", attributes, [r.text]))
        if space:
            out.append(space)
    return out


def _steps(b: Builder, content: list[Element | str]) -> list[Element | str]:
    """The entries of a trail, in one line as they were seen: each but the first begins with the sign before it."""
    steps: list[list[Element | str]] = [[]]
    for part in content:
        words = part.children[0] if isinstance(part, Element) else part
        if isinstance(part, str):
            first, *others = SIGN.split(part)
            steps[-1].append(first)
            steps += [[other] for other in others]
        elif isinstance(words, str) and SIGN.match(words):
            steps.append([part])
        else:
            steps[-1].append(part)
    cls = b.sheet.named("step", {"display": "inline"})
    for step in steps:
        while step and isinstance(step[-1], str) and not step[-1].strip():
            step.pop()
        if step and isinstance(step[-1], str):
            step[-1] = step[-1].rstrip()
    return [Element("li", {"class": cls}, [p for p in step if p]) for step in steps if step]


def button_kind(n: Node) -> dict[str, str]:
    """What a button does: open something, send its form, or neither."""
    if n.attributes.get("opens"):
        return {"type": "button", "aria-expanded": "false"}
    return {"type": "submit" if n.attributes.get("sends") else "button"}
