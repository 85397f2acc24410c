"""Tables, as browsers draw them, read back as rows of cells: striped, ruled, framed, with heads above and at the side."""

from __future__ import annotations

import itertools
import re
import unittest

import numpy as np

from neige.browser import draw_page
from neige.core.model import Fill, Node, Rect, Surface
from neige.core.outline.layout import columns_of
from neige.core.outline.places import AUTO
from neige.core.outline.spans import spanned_lattices
from neige.core.outline.tables import spans_of
from neige.core.pipeline import build
from neige.core.writer import write
from neige.core.writer.tables import _heights
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, drawn, page, tagged
from tests.support import png

ROWS = (
    ("Brenn Hut", "1,420 m", "112 cm"),
    ("Grey Saddle", "1,610 m", "140 cm"),
    ("Upper Vell", "1,880 m", "163 cm"),
)


def body(style: str, rows: tuple[tuple[str, ...], ...] = ROWS, before: str = "", side: str = "td") -> str:
    cells = "".join(
        f"<tr><{side}>{r[0]}</{side}>" + "".join(f"<td>{c}</td>" for c in r[1:]) + "</tr>" for r in rows
    )
    head = "<tr><th>Station</th><th>Height</th><th>Depth</th></tr>"
    table = "<style>table{width:700px;border-collapse:collapse}th,td{padding:8px 12px;text-align:left}"
    return f"<main><h1>Depths</h1>{table}{style}</style>{before}<table><thead>{head}</thead><tbody>{cells}</tbody></table><p>&nbsp;</p>{PROSE}</main>"


def table_of(html: str) -> Node:
    found = tagged(page(html)[1], "table")
    assert len(found) == 1, f"{len(found)} tables"
    return found[0]


class Tables(unittest.TestCase):
    def kinds(self, table: Node) -> list[str]:
        return ["".join(c.tag[1] for c in tr.children) for tr in table.children]

    def test_every_other_row_painted_is_enough(self) -> None:
        table = table_of(body("tbody tr:nth-child(odd){background:#e8eef2}"))
        self.assertEqual(self.kinds(table), ["hhh", "ddd", "ddd", "ddd"])
        self.assertEqual([words(c) for c in table.children[2].children], list(ROWS[1]))
        fills = [tr.surface.fill.colour if tr.surface else "" for tr in table.children]
        self.assertEqual(fills, ["", "#e8eef2", "", "#e8eef2"])

    def test_lines_and_a_painted_row_make_one_table(self) -> None:
        table = table_of(
            body("td,th{border-bottom:1px solid #b9c4cc}tbody tr:nth-child(2){background:#c9e4d8}")
        )
        self.assertEqual(self.kinds(table), ["hhh", "ddd", "ddd", "ddd"])
        self.assertEqual(
            table.children[2].surface.fill.colour if table.children[2].surface else "", "#c9e4d8"
        )

    def test_columns_begin_as_far_before_their_words_as_the_first(self) -> None:
        table = table_of(body("td,th{border-bottom:1px solid #b9c4cc}"))
        for cell in table.children[1].children:
            self.assertAlmostEqual(cell.children[0].rect.x - cell.rect.x, 12, delta=1.5)

    def test_the_room_in_cells_begins_inside_their_lines(self) -> None:
        for tr in table_of(body("td,th{border:1px solid #b9c4cc}")).children:
            self.assertAlmostEqual(tr.children[0].padding[3], 12, delta=0.3)

    def test_rows_that_are_all_as_high_are_whole_px_high(self) -> None:
        tops = [100.0, *(126.0 + 26 * k for k in range(23)), 723.5]  # where the last ends was only guessed
        rows = [
            Node("tr", Rect(40, y, 600, b - y), children=[Node("td", Rect(40, y, 600, b - y))])
            for y, b in itertools.pairwise(tops)
        ]
        table = Node("table", Rect(40, 100, 600, 623.5), children=rows)
        self.assertEqual(set(_heights(table, None).values()), {26.0})

    def test_names_at_the_side_are_heads_of_their_rows(self) -> None:
        html = body("td,th{border:1px solid #b9c4cc}thead th{background:#344}thead{color:#fff}", side="th")
        table = table_of(html)
        self.assertEqual(self.kinds(table), ["hhh", "hdd", "hdd", "hdd"])
        self.assertEqual(page(html)[2].count('scope="row"'), 3)

    def test_the_cells_of_a_framed_table_are_no_fields(self) -> None:
        table = table_of(body("table,td,th{border:1px solid #b9c4cc}"))
        self.assertEqual(self.kinds(table), ["hhh", "ddd", "ddd", "ddd"])
        self.assertFalse(
            [
                n
                for n in page(body("table,td,th{border:1px solid #b9c4cc}"))[1].root.walk()
                if n.kind in ("field", "rule")
            ]
        )

    def test_a_card_s_head_over_a_table_is_none_of_its_rows(self) -> None:
        card = "<style>div.c{width:702px;border:1px solid #b9c4cc}div.h{background:#e8eef2;padding:10px 12px;border-bottom:1px solid #b9c4cc;display:flex;justify-content:space-between}</style><div class=c><div class=h><span>Latest readings</span><b>12 new</b></div>"
        html = body("td,th{border-bottom:1px solid #b9c4cc}").replace(
            "<table><thead>", card + "<table><thead>"
        )
        table = table_of(html.replace("</table>", "</table></div>"))
        self.assertEqual(self.kinds(table), ["hhh", "ddd", "ddd", "ddd"])
        self.assertEqual(words(table.children[0]), "Station Height Depth")

    def test_entries_of_which_the_first_is_the_current_one_are_a_list(self) -> None:
        entry = "<div style='display:flex;justify-content:space-between;border-bottom:1px solid #c4ced6;padding:16px;{0}'><div style='width:300px'><b>{1}</b><p style='margin:4px 0 0;font-size:14px;line-height:18px'>Read at six in the morning from the stake by those who live nearest.</p></div><span style='font-size:14px'>{2}</span></div>"
        list_of = "".join(
            entry.format("background:#1a5fb4;color:#fff" if n == 0 else "", *e)
            for n, e in enumerate(
                (("Upper Cairn", "Wed"), ("Lantern Hut", "Tue"), ("Mirrow Col", "Mon"), ("Saddle", "Sun"))
            )
        )
        _, outline, _ = page(
            f"<main><h1>Depths</h1>{PROSE}<div style='width:380px;background:#fff'>{list_of}</div>{PROSE}</main>"
        )
        self.assertEqual([n for n in outline.root.walk() if n.kind == "table"], [])

    def test_code_in_a_box_as_wide_as_the_table_is_none_of_its_rows(self) -> None:
        code = "<pre style='width:700px;background:#e8eef2;padding:10px 12px;font-family:DejaVu Sans Mono;margin:0 0 40px'>stake = 1\ndepth = 140\nunit = cm</pre>"
        table = table_of(
            body(
                "thead tr{border-bottom:1px solid #456}tbody tr:nth-child(2){background:#e8eef2}", before=code
            )
        )
        self.assertEqual(len(table.children), 4)

    def test_a_row_all_in_red_leads_nowhere(self) -> None:
        html = body(
            "td,th{border-bottom:1px solid #b9c4cc}tbody tr:nth-child(2){color:#b3261e;background:#fdecea}"
        )
        self.assertFalse(tagged(page(html)[1], "a"))


