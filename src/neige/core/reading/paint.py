"""Painting a reading back without a browser: what it does not explain is the difference to the picture."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rule, Shadow, Surface
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces.rectangles import rounded_mask


def gradient(fill: Fill, h: int, w: int) -> NDArray[np.float32]:
    """(h, w, 3) of a gradient as CSS Images 3 draws it: interpolated in gamma-coded sRGB along `angle`, or from `centre` outwards."""
    if fill.centre is not None:
        across = ((np.arange(w) + 0.5) / w - fill.centre[0])[None, :] / fill.radii[0]
        return _interpolated(
            fill, np.hypot(across, ((np.arange(h) + 0.5) / h - fill.centre[1])[:, None] / fill.radii[1])
        )
    a = np.deg2rad(fill.angle)
    dx, dy = np.sin(a), -np.cos(a)
    length = abs(w * dx) + abs(h * dy) or 1.0
    x = (np.arange(w) + 0.5 - w / 2)[None, :]
    y = (np.arange(h) + 0.5 - h / 2)[:, None]
    return _interpolated(fill, (x * dx + y * dy) / length + 0.5)


def _interpolated(fill: Fill, t: NDArray[np.float64]) -> NDArray[np.float32]:
    at = [s[0] for s in fill.stops]
    colours = np.array([from_hex(s[1]) for s in fill.stops])
    return np.stack([np.interp(t, at, colours[:, c]) for c in range(3)], axis=-1).astype(np.float32)


def paint(canvas: NDArray[np.float32], surface: Surface, scale: int) -> None:
    """Paint one surface onto `canvas` (H, W, 3) float in place: shadow, border, then fill."""
    for shadow in reversed(surface.shadow.layers if surface.shadow else ()):
        _paint_shadow(canvas, surface, shadow, scale)
    x0, y0 = round(surface.rect.x * scale), round(surface.rect.y * scale)
    x1, y1 = round(surface.rect.right * scale), round(surface.rect.bottom * scale)
    radii = surface.corners or (surface.radius,) * 4
    top, right, bottom, left = (round(b * scale) for b in surface.border)
    if any(surface.border) and surface.border_colour:
        ink = from_hex(surface.border_colour).astype(np.float32)
        if surface.border_style != "solid":
            ink = _dashed(surface, y1 - y0, x1 - x0, ink, scale)
        _blend(canvas, x0, y0, x1, y1, _radii(radii, 0.0, scale), ink)
    if surface.accent:
        _paint_accent(canvas, surface.accent, (x0, y0, x1, y1), _radii(radii, 0.0, scale), scale)
    x0, y0, x1, y1 = x0 + left, y0 + top, x1 - right, y1 - bottom
    if x1 <= x0 or y1 <= y0:
        return
    inner = _radii(radii, max(top, left) / scale, scale)
    fill = (
        gradient(surface.fill, y1 - y0, x1 - x0)
        if surface.fill.stops
        else from_hex(surface.fill.colour).astype(np.float32)
    )
    _blend(canvas, x0, y0, x1, y1, inner, fill)
    if surface.inner is not None:
        _paint_inner_shadow(canvas, (x0, y0, x1, y1), inner, surface.inner, scale)


def _paint_inner_shadow(
    canvas: NDArray[np.float32],
    box: tuple[int, int, int, int],
    radii: float | tuple[float, float, float, float],
    shadow: Shadow,
    scale: int,
) -> None:
    """CSS Backgrounds 3: what is outside the padding box, shrunk by the spread and moved, blurred and clipped to that box."""
    x0, y0, x1, y1 = box
    if min(x0, y0) < 0 or x1 > canvas.shape[1] or y1 > canvas.shape[0]:
        return
    h, w = y1 - y0, x1 - x0
    own = rounded_mask(h, w, radii)
    reach = (
        int(np.ceil((1.5 * shadow.blur + max(abs(shadow.dx), abs(shadow.dy)) + abs(shadow.spread)) * scale))
        + 2
    )
    less = round(shadow.spread * scale)
    hole = np.pad(own, reach)
    if less:
        change = cv2.erode if less > 0 else cv2.dilate
        kernel = np.ones((2 * abs(less) + 1, 2 * abs(less) + 1), np.uint8)
        hole = np.asarray(change(hole, kernel), np.float32)
    hole = np.roll(hole, (round(shadow.dy * scale), round(shadow.dx * scale)), (0, 1))
    blurred = cv2.GaussianBlur(hole, (0, 0), max(0.3, shadow.blur * scale / 2))
    shade = (1 - np.asarray(blurred, np.float32)[reach : reach + h, reach : reach + w]) * own * shadow.opacity
    part = canvas[y0:y1, x0:x1]
    part += shade[..., None] * (from_hex(shadow.colour).astype(np.float32) - part)


def _dashed(surface: Surface, h: int, w: int, ink: NDArray[np.float32], scale: int) -> NDArray[np.float32]:
    """(h, w, 3): dashes or dots and the fill between them. CSS leaves their length to the browser; twice the border's width is usual
    for dashes, and dots are as long as they are wide."""
    thick = max(surface.border) * scale
    dash = max(2.0, 2 * thick) if surface.border_style == "dashed" else max(1.0, thick)
    out = np.broadcast_to(from_hex(surface.fill.colour).astype(np.float32), (h, w, 3)).copy()
    rows, columns = (np.arange(h) % (2 * dash) < dash), (np.arange(w) % (2 * dash) < dash)
    top, right, bottom, left = (round(v * scale) for v in surface.border)
    out[:top, columns] = out[h - bottom :, columns] = ink
    out[rows, :left] = out[rows, w - right :] = ink
    return out


def _paint_accent(
    canvas: NDArray[np.float32],
    accent: tuple[int, float, str],
    box: tuple[int, int, int, int],
    radii: float | tuple[float, float, float, float],
    scale: int,
) -> None:
    """One side of a box in its own colour."""
    side, width, colour = accent
    x0, y0, x1, y1 = box
    w = round(width * scale)
    rows = slice(y1 - w, y1) if side == 2 else slice(y0, y0 + w) if side == 0 else slice(y0, y1)
    columns = slice(x1 - w, x1) if side == 1 else slice(x0, x0 + w) if side == 3 else slice(x0, x1)
    if min(x0, y0) < 0 or x1 > canvas.shape[1] or y1 > canvas.shape[0]:
        return
    cover = rounded_mask(y1 - y0, x1 - x0, radii)
    part = cover[rows.start - y0 : rows.stop - y0, columns.start - x0 : columns.stop - x0, None]
    canvas[rows, columns] += part * (from_hex(colour).astype(np.float32) - canvas[rows, columns])


def _radii(
    radii: tuple[float, float, float, float], less: float, scale: int
) -> tuple[float, float, float, float] | float:
    """Corner radii in device px, each smaller by `less` CSS px; one number where they are alike."""
    a, b, c, d = (max(0.0, (r - less) * scale) for r in radii)
    return a if a == b == c == d else (a, b, c, d)


def _paint_shadow(canvas: NDArray[np.float32], surface: Surface, shadow: Shadow, scale: int) -> None:
    """CSS Backgrounds 3: the border box, grown by the spread and moved, blurred with a Gaussian of half the blur radius."""
    reach = (
        int(np.ceil((shadow.blur * 1.5 + abs(shadow.spread) + abs(shadow.dx) + abs(shadow.dy)) * scale)) + 2
    )
    r = surface.rect
    x0, y0 = round(r.x * scale) - reach, round(r.y * scale) - reach
    w, h = round(r.w * scale) + 2 * reach, round(r.h * scale) + 2 * reach
    if w * h > canvas.shape[0] * canvas.shape[1]:
        return
    grow = round(shadow.spread * scale)
    bw, bh = round(r.w * scale) + 2 * grow, round(r.h * scale) + 2 * grow
    if bw < 2 or bh < 2:
        return
    cover = np.zeros((h, w), np.float32)
    top, left = reach - grow + round(shadow.dy * scale), reach - grow + round(shadow.dx * scale)
    cover[top : top + bh, left : left + bw] = rounded_mask(
        bh, bw, max(0.0, surface.radius + shadow.spread) * scale
    )
    cover = (
        np.asarray(cv2.GaussianBlur(cover, (0, 0), max(0.3, shadow.blur * scale / 2)), np.float32)
        * shadow.opacity
    )
    a, b = max(0, y0), max(0, x0)
    c, d = min(canvas.shape[0], y0 + h), min(canvas.shape[1], x0 + w)
    if c > a and d > b:
        part = canvas[a:c, b:d]
        part += cover[a - y0 : c - y0, b - x0 : d - x0, None] * (
            from_hex(shadow.colour).astype(np.float32) - part
        )


def paint_rule(canvas: NDArray[np.float32], rule: Rule, scale: int) -> None:
    r = rule.rect
    x0, y0 = round(r.x * scale), round(r.y * scale)
    step = 2 if rule.style == "dotted" else 1
    columns = slice(x0, max(x0 + 1, round(r.right * scale)), step)
    canvas[y0 : max(y0 + 1, round(r.bottom * scale)), columns] = from_hex(rule.colour)


def _blend(
    canvas: NDArray[np.float32],
    x0: int,
    y0: int,
    x1: int,
    y1: int,
    radius: float | tuple[float, float, float, float],
    colour: NDArray[np.float32],
) -> None:
    height, width = canvas.shape[:2]
    a, b, c, d = max(0, x0), max(0, y0), min(width, x1), min(height, y1)
    if c <= a or d <= b:
        return
    area = canvas[b:d, a:c]
    if colour.ndim == 3:
        colour = colour[b - y0 : d - y0, a - x0 : c - x0]
    if not isinstance(radius, tuple) and radius < 0.5:
        area[:] = colour
        return
    h, high = (
        y1 - y0,
        int(np.ceil(max(radius) if isinstance(radius, tuple) else radius)) + 1,
    )  # of its corners
    bands: list[tuple[int, int, NDArray[np.float32] | None]]
    if h <= 2 * high:
        bands = [(0, h, rounded_mask(h, x1 - x0, radius))]
    else:  # between its corners a box is as wide as it is
        cover = rounded_mask(2 * high, x1 - x0, radius)
        bands = [(0, high, cover[:high]), (high, h - high, None), (h - high, h, cover[high:])]
    for top, bottom, part in bands:
        u, v = max(top, b - y0), min(bottom, d - y0)
        if v <= u:
            continue
        at = slice(u + y0 - b, v + y0 - b)
        ink = colour[at] if colour.ndim == 3 else colour
        if part is None:
            area[at] = ink
        else:
            area[at] += part[u - top : v - top, a - x0 : c - x0, None] * (ink - area[at])
