"""Pictures for the page: icons as outlines, photos in a format that is small at a quality nobody can tell from the source."""

from __future__ import annotations

import io
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image
from skimage.color import deltaE_ciede2000, rgb2lab

from neige.core.model import Cutout, Picture, Reading
from neige.core.model.page import Asset
from neige.core.outline.names import slug
from neige.core.reading.colour import away_from, from_hex, to_hex
from neige.core.writer.caret import caret, polygon
from neige.core.writer.trace import trace

Encoded = dict[int, tuple[bytes, str, tuple[int, int]]]  # by index of the cutout: what `encode` gave

FLAT_COLOURS = 256  # a picture with no more is stored losslessly
SAME = 1.5  # mean CIEDE2000 below which a stored picture is as good as its source
QUALITY = 88  # of WebP; for most photos nothing visible is won above it
FINER = 95  # for those that differ by more than SAME at that


def encode(picture: Picture, reading: Reading, cutout: Cutout) -> tuple[bytes, str, tuple[int, int]]:
    """(file content, extension, CSS size) of one cutout at the picture's own resolution, in the format that was chosen for it.

    Where none was: an icon of one ink is traced, other icons and pictures of few colours are PNG, photos WebP as fine as it takes
    for nobody to tell. AVIF at the speeds a build can afford was 1 % smaller than WebP on one photo and 6 % larger on one backdrop,
    at the same CIEDE2000, so it is left to be chosen: see `formats`.
    """
    pixels, size = crop(picture, reading, cutout)
    chosen = cutout.format
    if cutout.kind == "icon" and chosen in ("", "svg"):
        outline = trace(pixels, picture.scale)
        if outline is not None:
            return outline.svg().encode(), "svg", size
    if chosen in ("webp", "avif", "jpeg"):
        return encoded(pixels, chosen, cutout.quality or QUALITY), chosen, size
    if chosen == "png" or cutout.kind == "icon" or _few_colours(pixels):
        return encoded(pixels, "png", 100), "png", size
    content = encoded(pixels, "webp", cutout.quality or QUALITY)
    if not cutout.quality and _difference(pixels, _decoded(content, pixels)) > SAME:
        content = encoded(pixels, "webp", FINER)
    return content, "webp", size


def _decoded(content: bytes, like: NDArray[np.uint8]) -> NDArray[np.uint8]:
    with Image.open(io.BytesIO(content)) as image:
        return np.asarray(image.convert("RGBA" if like.shape[2] == 4 else "RGB"))


def crop(picture: Picture, reading: Reading, cutout: Cutout) -> tuple[NDArray[np.uint8], tuple[int, int]]:
    """(pixels, CSS size) of a cutout: (h, w, 3), or (h, w, 4) with its ground turned to alpha for an icon."""
    s = picture.scale
    h, w = picture.pixels.shape[:2]
    x0, y0 = max(0, round(cutout.rect.x * s)), max(0, round(cutout.rect.y * s))
    x1, y1 = min(w, round(cutout.rect.right * s)), min(h, round(cutout.rect.bottom * s))
    pixels = picture.pixels[y0:y1, x0:x1]
    if cutout.backdrop:
        pixels = _without_text(pixels, reading, x0, y0, s)
    size = (max(1, round((x1 - x0) / s)), max(1, round((y1 - y0) / s)))
    if cutout.kind == "icon":
        pixels = _with_alpha(pixels, from_hex(cutout.ground))
    return pixels, size


