"""Small mechanisms by themselves: the HTML tree, edits by hand, thin lines, the page's ground, marks beside words, reports."""

from __future__ import annotations

import random
import unittest
from xml.etree import ElementTree

import numpy as np

from neige.core.model import Drawing, Finding, Page, Picture, Proof, Rect
from neige.core.proof.report import junit, report_html
from neige.core.reading.surfaces.ground import page_ground
from neige.core.reading.surfaces.rules import find_rules
from neige.core.reading.text.ink import spans
from neige.core.reading.text.marks import (
    begins_with_bullet,
    ends_in_mark,
    icon_after,
    icon_before,
    without_icons,
)
from neige.core.reading.text.prompts import read_prompts
from neige.core.reading.text.raw import RawLine, RawWord
from neige.core.writer.edits import apply_edits, hunks
from neige.core.writer.element import WIDTH, Element, paths_of, serialise
from neige.core.writer.stylesheet import Sheet
from neige.core.writer.tokens import em


class Elements(unittest.TestCase):
    def test_text_and_attributes_are_escaped(self) -> None:
        e = Element("a", {"href": '"><script>'}, ["Snow < 2 m & <b>ice</b>"])
        self.assertEqual(
            serialise(e),
            '<a href="&quot;&gt;&lt;script&gt;">Snow &lt; 2 m &amp; &lt;b&gt;ice&lt;/b&gt;</a>\n',
        )

    def test_long_text_is_wrapped_where_a_space_is_and_never_within_a_tag(self) -> None:
        link = Element(
            "a", {"class": "link link--quiet", "href": "#", "title": "where snow is measured"}, ["stake"]
        )
        words = [f"depth{n}" for n in range(30)]
        e = Element("p", {}, [" ".join(words[:15]) + " ", link, " " + " ".join(words[15:])])
        out = serialise(e, 2)
        lines = out.splitlines()
        self.assertTrue(all(len(t) <= WIDTH for t in lines))
        self.assertEqual((lines[0], lines[-1]), ("    <p>", "    </p>"))
        self.assertTrue(
            any('<a class="link link--quiet" href="#" title="where snow is measured">' in t for t in lines)
        )
        self.assertEqual([w for w in out.split() if w.startswith("depth")], words)

    def test_every_space_in_code_counts(self) -> None:
        e = Element("pre", {}, [Element("code", {}, ["if snow:\n    read()\n"])])
        self.assertEqual(serialise(e, 3), "      <pre><code>if snow:\n    read()\n</code></pre>\n")

    def test_what_is_written_in_a_text_area_begins_and_ends_there(self) -> None:
        long = "Read before eight in the morning from the stake beside the hut by those who live nearest to it, and again at six."
        e = Element("textarea", {"id": "remarks"}, [long])
        self.assertEqual(serialise(e, 2), f'    <textarea id="remarks">{long}</textarea>\n')

    def test_it_tells_where_each_part_was_written(self) -> None:
        item = Element("li", {"class": "entry entry--now"}, [Element("a", {}, ["Depth"], node=3)], node=2)
        body = Element("body", {}, [Element("hr"), Element("ul", {}, [item], node=1)], node=0)
        written: dict = {}
        lines = serialise(body, 0, written, line=7).splitlines()
        for node, tag in ((0, "<body"), (1, "<ul"), (2, "<li"), (3, "<a")):
            first, last = written[node].lines
            self.assertIn(tag, lines[first - 7])
            self.assertLessEqual(last - 7, len(lines) - 1)
        self.assertEqual(written[2].classes, ("entry", "entry--now"))
        self.assertEqual(paths_of(body), {0: (), 1: (1,), 2: (1, 0), 3: (1, 0, 0)})


