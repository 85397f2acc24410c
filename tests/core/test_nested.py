"""Lists in lists, signs that hang before their texts, and where lines are and stand in the middle by chance."""

from __future__ import annotations

import re
import unittest
from copy import copy

from neige.core.model import Node
from neige.core.writer.place import _padding
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, page

CONTENTS = """<ul><li>Measuring<ul><li>The stake</li><li>The snow pit<ul><li>Layers</li><li>Density of a layer</li></ul></li></ul></li>
<li>Reporting<ul><li>By radio</li></ul></li><li>Weather</li></ul>"""
STYLE = "<style>ul{padding-inline-start:40px;margin-block:0}li{line-height:24px}</style>"


def lists(root: Node) -> list[Node]:
    return [n for n in root.walk() if n.attributes.get("list")]


class Nested(unittest.TestCase):
    def test_entries_that_are_set_in_are_a_list_of_the_entry_above_them(self) -> None:
        _, outline, html = page(f"{STYLE}<main><h1>Manual</h1>{PROSE}{CONTENTS}</main>")
        self.assertEqual([len(n.children) for n in lists(outline.root)], [3, 2, 2, 1])
        written = re.sub(r"\s+", "", re.sub(r"<(/?[a-z]+)[^>]*>", r"<\1>", html))
        self.assertIn("<li><p>Reporting</p><ul><li>Byradio</li></ul></li><li>Weather</li></ul>", written)

    def test_what_all_entries_are_set_in_by_is_their_lists_padding(self) -> None:
        _, outline, _ = page(f"{STYLE}<main><h1>Manual</h1>{PROSE}{CONTENTS}</main>")
        outer = lists(outline.root)[0]
        self.assertAlmostEqual(outer.padding[3], 40, delta=0.6)
        self.assertEqual([c.inset for c in outer.children], [0.0, 0.0, 0.0])

    def test_padding_of_one_side_or_of_two_that_face_each_other_is_said_as_such(self) -> None:
        _, outline, _ = page(f"{STYLE}<main><h1>Manual</h1>{PROSE}{CONTENTS}</main>")
        node = copy(lists(outline.root)[0])
        for sides, written in (
            ((0, 0, 0, 32), {"padding-inline-start": "2rem"}),
            ((0, 32, 0, 16), {"padding-inline": "1rem 2rem"}),
            ((16, 0, 0, 0), {"padding-block-start": "1rem"}),
            ((0, 0, 16, 0), {"padding-block-end": "1rem"}),
            ((16, 0, 32, 0), {"padding-block": "1rem 2rem"}),
            ((16, 8, 16, 8), {"padding": "1rem 0.5rem"}),
            ((16, 0, 16, 32), {"padding": "1rem 0 1rem 2rem"}),
        ):
            declared: dict[str, str] = {}
            node.padding = (float(sides[0]), float(sides[1]), float(sides[2]), float(sides[3]))
            _padding(node, 900, declared, {})
            self.assertEqual(declared, written)

    def test_entries_of_a_menu_that_are_set_in_are_nested_whatever_else_they_say(self) -> None:
        entries = "".join(
            f"<p style='line-height:18px;padding:5px 0;margin:0 0 0 {20 * deep}px'>{name}</p>"
            for deep, name in (
                (0, "Foreword"), (0, "1. Getting started"), (1, "1.1. The stake"), (1, "1.2. The first report"),
                (0, "2. Snow pits"), (1, "2.1. Layers"), (1, "2.2. How heavy a layer is"), (0, "3. Weather"), (0, "Words"),
            )
        )  # fmt: skip
        body = f"<div style='display:flex'><div style='width:260px;height:700px;background:#e8eef2;padding:20px 10px;box-sizing:border-box'>{entries}</div><main style='padding:20px;width:700px'><h1>Getting started</h1>{PROSE}{PROSE}</main></div>"
        _, outline, _ = page(body)
        self.assertEqual([len(n.children) for n in lists(outline.root)], [5, 2, 2])

    def test_a_stack_of_entries_that_begin_anywhere_is_one_list(self) -> None:
        entries = "".join(f"<li style='margin-inline-start:{x}px'>Brenn Hut {x}</li>" for x in (0, 90, 7, 44))
        _, outline, _ = page(f"{STYLE}<main><h1>Manual</h1>{PROSE}<ul>{entries}</ul></main>")
        self.assertLess(max((len(lists(n)) for n in lists(outline.root)), default=0), 2)


class Hanging(unittest.TestCase):
    def test_a_dash_that_hangs_before_its_text_is_where_it_was_and_so_are_the_lines(self) -> None:
        text = "The stake stands where the wind leaves the snow alone, far from walls and trees, and is read from below."
        items = "".join(
            f"<p style='font:13px/18px DejaVu Sans Mono;width:400px;padding-left:16px;text-indent:-16px;margin:0 0 12px 30px'>- {said}{text}</p>"
            for said in ("", "In winter: ", "Mind: ")
        )
        reading, outline, _ = page(f"<main><h1>Manual</h1>{PROSE}{items}</main>")
        hanging = [n for n in outline.root.walk() if n.attributes.get("hang")]
        self.assertEqual(len(hanging), 3)
        for n in hanging:
            self.assertAlmostEqual(n.rect.x, reading.lines[n.lines[0]].words[0].x, delta=0.5)
            self.assertAlmostEqual(float(n.attributes["hang"]), 16, delta=0.5)

    def test_a_dash_before_a_single_line_is_where_it_was(self) -> None:
        row = "<p style='line-height:30px;margin:0;padding-left:20px'>- 35 cm since Monday</p>"
        reading, outline, _ = page(f"<main><h1>Manual</h1>{PROSE}{row}{PROSE}</main>")
        text = next(n for n in outline.root.walk() if n.kind == "text" and words(n).endswith("Monday"))
        self.assertAlmostEqual(text.rect.x, reading.lines[text.lines[0]].words[0].x, delta=0.5)


class Lines(unittest.TestCase):
    def test_boxes_of_lines_are_where_they_were_whatever_their_leading(self) -> None:
        # a px more or less than letters and two equal halves of leading
        said = "The stake stands where the wind leaves the snow alone, far from walls and trees, and is read from below at eight every morning."
        for leading in (20, 21, 22, 23):
            with self.subTest(leading):
                html = f"<main style='padding:40px'><p style='width:400px;font:16px/{leading}px Liberation Sans;margin:0'>{said}</p></main>"
                _, outline, _ = page(html)
                text = next(n for n in outline.root.walk() if n.kind == "text")
                self.assertAlmostEqual(text.rect.y, 40, delta=0.1)


class ByChance(unittest.TestCase):
    def test_a_line_in_the_middle_that_begins_where_others_do_is_not_centred(self) -> None:
        # the second makes the box as wide as it is, with as much room after it as before it
        said = (
            "Read it at eight.",
            "Every station sends the depth of its snow before eight",
            "Wind counts.",
            "So does rain.",
        )
        rows = "".join(
            f"<p style='margin:14px 0 14px 40px;font-size:16px;line-height:20px'>{s}</p>" for s in said
        )
        body = f"<main style='width:594px;margin:20px;padding:24px 40px;background:#c9d8e2'><h1>Depths</h1>{rows}</main>"
        _, outline, _ = page(body)
        texts = [n for n in outline.root.walk() if n.kind == "text" and n.tag == "p"]
        self.assertEqual([(n.align, round(n.inset)) for n in texts], 4 * [("start", 40)])


if __name__ == "__main__":
    unittest.main()