class Boxes(unittest.TestCase):
    def test_a_box_in_a_cell_is_as_wide_as_it_is(self) -> None:
        badge = "<i style='display:block;width:26px;height:26px;border-radius:5px;background:#2a6;color:#fff;font:700 13px/26px Liberation Sans;text-align:center'>{}</i>"
        rows = tuple((badge.format(r[0][0]), r[0], r[2]) for r in ROWS)
        html = body("td,th{border-bottom:1px solid #b9c4cc}td:first-child{width:120px}", rows)
        found, outline, _ = page(html)
        drawing = draw_page(write(outline, found, drawn(STYLE + html, 900)[0]), 900)
        boxes = [n for n in outline.root.walk() if n.surface and n.surface.fill.colour == "#22aa66"]
        self.assertEqual(len(boxes), 3)
        for n in boxes:
            self.assertAlmostEqual(drawing.nodes[n.id].rect.w, 26, delta=1)


class Spans(unittest.TestCase):
    """Sums under a table: cells that take several of its columns."""

    def html(self) -> str:
        sums = "".join(
            f"<tr><td colspan='2' style='text-align:right'>{a}</td><td>{b}</td></tr>"
            for a, b in (("Mean", "138 cm"), ("Most", "163 cm"))
        )
        numbered = tuple(
            (str(i), f"{r[0]}<br><small>at {r[1]}</small>", r[2]) for i, r in enumerate(ROWS, start=1)
        )
        framed = body(
            "td,th{border:1px solid #b9c4cc;vertical-align:top}td:first-child{width:90px}", numbered
        )
        return framed.replace("</tbody>", f"{sums}</tbody>")

    def test_their_rows_belong_to_it(self) -> None:
        table = table_of(self.html())
        self.assertEqual([len(tr.children) for tr in table.children], [3, 3, 3, 3, 2, 2])
        sums = [tr.children[0] for tr in table.children[-2:]]
        self.assertEqual([(td.attributes.get("span"), td.align) for td in sums], [("2", "end")] * 2)
        self.assertAlmostEqual(sums[0].padding[1], 12, delta=1.5)

    def test_they_are_written_so_and_the_first_row_tells_the_widths(self) -> None:
        found, outline, html = page(self.html())
        self.assertEqual(html.count('colspan="2"'), 2)
        css = write(outline, found, drawn(STYLE + self.html(), 900)[0]).css
        widths = re.findall(r"tr:first-child > :is\(th, td\):nth-child\((\d)\)", css)
        self.assertEqual(widths, ["1", "2", "3"])

    def test_a_lone_upright_figure_is_read(self) -> None:
        first = [words(tr.children[0]) for tr in table_of(self.html()).children[1:4]]
        self.assertEqual(first, ["1", "2", "3"])

    def test_lines_of_one_cell_keep_their_distance(self) -> None:
        cell = table_of(self.html()).children[1].children[1]
        if len(cell.children) > 1:
            a, b = cell.children[:2]
            self.assertAlmostEqual(b.gap, b.rect.y - a.rect.bottom)

    def test_cells_that_do_not_end_where_columns_do_are_none_of_its(self) -> None:
        def cells(*ends: float) -> list[Surface]:
            return [Surface(Rect(a, 0, b - a, 30), Fill("")) for a, b in itertools.pairwise(ends)]

        first = cells(0, 100, 250, 400)
        self.assertEqual(spans_of(cells(0, 250, 400), first), [2, 1])
        self.assertEqual(spans_of(cells(0, 400), first), [3])
        self.assertEqual(spans_of(cells(0, 180, 400), first), [])
        self.assertEqual(spans_of(cells(0, 250), first), [])