def _few_colours(pixels: NDArray[np.uint8]) -> bool:
    packed = (pixels.astype(np.int32) @ np.array([65536, 256, 1])).ravel()
    return len(np.unique(packed[:: max(1, pixels.size // 600_000)])) <= FLAT_COLOURS


@dataclass(frozen=True)
class Format:
    """One way to store a cutout. `error` is the mean CIEDE2000 to its pixels; `good`: nobody can tell it from them."""

    name: str
    quality: int
    content: bytes
    error: float
    good: bool


def formats(picture: Picture, reading: Reading, cutout: Cutout, quality: int = 0) -> list[Format]:
    """A cutout in every format that can hold it, the smallest good one first."""
    pixels, _ = crop(picture, reading, cutout)
    out = []
    outline = trace(pixels, picture.scale) if cutout.kind == "icon" else None
    if outline is not None:
        out.append(Format("svg", 0, outline.svg().encode(), 0.0, True))
    for name in ("png", "webp", "avif", "jpeg"):
        if name == "jpeg" and pixels.shape[2] == 4:
            continue
        q = 100 if name == "png" else quality or cutout.quality or QUALITY
        content = encoded(pixels, name, q)
        error = _difference(pixels, _decoded(content, pixels))
        out.append(Format(name, 0 if name == "png" else q, content, round(error, 3), error <= SAME))
    return sorted(out, key=lambda f: (not f.good, len(f.content), f.name))


def _difference(a: NDArray[np.uint8], b: NDArray[np.uint8]) -> float:
    """Mean CIEDE2000 of two crops of one size; transparent ones are laid on white."""

    def lab(p: NDArray[np.uint8]) -> NDArray[np.float64]:
        rgb = p[..., :3].astype(np.float64)
        if p.shape[2] == 4:
            alpha = p[..., 3:].astype(np.float64) / 255
            rgb = rgb * alpha + 255 * (1 - alpha)
        step = max(1, int(np.sqrt(rgb.shape[0] * rgb.shape[1] / 60_000)))
        return np.asarray(rgb2lab(rgb[::step, ::step] / 255))

    return float(deltaE_ciede2000(lab(a), lab(b)).mean())


def encoded(pixels: NDArray[np.uint8], name: str, quality: int) -> bytes:
    """A picture file. `name`: png, webp, avif or jpeg; `quality` 1..100 as the codec understands it."""
    if name == "png":
        return _png(pixels)
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    if name == "webp":
        image.save(out, "WEBP", quality=quality, method=2)
    elif name == "avif":
        image.save(out, "AVIF", quality=quality, speed=8)
    else:
        image.convert("RGB").save(out, "JPEG", quality=quality, optimize=True, progressive=True)
    return out.getvalue()


def _png(pixels: NDArray[np.uint8]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", optimize=False, compress_level=6)
    return out.getvalue()


def _with_alpha(pixels: NDArray[np.uint8], ground: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Undo the ground of an icon: pixel = a*ink + (1-a)*ground, with the smallest alpha that keeps the ink in 0..255.

    The alpha is measured towards the farthest colour of the icon, so that one-colour icons become that colour with soft edges.
    """
    away = pixels.astype(np.float64) - ground
    distance = away_from(away, 0.0)
    if distance.max() < 8:
        return np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])
    far = pixels[distance >= 0.92 * distance.max()].mean(axis=0)
    direction = far - ground
    along = (away @ direction) / max(1.0, float(direction @ direction))
    off = away_from(away, along[..., None] * direction)
    one_ink = float((off > 14).mean()) < 0.02
    if one_ink:
        alpha = np.clip(along, 0, 1)
        ink = np.broadcast_to(far, pixels.shape)
    else:
        alpha = np.where(distance > 6, 1.0, 0.0)
        ink = pixels.astype(np.float64)
    return np.dstack([np.rint(np.clip(ink, 0, 255)), np.rint(alpha * 255)]).astype(np.uint8)


def _without_text(pixels: NDArray[np.uint8], reading: Reading, x0: int, y0: int, s: int) -> NDArray[np.uint8]:
    """A backdrop with the words and controls on it painted out (Telea 2004), so that no text is baked into a picture."""
    height, width = pixels.shape[:2]
    mask = np.zeros((height, width), np.uint8)
    boxes = [w.ink.grow(3) for line in reading.lines for w in line.words] + [
        f.rect.grow(2) for f in reading.surfaces
    ]
    for r in boxes:
        a, b = max(0, round(r.y * s) - y0), max(0, round(r.x * s) - x0)
        c, d = round(r.bottom * s) - y0, round(r.right * s) - x0
        if a < height and b < width and c > 0 and d > 0 and (d - b) * (c - a) < 0.5 * mask.size:
            mask[a:c, b:d] = 255
    if not mask.any():
        return pixels
    small = 0.5 if pixels.shape[1] > 900 else 1.0
    if small < 1:
        size = (round(pixels.shape[1] * small), round(pixels.shape[0] * small))
        less = cv2.inpaint(
            cv2.resize(pixels, size, interpolation=cv2.INTER_AREA),
            cv2.resize(mask, size, interpolation=cv2.INTER_NEAREST),
            3,
            cv2.INPAINT_TELEA,
        )
        filled = cv2.resize(less, (pixels.shape[1], pixels.shape[0]), interpolation=cv2.INTER_LINEAR)
    else:
        filled = cv2.inpaint(pixels, mask, 3, cv2.INPAINT_TELEA)
    return np.where(mask[..., None] > 0, filled, pixels)


class Files:
    """The page's picture files, made when they are first asked for. Equal pictures share one."""

    def __init__(self, picture: Picture, reading: Reading, encoded: Encoded) -> None:
        self.picture, self.reading, self.encoded = picture, reading, encoded
        self.assets: list[Asset] = []
        self._known: dict[int, tuple[str, tuple[int, int]]] = {}
        self._by_content: dict[bytes, str] = {}

    def caret(self, index: int) -> tuple[str, str, tuple[float, float]] | None:
        """(CSS shape, colour, size in CSS px) of a cutout that is the arrow of what opens."""
        pixels, _ = crop(self.picture, self.reading, self.reading.cutouts[index])
        if pixels.shape[2] < 4:
            return None
        found = caret(pixels[..., 3].astype(np.float64) / 255)
        if found is None:
            return None
        points, (_, _, w, h) = found
        ink = pixels[..., :3].reshape(-1, 3)[int(pixels[..., 3].argmax())]
        scale = self.picture.scale
        return polygon(points, w, h), to_hex(ink.astype(np.float64)), (w / scale, h / scale)

    def at(self, index: int, words: str = "") -> tuple[str, tuple[int, int]]:
        """(path, CSS size) of a cutout."""
        if index in self._known:
            return self._known[index]
        cutout = self.reading.cutouts[index]
        if index not in self.encoded:
            self.encoded[index] = encode(self.picture, self.reading, cutout)
        content, extension, size = self.encoded[index]
        if content in self._by_content:
            path = self._by_content[content]
        else:
            base = slug(cutout.name, 6) or slug(words, 3) or ("backdrop" if cutout.backdrop else "picture")
            if cutout.kind == "icon" and not cutout.name:
                base = f"{base}-icon" if base != "picture" else "icon"
            taken = {a.path for a in self.assets}
            path, n = f"assets/{base}.{extension}", 2
            while path in taken:
                path, n = f"assets/{base}-{n}.{extension}", n + 1
            self.assets.append(Asset(path, content))
            self._by_content[content] = path
        self._known[index] = (path, size)
        return path, size
