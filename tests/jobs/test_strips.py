"""A page's PNG, put together of strips."""

from __future__ import annotations

import io
import unittest
import zlib
from unittest import mock

import cv2
import numpy as np
from PIL import Image

from neige.jobs import strips
from neige.jobs.strips import ROWS, Strips


def _noise(height: int, width: int, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).integers(0, 256, (height, width, 3), np.uint8)


class StripsTest(unittest.TestCase):
    def test_every_decoder_sees_the_same_pixels(self) -> None:
        for height, width in ((1, 1), (ROWS, 7), (ROWS + 1, 33), (3 * ROWS - 5, 200)):
            for pixels in (_noise(height, width), np.full((height, width, 3), 200, np.uint8)):
                png = Strips().png(pixels)
                seen = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_COLOR)
                np.testing.assert_array_equal(seen[:, :, ::-1], pixels)
                np.testing.assert_array_equal(np.asarray(Image.open(io.BytesIO(png))), pixels)

    def test_the_checksum_is_that_of_the_whole(self) -> None:
        pixels = _noise(2 * ROWS + 9, 50)
        png = Strips().png(pixels)
        data, at = b"", 8
        while at < len(png):  # length, kind, content, CRC
            size = int.from_bytes(png[at : at + 4], "big")
            kind, content = png[at + 4 : at + 8], png[at + 8 : at + 8 + size]
            self.assertEqual(
                int.from_bytes(png[at + 8 + size : at + 12 + size], "big"), zlib.crc32(kind + content)
            )
            data += content if kind == b"IDAT" else b""
            at += 12 + size
        self.assertEqual(
            len(zlib.decompress(data)), len(pixels) * (1 + 3 * 50)
        )  # raises where Adler-32 is wrong

    def test_only_strips_that_changed_are_compressed(self) -> None:
        encoder, pixels = Strips(), _noise(4 * ROWS, 30)
        first = encoder.png(pixels)
        other = pixels.copy()
        other[ROWS + 3] = 0
        with mock.patch.object(strips, "_strip", wraps=strips._strip) as packed:
            second = encoder.png(other)
            self.assertEqual(packed.call_count, 1)
            self.assertEqual(encoder.png(pixels), first)
            longer = encoder.png(np.vstack([pixels, pixels[:1]]))
            self.assertEqual(packed.call_count, 3)
        self.assertEqual(second, Strips().png(other))
        self.assertEqual(np.asarray(Image.open(io.BytesIO(longer))).shape, (4 * ROWS + 1, 30, 3))
