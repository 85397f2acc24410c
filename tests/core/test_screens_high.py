"""Pages as admin templates have them: a panel as high as the screen that shades what is beside it, bands that cards reach over,
bars of cells, logos, slanted words, fields filled in, entries of a menu on two lines."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import ClassVar

import numpy as np
from scipy.special import ndtr

from neige.core.model import Fill, Node, Rect, Surface
from neige.core.outline.borders import bare_fills
from neige.core.outline.controls import find_controls
from neige.core.outline.paragraphs import paragraphs
from neige.core.outline.underlined import find_underlined
from neige.core.reading.logos import is_wordmark
from neige.core.reading.mistaken import is_slanted
from neige.core.reading.surfaces.boxes import _drop_repeats
from neige.core.reading.surfaces.cards import drop_straddled
from neige.core.reading.surfaces.cast import Cast, give_casts, lift_casts
from neige.core.reading.surfaces.panels import lay_under_cells
from neige.core.reading.surfaces.rectangles import fit_rectangle
from tests.core.test_outline import STYLES, line, reading

WHITE = Fill("#ffffff")


def box(x: float, y: float, w: float, h: float, colour: str = "#ffffff", **more: object) -> Surface:
    return Surface(Rect(x, y, w, h), Fill(colour), **more)  # type: ignore[arg-type]


class Panels(unittest.TestCase):
    """A white panel 200 px wide and 600 of 900 px high, beside a band and the page's ground."""

    BAND, PAGE = (200, 60, 120), (244, 246, 250)

    def picture(self, high: int = 600) -> np.ndarray:
        out = np.empty((900, 700, 3), np.float64)
        out[:] = self.PAGE
        out[:200] = self.BAND
        d = np.arange(500) + 0.5
        across = 0.12 * (1 - ndtr(d / 10))
        down = ndtr((high - np.arange(900) - 0.5) / 10)
        out[:, 200:] *= (1 - down[:, None] * across)[:, :, None]
        out[:high, :200] = 255
        out[high:, :200] = self.PAGE
        return np.rint(out).astype(np.uint8)

    def test_its_shadow_is_undone_as_far_as_the_panel_reaches(self) -> None:
        bare, casts = lift_casts(self.picture(), 1)
        self.assertEqual(len(casts), 1)
        self.assertEqual((casts[0].box.x, casts[0].box.w), (0, 200))
        self.assertAlmostEqual(casts[0].box.h, 600, delta=6)
        for y, own in ((60, self.BAND), (400, self.PAGE)):
            with self.subTest(y=y):
                self.assertEqual(set(map(tuple, bare[y, 200:400].tolist())), {own})
        below = np.abs(bare[606, 200:400].astype(int) - self.PAGE).max()
        self.assertLessEqual(int(below), 2, "nor is it lost where the shadow ebbs away")
        self.assertTrue(np.array_equal(bare[700:], self.picture()[700:]), "nothing is brightened below it")

    def test_cards_may_begin_before_the_longest_shadow_ends(self) -> None:
        pixels = self.picture()
        pixels[20:880:2, 245:600] = 255
        pixels[21:880:2, 245:600] = 90
        self.assertEqual(len(lift_casts(pixels, 1)[1]), 1)

    def test_a_short_panel_tells_nothing(self) -> None:
        self.assertEqual(lift_casts(self.picture(200), 1)[1], [])

    def test_who_casts_it_gets_its_shadow_as_far_down_as_it_was_seen(self) -> None:
        _, (cast,) = lift_casts(self.picture(), 1)
        lower = Cast(Rect(0, 0, 200, 612), cast.shadow)
        (panel,) = give_casts([box(0, 0, 200, 600)], [lower])
        self.assertIsNotNone(panel.shadow)
        self.assertEqual(panel.shadow.dy if panel.shadow else None, 12.0)


class Bands(unittest.TestCase):
    CARD = box(260, 120, 400, 300)

    def test_a_band_beside_a_panel_stays_where_a_card_reaches_over_its_end(self) -> None:
        band, panel = box(200, 0, 1240, 200, "#db2777", confidence=0.7), box(0, 0, 200, 900, "#101820")
        self.assertIn(
            band, drop_straddled([panel, band, replace(self.CARD, rect=Rect(260, 120, 800, 300))], 1440)
        )

    def test_without_the_panel_it_is_part_of_a_picture(self) -> None:
        band = box(200, 0, 1240, 200, "#db2777", confidence=0.7)
        self.assertNotIn(
            band, drop_straddled([band, replace(self.CARD, rect=Rect(260, 120, 800, 300))], 1440)
        )

    def test_a_region_that_cards_cover_for_the_most_part_keeps_its_outline(self) -> None:
        mask = np.ones((370, 1180), bool)
        for x in range(60, 1100, 280):
            mask[120:250, x : x + 250] = False
        mask[290:, 50:1130] = False  # a card over its end
        self.assertLess(mask.mean(), 0.5 + 0.05)
        mask[20:60, 100:1100] = False
        self.assertEqual(fit_rectangle(mask), 0.0)


