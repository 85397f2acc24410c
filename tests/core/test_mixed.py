"""Words and lines in several types: signatures of code, names of variables, sentences with bold names."""

from __future__ import annotations

import itertools
import unittest
from collections.abc import Sequence
from unittest.mock import patch

import numpy as np

from neige.core.model import Line, TypeStyle
from neige.core.reading.text.bullets import read_bullets
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.spaces import _no_spaces
from neige.core.reading.text.strokes import letters_and_rules
from neige.core.reading.type import decide, mixed
from neige.core.reading.type.catalogue import catalogue, draw, shape
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.pieces import cut_pieces
from neige.core.reading.type.split import split_words
from neige.core.reading.type.widths import measure_again
from tests.core.test_type import PROSE, Sheet, row_of

INK = (30.0, 40.0, 50.0)
MONO, BOLD, ITALIC = (
    row_of("DejaVu Sans Mono", 400),
    row_of("DejaVu Sans Mono", 700),
    row_of("DejaVu Sans Mono", 400, True),
)


class Mixed(Sheet):
    """A sheet on which a line may change its type anywhere."""

    def runs(self, parts: Sequence[tuple[str, int, float]], y: int, x: float = 20.0) -> None:
        """Set (text, catalogue row, size in px) one after the other; only spaces end a word."""
        words: list[tuple[str, np.ndarray]] = []
        inside = False
        for text, row, size in parts:
            shaped = shape(row, text, False)
            at = 0
            for piece in text.split(" "):
                if at and piece:
                    inside = False
                pen = shaped.x[next(i for i, c in enumerate(shaped.clusters) if c >= at)] if piece else 0.0
                at += len(piece) + 1
                if not piece:
                    inside = False
                    continue
                cover = draw(row, piece, size, 0.0, x + pen * size, y, self.pixels.shape[:2])
                self.pixels += cover[..., None] * (np.array(INK) - self.pixels)
                if inside:
                    said, before = words[-1]
                    words[-1] = said + piece, np.maximum(before, cover)
                else:
                    words.append((piece, cover))
                inside = True
            x += shaped.advance * size
        raw = []
        for said, cover in words:
            rows, columns = np.flatnonzero(cover.max(axis=1) > 0.15), np.flatnonzero(cover.max(axis=0) > 0.15)
            box = float(columns[0]), float(rows[0]), float(columns[-1] + 1), float(rows[-1] + 1)
            raw.append(RawWord(said, box, INK, 0.99))
        self.lines.append(
            RawLine(tuple(raw), around([w.box for w in raw]), (255.0, 255.0, 255.0), True, 0.99)
        )


def said_in(line: Line, styles: list[TypeStyle]) -> list[tuple[str, int, bool, float]]:
    return [
        (w.text, styles[w.style].weight, styles[w.style].italic, styles[w.style].size) for w in line.words
    ]


class SeveralTypes(unittest.TestCase):
    def sheet(self) -> Mixed:
        page = Mixed()
        for k, text in enumerate(PROSE):
            page.line(text, row_of("Liberation Sans", 400), 16, 40 + 24 * k)
        return page

    def test_a_signature_is_cut_where_its_type_changes(self) -> None:
        page = self.sheet()
        page.line("import firn", MONO, 16, 130)
        page.runs(
            [("firn.", MONO, 16), ("read_depth", BOLD, 17.6), ("(", MONO, 19.2), ("station", ITALIC, 16), (", ", MONO, 16), ("unit=None", ITALIC, 16), (")", MONO, 19.2)],
            180,
        )  # fmt: skip
        lines, styles = page.read()
        signature = said_in(next(n for n in lines if "read_depth" in n.text), styles)
        self.assertEqual("".join(w[0] for w in signature), "firn.read_depth(station,unit=None)")
        look = {
            start: next(w[1:] for w in signature if w[0].startswith(start))
            for start in ("firn", "read", "station", "unit")
        }
        self.assertEqual([look[k][0] for k in look], [400, 700, 400, 400])
        self.assertEqual([look[k][1] for k in look], [False, False, True, True])
        self.assertAlmostEqual(look["read"][2], 17.6, delta=0.3)

    def test_a_word_of_one_type_stays_whole(self) -> None:
        page = self.sheet()
        page.line("import firn", MONO, 16, 130)
        page.line("firn.read_depth(station, unit=None)", MONO, 16, 180)
        lines, _ = page.read()
        self.assertIn("firn.read_depth(station, unit=None)", [n.text for n in lines])

    def test_a_row_of_signs_is_looked_into_once_from_each(self) -> None:
        page = self.sheet()
        page.line("import firn", MONO, 16, 130)
        page.line("." * 9 + "!" + "." * 10, MONO, 16, 180, read_as="." * 20)
        with patch.object(mixed, "_drawn", wraps=mixed._drawn) as drawn:
            page.read()
        self.assertGreater(drawn.call_count, 20)
        self.assertLess(drawn.call_count, 2 * 20 * 20)

    def test_a_line_that_its_type_hardly_draws_is_told_apart(self) -> None:
        page = Mixed()
        plain, bold, slanted = (
            row_of("Liberation Sans", w, i) for w, i in ((400, False), (700, False), (400, True))
        )
        parts = [
            ("Listen. ", plain, 14),
            ("Stakes that lean in the wind are no basis for bulletins. ", bold, 14),
            ("Supreme care", slanted, 14),
        ]
        page.runs(parts, 190)
        (piece,) = cut_pieces(0, page.lines[0], np.rint(page.pixels).astype(np.uint8))
        kind = Type(slanted, 14.0, 0.0, 0.016, members=[piece])
        types = [Type(plain, 14.0, 0.0, 0.01), kind]
        split_words(kind, types, [int(catalogue().family_of[plain])], 1)
        told = {t.row: " ".join(w.text for p in t.members for w in p.words) for t in types}
        self.assertEqual(told, {row: said.strip() for said, row, _ in parts})

    def test_one_letter_in_italics_leans(self) -> None:
        page = self.sheet()
        sans, slanted = row_of("Liberation Sans", 400), row_of("Liberation Sans", 400, True)
        page.runs([("depth at ", sans, 16), ("x", slanted, 16), (" and the ", sans, 16), ("station", slanted, 16), (" below the ridge", sans, 16)], 130)  # fmt: skip
        lines, styles = page.read()
        leaning = [
            w[0] for w in said_in(next(n for n in lines if n.text.startswith("depth at")), styles) if w[2]
        ]
        self.assertEqual(leaning, ["x", "station"])

    def test_bold_names_in_sentences_are_bold_and_nothing_else_is(self) -> None:
        page = self.sheet()
        plain, bold = row_of("Liberation Sans", 400), row_of("Liberation Sans", 700)
        page.line("Ridge observers", bold, 16, 130)
        for k, (name, rest) in enumerate(
            (("Oda Brenn", " wrote the bulletin"), ("Veit Lomm", " read the hut stake"))
        ):
            page.runs([(name, bold, 16), (rest, plain, 16)], 170 + 30 * k)
        lines, styles = page.read()
        for name in ("Oda", "Veit"):
            found = said_in(next(n for n in lines if n.text.startswith(name)), styles)
            self.assertEqual([w[1] for w in found], [700, 700, *[400] * (len(found) - 2)])


