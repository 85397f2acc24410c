"""A picture of a page."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Kind = Literal["screenshot", "photo"]


@dataclass(frozen=True)
class Picture:
    """One raster of a page.

    `pixels` is (height, width, 3) uint8 sRGB in device pixels; `scale` is device pixels per CSS px.
    `noise` is the estimated standard deviation of compression noise on flat ground, in 8-bit steps (0: flat fills are exact).
    """

    pixels: NDArray[np.uint8]
    scale: int
    name: str = "picture"
    noise: float = 0.0

    @property
    def width(self) -> float:
        """Width in CSS px."""
        return self.pixels.shape[1] / self.scale

    @property
    def height(self) -> float:
        """Height in CSS px."""
        return self.pixels.shape[0] / self.scale
