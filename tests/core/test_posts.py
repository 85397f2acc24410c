"""Lists of posts, trails, forms, and the current entry of a bar: what a part is from what stands beside it."""

from __future__ import annotations

import re
import unittest

from neige.core.model import Fill, Node, Rect, Rule, Surface
from neige.core.outline import arrange
from neige.core.outline.forms import find_forms
from neige.core.outline.layout import _begin
from neige.core.outline.posts import DATE
from neige.core.outline.rows import _ends_alike
from neige.core.reading.surfaces.choices import settle_choices
from neige.core.reading.surfaces.ends import lay_under
from neige.core.reading.surfaces.sides import mark_entries
from neige.core.writer.tokens import fluid
from tests.core.test_menus import prose, tags, words
from tests.core.test_outline import html, line, reading


def posts(titles: tuple[str, ...], dated: bool = True) -> tuple[list, list[Rule]]:  # type: ignore[type-arg]
    lines, rules = [], []
    for i, title in enumerate(titles):
        y = 200 + 150 * i
        meta = f"Posted by the observers on March {i + 2}, 2025" if dated else "Posted by the observers"
        lines += [line(title, 300, y, 1), line(meta, 300, y + 44, 3)]
        rules.append(Rule(Rect(300, y + 80, 700, 1), "#d5dde2"))
    return lines, rules


class Posts(unittest.TestCase):
    TITLES = ("Snow above the pass", "We read the stakes at dawn. Nobody saw a thing.", "Forty new stakes")

    def test_titles_of_dated_entries_lead_to_them(self) -> None:
        lines, rules = posts(self.TITLES)
        page = html(reading([line("Firnwatch notes", 300, 80, 1), *lines, *prose(700, 6, 300)], [], rules))
        for title in self.TITLES:
            self.assertRegex(page, rf'<h2[^>]*>\s*<a href="#">\s*{re.escape(title)}\s*</a>')

    def test_without_a_date_they_lead_nowhere(self) -> None:
        lines, rules = posts(self.TITLES, dated=False)
        page = html(reading([line("Firnwatch notes", 300, 80, 1), *lines, *prose(700, 6, 300)], [], rules))
        self.assertNotRegex(page, r"<h2[^>]*>\s*<a")

    def test_a_date_is_told_from_words_and_versions(self) -> None:
        for text in (
            "March 2, 2025",
            "on Sep 24",
            "May 2025",
            "7 April 2025",
            "2025-03-02",
            "2.3.2025",
            "03/02/2025",
        ):
            self.assertRegex(text, DATE)
        for text in (
            "the market 20",
            "a mayor 3",
            "decent 10",
            "version 3.2.0",
            "10.0.0.1",
            "1-50/200",
            "June",
        ):
            self.assertNotRegex(text, DATE)

    def test_two_entries_are_no_list(self) -> None:
        lines, rules = posts(self.TITLES[:2])
        page = html(reading([line("Firnwatch notes", 300, 80, 1), *lines, *prose(700, 6, 300)], [], rules))
        self.assertNotRegex(page, r"<h2[^>]*>\s*<a")


class Trails(unittest.TestCase):
    def test_a_trail_is_a_list_of_steps(self) -> None:
        r = reading(
            [
                line("Stations / Vell range / Stake nine", 150, 90),
                line("Stake nine", 150, 160, 1),
                *prose(220),
            ]
        )
        page = html(r)
        trail = re.search(r'<nav[^>]*aria-label="Breadcrumb">.*?</nav>', page, re.S)
        self.assertIsNotNone(trail)
        steps = re.findall(r"<li[^>]*>(.*?)</li>", trail[0], re.S)  # type: ignore[index]
        said = [" ".join(re.sub(r"<[^>]+>", "", s).split()) for s in steps]
        self.assertEqual(said, ["Stations", "/ Vell range", "/ Stake nine"])
        self.assertRegex(trail[0], r"<ol\b")  # type: ignore[index]


