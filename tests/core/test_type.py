"""Type decided by drawing: painted lines read back as they were set; doubtful characters are settled by their ink."""

from __future__ import annotations

import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Line, Rect, TypeStyle, Word
from neige.core.reading.text.crops import own_ground
from neige.core.reading.text.detect import Box
from neige.core.reading.text.lines import read_lines
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import Spelling
from neige.core.reading.text.rotated import read_rotated
from neige.core.reading.type.catalogue import _glyph, catalogue, draw, shape
from neige.core.reading.type.company import as_above
from neige.core.reading.type.naming import name_styles, scale_of
from neige.core.reading.type.settle import surprise
from neige.core.reading.type.specimen import draw_specimen, specimen_rect
from neige.core.reading.type.styles import set_type
from tests.core.test_outline import line, style

WHITE = np.array([255.0, 255.0, 255.0])


def row_of(family: str, weight: int, italic: bool = False) -> int:
    return next(
        i.row
        for i in catalogue().instances
        if i.face.family == family and i.weight == weight and i.face.italic == italic
    )


class Sheet:
    """A page painted by the catalogue itself, with the raw lines that a perfect recogniser would have read on it."""

    def __init__(self, height: int = 400, width: int = 900, ground: NDArray[np.float64] = WHITE) -> None:
        self.pixels = np.tile(ground, (height, width, 1))
        self.ground = ground
        self.lines: list[RawLine] = []

    def line(
        self, text: str, row: int, size: float, y: int, x: float = 20.0, ink: tuple[int, int, int] = (30, 40, 50),
        read_as: str = "", tracking: float = 0.0,
    ) -> None:  # fmt: skip
        """Set `text` with its baseline at `y`; the recogniser is made to say `read_as`."""
        shaped = shape(row, text, bool(tracking))
        words, at = [], 0
        for word, said in zip(text.split(" "), (read_as or text).split(" ")):
            pen = shaped.x[next(i for i, c in enumerate(shaped.clusters) if c >= at)] * size + at * tracking
            cover = draw(row, word, size, tracking, x + pen, y, self.pixels.shape[:2])
            self.pixels += cover[..., None] * (np.array(ink, float) - self.pixels)
            rows, columns = np.flatnonzero(cover.max(axis=1) > 0.15), np.flatnonzero(cover.max(axis=0) > 0.15)
            box: Box = (float(columns[0]), float(rows[0]), float(columns[-1] + 1), float(rows[-1] + 1))
            words.append(RawWord(said, box, (float(ink[0]), float(ink[1]), float(ink[2])), 0.99))
            at += len(word) + 1
        ground = tuple(float(v) for v in self.ground)
        self.lines.append(RawLine(tuple(words), around([w.box for w in words]), ground, True, 0.99))  # type: ignore[arg-type]

    def read(self) -> tuple[list[Line], list[TypeStyle]]:
        return set_type(self.lines, np.clip(np.round(self.pixels), 0, 255).astype(np.uint8), 1)


PROSE = (
    "Volunteers read the stakes at dawn and write down",
    "how deep the snow lies on the ridge above the huts",
    "before the bulletin goes out to every valley at seven",
)


