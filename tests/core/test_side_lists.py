"""Menus: at a page's side one list of its entries, whatever stands beside, round or between them; in bars, tools and dots."""

from __future__ import annotations

import re
import unittest

from neige.browser import draw_page
from neige.core.model import Node, Rect
from neige.core.outline.dotted import list_dotted
from neige.core.outline.side_lists import join_side_lists
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, STYLE, drawn, page, tagged

ICON = "<svg width='16' height='16' style='margin-right:10px;flex:none'><circle cx='8' cy='8' r='7' fill='#9ab'/><path d='M4 8h8' stroke='#234' stroke-width='2'/></svg>"
ENTRY = "display:flex;align-items:center;padding:9px 12px;margin:0 8px;color:#dde"


def entry(name: str, more: str = "", style: str = "") -> str:
    return f"<div style='{ENTRY};{style}'>{ICON}<span>{name}</span>{more}</div>"


BADGE = "<span style='margin-left:auto;background:#c33;color:#fff;border-radius:4px;font-size:11px;line-height:16px;padding:0 6px'>NEW</span>"
CAPTION = "<p style='font-size:12px;line-height:18px;padding:14px 20px 6px;color:#9ab'>FIELD WORK</p>"
MENU = (
    entry("Overview")
    + entry("Bulletins", BADGE)
    + entry("Stations", style="background:#2a6df4;border-radius:6px")
    + entry("Observers")
    + CAPTION
    + entry("Depths")
    + entry("Weather")
    + entry("Manual")
)
BODY = f"""<div style='display:flex'><div style='width:240px;height:700px;background:#26303c;padding-top:12px'>{MENU}</div>
<main><h1>Stations</h1>{PROSE}{PROSE}</main></div>"""
NAMES = ["Overview", "Bulletins NEW", "Stations", "Observers", "FIELD WORK", "Depths", "Weather", "Manual"]


class Side(unittest.TestCase):
    def test_it_is_one_list(self) -> None:
        _, outline, html = page(BODY)
        nav = tagged(outline, "nav")[0]
        lists = [n for n in nav.walk() if n.attributes.get("list")]
        self.assertEqual([words(c) for n in lists for c in n.children], NAMES)
        self.assertEqual(len(lists), 1)
        self.assertEqual(len(re.findall(r"<ul", html)), 1)
        self.assertEqual(len(re.findall(r"<li\b", html)), len(NAMES))

    def test_its_caption_is_no_link(self) -> None:
        links = [words(n) for n in tagged(page(BODY)[1], "a")]
        self.assertEqual(links, [n for n in NAMES if n != "FIELD WORK"])

    def test_a_caption_as_large_as_the_entries_has_no_icon_as_they_have(self) -> None:
        size = "font-size:12px;line-height:18px"
        menu = MENU.replace(CAPTION, CAPTION.replace("font-size:12px", "font-weight:700;font-size:12px"))
        body = BODY.replace(MENU, f"<div style='{size}'>{menu}</div>").replace(ENTRY, f"{ENTRY};{size}")
        links = [words(n) for n in tagged(page(body)[1], "a")]
        self.assertEqual(links, [n for n in NAMES if n != "FIELD WORK"])

    def test_its_entries_have_one_room_inside(self) -> None:
        nav = tagged(page(BODY)[1], "nav")[0]
        words = [n.children[1] for n in nav.walk() if n.kind == "row" and n.children[1].kind == "text"]
        self.assertEqual(len(words), 7)
        self.assertEqual(len({n.gap for n in words}), 1)

    def test_joining_twice_is_joining_once(self) -> None:
        found, outline, _ = page(BODY)
        before = [(n.tag, n.kind, n.rect) for n in outline.root.walk()]
        join_side_lists(outline.root, found)
        self.assertEqual([(n.tag, n.kind, n.rect) for n in outline.root.walk()], before)


