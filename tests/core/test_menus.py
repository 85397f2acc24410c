"""Navigation, stacks, choices and tables with icons: what a part is, from where and among what it stands."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

from neige.core.model import Cutout, Fill, Line, Node, Rect, Rule, Surface
from neige.core.model.outline import Run
from neige.core.outline import arrange
from neige.core.outline.links import link_fellows, press_fellows
from neige.core.outline.roles import _tell_navs_apart
from neige.core.writer.place import place
from tests.core.test_outline import html, line, reading, style


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
        name, menu = (n for n in nav.walk() if n.attributes.get("reach"))
        self.assertEqual((menu.attributes["list"], len(menu.children)), ("1", 3))
        for n in menu.children:
            high, wide = (float(v) for v in n.attributes["pad"].split())
            self.assertAlmostEqual(n.rect.h + 2 * high, 40, delta=1)
            self.assertEqual((high, wide), (float(menu.attributes["reach"]), 12.0))
        self.assertEqual((words(name), name.attributes["pad"].split()[1]), ("Firnwatch", "0"))

    def test_a_word_at_a_bars_other_end_that_is_set_as_its_entries_is_the_last_of_them(self) -> None:
        names = ("Stations", "Bulletin", "Method", "Data")

        def nav(last: str, style: int = 0) -> Node:
            bar = [line(t, 150 + 110 * i, 46) for i, t in enumerate(names)]
            r = reading(
                [
                    *bar,
                    line(last, 1290 - 9.0 * len(last), 46, style),
                    line("Depth today", 150, 200, 1),
                    *prose(260),
                ]
            )
            return tags(r, "nav")[0]

        bar = nav("Search")
        listed = next(n for n in bar.walk() if n.attributes.get("list"))
        self.assertEqual(place(listed, bar)[0]["flex"], "1")
        self.assertEqual([(c.tag, words(c)) for c in listed.children], [("a", n) for n in (*names, "Search")])
        for other in (nav("Open every day"), nav("Search", 2)):
            listed = next(n for n in other.walk() if n.attributes.get("list"))
            self.assertEqual([words(c) for c in listed.children], list(names))

    def test_the_other_half_of_a_cards_foot_is_a_button_too(self) -> None:
        def half(x: float, text: str, **own: object) -> Node:
            word = Node("text", Rect(x + 60, 212, 40, 20), tag="span", runs=[Run(text, 0)], lines=[0])
            box = Rect(x, 200, 150, 44)
            return Node("row", box, surface=Surface(box, Fill("#ffffff")), children=[word], **own)  # type: ignore[arg-type]

        first, second = half(100, "Write", tag="a", attributes={"role": "button"}), half(250, "Call")
        long = half(400, "a bed for the night")
        press_fellows(Node("row", Rect(100, 200, 300, 44), children=[first, second]))
        self.assertEqual((second.tag, second.attributes.get("role")), ("a", "button"))
        press_fellows(Node("row", Rect(100, 200, 450, 44), children=[first, second, long]))
        self.assertEqual(long.tag, "div")

    def test_navigations_have_names_of_their_own(self) -> None:
        navs = [
            Node("row", Rect(0, 60 * i, 900, 40), tag="nav", attributes={"label": "Sections"})
            for i in range(3)
        ]
        _tell_navs_apart(Node("block", Rect(0, 0, 900, 600), children=navs))
        self.assertEqual([n.attributes["label"] for n in navs], ["Sections", "Sections 2", "Sections 3"])

    def test_a_column_at_the_side_is_navigation_and_its_captions_lead_nowhere(self) -> None:
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
        lists = [n for n in nav.walk() if n.attributes.get("list")]
        self.assertEqual(
            [[words(c) for c in n.children] for n in lists],
            [["MEASURE", "Stations", "Depths", "Wind", "PUBLISH", "Bulletins", "Archive"]],
        )
        self.assertEqual([c.tag for c in lists[0].children], ["p", "a", "a", "a", "p", "a", "a"])

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

    def test_small_texts_around_the_copyright_line_are_the_foot_and_not_the_middle(self) -> None:
        r = reading([
            line("Depth today", 300, 100, 1), *prose(160, 20, 300), line("© 2026 Firnwatch", 640, 860, 3),
            line("Privacy", 640, 884, 3), line("Terms", 720, 884, 3),
        ])  # fmt: skip
        self.assertEqual([words(n) for n in tags(r, "footer")], ["© 2026 Firnwatch Privacy Terms"])
        self.assertNotIn("©", words(tags(r, "main")[0]))

    def test_icons_side_by_side_lead_somewhere_and_stars_do_not(self) -> None:
        body = [line("Depth today", 150, 100, 1), *prose(160, 6, 150)]
        marks = [Cutout(Rect(150 + 48.0 * i, 420, 20, 18 + i % 2), "icon") for i in range(4)]
        stars = [Cutout(Rect(150 + 18.0 * i, 480, 16, 16), "icon") for i in range(5)]
        page = html(reading(body, cutouts=[*marks, *stars]))
        self.assertEqual(re.findall(r'alt="(Link \d of \d)"', page), [f"Link {i} of 4" for i in range(1, 5)])
        self.assertEqual(len(re.findall(r"<a [^>]*>\s*<img", page)), 4)

    def test_like_boxes_with_nothing_but_an_icon_are_named_links(self) -> None:
        rounds = [Surface(Rect(150 + 84.0 * i, 420, 56, 56), Fill("#44525e"), 28.0) for i in range(3)]
        icons = [Cutout(Rect(166 + 84.0 * i, 436, 24, 24), "icon") for i in range(3)]
        page = html(reading([line("Depth today", 150, 100, 1), *prose(160, 6, 150)], rounds, cutouts=icons))
        self.assertEqual(
            re.findall(r'aria-label="(Link \d of 3)"', page), ["Link 1 of 3", "Link 2 of 3", "Link 3 of 3"]
        )

    def test_an_entry_that_ends_in_a_chevron_opens_something(self) -> None:
        bar = [line("Firnwatch", 150, 50)]
        bar += [line(t, 700 + 140 * i, 50) for i, t in enumerate(("Stations", "Bulletin", "Method"))]
        r = reading([*bar, line("Depth today", 150, 200, 1), *prose(260)])
        after = r.lines[2].box.right
        r = replace(r, cutouts=(Cutout(Rect(after + 8, 43, 8, 5), "icon"),))
        opening = [n for n in tags(r, "button") if n.attributes.get("opens")]
        self.assertEqual([words(n) for n in opening], ["Bulletin"])
        self.assertRegex(html(r), r'<button[^>]*type="button" aria-expanded="false"')

    def test_words_that_say_good_or_bad_are_no_links(self) -> None:
        good = style(colour="#1a8a4d")
        rise = line("+14 cm", 150, 460)
        rise = replace(rise, style=4, words=tuple(replace(w, style=4) for w in rise.words))
        links = [
            line(t, 150, 300 + 70 * i, 2)
            for i, t in enumerate(("Read the whole bulletin of today", "All stations of the upper valley"))
        ]
        r = reading([line("Depth today", 150, 100, 1), *prose(160, 4, 150), *links, rise])
        r = replace(r, styles=(*r.styles, good))
        found = [words(n) for n in arrange(r).root.walk() if n.tag == "a"]
        self.assertNotIn("+14 cm", found)
        self.assertEqual(len(found), 2)

    def test_a_box_with_a_glass_at_a_search_field_sends_it(self) -> None:
        field = Surface(Rect(900, 24, 260, 40), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
        box = Surface(Rect(1160, 24, 44, 40), Fill("#1f5f77"))
        glass = Cutout(Rect(1174, 36, 16, 16), "icon")
        text = [
            line("Firnwatch", 150, 50),
            line("Search stations", 914, 49, 3),
            line("Depth today", 150, 200, 1),
            *prose(260),
        ]
        page = html(reading(text, [field, box], cutouts=[glass]))
        self.assertRegex(
            page,
            r'<form[^>]*>\s*<input[^>]*type="search"[^>]*>\s*<button[^>]*type="submit" aria-label="Search"',
        )

    def test_entries_under_one_that_leads_somewhere_do_so_too(self) -> None:
        def said(text: str, tag: str, index: int = 0) -> Node:
            return Node(
                "text", Rect(0, 20, 90, 18), tag=tag, runs=[Run(text, index)], lines=[index], style=index
            )

        r = reading([line("Boards", 20, 40), line("Stakes", 20, 60, 1)])
        kids = [
            said("MEASURING:", "p"),
            said("Boards", "p"),
            said("Stakes", "a"),
            said("12 cm", "p"),
            said("Large", "p", 1),
        ]
        root = Node(
            "block",
            Rect(0, 0, 900, 600),
            tag="body",
            children=[Node("block", Rect(0, 0, 200, 600), tag="nav", children=kids)],
        )
        link_fellows(root, r)
        self.assertEqual([n.tag for n in kids], ["p", "a", "a", "p", "p"])
        root.children[0].tag = "div"
        kids[1].tag = "p"
        link_fellows(root, r)
        self.assertEqual(kids[1].tag, "p")

    def test_a_title_beside_one_thing_to_do_is_no_navigation(self) -> None:
        button = Surface(Rect(1200, 84, 130, 36), Fill("#1f5f77"), 4.0)
        text = [
            line("Stations", 150, 110, 1),
            line("Send report", 1220, 107, 0, "#1f5f77"),
            *prose(200, 12, 150),
        ]
        self.assertEqual(tags(reading(text, [button]), "nav"), [])


class Columns(unittest.TestCase):
    def test_a_side_column_that_ends_with_the_window_is_one_all_the_same(self) -> None:
        side = Surface(Rect(0, 0, 240, 900), Fill("#1f2d38"))
        entries = [
            line(t, 24, 60 + 40 * i, 0, "#1f2d38")
            for i, t in enumerate(("Stations", "Depths", "Wind", "Radio"))
        ]
        rules = [Rule(Rect(240, y, 1200, 1), "#c8d2da") for y in (700.0, 1400.0)]
        parts = [
            x
            for i, t in enumerate(("Depth", "Wind", "Radio"))
            for x in (line(t, 300, 100 + 700 * i, 1), *prose(160 + 700 * i, 5, 300))
        ]
        r = reading([*entries, *parts], [side], rules=rules)
        main = tags(r, "main")[0]
        self.assertEqual(
            (main.rect.x, [words(n).split()[0] for n in main.walk() if n.tag == "section"]),
            (240, ["Depth", "Wind", "Radio"]),
        )

    def test_an_unpainted_band_is_as_wide_as_its_content(self) -> None:
        r = reading([line("Depth today", 300, 100, 1), *prose(160, 20, 300)])
        main = tags(r, "main")[0]
        self.assertEqual(main.width, "contained")
        self.assertAlmostEqual(main.rect.x, 300, delta=1)
        _, right, _, left = main.padding
        self.assertEqual((left, right), (0, 0))


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

    def test_labels_side_by_side_name_the_fields_below_them(self) -> None:
        boxes = [
            Surface(Rect(150 + 320.0 * i, 160, 300, 40), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
            for i in range(2)
        ]
        names = [line("First name", 150, 150), line("Last name", 470, 150)]
        inside = [line("Ada", 164, 185, 3), line("Stone", 484, 185, 3)]
        page = html(reading([line("Report", 150, 100, 1), *names, *inside, *prose(400, 3, 150)], boxes))
        self.assertEqual(re.findall(r'<label[^>]* for="([\w-]+)"', page), ["first-name", "last-name"])
        self.assertEqual(re.findall(r'autocomplete="([\w-]+)"', page), ["given-name", "family-name"])

    def test_so_many_at_a_time_is_a_choice_with_the_words_beside_it(self) -> None:
        box = Surface(Rect(150, 150, 76, 38), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
        arrow = Cutout(Rect(198, 166, 12, 8), "icon")
        r = reading(
            [
                line("Report", 150, 100, 1),
                line("10", 164, 174),
                line("entries per page", 236, 174),
                *prose(400, 3, 150),
            ],
            [box],
            cutouts=[arrow],
        )
        page = html(r)
        self.assertRegex(page, r"<select[^>]*>\s*<option>10</option>")
        self.assertRegex(page, r"<label[^>]*>entries per page</label>")

    def test_a_filled_disc_in_line_with_empty_ones_is_the_one_that_was_chosen(self) -> None:
        chosen = Surface(Rect(150, 152, 16, 16), Fill("#0d5c9e"), 8.0)
        empty = Surface(Rect(150, 178, 16, 16), Fill("#ffffff"), 8.0, (1.0,) * 4, "#8899a6")
        labels = [line("By radio", 176, 166), line("By post", 176, 192)]
        dot = Cutout(Rect(154, 156, 8, 8), "icon")
        page = html(
            reading(
                [line("Report", 150, 100, 1), *labels, *prose(400, 3, 150)], [chosen, empty], cutouts=[dot]
            )
        )
        self.assertEqual(len(re.findall(r'type="radio"', page)), 2)
        self.assertEqual(len(re.findall(r" checked", page)), 1)

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
        self.assertRegex(page, r"<thead>\s*<tr[^>]*>\s*<td[^>]*></td>")


class Ends(unittest.TestCase):
    SIDE = Surface(Rect(0, 0, 240, 900), Fill("#1f3b4d"))

    def app(self, *more: Line, rules: tuple[Rule, ...] = ()) -> list[Node]:
        side = [
            line(t, 24, 90 + 44 * i) for i, t in enumerate(("Stations", "Bulletins", "Observers", "Method"))
        ]
        own = [line("Depth today", 280, 60, 1), *prose(120, 16, 280)]
        return tags(reading([*side, *own, *more], [self.SIDE], rules=rules), "footer")

    def test_a_small_line_under_a_rule_ends_a_column(self) -> None:
        ends = [line("Firnwatch, a watch on the snow", 280, 850, 3), line("Release 4", 1340, 850, 3)]
        (foot,) = self.app(*ends, rules=(Rule(Rect(240, 832, 1200, 1), "#dddddd"),))
        self.assertEqual(words(foot), "Firnwatch, a watch on the snow Release 4")
        self.assertGreater(foot.rect.w, 1000)

    def test_a_small_line_right_under_the_text_ends_nothing(self) -> None:
        self.assertEqual(self.app(line("Firnwatch, a watch on the snow", 280, 520, 3)), [])

    def test_what_made_the_page_stands_in_its_foot(self) -> None:
        r = reading([line("Pictures", 660, 40, 1), *prose(120, 26), line("Generated by firn", 640, 860)])
        (foot,) = tags(r, "footer")
        self.assertEqual((words(foot), foot.rect.x, foot.rect.w), ("Generated by firn", 0, 1440))

    def test_a_foot_is_no_higher_than_it_is_set(self) -> None:
        ground = Surface(Rect(240, 560, 1200, 340), Fill("#eef3f5"))
        side = [line(t, 24, 90 + 44 * i) for i, t in enumerate(("Stations", "Bulletins", "Observers"))]
        own = [line("Depth today", 280, 60, 1), *prose(120, 16, 280)]
        ends = [line("© 2026 Firnwatch", 280, 595, 3, "#eef3f5"), line("Release 4", 1340, 595, 3, "#eef3f5")]
        (foot,) = tags(reading([*side, *own, *ends], [self.SIDE, ground]), "footer")
        self.assertEqual(words(foot), "© 2026 Firnwatch Release 4")
        self.assertLess(foot.rect.h, 80)

    def test_the_way_to_the_next_page_belongs_to_the_foot_under_its_rule(self) -> None:
        turn = [line("Previous", 280, 760), line("Next", 1380, 760)]
        own = [line("© 2026 Firnwatch", 280, 840)]
        (foot,) = self.app(*turn, *own, rules=(Rule(Rect(280, 806, 1140, 1), "#dddddd"),))
        self.assertEqual(words(foot), "Previous Next © 2026 Firnwatch")


class Bars(unittest.TestCase):
    def test_a_bar_on_a_picture_is_as_wide_as_the_page(self) -> None:
        hero = Surface(Rect(0, 0, 1440, 560), Fill("#dde8ee"))
        bar = [line("Firnwatch", 150, 40)]
        bar += [line(t, 900 + 110 * i, 40) for i, t in enumerate(("Stations", "Bulletin", "Method"))]
        r = reading([*bar, line("Forty stations", 150, 640, 1), *prose(700, 7, 150)], [hero])
        (nav,) = tags(r, "nav")
        self.assertEqual((nav.rect.x, nav.rect.y, nav.rect.w), (0, 0, 1440))
        self.assertLess(nav.rect.h, 130)

    def test_a_bar_in_a_high_head_is_one_navigation(self) -> None:
        logo = Cutout(Rect(77, 25, 108, 30), "logo")
        entries = [
            line(t, 700 + 90 * i, 45) for i, t in enumerate(("Home", "Stations", "Map", "Roster", "News"))
        ]
        button = Surface(Rect(1276, 22, 88, 36), Fill("#1a5fb4"), 4.0)
        r = reading(
            [
                *entries,
                line("Join us", 1292, 45, 0, "#1a5fb4"),
                line("Depth today", 150, 240, 1),
                *prose(300, 8, 150),
            ],
            [Surface(Rect(0, 0, 1440, 159), Fill("#f4f6fa")), button],
            cutouts=[logo],
        )
        (bar,) = tags(r, "nav")
        self.assertIn("Roster", words(bar))