class Painted(unittest.TestCase):
    def test_a_painted_line_reads_back_as_its_style(self) -> None:
        for family, weight, size, ink in (
            ("Inter", 400, 16.0, (34, 48, 58)),
            ("Lora", 400, 18.0, (90, 100, 110)),
            ("DejaVu Sans", 700, 14.0, (192, 69, 42)),
            ("Liberation Mono", 400, 13.0, (0, 0, 0)),
            ("Montserrat", 300, 21.0, (60, 60, 60)),
        ):
            with self.subTest(family):
                sheet = Sheet()
                for n, text in enumerate(PROSE):
                    sheet.line(text, row_of(family, weight), size, 60 + 40 * n, ink=ink)
                lines, styles = sheet.read()
                self.assertEqual(len(styles), 1, [(s.family, s.size, s.weight) for s in styles])
                s = styles[0]
                self.assertEqual((s.family, s.size, s.italic), (family, size, False))
                self.assertLessEqual(abs(s.weight - weight), 100)
                seen = np.array([int(s.colour[i : i + 2], 16) for i in (1, 3, 5)])
                self.assertLess(np.abs(seen - np.array(ink)).max(), 14)
                self.assertEqual([line.baseline for line in lines], [60, 100, 140])
                self.assertGreater(s.fit, 0.97)

    def test_order_and_neighbours_do_not_matter(self) -> None:
        def sheet() -> Sheet:
            s = Sheet()
            s.line("Depth at the stake", row_of("Lora", 700), 28.0, 50)
            for n, text in enumerate(PROSE):
                s.line(text, row_of("Inter", 400), 16.0, 110 + 40 * n)
            s.line("Upper Cairn", row_of("Inter", 600), 16.0, 260)
            return s

        def set_in(s: Sheet) -> dict[str, tuple]:
            lines, styles = s.read()
            return {
                x.text: (styles[x.style].family, styles[x.style].size, styles[x.style].weight) for x in lines
            }

        first, second = sheet(), sheet()
        second.lines.reverse()
        self.assertEqual(set_in(first), set_in(second))
        alone = Sheet()
        alone.line(PROSE[0], row_of("Inter", 400), 16.0, 110)
        self.assertEqual(set_in(alone)[PROSE[0]], set_in(first)[PROSE[0]])

    def test_a_bold_word_inside_a_line_has_a_style_of_its_own(self) -> None:
        sheet = Sheet()
        regular, bold = row_of("Inter", 400), row_of("Inter", 700)
        for n, text in enumerate(PROSE):
            sheet.line(text, regular, 16.0, 60 + 40 * n)
        sheet.line("Read the bulletin", regular, 16.0, 220)
        sheet.line("carefully", bold, 16.0, 220, x=20 + 16 * shape(regular, "Read the bulletin ").advance)
        words = sheet.lines[-2].words + sheet.lines.pop().words
        sheet.lines[-1] = RawLine(words, around([w.box for w in words]), sheet.lines[0].ground, True, 0.99)
        lines, styles = sheet.read()
        weights = [styles[w.style].weight for w in lines[-1].words]
        self.assertEqual(weights[:3], [400, 400, 400])
        self.assertGreaterEqual(weights[3], 600)

    def test_two_inks_of_one_type_are_two_styles(self) -> None:
        sheet = Sheet()
        for n, text in enumerate(PROSE):
            sheet.line(text, row_of("Inter", 400), 16.0, 60 + 40 * n)
        sheet.line("a muted remark about the weather", row_of("Inter", 400), 16.0, 220, ink=(140, 150, 160))
        _, styles = sheet.read()
        self.assertEqual(len(styles), 2)
        self.assertEqual(len({(s.family, s.size, s.weight) for s in styles}), 1)

    def test_white_let_through_a_coloured_ground_is_told(self) -> None:
        sheet = Sheet(ground=np.array([36.0, 97.0, 123.0]))
        ink = tuple(round(g + 0.75 * (255 - g)) for g in (36, 97, 123))
        for n, text in enumerate(PROSE):
            sheet.line(text, row_of("Inter", 400), 18.0, 60 + 40 * n, ink=ink)  # type: ignore[arg-type]
        _, styles = sheet.read()
        self.assertAlmostEqual(styles[0].opacity, 0.75, delta=0.051)

    def test_drawing_from_several_threads_draws_the_same(self) -> None:
        row = row_of("Poppins", 700)

        def paint(size: float) -> float:
            return float(draw(row, "Forty stations", size, 0.0, 4.0, 60, (90, 700)).sum())

        sizes = [20.0 + 0.5 * n for n in range(40)]
        with ThreadPoolExecutor(4) as pool:
            together = list(pool.map(paint, sizes))
        self.assertEqual(together, [paint(s) for s in sizes])


class Faces(unittest.TestCase):
    def test_a_face_is_drawn_alike_however_many_others_were_drawn_since(self) -> None:
        bold = next(i.row for i in catalogue().instances if i.face.variable and i.weight == 700)

        def stake() -> NDArray[np.float32]:
            _glyph.cache_clear()
            return draw(bold, "stake", 24, 0, 4, 30, (40, 120))

        first = stake()
        seen = {catalogue().instances[bold].face.file}
        for i in catalogue().instances:
            if i.face.file not in seen:
                seen.add(i.face.file)
                draw(i.row, "a", 24, 0, 4, 30, (40, 40))
        self.assertGreater(len(seen), 100)
        np.testing.assert_array_equal(stake(), first)


