"""What belongs together in columns, rows and bars: cards without frames, sides that end early, heads over columns, menus in cards."""

from __future__ import annotations

import itertools
import unittest

from neige.browser import draw_page
from neige.core import pipeline
from neige.core.model import Fill, Node, Rect, Surface
from neige.core.outline.corridors import _beside
from neige.core.outline.cuts import _one_row
from neige.core.outline.divide import divide
from neige.core.outline.middle import widen_columns
from neige.core.outline.rows import _cross
from neige.core.writer import _gutter, write
from neige.core.writer.place import place
from neige.core.writer.stylesheet import Sheet
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, page, tagged
from tests.support import drawn, png


def found(root: Node, text: str) -> Node:
    """The smallest part with these words in it."""
    return min((n for n in root.walk() if text in words(n)), key=lambda n: len(n.walk()))


def around(root: Node, part: Node, kinds: tuple[str, ...]) -> Node:
    """The nearest part of some kinds around another."""
    holders = [
        n for n in root.walk() if n.kind in kinds and any(c is part for c in n.walk()) and n is not part
    ]
    return min(holders, key=lambda n: len(n.walk()))


class Cards(unittest.TestCase):
    def test_columns_under_bars_go_on_over_all_their_rows(self) -> None:
        card = "<div style='width:260px'><div style='background:#e8eef2;padding:10px 14px;font-size:22px;line-height:26px'>{0}</div><div style='padding:14px'><p>{1} and a window to the west, where the wind comes from in winter.</p><p style='margin-top:34px'>{2} beds</p><p style='margin-top:20px'>{3} stoves</p></div></div>"
        cards = "".join(
            card.format(*c)
            for c in (
                ("Brenn", "Doors", "Four", "Two"),
                ("Saddle", "Bunks", "Nine", "One"),
                ("Col", "Beams", "Six", "No"),
            )
        )
        _, outline, _ = page(
            f"<main><h1>Huts</h1><div style='display:flex;gap:24px'>{cards}</div>{PROSE}</main>"
        )
        first = found(outline.root, "Four beds")
        column = around(outline.root, first, ("block",))
        self.assertIn("Brenn", words(column))
        self.assertNotIn("Nine beds", words(column))

    def test_the_text_beside_a_short_side_column_goes_on_under_its_end(self) -> None:
        side = "".join(
            f"<p style='margin-bottom:14px'><a style='color:#1a5fb4'>{n}</a></p>"
            for n in ("Stakes", "Pits", "Probes", "Snow pillows")
        )
        text = f"<h1>Depths</h1>{PROSE}<div style='background:#e8eef2;padding:24px;margin:24px 0'>Read it twice</div><h2 style='font-size:24px;margin:28px 0 12px'>Pits</h2>{PROSE}<div style='background:#e8eef2;padding:24px;margin:24px 0'>Dig to the ground</div>{PROSE}"
        _, outline, _ = page(
            f"<main style='display:flex;gap:60px'><div style='width:180px'>{side}</div><div style='flex:1'>{text}</div></main>"
        )
        late, early = found(outline.root, "Dig to the ground"), found(outline.root, "Stakes")
        columns = around(outline.root, late, ("row", "grid"))
        self.assertTrue(any(c is early for c in columns.walk()), "both columns are in one row")
        self.assertLess(late.inset, 30)

    def test_what_is_over_both_columns_is_in_neither(self) -> None:
        boxes = [Rect(0, 0, 900, 40), Rect(0, 60, 150, 30), Rect(200, 60, 700, 300), Rect(0, 100, 150, 30)]
        self.assertEqual(sorted(_beside(boxes, [0, 1, 2, 3], 0.5)), [1, 2, 3])
        self.assertEqual(_beside(boxes[:1], [0], 0.5), [])
        self.assertEqual(len(divide([(b.x, b.right) for b in boxes], 0.5)[0]), 1)


