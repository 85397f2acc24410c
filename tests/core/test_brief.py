"""The brief says what was measured, in Markdown and in HTML, and harms nobody."""

from __future__ import annotations

import unittest
from collections import Counter
from dataclasses import replace
from html.parser import HTMLParser

from neige.browser import draw_page
from neige.core.model import Finding, Pin, Rect
from neige.core.model.reading import PaletteEntry, SpacingScale
from neige.core.outline import arrange, check
from neige.core.proof import brief, parts_of, prove, without_accepted
from neige.core.writer import write
from tests.core.test_outline import blank, line, page


class Brief(unittest.TestCase):
    def setUp(self) -> None:
        r = page()
        self.reading = replace(
            r,
            lines=(*r.lines, replace(line("<script>alert(1)</script> | x", 150, 700), confidence=0.2)),
            palette=(PaletteEntry("#22303a", 0.01, "text"),),
            spacing=SpacingScale(8.0, ((24.0, 5),), ((7.0, 1),), 0.8),
        )
        self.outline = arrange(self.reading)
        self.page = write(self.outline, self.reading, blank(), subset=False)
        self.drawing = draw_page(self.page, 1440)
        self.proof = prove(self.reading, blank(), self.drawing)

    def make(self) -> tuple[str, str]:
        parts = parts_of(self.outline, self.page, self.drawing)
        return brief(
            "Depth | today", self.reading, self.page, parts, self.proof, check(self.outline, self.reading)
        )

    def test_every_chapter_tells_what_was_measured(self) -> None:
        markdown, _ = self.make()
        for told in (
            "## Palette",
            "#22303a",
            "Inter",
            "multiples of 8 px for 80 %",
            "| 24 px | 5 |",
            "| header |",
            "## Open questions",
        ):
            self.assertIn(told, markdown)
        self.assertEqual(self.make(), self.make())

    def test_words_of_the_picture_are_only_words(self) -> None:
        markdown, html = self.make()
        self.assertNotIn("<script", html)
        self.assertIn(r"Depth \| today", markdown)
        tags: Counter[str] = Counter()
        parser = HTMLParser()
        parser.handle_starttag = lambda tag, attrs: tags.update([tag])  # type: ignore[method-assign]
        parser.feed(html)
        self.assertEqual(tags["script"], 0)
        self.assertGreater(tags["h2"], 6)

    def test_an_accepted_finding_is_one_no_longer(self) -> None:
        found = Finding("gap", "the gap is 5 px too large", Rect(10, 10, 200, 20), 4.0)
        other = Finding("ink", "another ink", Rect(10, 10, 200, 20), 4.0)
        proof = replace(self.proof, findings=(found, other))
        pin = Pin("accept", Rect(12, 10, 198, 20), text=found.text, to="gap")
        self.assertEqual(without_accepted(proof, [pin]).findings, (other,))
        away = replace(pin, rect=Rect(10, 400, 200, 20))
        self.assertEqual(without_accepted(proof, [away]).findings, (found, other))
        self.assertEqual(str(pin), "accepted: the gap is 5 px too large")


if __name__ == "__main__":
    unittest.main()
