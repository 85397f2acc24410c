"""Letters on photos, pictures of pages, and what is read twice or in parts."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Fill, Line, Rect, Surface, TypeStyle
from neige.core.model.reading import Word
from neige.core.reading import read
from neige.core.reading.screens import find_screens
from neige.core.reading.surfaces.shaded_bands import shaded_bands
from neige.core.reading.text.bullets import read_bullets
from neige.core.reading.text.ink import FLAT_SHARE, ground_colour, measure_ink
from neige.core.reading.text.lines import drop_repeats, join_lines, read_lines
from neige.core.reading.text.on_picture import cover_on_picture, ink_on_picture
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import recognise
from neige.core.reading.type.decide import MINUS
from tests.core.test_structure import page
from tests.support import drawn


def rough(height: int, width: int, seed: int = 7) -> np.ndarray:
    """Something like a darkened photo (h, w, 3): clouds of grey from 20 to 150 with grain in them."""
    rng = np.random.default_rng(seed)
    coarse = rng.integers(20, 150, (height // 16 + 2, width // 16 + 2, 1))
    grown = np.kron(coarse, np.ones((16, 16, 1)))[:height, :width]
    return np.clip(grown + rng.integers(-9, 10, (height, width, 3)), 0, 170).astype(np.uint8)


def on_photo(text: str, style: str) -> tuple[np.ndarray, np.ndarray]:
    """White text over a rough picture, and the same over flat grey: (pixels, pixels)."""
    body = "<style>body{{margin:0;background:{};color:{}}}p{{margin:24px 30px;{}}}</style><p>{}</p>"
    mask = drawn(body.format("#000", "#fff", style, text), 640, fitted=True)[0].pixels
    alpha = mask.astype(np.float64) / 255
    photo, flat = rough(*mask.shape[:2]), np.full_like(mask, 70)
    return tuple(np.rint(g * (1 - alpha) + 255 * alpha).astype(np.uint8) for g in (photo, flat))  # type: ignore[return-value]


class Ink(unittest.TestCase):
    STYLE = "font:700 40px/52px 'Liberation Sans'"

    def test_words_on_a_photo_end_where_they_do_on_a_flat_ground(self) -> None:
        for style, size in ((self.STYLE, 40), ("font:18px/30px 'Liberation Sans'", 18)):
            photo, flat = on_photo("Old snow on Grey Saddle", style)
            box = (28.0, 26.0, 30.0 + 13 * size, 26.0 + 1.2 * size)
            found, expected = (read_lines(p, [box], recognise, 0.0)[0] for p in (photo, flat))
            self.assertEqual(found[0].text, expected[0].text)
            self.assertTrue(found[0].pictured and not expected[0].pictured)
            for a, b in zip(found[0].words, expected[0].words):
                self.assertLessEqual(np.abs(np.subtract(a.box, b.box)).max(), 1.5)
                self.assertEqual(a.colour, (255.0, 255.0, 255.0))

    def test_thin_strokes_that_never_have_the_inks_own_colour_are_whole(self) -> None:
        said = "Snow on Grey Saddle is an evolutionarily recent thing"
        _, flat = on_photo(said, "font:16px/26px 'Liberation Serif'")
        alpha = (flat.astype(np.float64) - 70) / 185
        photo = np.rint(0.5 * rough(*flat.shape[:2]) * (1 - alpha) + 255 * alpha).astype(np.uint8)
        found, _ = read_lines(photo, [(27.0, 26.0, 372.0, 48.0)], recognise, 0.0)
        self.assertEqual([(n.text, n.pictured) for n in found], [(said, True)])

    def test_its_cover_is_that_of_the_letters(self) -> None:
        photo, flat = on_photo("Old snow", self.STYLE)
        cover, _ = cover_on_picture(photo, np.array([255.0] * 3))
        truth = (flat[..., 0].astype(np.float64) - 70) / 185
        self.assertLess(np.abs(cover - truth).mean(), 0.01)

    def test_bold_capitals_that_fill_their_crop_are_the_ink(self) -> None:
        photo, flat = on_photo(
            "EIGHT HUNDRED MEMBERS", "letter-spacing:-1px;font:700 30px/36px 'Liberation Sans'"
        )
        rows, columns = (np.flatnonzero((flat[..., 0] > 90).any(axis=k)) for k in (1, 0))
        crop = photo[rows[0] - 3 : rows[-1] + 4, columns[0] - 2 : columns[-1] + 3]
        self.assertGreater(ground_colour(crop)[1], FLAT_SHARE)
        ink = measure_ink(crop)
        self.assertEqual((ink.colour.tolist(), ink.pictured), ([255.0] * 3, True))
        box = tuple(float(v) for v in (columns[0], rows[0], columns[-1] + 1, rows[-1] + 1))
        (line,) = read_lines(photo, [box], recognise, 0.0)[0]
        self.assertEqual((line.text, line.words[0].colour), ("EIGHT HUNDRED MEMBERS", (255.0, 255.0, 255.0)))
        self.assertLessEqual(np.abs(np.subtract(line.box, box)).max(), 1.5)

    def test_a_photo_without_letters_has_no_ink(self) -> None:
        self.assertIsNone(ink_on_picture(rough(60, 400)))
        black = rough(60, 400)
        black[:, 100:300] = 12  # a dark place that goes on to the rim
        self.assertIsNone(ink_on_picture(black))

    def test_words_in_several_inks_on_a_flat_ground_are_no_picture(self) -> None:
        inks = ("#0b1f2a", "#208050", "#b05020", "#204a87")
        words = " ".join(f"<span style='color:{c}'>depth</span>" for c in inks)
        pixels = drawn(
            f"<style>body{{margin:0;background:#f4f4f4}}p{{margin:24px 30px;font:18px/30px 'Liberation Mono'}}</style><p>{words}</p>",
            640,
        )[0].pixels
        (line,) = read_lines(pixels, [(28.0, 26.0, 290.0, 52.0)], recognise, 0.0)[0]
        self.assertEqual((line.text, line.pictured), ("depth depth depth depth", False))

    def test_a_dot_of_another_colour_beside_a_word_is_no_picture(self) -> None:
        dot = (
            "<i style='display:inline-block;width:12px;height:12px;border-radius:50%;background:#1cc88a'></i>"
        )
        pixels = drawn(
            f"<style>body{{margin:0}}p{{margin:24px 30px;color:#858796;font:13px/20px 'Liberation Sans'}}</style><p>{dot} Referral</p>",
            400,
        )[0].pixels
        found = read_lines(pixels, [(29.0, 25.0, 96.0, 43.0)], recognise, 0.0)[0]
        self.assertIn("Referral", " ".join(n.text for n in found))
        self.assertFalse(any(n.pictured for n in found))

    def test_a_headline_on_a_photo_is_set_in_the_pages_type(self) -> None:
        photo, _ = on_photo("Snow is measured<br>by people who walk<br>up every morning", self.STYLE)
        picture, _ = drawn(
            "<style>body{margin:0;font:16px/26px 'Liberation Sans'}</style>"
            f"<div style='height:{photo.shape[0]}px'></div><p style='margin:20px 30px'>Every station is read by hand at seven in the morning,<br>"
            "and again in the evening when the weather lets anybody up to it.</p>",
            640,
            fitted=True,
        )
        pixels = picture.pixels.copy()
        pixels[: photo.shape[0]] = photo
        found = read(replace(picture, pixels=pixels))
        heads = [found.styles[n.style] for n in found.lines if n.box.y < photo.shape[0]]
        self.assertEqual({(s.family, s.weight, s.size) for s in heads}, {("Liberation Sans", 700, 40.0)})


class Repeats(unittest.TestCase):
    def line(self, text: str, x: float, wide: float = 12.0, y: float = 40.0, ink: float = 30.0) -> RawLine:
        """Words of `wide` px a letter, 6 px apart, 20 px high."""
        words, pen = [], x
        for w in text.split():
            words.append(RawWord(w, (pen, y, pen + wide * len(w), y + 20), (ink,) * 3, 0.95))
            pen += wide * len(w) + 6
        return RawLine(tuple(words), around([w.box for w in words]), (250.0,) * 3, True, 0.95)

    def test_the_end_of_a_line_that_was_found_once_more_is_dropped(self) -> None:
        whole, part = self.line("Shop in style", 0), self.line("p in style", 36)
        self.assertEqual([n.text for n in drop_repeats([part, whole])], ["Shop in style"])

    def test_a_letter_that_another_word_covers_is_dropped_from_its_line(self) -> None:
        whole, part = self.line("A Bootstrap", 0), self.line("p 5", 114)
        self.assertEqual([n.text for n in drop_repeats([whole, part])], ["A Bootstrap", "5"])

    def test_parts_of_a_line_a_space_apart_are_one_line(self) -> None:
        first, rest = self.line("The station", 0), self.line("above the ridge", 136)
        self.assertEqual([n.text for n in join_lines([rest, first])], ["The station above the ridge"])

    def test_columns_other_inks_and_other_lines_stay_apart(self) -> None:
        first = self.line("Depth", 0)
        for other in (
            self.line("Wind", 90),
            self.line("Wind", 66, ink=160.0),
            self.line("Wind", 66, y=52.0),
        ):
            self.assertEqual(len(join_lines([first, other])), 2)

    def test_a_minus_stands_before_a_number_only(self) -> None:
        self.assertEqual(MINUS.sub("−", "-12"), "−12")
        self.assertEqual(MINUS.sub("−", "north-face"), "north-face")
        self.assertEqual(MINUS.sub("−", "-face"), "-face")

    def test_times_from_and_to_are_parted_by_a_dash(self) -> None:
        body = (
            "<meta charset=utf-8><style>body{margin:20px;font:16px/26px 'DejaVu Sans'}small{font-size:14px;color:#5a646e}</style>"
            "<p>Every station is read by hand at seven in the morning and in the evening.</p>"
            "<p><small>Tomorrow, if the weather holds</small></p><p><small>1:00–2:00pm</small></p><p><small>2:00–2:30pm</small></p>"
        )
        found = read(drawn(body, 800, fitted=True)[0])
        self.assertEqual([n.text for n in found.lines][-2:], ["1:00–2:00pm", "2:00–2:30pm"])


class Bullets(unittest.TestCase):
    def page(self, dots: list[tuple[int, int]], colour: int = 30) -> tuple[list[RawLine], np.ndarray]:
        """Three lines at x 60, 24 px apart, and dots of 5 px at (x, line) before them."""
        pixels = np.full((120, 300, 3), 250, np.uint8)
        lines = [Repeats().line("Old snow", 60, y=20.0 + 24 * k) for k in range(3)]
        lines = [replace(n, box=(*n.box[:3], n.box[1] + 12)) for n in lines]
        for x, k in dots:
            pixels[24 + 24 * k : 29 + 24 * k, x - 2 : x + 3] = colour
        return lines, pixels

    def test_dots_in_a_column_before_lines_are_bullets(self) -> None:
        lines, pixels = self.page([(46, 0), (46, 2)])
        found = read_bullets(lines, pixels, 1)
        self.assertEqual([bool(n.bullet) for n in found], [True, False, True])
        self.assertEqual(found[0].bullet, (44.0, 24.0, 49.0, 29.0))

    def test_one_dot_lights_and_ragged_dots_are_none(self) -> None:
        for dots, colour in (([(46, 0)], 30), ([(46, 0), (46, 1)], 180), ([(46, 0), (41, 1)], 30)):
            lines, pixels = self.page(dots, colour)
            self.assertEqual(read_bullets(lines, pixels, 1), lines)


class ShadedBands(unittest.TestCase):
    """A strip of 48 px from side to side with an inner shadow, as it was cut out."""

    def strip(self, across: float = 0.0) -> tuple[list[Cutout], list[Surface]]:
        pixels = np.full((200, 900, 3), 255, np.uint8)
        shade = np.concatenate([np.linspace(190, 228, 20), np.full(16, 228.0), np.linspace(228, 214, 12)])
        pixels[80:128] = np.rint(shade)[:, None, None]
        pixels[80:128, :12] = np.rint(shade - 14)[:, None, None]  # a shadow from the side
        pixels[80:128] = np.rint(pixels[80:128] - across * np.linspace(0, 40, 900)[None, :, None])
        return shaded_bands([Cutout(Rect(0, 80, 900, 48), "image")], pixels, 1)

    def test_a_strip_whose_rows_have_one_colour_each_is_painted(self) -> None:
        left, (band,) = self.strip()
        self.assertEqual((left, band.rect), ([], Rect(0, 80, 900, 48)))
        self.assertEqual(band.fill.angle, 180.0)
        self.assertEqual((band.fill.stops[0][1], band.fill.stops[-1][1]), ("#bebebe", "#d6d6d6"))
        self.assertLessEqual(len(band.fill.stops), 6)

    def test_what_changes_along_its_rows_stays_a_picture(self) -> None:
        left, bands = self.strip(across=1.0)
        self.assertEqual((len(left), bands), (1, []))

    def test_a_high_or_short_picture_is_not_looked_at(self) -> None:
        flat = np.full((400, 900, 3), 200, np.uint8)
        for rect in (Rect(0, 0, 900, 300), Rect(0, 0, 100, 48)):
            left, bands = shaded_bands([Cutout(rect, "image")], flat, 1)
            self.assertEqual((len(left), bands), (1, []))


class Screens(unittest.TestCase):
    def line(self, x: float, y: float, style: int, residual: float) -> Line:
        box = Rect(x, y, 60, 10)
        word = Word("Depth", x, box.w, box, style, 0.9)
        return Line((word,), box, box, y + 8, 5.0, 7.0, style, "#ffffff", 0.9, residual)

    def styles(self) -> list[TypeStyle]:
        base = page("<main><h1>Snow</h1></main>")[0].styles[0]
        return [replace(base, size=s) for s in (16.0, 9.0, 11.1, 12.4)]

    def test_blurred_small_lines_in_a_frame_are_a_picture_of_a_page(self) -> None:
        small = [self.line(120 + 90 * (k % 3), 220 + 40 * (k // 3), 1 + k % 3, 0.12) for k in range(9)]
        prose = [self.line(60, 700 + 26 * k, 0, 0.01) for k in range(12)]
        frame = Surface(Rect(100, 200, 500, 300), Fill("#ffffff"))
        self.assertEqual(find_screens([*small, *prose], self.styles(), [frame], 1440), [frame.rect])

    def test_small_print_that_is_drawn_well_is_text(self) -> None:
        small = [self.line(120 + 90 * (k % 3), 220 + 40 * (k // 3), 2 + k % 2, 0.012) for k in range(9)]
        prose = [self.line(60, 700 + 26 * k, 0, 0.01) for k in range(12)]
        frame = Surface(Rect(100, 200, 500, 300), Fill("#ffffff"))
        self.assertEqual(find_screens([*small, *prose], self.styles(), [frame], 1440), [])

    def test_a_picture_of_a_page_goes_on_over_its_headline_and_not_over_the_pages_text(self) -> None:
        menu = [self.line(120 + 90 * k, 220, 1 + k % 3, 0.12) for k in range(5)]
        below = [self.line(120 + 90 * (k % 3), 340 + 30 * (k // 3), 1 + k % 3, 0.12) for k in range(6)]
        headline = self.line(120, 276, 0, 0.06)
        prose = [self.line(60, 700 + 26 * k, 0, 0.01) for k in range(12)]
        (found,) = find_screens([*menu, headline, *below, *prose], self.styles(), [], 1440)
        self.assertEqual((found.y, found.bottom), (220, 380))
        between = [self.line(120, 240 + 8 * k, 0, 0.01) for k in range(12)]
        self.assertEqual(find_screens([*menu, *between, *below, *prose], self.styles(), [], 1440), [])

    def test_a_card_with_text_beside_the_picture_is_no_picture(self) -> None:
        small = [self.line(720 + 90 * (k % 3), 220 + 40 * (k // 3), 1 + k % 3, 0.12) for k in range(9)]
        beside = [self.line(130, 230 + 30 * k, 0, 0.01) for k in range(4)]
        card = Surface(Rect(100, 200, 1000, 300), Fill("#ffffff"))
        (found,) = find_screens([*small, *beside], self.styles(), [card], 1440)
        self.assertGreater(found.x, 700)


if __name__ == "__main__":
    unittest.main()
