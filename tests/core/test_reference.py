"""Reference manuals: names set as code in headings and links, signs between words of code, lists of links with bullets."""

from __future__ import annotations

import unittest
from dataclasses import replace

from neige.browser import draw_page
from neige.core import pipeline
from neige.core.model import Cutout, Fill, Line, Rect, Surface
from neige.core.outline import arrange
from neige.core.proof.residuals import residuals
from neige.core.reading import read
from neige.core.reading.logos import find_signs, join_marks
from neige.core.reading.screens import find_screens
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_outline import STYLES, line
from tests.support import drawn, png

FONTS = {
    "Text": "LiberationSans-Regular.ttf",
    "Code": "DejaVuSansMono.ttf",
    "CodeBold": "DejaVuSansMono-Bold.ttf",
}
SENTENCE = (
    "Every stake is read before eight in the morning, and what it says is sent to the station below it."
)
MANUAL = f"""<style>
body {{ margin: 20px 40px; width: 900px; font: 15px/1.5 Text; color: #222 }}
h2 {{ font: 22px/1.3 Text; margin: 24px 0 10px }} p {{ margin: 0 0 12px }}
code {{ font-family: Code; font-size: 14px }} h2 code {{ font-size: 22px; color: #234f32 }}
.f a {{ font: 14px CodeBold; font-weight: 700; color: #3e4349; border-bottom: 1px dotted #3e4349 }}
pre {{ font: 14px/1.4 Code; background: #eef4ee; padding: 10px; margin: 0 0 12px }}
nav ul {{ margin: 0; padding: 0 0 0 24px }} nav a {{ color: #2a6f97 }}
</style>
<h1>Station interface</h1><p>{SENTENCE} {SENTENCE}</p>
<h2>The <code>StakeReader</code> class</h2><p>{SENTENCE}</p>
<p>Use <code>read_depth</code> for one stake and <code>sum_of_rows</code> for all of them. {SENTENCE}</p>
<h2>Using <code>Bulletin</code> in a board</h2><p>{SENTENCE}</p>
<div class="f"><a>decode_stake_line()</a></div><div class="f"><a>encode_row()</a></div>
<pre>board = station(12)
depth = board.read_depth()
depth == board.sum_of_rows()</pre><p>{SENTENCE}</p>"""