class Even(unittest.TestCase):
    """Icons of all sizes in slots of one: the entries are written alike, whatever their marks are like."""

    PATHS = (
        "M2 9l20 2v6H2z",
        "M5 4l14 8v8H5z",
        "M12 3l9 18H3z",
        "M4 12l8-8 8 8-8 8z",
        "M10 2l6 20h-8z",
        "M3 7l18 2-9 9z",
    )
    ARROW = "<svg width='6' height='10' style='margin-left:auto'><path d='M1 1l4 4-4 4' fill='none' stroke='#9ab' stroke-width='2'/></svg>"

    def menu(self) -> str:
        rows = "".join(
            f"<a style='display:flex;align-items:center;height:43.2px;padding:0 16px'><svg width='20' height='20' viewBox='0 0 24 24' style='margin-right:12px;flex:none'><path d='{path}' fill='#9ab'/></svg><span>{name}</span>{self.ARROW if i % 3 == 1 else ''}</a>"
            for i, (path, name) in enumerate(
                zip(self.PATHS, ("Overview", "Bulletins", "Snow depth", "Observers", "Weather", "Manual"))
            )
        )
        return f"<div style='display:flex'><div style='width:240px;height:700px;background:#26303c;color:#dde;padding-top:12px'>{rows}</div><main><h1>Stations</h1>{PROSE}{PROSE}</main></div>"

    def test_icons_in_a_column_have_one_box(self) -> None:
        found, _, _ = page(self.menu())
        icons = [c.rect for c in found.cutouts if c.kind == "icon" and c.rect.x < 60]
        self.assertEqual(len(icons), 6)
        self.assertEqual(len({(r.x, r.w, r.h) for r in icons}), 1, icons)
        names = [n.baseline for n in found.lines if n.box.x < 200][:6]
        self.assertLessEqual(
            max(n - r.y for n, r in zip(names, icons)) - min(n - r.y for n, r in zip(names, icons)), 1
        )

    def test_entries_are_as_wide_as_the_menu_and_share_their_padding(self) -> None:
        _, outline, html = page(self.menu())
        nav = tagged(outline, "nav")[0]
        entries = [n for n in nav.walk() if n.tag == "a"]
        self.assertEqual([n.width for n in entries], ["fill"] * 6)
        self.assertEqual(len({(n.padding[0], n.padding[2], n.padding[3]) for n in entries}), 1)
        self.assertEqual([n.gap for n in entries[1:]], [0.0] * 5)
        self.assertAlmostEqual(
            entries[0].padding[0] + entries[0].padding[2] + entries[0].rect.h, 43.2, delta=0.3
        )
        classes = re.findall(r'<a class="([^"]*)"', html)
        self.assertEqual(len(set(classes)), 2, "with an arrow and without")

    def test_a_mark_that_stands_elsewhere_keeps_its_own(self) -> None:
        first = "style='margin-right:12px"
        aside = self.menu().replace(first, "style='margin-left:4px;margin-right:8px", 1)
        icons = [c.rect for c in page(aside)[0].cutouts if c.kind == "icon" and c.rect.x < 60]
        self.assertGreaterEqual(icons[0].x - icons[-1].x, 2)
        self.assertEqual(len({r.x for r in icons[1:]}), 1)


class Columns(unittest.TestCase):
    """Entries with an icon before and an arrow after them, between lines: three columns, one of which has words."""

    def test_a_menu_is_no_table(self) -> None:
        arrow = "<svg width='6' height='10' style='margin-left:auto'><path d='M5 1L1 5l4 4' fill='none' stroke='#678' stroke-width='2'/></svg>"
        inner = (
            "<div style='padding-left:26px'>Upper Cairn</div><div style='padding-left:26px'>Grey Saddle</div>"
        )
        rows = "".join(
            f"<div style='border-bottom:1px solid #c4ccd4;padding:10px 8px'><div style='display:flex;align-items:center'>{ICON}<span>{name}</span>{arrow}</div>{more}</div>"
            for name, more in (("Overview", ""), ("Stations", inner), ("Observers", ""), ("Bulletins", ""))
        )
        body = f"<main><h1>Stations</h1><div style='width:260px;border-top:1px solid #c4ccd4'>{rows}</div>{PROSE}</main>"
        self.assertEqual(tagged(page(body)[1], "table"), [])


class Tools(unittest.TestCase):
    ICON = "<svg width='20' height='20' style='margin:0 14px;flex:none'><circle cx='10' cy='10' r='8' fill='none' stroke='#456' stroke-width='2'/><path d='M4 10h12' stroke='#456' stroke-width='2'/></svg>"
    BODY = f"""<header style='display:flex;align-items:center;height:60px;padding:0 24px;border-bottom:1px solid #ccd'><b style='font-size:20px'>Firnwatch</b><span style='margin-left:40px'>Stations</span><span style='margin-left:28px'>Depths</span><i style='flex:1'></i>{ICON}<a style='border:1px solid #89a;border-radius:5px;padding:6px 14px'>Sign in</a></header><main><h1>Stations</h1>{PROSE}{PROSE}</main>"""

    def test_a_lone_mark_in_a_bar_is_as_large_as_a_finger_and_moves_nothing(self) -> None:
        found, outline, _ = page(self.BODY)
        tool = next(n for n in outline.root.walk() if n.kind == "image" and n.attributes.get("linked"))
        block, inline = (float(v) for v in tool.attributes["pad"].split())
        self.assertGreaterEqual(tool.rect.w + 2 * inline, 32)
        self.assertEqual((block, tool.attributes["reach"]), (inline, f"{inline:g}"))
        picture = drawn(STYLE + self.BODY, 900)[0]
        at = draw_page(write(outline, found, picture), 900).nodes[tool.id].rect
        self.assertLess(max(abs(at.x - tool.rect.x), abs(at.y - tool.rect.y)), 1.5)


