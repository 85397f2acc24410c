"""Frames: sides that close one, dashed and dotted lines, and what goes on behind them."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Fill, Rect, Rule, Shadow, Surface
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.dashes import dotted_lines
from neige.core.reading.surfaces.framed import frame_on, frames_of_sides
from neige.core.reading.surfaces.panels import bridge_bars
from tests.support import drawn


class Frames(unittest.TestCase):
    SIDES = (Rule(Rect(40, 56, 1, 190), "#d2d2d2"), Rule(Rect(439, 56, 1, 190), "#d2d2d2"))
    HEAD = Surface(Rect(40, 50, 400, 41), Fill("#f0f3f5"), 6.0, (1.0, 1.0, 1.0, 1.0), "#d2d2d2")
    ROW = Surface(
        Rect(41, 91, 398, 40), Fill("#ffffff"), border=(0.0, 0.0, 1.0, 0.0), border_colour="#dee2e6"
    )

    def test_two_sides_and_what_fills_the_top_are_a_frame(self) -> None:
        surfaces, rules = frames_of_sides([self.HEAD, self.ROW], list(self.SIDES), Fill("#ffffff"))
        self.assertEqual(rules, [])
        frame = surfaces[0]
        self.assertEqual((frame.rect, frame.border, frame.radius), (Rect(40, 50, 400, 202), (1.0,) * 4, 6.0))
        self.assertEqual([s.border[1::2] for s in surfaces[1:]], [(0.0, 0.0)] * 2)

    def test_lines_in_something_larger_are_no_frame(self) -> None:
        panel = Surface(Rect(40, 0, 400, 390), Fill("#ffffff"))
        given = [panel, self.HEAD]
        self.assertEqual(frames_of_sides(given, list(self.SIDES), Fill("#ffffff"))[0], given)

    def test_where_a_shadow_begins_is_no_frame(self) -> None:
        card = Surface(
            Rect(41, 150, 398, 100), Fill("#ffffff"), 6.0, shadow=Shadow(0, 4, 12, 0, "#000000", 0.2)
        )
        self.assertEqual(frames_of_sides([card], list(self.SIDES), Fill("#f2f6f9"))[0], [card])

    def test_a_card_goes_on_beside_its_fill_up_to_the_end_of_its_lines(self) -> None:
        body = Surface(
            Rect(100, 60, 300, 200), Fill("#ffffff"), border=(1.0, 0.0, 1.0, 1.0), border_colour="#d2d2d2"
        )
        lines = [
            Rule(Rect(103, 60, 494, 1), "#d2d2d2"),
            Rule(Rect(103, 259, 494, 1), "#d2d2d2"),
            Rule(Rect(599, 63, 1, 194), "#d2d2d2"),
        ]
        surfaces, rules = frame_on([body], lines)
        self.assertEqual(
            (surfaces[0].rect, surfaces[0].border, rules), (Rect(100, 60, 500, 200), (1.0,) * 4, [])
        )
        beside = Surface(Rect(400, 60, 200, 200), Fill("#c9dbe4"))
        self.assertIn(body, frame_on([body, beside], lines)[0])

    def test_a_bar_goes_on_behind_an_entry_as_high_as_itself(self) -> None:
        left, entry, right = (
            Surface(Rect(x, 0, w, 64), Fill(c))
            for x, w, c in ((0, 700, "#23607a"), (700, 90, "#1b4c61"), (790, 650, "#23607a"))
        )
        bars = bridge_bars([left, entry, right], 1440)
        self.assertEqual([s.rect for s in bars], [Rect(0, 0, 1440, 64), entry.rect])
        tall = [replace(s, rect=Rect(s.rect.x, 0, s.rect.w, 300)) for s in (left, entry, right)]
        self.assertEqual(len(bridge_bars(tall, 1440)), 3)


class Broken(unittest.TestCase):
    """Dashed and dotted lines."""

    def test_dashed_frames_are_borders_and_no_pictures(self) -> None:
        css = (
            "body{margin:0;background:#f4f6f8}div{box-sizing:border-box;width:340px;height:120px;margin:20px}"
            ".a{border:1px dashed #7a8a96}.b{background:#fff;border:2px dashed #2c6175;border-radius:12px}"
            ".c{height:40px;background:#fff;border:1px dashed #101820;border-radius:8px}"
        )
        html = f'<style>{css}</style><div class="a"></div><div class="b"></div><div class="c"></div>'
        for scale in (1, 2):
            with self.subTest(scale):
                picture, _ = drawn(html, 400, scale=scale)
                found = read_surfaces(picture, [])
                self.assertEqual(found.cutouts, ())
                got = [
                    (s.rect, s.radius, s.border[0], s.border_style)
                    for s in sorted(found.surfaces, key=lambda s: s.rect.y)
                ]
                self.assertEqual(
                    got,
                    [
                        (Rect(20, 20, 340, 120), 0, 1, "dashed"),
                        (Rect(20, 160, 340, 120), 12, 2, "dashed"),
                        (Rect(20, 300, 340, 40), 8, 1, "dashed"),
                    ],
                )

    def test_dotted_frames_are_borders_and_dotted_lines_rules(self) -> None:
        css = (
            "body{margin:0;background:#fff}div{box-sizing:border-box;width:340px;margin:20px}"
            ".a{height:120px;border:1px dotted #0c3762}.b{height:60px;border-bottom:1px dotted #b0b8c0}"
        )
        picture, _ = drawn(f'<style>{css}</style><div class="a"></div><div class="b"></div>', 400)
        found = read_surfaces(picture, [])
        self.assertEqual(found.cutouts, ())
        got = [(s.rect, s.border[0], s.border_colour, s.border_style) for s in found.surfaces]
        self.assertEqual(got, [(Rect(20, 20, 340, 120), 1, "#0c3762", "dotted")])
        self.assertEqual([(r.colour, r.style) for r in found.rules], [("#b0b8c0", "dotted")])
        self.assertGreater(found.rules[0].rect.iou(Rect(20, 219, 340, 1)), 0.98)

    def test_dithered_ground_and_rows_of_stripes_are_no_dotted_lines(self) -> None:
        pixels = np.full((120, 200, 3), 255, np.uint8)
        pixels[20:60:2, 20:160:2] = 90  # a net
        pixels[80:100, 20:160:2] = 90  # upright lines
        pixels[110, 20:160:2] = 250  # where a gradient turns from one step to the next
        self.assertEqual(dotted_lines(pixels, 1), ([], []))


if __name__ == "__main__":
    unittest.main()
