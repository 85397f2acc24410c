"""What pages of admin templates and manuals have, as browsers draw it: several tables of one width, text areas with words in them,
hints beside what is written, columns of links at the page's end on its own ground, entries between lines in a bar."""

from __future__ import annotations

import re
import unittest

from neige.core.model import Node
from neige.core.writer import write
from neige.core.writer.stylesheet import SMALL
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, page, tagged
from tests.core.test_tables import ROWS
from tests.support import drawn

FIELD = "display:block;width:520px;padding:6px 12px;border:1px solid #c0c8d0;border-radius:4px;font:16px/24px 'DejaVu Sans';color:#445;background:#fff;margin:0 0 14px"


class Tables(unittest.TestCase):
    def test_each_of_several_tables_of_one_width_is_one(self) -> None:
        style = "<style>table{width:700px;border-collapse:collapse;margin-bottom:40px}th,td{padding:8px 12px;text-align:left;border-bottom:1px solid #b9c4cc}</style>"
        head = "<tr><th>Station</th><th>Height</th><th>Depth</th></tr>"
        table = (
            "<table>" + head + "".join("<tr>" + "".join(f"<td>{c}</td>" for c in r) + "</tr>" for r in ROWS)
        )
        _, outline, html = page(
            f"<main><h1>Depths</h1>{style}{table}</table>{PROSE}<br>{table}</table>{PROSE}</main>"
        )
        self.assertEqual([len(t.children) for t in tagged(outline, "table")], [4, 4])
        self.assertEqual(html.count("<table"), 2)

    def test_on_small_screens_they_keep_their_words_whole(self) -> None:
        small = re.search(r"table \{[^}]*\}", SMALL)
        self.assertIsNotNone(small)
        self.assertIn("table-layout: auto", small.group() if small else "")


class Fields(unittest.TestCase):
    LONG = "Read before eight in the morning from the stake beside the hut, and again at six in the evening by those who live nearest to it."

    def fields(self) -> tuple[list[Node], str]:
        body = f"<main><h1>Reading</h1><p>Station</p><input value='Brenn Hut' style=\"{FIELD}\"><p>Depth</p><input placeholder='in cm' style=\"{FIELD}\"><p>Remarks</p><textarea style=\"{FIELD};height:110px;resize:vertical\">{self.LONG}</textarea><button style='background:#23607a;color:#fff;border:0;border-radius:4px;padding:9px 22px;font:inherit'>Send</button></main>"
        _, outline, html = page(f"<style>::placeholder{{color:#b4bec8;opacity:1}}</style>{body}")
        return [n for n in outline.root.walk() if n.kind == "field"], html

    def test_a_box_that_looks_like_the_fields_is_one_however_much_is_in_it(self) -> None:
        found, html = self.fields()
        self.assertEqual([n.tag for n in found], ["input", "input", "textarea"])
        self.assertRegex(html, rf"<textarea[^>]*>\s*{re.escape(self.LONG[:40])}")
        self.assertEqual(len(found[2].lines), 3)

    def test_code_in_such_boxes_is_none(self) -> None:
        box = f"{FIELD};font:14px/20px 'DejaVu Sans Mono'"
        one, several = "stake = 1", "stake = 1\nif depth &gt; 140:\n    warn(stake)"
        code = "".join(f'<pre style="{box}">{c}</pre>{PROSE}' for c in (one, one, one, several))
        _, outline, _ = page(f"<main><h1>Reading</h1>{code}</main>")
        self.assertNotIn("textarea", [n.tag for n in outline.root.walk()])

    def test_a_hint_is_as_pale_as_it_was(self) -> None:
        asked = f"<main><h1>Reading</h1><p>Station</p><input value='Brenn Hut' style=\"{FIELD}\"><p>Depth</p><input placeholder='in cm' style=\"{FIELD}\"><button style='background:#23607a;color:#fff;border:0;border-radius:4px;padding:9px 22px;font:inherit'>Send</button></main>"
        body = f"<style>::placeholder{{color:#b4bec8;opacity:1}}</style>{asked}"
        reading, outline, _ = page(body)
        css = write(outline, reading, drawn(STYLE + body, 900)[0]).css
        hint = re.search(r"::placeholder \{\n  color: (?:var\((--[\w-]+)\)|(#\w+))", css)
        assert hint
        told = hint.group(2) or next(iter(re.findall(rf"{hint.group(1)}: (#\w+)", css)))
        self.assertGreater(int(told[1:3], 16), 150, told)

    def test_the_first_row_of_an_inner_shadow_hides_no_side(self) -> None:
        inner = f'<main><h1>Reading</h1><select style="{FIELD};box-shadow:inset 0 1px 2px rgba(0,0,0,.075)"><option>Brenn Hut</select>{PROSE}</main>'
        reading, _, _ = page(inner)
        box = max((s for s in reading.surfaces if s.rect.w > 500), key=lambda s: s.rect.w, default=None)
        self.assertIsNotNone(box)
        self.assertEqual(box.border if box else None, (1.0,) * 4)


