"""Code read again cell by cell: what a recogniser of words loses, takes for another sign, or parts."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Line, Rect, Word
from neige.core.reading.text.raw import RawWord, around
from neige.core.reading.type.catalogue import catalogue
from neige.core.reading.type.company import part_stops, without_marks
from neige.core.reading.type.fixed_width import _joined
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.pieces import cut_pieces
from neige.core.reading.type.sort import take_mixed
from neige.core.reading.type.split import take_together
from tests.core.test_outline import style
from tests.core.test_type import PROSE, Sheet, row_of

MONO = "DejaVu Sans Mono"
CODE = (
    "def depth(stake, mark):",
    "    return stake.marks[mark]",
    "for station in stations:",
    "    print(depth(station.stake, 4))",
)


class Cells(unittest.TestCase):
    def sheet(self, text: str, read_as: str = "", size: float = 15.0) -> Sheet:
        """Lines of code, then one that the recogniser took for `read_as`."""
        sheet, row = Sheet(), row_of(MONO, 400)
        for n, code in enumerate(CODE):
            indent = len(code) - len(code.lstrip())
            sheet.line(code.lstrip(), row, size, 60 + 40 * n, 20 + indent * 9.03)
        sheet.line(text, row, size, 240, x=80.0, read_as=read_as)
        return sheet

    def left_out(self, sheet: Sheet, *texts: str) -> Sheet:
        """The same, without words that the recogniser passed over."""
        raw = sheet.lines[-1]
        words = tuple(w for w in raw.words if w.text not in texts)
        sheet.lines[-1] = replace(raw, words=words, box=around([w.box for w in words]))
        return sheet

    def read(self, sheet: Sheet) -> str:
        return sheet.read()[0][-1].text

    def test_what_was_read_rightly_stays(self) -> None:
        for text in ('>>> send(depth, to="huts")', "a || b && !c", "x = [1, 2][0] # twice"):
            with self.subTest(text):
                self.assertEqual(self.read(self.sheet(text)), text)

    def test_signs_that_look_alike_are_told_by_the_face(self) -> None:
        for text, wrong in (
            ("read = StringIO()", "read = StringI0()"),
            ("seek('stake', 'mark')", "seek(\"stake', 'mark\")"),
            ("a = '{}' if b else c", "a = '()' if b else c"),
            ("git stake; git read", "git stake: git read"),
        ):
            with self.subTest(text):
                self.assertEqual(self.read(self.sheet(text, wrong)), text)

    def test_a_lost_sign_within_a_word_is_found_and_one_too_many_is_left_out(self) -> None:
        self.assertEqual(
            self.read(self.sheet("send(('a', 4), [5])", "send('a', 4), [5])")), "send(('a', 4), [5])"
        )
        text = "send('a', depth=station.depth, to=huts)"
        self.assertEqual(self.read(self.sheet(text, text.replace("',", "',,"))), text)

    def test_what_stands_before_and_after_a_line_is_part_of_it(self) -> None:
        sheet = self.left_out(self.sheet(">>> read(stake) \\"), ">>>", "\\")
        self.assertEqual(self.read(sheet), ">>> read(stake) \\")

    def test_a_prompt_in_another_ink_keeps_it(self) -> None:
        row = row_of(MONO, 400)
        sheet = self.sheet("read(stake)")
        sheet.line(">>>", row, 15.0, 240, x=80.0 - 4 * 9.03, ink=(190, 60, 20))
        sheet.lines.pop()
        lines, styles = sheet.read()
        self.assertEqual(lines[-1].text, ">>> read(stake)")
        inks = [styles[w.style].colour for w in lines[-1].words]
        self.assertEqual(len(set(inks)), 2)
        red, green, blue = (int(inks[0][i : i + 2], 16) for i in (1, 3, 5))
        self.assertLess(max(abs(red - 190), abs(green - 60), abs(blue - 20)), 6)

    def test_signs_far_apart_in_their_cells_stand_together_all_the_same(self) -> None:
        text = "send(['a','b'],'c'.x)"
        self.assertEqual(self.read(self.sheet(text, text.replace("'],'", "],"))), text)
        text = "send(stake, 'brenn' , 'saddle')"
        self.assertEqual(self.read(self.sheet(text, text.replace(", 'sad", ', "sad'))), text)

    def test_words_of_one_run_of_cells_are_joined_and_others_are_not(self) -> None:
        def word(text: str, x: float) -> RawWord:
            return RawWord(text, (x, 0.0, x + 4, 9.0), (0.0, 0.0, 0.0), 0.9)

        words = [word("'a',", 0), word("'", 50), word("b", 60)]
        runs = {id(words[0]): 0, id(words[1]): 0, id(words[2]): 1}
        self.assertEqual([w.text for w in _joined(words, runs)], ["'a','", "b"])
        self.assertEqual([w.text for w in _joined(words, {})], ["'a',", "'", "b"])

    def test_a_border_or_a_picture_beside_a_line_is_no_sign(self) -> None:
        sheet = self.sheet("read(stake)")
        before = self.read(sheet)
        sheet.pixels[200:270, 66:68] = (120, 120, 120)  # a border
        sheet.pixels[228:241, 190:206] = (120, 40, 120)  # a mark
        self.assertEqual(self.read(sheet), before)

    def test_words_beside_a_line_stay_their_own(self) -> None:
        sheet = self.sheet("read(stake)")
        sheet.line("at dawn", row_of("Liberation Sans", 400), 15.0, 240, x=195.0)
        self.assertEqual([n.text for n in sheet.read()[0][-2:]], ["read(stake)", "at dawn"])

    def test_what_a_person_said_is_not_read_again(self) -> None:
        sheet = self.sheet("read = StringIO()", "read = StringI0()")
        raw = sheet.lines[-1]

        def said(w: RawWord) -> RawWord:
            return replace(w, pinned=True)

        sheet.lines[-1] = replace(raw, words=tuple(said(w) for w in raw.words))
        self.assertEqual(self.read(sheet), "read = StringI0()")

    def test_a_sign_that_is_not_known_leaves_its_word_as_it_was_read(self) -> None:
        self.assertEqual(self.read(self.sheet("größe = depth", "größe = depth")), "größe = depth")


class HalfBold(unittest.TestCase):
    def test_a_size_between_two_weights_gives_way_to_the_one_that_draws_most_words(self) -> None:
        sheet, row = Sheet(), row_of("Liberation Sans", 400)
        for n, text in enumerate(
            ("The stakes are read at seven", "and what they say is sent on", "to the huts")
        ):
            sheet.line(text, row, 14.0, 60 + 40 * n)
        pixels = np.clip(np.round(sheet.pixels), 0, 255).astype(np.uint8)
        pieces = [p for i, raw in enumerate(sheet.lines) for p in cut_pieces(i, raw, pixels)]
        for usual, size in ((0.15, 14.0), (0.03, 14.4)):  # what draws its lines well is left alone
            kind = Type(row, 14.4, 0.0, usual, members=list(pieces))
            take_mixed([kind], 1)
            self.assertEqual(kind.size, size)

    def test_lines_whose_plain_words_another_type_draws_exactly_are_set_in_that(self) -> None:
        sheet, plain, bold = Sheet(), row_of("Liberation Sans", 400), row_of("Liberation Sans", 700)
        for n, text in enumerate((*PROSE, "the stakes are read at seven", "and what they say is sent on")):
            sheet.line(text, plain, 14.0, 40 + 30 * n)
        for n, (name, rest) in enumerate(
            (("Brenn Hut", "sent one new reading"), ("Vell Mouth", "read its stake"))
        ):
            sheet.line(name, bold, 14.0, 240 + 40 * n)
            end = sheet.lines[-1].box[2] + 4
            sheet.line(rest, plain, 14.0, 240 + 40 * n, x=end)
            second, first = sheet.lines.pop(), sheet.lines.pop()
            words = (*first.words, *second.words)
            sheet.lines.append(replace(first, words=words, box=around([w.box for w in words])))
        pixels = np.clip(np.round(sheet.pixels), 0, 255).astype(np.uint8)
        pieces = [p for i, raw in enumerate(sheet.lines) for p in cut_pieces(i, raw, pixels)]
        known = Type(plain, 14.0, 0.0, 0.01, members=[p for p in pieces if p.line < 5])
        between = Type(row_of("Archivo", 600), 14.2, 0.0, 0.2, members=[p for p in pieces if p.line >= 5])
        types = [known, between]
        take_mixed(types, 1)
        self.assertEqual(types, [known])
        lines, styles = sheet.read()
        for n in lines[5:]:
            self.assertEqual(
                [styles[w.style].weight for w in n.words], [700, 700] + [400] * (len(n.words) - 2)
            )

    def test_words_in_a_face_of_their_own_go_to_the_pages_bold_once_it_is_known(self) -> None:
        sheet, plain, bold = Sheet(), row_of("Liberation Sans", 400), row_of("Liberation Sans", 700)
        for n, text in enumerate(PROSE):
            sheet.line(text, plain, 14.0, 40 + 30 * n)
        for n, text in enumerate(
            ("Brenn Hut and Vell Mouth", "The Grey Saddle", "Upper Stake", "Lorry Mion")
        ):
            sheet.line(text, bold, 14.0, 240 + 40 * n)
        pixels = np.clip(np.round(sheet.pixels), 0, 255).astype(np.uint8)
        pieces = [p for i, raw in enumerate(sheet.lines) for p in cut_pieces(i, raw, pixels)]
        last = max(p.line for p in pieces)

        def homes(row: int) -> list[Type]:
            prose = Type(plain, 14.0, 0.0, 0.01, members=[p for p in pieces if p.line < len(PROSE)])
            known = Type(bold, 14.0, 0.0, 0.01, members=[p for p in pieces if len(PROSE) <= p.line < last])
            other = Type(row, 14.2, 0.0, 0.2, members=[p for p in pieces if p.line == last])
            types = [prose, known, other]
            take_together(types, 1)
            return [t for t in types if any(p.line == last for p in t.members)]

        self.assertEqual([t.row for t in homes(row_of("Archivo", 600))], [bold])
        self.assertEqual([t.row for t in homes(plain)], [plain], "a weight of the page's own family stays")

    def test_a_line_of_paths_and_prose_is_told_word_by_word(self) -> None:
        sheet, mono, plain = Sheet(width=1200), row_of("Liberation Mono", 400), row_of("Liberation Sans", 400)
        for n, text in enumerate(PROSE):
            sheet.line(text, plain, 14.0, 60 + 40 * n)
        sheet.line("/vell/ridge/stakes.html /vell/huts/beds.html", mono, 14.0, 180)
        sheet.line("/vell/ridge/stakes.html /vell/huts/stakes.html", mono, 14.0, 240)
        sheet.line("and any other stake found under", plain, 14.0, 240, x=sheet.lines[-1].box[2] + 6)
        second, first = sheet.lines.pop(), sheet.lines.pop()
        words = (*first.words, *second.words)
        sheet.lines.append(replace(first, words=words, box=around([w.box for w in words])))
        lines, styles = sheet.read()
        code = [styles[w.style].category == "monospace" for w in lines[-1].words]
        self.assertEqual(code, [True, True] + [False] * 6)
        self.assertLess(lines[-1].residual, 0.05)


class Commas(unittest.TestCase):
    CELL = 9.6

    def setUp(self) -> None:
        mono = next(
            i for i in catalogue().instances if i.face.family == "Liberation Mono" and i.weight == 400
        )
        coded = replace(style(), family="Liberation Mono", category="monospace", face=mono.face.file)
        self.styles = [style(), coded]

    def parted(self, *parts: tuple[str, float, int]) -> tuple[list[tuple[str, int]], str]:
        """((text, style) of each word, what the line says) of words given as (text, px from the end of the one before, style)."""
        words, x = [], 20.0
        for text, gap, index in parts:
            wide = len(text) * (self.CELL if index else 7.0)
            words.append(Word(text, x + gap, wide, Rect(x + gap, 100, wide, 12), index, 0.99))
            x += gap + wide
        whole = Line(
            tuple(words), Rect(20, 96, x, 20), Rect(20, 100, x, 12), 112, 8, 11, 0, "#ffffff", 0.99, 0.01
        )
        found = part_stops(whole, self.styles)
        return [(w.text, w.style) for w in found.words], found.text

    def test_the_comma_after_code_is_the_proses_where_its_own_would_leave_no_space(self) -> None:
        words, said = self.parted(("stakes(),", 0, 1), ("huts()", 0.4, 1), ("too", 9, 0))
        self.assertEqual(words, [("stakes()", 1), (",", 0), ("huts()", 1), ("too", 0)])
        self.assertEqual(said, "stakes(), huts() too")
        words, _ = self.parted(("stakes(),", 0, 1), ("huts()", 9.6, 1), ("too", 9, 0))
        self.assertEqual(words, [("stakes(),", 1), ("huts()", 1), ("too", 0)])

    def test_the_ink_of_a_comma_that_is_the_proses_is_where_it_was_seen(self) -> None:
        word = Word("huts,", 20, 5 * self.CELL, Rect(20, 100, 46, 12), 1, 0.99)
        then = Word("then", 72, 28, Rect(72, 100, 28, 12), 0, 0.99)
        line = Line(
            (word, then), Rect(20, 96, 80, 20), Rect(20, 100, 80, 12), 112, 8, 11, 0, "#ffffff", 0.99, 0.01
        )
        code, comma, _ = part_stops(line, self.styles).words
        self.assertEqual((code.text, comma.text, comma.ink.right), ("huts", ",", 66))
        self.assertLess(code.ink.right, comma.ink.x)
        self.assertLess(comma.ink.w, 4)
        self.assertGreater(comma.ink.x, 20 + 4 * self.CELL, "not right at the code's last cell")

    def test_a_stop_is_the_proses_where_the_next_word_begins_in_the_codes_last_cell(self) -> None:
        words, said = self.parted(("depth.txt.", 0, 1), ("Then", -1.5, 0))
        self.assertEqual((words, said), ([("depth.txt", 1), (".", 0), ("Then", 0)], "depth.txt. Then"))
        words, _ = self.parted(("depth.txt.", 0, 1), ("Then", 2.5, 0))  # a stop of the code's own and a space
        self.assertEqual(words[0], ("depth.txt.", 1))

    def test_a_stop_that_was_read_apart_stands_right_after_its_code(self) -> None:
        words, said = self.parted(("depth", 0, 1), (",", -2.5, 1), ("then", 1.5, 0))
        self.assertEqual((words, said), ([("depth", 1), (",", 0), ("then", 0)], "depth, then"))
        words, _ = self.parted(("depth", 0, 1), (",", 9.6, 1), ("then", 9.6, 1), ("on", 4, 0))
        self.assertEqual(words[1], (",", 1))


class Stops(unittest.TestCase):
    def test_a_stop_right_after_a_word_is_set_as_that_and_a_sign_apart_is_left_out(self) -> None:
        styles = [style(20.0), style(12.0)]

        def ends(gap: float) -> list[tuple[str, int]]:
            word = Word("Vell", 20, 40, Rect(20, 100, 40, 14), 0, 0.99)
            stop = Word(".", 60 + gap, 4, Rect(60 + gap, 112, 2, 2), 1, 0.99)
            ink = Rect(20, 100, 42 + gap, 14)
            whole = Line((word, stop), ink, ink, 114, 10, 14, 0, "#ffffff", 0.99, 0.01)
            return [(w.text, w.style) for w in without_marks(whole, styles).words]

        self.assertEqual(ends(5), [("Vell", 0), (".", 0)])
        self.assertEqual(ends(30), [("Vell", 0)])


if __name__ == "__main__":
    unittest.main()
