"""Things that lie across others, cards that lines cut, bars on tracks, badges with a letter, fields with a key, side panels."""

from __future__ import annotations

import unittest
from dataclasses import replace

import cv2
import numpy as np

from neige.core.intake import open_picture
from neige.core.intake.decode import estimate_noise
from neige.core.model import Cutout, Fill, Node, Rect, Rule, Shadow, Surface
from neige.core.outline import arrange
from neige.core.outline.floats import find_floats
from neige.core.outline.table_rows import column_bounds, without_caption
from neige.core.reading import _without_cut_lines, read
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.discs import find_discs
from neige.core.reading.surfaces.flat import Region
from neige.core.reading.surfaces.flatten import flatten
from neige.core.reading.surfaces.gradient import find_ramps
from neige.core.reading.surfaces.layers import in_layers
from neige.core.reading.surfaces.piles import pile_up, without_own_shade
from neige.core.reading.surfaces.rules import find_rules
from neige.core.reading.surfaces.tracks import complete_tracks, thin_tracks
from neige.core.reading.text.part import part_lines
from neige.core.writer import write
from tests.core.test_menus import prose, words
from tests.core.test_outline import STYLES, line, reading
from tests.core.test_part import wide
from tests.core.test_structure import PROSE, page, tagged
from tests.core.test_surfaces import canvas
from tests.support import drawn, png

GREY, WHITE = "#eceff2", "#ffffff"


def boxes(n: Node) -> list[tuple[float, float]]:
    return [(round(c.rect.y), round(c.rect.bottom)) for c in n.walk() if c.surface is not None]


def speckle(w: int, h: int, seed: int = 3) -> np.ndarray:
    """(h, w, 3) uint8: rock and snow, nowhere flat."""
    rough = np.random.default_rng(seed).normal(0, 1, (h, w, 3))
    return np.clip(120 + 260 * cv2.GaussianBlur(rough, (0, 0), 3) + 12 * rough, 0, 255).astype(np.uint8)


