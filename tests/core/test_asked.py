"""What is asked for: names over boxes and before them, boxes without a frame, what was chosen in a row of its own."""

from __future__ import annotations

import unittest

from neige.core.model import Cutout, Fill, Line, Node, Reading, Rect, Shadow, Surface
from neige.core.outline import arrange
from tests.core.test_menus import prose, tags, words
from tests.core.test_outline import html, line, reading

NAMES = ("First name", "Last name", "City", "Postcode")
VALUES = ("Ana", "Tarn", "Grey Saddle", "4821")
LOW = Shadow(0, 1, 2, 0, "#000000", 0.18)


def box(x: float, y: float, w: float = 280, h: float = 44, framed: bool = False) -> Surface:
    sides = (1.0,) * 4 if framed else (0.0,) * 4
    colour = "#c8ccd2" if framed else ""
    return Surface(Rect(x, y, w, h), Fill("#ffffff"), 4.0, sides, colour, None if framed else LOW)


def asked(names: tuple[str, ...] = NAMES, values: tuple[str, ...] = VALUES) -> Reading:
    """Four boxes in two columns on a tinted card, each with a name over it."""
    surfaces, lines = [Surface(Rect(300, 200, 660, 240), Fill("#e9eff5"), 6.0)], []
    for i, (name, value) in enumerate(zip(names, values)):
        x, y = 340 + 300 * (i % 2), 250 + 90 * (i // 2)
        surfaces.append(box(x, y))
        lines += [line(name, x, y - 12), line(value, x + 12, y + 27)]
    return reading([line("Observers", 300, 120, 1), *lines, *prose(520, 8, 300)], surfaces)


def fields(r: Reading) -> list[Node]:
    return [n for n in arrange(r).root.walk() if n.kind == "field"]


class Named(unittest.TestCase):
    def test_boxes_without_a_frame_are_fields_where_each_has_its_name_over_it(self) -> None:
        r = asked()
        self.assertEqual({n.attributes.get("name") for n in fields(r)}, set(NAMES))
        self.assertRegex(html(r), r'<input[^>]*value="Grey Saddle"')

    def test_cards_with_a_caption_over_them_are_no_fields(self) -> None:
        r = asked(
            ("Upper Cairn", "Lantern Hut", "Mirrow Col", "Grey Saddle"), ("142 cm", "96 cm", "80 cm", "71 cm")
        )
        self.assertEqual(fields(r), [])

    def test_a_name_and_its_field_stay_together(self) -> None:
        """Three side by side under one that is as wide as all of them."""
        surfaces = [
            box(340, 250, 620, framed=True),
            *(box(340 + 210 * i, 340, 200, framed=True) for i in range(3)),
        ]
        names = [line("Address", 340, 238)]
        names += [line(t, 340 + 210 * i, 328) for i, t in enumerate(("City", "Country", "Postcode"))]
        r = reading([line("Observers", 340, 120, 1), *names, *prose(480, 8, 340)], surfaces)
        pairs = [
            [words(c) or c.attributes["name"] for c in n.children]
            for n in arrange(r).root.walk()
            if n.children and n.children[-1].kind == "field" and n.rect.y > 300
        ]
        self.assertEqual(pairs, [["City", "City"], ["Country", "Country"], ["Postcode", "Postcode"]])

    def test_names_far_before_their_fields_in_two_columns(self) -> None:
        rows = [
            (name, x, y) for x, of in ((300, NAMES[:2]), (800, NAMES[2:])) for y, name in zip((300, 360), of)
        ]
        surfaces = [box(x + 150, y, 250, framed=True) for _, x, y in rows]
        lines = [line(name, x, y + 27) for name, x, y in rows]
        r = reading([line("Observers", 300, 120, 1), *lines, *prose(480, 8, 300)], surfaces)
        self.assertEqual(sorted(n.attributes.get("name", "") for n in fields(r)), sorted(NAMES))
        for name in NAMES:
            self.assertRegex(html(r), rf"<label[^>]*>\s*{name}\s*</label>\s*<input")

    def test_a_title_over_rows_that_have_their_names_names_none_of_them(self) -> None:
        surfaces = [box(450, y, 250, framed=True) for y in (300, 360)]
        lines = [line("About you", 300, 290), line("Given name", 300, 327), line("Station", 300, 387)]
        r = reading([line("Observers", 300, 120, 1), *lines, *prose(480, 8, 300)], surfaces)
        self.assertEqual([n.attributes.get("name") for n in fields(r)], ["Given name", "Station"])


class Chosen(unittest.TestCase):
    def rows(self, disc: bool) -> tuple[list[Line], list[Surface], list[Cutout]]:
        """Three framed rows with something to choose in each; that of the last is a picture."""
        radius, lines, surfaces = (6.5 if disc else 2.0), [], []
        for i, name in enumerate(("Grey Saddle", "Brenn Hut", "Upper Stake")):
            y = 300 + 44 * i
            surfaces.append(Surface(Rect(340, y, 500, 36), Fill("#ffffff"), 4.0, (1.0,) * 4, "#c8ccd2"))
            if i < 2:
                ring = Rect(355, y + 12, 13, 13)
                surfaces.append(Surface(ring, Fill("#ffffff"), radius, (1.0,) * 4, "#767676"))
            lines.append(line(name, 376, y + 23))
        return lines, surfaces, [Cutout(Rect(354, 399, 15, 15), "icon", 7.5 if disc else 2.0)]

    def test_a_chosen_one_in_a_row_of_its_own_is_known_by_those_in_line_with_it(self) -> None:
        for disc, kind in ((True, "radio"), (False, "checkbox")):
            lines, surfaces, cutouts = self.rows(disc)
            r = reading([line("Stations", 340, 120, 1), *lines, *prose(520, 8, 340)], surfaces, [], cutouts)
            found = fields(r)
            self.assertEqual([n.attributes["type"] for n in found], [kind] * 3)
            self.assertEqual([bool(n.attributes.get("checked")) for n in found], [False, False, True])
            self.assertEqual(len(tags(r, "label")), 3)


if __name__ == "__main__":
    unittest.main()
