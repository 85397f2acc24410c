"""Bars that are the navigation, panels that float beside the page, cards that lines divide, forms under their headings."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Fill, Node, Rect, Rule, Surface
from neige.core.outline import arrange
from neige.core.outline.links import SHARE
from neige.core.reading import read
from neige.core.reading.mistaken import is_marks
from neige.core.reading.surfaces import read_surfaces
from neige.core.reading.surfaces.remains import _cores
from neige.core.reading.surfaces.sides import leave_to_host, take_rims
from neige.core.reading.text.dots import with_dots
from neige.core.reading.text.recognise import Spelling
from tests.core.test_outline import line, reading
from tests.core.test_structure import PROSE, page, tagged
from tests.core.test_surfaces import canvas
from tests.support import drawn

LINE = "#d9dfe4"


class Bars(unittest.TestCase):
    def test_a_bar_with_nothing_but_the_navigation_is_the_navigation(self) -> None:
        entries = ("Stations", "Bulletin", "Observers", "Method")
        bar = Surface(Rect(0, 0, 1440, 64), Fill("#eef2f5"))
        lines = [line("Firnwatch", 150, 38), *(line(t, 800 + i * 120, 38) for i, t in enumerate(entries))]
        lines += [
            line("Depth today", 150, 200, 1),
            line("Read from the stake at six in the morning.", 150, 250),
        ]
        root = arrange(reading(lines, [bar])).root
        first = root.children[0]
        self.assertEqual((first.tag, first.surface, first.name), ("nav", bar, "site-nav"))
        self.assertFalse([n for n in root.walk() if n.tag == "header"])
        self.assertEqual(len([n for n in first.walk() if n.tag == "a"]), 5)

    def test_a_bar_with_a_name_and_one_box_is_no_button(self) -> None:
        style = "body{margin:0;font:16px/24px 'Liberation Sans'}.bar{display:flex;justify-content:space-between;align-items:center;height:56px;padding:0 48px;background:#f8f9fa}.bar b{font:20px 'Liberation Sans'}.open{border:1px solid #ccc;border-radius:6px;padding:7px 16px}h1{margin:60px 48px 8px}p{margin:0 48px}"
        open_it = "<svg width='24' height='24' viewBox='0 0 24 24'><path d='M3 6h18M3 12h18M3 18h18' stroke='#888' stroke-width='2'/></svg>"
        html = f"<style>{style}</style><div class='bar'><b>Shop Firnwatch</b><span class='open'>{open_it}</span></div><div style='background:#212529;color:#fff;padding:1px 0 80px;text-align:center'><h1>Stakes and boards</h1><p>What observers carry up in autumn.</p></div><p>Sent by post within a week.</p>"
        root = arrange(read(drawn(html, 768, fitted=True)[0])).root
        bar = root.children[0]
        self.assertEqual((bar.tag, bar.attributes.get("role")), ("header", None))

    def test_a_panel_that_floats_in_the_corner_stands_beside_all_that_follows(self) -> None:
        panel = Surface(Rect(16, 16, 240, 600), Fill("#203040"), 8.0)
        cards = [Surface(Rect(280, 90 + i * 400, 1130, 370), Fill("#eef2f5"), 8.0) for i in range(2)]
        entries = ("Stations", "Bulletin", "Observers", "Method")
        lines = [replace(line(t, 48, 120 + 48 * i, 3), ground="#203040") for i, t in enumerate(entries)]
        lines += [line("Depth today", 290, 60, 1)]
        for card in cards:
            lines += [
                line("Centimetres of snow at six in the morning", 304, card.rect.y + k)
                for k in (60, 100, 140)
            ]
        lines += [line("© 2026 Firnwatch", 300, 960, 3)]
        root = arrange(reading(lines, [panel, *cards], h=1000)).root
        (row,) = root.children
        side, middle = row.children
        self.assertEqual((side.surface, middle.tag), (panel, "main"))
        self.assertEqual(row.padding[3], 16, "it keeps its distance from the page's side")
        self.assertIn(side.tag, ("nav", "aside"))
        (foot,) = [n for n in root.walk() if n.tag == "footer"]
        self.assertGreater(foot.rect.x, panel.rect.right)


class Divided(unittest.TestCase):
    def test_the_parts_of_a_card_have_the_lines_between_them_alone(self) -> None:
        card = Surface(Rect(40, 40, 310, 280), Fill("#ffffff"), 8.0, (1.0,) * 4, LINE)
        left = Surface(Rect(40, 266, 156, 54), Fill("#ffffff"), 0.0, (0.0, 1.0, 1.0, 1.0), LINE)
        right = replace(left, rect=Rect(196, 266, 154, 54), border=(0.0, 1.0, 1.0, 0.0))
        other = replace(left, rect=Rect(60, 60, 80, 40))
        tinted = replace(right, fill=Fill("#eef2f5"))
        got = leave_to_host([card, left, right, other, tinted])
        self.assertEqual(
            [s.border for s in got], [card.border, (0, 1, 0, 0), (0, 0, 0, 0), other.border, right.border]
        )
        self.assertEqual(got[1].rect, Rect(41, 266, 155, 53))

    def test_cells_that_are_framed_all_round_keep_their_lattice(self) -> None:
        frame = Surface(Rect(40, 40, 201, 81), Fill("#ffffff"), 0.0, (1.0,) * 4, LINE)
        cells = [replace(frame, rect=Rect(40 + 100 * (i % 2), 40 + 40 * (i // 2), 101, 41)) for i in range(4)]
        self.assertEqual(leave_to_host([frame, *cells]), [frame, *cells])
        self.assertNotEqual(leave_to_host([frame, cells[0]]), [frame, cells[0]])

    def test_a_card_that_lines_divide_is_read_as_one_box(self) -> None:
        card = Surface(Rect(40, 40, 310, 280), Fill("#ffffff"), 8.0, (1.0,) * 4, LINE)
        lines = [Surface(Rect(41, 266, 308, 1), Fill(LINE)), Surface(Rect(195, 266, 1, 53), Fill(LINE))]
        found = read_surfaces(canvas([card, *lines]), [])
        framed = [s for s in found.surfaces if sum(map(bool, s.border)) > 1]
        self.assertEqual([s.rect for s in framed], [card.rect])

    def test_what_can_be_done_with_a_card_leads_somewhere(self) -> None:
        icon = "<svg width='16' height='16' style='vertical-align:-3px;margin-right:8px'><path d='M1 2l7 12L15 2zM5 8h6' stroke='#456' fill='none'/></svg>"
        cell = "display:block;flex:1;text-align:center;padding:15px 0;margin:0"
        card = f"<div style='width:310px;border:1px solid {LINE};border-radius:8px;margin:30px;background:#fff'><h2 style='text-align:center;padding:40px 0 30px;margin:0'>Upper Cairn</h2><div style='display:flex;border-top:1px solid {LINE}'><p style='{cell};border-right:1px solid {LINE}'>{icon}Depths</p><p style='{cell}'>{icon}Observers</p></div></div>"
        _, outline, html = page(f"<main style='background:#f4f6f8'><h1>Depths</h1>{card}{PROSE}</main>")
        links = [n for n in tagged(outline, "a") if words_of(n) in ("Depths", "Observers")]
        self.assertEqual([round(n.rect.w) for n in links], [155, 153])
        self.assertIn(">Observers</span>", html)

    def test_what_to_do_at_a_cards_foot_is_the_whole_strip(self) -> None:
        foot = f"<p style='border-top:1px solid {LINE};text-align:center;padding:15px 0;margin:0'>{{}}</p>"
        card = f"<div style='width:310px;border:1px solid {LINE};margin:30px;background:#fff'><h2 style='text-align:center;padding:40px 0 30px;margin:0'>Upper Cairn</h2>{foot}</div>"
        for said, leads in (("View all depths", True), ("2140 m above the sea", False)):
            _, outline, _ = page(
                f"<main style='background:#f4f6f8'><h1>Depths</h1>{card.format(said)}{PROSE}</main>"
            )
            with self.subTest(said):
                found = [n for n in tagged(outline, "a") if words_of(n) == said]
                self.assertEqual([round(n.rect.w) for n in found], [308] if leads else [])

    def test_a_high_framed_box_with_a_title_in_it_is_no_field(self) -> None:
        box = "<div style='border:1px solid #ccd;height:{1}px;line-height:{1}px;padding-left:16px;width:320px;margin:16px 0'>{0}</div>"
        for said, high, tag in (
            ("Stations of the valley", 54, 0),
            ("Name of the station", 54, 1),
            ("Stations of the valley", 38, 1),
        ):
            _, outline, _ = page(f"<main><h1>Depths</h1>{box.format(said, high)}{PROSE}</main>")
            with self.subTest(said=said, high=high):
                self.assertEqual(len([n for n in outline.root.walk() if n.kind == "field"]), tag)


def words_of(n: Node) -> str:
    return " ".join(r.text for t in n.walk() for r in t.runs)


class Forms(unittest.TestCase):
    def test_the_heading_of_a_card_is_over_its_form_and_a_button_below_is_in_it(self) -> None:
        field = "<p style='margin:0 0 4px'>{0}</p><div style='border:1px solid #aab;border-radius:4px;height:38px;margin-bottom:16px'></div>"
        button = "<p style='background:{1};color:#fff;text-align:center;border-radius:4px;padding:9px 0;margin:0 0 16px'>{0}</p>"
        body = "".join(
            [
                "<h1 style='margin:0 0 8px'>Report a depth</h1><p>Only stations that are in the book.</p>",
                field.format("Station"),
                field.format("Depth"),
                button.format("Send the report", "#1a6fd0"),
                "<p>Or with the code of your stake</p>",
                button.format("Scan a stake", "#203040"),
            ]
        )
        card = f"<div style='width:420px;margin:40px auto;padding:32px;border:1px solid {LINE};border-radius:8px'>{body}</div>"
        _, outline, _ = page(f"<main>{card}</main>")
        (form,) = tagged(outline, "form")
        said = words_of(form)
        self.assertIn("Scan a stake", said)
        self.assertNotIn("Report a depth", said)
        self.assertNotIn("Only stations", said)
        self.assertEqual(len([n for n in form.walk() if n.tag == "button"]), 2)


class Pictures(unittest.TestCase):
    def test_pieces_of_a_rim_are_the_photos_last_row(self) -> None:
        photo = Cutout(Rect(40, 41, 79, 79), "image")
        above = [Rule(Rect(x, 40, w, 1), LINE) for x, w in ((48, 26), (80, 30))]
        beside = Rule(Rect(119, 41, 1, 79), LINE)
        rules, (grown,) = take_rims([*above, beside, Rule(Rect(40, 200, 79, 1), LINE)], [photo])
        self.assertEqual(grown.rect, Rect(40, 40, 79, 80), "a line along the whole of a side is a frame's")
        self.assertEqual([r.rect.y for r in rules], [41, 200])

    def test_a_dense_middle_is_one_drawing_with_what_goes_on_around_it(self) -> None:
        middle = Cutout(Rect(100, 100, 80, 60), "image")
        parts = [
            (Rect(60, 110, 39, 40), 300.0),
            (Rect(120, 74, 30, 25), 200.0),
            (Rect(130, 161, 60, 40), 500.0),
        ]
        kept, boxes = _cores([middle], parts)
        self.assertEqual((kept, [b for b, _ in boxes]), ([], [Rect(60, 74, 130, 127)]))
        self.assertEqual(_cores([middle], parts[:2]), ([middle], parts[:2]))


class Signs(unittest.TestCase):
    def test_a_share_says_good_or_bad_and_leads_nowhere(self) -> None:
        for text in ("+55%", "-4.3%", "−2 %", "(12%)", "100%"):
            self.assertTrue(SHARE.fullmatch(text), text)
        for text in ("55", "+3", "12 stations", "5% more"):
            self.assertFalse(SHARE.fullmatch(text), text)
        body = "<main><h1>Depths</h1><p><b style='color:#2a9d4a'>+55%</b> than last week, and <a style='color:#1a6fd0'>more stations</a> report.</p></main>"
        html = page(body + PROSE)[2]
        self.assertIn("more stations</a>", " ".join(html.split()))
        self.assertIn("+55%</strong>", html)

    def test_a_letter_by_itself_that_no_face_draws_is_an_icon(self) -> None:
        one = line("5", 100, 40)
        self.assertFalse(is_marks(replace(one, residual=0.07)))
        self.assertTrue(is_marks(replace(one, residual=0.24)))
        self.assertFalse(is_marks(replace(line("Depths", 100, 40), residual=0.24)))

    def test_a_stop_half_way_up_between_words_is_a_dot(self) -> None:
        inked = np.zeros((20, 100), bool)
        inked[4:16, 2:30] = inked[4:16, 70:98] = True
        runs = [(2, 30), (48, 51), (70, 98)]
        said = Spelling("a . b", (0.16, 0.3, 0.495, 0.6, 0.84), (1.0,) * 5)
        for top, wanted in ((8, "a · b"), (13, "a . b")):
            dotted = inked.copy()
            dotted[top : top + 3, 48:51] = True
            self.assertEqual(with_dots(said, runs, dotted, 12.0).text, wanted)

    def test_the_marks_of_a_list_are_kept_whatever_the_face_has(self) -> None:
        items = "".join(
            f"<li>{t}</li>"
            for t in (
                "a concise overview of every station,",
                "a readable bulletin,",
                "depths, and much more,",
            )
        )
        list_ = f"<ul style='list-style:disc;padding-left:40px'>{items}</ul>"
        *_, html = page(f"<main style='font-family:Carlito'><h1>Depths</h1>{PROSE}{list_}{PROSE}</main>")
        self.assertEqual(html.count("<li>") + html.count("<li "), 3)


if __name__ == "__main__":
    unittest.main()
