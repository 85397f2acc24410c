"""What the browser drew, and how it compares with the picture. Lengths are CSS px, positions from the page's top left."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from neige.core.model.geometry import Rect
from neige.core.model.outline import Part

VERSION = 1


@dataclass(frozen=True, slots=True)
class DrawnWord:
    """A word as drawn: its advance box and content area (a DOM range), with computed type."""

    text: str
    rect: Rect
    size: float
    weight: int
    family: str
    colour: str
    node: int = -1


@dataclass(frozen=True, slots=True)
class DrawnNode:
    """An element as drawn: its border box. `lines` is the number of text lines directly in it."""

    id: int
    rect: Rect
    lines: int = 0


@dataclass(frozen=True, slots=True)
class DrawnBox:
    """A painted element: its border box, the radius of its first corner, `border` widths (top, right, bottom, left), and whether it
    has a shadow, a fill of its own, or is or shows a picture. `node` is the outline node it belongs to, or -1."""

    rect: Rect
    radius: float
    border: tuple[float, float, float, float]
    shadow: bool
    picture: bool
    fill: bool
    node: int = -1


@dataclass(frozen=True)
class Drawing:
    """A page drawn at one width: pixels (h, w, 3) uint8 sRGB at `scale`, words, element boxes by outline node id, and everything
    that is painted. `png`: the pixels as the browser encoded them, if it did."""

    width: float
    height: float
    scroll_width: float
    scale: int
    pixels: NDArray[np.uint8]
    words: tuple[DrawnWord, ...]
    nodes: dict[int, DrawnNode]
    boxes: tuple[DrawnBox, ...] = ()
    png: bytes = b""


@dataclass(frozen=True, slots=True)
class Finding:
    """One difference worth a person's look. `weight` ranks it: roughly the area in px² that a viewer sees changed."""

    kind: str
    text: str
    rect: Rect
    weight: float
    node: int = -1


@dataclass(frozen=True, slots=True)
class Round:
    """One turn of the correction loop: its error before acceptance and whether it was kept, how many values it changed, and by which
    values its page differs from the one it went on from (see `changed_values`)."""

    error: float
    kept: bool
    changes: int
    values: tuple[str, ...] = ()


@dataclass(frozen=True)
class Proof:
    """Numbers of a page against a picture.

    `words_seen`, `words_found`: in the picture, and of these on the page with the same text within reach.
    `position_px`, `position_p90_px`: median and 90th percentile of word offset; `within_2px`: share of found words that near.
    `size_error`: median relative error of type size. `delta_e`: mean CIEDE2000; `ssim`: Wang et al. 2004 on luma.
    `coverage`: share of the picture's marked area that an element of the page covers.
    """

    width: float
    height: float
    drawn_height: float
    words_seen: int
    words_found: int
    words_extra: int
    position_px: float
    position_p90_px: float
    within_2px: float
    size_error: float
    delta_e: float
    ssim: float
    coverage: float
    overflow_px: float
    findings: tuple[Finding, ...] = ()
    rounds: tuple[Round, ...] = ()
    version: int = field(default=VERSION)


@dataclass(frozen=True)
class Sheet:
    """A page's parts with their three faces, and what the check of its outline found."""

    parts: tuple[Part, ...]
    checks: tuple[Finding, ...] = ()
