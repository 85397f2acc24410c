"""How a page is opened: the title below the bar of its head, headlines of several lines, numbered sections."""

from __future__ import annotations

import unittest

from neige.core.model import Fill, Reading, Rect, Surface
from neige.core.outline import arrange
from neige.core.outline.headings import FIGURE
from tests.core.test_menus import prose, tags, words
from tests.core.test_outline import line, reading


def opened(headline: tuple[str, ...] = ("Snow depth in the Vell range",), pitch: float = 48) -> Reading:
    """A page whose bar and headline stand on one dark ground."""
    lines = [line("Firnwatch", 150, 46, 3, "#1b3040")]
    entries = ("Stations", "Bulletin", "Observers", "Method")
    lines += [line(t, 900 + i * 110, 46, 3, "#1b3040") for i, t in enumerate(entries)]
    lines += [line(t, 150, 220 + pitch * i, 1, "#1b3040") for i, t in enumerate(headline)]
    below = prose(560, 10, 150)
    return reading([*lines, *below], [Surface(Rect(0, 0, 1440, 420), Fill("#1b3040"))])


class Titles(unittest.TestCase):
    def test_what_stands_below_the_bar_of_the_head_is_the_title(self) -> None:
        r = opened()
        self.assertEqual([words(n) for n in tags(r, "h1")], ["Snow depth in the Vell range"])
        head = tags(r, "header")
        self.assertEqual(len(head), 1)
        self.assertTrue(any(n.tag == "h1" for n in head[0].walk()))

    def test_the_name_in_the_bar_is_none(self) -> None:
        lines = [line("Firnwatch", 150, 50, 1)]
        lines += [
            line(t, 900 + i * 110, 46) for i, t in enumerate(("Stations", "Bulletin", "Observers", "Method"))
        ]
        r = reading([*lines, *prose(200, 20, 150)])
        self.assertEqual([n.tag for n in arrange(r).root.walk() if n.tag in ("h1", "h2")], [])

    def test_large_lines_right_under_one_another_are_one_headline(self) -> None:
        for headline in (
            ("Lantern", "Hut"),
            ("Your winter starts with", "us."),
            ("Fresh", "snow", "Tonight"),
        ):
            self.assertEqual([words(n) for n in tags(opened(headline), "h1")], [" ".join(headline)])

    def test_farther_apart_they_are_two(self) -> None:
        found = [words(n) for n in arrange(opened(("Lantern", "Hut"), 60)).root.walk() if n.kind == "text"]
        self.assertIn("Hut", found)

    def test_the_number_of_a_section_is_no_figure(self) -> None:
        for text in ("2.1. Checkpoints", "3. Scope", "10. Stakes"):
            self.assertNotRegex(text, FIGURE)
        for text in ("54 km/h", "12.5 cm", "$15 a month", "1.", "142 cm of snow"):
            self.assertRegex(text, FIGURE)

    def test_short_numbered_titles_are_headings(self) -> None:
        numbered = (line("2.1. Stakes", 150, 400, 1), line("2.2. Huts", 150, 700, 1))
        r = reading(
            [
                line("Firnwatch handbook", 150, 120, 1),
                *prose(200, 6, 150),
                *numbered,
                *prose(460, 6, 150),
                *prose(760, 4, 150),
            ]
        )
        self.assertEqual([words(n) for n in tags(r, "h2")], ["2.1. Stakes", "2.2. Huts"])


class Panels(unittest.TestCase):
    def test_the_head_of_a_panel_is_no_button(self) -> None:
        head = Surface(Rect(300, 200, 700, 90), Fill("#f7f7f7"), 6.0, (0.0, 0.0, 1.0, 0.0), "#d0d4d8")
        body = Surface(Rect(300, 290, 700, 300), Fill("#ffffff"), 0.0, (0.0, 0.0, 1.0, 0.0), "#d0d4d8")
        title = line("Create account", 520, 255, 1)
        r = reading(
            [title, *prose(330, 8, 330)], [Surface(Rect(0, 0, 1440, 900), Fill("#e4e8ec")), head, body]
        )
        self.assertEqual([n for n in arrange(r).root.walk() if n.attributes.get("role") == "button"], [])


if __name__ == "__main__":
    unittest.main()
