"""Code in text: characters in cells, words in boxes of their own, bullets, blocks without a box, numbers that count and that do not."""

from __future__ import annotations

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from neige.core.outline import arrange
from neige.core.outline.paragraphs import paragraphs
from neige.core.reading import read, scan
from neige.core.reading.surfaces.flat import Region
from neige.core.reading.text import inlaid
from neige.core.reading.text.cells import join_cells
from neige.core.reading.text.inlaid import read_inlaid
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.text.recognise import recognise
from neige.core.writer import write
from tests.core.test_menus import words
from tests.core.test_outline import STYLES, line, reading
from tests.core.test_structure import PROSE, STYLE, page, tagged
from tests.support import drawn

MONO = 'font:15px/20px "DejaVu Sans Mono"'


def cells(text: str, width: float, wide: dict[str, float] | None = None) -> list[tuple[int, int]]:
    """Columns of ink of characters in cells of one width, or of their own where `wide` says so."""
    out, x = [], 0.0
    for c in text:
        advance = (wide or {}).get(c, width)
        ink = 0.3 * advance if c in ".-" else 0.7 * advance
        if c != " ":
            out.append((round(x + (advance - ink) / 2), round(x + (advance + ink) / 2)))
        x += advance
    return out


class Cells(unittest.TestCase):
    def cut(
        self, text: str, parts: list[str], width: float, wide: dict[str, float] | None = None
    ) -> list[str]:
        """The words that are left of `parts` of a line of this text, as a recogniser may have cut it."""
        runs, tokens, at = cells(text, width, wide), [], 0
        for p in parts:
            tokens.append((p, at, at + len(p) - 1))
            at += len(p) + 1
        ends, n = [], 0
        for p in parts[:-1]:
            n += len(p)
            ends.append((float(runs[n - 1][1]), float(runs[n][0])))
        return [t[0] for t in join_cells(tokens, ends, runs)[0]]

    def test_a_full_stop_in_its_cell_parts_no_word(self) -> None:
        self.assertEqual(self.cut("depths.py", ["depths.", "py"], 9.0), ["depths.py"])
        self.assertEqual(self.cut("--explain", ["-", "-explain"], 9.0), ["--explain"])

    def test_an_empty_cell_is_a_space(self) -> None:
        self.assertEqual(self.cut("depths. py", ["depths.", "py"], 9.0), ["depths.", "py"])

    def test_letters_of_their_own_widths_are_in_no_cells(self) -> None:
        wide = {"m": 15.0, "i": 4.5, "l": 4.5, "t": 5.0, "w": 13.0, ".": 4.5, " ": 4.5}
        self.assertEqual(self.cut("mill. wilt", ["mill.", "wilt"], 9.0, wide), ["mill.", "wilt"])

    def test_without_a_sign_between_them_words_stay_apart(self) -> None:
        self.assertEqual(self.cut("depthsnow", ["depth", "snow"], 9.0), ["depth", "snow"])


