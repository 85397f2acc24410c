"""Painting a reading back without a browser: what it does not explain is the difference to the picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rule, Surface
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces.flat import rounded_mask


def gradient(fill: Fill, h: int, w: int) -> NDArray[np.float32]:
    """(h, w, 3) of a linear gradient as CSS Images 3 draws it: interpolated in gamma-coded sRGB along `angle`."""
    a = np.deg2rad(fill.angle)
    dx, dy = np.sin(a), -np.cos(a)
    length = abs(w * dx) + abs(h * dy) or 1.0
    x = (np.arange(w) + 0.5 - w / 2)[None, :]
    y = (np.arange(h) + 0.5 - h / 2)[:, None]
    t = (x * dx + y * dy) / length + 0.5
    at = [s[0] for s in fill.stops]
    colours = np.array([from_hex(s[1]) for s in fill.stops])
    return np.stack([np.interp(t, at, colours[:, c]) for c in range(3)], axis=-1).astype(np.float32)


def paint(canvas: NDArray[np.float32], surface: Surface, scale: int) -> None:
    """Paint one surface onto `canvas` (H, W, 3) float in place: border, then fill. Shadows are left out (they are faint)."""
    x0, y0 = round(surface.rect.x * scale), round(surface.rect.y * scale)
    x1, y1 = round(surface.rect.right * scale), round(surface.rect.bottom * scale)
    radius = surface.radius * scale
    top, right, bottom, left = (round(b * scale) for b in surface.border)
    if any(surface.border):
        _blend(canvas, x0, y0, x1, y1, radius, from_hex(surface.border_colour).astype(np.float32))
    x0, y0, x1, y1 = x0 + left, y0 + top, x1 - right, y1 - bottom
    if x1 <= x0 or y1 <= y0:
        return
    inner = max(0.0, radius - max(top, left))
    fill = gradient(surface.fill, y1 - y0, x1 - x0) if surface.fill.stops else from_hex(surface.fill.colour).astype(np.float32)
    _blend(canvas, x0, y0, x1, y1, inner, fill)


def paint_rule(canvas: NDArray[np.float32], rule: Rule, scale: int) -> None:
    r = rule.rect
    x0, y0 = round(r.x * scale), round(r.y * scale)
    canvas[y0 : max(y0 + 1, round(r.bottom * scale)), x0 : max(x0 + 1, round(r.right * scale))] = from_hex(rule.colour)


def _blend(canvas: NDArray[np.float32], x0: int, y0: int, x1: int, y1: int, radius: float, colour: NDArray[np.float32]) -> None:
    height, width = canvas.shape[:2]
    a, b, c, d = max(0, x0), max(0, y0), min(width, x1), min(height, y1)
    if c <= a or d <= b:
        return
    area = canvas[b:d, a:c]
    if colour.ndim == 3:
        colour = colour[b - y0 : d - y0, a - x0 : c - x0]
    if radius < 0.5:
        area[:] = colour
        return
    cover = rounded_mask(y1 - y0, x1 - x0, radius)[b - y0 : d - y0, a - x0 : c - x0, None]
    area += cover * (colour - area)
