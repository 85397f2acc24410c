"""The developer's corrections of the outline and the code, the check of the outline, and values as somebody would write them."""

from __future__ import annotations

import random
import re
import unittest
from copy import deepcopy

import numpy as np

from neige.browser import draw_page
from neige.core.model import Node, Outline, Page, Pin, Rect, Surface
from neige.core.model.codec import to_json
from neige.core.outline import arrange, check, tidy, true_up
from neige.core.proof import parts_of
from neige.core.reading.pins import moved, pin_from
from neige.core.writer import apply_edits, hunks, write
from tests.core.test_outline import blank, line, page, reading


def find(outline: Outline, words: str, kind: str = "text") -> Node:
    return next(
        n
        for n in outline.root.walk()
        if n.kind == kind and " ".join(r.text for r in n.runs).startswith(words)
    )


def shown(outline: Outline) -> list[str]:
    return [" ".join(r.text for r in n.runs) for n in outline.root.walk() if n.kind == "text"]


class OutlinePins(unittest.TestCase):
    def setUp(self) -> None:
        self.reading = page()
        self.plain = arrange(self.reading)

    def html(self, *pins: Pin) -> str:
        outline = arrange(self.reading, pins)
        self.assertEqual(outline.unmet, [])
        return write(outline, self.reading, blank(), subset=False).html

    def test_a_part_is_what_the_developer_says(self) -> None:
        cairn, sea = find(self.plain, "Upper Cairn"), find(self.plain, "2140 m")
        out = self.html(Pin("role", cairn.rect, to="h2"), Pin("role", sea.rect, to="time"))
        self.assertRegex(out, r"<h2[^>]*>Upper Cairn</h2>")
        self.assertRegex(out, r"<time[^>]*>2140 m above the sea</time>")

    def test_a_group_can_be_a_list_and_be_renamed(self) -> None:
        grid = next(n for n in self.plain.root.walk() if n.kind == "grid")
        out = self.html(Pin("role", grid.rect, to="ul"), Pin("rename", grid.rect, name="Station list"))
        self.assertRegex(out, r'<ul class="station-list">\s*<li')
        self.assertEqual(len(re.findall(r"<li class=\"[^\"]*card", out)), 3)

    def test_what_cannot_be_is_said(self) -> None:
        cairn = find(self.plain, "Upper Cairn")
        outline = arrange(
            self.reading,
            [Pin("role", cairn.rect, "Upper Cairn", "nav"), Pin("unwrap", Rect(1200, 700, 30, 30), "x")],
        )
        self.assertEqual(len(outline.unmet), 2)
        self.assertTrue(any("a text cannot be nav" in t for t in outline.unmet))
        kinds = [f.kind for f in check(outline, self.reading)]
        self.assertEqual(kinds.count("pin"), 2)

    def test_parts_are_grouped_and_ungrouped(self) -> None:
        title, lead = find(self.plain, "Depth today"), find(self.plain, "Centimetres")
        around = Rect(140, title.rect.y - 4, 1000, lead.rect.bottom - title.rect.y + 8)
        grouped = arrange(self.reading, [Pin("wrap", around), Pin("rename", around, name="intro")])
        self.assertEqual(grouped.unmet, [])
        owner = next(n for n in grouped.root.walk() if find(grouped, "Depth today") in n.children)
        self.assertEqual(len(owner.children), 2)
        # a pin of what is a group already changes nothing, and one that undoes it leads back
        again = arrange(self.reading, [Pin("wrap", around), Pin("wrap", around), Pin("unwrap", owner.rect)])
        self.assertEqual(shown(again), shown(self.plain))

    def test_texts_are_joined_and_divided(self) -> None:
        lead = find(self.plain, "Centimetres")
        both = arrange(self.reading, [Pin("divide", lead.rect, x=lead.rect.cy)])
        self.assertIn("who live nearest and checked against the stations around it.", shown(both))
        joined = arrange(
            self.reading, [Pin("divide", lead.rect, x=lead.rect.cy), Pin("join", lead.rect.grow(3))]
        )
        # wraps, joins and divisions are taken in the order they were asked for
        self.assertEqual(shown(joined), shown(self.plain))

    def test_the_document_has_another_order_than_the_picture(self) -> None:
        cards = next(n for n in self.plain.root.walk() if n.kind == "grid").children
        out = self.html(Pin("order", cards[0].rect, to="after", like=cards[1].rect))
        at = [out.index(t) for t in ("Lantern Hut", "Upper Cairn", "Mirrow Col")]
        self.assertEqual(at, sorted(at))
        moved_page = write(
            arrange(self.reading, [Pin("order", cards[0].rect, to="after", like=cards[1].rect)]),
            self.reading, blank(), subset=False,
        )  # fmt: skip
        drawn = draw_page(moved_page, 1440, pixels=False)
        x = {w.text: w.rect.x for w in drawn.words if w.text in ("Upper", "Lantern", "Mirrow")}
        self.assertLess(x["Upper"], x["Lantern"])  # drawn where the picture has them
        self.assertLess(x["Lantern"], x["Mirrow"])
        narrow = draw_page(moved_page, 390, pixels=False)
        y = {w.text: w.rect.y for w in narrow.words if w.text in ("Upper", "Lantern", "Mirrow")}
        self.assertLess(
            y["Lantern"], y["Upper"]
        )  # and read in the document's order where there is one column

    def test_columns_have_the_shares_that_were_dragged(self) -> None:
        grid = next(n for n in self.plain.root.walk() if n.kind == "grid")
        outline = arrange(self.reading, [Pin("shares", grid.rect, shares=(2, 1, 1))])
        drawn = draw_page(write(outline, self.reading, blank(), subset=False), 1440, pixels=False)
        cards = [
            drawn.nodes[c.id].rect.w
            for c in next(n for n in outline.root.walk() if n.kind == "grid").children
        ]
        self.assertAlmostEqual(cards[0] / cards[1], 2.0, delta=0.02)
        self.assertTrue(arrange(self.reading, [Pin("shares", grid.rect, shares=(2, 1))]).unmet)

    def test_one_part_is_made_like_another(self) -> None:
        title, sea = find(self.plain, "Depth today"), find(self.plain, "Lantern Hut")
        self.assertRegex(self.html(Pin("like", sea.rect, like=title.rect)), r"<h1[^>]*>Lantern Hut</h1>")

    def test_pins_come_back_from_json_and_move_with_the_picture(self) -> None:
        pin = Pin("order", Rect(10, 20, 30, 40), "x", "after", like=Rect(50, 20, 30, 40), shares=(1.0, 2.0))
        self.assertEqual(pin_from(to_json(pin)), pin)
        smaller = moved(pin, (1, (0, 0, 0, 0)), (2, (0, 0, 0, 0)))
        self.assertEqual((smaller.rect, smaller.like), (Rect(5, 10, 15, 20), Rect(25, 10, 15, 20)))
        rect = {"x": 0, "y": 0, "w": 9, "h": 9}
        for bad in (
            {"kind": "role", "to": "marquee"},
            {"kind": "rename", "name": " "},
            {"kind": "like"},
            {"kind": "order", "to": "above", "like": rect},
            {"kind": "shares", "shares": [1]},
            {"kind": "code", "name": "secret.txt", "text": "a"},
        ):
            with self.subTest(bad), self.assertRaises(ValueError):
                pin_from({"rect": rect, **bad})

    def test_no_pin_of_any_place_breaks_the_outline(self) -> None:
        rng = random.Random(5)
        words = sorted(" ".join(shown(self.plain)).split())
        for _ in range(60):
            r = Rect(rng.uniform(0, 1300), rng.uniform(0, 800), rng.uniform(1, 900), rng.uniform(1, 500))
            pins = [
                Pin(
                    kind,
                    r,
                    to=rng.choice(("nav", "h3", "ul", "before")),
                    like=r,
                    shares=(1, 2),
                    x=r.cy,
                    name="x",
                )
                for kind in rng.sample(
                    ("role", "wrap", "unwrap", "join", "divide", "order", "shares", "like"), 4
                )
            ]
            outline = arrange(self.reading, pins)
            self.assertEqual(sorted(" ".join(shown(outline)).split()), words)
            write(outline, self.reading, blank(), subset=False)