class Cells(unittest.TestCase):
    def row(self, n: int, gap: float = 1.0, **more: object) -> list[Surface]:
        return [box(100 + i * (80 + gap), 20, 80, 50, "#20242a", **more) for i in range(n)]

    def test_boxes_that_thin_lines_part_lie_on_one_bar(self) -> None:
        lined = [replace(s, border=(0.0, 1.0, 0.0, 0.0), border_colour="#3a4048") for s in self.row(4, 0.0)]
        out = lay_under_cells(lined)
        self.assertEqual(out[0].rect, Rect(100, 20, 320, 50))
        self.assertEqual(sorted(s.rect.x for s in out[1:]), [100, 180, 260, 340])

    def test_the_last_without_a_line_is_the_bar_itself(self) -> None:
        cells = self.row(3, 0.0)
        lined = [replace(s, border=(0.0, 1.0, 0.0, 0.0), border_colour="#3a4048") for s in cells[:2]]
        self.assertEqual(len(lay_under_cells([*lined, cells[2]])), 3)

    def test_two_or_with_frames_or_wide_gaps_are_none(self) -> None:
        framed = {"border": (1.0, 1.0, 1.0, 1.0), "border_colour": "#3a4048"}
        for name, cells in (
            ("two", self.row(2)),
            ("framed", self.row(4, 0.0, **framed)),
            ("apart", self.row(4, 9.0)),
            ("nothing but the ground between them", self.row(4, 2.0)),
        ):
            with self.subTest(name):
                self.assertEqual(lay_under_cells(cells), cells)

    def test_a_ring_is_the_border_of_what_is_in_it(self) -> None:
        inner = box(20, 20, 90, 40, "#1b1c1d", border=(2.0,) * 4, border_colour="#ffffff")
        ring = box(20, 20, 90, 40, "#ffffff")
        self.assertEqual(_drop_repeats([ring, inner]), [inner])
        other = box(20, 20, 90, 40, "#00ff00")
        self.assertEqual(_drop_repeats([other, inner]), [other, inner])

    def test_a_link_with_a_line_at_one_side_is_not_painted_in_what_it_stands_on(self) -> None:
        cell = box(0, 0, 80, 50, "#20242a", border=(0.0, 1.0, 0.0, 0.0), border_colour="#3a4048")
        link = Node("block", cell.rect, tag="a", surface=cell)
        root = Node("block", Rect(0, 0, 800, 50), surface=box(0, 0, 800, 50, "#20242a"), children=[link])
        bare_fills(Node("block", root.rect, children=[root]), "#ffffff")
        self.assertEqual(
            (link.surface.fill.colour, link.surface.border[1]) if link.surface else None, ("", 1.0)
        )


class Letters(unittest.TestCase):
    def test_words_that_climb_are_no_level_line(self) -> None:
        level = replace(line("Download", 100, 60), residual=0.4)
        first = replace(level, ink=Rect(100, 20, 50, 46))
        second = replace(level, ink=Rect(130, 40, 50, 46))
        self.assertTrue(is_slanted(first, [first, second]))
        self.assertFalse(is_slanted(first, [first]), "one alone may be a word on a photo")
        self.assertFalse(is_slanted(level, [level, second]))
        self.assertFalse(is_slanted(replace(first, residual=0.05), [second]))
        self.assertFalse(is_slanted(first, [first, replace(second, ink=Rect(300, 40, 50, 46))]))

    def wordmark(self, mark: bool, residual: float = 0.33) -> bool:
        small = [line("Depths of the day", 60, 300 + 30 * i) for i in range(4)]
        large = replace(line("vell", 120, 60, 1), style=len(STYLES), residual=residual)
        large = replace(large, x_height=3 * small[0].x_height, ink=Rect(120, 30, 90, 40))
        styles = [*STYLES, replace(STYLES[1], lines=1)]
        pixels = np.full((400, 600, 3), 255, np.uint8)
        if mark:
            pixels[32:68, 74:112] = (180, 20, 40)
        return is_wordmark(large, [large, *small], styles, pixels, 1)

    def test_a_large_word_that_is_drawn_badly_is_a_logo_beside_its_mark(self) -> None:
        self.assertTrue(self.wordmark(True))
        self.assertFalse(self.wordmark(False))
        self.assertFalse(self.wordmark(True, residual=0.1))
        self.assertTrue(self.wordmark(False, residual=0.6), "what nothing draws is one wherever it stands")


