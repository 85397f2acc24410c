"""A page on a photo: mist and sky are nearly even, and neither ground nor gradients."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from neige.browser import draw_page
from neige.core.model import Cutout, Fill, Rect, Surface
from neige.core.pipeline import build
from neige.core.reading.surfaces.gradient import find_ramps
from neige.core.reading.surfaces.painted import without_photos
from neige.core.reading.surfaces.pictured import in_picture, is_photo, on_photo
from tests.support import drawn, png

WIDTH, HEIGHT = 1000, 700
PAGE = """<style>body{{margin:0;height:700px;background:{};font:16px 'Liberation Sans';color:#fff;position:relative}}
main{{position:absolute;left:320px;top:180px;width:360px;height:300px;background:#fff;color:#333;border-radius:6px}}
main>*{{position:absolute;left:40px;width:280px;margin:0}}hr{{border:0;border-top:1px solid #d2d2d2}}
.top,.foot{{position:absolute;left:60px}}</style>
<p class="top" style="top:20px">Firnwatch observers</p>
<main><h1 style="top:30px;font:700 28px/34px 'Liberation Sans'">Observers only</h1><p style="top:110px">Your station</p><hr style="top:140px">
<p style="top:180px">Depth this morning</p><hr style="top:210px"></main>
<p class="foot" style="top:640px">Forty stakes in the Vell range</p>"""


def misty() -> np.ndarray:
    """Rough peaks over mist (h, w, 3): grey that wanders by a few steps, with a camera's grain."""
    rng = np.random.default_rng(3)
    mist = cv2.resize(
        rng.uniform(112, 128, (5, 7)).astype(np.float32), (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC
    )
    coarse = rng.uniform(40, 210, (40, 130)).astype(np.float32)
    peaks = cv2.resize(coarse, (WIDTH, 300), interpolation=cv2.INTER_CUBIC)
    ridge = (220 + 60 * np.sin(np.arange(WIDTH) / 70)).astype(int)
    over = np.arange(300)[:, None] < ridge
    mist[:300][over] = peaks[over]
    grain = cv2.GaussianBlur(rng.normal(0, 3, (HEIGHT, WIDTH)).astype(np.float32), (0, 0), 0.8)
    return np.clip(np.rint(mist + grain), 0, 255).astype(np.uint8)[:, :, None].repeat(3, axis=2)


def on_mist() -> np.ndarray:
    black, white = (drawn(PAGE.format(c), WIDTH, fitted=True)[0].pixels[:HEIGHT] for c in ("#000", "#fff"))
    through = (white.astype(np.float64) - black) / 255
    return np.rint(black + through * misty()).astype(np.uint8)


class Behind(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.built = build(png(on_mist()), "mist.png", draw_page)

    def test_the_photo_is_one_and_the_card_lies_on_it(self) -> None:
        found = self.built.reading
        self.assertEqual([(c.rect, c.kind) for c in found.cutouts], [(Rect(0, 0, WIDTH, HEIGHT), "image")])
        (card,) = found.surfaces
        self.assertGreater(card.rect.iou(Rect(320, 180, 360, 300)), 0.98)
        self.assertIsNone(card.shadow)
        self.assertEqual([round(r.rect.y) for r in found.rules], [320, 390])

    def test_it_is_the_ground_of_the_whole_page(self) -> None:
        body = self.built.page.css.split("\nbody {")[1].split("}")[0]
        self.assertIn("url(", body)
        self.assertEqual(self.built.proof.words_found, self.built.proof.words_seen)
        self.assertGreater(self.built.proof.words_seen, 12)
        self.assertLess(self.built.proof.position_px, 1.0)
        self.assertGreater(self.built.proof.ssim, 0.9)
        (photo,) = (b.rect for b in self.built.drawing.boxes if b.picture)
        self.assertGreater(photo.iou(Rect(0, 0, WIDTH, HEIGHT)), 0.99)
        self.assertEqual([f.kind for f in self.built.proof.findings], [])
        (title,) = (w for w in self.built.drawing.words if w.text == "Observers")
        self.assertAlmostEqual(
            title.size, 28.0, delta=0.1
        )  # on a screen as wide as the picture large type is its own size


class Mist(unittest.TestCase):
    def test_painted_gradients_are_kept_and_skies_are_not(self) -> None:
        across = np.linspace(40, 200, WIDTH)[None, :, None].repeat(HEIGHT, axis=0).repeat(3, axis=2)
        painted = np.rint(across).astype(np.uint8)
        rng = np.random.default_rng(5)
        grain = cv2.GaussianBlur(rng.normal(0, 5, (HEIGHT, WIDTH, 3)).astype(np.float32), (0, 0), 0.7)
        sky = np.clip(np.rint(across + grain), 0, 255).astype(np.uint8)
        for name, pixels, kept in (("painted", painted, 1), ("sky", sky, 0)):
            with self.subTest(name):
                ramps = find_ramps(pixels)
                self.assertEqual(len(ramps), 1)
                self.assertEqual(len(without_photos(ramps, pixels)), kept)

    def test_ground_with_shadows_on_it_is_no_photo(self) -> None:
        card = Surface(Rect(100, 100, 300, 300), Fill("#ffffff"))
        even = np.full((HEIGHT, WIDTH, 3), 240, np.uint8)
        even[420:, :] = np.linspace(232, 239, HEIGHT - 420).astype(np.uint8)[:, None, None]
        for name, pixels, colour, photo in (
            ("even", even, "#f0f0f0", False),
            ("mist", misty(), "#787878", True),
        ):
            with self.subTest(name):
                self.assertEqual(is_photo(Fill(colour), [card], pixels, 1), photo)

    def test_even_places_in_mist_do_not_stand_out(self) -> None:
        pixels = misty()
        pixels[420:600, 300:700] = 255
        card, place = (
            Surface(Rect(300, 420, 400, 180), Fill("#ffffff")),
            Surface(Rect(60, 500, 120, 90), Fill("#787878")),
        )
        self.assertEqual([s.rect for s in on_photo([card, place], pixels, 1)], [card.rect])

    def test_lines_on_a_card_are_not_in_the_photo_under_it(self) -> None:
        photo = Cutout(Rect(0, 0, 900, 600), "image")
        card = Surface(Rect(100, 100, 300, 200), Fill("#ffffff"))
        self.assertFalse(in_picture(Rect(120, 150, 200, 1), [card], [photo]))
        self.assertTrue(in_picture(Rect(500, 150, 200, 1), [card], [photo]))
        across = Surface(Rect(100, 500, 300, 200), Fill("#ffffff"))
        self.assertFalse(in_picture(Rect(120, 550, 200, 1), [across], [photo]))
        band = Surface(Rect(0, 0, 1000, 900), Fill("#ffffff"))
        self.assertTrue(in_picture(Rect(500, 150, 200, 1), [band], [photo]))


if __name__ == "__main__":
    unittest.main()