class Edits(unittest.TestCase):
    BEFORE = "".join(f"line {i}\n" for i in range(40))

    def page(self, html: str) -> Page:
        return Page(html, "p {}\n", (), {})

    def test_hunks_make_the_one_text_of_the_other(self) -> None:
        rng = random.Random(3)
        for _ in range(50):
            lines = self.BEFORE.splitlines(keepends=True)
            for _ in range(rng.randint(1, 5)):
                at = rng.randrange(len(lines))
                match rng.randrange(3):
                    case 0:
                        lines[at] = f"changed {rng.random()}\n"
                    case 1:
                        lines.insert(at, "put in\n")
                    case 2:
                        del lines[at]
            after = "".join(lines)
            done = apply_edits(self.page(self.BEFORE), hunks("index.html", self.BEFORE, after))
            self.assertEqual((done.html, done.refused), (after, ()))

    def test_edits_survive_a_page_written_anew(self) -> None:
        edits = hunks("index.html", self.BEFORE, self.BEFORE.replace("line 20", "line twenty"))
        anew = self.BEFORE.replace("line 19", "another line").replace("line 3\n", "line 3\nnew\n")
        self.assertIn("line twenty", apply_edits(self.page(anew), edits).html)
        gone = apply_edits(self.page(self.BEFORE.replace("line 20\n", "")), edits)
        self.assertNotIn("twenty", gone.html)
        self.assertEqual(len(gone.refused), 1)
        self.assertIn("no longer written that way", gone.refused[0])