class Inlaid(unittest.TestCase):
    BODY = f"<p style='margin:30px;font:17px/26px \"Liberation Serif\";color:#333'>Each station sends <code style='{MONO};background:#ecf0f3;padding:2px 3px'>depths.py</code>, and the hut keeps <code style='{MONO};background:#ecf0f3;padding:2px 3px'>--all</code> of it</p>"

    def test_words_in_tinted_boxes_are_read_by_themselves(self) -> None:
        found = read(drawn(f"<body style='margin:0'>{self.BODY}", 900)[0])
        self.assertEqual(
            " ".join(n.text for n in found.lines),
            "Each station sends depths.py, and the hut keeps --all of it",
        )
        families = {w.text: found.styles[w.style].category for n in found.lines for w in n.words}
        self.assertEqual((families["--all"], families["keeps"]), ("monospace", "serif"))

    def test_a_word_across_a_boxs_edge_is_cut_there(self) -> None:
        picture, _ = drawn(f"<body style='margin:0'>{self.BODY}", 900)
        found = scan(picture)
        line = next(n for n in found.raw if any("depths" in w.text for w in n.words))
        first = next(i for i, w in enumerate(line.words) if w.text == "sends")
        a, b = line.words[first], line.words[first + 1]
        glued = replace(a, text=a.text + b.text, box=around([a.box, b.box]))
        given = replace(line, words=(*line.words[:first], glued, *line.words[first + 2 :]))
        out = read_inlaid([given], found.surfaces.result().regions, picture.pixels, 1, recognise, 0.0)
        self.assertEqual([w.text for w in out[0].words][first : first + 2], ["sends", "depths.py,"])

        pinned = replace(given, words=tuple(replace(w, pinned=True) for w in given.words))
        kept = read_inlaid([pinned], found.surfaces.result().regions, picture.pixels, 1, recognise, 0.0)
        self.assertEqual([w.text for w in kept[0].words], [w.text for w in given.words])

    def test_only_in_a_round_box_do_its_outlines_ends_come_in(self) -> None:
        pixels = np.full((40, 300, 3), 255, np.uint8)
        pixels[13:27, 100:180] = (236, 240, 243)
        pixels[15:25, 101:106] = 60  # a letter at the box's very side
        word = RawWord("Cairn", (101.0, 14.0, 178.0, 27.0), (60.0,) * 3, 0.99)
        given = RawLine((word,), (101.0, 14.0, 178.0, 27.0), (255.0,) * 3, True, 0.99)
        inked = {}
        for radius in (0.0, 6.0):
            box = Region(100, 13, 180, 27, radius, (236.0, 240.0, 243.0), 0.9)
            with mock.patch.object(inlaid, "read_lines") as lines:
                lines.return_value = ([], [])
                read_inlaid([given], [box], pixels, 1, recognise, 0.0)
                inked[radius] = [int((call.args[0].min(axis=2) < 90).sum()) for call in lines.call_args_list]
        self.assertGreater(max(inked[0.0]), 30)
        self.assertEqual(max(inked[6.0]), 0)

    def test_a_box_of_the_lines_own_ground_is_told_by_its_outline_and_a_letter_in_it_is_code(self) -> None:
        code = f"<code style='{MONO};font-size:14px;border:1px solid #d8dce0;border-radius:3px;padding:1px 3px'>{{}}</code>"
        lines = "".join(f"<p style='margin:0 30px;font:17px/30px \"Liberation Sans\"'>{t}</p>" for t in (
            f"The column {code.format('year')} has the year and {code.format('depth')} says how much",
            f"The column {code.format('time')} has the hour and {code.format('station')} says where",
            f"The column {code.format('drift')} has what the wind brought",
            f"Same as {code.format('y')} but of the week and {code.format('w')} is the week",
        ))  # fmt: skip
        found = read(drawn(f"<body style='margin:0'>{lines}", 900, fitted=True)[0])
        self.assertEqual(found.lines[-1].text, "Same as y but of the week and w is the week")
        kinds = {w.text: found.styles[w.style].category for w in found.lines[-1].words}
        self.assertEqual((kinds["y"], kinds["w"], kinds["of"]), ("monospace", "monospace", "sans-serif"))

    def test_an_outlined_box_without_a_tint_cuts_a_word_at_its_edge_too(self) -> None:
        code = f"<code style='{MONO};border:1px solid #d8dce0;padding:2px 3px'>depths</code>"
        picture, _ = drawn(
            f"<p style='margin:30px;font:17px/30px \"Liberation Serif\"'>Each station sends {code} to the hut",
            700,
        )
        found = scan(picture)
        line = next(n for n in found.raw if "depths" in n.text)
        n = next(i for i, w in enumerate(line.words) if w.text == "depths")
        a, b = line.words[n], line.words[n + 1]
        glued = replace(a, text=a.text + b.text, box=around([a.box, b.box]))
        given = replace(line, words=(*line.words[:n], glued, *line.words[n + 2 :]))
        out = read_inlaid([given], found.surfaces.result().regions, picture.pixels, 1, recognise, 0.0)
        self.assertEqual(
            [(w.text, w.inlaid is not None) for w in out[0].words][n : n + 2],
            [("depths", True), ("to", False)],
        )

    def test_a_line_without_boxes_is_left_alone(self) -> None:
        line = RawLine(
            (RawWord("snow", (10, 10, 50, 24), (0, 0, 0), 0.9),), (10, 10, 50, 24), (255.0,) * 3, True, 0.9
        )
        self.assertEqual(read_inlaid([line], [], drawn("<p>snow", 100)[0].pixels, 1, recognise, 0.0), [line])

    def test_code_that_is_all_of_a_paragraphs_last_line_has_its_box_in_the_text(self) -> None:
        code = f"<code style='{MONO};background:#ecf0f3;padding:2px 3px'>{{}}</code>"
        body = f"<main style='width:520px'><h1>Depths</h1><p>Send {code.format('stake.csv')} before the sun is on the stake, and the pits that were dug with<br>{code.format('pits_of_the_week.csv')}</p><br>{PROSE}</main>"
        _, outline, html = page(body)
        self.assertFalse(
            [n for n in outline.root.walk() if n.kind == "block" and words(n) == "pits_of_the_week.csv"]
        )
        self.assertIn("pits_of_the_week.csv", html)


