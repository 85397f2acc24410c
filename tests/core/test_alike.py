"""What single lines, rows and controls do not tell, the others of their kind do: padding, justification, columns, widths."""

from __future__ import annotations

import re
import unittest

from neige.core.model import Node
from tests.core.test_menus import words
from tests.core.test_structure import PROSE, page, tagged
from tests.core.test_tables import ROWS

STAKE = "Every stake is read before eight in the morning, and what it says is sent to the station"
LINES = "".join(f"stake_{k} = read(station, unit='cm', mean=True)\n" for k in range(12))
WIDE = "".join(
    f"stake_{k} = read(station, unit='cm', mean=True, since='November', until='May')\n" for k in range(4)
)


class InProse(unittest.TestCase):
    def test_code_in_prose_has_the_room_that_is_beside_it(self) -> None:
        codes = "<p>The call <code>read(stake)</code> gives what <code>depth</code> was at <code>seven</code> and, with <code>mean</code>, what it is in March.</p>"
        sheet = "<style>code{font:15px 'DejaVu Sans Mono';padding:0 PADpx;color:#22303a}p{font:16px 'Liberation Sans'}</style>"

        def pads(pad: int) -> set[float]:
            body = f"{sheet.replace('PAD', str(pad))}<main><h1>Field manual</h1>{codes}{PROSE}{codes}</main>"
            runs = [r for n in page(body)[1].root.walk() if n.kind == "text" for r in n.runs]
            return {r.padding[1] for r in runs if r.text in ("depth", "seven", "mean", "read(stake)")}

        self.assertEqual(pads(2), {2.0})
        self.assertEqual(pads(0), {0.0})

    def test_few_lines_are_justified_as_their_neighbours_are(self) -> None:
        long, short = f"{STAKE} below it by the observer. " * 3, f"{STAKE} that lies right below."
        body = f"<style>p{{width:600px;font:16px 'Liberation Sans';text-align:ALIGN;margin:0 0 14px}}hr{{margin:20px 0}}</style><main><h1>Stakes</h1><p>{long}</p><hr><p>{short}</p><hr><p>{long}</p></main>"
        for align, kinds in (("justify", {"1"}), ("left", {None})):
            root = page(body.replace("ALIGN", align))[1].root
            texts = [n for n in root.walk() if n.kind == "text" and len(n.lines) > 1]
            self.assertEqual(len(texts), 3)
            self.assertEqual({n.attributes.get("justify") for n in texts}, kinds, align)

    def test_code_is_no_measure_of_what_a_heading_is(self) -> None:
        body = f"<main><h1>Depths</h1>{PROSE}<p>Read them all</p><pre style='font:12px DejaVu Sans Mono'>{LINES}</pre>{PROSE}</main>"
        root = page(body)[1].root
        headings = [words(n) for n in root.walk() if re.fullmatch("h[1-6]", n.tag)]
        self.assertNotIn("Read them all", headings)

    def test_a_label_at_a_boxs_end_stays_there(self) -> None:
        body = f"<main><h1>Stakes</h1>{PROSE}<div style='background:#eef2f5;padding:16px 8px;width:700px;position:relative'><p style='position:absolute;right:12px;top:2px;margin:0;font-size:12px;line-height:14px'>Python</p><pre style='margin:0;font:14px DejaVu Sans Mono'>{WIDE}</pre></div>{PROSE}</main>"
        label = next(n for n in page(body)[1].root.walk() if n.kind == "text" and words(n) == "Python")
        self.assertEqual(label.align, "end")
        self.assertLess(label.inset, 1)


