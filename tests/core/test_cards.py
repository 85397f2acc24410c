"""What is cut first: the head of a card, the rows of its list, the foot of the page; and what leads somewhere beside an icon."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.model import Cutout, Fill, Line, Node, Picture, Rect, Surface
from neige.core.outline import arrange
from neige.core.outline.words import node_text
from neige.core.writer import write
from tests.core.test_menus import prose, tags, words
from tests.core.test_outline import html, line, reading


def texts(n: Node) -> list[str]:
    return [node_text(t) for t in n.walk() if t.kind == "text"]


def mark(x: float, y: float, size: float = 16) -> Cutout:
    return Cutout(Rect(x, y, size, size), "icon")


def holding(r, *said: str) -> Node:  # type: ignore[no-untyped-def]
    """The smallest part in which all of these words are."""
    nodes = [n for n in arrange(r).root.walk() if set(said) <= set(texts(n))]
    return min(nodes, key=lambda n: (n.rect.area, len(n.walk())))


HIGH = 280.0  # where the card begins


class Heads(unittest.TestCase):
    """A card of two columns under a title and a button."""

    def card(self, button: bool) -> tuple[list[Line], list[Surface]]:
        card = Surface(Rect(150, HIGH, 800, 220), Fill("#ffffff"), 6.0, (1.0,) * 4, "#c0ccd4")
        boxes = [Surface(Rect(x, HIGH + 90, 360, 90), Fill("#eef3f6"), 6.0) for x in (174, 566)]
        lines = [line("Nearest huts", 174, HIGH + 52)]
        lines += [line(t, x, HIGH + 140, 0, "#eef3f6") for t, x in (("Brenn Hut", 194), ("Vell Mouth", 586))]
        if button:
            boxes.append(Surface(Rect(806, HIGH + 28, 120, 36), Fill("#1f5f77"), 4.0))
            lines.append(line("Add hut", 832, HIGH + 52, 0, "#1f5f77"))
        return lines, [card, *boxes]

    def test_a_title_and_a_button_are_the_head_of_what_is_under_both(self) -> None:
        lines, surfaces = self.card(button=True)
        r = reading([line("Depth today", 150, 100, 1), *prose(160, 3, 150), *lines], surfaces)
        head = holding(r, "Nearest huts", "Add hut")
        self.assertEqual((head.kind, texts(head)), ("row", ["Nearest huts", "Add hut"]))
        self.assertEqual(texts(holding(r, "Brenn Hut", "Vell Mouth")), ["Brenn Hut", "Vell Mouth"])


class Rows(unittest.TestCase):
    def entries(self, shift: float) -> list[Line]:
        """Names over days at the left, depths at the right: at the middle of the two lines, or `shift` px off."""
        out: list[Line] = []
        for i, (name, day) in enumerate(
            (("Brenn Hut", "two days ago"), ("Vell Mouth", "today"), ("High Stake", "today"))
        ):
            y = HIGH + 70 * i
            out += [
                line(name, 174, y),
                line(day, 174, y + 22, 3),
                line(f"{90 + 7 * i} cm", 880, y + 10 + shift),
            ]
        return out

    def rows(self, shift: float) -> list[list[str]]:
        r = reading([line("Depth today", 150, 100, 1), *prose(160, 3, 150), *self.entries(shift)])
        return [
            texts(n)
            for n in arrange(r).root.walk()
            if n.kind in ("row", "grid") and any(t.endswith("cm") for t in texts(n))
        ]

    def test_what_stands_at_the_middle_of_higher_things_is_in_one_row_with_each(self) -> None:
        self.assertEqual(
            self.rows(0),
            [
                ["Brenn Hut", "two days ago", "90 cm"],
                ["Vell Mouth", "today", "97 cm"],
                ["High Stake", "today", "104 cm"],
            ],
        )

    def test_a_column_that_is_not_centred_on_the_other_stays_one(self) -> None:
        self.assertEqual(len(self.rows(-12)), 1)


class Foot(unittest.TestCase):
    def test_the_copyrights_line_is_cut_off_before_the_columns_above_it(self) -> None:
        cards = [Surface(Rect(x, 220, 480, 520), Fill("#eef3f6"), 8.0) for x in (150, 810)]
        inside = [
            line(f"{t} {i}", x + 24, 260 + 30 * i, 0, "#eef3f6")
            for t, x in (("Stake", 150), ("Hut", 810))
            for i in range(14)
        ]
        foot = [line("© 2026 Firnwatch", 160, 780, 3)]
        foot += [line(t, 1060 + 80 * i, 780, 3) for i, t in enumerate(("Method", "Contact", "Terms"))]
        r = reading([line("Depth today", 150, 120, 1), *inside, *foot], cards)
        self.assertEqual(
            [texts(n) for n in tags(r, "footer")], [["© 2026 Firnwatch", "Method", "Contact", "Terms"]]
        )


class Icons(unittest.TestCase):
    def test_a_column_of_icons_and_words_set_in_from_the_side_is_the_navigation(self) -> None:
        names = ("Stations", "Depths", "Bulletins", "Observers", "Method")

        def found(icons: bool) -> list[list[str]]:
            menu = [line(t, 72, 140 + 64 * i) for i, t in enumerate(names)]
            marks = [mark(40, 127 + 64 * i) for i in range(5)] if icons else []
            r = reading([*menu, line("Depth today", 400, 80, 1), *prose(140, 28, 400)], cutouts=marks)
            return [texts(n) for n in tags(r, "nav")]

        self.assertEqual(found(icons=True), [list(names)])

    def test_a_card_with_a_button_in_that_column_says_something(self) -> None:
        menu = [
            line(t, 72, 140 + 52 * i) for i, t in enumerate(("Stations", "Depths", "Bulletins", "Observers"))
        ]
        card = Surface(Rect(32, 420, 220, 150), Fill("#dde8ee"), 8.0)
        button = Surface(Rect(48, 520, 188, 34), Fill("#1f5f77"), 6.0)
        inside = [line("Need help?", 48, 456, 0, "#dde8ee"), line("Read the method", 48, 482, 3, "#dde8ee")]
        inside += [line("Read", 126, 543, 0, "#1f5f77")]
        r = reading(
            [*menu, *inside, line("Depth today", 400, 80, 1), *prose(140, 28, 400)],
            [card, button],
            cutouts=[mark(40, 127 + 52 * i) for i in range(4)],
        )
        nav = tags(r, "nav")[0]
        links = [words(n) for n in nav.walk() if n.tag == "a"]
        self.assertEqual(links, ["Stations", "Depths", "Bulletins", "Observers", "Read"])

    def test_an_icon_and_what_can_be_done_lead_somewhere(self) -> None:
        def links(said: str) -> list[str]:
            r = reading(
                [
                    line("Depth today", 150, 100, 1),
                    *prose(160, 4, 150),
                    line("Brenn Hut", 150, 320),
                    line(said, 804, 320),
                ],
                cutouts=[mark(780, 307)],
            )
            return [words(n) for n in tags(r, "a")]

        self.assertEqual(links("Delete"), ["Delete"])
        self.assertEqual(links("Wind"), [])


class SiteMaps(unittest.TestCase):
    NAMES = ("Stations", "Depths", "Wind", "Huts")

    def columns(self, names: tuple[str, ...], head: int = 1, own: int = 0) -> list[str]:
        """The links below the menu of a page with columns of these names under headings; `head`, `own`: their styles."""
        menu = [line("Firnwatch", 150, 50)] + [line(t, 800 + 120 * i, 50) for i, t in enumerate(self.NAMES)]
        columns: list[Line] = []
        for x, over in ((150, "Vell"), (550, "Ridge"), (950, "Mouth")):
            columns += [line(over, x, 400 if head else 418, head)]
            columns += [line(t, x, 450 + 32 * i, own) for i, t in enumerate(names)]
        r = reading(
            [*menu, line("Depth today", 150, 180, 1), *prose(240, 3, 150), *columns, *prose(640, 6, 150)]
        )
        self.outline = arrange(r)
        return [node_text(n) for n in self.outline.root.walk() if n.tag == "a" and n.rect.y > 300]

    def test_what_is_linked_above_is_linked_in_lists_below(self) -> None:
        self.assertEqual(self.columns(self.NAMES), [*self.NAMES] * 3)

    def test_a_row_of_what_is_linked_above_is_linked_too(self) -> None:
        menu = [line("Firnwatch", 150, 50)] + [line(t, 800 + 120 * i, 50) for i, t in enumerate(self.NAMES)]
        row = [line(t, 480 + 120 * i, 420) for i, t in enumerate(self.NAMES)]
        r = reading([*menu, line("Depth today", 150, 180, 1), *prose(240, 3, 150), *row, *prose(520, 8, 150)])
        found = [node_text(n) for n in arrange(r).root.walk() if n.tag == "a" and n.rect.y > 300]
        self.assertEqual(found, list(self.NAMES))

    def test_other_names_lead_nowhere(self) -> None:
        self.assertEqual(self.columns(("Forty beds", "Sauna", "Kitchen", "Stove")), [])

    def test_lines_under_larger_headings_are_columns(self) -> None:
        self.columns(("Forty beds", "Sauna", "Kitchen", "Stove"), head=0, own=3)
        lists = [texts(n) for n in self.outline.root.walk() if n.attributes.get("list") and n.rect.y > 300]
        self.assertEqual(lists, [["Forty beds", "Sauna", "Kitchen", "Stove"]] * 3)


class Forms(unittest.TestCase):
    def form(self, heads: int) -> tuple[list[Node], str]:
        field = Surface(Rect(150, 330, 260, 40), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
        button = Surface(Rect(418, 330, 60, 40), Fill("#1f5f77"), 4.0)
        lines = [line("Quick search", 150, 310, 1), line("Go", 438, 355, 0, "#1f5f77")]
        for i in range(heads):
            lines += [line(f"Stake {i}", 150, 460 + 140 * i, 1), *prose(500 + 140 * i, 2, 150)]
        r = reading([line("Firnwatch", 150, 100, 1), *prose(160, 3, 150), *lines], [field, button], h=1200)
        return arrange(r).root.walk(), html(r)

    def test_a_heading_over_a_field_stays_one_where_others_are_set_alike_and_names_it(self) -> None:
        nodes, page = self.form(heads=3)
        self.assertRegex(
            next(n.tag for n in nodes if node_text(n) == "Quick search" and n.kind == "text"), "h[2-6]"
        )
        self.assertRegex(page, r"<input[^>]*aria-label=\"Quick search\"")
        self.assertRegex(page, r"<input[^>]*name=\"quick-search\"")

    def test_the_only_button_of_a_form_sends_it_whatever_it_says(self) -> None:
        self.assertRegex(self.form(heads=3)[1], r"<button[^>]*type=\"submit\">\s*Go")


class Bands(unittest.TestCase):
    def test_bands_without_words_that_look_alike_share_a_class(self) -> None:
        bands = [Surface(Rect(0, y, 1440, 40), Fill("#c0ccd4")) for y in (300, 600)]
        lines = [
            line("Depth today", 150, 100, 1),
            *prose(160, 3, 150),
            *prose(400, 4, 150),
            *prose(720, 4, 150),
        ]
        page = html(reading(lines, bands))
        self.assertEqual(page.count('class="band"'), 2)


class Buttons(unittest.TestCase):
    def test_a_filled_button_has_a_border_in_its_own_colour_and_its_size(self) -> None:
        button = Surface(Rect(150, 300, 160, 44), Fill("#1f5f77"), 6.0)
        words_in = line("Read more", 194, 327, 0, "#1f5f77")
        r = reading([line("Depth today", 150, 100, 1), *prose(160, 4, 150), words_in], [button])
        made = next(n for n in arrange(r).root.walk() if n.attributes.get("role") == "button")
        assert made.surface is not None
        self.assertEqual((made.surface.border, made.surface.border_colour), ((1.0,) * 4, "#1f5f77"))
        self.assertEqual((made.rect.w, made.rect.h), (160, 44))
        inner = made.children[0].rect
        self.assertAlmostEqual(1 + made.padding[3] + inner.w + made.padding[1] + 1, 160, delta=1.1)


class Alike(unittest.TestCase):
    def test_the_same_text_of_like_entries_is_a_heading_in_most_or_in_none(self) -> None:
        def tags_of(days: tuple[str, ...]) -> list[str]:
            lines = [line("Depth today", 150, 100, 1), *prose(160, 3, 150)]
            for i, day in enumerate(days):
                lines += [
                    line(day, 174, 300 + 140 * i, 1),
                    line("of snow at the stake", 174, 340 + 140 * i, 3),
                ]
                lines += [line("in cm", 880, 310 + 140 * i, 3)]
            return [
                n.tag
                for n in arrange(reading(lines, h=1200)).root.walk()
                if node_text(n) in days and n.kind == "text"
            ]

        self.assertEqual(
            set(tags_of(("May 01, 2026", "February 10, 2026", "July 03, 2026", "June 02, 2026"))), {"p"}
        )
        self.assertEqual(set(tags_of(("Brenn Hut", "Vell Mouth", "High Stake", "Low Stake"))), {"h2"})


class Narrow(unittest.TestCase):
    def page(self):  # type: ignore[no-untyped-def]
        box = Surface(Rect(310, 20, 64, 52), Fill("#ffffff"), 4.0, (1.0,) * 4, "#8899a6")
        lines = [
            line("Method", 12, 52),
            line("Firnwatch", 110, 52),
            line("Log", 326, 42),
            line("in", 326, 62),
        ]
        lines += [line(t, 12 + 92 * i, 118) for i, t in enumerate(("Stations", "Depths", "Wind", "Huts"))]
        body = [line("the stake stands before eight", 12, 260 + 24 * i) for i in range(20)]
        return reading([*lines, line("Today", 12, 210, 1), *body], [box], w=390, h=900)

    def test_a_page_has_one_head_and_every_word_once(self) -> None:
        outline = arrange(self.page())
        nodes = outline.root.walk()
        self.assertEqual(len(nodes), len({id(n) for n in nodes}))
        self.assertEqual(len([n for n in nodes if n.tag == "header"]), 1)
        self.assertEqual(sorted(node_text(outline.root).split()).count("Stations"), 1)

    def test_a_menu_in_the_second_band_is_no_second_head(self) -> None:
        bands = [Surface(Rect(0, 60 * i, 1440, 60), Fill(c)) for i, c in enumerate(("#dde8ee", "#eef3f6"))]
        said = "the stakes on the ridge are not read before the storm of this week has gone over all huts"
        lines = [line(said, 150, 36, 0, "#dde8ee")]
        lines += [
            line(t, 150 + 140 * i, 96, 0, "#eef3f6")
            for i, t in enumerate(("Stations", "Depths", "Wind", "Huts"))
        ]
        nodes = arrange(reading([*lines, line("Today", 150, 240, 1), *prose(300, 8, 150)], bands)).root.walk()
        self.assertEqual(len(nodes), len({id(n) for n in nodes}))
        self.assertEqual(sum(node_text(n) == "Wind" for n in nodes if n.kind == "text"), 1)

    def test_what_lets_words_break_begins_below_the_pictures_own_width(self) -> None:
        r = self.page()
        picture = Picture(np.full((900, 390, 3), 255, np.uint8), 1)
        css = write(arrange(r), r, picture, subset=False).css
        before = css[: css.index("overflow-wrap: anywhere")].rsplit("@media", 1)[1]
        self.assertIn("(width < 24.375rem)", before)


if __name__ == "__main__":
    unittest.main()
