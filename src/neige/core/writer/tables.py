"""Tables: rows, head cells and their paint, in a box that scrolls by itself."""

from __future__ import annotations

import itertools
from collections import Counter
from typing import TYPE_CHECKING

from neige.core.model import Node
from neige.core.outline.layout import line_between
from neige.core.outline.places import EVEN_ROWS, UNSURE_ROWS
from neige.core.outline.words import texts_in
from neige.core.writer.element import Element
from neige.core.writer.texts import runs
from neige.core.writer.tokens import number, rem

if TYPE_CHECKING:
    from neige.core.writer.build import Builder

WHOLE = 0.04  # % by which a column's share may be off a whole one
TYPE = ("color", "font-family", "font-size", "font-style", "font-weight", "letter-spacing", "line-height")
PLACE = ("padding-inline", "padding-block-start", "padding-block-end", "vertical-align", "text-align")
PLAIN = {  # what undoes a declaration that most cells have; else it is inherited
    "padding-inline": "0",
    "padding-block-start": "0",
    "padding-block-end": "0",
    "border": "0",
    "border-block-start": "0",
    "border-block-end": "0",
    "border-inline-start": "0",
    "border-inline-end": "0",
    "background": "none",
    "background-color": "transparent",
    "text-align": "start",
}
MOSTLY = 0.6  # of the cells
ROOM = 1.0  # px beside a line in its cell, without which a letter drawn wider would break it
OFF_MIDDLE = 1.6  # px by which a cell's content may be off its middle and still be centred


def table(b: Builder, n: Node, placed: dict[str, str]) -> Element:
    """The table of a node, in its box."""
    block = n.name or "data-table"
    out = Element("table", {}, [], n.id)
    total = sum(n.columns) or 1.0
    spans = any({"span", "rows"} & td.attributes.keys() for tr in n.children for td in tr.children)
    of = "tr:first-child > " if spans else ""  # there no cell takes several columns
    for i, w in enumerate(n.columns, start=1):
        b.sheet.raw.append(
            f".{block} {of}:is(th, td):nth-child({i}) {{\n  inline-size: {_percent(w / total)};\n}}\n"
        )
    rows = []
    head = n.children[0] if n.children and all(td.tag == "th" for td in n.children[0].children) else None
    heights, leadings = _heights(n, head), _leadings(n)
    looks: dict[
        int, tuple[dict[str, str], dict[str, str]]
    ] = {}  # of cells: always, and where words may break
    wordless: set[int] = set()
    for tr in n.children:
        cells: list[Element | str] = []
        for td in tr.children:
            declared: dict[str, str] = {}
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
                    above = first.y - td.rect.y - (td.surface.border[0] if td.surface else 0.0)
                    declared |= {"vertical-align": "top", "padding-block-start": rem(max(0.0, above))}
            drop = td.tweak.get("drop", 0.0)
            if abs(drop) > 0.2 and "vertical-align" not in declared:
                declared[f"padding-block-{'start' if drop > 0 else 'end'}"] = rem(abs(drop))
            if td.surface:
                declared |= b.painter.paint(
                    td.surface, skip_fill=td.surface.fill.colour == b.reading.background.colour
                )
            head_cell = td.tag == "th" and bool(td.children)  # an empty corner is no head of anything
            scope = {"scope": "col" if tr is head else "row"} if head_cell else {}
            span = {
                tag: td.attributes[k]
                for k, tag in (("span", "colspan"), ("rows", "rowspan"))
                if k in td.attributes
            }
            cell = Element("th" if head_cell else "td", span | scope, [], td.id)
            broken: dict[str, str] = {}
            if len(td.children) == 1 and td.children[0].kind == "text" and td.children[0].tag == "p":
                t = td.children[0]
                declared |= b.type.declarations(b.reading.styles[t.style], leadings[t.style])
                lines = sum(td.surface.border[1::2]) if td.surface else 0.0
                room = td.rect.w - lines - td.padding[1] - td.padding[3] - t.rect.w
                if t.attributes.get("nowrap") or (len(t.lines) == 1 and room < ROOM):
                    declared["white-space"], broken["white-space"] = "nowrap", "normal"
                cell.children = runs(b, t)
            else:
                cell.children = [b.element(c, td) for c in td.children]
            looks[id(cell)] = declared, broken
            if not any(texts_in(c) for c in td.children):
                wordless.add(id(cell))
            cells.append(cell)
        row = Element("tr", {}, cells, tr.id)
        painted = b.painter.paint(tr.surface) if tr.surface else {}
        kind = "head-row" if tr is head else "row"
        b.finish(row, b.sheet.named(f"{block}__{kind}", {"block-size": rem(heights[id(tr)])} | painted))
        rows.append(row)
    for name, part in (("head", rows[:1] if head else []), ("cell", rows[1:] if head else rows)):
        _dress(b, f"{block}__{name}", [row.elements() for row in part], looks, wordless)
    parts: list[Element | str] = [Element("thead", {}, [rows.pop(0)])] if head else []
    parts.append(Element("tbody", {}, list(rows)))
    out.children = parts
    b.finish(out, block)
    collapsed = {"border-collapse": "collapse"} if line_between(n) else {}
    b.sheet.named(block, {"inline-size": "100%"} | collapsed)
    box = Element("div", {"class": b.sheet.named("table-scroll", {**placed, "overflow-x": "auto"})}, [out])
    return box