class Cards(unittest.TestCase):
    """A table with tools above and a foot below it that are as wide as its rows."""

    def tables(self, foot: str) -> list[Node]:
        grid = "display:grid;grid-template-columns:180px 160px 1fr 90px;border-bottom:1px solid #c4ced6"
        row = f"<div style='{grid};padding:14px 16px'>{{}}</div>"
        rows = "".join(row.format("".join(f"<span>{c}</span>" for c in (*r, "Open"))) for r in (*ROWS, *ROWS))
        names = "".join(f"<span>{h}</span>" for h in ("STATION", "HEIGHT", "DEPTH", "STATE"))
        head = f"<div style='{grid};padding:8px 16px;background:#eef2f5;font-size:12px;letter-spacing:.5px'>{names}</div>"
        tools = "<div style='padding:20px 16px;border-bottom:1px solid #c4ced6;display:flex;justify-content:space-between'><span>Show all of the entries</span><span>Search for a station</span></div>"
        card = f"<div style='border:1px solid #c4ced6;width:700px;background:#fff'>{tools}{head}{rows}{foot}</div>"
        return tagged(
            page(
                f"<style>body{{background:#f4f6f8}}</style><main><h1>Depths</h1>{PROSE}{card}{PROSE}</main>"
            )[1],
            "table",
        )

    def test_a_foot_across_the_columns_is_no_row(self) -> None:
        foot = "<div style='padding:14px 16px;background:#eef2f5;display:flex;justify-content:space-between'><span>Showing one to six of sixteen stations in the range</span><span>Next page</span></div>"
        (table,) = self.tables(foot)
        self.assertEqual(len(table.children), 7)
        self.assertEqual(
            [words(c) for c in table.children[0].children], ["STATION", "HEIGHT", "DEPTH", "STATE"]
        )
        self.assertEqual([words(c) for c in table.children[-1].children], [*ROWS[-1], "Open"])

    def test_a_last_row_in_the_columns_stays(self) -> None:
        (table,) = self.tables("")
        self.assertEqual(len(table.children), 7)


class Entries(unittest.TestCase):
    ENTRY = "<a style='display:flex;justify-content:space-between;align-items:center;height:40px;margin:2px 0;padding:0 14px;border-radius:4px;{}'><span>{}</span><svg width='6' height='10' viewBox='0 0 6 10'><path d='M5 1 1 5l4 4' fill='none' stroke='#d5dce2' stroke-width='1.6'/></svg></a>"

    def fields(self, names: tuple[str, ...], paint: str) -> int:
        menu = "".join(self.ENTRY.format(paint if n == "Search" else "", n) for n in names)
        side = f"<div style='width:240px;height:900px;background:#2e3a44;color:#d5dce2;padding:12px'>{menu}</div>"
        body = f"<style>body{{display:flex}}</style>{side}<main style='width:640px'><h1>Depths</h1>{PROSE * 3}</main>"
        return sum(n.kind == "field" for n in page(body)[1].root.walk())

    def test_the_current_entry_of_a_menu_is_no_field(self) -> None:
        self.assertEqual(
            self.fields(("Stations", "Bulletins", "Search", "Observers", "Range"), "background:#46535e"), 0
        )

    def test_what_stands_by_itself_is_one(self) -> None:
        self.assertEqual(self.fields(("Search",), "background:#46535e"), 1)


class Tiles(unittest.TestCase):
    SAID = ("WI", "M", "III", "Q", "BR")

    def tiles(self, css: str) -> list[Node]:
        tile = "<a style='display:inline-block;box-sizing:border-box;height:40px;line-height:40px;margin-right:16px;border-radius:6px;background:#0b6e99;color:#fff;text-align:center;{}'>{}</a>"
        row = "".join(tile.format(css, t) for t in self.SAID)
        root = page(f"<main><h1>Stations</h1><div>{row}</div>{PROSE}</main>")[1].root
        return [n for n in root.walk() if n.surface and words(n) in self.SAID]

    def test_tiles_of_one_width_have_it_whatever_they_say(self) -> None:
        self.assertEqual([t.attributes.get("tile") for t in self.tiles("width:48px")], ["48"] * 5)

    def test_what_is_as_wide_as_its_words_has_a_padding(self) -> None:
        self.assertEqual([t.attributes.get("tile") for t in self.tiles("padding:0 14px")], [None] * 5)


if __name__ == "__main__":
    unittest.main()
