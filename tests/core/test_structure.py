"""What a page is made of, from its picture as a browser draws it to the tags it gets: lines, pairs, questions, code, menus."""

from __future__ import annotations

import re
import unittest
from functools import lru_cache

from neige.core.model import Fill, Node, Outline, Reading, Rect, Surface
from neige.core.outline import arrange
from neige.core.outline.borders import border_lines
from neige.core.reading import read
from neige.core.writer import write
from tests.core.test_menus import words
from tests.support import drawn

STYLE = """<meta charset="utf-8"><style>*{box-sizing:border-box}body{margin:0;background:#fff;color:#223;font:16px/24px 'DejaVu Sans'}
h1,h2,p,ul,pre,dl{margin:0;padding:0}ul{list-style:none}a{color:inherit;text-decoration:none}
main{padding:40px;width:800px}h1{font-size:34px;line-height:44px;margin-bottom:16px}</style>"""
PROSE = "<p>Every station reports the depth of its stake before eight in the morning, and sends what it has read.</p>"


@lru_cache
def page(body: str, width: int = 900) -> tuple[Reading, Outline, str]:
    """(reading, outline, written HTML) of a page with this body."""
    picture, _ = drawn(STYLE + body, width)
    found = read(picture)
    outline = arrange(found)
    return found, outline, write(outline, found, picture).html


def tagged(outline: Outline, tag: str) -> list[Node]:
    return [n for n in outline.root.walk() if n.tag == tag]


class Lines(unittest.TestCase):
    def test_the_line_under_a_heading_is_its_border(self) -> None:
        body = f"<main><h1>Depths</h1><h2 style='border-bottom:1px solid #99a;font-size:24px;line-height:30px;padding-bottom:4px;margin:24px 0'>The Vell range</h2>{PROSE}{PROSE}</main>"
        _, outline, html = page(body)
        heading = next(n for n in tagged(outline, "h2") if words(n) == "The Vell range")
        gap, thick, colour = heading.attributes["under"].split()
        self.assertEqual((thick, colour), ("1", "#9999aa"))
        self.assertLess(float(gap), 12)
        self.assertNotIn("<hr", html)

    def test_a_line_under_a_heading_that_ends_before_its_column_keeps_its_width(self) -> None:
        head = Node("text", Rect(40, 40, 180, 30), tag="h2", leading=30.0, lines=[0])
        line = Node(
            "rule", Rect(40, 76, 600, 1), tag="hr", gap=6.0, width="max",
            surface=Surface(Rect(40, 76, 600, 1), Fill("#8899aa")),
        )  # fmt: skip
        column = Node("block", Rect(40, 40, 900, 300), tag="div", children=[head, line])
        border_lines(column)
        self.assertEqual(column.children, [head])
        self.assertEqual((head.width, head.rect.w), ("max", 600))

    def test_the_line_under_a_link_is_as_long_as_its_words(self) -> None:
        body = f"<main><h1>Depths</h1><p><a style='border-bottom:2px solid #c40;padding-bottom:3px;font-weight:700'>See all nine stations</a></p><br>{PROSE}</main>"
        _, outline, html = page(body)
        text = next(n for n in outline.root.walk() if n.attributes.get("under"))
        self.assertEqual((words(text), text.width), ("See all nine stations", "hug"))
        self.assertNotIn("<hr", html)

    def test_a_line_over_a_part_is_that_parts_border(self) -> None:
        body = f"<main><h1>Depths</h1>{PROSE}<div style='border-top:1px solid #99a;margin-top:20px;padding-top:14px;display:flex;gap:40px'><span>Brenn Hut</span><span>Forty beds</span><span>Sauna</span></div></main>"
        _, outline, html = page(body)
        row = next(n for n in outline.root.walk() if n.surface and n.surface.border == (1, 0, 0, 0))
        self.assertEqual(words(row), "Brenn Hut Forty beds Sauna")
        self.assertFalse(row.surface.fill.colour if row.surface else "#")
        self.assertNotIn("<hr", html)

    def test_a_line_between_paragraphs_stays_a_line(self) -> None:
        body = f"<main><h1>Depths</h1>{PROSE}<hr style='margin:24px 0;border:0;border-top:1px solid #99a'>{PROSE}</main>"
        self.assertIn("<hr", page(body)[2])