class Check(unittest.TestCase):
    def test_faults_of_structure_are_found(self) -> None:
        r = page()
        outline = arrange(r)
        heading = find(outline, "Depth today")
        heading.tag = "h3"
        find(outline, "Upper Cairn").tag = "h5"
        found = [f.text for f in check(outline, r)]
        self.assertIn("The page has no h1.", found)
        self.assertTrue(any("a level is skipped" in t for t in found))
        heading.tag = "h1"
        find(outline, "Upper Cairn").tag = "h1"
        self.assertTrue(any(t.startswith("A second h1") for t in (f.text for f in check(outline, r))))

    def test_a_sound_outline_has_no_findings(self) -> None:
        lines = [line("Firnwatch", 150, 46)]
        lines += [line(t, 800 + i * 120, 46) for i, t in enumerate(("Stations", "Bulletin", "Observers"))]
        lines += [
            line("Depth today", 150, 200, 1),
            line("Read at dawn from the stake by those who live near", 150, 260),
        ]
        r = reading(lines)
        self.assertEqual(check(arrange(r), r), ())


class Tidy(unittest.TestCase):
    def test_components_share_lengths_and_lengths_are_whole(self) -> None:
        r = page()
        outline = arrange(r)
        rng = np.random.default_rng(1)
        cards = next(n for n in outline.root.walk() if n.kind == "grid").children
        for c in cards:
            c.padding = tuple(float(p + rng.uniform(-0.4, 0.4)) for p in c.padding)  # type: ignore[assignment]
            c.surface = (
                Surface(c.rect, c.surface.fill, 8.0 + float(rng.uniform(-0.4, 0.4))) if c.surface else None
            )
        before = deepcopy(outline)
        neat = tidy(outline, r)
        self.assertEqual([n.padding for n in before.root.walk()], [n.padding for n in outline.root.walk()])
        cards = next(n for n in neat.root.walk() if n.kind == "grid").children
        self.assertEqual(len({c.padding for c in cards}), 1)
        self.assertEqual(len({c.surface.radius for c in cards if c.surface}), 1)
        self.assertTrue(all(float(p).is_integer() for c in cards for p in c.padding))
        page_ = write(neat, r, blank(), subset=False)
        self.assertNotIn("-card-2", page_.html)

    def test_rounding_does_not_add_up_down_the_page(self) -> None:
        lines = [line(f"Station number {i}", 150, 100 + 30.4 * i, 1 if i % 7 == 0 else 0) for i in range(24)]
        r = reading(lines)
        outline = arrange(r)
        exact = draw_page(write(outline, r, blank(), subset=False), 1440, pixels=False)
        neat = draw_page(write(tidy(outline, r), r, blank(), subset=False), 1440, pixels=False)
        last = [max(w.rect.y for w in d.words) for d in (exact, neat)]
        self.assertLess(abs(last[1] - last[0]), 1.6)

    def test_a_part_a_px_off_is_put_back(self) -> None:
        r = page()
        outline = arrange(r)
        owner = next(n for n in outline.root.walk() if n.kind == "block" and len(n.children) > 1)
        drawn = {n.id: n.rect for n in outline.root.walk()}
        part = owner.children[1]
        drawn[part.id] = Rect(part.rect.x, part.rect.y + 1, part.rect.w, part.rect.h)
        before = part.gap
        self.assertGreaterEqual(true_up(outline, drawn), 1)
        self.assertEqual(part.gap, before - 1)


class ThreeFaces(unittest.TestCase):
    def test_every_part_is_seen_written_and_drawn(self) -> None:
        r = page()
        outline = arrange(r)
        written = write(outline, r, blank(), subset=False)
        parts = parts_of(outline, written, draw_page(written, 1440, pixels=False))
        lines = written.html.splitlines()
        self.assertGreater(len(parts), 15)
        for p in parts:
            first = lines[p.lines[0] - 1]
            self.assertIn(f"<{p.tag}", first)
            self.assertIsNotNone(p.drawn)
            if p.kind == "text" and p.lines[0] == p.lines[1]:
                self.assertIn(p.text.split()[0], first)
        depths = {p.id: p.depth for p in parts}
        self.assertTrue(all(p.parent == -1 or depths[p.parent] == p.depth - 1 for p in parts))


if __name__ == "__main__":
    unittest.main()
