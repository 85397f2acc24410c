"""Residuals to corrections: made outlines, with drawings in which single parts are off."""

from __future__ import annotations

import itertools
import unittest
from dataclasses import replace

import numpy as np

from neige.core.model import Drawing, Fill, Node, Outline, Reading, Rect, Surface
from neige.core.model.proof import DrawnNode, DrawnWord
from neige.core.outline.tidy import take_back
from neige.core.proof import correct, misplacement
from neige.core.proof.residuals import paired
from tests.core.test_outline import STYLES, line, reading

PAINT = Surface(Rect(0, 0, 1, 1), Fill("#eef2f5"))


class Page:
    """An outline over made lines, and drawings of it in which parts are moved."""

    def __init__(self) -> None:
        self.lines: list = []
        self.ids = 0

    def node(self, kind: str, rect: Rect, *children: Node, **more: object) -> Node:
        self.ids += 1
        return Node(kind, rect, children=list(children), id=self.ids, **more)  # type: ignore[arg-type]

    def text(self, says: str, x: float, top: float, **more: object) -> Node:
        """A text of one line, its content area from `top`."""
        self.lines.append(line(says, x, top + STYLES[0].ascent))
        box = self.lines[-1].box
        return self.node("text", box, lines=[len(self.lines) - 1], style=0, tag="p", **more)

    def outline(self, *parts: Node) -> tuple[Outline, Reading]:
        root = self.node("block", Rect(0, 0, 1440, 900), *parts, tag="body")
        return Outline(root, "Firnwatch"), reading(self.lines)

    def drawing(self, outline: Outline, moved: dict[int, tuple[float, ...]]) -> Drawing:
        """`moved`: id to (px across, px down, px taller); what is in a part goes with it."""
        words, nodes = [], {}

        def put(n: Node, dx: float, dy: float) -> None:
            own = (*moved.get(n.id, ()), 0.0, 0.0, 0.0)[:3]
            dx, dy = dx + own[0], dy + own[1]
            r = n.rect
            nodes[n.id] = DrawnNode(n.id, Rect(r.x + dx, r.y + dy, r.w, r.h + own[2]))
            for i in n.lines:
                for w in self.lines[i].words:
                    top = self.lines[i].baseline - STYLES[0].ascent
                    box = Rect(w.x + dx, top + dy, w.w, r.h)
                    words.append(DrawnWord(w.text, box, 16.0, 400, "Inter", "#22303a", n.id))
            for c in n.children:
                put(c, dx, dy)

        put(outline.root, 0, 0)
        return Drawing(1440, 900, 1440, 1, np.zeros((0, 0, 3), np.uint8), tuple(words), nodes)


def found(outline: Outline, n: Node) -> Node:
    return next(m for m in outline.root.walk() if m.id == n.id)


class Rows(unittest.TestCase):
    def setUp(self) -> None:
        self.page = Page()

    def button(self, cross: str) -> tuple[Node, Node, Node]:
        icon = self.page.node("image", Rect(112, 112, 16, 16))
        label = self.page.text("Report", 136, 110.5)
        box = Rect(100, 100, 120, 40)
        row = self.page.node(
            "row", box, icon, label, surface=replace(PAINT, rect=box), cross=cross, padding=(10.0, 12.0, 10.0, 12.0),
        )  # fmt: skip
        return row, icon, label

    def test_a_row_that_is_too_low_gets_padding_where_it_lacks_it_and_its_parts_are_left_alone(self) -> None:
        row, icon, label = self.button("center")
        outline, r = self.page.outline(row)
        drawing = self.page.drawing(outline, {row.id: (0, 0, -1), icon.id: (0, -1), label.id: (0, -1)})
        better, _ = correct(outline, r, drawing)
        self.assertEqual(found(better, row).padding, (11.0, 12.0, 10.0, 12.0))
        self.assertEqual([c.inset for c in found(better, row).children], [0.0, 0.0])

    def test_a_row_that_is_too_low_below_its_parts_gets_padding_there(self) -> None:
        row, _, _ = self.button("center")
        outline, r = self.page.outline(row)
        better, _ = correct(outline, r, self.page.drawing(outline, {row.id: (0, 0, -1)}))
        self.assertEqual(found(better, row).padding, (10.0, 12.0, 11.0, 12.0))

    def test_a_part_that_is_centred_off_its_place_by_itself_is_shifted(self) -> None:
        row, _, label = self.button("center")
        outline, r = self.page.outline(row)
        better, _ = correct(outline, r, self.page.drawing(outline, {label.id: (0, 0.5)}))
        self.assertAlmostEqual(found(better, label).inset, -1.0)
        self.assertEqual(found(better, row).padding, row.padding)

    def test_a_label_that_is_stretched_over_its_row_begins_where_it_was_seen(self) -> None:
        row, _, label = self.button("stretch")
        outline, r = self.page.outline(row)
        better, _ = correct(outline, r, self.page.drawing(outline, {label.id: (0, -1)}))
        self.assertEqual(found(better, label).inset, 1.0)

    def test_what_reaches_above_its_place_takes_padding_not_the_others_along(self) -> None:
        row, icon, label = self.button("start")
        label.inset = 2.0
        outline, r = self.page.outline(row)
        better, _ = correct(outline, r, self.page.drawing(outline, {label.id: (0, 7)}))
        self.assertEqual((found(better, icon).inset, found(better, label).inset), (5.0, 0.0))
        self.assertEqual(found(better, row).padding[0], 5.0)
        self.assertEqual(sum(found(better, row).padding[::2]), 20.0)


