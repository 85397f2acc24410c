"""Figures with their units, old prices, ratings, dots between words, prompts: what stands closer than words do, or hardly shows."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.outline import arrange
from neige.core.reading import read
from neige.core.reading.text.dots import with_dots
from neige.core.reading.text.ink import spans
from neige.core.reading.text.recognise import Spelling
from neige.core.reading.text.sizes import right_case, size_gaps
from neige.core.reading.text.stars import spell_stars
from neige.core.reading.text.underscores import with_underscores
from neige.core.writer import write
from tests.support import drawn

FONTS = {
    "Text": "LiberationSans-Regular.ttf",
    "Bold": "LiberationSans-Bold.ttf",
    "Code": "DejaVuSansMono.ttf",
}
SENTENCE = "Every stake is read before eight in the morning, and what it says is sent on."
BOARD = f"""<style>
body {{ margin: 24px 40px; width: 900px; font: 15px/1.5 Text; color: #222 }}
.n {{ font: 36px/1.2 Bold; font-weight: 700; display: flex; gap: 4px; align-items: baseline; margin: 0 }}
.n span, .o {{ font: 15px Text; color: #667; font-weight: 400 }}
.p b {{ font: 17px Bold; font-weight: 700 }} .o {{ text-decoration: line-through; margin-inline-start: 6px }}
.s {{ color: #555; font-size: 13px; display: flex; gap: 10px }}
.s i {{ width: 8px; height: 8px; border-radius: 50%; background: #2a9d8f; margin-block-start: 7px }}
pre {{ font: 14px/1.4 Code; background: #f0f2f0; padding: 10px; margin: 12px 0 }}
ul {{ padding: 0 0 0 24px }} a {{ color: #a12; }}
</style>
<h1>Snow at the stations</h1><p>{SENTENCE} {SENTENCE}</p>
<p class="n">412<span>cm</span></p><p class="n">1.24<span>M</span></p>
<p class="p"><b>$49</b><span class="o">$65</span></p>
<p>Friday &middot; November 27 &middot; 2026, at the upper station</p>
<p class="s"><i></i> Depth sensor</p><p class="s"><i></i> Wind vane</p>
<pre>&gt;&gt;&gt; def depth(board):
...     return board.__sum__(12)
...
&gt;&gt;&gt; depth(upper)</pre>
<ul><li><a>Reading a stake</a></li><li><a>Boards and wind</a></li><li><a>Lost stakes</a></li></ul>
<p>{SENTENCE}</p>"""


class Board(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture, _ = drawn(BOARD, 980, FONTS, fitted=True)
        cls.found = read(cls.picture)
        cls.texts = [n.text for n in cls.found.lines]
        cls.page = write(arrange(cls.found), cls.found, cls.picture)

    def sizes(self, text: str) -> dict[str, float]:
        n = next(n for n in self.found.lines if n.text == text)
        return {w.text: self.found.styles[w.style].size for w in n.words}

    def test_a_figure_and_its_unit_have_their_own_sizes(self) -> None:
        self.assertEqual(self.sizes("412 cm"), {"412": 36.0, "cm": 15.0})
        self.assertEqual(self.sizes("1.24 M"), {"1.24": 36.0, "M": 15.0})

    def test_a_unit_is_written_beside_its_figure(self) -> None:
        self.assertRegex(self.page.html, r">\s*1\.24\s*<span[^>]*>M</span>")

    def test_an_old_price_is_another_word_and_struck_through(self) -> None:
        n = next(n for n in self.found.lines if n.text.startswith("$49"))
        self.assertEqual([w.text for w in n.words], ["$49", "$65"])
        now, before = (self.found.styles[w.style] for w in n.words)
        self.assertTrue(before.strike and not now.strike)

    def test_dots_between_words_are_read(self) -> None:
        self.assertIn("Friday · November 27 · 2026, at the upper station", self.texts)

    def test_a_disc_that_tells_a_state_is_no_letter(self) -> None:
        for said in ("Depth sensor", "Wind vane"):
            self.assertIn(said, self.texts)

    def test_every_prompt_is_read(self) -> None:
        self.assertEqual(sum(t == "..." or t.startswith("... ") for t in self.texts), 2)
        self.assertTrue(any("__sum__(12)" in t for t in self.texts), self.texts)

    def test_bullets_in_another_ink_than_their_links_make_a_list(self) -> None:
        self.assertRegex(self.page.css, r"list-style: disc")


def letters(*heights: int, wide: int = 6, gap: int = 3) -> tuple[np.ndarray, list[tuple[int, int]]]:
    """Blocks for letters, that high above one base line, and the columns of each."""
    inked = np.zeros((40, len(heights) * (wide + gap) + gap), bool)
    for i, h in enumerate(heights):
        inked[30 - h : 30, gap + i * (wide + gap) : gap + i * (wide + gap) + wide] = True
    return inked, spans(inked.any(axis=0))


def middles(runs: list[tuple[int, int]]) -> list[float]:
    return [(a + b) / 2 for a, b in runs]


class Heights(unittest.TestCase):
    def test_letters_of_one_size_are_not_parted(self) -> None:
        inked, runs = letters(20, 20, 15, 20)
        self.assertEqual(size_gaps(("12a4", 0, 3), middles(runs), runs, inked), [])

    def test_a_smaller_unit_is_parted_where_it_begins(self) -> None:
        inked, runs = letters(20, 20, 10)
        self.assertEqual(size_gaps(("12M", 0, 2), middles(runs), runs, inked), [(runs[1][1], runs[2][0])])

    def test_a_sign_higher_than_its_figures_belongs_to_them(self) -> None:
        inked, runs = letters(28, 20, 20)
        self.assertEqual(size_gaps(("$12", 0, 2), middles(runs), runs, inked), [])

    def test_a_word_begins_with_a_capital_if_its_first_letter_is_as_high(self) -> None:
        inked, runs = letters(20, 15, 15, 15)
        self.assertEqual(right_case(("snow", 0, 3), middles(runs), runs, inked), "Snow")
        inked, runs = letters(15, 15, 15, 15)
        self.assertEqual(right_case(("snow", 0, 3), middles(runs), runs, inked), "snow")

    def test_letters_as_high_as_a_words_capitals_are_capitals(self) -> None:
        inked, runs = letters(9, 9, 9, 9, 9, 9)
        self.assertEqual(right_case(("sELEcT", 0, 5), middles(runs), runs, inked), "SELECT")
        self.assertEqual(right_case(("InsERT", 0, 5), middles(runs), runs, inked), "INSERT")
        inked, runs = letters(9, 9, 7, 7, 7)
        self.assertEqual(right_case(("VAsco", 0, 4), middles(runs), runs, inked), "VAsco")
        inked, runs = letters(9, 9, 9, 9, 7, 7, 7, 7)
        self.assertEqual(right_case(("JsONDeco", 0, 7), middles(runs), runs, inked), "JSONDeco")


def spelled(text: str, runs: list[tuple[int, int]], width: int) -> Spelling:
    """`text`, its letters where the runs are; spaces half-way between."""
    places: list[float] = []
    at = iter(middles(runs))
    for c in text:
        places.append(places[-1] if c == " " else next(at) / width)
    return Spelling(text, tuple(places), (1.0,) * len(text))


class Marks(unittest.TestCase):
    def test_a_dot_half_way_up_is_put_between_its_words(self) -> None:
        inked, runs = letters(10, 10, 10, 10, gap=4)
        inked[:, slice(*runs[2])] = False
        middle = sum(runs[2]) // 2
        inked[24:26, middle - 1 : middle + 1] = True  # 5 px above the base line
        seen = [*runs[:2], (middle - 1, middle + 1), runs[3]]
        s = spelled("ab c", [*runs[:2], runs[3]], inked.shape[1])
        self.assertEqual(" ".join(with_dots(s, seen, inked, 10.0).text.split()), "ab · c")
        taken = spelled("ab -c", seen, inked.shape[1])  # for a hyphen, without the space after it
        self.assertEqual(" ".join(with_dots(taken, seen, inked, 10.0).text.split()), "ab · c")
        self.assertEqual(with_dots(spelled("abxc", seen, inked.shape[1]), seen, inked, 10.0).text, "abxc")
        inked[24:26] = False
        inked[29:31, middle - 1 : middle + 1] = True  # on the base line: a full stop
        self.assertEqual(with_dots(s, seen, inked, 10.0).text, "ab c")

    def test_two_underscores_are_as_long_as_two(self) -> None:
        inked, runs = letters(10, 10, 10, 10)
        inked[32:33, runs[-1][1] + 2 : runs[-1][1] + 2] = True
        wide = np.zeros((40, inked.shape[1] + 24), bool)
        wide[:, : inked.shape[1]] = inked
        wide[32:33, inked.shape[1] + 1 : inked.shape[1] + 19] = True
        line = (inked.shape[1] + 1, inked.shape[1] + 19)
        s = spelled("abcd_", [*runs, line], wide.shape[1])
        self.assertEqual(with_underscores(s, wide, 10.0).text, "abcd__")
        short = wide.copy()
        short[32:33, line[0] + 9 :] = False
        s = spelled("abcd_", [*runs, (line[0], line[0] + 9)], wide.shape[1])
        self.assertEqual(with_underscores(s, short, 10.0).text, "abcd_")
        slanted = spelled(
            "abcd_", [*runs, line], wide.shape[1]
        )  # letters close to each other, and one long line
        self.assertEqual(with_underscores(slanted, wide, 24.0).text, "abcd_")

    def test_stars_are_as_high_as_letters_and_full_or_hollow(self) -> None:
        cover = np.zeros((12, 44), np.float32)
        for i in range(4):
            cover[1:11, 1 + 11 * i : 11 + 11 * i] = 1
        cover[4:8, 37:41] = 0
        self.assertEqual(spell_stars("****", cover, 12.0, False), "★★★☆")
        self.assertEqual(spell_stars("***", cover[:, :12], 24.0, False), "***")  # asterisks are low


if __name__ == "__main__":
    unittest.main()
