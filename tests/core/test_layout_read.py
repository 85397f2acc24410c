"""The grid, distances, palette, charts and pictures of a reading; what the developer says of a place; coverage."""

from __future__ import annotations

import io
import unittest
from dataclasses import replace

import numpy as np
import resvg_py
from PIL import Image

from neige.core.model import Cutout, Fill, Line, Picture, Pin, Rect, Rule, Shadow, Surface, TypeStyle, Word
from neige.core.reading import read
from neige.core.reading.charts import find_charts
from neige.core.reading.coverage import unexplained
from neige.core.reading.grid import find_grid
from neige.core.reading.palette import contrasts, find_palette
from neige.core.reading.pins import choose_assets, pin_from
from neige.core.reading.spacing import find_gaps, scale_of_gaps, text_boxes
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.cards import accent_sides, join_sides, pool_alike
from neige.core.reading.surfaces.corners import round_corners
from neige.core.reading.surfaces.pictures import box_icons, is_opaque, split_mosaics
from neige.core.reading.surfaces.shade import drop_shade
from neige.core.reading.surfaces.tracks import complete_tracks
from neige.core.writer.cutouts import formats
from neige.core.writer.trace import trace
from tests.core.test_surfaces import canvas

STYLE = TypeStyle("Inter", "sans", "", 16, 400, False, 0.0, "#222222", 15.0, 4.0)


def line(text: str, x: float, y: float, w: float = 40.0, h: float = 14.0, style: int = 0) -> Line:
    box = Rect(x, y, w, h)
    word = Word(text, x, w, box, style, 1.0)
    return Line((word,), box, box, y + h - 3, 7.0, 10.0, style, "#ffffff", 1.0, 0.0)


def columns(n: int, gutter: float, left: float, width: float, spans: list[tuple[int, int]]) -> list[Rect]:
    """Boxes in rows: each (first column, columns wide)."""
    column = (width - (n - 1) * gutter) / n
    return [
        Rect(left + a * (column + gutter), 100.0 * i, k * column + (k - 1) * gutter, 80)
        for i, (a, k) in enumerate(spans)
    ]


class Grid(unittest.TestCase):
    def test_known_grids_are_found_through_noise(self) -> None:
        rng = np.random.default_rng(5)
        right = 0
        cases = 0
        for n in (2, 3, 4, 6, 12):
            for gutter in (8.0, 16.0, 24.0, 32.0, 48.0):
                width = 1200 if n < 12 else 1176
                per_row = {2: 1, 3: 1, 4: 1, 6: 1, 12: 3}[n]
                boxes = []
                for row in range(3):
                    for i in range(0, n, per_row):
                        r = columns(n, gutter, 120, width, [(i, per_row)])[0]
                        boxes.append(Rect(r.x, 300.0 * row, r.w, 240))
                noise = [Rect(float(x), 2000.0, 61.0, 30.0) for x in rng.integers(150, 1000, 3)]
                band = Surface(Rect(0, 700, 1440, 200), Fill("#eeeeee"))
                found = find_grid(1440, [band, *(Surface(b, Fill("#ffffff")) for b in boxes)], noise, [])
                expected = n // per_row
                cases += 1
                good = found and found.columns == expected and abs(found.gutter - gutter) < 0.6
                right += bool(good and abs(found.margin - 120) < 1 and len(found.bands) == 1)
        self.assertGreaterEqual(right / cases, 0.95)

    def test_a_grid_by_hand_holds(self) -> None:
        pin = Pin("grid", Rect(100, 0, 1000, 500), columns=10, gutter=20)
        found = find_grid(1200, [], [], [line("x", 100, 10)], [pin])
        assert found is not None
        self.assertEqual((found.columns, found.column, found.margin, found.end), (10, 82.0, 100, 100))
        self.assertEqual(found.explained, 1.0)

    def test_one_column_of_text_is_no_grid(self) -> None:
        self.assertIsNone(find_grid(800, [], [], [line("a", 50, 20.0 * i, 500) for i in range(9)]))