class Across(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        shot = np.full((900, 1200, 3), 236, np.uint8)
        shot[:300] = speckle(1200, 300)
        shot[240:840, 40:1160] = 255
        y, x = np.mgrid[:900, :1200] + 0.5
        face = np.hypot(x - 600, y - 240) <= 70
        shot[face] = speckle(1200, 900, 7)[face] // 2
        cls.picture = open_picture(png(shot), "profile.png")
        cls.found = read(cls.picture)

    def test_a_photo_ends_where_it_is_seen_to_end_beside_the_card(self) -> None:
        self.assertEqual(self.found.background.colour, "#ececec")
        photos = [c.rect for c in self.found.cutouts if c.rect.w > 600]
        self.assertEqual([(r.x, r.y, r.right, r.bottom) for r in photos], [(0, 0, 1200, 300)])
        card = max(self.found.surfaces, key=lambda s: s.rect.area)
        self.assertEqual((card.fill.colour, card.rect), (WHITE, Rect(40, 240, 1120, 600)))

    def test_a_round_picture_across_both_is_whole(self) -> None:
        (face,) = [c for c in self.found.cutouts if c.radius]
        self.assertAlmostEqual(face.radius, 70, delta=0.5)
        self.assertGreater(face.rect.iou(Rect(530, 170, 140, 140)), 0.98)

    def test_it_is_part_of_the_card_and_stands_above_its_edge(self) -> None:
        root = arrange(self.found).root
        card = next(n for n in root.walk() if n.surface and n.surface.fill.colour == WHITE)
        face = next(n for n in card.walk() if n.kind == "image")
        self.assertEqual((round(face.rect.y), face.gap < 0), (170, True))

    def test_half_a_square_is_no_disc(self) -> None:
        solid, under = np.zeros((200, 200), bool), np.zeros((200, 200), bool)
        solid[:160, 40:160] = True
        under[80:] = True
        pixels = np.where(solid[..., None], 40, 255).astype(np.uint8).repeat(3, axis=2)
        self.assertEqual(find_discs(solid, under, pixels, 1), [])
        slanting = np.tril(np.triu(np.ones((200, 200), bool), -20), 20)
        self.assertEqual(find_discs(slanting, under, pixels, 1), [])
        self.assertEqual(find_discs(solid, np.zeros_like(under), pixels, 1), [])


class Layers(unittest.TestCase):
    PANEL = Surface(Rect(20, 20, 560, 120), Fill("#e2719c"))
    CARD = Surface(Rect(60, 90, 480, 280), Fill(WHITE))

    def test_what_is_seen_where_two_meet_is_in_front(self) -> None:
        for shown in ([self.PANEL, self.CARD], [self.CARD, self.PANEL]):
            self.assertEqual(in_layers([self.PANEL, self.CARD], canvas(shown).pixels, 1), shown)

    def test_words_on_both_belong_to_the_one_in_front(self) -> None:
        card = "<div style='height:160px;background:#2f6f8f'></div><div style='position:relative;margin:-60px 40px 0;padding:12px 24px;background:#eaf1f5;height:340px'><p>Lantern Hut reports every morning</p></div>"
        _, outline, _ = page(f"<main><h1>Stations</h1>{card}{PROSE}</main>")
        on = [n for n in outline.root.walk() if n.surface and n.surface.fill.colour == "#eaf1f5"]
        self.assertIn("Lantern Hut reports every morning", words(on[-1]))
        self.assertEqual(round(on[-1].gap), -60)

    def test_words_stay_on_what_lies_over_the_card_below_it(self) -> None:
        panel, card = (
            Surface(Rect(80, 60, 720, 160), Fill("#2f6f8f")),
            Surface(Rect(40, 160, 800, 340), Fill("#eaf1f5")),
        )
        words_on_both = line("Lantern Hut", 120, 190)
        for layers, colour in (((card, panel), "#2f6f8f"), ((panel, card), "#eaf1f5")):
            root = arrange(reading([words_on_both, *prose(260, 3, 120)], list(layers))).root
            (host,) = [
                n for n in root.walk() if n.surface and n.surface.fill.colour == colour and n.tag != "body"
            ]
            self.assertIn("Lantern Hut", words(host), colour)

    def test_a_mark_on_a_cards_side_floats(self) -> None:
        card = Node("block", Rect(100, 100, 700, 600), surface=Surface(Rect(100, 100, 700, 600), Fill(WHITE)))
        marks = [
            Node("image", r, tag="img", cutout=0) for r in (Rect(790, 300, 30, 30), Rect(802, 500, 12, 40))
        ]
        inner = Node("image", Rect(820, 300, 30, 30), tag="img", cutout=0)
        got = find_floats([card, *marks, inner], Rect(0, 0, 1440, 900))
        self.assertEqual([n.rect for n in got], [m.rect for m in marks])


class Lossless(unittest.TestCase):
    @staticmethod
    def dithered(seed: int = 2) -> np.ndarray:
        x = np.mgrid[:600, :900][1]
        ramp = 232 + 14 * (x / 900) + np.random.default_rng(seed).random((600, 900))
        return np.repeat(ramp.astype(np.uint8)[..., None], 3, axis=2)

    def test_a_dithered_gradient_round_a_flat_card_is_no_noise(self) -> None:
        shot = self.dithered()
        self.assertGreater(estimate_noise(shot), 0)
        shot[100:500, 200:700] = 255
        self.assertEqual(estimate_noise(shot), 0)
        noisy = np.clip(shot + np.random.default_rng(1).normal(0, 1.5, shot.shape), 0, 254).astype(np.uint8)
        self.assertGreater(estimate_noise(noisy), 0)

    def test_a_line_in_a_gradients_colour_far_from_it_is_none_of_it(self) -> None:
        x = np.mgrid[:600, :900][1]
        shot = np.repeat((225 + 20 * x / 900).astype(np.uint8)[..., None], 3, axis=2)
        shot[100:500, 200:700] = 255
        shot[200:230, 240:660] = 235
        shot[201:229, 241:659] = 255
        working, _ = flatten(shot, find_ramps(shot), shot)
        self.assertEqual(working[200, 300].tolist(), [235] * 3)
        self.assertNotEqual(working[50, 300].tolist(), shot[50, 300].tolist())


class Cut(unittest.TestCase):
    def pile(self, colours: list[tuple[float, float, float]], x: int = 100, w: int = 400) -> list[Region]:
        return [Region(x, 50 + 61 * i, x + w, 110 + 61 * i, 4.0, c, 0.9) for i, c in enumerate(colours)]

    def shot(self, regions: list[Region], sides: bool = False) -> np.ndarray:
        out = np.full((500, 900, 3), (236, 239, 242), np.uint8)
        for r in regions:
            out[r.y0 - 1 : r.y1 + 1, r.x0 - sides : r.x1 + sides] = 205
            out[r.y0 : r.y1, r.x0 : r.x1] = r.colour
        return out

    def piled(self, regions: list[Region], sides: bool = False) -> list[Region]:
        return pile_up(regions, self.shot(regions, sides), Fill(GREY), 900, 1)

    def test_head_rows_and_foot_are_one_card_and_a_tinted_foot_stays(self) -> None:
        white, foot = (255.0,) * 3, (247.0, 248.0, 249.0)
        card, kept = self.piled(self.pile([white, white, foot]))
        self.assertEqual((card.y0, card.y1, card.radius, card.colour), (50, 232, 4.0, white))
        self.assertEqual((kept.colour, kept.radius), (foot, 0.0))

    def test_framed_entries_cells_and_two_colours_are_no_card(self) -> None:
        white = (255.0,) * 3
        rows = self.pile([white] * 3)
        self.assertEqual(self.piled(rows, sides=True), rows)
        cells = [*rows, *self.pile([white] * 3, 502, 300)]
        self.assertEqual(self.piled(cells), cells)
        two = self.pile([white, (20.0, 90.0, 160.0)])
        self.assertEqual(self.piled(two), two)

    def test_a_foot_casts_no_shadow_of_its_own(self) -> None:
        _, rows, _ = page(
            "<main><h1>Stations</h1><div style='background:#fff;box-shadow:0 2px 6px rgba(0,0,0,.3);margin:20px'><p style='margin:0;padding:20px;border-bottom:1px solid #ccd'>Open</p><p style='margin:0;padding:20px'>Closed</p></div></main>"
        )
        self.assertTrue(any(n.surface and n.surface.shadow for n in rows.root.walk()))
        card = Surface(Rect(10, 10, 300, 200), Fill(WHITE), shadow=shade(4))
        foot = Surface(Rect(10, 150, 300, 60), Fill("#f7f8f9"), shadow=shade(9))
        inner = Surface(Rect(40, 30, 100, 60), Fill("#f7f8f9"), shadow=shade(9))
        got = without_own_shade([card, foot, inner])
        self.assertEqual([s.shadow is not None for s in got], [True, False, True])

    def test_where_a_soft_shadow_begins_beside_a_small_box_is_no_border(self) -> None:
        box = Surface(Rect(40, 40, 32, 32), Fill(WHITE), 8.0, shadow=Shadow(0, 4, 6, -1, "#141414", 0.14))
        found = read_surfaces(canvas([box], ground="#f8f9fa"), [])
        (got,) = found.surfaces
        self.assertEqual((got.rect, any(got.border), got.shadow is not None), (box.rect, False, True))
        framed = Surface(Rect(40, 40, 32, 32), Fill(WHITE), 0.0, (0.0, 1.0, 0.0, 1.0), "#c8ced3")
        (kept,) = read_surfaces(canvas([framed], ground="#f8f9fa"), []).surfaces
        self.assertEqual(kept.border, (0.0, 1.0, 0.0, 1.0))

    def test_the_track_beside_a_bar_is_found_with_its_inner_shadow(self) -> None:
        bar = Surface(Rect(40, 40, 120, 8), Fill("#2c6175"))
        shot = canvas([Surface(Rect(0, 0, 600, 400), Fill(WHITE))]).pixels.copy()
        for row, grey in zip(range(40, 48), (220, 227, 231, 233, 233, 233, 233, 232)):
            shot[row, 40:340] = grey
        shot[40:48, 40:160] = (44, 97, 117)
        track = next(s for s in complete_tracks([bar], [], shot, 1) if s is not bar)
        self.assertEqual((track.rect, track.fill.colour), (Rect(40, 40, 300, 8), "#e9e9e9"))
        self.assertIsNotNone(track.inner)
        plain = canvas([bar], ground=WHITE).pixels
        self.assertEqual(complete_tracks([bar], [], plain, 1), [bar], "there is only ground beside it")

    def thin(self, *ends: tuple[int, str]) -> tuple[list[Surface], list[Rule]]:
        """What a line of 3 px is read as that is drawn from 40 px on, in parts up to these places in these colours."""
        start, parts = 40, []
        for end, colour in ends:
            parts.append(Surface(Rect(start, 60, end - start, 3), Fill(colour)))
            start = end
        shot = canvas(parts, ground=WHITE).pixels.copy()
        return thin_tracks([], find_rules(shot, 1), shot, 1)

    def test_a_thin_line_in_two_parts_is_a_bar_on_its_track(self) -> None:
        for at in (46, 90, 150):
            (track, bar), rules = self.thin((at, "#252f40"), (160, "#e9ecef"))
            self.assertEqual((track.rect, track.fill.colour), (Rect(40, 60, 120, 3), "#e9ecef"))
            self.assertEqual((bar.rect, bar.fill.colour), (Rect(40, 60, at - 40, 3), "#252f40"))
            self.assertEqual(rules, [])

    def test_a_thin_bar_may_run_from_one_colour_to_another(self) -> None:
        shot = canvas([Surface(Rect(40, 60, 120, 3), Fill("#e9ecef"))], ground=WHITE).pixels.copy()
        shot[60:63, 40:112] = np.linspace((33, 204, 253), (33, 88, 255), 72).round()
        track, bar = thin_tracks([], find_rules(shot, 1), shot, 1)[0]
        self.assertEqual((track.rect, bar.rect), (Rect(40, 60, 120, 3), Rect(40, 60, 72, 3)))
        self.assertEqual((bar.fill.angle, len(bar.fill.stops)), (90.0, 2))

    def test_a_track_beside_its_figure_keeps_its_width(self) -> None:
        track = Surface(Rect(400, 291, 120, 4), Fill("#e9ecef"))
        bar = Surface(Rect(400, 291, 72, 4), Fill("#252f40"))
        r = reading([line("Depths", 300, 120, 1), line("60%", 350, 300), *prose(360, 8, 300)], [track, bar])
        css = write(arrange(r), r, canvas([], w=1440, h=900), subset=False).css
        self.assertRegex(css, r"flex: 0 1 7\.5rem")

    def test_a_line_in_one_colour_or_three_parts_is_none(self) -> None:
        for ends in (((160, "#e9ecef"),), ((70, "#e9ecef"), (110, "#252f40"), (160, "#e9ecef"))):
            surfaces, rules = self.thin(*ends)
            self.assertEqual(surfaces, [])
            self.assertTrue(rules)


def shade(blur: float) -> Shadow:
    return Shadow(0, 2, blur, 0, "#000000", 0.2)


class Small(unittest.TestCase):
    def test_a_small_disc_with_a_gradient_and_a_letter_is_painted_and_written(self) -> None:
        disc = "<span style='display:inline-grid;place-items:center;width:40px;height:40px;border-radius:50%;background:linear-gradient(135deg,#1a9f8c,#126a8f);color:#fff;font:700 18px Liberation Sans'>{}</span>"
        picture, _ = drawn(
            f"<meta charset='utf-8'><body style='margin:40px;background:#fff;font:16px/24px Liberation Sans'><h1>Observers</h1>{PROSE}{disc.format('M')}<p>Mira Toll reads the stake at <b>Merle Hut</b>.</p>",
            700,
        )
        found = read(picture)
        (badge,) = [s for s in found.surfaces if s.fill.stops]
        self.assertEqual((badge.rect.w, badge.rect.h, badge.radius, badge.fill.angle), (40, 40, 20, 135))
        self.assertIn("M", [n.text for n in found.lines])
        self.assertEqual(found.cutouts, ())

    def test_the_glass_before_a_search_is_an_icon_and_the_key_at_its_end_is_no_word_of_it(self) -> None:
        glass = "<svg width='14' height='14' viewBox='0 0 14 14' fill='none' stroke='#6b7785' stroke-width='1.5'><circle cx='6' cy='6' r='4.5'/><path d='M9.5 9.5l3.5 3.5'/></svg>"
        field = f"<div style='display:flex;align-items:center;gap:10px;box-sizing:border-box;width:300px;height:36px;border:1px solid #ccd3d9;border-radius:6px;background:#f6f8fa;padding:0 8px;color:#6b7785;font-size:14px'>{glass}<span style='flex:1'>Search the bulletins</span><span style='border:1px solid #ccd3d9;border-radius:3px;background:#fff;font-size:11px;padding:2px 6px;line-height:14px'>K</span></div>"
        found, outline, html = page(f"<main><h1>Stations</h1>{field}{PROSE}</main>")
        self.assertIn("Search the bulletins", [n.text for n in found.lines])
        (asked,) = [n for n in outline.root.walk() if n.kind == "field"]
        self.assertEqual(asked.attributes["type"], "search")
        self.assertRegex(html, r"<kbd[^>]*>\s*<span[^>]*>K</span>")

    def test_a_heart_parts_the_words_beside_it(self) -> None:
        heart = "<svg width='14' height='13' viewBox='0 0 14 13' fill='#d8442f'><path d='M7 12.5L1.2 6.6A3.6 3.6 0 0 1 6.3 1.5L7 2.2l.7-.7a3.6 3.6 0 0 1 5.1 5.1z'/></svg>"
        found, _, _ = page(
            f"<main><h1>Stations</h1>{PROSE}<p style='color:#8d99a5'>Read and drawn with {heart} by the observers of the range</p></main>"
        )
        said = " ".join(n.text for n in found.lines)
        self.assertIn("drawn with", said)
        self.assertIn("by the observers", said)
        self.assertNotIn("withby", said)


class Initials(unittest.TestCase):
    def test_a_letter_in_a_box_of_its_own_is_no_button_and_sizes_to_choose_are(self) -> None:
        box = "<span style='display:inline-grid;place-items:center;width:36px;height:36px;margin-right:10px;border-radius:6px;background:#23607a;color:#fff;font:700 16px Liberation Sans'>{}</span>"
        for letters, tag in (("M", "span"), ("SML", "a")):
            body = f"<main><h1>Stations</h1>{PROSE}<p>{''.join(map(box.format, letters))}</p>{PROSE}</main>"
            _, outline, _ = page(body)
            found = [n.tag for n in outline.root.walk() if n.surface and words(n) in letters and words(n)]
            self.assertEqual(found, [tag] * len(letters))

    def test_two_capitals_in_a_disc_are_initials_read_on_the_disc(self) -> None:
        disc = "<span style='display:inline-grid;place-items:center;width:34px;height:34px;border-radius:17px;background:#10b981;color:#fff;font:700 12px DejaVu Sans'>{}</span>"
        rows = "".join(
            f"<div style='display:flex;gap:16px;align-items:center;margin:14px 0'>{disc.format(i)}<p style='margin:0'>{t}</p></div>"
            for i, t in (("SK", "The stake was read at seven"), ("LR", "There is drift behind the hut"), ("MD", "The pit was dug by two"))
        )  # fmt: skip
        found, outline, _ = page(f"<main><h1>Letters</h1>{PROSE}{rows}{PROSE}</main>")
        held = [n for n in outline.root.walk() if n.surface and words(n) in ("SK", "LR", "MD")]
        self.assertEqual([(words(n), n.tag) for n in held], [("SK", "span"), ("LR", "span"), ("MD", "span")])
        inks = {
            found.styles[w.style].colour for n in found.lines for w in n.words if w.text in ("SK", "LR", "MD")
        }
        self.assertEqual(inks, {"#ffffff"})


class CutOff(unittest.TestCase):
    def test_the_line_that_the_pictures_edge_cuts_through_is_no_row_of_icons(self) -> None:
        body = f"<body style='margin:20px;font:16px/26px \"Liberation Sans\";color:#223'><h1>Depths</h1>{'<p>The stakes of the upper basin are read at seven, those of the lower one at eight.</p>' * 3}"
        picture, _ = drawn(body, 700)
        inked = np.flatnonzero((picture.pixels < 128).any(axis=(1, 2)))
        last = int(inked[-1]) - 12  # the last line's letters begin there
        for rows in (3, 4, 6):
            found = read(open_picture(png(picture.pixels[: last + rows]), "cut.png"))
            self.assertEqual(found.cutouts, ())
            self.assertTrue(any(r.bottom > last for r in found.unread))

    def test_marks_along_the_edge_are_a_line_and_one_alone_is_a_mark(self) -> None:
        def mark(x: float, y: float) -> Cutout:
            return Cutout(Rect(x, y, 30, 6), "icon")

        row = [mark(40.0 * k, 394) for k in range(5)]
        left, cut = _without_cut_lines([*row, mark(40, 200)], STYLES, 400)
        self.assertEqual((left, cut), ([mark(40, 200)], (Rect(0, 394, 190, 6),)))
        self.assertEqual(_without_cut_lines(row[:1], STYLES, 400), (row[:1], ()))
        self.assertEqual(_without_cut_lines(row[:1], STYLES, 400, [Rect(60, 393, 90, 7)])[0], [])


class Numbered(unittest.TestCase):
    def test_a_number_under_its_head_is_a_cell_of_its_own(self) -> None:
        head, row = wide("# Station", {1: 6}), wide("1. Lantern", {1: 4}, baseline=340)
        row = replace(
            row,
            words=(row.words[0], replace(row.words[1], x=head.words[1].x)),
        )
        got = [n.text for n in part_lines([head, row], STYLES, [])]
        self.assertEqual(got, ["#", "Station", "1.", "Lantern"])
        alone = wide("1. Lantern", {1: 10})
        self.assertEqual([n.text for n in part_lines([alone], STYLES, [])], ["1. Lantern"])

    def test_a_row_of_page_numbers_over_a_table_is_no_head(self) -> None:
        rows = [Rect(0, 40.0 * i, 600, 40) for i in range(5)]
        cells = [
            Rect(x, 40.0 * i + 10, w, 20) for i in range(1, 5) for x, w in ((24, 16), (60, 120), (420, 60))
        ]
        pages = [Rect(430 + 27.0 * k, 6, 26, 28) for k in range(4)]
        self.assertEqual(without_caption(rows, [Rect(16, 10, 150, 20), *pages, *cells]), rows[1:])

    def test_columns_share_the_room_between_their_texts(self) -> None:
        rows = [Rect(0, 40.0 * i, 600, 40) for i in range(3)]
        cells = [Rect(x, 40.0 * i + 10, w, 20) for i in range(3) for x, w in ((24, 16), (56, 120), (420, 60))]
        self.assertEqual(column_bounds(rows, [24, 56, 420], cells), [48, 396])


class Panels(unittest.TestCase):
    def test_a_side_panels_mark_is_not_in_its_menu_and_what_is_done_here_is_a_button(self) -> None:
        entry = "<p style='margin:0;padding:9px 24px'>{}</p>"
        side = f"<div style='width:240px;height:900px;background:#1a2332;color:#c9d3dd;flex:none'><p style='margin:0;padding:18px 24px;font:700 22px Liberation Sans;color:#fff'>Firnwatch</p><div style='border-top:1px solid #33415a;padding-top:14px'>{''.join(entry.format(t) for t in ('Stations', 'Bulletins', 'Observers', 'Range map', 'Archive', 'Settings'))}</div></div>"
        press = "<span style='display:inline-block;background:#23607a;color:#fff;border-radius:5px;padding:8px 18px;margin-right:12px'>{}</span>"
        body = f"<div style='display:flex'>{side}<main style='padding:24px 40px'><h1>Stations</h1>{PROSE}<p>{press.format('Save changes')}{press.format('Read the method')}</p></main></div>"
        _, outline, html = page(body)
        (aside,) = tagged(outline, "aside")
        (menu,) = [n for n in aside.walk() if n.tag == "nav"]
        self.assertNotIn("Firnwatch", words(menu))
        self.assertEqual(words(menu).split()[0], "Stations")
        self.assertRegex(html, r'<button[^>]*type="button"[^>]*>\s*Save changes')
        self.assertRegex(html, r"<a[^>]*>\s*Read the method")


if __name__ == "__main__":
    unittest.main()
