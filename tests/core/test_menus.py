"""Navigation, stacks, choices and tables with icons: what a part is, from where and among what it stands."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

from neige.core.model import Cutout, Fill, Line, Node, Rect, Rule, Surface
from neige.core.outline import arrange
from tests.core.test_outline import html, line, reading


def tags(r, tag: str) -> list[Node]:  # type: ignore[no-untyped-def]
    return [n for n in arrange(r).root.walk() if n.tag == tag]


def words(n: Node) -> str:
    return " ".join(run.text for t in n.walk() for run in t.runs)


def prose(y: float, n: int = 6, x: float = 400) -> list[Line]:
    return [
        line("every station reports the depth of its stake before eight in the morning", x, y + 24 * i)
        for i in range(n)
    ]


class Menus(unittest.TestCase):
    def test_a_bar_within_a_hero_is_the_navigation(self) -> None:
        hero = Surface(Rect(0, 0, 1440, 600), Fill("#dde8ee"))
        bar = [line("Firnwatch", 150, 50)]
        bar += [line(t, 900 + 110 * i, 50) for i, t in enumerate(("Stations", "Bulletin", "Method"))]
        r = reading(
            [*bar, line("Forty stations", 150, 300, 1), *prose(360, 2, 150), *prose(700, 5, 150)], [hero]
        )
        navs = tags(r, "nav")
        self.assertEqual([words(n) for n in navs], ["Firnwatch Stations Bulletin Method"])
        page = html(r)
        self.assertEqual(len(re.findall(r"<li[^>]*>\s*<a", page)), 3)
        self.assertRegex(page, r"<a[^>]*>Firnwatch</a>")

    def test_links_side_by_side_reach_up_and_down_without_moving(self) -> None:
        bar = [line("Firnwatch", 150, 46)]
        bar += [line(t, 900 + 110 * i, 46) for i, t in enumerate(("Stations", "Bulletin", "Method"))]
        r = reading([*bar, line("Depth today", 150, 200, 1), *prose(260)])
        nav = tags(r, "nav")[0]
        reach = [float(n.attributes["reach"]) for n in nav.walk() if n.attributes.get("reach")]
        self.assertEqual(len(reach), 3)
        for n in nav.walk():
            if n.attributes.get("reach"):
                self.assertAlmostEqual(n.rect.h + 2 * float(n.attributes["reach"]), 44, delta=4)

    def test_a_column_at_the_side_is_navigation_with_its_captions_left_alone(self) -> None:
        side = Surface(Rect(0, 0, 240, 900), Fill("#1f2d38"))
        entries = [line("MEASURE", 24, 60, 3, "#1f2d38")]
        entries += [
            line(t, 24, 100 + 40 * i, 0, "#1f2d38") for i, t in enumerate(("Stations", "Depths", "Wind"))
        ]
        entries += [line("PUBLISH", 24, 260, 3, "#1f2d38")]
        entries += [line(t, 24, 300 + 40 * i, 0, "#1f2d38") for i, t in enumerate(("Bulletins", "Archive"))]
        r = reading([*entries, line("Depth today", 300, 80, 1), *prose(140, 8, 300)], [side])
        nav = tags(r, "nav")[0]
        links = [words(n) for n in nav.walk() if n.tag == "a"]
        self.assertEqual(links, ["Stations", "Depths", "Wind", "Bulletins", "Archive"])
        self.assertEqual(
            [words(n) for n in nav.walk() if n.attributes.get("list")],
            ["Stations Depths Wind", "Bulletins Archive"],
        )

    def test_without_a_band_the_copyright_line_makes_the_foot(self) -> None:
        r = reading(
            [
                line("Depth today", 150, 100, 1),
                *prose(160, 12, 150),
                line("© 2026 Firnwatch", 150, 860, 3),
                line("Privacy", 900, 860, 3),
                line("Terms", 990, 860, 3),
            ]
        )
        feet = tags(r, "footer")
        self.assertEqual([words(n) for n in feet], ["© 2026 Firnwatch Privacy Terms"])

    def test_a_search_field_is_a_search_and_with_a_button_a_form(self) -> None:
        box = Surface(Rect(900, 24, 260, 40), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
        r = reading(
            [
                line("Firnwatch", 150, 50),
                line("Search stations", 914, 49, 3),
                line("Depth today", 150, 200, 1),
                *prose(260),
            ],
            [box],
        )
        found = tags(r, "search")
        self.assertEqual(len(found), 1)
        self.assertEqual([n.attributes["type"] for n in found[0].walk() if n.kind == "field"], ["search"])
        button = Surface(Rect(1168, 24, 100, 40), Fill("#1f5f77"), 4.0)
        r = replace(
            r, surfaces=(*r.surfaces, button), lines=(*r.lines, line("Search", 1190, 49, 0, "#1f5f77"))
        )
        self.assertEqual((len(tags(r, "form")), len(tags(r, "search"))), (1, 0))


class Stacks(unittest.TestCase):
    def test_short_lines_evenly_under_one_another_are_a_list(self) -> None:
        items = ("10 stations", "2 bulletins a day", "Wind and depth", "Help by radio")
        r = reading(
            [
                line("Depth today", 150, 100, 1),
                *[line(t, 150, 160 + 24 * i) for i, t in enumerate(items)],
                *prose(400, 4, 150),
            ]
        )
        page = html(r)
        self.assertEqual(
            [re.sub(r"<[^>]+>", "", m) for m in re.findall(r"<li[^>]*>(.*?)</li>", page)], list(items)
        )

    def test_wrapped_text_is_none(self) -> None:
        r = reading([line("Depth today", 150, 100, 1), *prose(160, 4, 150)])
        self.assertNotRegex(html(r), r"<li[ >]")

    def test_choices_under_one_another_keep_their_own_labels(self) -> None:
        boxes = [
            Surface(Rect(150, 152 + 26 * i, 16, 16), Fill("#ffffff"), 3.0, (1.0,) * 4, "#8899a6")
            for i in range(2)
        ]
        labels = [
            line("The stake was bent by the wind", 176, 166),
            line("Remember my station for next time", 176, 192),
        ]
        r = reading([line("Report", 150, 100, 1), *labels, *prose(400, 3, 150)], boxes)
        page = html(r)
        self.assertEqual(len(re.findall(r'type="checkbox"', page)), 2)
        self.assertEqual(len(re.findall(r"<label", page)), 2)

    def test_a_box_with_an_arrow_at_its_end_is_a_choice(self) -> None:
        box = Surface(Rect(150, 150, 260, 40), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
        arrow = Cutout(Rect(384, 166, 12, 8), "icon")
        r = reading(
            [line("Report", 150, 100, 1), line("Upper Cairn", 164, 175, 3), *prose(400, 3, 150)],
            [box],
            cutouts=[arrow],
        )
        self.assertRegex(html(r), r"<select[^>]*>\s*<option>Upper Cairn</option>")

    def test_a_table_may_have_icons_in_its_cells_and_names_on_two_sides(self) -> None:
        rules = [Rule(Rect(150, 200 + 46.0 * i, 900, 1), "#c8d2da") for i in range(5)]
        lines = [line(t, 500 + 200 * i, 188) for i, t in enumerate(("Free", "Warden", "Valley"))]
        lines += [line(t, 158, 226 + 46 * i) for i, t in enumerate(("Depth", "Wind", "Radio", "Archive"))]
        ticks = [
            Cutout(Rect(506 + 200 * c, 212 + 46 * row, 20, 20), "icon")
            for row in range(4)
            for c in range(3)
            if c or row
        ]
        r = reading([line("Compare", 150, 100, 1), *lines, *prose(600, 3, 150)], rules=rules, cutouts=ticks)
        page = html(r)
        self.assertEqual(page.count("<tr"), 5)
        # the empty corner is no head of anything (axe: empty-table-header)
        self.assertEqual(len(re.findall(r'<th[^>]*scope="col"', page)), 3)
        self.assertRegex(page, r"<thead>\s*<tr>\s*<td[^>]*></td>")
