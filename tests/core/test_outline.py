"""Marks to a tree, and a tree to code: on made readings, without a recogniser."""

from __future__ import annotations

import random
import re
import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import (
    Cutout,
    Fill,
    Line,
    Node,
    Outline,
    Picture,
    Reading,
    Rect,
    Rule,
    Surface,
    TypeStyle,
    Word,
)
from neige.core.model.codec import from_json, to_json
from neige.core.model.geometry import union
from neige.core.model.outline import Run
from neige.core.outline import arrange
from neige.core.outline.headings import _close_gaps
from neige.core.outline.names import slug
from neige.core.reading.type.catalogue import catalogue, shape
from neige.core.writer import page_files, write

INTER = next(
    i for i in catalogue().instances if i.face.family == "Inter" and i.weight == 400 and not i.face.italic
)


def style(size: float = 16.0, weight: int = 400, colour: str = "#22303a", **more: object) -> TypeStyle:
    f = INTER.face
    return TypeStyle(
        "Inter",
        f.category,
        f.file,
        size,
        weight,
        False,
        0.0,
        colour,
        float(round(f.ascent * size)),
        float(round(f.descent * size)),
        fit=0.97,
        **more,
    )  # type: ignore[arg-type]


BODY, TITLE, ACCENT, MUTED = style(), style(40.0, 700), style(colour="#1a6fd0"), style(14.0, colour="#6a7885")
STYLES = (BODY, TITLE, ACCENT, MUTED)


def line(text: str, x: float, baseline: float, index: int = 0, ground: str = "#ffffff") -> Line:
    s = STYLES[index]
    words, pen = [], x
    for token in text.split():
        w = shape(INTER.row, token).advance * s.size
        words.append(Word(token, pen, w, Rect(pen, baseline - 0.7 * s.size, w, 0.7 * s.size), index, 0.99))
        pen += w + 0.28 * s.size
    box = Rect(x, baseline - s.ascent, words[-1].x + words[-1].w - x, s.ascent + s.descent)
    ink = Rect(x, baseline - 0.7 * s.size, box.w, 0.7 * s.size)
    return Line(tuple(words), box, ink, baseline, 0.52 * s.size, 0.7 * s.size, index, ground, 0.99, 0.01)


def reading(
    lines: list[Line],
    surfaces: list[Surface] = (),
    rules: list[Rule] = (),
    cutouts: list[Cutout] = (),
    w: float = 1440,
    h: float = 900,
) -> Reading:  # type: ignore[assignment]
    return Reading(
        w, h, 1, Fill("#ffffff"), tuple(surfaces), tuple(rules), tuple(cutouts), tuple(lines), STYLES, (), 0.0
    )


def html(r: Reading) -> str:
    picture = Picture(np.full((int(r.height), int(r.width), 3), 255, np.uint8), 1)
    return write(arrange(r), r, picture, subset=False).html


def page() -> Reading:
    lines = [line("Firnwatch", 150, 46)]
    lines += [
        line(t, 800 + i * 120, 46) for i, t in enumerate(("Stations", "Bulletin", "Observers", "Method"))
    ]
    lines += [
        line("Depth today", 150, 200, 1),
        line("Centimetres of snow at six in the morning, read from the stake by those", 150, 250),
    ]
    lines += [line("who live nearest and checked against the stations around it.", 150, 274)]
    surfaces = []
    for i in range(3):
        x = 150 + i * 388
        surfaces.append(Surface(Rect(x, 330, 364, 180), Fill("#eef2f5"), 8.0))
        lines += [
            line(("Upper Cairn", "Lantern Hut", "Mirrow Col")[i], x + 24, 380),
            line("2140 m above the sea", x + 24, 410, 3),
        ]
    lines.append(line("© 2026 Firnwatch", 150, 870, 3))
    return reading(lines, surfaces)


def blank() -> Picture:
    return Picture(np.full((900, 1440, 3), 255, np.uint8), 1)


