"""Tables: rows, head cells and their paint, in a box that scrolls by itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from neige.core.model import Node
from neige.core.writer.element import Element
from neige.core.writer.tokens import number, rem

if TYPE_CHECKING:
    from neige.core.writer.build import Builder

OFF_MIDDLE = 1.2  # px by which a cell's content may be off its middle and still be centred


def table(b: Builder, n: Node, placed: dict[str, str]) -> Element:
    """The table of a node, in its box."""
    block = n.name or "data-table"
    out = Element("table", {}, [], n.id)
    total = sum(n.columns) or 1.0
    for i, w in enumerate(n.columns, start=1):
        b.sheet.raw.append(
            f".{block} :is(th, td):nth-child({i}) {{\n  inline-size: {number(100 * w / total, 2)}%;\n}}\n"
        )
    rows = []
    head = n.children[0] if n.children and all(td.tag == "th" for td in n.children[0].children) else None
    for tr in n.children:
        cells: list[Element | str] = []
        for td in tr.children:
            declared = {"block-size": rem(tr.tweak.get("height", tr.rect.h))}
            if any(v > 0.05 for v in td.padding):
                declared["padding-inline"] = (
                    rem(td.padding[3])
                    if abs(td.padding[1] - td.padding[3]) < 0.05
                    else f"{rem(td.padding[3])} {rem(td.padding[1])}"
                )
            if td.align != "start":
                declared["text-align"] = td.align
            if td.children:
                first, last = td.children[0].rect, td.children[-1].rect
                if abs((first.y + last.bottom) / 2 - td.rect.cy) > OFF_MIDDLE and first.y >= td.rect.y:
                    declared |= {"vertical-align": "top", "padding-block-start": rem(first.y - td.rect.y)}
            drop = td.tweak.get("drop", 0.0)
            if abs(drop) > 0.2 and "vertical-align" not in declared:
                declared[f"padding-block-{'start' if drop > 0 else 'end'}"] = rem(abs(drop))
            if td.surface:
                declared |= b.painter.paint(
                    td.surface, skip_fill=td.surface.fill.colour == b.reading.background.colour
                )
            head_cell = td.tag == "th" and bool(td.children)  # an empty corner is no head of anything
            scope = {"scope": "col" if tr is head else "row"} if head_cell else {}
            cell = Element("th" if head_cell else "td", scope, [], td.id)
            if len(td.children) == 1 and td.children[0].kind == "text" and td.children[0].tag == "p":
                t = td.children[0]
                declared |= b.type.declarations(b.reading.styles[t.style], t.leading)
                if t.attributes.get("nowrap"):
                    declared["white-space"] = "nowrap"
                cell.children = b.runs(t)
                b.finish(
                    cell,
                    b.sheet.named(
                        f"{block}__cell",
                        declared,
                        {},
                        {"white-space": "normal"} if t.attributes.get("nowrap") else {},
                    ),
                )
            else:
                cell.children = [b.element(c, td) for c in td.children]
                b.finish(cell, b.sheet.named(f"{block}__cell", declared))
            cells.append(cell)
        row = Element("tr", {}, cells, tr.id)
        if tr.surface:
            b.finish(row, b.sheet.named(f"{block}__row", b.painter.paint(tr.surface)))
        rows.append(row)
    parts: list[Element | str] = [Element("thead", {}, [rows.pop(0)])] if head else []
    parts.append(Element("tbody", {}, list(rows)))
    out.children = parts
    b.finish(out, block)
    lattice = any(td.surface and any(td.surface.border[1::2]) for tr in n.children for td in tr.children)
    b.sheet.named(block, {"inline-size": "100%"} | ({"border-collapse": "collapse"} if lattice else {}))
    box = Element("div", {"class": b.sheet.named("table-scroll", {**placed, "overflow-x": "auto"})}, [out])
    return box