class Ends(unittest.TestCase):
    """A page on one ground whose end lists the site's pages over a copyright line."""

    LISTS = (
        ("RANGE", ("Brenn Hut", "Grey Saddle", "Upper Cairn")),
        ("NETWORK", ("Observers", "Method", "Terms of use")),
    )

    def page(self) -> list[Node]:
        lists = "".join(
            f"<div style='width:200px'><p style='font-size:13px;font-weight:700;margin-bottom:8px'>{head}</p>"
            + "".join(f"<p style='font-size:14px;margin-bottom:8px'>{e}</p>" for e in entries)
            + "</div>"
            for head, entries in self.LISTS
        )
        end = f"<div style='display:flex;justify-content:space-between;margin-top:90px'><div style='width:360px'><p style='font-size:26px;line-height:34px;font-weight:700'>Stay in touch with us</p><p>We answer within a day or two.</p></div>{lists}</div><div style='height:1px;background:#c4ced6;margin:40px 0 24px'></div><p style='text-align:center;font-size:14px'>Copyright © 2026 Firnwatch</p>"
        _, outline, _ = page(f"<main style='width:860px'><h1>Depths</h1>{PROSE * 10}{end}</main>")
        return list(outline.root.walk())

    def test_the_lists_are_part_of_the_foot_and_lead_somewhere(self) -> None:
        nodes = self.page()
        (foot,) = [n for n in nodes if n.tag == "footer"]
        inside = {words(n): n.tag for n in foot.walk() if n.kind == "text"}
        for entry in ("Brenn Hut", "Grey Saddle", "Method", "Terms of use"):
            self.assertEqual(inside.get(entry), "a", entry)

    def test_what_is_over_them_is_a_heading(self) -> None:
        nodes = self.page()
        tags = {words(n): n.tag for n in nodes if n.kind == "text"}
        self.assertRegex(tags["RANGE"], "h[2-6]")
        self.assertRegex(tags["Stay in touch with us"], "h[2-6]")
        self.assertEqual(tags["We answer within a day or two."], "p")


class Bars(unittest.TestCase):
    def test_an_entry_between_lines_is_as_large_as_its_cell(self) -> None:
        cell = "<div style='padding:14px 18px;border-right:1px solid #3c444e;color:#fff'>{}</div>"
        bar = "".join(cell.format(e) for e in ("Firnwatch", "Stations", "Bulletins", "Observers"))
        _, outline, _ = page(
            f"<div style='display:flex;background:#20262e;height:52px'>{bar}</div><main><h1>Depths</h1>{PROSE * 3}</main>"
        )
        (nav,) = tagged(outline, "nav")
        links = [n for n in nav.walk() if n.tag == "a"]
        self.assertEqual([words(n) for n in links], ["Firnwatch", "Stations", "Bulletins", "Observers"])
        self.assertTrue(all(n.rect.h >= 48 for n in links[1:]), [n.rect for n in links])


if __name__ == "__main__":
    unittest.main()