def _dress(
    b: Builder,
    name: str,
    rows: list[list[Element]],
    looks: dict[int, tuple[dict[str, str], dict[str, str]]],
    wordless: set[int],
) -> None:
    """What most cells have in common is one class, what sets some apart another. Cells without words are set like those above and
    below them: nothing shows it, and one rule does for all."""
    every = {id(c): looks[id(c)][0] for row in rows for c in row}
    agreed = _common([v for k, v in every.items() if k not in wordless])
    for column in itertools.zip_longest(*rows):
        cells = [c for c in column if c is not None]
        set_in = agreed | _common([every[id(c)] for c in cells if id(c) not in wordless])
        for c in cells:
            if id(c) in wordless:
                free = TYPE if c.children else (*TYPE, *PLACE)
                kept = {k: v for k, v in every[id(c)].items() if k not in free}
                every[id(c)] = kept | {k: v for k, v in set_in.items() if k in free}
    common = _common(list(every.values()))
    shared = b.sheet.named(name, common)
    for c in (c for row in rows for c in row):
        own = every[id(c)]
        rest = {k: v for k, v in own.items() if common.get(k) != v}
        rest |= {k: PLAIN.get(k, "inherit") for k in common if k not in own}
        ends = f"{name}-{rest['text-align']}" if "text-align" in rest else name
        over = shared if rest.keys() & common.keys() else ""
        b.finish(c, shared, b.sheet.named(ends, dict(sorted(rest.items())), {}, looks[id(c)][1], over=over))


def _common(looks: list[dict[str, str]]) -> dict[str, str]:
    """The declarations that most of these have."""
    said = Counter(pair for o in looks for pair in o.items() if pair[0] != "white-space")
    return dict(pair for pair, n in said.items() if n > MOSTLY * len(looks))


def _percent(share: float) -> str:
    """A column's share; whole where it is as good as that."""
    exact = 100 * share
    return f"{number(round(exact) if abs(exact - round(exact)) <= WHOLE else exact, 2)}%"


def _heights(n: Node, head: Node | None) -> dict[int, float]:
    """How high the rows are, px. Those that differ by a px at most from what rows mostly are, which is where lines fell, are as high
    as each other, unless it is a border that some of them lack."""
    shared = 0.5 if line_between(n) else 0.0  # of a collapsed border each way
    out = {
        id(tr): tr.tweak.get(
            "height",
            max((td.rect.h for td in tr.children if "rows" not in td.attributes), default=tr.rect.h)
            - shared * max((sum(td.surface.border[::2]) for td in tr.children if td.surface), default=0.0),
        )
        for tr in n.children
    }
    alike: dict[float, list[int]] = {}
    for tr in n.children:
        if tr is not head:
            lines = max((sum(td.surface.border[::2]) for td in tr.children if td.surface), default=0.0)
            alike.setdefault(lines, []).append(id(tr))
    for rows in alike.values():
        middle = sorted(out[i] for i in rows)[len(rows) // 2]
        even = [i for i in rows if abs(out[i] - middle) <= EVEN_ROWS]
        out |= dict.fromkeys(even, _plain(sum(out[i] for i in even) / len(even), UNSURE_ROWS / len(even)))
    return out


def _plain(value: float, within: float) -> float:
    """The roundest length that differs by `within` px at most: whole px, halves or quarters."""
    steps = (round(value / step) * step for step in (1.0, 0.5, 0.25))
    return next((near for near in steps if abs(near - value) <= within), value)


def _leadings(n: Node) -> dict[int, float]:
    """For each style the commonest leading of its cells."""
    seen: dict[int, list[float]] = {}
    for t in (d for d in n.walk() if d.kind == "text"):
        seen.setdefault(t.style, []).append(round(t.leading, 2))
    return {k: max(set(v), key=lambda o: (v.count(o), -o)) for k, v in seen.items()}
