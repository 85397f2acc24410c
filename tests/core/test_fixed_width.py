"""Code read again cell by cell: what a recogniser of words loses, takes for another sign, or parts."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np

from neige.core.reading.text.raw import RawWord, around
from neige.core.reading.type.fixed_width import _joined
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.pieces import cut_pieces
from neige.core.reading.type.sort import take_mixed
from tests.core.test_type import Sheet, row_of

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


if __name__ == "__main__":
    unittest.main()