class Edits(unittest.TestCase):
    HTML = "".join(f"<p>line {n}</p>\n" for n in range(40))

    def page(self, html: str) -> Page:
        return Page(html, "p {\n  color: red;\n}\n", [], {}, {})

    def test_edits_of_any_kind_make_one_text_of_the_other(self) -> None:
        """Property: hunks of two texts, put into the first, are the second."""
        rng = random.Random(11)
        for _ in range(60):
            lines = self.HTML.splitlines(keepends=True)
            for _ in range(rng.randint(1, 5)):
                at = rng.randrange(len(lines))
                kind = rng.choice(("change", "drop", "add"))
                if kind == "drop":
                    del lines[at]
                else:
                    lines[at : at + (kind == "change")] = [f"<p>other {rng.random():.4f}</p>\n"]
            after = "".join(lines)
            pins = hunks("index.html", self.HTML, after)
            done = apply_edits(self.page(self.HTML), pins)
            self.assertEqual((done.html, done.refused), (after, ()))

    def test_an_edit_finds_its_lines_where_they_have_moved(self) -> None:
        pins = hunks("index.html", self.HTML, self.HTML.replace("line 20", "line twenty"))
        moved = "<header></header>\n" * 9 + self.HTML
        self.assertEqual(apply_edits(self.page(moved), pins).html, moved.replace("line 20", "line twenty"))

    def test_of_several_places_the_nearest_is_taken(self) -> None:
        block = "<ul>\n<li>a</li>\n<li>b</li>\n<li>c</li>\n</ul>\n"
        html = block * 3
        at = html.index("<li>b</li>", len(block))
        after = html[:at] + "<li>B</li>" + html[at + 10 :]
        done = apply_edits(self.page(html), hunks("index.html", html, after))
        self.assertEqual(done.html, after)

    def test_without_its_surroundings_it_must_be_unmistakable(self) -> None:
        pins = hunks("index.html", self.HTML, self.HTML.replace("<p>line 20</p>", "<p>twenty</p>"))
        alone = "<main>\n<p>line 20</p>\n</main>\n"
        self.assertEqual(apply_edits(self.page(alone), pins).html, "<main>\n<p>twenty</p>\n</main>\n")
        twice = apply_edits(self.page(alone * 2), pins)
        self.assertEqual(twice.html, alone * 2)
        self.assertEqual(len(twice.refused), 1)
        self.assertIn("no longer written that way", twice.refused[0])


class Rules(unittest.TestCase):
    def drawn(self, *boxes: tuple[int, int, int, int], scale: int = 1) -> list:
        pixels = np.full((200 * scale, 300 * scale, 3), 255, np.uint8)
        for x, y, w, h in boxes:
            pixels[y * scale : (y + h) * scale, x * scale : (x + w) * scale] = (180, 190, 200)
        return find_rules(pixels, scale)

    def test_thin_lines_both_ways_and_at_2x(self) -> None:
        for scale in (1, 2):
            found = self.drawn((20, 40, 200, 1), (250, 20, 2, 150), scale=scale)
            self.assertEqual(
                [(r.rect, r.colour) for r in found],
                [(Rect(250, 20, 2, 150), "#b4bec8"), (Rect(20, 40, 200, 1), "#b4bec8")],
            )

    def test_what_is_thick_or_short_is_none(self) -> None:
        self.assertEqual(self.drawn((20, 40, 200, 6), (20, 100, 16, 1)), [])

    def test_nothing_is_on_an_empty_page(self) -> None:
        self.assertEqual(self.drawn(), [])


class Ground(unittest.TestCase):
    def ground(self, *bands: tuple[int, int, int, int, int]) -> str:
        """The ground of a page 100 px wide of bands (x0, y0, x1, y1, colour)."""
        pixels = np.zeros((max(b[3] for b in bands), 100, 3), np.uint8)
        for x0, y0, x1, y1, c in bands:
            pixels[y0:y1, x0:x1] = (c >> 16 & 255, c >> 8 & 255, c & 255)
        return page_ground(pixels, list(bands), {}).colour

    def test_it_is_what_reaches_round_the_cards_however_large_they_are(self) -> None:
        self.assertEqual(self.ground((0, 0, 100, 200, 0xEEF2F5), (4, 4, 96, 196, 0xFFFFFF)), "#eef2f5")

    def test_a_page_of_white_and_tinted_bands_is_white(self) -> None:
        tint, white = 0xDDE6EC, 0xFFFFFF
        self.assertEqual(
            self.ground((0, 0, 100, 60, tint), (0, 60, 100, 120, white), (0, 120, 100, 180, tint)), "#ffffff"
        )

    def test_a_panel_that_touches_no_side_is_not_the_pages(self) -> None:
        self.assertEqual(self.ground((0, 0, 100, 20, 0x223344), (5, 20, 95, 200, 0xC0FFEE)), "#223344")