class RowSpans(unittest.TestCase):
    """Names that hold for several rows: a cell of as many rows."""

    SAID = (
        (("Vell range", 3), "H", "The height of the station over the sea in metres, as the map of the range has it and as the observers know it."),
        (None, "D", "The depth of the snow at the stake by eight in the morning in centimetres, without what the wind has brought."),
        (None, "V", "The wind."),
        (("Brenn", 2), "T", "The warmth of the air in the hut."),
        (None, "S", "The light on the slope at noon, which tells whether the snow will hold until the evening comes."),
    )  # fmt: skip

    def html(self) -> str:
        rows = "".join(
            "<tr>" + (f"<td rowspan='{group[1]}'>{group[0]}</td>" if group else "") + f"<td>{sign}</td><td>{told}</td></tr>"
            for group, sign, told in self.SAID
        )  # fmt: skip
        style = "<style>table{width:620px;border-collapse:collapse}th,td{padding:6px 10px;text-align:left;border:1px solid #778}</style>"
        head = (
            "<tr><th style='width:90px'>Where</th><th style='width:60px'>Sign</th><th>What it says</th></tr>"
        )
        return f"<main><h1>Depths</h1>{style}<table>{head}{rows}</table><p>&nbsp;</p>{PROSE}</main>"

    def test_they_are_cells_of_one_table(self) -> None:
        table = table_of(self.html())
        self.assertEqual([len(tr.children) for tr in table.children], [3, 3, 2, 2, 3, 2])
        spans = {
            words(td): td.attributes["rows"]
            for tr in table.children
            for td in tr.children
            if "rows" in td.attributes
        }
        self.assertEqual(spans, {"Vell range": "3", "Brenn": "2"})
        self.assertEqual(
            [[words(td)[:3] for td in column] for column in columns_of(table)][1:],
            [["Sig", "H", "D", "V", "T", "S"], ["Wha", "The", "The", "The", "The", "The"]],
        )

    def test_they_are_drawn_as_they_were_and_lines_break_where_they_did(self) -> None:
        found, outline, html = page(self.html())
        self.assertEqual(re.findall(r'rowspan="(\d)"', html), ["3", "2"])
        drawing = draw_page(write(outline, found, drawn(STYLE + self.html(), 900)[0]), 900)
        for td in (td for n in outline.root.walk() if n.tag == "tr" for td in n.children):
            at = drawing.nodes[td.id].rect
            self.assertLess(abs(at.h - td.rect.h), 1.6, words(td))

    def test_how_high_a_row_is_is_said_of_the_row(self) -> None:
        found, outline, _ = page(self.html())
        css = write(outline, found, drawn(STYLE + self.html(), 900)[0]).css
        rules = dict(re.findall(r"^\.([\w-]+) \{(.*?)^\}", css, re.M | re.S))
        said = {name for name, rule in rules.items() if "block-size" in rule and "__" in name}
        self.assertTrue(said)
        self.assertTrue(all(re.search(r"__(head-)?row", name) for name in said), said)

    def test_columns_are_told_though_a_row_has_more_cells_than_the_first(self) -> None:
        def tr(*cells: dict[str, str]) -> Node:
            return Node(
                "tr", Rect(0, 0, 9, 9), children=[Node("td", Rect(0, 0, 9, 9), attributes=c) for c in cells]
            )

        table = Node(
            "table",
            Rect(0, 0, 9, 9),
            children=[tr({"rows": "2"}, {}), tr({}), tr({}, {"span": "2"}), tr({}, {}, {})],
        )
        self.assertEqual([len(c) for c in columns_of(table)], [3, 4, 1])

    def test_boxes_that_leave_a_hole_or_lie_on_each_other_are_no_lattice(self) -> None:
        def boxes(*rects: tuple[float, float, float, float]) -> list[Surface]:
            return [Surface(Rect(*r), Fill("#ffffff")) for r in rects]

        plain = [(100.0 * x, 40.0 * y, 100.0, 40.0) for y in range(4) for x in range(3)]
        high = [r for r in plain if r[:2] not in ((0.0, 40.0), (0.0, 80.0))] + [(0.0, 40.0, 100.0, 80.0)]
        self.assertEqual([len(t.cells) for t in spanned_lattices(boxes(*high))], [11])
        self.assertEqual(spanned_lattices(boxes(*plain)), [], "an even lattice has none that span")
        self.assertEqual(spanned_lattices(boxes(*high[1:])), [])
        self.assertEqual(spanned_lattices(boxes(*high, (100.0, 40.0, 100.0, 80.0))), [])
        stack = [(0.0, 40.0 * k, 200.0, 40.0) for k in range(6)]
        self.assertEqual(
            spanned_lattices(boxes(*stack, (200.0, 0.0, 300.0, 240.0))), [], "a panel beside a stack"
        )