class Across(unittest.TestCase):
    def setUp(self) -> None:
        self.page = Page()

    def test_all_that_is_in_a_painted_block_lies_too_far_in(self) -> None:
        parts = [self.page.text("Depth today", 130, 120), self.page.text("142 cm", 140, 150, inset=10.0)]
        box = Rect(100, 100, 300, 90)
        card = self.page.node(
            "block", box, *parts, surface=replace(PAINT, rect=box), padding=(20.0, 30.0, 20.0, 30.0)
        )
        outline, r = self.page.outline(card)
        moved = {parts[0].id: (5, 0), parts[1].id: (7, 0)}
        better, _ = correct(outline, r, self.page.drawing(outline, moved))
        self.assertAlmostEqual(found(better, card).padding[3], 25.0)
        self.assertEqual([c.inset for c in found(better, card).children], [0.0, 8.0])
        one = {parts[0].id: (5, 0)}  # but if one of them is where it should be, the padding is right
        better, _ = correct(outline, r, self.page.drawing(outline, one))
        self.assertEqual(found(better, card).padding[3], 30.0)

    def test_a_text_that_is_centred_in_a_narrower_place_has_room_beside_it(self) -> None:
        text = self.page.text("Snow of the Vell range", 300, 120, align="center")
        outline, r = self.page.outline(self.page.node("block", Rect(100, 110, 500, 40), text))
        better, _ = correct(outline, r, self.page.drawing(outline, {text.id: (5, 0)}))
        self.assertAlmostEqual(float(found(better, text).attributes["end"]), -9.4, places=1)
        back, _ = correct(outline, r, self.page.drawing(outline, {text.id: (-5, 0)}))
        self.assertAlmostEqual(found(back, text).inset, 9.4, places=1)
        take_back(better, outline, {found(better, outline.root.children[0]).id})
        self.assertNotIn("end", found(better, text).attributes)

    def test_columns_follow_what_is_painted_in_them_but_not_how_edges_were_rounded(self) -> None:
        boxes = [Rect(76, 100, 304, 200), Rect(404, 100, 960, 200)]
        cards = [self.page.node("block", b, surface=replace(PAINT, rect=b)) for b in boxes]
        grid = self.page.node(
            "grid", Rect(76, 100, 1288, 200), *cards, columns=[305.0, 959.0], column_gap=24.0
        )
        outline, r = self.page.outline(grid)
        better, _ = correct(outline, r, self.page.drawing(outline, {cards[1].id: (1, 0)}))
        self.assertEqual(found(better, grid).columns, [304.0, 960.0])
        same, _ = correct(outline, r, self.page.drawing(outline, {cards[1].id: (0.5, 0)}))
        self.assertEqual(found(same, grid).columns, [305.0, 959.0])

    def test_columns_without_paint_are_left_alone_by_so_little(self) -> None:
        sides = [
            self.page.node("block", Rect(x, 100, 304, 20), self.page.text("Upper Cairn", x, 100))
            for x in (76, 404)
        ]
        grid = self.page.node("grid", Rect(76, 100, 632, 20), *sides, columns=[305.0, 303.0], column_gap=24.0)
        outline, r = self.page.outline(grid)
        better, _ = correct(outline, r, self.page.drawing(outline, {sides[1].id: (1, 0)}))
        self.assertEqual(found(better, grid).columns, [305.0, 303.0])


