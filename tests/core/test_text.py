"""Words and type read back as they were set."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Drawing, Picture, Reading
from neige.core.proof.compare import match_words
from neige.core.reading import read
from neige.core.reading.text.ink import edge, measure_ink, spans
from neige.core.reading.type.catalogue import catalogue, draw, shape
from neige.core.reading.type.fit import Edges, baseline_of, fit_all, page_families, refit
from tests.support import drawn

WORDS = "Volunteers read the stakes at dawn and write down how deep the snow lies on the ridge"


def row_of(family: str, weight: int, italic: bool = False) -> int:
    return next(
        i.row
        for i in catalogue().instances
        if i.face.family == family and i.weight == weight and i.face.italic == italic
    )


def set_line(
    text: str, row: int, size: float, tracking: float = 0.0, x: float = 10.0, baseline: float = 60.0
) -> Edges:
    """The ink edges of words drawn by the catalogue itself."""
    shaped = shape(row, text, bool(tracking))
    total = int(shaped.advance * size + tracking * len(text) + 40)
    whole = draw(row, text, size, tracking, x, baseline, (100, total))
    words, left, right, top, bottom, at = text.split(" "), [], [], [], [], 0
    for word in words:
        pen = shaped.x[next(i for i, c in enumerate(shaped.clusters) if c >= at)] * size + at * tracking
        part = draw(row, word, size, tracking, x + pen, baseline, whole.shape)
        columns, rows = part.max(axis=0), part.max(axis=1)
        a, b = edge(columns, *spans(columns > 0.1)[0][:1], spans(columns > 0.1)[-1][1])
        left.append(a)
        right.append(b)
        inked = spans(rows > 0.1)
        c, d = edge(rows, inked[0][0], inked[-1][1])
        top.append(c)
        bottom.append(d)
        at += len(word) + 1
    return Edges(tuple(words), *(np.array(v) for v in (left, right, top, bottom)))


class Fitting(unittest.TestCase):
    def test_the_right_instance_gives_the_size_back(self) -> None:
        for family, weight, size in (
            ("Inter", 400, 16.0),
            ("Source Serif 4", 600, 23.0),
            ("JetBrains Mono", 400, 13.0),
        ):
            with self.subTest(family):
                row = row_of(family, weight)
                fit = refit(set_line(WORDS, row, size), row, 0.4)
                self.assertAlmostEqual(fit.size, size, delta=0.03)
                self.assertEqual(fit.tracking, 0.0)

    def test_tracking_is_told_from_size(self) -> None:
        row = row_of("Inter", 600)
        fit = refit(set_line("STATIONS REPORTING THIS MORNING", row, 13.0, 1.2), row, 0.4)
        self.assertAlmostEqual(fit.tracking, 1.2, delta=0.1)
        self.assertAlmostEqual(fit.size, 13.0, delta=0.25)

    def test_a_long_line_tells_its_family(self) -> None:
        for family in ("Inter", "Roboto", "Lato", "Merriweather", "Poppins", "DejaVu Sans"):
            with self.subTest(family):
                e = set_line(WORDS, row_of(family, 400), 16.0)
                chi, _, _ = fit_all(e, 0.4)
                self.assertIn(catalogue().families.index(family), page_families([chi]))

    def test_the_baseline_is_where_it_was_drawn(self) -> None:
        row = row_of("Inter", 400)
        self.assertAlmostEqual(baseline_of(set_line(WORDS, row, 18.0), row, 18.0), 60.0, delta=0.35)


class Ink(unittest.TestCase):
    def test_ink_and_ground_are_told_apart_on_any_colour(self) -> None:
        for ground, ink in (
            ((255, 255, 255), (30, 40, 50)),
            ((20, 60, 80), (240, 244, 246)),
            ((192, 69, 42), (255, 255, 255)),
        ):
            crop = np.full((30, 120, 3), ground, np.uint8)
            crop[8:22, 10:14] = crop[8:22, 40:44] = crop[8:22, 80:84] = ink
            found = measure_ink(crop)
            np.testing.assert_allclose(found.ground, ground, atol=1)
            np.testing.assert_allclose(found.colour, ink, atol=1)
            self.assertTrue(found.flat)

    def test_half_covered_end_pixels_count_half(self) -> None:
        self.assertEqual(edge(np.array([0.5, 1.0, 1.0, 0.25], np.float32), 0, 4), (0.5, 3.25))


PAGE = """<style>*{{margin:0}}body{{background:#fff;color:#22303a;font:400 17px/1.6 "{family}";padding:40px;width:640px}}
h1{{font-size:40px;line-height:1.2;font-weight:700}}small{{font-size:13px;color:#5d6f7d}}b{{background:#23607a;color:#fff;padding:10px 16px;display:inline-block;font-weight:600}}</style>
<h1>Upper Cairn station</h1><p>{words}, and nobody sees them do it before the bulletin goes out at seven.</p><p><b>Report depth</b></p><small>Readings of 12 stations, 2 140 m and above</small>"""


class WholePages(unittest.TestCase):
    """The real recogniser on pages drawn by the browser, judged by the browser's own word boxes."""

    def read(self, family: str, file: str, scale: int = 1) -> tuple[Reading, Picture, Drawing]:
        picture, drawing = drawn(PAGE.format(family=family, words=WORDS), 760, {family: file}, scale)
        return read(picture), picture, drawing

    def test_words_places_sizes_and_families(self) -> None:
        for family, file in (("Inter", "inter-normal.ttf"), ("Source Serif 4", "source-serif-4-normal.ttf")):
            with self.subTest(family):
                reading, _, drawing = self.read(family, file)
                words = [w for line in reading.lines for w in line.words]
                pairs, lost, extra = match_words(words, reading, drawing)
                self.assertEqual(([w.text for w in lost], [d.text for d in extra]), ([], []))
                self.assertLess(np.median([abs(w.x - d.rect.x) for w, d in pairs]), 0.5)
                self.assertGreater(
                    np.mean([abs(reading.styles[w.style].size - d.size) <= 0.04 * d.size for w, d in pairs]),
                    0.95,
                )
                self.assertGreater(
                    np.mean([reading.styles[w.style].family == family for w, _ in pairs]), 0.85
                )
                self.assertGreater(
                    np.mean([abs(reading.styles[w.style].weight - d.weight) <= 100 for w, d in pairs]), 0.9
                )

    def test_2x_reads_the_same_as_1x(self) -> None:
        once, _, _ = self.read("Inter", "inter-normal.ttf")
        twice, picture, _ = self.read("Inter", "inter-normal.ttf", 2)
        self.assertEqual(picture.scale, 2)
        self.assertEqual([line.text for line in once.lines], [line.text for line in twice.lines])
        for a, b in zip(once.lines, twice.lines):
            self.assertAlmostEqual(a.baseline, b.baseline, delta=1.0)
            self.assertAlmostEqual(a.box.x, b.box.x, delta=1.0)

    def test_the_same_picture_gives_the_same_reading(self) -> None:
        first, picture, _ = self.read("Inter", "inter-normal.ttf")
        self.assertEqual(first, read(picture))


if __name__ == "__main__":
    unittest.main()
