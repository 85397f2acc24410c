"""Findings name causes: known faults in finished pages, and none on pages that are as they should be."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

import numpy as np
from bench.faults import finished, inject, proof_of

from neige.core.intake import open_picture
from neige.core.model import Cutout, Drawing, DrawnBox, DrawnWord, Fill, Page, Proof, Rect, Shadow, Surface
from neige.core.proof.boxes import find_boxes
from neige.core.proof.findings import find
from tests.core.test_outline import line, reading
from tests.support import png

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

    def test_what_a_wider_border_moves_has_its_cause_there(self) -> None:
        css = finished(REPORT).page.css
        rule = re.search(r"border: 1px solid [^;]+;", css)
        assert rule is not None
        proof = self.changed(css=(rule[0], "border: 4px solid #607d8b;"))
        self.assertEqual(proof.findings[0].kind, "border")
        self.assertEqual([f.text for f in proof.findings if f.kind in ("gap", "moved")], [])

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


class Steps(unittest.TestCase):
    """Lines that are farther from each other than they should be, put there by hand."""

    def found(self, size: float, *down: float) -> list[str]:
        """Kinds of findings where a first line is set in `size` (16 is right) and the next are drawn `down` px too low."""
        seen = reading(
            [line("Firnwatch", 20, 40), line("Forty stations", 300, 320), line("Observers", 300, 700)]
        )
        none = np.zeros((0, 0, 3), np.uint8)
        pairs, off = [], {}
        for of, dy in zip(seen.lines, (0.0, *down)):
            style = seen.styles[of.style]
            for w in of.words:
                first = of is seen.lines[0]
                d = DrawnWord(
                    w.text,
                    replace(w.ink, y=w.ink.y + dy),
                    size if first else style.size,
                    style.weight,
                    style.family,
                    style.colour,
                    1,
                )
                pairs.append((w, d))
                off[id(w)] = (0.0, dy)
        picture = open_picture(png(np.full((900, 1440, 3), 255, np.uint8)), "white.png")
        drawing = Drawing(1440, 900, 1440, 1, none, tuple(d for _, d in pairs), {})
        return [f.kind for f in find(seen, picture, drawing, pairs, [], [], lambda w, d: off[id(w)])]

    def test_what_a_smaller_type_moves_far_below_has_its_cause_there(self) -> None:
        right = reading([line("Firnwatch", 20, 40)]).styles[0].size
        self.assertEqual(self.found(right), [])
        self.assertEqual(self.found(0.85 * right, -2.0, -2.0), ["size"])
        # but not what is moved otherwise, or by more than that could
        self.assertEqual(set(self.found(0.85 * right, 9.0, 9.0)), {"size", "gap"})
        self.assertEqual(set(self.found(0.85 * right, -30.0, -30.0)), {"size", "gap"})
        self.assertEqual(set(self.found(right, -2.0, -2.0)), {"gap"})


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
            (f.kind, f.text) for f in find_boxes(self.reading, drawing, [(Rect(120, 138, 90, 14), moved)])[0]
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

    def test_a_picture_that_stays_while_words_beside_it_move_is_there(self) -> None:
        down = replace(self.box, rect=Rect(100, 620, 300, 200))
        self.assertEqual(self.found(down, self.photo, moved=520.0), [])

    def test_a_picture_that_is_not_there(self) -> None:
        self.assertEqual([k for k, _ in self.found(self.box)], ["picture"])


if __name__ == "__main__":
    unittest.main()