class Bulleted(unittest.TestCase):
    def test_an_entry_that_leads_nowhere_does_not_part_a_list_of_links(self) -> None:
        link = "<a style='color:#0a58ca'>{}</a>"
        named = ("Stations", "Depths", "Observers", "Bulletins", "Archive", "Licence")
        entries = [f"<li>{link.format(n)}</li>" for n in named]
        entries.insert(3, "<li>Not yet open to all</li>")
        body = f"<main><h1>Manual</h1>{PROSE}<p style='margin-top:12px'>{link.format('Contents')}</p><ul style='list-style:disc;padding-left:32px'>{''.join(entries)}</ul>{PROSE}</main>"
        _, outline, html = page(body)
        lists = [n for n in outline.root.walk() if n.attributes.get("list")]
        self.assertEqual([(n.attributes["list"], len(n.children)) for n in lists], [("bullets", 7)])
        self.assertEqual(len(re.findall("<li[ >]", html)), 7)


class Dotted(unittest.TestCase):
    def test_entries_of_a_foot_with_dots_between_them_are_a_list(self) -> None:
        dots = "<span style='padding:0 13px'>·</span>"
        foot = f"<footer style='border-top:1px solid #ccd;padding:24px 40px;display:flex;font-size:14px'>Copyright the observers{dots}<a>Manual</a>{dots}<a>Data</a></footer>"
        body = f"<main><h1>Stations</h1>{PROSE * 5}</main>{foot}"
        found, outline, html = page(body)
        entries = [n for n in outline.root.walk() if n.attributes.get("dotted")]
        self.assertEqual(
            [[words(c) for c in n.children] for n in entries], [["Copyright the observers", "Manual", "Data"]]
        )
        self.assertEqual(len(re.findall("__dotted", html)), 2, "after each but the last")
        css = write(outline, found, drawn(STYLE + body, 900)[0]).css
        self.assertRegex(css, r"__dotted::after \{\n  content: \"[·•]\";")

    def test_an_entry_that_begins_with_a_picture_has_its_dot_too(self) -> None:
        dots = "<span style='padding:0 11px'>·</span>"
        mark = "<svg width='16' height='16' style='margin-right:4px;vertical-align:text-bottom'><path d='M2 3h12v9H2z' fill='#b23'/><path d='M4 6h8' stroke='#fff'/></svg>"
        entries = dots.join(("Manual", "Licence", "Data", f"{mark}Give"))
        foot = f"<footer style='border-top:1px solid #ccd;padding:24px 40px;display:flex;justify-content:space-between;font-size:14px'><span>Copyright the observers</span><span>{entries}</span></footer>"
        _, outline, html = page(f"<main><h1>Stations</h1>{PROSE * 5}</main>{foot}")
        found = [n for n in outline.root.walk() if n.attributes.get("dotted")]
        self.assertEqual(
            [[words(c) for c in n.children] for n in found], [["Manual", "Licence", "Data", "Give"]]
        )
        self.assertNotIn(">·<", html)

    def test_entries_that_were_put_together_for_their_dots_are_in_the_list_with_the_others(self) -> None:
        def entry(x: float, dot: str = "") -> Node:
            marked = {"bullet": "•", "dot": dot} if dot else {}
            return Node("text", Rect(x, 10, 80, 18), tag="a", gap=28.0, lines=[0], attributes=marked)

        pair = Node(
            "row", Rect(128, 10, 188, 18), tag="div", gap=28.0, children=[entry(128, "·"), entry(236, "·")]
        )
        pair.children[0].gap = 0.0
        row = Node("row", Rect(20, 10, 404, 18), tag="div", children=[entry(20), pair, entry(344)])
        list_dotted(row)
        self.assertEqual([c.rect.x for c in row.children], [20, 128, 236, 344])
        self.assertEqual((row.attributes["dotted"], row.children[1].gap), ("·", 28.0))
        self.assertEqual(
            row.children[1].attributes["parted"], "•", "which its line begins with, and no word of it"
        )


if __name__ == "__main__":
    unittest.main()
