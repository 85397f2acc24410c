"""Progress bars: the track under a bar, of which only what is right of the bar is seen."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import away_from, to_hex
from neige.core.reading.surfaces.remains import device_slices

TRACK = 28.0  # px: higher things than a progress bar are not completed under one another
LONG = 4.0  # times its height that a track is long at least
LEAST = 6.0  # px of it that are seen beside its bar
SAME = 3  # 8-bit steps by which its pixels may differ along it,
OTHER = 5  # and by which it differs from the ground around it at least
SUNK = 5.0  # 8-bit steps by which its upper edge is darker where it has a shadow in it,
SUNK_BLUR = 2.0  # px, of this blur


def complete_tracks(
    surfaces: list[Surface], text: list[Rect], pixels: NDArray[np.uint8], scale: int
) -> list[Surface]:
    """Every bar on the whole of its track: the part of it that was found made longer, or the track found beside its bar."""
    out = _complete(surfaces, text)
    for bar in [s for s in out if s.rect.h <= TRACK and not any(s.border) and s.shadow is None]:
        r = bar.rect
        known = any(
            o is not bar and abs(o.rect.y - r.y) <= 1 and abs(o.rect.h - r.h) <= 1.5
            and o.rect.x <= r.x + 1 and o.rect.right > r.right + 1 for o in out
        )  # fmt: skip
        if not known and not any(t.meet(r) > 0 for t in text) and (track := _beside(bar, pixels, scale)):
            out.append(track)
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))


def _beside(bar: Surface, pixels: NDArray[np.uint8], scale: int) -> Surface | None:
    """The track that goes on where a bar ends: the same pixels in every column, until it ends, too."""
    r = bar.rect
    rows, columns = device_slices(r, scale)
    start = columns.stop + 1
    band = pixels[rows, start:].astype(np.int16)
    if band.shape[0] < 3 or band.shape[1] < LEAST * scale or rows.start < 2 * scale:
        return None
    middle = band[band.shape[0] // 2]
    like = np.abs(middle - middle[0]).max(axis=1) <= SAME
    length = len(like) if like.all() else int(like.argmin())
    above, below = (
        pixels[rows.start - 2 * scale, start],
        pixels[min(rows.stop + scale, len(pixels) - 1), start],
    )
    apart = min(np.abs(g.astype(np.int16) - middle[0]).max() for g in (above, below))
    right = (start + length) / scale
    if length < LEAST * scale or apart < OTHER or right - r.x < LONG * r.h:
        return None
    profile = np.median(band[:, : max(1, length - band.shape[0] // 2)], axis=1)
    if away_from(band[:, : length // 2], profile[:, None]).mean() > SAME:
        return None
    fill = np.median(profile[len(profile) // 3 :], axis=0)
    dark = float((fill - profile[0]).max())
    inner = None
    if dark >= SUNK and dark < 0.3 * float(fill.max()):
        inner = Shadow(0.0, 1.0, SUNK_BLUR, 0.0, "#000000", round(1.4 * dark / float(fill.max()), 3))
    end = band[0, length - 1 - min(length - 1, scale)]
    radius = bar.radius if np.abs(end - profile[0]).max() <= OTHER else max(bar.radius, r.h / 2)
    return Surface(edges(r.x, r.y, right, r.bottom), Fill(to_hex(fill)), radius, inner=inner, confidence=0.8)


def _complete(surfaces: list[Surface], text: list[Rect]) -> list[Surface]:
    """What a bar leaves visible of its track is the track: a wordless low area that begins where a bar of its height ends."""
    out = []
    for s in surfaces:
        bar = next(
            (
                o
                for o in surfaces
                if o.fill != s.fill
                and s.rect.h <= TRACK
                and abs(o.rect.right - s.rect.x) <= 1.5
                and abs(o.rect.y - s.rect.y) <= 1.0
                and abs(o.rect.h - s.rect.h) <= 1.5
            ),
            None,
        )
        wordless = not any(t.inside(s.rect, 0.5) for t in text)
        if bar and wordless and s.rect.right - bar.rect.x >= 4 * s.rect.h:
            radius = max(bar.radius, s.radius)
            s = replace(
                s, rect=edges(bar.rect.x, s.rect.y, s.rect.right, s.rect.bottom), radius=radius, corners=None
            )
        out.append(s)
    return sorted(out, key=lambda s: (-s.rect.area, s.rect.y, s.rect.x))