class Bullets(unittest.TestCase):
    def test_square_bullets_are_no_part_of_the_first_word(self) -> None:
        items = "".join(
            f"<li style='line-height:22px'>{t}</li>" for t in ("Stakes", "Pits and layers", "Probes")
        )
        body = f"<body style='margin:20px;font:14px \"Liberation Serif\";color:#3e4349'><ul style='list-style:square;padding-left:20px'>{items}</ul>"
        found = read(drawn(body, 500)[0])
        first = [n for n in found.lines if n.text.endswith(("Stakes", "layers", "Probes"))]
        inks = [next(w for w in n.words if w.text[0].isalpha()) for n in first]
        self.assertEqual(len(inks), 3)
        self.assertLess(max(w.ink.x for w in inks) - min(w.ink.x for w in inks), 2.5)
        self.assertEqual({found.styles[w.style].size for w in inks}, {14.0})

    def test_rings_and_squares_are_bullets_and_the_page_has_them_too(self) -> None:
        for style in ("circle", "square", "disc"):
            items = "".join(
                f"<li style='line-height:24px'>{t}</li>" for t in ("Stakes", "Pits and layers", "Probes")
            )
            body = f"<main><h1>Depths</h1>{PROSE}<ul style='list-style:{style};padding-left:30px'>{items}</ul>{PROSE}</main>"
            picture, _ = drawn(STYLE + body, 900)
            found = read(picture)
            outline = arrange(found)
            self.assertEqual(
                [words(n) for n in tagged(outline, "li") or tagged(outline, "p")][-4:-1],
                ["Stakes", "Pits and layers", "Probes"],
            )
            self.assertFalse(found.cutouts)
            self.assertIn(f"list-style: {style}", write(outline, found, picture).css)


