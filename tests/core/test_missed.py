"""What reading used to miss: bold prices, signs between words, short code, logos in one with their name, frames, floating buttons."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Fill, Node, Rect, Rule, Surface
from neige.core.model.geometry import edges
from neige.core.outline.floats import find_floats
from neige.core.reading import read
from neige.core.reading.illustrations import join_illustrations
from neige.core.reading.mistaken import is_cross, without_tick
from neige.core.reading.surfaces.framed import frames_of_sides
from neige.core.reading.surfaces.rectangles import fit_rectangle
from neige.core.reading.text.crops import trim
from neige.core.reading.text.ink import measure_ink
from neige.core.reading.text.raw import RawLine, RawWord
from neige.core.reading.text.words import _squeezed
from neige.core.reading.type.missed import _beside_letters, _whole, _without_arrow
from neige.core.reading.type.underline import without_underlines
from tests.core.test_outline import BODY, STYLES, line, style
from tests.core.test_structure import PROSE, page, tagged
from tests.support import drawn

SHEET = "<meta charset='utf-8'><style>body{margin:0;background:#fff;color:#212529;font:16px/26px 'DejaVu Sans'}main{padding:40px}h1{margin:0 0 16px}p{margin:0 0 12px}"


def texts(html: str, style: str = "") -> list[str]:
    picture, _ = drawn(f"{SHEET}{style}</style><main><h1>Depths</h1>{PROSE}{html}</main>", 900)
    return [n.text for n in read(picture).lines]


class TicksAndCrosses(unittest.TestCase):
    """A tick or a cross before words, as they are read: a root, or an X in another ink."""

    def read(self, sign: str, colour: str, apart: float) -> list[str]:
        first, rest = line(sign, 150, 300), line("daily readings", 150 + apart, 300)
        styles = [*STYLES, style(colour=colour)]
        mark = replace(first.words[0], style=len(STYLES))
        whole = replace(
            rest, words=(mark, *rest.words), box=edges(150, rest.box.y, rest.box.right, rest.box.bottom)
        )
        return [w.text for w in without_tick(whole, styles).words]

    def test_a_tick_and_a_cross_in_another_ink_are_no_words(self) -> None:
        self.assertEqual(self.read("√", "#22303a", 30), ["daily", "readings"])
        self.assertEqual(self.read("X", "#c02020", 30), ["daily", "readings"])

    def test_an_x_in_the_ink_of_its_words_or_right_before_them_is_read(self) -> None:
        self.assertEqual(self.read("X", "#22303a", 30), ["X", "daily", "readings"])
        self.assertEqual(self.read("X", "#c02020", 13), ["X", "daily", "readings"])

    def test_a_cross_by_itself_is_one_if_words_in_another_ink_follow(self) -> None:
        red = style(colour="#c02020")
        alone, rest = line("X", 150, 300), line("daily readings", 180, 300)
        self.assertTrue(is_cross(alone, red, [alone, rest], STYLES))
        self.assertFalse(is_cross(alone, BODY, [alone, rest], STYLES))
        self.assertFalse(is_cross(alone, red, [alone], STYLES))
        self.assertFalse(is_cross(line("XL", 150, 300), red, [rest], STYLES))


class Underlines(unittest.TestCase):
    def test_the_line_under_a_links_words_is_no_rule(self) -> None:
        styles = [*STYLES, style(underline=True)]
        whole = line("see the whole list of stakes", 150, 300)
        words = tuple(replace(w, style=len(STYLES)) if 1 <= k <= 3 else w for k, w in enumerate(whole.words))
        linked = replace(whole, words=words)
        first, last = words[1].ink.x, words[3].ink.right

        def found(x: float, right: float, y: float) -> bool:
            return not without_underlines([Rule(edges(x, y, right, y + 1), "#000000")], [linked], styles)

        self.assertTrue(found(first, last, 307))
        self.assertFalse(found(first, last, 314))  # too far below
        self.assertFalse(found(first, last + 40, 307))  # under other words, too
        rule = Rule(edges(first, 307, last, 308), "#000000")
        self.assertEqual(without_underlines([rule], [whole], styles), [rule])


class Words(unittest.TestCase):
    def test_what_is_narrower_than_any_face_sets_it_is_no_ink(self) -> None:
        def word(wide: float) -> list[RawWord]:
            return [RawWord("GREYSCALE", (0, 0, wide, 60), (16, 16, 16), 0.99)]

        self.assertTrue(_squeezed(word(140), 60))
        self.assertFalse(_squeezed(word(340), 60))

    def test_bold_figures_are_ink_and_not_ground(self) -> None:
        price = "<p style='line-height:1'><b style='font-size:56px'>${}</b> <span style='font-size:16px;color:#6c757d'>/ mo.</span></p>"
        found = texts(price.format(0) + price.format(9))
        for figure in ("$0", "$9"):
            self.assertIn(figure, found)
        self.assertEqual(sum(t == "/ mo." for t in found), 2)

    def test_the_ground_of_bold_letters_is_at_the_rim(self) -> None:
        crop = np.full((40, 60, 3), 255, np.uint8)
        crop[4:36, 2:28] = crop[4:36, 30:58] = 30
        ink = measure_ink(crop)
        self.assertGreater(ink.ground.min(), 250)
        self.assertLess(ink.colour.max(), 40)
        badge = np.full((40, 60, 3), 235, np.uint8)  # hardly other than what is around it
        badge[:3] = badge[-3:] = 255
        badge[12:28, 20:23] = 20
        self.assertLess(measure_ink(badge).ground.max(), 240)

    def test_signs_a_space_from_words_are_words(self) -> None:
        row = "<p style='font:14px/24px Liberation Sans'>{}</p>"
        found = " ".join(
            texts(row.format("previous | next | stakes | index") + row.format("26.70% / 29 and 8.22% / 42"))
        )
        self.assertIn("previous | next | stakes | index", found)
        self.assertIn("26.70% / 29 and 8.22% / 42", found)
        self.assertIn("and/or", " ".join(texts(row.format("the board and/or the stake"))))

    def test_options_of_a_command_are_text(self) -> None:
        terms = "".join(f"<dt style='color:#00008b'>{o}</dt><dd>{t}</dd>" for o, t in (
            ("-n", "read nothing, only say what would be read"), ("-q", "say more of what is read at each stake"), ("--dry-run", "the same")))  # fmt: skip
        found = texts(f"<dl>{terms}</dl>", "dl{font-family:'Liberation Serif'}")
        for option in ("-n", "-q", "--dry-run"):
            self.assertIn(option, found)

    def test_a_mark_that_holds_a_letter_is_no_letter_of_the_name(self) -> None:
        logo = "<svg width='40' height='32' style='vertical-align:middle;margin-right:8px'><rect width='40' height='32' rx='6' fill='#212529'/><text x='13' y='23' fill='#fff' style='font:bold 20px DejaVu Sans'>F</text></svg>"
        found = texts(
            f"<p style='font-size:20px'>{logo}<span style='vertical-align:middle'>Firnwatch example</span></p>"
        )
        self.assertIn("Firnwatch example", found)


class Cut(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        html = "<style>body{margin:0;background:#fff}p{position:absolute;left:60px;top:40px;margin:0;font:700 48px/1 Liberation Sans;color:#33415a}</style><p>$49</p>"
        cls.picture, _ = drawn(html, 400)
        ys, xs = np.nonzero(cls.picture.pixels.min(axis=2) < 200)
        cls.ink = (int(xs.min()), int(ys.min()), int(xs.max()) + 1, int(ys.max()) + 1)

    def test_a_box_that_cuts_figures_is_made_larger(self) -> None:
        x0, y0, x1, y1 = self.ink
        box = (x0 + 40.0, y0 + 9.0, x1 - 6.0, y1 - 12.0)  # the lower half of two of its letters
        limits, ground = (0.0, 999.0), (0, 0, 400, self.picture.pixels.shape[0])
        found, ink = trim(self.picture.pixels, box, limits, ground, 0.0)
        self.assertIsNotNone(ink)
        for a, b in zip(found, self.ink):
            self.assertAlmostEqual(a, b, delta=3)

    def test_a_long_line_that_touches_something_is_left_as_it_was_found(self) -> None:
        shot = self.picture.pixels.copy()
        shot[20:100, 150:390] = shot[60, 5]
        shot[20:100, 160:380:6] = 40  # bars far above and below the line
        found, _ = trim(shot, (158.0, 50.0, 384.0, 70.0), (0.0, 999.0), (0, 0, 400, shot.shape[0]), 0.0)
        self.assertLessEqual(found[3] - found[1], 30)

    def test_letters_are_whole_though_their_mark_was_cut_smaller(self) -> None:
        x0, y0, x1, y1 = self.ink
        marks = edges(x0 + 2, y0 + 6, x1 - 2, y1 - 8)
        word = RawWord(
            "$49", (float(x0 + 2), float(y0 + 6), float(x1 - 2), float(y1 - 8)), (51.0, 65.0, 90.0), 1.0
        )
        n = RawLine((word,), word.box, (255.0, 255.0, 255.0), True, 1.0)
        got = _whole(n, marks, self.picture.pixels, 1)
        for a, b in zip(got.box, self.ink):
            self.assertAlmostEqual(a, b, delta=1.5)


class Frames(unittest.TestCase):
    def test_what_others_leave_of_a_ground_is_a_region(self) -> None:
        ground = np.ones((400, 600), bool)
        ground[12:388, 12:588] = False
        self.assertEqual(fit_rectangle(ground), 0.0)
        border = np.ones((400, 600), bool)
        border[4:-4, 4:-4] = False
        self.assertIsNone(fit_rectangle(border))

    def test_four_lines_with_corners_between_are_a_frame(self) -> None:
        ink, white = "#dee2e6", Fill("#ffffff")
        lines = [(46, 40, 188, 1), (46, 239, 188, 1), (40, 46, 1, 188), (239, 46, 1, 188)]
        rules = [Rule(Rect(*box), ink) for box in lines]
        picture = Surface(Rect(45, 45, 190, 190), Fill("#868e96"))
        surfaces, left = frames_of_sides([picture], rules, white)
        self.assertEqual(left, [])
        frame = next(s for s in surfaces if s is not picture)
        self.assertEqual((frame.rect, frame.radius, frame.fill), (Rect(40, 40, 200, 200), 6.0, white))
        self.assertEqual((frame.border, frame.border_colour), ((1.0,) * 4, ink))
        _, open_ = frames_of_sides([picture], rules[1:], white)
        self.assertEqual(len(open_), 3)  # a side is missing

    def test_sides_of_two_cards_in_a_row_are_no_frame(self) -> None:
        rules = [Rule(Rect(x, 100, 1, 300), "#d2d2d2") for x in (72, 492, 509, 929)]
        rules += [Rule(Rect(x, y, 409, 1), "#d2d2d2") for x in (78, 515) for y in (94, 405)]
        boxes = [s.rect for s in frames_of_sides([], rules, Fill("#f8f9fa"))[0]]
        self.assertEqual(sorted(b.x for b in boxes), [72, 509])


class Floats(unittest.TestCase):
    PAGE = Rect(0, 0, 1000, 1200)

    def part(self, x: float, y: float, w: float, h: float) -> Node:
        return Node("block", Rect(x, y, w, h), surface=Surface(Rect(x, y, w, h), Fill("#2456a8"), 6.0))

    def test_a_button_in_the_margin_floats(self) -> None:
        body = [self.part(80, y, 840, 300) for y in (0, 340, 680)]
        button = self.part(16, 600, 36, 36)
        self.assertEqual(find_floats([*body, button], self.PAGE), [button])
        self.assertEqual(button.attributes["floats"], "1")
        self.assertEqual(
            find_floats([*body, self.part(16, 600, 36, 36), self.part(20, 40, 20, 20)], self.PAGE), []
        )

    def test_it_is_written_after_the_page_and_stands_where_it_was_seen(self) -> None:
        button = "<div style='position:absolute;left:16px;top:300px;width:36px;height:36px;border-radius:6px;background:#2456a8'><svg width='20' height='20' style='margin:8px'><path d='M2 10h16M10 2v16' stroke='#fff' stroke-width='2'/></svg></div>"
        cards = "".join(
            f"<div style='border:1px solid #ccd;border-radius:6px;padding:20px;margin-bottom:20px'><h2>{t}</h2>{PROSE}</div>"
            for t in ("Stakes", "Boards", "Wind")
        )
        _, outline, html = page(
            f"<main style='padding:40px 80px'><h1>Depths</h1>{PROSE}{cards}</main>{button}"
        )
        (found,) = [n for n in outline.root.children if n.attributes.get("floats")]
        self.assertIs(outline.root.children[-1], found)
        self.assertEqual((found.tag, found.rect.x, found.rect.y), ("button", 16, 300))
        self.assertRegex(html, r"<button[^>]*aria-label")
        self.assertEqual(len(tagged(outline, "main")), 1)


class Icons(unittest.TestCase):
    def test_icons_stay_icons(self) -> None:
        shapes = (
            "M2 8h6l2-5 2 14 2-9h4",
            "M4 4h12v12H4zM4 8h12",
            "M10 2l8 16H2z",
            "M3 6h14l-2 10H5zM7 6V3h6v3",
        )
        row = "".join(
            f"<svg width='20' height='20' style='margin-right:24px'><path d='{d}' fill='none' stroke='#212529' stroke-width='2'/></svg>"
            for d in shapes
        )
        picture, _ = drawn(f"{SHEET}</style><main><h1>Depths</h1>{PROSE}<p>{row}</p></main>", 900)
        found = read(picture)
        below = [c for c in found.cutouts if c.kind == "icon"]
        self.assertEqual(len(below), len(shapes))
        self.assertTrue(all(isinstance(c, Cutout) for c in below))

    def test_figures_after_an_arrow_are_text_and_it_is_an_icon(self) -> None:
        arrow = (
            "<svg width='12' height='13' viewBox='0 0 12 13' style='vertical-align:-1px'><path d='M6 1v11M1.5 5.5L6 1l4.5 4.5' "
            "fill='none' stroke='#10b981' stroke-width='2.4'/></svg>"
        )
        cards = "".join(
            f"<p style='margin:0 0 60px {x}px;font:14px/20px DejaVu Sans;color:#10b981'>{arrow}<span style='margin-left:6px'>{t}</span>"
            "<span style='margin-left:14px;color:#94a3b8'>Since last month</span></p>"
            for x, t in ((0, "3.48%"), (240, "12%"), (120, "1.10%"))
        )
        picture, _ = drawn(f"{SHEET}</style><main><h1>Depths</h1>{PROSE}{cards}</main>", 900)
        found = read(picture)
        words = " ".join(n.text for n in found.lines).split()
        for figure in ("3.48%", "12%", "1.10%"):
            self.assertIn(figure, words)
        self.assertEqual([c.kind for c in found.cutouts], ["icon"] * 3)

    def test_an_arrow_that_was_read_as_a_letter_of_the_figure_is_none(self) -> None:
        picture, drawing = drawn(
            f"{SHEET}</style><main><p>↑<b style='margin-left:6px'>12%</b></p></main>", 400
        )
        arrow, figure = drawing.words[0].rect, drawing.words[1].rect
        x0, x1 = round(arrow.x), round(figure.right)
        box = (float(x0), figure.y + 4, float(x1), figure.bottom - 4)
        glued = RawLine((RawWord("↑12%", box, (33.0, 37.0, 41.0), 1.0),), box, (255.0,) * 3, True, 1.0)
        found = _without_arrow(glued, picture.pixels)
        self.assertEqual(found.text, "12%")
        self.assertAlmostEqual(found.box[0], figure.x, delta=2)
        self.assertEqual(found.box[2], x1)
        parted = replace(glued, words=(replace(glued.words[0], text="↑"), replace(found.words[0])))
        self.assertEqual(_without_arrow(parted, picture.pixels), replace(found))
        self.assertEqual(_without_arrow(found, picture.pixels), found)
        icon = Cutout(Rect(x0, figure.y + 6, arrow.w, 10), "icon")
        self.assertEqual(_beside_letters(icon, figure), icon)
        self.assertIsNone(_beside_letters(Cutout(figure, "icon"), figure))


class Illustrations(unittest.TestCase):
    PANEL = Surface(Rect(80, 100, 400, 288), Fill("#ba4c63"), 8.0)

    def shapes(self) -> tuple[list[Surface], list[Cutout]]:
        disc = Surface(Rect(166, 130, 228, 228), Fill("#e27c3e"), 114.0)
        pieces = [Cutout(Rect(x, 234, 8, 24), "icon") for x in (168, 384)]
        return [self.PANEL, disc], [*pieces, Cutout(Rect(205, 210, 152, 69), "image")]

    def test_shapes_in_and_on_each_other_in_a_box_are_one_picture(self) -> None:
        surfaces, cutouts = join_illustrations(*self.shapes(), [], 1440)
        self.assertEqual(surfaces, ())
        self.assertEqual([(c.rect, c.kind, c.radius) for c in cutouts], [(self.PANEL.rect, "image", 8.0)])

    def test_a_picture_alone_in_a_dark_panel_is_part_of_it(self) -> None:
        photo = Cutout(Rect(166, 130, 228, 228), "image", 114.0)
        self.assertEqual(join_illustrations([self.PANEL], [photo], [], 1440)[0], ())
        pale = Surface(self.PANEL.rect, Fill("#ffffff"), 8.0)
        self.assertEqual(join_illustrations([pale], [photo], [], 1440), ((pale,), (photo,)))

    def test_what_has_words_or_pictures_of_one_size_stays_a_panel(self) -> None:
        surfaces, cutouts = self.shapes()
        said = [line("Stakes", 200, 300)]
        left, marks = join_illustrations(surfaces, cutouts, said, 1440)
        self.assertEqual((left, len(marks)), (tuple(surfaces), 3))
        row = [Cutout(Rect(100 + 125 * i, 200, 110, 88), "image") for i in range(3)]
        self.assertEqual(join_illustrations([self.PANEL], row, [], 1440), ((self.PANEL,), tuple(row)))
