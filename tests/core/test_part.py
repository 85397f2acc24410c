"""Texts that share a baseline are told apart; what belongs together stays so."""

from __future__ import annotations

import unittest
from dataclasses import replace

from neige.core.model import Fill, Line, Rect, Surface
from neige.core.reading.text.part import part_lines
from neige.core.reading.text.spaces import _claim
from tests.core.test_outline import STYLES, line


def wide(text: str, gaps: dict[int, float], x: float = 100, baseline: float = 300) -> Line:
    """A line with some px more before the words of `gaps`."""
    whole = line(text, x, baseline)
    words = [replace(w, x=w.x + sum(v for k, v in gaps.items() if k <= i)) for i, w in enumerate(whole.words)]
    return replace(whole, words=tuple(words), box=replace(whole.box, w=words[-1].x + words[-1].w - x))


class Parted(unittest.TestCase):
    def texts(self, lines: list[Line], surfaces: list[Surface] | None = None) -> list[str]:
        return [n.text for n in part_lines(lines, STYLES, surfaces or [])]

    def test_links_side_by_side_with_a_dot_between_them_are_three_texts(self) -> None:
        got = self.texts([wide("Terms of service · Privacy policy", {3: 9, 4: 9})])
        self.assertEqual(got, ["Terms of service", "·", "Privacy policy"])

    def test_their_boxes_are_their_own(self) -> None:
        whole = wide("Depth Wind", {1: 20})
        first, second = part_lines([whole], STYLES, [])
        self.assertEqual(first.box.right, whole.words[0].x + whole.words[0].w)
        self.assertEqual((second.box.x, second.box.right), (whole.words[1].x, whole.box.right))

    def test_words_set_a_little_wide_stay_one_text(self) -> None:
        self.assertEqual(self.texts([wide("Terms of service", {1: 4, 2: 4})]), ["Terms of service"])

    def test_a_paragraph_a_bullet_and_a_boxed_word_stay_whole(self) -> None:
        paragraph = [wide("read the stake before eight", {2: 20}), line("and write it down", 100, 324)]
        self.assertEqual(len(self.texts(paragraph)), 2)
        self.assertEqual(self.texts([wide("• Lantern Hut", {1: 16})]), ["• Lantern Hut"])
        code = wide("the field depth holds it", {2: 9, 3: 9})
        w = code.words[2]
        box = Surface(Rect(w.x - 8, 284, w.w + 16, 22), Fill("#eef2f5"))
        self.assertEqual(self.texts([code]), ["the field", "depth", "holds it"])
        self.assertEqual(self.texts([code], [box]), ["the field depth holds it"])
        apart = wide("Depth Wind", {1: 20})
        self.assertEqual(len(part_lines([apart], STYLES, [], told=[apart.ink])), 1)


class Claims(unittest.TestCase):
    def test_both_spaces_of_a_one_letter_word_get_a_gap_of_their_own(self) -> None:
        # “define a class”: the gap after the a is the wider one, and near enough to either space
        gaps = [(70, 71), (79, 83), (90, 95), (102, 104)]
        self.assertEqual(_claim([(74, 90), (90, 98)], gaps, 14), [(79, 83), (90, 95)])

    def test_a_space_without_a_gap_gets_its_middle(self) -> None:
        self.assertEqual(_claim([(10, 20)], [], 14), [(15, 15)])
        got = _claim([(10, 20), (20, 24)], [(14, 18)], 14)
        self.assertEqual(got[0], (14, 18))
        self.assertGreaterEqual(got[1][0], 18)


if __name__ == "__main__":
    unittest.main()
