"""Writer: an `Outline` to a `Page`: HTML, CSS and assets. No pixels in here but cutouts."""

from __future__ import annotations

import re
from html import escape

from neige.core.model import Node, Outline, Page, Picture, Reading, Surface
from neige.core.model.page import Asset, Written
from neige.core.outline.words import body_style, node_text
from neige.core.writer.build import Builder
from neige.core.writer.cutouts import Encoded
from neige.core.writer.edits import apply_edits, hunks, with_edits
from neige.core.writer.element import Element, paths_of, serialise
from neige.core.writer.fonts import SYSTEM_STACK, face_of, fallback_face, font_assets, font_face, stack
from neige.core.writer.place import GUTTER_MOST
from neige.core.writer.stylesheet import CONVENTIONS, MEDIUM, RESET, SMALL, rule, up_to
from neige.core.writer.tokens import em, number, page_colours, rem
from neige.core.writer.values import changed_values

__all__ = ["apply_edits", "changed_values", "cut_fonts", "hunks", "with_edits", "write"]

UNDER = (0.5, 96.0)  # px of room under a page's last part that are written
GUTTER_LEAST = 12.0  # px: a container nearer to the page's edges is as wide as the page
SHORT_HEX = re.compile(r"#([0-9a-f])\1([0-9a-f])\2([0-9a-f])\3\b")


def write(
    outline: Outline,
    reading: Reading,
    picture: Picture,
    *,
    subset: bool = True,
    encoded: Encoded | None = None,
) -> Page:
    """Write the page. The same outline, reading and picture give the same bytes.

    Without `subset` the font files are the catalogue's whole ones: quicker, for drawings on the way. `encoded` keeps the
    cut-outs' files from one call to the next with the same reading.
    """
    base = reading.styles[body_style(reading)] if reading.styles else None
    colours = page_colours(reading, base.colour if base else "#000000")
    builder = Builder(outline, reading, picture, colours, {} if encoded is None else encoded)
    _label_fields(outline)
    body = Element("body", {}, [], outline.root.id)
    body.children = builder.contents(outline.root)
    _connect_labels(body, outline)
    used = {c for e in _all(body) for c in e.attributes.get("class", "").split()}
    head = (
        "<!doctype html>\n"
        f'<html lang="{escape(outline.language)}">\n'
        "  <head>\n"
        '    <meta charset="utf-8" />\n'
        '    <meta name="viewport" content="width=device-width, initial-scale=1" />\n'
        f"    <title>{escape(outline.title)}</title>\n"
        '    <link rel="stylesheet" href="styles.css" />\n'
        "  </head>\n"
    )
    written: dict[int, Written] = {}
    html = f"{head}{serialise(body, 1, written, head.count(chr(10)) + 1)}</html>\n"
    faces = _faces(reading)
    css = _css(builder, reading, faces, used, outline.root)
    assets = [*builder.files.assets, *font_assets(faces, _texts(reading) if subset else None)]
    files = tuple(sorted(assets, key=lambda a: a.path))
    return Page(html, css, files, paths_of(body), written, fitted=reading.fitted)


def cut_fonts(reading: Reading) -> None:
    """Cut the page's fonts down to its characters; `write` finds them done. It takes longer than all else of writing."""
    font_assets(_faces(reading), _texts(reading))


def _texts(reading: Reading) -> str:
    return "".join(w.text for line in reading.lines for w in line.words)


def _gutter(root: Node) -> float:
    """px beside the widest container: what is wider than the usual gutter leaves has less beside it."""
    beside = [
        (n.rect.w - n.padding[1] - n.padding[3] - c.rect.w) / 2
        for n in root.walk()
        for c in n.children
        if c.width == "contained"
    ]
    return min([GUTTER_MOST, *(max(GUTTER_LEAST, v) for v in beside)])


