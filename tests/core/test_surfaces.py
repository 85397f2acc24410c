"""Painted surfaces read back as what was painted."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.intake import open_picture
from neige.core.model import Fill, Picture, Rect, Rule, Shadow, Surface
from neige.core.reading.colour import from_hex
from neige.core.reading.paint import paint, paint_rule
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.cards import join_alike
from neige.core.reading.surfaces.flat import find_regions
from neige.core.reading.surfaces.framed import frame_up
from neige.core.reading.surfaces.rectangles import fit_rectangle, rounded_mask
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.recognise import recognise
from tests.support import drawn, encode, png


def canvas(
    surfaces: list[Surface],
    rules: list[Rule] = (),
    ground: str = "#f2f6f9",
    w: int = 600,
    h: int = 400,
    scale: int = 1,
) -> Picture:  # type: ignore[assignment]
    out = np.zeros((h * scale, w * scale, 3), np.float32)
    paint(out, Surface(Rect(0, 0, w, h), Fill(ground)), scale)
    for s in surfaces:
        paint(out, s, scale)
    for r in rules:
        paint_rule(out, r, scale)
    return Picture(np.rint(out).astype(np.uint8), scale)


class Painting(unittest.TestCase):
    def test_a_box_is_painted_as_its_whole_mask_says(self) -> None:
        """The middle of a tall box is painted without a mask; so must it look as if with one."""
        for radius, corners in ((9.0, None), (2.5, None), (40.0, None), (0.0, (12.0, 0.0, 3.0, 20.0))):
            for y in (-15.0, 6.0, 50.0):
                with self.subTest(radius=radius, corners=corners, y=y):
                    box = Surface(Rect(7, y, 60, 70), Fill("#204060"), radius, corners=corners)
                    found = np.full((100, 80, 3), 255.0, np.float32)
                    paint(found, box, 1)
                    mask = np.zeros((200, 80), np.float32)
                    mask[int(y) + 50 : int(y) + 120, 7:67] = rounded_mask(70, 60, corners or radius)
                    wanted = 255 + mask[50:150, :, None] * (np.array([0x20, 0x40, 0x60]) - 255.0)
                    self.assertLess(float(np.abs(found - wanted).max()), 0.01)


class Inner(unittest.TestCase):
    def test_an_inner_shadow_is_read_as_it_was_painted(self) -> None:
        for blur, opacity in ((3, 0.16), (4, 0.3)):
            with self.subTest(blur):
                field = Surface(
                    Rect(100, 100, 300, 44),
                    Fill("#ffffff"),
                    4.0,
                    (1.0,) * 4,
                    "#b8c2cb",
                    inner=Shadow(0, 1, blur, 0, "#000000", opacity),
                )
                found = [s for s in read_surfaces(canvas([field], ground="#ffffff"), []).surfaces if s.inner]
                self.assertEqual([s.rect for s in found], [field.rect])
                seen = found[0].inner
                assert seen
                self.assertEqual((seen.dx, seen.dy, seen.spread), (0, 1, 0))
                self.assertAlmostEqual(seen.blur, blur, delta=1.5)
                self.assertAlmostEqual(seen.opacity, opacity, delta=0.06)

    def test_a_plain_field_has_none(self) -> None:
        field = Surface(Rect(100, 100, 300, 44), Fill("#ffffff"), 4.0, (1.0,) * 4, "#b8c2cb")
        self.assertFalse(
            [s for s in read_surfaces(canvas([field], ground="#ffffff"), []).surfaces if s.inner]
        )

    def test_the_ground_that_shows_beside_a_knob_is_no_border_of_it(self) -> None:
        track = Surface(Rect(100, 100, 40, 22), Fill("#aab4bd"), 11.0)
        knob = Surface(Rect(103, 103, 16, 16), Fill("#ffffff"), 8.0)
        found = read_surfaces(canvas([track, knob], ground="#ffffff"), []).surfaces
        self.assertEqual([(s.rect, s.border) for s in found], [(s.rect, (0.0,) * 4) for s in (track, knob)])


class Flat(unittest.TestCase):
    def test_a_radius_is_read_within_half_a_px(self) -> None:
        for radius in (0, 3, 4, 6, 8, 12, 16, 24, 32):
            with self.subTest(radius):
                mask = rounded_mask(90, 200, radius) > 0.998
                self.assertAlmostEqual(fit_rectangle(mask) or 0.0, radius, delta=0.6)

    def test_content_does_not_change_the_outline(self) -> None:
        mask = rounded_mask(120, 200, 8) > 0.998
        mask[30:60, 20:150] = False
        self.assertAlmostEqual(fit_rectangle(mask) or 0.0, 8, delta=0.6)

    def test_a_letter_is_no_rectangle(self) -> None:
        mask = np.zeros((30, 24), bool)
        mask[:, :5] = mask[:5] = mask[-5:] = True
        mask[0, 20:] = False
        self.assertIsNone(fit_rectangle(mask[:, :18] & (np.arange(18) < 16)))

    def test_regions_come_largest_first(self) -> None:
        p = canvas(
            [Surface(Rect(50, 50, 200, 100), Fill("#ffffff")), Surface(Rect(60, 60, 40, 30), Fill("#c0452a"))]
        )
        regions, _, _ = find_regions(p.pixels, 1)
        areas = [r.area for r in regions]
        self.assertEqual(areas, sorted(areas, reverse=True))


class PaintedBack(unittest.TestCase):
    def assert_same(self, expected: Surface, picture: Picture) -> None:
        found = read_surfaces(picture, []).surfaces
        best = max(found, key=lambda s: s.rect.iou(expected.rect), default=None)
        self.assertIsNotNone(best)
        assert best is not None
        for a, b in zip(
            (best.rect.x, best.rect.y, best.rect.right, best.rect.bottom),
            (expected.rect.x, expected.rect.y, expected.rect.right, expected.rect.bottom),
        ):
            self.assertAlmostEqual(a, b, delta=0.51)
        self.assertEqual(best.fill.colour, expected.fill.colour)
        self.assertAlmostEqual(best.radius, expected.radius, delta=1)
        self.assertEqual(best.border, expected.border)
        if any(expected.border):
            self.assertEqual(best.border_colour, expected.border_colour)

    def test_cards_with_and_without_borders_at_1x_and_2x(self) -> None:
        for scale in (1, 2):
            for surface in (
                Surface(Rect(40, 60, 300, 160), Fill("#ffffff")),
                Surface(Rect(40, 60, 300, 160), Fill("#ffffff"), 12.0),
                Surface(Rect(40, 60, 300, 160), Fill("#ffffff"), 8.0, (1.0, 1.0, 1.0, 1.0), "#c3ced6"),
                Surface(Rect(40, 60, 300, 160), Fill("#ffffff"), 0.0, (2.0, 2.0, 2.0, 2.0), "#23607a"),
                Surface(Rect(40, 60, 160, 40), Fill("#c0452a"), 20.0),
            ):
                with self.subTest(scale=scale, surface=surface):
                    self.assert_same(surface, canvas([surface], scale=scale))

    def test_a_white_card_on_a_white_page_is_found_by_its_border(self) -> None:
        card = Surface(Rect(40, 60, 300, 160), Fill("#ffffff"), 6.0, (1.0, 1.0, 1.0, 1.0), "#c3ced6")
        self.assert_same(card, canvas([card], ground="#ffffff"))

    def test_a_shadow_is_read_from_its_fall_off(self) -> None:
        html = "<style>body{margin:0;background:#fff}div{margin:60px;width:300px;height:160px;background:#fff;border-radius:8px;box-shadow:0 4px 16px rgb(0 0 0/20%)}</style><div></div>"
        picture, _ = drawn(html, 480)
        card = read_surfaces(picture, []).surfaces[0]
        self.assertIsNotNone(card.shadow)
        assert card.shadow is not None
        self.assertAlmostEqual(card.shadow.dy, 4, delta=1)
        self.assertAlmostEqual(card.shadow.blur, 16, delta=4)
        self.assertAlmostEqual(card.shadow.opacity, 0.2, delta=0.06)

    def test_a_wide_shadow_on_a_gradient_is_read_and_is_no_picture(self) -> None:
        html = "<style>body{margin:0;height:520px;background:linear-gradient(180deg,#4e73df,#224abe)}div{position:absolute;left:150px;top:90px;width:420px;height:260px;background:#fff;box-shadow:0 16px 48px rgb(0 0 0/17.5%)}</style><div></div>"
        picture, _ = drawn(html, 720)
        found = read_surfaces(picture, [])
        self.assertEqual(found.cutouts, ())
        card = next(s for s in found.surfaces if s.fill.colour == "#ffffff")
        self.assertEqual(card.rect, Rect(150, 90, 420, 260))
        assert card.shadow is not None
        self.assertAlmostEqual(card.shadow.dy, 16, delta=4)
        self.assertAlmostEqual(card.shadow.blur, 48, delta=12)

    def test_a_pill_has_its_border_all_round(self) -> None:
        html = "<style>body{margin:40px;background:#fff}div{box-sizing:border-box;width:345px;height:50px;border:1px solid #d1d3e2;border-radius:25px}p{margin:20px 0;width:345px;height:45.2px;border-radius:99px;background:#ea4335}</style><div></div><p></p>"
        picture, _ = drawn(html, 480)
        field, button = sorted(read_surfaces(picture, []).surfaces, key=lambda s: s.rect.y)[:2]
        self.assertEqual((field.rect, field.border), (Rect(40, 40, 345, 50), (1, 1, 1, 1)))
        self.assertGreaterEqual(field.radius, 24)
        self.assertEqual((button.fill.colour, button.border), ("#ea4335", (0, 0, 0, 0)))
        self.assertAlmostEqual(button.rect.w, 345, delta=2)

    def test_lines_around_a_cards_picture_are_its_border(self) -> None:
        body = Surface(Rect(511, 1601, 418, 73), Fill("#1f2937"))
        frame = [Rule(Rect(511, 1330, 1, 336), "#25384f"), Rule(Rect(928, 1330, 1, 336), "#25384f")]
        top = [Rule(Rect(519, 1322, 34, 1), "#25384f"), Rule(Rect(554, 1322, 367, 1), "#25384f")]
        other = Rule(Rect(40, 1200, 1, 200), "#25384f")
        surfaces, rules = frame_up([body], [*frame, *top, other])
        self.assertEqual(rules, [other])
        self.assertEqual(surfaces[0].rect, Rect(511, 1322, 418, 352))
        self.assertEqual((surfaces[0].border, surfaces[0].radius), ((1, 1, 1, 1), 8))
        self.assertEqual(frame_up([body], [frame[0], *top]), ([body], [frame[0], *top]))

    def test_a_bar_and_a_sidebar_of_one_colour_are_two_surfaces(self) -> None:
        html = "<style>body{margin:0;background:#fff;height:700px}header{height:56px;background:#212529}aside{width:180px;height:500px;background:#212529}</style><header></header><aside></aside>"
        picture, _ = drawn(html, 900)
        found = read_surfaces(picture, [])
        self.assertEqual({s.rect for s in found.surfaces}, {Rect(0, 0, 900, 56), Rect(0, 56, 180, 500)})
        self.assertEqual(found.cutouts, ())

    def test_a_picture_beside_its_cards_words_is_in_the_card(self) -> None:
        rng = np.random.default_rng(4)
        page = np.full((400, 700, 3), (242, 246, 249), np.uint8)
        page[60:340, 100:600] = 255
        page[60:340, 100:350] = rng.integers(0, 255, (280, 250, 3))
        found = read_surfaces(Picture(page, 1), [])
        self.assertIn(Rect(100, 60, 500, 280), [s.rect for s in found.surfaces])
        self.assertEqual([c.rect for c in found.cutouts], [Rect(100, 60, 250, 280)])

    def test_a_gradient_keeps_its_angle_and_ends(self) -> None:
        for angle in (0, 90, 180, 135):
            with self.subTest(angle):
                html = f"<style>body{{margin:0;background:#fff}}div{{margin:40px;width:400px;height:240px;background:linear-gradient({angle}deg,#20405a,#6fb2c8)}}</style><div></div>"
                picture, _ = drawn(html, 480)
                found = [s for s in read_surfaces(picture, []).surfaces if s.fill.stops]
                self.assertEqual(len(found), 1)
                fill = found[0].fill
                turned = (fill.angle - angle) % 360
                stops = fill.stops if turned < 5 or turned > 355 else fill.stops[::-1]
                self.assertIn(round(turned) % 180, range(-3, 4))
                for (_, got), want in zip((stops[0], stops[-1]), ("#20405a", "#6fb2c8")):
                    np.testing.assert_allclose(from_hex(got), from_hex(want), atol=6)

    def test_a_radial_gradient_keeps_its_centre_and_reach(self) -> None:
        html = "<style>body{margin:0;background:#fff}div{margin:40px;width:400px;height:240px;background:radial-gradient(circle at 25% 50%,#9fc3d1,#20405a)}</style><div></div>"
        picture, _ = drawn(html, 480)
        found = [s for s in read_surfaces(picture, []).surfaces if s.fill.stops]
        self.assertEqual([s.rect for s in found], [Rect(40, 40, 400, 240)])
        fill = found[0].fill
        assert fill.centre is not None
        np.testing.assert_allclose(fill.centre, (0.25, 0.5), atol=0.01)
        reach = np.hypot(300, 120)  # to the farthest corner
        np.testing.assert_allclose((fill.radii[0] * 400, fill.radii[1] * 240), (reach, reach), rtol=0.03)
        for (_, got), want in zip((fill.stops[0], fill.stops[-1]), ("#9fc3d1", "#20405a")):
            np.testing.assert_allclose(from_hex(got), from_hex(want), atol=4)

    def test_a_card_goes_on_behind_the_band_that_divides_it(self) -> None:
        css = (
            "body{margin:0;background:#222}.card{width:400px;margin:20px;background:#fff;border-radius:8px;overflow:hidden}"
            ".card *{height:120px}.band{background:#f0f2f4}"
        )
        for band, count in (("band", 2), ("", 1)):
            card = f'<div class="card"><p style="margin:0"></p><div class="{band}"></div><div></div></div>'
            found = read_surfaces(drawn(f"<style>{css}</style>{card}", 480)[0], [])
            self.assertEqual(len(found.surfaces), count)
            self.assertEqual(found.surfaces[0].rect, Rect(20, 20, 400, 360))
            self.assertAlmostEqual(found.surfaces[0].radius, 8, delta=0.6)

    def test_two_cards_of_one_fill_and_one_of_another_between_them_stay_three(self) -> None:
        css = "body{margin:0;background:#222}div{width:400px;height:120px;margin:0 20px 4px;background:#fff}.b{background:#f0f2f4}"
        found = read_surfaces(
            drawn(f"<style>{css}</style><div></div><div class='b'></div><div></div>", 480)[0], []
        )
        self.assertEqual(len(found.surfaces), 3)

    def test_a_tint_above_and_below_a_white_band_is_the_page_and_a_head_and_a_foot_are_not(self) -> None:
        css = "body{{margin:0}}div{{height:{}px;background:#f2f4f6}}p{{margin:0;height:400px;background:#fff}}footer{{height:{}px;background:#f2f4f6}}"
        for head, foot, ground in ((100, 700, "#f2f4f6"), (500, 200, "#ffffff")):
            page = f"<style>{css.format(head, foot)}</style><div></div><p></p><footer></footer>"
            self.assertEqual(read_surfaces(drawn(page, 480)[0], []).background.colour, ground)

    def test_a_tint_in_several_bands_of_a_white_page_is_theirs(self) -> None:
        css = "body{margin:0}div,p{margin:0;width:480px;background:#f2f4f6}"
        parts = (
            ("div", 100, ""),
            ("div", 200, "#223344"),
            ("div", 300, ""),
            ("p", 900, "#fff"),
            ("div", 700, ""),
        )
        body = "".join(
            f"<{tag} style='height:{high}px;background:{fill}'></{tag}>" for tag, high, fill in parts
        )
        self.assertEqual(
            read_surfaces(drawn(f"<style>{css}</style>{body}", 480)[0], []).background.colour, "#ffffff"
        )

    def test_rules_are_told_from_surfaces(self) -> None:
        rule = Rule(Rect(40, 200, 400, 1), "#c3ced6")
        found = read_surfaces(canvas([], [rule], ground="#ffffff"), [])
        self.assertEqual([r.rect for r in found.rules], [rule.rect])
        self.assertEqual(found.surfaces, ())

    def test_what_is_not_explained_is_cut_out(self) -> None:
        pixels = np.full((400, 600, 3), 255, np.uint8)
        rng = np.random.default_rng(3)
        pixels[80:240, 100:340] = rng.integers(0, 255, (160, 240, 3))
        found = read_surfaces(open_picture(png(pixels), "x"), [])
        self.assertEqual(len(found.cutouts), 1)
        self.assertGreater(found.cutouts[0].rect.iou(Rect(100, 80, 240, 160)), 0.97)
        self.assertLess(found.unexplained, 0.001)

    def test_compression_noise_does_not_break_flat_fills(self) -> None:
        card = Surface(Rect(80, 60, 300, 200), Fill("#23607a"))
        picture = open_picture(encode(canvas([card], ground="#ffffff").pixels, "JPEG", quality=80), "x")
        found = max(read_surfaces(picture, []).surfaces, key=lambda s: s.rect.iou(card.rect))
        self.assertGreater(found.rect.iou(card.rect), 0.95)

    def test_a_compressed_gradient_with_a_dark_panel_across_it_is_one_surface(self) -> None:
        card = Surface(Rect(80, 60, 300, 200), Fill("#55798a", 180.0, ((0.0, "#2c6175"), (1.0, "#9fc3d1"))))
        bar = Surface(
            Rect(110, 90, 240, 50), Fill("#1f2d38")
        )  # its blue lies on the border of two bins of a histogram
        seen = canvas([card, bar], ground="#f4f6f8")
        picture = open_picture(encode(seen.pixels, "JPEG", quality=80), "x")
        found = read_surfaces(picture, []).surfaces
        for wanted in (card, bar):
            best = max(found, key=lambda s: s.rect.iou(wanted.rect))
            self.assertGreater(best.rect.iou(wanted.rect), 0.93)
            self.assertEqual(bool(best.fill.stops), bool(wanted.fill.stops))

    def test_one_colour_is_a_page_with_nothing_on_it(self) -> None:
        found = read_surfaces(open_picture(png(np.full((300, 400, 3), 77, np.uint8)), "x"), [])
        self.assertEqual((found.surfaces, found.cutouts, found.background.colour), ((), (), "#4d4d4d"))


class Small(unittest.TestCase):
    """Rings, pieces of one fill, and outlines round words, as a browser draws them."""

    def test_an_empty_choice_is_a_ring_with_its_own_size(self) -> None:
        html = (
            "<body style='margin:40px;background:#fff'>"
            "<div style='width:16px;height:16px;box-sizing:border-box;border:1px solid #00000040;border-radius:{r}'></div>"
        )
        for radius, seen in (("50%", 8.0), ("4px", 4.0)):
            with self.subTest(radius):
                picture, _ = drawn(html.format(r=radius), 300)
                found = [s for s in read_surfaces(picture, []).surfaces if s.rect.w < 30]
                self.assertEqual(
                    [(s.rect.x, s.rect.y, s.rect.w, s.rect.h) for s in found], [(40, 40, 16, 16)]
                )
                self.assertAlmostEqual(found[0].radius, seen, delta=1.6)
                self.assertTrue(all(found[0].border))

    def test_pieces_of_one_fill_are_one_box(self) -> None:
        pieces = [
            Surface(Rect(100, 100, 82, 60), Fill("#f8997f"), 29.0),
            Surface(Rect(182, 100, 254, 60), Fill("#f7987e")),
            Surface(Rect(436, 100, 250, 60), Fill("#f8997f"), 29.0),
        ]
        whole = join_alike(pieces)
        self.assertEqual([(s.rect, s.radius) for s in whole], [(Rect(100, 100, 586, 60), 29.0)])
        apart = [pieces[0], Surface(Rect(182, 100, 254, 60), Fill("#e06040"))]
        self.assertEqual(len(join_alike(apart)), 2)

    def test_the_outline_of_a_button_is_no_ink_of_its_words(self) -> None:
        html = (
            "<body style='margin:40px;background:#fff;font:14px \"DejaVu Sans\"'><span style='display:inline-block;"
            "padding:4px 9px;border:1px solid #6c757d;border-radius:4px;color:#6c757d'>Sign up</span>"
        )
        picture, drawing = drawn(html, 300)
        box = (38.0, 38.0, 40 + drawing.boxes[0].rect.w + 2, 40 + drawing.boxes[0].rect.h + 2)
        lines, _ = read_lines(picture.pixels, [box], recognise, 0.0)
        self.assertEqual([n.text for n in lines], ["Sign up"])
        self.assertLess(lines[0].box[3] - lines[0].box[1], 18)

    def test_a_chevron_after_a_word_is_an_icon_of_its_own(self) -> None:
        html = (
            "<body style='margin:40px;background:#fff;font:14px \"DejaVu Sans\"'>Stations"
            "<svg width=8 height=5 style='margin-left:8px;vertical-align:middle'><path d='M.5.5 4 4 7.5.5' fill=none stroke='#222'/></svg>"
        )
        picture, drawing = drawn(html, 300)
        word = drawing.words[0].rect
        ground = read_surfaces(picture, [Rect(word.x, word.y + 2, word.w, word.h - 4)])
        self.assertEqual([(c.kind, c.rect.w > c.rect.h) for c in ground.cutouts], [("icon", True)])


if __name__ == "__main__":
    unittest.main()