class Middles(unittest.TestCase):
    def columns(self, texts: tuple[str, ...], css: str = "") -> tuple[Node, str]:
        cell = "<div style='width:240px;text-align:center'><h2 style='font-size:22px;line-height:28px'>{}</h2><p style='margin-top:8px'>{}</p></div>"
        heads = ("Stakes", "Pits", "Snow pillows")
        cells = "".join(cell.format(h, t) for h, t in zip(heads, texts))
        row = f"<div style='display:flex;justify-content:space-between;width:800px;margin:40px 0;{css}'>{cells}</div>"
        _, outline, _ = page(
            f"<style>main{{padding:40px 50px;width:900px}}</style><main><h1>Depths</h1>{row}{PROSE}{PROSE}</main>"
        )
        grids = [n for n in outline.root.walk() if n.kind == "grid" and "Stakes" in words(n)]
        return min(grids, key=lambda n: len(n.walk())), words(outline.root)

    def test_columns_about_their_middles_are_as_wide_as_each_other(self) -> None:
        texts = (
            "Read at seven each day",
            "Dug by two",
            "They weigh what lies on them, and send it down every hour",
        )
        grid, _ = self.columns(texts)
        self.assertEqual(len(grid.columns), 3)
        self.assertLess(max(grid.columns) - min(grid.columns), 1.0)
        self.assertLess(abs(grid.columns[0] - 256), 1.5)
        self.assertTrue(
            all(t.align == "center" for t in grid.walk() if t.kind == "text" and len(t.lines) == 1)
        )

    def test_room_that_the_holder_has_not_is_not_taken(self) -> None:
        root = Node("block", Rect(0, 0, 600, 400))
        kids = [
            Node("block", Rect(x, 20, 100, 60), children=[Node("text", Rect(x + d, 20, 100 - 2 * d, 20)) for d in (0, 20)])
            for x in (20, 240, 460)
        ]  # fmt: skip
        row = Node("row", Rect(20, 20, 540, 60), children=kids)
        root.children = [row]
        widen_columns(root)
        self.assertEqual((row.rect.x, row.rect.right), (0.0, 580.0))
        kids[1].rect = kids[1].children[0].rect = kids[1].children[1].rect = Rect(200, 20, 100, 60)
        row.rect = Rect(20, 20, 540, 60)
        widen_columns(root)
        self.assertEqual(row.rect, Rect(20, 20, 540, 60), "columns that are not even stay as they are")

    def test_what_columns_lie_in_takes_the_room_that_they_take_and_no_neighbours(self) -> None:
        def page(beside: float) -> tuple[Node, Node, Node]:
            kids = [
                Node("block", Rect(x, 20, 100, 60), children=[Node("text", Rect(x + d, 20, 100 - 2 * d, 20)) for d in (0, 20)])
                for x in (120, 340)
            ]  # fmt: skip
            columns = Node("row", Rect(120, 20, 320, 60), children=kids)
            group = Node("block", Rect(120, 20, 320, 60), children=[columns])
            icon = Node("image", Rect(beside, 20, 16, 16))
            row = Node("row", Rect(120, 20, beside - 104, 60), children=[group, icon])
            root = Node("block", Rect(0, 0, 600, 400), children=[row])
            widen_columns(root)
            return row, group, columns

        row, group, columns = page(560)
        self.assertEqual([n.rect.x for n in (row, group, columns)], [72.0, 72.0, 72.0])
        row, group, columns = page(460)  # there is less room on the right
        self.assertEqual((columns.rect.x, columns.rect.right, row.rect.right), (100.0, 460.0, 476.0))

    def test_pictures_over_their_names_stand_in_the_middle_of_equal_columns(self) -> None:
        cell = "<div style='width:300px;text-align:center'><div style='margin:0 auto;width:200px;height:140px;background:repeating-radial-gradient(circle at 30% 40%,#247,#9bd 9px,#e8f 14px)'></div><b style='font-size:14px'>{}</b></div>"
        body = f"<main><h1>Summer and winter</h1><div style='display:flex;gap:24px;margin:20px'>{cell.format('Brenn')}{cell.format('The Lantern')}</div>{PROSE}</main>"
        _, outline, _ = page(body)
        pictures = [n for n in outline.root.walk() if n.kind == "image"]
        self.assertEqual([n.align for n in pictures], ["center", "center"])
        holders = [n for n in outline.root.walk() if any(c in pictures for c in n.children)]
        self.assertEqual([(n.width, n.children[1].align) for n in holders], [("fill", "center")] * 2)

    def test_columns_that_look_alike_are_one_row(self) -> None:
        def column(style: int, x: float) -> Node:
            texts = [
                Node("text", Rect(x, 0, 50, 20), style=style),
                Node("text", Rect(x, 30, 90, 20), style=2),
            ]
            return Node("block", Rect(x, 0, 90, 50), children=texts)

        pair = Node("row", Rect(0, 0, 300, 50), children=[column(1, 0), column(1, 200)])
        self.assertEqual(len(_one_row([pair, column(1, 500)])), 3)
        self.assertEqual(len(_one_row([pair, column(5, 500)])), 2)

    def test_text_about_a_middle_that_is_not_its_boxes_stands_there(self) -> None:
        body = "<main><h1>Depths</h1><div style='display:flex;gap:30px'><div style='width:520px'><p style='width:420px;margin-left:0;text-align:center'>Every station reports the depth of its stake before eight in the morning, and sends what it has read.</p><div style='background:#dce6ec;height:80px;margin-top:20px'></div></div><div style='background:#c8d8e0;width:200px;height:200px'></div></div></main>"
        _, outline, _ = page(body)
        text = found(outline.root, "sends what it has")
        self.assertEqual(text.align, "center")
        self.assertLess(float(text.attributes["aside"]), 8)