class Distances(unittest.TestCase):
    def test_line_height_is_taken_off_the_gap(self) -> None:
        # 16 px type, ascent 15 and descent 4 of 19; lines 24 px apart: 2.5 px of each line box are empty
        lines = [line("one", 0, 0), line("two", 0, 24), line("three", 0, 48)]
        box = text_boxes(lines, [STYLE])[0]
        self.assertAlmostEqual(box.y, 11 - 15 - 2.5)
        self.assertAlmostEqual(box.bottom, 59 + 4 + 2.5)

    def test_gaps_are_to_the_next_neighbour_and_to_the_panel(self) -> None:
        panel = Rect(0, 0, 400, 300)
        a, b = Rect(24, 24, 100, 50), Rect(140, 24, 100, 50)
        gaps = find_gaps([a, b, Rect(24, 90, 300, 40)], [panel])
        sizes = {(g.kind, g.axis): g.size for g in gaps}
        self.assertEqual(sizes["between", "inline"], 16)
        self.assertEqual(sizes["between", "block"], 16)
        self.assertIn(24, [g.size for g in gaps if g.kind == "padding"])

    def test_the_coarsest_step_that_explains_is_the_scale(self) -> None:
        boxes, y = [], 0.0
        for gap in (8, 16, 24, 8, 32, 16, 40, 21):
            boxes.append(Rect(0, y, 50, 20))
            y += 20 + gap
        scale = scale_of_gaps(find_gaps([*boxes, Rect(0, y, 50, 20)], []))
        self.assertEqual(scale.step, 8)
        self.assertEqual([v for v, _ in scale.leftovers], [21])


class Palette(unittest.TestCase):
    def test_entries_have_roles_and_names_of_their_own(self) -> None:
        picture = canvas([Surface(Rect(0, 0, 600, 80), Fill("#c0452a"))], ground="#ffffff")
        surfaces = [Surface(Rect(0, 0, 600, 80), Fill("#c0452a"))]
        found = find_palette(picture, Fill("#ffffff"), surfaces, [replace(STYLE, lines=4)])
        roles = {e.colour: (e.role, e.name) for e in found}
        self.assertEqual(roles["#ffffff"], ("page", "page"))
        self.assertEqual(roles["#c0452a"], ("surface", "accent"))
        self.assertEqual(roles["#222222"], ("text", "ink"))
        self.assertEqual(len({e.name for e in found}), len(found))

    def test_poor_contrast_comes_first(self) -> None:
        pale = replace(STYLE, colour="#bbbbbb")
        found = contrasts([line("a", 0, 0), line("b", 0, 20, style=1)], [STYLE, pale])
        self.assertEqual(found[0].ink, "#bbbbbb")
        self.assertLess(found[0].ratio, found[0].needed)


class Charts(unittest.TestCase):
    def axis(self, values: list[str]) -> list[Line]:
        ticks = [line(v, 40, 100 + 40.0 * i, 30) for i, v in enumerate(values)]
        below = [line(m, 100 + 60.0 * i, 280, 30) for i, m in enumerate(("Nov", "Dec", "Jan"))]
        return [*ticks, *below]

    def test_even_numbers_at_even_distances_are_an_axis(self) -> None:
        host = Surface(Rect(0, 0, 500, 400), Fill("#ffffff"))
        grid = [Rule(Rect(80, 107 + 40.0 * i, 380, 1), "#dddddd") for i in range(5)]
        found = find_charts(self.axis(["200", "150", "100", "50", "0"]), [host], grid)
        self.assertEqual(len(found), 1)
        self.assertAlmostEqual(found[0].right, 462, delta=4)
        self.assertGreater(found[0].bottom, 290)

    def test_years_in_a_table_are_no_axis(self) -> None:
        """What stands in a chart is baked into a picture: a table's words must never be."""
        host = Surface(Rect(0, 0, 500, 400), Fill("#ffffff"))
        rules = [Rule(Rect(30, 127 + 40.0 * i, 440, 1), "#dddddd") for i in range(5)]
        rows = [line("Upper Cairn", 200, 100 + 40.0 * i, 90) for i in range(5)]
        axis = self.axis(["2026", "2025", "2024", "2023", "2022"])
        self.assertEqual(find_charts([*axis, *rows], [host], rules), [])
        self.assertEqual(find_charts(axis, [host], []), [])

    def crossed(self, top: float, across: tuple[float, ...]) -> list[Line]:
        """Four numbers falling evenly from `top`, and names under them at `across`."""
        ticks = [line(v, 40, top + 40.0 * i, 30) for i, v in enumerate(("150", "100", "50", "0"))]
        return [
            *ticks,
            *(line(m, x, top + 145, 30) for m, x in zip(("Nov", "Dec", "Jan", "Feb", "Mar"), across)),
        ]

    def test_two_even_axes_need_no_lines_and_charts_may_stand_one_above_another(self) -> None:
        even = (100, 180, 260, 340, 420)
        lines = self.crossed(100, even) + self.crossed(400, even)
        found = find_charts(lines, [], [])
        self.assertEqual(len(found), 2)
        for chart, top in zip(found, (100, 400)):
            self.assertTrue(chart.y < top < top + 150 < chart.bottom < top + 170)
            self.assertGreater(chart.right, 420)
        self.assertEqual(find_charts(self.crossed(100, (100, 150, 260, 340, 420)), [], []), [])
        beside = line("Upper Cairn", 200, 145, 90)
        self.assertEqual(find_charts([*self.crossed(100, even), beside], [], []), [])

    def test_a_long_column_of_numbers_costs_no_more_than_it_is_long(self) -> None:
        calls = [line(str(9000 - 7 * i), 40, 20.0 * i, 30) for i in range(600)]
        self.assertEqual(find_charts(calls, [], []), [])

    def test_a_column_of_prices_is_none(self) -> None:
        self.assertEqual(find_charts(self.axis(["12", "8", "5", "-5", "20"]), [], []), [])