class ListedInARow(unittest.TestCase):
    """Entries in a row hold the body's line, unless that would hold them apart."""

    def css(self, leading: float) -> str:
        said = ["Stations", "Bulletins", "Observers"]
        found = reading([*(line(t, 100 + 120 * i, 40, 3) for i, t in enumerate(said)), *prose(2, leading)])

        def text(tag: str, lines: list[int], high: float) -> Node:
            box = union(found.lines[i].box for i in lines)
            runs = [Run(" ".join(found.lines[i].text for i in lines), found.lines[lines[0]].style)]
            return Node(
                "text", box, tag=tag, runs=runs, lines=lines, style=found.lines[lines[0]].style, leading=high
            )

        links = [text("a", [i], 20.0) for i in range(3)]
        menu = Node("row", union(n.rect for n in links), children=links, attributes={"list": "1"})
        body = Node("block", Rect(0, 0, 1440, 900), tag="body", children=[menu, text("p", [3, 4], leading)])
        for number, n in enumerate(body.walk()):
            n.id = number
        picture = Picture(np.full((900, 1440, 3), 255, np.uint8), 1)
        return write(Outline(body, "Depths"), found, picture, subset=False).css

    def test_they_are_as_high_as_their_own_lines_only_where_the_bodys_are_much_higher(self) -> None:
        for leading, block in ((24.0, False), (36.0, True)):
            with self.subTest(leading=leading):
                links = re.findall(r"\.[\w-]+__link[\w-]* \{(.*?)\}", self.css(leading), re.S)
                self.assertEqual(any("display: block" in rule for rule in links), block)


def prose(lines: int, leading: float) -> list[Line]:
    return [
        line("Centimetres of snow at six in the morning, read from the stake", 100, 120 + leading * i)
        for i in range(lines)
    ]


class Copies(unittest.TestCase):
    def test_a_copy_is_equal_and_shares_nothing_that_can_be_changed(self) -> None:
        run = Run("Snow", 0)
        text = Node(
            "text", Rect(0, 0, 9, 9), runs=[run], lines=[0], attributes={"pad": "1 2"}, tweak={"a": 1.0}
        )
        first = Outline(
            Node("block", Rect(0, 0, 9, 9), children=[text], columns=[1.0], reasons=["so"]), "Depths"
        )
        second = first.copy()
        self.assertEqual(first, second)
        other = second.root.children[0]
        other.runs[0].text, other.lines[0] = "Ice", 7
        other.attributes["pad"], other.tweak["a"] = "3 4", 2.0
        second.root.columns.append(2.0)
        second.root.reasons.append("or so")
        second.root.children.append(Node("rule", Rect(0, 0, 9, 1)))
        second.unmet.append("a pin")
        self.assertEqual(
            (run.text, text.lines, text.attributes, text.tweak), ("Snow", [0], {"pad": "1 2"}, {"a": 1.0})
        )
        self.assertEqual(
            (first.root.columns, first.root.reasons, len(first.root.children), first.unmet),
            ([1.0], ["so"], 1, []),
        )


