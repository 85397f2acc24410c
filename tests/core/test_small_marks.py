"""Small things beside words: lines under them, names in a paler ink, arrows, carets, dots, and where their boxes belong."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Fill, Node, Rect, Surface
from neige.core.outline import arrange
from neige.core.outline.icons import link_icons
from neige.core.outline.middle import middle_columns
from neige.core.reading import read
from neige.core.reading.logos import without_logos
from neige.core.reading.surfaces.choices import settle_choices
from neige.core.reading.surfaces.pieces import join_pieces
from neige.core.writer import write
from neige.core.writer.caret import caret, polygon
from tests.core.test_menus import words
from tests.core.test_outline import STYLES, line, reading
from tests.core.test_structure import PROSE, page, tagged
from tests.support import drawn

SHEET = "<meta charset='utf-8'><style>body{margin:0;background:#fff;color:#223;font:16px/26px 'Liberation Serif'}main{padding:40px}h1{margin:0 0 16px}p{margin:0 0 12px}a{color:inherit;text-decoration:none}"


class Underlines(unittest.TestCase):
    def under(self, rule: str) -> tuple[str, object]:
        links = "".join(f"<li><a>{t}</a></li>" for t in ("Stations", "Depth by noon", "Archive of bulletins"))
        html = f"{SHEET}ul{{list-style:none;margin:0;padding:0}}li a{{{rule}}}</style><main><h1>Depths</h1>{PROSE}<ul>{links}</ul></main>"
        picture, _ = drawn(html, 900)
        found = read(picture)
        style = next(s for s in found.styles if s.underline)
        return write(arrange(found), found, picture).css, style

    def test_a_dotted_line_below_the_descenders_is_a_border(self) -> None:
        css, style = self.under("border-bottom:1px dotted #a33")
        self.assertTrue(style.bordered)  # type: ignore[attr-defined]
        self.assertEqual((style.under.thickness, style.under.dotted), (1.0, True))  # type: ignore[attr-defined]
        self.assertRegex(css, r"border-block-end: 1px dotted (var\(--color-[\w-]+\)|#aa3333)")
        self.assertNotIn("text-decoration: underline dotted", css)

    def test_a_browsers_own_underline_stays_one(self) -> None:
        css, style = self.under("text-decoration:underline")
        self.assertFalse(style.bordered)  # type: ignore[attr-defined]
        self.assertNotIn("border-block-end: 1px", css)
        self.assertIn("text-decoration: underline;", css)


class Bullets(unittest.TestCase):
    SHEET = f"{SHEET}ul{{margin:0;padding-left:40px}}</style>"

    def icons(self, entries: str) -> int:
        _, outline, _ = page(f"{self.SHEET}<main><h1>Depths</h1>{PROSE}<ul>{entries}</ul>{PROSE}</main>")
        return sum(n.kind == "image" for n in outline.root.walk())

    def test_the_dot_of_an_entry_that_says_nothing_is_no_picture(self) -> None:
        self.assertEqual(self.icons("<li>&nbsp;</li><li>Stations of the range</li><li>Depth by noon</li>"), 0)

    def test_a_small_tick_is_no_dot(self) -> None:
        tick = "<svg width='9' height='9' viewBox='0 0 9 9' style='margin-right:10px'><path d='M1 5l2.5 2.5L8 1.5' fill='none' stroke='#1a7' stroke-width='1.6'/></svg>"
        entry = "<div style='display:flex;align-items:center;width:300px'>{}<span>{}</span></div>"
        rows = "".join(
            f"<div style='display:flex'>{entry.format(tick, a)}{entry.format(tick, b)}</div>"
            for a, b in (
                ("Nine stations", "Forty observers"),
                ("Two huts", "One bulletin"),
                ("A map", "A manual"),
            )
        )
        found, outline, _ = page(f"{self.SHEET}<main><h1>Depths</h1>{PROSE}{rows}{PROSE}</main>")
        self.assertEqual(sum(n.kind == "image" for n in outline.root.walk()), 6)
        self.assertFalse([c for c in found.cutouts if c.dot])

    def test_a_mark_that_no_entry_is_near_is_one(self) -> None:
        mark = "<li style='list-style:none'><i style='display:block;width:7px;height:9px;background:radial-gradient(#c33 40%,#fff 60%);margin:90px 0 90px -20px'></i></li>"
        self.assertEqual(self.icons(f"<li>Stations of the range</li><li>Depth by noon</li>{mark}"), 1)


class Inks(unittest.TestCase):
    FOOT = "<footer style='border-top:1px solid #ccd;margin-top:30px;padding:20px 0;font:12px/16px Liberation Sans;text-align:center;color:#666'>© 2026 <span style='color:#a0a0a0'>Firnwatch.</span> All stations reserved.</footer>"

    def test_a_paler_name_in_the_foot_is_a_link_of_its_own_ink(self) -> None:
        found, _, html = page(f"<main><h1>Depths</h1>{PROSE * 5}</main>{self.FOOT}")
        colours = {w.text: found.styles[w.style].colour for n in found.lines for w in n.words}
        self.assertNotEqual(colours["Firnwatch."], colours["stations"])
        self.assertEqual(colours["All"], colours["reserved."])
        self.assertRegex(re.sub(r"\s+", " ", html), r"<a [^>]*>Firnwatch\.</a> All stations")

    def test_letters_of_one_ink_stay_one_text(self) -> None:
        found, _, _ = page(f"<main><h1>Depths</h1>{PROSE * 5}</main>{self.FOOT.replace('#a0a0a0', '#666')}")
        self.assertEqual(len({w.style for n in found.lines if "©" in n.text for w in n.words}), 1)


class Set(unittest.TestCase):
    LONG = "<p style='text-align:{0};width:640px'>Every station of the range reports the depth of its stake before eight in the morning, and sends what it has read to the hut; whoever cannot see the stake for drifts says so, and the neighbours read it from the other side of the valley when the wind lets them.</p>"

    def marks(self, how: str) -> list[str]:
        outline = page(f"<main><h1>Depths</h1>{self.LONG.format(how)}{PROSE}</main>")[1]
        return [n.attributes.get("justify", "") for n in outline.root.walk() if len(n.lines) > 2]

    def test_lines_from_edge_to_edge_are_justified(self) -> None:
        self.assertEqual(self.marks("justify"), ["1"])
        self.assertEqual(self.marks("left"), [""])

    def test_a_line_pressed_into_its_ground_is_one_line(self) -> None:
        found, _, html = page(
            f"<main><h1>Depths</h1>{PROSE}<hr style='border:1px inset #eee;margin:20px 0'>{PROSE}</main>"
        )
        self.assertEqual([(r.rect.w, r.rect.h) for r in found.rules], [(720.0, 1.0)])
        self.assertEqual(html.count("<hr"), 1)


class Arrows(unittest.TestCase):
    def test_an_arrow_beside_words_is_theirs(self) -> None:
        button = "<p><span style='display:inline-block;padding:12px 24px;background:#246;color:#fff;font:16px/24px Liberation Sans'>Go to the stations →</span></p>"
        found, _, html = page(f"<main><h1>Depths</h1>{PROSE * 2}{button}{PROSE}</main>")
        self.assertIn("Go to the stations →", html)
        self.assertEqual(found.cutouts, ())

    def test_what_opens_generates_its_arrow(self) -> None:
        caret_css = "display:inline-block;margin-left:6px;border:4px solid transparent;border-top-color:currentcolor;border-bottom:0;vertical-align:3px"
        entry = f"<span style='margin-right:40px'>{{0}}<i style='{caret_css}'></i></span>"
        bar = "".join(entry.format(t) for t in ("Stations", "Bulletins", "Method"))
        head = f"<header style='background:#e6edf2;padding:16px 40px'><b style='margin-right:60px'>Firnwatch</b>{bar}</header>"
        _, outline, html = page(f"{head}<main><h1>Depths</h1>{PROSE * 4}</main>", 1200)
        opening = [n for n in tagged(outline, "button") if n.attributes.get("opens")]
        self.assertEqual([words(n) for n in opening], ["Stations", "Bulletins", "Method"])
        self.assertEqual(len(re.findall(r'class="[^"]*\bopens\b', html)), 3)
        self.assertNotIn("<img", html)

    def test_shapes(self) -> None:
        down = np.clip(4 - np.abs(np.arange(8) - 3.5)[None] - np.arange(4)[:, None], 0, 1)
        points, box = caret(down) or ([], ())
        self.assertEqual((len(points), box), (3, (0.0, 0.0, 8.0, 4.0)))
        self.assertEqual(polygon(points, 8, 4), "polygon(0 0, 100% 0, 50% 100%)")
        points, _ = caret(down[::-1]) or ([], ())
        self.assertEqual(polygon(points, 8, 4), "polygon(0 100%, 100% 100%, 50% 0)")
        self.assertIsNone(caret(np.ones((6, 9))))
        self.assertIsNone(caret(np.zeros((6, 9))))


class Between(unittest.TestCase):
    def test_an_icon_between_words_is_none_of_them(self) -> None:
        pin = "<svg width=16 height=16 viewBox='0 0 16 16' style='margin-right:4px;vertical-align:-3px' fill='none' stroke='#667' stroke-width='1.5'><path d='M8 15C4 10 2.5 8.5 2.5 6a5.5 5.5 0 0 1 11 0C13.5 8.5 12 10 8 15z'/><circle cx=8 cy=6 r=2 /></svg>"
        row = "".join(
            f"<p style='font:14px/20px Liberation Sans;color:#667'>{pin}{hut} &nbsp;·&nbsp; {pin}Full-time &nbsp;·&nbsp; {pin}Upper Vell</p>"
            for hut in ("Lantern Hut", "Mirrow Col")
        )
        picture, truth = drawn(f"{SHEET}</style><main><h1>Stations</h1>{PROSE}{row}{PROSE}</main>", 700)
        found = read(picture)
        at = {w.text: w.x for n in found.lines for w in n.words}
        for word in ("Full-time", "Upper"):
            drawn_at = [d.rect.x for d in truth.words if d.text == word]
            self.assertLess(min(abs(at[word] - x) for x in drawn_at), 1.0, word)
        self.assertEqual(sum(c.kind == "icon" for c in found.cutouts), 6)


class Marks(unittest.TestCase):
    def disc(self, colour: tuple[int, int, int], radius: float = 4.0) -> np.ndarray:
        yy, xx = np.mgrid[:40, :40] + 0.5
        cover = np.clip(radius + 0.5 - np.hypot(xx - 20, yy - 20), 0, 1)[..., None]
        return np.rint(255 + cover * (np.array(colour) - 255)).astype(np.uint8)

    def test_a_disc_of_one_ink_is_a_surface(self) -> None:
        mark = Cutout(Rect(16, 16, 8, 8), "icon", ground="#ffffff")
        left, found = settle_choices([mark], self.disc((200, 40, 40)), 1)
        self.assertEqual((left, len(found)), ([], 1))
        self.assertEqual((found[0].rect, found[0].radius), (Rect(16, 16, 8, 8), 4.0))
        self.assertEqual(found[0].fill.colour, "#c82828")
        square = np.full((40, 40, 3), 255, np.uint8)
        square[16:24, 16:24] = 40
        self.assertEqual(settle_choices([mark], square, 1), ([mark], []))

    def test_pictures_whose_boxes_overlap_are_one(self) -> None:
        stone = Cutout(Rect(10, 10, 90, 80), "image", ground="#ffffff")
        name = Cutout(Rect(80, 50, 140, 50), "image", ground="#ffffff")
        self.assertEqual([c.rect for c in join_pieces([stone, name], [])], [Rect(10, 10, 210, 90)])
        beside = Cutout(Rect(110, 50, 140, 50), "image", ground="#ffffff")
        self.assertEqual(len(join_pieces([stone, beside], [])), 2)

    def test_an_icon_with_a_dot_at_its_shoulder_is_one_link(self) -> None:
        bell = Node("image", Rect(1100, 18, 20, 20), tag="img", cutout=0)
        dot = Node("block", Rect(1116, 12, 8, 8), surface=Surface(Rect(1116, 12, 8, 8), Fill("#c82828"), 4.0))
        pair = Node("row", Rect(1100, 12, 24, 26), children=[bell, dot])
        name = Node("text", Rect(100, 16, 90, 24), tag="p")
        head = Node("row", Rect(0, 0, 1440, 56), tag="header", children=[name, pair])
        link_icons(
            Node("block", Rect(0, 0, 1440, 900), tag="body", children=[head]),
            reading([], cutouts=[Cutout(bell.rect, "icon", ground="#ffffff")]),
        )
        self.assertEqual((pair.tag, bell.attributes.get("linked")), ("a", None))


class Addresses(unittest.TestCase):
    def test_an_address_of_e_mail_is_a_link_to_it(self) -> None:
        html = page(f"<main><h1>Depths</h1>{PROSE}<p>post@firnwatch.example</p>{PROSE}</main>")[2]
        self.assertRegex(
            html, r'<a [^>]*href="mailto:post@firnwatch\.example"[^>]*>post@firnwatch\.example</a>'
        )


class Logos(unittest.TestCase):
    def kept(
        self, residual: float, sizes: tuple[float, ...] = (70.0, 70.0, 70.0), fill: Fill | None = None
    ) -> list[str]:
        """What is left of the lettering in tiles of these widths, beside a text that is set well."""
        text = [line("every station reports the depth of its stake", 100, 300 + 24 * i) for i in range(8)]
        names = [line(f"Logo{i}", 110 + 150 * i, 130) for i in range(len(sizes))]
        names = [replace(n, residual=residual, style=2, words=(replace(n.words[0], style=2),)) for n in names]
        tiles = [Surface(Rect(100 + 150 * i, 105, w, 40), fill or Fill("#fff")) for i, w in enumerate(sizes)]
        styles = [replace(s, lines=9 if k == 0 else len(sizes)) for k, s in enumerate(STYLES)]
        return [n.text for n in without_logos([*text, *names], styles, tiles) if n.text.startswith("Logo")]

    def test_lettering_in_tiles_of_one_size_is_pictures(self) -> None:
        self.assertEqual(self.kept(0.3), [])
        self.assertEqual(len(self.kept(0.02)), 3)  # set in a face of the page: labels

    def test_what_stands_in_one_tile_or_in_squares_is_not(self) -> None:
        self.assertEqual(len(self.kept(0.3, (70.0,))), 1)
        self.assertEqual(len(self.kept(0.3, (48.0, 48.0))), 2)
        self.assertEqual(len(self.kept(0.3, (70.0, 90.0, 110.0))), 3)


class Cards(unittest.TestCase):
    def column(self, x: float, card: bool) -> Node:
        icon = Node("image", Rect(x + 156, 100, 64, 64), cutout=0)
        box = Rect(x, 130, 376, 200) if card else Rect(x + 40, 180, 296, 100)
        under = Node("block", box, surface=Surface(box, Fill("#f4f7f9")) if card else None)
        return Node("block", Rect(x, 100, 376, 230), children=[icon, under])

    def test_a_card_says_where_its_column_ends(self) -> None:
        self.assertEqual(middle_columns([self.column(x, False) for x in (108.0, 532.0)]), [296.0, 720.0])
        self.assertIsNone(middle_columns([self.column(x, True) for x in (108.0, 532.0)]))

    def test_what_cards_begin_with_is_their_title_if_they_say_more(self) -> None:
        def titles(more: str) -> list[str]:
            card = "<div style='width:300px;padding:14px 16px;border:1px solid #bcd;border-radius:6px;margin:12px 0'><p style='font-size:16px'>{0}</p>{1}</div>"
            cards = "".join(card.format(t, more) for t in ("Brenn Hut", "Grey Saddle"))
            body = f"<main style='font-size:14px'><h1>Stations</h1>{PROSE * 2}{cards}{PROSE * 2}</main>"
            outline = page(body)[1]
            return [words(n) for n in outline.root.walk() if re.fullmatch("h[2-6]", n.tag)]

        self.assertEqual(titles("<p>Forty beds, a sauna and a stake</p>"), ["Brenn Hut", "Grey Saddle"])
        self.assertEqual(titles(""), [])
