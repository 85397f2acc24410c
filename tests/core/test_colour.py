"""Colours: as hex, as numbers, and how far they stand out."""

from __future__ import annotations

import unittest

import numpy as np

from neige.core.reading.colour import contrast, from_hex, pack, to_hex, unpack


class Colour(unittest.TestCase):
    def test_hex_round_trip(self) -> None:
        for c in ("#000000", "#ffffff", "#1d2a33"):
            self.assertEqual(to_hex(from_hex(c)), c)

    def test_contrast_is_wcags(self) -> None:
        self.assertAlmostEqual(contrast("#000000", "#ffffff"), 21.0, places=3)
        self.assertAlmostEqual(contrast("#767676", "#ffffff"), 4.54, places=2)

    def test_colours_are_packed_as_hex_says_them_whatever_their_shape(self) -> None:
        rng = np.random.default_rng(4)
        for shape in ((5, 7, 3), (9, 3), (1, 4, 3), (0, 3)):
            p = rng.integers(0, 255, shape).astype(np.uint8)
            np.testing.assert_array_equal(unpack(pack(p)), p)
        self.assertEqual(int(pack(np.array([[0x12, 0x34, 0x56]], np.uint8))[0]), 0x123456)


if __name__ == "__main__":
    unittest.main()
