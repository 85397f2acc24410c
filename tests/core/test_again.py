"""A place read again: enlarged, and from a close-up picture of it."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.errors import PinError
from neige.core.model import Pin, Rect
from neige.core.reading import read, scan
from neige.core.reading.text.again import read_again
from neige.core.reading.text.recognise import recognise
from tests.support import drawn, png

PAGE = (
    "<body style='margin:24px;font:{size}px/1.5 \"DejaVu Sans\";background:#fff;color:#222'>"
    "<p style='margin:0 0 24px'>Upper Cairn reports at dawn</p><p style='margin:0'>Depth 142 cm at the stake</p>"
)


def texts(lines) -> list[str]:  # type: ignore[no-untyped-def]
    return [n.text for n in lines]


class Again(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.picture, _ = drawn(PAGE.format(size=14), 500)
        cls.close, _ = drawn(PAGE.format(size=14), 500, scale=3)
        cls.scanned = scan(cls.picture)
        second = cls.scanned.raw[1].box
        cls.place = Rect(second[0] - 8, second[1] - 8, second[2] - second[0] + 16, second[3] - second[1] + 16)

    def part(self, pixels: NDArray[np.uint8], times: int) -> NDArray[np.uint8]:
        r = self.place
        y0, x0 = round(r.y * times), round(r.x * times)
        return pixels[y0 : y0 + round(r.h * times), x0 : x0 + round(r.w * times)]

    def test_what_was_missed_is_found_again_in_its_place(self) -> None:
        first = self.scanned.raw[:1]
        r = self.place
        again = read_again(first, self.picture.pixels, (r.x, r.y, r.right, r.bottom), None, recognise, 0.0, 1)
        self.assertEqual(texts(again), ["Upper Cairn reports at dawn", "Depth 142 cm at the stake"])
        for a, b in zip(again[1].box, self.scanned.raw[1].box):
            self.assertAlmostEqual(a, b, delta=1.0)

    def test_a_close_up_says_what_the_picture_is_too_coarse_for(self) -> None:
        blurred = self.picture.pixels.copy()
        r = self.place
        rows, columns = slice(round(r.y), round(r.bottom)), slice(round(r.x), round(r.right))
        blurred[rows, columns] = cv2.GaussianBlur(blurred[rows, columns], (0, 0), 2.6)
        shown = self.part(self.close.pixels, 3)
        again = read_again([], blurred, (r.x, r.y, r.right, r.bottom), shown, recognise, 0.0, 1)
        self.assertEqual(texts(again), ["Depth 142 cm at the stake"])
        self.assertAlmostEqual(again[0].box[0], self.scanned.raw[1].box[0], delta=1.5)

    def test_a_close_up_of_something_else_is_refused(self) -> None:
        r = self.place
        place = (r.x, r.y, r.right, r.bottom)
        other = (
            np.random.default_rng(3).integers(0, 255, (round(r.h * 2), round(r.w * 2), 3)).astype(np.uint8)
        )
        with self.assertRaisesRegex(PinError, "does not show"):
            read_again([], self.picture.pixels, place, other, recognise, 0.0, 1)
        with self.assertRaisesRegex(PinError, "must show the same"):
            read_again([], self.picture.pixels, place, other[:, : other.shape[1] // 3], recognise, 0.0, 1)

    def test_a_pin_holds_through_a_reading_and_names_a_close_up_that_is_gone(self) -> None:
        close = png(self.part(self.close.pixels, 3))
        pin = Pin("again", self.place, name="close-up.png")
        found = read(self.picture, pins=[pin], scanned=self.scanned, close_ups={"close-up.png": close})
        self.assertEqual(texts(found.lines), ["Upper Cairn reports at dawn", "Depth 142 cm at the stake"])
        with self.assertRaisesRegex(PinError, "not there any more"):
            read(self.picture, pins=[pin], scanned=self.scanned)


if __name__ == "__main__":
    unittest.main()