class Menus(unittest.TestCase):
    def card(self, open_: bool) -> str:
        strip = "background:#e3eefb;font-weight:700" if open_ else ""
        entries = "".join(
            f"<p style='padding:14px 20px;{strip if n == 'Account' else ''}'>{n}</p>"
            for n in ("Account", "Notices", "Stations", "Observers", "Bulletins")
        )
        form = f"<h2 style='font-size:20px'>Account</h2>{PROSE}{PROSE}{PROSE}"
        return f"<main><h1>Settings</h1><div style='display:flex;border:1px solid #b7bec6;border-radius:8px;margin-top:16px'><div style='width:220px;border-right:1px solid #b7bec6;padding:16px 0'>{entries}</div><div style='padding:20px;flex:1'>{form}</div></div></main>"

    def test_a_column_in_a_card_with_one_entry_open_is_a_menu(self) -> None:
        _, outline, _ = page(self.card(True))
        menus = tagged(outline, "nav")
        self.assertEqual(len(menus), 1)
        self.assertEqual(sum(n.tag == "a" for n in menus[0].walk()), 5)

    def test_without_one_it_is_a_column_of_texts(self) -> None:
        self.assertFalse(tagged(page(self.card(False))[1], "nav"))

    def test_a_bar_from_side_to_side_does_not_reach_beyond_the_page(self) -> None:
        entries = "".join(f"<a>{n}</a>" for n in ("Home", "Stations", "Depths", "Help"))
        head = "<div style='padding:14px 40px;background:#21303c;color:#fff;font-size:20px'>Firnwatch</div>"
        bar = f"<div style='display:flex;gap:24px;padding:16px 40px;background:#e8eef2'>{entries}</div>"
        _, outline, _ = page(
            f"<style>body{{padding:0!important}}</style>{head}{bar}<main style='padding:40px'><h1>Snow</h1>{PROSE}{PROSE}</main>"
        )
        bars = [n for n in outline.root.walk() if n.attributes.get("band") and n.attributes.get("end")]
        self.assertEqual(bars, [])


class Trails(unittest.TestCase):
    def test_links_with_angles_between_them_lead_up(self) -> None:
        link = "<a style='text-decoration:underline'>{}</a>"
        body = f"<main><p style='margin-bottom:24px'>{link.format('Home')} &gt; {link.format('Ranges')} &gt; Vell</p><h1>Vell</h1>{PROSE}{PROSE}</main>"
        _, outline, html = page(body)
        trail = next(n for n in tagged(outline, "nav"))
        self.assertEqual(trail.attributes["label"], "Breadcrumb")
        self.assertEqual([r.text for t in trail.walk() for r in t.runs if r.tag == "a"], ["Home", "Ranges"])
        self.assertIn(">Home</a>", html)


LISTS = {
    "STATIONS": ("Upper Cairn", "Lantern Hut", "Mirrow Col", "Saddle"),
    "OBSERVERS": ("Roster", "Training", "Expenses", "Contact us"),
}


