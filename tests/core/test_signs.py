"""Signs that say what words are: bullets before code, turns of pages, prompts, dotted lines under links, tints in sentences, stops of
code, and bold words that stand beside a button."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Cutout, Fill, Node, Reading, Rect, Surface, TypeStyle
from neige.core.outline.choices import find_choices
from neige.core.reading import read
from neige.core.reading.surfaces.pictures import box_icons
from neige.core.reading.text.bars import with_bars
from neige.core.reading.text.bullets import read_bullets
from neige.core.reading.text.prompts import read_prompts
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.type.fixed_width import _character, _laid
from neige.core.reading.type.kin import take_kin
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.pieces import cut_pieces
from tests.core.test_type import PROSE, Sheet, row_of
from tests.support import drawn

MONO = "font:13px 'DejaVu Sans Mono'"


def pixels_of(sheet: Sheet) -> np.ndarray:
    return np.clip(np.round(sheet.pixels), 0, 255).astype(np.uint8)


class Bullets(unittest.TestCase):
    def marked(self, *texts: str) -> list[RawLine]:
        sheet, row = Sheet(), row_of("DejaVu Sans Mono", 400)
        for n, text in enumerate(texts):
            sheet.line(text, row, 14.0, 40 + 30 * n, x=60.0)
            sheet.pixels[33 + 30 * n : 38 + 30 * n, 42:47] = (30, 40, 50)
        return read_bullets(sheet.lines, pixels_of(sheet), 1)

    def test_an_option_of_a_command_has_a_bullet_before_it(self) -> None:
        found = self.marked('"--depth", the name is depth', "--all reads every stake", "@station is its name")
        self.assertTrue(all(n.bullet for n in found))

    def test_a_lone_sign_has_none(self) -> None:
        self.assertFalse(any(n.bullet for n in self.marked("- depth", "- station", "$ read")))


class Prompts(unittest.TestCase):
    def read(self, *words: RawWord) -> list[str]:
        pixels = np.full((120, 200, 3), 255, np.uint8)
        for x in (22, 31, 40):
            pixels[50:52, x : x + 2] = 0
        first = RawWord(">>>", (20.0, 20.0, 44.0, 30.0), (0, 0, 0), 1.0)
        given = [RawLine((w,), w.box, (255, 255, 255), True, 1.0) for w in (first, *words)]
        return [n.text for n in read_prompts(given, pixels, 1)]

    def dot(self, x: float, text: str = ".") -> RawWord:
        return RawWord(text, (x, 50.0, x + 2, 52.0), (0, 0, 0), 0.8)

    def test_dots_that_were_read_one_by_one_are_one_prompt(self) -> None:
        self.assertEqual(self.read(*(self.dot(x) for x in (22.0, 31.0, 40.0))), [">>>", "..."])

    def test_a_prompt_that_was_read_is_not_found_again(self) -> None:
        whole = RawWord("...", (22.0, 50.0, 42.0, 52.0), (0, 0, 0), 0.9)
        self.assertEqual(self.read(whole), [">>>", "..."])


class Links(unittest.TestCase):
    def test_a_dotted_line_goes_on_beside_a_descender(self) -> None:
        links = "".join(
            f"<p style='margin:12px 40px'><a style='border-bottom:1px dotted #444;color:#444'>{t}</a></p>"
            for t in ("Hourly guides", "Reference guides", "Snow by gauge")
        )
        picture, _ = drawn(
            f"<style>body{{margin:0;background:#fff;font:14px/17px 'Liberation Serif'}}</style>{links}",
            500,
            fitted=True,
        )
        self.assertEqual(
            [n.text for n in read(picture).lines], ["Hourly guides", "Reference guides", "Snow by gauge"]
        )

    def test_a_line_that_gives_way_to_one_descender_after_another_is_one(self) -> None:
        names = ("Proxying", "Logging", "Stations", "Maps", "Observers")
        links = "".join(
            f"<p style='margin:18px 40px'><a style='color:#0000ee;text-decoration:underline'>{t}</a></p>"
            for t in names
        )
        plain = "<p style='margin:18px 40px;color:#0000ee'>Shopping</p>"
        picture, _ = drawn(
            f"<style>body{{margin:0;background:#fff;font:16px/18px 'Liberation Serif'}}</style>{links}{plain}",
            500,
            fitted=True,
        )
        found = read(picture)
        under = {w.text: found.styles[w.style].underline for n in found.lines for w in n.words}
        self.assertEqual(under, {**dict.fromkeys(names, True), "Shopping": False})

    def test_two_such_links_beside_each_other_stay_two(self) -> None:
        link = "<a style='color:#0000ee;text-decoration:underline'>{}</a>"
        text = f"Every hut calls {link.format('gauge()')}, {link.format('report()')} and {link.format('send()')} at eight."
        picture, _ = drawn(
            f"<style>body{{margin:30px;background:#fff;font:16px/20px 'Liberation Sans'}}</style><p>{text}</p>",
            700,
            fitted=True,
        )
        found = read(picture)
        words = {w.text: found.styles[w.style].underline for n in found.lines for w in n.words}
        self.assertFalse(words["gauge(),"] and words["report()"])

    def test_the_feet_of_bold_letters_are_no_line(self) -> None:
        names = ("Dashboard", "Items", "DELETE", "minima")
        body = "".join(f"<p style='margin:18px 40px'><b>{t}</b></p>" for t in names)
        sizes = {}
        for size in (12, 12.25, 13.6, 14):
            picture, _ = drawn(
                f"<style>body{{margin:0;background:#fff;font:{size}px/18px 'Liberation Serif';color:#344767}}</style>{body}",
                500,
                fitted=True,
            )
            found = read(picture)
            sizes[size] = [w.text for n in found.lines for w in n.words if found.styles[w.style].underline]
        self.assertEqual(sizes, {size: [] for size in sizes})


class Parted(unittest.TestCase):
    def test_signs_with_more_room_than_spaces_part_what_is_fitted(self) -> None:
        """A line that does not fit as a whole must not choose the page's families."""
        picture, _ = drawn(
            "<style>body{margin:30px;background:#f2f5f9;color:#7a7a7a;text-align:center;font:17.5px/26px 'Liberation Serif'}</style>"
            "<p>Please sign in to report.</p><p style='font:700 14px/20px \"Liberation Serif\"'>"
            "Sign up &nbsp;&middot;&nbsp; Forgot password &nbsp;&middot;&nbsp; Need help?</p>",
            700,
            fitted=True,
        )
        found = read(picture)
        set_in = {n.text: found.styles[n.style] for n in found.lines}
        self.assertEqual(
            {t: (s.family, s.size, s.weight) for t, s in set_in.items()},
            {
                "Please sign in to report.": ("Liberation Serif", 17.5, 400),
                "Sign up · Forgot password · Need help?": ("Liberation Serif", 14.0, 700),
            },
        )


