"""Manuals: a text beside its contents, whose column goes on below them, in parts under their headings."""

from __future__ import annotations

import re
import unittest

from neige.core.model import Node, Rect
from neige.core.outline.columns import extend_columns
from tests.core.test_menus import words
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