class Links(unittest.TestCase):
    def test_links_beside_each_other_end_where_their_lines_do(self) -> None:
        links = "".join(
            f"<a style='text-decoration:underline;color:#04c'>{name}</a> "
            for name in ("All stations", "Depths", "Field manual")
        )
        body = f"<main><h1>Depths</h1><p style='text-align:center'>{links}</p>{PROSE}</main>"
        found = [words(n) for n in tagged(page(body)[1], "a")]
        self.assertEqual(found, ["All stations", "Depths", "Field manual"])

    def test_a_line_that_gives_way_to_a_letter_is_one(self) -> None:
        body = f"<main><h1>Depths</h1><p><a style='text-decoration:underline;color:#04c'>Every station of the valley by its depth</a></p>{PROSE}</main>"
        self.assertEqual(
            [words(n) for n in tagged(page(body)[1], "a")], ["Every station of the valley by its depth"]
        )


class Pairs(unittest.TestCase):
    BODY = """<main><h1>Invoice</h1><div style='width:300px;margin-left:420px'>
<div style='display:flex;justify-content:space-between;padding:5px 0'><span>Masts</span><span>2,400.00</span></div>
<div style='display:flex;justify-content:space-between;padding:5px 0'><span>Tax</span><span>456.00</span></div>
<div style='display:flex;justify-content:space-between;padding:9px 0;border-top:2px solid #223;font-weight:700'><span>Total</span><span>2,856.00</span></div></div></main>"""

    def test_names_and_values_are_a_dl_with_the_sum_under_its_line(self) -> None:
        _, outline, html = page(self.BODY)
        pairs = tagged(outline, "dl")
        self.assertEqual(
            [words(r) for p in pairs for r in p.children], ["Masts 2,400.00", "Tax 456.00", "Total 2,856.00"]
        )
        last = pairs[0].children[-1]
        self.assertEqual(last.surface.border if last.surface else None, (2, 0, 0, 0))
        self.assertEqual(re.findall(r"<dt[^>]*>([^<]+)", html), ["Masts", "Tax", "Total"])
        self.assertNotIn("<hr", html)

    def test_it_stands_where_it_stood(self) -> None:
        _, outline, _ = page(self.BODY)
        pairs = tagged(outline, "dl")[0]
        self.assertAlmostEqual(pairs.rect.x, 460, delta=2)
        self.assertAlmostEqual(pairs.rect.right, 760, delta=2)

    def test_a_title_and_what_stands_at_its_end_are_none(self) -> None:
        body = "<main><h1>Stations</h1>" + "".join(
            f"<div style='display:flex;justify-content:space-between;margin:12px 0'><span>{a}</span><span>{b}</span></div>"
            for a, b in (("Where to stay", "See them all"), ("What to bring", "Read the list"))
        )
        self.assertFalse(tagged(page(body + "</main>")[1], "dl"))


SIGN = "<svg width='16' height='16' viewBox='0 0 16 16'><path d='m2 5 6 6 6-6' fill='none' stroke='#556' stroke-width='2'/></svg>"


class Questions(unittest.TestCase):
    @staticmethod
    def body(count: int, answer: bool = True) -> str:
        asked = (
            "How do I become an observer?",
            "What does a station cost?",
            "May I use the numbers?",
            "Who writes it?",
        )
        items = "".join(
            f"<div style='border-bottom:1px solid #dde;padding:16px 0'><div style='display:flex;justify-content:space-between;align-items:center;font-weight:700'><span>{q}</span>{SIGN}</div>"
            + (
                "<p style='margin-top:10px'>Come to one of the two courses in autumn.</p>"
                if answer and not i
                else ""
            )
            + "</div>"
            for i, q in enumerate(asked[:count])
        )
        return f"<main><h1>Asked again</h1>{items}</main>"

    def test_questions_with_signs_at_their_ends_open(self) -> None:
        _, outline, html = page(self.body(4))
        found = tagged(outline, "details")
        self.assertEqual([bool(n.attributes.get("open")) for n in found], [True, False, False, False])
        self.assertEqual(len(re.findall(r"<summary", html)), 4)
        self.assertRegex(html, r"<details[^>]* open>")
        self.assertEqual(
            words(found[0]), "How do I become an observer? Come to one of the two courses in autumn."
        )
        self.assertFalse([n for d in found for n in d.walk() if n.tag in ("h2", "h3")])

    def test_two_rows_with_an_icon_at_the_end_are_no_questions(self) -> None:
        self.assertFalse(tagged(page(self.body(2, False))[1], "details"))


