"""How a page is opened and how it ends: the title below the bar of its head, headlines of several lines, numbered sections, a foot of
links; and what is no control, though it looks like one."""

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

    def test_a_lone_number_in_a_capsule_says_how_many(self) -> None:
        pill = Surface(Rect(700, 284, 36, 30), Fill("#22303a"), 15.0)
        count = line("3", 713, 304, 0, "#22303a")
        r = reading(
            [line("Stations", 150, 120, 1), line("Huts", 300, 306), count, *prose(360, 8, 300)], [pill]
        )
        self.assertEqual(
            [n.attributes["role"] for n in arrange(r).root.walk() if "role" in n.attributes], ["badge"]
        )

    def test_numbers_beside_one_another_are_to_be_pressed(self) -> None:
        pills = [Surface(Rect(600 + 50 * i, 284, 36, 30), Fill("#22303a"), 15.0) for i in range(3)]
        counts = [line(str(i + 1), 613 + 50 * i, 304, 0, "#22303a") for i in range(3)]
        r = reading([line("Stations", 150, 120, 1), *counts, *prose(360, 8, 300)], pills)
        self.assertEqual([n for n in arrange(r).root.walk() if n.attributes.get("role") == "badge"], [])


class Ends(unittest.TestCase):
    def foot(self, entries: tuple[str, ...]) -> Reading:
        columns = [line(t, x, 1080 + 28 * i) for x in (450, 735) for i, t in enumerate(entries)]
        lines = [line("Stations", 150, 120, 1), *prose(200, 14, 150), line("Firnwatch", 150, 1080), *columns]
        return reading(lines, [Surface(Rect(0, 1020, 1440, 280), Fill("#eef2f5"))], h=1300)

    def test_columns_of_links_at_the_end_are_the_foot(self) -> None:
        r = self.foot(("Stations", "Bulletin", "Observers", "Method"))
        self.assertEqual(len(tags(r, "footer")), 1)
        links = [words(n) for n in tags(r, "footer")[0].walk() if n.tag == "a"]
        self.assertEqual(links.count("Bulletin"), 2)

    def test_columns_of_sentences_are_not(self) -> None:
        r = self.foot(("Every station reports what its stake says",) * 4)
        self.assertEqual(tags(r, "footer"), [])

    def test_cards_beside_a_text_are_no_contents(self) -> None:
        cards, lines = [], []
        for top, name in ((200, "Categories"), (400, "Latest")):
            cards.append(Surface(Rect(1000, top, 300, 170), Fill("#ffffff"), 4.0, (1.0,) * 4, "#c8ccd2"))
            lines += [line(name, 1020, top + 30)] + [
                line(t, 1020, top + 70 + 28 * i) for i, t in enumerate(("Huts", "Stakes", "Passes", "Slopes"))
            ]
        r = reading([line("Lantern Hut", 150, 120, 1), *prose(220, 24, 150), *lines], cards)
        self.assertEqual([n.attributes.get("label") for n in tags(r, "nav")], [])


if __name__ == "__main__":
    unittest.main()