def field(x: float, y: float, **own: str) -> Node:
    return Node("field", Rect(x, y, 200, 36), tag="input", attributes={"type": "text", **own})


def button(x: float, y: float) -> Node:
    return Node("text", Rect(x, y, 80, 36), tag="button", attributes={"role": "button"})


class Forms(unittest.TestCase):
    def test_no_form_holds_another_or_a_part_of_the_page(self) -> None:
        search = Node("row", Rect(10, 140, 230, 38), tag="form", attributes={"label": "Search"})
        search.children = [field(10, 140, type="search"), button(210, 140)]
        side = Node("block", Rect(0, 0, 250, 1700), tag="aside", children=[search])
        answer = Node("row", Rect(300, 300, 500, 36), children=[field(300, 300), button(520, 300)])
        more = Node("block", Rect(300, 400, 500, 300), children=[field(300, 400 + 60 * i) for i in range(4)])
        main = Node("block", Rect(250, 0, 1190, 1700), tag="main", children=[answer, more])
        both = Node("row", Rect(0, 0, 1440, 1700), children=[side, main])
        root = Node("block", Rect(0, 0, 1440, 1700), tag="body", children=[both])
        find_forms(root)
        for form in (n for n in root.walk() if n.tag == "form"):
            inside = [d.tag for d in form.walk()[1:]]
            self.assertFalse({"form", "aside", "main"} & set(inside))
        self.assertEqual(search.tag, "form")

    def test_a_form_around_a_search_is_none(self) -> None:
        search = Node("row", Rect(10, 140, 230, 38), tag="form", attributes={"label": "Search"})
        search.children = [field(10, 140, type="search"), button(210, 140)]
        outer = Node(
            "block", Rect(0, 100, 600, 300), tag="form", children=[search, field(10, 300), button(10, 350)]
        )
        root = Node("block", Rect(0, 0, 1440, 900), tag="body", children=[outer])
        find_forms(root)
        self.assertEqual([n.tag for n in root.walk() if n.tag == "form"], ["form"])


class CurrentEntry(unittest.TestCase):
    BAR = Surface(Rect(0, 56, 1440, 56), Fill("#ffffff"), border=(0, 0, 1, 0), border_colour="#e5e7eb")
    LINE = Rule(Rect(250, 110, 100, 2), "#1a6fd0")

    def test_a_line_under_words_of_a_bar_is_their_entrys_border(self) -> None:
        surfaces, rules = mark_entries(
            [self.BAR], [self.LINE], [Rect(264, 76, 72, 16), Rect(400, 76, 60, 16)]
        )
        self.assertEqual(rules, [])
        entry = surfaces[-1]
        self.assertTrue(entry.underlines)
        self.assertEqual((entry.rect, entry.border), (Rect(250, 56, 100, 56), (0.0, 0.0, 2.0, 0.0)))

    def test_a_line_that_ends_within_a_word_is_none(self) -> None:
        surfaces, rules = mark_entries([self.BAR], [self.LINE], [Rect(230, 76, 72, 16)])
        self.assertEqual((surfaces, rules), ([self.BAR], [self.LINE]))

    def test_it_stays_a_link_among_the_others(self) -> None:
        bar, pen = [], 150.0
        for text in ("Stations", "Bulletins", "Method", "Snow"):
            bar.append(line(text, pen, 90))
            pen = bar[-1].box.right + 32
        box = Rect(bar[1].box.x - 14, 56, bar[1].box.w + 28, 56)
        entry = Surface(box, Fill("#ffffff"), border=(0, 0, 2, 0), border_colour="#1a6fd0")
        r = reading([*bar, line("Depth today", 150, 200, 1), *prose(260)], [self.BAR, entry])
        (nav,) = tags(r, "nav")
        self.assertEqual(words(nav).split(), ["Stations", "Bulletins", "Method", "Snow"])
        self.assertEqual(len(re.findall(r"<li[^>]*>\s*<a", html(r))), 4)


