"""Bands: a page from side to side, top to bottom, or its columns with their sections."""

from __future__ import annotations

import itertools
from dataclasses import replace

from neige.core.model import Fill, Node, Reading, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.corridors import floats
from neige.core.outline.words import COPYRIGHT, body_style, heading_styles, node_text, words_of

LINE = 3.0  # px: a thicker one is a band
FULL = 0.985  # of the page's width: a band
BAR = 120.0  # px from the page's top above which its bar ends
SECOND_BAR = 4  # entries that a bar under the first has at least
SIDE_COLUMN = 480.0  # px that a column at the page's side is high at least
SECTION_GAP = 40.0  # px above a heading that starts a new section


def part_bands(root: Node, reading: Reading) -> None:
    """Divide the page into full-width bands: coloured ones as they are, what lies between as sections of its own."""
    width = reading.width
    kids = sorted(root.children, key=lambda n: (n.rect.y, n.rect.x))
    alone = len(kids) == 1 and kids[0].kind in ("row", "grid") and kids[0].surface is None
    if alone and (
        kids[0].rect.x <= 2 or kids[0].rect.right >= width - 2 or any(map(floats, kids[0].children))
    ):
        _sidebar(root, kids[0], reading)
        return
    container = _container(kids, width)
    big = heading_styles(reading)
    base = reading.styles[body_style(reading)].size if reading.styles else 16.0
    bands: list[Node] = []
    group: list[Node] = []

    def close(bottom: float) -> None:
        if not group:
            return
        top = bands[-1].rect.bottom if bands else 0.0
        bands.append(
            Node("block", edges(0, top, width, bottom), children=list(group), attributes={"band": "1"})
        )
        group.clear()

    for n in kids:
        full = n.surface is not None and n.rect.w >= FULL * width
        if full:
            close(n.rect.y)
            if (
                n.kind == "rule"
                and n.surface
                and n.rect.h <= LINE
                and len(bands) == 1
                and bands[0].rect.h < BAR
            ):
                bar = bands[0]  # the line under the page's bar is its border
                bar.rect = edges(0, bar.rect.y, width, n.rect.bottom)
                side = (0.0, 0.0, n.rect.h, 0.0)
                bar.surface = Surface(bar.rect, Fill(""), border=side, border_colour=n.surface.fill.colour)
                continue
            n.attributes["band"] = "1"
            bands.append(n)
            continue
        gap = n.rect.y - group[-1].rect.bottom if group else 0.0
        if group and n is kids[-1] and gap >= SECTION_GAP and COPYRIGHT.search(node_text(n)):
            close(n.rect.y - gap / 2)
        if group:
            heading = n.kind == "text" and n.style in big and reading.styles[n.style].size >= 1.3 * base
            if heading and gap >= SECTION_GAP:
                close(n.rect.y - gap / 2)
            elif len(bands) <= 1 and _ends_bar(group, len(bands)):
                close(n.rect.y - gap / 2 if n.kind != "rule" else n.rect.y)
        group.append(n)
    close(reading.height)
    for band in bands:
        inner = [c.rect for c in band.children]
        if container and inner:
            box = union(inner)
            touches = abs(box.x - container) <= 3 or abs(width - box.right - container) <= 3
            if touches and box.x >= container - 3 and box.right <= width - container + 3:
                band.attributes["container"] = f"{container:.2f}"
    root.children = bands
    if bands and bands[-1].surface is None:
        bands[-1].rect = edges(
            0,
            bands[-1].rect.y,
            width,
            max(bands[-1].rect.bottom, max(c.rect.bottom for c in bands[-1].children)),
        )


def _sections(column: Node, reading: Reading) -> None:
    """Divide a page's wide column where lines run from side to side, or else where its largest headings of one kind stand far
    below what is above them."""
    kids = column.children
    rules = [i + 1 for i, n in enumerate(kids[:-1]) if n.kind == "rule" and n.rect.w >= FULL * column.rect.w]
    starts = [(kids[i - 1].rect.bottom, i) for i in rules] or _heads_apart(kids, reading)
    if not starts or starts[0][1] == 0:
        return
    tops = [column.rect.y, *(y for y, _ in starts), column.rect.bottom]
    bounds = [0, *(i for _, i in starts), len(kids)]
    column.children = [
        Node("block", edges(column.rect.x, top, column.rect.right, bottom), children=kids[a:b], attributes={"band": "1"})
        for top, bottom, a, b in zip(tops, tops[1:], bounds, bounds[1:])
    ]  # fmt: skip


