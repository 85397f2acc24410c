"""Lists parted by lines, names with their values, quotations, tables with a painted head: from marks to what they are."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

from neige.core.model import Cutout, Fill, Node, Rect, Rule, Surface
from neige.core.outline import arrange
from tests.core.test_menus import prose, tags, words
from tests.core.test_outline import html, line, reading, style

GREY = "#d5dde4"


def fill(
    colour: str, x: float, y: float, w: float, h: float, radius: float = 0.0, border: float = 0.0
) -> Surface:
    return Surface(Rect(x, y, w, h), Fill(colour), radius, (border,) * 4, GREY if border else "")


class Entries(unittest.TestCase):
    def observers(self) -> Node:
        lines, rules, faces = [line("Observers on duty", 420, 120, 1)], [], []
        for i, (name, place) in enumerate(
            (("Ilse Tarn", "Hochvell"), ("Anselm Rook", "Untervell"), ("Tobin Ash", "Grey Saddle"))
        ):
            top = 180 + 70 * i
            faces.append(Cutout(Rect(420, top, 40, 40), "image", 20.0))
            lines += [line(name, 476, top + 16), line(place, 476, top + 38, 3)]
            if i < 2:
                rules.append(Rule(Rect(420, top + 55, 500, 1), GREY))
        return arrange(reading([*lines, *prose(500, 8, 420)], (), rules, faces)).root

    def test_like_entries_with_lines_between_them_are_a_list(self) -> None:
        root = self.observers()
        lists = [n for n in root.walk() if n.attributes.get("list")]
        self.assertEqual([len(n.children) for n in lists], [3])
        self.assertFalse([n for n in root.walk() if n.kind in ("rule", "table")])
        borders = [n.surface.border[2] if n.surface else 0 for n in lists[0].children]
        self.assertEqual(borders, [1, 1, 0])

    def test_nothing_is_moved_by_making_a_list_of_entries(self) -> None:
        entries = next(n for n in self.observers().walk() if n.attributes.get("list")).children
        tops = [t.rect.y for e in entries for t in e.walk() if t.kind == "image"]
        self.assertEqual(tops, [180, 250, 320])
        self.assertEqual([round(e.rect.y + e.padding[0]) for e in entries], [180, 250, 320])

    def test_names_and_their_values_are_rows(self) -> None:
        card = fill("#eef2f5", 400, 160, 320, 190, 8.0)
        pairs = (
            ("Valley", "Upper Vell"),
            ("Readings", "13,870"),
            ("Longest gap", "2 days"),
            ("Last seen", "this morning"),
        )
        lines = []
        for i, (name, value) in enumerate(pairs):
            said = line(value, 0, 200 + 34 * i)
            lines += [line(name, 420, 200 + 34 * i, 3), line(value, 700 - said.box.w, 200 + 34 * i)]
        root = arrange(reading([line("Depth today", 400, 100, 1), *lines, *prose(420, 8, 400)], [card])).root
        rows = [words(n) for n in root.walk() if n.kind == "row" and len(n.children) == 2]
        self.assertEqual(rows, [f"{a} {b}" for a, b in pairs])

    def test_a_menu_beside_cards_is_one_column_though_its_gaps_lie_level_with_theirs(self) -> None:
        menu = [
            line(t, 192, y)
            for t, y in zip(("Profile", "Notifications", "Reports", "Password"), (118, 156, 194, 232))
        ]
        cards = [fill("#eef2f5", 452, 168, 788, 120, 8.0), fill("#eef2f5", 452, 312, 788, 120, 8.0)]
        said = [
            line("Depth today", 452, 120, 1),
            line("What others see", 452, 150, 3),
            line("About you", 476, 210),
            line("Leave the network", 476, 354),
        ]
        bar = [
            line("Firnwatch", 24, 36),
            line("Stations", 140, 36),
            line("Bulletins", 240, 36),
            line("Account", 340, 36),
        ]
        root = arrange(reading([*bar, *menu, *said], [fill("#dde6ee", 0, 0, 1440, 60), *cards])).root
        together = [words(n) for n in root.walk() if n.kind == "block"]
        self.assertIn("Profile Notifications Reports Password", together)

    def test_two_columns_that_begin_on_one_edge_each_stay_columns(self) -> None:
        lines = [line(t, 420, 200 + 26 * i) for i, t in enumerate(("Stations", "Depths", "Wind"))]
        lines += [
            line(t, 760, 200 + 26 * i) for i, t in enumerate(("Delivery", "Returns", "Repairs of all kinds"))
        ]
        root = arrange(reading([line("Depth today", 400, 100, 1), *lines, *prose(420, 8, 400)])).root
        together = [words(n) for n in root.walk() if n.kind in ("row", "grid")]
        self.assertTrue(any("Stations Depths Wind" in t for t in together), together)

    def test_a_bar_beside_a_text_makes_it_a_quotation(self) -> None:
        said = [
            line("You measure it because somebody lives below, and they", 440, 220),
            line("would like to know how deep it is.", 440, 244),
        ]
        r = reading(
            [line("Depth today", 400, 100, 1), *said, *prose(320, 6, 400)],
            (),
            [Rule(Rect(416, 202, 4, 52), GREY)],
        )
        quotes = tags(r, "blockquote")
        self.assertEqual(len(quotes), 1)
        self.assertEqual(quotes[0].surface.border[3] if quotes[0].surface else 0, 4)
        self.assertRegex(html(r), r"<blockquote[^>]*>")

    def test_a_short_word_beside_a_bar_is_none(self) -> None:
        r = reading(
            [line("Depth today", 400, 100, 1), line("Wind", 440, 220), *prose(320, 6, 400)],
            (),
            [Rule(Rect(416, 202, 4, 24), GREY)],
        )
        self.assertFalse(tags(r, "blockquote"))


class Tables(unittest.TestCase):
    def made(self, strip: bool) -> list[Node]:
        lines, rules = [], []
        for i, row in enumerate(
            (
                ("Name", "Type", "What it does"),
                ("since", "date", "Only later readings"),
                ("unit", "list", "The unit of depths"),
                ("page", "number", "Which page to give"),
            )
        ):
            lines += [line(t, x, 230 + 42 * i, 3 if not i else 0) for t, x in zip(row, (412, 620, 780))]
            if i:
                rules.append(Rule(Rect(400, 246 + 42 * i, 800, 1), GREY))
        head = [fill("#eef2f5", 400, 204, 800, 42)] if strip else []
        return tags(
            reading([line("Parameters", 400, 120, 1), *lines, *prose(480, 8, 400)], head, rules), "table"
        )

    def test_a_painted_strip_above_ruled_rows_is_the_tables_head(self) -> None:
        tables = self.made(True)
        self.assertEqual(len(tables), 1)
        first, *rest = tables[0].children
        self.assertEqual([n.tag for n in first.children], ["th"] * 3)
        self.assertEqual([words(n) for n in first.children], ["Name", "Type", "What it does"])
        self.assertEqual(len(rest), 3)
        self.assertTrue(first.surface and first.surface.fill.colour == "#eef2f5")

    def test_without_it_the_rows_are_still_a_table(self) -> None:
        self.assertEqual([len(t.children) for t in self.made(False)], [3])


class Links(unittest.TestCase):
    def test_words_beside_one_that_leads_somewhere_lead_somewhere(self) -> None:
        tabs = [line("Notes", 400, 220, 2), line("Readings", 480, 220), line("Stations", 580, 220)]
        r = reading([line("Depth today", 400, 100, 1), *tabs, *prose(320, 8, 400)])
        self.assertEqual([words(n) for n in tags(r, "a")], ["Notes", "Readings", "Stations"])

    def test_figures_in_green_or_red_lead_nowhere(self) -> None:
        r = reading(
            [line("Depth today", 400, 100, 1), line("+12 cm this week", 400, 220, 3), *prose(320, 8, 400)]
        )
        styles = (*r.styles[:3], style(14.0, colour="#2e9e6b"))
        self.assertFalse(tags(replace(r, styles=styles), "a"))

    def test_capitals_in_the_links_ink_lead_somewhere_if_they_say_what_to_do(self) -> None:
        capitals = style(14.0, colour="#1a6fd0", uppercase=True)

        def links(says: str) -> list[str]:
            r = reading([line("Depth today", 400, 100, 1), line(says, 400, 220, 3), *prose(320, 8, 400)])
            return [words(n) for n in tags(replace(r, styles=(*r.styles[:3], capitals)), "a")]

        self.assertEqual(links("SEE MORE"), ["SEE MORE"])
        self.assertEqual(links("SNOW AND WEATHER"), [])
        self.assertEqual(links("REPORT"), [])

    def test_what_is_set_as_the_foots_headings_are_is_no_link(self) -> None:
        foot = [line("© 2026 Firnwatch", 150, 880, 3)]
        for x, head, *entries in (
            (150, "Stations", "Upper Cairn", "Lantern Hut", "Mirrow Col"),
            (500, "Observers", "Roster", "Training", "Expenses"),
        ):
            foot += [line(head, x, 640, 2), *(line(e, x, 680 + 36 * n) for n, e in enumerate(entries))]
        foot += [line("Follow us", 1100, 640, 2), line("Support us", 1100, 820, 2)]
        r = reading(
            [line("Depth today", 150, 100, 1), *prose(160, 8, 150), *foot],
            [fill("#eef2f5", 0, 600, 1440, 300)],
        )
        r = replace(r, styles=(*r.styles[:2], style(16.0, 700), r.styles[3]))
        linked = {words(n) for n in tags(r, "a")}
        self.assertLessEqual({"Upper Cairn", "Roster", "Expenses"}, linked)
        self.assertFalse(linked & {"Stations", "Observers", "Follow us", "Support us"})

    def test_a_figure_alone_is_no_heading(self) -> None:
        r = reading([line("54 km/h", 400, 100, 1), *prose(320, 8, 400)])
        self.assertFalse(tags(r, "h1"))


class Heads(unittest.TestCase):
    def test_a_notice_over_the_bar_is_in_the_pages_head(self) -> None:
        notice, bar = fill("#22303a", 0, 0, 1440, 36), [line("Firnwatch", 150, 84)]
        bar += [line(t, 800 + 120 * i, 84) for i, t in enumerate(("Stations", "Bulletin", "Method"))]
        hero = fill("#eef2f5", 0, 120, 1440, 300)
        r = reading(
            [
                line("Free post over the pass", 620, 24, 3, "#22303a"),
                *bar,
                line("Depth today", 150, 260, 1),
                *prose(500, 8, 150),
            ],
            [notice, hero],
        )
        heads = tags(r, "header")
        self.assertEqual(
            [words(n) for n in heads], ["Free post over the pass Firnwatch Stations Bulletin Method"]
        )
        self.assertEqual(heads[0].rect.y, 0)

    def test_the_line_under_the_bar_is_its_border_and_a_copyright_line_ends_a_short_page(self) -> None:
        bar = [line("Firnwatch", 40, 40)]
        bar += [line(t, 1040 + 120 * i, 40) for i, t in enumerate(("Stations", "Bulletin", "Method"))]
        rule = Rule(Rect(0, 66, 1440, 1), GREY)
        r = reading(
            [
                *bar,
                line("Report a reading", 310, 140, 1),
                *prose(200, 4, 310),
                line("© 2026 Firnwatch", 640, 400, 3),
            ],
            (),
            [rule],
        )
        head, foot = tags(r, "header"), tags(r, "footer")
        self.assertEqual(head[0].surface.border if head[0].surface else (), (0, 0, 1, 0))
        self.assertEqual([words(n) for n in foot], ["© 2026 Firnwatch"])
        self.assertNotIn("<hr", html(r))

    def test_a_column_of_icons_at_the_side_is_navigation(self) -> None:
        rail = fill("#22303a", 0, 0, 72, 900)
        icons = [Cutout(Rect(26, 30 + 60 * i, 20, 20), "icon") for i in range(4)]
        r = reading([line("Depth today", 120, 100, 1), *prose(160, 12, 120)], [rail], (), icons)
        navs = tags(r, "nav")
        self.assertEqual(len(navs), 1)
        self.assertEqual(len(re.findall(r"<a [^>]*href", html(r))), 4)

    def test_in_a_page_of_two_halves_the_one_to_fill_in_is_its_middle(self) -> None:
        half = fill("#264653", 0, 0, 720, 900)
        fields = [
            Surface(Rect(880, 300 + 90 * i, 400, 46), Fill("#ffffff"), 8.0, (2.0,) * 4, GREY)
            for i in range(2)
        ]
        button = fill("#2a9d8f", 880, 500, 400, 48, 8.0)
        other = Surface(Rect(880, 580, 190, 44), Fill("#ffffff"), 8.0, (2.0,) * 4, GREY)
        lines = [
            line("Forty-eight masts", 64, 400, 1, "#264653"),
            line("Join the observers of the range", 64, 460, 0, "#264653"),
        ]
        lines += [
            line("Become an observer", 880, 190),
            line("First name", 880, 290, 3),
            line("Mail address", 880, 380, 3),
        ]
        lines += [line("Create account", 1022, 530, 0, "#2a9d8f"), line("Use a key", 938, 607)]
        r = reading(lines, [half, *fields, button, other])
        mains, forms = tags(r, "main"), tags(r, "form")
        self.assertEqual((len(mains), len(forms)), (1, 1))
        self.assertFalse(tags(r, "nav"))
        self.assertFalse("Forty" in words(forms[0]))
        page = html(r)
        self.assertRegex(page, r'type="submit"[^>]*>\s*Create account')
        self.assertRegex(page, r'type="button"[^>]*>\s*Use a key')
        self.assertRegex(page, r'type="email"')


if __name__ == "__main__":
    unittest.main()
