"""Single steps of the outline, on trees made by hand: trails, bars, tiles, containers, and what its check says."""

from __future__ import annotations

import unittest
from dataclasses import replace

from neige.core.model import Cutout, Fill, Node, Outline, Rect, Surface
from neige.core.model.outline import Run
from neige.core.outline import check
from neige.core.outline.containers import contain
from neige.core.outline.dotted import list_dotted
from neige.core.outline.forms import send_forms
from neige.core.outline.links import link_repeated
from neige.core.outline.menus import link_apart
from neige.core.outline.pairs import find_pairs
from neige.core.outline.places import AUTO
from neige.core.outline.quotes import border_bars
from neige.core.outline.tiles import mark_tiles
from neige.core.outline.trails import find_trails
from tests.core.test_outline import line, reading

PAGE = Rect(0, 0, 1440, 900)


def text(says: str, x: float = 0, y: float = 0, w: float = 80, **more: object) -> Node:
    return Node(
        "text",
        Rect(x, y, w, 20),
        tag=str(more.pop("tag", "p")),
        runs=[Run(says, 0)],
        lines=[0],
        style=0,
        **more,
    )  # type: ignore[arg-type]


def holder(*children: Node, kind: str = "block", rect: Rect = PAGE, **more: object) -> Node:
    return Node(kind, rect, children=list(children), **more)  # type: ignore[arg-type]


def painted(n: Node, colour: str = "#eef2f5") -> Node:
    return replace(n, surface=Surface(n.rect, Fill(colour)))


class Trails(unittest.TestCase):
    def links(self, says: str) -> tuple[list[str], list[str]]:
        """(the words that lead somewhere, the labels of navigations) of a line."""
        root = holder(text(says))
        find_trails(root)
        runs = [r.text for n in root.walk() for r in n.runs if r.tag == "a"]
        return runs, [n.attributes["label"] for n in root.walk() if n.tag == "nav"]

    def test_names_with_signs_between_them_lead_up_to_the_page(self) -> None:
        self.assertEqual(self.links("Vell › Stations › Upper Cairn"), (["Vell", "Stations"], ["Breadcrumb"]))
        self.assertEqual(self.links("Vell / Huts / Lantern Hut")[0], ["Vell", "Huts"])

    def test_names_with_bars_between_them_lead_across_and_are_no_trail(self) -> None:
        self.assertEqual(
            self.links("Stations | Bulletins | Method"), (["Stations", "Bulletins", "Method"], [])
        )

    def test_a_sentence_a_fraction_or_a_single_sign_is_none(self) -> None:
        for says in (
            "Snow and / or rain",
            "1 / 2 / 3",
            "Read every morning at six from the stake / twice in May / never in June",
        ):
            with self.subTest(says):
                self.assertEqual(self.links(says), ([], []))

    def test_the_name_of_the_site_may_have_more_words_than_the_others(self) -> None:
        self.assertEqual(
            self.links("Firnwatch of the Vell range / Stations / Col")[0][0], "Firnwatch of the Vell range"
        )
        self.assertEqual(self.links("Vell / Firnwatch of the whole Vell range / Col")[0], [])

    def test_a_row_of_names_and_signs_is_one_too(self) -> None:
        names = [text(t, 60.0 * i) for i, t in enumerate(("Vell", "/", "Stations", "/", "Col"))]
        row = holder(*names, kind="row", rect=Rect(0, 0, 400, 20))
        find_trails(holder(row))
        self.assertEqual((row.tag, [c.tag for c in row.children]), ("nav", ["a", "p", "a", "p", "p"]))
        pictures = [
            replace(c, kind="image", rect=Rect(c.rect.x, 0, 10, 10)) if k % 2 else c
            for k, c in enumerate(names)
        ]
        icons = holder(*pictures, kind="row", rect=Rect(0, 0, 400, 20))
        find_trails(holder(icons))
        self.assertEqual(icons.tag, "div", "with pictures alone between them they may be anything")