def _heads_apart(kids: list[Node], reading: Reading) -> list[tuple[float, int]]:
    """(y, index) of the children that begin with the largest heading that occurs more than once, with room above it."""
    big = heading_styles(reading)
    base = reading.styles[body_style(reading)].size if reading.styles else 16.0
    found: dict[int, list[tuple[float, int]]] = {}
    for i, (above, n) in enumerate(itertools.pairwise(kids), start=1):
        gap = n.rect.y - above.rect.bottom
        first = next((t for t in n.walk() if t.kind == "text"), None)
        if (
            first is not None
            and first.style in big
            and reading.styles[first.style].size >= 1.3 * base
            and gap >= SECTION_GAP
        ):
            found.setdefault(first.style, []).append((n.rect.y - gap / 2, i))
    repeated = [k for k, v in found.items() if len(v) > 1]
    return found[max(repeated, key=lambda k: big[k])] if repeated else []


def _ends_bar(group: list[Node], above: int) -> bool:
    """Is what has been gathered at the page's top a bar, or the second one of two?"""
    rows = [g for g in group if g.kind != "rule"]
    if len(rows) != 1 or rows[0].kind != "row":
        return False
    if not above:
        return len(group) == 1 and rows[0].rect.bottom < 130
    brief = all(c.kind == "text" and len(c.lines) == 1 and len(words_of(c)) <= 3 for c in rows[0].children)
    return rows[0].rect.bottom < 1.5 * BAR and brief and len(rows[0].children) >= SECOND_BAR


def _container(kids: list[Node], width: float) -> float:
    """The page's side margin, if several parts agree on it: the leading edge most parts start at."""
    votes: dict[int, float] = {}
    for n in kids:
        for c in n.children if n.surface and n.rect.w >= FULL * width else [n]:
            if c.kind == "text" and abs(c.rect.cx - width / 2) < 3:
                continue
            for margin in (c.rect.x, width - c.rect.right):
                if 0.012 * width < margin < 0.4 * width:
                    votes[round(margin)] = votes.get(round(margin), 0.0) + c.rect.w
    if not votes:
        return 0.0
    best = max(sorted(votes), key=lambda m: votes[m] + votes.get(m + 1, 0.0) + votes.get(m - 1, 0.0))
    exact = [
        m
        for n in kids
        for c in (n.children if n.surface and n.rect.w >= FULL * width else [n])
        for m in (c.rect.x, width - c.rect.right)
        if abs(m - best) <= 1.5
    ]
    return sorted(exact)[len(exact) // 2]


def _sidebar(root: Node, row: Node, reading: Reading) -> None:
    """A page whose first cut is into columns: sidebar and content, each as tall as the page."""
    for child in row.children:
        if (
            child.surface
            and (child.rect.x <= 2 or child.rect.right >= reading.width - 2 or floats(child))
            and child.rect.h > min(0.6 * reading.height, SIDE_COLUMN)
        ):
            child.attributes["edge"] = "1"
        elif child.surface is None:
            top = min(c.rect.y for c in row.children)
            child.rect = edges(child.rect.x, min(top, child.rect.y), child.rect.right, child.rect.bottom)
            if child.kind == "block" and child.children:
                first = child.children[0]
                child.rect = replace(child.rect)
                child.attributes["band"] = "1"
                right = reading.width if child.rect.right > 0.7 * reading.width else child.rect.right
                left = next((c.rect.right for c in row.children if c.rect.right <= child.rect.x + 2), 0.0)
                child.rect = edges(
                    left,
                    min(0.0, first.rect.y) if first.rect.y < 4 else 0.0,
                    right,
                    max(child.rect.bottom, reading.height if right == reading.width else child.rect.bottom),
                )
                _sections(child, reading)
    row.attributes["page"] = "1"
    row.rect = union([row.rect, *(c.rect for c in row.children)])  # as high as the content is taken to be
    if any(map(floats, row.children)):  # it keeps its distance from the page's side
        row.attributes["band"] = "1"
        row.rect = edges(0, 0, reading.width, reading.height)
    root.children = [row]