class Settling(unittest.TestCase):
    def settled(self, text: str, read_as: str, family: str = "Liberation Sans", weight: int = 400) -> str:
        sheet = Sheet()
        for n, prose in enumerate(PROSE):
            sheet.line(prose, row_of(family, weight), 17.0, 60 + 40 * n)
        sheet.line(text, row_of(family, weight), 17.0, 220, read_as=read_as)
        return sheet.read()[0][-1].text

    def test_look_alikes_are_told_apart(self) -> None:
        for text, wrong in (
            ("a list of stations", "a Iist of stations"),
            ("It lies deep", "lt lies deep"),
            ("Snow is free!", "Snow is freel"),
            ("The API of all", "The APl of all"),
            ("We'll read it", "We'II read it"),
        ):
            with self.subTest(text):
                self.assertEqual(self.settled(text, wrong), text)

    def test_no_l_stands_between_hard_letters(self) -> None:
        for text, wrong in (
            ("a StakeGridItem of it", "a StakeGridltem of it"),
            ("its legendIcon is", "its legendlcon is"),
        ):
            with self.subTest(text):
                self.assertEqual(self.settled(text, wrong), text)
        self.assertEqual(surprise("world"), 0)

    def test_a_bit_of_an_underline_after_a_descender_is_no_stop(self) -> None:
        sheet = Sheet()
        for n, prose in enumerate(PROSE):
            sheet.line(prose, row_of("Liberation Serif", 400), 17.0, 60 + 40 * n)
        sheet.line("on changing your stakes", row_of("Liberation Serif", 400), 17.0, 220)
        line = sheet.lines[-1]
        on, first, second, last = line.words
        both = replace(first, text="changing.your", box=around([first.box, second.box]), underline=True)
        sheet.lines[-1] = replace(line, words=(on, both, last))
        self.assertEqual(sheet.read()[0][-1].text, "on changing your stakes")

    def test_ink_decides_between_zero_and_o_and_quotes(self) -> None:
        self.assertEqual(self.settled("depth 20 cm", "depth 2O cm", "Inter"), "depth 20 cm")
        self.assertEqual(self.settled("the ridge’s snow", "the ridge's snow", "Lora"), "the ridge’s snow")
        self.assertEqual(self.settled("the ridge's snow", "the ridge’s snow", "Lora"), "the ridge's snow")

    def test_a_lost_letter_is_found(self) -> None:
        self.assertEqual(self.settled("an example of drift", "an exaple of drift"), "an example of drift")

    def test_a_lost_letter_of_a_short_word_is_found(self) -> None:
        self.assertEqual(self.settled("read the stakes", "read th stakes"), "read the stakes")

    def test_a_sentence_ends_in_one_stop(self) -> None:
        self.assertEqual(self.settled("in two classes.", "in two classes."), "in two classes.")

    def test_a_third_stop_that_was_lost_is_found(self) -> None:
        self.assertIn(self.settled("search for...", "search for.."), ("search for...", "search for…"))

    def test_several_of_what_is_in_capitals_end_in_a_small_letter(self) -> None:
        self.assertEqual(
            self.settled("read the FAQs at dawn", "read the FAQS at dawn"), "read the FAQs at dawn"
        )

    def test_one_wrong_letter_among_signs_is_doubted_however_little_it_explains(self) -> None:
        self.assertEqual(self.settled("the I/O.", "the 1/O."), "the I/O.")
        self.assertEqual(self.settled("an ACID rain", "an ACiD rain"), "an ACID rain")

    def test_capitals_are_all_capitals(self) -> None:
        self.assertEqual(self.settled("the WHERE clause", "the WHERE clause"), "the WHERE clause")
        self.assertEqual(self.settled("a VELL bulletin", "a VELL bulletin", "Lora"), "a VELL bulletin")

    def test_a_word_cut_in_two_is_joined_and_words_of_code_across_signs(self) -> None:
        for family, text, cut, at in (
            ("Liberation Sans", "every observer knows", "observer", 5),
            ("DejaVu Sans Mono", "the stakes.depth of all", "stakes.depth", 6),
        ):
            with self.subTest(text):
                sheet = Sheet()
                row = row_of(family, 400)
                for n, prose in enumerate((*PROSE, text)):
                    sheet.line(prose, row, 17.0, 60 + 40 * n)
                raw = sheet.lines[-1]
                whole = next(w for w in raw.words if w.text == cut)
                # as the ink between two letters parts them
                x0, y0, x1, y1 = whole.box
                middle = x0 + (x1 - x0) * at / len(cut)
                parts = [
                    replace(whole, text=cut[:at], box=(x0, y0, middle - 0.5, y1)),
                    replace(whole, text=cut[at:], box=(middle + 0.5, y0, x1, y1)),
                ]
                words = [p for w in raw.words for p in (parts if w is whole else [w])]
                sheet.lines[-1] = replace(raw, words=tuple(words))
                self.assertEqual(sheet.read()[0][-1].text, text)

    def test_what_was_read_rightly_is_left_alone(self) -> None:
        for text in (
            "iPhone and eBook",
            "€ 20,50 (net)",
            "Ill Oslo 10 lbs",
            "SimpleNamespace x0",
            "user@vell.example",
        ):
            with self.subTest(text):
                self.assertEqual(self.settled(text, text), text)

    def test_surprise_grows_with_oddity(self) -> None:
        for good, bad in (
            ("list", "Iist"),
            ("It", "lt"),
            ("SENIOR", "SENlOR"),
            ("PROGRAM", "PR0GRAM"),
            ("2025", "2O25"),
        ):
            self.assertLess(surprise(good), surprise(bad), good)
        for word in ("Illinois", "lilac", "well", "I", "10", "iOS", "McGee"):
            self.assertLess(surprise(word), 1.6, word)


