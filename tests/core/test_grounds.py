"""Grounds as pages have them: faint gradients under shadows, bands with slanted edges, cards under a panel's wide shadow, rows with
lines between them, and what stands on cards that lie on pictures."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Cutout, Fill, Node, Reading, Rect, Rule, Shadow, Surface
from neige.core.outline import arrange
from neige.core.outline.layout import lay_out
from neige.core.reading import read
from neige.core.reading.surfaces.flat import find_regions
from neige.core.reading.surfaces.free_lines import rulings
from neige.core.reading.surfaces.gradient import find_ramps
from neige.core.reading.surfaces.pictures import drop_faint
from neige.core.reading.surfaces.rectangles import band_part
from neige.core.reading.surfaces.shade import drop_spill
from tests.support import drawn


class Gradients(unittest.TestCase):
    def ground(self, top: tuple[int, ...], bottom: tuple[int, ...], shadows: bool = True) -> np.ndarray:
        """A page 1200 px high in whole steps from one colour to another, with a wide shadow on its left half at most heights."""
        share = (np.arange(1200) / 1199)[:, None, None]
        rows = np.rint(np.array(top) * (1 - share) + np.array(bottom) * share)
        out = np.broadcast_to(rows, (1200, 1000, 3)).copy()
        if shadows:
            fall = np.clip(1 - np.abs(np.arange(1000) - 300) / 180, 0, 1)[None, :, None]
            out[100:1100] -= np.rint(9 * fall)
        return out.astype(np.uint8)

    def test_a_faint_gradient_under_shadows_is_straight_down(self) -> None:
        ramps = [r for r in find_ramps(self.ground((30, 30, 47), (30, 30, 36))) if r.box[2] - r.box[0] > 900]
        self.assertEqual(len(ramps), 1)
        fill = ramps[0].fill((0, 0, 1000, 1200))
        self.assertEqual(fill.angle, 180.0)
        ends = np.array(
            [[int(c[i : i + 2], 16) for i in (1, 3, 5)] for _, c in (fill.stops[0], fill.stops[-1])]
        )
        self.assertLessEqual(np.abs(ends - [(30, 30, 47), (30, 30, 36)]).max(), 1)

    def test_two_flat_halves_are_none(self) -> None:
        halves = self.ground((30, 30, 47), (30, 30, 47))
        halves[600:] -= np.array([0, 0, 8], np.uint8)
        self.assertEqual([r for r in find_ramps(halves) if r.box[2] - r.box[0] > 900], [])


class Bands(unittest.TestCase):
    def slanted(self, ragged: bool = False) -> np.ndarray:
        """The mask (400, 800) of a band whose upper edge rises from row 100 at the left to row 20 at the right."""
        edge = np.linspace(100, 20, 800)
        if ragged:
            edge += np.random.default_rng(2).integers(-12, 13, 800)
        return np.arange(400)[:, None] >= edge[None, :]

    def test_a_band_with_a_slanted_edge_begins_where_it_is_as_wide_as_the_page(self) -> None:
        mask = self.slanted()
        mask = mask[mask.any(axis=1).argmax() :]
        ((x0, y0, x1, y1, filled),) = band_part(mask)
        self.assertEqual((x0, x1, y1), (0, 800, len(mask)))
        self.assertAlmostEqual(y0, 80, delta=1)
        self.assertEqual(filled, 1.0)

    def test_a_ragged_edge_is_a_photos(self) -> None:
        mask = self.slanted(ragged=True)
        self.assertEqual(band_part(mask[mask.any(axis=1).argmax() :]), [])

    def test_what_stands_on_such_a_band_is_on_the_page_and_the_edge_is_a_picture(self) -> None:
        words = "".join(
            f"<p style='margin:0;padding:30px 60px;font:18px/26px \"Liberation Sans\"'>{t}</p>"
            for t in ("Upper Stake reports every hour.", "The ridge is closed from noon on.")
        )
        html = f"""<body style='margin:0'><div style='height:160px;background:#223344'></div>
