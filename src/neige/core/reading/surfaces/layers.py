"""Which of two surfaces that lie across each other is in front: the one whose colour is seen where they meet."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import from_hex
from neige.core.reading.surfaces.remains import device_slices

MOST = 1500  # surfaces that are compared with each other
WITHIN = 0.98  # of a surface: it lies on the other, not across it
MEETING = 4.0  # px that they share at least, each way
LIKE = 6.0  # 8-bit steps from a fill's colour, or from that of the nearest of its stops


def in_layers(surfaces: list[Surface], pixels: NDArray[np.uint8], scale: int) -> list[Surface]:
    """Surfaces from the back to the front: the larger first, but where two lie across each other what the picture shows decides."""
    out = sorted(surfaces, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))
    if not 2 <= len(out) <= MOST:
        return out
    x0, y0, x1, y1 = (
        np.array([getattr(s.rect, side) for s in out]) for side in ("x", "y", "right", "bottom")
    )
    w = np.minimum(x1[:, None], x1) - np.maximum(x0[:, None], x0)
    h = np.minimum(y1[:, None], y1) - np.maximum(y0[:, None], y0)
    own = (x1 - x0) * (y1 - y0)
    meet = np.where((w > MEETING) & (h > MEETING), w * h, 0.0)
    across = (meet > 0) & (meet < WITHIN * np.minimum(own[:, None], own))
    behind: dict[int, set[int]] = {}
    for i, j in zip(*(a.tolist() for a in np.nonzero(np.triu(across, 1)))):
        a, b = out[i].rect, out[j].rect
        box = edges(max(a.x, b.x), max(a.y, b.y), min(a.right, b.right), min(a.bottom, b.bottom))
        part = pixels[device_slices(box.grow(-1), scale)]
        if part.size and _share(part, out[i]) > _share(part, out[j]):
            behind.setdefault(i, set()).add(j)
    order: list[int] = []
    waiting = list(range(len(out)))
    while waiting:
        ready = next((k for k in waiting if not behind.get(k, set()) & set(waiting)), waiting[0])
        waiting.remove(ready)
        order.append(ready)
    return [out[k] for k in order]


def _share(part: NDArray[np.uint8], s: Surface) -> float:
    """Share of the pixels that have a surface's colour."""
    if not s.fill.colour:
        return 0.0
    colours = [from_hex(c) for c in ([c for _, c in s.fill.stops] or [s.fill.colour])]
    low, high = np.min(colours, axis=0) - LIKE, np.max(colours, axis=0) + LIKE
    return float(((part >= low) & (part <= high)).all(axis=2).mean())