class Names(unittest.TestCase):
    def style(self, size: float, weight: int = 400, **more: object) -> TypeStyle:
        return TypeStyle(
            "Inter", "sans-serif", "inter-normal.ttf", size, weight, False, 0.0, "#222222", 12, 4, **more
        )  # type: ignore[arg-type]

    def lines(self, letters: list[int]) -> list[Line]:
        r = Rect(0, 0, 10, 10)
        return [
            Line((Word("x" * n, 0, 10, r, i, 1.0),), r, r, 10, 5, 7, i, "#ffffff", 1.0, 0.0)
            for i, n in enumerate(letters)
        ]

    def test_styles_are_named_by_use(self) -> None:
        styles = [
            self.style(16),
            self.style(48, 700),
            self.style(28, 700),
            self.style(13),
            self.style(12, uppercase=True),
            self.style(16, 700),
        ]
        named = name_styles(styles, self.lines([900, 10, 20, 50, 20, 20]))
        self.assertEqual([s.name for s in named], ["body", "display", "title", "caption", "label", "strong"])

    def test_equal_names_are_numbered(self) -> None:
        named = name_styles([self.style(16), self.style(29), self.style(27)], self.lines([900, 10, 20]))
        self.assertEqual([s.name for s in named], ["body", "title", "title 2"])

    def test_a_modular_scale_is_recognised_and_a_loose_one_is_not(self) -> None:
        modular = [self.style(round(16 * 1.25**k, 2)) for k in (-1, 0, 1, 2, 4)]
        found = scale_of(modular, self.lines([10, 900, 10, 10, 10]))
        self.assertEqual((found.base, found.ratio), (16, 1.25))
        loose = [self.style(v) for v in (11, 13, 16, 17, 19, 23.5, 41)]
        self.assertEqual(scale_of(loose, self.lines([10, 10, 900, 10, 10, 10, 10])).ratio, 0.0)


class Specimens(unittest.TestCase):
    def test_a_specimen_is_the_line_drawn_again(self) -> None:
        sheet = Sheet()
        sheet.line(PROSE[0], row_of("Inter", 400), 16.0, 60)
        lines, styles = sheet.read()
        drawn = draw_specimen(lines[0], styles, 1).astype(float)
        r = specimen_rect(lines[0])
        crop = sheet.pixels[
            round(r.y) : round(r.y) + drawn.shape[0], round(r.x) : round(r.x) + drawn.shape[1]
        ]
        self.assertGreater(np.corrcoef(drawn.ravel(), crop.ravel())[0, 1], 0.9)