class Structure(unittest.TestCase):
    def test_a_band_of_short_texts_is_a_header_with_navigation(self) -> None:
        got = html(page())
        self.assertRegex(
            got,
            r"<header[^>]*>[\s\S]*<nav[^>]*aria-label=\"Main\"[\s\S]*<ul[\s\S]*<li[^>]*>\s*<a [^>]*href=\"#\"[^>]*>Stations</a>\s*</li>",
        )
        self.assertEqual(got.count("<header"), 1)
        self.assertRegex(got, r"<footer[\s\S]*© 2026 Firnwatch")

    def test_there_is_one_h1_and_it_is_the_largest_text(self) -> None:
        found = re.findall(r"<h1[^>]*>([^<]*)</h1>", html(page()))
        self.assertEqual(found, ["Depth today"])

    def test_levels_have_no_gaps_and_like_headings_stay_alike(self) -> None:
        levels = (1, 4, 4, 2, 4, 5, 4)
        root = Node(
            "block", Rect(0, 0, 9, 9), children=[Node("text", Rect(0, 0, 9, 9), tag=f"h{v}") for v in levels]
        )
        _close_gaps(root)
        self.assertEqual([n.tag for n in root.children], ["h1", "h2", "h2", "h2", "h3", "h4", "h3"])

    def test_wrapped_lines_are_one_paragraph(self) -> None:
        got = re.sub(r"\s+", " ", html(page()))
        self.assertIn("those who live nearest", got)

    def test_like_cards_are_one_component_in_a_grid(self) -> None:
        r = page()
        outline = arrange(r)
        grid = next(n for n in outline.root.walk() if n.kind == "grid" and all(c.surface for c in n.children))
        self.assertEqual(len(grid.children), 3)
        html = write(outline, r, Picture(np.full((900, 1440, 3), 255, np.uint8), 1), subset=False).html
        cards = re.findall(r'<div class="([\w-]*card)">', html)
        self.assertEqual((len(cards), len(set(cards))), (3, 1))
        css = write(outline, r, Picture(np.full((900, 1440, 3), 255, np.uint8), 1), subset=False).css
        self.assertIn("repeat(3, minmax(0, 1fr))", css)

    def test_a_box_with_short_centred_words_is_a_button(self) -> None:
        box = Surface(Rect(150, 300, 160, 44), Fill("#c0452a"), 6.0)
        words = line("Join us", 150, 327)
        words = line("Join us", 150 + (160 - words.box.w) / 2, 327, ground="#c0452a")
        self.assertRegex(
            html(reading([line("Depth today", 150, 200, 1), words], [box])),
            r"<a class=\"button[^>]*>Join us</a>",
        )

    def test_a_framed_empty_box_under_a_text_is_a_labelled_field(self) -> None:
        box = Surface(Rect(150, 300, 340, 44), Fill("#ffffff"), 6.0, (1.0, 1.0, 1.0, 1.0), "#b9c7d1")
        got = html(reading([line("Your email", 150, 290), line("Report a depth", 150, 200, 1)], [box]))
        self.assertRegex(got, r'<label [^>]*for="your-email"|<label[^>]*for="email"')
        self.assertRegex(got, r'<input[^>]*type="email"[^>]*autocomplete="email"')

    def test_bullets_become_a_list(self) -> None:
        lines = [line("What to do", 150, 100, 1)] + [
            line(f"• Read the stake on side {w} and note it", 150, 160 + 26 * i)
            for i, w in enumerate(("one", "two", "three"))
        ]
        got = html(reading(lines))
        self.assertEqual(len(re.findall(r"<li[ >]", got)), 3)
        self.assertNotIn("•", got)

    def test_a_list_item_keeps_all_its_paragraphs(self) -> None:
        lines = [line("What to do", 150, 100, 1)]
        for i, w in enumerate(("one", "two", "three")):
            y = 160 + 120 * i
            lines += [
                line(f"• Read side {w}", 150, y),
                line("Stand below the stake and read it", 150 + 14.5, y + 36),
                line("Then write down what you have read", 150 + 14.5, y + 72),
            ]
        lines.append(line("And that is all there is to it", 150, 560))
        got = html(reading(lines))
        items = re.findall(r"<li\b.*?</li>", got, re.S)
        self.assertEqual(len(items), 3)
        for item in items:
            self.assertIn("Then write down", item)
        self.assertNotIn("that is all", "".join(items))

    def test_buttons_that_look_different_share_no_rule(self) -> None:
        boxes = [
            Surface(Rect(150, 300, 300, 44), Fill("#c0452a"), 6.0),
            Surface(Rect(150, 360, 200, 44), Fill("#23607a"), 6.0),
        ]
        lines = [line("Depth today", 150, 200, 1)]
        for box, words in zip(boxes, ("Join us", "Sign in")):
            w = line(words, 150, 0).box.w
            lines.append(line(words, 150 + (box.rect.w - w) / 2, box.rect.y + 27, ground=box.fill.colour))
        got = write(arrange(reading(lines, boxes)), reading(lines, boxes), blank())
        self.assertNotRegex(got.css, r"(?m)^\.button \{")
        self.assertEqual(len(set(re.findall(r'class="button ([a-z0-9-]+)', got.html))), 2)

    def test_ruled_rows_of_cells_are_a_table(self) -> None:
        lines, rules = [line("Latest readings", 150, 100, 1)], []
        for i in range(5):
            y = 160 + i * 44
            for x, t in ((160, f"Station {'ABCDE'[i]}"), (500, f"{2000 + i * 10} m"), (840, f"{100 + i} cm")):
                lines.append(line(t, x, y + 27, 3 if i == 0 else 0))
            rules.append(Rule(Rect(150, y + 43, 1000, 1), "#d8e1e8"))
        got = html(reading(lines, [], rules))
        self.assertEqual((got.count("<tr"), got.count("<table")), (5, 1))
        self.assertEqual(len(re.findall(r"<t[dh][ >]", got)), 15)

    def test_accented_words_inside_a_text_are_links(self) -> None:
        whole = line("What looks like a quiet week on the depth chart was a week of transport", 150, 200)
        words = tuple(replace(w, style=2) if w.text in ("depth", "chart") else w for w in whole.words)
        self.assertRegex(html(reading([replace(whole, words=words)])), r"<a [^>]*>depth chart</a>")


