"""Parts of pages that are easily taken for something else: titles, forms, lists of rows, fields, switches, trails, columns."""

from __future__ import annotations

import re
import unittest

from neige.core.model import Node
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, page, tagged


def heads(body: str) -> list[tuple[str, str]]:
    return [(n.tag, words(n)) for n in page(body)[1].root.walk() if re.fullmatch(r"h[1-6]", n.tag)]


class Titles(unittest.TestCase):
    def test_a_larger_text_far_down_is_not_the_title(self) -> None:
        far = f"<div style='height:900px'></div><div style='background:#e8eef2;padding:40px'><p style='font-size:46px;line-height:56px'>Join the round</p>{PROSE}</div>"
        body = f"<main><h1>Snow in the Vell</h1>{PROSE}<h2 style='font-size:25px;margin:20px 0 8px'>Stations</h2>{PROSE}{far}{PROSE}</main>"
        self.assertEqual(
            heads(body), [("h1", "Snow in the Vell"), ("h2", "Stations"), ("h2", "Join the round")]
        )

    def test_a_sentence_with_bold_names_in_it_is_no_heading(self) -> None:
        entry = "<div style='border-top:1px solid #ccd;padding:12px 0'><p><b>{}</b> {} <b>{}.</b></p><p style='color:#778;font-size:14px;line-height:18px'>{} days ago</p></div>"
        said = (
            ("Ana Tarn", "measured", "Upper Stake"),
            ("Joren Vell", "wrote about", "Grey Saddle"),
            ("Mira Falk", "measured", "Brenn Hut"),
        )
        entries = "".join(entry.format(*words, n + 2) for n, words in enumerate(said))
        _, outline, _ = page(f"<main><h1>Activity</h1>{PROSE}{PROSE}{entries}</main>")
        names = [words(n) for n in outline.root.walk() if n.tag in ("h1", "h2", "h3", "h4")]
        self.assertEqual(names, ["Activity"])

    def test_a_light_line_right_under_a_bold_title_is_no_heading(self) -> None:
        body = f"<div style='background:#c9dbe4;padding:60px 40px'><p style='font:700 32px/36px DejaVu Sans'>Read the stake</p><p style='font-size:20px;line-height:24px'>Every morning, before eight</p></div><main>{PROSE}{PROSE}</main>"
        self.assertEqual(heads(body), [("h1", "Read the stake")])

    def test_names_over_a_footer_s_columns_are_headings(self) -> None:
        column = "<div><b style='font-size:20px'>{}</b><br><a href=#>{}</a><br><a href=#>{}</a></div>"
        foot = column.format("Stations", "Brenn Hut", "Grey Saddle") + column.format(
            "Bulletin", "Today", "Last week"
        )
        body = f"<main><h1>Snow</h1>{PROSE}{PROSE}{PROSE}{PROSE}</main><div style='background:#223;color:#fff;padding:30px 40px;display:flex;gap:200px'>{foot}</div>"
        self.assertEqual([w for _, w in heads(body)][-2:], ["Stations", "Bulletin"])


FIELD = "width:300px;height:38px;border:1px solid #8a97a3;border-radius:4px;padding:0 11px;font:inherit"