class Manual(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture, _ = drawn(MANUAL, 980, FONTS, fitted=True)
        cls.found = read(cls.picture)

    def styles_of(self, text: str) -> dict[str, tuple[str, float]]:
        n = next(n for n in self.found.lines if n.text.startswith(text))
        styles = self.found.styles
        return {w.text: (styles[w.style].family, styles[w.style].size) for w in n.words}

    def test_a_heading_has_two_types(self) -> None:
        heading = self.styles_of("The Stake")
        self.assertEqual(heading["StakeReader"], ("DejaVu Sans Mono", 22.0))
        self.assertEqual({heading["The"], heading["class"]}, {("Liberation Sans", 22.0)})

    def test_short_words_belong_to_what_draws_them(self) -> None:
        heading = self.styles_of("Using")
        code = [w for w, (family, _) in heading.items() if family == "DejaVu Sans Mono"]
        self.assertEqual(code, ["Bulletin"])

    def test_its_own_type_is_that_of_the_text(self) -> None:
        outline = arrange(self.found)
        title = next(n for n in outline.root.walk() if words(n).startswith("The Stake"))
        self.assertEqual(self.found.styles[title.style].family, "Liberation Sans")
        html = write(outline, self.found, self.picture).html
        self.assertRegex(html, r"<h\d[^>]*>\s*The\s+<code[^>]*>StakeReader</code>\s+class")

    def test_underscores_over_dots_and_in_a_text_are_read(self) -> None:
        text = [n.text for n in self.found.lines]
        self.assertIn("decode_stake_line()", text)
        self.assertIn("encode_row()", text)
        self.assertTrue(any("read_depth for one stake and sum_of_rows for" in t for t in text), text)

    def test_signs_between_words_of_code_are_text(self) -> None:
        text = [n.text for n in self.found.lines]
        for said in ("board = station(12)", "depth = board.read_depth()", "depth == board.sum_of_rows()"):
            self.assertIn(said, text)
        self.assertFalse([c for c in self.found.cutouts if c.kind == "icon"])


class Lists(unittest.TestCase):
    def test_links_with_bullets_keep_them(self) -> None:
        items = "".join(f"<li><a>{t}</a></li>" for t in ("Reading a stake", "Boards and wind", "Lost stakes"))
        body = f"<style>body{{margin:30px;font:15px Text}}a{{color:#2a6f97}}</style><h1>Contents of the manual</h1><ul>{items}</ul><p>{SENTENCE}</p>"
        picture, _ = drawn(body, 900, FONTS, fitted=True)
        found = read(picture)
        outline = arrange(found)
        page = write(outline, found, picture)
        self.assertIn("list-style: disc", page.css)
        self.assertEqual(page.html.count("<li>") + page.html.count("<li "), 3)


class Screens(unittest.TestCase):
    def test_code_in_the_pages_own_type_is_no_screenshot(self) -> None:
        """Twelve lines in three inks that a face draws badly, in the type of other lines that it draws well."""
        inks = ("#000000", "#008080", "#990000")
        styles = [*(replace(STYLES[0], size=12.0, colour=c) for c in inks), replace(STYLES[0], size=16.0)]

        def lines(y: float, residual: float, *of: int) -> list[Line]:
            return [
                replace(line("stake " * 6, 100, y + 20 * i), style=k, residual=residual)
                for i, k in enumerate(of)
            ]

        bad, good, large = (
            lines(100, 0.4, *[0, 1, 2] * 4),
            lines(600, 0.02, *[0] * 6),
            lines(900, 0.02, *[3] * 6),
        )
        self.assertEqual(len(find_screens([*bad, *large], styles, [], 1200)), 1)
        self.assertEqual(find_screens([*bad, *good, *large], styles, [], 1200), [])


class Residuals(unittest.TestCase):
    def test_a_text_with_one_word_more_is_measured(self) -> None:
        """A word that the browser parts in two hides neither where its text begins nor where it ends."""
        body = f"<style>body{{margin:30px;font:15px/1.4 Text}}</style><p>{SENTENCE}</p><p>{SENTENCE}</p>"
        picture, _ = drawn(body, 900, FONTS, fitted=True)
        built = pipeline.build(png(picture.pixels), "page.png", draw_page)
        text = next(n for n in built.outline.root.walk() if n.kind == "text")
        own = [w for w in built.drawing.words if w.node == text.id]
        more = replace(own[0], rect=Rect(own[-1].rect.right + 4, own[-1].rect.y, 9, own[-1].rect.h))
        parted = replace(built.drawing, words=[*built.drawing.words, more])
        _, off = residuals(built.outline, built.reading, parted)
        self.assertLess(abs(off[text.id].top), 1)
        self.assertLess(abs(off[text.id].bottom), 1)


class Signs(unittest.TestCase):
    MARK = Surface(Rect(40, 30, 30, 30), Fill("#1f5f77"), 6.0)

    def place(self, own: str) -> list[Rect]:
        """Where a logo is found beside a name in face `own`, over eight lines in another."""
        styles = [STYLES[0], replace(STYLES[0], family=own, size=24.0)]
        name = replace(line("Firnwatch", 78, 54), style=1)
        name = replace(name, words=tuple(replace(w, style=1) for w in name.words))
        prose = [line("every stake is read before eight", 40, 200 + 24 * i) for i in range(9)]
        return find_signs([name, *prose], styles, [self.MARK])

    def test_a_mark_and_a_name_in_a_face_of_its_own_are_one_picture(self) -> None:
        (place,) = self.place("Quicksand")
        self.assertEqual((place.x, place.y, place.bottom), (40, 30, 60))
        self.assertGreater(place.right, 120)

    def test_a_disc_with_an_icon_before_the_first_name_at_the_top_is_one_picture(self) -> None:
        name = line("Firnwatch", 80, 50)
        icon, disc = Cutout(Rect(47, 37, 16, 16), "icon"), replace(self.MARK, radius=15.0)
        left, marks = join_marks([name], [disc], [icon])
        self.assertEqual(
            (left, [(c.kind, c.rect, c.radius) for c in marks]), ([], [("image", disc.rect, 15.0)])
        )
        for lines, others in (
            ([line("9", 47, 50)], [icon]),  # what says something is no mark
            ([line("Menu", 0, 50), name], [icon]),  # nor is what stands between words
            ([name], [icon, Cutout(Rect(4, 36, 20, 20), "icon")]),  # or after another icon
            ([name], []),
        ):
            self.assertEqual(join_marks(lines, [disc], others), ([disc], others))

    def test_a_name_in_the_page_s_own_face_is_text(self) -> None:
        self.assertEqual(self.place(STYLES[0].family), [])


if __name__ == "__main__":
    unittest.main()