class Columns(unittest.TestCase):
    """A table whose figures stand at the end under heads that begin at the start, and whose first column has no head."""

    def page(self) -> tuple[Node, str]:
        rows = "".join(
            f"<tr><td>{i + 1}</td><td>{h}</td><td class='n'>{d} cm</td><td>{w} / {i}</td><td class='n'>{1000 * d}</td></tr>"
            for i, (h, d, w) in enumerate(
                (
                    ("Brenn Hut", 112, 8),
                    ("Grey Saddle", 98, 12),
                    ("Upper Vell", 1630, 7),
                    ("Lantern Hut", 7, 19),
                    ("Marl Notch", 64, 30),
                )
            )
        )
        head = "".join(f"<th>{h}</th>" for h in ("", "STATION", "DEPTH", "WIND", "STAKES"))
        style = "<style>table{width:720px;border-collapse:collapse}th,td{padding:12px 20px;text-align:left;border-bottom:1px solid #b9c4cc}th{color:#889;font-size:13px;font-weight:400}.n{text-align:right}</style>"
        body = f"<main><h1>Depths</h1>{style}<table><tr>{head}</tr>{rows}</table><br>{PROSE}</main>"
        _, outline, html = page(body)
        (table,) = tagged(outline, "table")
        return table, html

    def test_the_head_is_found_and_figures_end_together(self) -> None:
        table, html = self.page()
        self.assertEqual([c.tag for c in table.children[0].children], ["th"] * 5)
        self.assertEqual(
            [words(c) for c in table.children[0].children], ["", "STATION", "DEPTH", "WIND", "STAKES"]
        )
        for column, align in ((1, "start"), (2, "end"), (3, "start"), (4, "end")):
            self.assertEqual({tr.children[column].align for tr in table.children[1:]}, {align})
            self.assertEqual(table.children[0].children[column].align, "start")
        self.assertEqual(html.count('scope="col"'), 4)

    def test_what_most_cells_share_is_written_once(self) -> None:
        html = self.page()[1]
        own = set(re.findall(r"[\w-]+__cell[\w-]*", html))
        self.assertLessEqual(len(own), 4, own)


ARROWS = "<svg width=12 height=14 style='float:right' viewBox='0 0 12 14'><path d='M2 5l4-4 4 4M2 9l4 4 4-4' fill='none' stroke='#889'/></svg>"
READINGS = (
    ("0141", "Brenn Hut", "112 cm", "3 Mar"),
    ("0142", "Grey Saddle", "98 cm", "4 Mar"),
    ("0143", "Upper Vell", "163 cm", "4 Mar"),
    ("0144", "Lantern Hut", "87 cm", "6 Mar"),
)


