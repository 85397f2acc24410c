"""Tables without lines, told by where their words begin; and what stands in rows and columns and is none."""

from __future__ import annotations

import unittest
from dataclasses import replace

from neige.core.model import Line, Node
from neige.core.outline.open_tables import open_grids
from neige.core.reading.text.part import part_lines
from neige.core.reading.text.rivers import find_rivers
from tests.core.test_menus import words
from tests.core.test_outline import STYLES, line, reading
from tests.core.test_structure import PROSE, page, tagged

HUTS = ("Brenn Hut", "Grey Saddle", "Upper Vell", "Lantern Hut", "Marl Notch", "Stone Ledge", "Firn Bench")
CLOSE = "<style>table{border-collapse:collapse}td,th{padding:1px;text-align:left;white-space:nowrap}</style>"


def table(rows: list[tuple[str, ...]], head: tuple[str, ...]) -> str:
    cells = "".join("<tr>" + "".join(f"<td>{c}</td>" for c in row) + "</tr>" for row in rows)
    heads = "".join(f"<th>{h}</th>" for h in head)
    return f"<main><h1>Depths</h1>{CLOSE}<table><tr>{heads}</tr>{cells}</table><br>{PROSE}</main>"


class Read(unittest.TestCase):
    def found(self, html: str) -> Node:
        (found,) = tagged(page(html)[1], "table")
        return found

    def test_columns_two_px_apart_are_columns(self) -> None:
        rows = [(h, f"{100 + 13 * i}", f"2026/11/{10 + i}", "Vell") for i, h in enumerate(HUTS)]
        found = self.found(table(rows, ("Station", "Depth", "Day", "Range")))
        self.assertEqual([len(tr.children) for tr in found.children], [4] * 8)
        self.assertEqual([words(c) for c in found.children[0].children], ["Station", "Depth", "Day", "Range"])
        for tr, row in zip(found.children[1:], rows):
            self.assertEqual(tuple(words(c) for c in tr.children), row)

    def test_a_line_under_the_head_makes_two_rows_a_table(self) -> None:
        style = "<style>table{width:600px;border-collapse:collapse}td,th{padding:10px 5px;text-align:left}th{font-size:12px;border-bottom:1px solid #9ab}td:last-child,th:last-child{text-align:right}</style>"
        head = "<tr><th>Station</th><th>What was read there</th><th>Depth</th></tr>"
        cells = "".join(
            f"<tr><td>{h}</td><td style='width:300px'>the stake beside the upper lift, and the board that lies next to it</td><td>{d} cm</td></tr>"
            for h, d in (("Brenn Hut", 112), ("Grey Saddle", 98))
        )
        found = self.found(f"<main><h1>Depths</h1>{style}<table>{head}{cells}</table><br>{PROSE}</main>")
        self.assertEqual([c.tag for c in found.children[0].children], ["th"] * 3)
        self.assertEqual([words(tr.children[2]) for tr in found.children[1:]], ["112 cm", "98 cm"])
        self.assertEqual(found.children[1].children[2].align, "end")
        self.assertTrue(all(td.surface and td.surface.border[2] for td in found.children[0].children))

    def test_links_in_columns_are_no_table(self) -> None:
        column = "<div style='width:220px'><b>{0}</b><p>Stations</p><p>Depth today</p><p>Wind at noon</p><p>Archive</p></div>"
        body = "".join(column.format(t) for t in ("Measure", "Publish", "Take part"))
        outline = page(f"<main><h1>Depths</h1>{PROSE}<div style='display:flex'>{body}</div></main>")[1]
        self.assertEqual(tagged(outline, "table"), [])


def row(y: float, cells: tuple[str, ...], xs: tuple[float, ...], style: int = 0) -> list[Line]:
    return [line(t, x, y, style) for t, x in zip(cells, xs)]


class Grids(unittest.TestCase):
    XS = (100.0, 260.0, 520.0, 700.0)

    def grids(self, rows: list[list[Line]]) -> list[int]:
        lines = [n for r in rows for n in r]
        return [len(g.rows) for g in open_grids(list(range(len(lines))), [], reading(lines))]

    def test_a_head_and_figures_make_a_table(self) -> None:
        body = [row(230 + 30 * i, (h, "read", f"{90 + i}", "cm"), self.XS) for i, h in enumerate(HUTS[:4])]
        head = row(200, ("Station", "What", "Depth", "In"), self.XS, 3)
        self.assertEqual(self.grids([head, *body]), [5])
        self.assertEqual(self.grids(body), [])  # four rows without a head say nothing
        self.assertEqual(self.grids([[*r[:2], line("deep", 520, r[0].baseline)] for r in (head, *body)]), [])

    def test_evenly_spaced_columns_are_a_pages(self) -> None:
        xs = (100.0, 400.0, 700.0)
        rows = [row(200 + 30 * i, (f"{10 + i} stakes",) * 3, xs, 3 if i == 0 else 0) for i in range(5)]
        self.assertEqual(self.grids(rows), [])


class Rivers(unittest.TestCase):
    def near(self, text: str, gap: float, y: float) -> Line:
        """A line whose last word begins at x 200, `gap` px after the one before."""
        whole = line(text, 100, y)
        last, before = whole.words[-1], whole.words[-2]
        shift = 200 - gap - before.x - before.w
        moved = [replace(w, x=w.x + shift, ink=replace(w.ink, x=w.ink.x + shift)) for w in whole.words[:-1]]
        end = replace(last, x=200.0, ink=replace(last.ink, x=200.0))
        box = replace(whole.box, x=moved[0].x, w=200 + last.w - moved[0].x)
        return replace(whole, words=(*moved, end), box=box)

    def test_words_closer_than_a_space_at_one_place_begin_a_column(self) -> None:
        lines = [self.near(f"{h.split()[0]} {90 + i}", 1.5, 200 + 26 * i) for i, h in enumerate(HUTS)]
        (river,) = find_rivers(lines, STYLES)
        self.assertAlmostEqual(river.x, 200, delta=0.5)
        self.assertEqual(len(part_lines(lines, STYLES, [])), 2 * len(HUTS))
        self.assertEqual(find_rivers(lines[:4], STYLES), [])

    def test_entries_that_begin_alike_are_not_parted(self) -> None:
        lines = [line(f"Station {h}", 100, 200 + 26 * i) for i, h in enumerate(HUTS)]
        self.assertEqual(find_rivers(lines, STYLES), [])
        bullets = [line(f"• {h}", 100, 200 + 26 * i) for i, h in enumerate(HUTS)]
        self.assertEqual(find_rivers(bullets, STYLES), [])

    def test_a_word_read_over_two_columns_is_cut_where_the_second_begins(self) -> None:
        lines = [self.near(f"2026/11/{10 + i} $4{i}0", 1.5, 200 + 26 * i) for i in range(7)]
        glued = lines[3]
        a, b = glued.words
        ink = replace(a.ink, w=b.ink.right - a.ink.x)
        word = replace(a, text=a.text + b.text, w=b.x + b.w - a.x, ink=ink)
        lines[3] = replace(glued, words=(word,))
        got = [n.text for n in part_lines(lines, STYLES, []) if abs(n.baseline - glued.baseline) < 1]
        self.assertEqual(got, ["2026/11/13", "$430"])
