"""Corner radii by drawing: the radius whose drawn corner looks most like the picture's. Device px in here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cache

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Surface
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces.rectangles import rounded_mask

WINDOW = 36  # px at 1x of a corner that are looked at
PLAIN = (
    5.0  # 8-bit steps by which a surface's edge must differ from what is outside for its corner to be seen
)
BETTER = 0.6  # of a square corner's error that a rounded one may leave
TOLD = 2.0  # 8-bit steps between a square and a rounded corner, where one can tell them
SHADE = 24.0  # 8-bit steps by which a shadow may darken what is beside it
WHOLE = 1.4  # times the error that a radius in whole px may leave over one in halves
ROUND = 0.9  # of half the shorter side from which a corner is a pill's or disc's
ALIKE = 1.0  # px at 1x by which the corners of one surface may differ and still be one radius

Measured = dict[
    tuple[Rect, tuple[float, ...], str, Fill, int], float | None
]  # radii, by all they are measured by


def round_corners(
    pixels: NDArray[np.uint8],
    surfaces: list[Surface],
    scale: int,
    photos: Sequence[Rect] = (),
    measured: Measured | None = None,
) -> list[Surface]:
    """Surfaces with their corner radii measured; `corners` is set where they are not all alike.

    `photos` (CSS px): a borderless corner with a photo in it cannot be seen. `measured`: what was measured of the same picture before,
    to which more is added.

    A corner that cannot be seen (the same colour inside and outside) is as its fellows are. Dashed corners were measured already.
    """
    known = {} if measured is None else measured
    return [
        s if s.radius > WINDOW or s.border_style != "solid" else _rounded(pixels, s, scale, photos, known)
        for s in surfaces
    ]


def _rounded(
    pixels: NDArray[np.uint8], s: Surface, scale: int, photos: Sequence[Rect], measured: Measured
) -> Surface:
    def radius_of(corner: int) -> float | None:
        key = (s.rect, s.border, s.border_colour, s.fill, corner)
        if key not in measured:
            measured[key] = _radius(pixels, s, corner, scale)
        return measured[key]

    hidden = [False] * 4
    if not any(s.border):
        r = s.rect
        points = [
            (r.x + 1, r.y + 1),
            (r.right - 1, r.y + 1),
            (r.right - 1, r.bottom - 1),
            (r.x + 1, r.bottom - 1),
        ]
        hidden = [any(p.x <= x <= p.right and p.y <= y <= p.bottom for p in photos) for x, y in points]
    seen = [None if hidden[i] else radius_of(i) for i in range(4)]
    known = [r for r in seen if r is not None]
    if not known:
        return s
    half = min(s.rect.w, s.rect.h) / 2
    if max(known) - min(known) <= max(ALIKE * scale, 0.1 * max(known)):
        radius = tidy(float(np.median(known)) / scale)
        if radius >= ROUND * half:
            return replace(s, radius=half, corners=None)
        if abs(radius - s.radius) < 1.0 and s.radius:
            return replace(s, corners=None)
        return replace(s, radius=radius, corners=None)
    usual = tidy(max(known) / scale)
    lines = [(s.border[y] > 0) != (s.border[x] > 0) for y, x in ((0, 3), (0, 1), (2, 1), (2, 3))]
    unseen = [0.0 if line else usual for line in lines]  # a line along one side would bend there
    corners = tuple(u if r is None else tidy(r / scale) for u, r in zip(unseen, seen, strict=True))
    return replace(s, radius=usual, corners=(corners[0], corners[1], corners[2], corners[3]))


def tidy(radius: float) -> float:
    """A radius in whole px where it nearly is one, else in halves."""
    whole = round(radius)
    return float(whole) if abs(radius - whole) < 0.45 else round(radius * 2) / 2


def _radius(pixels: NDArray[np.uint8], s: Surface, corner: int, scale: int) -> float | None:
    """Radius (px) of corner 0..3 (top left, then clockwise), or None if it cannot be seen."""
    height, width = pixels.shape[:2]
    x0, y0 = round(s.rect.x * scale), round(s.rect.y * scale)
    x1, y1 = round(s.rect.right * scale), round(s.rect.bottom * scale)
    n = min(WINDOW * scale, (x1 - x0) // 2, (y1 - y0) // 2)
    if n < 3:
        return None
    right, low = corner in (1, 2), corner in (2, 3)
    top, bottom = (y1 - n, y1 + 2) if low else (y0 - 2, y0 + n)
    left, end = (x1 - n, x1 + 2) if right else (x0 - 2, x0 + n)
    if top < 0 or left < 0 or bottom > height or end > width:
        return None  # at the picture's edge
    part = pixels[top:bottom, left:end].astype(np.float32)
    if low:
        part = part[::-1]
    if right:
        part = part[:, ::-1]
    outside, inner = part[0, 0], part[2:, 2:]
    b_y, b_x = s.border[2 if low else 0], s.border[1 if right else 3]
    thick = round(max(b_y, b_x) * scale)
    if n < thick + 3:
        return None
    edge = from_hex(s.border_colour).astype(np.float32) if b_y and b_x and s.border_colour else inner[0, -1]
    if np.abs(edge - outside).max() < PLAIN or (b_y > 0) != (b_x > 0):
        return None
    if np.abs(inner[0, 0] - edge).max() <= min(6.0, 0.4 * np.abs(edge - outside).max()):
        return 0.0
    fill = from_hex(s.fill.colour).astype(np.float32)
    middle = np.median(inner[n // 2 :, n // 2 :].reshape(-1, 3), axis=0)
    plain = not s.fill.stops and np.abs(middle - fill).max() <= 3

    corner_half = np.add.outer(np.arange(n), np.arange(n)) < n
    beyond = _beyond(part, outside)

    def draw(radius: float) -> NDArray[np.float32]:
        cover, hole = _corner(n, radius, thick)
        drawn = beyond * (1 - cover) + (edge * (cover - hole) + fill * hole if plain else edge * cover)
        return np.asarray(drawn, np.float32)

    def off(radius: float) -> NDArray[np.float32]:
        # what lies in a frame is content; only the frame's arc and what is outside it count
        weigh = 1 - _corner(n, radius, thick)[1][..., 0] if thick and not plain else 1.0
        return np.asarray(np.abs(inner - draw(radius)).mean(axis=2) * weigh * corner_half, np.float32)

    def error(radius: float) -> float:
        return float(off(radius).sum())

    tries = [r * scale for r in (0, 2, 3, 4, 5, 6, 8, 10, 12, 16, 20, 24, 32) if r * scale <= n]
    tries.append(n)
    errors = {float(r): error(float(r)) for r in tries}
    best = min(errors, key=lambda r: (errors[r], r))
    for step in (1.0 * scale, 0.5 * scale):
        for r in (best - step, best + step):
            if 0 <= r <= n and r not in errors:
                errors[r] = error(r)
        best = min(errors, key=lambda r: (errors[r], r))
    whole = [r for r in errors if r % scale == 0 and abs(r - best) < scale]
    if whole and best % scale:  # half a px is believed only where it is plainly better
        near = min(whole, key=lambda r: (errors[r], r))
        best = near if errors[near] <= WHOLE * errors[best] else best
    told = np.abs(draw(best) - draw(0.0)).max(axis=2) > TOLD  # elsewhere both are as far off
    return best if off(best)[told].sum() <= BETTER * off(0.0)[told].sum() + 1e-6 else 0.0


def _beyond(part: NDArray[np.float32], outside: NDArray[np.float32]) -> NDArray[np.float32]:
    """What would show where a corner is cut off, (n, n, 3) or one colour: a shadow grows darker along the sides."""
    beside, above = part[2:, :2].mean(axis=1), part[:2, 2:].mean(axis=0)
    if max(np.abs(beside - outside).max(), np.abs(above - outside).max()) > SHADE:
        return outside
    return np.asarray((beside[:, None] + above[None]) / 2, np.float32)


@cache
def _corner(n: int, radius: float, thick: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """(cover, hole) (n, n, 1) of a box's top left corner: how much of each pixel it covers, and its inside without the border."""
    big = 2 * max(n, int(radius) + 1) + 4
    cover = rounded_mask(big, big, radius)[:n, :n, None]
    if not thick:
        return cover, cover
    hole = np.zeros((n, n, 1), np.float32)
    inside = rounded_mask(big, big, max(0.0, radius - thick))[: n - thick, : n - thick, None]
    hole[thick:, thick:] = inside[: n - thick, : n - thick]
    return cover, hole