class Bars(unittest.TestCase):
    """As runs of inked columns; the ink is 16 px high."""

    def parted(
        self, words: str, runs: list[tuple[int, int]], places: list[float], bar: tuple[int, int]
    ) -> list[str]:
        inked = np.zeros((24, 220), bool)
        for a, b in runs:
            inked[4:20, a:b] = np.arange(b - a) % 3 < 2
        inked[3:22, bar[0] : bar[1]] = True
        tokens = [(w, 0, 0) for w in words.split()]
        found, limits = with_bars(tokens, places, sorted([*runs, bar]), inked, 16)
        self.assertEqual(len(limits), 2 * len(found))
        return [t[0] for t in found]

    def test_a_bar_that_was_passed_over_is_a_word(self) -> None:
        runs = [(10, 60), (110, 180)]
        self.assertEqual(
            self.parted("Huts Stakes", runs, [10, 82, 110, 180], (80, 82)), ["Huts", "|", "Stakes"]
        )
        self.assertEqual(
            self.parted("Huts Stakes", runs, [10, 60, 80, 180], (80, 82)), ["Huts", "|", "Stakes"]
        )

    def test_what_is_thick_or_part_of_a_word_is_none(self) -> None:
        runs = [(10, 60), (110, 180)]
        self.assertEqual(self.parted("Huts Stakes", runs, [10, 86, 110, 180], (80, 86)), ["Huts", "Stakes"])
        self.assertEqual(self.parted("Huts Stakes", runs, [10, 65, 110, 180], (63, 65)), ["Huts", "Stakes"])
        self.assertEqual(self.parted("Hall Stakes", runs, [10, 82, 110, 180], (80, 82)), ["Hall", "Stakes"])


