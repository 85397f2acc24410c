"""What lies on gradients: other gradients, badges that are too small for cells, words in several weights; photos joined by shade."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from neige.core.reading import read
from neige.core.reading.surfaces.gradient import find_ramps
from neige.core.reading.surfaces.small_gradients import find_small
from tests.support import drawn

SAYS = "The snow at <b>Brenn Hut</b> was read at eight, before anybody came."
BOARD = f"""<style>body{{margin:0;background:#fff;color:#222;font:16px 'Liberation Sans'}}
.side{{position:absolute;left:20px;top:20px;width:240px;height:500px;background:linear-gradient(200deg,#42424a,#191919)}}
.on{{position:absolute;left:16px;top:180px;width:208px;height:44px;background:linear-gradient(200deg,#ec407a,#d81b60);border-radius:6px}}
.bar{{position:absolute;left:300px;width:660px;padding:12px 16px;color:#fff;font:16px 'Liberation Sans';box-sizing:border-box;border-radius:6px}}
.tag{{position:absolute;left:300px;top:340px;padding:4px 9px;color:#fff;font:700 11px/12px 'Liberation Sans';border-radius:6px;background:linear-gradient(200deg,#66bb6a,#43a047)}}
</style><div class="side"><div class="on"></div></div>
<div class="bar" style="top:40px;background:linear-gradient(195deg,#42a5f5,#1a53c8)">{SAYS}</div>
<div class="bar" style="top:120px;background:linear-gradient(195deg,#ffa726,#c86400)">{SAYS}</div>
<div class="bar" style="top:200px;background:linear-gradient(195deg,#747b8a,#495361)">{SAYS}</div>
<p style="position:absolute;left:300px;top:270px">Every station sends what it has read.</p><span class="tag">ONLINE</span>"""


class Board(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture, _ = drawn(BOARD, 1000, fitted=True)
        cls.found = read(cls.picture)

    def test_bold_words_on_a_gradient_are_bold(self) -> None:
        lines = [n for n in self.found.lines if n.text.startswith("The snow at")]
        self.assertEqual(len(lines), 3)
        for line in lines:
            heavy = [w.text for w in line.words if self.found.styles[w.style].weight >= 600]
            self.assertEqual(heavy, ["Brenn", "Hut"])
            self.assertEqual({self.found.styles[w.style].size for w in line.words}, {16.0})

    def test_a_gradient_on_a_gradient_is_its_own(self) -> None:
        side = next(s for s in self.found.surfaces if abs(s.rect.h - 500) < 2)
        entry = next(s for s in self.found.surfaces if abs(s.rect.h - 44) < 2 and s.rect.x < 60)
        self.assertTrue(side.fill.stops and entry.fill.stops)
        self.assertAlmostEqual(entry.rect.y, 200, delta=1)
        self.assertFalse(self.found.cutouts)

    def test_a_badge_has_its_gradient_and_no_picture(self) -> None:
        tag = next(s for s in self.found.surfaces if s.rect.h < 24)
        self.assertTrue(tag.fill.stops)
        self.assertAlmostEqual(tag.fill.angle, 200, delta=6)
        self.assertIn("ONLINE", [n.text for n in self.found.lines])

    def test_a_badge_that_its_word_fills_has_its_gradient(self) -> None:
        pill = "display:inline-block;padding:4px 8px;border-radius:10px;font:700 12px/12px 'Liberation Sans';color:#fff;background:linear-gradient(180deg,#318bff,#0d6efd)"
        html = f"<style>body{{margin:40px;font:16px 'Liberation Sans'}}</style><span style=\"{pill}\">News</span><h5>Depths of the week</h5>"
        found = read(drawn(html, 500, fitted=True)[0])
        (badge,) = found.surfaces
        self.assertTrue(badge.fill.stops)
        word = next(n for n in found.lines if n.text == "News")
        self.assertEqual((found.styles[word.style].size, found.styles[word.style].colour), (12.0, "#ffffff"))

    def test_the_badge_is_too_small_for_cells(self) -> None:
        large = find_ramps(self.picture.pixels)
        small = find_small(self.picture.pixels, large, 1)
        self.assertEqual([r.box[1] for r in small], [341])


class Small(unittest.TestCase):
    """A patch of 60 x 20 px at (50, 40)."""

    def found(self, patch: np.ndarray, ground: int = 255) -> int:
        pixels = np.full((100, 200, 3), ground, np.uint8)
        pixels[40:60, 50:110] = patch
        return len(find_small(pixels, [], 1))

    def test_the_shadow_round_a_gradient_does_not_hide_it(self) -> None:
        across = np.linspace(60, 120, 60).round().astype(np.uint8)
        ramp = np.repeat(np.repeat(across[None, :, None], 20, axis=0), 3, axis=2)
        pixels = np.full((100, 200, 3), 255, np.uint8)
        pixels[44:66, 46:114] = 0
        pixels = cv2.GaussianBlur(pixels, (0, 0), 5)
        pixels = (255 - (255 - pixels.astype(np.float64)) * 0.3).round().astype(np.uint8)
        pixels[40:60, 50:110] = ramp
        self.assertEqual([r.box for r in find_small(pixels, [], 1)], [(51, 41, 109, 59)])
        noisy = np.random.default_rng(3).integers(150, 250, pixels.shape).astype(np.uint8)
        noisy[40:60, 50:110] = ramp
        self.assertEqual(find_small(noisy, [], 1), [], "on a photo it is a piece of it")

    def test_only_colours_along_a_line_are_a_gradient(self) -> None:
        across = np.linspace(60, 120, 60).round().astype(np.uint8)
        ramp = np.repeat(np.repeat(across[None, :, None], 20, axis=0), 3, axis=2)
        self.assertEqual(self.found(ramp), 1)
        self.assertEqual(self.found(np.full_like(ramp, 90)), 0)  # flat
        self.assertEqual(
            self.found(np.random.default_rng(3).integers(60, 120, ramp.shape).astype(np.uint8)), 0
        )

    def test_what_passes_into_its_ground_is_shade(self) -> None:
        across = np.linspace(235, 255, 60).round().astype(np.uint8)
        ramp = np.repeat(np.repeat(across[None, :, None], 20, axis=0), 3, axis=2)
        self.assertEqual(self.found(ramp), 0)


def photo(width: int, height: int, seed: int) -> str:
    """A noisy picture as rows of small boxes, which a browser draws."""
    rng = np.random.default_rng(seed)
    cells = "".join(
        f"<rect x='{x}' y='{y}' width='8' height='8' fill='rgb({a},{b},{c})'/>"
        for y in range(0, height, 8)
        for x in range(0, width, 8)
        for a, b, c in [rng.integers(30, 160, 3)]
    )
    return f"<svg width='{width}' height='{height}' style='position:absolute'>{cells}</svg>"


class Beside(unittest.TestCase):
    def test_the_ground_between_a_box_and_what_is_beside_it_is_no_border(self) -> None:
        bar = "<i style='position:absolute;top:40px;width:90px;height:19px;background:#223'></i>"
        box = "<i style='position:absolute;left:196px;top:40px;width:33px;height:19px;background:#fcf2f2;border-radius:2px'></i>"
        left, right = bar.replace("top", "left:100px;top", 1), bar.replace("top", "left:235px;top", 1)
        picture, _ = drawn(
            f"<style>body{{margin:0;background:#fff;height:120px}}</style>{left}{box}{right}", 500
        )
        found = next(s for s in read(picture).surfaces if s.fill.colour == "#fcf2f2")
        self.assertEqual((found.rect.x, found.rect.w, found.border), (196.0, 33.0, (0.0,) * 4))


class Joined(unittest.TestCase):
    def test_photos_joined_by_the_shade_of_a_card_are_not_the_page(self) -> None:
        """A card lies over the lower edge of a photo; its deep shadow goes down both sides to the next."""
        rows = "".join(
            f"<p style='margin:0 0 60px'>Reading {k} of the stake at the upper station, sent before eight</p>"
            for k in range(8)
        )
        body = f"""<style>body{{margin:0;background:#eee;color:#222;font:16px 'Liberation Sans';height:1300px;overflow:hidden}}
.card{{position:absolute;left:30px;top:240px;width:840px;height:760px;background:#fff;box-shadow:0 0 30px 26px #333;padding:40px;box-sizing:border-box}}</style>
{photo(904, 304, 1)}<div style='position:absolute;top:990px'>{photo(904, 304, 2)}</div><div class='card'>{rows}</div>"""
        picture, _ = drawn(body, 900, fitted=True)
        found = read(picture)
        self.assertFalse([c for c in found.cutouts if c.rect.h > 500], found.cutouts)
        self.assertTrue(any(s.rect.h > 600 and s.fill.colour == "#ffffff" for s in found.surfaces))


if __name__ == "__main__":
    unittest.main()
