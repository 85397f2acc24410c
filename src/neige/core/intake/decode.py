"""Bounded decoding of PNG, JPEG, WebP, GIF, BMP, TIFF and AVIF to 8-bit sRGB over white."""

from __future__ import annotations

import io
import warnings
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from neige.core.errors import PictureError, SettingError
from neige.core.intake.scale import infer_scale
from neige.core.model import Picture

FORMATS = ("PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF", "AVIF")
MAX_PIXELS = 120_000_000  # 3x of a 1440 px wide page 9,000 px long; about 0.4 GB decoded
MAX_BYTES = 100_000_000
LOSSY_NOISE = 0.8  # 8-bit steps: what a lossy picture has at least, near edges, however flat its fills
BANDS = 100  # rows of cells that are looked at, at most twice as many
CELL, EXACT = 16, 0.01  # px, and the share of cells of one colour from which no noise can be in the picture
MIN_SIDE = 16  # px; nothing smaller can hold a word

Image.MAX_IMAGE_PIXELS = None  # the limit is ours, checked before anything is decoded


def open_picture(
    content: bytes,
    name: str = "picture",
    *,
    width: float | None = None,
    scale: int | None = None,
    trim: Sequence[int] = (0, 0, 0, 0),
) -> Picture:
    """Decode `content` to a Picture.

    `width` is the CSS width of the page if known, `scale` (1, 2 or 3) the device pixels per CSS px; what is not given
    is inferred. `trim` is what to cut off its top, right, bottom and left, in device px. Orientation is applied, an ICC profile is converted to sRGB, alpha is laid over white; of an animation the
    first frame is taken. Raises PictureError naming the file and the reason, SettingError for a bad width or scale.
    """
    if scale is not None and scale not in (1, 2, 3):
        raise SettingError(f"scale must be 1, 2 or 3, not {scale}")
    if width is not None and not 100 <= width <= 10_000:
        raise SettingError(f"width must be 100 to 10000 CSS px, not {width:g}")
    pixels, lossy = _decode(content, name)
    if any(trim):
        top, right, bottom, left = trim
        h, w = pixels.shape[:2]
        if min(trim) < 0 or h - top - bottom < MIN_SIDE or w - left - right < MIN_SIDE:
            raise SettingError(
                f"{name}: trimming {top}, {right}, {bottom} and {left} px leaves nothing of {w} x {h} px"
            )
        pixels = np.ascontiguousarray(pixels[top : h - bottom, left : w - right])
    if scale is None and width is not None:
        ratio = pixels.shape[1] / width
        scale = round(ratio)
        if scale not in (1, 2, 3) or abs(ratio - scale) > 0.02:
            raise SettingError(f"{name}: {pixels.shape[1]} px is not 1, 2 or 3 times {width:g} CSS px")
    return Picture(
        pixels, scale or infer_scale(pixels), name, max(estimate_noise(pixels), LOSSY_NOISE if lossy else 0.0)
    )


def _decode(content: bytes, name: str) -> tuple[NDArray[np.uint8], bool]:
    """(pixels, whether the format may have lost some)."""
    if not content:
        raise PictureError(f"{name}: the file is empty")
    if len(content) > MAX_BYTES:
        raise PictureError(
            f"{name}: {len(content) // 1_000_000} MB is more than the limit of {MAX_BYTES // 1_000_000} MB"
        )
    head = content[:512].lstrip().lower()
    if head.startswith((b"<svg", b"<?xml", b"<!doctype svg")):
        raise PictureError(f"{name}: an SVG is a drawing, not a picture; export it as PNG first")
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = Image.open(io.BytesIO(content), formats=FORMATS)
        except (UnidentifiedImageError, ValueError, OSError, SyntaxError) as e:
            raise PictureError(f"{name}: not a picture that can be read (use {', '.join(FORMATS)})") from e
        if image.width * image.height > MAX_PIXELS:
            raise PictureError(
                f"{name}: {image.width} x {image.height} px is more than the limit of {MAX_PIXELS // 1_000_000} megapixels"
            )
        if min(image.size) < MIN_SIDE:
            raise PictureError(f"{name}: {image.width} x {image.height} px is too small to hold a page")
        try:
            image.seek(0)
            image.load()
            lossy = image.format in ("JPEG", "AVIF") or (image.format == "WEBP" and b"VP8 " in content[:64])
            return _to_srgb(ImageOps.exif_transpose(image)), lossy
        except (OSError, ValueError, SyntaxError, EOFError, MemoryError, Image.DecompressionBombError) as e:
            raise PictureError(f"{name}: the file is damaged or cut short ({e})") from e


def _to_srgb(image: Image.Image) -> NDArray[np.uint8]:
    profile = image.info.get("icc_profile")
    if image.mode.startswith("I;16") or image.mode in ("I", "F"):
        grey = np.asarray(image, dtype=np.float64)
        top = 65535.0 if grey.max(initial=0) > 255 else 255.0
        return np.ascontiguousarray(
            np.repeat(np.clip(np.rint(grey / top * 255), 0, 255).astype(np.uint8)[:, :, None], 3, axis=2)
        )
    alpha = None
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        image = image.convert("RGBA")
        alpha = image.getchannel("A")
        image = image.convert("RGB")
    if profile and image.mode in ("RGB", "CMYK", "L"):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            converted = ImageCms.profileToProfile(
                image, source, ImageCms.createProfile("sRGB"), outputMode="RGB"
            )
            image = converted or image
        except ImageCms.PyCMSError:
            pass  # a broken profile: take the numbers as sRGB, as browsers do
    image = image.convert("RGB")
    if alpha is not None:
        white = Image.new("RGB", image.size, (255, 255, 255))
        white.paste(image, mask=alpha)
        image = white
    return np.ascontiguousarray(np.asarray(image, dtype=np.uint8))


def estimate_noise(pixels: NDArray[np.uint8]) -> float:
    """Standard deviation of compression noise on flat ground, in 8-bit steps.

    In a lossless picture most neighbouring pixels are equal, or much of it is a dithered gradient and what lies on it is flat
    to the last bit, which noise leaves nowhere. The measure is the mean absolute second difference of the flatter part of the
    picture, over 1.95 (for a Gaussian the second difference has sqrt(6) sigma).
    """
    grey = pixels[:: max(1, pixels.shape[0] // 1500), :, 1].astype(np.int16)
    if grey.shape[1] < 8:
        return 0.0
    second = np.abs(grey[:, 2:] - 2 * grey[:, 1:-1] + grey[:, :-2]).ravel()
    flat = second[second <= 12]
    if flat.size == 0 or (flat == 0).mean() > 0.5:
        return 0.0
    return 0.0 if _exact_share(pixels) >= EXACT else float(flat.mean() / 1.95)


def _exact_share(pixels: NDArray[np.uint8]) -> float:
    """Share of the picture's cells of CELL x CELL px, in BANDS rows of them, that are one colour throughout."""
    h, w = pixels.shape[0] // CELL, pixels.shape[1] // CELL
    if not h or not w:
        return 0.0
    bands = range(0, h, max(1, h // BANDS))
    cells = np.stack([pixels[b * CELL : (b + 1) * CELL, : w * CELL] for b in bands])
    cells = cells.reshape(len(bands), CELL, w, CELL, 3)
    return float((cells == cells[:, :1, :, :1]).all(axis=(1, 3, 4)).mean())