class Blocks(unittest.TestCase):
    CODE = f"<pre style='{MONO}'>$ firn send depths\n   Reading stakes (nine)\nsent: brenn=148\n  saddle=210</pre>"

    def test_indented_rows_of_fixed_pitch_are_code_without_a_box(self) -> None:
        _, outline, html = page(f"<main><h1>Sending</h1>{PROSE}<br>{self.CODE}<br>{PROSE}</main>")
        self.assertEqual(len(tagged(outline, "pre")), 1)
        self.assertIn("$ firn send depths\n   Reading stakes (nine)", html)

    def test_words_in_several_inks_stand_together_and_code_is_not_padded_in_its_block(self) -> None:
        ink = "<span style='color:#1d6fb8'>"
        rows = "\n".join(f"send(depth, station={ink}'brenn{k}'</span>)" for k in range(4))
        box = f"<pre style='{MONO};background:#f0f2f4;padding:8px'>{rows}</pre>"
        body = f"<main><h1>Sending</h1>{PROSE}<p>Say <code style='{MONO};padding:0 2px;color:#1d6fb8'>brenn</code> or <code style='{MONO};padding:0 2px;color:#1d6fb8'>saddle</code> to it</p>{box}</main>"
        _, outline, html = page(body)
        block = tagged(outline, "pre")[0]
        self.assertEqual(
            "".join(r.text for r in block.runs),
            "\n".join(f"send(depth, station='brenn{k}')" for k in range(4)),
        )
        self.assertRegex(html, r"station=<span class=\"[\w-]+\">'brenn2'</span>\)")
        self.assertFalse([r for r in block.runs if any(r.padding)])

    def test_the_rows_distance_need_not_be_whole(self) -> None:
        rows = "\n".join(f"depth[{k}] = {k * 7}" for k in range(8))
        code = f"<pre style='font:15px/19.85px \"DejaVu Sans Mono\"'>{rows}</pre>"
        _, outline, _ = page(f"<main><h1>Sending</h1>{PROSE}<br>{code}<br>{PROSE}</main>")
        self.assertAlmostEqual(tagged(outline, "pre")[0].leading, 19.85, delta=0.15)

    def test_prose_of_fixed_pitch_is_no_code(self) -> None:
        prose = f"<p style='{MONO};margin-bottom:16px'>Every station reports (before eight in the morning) the depth of its<br>stake; and sends what it has read = nothing more than that.</p>"
        _, outline, _ = page(f"<main><h1 style='{MONO};font-size:30px'>Sending</h1>{prose}{prose}</main>")
        self.assertEqual(tagged(outline, "pre"), [])


class Numbers(unittest.TestCase):
    def test_a_list_that_does_not_begin_at_one_says_so(self) -> None:
        rows = "".join(
            f"<p style='margin-bottom:6px'>{n}. {t}</p>"
            for n, t in ((4, "Dig to the ground"), (5, "Name the layers"), (6, "Weigh them"))
        )
        _, _, html = page(f"<main><h1>Pits</h1>{PROSE}<br>{rows}<br>{PROSE}</main>")
        self.assertIn("<ol", html)
        self.assertIn('start="4"', html)

    def test_items_with_texts_between_them_go_on_counting(self) -> None:
        names = ("Dig to the ground", "Name the layers", "Weigh them")
        body = "".join(
            f"<p style='margin:14px 0 4px'>{n}. {t}</p><p style='margin:12px 0 0'>And more of it, in a text that stands under it as wide as all others do on this page of ours.</p>"
            for n, t in enumerate(names, start=1)
        )
        html = page(f"<main><h1>Pits</h1>{PROSE}{body}</main>")[2]
        self.assertEqual([html.count(s) for s in ("<ol", 'start="2"', 'start="3"')], [3, 1, 1])

    def test_bold_numbers_before_plain_words_are_words(self) -> None:
        self.assertGreaterEqual(STYLES[1].weight - STYLES[0].weight, 200)
        numbered = line("2. Name the layers", 60, 200)
        bold = replace(numbered, words=(replace(numbered.words[0], style=1), *numbered.words[1:]))
        head = replace(
            numbered, words=(numbered.words[0], *(replace(w, style=1) for w in numbered.words[1:]))
        )
        for text, marked in ((numbered, True), (bold, False), (head, True)):
            found = reading([line("Pits", 60, 100), text])
            nodes = paragraphs(found, [1], [])
            self.assertEqual("bullet" in nodes[0].attributes, marked)
            self.assertEqual(nodes[0].runs[0].text.startswith("2."), not marked)


if __name__ == "__main__":
    unittest.main()