<div style='background:#e2e8f0;height:420px;position:relative'>{words}
<svg viewBox='0 0 900 60' style='position:absolute;left:0;top:-60px;width:900px;height:60px'><path d='M0 60L900 0V60Z' fill='#e2e8f0'/></svg></div>"""
        found = read(drawn(html, 900)[0])
        band = next(s for s in found.surfaces if s.fill.colour == "#e2e8f0")
        self.assertEqual((band.rect.x, band.rect.w), (0, 900))
        self.assertAlmostEqual(band.rect.y, 160, delta=2)
        pictures = [c.rect for c in found.cutouts if c.kind == "image"]
        self.assertTrue(pictures and all(r.bottom <= 163 for r in pictures), pictures)


class Shade(unittest.TestCase):
    def card(self, edge: int = 250) -> np.ndarray:
        """A dark card from x 240 on, one to three steps darker over its first 24 px, on a ground that is darker still."""
        out = np.full((300, 700, 3), (28, 28, 40), np.uint8)
        out[40:260, 240:640] = (39, 41, 61)
        for k in range(24):
            out[40:260, 240 + k] -= np.array([3 - k // 8] * 3, np.uint8)
        out[:, edge:240] = (38, 40, 60)
        return out

    def card_at(self, pixels: np.ndarray) -> int:
        regions, _, _ = find_regions(pixels, 1)
        return next(r for r in regions if r.colour == (39.0, 41.0, 61.0)).x0

    def test_a_dark_card_begins_at_the_edge_under_a_panels_wide_shadow(self) -> None:
        self.assertEqual(self.card_at(self.card()), 240)

    def test_shade_without_an_edge_is_not_its_own(self) -> None:
        self.assertEqual(self.card_at(self.card(edge=100)), 264)

    def test_the_end_of_a_buttons_shadow_is_no_box(self) -> None:
        ground = Fill("#404040")
        button = Surface(
            Rect(120, 20, 128, 32), Fill("#ffffff"), 4.0, shadow=Shadow(0, 1, 1, 0, "#000000", 0.1)
        )
        spilt = Surface(Rect(117, 18, 134, 38), Fill("#3f3f3f"), 7.0)
        self.assertEqual(drop_spill([spilt, button], ground), [button])
        for kept in (
            Surface(spilt.rect, Fill("#303030"), 7.0),
            Surface(spilt.rect, spilt.fill, 7.0, (1.0,) * 4, "#888888"),
            Surface(spilt.rect.grow(12), spilt.fill, 7.0),
        ):
            self.assertEqual(drop_spill([kept, button], ground), [kept, button])


class Rows(unittest.TestCase):
    ABOVE, BELOW = (Surface(Rect(40, y, 600, 50), Fill(c)) for y, c in ((100, "#fffcf5"), (151, "#ffffff")))

    GROUND = Fill("#f4f3ef")

    def test_a_line_between_two_rows_is_neithers_border(self) -> None:
        def ruled(line: Rule, *rows: Surface) -> int:
            return len(rulings([line], list(rows), self.GROUND))

        line = Rule(Rect(40, 150, 600, 1), "#ccc5b9")
        self.assertEqual(ruled(line, self.ABOVE, self.BELOW), 1)
        self.assertEqual(ruled(line, self.ABOVE), 0, "a row's edge and nothing else")
        self.assertEqual(ruled(Rule(line.rect, "#fffefa"), self.ABOVE, self.BELOW), 0, "their own colour")
        dark = Surface(self.BELOW.rect, Fill("#202020"))
        self.assertEqual(ruled(Rule(line.rect, "#908e8a"), self.ABOVE, dark), 0, "a soft edge")
        lined = Surface(
            self.ABOVE.rect, self.ABOVE.fill, border=(0.0, 0.0, 1.0, 0.0), border_colour="#ccc5b9"
        )
        self.assertEqual(ruled(line, lined, self.BELOW), 0, "it is the upper one's")

    def test_the_line_under_the_last_row_is_like_those_between_rows(self) -> None:
        between, last = (Rule(Rect(40, y, 600, 1), "#ccc5b9") for y in (150, 201))
        other = Rule(last.rect, "#404040")
        rows = [self.ABOVE, self.BELOW]
        self.assertEqual(rulings([between, last], rows, self.GROUND), [between, last])
        self.assertEqual(rulings([between, other], rows, self.GROUND), [between])
        self.assertEqual(rulings([last], rows, self.GROUND), [])

    def test_a_striped_table_keeps_its_lines(self) -> None:
        rows = "".join(
            f"<div style='height:49px;border-top:1px solid #ccc5b9;background:{c}'></div>"
            for c in ("#fffcf5", "#ffffff") * 3
        )
        html = f"<body style='margin:0;background:#f4f3ef'><div style='margin:40px;border:1px solid #eeece7;background:#fff;padding:60px 0 30px'>{rows}</div>"
        found = read(drawn(html, 800)[0])
        lines = {round(r.rect.y) for r in found.rules}
        lines |= {round(s.rect.y) for s in found.surfaces if s.border[0] and s.border_colour == "#ccc5b9"}
        lines |= {
            round(s.rect.bottom - 1) for s in found.surfaces if s.border[2] and s.border_colour == "#ccc5b9"
        }
        self.assertLessEqual({151, 201, 251, 301, 351}, lines)


class Columns(unittest.TestCase):
    BODY = """<style>body{margin:0;font:16px/24px 'Liberation Sans';background:#fff;color:#222}.page{display:flex;min-height:700px}
.side{width:240px;background:#fff;border-right:1px solid #dee2e6}.side b{display:block;padding:16px 20px;background:#f8f9fa;font-weight:400;border-bottom:1px solid #dee2e6}
.side a{display:block;padding:16px;color:#555;text-decoration:none;border-bottom:1px solid #f2f2f2;background:#fefefe}.in{flex:1}
.bar{height:56px;background:#f8f9fa;border-bottom:1px solid #dee2e6;box-sizing:border-box}h1{margin:20px 12px 8px;font-size:40px;line-height:48px;font-weight:400}p{margin:0 12px 16px}</style>
<div class=page><div class=side><b>Firnwatch</b><a href=#>Stations</a><a href=#>Observers</a><a href=#>Bulletins</a><a href=#>Archive</a></div>
<div class=in><div class=bar></div><h1>Upper Stake</h1><p>The station stands on the north side of the ridge, where the wind takes the snow as it comes, and what is left is measured at eight.</p><p>Every reading is sent to the hut below and from there to the valley.</p></div></div>"""

    def test_a_border_that_is_also_the_column_befores_lies_on_it(self) -> None:
        def inset(x: float, border: float) -> float:
            card = Surface(
                Rect(x, 57, 1440 - x, 400),
                Fill("#ffffff"),
                border=(0.0, 0.0, 0.0, border),
                border_colour="#dee2e6",
            )
            bar = Node(
                "block", Rect(241, 0, 1199, 57), surface=Surface(Rect(241, 0, 1199, 57), Fill("#f8f9fa"))
            )
            node = Node("block", card.rect, surface=card)
            column = Node("block", Rect(241, 0, 1199, 457), children=[bar, node])
            lay_out(
                column, Reading(1440, 500, 1, Fill("#ffffff"), (card,), (), (), (), (), (), 0.0), 241, 1440
            )
            return node.inset

        self.assertEqual(inset(240, 1.0), -1.0)
        self.assertEqual(inset(240, 0.0), 0.0)
        self.assertEqual(inset(241, 1.0), 0.0)

    def test_a_page_of_columns_is_as_high_as_its_content(self) -> None:
        found, _ = drawn(
            self.BODY.replace("min-height:700px", "height:520px") + "<div style='height:300px'></div>", 1200
        )
        outline = arrange(read(found), [])
        grid = next(n for n in outline.root.walk() if n.attributes.get("page"))
        self.assertGreaterEqual(grid.rect.bottom, max(c.rect.bottom for c in grid.children))


class OnPictures(unittest.TestCase):
    def test_a_disc_on_a_card_on_a_picture_is_the_cards(self) -> None:
        rng = np.random.default_rng(11)
        pixels, _ = drawn(
            """<body style='margin:0;background:#fff'><div style='height:420px'></div><div style='position:absolute;left:60px;top:90px;width:300px;height:220px;background:#fff;border-radius:8px'>
<div style='margin:24px auto 0;width:48px;height:48px;border-radius:24px;background:#d03030'></div>
<p style="margin:20px;text-align:center;font:17px/24px 'Liberation Sans';color:#222">Snow on the ridge and wind from the west</p></div>""",
            800,
        )
        photo = np.kron(rng.integers(20, 230, (44, 101, 3)), np.ones((10, 8, 1)))[:420, :800]
        photo = np.clip(photo + rng.integers(-12, 13, photo.shape), 0, 255).astype(np.uint8)
        whole = pixels.pixels.copy()
        card = np.zeros(whole.shape[:2], bool)
        card[90:310, 60:360] = True
        whole[:420][~card[:420]] = photo[~card[:420]]
        found = read(type(pixels)(whole, 1))
        discs = [s for s in found.surfaces if s.fill.colour == "#d03030"]
        self.assertEqual([(round(s.rect.x), round(s.rect.w)) for s in discs], [(186, 48)])

    def test_a_faint_pattern_that_words_reach_into_covers_none_of_them(self) -> None:
        pixels = np.full((200, 400, 3), 255, np.uint8)
        pixels[20:180:9, 20:120] = pixels[20:180, 20:120:9] = 248
        pattern = Cutout(Rect(20, 20, 100, 160), "image")
        inside, across, outside = Rect(30, 60, 60, 16), Rect(90, 60, 70, 16), Rect(200, 60, 60, 16)
        for words, left in (([inside], 1), ([outside], 1), ([inside, across], 0)):
            self.assertEqual(len(drop_faint([pattern], pixels, words, 1)), left)
        pixels[40:44, 30:110] = 120
        self.assertEqual(len(drop_faint([pattern], pixels, [across], 1)), 1, "it can be seen")


if __name__ == "__main__":
    unittest.main()