class Bars(unittest.TestCase):
    SAYS = "The stake is read at six in the morning by those who live nearest"

    def beside(self, bar: Rect, says: str = SAYS, gap: float = 20.0) -> Node:
        rule = painted(Node("rule", bar), "#c33c1f")
        row = holder(rule, text(says, bar.right + gap, 104, 500), kind="row", rect=Rect(bar.x, 100, 600, 28))
        border_bars(holder(row))
        return row

    def test_a_text_beside_a_bar_is_a_quotation_with_a_border(self) -> None:
        row = self.beside(Rect(100, 100, 4, 28))
        self.assertEqual((row.kind, row.tag), ("block", "blockquote"))
        assert row.surface is not None
        self.assertEqual((row.surface.border, row.surface.border_colour), ((0.0, 0.0, 0.0, 4.0), "#c33c1f"))
        self.assertEqual(row.padding, (4.0, 0.0, 4.0, 20.0))

    def test_a_few_words_have_the_border_and_are_no_quotation(self) -> None:
        row = self.beside(Rect(100, 100, 4, 28), "Read at six")
        self.assertEqual((row.kind, row.tag), ("block", "div"))

    def test_what_is_too_thick_too_low_or_too_far_off_is_no_border(self) -> None:
        for bar, gap in (
            (Rect(100, 100, 30, 28), 20),
            (Rect(100, 106, 4, 12), 20),
            (Rect(100, 100, 4, 28), 60),
        ):
            with self.subTest(bar=bar, gap=gap):
                self.assertEqual(self.beside(bar, gap=gap).kind, "row")


class Tiles(unittest.TestCase):
    def tiles(self, widths: list[float], texts: list[float]) -> list[str]:
        buttons = []
        for i, (w, t) in enumerate(zip(widths, texts)):
            box = Rect(100.0 * i, 0, w, 36)
            buttons.append(painted(holder(text("Depth", box.cx - t / 2, 8, t), rect=box, tag="button")))
        mark_tiles(holder(holder(*buttons, kind="row")))
        return [b.attributes.get("tile", "") for b in buttons]

    def test_controls_of_one_width_whatever_they_say(self) -> None:
        self.assertEqual(self.tiles([60, 60.5, 60], [20, 34, 41]), ["60"] * 3)

    def test_two_or_with_other_widths_or_all_with_the_same_words_are_none(self) -> None:
        self.assertEqual(self.tiles([60, 60], [20, 34]), [""] * 2)
        self.assertEqual(self.tiles([60, 74, 81], [20, 34, 41]), [""] * 3)
        self.assertEqual(self.tiles([60, 60, 60], [34, 34.5, 35]), [""] * 3)


class Containers(unittest.TestCase):
    def band(self, left: float, right: float, tag: str = "section", **more: object) -> Node:
        return holder(
            text("Depth today", left), rect=Rect(0, 0, 1440, 300), tag=tag, padding=(20.0, right, 30.0, left),
            attributes={"band": "1"}, **more,
        )  # fmt: skip

    def test_the_room_beside_an_unpainted_band_is_the_pages(self) -> None:
        band = self.band(120, 120)
        contain(holder(band))
        self.assertEqual((band.width, band.padding), ("contained", (20.0, 0.0, 30.0, 0.0)))
        self.assertEqual((band.rect.x, band.rect.right), (120, 1320))

    def test_but_not_where_it_is_uneven_painted_or_hardly_any(self) -> None:
        for band in (self.band(120, 200), painted(self.band(120, 120)), self.band(16, 16)):
            contain(holder(band))
            self.assertNotEqual(band.width, "contained")

    def test_a_head_that_says_little_is_as_wide_as_the_page(self) -> None:
        narrow = self.band(500, 500, "header")
        contain(holder(narrow))
        self.assertNotEqual(narrow.width, "contained")

    def test_bands_with_the_same_room_leave_it_to_what_holds_them(self) -> None:
        bands = [self.band(120, 120, "div"), self.band(121, 121, "div")]
        main = holder(*bands, tag="main")
        contain(holder(main))
        self.assertEqual((main.width, {b.width for b in bands}), ("contained", {"fill"}))
        uneven = [self.band(120, 120, "div"), self.band(160, 160, "div")]
        main = holder(*uneven, tag="main")
        contain(holder(main))
        self.assertEqual({b.width for b in uneven}, {"contained"})


class Pairs(unittest.TestCase):
    def rows(self, values: list[str]) -> Node:
        rows = []
        for i, v in enumerate(values):
            pair = (text("Depth", 100, 40.0 * i), text(v, 500, 40.0 * i, gap=AUTO))
            rows.append(holder(*pair, kind="row", rect=Rect(100, 40.0 * i, 480, 20)))
        block = holder(*rows)
        find_pairs(block)
        return block

    def test_names_with_figures_at_the_other_end_are_a_list_of_pairs(self) -> None:
        block = self.rows(["142 cm", "-6 °C", "none"])
        self.assertEqual([n.tag for n in block.children], ["dl"])

    def test_one_or_with_words_alone_are_none(self) -> None:
        for values in (["142 cm"], ["deep", "cold", "none"]):
            self.assertFalse([n for n in self.rows(values).walk() if n.tag == "dl"])