class Laws(unittest.TestCase):
    def test_the_order_of_marks_does_not_matter(self) -> None:
        r = page()
        shuffled = list(r.lines)
        random.Random(4).shuffle(shuffled)
        surfaces = list(r.surfaces)
        random.Random(5).shuffle(surfaces)
        self.assertEqual(html(r), html(replace(r, lines=tuple(shuffled), surfaces=tuple(surfaces))))

    def test_every_word_is_on_the_page_once(self) -> None:
        got = re.sub(r"<[^>]+>", " ", html(page()).split("<body", 1)[1])
        words = re.findall(r"\S+", got.split(">", 1)[1])
        self.assertEqual(sorted(words), sorted(w.text for n in page().lines for w in n.words))

    def test_twice_gives_the_same_bytes(self) -> None:
        r = page()
        picture = Picture(np.full((900, 1440, 3), 255, np.uint8), 1)
        first, second = (
            {a.path: a.content for a in page_files(write(arrange(r), r, picture))} for _ in range(2)
        )
        self.assertEqual(first, second)

    def test_words_that_look_like_markup_are_text(self) -> None:
        got = html(
            reading([line("<script>alert(1)</script>", 150, 200), line('"><img onerror=x>', 150, 300)])
        )
        self.assertIn("&lt;script&gt;alert(1)&lt;/script&gt;", got)
        self.assertNotIn("<script>", got)
        self.assertNotIn("<img onerror", got)

    def test_a_fallback_takes_the_web_fonts_room(self) -> None:
        from neige.core.writer.fonts import fallback_face

        def ratio(family: str) -> float:
            face = next(i.face for i in catalogue().instances if i.face.family == family)
            found = re.search(r"size-adjust: ([0-9.]+)%", fallback_face(face))
            assert found
            return float(found[1])

        self.assertAlmostEqual(ratio("Inter"), 107, delta=4)  # wider than Arial
        self.assertLess(ratio("Barlow"), 100)  # narrower
        self.assertIn('"Inter fallback", sans-serif', write(arrange(page()), page(), blank()).css)

    def test_an_empty_page_is_a_page(self) -> None:
        empty = Reading(800, 600, 1, Fill("#4d4d4d"), (), (), (), (), (), (), 0.0)
        got = write(arrange(empty), empty, Picture(np.full((600, 800, 3), 77, np.uint8), 1))
        self.assertIn("<body>", got.html.replace('<body class="', "<body>"))
        self.assertIn("#4d4d4d", got.css)

    def test_no_absolute_positions_no_inline_styles(self) -> None:
        r = page()
        got = write(arrange(r), r, Picture(np.full((900, 1440, 3), 255, np.uint8), 1), subset=False)
        self.assertNotRegex(got.css, r"position:\s*(absolute|fixed)")
        self.assertNotIn("style=", got.html)

    def test_a_reading_survives_json(self) -> None:
        r = page()
        self.assertEqual(to_json(from_json(Reading, to_json(r))), to_json(r))

    def test_a_broken_reading_is_an_error(self) -> None:
        with self.assertRaises(ValueError):
            from_json(Reading, {"width": 3})

    def test_a_reading_from_before_a_field_was_added_can_be_used(self) -> None:
        stored = to_json(page())
        for surface in stored["surfaces"]:
            del surface["inner"]
        self.assertEqual(from_json(Reading, stored).surfaces, page().surfaces)

    def test_names_come_from_words(self) -> None:
        self.assertEqual(slug("The depth of today's snow"), "depth-today")
        self.assertEqual(slug("© 2026"), "")
        self.assertEqual(slug("Über Höhe"), "uber-hohe")

    def test_an_outline_names_its_page(self) -> None:
        outline: Outline = arrange(page())
        self.assertEqual(outline.title, "Depth today")


if __name__ == "__main__":
    unittest.main()