class UnderHeads(unittest.TestCase):
    def columns(self, head: str) -> Node:
        """Two lists beside each other at the page's end, evenly spaced, under lines in the style `head`."""
        lists = "".join(
            f"<div style='width:250px'><p style='margin:0 0 20px;line-height:20px;{head}'>{name}</p>"
            + "".join(f"<p style='margin:0 0 16px;line-height:20px'>{e}</p>" for e in entries)
            + "</div>"
            for name, entries in LISTS.items()
        )
        _, outline, _ = page(
            f"<main><h1>Depths</h1>{PROSE * 6}<div style='display:flex;margin-top:80px'>{lists}</div></main>"
        )
        return outline.root

    def test_lines_of_another_style_over_the_entries_of_one_head_columns(self) -> None:
        root = self.columns("font-size:11px;line-height:14px;font-weight:700;letter-spacing:.5px")
        column = around(root, found(root, "Lantern Hut"), ("block",))
        self.assertNotIn("Training", words(column))

    def test_without_such_lines_they_are_rows(self) -> None:
        root = self.columns("")
        row = around(root, found(root, "Lantern Hut"), ("row", "grid", "table"))
        self.assertIn("Training", words(row))


class Heads(unittest.TestCase):
    def levels(self, body: str) -> dict[str, str]:
        return {words(n): n.tag for n in page(body)[1].root.walk() if n.tag in ("h1", "h2", "h3", "h4")}

    def test_texts_a_little_larger_over_something_each_are_headings(self) -> None:
        head = "<p style='font-size:18px;line-height:22px;margin:26px 0 8px'>{}</p>"
        body = "".join(head.format(t) + PROSE for t in ("Stakes", "Pits", "Probes"))
        found_ = self.levels(f"<main><h1>Depths</h1>{PROSE}{body}</main>")
        self.assertEqual([found_.get(t) for t in ("Stakes", "Pits", "Probes")], ["h2"] * 3)
        two = "".join(head.format(t) + PROSE for t in ("Stakes", "Pits"))
        self.assertNotIn("Stakes", self.levels(f"<main><h1>Depths</h1>{PROSE}{two}</main>"))

    def test_what_is_as_large_as_the_title_is_of_the_second_level(self) -> None:
        big, small = (
            "font-size:26px;line-height:30px;margin:24px 0 8px",
            "font-size:21px;line-height:25px;margin:20px 0 8px",
        )
        body = f"<main><h1 style='{big}'>Settings</h1>{PROSE}<h2 style='{big}'>Account</h2><h3 style='{small}'>Name and mail</h3>{PROSE}<h3 style='{small}'>Stations</h3>{PROSE}</main>"
        found_ = self.levels(body)
        self.assertEqual((found_["Settings"], found_["Account"], found_["Name and mail"]), ("h1", "h2", "h3"))


class Strips(unittest.TestCase):
    def test_a_low_strip_over_a_painted_part_is_its_border(self) -> None:
        body = f"<style>body{{padding:0!important}}</style><main style='padding:40px'><h1>Snow</h1>{PROSE}{PROSE}</main><div style='height:10px;background:#1d70b8'></div><div style='background:#e8eef2;padding:30px 40px'>{PROSE}<p>© 2026 Firnwatch</p></div>"
        _, outline, _ = page(body)
        foot = next(n for n in outline.root.walk() if n.surface and n.surface.fill.colour == "#e8eef2")
        self.assertEqual(
            (foot.surface and foot.surface.border, foot.surface and foot.surface.border_colour),
            ((10.0, 0.0, 0.0, 0.0), "#1d70b8"),
        )

    def test_a_thick_bar_beside_a_text_is_its_border(self) -> None:
        body = f"<main><h1>Snow</h1>{PROSE}<div style='border-left:10px solid #b1b4b6;padding:14px;margin:20px 0'>It can take eight weeks until a station is on the map, so write early.</div>{PROSE}</main>"
        _, outline, html = page(body)
        self.assertEqual([n.surface.border[3] for n in tagged(outline, "blockquote") if n.surface], [10.0])
        self.assertNotIn("<hr", html)


