"""Drawing a piece of text in a face: it is found where it is, whatever its measured edges say."""

import unittest

import numpy as np

from neige.core.reading.text.raw import RawWord
from neige.core.reading.type.catalogue import catalogue, draw, shape
from neige.core.reading.type.fit import extent, ink_rows
from neige.core.reading.type.kinds import Type
from neige.core.reading.type.match import match
from neige.core.reading.type.pieces import Piece
from neige.core.reading.type.trial import Trial

SIZE, BASE = 14.0, 20.0


def row(family: str, weight: int = 400) -> int:
    return next(
        i.row
        for i in catalogue().instances
        if (i.face.family, i.weight, i.face.italic) == (family, weight, False)
    )


def piece(text: str, pen: float, off: float = 0.0, family: str = "Liberation Sans") -> Piece:
    """Words drawn in black on white with their pen at `pen` px, whose edges are measured `off` px too far to the right."""
    drawn_in, words = row(family), []
    cover = draw(drawn_in, text, SIZE, 0.0, pen, BASE, (28, 240))
    for n, word in enumerate(text.split()):
        begun = " ".join(text.split()[:n])
        before = shape(drawn_in, f"{begun} ").advance * SIZE if n else 0.0
        shaped, high = shape(drawn_in, word), ink_rows(drawn_in, word)
        left = pen + before + SIZE * extent(drawn_in, word[0], 1)
        right = pen + before + SIZE * (shaped.x[-1] + extent(drawn_in, word[-1], 2))
        box = (left + off, BASE - SIZE * high[0], right + off, BASE - SIZE * high[1])
        words.append(RawWord(word, box, (0.0, 0.0, 0.0), 1.0))
    return Piece(0, words, np.zeros(3), np.full(3, 255.0), cover, (0, 0), True)


class Matches(unittest.TestCase):
    def test_a_word_is_found_a_fraction_of_a_px_beside_its_edges(self):
        for off in (-0.1, 0.0, 0.1):
            with self.subTest(off=off):
                found = match(piece("Stations", 8.0, off), row("Liberation Sans"), SIZE, 0.0)
                self.assertLess(found.residual, 0.012)

    def test_so_are_words_that_stand_off_their_line(self):
        line = piece("Snow stations read", 8.0)
        last = piece("read", 140.25)
        line.cover = np.maximum(line.cover * (np.arange(240) < line.words[2].box[0] - 2), last.cover)
        line.spell([*line.words[:2], last.words[0]])
        found = match(line, row("Liberation Sans"), SIZE, 0.0)
        self.assertLess(found.words.max(), 0.03)

    def test_another_face_stays_unlike_it(self):
        found = match(piece("Stations", 8.0), row("Liberation Serif"), SIZE, 0.0)
        self.assertGreater(found.residual, 0.15)


class Trials(unittest.TestCase):
    def best(self, text: str, family: str, families: list[str]) -> Type:
        from neige.core.reading.type import fit

        p = piece(text, 8.0, family=family)
        known = [catalogue().families.index(name) for name in families]
        return Trial([p], [fit.fit_all(p.edges, fit.SIGMA)], known, [], fit.SIGMA, 1).best()

    def test_the_face_is_found_among_all(self):
        found = self.best("Snow depth at noon", "Liberation Sans", ["Liberation Serif"])
        self.assertEqual((found.instance.face.family, found.size), ("Liberation Sans", SIZE))

    def test_code_is_found_where_no_other_face_draws_it(self):
        found = self.best("depths.py", "DejaVu Sans Mono", ["Liberation Serif"])
        self.assertEqual(found.instance.face.category, "monospace")
        self.assertLess(found.usual, 0.05)


if __name__ == "__main__":
    unittest.main()
