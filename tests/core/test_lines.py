"""Lines of text as they are drawn: lines under words, words the detector passed over, digits, inks on grounds that change, signs."""

from __future__ import annotations

import itertools
import unittest

import cv2
import numpy as np

from neige.core.model import Line, Rect
from neige.core.reading import read
from neige.core.reading.charts import find_charts
from neige.core.reading.text.beside import read_beside
from neige.core.reading.text.boxed import lift_boxed
from neige.core.reading.text.ink import measure_ink
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.raw import RawLine
from neige.core.reading.text.recognise import recognise
from tests.core.test_menus import words
from tests.core.test_structure import page, tagged
from tests.support import drawn

STYLE = "<style>body{margin:0;background:#fff;color:#20262c;font:16px/24px 'Liberation Sans'}</style><body>"


def lines_of(body: str, style: str = STYLE) -> list[Line]:
    return list(read(drawn(style + body, 700)[0]).lines)


class Underlines(unittest.TestCase):
    def ruled(self, css: str) -> dict[str, bool]:
        body = (
            f"<p style='margin:30px;font-size:19px'>See <a style='{css}'>Grey Saddle pages</a> for depths</p>"
        )
        found = read(drawn(STYLE + body, 700)[0])
        return {w.text: found.styles[w.style].underline for n in found.lines for w in n.words}

    def test_a_line_that_gives_way_to_descenders_is_under_all_words(self) -> None:
        ruled = self.ruled("text-decoration:underline;text-underline-offset:3px")
        self.assertEqual([w for w, on in ruled.items() if on], ["Grey", "Saddle", "pages"])

    def test_so_is_a_line_of_dots(self) -> None:
        ruled = self.ruled("border-bottom:1px dotted #888")
        self.assertEqual([w for w, on in ruled.items() if on], ["Grey", "Saddle", "pages"])

    def test_words_without_a_line_have_none(self) -> None:
        self.assertFalse(any(self.ruled("").values()))

    def test_links_between_underlined_and_plain_words_are_told_apart(self) -> None:
        body = "<main><h1>Snow</h1><p>Read <a style='text-decoration:underline'>how stakes are read</a> and <a style='text-decoration:underline'>what pits tell</a> too</p></main>"
        html = page(body)[2]
        self.assertEqual(html.count("<a "), 2)
        self.assertIn("Read <a", html)


class Words(unittest.TestCase):
    def test_words_at_a_lines_end_without_a_box_are_read_with_it(self) -> None:
        picture, _ = drawn(
            STYLE + "<h1 style='margin:20px;font-size:44px;line-height:60px'>Weave the snow in</h1>", 700
        )
        box = (20.0, 25.0, 330.0, 78.0)  # of "Weave the snow", as a detector may give it
        raw, _ = read_lines(picture.pixels, [box], recognise, 0.0)
        self.assertEqual([n.text for n in raw], ["Weave the snow"])
        whole = read_beside(raw, picture.pixels, recognise, 0.0)
        self.assertEqual([n.text for n in whole], ["Weave the snow in"])
        self.assertGreater(whole[0].box[2], raw[0].box[2] + 20)

    def test_an_icon_beside_a_line_is_none_of_its_words(self) -> None:
        star = "<svg width='36' height='36' viewBox='0 0 24 24'><path d='M12 2l3 7 7 .6-5.400 4.700 1.700 7.200L12 17.600 5.700 21.500l1.700-7.200L2 9.600 9 9z'/></svg>"
        picture, _ = drawn(
            STYLE + f"<h1 style='margin:20px;font-size:44px;line-height:60px'>Snow {star}</h1>", 700
        )
        raw, _ = read_lines(picture.pixels, [(20.0, 25.0, 145.0, 78.0)], recognise, 0.0)
        self.assertEqual(
            [n.text for n in read_beside(raw, picture.pixels, recognise, 0.0)], [n.text for n in raw]
        )

    def test_a_numbers_own_digits_are_no_boxes_at_its_end(self) -> None:
        body = "<p style='margin:30px;font:700 36px/40px \"DejaVu Sans\"'>89,400 m</p><p style='margin:30px;font:700 36px/40px \"DejaVu Sans\"'>1,960 cm</p>"
        self.assertEqual([n.text for n in lines_of(body)], ["89,400 m", "1,960 cm"])

    def test_a_pill_at_a_words_end_still_is_lifted_out_of_it(self) -> None:
        from neige.core.reading.surfaces.flat import find_regions
        from neige.core.reading.text.raw import RawWord

        pixels = np.full((60, 160, 3), 255, np.uint8)
        cv2.putText(pixels, "New", (10, 38), cv2.FONT_HERSHEY_SIMPLEX, 0.9, (20, 20, 20), 2)
        cv2.rectangle(pixels, (76, 18), (104, 40), (200, 40, 40), -1)
        cv2.putText(pixels, "4", (84, 36), cv2.FONT_HERSHEY_SIMPLEX, 0.6, (255, 255, 255), 2)
        word = RawWord("New4", (10.0, 18.0, 105.0, 41.0), (20.0, 20.0, 20.0), 0.99, False, False)
        line = RawLine((word,), word.box, (255.0, 255.0, 255.0), True, 0.99)
        regions, _, _ = find_regions(pixels, 1, False)
        self.assertEqual(sorted(n.text for n in lift_boxed([line], regions, pixels, 1)), ["4", "New"])

    def test_a_bar_under_a_word_does_not_colour_it(self) -> None:
        body = "<p style='margin:30px 30px 2px;font-size:14px;line-height:20px;color:#8a94a0'>Jun 11 - Jul 10</p><div style='margin-left:30px;height:4px;width:300px;background:#e08a1e'></div>"
        found = read(drawn(STYLE + body, 700)[0])
        inks = {found.styles[w.style].colour for n in found.lines for w in n.words}
        away = [
            max(abs(int(c[i : i + 2], 16) - v) for i, v in ((1, 0x8A), (3, 0x94), (5, 0xA0))) for c in inks
        ]
        self.assertLess(max(away), 6, inks)