class Beside(unittest.TestCase):
    def test_what_begins_beside_a_part_stands_under_it_on_small_screens(self) -> None:
        card = Node("block", Rect(0, 0, 200, 240), surface=Surface(Rect(0, 0, 200, 240), Fill("#fff")))
        picture = Node("image", Rect(0, 0, 600, 240))
        text = Node("text", Rect(240, 40, 300, 60), gap=-200.0, inset=240.0)
        for before, narrow in ((card, "1rem"), (picture, None)):
            parent = Node("block", Rect(0, 0, 600, 240), children=[before, text])
            wide, small = place(text, parent)
            self.assertEqual(wide["margin-block-start"], "-12.5rem")
            self.assertEqual(small.get("margin-block-start"), narrow)

    def test_a_container_wider_than_the_gutter_leaves_has_a_narrower_one(self) -> None:
        for wide, gutter in ((1390.0, 25.0), (1200.0, 32.0), (1430.0, 12.0)):
            main = Node("block", Rect((1440 - wide) / 2, 0, wide, 400), width="contained")
            root = Node("block", Rect(0, 0, 1440, 400), children=[main])
            self.assertEqual(_gutter(root), gutter)

    def test_what_is_for_small_screens_is_not_for_a_picture_as_narrow(self) -> None:
        for width, query in (
            (1440, "(width <= 48rem)"),
            (760, "(width < 47.5rem)"),
            (768, "(width < 48rem)"),
        ):
            sheet = Sheet()
            name = sheet.named("card", {"margin-inline-start": "2rem"}, {"margin-inline-start": "0"})
            self.assertIn(f"@media {query}", sheet.text({name}, width))
        indented = f"<main style='padding-left:60px'><h1>Depths</h1><div style='margin-left:50px'>{PROSE}</div>{PROSE}</main>"
        picture, _ = drawn(STYLE + indented, 760)
        built = pipeline.build(png(picture.pixels), "page.png", draw_page)
        self.assertLess(built.proof.position_px, 1.0)


class Tiles(unittest.TestCase):
    def test_words_beside_a_box_a_little_higher_are_level_with_its_middle(self) -> None:
        reading = page(f"<main><h1>Depths</h1>{PROSE}</main>")[0]
        tile = Rect(252, 100, 48, 48)

        def cross(beside: Node) -> str:
            box = Node("block", tile, surface=Surface(tile, Fill("#23607a")))
            row = Node("row", Rect(0, 100, 300, 48), tag="div", children=[beside, box])
            _cross(row, reading, 100, 148)
            return row.cross

        self.assertEqual(cross(Node("block", Rect(0, 101.4, 100, 45.2))), "center")
        card = Rect(0, 101.4, 100, 45.2)
        self.assertEqual(cross(Node("block", card, surface=Surface(card, Fill("#ffffff")))), "stretch")


class Cells(unittest.TestCase):
    """Boxes with a line all round that touch, with a word in the middle of each."""

    body = (
        "<main style='width:1360px;max-width:none;padding-bottom:0'><h1>Depths</h1>"
        + PROSE
        + "<div style='display:flex;text-align:center'>"
        + "".join(
            f"<div style='flex:1;padding:12px;background:#e6e2eb;border:1px solid #c9c0d5'>{t}</div>"
            for t in ("Four metres of it", "Seven of them", "Nine or ten of it")
        )
        + "</div></main><footer style='margin:40px 0 32px;background:#dde4ea;padding:12px 40px'>Vell range</footer>"
    )

    def setUp(self) -> None:
        self.found, self.outline, self.html = page(self.body, 1440)

    def test_a_line_between_two_is_half_each(self) -> None:
        cells = sorted((s for s in self.found.surfaces if s.fill.colour == "#e6e2eb"), key=lambda s: s.rect.x)
        self.assertEqual([s.border for s in cells], [(1.0,) * 4] * 3)
        for a, b in itertools.pairwise(cells):
            self.assertAlmostEqual(a.rect.right, b.rect.x, delta=0.1)

    def test_the_word_is_in_the_middle_without_paddings_that_hold_it(self) -> None:
        cells = [n for n in self.outline.root.walk() if n.surface and n.surface.fill.colour == "#e6e2eb"]
        self.assertEqual([n.children[0].align for n in cells], ["center"] * 3)
        self.assertTrue(all(n.padding[1] == n.padding[3] <= 16 for n in cells))

    def test_room_under_the_last_part_is_the_body_s(self) -> None:
        for room, written in ((48.0, "padding-block-end: 3rem"), (400.0, "")):
            self.outline.root.padding = (0.0, 0.0, room, 0.0)
            css = write(self.outline, self.found, drawn(STYLE + self.body, 1440)[0]).css
            self.assertEqual("padding-block-end: 3rem" in css, bool(written), "a window's rest is nobody's")