class Cards(unittest.TestCase):
    def test_corners_are_measured_one_by_one(self) -> None:
        shape = Surface(Rect(40, 40, 120, 60), Fill("#2c6175"), 8.0, corners=(8.0, 0.0, 0.0, 8.0))
        picture = canvas([shape])
        found = round_corners(picture.pixels, [replace(shape, radius=0.0, corners=None)], 1)[0]
        self.assertEqual(found.corners, (8.0, 0.0, 0.0, 8.0))

    def test_a_framed_corner_keeps_its_radius_whatever_is_inside(self) -> None:
        shape = Surface(Rect(40, 40, 200, 120), Fill("#ffffff"), 12.0, (1.0,) * 4, "#8899a6")
        picture = canvas([shape, Surface(Rect(60, 60, 160, 80), Fill("#c0452a"))])
        found = round_corners(picture.pixels, [replace(shape, radius=0.0)], 1)[0]
        self.assertEqual((found.radius, found.corners), (12.0, None))

    def test_what_a_bar_leaves_is_the_track(self) -> None:
        bar = Surface(Rect(20, 20, 100, 8), Fill("#2c6175"), 4.0)
        rest = Surface(Rect(120, 20, 180, 8), Fill("#dde3e8"))
        pixels = canvas([bar, rest]).pixels
        track = next(s for s in complete_tracks([bar, rest], [], pixels, 1) if s.fill == rest.fill)
        self.assertEqual((track.rect.x, track.rect.w, track.radius), (20, 280, 4.0))
        worded = complete_tracks([bar, rest], [Rect(140, 21, 60, 6)], pixels, 1)
        self.assertIn(rest, worded)

    def test_a_coloured_side_is_a_border(self) -> None:
        card = Surface(Rect(104, 50, 200, 100), Fill("#ffffff"))
        stripe = Rule(Rect(100, 50, 4, 100), "#c0452a")
        (found,), rules = accent_sides([card], [stripe])
        self.assertEqual((found.rect.x, found.border[3], found.accent), (100, 4, (3, 4, "#c0452a")))
        self.assertEqual(rules, [])

    def test_shade_between_cards_is_no_panel_and_a_shadow_is_pooled(self) -> None:
        shadow = Shadow(0, 2, 8, 0, "#000000", 0.2)
        cards = [
            Surface(Rect(20 + 320.0 * i, 20, 300, 200), Fill("#ffffff"), 8.0, shadow=shadow) for i in range(3)
        ]
        strip = Surface(Rect(326, 60, 8, 120), Fill("#eeeeee"))
        self.assertNotIn(strip, drop_shade([*cards, strip]))
        cards[2] = replace(cards[2], shadow=None, radius=0.0)
        pooled = pool_alike(cards)
        self.assertEqual((pooled[2].shadow, pooled[2].radius), (shadow, 8.0))

    def test_a_frame_round_two_fills_is_one_card(self) -> None:
        left = Surface(Rect(20, 20, 200, 100), Fill("#ffffff"), 0.0, (1.0, 0.0, 1.0, 1.0), "#8899a6")
        right = Surface(Rect(220, 20, 80, 100), Fill("#55595c"), 0.0, (1.0, 1.0, 1.0, 0.0), "#8899a6")
        found = join_sides([left, right])
        self.assertEqual(found[0].rect, Rect(20, 20, 280, 100))
        self.assertEqual(found[1].rect, Rect(220, 21, 79, 98))