class Messages(unittest.TestCase):
    CROSS = "<svg width='14' height='14' viewBox='0 0 14 14'><path d='m2 2 10 10M12 2 2 12' stroke='#fff' stroke-width='2'/></svg>"

    def test_boxes_in_colours_of_their_own_are_put_away_and_not_opened(self) -> None:
        said = (
            ("#1d6f42", "The stakes were read at dawn."),
            ("#8a2b2b", "Two stations sent nothing."),
            ("#245f8f", "A course begins in May."),
        )
        boxes = "".join(
            f"<div style='display:flex;justify-content:space-between;align-items:center;background:{fill};color:#fff;padding:16px;margin:16px 0'><span>{text}</span>{self.CROSS}</div>"
            for fill, text in said
        )
        _, outline, html = page(f"<main><h1>Messages</h1>{boxes}</main>")
        self.assertFalse(tagged(outline, "details"))
        self.assertEqual(len(re.findall(r"<button [^>]*>\s*<img [^>]*alt=\"Dismiss\"", html)), 3)


class Code(unittest.TestCase):
    BODY = f"""<main><h1>Depths</h1>{PROSE}<pre style="margin-top:20px;padding:16px;background:#1b2430;color:#dde6f0;font:14px/20px 'DejaVu Sans Mono'">curl -G stations.example/v2 \\
  -d limit=2

depth = 187</pre></main>"""

    def test_lines_of_fixed_pitch_keep_their_spaces_and_empty_lines(self) -> None:
        _, outline, html = page(self.BODY)
        self.assertEqual(len(tagged(outline, "pre")), 1)
        code = re.search(r"<pre[^>]*><code>(.*?)</code></pre>", html, re.S)
        self.assertEqual(
            code.group(1) if code else "", "curl -G stations.example/v2 \\\n  -d limit=2\n\ndepth = 187"
        )

    def test_brackets_in_rows_of_their_own_are_part_of_it(self) -> None:
        said = '{\n  "stations": [\n    {\n      "name": "Brenn Hut",\n      "depth": 187\n    },\n    {\n      "name": "Grey Saddle"\n    }\n  ]\n}'
        colours = said.replace('"Brenn Hut"', '<b style="font-weight:400;color:#2266aa">"Brenn Hut"</b>')
        body = f"""<main><h1>Depths</h1>{PROSE}<pre style="margin-top:20px;padding:16px;background:#f2f2f2;color:#222;font:13px/15.6px 'DejaVu Sans Mono'">{colours}</pre></main>"""
        found, outline, html = page(body)
        self.assertEqual([n.tag for n in outline.root.walk() if n.tag == "pre"], ["pre"])
        code = re.search(r"<pre[^>]*><code>(.*?)</code></pre>", html, re.S)
        self.assertEqual(re.sub("<[^>]*>", "", code.group(1)) if code else "", said)
        self.assertIn('>"Brenn Hut"</span>', html, "one stretch of one colour")
        sizes = {
            found.styles[n.style].size for n in found.lines if found.styles[n.style].category == "monospace"
        }
        self.assertEqual(len(sizes), 1)

    def test_a_box_may_be_as_large_as_its_lines(self) -> None:
        body = f"""<main><h1>Depths</h1>{PROSE}<pre style="margin:20px 0;background:#eeffcc;color:#000;font:13px/16px 'DejaVu Sans Mono'">[settings]
shell = bpython
q = depths()</pre>{PROSE}</main>"""
        _, outline, html = page(body)
        code = re.search(r"<pre[^>]*><code>(.*?)</code></pre>", html, re.S)
        said = re.sub("<[^>]*>", "", code.group(1)) if code else ""
        self.assertEqual(said, "[settings]\nshell = bpython\nq = depths()")
        self.assertEqual([n for n in outline.root.walk() if n.kind == "image"], [])

    def test_prose_in_a_box_is_none(self) -> None:
        body = f"<main><h1>Depths</h1><div style='padding:16px;background:#eef2f5'>{PROSE}</div></main>"
        self.assertFalse(tagged(page(body)[1], "pre"))


