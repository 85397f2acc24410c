"""Boxes that cast two shadows: both are read, and the shade of neither is taken for a border or another box."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Picture, Rect, Shadow, Surface
from neige.core.model.codec import from_json, to_json
from neige.core.reading.paint import paint
from neige.core.reading.surfaces import read_surfaces
from neige.core.writer.paint import box_shadow
from tests.core.test_surfaces import canvas
from tests.support import drawn

GROUND = "#f4f6f9"
BOX = Rect(160, 100, 320, 160)
STYLE = (
    f"<!doctype html><title>x</title><style>body{{margin:0;background:{GROUND};height:640px}}div{{position:absolute;"
    "left:160px;top:100px;width:320px;height:160px;background:#fff;box-sizing:border-box;"
)
CLOSE = Shadow(0, 2, 4, 0, "#000000", 0.2)
WIDE = Shadow(0, 16, 40, 0, "#000000", 0.15)
BOTH = replace(CLOSE, under=WIDE)


def read(picture: Picture) -> list[Surface]:
    return [s for s in read_surfaces(picture, []).surfaces if s.rect.w < 700]


def browsed(style: str) -> Picture:
    return drawn(f"{STYLE}{style}}}</style><div></div>", 960)[0]


def shade(surfaces: list[Surface]) -> NDArray[np.float32]:
    """The ground with what these surfaces make of it."""
    out = np.zeros((640, 960, 3), np.float32)
    paint(out, Surface(Rect(0, 0, 960, 640), Fill(GROUND)), 1)
    for s in surfaces:
        paint(out, s, 1)
    return out


class SeveralShadows(unittest.TestCase):
    def assert_box(self, found: list[Surface]) -> Shadow:
        self.assertEqual([s.rect for s in found], [BOX])
        self.assertFalse(any(found[0].border))
        assert found[0].shadow is not None
        return found[0].shadow

    def test_two_shadows_that_a_browser_drew_are_both_read(self) -> None:
        for css in (
            "0 2px 4px rgb(0 0 0/.2),0 16px 40px rgb(0 0 0/.15)",
            "0 6px 6px rgb(0 0 0/.23),0 10px 20px rgb(0 0 0/.19)",
            "0 3px 6px rgb(0 0 0/.08),0 7px 14px rgb(0 0 0/.1)",
        ):
            with self.subTest(css):
                found = read(browsed(f"border-radius:8px;box-shadow:{css}"))
                layers = self.assert_box(found).layers
                self.assertAlmostEqual(found[0].radius, 8, delta=1)
                self.assertEqual(len(layers), 2)
                wanted = [c.replace("px", "").replace("/", " ").strip(")").split() for c in css.split(",")]
                for s, (_, dy, blur, _, _, _, opacity) in zip(layers, wanted, strict=True):
                    self.assertAlmostEqual(s.dy, float(dy), delta=1)
                    self.assertAlmostEqual(s.blur, float(blur), delta=2)
                    self.assertAlmostEqual(s.opacity, float(opacity), delta=0.03)
                    self.assertEqual(s.spread, 0)

    def test_they_are_painted_back_as_they_were_seen(self) -> None:
        css = "0 10px 15px -3px rgb(0 0 0/.1),0 4px 6px -2px rgb(0 0 0/.05)"
        for picture in (
            browsed(f"box-shadow:{css}"),
            canvas([Surface(BOX, Fill("#ffffff"), shadow=BOTH)], (), GROUND, 960, 640),
        ):
            found = read(picture)
            self.assert_box(found)
            self.assertLess(float(np.abs(shade(found) - picture.pixels)[60:340, 120:520].mean()), 0.2)

    def test_shade_above_a_box_is_no_border_of_it(self) -> None:
        close = "0 1px 3px rgb(0 0 0/.12),0 1px 2px rgb(0 0 0/.24)"
        shadow = self.assert_box(read(browsed(f"box-shadow:{close}")))
        self.assertAlmostEqual(sum(s.opacity for s in shadow.layers), 0.36, delta=0.04)

    def test_a_line_below_a_card_stays_its_border(self) -> None:
        css = "border-bottom:1px solid #d0d4d8;box-shadow:0 4px 12px rgb(0 0 0/.12)"
        found = read(browsed(css))
        self.assertEqual([s.border for s in found], [(0.0, 0.0, 1.0, 0.0)])
        plain = read(browsed("border-bottom:1px solid #d0d4d8"))
        self.assertEqual([(s.border, s.shadow) for s in plain], [((0.0, 0.0, 1.0, 0.0), None)])

    def test_one_shadow_is_one(self) -> None:
        for css in ("0 4px 12px rgb(0 0 0/.15)", "0 1px 3px rgb(0 0 0/.2)", "0 10px 30px rgb(0 0 0/.12)"):
            with self.subTest(css):
                shadow = self.assert_box(read(browsed(f"border-radius:6px;box-shadow:{css}")))
                self.assertIsNone(shadow.under)

    def test_boxes_of_other_colours_cast_the_same(self) -> None:
        boxes = [
            Surface(Rect(100 + 260 * n, 160, 180, 120), Fill(c), shadow=BOTH)
            for n, c in enumerate(("#ffffff", "#2c6175", "#c0452a"))
        ]
        found = read(canvas(boxes, (), GROUND, 960, 640))
        self.assertEqual(len({s.shadow for s in found}), 1)
        self.assertEqual({s.fill.colour for s in found}, {s.fill.colour for s in boxes})

    def test_both_are_written_and_kept(self) -> None:
        self.assertEqual(box_shadow(BOTH), "0 2px 4px rgb(0 0 0 / 20%), 0 16px 40px rgb(0 0 0 / 15%)")
        self.assertEqual(from_json(Shadow, to_json(BOTH)), BOTH)
        self.assertEqual(BOTH.reach, 56)


if __name__ == "__main__":
    unittest.main()
