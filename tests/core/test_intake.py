"""Bytes to a picture: every format, every kind of damage."""

from __future__ import annotations

import io
import struct
import unittest
import zlib

import numpy as np
from PIL import Image, ImageCms

from neige.core.errors import PictureError, SettingError
from neige.core.intake import open_picture
from neige.core.intake.scale import infer_scale
from tests.support import encode, png


def sample(w: int = 120, h: int = 80) -> np.ndarray:
    pixels = np.full((h, w, 3), 250, np.uint8)
    pixels[20:40, 30:90] = (35, 96, 122)
    return pixels


class Formats(unittest.TestCase):
    def test_lossless_formats_keep_every_pixel(self) -> None:
        for kind, options in (("PNG", {}), ("BMP", {}), ("TIFF", {}), ("WEBP", {"lossless": True})):
            with self.subTest(kind):
                np.testing.assert_array_equal(
                    open_picture(encode(sample(), kind, **options), "x").pixels, sample()
                )

    def test_lossy_formats_are_near(self) -> None:
        for kind in ("JPEG", "WEBP", "AVIF", "GIF"):
            with self.subTest(kind):
                off = np.abs(
                    open_picture(encode(sample(), kind, quality=90), "x").pixels.astype(int) - sample()
                )
                self.assertLess(off.mean(), 4)

    def test_alpha_is_laid_over_white(self) -> None:
        rgba = np.zeros((40, 40, 4), np.uint8)
        rgba[..., 0], rgba[..., 3] = 255, 128
        got = open_picture(encode(rgba, "PNG"), "x").pixels[0, 0]
        np.testing.assert_allclose(got, (255, 127, 127), atol=1)

    def test_sixteen_bit_grey(self) -> None:
        grey = np.full((40, 40), 32768, np.uint16)
        self.assertAlmostEqual(int(open_picture(encode(grey, "PNG"), "x").pixels[0, 0, 0]), 128, delta=1)

    def test_cmyk_becomes_rgb(self) -> None:
        image = Image.new("CMYK", (40, 40), (255, 0, 0, 0))
        out = io.BytesIO()
        image.save(out, "JPEG")
        red, green, blue = (int(v) for v in open_picture(out.getvalue(), "x").pixels[20, 20])
        self.assertLess(red, 90)
        self.assertGreater(min(green, blue), 120)

    def test_orientation_is_applied(self) -> None:
        image = Image.fromarray(sample(120, 80))
        exif = image.getexif()
        exif[0x0112] = 6
        out = io.BytesIO()
        image.save(out, "JPEG", exif=exif)
        self.assertEqual(open_picture(out.getvalue(), "x").pixels.shape[:2], (120, 80))

    def test_a_colour_profile_is_converted(self) -> None:
        image = Image.fromarray(sample())
        out = io.BytesIO()
        image.save(out, "PNG", icc_profile=ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
        np.testing.assert_allclose(open_picture(out.getvalue(), "x").pixels, sample(), atol=2)

    def test_of_an_animation_the_first_frame_is_taken(self) -> None:
        frames = [Image.fromarray(np.full((40, 40, 3), v, np.uint8)) for v in (200, 20)]
        out = io.BytesIO()
        frames[0].save(out, "GIF", save_all=True, append_images=frames[1:])
        self.assertGreater(int(open_picture(out.getvalue(), "x").pixels[0, 0, 0]), 150)


class Damage(unittest.TestCase):
    def refuse(self, content: bytes, *words: str) -> None:
        with self.assertRaises(PictureError) as caught:
            open_picture(content, "station.png")
        for word in ("station.png", *words):
            self.assertIn(word, str(caught.exception))

    def test_empty(self) -> None:
        self.refuse(b"", "empty")

    def test_not_a_picture(self) -> None:
        self.refuse(b"%PDF-1.7 nothing to see", "not a picture")

    def test_an_svg_is_told_apart(self) -> None:
        self.refuse(b'<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg"/>', "SVG")

    def test_cut_short(self) -> None:
        noisy = np.random.default_rng(1).integers(0, 255, (200, 200, 3)).astype(np.uint8)
        for kind in ("PNG", "JPEG"):
            with self.subTest(kind):
                content = encode(noisy, kind)
                self.refuse(content[: len(content) // 2], "damaged")

    def test_a_bomb_is_refused_before_it_is_decoded(self) -> None:
        def chunk(kind: bytes, body: bytes) -> bytes:
            return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

        head = struct.pack(">IIBBBBB", 30_000, 30_000, 8, 2, 0, 0, 0)
        bomb = (
            b"\x89PNG\r\n\x1a\n"
            + chunk(b"IHDR", head)
            + chunk(b"IDAT", zlib.compress(b"\0" * 1000))
            + chunk(b"IEND", b"")
        )
        self.refuse(bomb, "30000 x 30000", "limit")

    def test_one_px_wide(self) -> None:
        self.refuse(png(np.zeros((500, 1, 3), np.uint8)), "too small")


class Scale(unittest.TestCase):
    def test_given_width_gives_the_scale(self) -> None:
        self.assertEqual(open_picture(png(np.zeros((100, 780, 3), np.uint8)), "x", width=390).scale, 2)

    def test_a_width_that_does_not_divide_is_an_error(self) -> None:
        with self.assertRaises(SettingError):
            open_picture(png(np.zeros((100, 800, 3), np.uint8)), "x", width=390)

    def test_doubled_device_widths_are_recognised(self) -> None:
        self.assertEqual(infer_scale(np.zeros((900, 2880, 3), np.uint8)), 2)
        self.assertEqual(infer_scale(np.zeros((900, 1440, 3), np.uint8)), 1)

    def test_noise_is_told_from_flat_fills(self) -> None:
        page = np.kron(sample(60, 40), np.ones((8, 8, 1), np.uint8))
        self.assertEqual(open_picture(png(page), "x").noise, 0)


if __name__ == "__main__":
    unittest.main()