class Current(unittest.TestCase):
    def test_the_open_entry_of_a_bar_stays_in_its_list_and_all_are_as_large(self) -> None:
        entries = "".join(
            f"<li><a style='display:block;padding:8px 14px;border-radius:6px{';background:#3b4460' if i == 1 else ''}'>{t}</a></li>"
            for i, t in enumerate(("Dashboard", "Observers", "Stations", "Reports"))
        )
        bar = f"<header style='background:#2b3245;color:#fff;height:64px;display:flex;align-items:center;gap:28px;padding:0 20px'><b style='font-size:20px'>Firnbase</b><ul style='display:flex;gap:6px'>{entries}</ul></header>"
        _, outline, html = page(f"{bar}<main><h1>Observers</h1>{PROSE}{PROSE}</main>")
        menu = next(n for n in outline.root.walk() if n.attributes.get("list"))
        self.assertEqual([words(c) for c in menu.children], ["Dashboard", "Observers", "Stations", "Reports"])
        box = next(c for c in menu.children if c.surface)
        for c in menu.children:
            if c is not box:
                block, inline = (float(v) for v in c.attributes["pad"].split())
                self.assertAlmostEqual(c.rect.h + 2 * block, box.rect.h, delta=1.5)
                self.assertAlmostEqual(inline, 14, delta=1.5)
        self.assertEqual(len(re.findall(r"<li[ >]", html)), 4)

    SIDE = "<aside style='float:left;width:220px;height:640px;background:#f5f6f8;border-right:1px solid #dde;padding:20px 0'><ul>{}</ul></aside><main style='margin-left:220px;width:680px'><h1>Stations</h1>{}</main>"

    def test_a_panel_goes_on_behind_its_open_entry(self) -> None:
        entries = "".join(
            f"<li style='padding:6px 24px{';background:#dfe9f7' if i == 1 else ''}'>{t}</li>"
            for i, t in enumerate(("Introduction", "Stations", "Depths", "Errors", "Observers"))
        )
        found, outline, _ = page(self.SIDE.format(entries, PROSE * 6))
        panels = [s.rect for s in found.surfaces if s.fill.colour == "#f5f6f8"]
        self.assertEqual([(round(r.y), round(r.bottom)) for r in panels], [(0, 640)])
        side = tagged(outline, "nav")
        menus = [n for s in side for n in s.walk() if n.attributes.get("list")]
        self.assertEqual([len(n.children) for n in menus], [5])

    def test_the_bar_at_the_page_s_edge_is_the_open_entry_s_border(self) -> None:
        entries = "".join(
            f"<li style='padding:6px 24px{';background:#dfe9f7;border-left:3px solid #2b6cb0;padding-left:21px' if i == 1 else ''}'>{t}</li>"
            for i, t in enumerate(("Introduction", "Stations", "Depths", "Errors", "Observers"))
        )
        found, _, _ = page(self.SIDE.format(entries, PROSE * 6))
        entry = next(s for s in found.surfaces if s.fill.colour == "#dfe9f7")
        self.assertEqual((entry.border, entry.border_colour, entry.rect.x), ((0, 0, 0, 3), "#2b6cb0", 0))


class Rows(unittest.TestCase):
    ROWS = "".join(
        f"<div style='display:grid;grid-template-columns:40px 200px 1fr 80px;align-items:center;padding:14px 24px;border-bottom:1px solid #dde'><i style='width:16px;height:16px;border:1px solid #99a;border-radius:4px'></i><span>{a}</span><span>{b}</span><span>{c}</span></div>"
        for a, b, c in (
            ("Ilse Marn", "crack above the gully", "09:42"),
            ("Joss Adery", "the mast is down", "09:10"),
            ("Runa Teal", "fourteen have signed up", "08:31"),
            ("Ivo Sand", "new probes have come", "07:55"),
        )
    )

    def test_the_ground_is_not_the_lines_that_meet_on_it(self) -> None:
        side = "<aside style='float:left;width:220px;height:600px;background:#f5f6f8;border-right:1px solid #dde'></aside>"
        found, _, _ = page(f"{side}<div style='margin-left:220px'>{self.ROWS}</div>")
        self.assertEqual(found.background.colour, "#ffffff")

    def test_a_line_between_two_boxes_is_one_border(self) -> None:
        side = "<aside style='float:left;width:220px;height:600px;background:#f5f6f8;border-right:1px solid #dde'></aside>"
        found, _, _ = page(f"{side}<div style='margin-left:220px'>{self.ROWS}</div>")
        rows = [s for s in found.surfaces if s.rect.w > 600 and s.rect.h < 80]
        self.assertFalse([s.border for s in rows if s.border[0] and s.border[2]], rows)

    def test_nothing_of_a_row_is_lost_and_squares_are_boxes_to_tick(self) -> None:
        side = "<aside style='float:left;width:220px;height:600px;background:#f5f6f8;border-right:1px solid #dde'></aside>"
        _, outline, html = page(f"{side}<div style='margin-left:220px'>{self.ROWS}</div>")
        ticks = [n for n in tagged(outline, "input") if n.attributes.get("type") == "checkbox"]
        self.assertEqual(len(ticks), 4)
        self.assertEqual(len(re.findall(r'type="checkbox"', html)), 4)