class Tints(unittest.TestCase):
    CODE = "<code style=\"font:12.35px/14px 'DejaVu Sans Mono';background:#ecf0f3;padding:0 1px\">{}</code>"

    def test_code_in_a_justified_sentence_stays_in_it(self) -> None:
        first, second = (self.CODE.format(t) for t in ("StakePresets.json", "HutPresets.json"))
        html = f"""<p style='margin:30px;width:800px;font:16px/22px "Liberation Sans";color:#444;text-align:justify'>
{first} and {second} lie in the root of every station's own directory on the ridge. They both have exactly the same form, and both may be left out unless the hut below asks for one of them by its name, as {first} is.</p>"""
        found = read(drawn(html, 900, fitted=True)[0])
        begins = next(n for n in found.lines if "StakePresets.json" in n.text)
        self.assertTrue(begins.text.startswith("StakePresets.json and HutPresets.json lie in"), begins.text)


class Cells(unittest.TestCase):
    def test_a_stop_on_a_tint_that_was_not_taken_off_stays(self) -> None:
        sheet, row = Sheet(), row_of("DejaVu Sans Mono", 400)
        sheet.line("stakes.json", row, 14.0, 60)
        sheet.pixels[44:66, 10:130] -= 20 * (sheet.pixels[44:66, 10:130] > 200)
        (piece,) = cut_pieces(0, sheet.lines[0], pixels_of(sheet))
        boxes = np.array([w.box for w in piece.words])
        kind = Type(row, 14.0, 0.0, 0.02)
        cells = _laid(kind, [piece], 20.0, 60, boxes, pixels_of(sheet), {})
        assert cells is not None
        at = cells.read.index(".")
        self.assertGreater(float(cells.unlike(at).min()), 0.2)
        self.assertEqual(_character(cells, at), ".")


class Turns(unittest.TestCase):
    CELL = "<a style='display:inline-block;padding:8px 12px;border:1px solid #dee2e6;margin-left:-1px;color:#0057b8'>{}</a>"

    def pages(self, before: str, after: str, family: str) -> Reading:
        """Boxes with the numbers of three pages, and what turns to the page before and after them."""
        cells = "".join(self.CELL.format(t) for t in (before, "1", "2", "3", after))
        html = f"""<style>body{{margin:30px;background:#fff;font:16px/20px '{family}'}}</style>
<p>Forty-eight stations of the network report here.</p><div>{cells}</div>"""
        return read(drawn(html, 700, fitted=True)[0])

    def words(self, found: Reading) -> list[str]:
        lines = sorted((n for n in found.lines if n.box.y > 60), key=lambda n: n.box.x)
        return [w.text for n in lines for w in n.words]

    def test_what_turns_to_the_page_before_and_after_is_text(self) -> None:
        found = self.pages("&laquo;", "&raquo;", "Liberation Sans")
        self.assertEqual(self.words(found), ["«", "1", "2", "3", "»"])
        self.assertFalse(found.cutouts)

    def test_an_angle_too_thin_for_a_picture_at_the_end_of_numbered_boxes_is_text(self) -> None:
        found = self.pages("&lsaquo;", "&rsaquo;", "DejaVu Sans")
        self.assertEqual(self.words(found), ["‹", "1", "2", "3", "›"])

    def test_a_bracket_alone_under_a_line_of_code_is_code(self) -> None:
        code = 'fn main() {\n    println!("Snow on the ridge");\n}'
        html = f"<style>body{{margin:30px;background:#fff;font:16px/24px 'Liberation Sans'}}pre{{{MONO};line-height:19px}}</style><p>Every hut runs this small program at eight.</p><pre>{code}</pre><p>It says what it was told to say.</p>"
        found = read(drawn(html, 700, fitted=True)[0])
        self.assertFalse(found.cutouts)
        self.assertIn("}", " ".join(n.text for n in found.lines).split())


