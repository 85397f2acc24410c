"""The reading painted back without a browser, and the map of what it does not explain."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_dilation, label
from scipy.ndimage import find_objects as boxes_of

from neige.core.model import Line, Picture, Reading, Rect, Surface
from neige.core.reading.colour import apart, from_hex
from neige.core.reading.paint import paint, paint_rule
from neige.core.reading.type.catalogue import draw, row_of
from neige.core.reading.type.specimen import specimen_rect

OFF = 40  # 8-bit steps between a pixel painted back and the picture's from which it counts as unexplained
SLACK = 1  # px: ink that close to painted ink of its colour is only drawn a little differently
PLACE = 40  # px² from which an unexplained place is listed
NEAR = 6  # px between places that are listed as one


def paint_back(reading: Reading, picture: Picture) -> NDArray[np.uint8]:
    """(H, W, 3) device px: the ground, surfaces and lines; the pictures as they were cut; the text in its fitted type."""
    scale = picture.scale
    canvas = np.zeros(picture.pixels.shape, np.float32)
    paint(canvas, Surface(Rect(0, 0, reading.width, reading.height), reading.background), scale)
    for s in reading.surfaces:
        paint(canvas, s, scale)
    for r in reading.rules:
        paint_rule(canvas, r, scale)
    for c in reading.cutouts:
        rows = slice(max(0, round(c.rect.y * scale)), max(0, round(c.rect.bottom * scale)))
        columns = slice(max(0, round(c.rect.x * scale)), max(0, round(c.rect.right * scale)))
        canvas[rows, columns] = picture.pixels[rows, columns]
    for s in reading.surfaces:  # what lies on a picture is painted on it
        if any(
            c.backdrop and s.rect.inside(c.rect, 0.95) and s.rect.area < c.rect.area for c in reading.cutouts
        ):
            paint(canvas, s, scale)
    for line in reading.lines:
        _write(canvas, line, reading, scale)
    return np.clip(np.rint(canvas), 0, 255).astype(np.uint8)


def _write(canvas: NDArray[np.float32], line: Line, reading: Reading, scale: int) -> None:
    r = specimen_rect(line)
    x0, y0 = max(0, round(r.x * scale)), max(0, round(r.y * scale))
    part = canvas[y0 : round(r.bottom * scale), x0 : round(r.right * scale)]
    if part.size == 0:
        return
    for w in line.words:
        s = reading.styles[w.style]
        cover = draw(
            row_of(s), w.text, s.size * scale, s.tracking * scale,
            w.x * scale - x0, line.baseline * scale - y0, (part.shape[0], part.shape[1]), s.fitted,
        )  # fmt: skip
        part += s.opacity * cover[..., None] * (from_hex(s.colour).astype(np.float32) - part)


def unexplained(reading: Reading, picture: Picture) -> tuple[NDArray[np.bool_], float, list[Rect]]:
    """(map (H, W), share of the picture, places in CSS px, the largest first) of what the reading painted back leaves open."""
    painted = paint_back(reading, picture)
    off = apart(painted, picture.pixels) > OFF
    # glyph edges a fraction of a px off are no open question: they have their fellow in the painting next to them
    near = np.ones((2 * SLACK * picture.scale + 1,) * 2, bool)
    for rect in (n.ink for n in reading.lines):
        s = picture.scale
        part = (
            slice(max(0, round((rect.y - 2) * s)), round((rect.bottom + 2) * s)),
            slice(max(0, round((rect.x - 2) * s)), round((rect.right + 2) * s)),
        )
        window = off[part]
        if window.size:
            contrast = apart(painted[part], np.broadcast_to(painted[part][:1, :1], painted[part].shape)) > OFF
            off[part] = window & ~binary_dilation(contrast, near)
    share = float(off.mean())
    joined = binary_dilation(off, np.ones((NEAR * picture.scale,) * 2, bool))
    numbers, _ = label(joined)
    places = []
    for rows, columns in boxes_of(numbers):
        area = float(off[rows, columns].sum()) / picture.scale**2
        if area >= PLACE:
            s = picture.scale
            places.append(
                (
                    area,
                    Rect(
                        columns.start / s,
                        rows.start / s,
                        (columns.stop - columns.start) / s,
                        (rows.stop - rows.start) / s,
                    ),
                )
            )
    return off, share, [r for _, r in sorted(places, key=lambda p: (-p[0], p[1].y, p[1].x))]