class Pictures(unittest.TestCase):
    def test_icons_stand_in_squares_unless_something_is_in_the_way(self) -> None:
        tick = Cutout(Rect(100, 100, 17, 11), "icon")
        self.assertEqual(box_icons([tick], [], [])[0].rect, Rect(98, 96, 20, 20))
        self.assertEqual(box_icons([tick], [Rect(119, 100, 50, 11)], [])[0].rect, Rect(98, 96, 20, 20))
        self.assertEqual(box_icons([tick], [Rect(117.5, 100, 50, 11)], [])[0], tick)
        line = Rule(Rect(0, 97, 300, 1), "#e0e4e8")
        self.assertEqual(box_icons([tick], [], [], [line])[0], tick)

    def test_arrow_heads_stand_in_squares_and_dots_bars_and_what_opens_do_not(self) -> None:
        head = Cutout(Rect(100, 100, 4, 8), "icon")
        self.assertEqual(box_icons([head], [], [])[0].rect, Rect(96, 98, 12, 12))
        for bare in (Rect(100, 100, 5, 5), Rect(100, 100, 2, 16), Rect(100, 100, 9, 5)):
            mark = Cutout(bare, "icon")
            self.assertEqual(box_icons([mark], [], []), [mark])

    def test_a_tick_in_a_small_box_and_a_flag_keep_their_own_edges(self) -> None:
        tick = Cutout(Rect(104, 106, 12, 9), "icon", ground="#205080")
        box = Surface(Rect(100, 100, 20, 20), Fill("#205080"))
        self.assertEqual(box_icons([tick], [], [box]), [tick])
        pixels = np.full((60, 60, 3), 255, np.uint8)
        pixels[20:34, 20:40] = (30, 80, 160)
        flag = Cutout(Rect(20, 20, 20, 14), "icon", ground="#ffffff")
        self.assertTrue(is_opaque(flag, pixels, 1))
        self.assertEqual(box_icons([flag], [], [], opaque=[flag]), [flag])
        pixels[20:34, 20:40][np.hypot(*(np.mgrid[:14, :20] - 7)) > 6] = 255
        self.assertFalse(is_opaque(flag, pixels, 1))

    def test_a_solid_icon_that_fills_its_box_is_no_photo(self) -> None:
        pixels = np.full((120, 200, 3), 255, np.uint8)
        pixels[40:76, 40:76] = np.random.default_rng(5).integers(90, 110, (36, 36, 3))  # a texture
        pixels[44:72, 44:72] = (30, 80, 160)
        noise = np.random.default_rng(3).integers(0, 200, (36, 36, 3))
        pixels[40:76, 120:156] = noise
        found = read_surfaces(Picture(pixels, 1), []).cutouts
        self.assertEqual({(round(c.rect.x, -1), c.kind) for c in found if c.rect.x > 100}, {(120, "image")})
        self.assertNotIn("image", [c.kind for c in found if c.rect.x < 100])

    def test_touching_photos_are_parted_at_their_seams(self) -> None:
        rng = np.random.default_rng(3)
        pixels = np.zeros((200, 400, 3), np.uint8)
        for y, x, tone in ((0, 0, 60), (0, 200, 180), (100, 0, 210), (100, 200, 20)):
            pixels[y : y + 100, x : x + 200] = tone + rng.integers(0, 6, (100, 200, 3))
        found = split_mosaics([Cutout(Rect(0, 0, 400, 200), "image")], pixels, [], [], 1)
        self.assertEqual(
            sorted((c.rect.x, c.rect.y) for c in found), [(0, 0), (0, 100), (200, 0), (200, 100)]
        )

    def test_the_edge_of_a_card_across_a_photo_is_no_seam(self) -> None:
        pixels = np.random.default_rng(3).integers(40, 48, (300, 400, 3)).astype(np.uint8)
        card = Rect(30, 200, 340, 180)
        pixels[200:, 30:370] = 240
        photo = Cutout(Rect(0, 0, 400, 300), "image")
        self.assertEqual(
            [c.rect for c in split_mosaics([photo], pixels, [], [Surface(card, Fill("#f0f0f0"))], 1)],
            [photo.rect],
        )
        self.assertEqual(len(split_mosaics([photo], pixels, [], [], 1)), 2)

    def test_a_card_across_a_seam_lies_on_one_picture(self) -> None:
        rng = np.random.default_rng(3)
        pixels = rng.integers(40, 48, (400, 400, 3)).astype(np.uint8)
        pixels[200:] = rng.integers(180, 188, (200, 400, 3))
        pixels[90:310, 40:360] = 240
        photo = Cutout(Rect(0, 0, 400, 400), "image")
        card = Surface(Rect(40, 90, 320, 220), Fill("#f0f0f0"))
        self.assertEqual(len(split_mosaics([photo], pixels, [], [card], 1)), 1)
        self.assertEqual(
            len(split_mosaics([photo], pixels, [], [replace(card, rect=Rect(40, 210, 320, 100))], 1)), 2
        )

    def test_a_place_is_what_it_is_told_to_be(self) -> None:
        shapes = [
            Surface(Rect(50, 50, 40, 40), Fill("#c0452a")),
            Surface(Rect(100, 50, 40, 40), Fill("#2c6175")),
        ]
        picture = canvas(shapes)
        place = Rect(45, 45, 100, 50)
        told = read_surfaces(picture, [], known=[(place, "image")])
        self.assertEqual((told.surfaces, [c.rect for c in told.cutouts]), ((), [place]))
        nothing = read_surfaces(picture, [], known=[(place, "ignore")])
        self.assertEqual((nothing.surfaces, nothing.cutouts), ((), ()))
        panel = read_surfaces(picture, [], known=[(Rect(100, 50, 40, 40), "surface")])
        self.assertIn("#2c6175", [s.fill.colour for s in panel.surfaces])

    def test_what_is_chosen_for_a_file_stays_with_its_picture(self) -> None:
        pin = pin_from(
            {"kind": "asset", "rect": {"x": 1, "y": 1, "w": 98, "h": 50}, "to": "avif", "quality": 60, "name": "ridge", "text": "A ridge"}
        )  # fmt: skip
        chosen = choose_assets(
            [Cutout(Rect(0, 0, 100, 50), "image"), Cutout(Rect(0, 60, 100, 50), "image")], [pin]
        )
        self.assertEqual(
            (chosen[0].format, chosen[0].quality, chosen[0].name, chosen[0].alt),
            ("avif", 60, "ridge", "A ridge"),
        )
        self.assertEqual(chosen[1].format, "")

    def test_pins_that_say_nothing_are_refused(self) -> None:
        place = {"x": 0, "y": 0, "w": 10, "h": 10}
        for bad in (
            {"kind": "region", "rect": place, "to": "boat"},
            {"kind": "region", "rect": {**place, "w": 0}, "to": "icon"},
            {"kind": "asset", "rect": place, "to": "pcx"},
            {"kind": "grid", "rect": place, "columns": 0},
            {"kind": "grid", "rect": place, "columns": 3, "gutter": 40},
        ):
            with self.subTest(bad), self.assertRaises(ValueError):
                pin_from(bad)


