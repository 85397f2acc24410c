"""From outline nodes to HTML elements and the classes that lay them out."""

from __future__ import annotations

from neige.core.model import Node, Outline, Picture, Reading
from neige.core.outline.middle import CENTRED
from neige.core.outline.names import slug
from neige.core.outline.words import node_text, texts_in
from neige.core.reading.colour import away
from neige.core.writer.cutouts import Encoded, Files
from neige.core.writer.element import Element
from neige.core.writer.fields import ROOMY_FIELD, field, field_looks
from neige.core.writer.paint import Painter
from neige.core.writer.place import inside, place, tight_padding
from neige.core.writer.stylesheet import Sheet
from neige.core.writer.tables import table
from neige.core.writer.texts import button_kind, runs, text
from neige.core.writer.tokens import Colours, px, rem
from neige.core.writer.typeset import Typesetter

TILE_SIDE = 4.0  # px of padding at a tile's sides, which its width makes up for
BRIEF = 16  # characters: a button that says no more never breaks
SAME_INK = 0.15  # in OKLab: between an arrow, which is all anti-aliasing, and the words before it
MARKS = {"◦": "circle", "▪": "square"}  # of lists, in CSS


class Builder:
    """Writes one outline. `sheet` and `files` fill up while elements are made."""

    def __init__(
        self, outline: Outline, reading: Reading, picture: Picture, colours: Colours, encoded: Encoded
    ) -> None:
        self.outline, self.reading, self.colours = outline, reading, colours
        self.sheet = Sheet()
        self.files = Files(picture, reading, encoded)
        self.painter = Painter(colours, self.files)
        self.type = Typesetter(outline, reading, colours)
        self.fields = 0
        self.ids: set[str] = set()
        self.carets: set[int] = set()  # arrows that their parents generate
        self.names: dict[int, str] = {}
        self.field_looks = field_looks(outline)
        self.unbroken: set[int] = set()
        self._keep_lines(outline.root)
        self._own(outline.root, "page")

    def _keep_lines(self, n: Node) -> None:
        """Rows of nothing but single lines: their words stay on one line wherever there is room for the row."""
        texts = [t for t in n.walk() if t.kind == "text"]
        if n.kind == "row" and texts and all(len(t.lines) == 1 for t in texts):
            if any(len(self.reading.lines[t.lines[0]].words) > 1 for t in texts):
                self.unbroken.add(id(n))
            return
        for c in n.children:
            self._keep_lines(c)
        if n.attributes.get("list") and any(id(c) in self.unbroken for c in n.children):
            rows = (c for c in n.children if c.kind == "row")  # what is said of one entry is said of all
            self.unbroken |= {id(c) for c in rows if all(len(t.lines) == 1 for t in texts_in(c))}

    def _own(self, n: Node, name: str) -> None:
        own = (
            n.name
            if n.name and n.name not in ("button", "badge", "field", "icon", "picture", "content")
            else name
        )
        self.names[id(n)] = own
        for c in n.children:
            self._own(c, own)

    def element(self, n: Node, parent: Node, wrap_item: bool = False) -> Element:
        """The element of a node; `wrap_item`: as an entry of a list."""
        inner, inner_narrow, medium = (
            inside(n, self.reading.width, id(n) in self.unbroken)
            if n.kind in ("block", "row", "grid")
            else ({}, {}, {})
        )
        placed, placed_narrow = place(n, parent)
        if n.kind == "text" and not n.surface:
            return text(self, n, parent, placed, placed_narrow, wrap_item)
        if n.kind == "image":
            return self._image(n, placed, placed_narrow, wrap_item)
        if n.kind == "rule":
            return self._rule(n, parent, placed, placed_narrow, wrap_item)
        if n.kind == "field":
            return field(self, n, parent, placed, placed_narrow, wrap_item)
        if n.kind == "table":
            return table(self, n, placed)
        return self._container(n, parent, placed, placed_narrow, inner, inner_narrow, medium, wrap_item)

    def contents(self, n: Node, items: bool = False) -> list[Element | str]:
        """The elements of a node's children, in the document's order; `items`: each as an entry of a list."""
        made = {id(c): self.element(c, n, items) for c in n.children if id(c) not in self.carets}
        return [made[id(c)] for c in n.in_reading_order() if id(c) in made]

    def _caret(self, n: Node) -> str:
        """The class of a node that ends in the arrow of what opens; "": it does not, or it is a picture."""
        arrow = n.children[-1] if n.children else None
        if arrow is None or not arrow.attributes.get("caret"):
            return ""
        found = self.files.caret(arrow.cutout)
        if found is None:
            return ""
        shape, colour, (w, h) = found
        ink = next((self.reading.styles[t.style].colour for t in n.walk() if t.kind == "text"), "")
        placed, _ = place(arrow, n)
        self.carets.add(id(arrow))
        return self.sheet.after(
            "opens",
            {
                **placed, "inline-size": rem(w), "block-size": rem(h), "clip-path": shape,
                # the words' colour is theirs, not their parent's: `currentcolor` would be the page's
                "background": self.colours.name(ink if ink and away(ink, colour) < SAME_INK else colour),
            },
        )  # fmt: skip

    def owner(self, n: Node) -> str:
        """The name of the nearest named part around a node's children: what their classes begin with."""
        return self.names.get(id(n)) or "page"

    def finish(self, e: Element, *classes: str) -> Element:
        """An element with its classes before its other attributes."""
        names = [c for c in classes if c]
        if names:
            e.attributes = {"class": " ".join(dict.fromkeys(names)), **e.attributes}
        return e

    def _container(
        self,
        n: Node,
        parent: Node,
        placed: dict[str, str],
        placed_narrow: dict[str, str],
        inner: dict[str, str],
        inner_narrow: dict[str, str],
        medium: dict[str, str],
        wrap_item: bool,
    ) -> Element:
        paint = self.painter.paint(n.surface) if n.surface and n.tag != "body" else {}
        if n.surface and n.surface.shadow and n.tag in ("header", "nav", "aside"):
            paint["position"] = "relative"  # its shadow falls on what comes after it
        hug = n.tag in ("a", "button", "span") and n.surface is not None
        texts = [c for c in n.children if c.kind == "text"]
        tag = "li" if wrap_item and n.tag == "div" else n.tag
        listing = n.attributes.get("list")
        attributes: dict[str, str] = {}
        if n.tag == "a":
            attributes["href"] = "#"
        if n.tag == "button":
            attributes |= button_kind(n)
        if n.attributes.get("open"):
            attributes["open"] = ""
        if n.tag == "nav":
            attributes["aria-label"] = n.attributes.get("label", "Main")
        elif n.tag in ("a", "button") and (said := _name_unsaid(n)):
            attributes["aria-label"] = said
        if hug and len(n.children) == 1 and len(texts) == 1 and len(texts[0].lines) >= 1:
            t = texts[0]
            style = self.reading.styles[t.style]
            inner = {}
            pad = n.padding
            centred = abs(t.rect.cx - n.rect.cx) <= CENTRED
            if n.width == "fill" and parent.kind in ("block", "td"):  # its width comes from what it is in
                beside = min(ROOMY_FIELD, pad[1], pad[3]) if centred else min(pad[1], pad[3])
                pad = pad[0], beside, pad[2], beside if centred else pad[3]
            tile = float(n.attributes.get("tile", 0.0))
            if tile:
                pad = pad[0], min(pad[1], TILE_SIDE), pad[2], min(pad[3], TILE_SIDE)
                inner["min-inline-size"] = rem(tile)
            inner["padding"] = tight_padding(pad)
            declared = {
                "display": "block"
                if n.width == "fill" and parent.kind in ("block", "td")
                else "inline-block",
                **inner,
                **paint,
                **self.type.declarations(style, t.leading),
            }
            if n.width != "fill" or centred:
                declared["text-align"] = "center"
            if len(t.lines) == 1 and (t.attributes.get("nowrap") or len(node_text(n)) <= BRIEF):
                declared["white-space"] = "nowrap"
            if n.tag == "button" and declared["display"] == "block":
                declared["inline-size"] = "100%"  # a button hugs its words even as a block
            if n.width in ("hug", "max") and parent.kind == "block":
                declared["display"] = "block"
                several = len(t.lines) > 1  # narrower than its words would make it
                declared["inline-size"] = f"min(100%, {rem(n.rect.w)})" if several else "fit-content"
                placed.pop("inline-size", None)
            if n.width == "max":
                placed.pop("max-inline-size", None)
                placed.pop("inline-size", None)
            role = n.attributes.get("role", "chip")
            roomy = {"padding-inline": "1.25rem"} if max(pad[1], pad[3]) > 40 else {}
            variant = self.sheet.named(f"{role}-{slug(node_text(n), 1) or 'plain'}", declared, roomy)
            spot = self.sheet.named(f"{self.owner(parent)}__{role}", placed, placed_narrow)
            e = Element(n.tag, attributes, runs(self, t), n.id)
            self.finish(e, role if role == "button" else "", variant, spot)
            return Element("li", {}, [e]) if wrap_item else e
        if n.tag in ("a", "button", "span") and "display" not in inner:
            inner = {"display": "block", **inner}
        if listing in ("bullets", "ol"):
            firsts = (next((d for d in c.walk() if d.attributes.get("bullet")), c) for c in n.children)
            marks = [MARKS.get(d.attributes.get("bullet", ""), "disc") for d in firsts]
            inner["list-style"] = "decimal" if listing == "ol" else max(marks, key=marks.count)
        if listing and n.tag not in ("nav",):
            tag = "ol" if listing == "ol" else "ul"
            if n.attributes.get("start"):
                attributes["start"] = n.attributes["start"]
        block = n.name or f"{self.owner(n)}__{'group' if n.kind == 'block' else n.kind}"
        if n.attributes.get("role") == "button":
            block = f"button-{slug(node_text(n), 1) or 'icon'}"
        declared = {**inner, **paint}
        between = ""
        if (
            n.attributes.get("dotted") and "gap" in inner
        ):  # what is between entries belongs to their dots, and wraps with them
            rows, between = (inner["gap"].split() * 2)[:2]
            declared["gap"] = f"{rows} 0"
        children = n.children
        items = bool(listing)
        if n.tag == "nav" and listing:
            outer = Element("nav", attributes, [], n.id)
            ul = Element("ul", {}, self.contents(n, True))
            self.finish(ul, self.sheet.named(f"{block}__list", declared, inner_narrow, medium))
            outer.children = [ul]
            return self.finish(outer, self.sheet.named(block, placed, placed_narrow))
        narrow = {**placed_narrow, **inner_narrow}
        cls = self.sheet.named(block, {**placed, **declared}, narrow, medium)
        e = Element(tag, attributes, [], n.id)
        opens = self._caret(n)
        e.children = self.contents(n, items)
        if between:
            self._dot(n, e, between)
        if tag == "div" and not children and n.surface:
            attributes["aria-hidden"] = "true"
        self.finish(e, "button" if n.attributes.get("role") == "button" else "", cls, opens)
        if wrap_item and tag != "li":
            return Element("li", {}, [e])
        return e

    def _dot(self, n: Node, e: Element, gap: str) -> None:
        """Dots in the gaps of a list's entries: after each but the last."""
        style = self.reading.styles[texts_in(n)[0].style]
        dot = self.sheet.after(
            f"{self.owner(n)}__dotted",
            {
                "content": f'"{n.attributes["dotted"]}"', "display": "inline-block", "inline-size": gap,
                "color": self.colours.name(style.colour), "text-align": "center",
            },
        )  # fmt: skip
        for item in e.elements()[:-1]:
            item.attributes = {"class": "", **item.attributes}
            item.attributes["class"] = f"{item.attributes['class']} {dot}".strip()

    def _image(self, n: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool) -> Element:
        cutout = self.reading.cutouts[n.cutout]
        path, (w, h) = self.files.at(n.cutout, n.attributes.get("words", ""))
        painted: dict[str, str] = {}
        if cutout.radius:
            round_ = cutout.radius >= min(cutout.rect.w, cutout.rect.h) / 2 - 1
            painted["border-radius"] = "50%" if round_ else rem(cutout.radius)
        if n.surface:
            painted |= {"padding": tight_padding(n.padding)} | self.painter.paint(n.surface)
            w, h = round(n.rect.w), round(n.rect.h)
        words = cutout.alt or n.attributes.get("alt", "") or cutout.text[:120]
        e = Element("img", {"src": path, "width": str(w), "height": str(h), "alt": words}, [], n.id)
        name = n.name or "picture"
        if n.attributes.get("linked"):
            self.finish(e, self.sheet.named(name, painted))
            link = (
                {"display": "block"} | ({} if n.width == "fill" else {"inline-size": "fit-content"}) | placed
            )
            if n.attributes.get("pad"):
                block, inline = (float(v) for v in n.attributes["pad"].split())
                link["padding"] = f"{rem(block)} {rem(inline)}"
                if n.attributes.get("reach"):
                    link["margin-block-end"] = rem(-float(n.attributes["reach"]))
            presses = n.attributes["linked"] == "button"
            tag, leads = ("button", {"type": "button"}) if presses else ("a", {"href": "#"})
            cls = self.sheet.named(f"{name}-{'button' if presses else 'link'}", link, narrow)
            e = Element(tag, {"class": cls, **leads}, [e])
        else:
            self.finish(e, self.sheet.named(name, placed | painted, narrow))
        return Element("li", {}, [e]) if wrap_item else e

    def _rule(
        self, n: Node, parent: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool
    ) -> Element:
        colour = self.painter.rule_colour(n.surface.fill.colour if n.surface else "#000000")
        flat = n.rect.w >= n.rect.h
        declared = {**placed, "block-size" if flat else "min-block-size": px(n.rect.h), "background": colour}
        if n.surface and n.surface.border_style == "dotted":
            declared = {**placed, "border-block-start": f"{px(n.rect.h)} dotted {colour}"}
        if not flat or parent.kind == "row":
            declared["inline-size"] = px(n.rect.w) if not flat else rem(n.rect.w)
        e = Element("hr", {}, [], n.id)
        self.finish(e, self.sheet.named("rule", declared, narrow))
        return Element("li", {}, [e]) if wrap_item else e


def _name_unsaid(n: Node) -> str:
    """The accessible name of a link or button without words, numbered among its like: its true one is for the developer to give."""
    nth = n.attributes.get("nth")
    return n.attributes.get("label") or (f"{'Link' if n.tag == 'a' else 'Button'} {nth}" if nth else "")