class Bars(unittest.TestCase):
    def test_a_field_shares_its_frame_with_the_button_at_its_end(self) -> None:
        bar = "<div style='display:flex;width:560px;border:1px solid #9fe;border-radius:12px;padding:6px;background:#fff'><span style='flex:1;padding:10px 16px;color:#667'>Your place in the range</span><b style='background:#076;color:#fff;border-radius:8px;padding:10px 24px'>Find it</b></div>"
        _, outline, html = page(f"<main><h1>Where are you?</h1>{PROSE}{bar}</main>")
        self.assertEqual(
            [n.attributes["placeholder"] for n in outline.root.walk() if n.kind == "field"],
            ["Your place in the range"],
        )
        self.assertRegex(html, r"<button[^>]*>Find it</button>")

    def test_buttons_that_touch_are_buttons(self) -> None:
        pair = "<div style='display:flex;margin-top:20px'>" + "".join(
            f"<span style='border:1px solid #678;padding:4px 10px;margin-left:{-1 if i else 0}px;font-size:14px;border-radius:{'0 4px 4px 0' if i else '4px 0 0 4px'}'>{t}</span>"
            for i, t in enumerate(("View", "Edit"))
        )
        html = page(f"<main><h1>Albums</h1>{PROSE}{pair}</div></main>")[2]
        self.assertEqual(re.findall(r'<button[^>]*type="button"[^>]*>(\w+)', html), ["View", "Edit"])


class Columns(unittest.TestCase):
    def test_columns_keep_the_gap_that_their_pictures_leave(self) -> None:
        card = "<div style='width:220px'><div style='height:120px;background:#7a9ab8'></div><p style='padding:12px 0'>Brenn Hut has forty beds</p></div>"
        _, outline, _ = page(f"<main><h1>Huts</h1><div style='display:flex;gap:30px'>{card * 3}</div></main>")
        grid = next(n for n in outline.root.walk() if n.kind == "grid")
        self.assertAlmostEqual(grid.column_gap, 30, delta=1)
        self.assertLess(max(grid.columns) - min(grid.columns), 1.5)


class Seen(unittest.TestCase):
    def test_a_gradient_ends_where_it_has_faded_to_the_ground(self) -> None:
        card = "<div style='border:1px solid #dde3ee;border-radius:20px;padding:24px;margin:40px;background:#fff'>Two adults and all children</div>"
        hero = "<div style='height:420px;background:linear-gradient(180deg,#dfe9ff,#fff)'></div>"
        found, _, _ = page(
            f"{hero}<div style='height:500px'>{card}</div><div style='background:#f6f8fc;height:160px'></div>"
        )
        self.assertEqual(found.background.colour, "#ffffff")
        faded = next(s for s in found.surfaces if s.fill.stops)
        self.assertLess(faded.rect.bottom, 470)
        cards = [(s.radius, s.border) for s in found.surfaces if abs(s.rect.x - 40) <= 1 and s.rect.w > 700]
        self.assertEqual(cards, [(20, (1, 1, 1, 1))])
        self.assertFalse(found.cutouts)

    def test_the_edge_of_a_box_beside_a_word_is_no_letter(self) -> None:
        mark = "<b style='font-size:20px;display:flex;gap:8px;align-items:center'><i style='width:32px;height:32px;border-radius:8px;background:#467fcf'></i>firnboard</b>"
        found, _, _ = page(f"<div style='padding:16px 40px'>{mark}</div><main><h1>Depths</h1>{PROSE}</main>")
        name = next(n for n in found.lines if n.text == "firnboard")
        self.assertEqual((found.styles[name.style].size, found.styles[name.style].weight), (20, 700))

    def test_signs_between_words_stand_by_themselves(self) -> None:
        found, _, _ = page(
            f"<main><h1>Depths</h1>{PROSE}<p style='font-size:13px'>Firnwatch · Valley road 12 · Vell Mouth</p></main>"
        )
        self.assertIn("Firnwatch · Valley road 12 · Vell Mouth", [n.text for n in found.lines])

    def test_a_lone_number_in_a_row_of_cards_is_one(self) -> None:
        cards = "".join(
            f"<div style='width:130px;border:1px solid #cdd;border-radius:4px;padding:12px;text-align:center;background:#fff'><b style='font-size:32px;line-height:40px'>{n}</b><br>values</div>"
            for n in (43, 17, 7, 95)
        )
        found, _, _ = page(
            f"<main><h1>Depths</h1><div style='display:flex;gap:20px'>{cards}</div><br>{PROSE}</main>"
        )
        self.assertEqual(sorted(n.text for n in found.lines if n.text.isdigit()), ["17", "43", "7", "95"])

    def test_capitals_with_spacing_keep_their_size(self) -> None:
        label = "<p style='font-size:12px;font-weight:700;letter-spacing:.08em'>BASE ADDRESS</p>"
        found, _, _ = page(f"<main><h1>Depths</h1>{label}{PROSE}{PROSE}</main>")
        line = next(n for n in found.lines if n.text == "BASE ADDRESS")
        style = found.styles[line.style]
        self.assertEqual((style.family, style.size, style.weight), ("DejaVu Sans", 12, 700))
        self.assertAlmostEqual(
            style.tracking * (style.size if abs(style.tracking) < 0.3 else 1), 0.96, delta=0.25
        )