class Marks(unittest.TestCase):
    def test_an_icon_before_the_first_letter_and_one_after_the_last(self) -> None:
        letters = [(30, 36), (38, 44), (46, 52)]
        self.assertEqual(without_icons(letters, 33, 49, 10, 80), (0.0, 80))
        self.assertEqual(without_icons([(4, 18), *letters], 33, 49, 10, 80), (24.0, 80))
        self.assertEqual(without_icons([*letters, (60, 74)], 33, 49, 10, 80), (0.0, 56.0))

    def test_a_letter_right_before_another_is_no_icon(self) -> None:
        self.assertIsNone(icon_before([(20, 29), (30, 36)], 33, 10))
        self.assertIsNone(icon_before([(27, 29), (33, 39)], 36, 10), "too narrow")
        self.assertEqual(icon_before([(14, 26), (31, 37)], 34, 10), 28.5)
        self.assertEqual(icon_after([(30, 36), (41, 53)], 33, 10), 38.5)
        self.assertIsNone(icon_after([(30, 36), (38, 50)], 33, 10), "a letter's gap")

    def shape(self, *boxes: tuple[int, int, int, int]) -> tuple[np.ndarray, list[tuple[int, int]]]:
        inked = np.zeros((20, 100), bool)
        for x, y, w, h in boxes:
            inked[y : y + h, x : x + w] = True
        return inked, spans(inked.any(axis=0))

    def test_a_low_mark_well_after_the_letters_is_a_menus_arrow(self) -> None:
        word = [(10, 4, 8, 12), (20, 4, 8, 12)]
        self.assertTrue(ends_in_mark(*self.shape(*word, (36, 9, 8, 4)), 12))
        self.assertFalse(ends_in_mark(*self.shape(*word, (29, 9, 8, 4)), 12), "right after them")
        self.assertFalse(ends_in_mark(*self.shape(*word, (36, 4, 8, 12)), 12), "as high as they are")

    def test_a_dot_half_way_up_before_the_letters_is_a_bullet(self) -> None:
        word = [(20, 4, 8, 12), (30, 4, 8, 12)]
        self.assertTrue(begins_with_bullet(*self.shape((8, 8, 4, 4), *word), 12))
        self.assertFalse(begins_with_bullet(*self.shape((8, 13, 4, 4), *word), 12), "on the base line")
        self.assertFalse(begins_with_bullet(*self.shape((17, 8, 2, 2), *word), 12), "right before them")


class Prompts(unittest.TestCase):
    def read(self, *dots: tuple[int, int]) -> list[str]:
        pixels = np.full((120, 200, 3), 255, np.uint8)
        for x, y in dots:
            pixels[y : y + 2, x : x + 2] = 0
        first = RawWord(">>>", (20.0, 20.0, 44.0, 30.0), (0, 0, 0), 1.0)
        line = RawLine((first,), first.box, (255, 255, 255), True, 1.0)
        return [n.text for n in read_prompts([line], pixels, 1)]

    def test_three_dots_under_a_prompt_ask_for_the_next_line(self) -> None:
        rows = [(x, y) for y in (50, 74) for x in (22, 31, 40)]
        self.assertEqual(self.read(*rows), [">>>", "...", "..."])

    def test_dots_at_other_distances_or_far_below_are_none(self) -> None:
        self.assertEqual(self.read((22, 50), (26, 50), (40, 50)), [">>>"])
        self.assertEqual(self.read((22, 110), (31, 110), (40, 110)), [">>>"])


class Reports(unittest.TestCase):
    def test_a_report_loads_nothing_and_escapes_what_was_read(self) -> None:
        pixels = np.full((40, 60, 3), 255, np.uint8)
        evil = Finding("word", "<script>alert('snow')</script>", Rect(1, 2, 3, 4), 9.0)
        proof = Proof(60, 40, 40, 3, 2, 1, 0.5, 1.0, 0.9, 0.0, 0.1, 0.99, 0.9, 0.0, (evil,), ())
        drawing = Drawing(60, 40, 60, 1, pixels, (), {})
        out = report_html(proof, Picture(pixels, 1), drawing, ("ssim is 0.9, below 0.95",))
        self.assertNotIn("<script>", out)
        self.assertIn("&lt;script&gt;", out)
        self.assertIn("2 of 3", out)
        self.assertIn("Outside its limits", out)
        self.assertEqual(out.count("src='data:image/png;base64,"), out.count("src="))
        self.assertNotIn("http", out)

    def test_junit_has_a_case_for_each_limit_and_says_what_is_wrong(self) -> None:
        root = ElementTree.fromstring(junit("depth & snow", [("words", None), ("ssim", "is < 0.9")]))
        self.assertEqual((root.get("tests"), root.get("failures")), ("2", "1"))
        self.assertEqual([c.get("name") for c in root], ["words", "ssim"])
        failure = root.find("testcase/failure")
        assert failure is not None
        self.assertEqual(failure.get("message"), "is < 0.9")


class Lengths(unittest.TestCase):
    def test_none_has_no_unit(self) -> None:
        self.assertEqual([em(v) for v in (0.0, -0.00001, 0.05, -0.0036)], ["0", "0", "0.05em", "-0.0036em"])


class Names(unittest.TestCase):
    def test_a_class_is_named_after_the_part_that_has_it(self) -> None:
        sheet = Sheet()
        look = {"margin-block-start": "1rem"}
        first, again, other, more = (
            sheet.named("foot__text", look),
            sheet.named("foot__text", dict(look)),
            sheet.named("menu__text", look),
            sheet.named("foot__text", {"margin-block-start": "2rem"}),
        )
        self.assertEqual(
            (first, again, other, more), ("foot__text", "foot__text", "menu__text", "foot__text-2")
        )


if __name__ == "__main__":
    unittest.main()
