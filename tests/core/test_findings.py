"""Findings name causes: known faults in finished pages, and none on pages that are as they should be."""

from __future__ import annotations

import unittest
from dataclasses import replace

from bench.faults import finished, inject, proof_of

from neige.core.model import Page, Proof

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
        found = inject(22, seed=3, pages=(REPORT,))
        missed = [f for f in found if not f[2]]
        self.assertLessEqual(len(missed), 1, missed)

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


if __name__ == "__main__":
    unittest.main()
