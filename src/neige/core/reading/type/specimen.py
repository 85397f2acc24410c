"""A line drawn in its fitted type, to be looked at beside the picture's own."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Line, Rect, TypeStyle
from neige.core.reading.colour import from_hex
from neige.core.reading.type.catalogue import draw, row_of

MARGIN = 4.0  # CSS px around the line's box


def specimen_rect(line: Line) -> Rect:
    """What a specimen shows, in CSS px of the picture: the line's box and its ink, and a margin."""
    x0, y0 = min(line.box.x, line.ink.x) - MARGIN, min(line.box.y, line.ink.y) - MARGIN
    x1, y1 = max(line.box.right, line.ink.right) + MARGIN, max(line.box.bottom, line.ink.bottom) + MARGIN
    return Rect(x0, y0, x1 - x0, y1 - y0)


def draw_specimen(line: Line, styles: Sequence[TypeStyle], scale: int) -> NDArray[np.uint8]:
    """The line's words in their styles and inks on its ground: (h, w, 3) device px of `specimen_rect`."""
    r = specimen_rect(line)
    shape = (max(1, round(r.h * scale)), max(1, round(r.w * scale)))
    out = np.empty((*shape, 3))
    out[:] = from_hex(line.ground)
    for w in line.words:
        s = styles[w.style]
        cover = draw(
            row_of(s), w.text, s.size * scale, s.tracking * scale, (w.x - r.x) * scale, (line.baseline - r.y) * scale, shape, s.fitted
        )  # fmt: skip
        out += cover[..., None] * (from_hex(s.colour) - out)
    return np.clip(np.round(out), 0, 255).astype(np.uint8)