class FixedPoint(unittest.TestCase):
    def test_what_was_read_paints_the_picture_it_was_read_from(self) -> None:
        """Random nested panels: paint, read, paint again is the same picture but for half-covered edge pixels."""
        rng = np.random.default_rng(11)
        for trial in range(6):
            shapes = []
            for i in range(3):
                x, y = 30 + 190 * i, float(rng.integers(20, 60))
                w, h = float(rng.integers(120, 160)), float(rng.integers(120, 260))
                border = float(rng.integers(0, 3))
                shapes.append(
                    Surface(
                        Rect(x, y, w, h), Fill("#ffffff"), float(rng.choice([0, 4, 8, 16])),
                        (border,) * 4, "#8899a6" if border else "",
                    )
                )  # fmt: skip
                shapes.append(
                    Surface(Rect(x + 24, y + 24, 60, 30), Fill("#2c6175"), float(rng.choice([0, 6])))
                )
            with self.subTest(trial):
                picture = canvas(shapes)
                found = read_surfaces(picture, [])
                again = canvas(list(found.surfaces), list(found.rules), found.background.colour)
                off = np.abs(again.pixels.astype(int) - picture.pixels).max(axis=2)
                self.assertLess(float((off > 24).mean()), 2e-4)
                self.assertEqual(found.cutouts, ())
                second = read_surfaces(Picture(again.pixels, 1), [])
                self.assertEqual(
                    [(s.rect, s.radius, s.border) for s in second.surfaces],
                    [(s.rect, s.radius, s.border) for s in found.surfaces],
                )


