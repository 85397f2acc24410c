"""Photos with something in front of them, frames round them, choices and thick sides: as a browser draws them."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.intake import open_picture
from neige.core.model import Cutout, Fill, Rect, Rule, Surface
from neige.core.outline import arrange
from neige.core.reading import read
from neige.core.reading.surfaces.pieces import absorb_skies, uncover
from neige.core.reading.surfaces.sides import frame_pictures, settle_sides
from tests.support import drawn, png

PAGE = "<style>body{margin:0;background:#f2f4f6;color:#223;font:16px 'DejaVu Sans'}</style>"


def ridge(w: int, h: int, seed: int = 3) -> np.ndarray:
    """(h, w, 3) uint8: a noisy mountain under a sky that grows paler."""
    r = np.random.default_rng(seed)
    y, x = np.mgrid[:h, :w]
    sky = np.array([120, 165, 200]) + (y / h)[..., None] * np.array([80, 50, 30])
    line = h * (0.5 + 0.15 * np.sin(x / w * 9) + 0.08 * np.sin(x / w * 31 + 1))
    rock = np.array([90, 105, 120]) + r.normal(0, 9, (h, w, 1))
    return np.clip(np.where((y > line)[..., None], rock, sky) + r.normal(0, 2, (h, w, 3)), 0, 255).astype(
        np.uint8
    )


class Covered(unittest.TestCase):
    def test_a_photo_goes_on_behind_the_panel_in_front_of_it(self) -> None:
        page = np.full((600, 1000, 3), (242, 244, 246), np.uint8)
        page[60:300] = ridge(1000, 240)
        page[:60] = 255
        page[240:380, 120:880] = 255
        found = read(open_picture(png(page), "cover.png"))
        photos = [c.rect for c in found.cutouts if c.kind == "image"]
        self.assertEqual(len(photos), 1, photos)
        self.assertAlmostEqual(photos[0].y, 60, delta=1.5)
        self.assertAlmostEqual(photos[0].bottom, 300, delta=1.5)
        cards = [s.rect for s in found.surfaces if abs(s.rect.x - 120) < 2]
        self.assertAlmostEqual(cards[0].y, 240, delta=1.5)
        root = arrange(found).root
        card = next(n for n in root.walk() if n.surface and abs(n.rect.x - 120) < 2)
        self.assertLess(card.gap, -50)  # it stands in front, by a negative margin

    def test_two_photos_side_by_side_are_not_made_one(self) -> None:
        photo = Cutout(Rect(0, 60, 1000, 180), "image")
        others = [Cutout(Rect(0, 400, 300, 200), "image"), Cutout(Rect(700, 400, 300, 200), "image")]
        self.assertEqual(len(uncover([photo, *others], [])), 3)

    def test_a_sky_that_goes_on_in_a_photo_is_part_of_it(self) -> None:
        pixels = ridge(300, 200)
        sky = Surface(Rect(0, 0, 300, 60), Fill("#78a5c8", 180.0, ((0.0, "#78a5c8"), (1.0, "#90b4d1"))))
        rest = Cutout(Rect(0, 60, 300, 140), "image")
        surfaces, cutouts = absorb_skies([sky], [rest], pixels, [], 1)
        self.assertEqual((surfaces, [c.rect for c in cutouts]), ([], [Rect(0, 0, 300, 200)]))
        pixels[:60] = (200, 60, 40)
        kept, _ = absorb_skies([sky], [rest], pixels, [], 1)
        self.assertEqual(kept, [sky])

    def test_lines_round_a_picture_are_its_frame(self) -> None:
        photo, grey = Cutout(Rect(20, 20, 64, 64), "image"), "#cfd8e1"
        lines = [
            Rule(Rect(19, 19, 66, 1), grey), Rule(Rect(19, 84, 66, 1), grey), Rule(Rect(19, 19, 1, 66), grey),
            Rule(Rect(0, 200, 400, 1), grey),
        ]  # fmt: skip
        surfaces, left = frame_pictures([], lines, [photo])
        self.assertEqual([(s.rect, s.border) for s in surfaces], [(Rect(19, 19, 66, 66), (1,) * 4)])
        self.assertEqual(left, lines[3:])
        self.assertEqual(frame_pictures([], lines[:2], [photo]), ([], lines[:2]))


class Choices(unittest.TestCase):
    def test_the_browsers_own_choices_are_told_apart(self) -> None:
        rows = "".join(
            f"<div style='margin:8px 30px;height:20px'><input type={kind} {state} style='margin:0 8px 0 0;vertical-align:middle'>"
            f"<label>{word}</label></div>"
            for kind, state, word in (
                ("checkbox", "checked", "Stakes"), ("checkbox", "", "Loggers"),
                ("radio", "checked", "Any price"), ("radio", "", "Under fifty"), ("radio", "", "More than that"),
            )
        )  # fmt: skip
        picture, _ = drawn(PAGE.replace("#f2f4f6", "#fff") + rows, 500)
        root = arrange(read(picture)).root
        fields = [
            (n.attributes.get("type"), "checked" in n.attributes) for n in root.walk() if n.kind == "field"
        ]
        self.assertEqual(
            fields,
            [("checkbox", True), ("checkbox", False), ("radio", True), ("radio", False), ("radio", False)],
        )

    def test_a_select_and_a_text_area_by_their_marks(self) -> None:
        html = PAGE.replace("#f2f4f6", "#fff") + (
            "<div style='padding:30px'><select style='font:inherit;padding:6px 10px;border:1px solid #b8c4d0;border-radius:4px;background:#fff'>"
            "<option>Newest first</option></select><p>Your answer</p>"
            "<textarea style='width:400px;height:90px;border:1px solid #b8c4d0;background:#fff'></textarea></div>"
        )
        picture, _ = drawn(html, 600)
        root = arrange(read(picture)).root
        self.assertEqual([n.tag for n in root.walk() if n.kind == "field"], ["select", "textarea"])


class Sides(unittest.TestCase):
    def test_a_thick_side_is_one_border_and_no_area(self) -> None:
        html = PAGE.replace("#f2f4f6", "#fff") + (
            "<div style='margin:40px;padding:12px 18px;border-left:4px solid #0a66c2;background:#eef5fc;border-radius:0 6px 6px 0'>"
            "Depth is missing when the mast is iced.</div>"
        )
        picture, _ = drawn(html, 700)
        found = read(picture)
        self.assertEqual([(s.rect.x, s.border[3]) for s in found.surfaces], [(40, 4)])
        root = arrange(found).root
        text = next(n for n in root.walk() if n.kind == "text")
        self.assertAlmostEqual(text.rect.x, 62, delta=1)

    def test_a_thick_side_in_another_colour_than_the_others_is_that_sides_own(self) -> None:
        host = Surface(Rect(40, 40, 600, 80), Fill("#f8f8f8"), border=(1, 1, 1, 5), border_colour="#dddddd")
        strip = Surface(Rect(40, 40, 5, 80), Fill("#f0f0f0"), border=(1, 0, 1, 0), border_colour="#e6e6e6")
        self.assertEqual(
            settle_sides([host, strip], Fill("#ffffff")), [replace(host, accent=(3, 5, "#f0f0f0"))]
        )
        boxed = replace(strip, border=(1, 1, 1, 1))  # a box with sides of its own is no border
        self.assertEqual(settle_sides([host, boxed], Fill("#ffffff")), [host, boxed])
        apart = replace(strip, rect=Rect(60, 40, 5, 80))
        self.assertEqual(settle_sides([host, apart], Fill("#ffffff")), [host, apart])

    def test_room_in_the_colour_of_the_ground_is_no_border(self) -> None:
        host = Surface(Rect(0, 0, 400, 60), Fill("#eef5fc"))
        chip = Surface(Rect(100, 20, 65, 20), Fill("#f0f3f6"), 4.0, (0, 0, 0, 5), "#eef5fc")
        settled = settle_sides([host, chip], Fill("#ffffff"))
        self.assertEqual((settled[1].rect, settled[1].border), (Rect(105, 20, 60, 20), (0, 0, 0, 0)))


class Badges(unittest.TestCase):
    def test_white_words_on_round_badges_are_read_on_any_ground(self) -> None:
        rows = "".join(
            f"<div style='background:{ground};padding:9.45px 30px;height:20px'><span style='display:inline-block;border-radius:10px;padding:1px 10px;"
            f'font:12px/17.4px "Liberation Sans";color:#fff;background:#2e9e6b\'>{word}</span></div>'
            for ground, word in (
                ("#fff", "Reporting"),
                ("#fafbfc", "Late"),
                ("#fff", "Silent"),
                ("#fafbfc", "Reporting"),
            )
        )
        picture, _ = drawn(PAGE + rows, 500, fitted=True)
        found = read(picture)
        self.assertEqual([n.text for n in found.lines], ["Reporting", "Late", "Silent", "Reporting"])
        for n in found.lines:
            self.assertAlmostEqual(found.styles[n.style].size, 12, delta=0.5, msg=n.text)


if __name__ == "__main__":
    unittest.main()
