"""Fields of forms: inputs, selects, text areas, choices and switches as they were painted."""

from __future__ import annotations

from dataclasses import replace
from statistics import median
from typing import TYPE_CHECKING

from neige.core.model import Node, Outline
from neige.core.outline.names import slug
from neige.core.reading.colour import away, contrast
from neige.core.writer.element import Element
from neige.core.writer.place import tight_padding
from neige.core.writer.tokens import rem

if TYPE_CHECKING:
    from neige.core.writer.build import Builder

SAME_PADDING = 2.0  # px by which the words of like fields may begin otherwise
OWN_ARROW = 6.0  # px from a select's end to the arrow that browsers draw
SELECT_PAD = 4.0  # px that they put before its words
OTHER_INK = 0.1  # in OKLab
FILLED = 0.8  # of the contrast of the page's text: what is written in a field is no hint
ROOMY_FIELD = 16.0  # px of padding after a field's words at most


def field_looks(outline: Outline) -> dict[int, tuple[float, int]]:
    """(padding before the words, text style) of every field: those that are painted alike share both, empty ones too."""
    groups: list[list[Node]] = []
    for n in outline.root.walk():
        if n.kind == "field" and n.surface and n.attributes.get("type") not in ("checkbox", "radio"):
            like = next((g for g in groups if _painted_alike(g[0], n)), None)
            if like is None:
                groups.append(like := [])
            like.append(n)
    out: dict[int, tuple[float, int]] = {}
    for group in groups:
        written = [n for n in group if n.lines]
        left = median(n.padding[3] for n in written or group)
        styles = [n.style for n in written]
        usual = max(sorted(set(styles)), key=styles.count) if styles else group[0].style
        for n in group:
            near = abs(n.padding[3] - left) <= SAME_PADDING or not n.lines
            out[id(n)] = (
                left if near else n.padding[3],
                n.style if n.lines and n.style != usual and not near else usual,
            )
    return out


