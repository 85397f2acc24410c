"""Shadows that boxes have in common, read where they meet, and faint ones below fields."""

from __future__ import annotations

import unittest
from dataclasses import replace

from neige.core.model import Fill, Rect, Rule, Shadow, Surface
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.shadows import cards_of_stacks
from tests.core.test_surfaces import canvas

GROUND = "#f8f9fa"


def read(surfaces: list[Surface], rules: list[Rule] = ()) -> list[Surface]:  # type: ignore[assignment]
    found = read_surfaces(canvas(surfaces, rules, GROUND, 900, 600), [])
    return [s for s in found.surfaces if s.rect.w < 800]


def cards(shadow: Shadow | None, gap: float = 24) -> list[Surface]:
    """Two rows of three, `gap` px apart."""
    return [
        Surface(
            Rect(60 + (220 + gap) * x, 60 + (180 + gap) * y, 220, 180), Fill("#ffffff"), 12.0, shadow=shadow
        )
        for y in range(2)
        for x in range(3)
    ]


class Shared(unittest.TestCase):
    def assert_like(self, found: Shadow | None, wanted: Shadow) -> None:
        assert found is not None
        self.assertAlmostEqual(found.dy, wanted.dy, delta=2)
        self.assertAlmostEqual(found.blur, wanted.blur, delta=3)
        self.assertAlmostEqual(found.opacity, wanted.opacity, delta=0.02)
        self.assertLessEqual(abs(found.dx), 1)

    def test_cards_whose_shadows_meet_have_the_one_that_all_cast(self) -> None:
        for shadow, gap in (
            (Shadow(0, 20, 27, 0, "#000000", 0.06), 24),
            (Shadow(0, 2, 28, 0, "#000000", 0.12), 36),
            (Shadow(0, 8, 20, 0, "#000000", 0.1), 24),
        ):
            with self.subTest(shadow):
                found = read(cards(shadow, gap))
                self.assertEqual(len(found), 6)
                for s in found:
                    self.assert_like(s.shadow, shadow)

    def test_a_card_of_another_look_between_them_casts_it_as_well(self) -> None:
        shadow = Shadow(0, 4, 28, 0, "#000000", 0.12)
        drawn = cards(shadow, 36)
        drawn[1] = replace(drawn[1], fill=Fill("#2c6175"), radius=4.0)
        for s in read(drawn):
            if s.fill.colour == "#ffffff":
                self.assert_like(s.shadow, shadow)

    def test_parts_that_stand_on_each_other_lie_on_one_card(self) -> None:
        shadow, white = Shadow(0, 2, 8, 0, "#000000", 0.16), Fill("#ffffff")
        shot = canvas([Surface(Rect(80, 80, 300, 200), white, shadow=shadow)]).pixels
        shade = Surface(Rect(80, 79, 300, 61), white, 0.0, (1.0, 0.0, 0.0, 0.0), "#e3e6e9")
        for head in (Surface(Rect(80, 80, 300, 60), white), shade):
            body = Surface(Rect(80, 140, 300, 140), white)
            card, *parts = cards_of_stacks([body, head], Fill("#f2f6f9"), shot, 1)
            self.assertEqual(card.rect, Rect(80, 80, 300, 200))
            self.assert_like(card.shadow, shadow)
            self.assertEqual({p.rect for p in parts}, {body.rect, Rect(80, 80, 300, 60)})
        plain = canvas([Surface(Rect(80, 80, 300, 200), white)]).pixels
        self.assertEqual(len(cards_of_stacks([body, shade], Fill("#f2f6f9"), plain, 1)), 2)

    def test_a_px_of_shade_below_a_field_is_its_shadow(self) -> None:
        for shadow in (Shadow(0, 1, 2, 0, "#000000", 0.06), Shadow(0, 1, 1, 0, "#000000", 0.06)):
            with self.subTest(shadow):
                fields = [
                    Surface(
                        Rect(80, 80 + 90 * n, 300, 38), Fill("#ffffff"), 4.0, (1.0,) * 4, "#c8d0d8", shadow
                    )
                    for n in range(4)
                ]
                found = read(fields)
                self.assertEqual(len(found), 4)
                for s in found:
                    assert s.shadow is not None
                    self.assertEqual((s.shadow.dx, s.shadow.dy, s.shadow.spread), (0, 1, 0))
                    self.assertLessEqual(s.shadow.blur, 3)
                    self.assertAlmostEqual(s.shadow.opacity, shadow.opacity, delta=0.025)

    def test_cards_without_any_have_none(self) -> None:
        self.assertTrue(all(s.shadow is None for s in read(cards(None))))

    def test_the_shadow_of_a_table_is_no_cells(self) -> None:
        table = Surface(Rect(100, 100, 601, 201), Fill("#ffffff"), shadow=Shadow(2, 2, 5, 0, "#000000", 0.15))
        cells = [
            Surface(Rect(100 + 200 * x, 100 + 50 * y, 201, 51), Fill("#ffffff"), 0.0, (1.0,) * 4, "#868686")
            for x in range(3)
            for y in range(4)
        ]
        found = [s for s in read([table, *cells]) if s.rect.w < 300]
        self.assertEqual(len(found), 12)
        inner = [s for s in found if s.rect.bottom < 290]
        self.assertTrue(all(s.shadow is None for s in inner))


if __name__ == "__main__":
    unittest.main()