class Files(unittest.TestCase):
    def ring(self, scale: int = 1) -> np.ndarray:
        """An anti-aliased ring of one ink on transparent ground."""
        n = 24 * scale
        y, x = np.mgrid[:n, :n] + 0.5
        r = np.hypot(x - n / 2, y - n / 2)
        cover = np.clip(9 * scale + 0.5 - r, 0, 1) * np.clip(r - 5 * scale + 0.5, 0, 1)
        return np.dstack([np.full((n, n, 3), (44, 97, 117)), np.rint(cover * 255)]).astype(np.uint8)

    def test_an_icon_of_one_ink_is_an_outline(self) -> None:
        for scale in (1, 2):
            with self.subTest(scale):
                found = trace(self.ring(scale), scale)
                assert found is not None
                self.assertEqual((found.width, found.height, found.colour), (24, 24, "#2c6175"))
                self.assertLess(len(found.d), 1500)
                again = resvg_py.svg_to_bytes(svg_string=found.svg(), width=24 * scale, height=24 * scale)
                with Image.open(io.BytesIO(bytes(again))) as image:
                    cover = np.asarray(image.convert("RGBA"))[..., 3].astype(float)
                off = np.abs(cover - self.ring(scale)[..., 3]).sum() / self.ring(scale)[..., 3].sum()
                self.assertLess(off, 0.12)

    def test_a_picture_of_many_inks_is_none(self) -> None:
        rng = np.random.default_rng(1)
        noisy = np.dstack([rng.integers(0, 255, (24, 24, 3)), np.full((24, 24), 255)]).astype(np.uint8)
        self.assertIsNone(trace(noisy, 1))

    def test_the_smallest_format_nobody_can_tell_comes_first(self) -> None:
        rng = np.random.default_rng(2)
        y, x = np.mgrid[:120, :200]
        photo = np.dstack([x, y + 60, 255 - x]).astype(np.uint8) + rng.integers(0, 4, (120, 200, 1), np.uint8)
        picture = Picture(photo, 1)
        reading = read(picture, recogniser=lambda crops: [("", []) for _ in crops])
        found = formats(picture, reading, Cutout(Rect(0, 0, 200, 120), "image"))
        good = [f for f in found if f.good]
        self.assertEqual([len(f.content) for f in good], sorted(len(f.content) for f in good))
        self.assertEqual({f.name for f in found}, {"png", "webp", "avif", "jpeg"})
        self.assertEqual(next(f.error for f in found if f.name == "png"), 0.0)


class Coverage(unittest.TestCase):
    def test_what_nothing_explains_is_mapped_and_listed(self) -> None:
        picture = canvas([Surface(Rect(50, 50, 200, 100), Fill("#2c6175"))])
        reading = read(picture, recogniser=lambda crops: [("", []) for _ in crops])
        self.assertEqual(unexplained(reading, picture)[1:], (0.0, []))
        spoilt = picture.pixels.copy()
        spoilt[300:320, 400:430] = (192, 69, 42)
        mask, share, places = unexplained(reading, Picture(spoilt, 1))
        self.assertEqual((int(mask.sum()), len(places)), (600, 1))
        self.assertAlmostEqual(share, 600 / spoilt[..., 0].size)
        self.assertTrue(Rect(400, 300, 30, 20).inside(places[0], 1.0))
