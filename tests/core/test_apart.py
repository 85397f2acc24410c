"""What shadows, lines and menus part and still belongs together: bars and cards, switches, arrows and badges, rows at an end."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from neige.core.model import Cutout, Fill, Node, Rect, Rule, Surface
from neige.core.outline import arrange
from neige.core.outline.tidy import _pool
from neige.core.reading import read
from neige.core.reading.surfaces.choices import close_switches
from neige.core.reading.surfaces.flat import _with_shade, find_regions
from neige.core.reading.surfaces.frame import _has_step
from neige.core.reading.surfaces.framed import frames_of_sides
from neige.core.reading.surfaces.remains import _in_column
from neige.core.reading.surfaces.shade import drop_ground, join_shade
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, page, tagged
from tests.support import drawn


class Shade(unittest.TestCase):
    def bar(self, shade: list[int], beside: int = 255) -> np.ndarray:
        """A bar 70 px high from x 200 on, darker by `shade` px by px from there, beside a panel."""
        out = np.full((300, 800, 3), 250, np.uint8)
        out[:, :200] = beside
        out[:70, 200:] = (100, 120, 240)
        for k, v in enumerate(shade):
            out[:70, 200 + k] = (100 - v, 120 - v, 240 - v)
        return out

    def test_a_bar_on_which_a_shadow_falls_reaches_to_what_throws_it(self) -> None:
        regions, _, _ = find_regions(self.bar([4, 3, 2, 1]), 1)
        bar = next(r for r in regions if r.colour == (100.0, 120.0, 240.0))
        self.assertEqual((bar.x0, bar.y0, bar.x1, bar.y1), (200, 0, 800, 70))

    def test_a_border_is_no_shadow(self) -> None:
        regions, _, _ = find_regions(self.bar([90]), 1)
        self.assertEqual(next(r for r in regions if r.colour == (100.0, 120.0, 240.0)).x0, 201)

    def test_shade_that_ends_nowhere_is_ground(self) -> None:
        regions, _, _ = find_regions(self.bar([4, 4, 4, 4], beside=100), 1)
        picture = self.bar([0])
        picture[:70, 150:200] = (96, 116, 236)  # another, nearly like it, as wide as it likes
        wide, _, _ = find_regions(picture, 1)
        self.assertEqual(next(r for r in wide if r.colour == (100.0, 120.0, 240.0)).x0, 200)
        self.assertTrue(regions)

    def test_a_photos_dark_places_do_not_run_together(self) -> None:
        rng = np.random.default_rng(4)
        dark = np.where(rng.random((100, 200, 1)) < 0.7, 32, 34).astype(np.uint8).repeat(3, axis=2)
        mask = (dark == 32).all(axis=2)
        self.assertTrue((_with_shade(mask, dark, 12) == mask).all())
        bar = self.bar([3, 2, 1])[:70, 200:]
        exact = (bar == (100, 120, 240)).all(axis=2)
        self.assertTrue(_with_shade(exact, bar, 12).all())

    def test_a_dark_bar_beside_a_box_is_not_its_shadow(self) -> None:
        level = np.array([140.0] * 8 + [0.0] * 12)
        fading = 140 * np.exp(-((np.arange(20) / 5.0) ** 2))
        self.assertTrue(_has_step(level))
        self.assertFalse(_has_step(fading))

    def test_the_ground_between_shadows_is_no_panel(self) -> None:
        ground = Fill("#f8f9fc")
        part = Surface(Rect(200, 600, 800, 190), ground, border=(1.0, 0.0, 0.0, 0.0), border_colour="#f0f1f4")
        card = Surface(Rect(240, 300, 300, 200), Fill("#ffffff"), 6.0)
        lined = Surface(
            Rect(200, 600, 800, 190), ground, border=(1.0, 0.0, 0.0, 0.0), border_colour="#808890"
        )
        on_card = Surface(Rect(250, 310, 280, 40), ground)
        self.assertEqual(drop_ground([part, card, on_card], ground), [card, on_card])
        self.assertEqual(drop_ground([lined], ground), [lined])

    def test_a_card_under_its_neighbours_shadow_is_whole(self) -> None:
        card = Surface(Rect(84, 200, 399, 388), Fill("#212529"), 16.0)
        strip = Surface(Rect(470, 205, 22, 383), Fill("#202428"))
        self.assertEqual([s.rect for s in join_shade([card, strip])], [Rect(84, 200, 408, 388)])
        for other in (Fill("#101418"), Fill("#212529")):
            self.assertEqual(
                len(join_shade([card, Surface(strip.rect, other)])), 2, "too dark, or not at all"
            )
        short = Surface(Rect(470, 205, 22, 120), Fill("#202428"))
        self.assertEqual(len(join_shade([card, short])), 2)


class Frames(unittest.TestCase):
    HEAD = Surface(Rect(40, 50, 400, 41), Fill("#f0f3f5"), 6.0, (1.0, 1.0, 1.0, 1.0), "#d2d2d2")

    def sides(self, colour: str = "#d2d2d2") -> list[Rule]:
        left = [Rule(Rect(40, y, 1, h), "#d2d2d2") for y, h in ((56, 34), (90, 60), (150, 96))]
        return [*left, *(Rule(Rect(439, r.rect.y, 1, r.rect.h), colour) for r in left)]

    def test_sides_that_lines_across_part_are_one_frames(self) -> None:
        row = Surface(
            Rect(41, 91, 398, 40), Fill("#ffffff"), border=(0.0, 0.0, 1.0, 0.0), border_colour="#dee2e6"
        )
        surfaces, rules = frames_of_sides([self.HEAD, row], self.sides(), Fill("#ffffff"))
        self.assertEqual((surfaces[0].rect, rules), (Rect(40, 50, 400, 202), []))

    def test_a_neighbours_shadow_may_darken_one_of_them(self) -> None:
        surfaces, _ = frames_of_sides([self.HEAD], self.sides("#d1d1d1"), Fill("#ffffff"))
        self.assertEqual(surfaces[0].rect.h, 202)
        other, _ = frames_of_sides([self.HEAD], self.sides("#a0a0a0"), Fill("#ffffff"))
        self.assertEqual(other, [self.HEAD])

    def test_the_lines_of_a_table_are_no_cards(self) -> None:
        cell = Surface(Rect(439, 56, 200, 34), Fill("#ffffff"), border=(1.0,) * 4, border_colour="#d2d2d2")
        given = [self.HEAD, cell]
        self.assertEqual(frames_of_sides(given, self.sides(), Fill("#ffffff"))[0], given)


class Marks(unittest.TestCase):
    def test_small_things_of_one_size_under_one_another_are_marks(self) -> None:
        arrows = [Rect(223, 117 + 50 * k, 6, 4) for k in range(3)]
        self.assertEqual(_in_column(arrows), arrows)
        self.assertEqual(_in_column(arrows[:2]), [])
        self.assertEqual(_in_column([*arrows[:2], Rect(223, 300, 12, 12)]), [])

    def test_a_knob_found_by_itself_and_its_track_are_a_switch(self) -> None:
        out = np.full((60, 80, 3), 255, np.uint8)
        big = cv2.resize(out, None, fx=8, fy=8)
        cv2.ellipse(big, (8 * 30, 8 * 30), (80, 80), 0, 0, 360, (26, 187, 156), -1)
        cv2.ellipse(big, (8 * 46, 8 * 30), (80, 80), 0, 0, 360, (26, 187, 156), -1)
        cv2.rectangle(big, (8 * 30, 8 * 20), (8 * 46, 8 * 40 - 1), (26, 187, 156), -1)
        cv2.circle(big, (8 * 46, 8 * 30), 64, (255, 255, 255), -1)
        pixels = cv2.resize(big, (80, 60), interpolation=cv2.INTER_AREA)
        knob = Surface(Rect(38, 22, 16, 16), Fill("#ffffff"), 8.0)
        rest = Cutout(Rect(20, 20, 18, 20), "icon")
        surfaces, cutouts = close_switches([knob], [rest], pixels, 1)
        self.assertEqual(cutouts, [])
        track, dot = surfaces
        self.assertEqual(
            (track.rect, track.fill.colour, dot.rect), (Rect(20, 20, 36, 20), "#1abb9c", Rect(38, 22, 16, 16))
        )
        icon = Cutout(Rect(2, 2, 18, 18), "icon")
        self.assertEqual(close_switches([knob], [icon], pixels, 1), ([knob], [icon]))

    def test_a_light_before_a_word_is_drawn_though_it_is_no_bullet(self) -> None:
        light = "<span style='display:inline-block;width:7px;height:7px;border-radius:50%;background:#2fb344;margin-right:8px'></span>"
        _, outline, html = page(f"<main><h1>Stations</h1><p>{light}On track</p><br>{PROSE}</main>")
        pictured = any(n.kind == "image" and n.rect.w < 10 for n in outline.root.walk())
        self.assertTrue(pictured or "•" in html or "●" in html)


class Menus(unittest.TestCase):
    ENTRY = "<div style='display:flex;justify-content:space-between;align-items:center;padding:11px 20px'><a>{}</a>{}</div>"
    ARROW = "<svg width='8' height='8' viewBox='0 0 8 8'><path d='M0 2h8L4 6z' fill='#667'/></svg>"
    BADGE = "<span style='background:#c33;color:#fff;font:700 11px/16px \"DejaVu Sans\";border-radius:3px;padding:1px 6px'>12</span>"

    def side(self) -> str:
        names = ("Stations", "Depths", "Pits", "Observers", "Bulletins", "Weather")
        ends = (self.ARROW, self.BADGE, self.ARROW, "", self.ARROW, self.ARROW)
        rows = "".join(self.ENTRY.format(n, e) for n, e in zip(names, ends))
        return f"<div style='display:flex'><div style='width:230px;height:700px;background:#e9eef2;padding-top:30px'>{rows}</div><div style='padding:40px;width:800px'><h1>Depths</h1>{PROSE}{PROSE}{PROSE}</div></div>"

    def test_arrows_and_badges_stay_with_their_entries(self) -> None:
        _, outline, _ = page(self.side(), 1100)
        nav = tagged(outline, "nav")[0]
        self.assertFalse([n for n in nav.walk() if n.kind == "block" and n.children and not words(n)])
        entry = next(n for n in nav.walk() if n.kind == "row" and words(n).startswith("Depths"))
        self.assertEqual(words(entry), "Depths 12")

    def test_entries_as_wide_as_their_words_share_their_lengths(self) -> None:
        def entry(x: float, width: float, between: float, gap: float, tag: str) -> Node:
            icon = Node("image", Rect(x, 20, 16, 16), tag="img")
            name = Node("text", Rect(x + 16 + between, 20, width, 16), tag="span", gap=between)
            return Node("row", Rect(x, 20, 16 + between + width, 16), tag=tag, children=[icon, name], gap=gap)

        places = (
            (40.0, 38.0, 3.0, 0.0),
            (113.0, 58.0, 2.5, 16.0),
            (205.0, 84.0, 3.5, 15.0),
            (325.0, 40.0, 3.0, 17.0),
        )
        nothing = read(drawn("<p>Snow", 100)[0])
        for tag, listed in (("a", ""), ("div", "1")):  # of a menu, or of a list
            menu = Node("row", Rect(40, 20, 344, 16), children=[entry(*p, tag) for p in places])
            menu.attributes["list"] = listed
            _pool(Node("block", Rect(0, 0, 600, 60), children=[menu]), nothing)
            self.assertEqual({e.children[1].gap for e in menu.children}, {3.0})
            self.assertEqual([e.gap for e in menu.children], [0.0, 16.0, 16.0, 16.0])
        loose = Node("row", Rect(40, 20, 344, 16), children=[entry(*p, "div") for p in places])
        _pool(Node("block", Rect(0, 0, 600, 60), children=[loose]), nothing)
        self.assertEqual([e.children[1].gap for e in loose.children], [p[2] for p in places])

    def test_a_pages_head_with_buttons_is_no_menu(self) -> None:
        button = (
            "<a style='background:#1a7;color:#fff;border-radius:4px;padding:7px 14px;margin-left:8px'>{}</a>"
        )
        head = f"<div style='display:flex;justify-content:space-between;align-items:center'><div><p style='font-size:11px;line-height:14px'>WORKSPACE</p><h1 style='font-size:24px;line-height:30px;margin:0'>Stations</h1></div><div>{button.format('Filter')}{button.format('New one')}</div></div>"
        bar = "<div style='background:#234;color:#fff;padding:16px 40px;display:flex;gap:24px'><b>Firnwatch</b><a>Depths</a><a>Pits</a><a>Weather</a></div>"
        _, outline, _ = page(f"{bar}<main style='width:1060px'>{head}<br>{PROSE}{PROSE}</main>", 1100)
        self.assertEqual(words(tagged(outline, "h1")[0]), "Stations")
        self.assertFalse([n for n in tagged(outline, "nav") if "Stations" in words(n)])


class Ends(unittest.TestCase):
    BUTTON = (
        "<a style='display:inline-block;background:#1a7;color:#fff;border-radius:4px;padding:8px 16px'>{}</a>"
    )

    def test_a_button_at_the_end_of_its_panel_has_no_room_for_a_page_before_it(self) -> None:
        foot = f"<div style='background:#eef2f5;padding:14px 20px;text-align:right'>{self.BUTTON.format('Send')}</div>"
        _, outline, _ = page(f"<main style='width:920px'><h1>Depths</h1>{PROSE}<br>{foot}<br>{PROSE}</main>")
        panel = next(n for n in outline.root.walk() if n.surface and n.tag == "div" and words(n) == "Send")
        self.assertEqual((panel.padding[3], panel.children[0].align), (20.0, "end"))

    def test_what_begins_in_a_wide_panel_begins_there(self) -> None:
        tabs = "".join(f"<a style='color:#16c;margin-right:24px'>{t}</a>" for t in ("All of them", "Drafts"))
        panel = f"<div style='background:#fff;border-radius:4px;padding:20px 24px;margin:0 auto;width:900px'>{self.BUTTON.format('Nine')} {tabs}</div>"
        _, outline, html = page(
            f"<body style='background:#dfe6ea'><main style='width:1100px;padding:40px 0'>{panel}<br><div style='padding:0 100px'>{PROSE}{PROSE}</div></main>",
            1100,
        )
        row = next(n for n in outline.root.walk() if n.surface and n.kind == "row" and n.rect.w > 800)
        self.assertIn(row.width, ("center", "fill"))
        self.assertEqual(row.align, "start")
        self.assertIn("Drafts", html)

    def test_a_wide_buttons_words_need_no_room_at_its_sides(self) -> None:
        wide = "<a style='display:block;text-align:center;background:#1a7;color:#fff;border-radius:4px;padding:10px'>Call the hut</a>"
        card = f"<div style='width:400px;border:1px solid #ccd;border-radius:6px;padding:24px'><h2 style='font-size:22px;margin-bottom:12px'>Saddle Hut</h2><p style='margin-bottom:16px'>Open from the first snow on.</p>{wide}</div>"
        picture, _ = drawn(STYLE + f"<main><h1>Huts</h1>{PROSE}<br>{card}<br>{PROSE}</main>", 900)
        found = read(picture)
        css = write(arrange(found), found, picture).css
        rule = css[css.index(".button-call") :].split("}")[0]
        sides = rule.split("padding:")[1].split(";")[0].replace("rem", "").split()
        self.assertEqual((sides[1], "inline-size: 100%" in rule or "display: block" in rule), ("1", True))


if __name__ == "__main__":
    unittest.main()