class Heads(unittest.TestCase):
    style = "<style>table{width:820px;border-collapse:collapse}th,td{padding:12px 20px;text-align:left;border-bottom:1px solid #b9c4cc}th{color:#889;font-size:13px;font-weight:400}small{display:block;color:#889;font-size:13px}</style>"

    def rows(self, cells: list[list[str]], head: tuple[str, ...], span: str = "") -> Node:
        said = "".join(f"<th{span if i == 0 else ''}>{h}</th>" for i, h in enumerate(head))
        body = "".join("<tr>" + "".join(f"<td>{c}</td>" for c in row) + "</tr>" for row in cells)
        return table_of(
            f"<main><h1>Depths</h1>{PROSE}{self.style}<table><tr>{said}</tr>{body}</table><br>{PROSE}</main>"
        )

    def test_arrows_that_sort_by_a_name_are_no_column(self) -> None:
        names = ("NO.", "STATION", "DEPTH", "READ")
        table = self.rows([list(r) for r in READINGS], tuple(f"{h} {ARROWS}" for h in names))
        self.assertEqual([len(tr.children) for tr in table.children], [4] * 5)
        self.assertEqual([c.tag for c in table.children[0].children], ["th"] * 4)
        self.assertEqual([words(c) for c in table.children[2].children], list(READINGS[1]))
        arrows = [c.children[0].children[-1] for c in table.children[0].children]
        self.assertEqual([a.gap for a in arrows], [AUTO] * 4, "at the cell's end, however long its name")

    def test_one_name_over_a_face_and_what_it_is_called_is_a_head(self) -> None:
        disc = "<i style='display:block;width:32px;height:32px;border-radius:50%;background:#2c6175'></i>"
        arrow = "<svg width=14 height=14 viewBox='0 0 14 14'><path d='M2 7h9M8 3l4 4-4 4' fill='none' stroke='#456' stroke-width=2 /></svg>"
        table = self.rows(
            [[disc, *r[1:], arrow] for r in READINGS], ("STATION", "DEPTH", "READ", ""), " colspan=2"
        )
        self.assertEqual(len(table.children), 5)
        self.assertEqual({c.tag for c in table.children[0].children if words(c)}, {"th"})

    def test_capitals_are_a_head_though_small_print_is_set_like_it(self) -> None:
        cells = [[r[0], f"{r[1]}<small>since {n + 3} Mar</small>", *r[2:]] for n, r in enumerate(READINGS)]
        table = self.rows(cells, ("NO.", "STATION", "DEPTH", "READ"))
        self.assertEqual([c.tag for c in table.children[0].children], ["th"] * 4)


class Lattice(unittest.TestCase):
    def test_lines_between_cells_are_drawn_where_they_were_seen(self) -> None:
        cells = (
            ("Station", "Depth", "Observer"),
            ("Brenn Hut", "184 cm", "Ana"),
            ("Upper Stake", "210 cm", "Ivo"),
            ("Grey Saddle", "96 cm", "Mia"),
        )
        rows = "".join(
            "<tr>" + "".join(f"<{'td' if i else 'th'}>{c}</{'td' if i else 'th'}>" for c in row) + "</tr>"
            for i, row in enumerate(cells)
        )
        style = "body{margin:0;padding:32px 40px;font:15px/1.53 'Liberation Sans'}table{border-collapse:collapse;width:700px;margin-top:21.4px}th,td{border:1px solid #889;padding:.7rem .75rem;text-align:left}th:first-child{width:43.7%}"
        picture, _ = drawn(
            f"<style>{style}</style><h1>Depths</h1><p>Read at eight.</p><table>{rows}</table>",
            800,
            fitted=True,
        )
        built = build(png(picture.pixels), "lattice.png", draw_page)
        seen, shot = picture.pixels.astype(int), built.drawing.pixels.astype(int)

        def lines(pixels: np.ndarray) -> tuple[list[int], list[int]]:
            inked = np.abs(pixels - (0x88, 0x88, 0x99)).max(axis=2) < 40
            inside = inked[:, 45:735]
            return np.flatnonzero(inside.mean(axis=1) > 0.9).tolist(), np.flatnonzero(
                inked[150:280].mean(axis=0) > 0.8
            ).tolist()

        (rows_seen, columns_seen), (rows_shot, columns_shot) = lines(seen), lines(shot)
        self.assertEqual(len(rows_seen), 5)
        self.assertEqual(columns_shot, columns_seen)
        self.assertLessEqual(
            np.abs(np.subtract(rows_shot, rows_seen)).max(), 1
        )  # where rounding falls otherwise