class Entries(unittest.TestCase):
    def test_a_line_much_nearer_than_the_others_goes_on_with_its_entry(self) -> None:
        says = (
            "Stations",
            "Stake reports sent",
            "Upper Cairn",
            "Observers",
            "Method",
            "Huts",
            "Weather",
            "Paths",
        )
        at, y = [], 40.0
        for n, s in enumerate(says):
            y += 20 if n == 2 else 36
            at.append(line(s, 40, y))
        found = paragraphs(reading(at), list(range(len(at))))
        self.assertEqual([len(t.lines) for t in found], [1, 2, 1, 1, 1, 1, 1])

    def test_evenly_spaced_lines_are_entries_of_their_own(self) -> None:
        at = [
            line(s, 40, 40 + 36.0 * n)
            for n, s in enumerate(("Stations", "Read", "Observers", "Huts", "Paths"))
        ]
        self.assertEqual([len(t.lines) for t in paragraphs(reading(at), list(range(5)))], [1] * 5)


class Controls(unittest.TestCase):
    FRAME: ClassVar = {"border": (1.0,) * 4, "border_colour": "#c0c8d0", "radius": 6.0}

    def control(self, says: str, w: float = 700, more: int = 4, x: float = 116, **paint: object) -> Node:
        s = box(100, 100, w, 40, str(paint.pop("colour", "#ffffff")), **{**self.FRAME, **paint})
        alike = [replace(s, rect=Rect(100, 200 + 60 * n, 300, 40)) for n in range(more)]
        r = reading([line(says, x, 126)], [s, *alike])
        text = paragraphs(r, [0])
        node = Node("block", s.rect, surface=s, children=text)
        return find_controls([node], Node("block", Rect(0, 0, 1440, 900)), r)[0]

    LONG = "Lantern Hut, third door behind the mast, Upper Vell"

    def test_a_field_may_be_filled_in_at_length_among_others(self) -> None:
        self.assertEqual(self.control(self.LONG).kind, "field")
        self.assertNotEqual(self.control(self.LONG, more=0).kind, "field")

    def test_words_with_hardly_any_room_around_them_are_no_button(self) -> None:
        says, bare = "Depth of snow", {"border": (0.0,) * 4, "colour": "#e4e8ec", "more": 0}
        width = line(says, 0, 0).box.w
        self.assertEqual(self.control(says, width + 40, **bare, x=120).attributes.get("role"), "button")
        self.assertIsNone(self.control(says, width + 6, **bare, x=103).attributes.get("role"))

    def test_a_disc_as_high_as_two_lines_beside_a_name_is_nothing_to_tick(self) -> None:
        def kinds(side: float) -> list[str]:
            at = [Rect(100, 100 + 80.0 * n, side, side) for n in range(3)]
            discs = [box(r.x, r.y, side, side) for r in at]
            names = [line("Ilse Arn", 100 + side + 10, r.cy + 5) for r in at]
            r = reading(names, discs)
            content = [Node("block", s.rect, surface=s) for s in discs] + paragraphs(r, [0, 1, 2])
            found = find_controls(content, Node("block", Rect(0, 0, 1440, 900)), r)
            return [d.attributes.get("type", "") for n in found for d in n.walk() if d.kind == "field"]

        self.assertEqual(kinds(18), ["checkbox"] * 3)
        self.assertEqual(kinds(44), [])

    def test_a_cell_among_cells_is_nothing_to_fill_in(self) -> None:
        s = box(100, 100, 200, 40, **self.FRAME)
        around = [replace(s, rect=Rect(x, y, 200, 40)) for x, y in ((300, 100), (100, 140), (300, 140))]
        r = reading([line("Brenn", 110, 126)], [s, *around])
        node = Node("block", s.rect, surface=s, children=paragraphs(r, [0]))
        self.assertEqual(find_controls([node], Node("block", Rect(0, 0, 1440, 900)), r)[0].kind, "block")

    def test_headings_with_lines_under_them_ask_for_nothing(self) -> None:
        def form(index: int) -> list[Node]:
            texts = [line(s, 100, 60 + 90.0 * n, index) for n, s in enumerate(("Depth", "Observer"))]
            r = reading(texts)
            parts: list[Node] = []
            for n in range(2):
                parts += paragraphs(r, [n])
                at = Rect(100, 80 + 90.0 * n, 500, 1)
                parts.append(Node("rule", at, tag="hr", surface=Surface(at, Fill("#888888"))))
            send = Node("block", Rect(100, 220, 90, 36), tag="a", attributes={"role": "button"})
            root = Node("block", Rect(0, 0, 800, 400), children=[*parts, send])
            find_underlined(root, r)
            return root.children

        self.assertEqual([n.kind for n in form(0)], ["field", "field", "block"])
        self.assertNotIn("field", [n.kind for n in form(1)])


if __name__ == "__main__":
    unittest.main()