class Forms(unittest.TestCase):
    def form(self, name: str, style: str = FIELD) -> str:
        return f"<p>{name}</p><input placeholder='{name}' style='{style}'><p style='margin-top:12px'>Mail</p><input placeholder='you@firn.test' style='{style}'><br><button style='background:#23607a;color:#fff;border:0;border-radius:4px;padding:9px 22px;margin-top:14px;font:inherit'>Send</button>"

    def test_the_form_ends_where_the_next_heading_begins(self) -> None:
        h2 = "<h2 style='font-size:25px;line-height:30px;margin:30px 0 10px'>{}</h2>"
        body = f"<main><h1>Stations</h1>{PROSE}{PROSE}{h2.format('Write to us')}{self.form('Your name')}{h2.format('How depths are read')}{PROSE}{PROSE}{PROSE}</main>"
        forms = tagged(page(body)[1], "form")
        self.assertEqual(len(forms), 1)
        self.assertFalse([n for n in forms[0].walk() if n.tag == "h2"])
        self.assertEqual(sum(n.kind == "field" for n in forms[0].walk()), 2)

    def test_fields_with_an_inner_shadow_are_fields(self) -> None:
        body = f"<main><h1>Stations</h1>{self.form('Your name', FIELD + ';box-shadow:inset 0 1px 3px #ccc')}{PROSE}</main>"
        found, outline, _html = page(body)
        fields = [n for n in outline.root.walk() if n.kind == "field"]
        self.assertEqual(len(fields), 2)
        inner = [s.inner for s in found.surfaces if s.inner]
        self.assertEqual(len(inner), 2)
        self.assertEqual((inner[0].dx, inner[0].dy, inner[0].spread), (0, 1, 0))

    def test_dark_fields_without_a_border_are_fields(self) -> None:
        dark = "width:300px;height:40px;background:#131b22;border:0;border-radius:5px;color:#e6edf3;padding:0 11px;font:inherit"
        style = "<style>body{background:#202b36!important;color:#e6edf3!important}::placeholder{color:#93a1ad;opacity:1}</style>"
        outline = page(f"{style}<main><h1>Stations</h1>{self.form('Your name', dark)}{PROSE}</main>")[1]
        self.assertEqual(sum(n.kind == "field" for n in outline.root.walk()), 2)

    def test_what_is_written_in_a_field_is_its_value_and_a_pale_word_is_not(self) -> None:
        style = "<style>::placeholder{color:#8a97a3;opacity:1}</style>"
        filled = self.form("Your name").replace("placeholder='you@firn.test'", "value='ilse@firn.test'")
        html = page(
            f"{style}<main><h1>Stations</h1>{filled.replace('font:inherit', 'font:inherit;color:#223')}{PROSE}</main>"
        )[2]
        self.assertIn('value="ilse@firn.test"', html)
        self.assertIn('placeholder="Your name"', html)

    def test_a_capsule_with_a_disc_at_one_end_is_a_switch(self) -> None:
        switch = "<div style='display:flex;gap:10px;margin:12px 0;align-items:center'><i style='width:40px;height:22px;border-radius:11px;background:{};padding:3px;display:flex;justify-content:{}'><b style='width:16px;height:16px;border-radius:8px;background:#fff'></b></i>{}</div>"
        body = f"<main><h1>Notices</h1>{switch.format('#23607a', 'flex-end', 'Warn me of slides')}{switch.format('#aab4bd', 'flex-start', 'Weekly bulletin')}{PROSE}</main>"
        _, outline, html = page(body)
        found = [n for n in outline.root.walk() if n.attributes.get("role") == "switch"]
        self.assertEqual(["checked" in n.attributes for n in found], [True, False])
        self.assertEqual(html.count('role="switch"'), 2)
        self.assertEqual(
            re.findall(r'<label[^>]* for="([^"]+)"', html), re.findall(r'<input[^>]* id="([^"]+)"', html)
        )
        self.assertEqual(
            [words(n) for n in tagged(outline, "label")], ["Warn me of slides", "Weekly bulletin"]
        )