def field(
    b: Builder, n: Node, parent: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool
) -> Element:
    b.fields += 1
    kind = n.attributes.get("type", "text")
    names = (n.attributes.get(k, "") for k in ("name", "placeholder", "label"))
    name = slug(next(filter(None, names), ""), 3) or f"field-{b.fields}"
    ident, k = name, 2
    while ident in b.ids:
        ident, k = f"{name}-{k}", k + 1
    b.ids.add(ident)
    n.attributes["id"] = ident
    attributes = {"id": ident, "name": ident}
    if n.attributes.get("set"):
        attributes["name"] = slug(n.attributes["set"], 3)
    if n.tag == "input":
        attributes["type"] = kind
    border = n.surface.border if n.surface else (0.0, 0.0, 0.0, 0.0)
    declared: dict[str, str] = {}
    arrow, end = n.attributes["arrow"].split() if n.tag == "select" else ("", "0")
    own_arrow = n.tag == "select" and float(end) <= OWN_ARROW
    if kind in ("checkbox", "radio"):
        declared |= {
            "flex": "none",
            "inline-size": rem(n.rect.w),
            "block-size": rem(n.rect.h),
            "appearance": "none",
        }
        if n.attributes.get("checked"):
            attributes["checked"] = ""
        if n.attributes.get("role"):
            attributes["role"] = n.attributes["role"]
        if n.attributes.get("checked", "1") != "1":
            declared["appearance"] = "auto"
            declared["accent-color"] = b.colours.name(n.attributes["checked"])
    else:
        left, text_style = b.field_looks.get(id(n), (n.padding[3], n.style))
        if own_arrow:
            left = max(0.0, left - SELECT_PAD)
        style = b.reading.styles[text_style]
        if n.lines and away(b.reading.styles[n.style].colour, style.colour) > OTHER_INK:
            style = replace(
                style, colour=b.reading.styles[n.style].colour
            )  # a hint is paler than what is written
        leading = float(round(style.size * 1.25))
        lines = [b.reading.lines[i] for i in n.lines] if n.tag == "textarea" else []
        if len(lines) > 1:
            leading = (lines[-1].baseline - lines[0].baseline) / (len(lines) - 1)
        vertical = max(0.0, (n.rect.h - border[0] - border[2] - leading) / 2)
        if n.tag == "textarea":
            over = (leading - style.ascent - style.descent) / 2 + style.ascent  # the first baseline
            top = lines[0].baseline - over - n.rect.y - border[0] if lines else vertical
            vertical = max(0.0, min(top, 24.0))
            declared |= {"block-size": rem(n.rect.h), "resize": "vertical"}
        declared |= {
            "padding": tight_padding((vertical, min(left, ROOMY_FIELD), vertical, left))
        } | b.type.declarations(style, leading)
        if own_arrow:  # browsers take no line height there
            declared |= {
                "block-size": rem(n.rect.h),
                "padding": f"0 {rem(min(left, ROOMY_FIELD))} 0 {rem(left)}",
            }
            declared.pop("line-height", None)
        if "inline-size" not in placed and not (parent.kind == "row" and "flex" in placed):
            placed["inline-size"] = "100%" if n.width == "fill" else rem(n.rect.w)
        if n.width == "hug":
            placed["inline-size"] = rem(n.rect.w)
        if n.attributes.get("autocomplete"):
            attributes["autocomplete"] = n.attributes["autocomplete"]
    said = n.attributes.get("placeholder", "") if n.tag != "select" else ""
    filled = bool(said) and _is_value(b, n, said)
    if filled and n.tag == "input":
        attributes["value"] = said
    elif said and not filled:
        attributes["placeholder"] = said
    if not n.attributes.get("name"):
        attributes["aria-label"] = (
            n.attributes.get("placeholder")
            or n.attributes.get("label")
            or ("Choice" if kind in ("checkbox", "radio") else "Entry")
        )
    if n.surface:
        declared |= b.painter.paint(n.surface)
    if n.attributes.get("knob"):
        colour, radius, place = n.attributes["knob"].split()
        at = f"calc(100% - {rem(float(place))})" if n.attributes.get("checked") else rem(float(place))
        disc = f"{b.colours.name(colour)} {rem(float(radius) - 0.5)}, transparent {rem(float(radius) + 0.5)}"
        declared["background"] = f"radial-gradient(circle at {at} center, {disc}) {declared['background']}"
    e = Element(n.tag, attributes, [said] if filled and n.tag == "textarea" else [], n.id)
    hint = declared.pop("color", "") if said and not filled else ""
    if n.tag == "select":
        e.children = [Element("option", {}, [n.attributes["choices"]])]
        if not own_arrow:
            path, _ = b.files.at(int(arrow), "arrow")
            declared["appearance"] = "none"
            if "background" in declared:
                declared["background"] += f' url("{path}") no-repeat right {rem(float(end))} center'
    elif n.attributes.get("mark"):
        icon, side, inset = n.attributes["mark"].split()
        path, _ = b.files.at(int(icon), "search")
        declared["background"] = (
            f'{declared.get("background", "none")} url("{path}") no-repeat {side} {rem(float(inset))} center'
        )
    if "margin-inline" in placed and parent.kind == "block":
        placed = {"display": "block"} | placed  # a margin of `auto` centres blocks only
    look = b.sheet.named("field" if kind not in ("checkbox", "radio") else kind, declared)
    if hint:
        rule = f".{look}::placeholder {{\n  color: {hint};\n  opacity: 1;\n}}\n"
        b.sheet.raw += [] if rule in b.sheet.raw else [rule]
    spot = b.sheet.named(f"{b.owner(parent)}__field", placed, narrow)
    b.finish(e, look, spot)
    return Element("li", {}, [e]) if wrap_item else e


def _is_value(b: Builder, n: Node, said: str) -> bool:
    """Has a field been filled in? What only hints at what to write is paler than the page's text."""
    if not n.lines or b.type.base is None or said.endswith(("…", "...")) or said == n.attributes.get("name"):
        return False
    if n.attributes.get("type") in ("search", "password"):
        return False
    ground = b.reading.lines[n.lines[0]].ground
    ink = b.reading.styles[n.style].colour
    return contrast(ink, ground) >= FILLED * contrast(b.type.base.colour, ground)


def _painted_alike(a: Node, b: Node) -> bool:
    s, t = a.surface, b.surface
    assert s is not None and t is not None
    return (s.fill.colour, s.border, s.border_colour) == (t.fill.colour, t.border, t.border_colour) and (
        abs(a.rect.h - b.rect.h) <= 1
    )
