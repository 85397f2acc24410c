"""Corrections hold: each kind, on raw lines and through a whole reading."""

from __future__ import annotations

import json
import unittest

from neige.core.intake import open_picture
from neige.core.model import Pin, Rect
from neige.core.model.codec import to_json
from neige.core.reading import read, scan
from neige.core.reading.pins import apply_pins, pin_from
from neige.core.reading.text.raw import RawLine, RawWord
from tests.core.test_structure import PROSE
from tests.support import demo, drawn

INK = (20.0, 30.0, 40.0)


def line(text: str, x: float, y: float, each: float = 8.0) -> RawLine:
    words, at = [], x
    for w in text.split():
        words.append(RawWord(w, (at, y, at + each * len(w), y + 12), INK, 0.9))
        at += each * (len(w) + 1)
    return RawLine(tuple(words), (x, y, at - each, y + 12), (255.0,) * 3, True, 0.9)  # type: ignore[arg-type]


def over(n: RawLine) -> Rect:
    return Rect(n.box[0], n.box[1], n.box[2] - n.box[0], n.box[3] - n.box[1])


class OnLines(unittest.TestCase):
    def setUp(self) -> None:
        self.lines = [line("Uper Cairn", 10, 10), line("deep snow", 200, 11), line("icon", 10, 60)]

    def texts(self, *pins: Pin) -> list[str]:
        return [n.text for n in apply_pins(self.lines, pins, 1)]

    def test_retype_a_line_one_to_one(self) -> None:
        self.assertEqual(self.texts(Pin("retype", over(self.lines[0]), to="Upper Cairn"))[0], "Upper Cairn")

    def test_retype_with_more_and_with_fewer_words(self) -> None:
        more = apply_pins(self.lines, [Pin("retype", over(self.lines[0]), to="Up per Cai rn")], 1)[0]
        self.assertEqual(more.text, "Up per Cai rn")
        self.assertEqual(more.box[0], self.lines[0].box[0])
        self.assertLessEqual(more.box[2], self.lines[0].box[2])
        self.assertEqual(self.texts(Pin("retype", over(self.lines[0]), to="Cairn"))[0], "Cairn")

    def test_retype_one_word_of_a_line(self) -> None:
        x0, y0, x1, y1 = self.lines[0].words[0].box
        self.assertEqual(
            self.texts(Pin("retype", Rect(x0, y0, x1 - x0, y1 - y0), to="Upper"))[0], "Upper Cairn"
        )

    def test_split_merge_and_not_text(self) -> None:
        self.assertEqual(self.texts(Pin("split", over(self.lines[0]), x=46))[:2], ["Uper", "Cairn"])
        both = Rect(10, 10, 260, 14)
        self.assertEqual(self.texts(Pin("merge", both))[0], "Uper Cairn deep snow")
        self.assertEqual(self.texts(Pin("not-text", over(self.lines[2]))), ["Uper Cairn", "deep snow"])

    def test_pins_apply_in_order_and_at_any_scale(self) -> None:
        split, retype = (
            Pin("split", over(self.lines[0]), x=46),
            Pin("retype", Rect(10, 10, 34, 12), to="Upper"),
        )
        self.assertEqual(self.texts(split, retype)[:2], ["Upper", "Cairn"])
        half = Rect(5, 5, 40, 6)
        self.assertEqual(
            next(n.text for n in apply_pins(self.lines, [Pin("retype", half, to="So it is")], 2)), "So it is"
        )

    def test_a_pin_that_finds_nothing_changes_nothing(self) -> None:
        for kind in ("retype", "split", "merge", "not-text", "type"):
            self.assertEqual(
                self.texts(Pin(kind, Rect(500, 500, 40, 10), to="x", family="Inter")),
                [n.text for n in self.lines],
            )


class Stored(unittest.TestCase):
    def test_a_pin_survives_its_json(self) -> None:
        pin = Pin("type", Rect(1, 2, 3, 4), "Depth", family="Lora", weight=600, italic=True, size=18)
        self.assertEqual(pin_from(json.loads(json.dumps(to_json(pin)))), pin)
        self.assertIn("Lora 600 italic 18 px", str(pin))

    def test_what_is_no_pin_is_refused_with_a_reason(self) -> None:
        rect = {"x": 0, "y": 0, "w": 5, "h": 5}
        for value, reason in (
            ("x", "kind"), ({"kind": "shout"}, "kind"), ({"kind": "retype"}, "rect"), ({"kind": "retype", "rect": rect}, "to"),
            ({"kind": "type", "rect": rect}, "family"), ({"kind": "type", "rect": rect, "family": "Nowhere Grotesk"}, "Nowhere"),
            ({"kind": "split", "rect": rect, "colour": "red"}, "colour"),
        ):  # fmt: skip
            with self.subTest(value), self.assertRaisesRegex(ValueError, reason):
                pin_from(value)


class ThroughAReading(unittest.TestCase):
    """On a demo picture: pins outrank the recogniser and the fit, and cost no new recognition."""

    def test_pins_hold_in_a_new_reading(self) -> None:
        picture = open_picture(demo("depth-report.png"), "depth-report.png")
        scanned = scan(picture)
        plain = read(picture, scanned=scanned)
        heading = max(plain.lines, key=lambda n: plain.styles[n.style].size)
        other = next(n for n in plain.lines if n is not heading and len(n.words) == 2)
        pins = [
            Pin("retype", heading.ink, heading.text, to="Report the depth"),
            Pin("type", heading.ink, heading.text, family="Lora", weight=700),
            Pin("not-text", other.ink, other.text),
        ]
        calls: list[int] = []
        pinned = read(picture, pins=pins, scanned=scanned, recogniser=lambda crops: calls.append(1) or [])  # type: ignore[func-returns-value]
        self.assertEqual(calls, [])
        found = next(n for n in pinned.lines if n.ink.y == heading.ink.y)
        self.assertEqual(found.text, "Report the depth")
        self.assertEqual(pinned.styles[found.style].family, "Lora")
        self.assertFalse(any(n.text == other.text and n.ink == other.ink for n in pinned.lines))
        self.assertEqual(read(picture, pins=pins), pinned)

    def test_only_what_is_said_of_a_place_hides_words_that_were_missed_there(self) -> None:
        terms = "".join(f"<dt style='color:#00008b'>{o}</dt><dd>{PROSE}</dd>" for o in ("-n", "-q"))
        picture, _ = drawn(
            f"<meta charset='utf-8'><style>body{{margin:20px;font:16px/26px Liberation Serif}}</style><h1>Options</h1><dl>{terms}</dl>",
            900,
        )
        scanned = scan(picture)
        plain = read(picture, scanned=scanned)
        option = next(n for n in plain.lines if n.text == "-n")
        everything = Rect(0, 0, picture.width, picture.height)
        for pin in (Pin("rename", everything, "", name="manual"), Pin("role", everything, "", to="section")):
            with self.subTest(pin.kind):
                self.assertEqual(read(picture, pins=[pin], scanned=scanned), plain)
        hidden = read(picture, pins=[Pin("not-text", option.ink, option.text)], scanned=scanned)
        self.assertNotIn("-n", [n.text for n in hidden.lines])
        self.assertIn("-q", [n.text for n in hidden.lines])


if __name__ == "__main__":
    unittest.main()