class Surfaces(unittest.TestCase):
    def test_a_button_lies_under_its_tinted_end(self) -> None:
        whole = Surface(Rect(870, 754, 240, 48), Fill("#4e73df"), 5.0, corners=(0.0, 5.0, 5.0, 0.0))
        end = Surface(
            Rect(865, 754, 54, 48), Fill("#4261bd"), 5.0, (1.0,) * 4, "#4e73df", corners=(5.0, 0.0, 0.0, 5.0)
        )
        button, tint = lay_under([whole, end])
        self.assertEqual((button.rect, button.radius, button.corners), (Rect(865, 754, 245, 48), 5.0, None))
        self.assertEqual((tint.rect, any(tint.border)), (Rect(866, 755, 52, 46), False))

    def test_cards_that_stand_beside_each_other_stay(self) -> None:
        cards = [
            Surface(Rect(100, 50, 60, 48), Fill("#4261bd"), 5.0),
            Surface(Rect(170, 50, 200, 48), Fill("#4e73df")),
        ]
        self.assertEqual(lay_under(cards), cards)

    def test_a_speck_is_no_round_mark(self) -> None:
        import numpy as np

        from neige.core.model import Cutout

        pixels = np.full((40, 40, 3), 255, np.uint8)
        pixels[20, 20] = 0
        speck = Cutout(Rect(16, 16, 8, 8), "icon")
        self.assertEqual(settle_choices([speck], pixels, 1), ([speck], []))


class Lengths(unittest.TestCase):
    def test_long_gaps_shrink_with_the_window_and_are_whole_on_the_page(self) -> None:
        self.assertEqual(fluid(48, 1440), "3rem")
        for px in (97.3, 344.5, 923.0):
            whole, share = re.fullmatch(r"min\(([\d.]+)rem, ([\d.]+)vw\)", fluid(px, 1440)).groups()  # type: ignore[union-attr]
            self.assertAlmostEqual(float(whole) * 16, px, delta=0.01)
            self.assertTrue(px <= float(share) * 14.4 <= px + 0.2)

    def test_texts_begin_in_the_middle_of_what_each_tells_and_paint_to_the_px(self) -> None:
        texts = [Node("text", Rect(x, 20 * i, 90, 18)) for i, x in enumerate((140.75, 141.0, 141.1, 164.9))]
        self.assertEqual(_begin(texts), 141.0)
        card = Node(
            "block", Rect(141.0, 100, 90, 90), surface=Surface(Rect(141.0, 100, 90, 90), Fill("#eef2f4"))
        )
        self.assertEqual(_begin([*texts, card]), 141.0)

    def test_a_stack_that_ends_alike_stands_at_the_end(self) -> None:
        def stack(*spans: tuple[float, float]) -> Node:
            lines = [
                Node("text", Rect(x, 24 * i, right - x, 20), lines=[i]) for i, (x, right) in enumerate(spans)
            ]
            return Node("block", Rect(0, 0, 400, 44), children=lines)

        self.assertTrue(_ends_alike(stack((330, 400), (250, 400))))
        self.assertFalse(_ends_alike(stack((250, 400), (250, 400))))  # both begin there, too
        self.assertFalse(_ends_alike(stack((250, 330), (250, 400))))
        self.assertFalse(_ends_alike(stack((250, 400))))

    def test_a_wide_card_that_ends_where_its_place_does_is_not_centred(self) -> None:
        cards = [Surface(Rect(256, 100 + 90 * i, 1180, 70), Fill("#eef2f4")) for i in range(3)]
        strip = Surface(Rect(250, 400, 1186, 60), Fill("#dde8ee"))
        lines = [line("Snow", 270, 140 + 90 * i) for i in range(3)] + [line("Stakes", 270, 436)]
        root = arrange(reading(lines, [*cards, strip], w=1442)).root
        found = [n for n in root.walk() if n.surface and n.rect.w == 1180]
        self.assertEqual([(n.width, n.align) for n in found], [("fill", "start")] * 3)


if __name__ == "__main__":
    unittest.main()