class Grounds(unittest.TestCase):
    def test_a_badge_hardly_larger_than_its_text_is_its_ground(self) -> None:
        pixels = np.full((60, 120, 3), 255, np.uint8)
        pixels[20:40, 30:80] = (214, 57, 57)
        pixels[26:34, 38:40] = pixels[26:34, 50:52] = pixels[26:34, 66:68] = 255
        self.assertEqual(own_ground(pixels, (36.0, 24.0, 76.0, 36.0)), (30, 20, 80, 40))

    def test_bold_letters_are_no_ground(self) -> None:
        sheet = Sheet(height=100)
        sheet.line("What the network does", row_of("Poppins", 700), 36.0, 60)
        pixels = sheet.pixels.astype(np.uint8)
        self.assertEqual(own_ground(pixels, sheet.lines[0].box), (0, 0, 900, 100))

    def test_letters_at_the_edge_of_a_crop_keep_their_stems(self) -> None:
        sheet = Sheet(height=60, width=400)
        sheet.line("well still allow", row_of("Liberation Sans", 400), 16.0, 20)
        sheet.line("below it another", row_of("Liberation Sans", 400), 16.0, 38)
        box = sheet.lines[0].box

        def spell(crops: list[NDArray[np.uint8]]) -> list[Spelling]:
            places = tuple((i + 0.5) / 16 for i in range(16))
            return [Spelling("well still allow", places, (1.0,) * 16) for _ in crops]

        pixels = np.round(sheet.pixels).astype(np.uint8)
        found, unread = read_lines(pixels, [box, sheet.lines[1].box], spell, 0.0)
        self.assertEqual(unread, [])
        for word, seen in zip(found[0].words, sheet.lines[0].words):
            self.assertAlmostEqual(word.box[2], seen.box[2], delta=1.2)


class Rotated(unittest.TestCase):
    def test_text_that_runs_up_is_reported_and_upright_text_is_not(self) -> None:
        sheet = Sheet(height=120, width=400)
        sheet.line("SNOW", row_of("Inter", 600), 20.0, 60)
        flat = np.round(sheet.pixels).astype(np.uint8)
        turned = np.ascontiguousarray(np.rot90(flat))
        x0, y0, x1, y1 = sheet.lines[0].box
        box = (y0 - 2, 400 - x1 - 2, y1 + 2, 400 - x0 + 2)

        def spell(crops: list[NDArray[np.uint8]]) -> list[Spelling]:
            def one(c: NDArray[np.uint8]) -> Spelling:  # reads only what lies flat, the right way up
                flat_crop = c.shape[1] > c.shape[0]
                upright = flat_crop and np.array_equal(c, np.ascontiguousarray(np.rot90(turned[int(box[1]) : int(np.ceil(box[3])), int(box[0]) : int(np.ceil(box[2]))], -1)))  # fmt: skip
                return Spelling("SNOW", (0.1, 0.4, 0.6, 0.9), (0.99 if upright else 0.3,) * 4)

            return [one(c) for c in crops]

        found, rest = read_rotated(turned, [box, (0.0, 0.0, 50.0, 20.0)], spell)
        self.assertEqual([(t, a) for t, _, a, _ in found], [("SNOW", -90)])
        self.assertEqual(rest, [(0.0, 0.0, 50.0, 20.0)])


class OneText(unittest.TestCase):
    """Lines that no face draws well are set as their neighbours, if they look like one text with them."""

    def setUp(self) -> None:
        serif = next(i.face for i in catalogue().instances if i.face.family == "Lora" and not i.face.italic)
        title = style(40.0, 700)
        self.styles = [
            title,
            replace(title, family="Lora", category="serif", face=serif.file, weight=400, size=42.0),
        ]
        self.first = replace(line("Forty stations and", 100, 100, 1), style=0, residual=0.05)
        self.first = replace(self.first, words=tuple(replace(w, style=0) for w in self.first.words))

    def second(self, **changes: object):  # type: ignore[no-untyped-def]
        n = replace(line("one snowpack", 100, 150, 1), style=1, residual=0.36, **changes)  # type: ignore[arg-type]
        return replace(n, words=tuple(replace(w, style=1) for w in n.words))

    def test_a_badly_drawn_line_below_takes_its_family(self) -> None:
        self.assertEqual([n.style for n in as_above([self.first, self.second()], self.styles)], [0, 0])

    def test_a_well_drawn_line_keeps_its_own(self) -> None:
        well = replace(self.second(), residual=0.06)
        self.assertEqual([n.style for n in as_above([self.first, well], self.styles)], [0, 1])

    def test_a_line_that_stands_apart_keeps_its_own(self) -> None:
        self.assertEqual(
            [n.style for n in as_above([self.first, self.second(baseline=320.0)], self.styles)], [0, 1]
        )


if __name__ == "__main__":
    unittest.main()