class Rows(unittest.TestCase):
    def test_rows_that_touch_in_one_frame_are_a_list(self) -> None:
        row = "<div style='padding:12px 20px;border-top:1px solid #c4ced6;display:flex;justify-content:space-between'><div>{}<br><small>{}</small></div><span>{}</span></div>"
        rows = "".join(
            row.format(*r)
            for r in (
                ("Brenn Hut", "stake two", "112"),
                ("Grey Saddle", "stake one", "140"),
                ("Upper Vell", "by sonde", "163"),
            )
        )
        body = f"<main><h1>Depths</h1><div style='width:420px;border:1px solid #c4ced6;border-radius:6px'>{rows.replace('border-top:1px solid #c4ced6;', '', 1)}</div>{PROSE}</main>"
        lists = [n for n in page(body)[1].root.walk() if n.attributes.get("list")]
        self.assertEqual([len(n.children) for n in lists], [3])

    def test_names_with_slashes_between_them_lead_up_to_the_page(self) -> None:
        body = f"<main><p style='margin-bottom:20px'>Stations / Lower Vell / Brenn Hut</p><h1>Brenn Hut</h1>{PROSE}</main>"
        self.assertEqual(re.findall(r"<a [^>]*>([^<]+)</a>", page(body)[2]), ["Stations", "Lower Vell"])

    def test_two_names_lead_up_to_a_page_whose_title_the_second_is(self) -> None:
        trail = "<p style='font-size:14px;line-height:18px;margin-bottom:4px'><span style='color:#8898a8'>Stations /</span> {}</p>"
        body = f"<main>{trail}<p style='font:700 16px/20px DejaVu Sans'>Brenn Hut</p>{PROSE}</main>"
        self.assertEqual(re.findall(r"<a [^>]*>([^<]+)</a>", page(body.format("Brenn Hut"))[2]), ["Stations"])
        self.assertEqual(re.findall(r"<a [^>]*>([^<]+)</a>", page(body.format("Grey Saddle"))[2]), [])

    def test_a_number_in_a_pill_beside_a_word_is_set_by_itself(self) -> None:
        pill = "<span style='background:#223;color:#fff;font:700 12px/20px DejaVu Sans;border-radius:10px;padding:0 8px;display:inline-block'>7</span>"
        found = page(f"<main><h1>Depths</h1><p>Alarms {pill}</p>{PROSE}</main>")[0]
        line = next(n for n in found.lines if n.text == "7")
        self.assertEqual(line.ground, "#222233")
        self.assertAlmostEqual(found.styles[line.style].size, 12, delta=0.6)
        self.assertIn("Alarms", [n.text for n in found.lines])


class Columns(unittest.TestCase):
    def columns(self, *parts: tuple[str, str, str]) -> list[Node]:
        column = "<div><h3 style='font-size:22px;line-height:28px'>{}</h3><p style='height:52px'>{}</p><ul style='list-style:disc;padding-left:30px;margin-top:14px'>{}</ul></div>"
        cells = "".join(
            column.format(a, b, "".join(f"<li>{x}</li>" for x in c.split(","))) for a, b, c in parts
        )
        outline = page(
            f"<main><h1>Depths</h1>{PROSE}<div style='display:grid;grid-template-columns:1fr 1fr;gap:60px;margin-top:24px'>{cells}</div></main>"
        )[1]
        return [n for n in outline.root.walk() if n.kind == "grid"]

    def test_columns_go_on_under_their_headings(self) -> None:
        grid = self.columns(
            ("To the east", "Snow lies deep behind the ridge and is read at noon.", "Brenn Hut,Cold Spring"),
            (
                "To the west",
                "Wind takes it away, so there are two stakes a station.",
                "Grey Saddle,Upper Vell",
            ),
        )
        self.assertEqual(len(grid), 1)
        self.assertEqual(len(grid[0].children), 2)
        for column, name in zip(grid[0].children, ("east", "west")):
            self.assertTrue(words(column).startswith(f"To the {name}"))
            self.assertEqual([len(n.children) for n in column.walk() if n.attributes.get("list")], [2])

    def test_a_picture_at_the_far_end_leaves_the_room_to_the_text(self) -> None:
        row = "<div style='display:flex;justify-content:space-between;align-items:center;margin:20px 0'><div><h3 style='font-size:22px;line-height:28px'>Pouring the stake</h3><p>By Ilse Tarn in the Vell</p></div><i style='width:48px;height:48px;background:conic-gradient(#c40,#08a,#fb0,#c40)'></i></div>"
        grids = [
            n for n in page(f"<main><h1>Depths</h1>{row}{PROSE}</main>")[1].root.walk() if n.kind == "grid"
        ]
        self.assertLessEqual(max(n.column_gap for n in grids), 96)