class Check(unittest.TestCase):
    def found(
        self, *parts: Node, cutouts: tuple[Cutout, ...] = (), unmet: tuple[str, ...] = ()
    ) -> list[tuple[str, str]]:
        root = holder(*parts, tag="body")
        for k, n in enumerate(root.walk()):
            n.id = k
        r = reading([line("Depth today", 0, 20)], cutouts=list(cutouts))
        return [(f.kind, f.text) for f in check(Outline(root, "Depths", unmet=list(unmet)), r)]

    def main(self, *parts: Node) -> Node:
        return holder(text("Depths", tag="h1"), *parts, tag="main")

    def test_a_sound_page_has_none(self) -> None:
        self.assertEqual(self.found(self.main(text("Snow"), text("Stations", tag="h2"))), [])

    def test_a_page_without_a_title_and_a_main_part(self) -> None:
        self.assertEqual(
            {t for _, t in self.found(text("Snow"))}, {"The page has no h1.", "The page has no main part."}
        )

    def test_a_skipped_level_and_a_second_title_are_named(self) -> None:
        found = self.found(self.main(text("Huts", tag="h3"), text("Stakes", tag="h1")))
        self.assertIn(("heading", "“Huts” is an h3 after an h1: a level is skipped."), found)
        self.assertIn(("heading", "A second h1: “Stakes”."), found)

    def test_sections_without_headings_and_navigations_with_one_name(self) -> None:
        navs = [holder(text("Stations"), tag="nav", attributes={"label": "Main"}) for _ in range(2)]
        found = self.found(*navs, self.main(holder(text("Snow"), tag="section")))
        self.assertEqual([k for k, _ in found], ["landmark", "landmark", "section"])
        navs[1].attributes["label"] = "Sections"
        self.assertEqual([k for k, _ in self.found(*navs, self.main())], [])

    def test_fields_that_nothing_names_come_before_those_with_a_placeholder(self) -> None:
        bare = Node("field", Rect(0, 200, 200, 40), tag="input")
        told = Node("field", Rect(0, 100, 200, 40), tag="input", attributes={"placeholder": "Station"})
        named = Node("field", Rect(0, 300, 200, 40), tag="input", attributes={"name": "Depth"})
        found = self.found(self.main(told, bare, named))
        self.assertEqual(
            [t for _, t in found],
            [
                "A text field has no label: nothing names it.",
                "A text field has no label: only its placeholder “Station” names it.",
            ],
        )

    def test_pictures_and_links_without_words(self) -> None:
        photo = Node("image", Rect(0, 100, 300, 200), tag="img", cutout=0)
        icon = Node("image", Rect(0, 400, 20, 20), tag="img", cutout=1)
        link = holder(icon, rect=Rect(0, 400, 40, 40), tag="a")
        cutouts = (Cutout(Rect(0, 100, 300, 200), "image"), Cutout(Rect(0, 400, 20, 20), "icon"))
        found = self.found(self.main(photo, link), cutouts=cutouts)
        self.assertEqual(
            found,
            [("label", "A link has no words."), ("alt", "A picture of 300 × 200 px has no description.")],
        )
        told = tuple(replace(c, alt="The stake at Lantern Hut") for c in cutouts)
        self.assertEqual(self.found(self.main(photo, link), cutouts=told), [])

    def test_pins_that_could_not_be_followed_are_told(self) -> None:
        self.assertEqual(
            self.found(self.main(), unmet=("Its part is gone.",)), [("pin", "Its part is gone.")]
        )


if __name__ == "__main__":
    unittest.main()


