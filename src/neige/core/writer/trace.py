"""Icons of one ink traced to SVG outlines, and checked by painting the outline back."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
import vtracer
from numpy.typing import NDArray

from neige.core.reading.colour import to_hex

ENLARGE = 8  # times; the tracer sees only whole pixels, an icon's edges lie between them
TOLERANCE = 0.15  # mean difference of cover, as a share of the ink, that an outline may leave
LONGEST = 4000  # characters of a path; a longer one is no icon's outline
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


@dataclass(frozen=True)
class Outline:
    """An icon as one path. `d` is in CSS px of its box (`width` x `height`), `colour` is its ink."""

    d: str
    width: int
    height: int
    colour: str

    def svg(self) -> str:
        """The picture file."""
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{self.width}" height="{self.height}" '
            f'viewBox="0 0 {self.width} {self.height}"><path fill="{self.colour}" d="{self.d}"/></svg>\n'
        )


def trace(pixels: NDArray[np.uint8], scale: int) -> Outline | None:
    """The outline of an icon (h, w, 4) of one ink on transparent ground, or None if it is not one, or not drawn by it.

    `scale` is device px to a CSS px.
    """
    ink = pixels[..., 3] > 128
    if not ink.any() or max(pixels.shape[:2]) > 128 * scale:
        return None
    colours = pixels[..., :3][ink].astype(np.float64)
    colour = np.median(colours, axis=0)
    if np.abs(colours - colour).max(axis=1).mean() > 8:
        return None
    height, width = pixels.shape[:2]
    outline = _path(pixels[..., 3].tobytes(), height, width, scale)
    if outline is None:
        return None
    return Outline(outline, round(width / scale), round(height / scale), to_hex(colour))


@lru_cache(maxsize=512)
def _path(alpha: bytes, height: int, width: int, scale: int) -> str | None:
    cover = np.frombuffer(alpha, np.uint8).reshape(height, width)
    # room at the edges, or the enlarged ink runs out of the picture and leaves an open outline
    padded = cv2.copyMakeBorder(cover, 2, 2, 2, 2, cv2.BORDER_CONSTANT, value=0)
    size = ((width + 4) * ENLARGE, (height + 4) * ENLARGE)
    big = cv2.resize(padded, size, interpolation=cv2.INTER_CUBIC)
    # cut where the outline holds as much ink as the icon does: thin strokes never reach full cover
    level = float(
        np.quantile(
            big, 1 - min(0.98, float(cover.mean()) / 255 * width * height / ((width + 4) * (height + 4)))
        )
    )
    _, png = cv2.imencode(".png", np.where(big >= max(level, 40.0), 0, 255).astype(np.uint8))
    svg = vtracer.convert_raw_image_to_svg(
        png.tobytes(), img_format="png", colormode="binary", mode="spline", filter_speckle=ENLARGE,
        corner_threshold=60, length_threshold=2.0 * ENLARGE, splice_threshold=60, path_precision=1,
    )  # fmt: skip
    parts = []
    for path, moved in re.findall(r'<path d="([^"]+)"[^>]*?transform="translate\(([^)]*)\)"', svg):
        dx, dy = (float(v) for v in moved.split(","))
        parts.append(_scaled(path, dx, dy, scale))
    d = " ".join(parts)
    if not d or len(d) > LONGEST:
        return None
    drawn = _drawn(d, height, width, scale)
    ink = cover.astype(np.float32) / 255
    return d if float(np.abs(drawn - ink).sum()) <= TOLERANCE * max(float(ink.sum()), 1.0) + 1.5 else None


def _scaled(path: str, dx: float, dy: float, scale: int) -> str:
    """A path of the enlarged picture in CSS px, to two decimals."""
    out, vertical = [], False
    for token in re.findall(r"[A-Za-z]|-?\d+(?:\.\d+)?", path):
        if token.isalpha():
            out.append(token)
            vertical = False
            continue
        v = ((float(token) + (dy if vertical else dx)) / ENLARGE - 2) / scale
        out.append(f"{v:.2f}".rstrip("0").rstrip(".").replace("-0", "-0") or "0")
        vertical = not vertical
    text = " ".join(out)
    return re.sub(r" ?([A-Za-z]) ?", r"\1", text)


def _drawn(d: str, height: int, width: int, scale: int) -> NDArray[np.float32]:
    """Cover (height, width) of a path, even-odd, at 8 x 8 samples a pixel."""
    fine = 8
    rings: list[NDArray[np.int32]] = []
    for piece in re.findall(r"M[^M]*", d):
        points: list[tuple[float, float]] = []
        for command, args in re.findall(r"([MLC])([^MLCZz]*)", piece):
            v = [float(n) for n in NUMBER.findall(args)]
            pairs = list(zip(v[::2], v[1::2]))
            if command == "C":
                for i in range(0, len(pairs) - 2, 3):
                    p0, (p1, p2, p3) = points[-1], pairs[i : i + 3]
                    for t in np.linspace(0.125, 1, 8):
                        s = 1 - t
                        points.append(
                            tuple(
                                float(s**3 * a + 3 * s * s * t * b + 3 * s * t * t * c + t**3 * e)
                                for a, b, c, e in zip(p0, p1, p2, p3)
                            )  # type: ignore[arg-type]
                        )
            else:
                points += pairs
        rings.append(np.rint(np.array(points) * scale * fine * 16).astype(np.int32))
    canvas = np.zeros((height * fine, width * fine), np.uint8)
    cv2.fillPoly(canvas, rings, 255, shift=4)
    small = cv2.resize(canvas, (width, height), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32) / np.float32(255)