class Tables(unittest.TestCase):
    def test_rows_that_are_as_high_as_each_other_stay_so(self) -> None:
        page, top, rows = Page(), 100.0, []
        for n, high in enumerate((46.0, 47.0, 46.0, 46.0, 47.0, 46.0)):
            cell = page.node("td", Rect(0, top, 300, high), page.text(f"Hut {n}", 8, top + 14))
            rows.append(page.node("tr", Rect(0, top, 300, high), cell))
            top += high
        table = page.node("table", Rect(0, 100, 300, top - 100), *rows)
        outline, r = page.outline(table)
        moved = {}  # each is drawn 46.33 px high
        for tr, y in zip(rows, (100 + 46.33 * n for n in range(9))):
            moved[tr.id] = (0.0, y - tr.rect.y, 0.0)
        better, _ = correct(outline, r, page.drawing(outline, moved))
        heights = {
            round(m.tweak.get("height", m.rect.h) - m.rect.h, 2) for m in found(better, table).children
        }
        self.assertLessEqual(max(heights, key=abs), 0.3)
        self.assertLessEqual(len(heights - {0.0}), 1)

    def lined(self, drawn: float, low: float = 0.0) -> list[Node]:
        """Rows of 47.5 px, seen in whole px, and drawn so high; the words in them stand `low` px too low."""
        page, rows, moved = Page(), [], {}
        tops = [100 + int(47.5 * n) for n in range(9)]
        for n, (top, below) in enumerate(itertools.pairwise(tops)):
            box = Rect(0, top, 300, below - top)
            line = replace(PAINT, rect=box, border=(0.0, 0.0, 1.0, 0.0)) if n < 7 else None
            words = page.text(f"Hut {n}", 8, top + 14)
            cell = page.node("td", box, words, **({"surface": line} if line else {}))
            rows.append(page.node("tr", box, cell))
            moved[rows[-1].id] = moved[cell.id] = (0.0, 100 + drawn * n - top, 0.0)
            moved[words.id] = (0.0, 100 + drawn * n - top + low)
        table = page.node("table", Rect(0, 100, 300, tops[-1] - 100), *rows)
        outline, r = page.outline(table)
        better, _ = correct(outline, r, page.drawing(outline, moved))
        return found(better, table).children

    def test_rows_with_half_a_px_get_one_height(self) -> None:
        self.assertEqual({tr.tweak.get("height") for tr in self.lined(47.5)}, {None})
        heights = {tr.tweak.get("height") for tr in self.lined(48.5)[:-1]}
        self.assertEqual(len(heights), 1)
        self.assertAlmostEqual(heights.pop() or 0.0, 46.5, delta=0.2)  # a px is taken off, once

    def test_the_last_row_has_its_words_where_those_of_the_others_are(self) -> None:
        drops = {tr.children[0].tweak.get("drop") for tr in self.lined(47.5, 1.0)}
        self.assertEqual(len(drops), 1)
        self.assertIsNotNone(drops.pop())


class Words(unittest.TestCase):
    def test_words_belong_together_that_begin_with_the_same_letter(self) -> None:
        page = Page()
        text = page.text("See the bulletin. Depths follow", 100, 100)
        outline, r = page.outline(text)
        whole = page.drawing(outline, {}).words
        link, stop = whole[2], whole[2].rect
        parts = (
            replace(link, text="bulletin", rect=Rect(stop.x, stop.y, stop.w - 4, stop.h)),
            replace(link, text=".", rect=Rect(stop.right - 4, stop.y, 4, stop.h)),
        )
        drawn = [*whole[:2], *parts, *whole[3:]]
        pairs = paired(text, r, drawn)
        self.assertEqual([d.text for _, d in pairs], ["See", "the", "bulletin", "Depths", "follow"])
        self.assertEqual([round(d.rect.x - s[0], 6) for s, d in pairs], [0.0] * 5)
        self.assertAlmostEqual(pairs[2][1].rect.w, link.rect.w)
        shown = replace(page.drawing(outline, {}), words=tuple(drawn))
        self.assertEqual(misplacement(outline, r, shown), 0.0)

    def test_where_the_words_are_others_the_ends_are_known(self) -> None:
        page = Page()
        text = page.text("Depth of new snow", 100, 100)
        outline, r = page.outline(text)
        drawn = [
            replace(w, text="Depths") if n == 0 else w for n, w in enumerate(page.drawing(outline, {}).words)
        ]
        self.assertEqual(len(paired(text, r, drawn)), 4)
        self.assertEqual([d.text for _, d in paired(text, r, drawn[:1] + drawn[2:])], ["Depths", "snow"])


if __name__ == "__main__":
    unittest.main()