class Grounds(unittest.TestCase):
    def test_on_a_gradient_the_ink_is_not_the_ground(self) -> None:
        style = STYLE.replace(
            "background:#fff;color:#20262c",
            "background:linear-gradient(90deg,#2937f0,#9f1ae2);color:#fff;min-height:160px",
        )
        picture, _ = drawn(
            f"{style}<p style='margin:30px;font:700 38px/50px \"DejaVu Sans\"'>Snow for all of us here</p>",
            700,
        )
        ink = measure_ink(picture.pixels[32:80, 28:660])
        self.assertGreater(ink.colour.min(), 240)
        self.assertLess(ink.ground[0], 170)

    def test_a_sign_between_names_is_set_as_they_are_in_its_own_ink(self) -> None:
        sign = "<i style='display:inline-block;width:7px;height:7px;border:solid #8a94a0;border-width:1px 1px 0 0;transform:rotate(45deg);margin:0 8px'></i>"
        body = f"<p style='margin:30px'>Home {sign} Ranges and huts {sign} Vell</p>"
        found = read(drawn(STYLE + body, 700)[0])
        sizes = {found.styles[w.style].size for n in found.lines for w in n.words}
        self.assertEqual(sizes, {16.0})


class Tables(unittest.TestCase):
    def table(self, rows: str) -> str:
        return f"<main><h1>Bulletin</h1><table style='width:800px;table-layout:fixed;border-collapse:collapse;margin-top:20px'>{rows}</table></main>"

    def row(self, *cells: str, css: str = "text-align:left") -> str:
        first, *rest = cells
        tds = f"<td style='padding:10px 8px;width:38%'>{first}</td>" + "".join(
            f"<td style='padding:10px 8px;{css}'>{c}</td>" for c in rest
        )
        return f"<tr style='border-bottom:1px solid #b7bec6'>{tds}</tr>"

    def test_totals_under_a_table_are_its_last_rows(self) -> None:
        rows = self.row(
            "<b>Station</b>", "<b>Days</b>", "<b>Unit</b>", "<b>Depth</b>", css="text-align:right"
        )
        rows += "".join(
            self.row(n, "12", "cm", d, css="text-align:right")
            for n, d in (("Brenn Hut", "140"), ("Grey Saddle", "96"), ("High Col", "210"))
        )
        rows += "".join(
            self.row("", "", t, d, css="text-align:right")
            for t, d in (("Sum", "446"), ("Mean", "149"), ("Most", "210"))
        )
        _, outline, _ = page(self.table(rows))
        tables = tagged(outline, "table")
        self.assertEqual([len(t.children) for t in tables], [7])
        self.assertEqual([words(c) for c in tables[0].children[-1].children[-2:]], ["Most", "210"])

    def test_centred_texts_have_their_cells_around_them(self) -> None:
        rows = "".join(
            self.row(*r, css="text-align:center")
            for r in (
                ("<b>Station</b>", "<b>Days</b>", "<b>Observers</b>", "<b>Depth in cm</b>"),
                ("Brenn Hut", "12", "Ilse and Tom", "140"),
                ("Grey Saddle", "9", "Per", "96"),
                ("High Col", "31", "Nobody", "2,210"),
            )
        )
        _, outline, html = page(self.table(rows))
        cells = tagged(outline, "table")[0].children[1].children
        for a, b in itertools.pairwise(cells[1:]):
            self.assertAlmostEqual(a.rect.right, b.rect.x, delta=0.6)
        widths = [c.rect.w for c in cells[1:]]
        middles = [c.rect.cx - c.children[0].rect.cx for c in cells[1:]]
        self.assertLess(max(map(abs, middles)), 2.5, (widths, html))


class Charts(unittest.TestCase):
    def label(self, text: str, x: float, y: float) -> Line:
        from tests.core.test_menus import line

        return line(text, x, y)

    def test_an_axis_need_not_begin_at_zero(self) -> None:
        from neige.core.model import Rule

        ticks = [self.label(t, 40, 100 + 70 * i) for i, t in enumerate(("25,000", "20,000", "15,000"))]
        days = [self.label(t, 100 + 120 * i, 265) for i, t in enumerate(("Sunday", "Monday", "Tuesday"))]
        below = [
            self.label(t, 40, 340 + 30 * i)
            for i, t in enumerate(("Stations that report", "Brenn Hut and others"))
        ]
        rules = [Rule(Rect(95, n.box.cy, 500, 1), "#dddddd") for n in ticks]
        charts = find_charts([*ticks, *days, *below], [], rules)
        self.assertEqual(len(charts), 1)
        self.assertLess(charts[0].bottom, below[0].box.y)