class Sending(unittest.TestCase):
    """Which button of a form sends it."""

    def button(self, y: float, *inside: Node, colour: str = "#eef2f5", **attributes: str) -> Node:
        rect = Rect(20, y, 100, 38)
        return Node("block", rect, tag="button", children=list(inside), surface=Surface(rect, Fill(colour)),
                    attributes={"role": "button", **attributes})  # fmt: skip

    def sent(self, tag: str, fields: int, *buttons: Node) -> list[int]:
        entries = [Node("field", Rect(20, 20 + 60 * i, 300, 38), tag="input") for i in range(fields)]
        send_forms(holder(holder(*entries, *buttons, tag=tag)))
        return [i for i, b in enumerate(buttons) if b.attributes.get("sends")]

    def test_the_liveliest_one_after_the_last_field(self) -> None:
        quiet, lively = self.button(200, text("Cancel")), self.button(200, text("Save"), colour="#2266cc")
        far = self.button(400, text("Delete"), colour="#cc2222")
        self.assertEqual(self.sent("form", 2, quiet, lively, far), [1])

    def test_one_without_words_sends_a_lone_field_only(self) -> None:
        self.assertEqual(self.sent("form", 1, self.button(20)), [0])
        self.assertEqual(self.sent("form", 3, self.button(140), self.button(200)), [])

    def test_none_outside_a_form_and_none_that_opens_something(self) -> None:
        self.assertEqual(self.sent("div", 2, self.button(200, text("Save"))), [])
        self.assertEqual(self.sent("form", 2, self.button(200, text("More"), opens="1")), [])


class Repeats(unittest.TestCase):
    def test_what_only_parts_words_leads_nowhere(self) -> None:
        foot = holder(text("Stations", tag="a"), text("·", 90, 0, 4, tag="a"), kind="row")
        row = holder(text("Stations"), text("·", 90, 40, 4), text("·", 190, 40, 4), kind="row")
        map_ = holder(text("Stations", 0, 80), text("·", 90, 80, 4), text("Stations", 100, 80), kind="row")
        link_repeated(holder(foot, row, map_))
        self.assertEqual([c.tag for c in row.children], ["p", "p", "p"])
        self.assertEqual([c.tag for c in map_.children], ["a", "p", "a"])


class Dots(unittest.TestCase):
    """Short texts side by side with dots between them."""

    def row(self, *said: str, dot: str = "·", gap: float = 28.0) -> Node:
        x, kids = 0.0, []
        for i, words in enumerate(said):
            kids.append(text(words, x, 0, 60, gap=gap if i else 0.0))
            x += 60 + gap
        kids[1].attributes |= {"bullet": "•", "dot": dot}
        return holder(*kids, kind="row")

    def test_are_a_list_and_one_dot_speaks_for_all(self) -> None:
        row = self.row("Copyright the observers", "Manual", "Data")
        list_dotted(holder(row))
        self.assertEqual((row.attributes["list"], row.attributes["dotted"]), ("1", "·"))
        self.assertEqual([c.attributes.get("bullet") for c in row.children], [None] * 3)

    def test_numbers_and_quotes_before_entries_are_no_dots(self) -> None:
        for bullet in ("2.", '"', "-"):
            row = self.row("Stations", "Manual", "Data")
            row.children[1].attributes = {"bullet": bullet}
            list_dotted(holder(row))
            self.assertNotIn("dotted", row.attributes, bullet)

    def test_are_none_far_apart_or_unevenly_or_after_a_bullet(self) -> None:
        far, uneven, bulleted = (self.row("Stations", "Manual", "Data") for _ in range(3))
        for c in far.children[1:]:
            c.gap = 90.0
        uneven.children[2].gap = 44.0
        bulleted.children[0].attributes["bullet"] = "•"
        for row in (far, uneven, bulleted):
            list_dotted(holder(row))
            self.assertNotIn("list", row.attributes)


class Apart(unittest.TestCase):
    """What stands at a bar's other end."""

    def bar(self, *apart: Node) -> tuple[Node, Node]:
        entries = holder(
            *(text(t, tag="a") for t in ("Overview", "Stations", "Depths")),
            kind="row",
            attributes={"list": "1"},
        )
        rest = holder(*apart, kind="row")
        nav = holder(entries, rest, kind="row", tag="nav")
        link_apart(holder(nav))
        return nav, rest

    def test_a_word_set_as_the_entries_is_one(self) -> None:
        badge = painted(replace(text("New"), style=1))
        _, rest = self.bar(
            Node("image", Rect(0, 0, 20, 20), tag="img", cutout=0), holder(badge, text("Settings"))
        )
        self.assertEqual(rest.tag, "a")
        self.assertEqual({d.tag for d in rest.walk()[1:] if d.kind == "text"}, {"span"})

    def test_what_is_set_otherwise_or_says_more_is_none(self) -> None:
        other = replace(text("Settings"), style=1)
        long = text("The station at Brenn Hut has been moved to the ridge")
        for rest in (self.bar(other)[1], self.bar(long)[1], self.bar(text("Settings", tag="a"))[1]):
            self.assertEqual(rest.tag, "div")
