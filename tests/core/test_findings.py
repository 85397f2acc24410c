"""Findings name causes: known faults in finished pages, and none on pages that are as they should be."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from bench.faults import finished, inject, proof_of

from neige.core.model import Cutout, Drawing, DrawnBox, Fill, Page, Proof, Rect, Shadow, Surface
from neige.core.proof.boxes import find_boxes
from tests.core.test_outline import line, reading

REPORT = "depth-report.png"


class Faults(unittest.TestCase):
    def changed(self, *, html: tuple[str, str] = ("", ""), css: tuple[str, str] = ("", "")) -> Proof:
        page: Page = finished(REPORT).page
        self.assertIn(html[0], page.html)
        self.assertIn(css[0], page.css)
        return proof_of(
            finished(REPORT), replace(page, html=page.html.replace(*html, 1), css=page.css.replace(*css, 1))
        )

    def test_an_untouched_page_has_no_findings(self) -> None:
        self.assertEqual(finished(REPORT).proof.findings, ())

    def test_known_faults_are_named_first_or_second(self) -> None:
        found = inject(30, seed=3, pages=(REPORT,))
        missed = [f for f in found if not f[2]]
        self.assertLessEqual(len(missed), 2, missed)

    def test_one_wrong_gap_is_one_finding_however_much_it_moves(self) -> None:
        proof = self.changed(css=("body {", "main {\n  margin-block-start: 24px;\n}\n\nbody {"))
        gaps = [f for f in proof.findings if f.kind == "gap"]
        self.assertEqual(len(gaps), 1)
        self.assertRegex(gaps[0].text, r"24 px too large: moves \d\d words")

    def test_a_fill_and_a_word(self) -> None:
        words = finished(REPORT).page.html
        title = words.split("<h1", 1)[1].split(">", 1)[1].split("<", 1)[0].strip()
        word = title.split()[-1]
        proof = self.changed(
            html=(f"{word}</h1>", f"{word}s</h1>"),
            css=("background: var(--color-accent)", "background: #7a1fa2"),
        )
        kinds = {f.kind: f.text for f in proof.findings}
        self.assertIn(f"“{word}s”", kinds["word"])
        self.assertIn("#7a1fa2", kinds["fill"])
        self.assertEqual(set(kinds) - {"word", "fill"}, set())


class Boxes(unittest.TestCase):
    """Panels and pictures, on drawings made by hand."""

    def setUp(self) -> None:
        panel = Surface(
            Rect(100, 100, 300, 200),
            Fill("#ffffff"),
            12.0,
            (1.0,) * 4,
            "#c8d2da",
            Shadow(0, 4, 12, 0, "#000000", 0.2),
        )
        self.reading = reading(
            [line("Upper Cairn", 120, 150)], [panel], cutouts=[Cutout(Rect(500, 100, 200, 150), "image")]
        )
        self.box = DrawnBox(Rect(100, 100, 300, 200), 12.0, (1.0,) * 4, True, False, True, 3)
        self.photo = DrawnBox(Rect(500, 100, 200, 150), 0.0, (0.0,) * 4, False, True, False, 4)

    def found(self, *boxes: DrawnBox, moved: float = 0.0) -> list[tuple[str, str]]:
        none = np.zeros((0, 0, 3), np.uint8)
        drawing = Drawing(1440, 900, 1440, 1, none, (), {}, boxes)
        return [
            (f.kind, f.text) for f in find_boxes(self.reading, drawing, [(Rect(120, 138, 90, 14), moved)])
        ]

    def test_what_is_as_it_was_seen_is_no_finding(self) -> None:
        self.assertEqual(self.found(self.box, self.photo), [])

    def test_corners_borders_shadows_and_sizes(self) -> None:
        other = replace(self.box, radius=2.0, border=(3.0,) * 4, shadow=False)
        found = dict(self.found(other, self.photo))
        self.assertEqual(set(found), {"radius", "border", "shadow"})
        self.assertIn("corners of 2 px, the picture has 12", found["radius"])
        wide = replace(self.box, rect=Rect(100, 100, 300, 290))
        self.assertEqual([k for k, _ in self.found(wide, self.photo)], ["resized"])

    def test_a_panel_is_looked_for_where_its_words_went(self) -> None:
        down = replace(self.box, rect=Rect(100, 220, 300, 200))
        self.assertEqual(
            self.found(down, replace(self.photo, rect=Rect(500, 220, 200, 150)), moved=120.0), []
        )

    def test_a_picture_that_is_not_there(self) -> None:
        self.assertEqual([k for k, _ in self.found(self.box)], ["picture"])


if __name__ == "__main__":
    unittest.main()
