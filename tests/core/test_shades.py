"""Soft shadows that meet: between cards, beside corners and small buttons, over short pieces of ground."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Fill, Rect, Shadow, Surface
from neige.core.reading.surfaces import _without_shadows, read_surfaces
from neige.core.reading.surfaces.cast import lift_casts
from neige.core.reading.surfaces.corners import round_corners
from neige.core.reading.surfaces.shade import strips_of_ground
from tests.core.test_cast import dimmed
from tests.support import drawn

SHEET = "<meta charset='utf-8'><style>body{margin:0;background:#f8f9fc;font:16px/26px 'Liberation Sans'}.c{position:absolute;box-sizing:border-box;background:#fff;border:1px solid #e3e6f0;border-radius:6px;box-shadow:0 2px 28px rgb(58 59 69 / 15%);overflow:hidden}.h{height:52px;background:#f8f9fc;border-bottom:1px solid #e3e6f0}</style>"


def cards(boxes: list[tuple[int, int, int, int]], inside: str = "") -> str:
    return SHEET + "".join(
        f"<div class='c' style='left:{x}px;top:{y}px;width:{w}px;height:{h}px'>{inside}</div>"
        for x, y, w, h in boxes
    )


class Shades(unittest.TestCase):
    def shadows(self, boxes: list[tuple[int, int, int, int]]) -> list[Shadow | None]:
        page = cards(boxes) + "<p style='position:absolute;top:520px'>&nbsp;</p>"
        found = read_surfaces(drawn(page, 800)[0], []).surfaces
        cards_found = [max(found, key=lambda s: s.rect.iou(Rect(*b))) for b in boxes]
        for s, box in zip(cards_found, boxes):
            self.assertGreater(s.rect.iou(Rect(*box)), 0.97)
        return [s.shadow for s in cards_found]

    def test_cards_that_both_cast_their_shadows_on_what_is_between(self) -> None:
        for shadow in self.shadows([(60, 60, 300, 300), (384, 60, 300, 300)]):
            assert shadow is not None
            self.assertAlmostEqual(shadow.dy, 2, delta=1)
            self.assertAlmostEqual(shadow.blur, 28, delta=6)
            self.assertAlmostEqual(shadow.opacity, 0.1, delta=0.03)  # as black as a tinted one of 0.15 shows

    def test_four_cards_about_a_cross_of_ground_have_shadows(self) -> None:
        boxes = [(60, 60, 300, 90), (384, 60, 300, 90), (60, 174, 300, 90), (384, 174, 300, 90)]
        self.assertNotIn(None, self.shadows(boxes))

    def test_a_round_corner_is_seen_under_a_head_and_in_a_shadow(self) -> None:
        picture, _ = drawn(cards([(60, 60, 400, 200)], "<div class='h'></div>"), 600)
        card = Surface(Rect(60, 60, 400, 200), Fill("#ffffff"), 0.0, (1.0,) * 4, "#e3e6f0")
        (found,) = round_corners(picture.pixels, [card], 1)
        self.assertAlmostEqual(found.radius, 6, delta=1)
        self.assertIsNone(found.corners)
        square, _ = drawn(cards([(60, 60, 400, 200)]).replace("border-radius:6px", "border-radius:0"), 600)
        (found,) = round_corners(square.pixels, [card], 1)
        self.assertEqual(found.radius, 0.0)

    def test_a_ground_tells_a_shadow_where_little_of_it_is_bare(self) -> None:
        pixels = dimmed(grounds=(255,) * 24 + (235,))  # a twenty-fifth of the edge
        bare, casts = lift_casts(pixels, 1)
        self.assertEqual(len(casts), 1)
        self.assertEqual(set(bare[40:, 580:].ravel().tolist()), {235})

    def test_what_a_small_shadow_leaves_a_step_off_is_no_pale_picture(self) -> None:
        faint = np.ones((300, 400), bool)
        button = Surface(
            Rect(100, 100, 36, 36), Fill("#066fd1"), 6.0, shadow=Shadow(0, 12, 28, -8, "#000000", 0.25)
        )
        card = Surface(Rect(250, 20, 140, 260), Fill("#ffffff"), shadow=Shadow(0, 2, 20, 0, "#000000", 0.1))
        _without_shadows(faint, [button, card, Surface(Rect(20, 20, 30, 30), Fill("#123456"))], 1)
        self.assertFalse(faint[100 - 48 : 100, 52:184].any() or faint[136:184, 52:184].any())
        self.assertTrue(faint[100:136, 100:136].all())  # the button itself may be a picture
        self.assertTrue(faint[:, 190:].all() and faint[20:50, 20:50].all())


class Strips(unittest.TestCase):
    """A card's head in the page's own colour, whose words part it."""

    def found(self, known: bool) -> list[Rect]:
        pixels = np.full((300, 400, 3), 248, np.uint8)
        pixels[40:260, 20:380] = 255
        pixels[40:92, 21:379] = 248
        pixels[58:74, 40:360] = 60  # a title nearly as wide as the card
        pixels[40:260, (20, 379)] = 220
        card = Surface(
            Rect(20, 40, 360, 220), Fill("#ffffff"), border=(0.0, 1.0, 0.0, 1.0), border_colour="#dcdcdc"
        )
        head = [Surface(Rect(21, 40, 358, 52), Fill("#f8f8f8"))] if known else []
        out = strips_of_ground([card, *head], pixels, Fill("#f8f8f8"), 1)
        return [s.rect for s in out if s is not card]

    def test_a_strip_that_is_known_is_not_found_again_above_its_words(self) -> None:
        self.assertEqual(self.found(known=True), [Rect(21, 40, 358, 52)])

    def test_one_that_is_not_known_is_found(self) -> None:
        self.assertEqual(self.found(known=False), [Rect(21, 40, 358, 18)])