def _css(builder: Builder, reading: Reading, faces: list, used: set[str], root: Node) -> str:
    base = builder.type.base
    rules = builder.sheet.text(used, reading.width)
    own = {f.family: f for f in reversed(faces) if f.family not in SYSTEM_STACK}
    parts = ["/* Fonts */\n", *[font_face(f) + "\n" for f in faces]] if faces else []
    parts += [fallback_face(f) + "\n" for _, f in sorted(own.items())]
    ground = root.surface or Surface(root.rect, reading.background)
    body: dict[str, str] = {"background": builder.painter.paint(ground)["background"]}
    if base:
        body |= {
            "color": builder.type.ink(base),
            "font-family": stack(base),
            "font-size": rem(base.size),
            "font-weight": str(base.weight),
            "line-height": number(builder.type.base_leading),
        }
        if abs(base.tracking) > 0.005:
            body["letter-spacing"] = em(base.tracking / base.size)
        if base.italic:
            body["font-style"] = "italic"
    body["overflow-wrap"] = "break-word"
    if UNDER[0] < root.padding[2] <= UNDER[1]:
        body["padding-block-end"] = rem(root.padding[2])
    tokens = {
        f"--color-{name}": colour
        for colour, name in builder.colours.names.items()
        if f"var(--color-{name})" in rules or f"var(--color-{name})" in "".join(body.values())
    }
    least = _gutter(root)
    tokens["--gutter"] = f"clamp({rem(min(16.0, least))}, 4vw, {rem(least)})"
    parts += [
        "/* Tokens */\n",
        rule(":root", tokens),
        "\n/* Reset */\n",
        RESET,
        "\n/* Base */\n",
        rule("body", body),
    ]
    parts += ["\n/* Layout and components */\n", rules, "\n/* States */\n", CONVENTIONS]
    parts += ["\n", SMALL % up_to(MEDIUM, reading.width)]
    return SHORT_HEX.sub(r"#\1\2\3", "".join(parts))


def _faces(reading: Reading) -> list:
    out = []
    for s in reading.styles:
        face = face_of(s)
        if face not in out:
            out.append(face)
    return sorted(out, key=lambda f: f.file)


def _all(e: Element) -> list[Element]:
    return [e, *(d for c in e.elements() for d in _all(c))]


def _label_fields(outline: Outline) -> None:
    """Say in each label's node which field node it names, so that ids can be connected when they are known."""
    for n in outline.root.walk():
        pairs = list(zip(n.children, n.children[1:]))
        if n.attributes.get("role") == "choice":
            pairs += [(b, a) for a, b in pairs]
        for label, other in pairs:
            if label.tag == "label" and label.kind == "text":
                field = next((f for f in other.walk() if f.kind == "field"), None)
                if field is not None:
                    label.attributes["labels"] = str(field.id)
                    field.attributes["name"] = " ".join(r.text for r in label.runs)
    # a row of labels above a row of fields, or one beside its field: the field already has the name
    named = {
        f.attributes["name"]: f
        for f in reversed(outline.root.walk())
        if f.kind == "field" and f.attributes.get("name")
    }
    for n in outline.root.walk():
        if n.tag == "label" and n.kind == "text" and "labels" not in n.attributes and node_text(n) in named:
            n.attributes["labels"] = str(named[node_text(n)].id)


def _connect_labels(body: Element, outline: Outline) -> None:
    nodes = {n.id: n for n in outline.root.walk()}
    for e in _all(body):
        if e.tag == "label" and e.node in nodes:
            field = nodes.get(int(nodes[e.node].attributes.get("labels", -1)))
            if field is not None and "id" in field.attributes:
                e.attributes["for"] = field.attributes["id"]
            else:
                e.tag = "span"


def page_files(page: Page) -> list[Asset]:
    """Everything that is handed over: index.html, styles.css and the assets."""
    return [Asset("index.html", page.html.encode()), Asset("styles.css", page.css.encode()), *page.assets]
