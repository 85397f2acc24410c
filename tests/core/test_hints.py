"""Fields that are hardly there, words that only a place makes a menu, and feet of pages that say little."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Node
from neige.core.reading.surfaces.frame import find_border
from tests.core.test_structure import PROSE, page, tagged


def fields(body: str) -> list[Node]:
    return [n for n in page(body)[1].root.walk() if n.kind == "field"]


class Underlined(unittest.TestCase):
    ASKS = "<div style='border-bottom:1px solid #99a;padding:22px 2px;margin-top:16px;color:#666'>{}</div>"
    SEND = "<p style='margin-top:20px'><a style='display:inline-block;background:#175d8d;color:#fff;padding:10px 24px;border-radius:6px'>Send report</a></p>"

    def test_words_over_lines_before_a_button_are_fields(self) -> None:
        asks = "".join(self.ASKS.format(t) for t in ("Station", "Email address", "Depth in cm"))
        _, outline, html = page(f"<main><h1>Report a depth</h1>{asks}{self.SEND}{PROSE}</main>")
        found = [n for n in outline.root.walk() if n.kind == "field"]
        self.assertEqual(
            [n.attributes["placeholder"] for n in found], ["Station", "Email address", "Depth in cm"]
        )
        self.assertEqual([n.attributes["type"] for n in found][1], "email")
        self.assertTrue(
            all(abs(n.rect.h - 69) <= 2 and n.surface and n.surface.border[2] == 1 for n in found)
        )
        self.assertIn("<form", html)
        self.assertNotIn("<hr", html)

    def test_fields_that_share_their_borders_are_two(self) -> None:
        cell = "<div style='border:1px solid #ced4da;{};padding:15px 12px;color:#6c757d'>{}</div>"
        box = cell.format("border-radius:6px 6px 0 0", "Email address") + cell.format(
            "border-radius:0 0 6px 6px;border-top:0", "Password"
        )
        _, outline, html = page(
            f"<main><h1>Sign in</h1><div style='width:320px'>{box}</div>{self.SEND}</main>"
        )
        found = [n for n in outline.root.walk() if n.kind == "field"]
        self.assertEqual([n.attributes["type"] for n in found], ["email", "password"])
        self.assertEqual([n.surface.corners for n in found if n.surface], [(6, 6, 0, 0), (0, 0, 6, 6)])
        self.assertLess(found[1].gap, 0)
        self.assertIn("<form", html)

    def test_without_a_button_they_are_a_list_of_words(self) -> None:
        asks = "".join(self.ASKS.format(t) for t in ("Station", "Email address", "Depth in cm"))
        self.assertEqual(fields(f"<main><h1>Report a depth</h1>{asks}{PROSE}</main>"), [])

    def test_a_line_of_another_length_is_no_field(self) -> None:
        asks = self.ASKS.format("Station") + self.ASKS.format("Depth").replace("<div", "<div class=short")
        style = "<style>.short{width:420px}</style>"
        self.assertEqual(fields(f"{style}<main><h1>Report a depth</h1>{asks}{self.SEND}{PROSE}</main>"), [])


class Places(unittest.TestCase):
    NAME = "<div style='text-align:center;padding:60px 0 50px'><h1 style='font-size:60px;line-height:70px'>Firnwatch stations</h1></div>"

    def row(self, entries: list[str]) -> str:
        inner = "".join(f"<span style='margin:0 28px;font-size:15px'>{e}</span>" for e in entries)
        return f"<div style='display:flex;justify-content:center;margin-bottom:60px'>{inner}</div>"

    def test_evenly_spaced_words_under_the_pages_name_are_its_menu(self) -> None:
        body = f"{self.NAME}{self.row(['Stations', 'Bulletins', 'Observers', 'About'])}<main>{PROSE}{PROSE}</main>"
        _, outline, html = page(body)
        (nav,) = tagged(outline, "nav")
        self.assertEqual(html.count("<a "), 4)
        self.assertLess(nav.rect.y, 260)

    def test_numbers_there_are_none(self) -> None:
        body = f"{self.NAME}{self.row(['184 cm', '92 cm', '140 cm', '211 cm'])}<main>{PROSE}{PROSE}</main>"
        self.assertEqual(tagged(page(body)[1], "nav"), [])

    def test_a_short_foot_is_the_pages_all_the_same(self) -> None:
        body = f"<main><h1>Depths</h1>{PROSE * 9}</main><div style='text-align:center;padding:40px 0 30px;font-size:14px'>© 2026 Firnwatch</div>"
        _, outline, html = page(body)
        (foot,) = tagged(outline, "footer")
        self.assertGreater(foot.rect.w, 850)
        self.assertIn("</main>\n    <footer", html)

    def test_the_band_that_holds_menu_and_title_is_the_pages_head(self) -> None:
        links = "".join(f"<a style='margin-left:32px'>{e}</a>" for e in ("Stations", "Bulletins", "About"))
        hero = f"<div style='background:#1d3b4f;color:#fff;height:380px'><div style='display:flex;justify-content:space-between;padding:24px 40px'><b>Firnwatch</b><div>{links}</div></div><h1 style='text-align:center;margin-top:90px'>Snow in the Vell range</h1></div>"
        _, outline, html = page(
            f"{hero}<div style='padding:40px;width:820px'><h2 style='font-size:24px'>Depths</h2>{PROSE * 3}</div>"
        )
        (head,) = tagged(outline, "header")
        self.assertEqual((head.rect.y, head.rect.w), (0, 900))
        self.assertTrue(any(n.tag == "h1" for n in head.walk()) and any(n.tag == "nav" for n in head.walk()))
        self.assertIn("</header>", html)
        self.assertEqual(len(tagged(outline, "main")), 1)

    def test_the_list_of_a_menu_holds_the_room_of_its_links(self) -> None:
        links = "".join(
            f"<a style='margin-left:32px'>{e}</a>" for e in ("Stations", "Bulletins", "Observers")
        )
        bar = f"<header style='display:flex;justify-content:space-between;align-items:center;padding:0 40px;height:72px;background:#f3f6f9'><b>Firnwatch</b><nav>{links}</nav></header>"
        _, outline, _ = page(f"{bar}<main><h1>Depths</h1>{PROSE}{PROSE}</main>")
        menu = next(n for n in outline.root.walk() if n.attributes.get("list") == "1")
        self.assertGreater(float(menu.attributes["reach"]), 4)
        self.assertTrue(all("reach" not in c.attributes for c in menu.children))


class Badges(unittest.TestCase):
    def test_words_in_outlined_pills_are_read_without_their_outlines(self) -> None:
        pill = "<span style='display:inline-block;border:1px solid #6b7280;border-radius:11px;padding:0 7px;margin-left:4px;font-size:12px;line-height:18px;color:#4b5563'>{}</span>"
        pills = "".join(pill.format(t) for t in ("Snow", "Wind", "Radio", "+3"))
        found, _, _ = page(
            f"<main><h1>Stations</h1><div style='display:flex;justify-content:space-between'><span>Grey Saddle</span><span>{pills}</span></div>{PROSE}</main>"
        )
        said = {w.text: w.ink for n in found.lines for w in n.words}
        for text in ("Snow", "Wind", "Radio", "+3"):
            self.assertIn(text, said)
            self.assertLess(said[text].h, 14)

    def test_a_bullet_before_code_is_no_letter_of_it(self) -> None:
        code = "<li style='line-height:21px'><code style='background:#e8eff0;font:13px DejaVu Sans Mono'>{}</code> {}</li>"
        items = "".join(
            code.format(a, b)
            for a, b in (("depth:", "as measured"), ("wind:", "at noon"), ("radio:", "who answers"))
        )
        _, outline, html = page(
            f"<main><h1>Fields</h1>{PROSE}<ul style='list-style:disc;padding-left:30px'>{items}</ul></main>"
        )
        self.assertEqual(html.count("<li "), 3)
        self.assertIn("depth:", html)
        self.assertTrue(
            all(n.surface.border == (0, 0, 0, 0) for n in outline.root.walk() if n.surface and n.rect.h < 24)
        )


class Borders(unittest.TestCase):
    def sides(self, *rows: list[int]) -> list[np.ndarray]:
        return [np.array([[float(v)] * 3 for v in row]) for row in rows]

    def test_the_ground_between_two_boxes_is_no_border(self) -> None:
        open_, gap = [255] * 20, [255] * 3 + [230] * 17
        found = find_border(self.sides(gap, open_, gap, open_), np.array([230.0] * 3), 1)
        self.assertEqual(found.widths, (0, 0, 0, 0))

    def test_a_border_that_a_shadow_follows_on_one_side_is_one(self) -> None:
        line, shaded = [210] + [255] * 19, [210, 240, 248, 252] + [255] * 16
        found = find_border(self.sides(line, line, shaded, line), np.array([255.0] * 3), 1)
        self.assertEqual(found.widths, (1, 1, 1, 1))


if __name__ == "__main__":
    unittest.main()
