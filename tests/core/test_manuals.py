"""Manuals: a text beside its contents, whose column goes on below them, in parts under their headings."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace

from neige.core.model import Node, Rect
from neige.core.outline.columns import extend_columns
from neige.core.outline.paragraphs import paragraphs
from neige.core.outline.targets import give_room
from tests.core.test_menus import words
from tests.core.test_outline import STYLES, line, reading
from tests.core.test_structure import PROSE, page, tagged

SENTENCE = "<p>Every stake is read before eight in the morning, and what it says is sent to the station below it.</p>"
ENTRIES = ("Reading a stake", "Boards and wind", "Sending a bulletin", "When a stake is lost")
SHEET = "<style>.d{display:flex;width:860px;margin:0 20px}nav{width:200px;margin-right:40px;font-size:14px}nav h3{font-size:20px}nav ul{list-style:none;margin:0;padding:0}nav li{margin-bottom:4px}main{flex:1;padding:0}h2{margin:28px 0 10px}p{margin:0 0 12px}code{color:#0b6e99;font-family:'Liberation Mono'}a{color:#0b6e99;text-decoration:none}</style>"


def manual(extra: str = "") -> str:
    entries = "".join(f"<li><a>{e}</a></li>" for e in ENTRIES)
    parts = "".join(f"<h2>{e}</h2>{SENTENCE * 3}" for e in ENTRIES[:3])
    return f"{SHEET}<div class='d'><nav><h3>Contents</h3><ul>{entries}</ul></nav><main><h1>Field manual</h1>{PROSE}{SENTENCE}{extra}{parts}</main></div>"


class Columns(unittest.TestCase):
    def test_the_text_is_the_middle_and_its_contents_a_navigation(self) -> None:
        _, outline, html = page(manual())
        (main,), (nav,) = tagged(outline, "main"), tagged(outline, "nav")
        self.assertFalse(any(n is nav for n in main.walk()))
        self.assertEqual([words(t) for t in nav.walk() if t.tag == "a"], list(ENTRIES))
        self.assertEqual([words(t) for t in nav.walk() if t.tag == "h2"], ["Contents"])
        self.assertEqual([n.attributes.get("list") for n in nav.walk() if n.attributes.get("list")], ["1"])
        self.assertGreater(main.rect.h, 1.5 * nav.rect.h)
        self.assertEqual(len(re.findall(r"<h1", html)), 1)

    def test_each_headed_part_is_a_section(self) -> None:
        outline = page(manual())[1]
        parts = [words(n.children[0]) for n in tagged(outline, "section")]
        self.assertEqual(parts, list(ENTRIES[:3]))
        for n in tagged(outline, "section"):
            self.assertEqual(n.children[0].tag, "h2")

    def test_code_in_the_ink_of_links_leads_somewhere(self) -> None:
        prose = f"<p>See the <a>list of stakes</a> and the <a><code>depth.read()</code></a> call of the board, which both say how deep it is.</p>{SENTENCE}"
        html = page(manual(prose))[2]
        self.assertRegex(html, r"<a [^>]*>depth\.read\(\)</a>")
        self.assertRegex(html, r"<a [^>]*>list of stakes</a>")

    def test_a_blog_with_cards_at_its_side_stays_one_middle(self) -> None:
        cards = "".join(
            f"<div style='border:1px solid #ccd;padding:16px;margin-bottom:20px'><b>{e}</b>{SENTENCE}</div>"
            for e in ENTRIES[:2]
        )
        body = f"{SHEET}<div class='d'><main><h1>Bulletins</h1>{PROSE}{SENTENCE * 6}</main><div style='width:240px;margin-left:40px'>{cards}</div></div>"
        outline = page(body)[1]
        self.assertEqual(tagged(outline, "nav"), [])
        self.assertEqual(len(tagged(outline, "main")), 1)


class Cards(unittest.TestCase):
    def test_columns_of_cards_are_no_text_beside_its_contents(self) -> None:
        card = f"<div style='border:1px solid #ccd;border-radius:6px;padding:16px;margin-bottom:24px'>{SENTENCE}<small>9 mins</small></div>"
        column = f"<div style='flex:1'>{card * 3}</div>"
        body = f"<div style='display:flex;gap:24px;padding:20px'>{column * 3}</div>"
        outline = page(f"<main><h1>Stations</h1>{PROSE}{body}</main>")[1]
        self.assertEqual(tagged(outline, "nav"), [])
        self.assertEqual(len(tagged(outline, "main")), 1)


def block(x: float, y: float, w: float, h: float, parts: int = 4) -> Node:
    kids = [Node("text", Rect(x, y + i * h / parts, w, h / parts - 8)) for i in range(parts)]
    return Node("block", Rect(x, y, w, h), children=kids)


class GoesOn(unittest.TestCase):
    def columns(self) -> Node:
        return Node(
            "grid", Rect(40, 100, 900, 400), children=[block(40, 100, 200, 400), block(300, 100, 640, 400)]
        )

    def test_what_stands_below_in_the_text_column_belongs_to_it(self) -> None:
        grid, below = self.columns(), [block(300, 520, 600, 300), block(280, 840, 660, 100)]
        rule = Node("rule", Rect(40, 960, 900, 1))
        out = extend_columns([grid, *below, rule])
        self.assertEqual(out, [grid, rule])
        self.assertEqual(grid.children[1].rect, Rect(280, 100, 660, 840))
        self.assertEqual(grid.rect.bottom, 940)

    def test_the_pages_foot_is_not_the_columns(self) -> None:
        grid, below = self.columns(), block(300, 520, 600, 300)
        foot = Node("text", Rect(440, 860, 100, 20))  # in the middle of both columns
        self.assertEqual(extend_columns([grid, below, foot]), [grid, foot])

    def test_what_reaches_under_the_other_column_does_not(self) -> None:
        grid, below = self.columns(), block(40, 520, 900, 300)
        self.assertEqual(extend_columns([grid, below]), [grid, below])
        even = Node(
            "grid", Rect(40, 100, 900, 400), children=[block(40, 100, 420, 400), block(500, 100, 440, 400)]
        )
        self.assertEqual(len(extend_columns([even, block(500, 520, 440, 300)])), 2)


class Around(unittest.TestCase):
    """What stood out on such pages: chapter numbers, searches in panels, bars of links, lines in two inks."""

    def test_numbers_of_chapters_are_words_of_their_headings(self) -> None:
        parts = "".join(f"<h2>{i}. {e}</h2>{SENTENCE}" for i, e in enumerate(ENTRIES, 1))
        _, outline, html = page(f"<main><h1>Field manual</h1>{PROSE}{parts}</main>")
        self.assertEqual(
            [words(n) for n in tagged(outline, "h2")], [f"{i}. {e}" for i, e in enumerate(ENTRIES, 1)]
        )
        self.assertNotIn("<ol", html)

    def test_a_search_in_a_side_panel_is_a_form_of_its_own(self) -> None:
        links = "".join(f"<p>{e}</p>" for e in ENTRIES)
        glass = "<svg width='16' height='16' style='margin:11px 15px'><circle cx='7' cy='7' r='5' fill='none' stroke='#c2c7d0' stroke-width='2'/><path d='M11 11l4 4' stroke='#c2c7d0' stroke-width='2'/></svg>"
        field = f"<div style='display:flex;margin-bottom:20px'><div style='flex:1;border:1px solid #56606a;background:#3f474e;padding:5px 12px;color:#98a0a8'>Search</div><div style='border:1px solid #56606a;border-left:0;background:#3f474e;height:36px'>{glass}</div></div>"
        side = f"<div style='position:absolute;left:0;top:0;width:220px;height:900px;box-sizing:border-box;padding:16px;background:#343a40;color:#c2c7d0'>{field}{links}</div>"
        outline = page(
            f"{side}<main style='margin-left:220px;min-height:900px'><h1>Stations</h1>{PROSE}{SENTENCE * 4}</main>"
        )[1]
        (form,) = tagged(outline, "form")
        self.assertLess(form.rect.h, 60)
        self.assertEqual([n.tag for n in form.walk() if n.kind == "field"], ["input"])
        self.assertFalse([n for n in form.walk() if words(n) in ENTRIES])

    def test_a_list_of_links_in_a_bar_is_as_high_as_they_are(self) -> None:
        entries = Node("row", Rect(80, 18, 400, 20), children=[
            Node("text", Rect(80 + 100 * i, 18 + i % 2, 60, 20 - 2 * (i % 2)), tag="a", gap=40.0 if i else 0.0, inset=float(i % 2))
            for i in range(4)
        ])  # fmt: skip
        give_room(entries)
        self.assertEqual(entries.attributes["reach"], "10")
        self.assertEqual([c.attributes["pad"] for c in entries.children], ["10 12", "11 12"] * 2)
        self.assertFalse([c for c in entries.children if "reach" in c.attributes or c.inset])

    def test_a_line_in_another_ink_is_another_text(self) -> None:
        lines = [
            line("It was read by Ilse Tarn this morning", 100, 100),
            line("two days ago and again", 100, 122, 3),
        ]
        pale = replace(STYLES[0], colour="#9aa5b1")
        two = replace(reading(lines), styles=(*STYLES[:3], pale))
        one = replace(two, styles=(*STYLES[:3], STYLES[0]))
        self.assertEqual(len(paragraphs(two, [0, 1])), 2)
        self.assertEqual(len(paragraphs(one, [0, 1])), 1)