class Sizes(unittest.TestCase):
    """Sizes that lines with other words in them have made a little wrong."""

    def read(self, times: float, odd: bool = False) -> list[float]:
        """The sizes that are found where those of before are `times` too large; `odd`: one line in three holds wider words."""
        sheet = Mixed(height=600)
        for n, text in enumerate(3 * PROSE):
            row, size = (BOLD, 15.0) if odd and not n % 3 else (row_of("Liberation Serif", 400), 16.0)
            head, tail = text[:20], text[20:]
            sheet.runs([(head, row_of("Liberation Serif", 400), 16.0), (tail, row, size)], 40 + 30 * n)

        def mistaken(types: list[Type], sigma: float, scale: int) -> None:
            for t in types:
                t.size *= times
            measure_again(types, sigma, scale)

        with patch.object(decide, "measure_again", mistaken):
            _, styles = sheet.read()
        return sorted(s.size for s in styles if s.family == "Liberation Serif")

    def test_the_size_that_most_lines_have_is_that_of_the_type(self) -> None:
        self.assertEqual(self.read(1.002), [16.0])
        self.assertEqual(self.read(1.002, odd=True), [16.0])

    def test_a_type_that_is_in_the_right_size_stays_in_it(self) -> None:
        self.assertEqual(self.read(1.0), [16.0])

    def test_a_size_that_is_far_off_is_another_matter(self) -> None:
        self.assertEqual(self.read(1.05), [16.8])


class Marks(unittest.TestCase):
    def test_a_space_inside_a_calls_brackets_is_none(self) -> None:
        tokens = [("read", 0, 3), ("()", 5, 6), ("now", 8, 10)]
        runs = [(0, 8), (10, 18), (20, 28), (30, 38), (42, 45), (51, 54), (63, 71)]
        self.assertEqual(_no_spaces(tokens, [(45, 51), (54, 63)], runs, 5.0), [4])
        before = [(38.0, 42.0), (54.0, 63.0)]  # it is one
        self.assertEqual(_no_spaces(tokens, before, runs, 5.0), [])

    def test_a_slight_gap_beside_a_quote_is_no_space(self) -> None:
        tokens = [
            ("stake", 0, 4),
            ("=", 6, 6),
            ("read(a,", 8, 14),
            ("unit='", 16, 21),
            ("cm',", 23, 26),
            ("b)", 28, 29),
        ]
        runs = [(0, 40), (52, 60), (72, 130), (142, 200), (205, 230), (242, 260)]
        gaps = [(float(a[1]), float(b[0])) for a, b in itertools.pairwise(runs)]
        self.assertEqual(_no_spaces(tokens, gaps, runs, 5.0), [22])
        even = [(a, a + 12.0) for a, _ in gaps]
        self.assertEqual(_no_spaces(tokens, even, runs, 5.0), [])

    def test_a_rule_from_edge_to_edge_leaves_no_px(self) -> None:
        for width in (40, 41, 52, 53):
            inked = np.zeros((30, 60), bool)
            inked[25, :width] = True
            inked[8:20, 10:12] = True
            for across in (33.0, 34.0, 35.0):
                letters, ruled = letters_and_rules(inked, across, 29.0)
                self.assertFalse(letters[25].any(), (width, across))
                self.assertEqual(int(ruled[25].sum()), width)
                self.assertTrue(letters[8:20, 10:12].all())

    def test_a_bullet_read_as_a_square_is_the_lines_bullet(self) -> None:
        page = Mixed()
        page.runs([("▪ ", MONO, 10), ("Vell ridge station", MONO, 14)], 40)
        pixels = np.clip(np.round(page.pixels), 0, 255).astype(np.uint8)
        (found,) = read_bullets(page.lines, pixels, 1)
        self.assertEqual(found.text, "Vell ridge station")
        self.assertEqual(found.bullet, page.lines[0].words[0].box)
        plain = Sheet()
        plain.line("Vell ▪ ridge station", row_of("DejaVu Sans", 400), 14, 40)
        self.assertEqual(read_bullets(plain.lines, pixels, 1), plain.lines)


if __name__ == "__main__":
    unittest.main()