class Ends(unittest.TestCase):
    def test_entries_at_even_distances_are_not_parted_by_a_short_title_above_them(self) -> None:
        tabs = "".join(f"<span>{t}</span>" for t in ("Code", "Issues", "Pulls", "Wiki", "Settings"))
        body = f"<div style='padding:18px 28px;background:#f6f8fa'><p>observers / depths</p><div style='display:flex;gap:36px;margin-top:24px'>{tabs}</div></div><main><h1>Depths</h1>{PROSE}{PROSE}</main>"
        _, outline, _ = page(body)
        self.assertTrue(any(words(n) == "Code Issues Pulls Wiki Settings" for n in outline.root.walk()))

    def test_a_narrow_margin_is_kept(self) -> None:
        body = f"<div style='padding:18px 28px;background:#f6f8fa'>{PROSE}</div><main><h1>Depths</h1>{PROSE}</main>"
        picture, _ = drawn(STYLE + body, 900)
        css = write(arrange(read(picture)), read(picture), picture).css
        self.assertRegex(css, r"padding: [\d.]+rem 1\.7\d*rem")

    def test_a_lead_under_the_title_is_no_heading(self) -> None:
        body = (
            "<main><h1>Sleep above the clouds</h1><p style='font-size:20px;line-height:30px'>Nine huts with stoves, bunks and a keeper who knows the weather.</p>"
            + PROSE * 4
            + "</main>"
        )
        self.assertFalse([words(n) for n in page(body)[1].root.walk() if n.tag == "h2"])

    def test_a_table_s_head_may_be_lower_than_its_rows(self) -> None:
        head = (
            "<tr>"
            + "".join(
                f"<th style='text-align:left;font-size:12px;font-weight:400;color:#889;padding:8px 12px;border-bottom:1px solid #cdd'>{t}</th>"
                for t in ("NAME", "USAGE", "SEEN")
            )
            + "</tr>"
        )
        rows = "".join(
            f"<tr><td style='padding:12px;border-bottom:1px solid #cdd'>{a}<br><small>since {b}</small></td><td style='padding:12px;border-bottom:1px solid #cdd'>{c}%</td><td style='padding:12px;border-bottom:1px solid #cdd'>a minute ago</td></tr>"
            for a, b, c in (("Orla Saddle", 1998, 42), ("Brenn Hut", 2001, 10), ("Keld Ridge", 2006, 96))
        )
        card = f"<div style='border:1px solid #cdd;border-radius:3px;background:#fff'><table style='width:100%;border-collapse:collapse'>{head}{rows}</table></div>"
        _, outline, html = page(
            f"<body style='background:#f5f7fb'><main><h1>Depths</h1>{card}<br>{PROSE}</main>"
        )
        self.assertEqual(len(tagged(outline, "table")), 1)
        self.assertEqual(len(re.findall(r"<th ", html)), 3)


if __name__ == "__main__":
    unittest.main()
