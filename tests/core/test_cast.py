"""Shadows that a bar or a side panel casts over other grounds, and panels that a line cuts in two."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from scipy.special import ndtr

from neige.core.model import Fill, Picture, Rect, Shadow, Surface
from neige.core.reading.surfaces import _paint, _without_false_shadows, read_surfaces
from neige.core.reading.surfaces.cast import Cast, lift_casts, shaded
from neige.core.reading.surfaces.panels import join_side_panels
from neige.core.reading.surfaces.remains import _is_frame
from tests.support import drawn

GROUNDS = (255, 248, 235)


def dimmed(
    strength: float = 0.15, dy: float = 8, blur: float = 16, grounds: tuple[int, ...] = GROUNDS
) -> np.ndarray:
    """Stripes of different greys under a dark bar 40 px high that throws a shadow on them."""
    pixels = np.zeros((300, 600, 3), np.float64)
    for n, g in enumerate(grounds):
        pixels[:, n * 600 // len(grounds) : (n + 1) * 600 // len(grounds)] = g
    d = np.arange(260) + 0.5
    alpha = strength * (1 - ndtr((d - dy) / (blur / 2)))
    pixels[40:] *= (1 - alpha)[:, None, None]
    pixels[:40] = 33
    return np.rint(pixels).astype(np.uint8)


class Casts(unittest.TestCase):
    def test_what_lies_under_a_shadow_is_seen_as_it_is(self) -> None:
        bare, casts = lift_casts(dimmed(), 1)
        self.assertEqual([c.box for c in casts], [Rect(0, 0, 600, 40)])
        for n, g in enumerate(GROUNDS):
            with self.subTest(ground=g):
                self.assertEqual(set(bare[40:, n * 200 + 10 : n * 200 + 190].ravel().tolist()), {g})
        shadow = casts[0].shadow
        self.assertAlmostEqual(shadow.opacity, 0.15, delta=0.02)
        self.assertAlmostEqual(shadow.dy, 8, delta=1.5)
        self.assertAlmostEqual(shadow.blur, 16, delta=4)

    def test_one_ground_or_none_dimmed_tells_nothing(self) -> None:
        for name, pixels in (("one", dimmed(grounds=(255,))), ("no shadow", dimmed(0.0))):
            with self.subTest(name):
                bare, casts = lift_casts(pixels, 1)
                self.assertEqual(casts, [])
                self.assertIs(bare, pixels)

    def test_where_a_shadow_lies_is_beside_what_casts_it(self) -> None:
        shadow = Shadow(0.0, 8.0, 16.0, 0.0, "#000000", 0.2)
        self.assertEqual(shaded(Cast(Rect(0, 0, 600, 40), shadow)), Rect(0, 40, 600, 24))
        self.assertEqual(shaded(Cast(Rect(0, 0, 80, 600), shadow)), Rect(80, 0, 24, 600))
        self.assertEqual(shaded(Cast(Rect(520, 0, 80, 600), shadow)), Rect(496, 0, 24, 600))

    def test_a_shadow_that_the_picture_contradicts_is_none(self) -> None:
        pixels = np.full((300, 400, 3), 240, np.uint8)
        pixels[80:200, 100:300] = 255
        false = Shadow(-4.0, -4.0, 8.0, -2.0, "#000000", 1.0)
        card = Surface(Rect(100, 80, 200, 120), Fill("#ffffff"), shadow=false)
        picture, ground = Picture(pixels, 1), Fill("#f0f0f0")
        (found,), _, off = _without_false_shadows(picture, ground, [card], [], pixels)
        self.assertIsNone(found.shadow)
        self.assertEqual(int(off.max()), 0)
        canvas = _paint(
            picture, ground, [replace(card, shadow=Shadow(0.0, 4.0, 12.0, 0.0, "#000000", 0.5))], []
        )
        true = np.rint(canvas).astype(np.uint8)
        own = replace(card, shadow=Shadow(0.0, 4.0, 12.0, 0.0, "#000000", 0.5))
        (kept,), _, _ = _without_false_shadows(Picture(true, 1), ground, [own], [], true)
        self.assertEqual(kept, own)

    def test_a_hollow_frame_is_no_picture(self) -> None:
        own = np.zeros((400, 600), bool)
        own[:8] = own[-8:] = True
        own[:, :8] = own[:, -8:] = True
        self.assertTrue(_is_frame(own, 1))
        own[150:250, 200:300] = True
        self.assertFalse(_is_frame(own, 1))
        self.assertFalse(_is_frame(np.ones((400, 600), bool), 1))

    def test_a_side_panel_casts_its_shadow_across(self) -> None:
        turned = np.ascontiguousarray(dimmed(0.3, 0, 20).transpose(1, 0, 2))
        wide = np.full((600, 340, 3), 0, np.uint8)
        wide[:, 40:] = turned
        wide[:, :40] = 33  # a panel 80 px wide
        bare, casts = lift_casts(wide, 1)
        self.assertEqual([(c.box.x, c.box.w) for c in casts], [(0, 80)])
        self.assertEqual(set(bare[210:390, 80:].ravel().tolist()), {248})

    def test_a_page_under_a_bar_with_a_shadow_is_read_whole(self) -> None:
        body = "<style>body{margin:0;background:#fff}</style><body><header style='height:44px;background:#21303c;box-shadow:0 8px 16px rgb(0 0 0 / 15%);position:relative'></header><div style='display:flex'><div style='width:240px;height:500px;background:#e7eef2'></div><div style='padding:100px'><i style='display:block;width:300px;height:200px;background:#c9dbe4'></i></div></div>"
        ground = read_surfaces(drawn(body, 900)[0], [])
        side = next(s for s in ground.surfaces if s.fill.colour == "#e7eef2")
        self.assertEqual((side.rect.y, side.rect.w), (44, 240))
        bar = next(s for s in ground.surfaces if s.fill.colour == "#21303c")
        assert bar.shadow is not None
        self.assertGreater(bar.shadow.blur, 8)


class Panels(unittest.TestCase):
    def panel(self, y: float, h: float, border: tuple[float, float, float, float], x: float = 0) -> Surface:
        return Surface(Rect(x, y, 240, h), Fill("#f8f9fa"), border=border, border_colour="#c2c3c5")

    def test_a_line_across_a_side_panel_lies_on_it(self) -> None:
        parts = [self.panel(40, 400, (0, 1, 1, 0)), self.panel(439, 460, (1, 1, 0, 0))]
        surfaces, rules = join_side_panels(parts, [], 1440)
        self.assertEqual([(s.rect, s.border) for s in surfaces], [(Rect(0, 40, 240, 859), (0, 1, 0, 0))])
        self.assertEqual([(r.rect, r.colour) for r in rules], [(Rect(0, 439, 240, 1), "#c2c3c5")])

    def test_low_parts_and_cards_within_the_page_stay_apart(self) -> None:
        low = [self.panel(40, 60, (0, 0, 1, 0)), self.panel(99, 460, (1, 0, 0, 0))]
        inner = [self.panel(40, 400, (0, 0, 1, 0), 300), self.panel(439, 460, (1, 0, 0, 0), 300)]
        for parts in (low, inner):
            self.assertEqual(len(join_side_panels(parts, [], 1440)[0]), 2)