class Icons(unittest.TestCase):
    def test_a_square_that_would_leave_the_page_is_none(self) -> None:
        mark = Cutout(Rect(100, 390, 24, 10), "icon")
        inside = box_icons([mark], [], [], page=Rect(0, 0, 800, 500))[0].rect
        self.assertEqual((inside.w, inside.h), (24, 24))
        self.assertEqual(box_icons([mark], [], [], page=Rect(0, 0, 800, 400)), [mark])

    def test_a_menus_framed_icon_is_nothing_to_tick(self) -> None:
        frame = Surface(Rect(27, 117, 26, 26), Fill("#ffffff"), 2.0, (2.0,) * 4, "#938f8b")
        marks = [Cutout(Rect(26, y, 28, 28), "icon") for y in (176, 236)]
        style = TypeStyle("Inter", "sans", "", 12, 400, False, 0.0, "#222222", 11.0, 3.0)

        def ticked(*cutouts: Cutout) -> int:
            reading = Reading(
                800, 600, 1, Fill("#ffffff"), (frame,), (), (*marks, *cutouts), (), (style,), (), 0.0
            )
            content = [Node("block", frame.rect, surface=frame)]
            content += [Node("image", c.rect, tag="img", cutout=k) for k, c in enumerate(marks)]
            content += [Node("text", Rect(70, y, 78, 15), tag="p") for y in (122, 182, 242)]
            return sum(n.attributes.get("role") == "choice" for n in find_choices(content, reading))

        self.assertEqual(ticked(), 2, "two as large under an empty frame may be ticked")
        self.assertEqual(ticked(Cutout(Rect(26, 116, 28, 28), "icon")), 0, "an icon in its frame")


class Rings(unittest.TestCase):
    ENTRIES = "".join(
        f"<div>{t}</div>" for t in ("Upper Stake reports", "Brenn Hut is late", "Vell Mouth is silent")
    )

    def test_a_ring_of_any_thickness_is_round_and_as_large_as_it_was_drawn(self) -> None:
        for thick in (1, 2, 3):
            html = f"""<body style='margin:30px;background:#fff;font:15px/24px "Liberation Sans"'>{self.ENTRIES}
<div style='position:absolute;left:330px;top:33px;width:18px;height:18px;box-sizing:border-box;border:{thick}px solid #7ac29a;border-radius:9px'></div>"""
            (ring,) = read(drawn(html, 400)[0]).surfaces
            with self.subTest(thick):
                self.assertEqual((ring.rect, ring.radius), (Rect(330, 33, 18, 18), 9.0))
                self.assertEqual(ring.border, (thick,) * 4)
                self.assertIsNone(ring.shadow)


class Kin(unittest.TestCase):
    def types(self, said: str) -> list[Type]:
        """Prose in one type, and a bold piece that another family at a wrong size was found for."""
        sheet, plain, bold = Sheet(), row_of("Liberation Sans", 400), row_of("Liberation Sans", 700)
        for n, text in enumerate(PROSE):
            sheet.line(text, plain, 16.0, 40 + 30 * n)
        sheet.line("stake-depth-reading:", bold, 16.0, 200)
        word = sheet.lines[-1].words[0]
        tall = replace(word, text=said, box=(word.box[0], word.box[1] - 2, word.box[2], word.box[3] + 3))
        sheet.lines[-1] = replace(sheet.lines[-1], words=(tall,), box=around([tall.box]))
        pieces = [p for i, raw in enumerate(sheet.lines) for p in cut_pieces(i, raw, pixels_of(sheet))]
        known = Type(plain, 16.0, 0.0, 0.01, members=pieces[:-1])
        wrong = Type(row_of("Poppins", 400), 15.5, 0.0, 0.6, members=pieces[-1:])
        types = [known, wrong]
        take_kin(types, 1)
        return types

    def test_what_a_button_beside_it_makes_too_high_is_set_in_the_pages_bold(self) -> None:
        for said in ("stake-depth-reading:", "stake–depth–reading:"):
            with self.subTest(said):
                known, bold = self.types(said)
                self.assertEqual((bold.row, bold.size), (row_of("Liberation Sans", 700), 16.0))
                self.assertEqual(bold.members[0].words[0].text, "stake-depth-reading:")
                self.assertEqual(len(known.members), len(PROSE))

    def test_what_they_do_not_draw_stays(self) -> None:
        self.assertEqual([t.size for t in self.types("entirely other letters")], [16.0, 15.5])


if __name__ == "__main__":
    unittest.main()
