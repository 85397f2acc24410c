"""Colours: packing, hex strings, OKLab (Ottosson 2020), WCAG contrast."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray


def to_hex(colour: Sequence[float] | NDArray) -> str:
    """sRGB 0..255 to "#rrggbb"."""
    r, g, b = (int(min(255, max(0, round(float(c))))) for c in colour)
    return f"#{r:02x}{g:02x}{b:02x}"


def from_hex(text: str) -> NDArray[np.float64]:
    """ "#rrggbb" to sRGB 0..255."""
    return np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)], dtype=np.float64)


def pack(pixels: NDArray[np.uint8]) -> NDArray[np.int32]:
    """sRGB (..., 3) to one integer a pixel, 0xrrggbb."""
    if not pixels.size:
        return np.zeros(pixels.shape[:-1], np.int32)
    rows = np.ascontiguousarray(pixels).reshape(len(pixels), -1, 3)
    whole = cv2.cvtColor(rows, cv2.COLOR_RGB2BGRA).view("<i4")
    return np.asarray(whole & 0xFFFFFF, np.int32).reshape(pixels.shape[:-1])


def unpack(value: int | NDArray[np.integer]) -> NDArray[np.float64]:
    """One such integer, or an array of them, to sRGB 0..255 (..., 3)."""
    return np.stack([value >> 16 & 255, value >> 8 & 255, value & 255], axis=-1).astype(np.float64)


def apart(a: NDArray[np.uint8], b: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Largest channel difference (h, w) of two pictures (h, w, 3); far faster than a reduction over the short last axis."""
    d = cv2.absdiff(np.ascontiguousarray(a), np.ascontiguousarray(b))
    return np.maximum(np.maximum(d[..., 0], d[..., 1]), d[..., 2])


def away_from(pixels: NDArray, colour: Sequence[float] | NDArray | float) -> NDArray[np.float64]:
    """Largest channel difference (...) of pixels (..., 3) from a colour (3,), or colours as many."""
    d = np.abs(np.asarray(pixels, np.float64) - colour)
    return np.asarray(np.maximum(np.maximum(d[..., 0], d[..., 1]), d[..., 2]))


def linear(rgb: NDArray) -> NDArray[np.float64]:
    """sRGB 0..255 to linear light 0..1 (IEC 61966-2-1)."""
    c = np.asarray(rgb, dtype=np.float64) / 255
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def oklab(rgb: NDArray) -> NDArray[np.float64]:
    """sRGB 0..255 (..., 3) to OKLab."""
    m1 = np.array(
        [
            [0.4122214708, 0.5363325363, 0.0514459929],
            [0.2119034982, 0.6806995451, 0.1073969566],
            [0.0883024619, 0.2817188376, 0.6299787005],
        ]
    )
    m2 = np.array(
        [
            [0.2104542553, 0.7936177850, -0.0040720468],
            [1.9779984951, -2.4285922050, 0.4505937099],
            [0.0259040371, 0.7827717662, -0.8086757660],
        ]
    )
    return np.cbrt(linear(rgb) @ m1.T) @ m2.T


def luminance(colour: str) -> float:
    """Relative luminance, WCAG 2.2."""
    return float(linear(from_hex(colour)) @ np.array([0.2126, 0.7152, 0.0722]))


def contrast(a: str, b: str) -> float:
    """Contrast ratio, WCAG 2.2: 1..21."""
    hi, lo = sorted((luminance(a), luminance(b)), reverse=True)
    return (hi + 0.05) / (lo + 0.05)


def chroma(colour: str) -> float:
    lab = oklab(from_hex(colour))
    return float(np.hypot(lab[1], lab[2]))


def away(a: str, b: str) -> float:
    """The distance of two colours (hex) in OKLab."""
    return float(np.linalg.norm(oklab(from_hex(a)) - oklab(from_hex(b))))
