"""Progress bars: the track under a bar, of which only what is right of the bar is seen."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Fill, Rect, Rule, Shadow, Surface
from neige.core.model.geometry import edges
from neige.core.reading.colour import away_from, to_hex
from neige.core.reading.surfaces.remains import device_slices

TRACK = 28.0  # px: higher things than a progress bar are not completed under one another
THIN = 2.0  # px: lower lines have no parts,
REACH = 400.0  # px that such a track is long at most,
EVEN = 12  # 8-bit steps by which the pixels of one of its columns differ at most,
TURN = 20  # and those of neighbours where the bar ends at least
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


def thin_tracks(
    surfaces: list[Surface], rules: list[Rule], pixels: NDArray[np.uint8], scale: int
) -> tuple[list[Surface], list[Rule]]:
    """Lines of which a part at the beginning is in another colour, or runs from one to another, are bars on their tracks."""
    bars: list[Surface] = []
    for rule in (r for r in rules if r.rect.w > r.rect.h >= THIN):
        if not any(rule.rect.meet(b.rect) for b in bars):
            bars += _thin_bar(rule, pixels, scale)
    kept = [r for r in rules if not any(r.rect.meet(b.rect) and r.rect.h == b.rect.h for b in bars)]
    return sorted([*surfaces, *bars], key=lambda s: (-s.rect.area, s.rect.y, s.rect.x)), kept


def _thin_bar(rule: Rule, pixels: NDArray[np.uint8], scale: int) -> list[Surface]:
    """The track that a line is a part of, and the bar at its beginning; [] if it is no part of one."""
    rows, columns = device_slices(rule.rect, scale)
    top, bottom = rows.start - scale - 1, rows.stop + scale
    if top < 0 or bottom >= len(pixels):
        return []
    reach = round(REACH * scale)
    first, last = max(0, columns.start - reach), min(pixels.shape[1], columns.stop + reach)
    line = pixels[rows, first:last].astype(np.int16)
    middle = line[line.shape[0] // 2]
    ground = pixels[[top, bottom], first:last].astype(np.int16)
    even = np.abs(line - middle[None]).max(axis=(0, 2)) <= EVEN
    inked = np.abs(ground - middle[None]).max(axis=2).min(axis=0) >= OTHER
    shown = even & inked
    inside = columns.start - first
    start = inside - int(shown[:inside][::-1].argmin()) if not shown[:inside].all() else 0
    length = len(shown) - start if shown[start:].all() else int(shown[start:].argmin())
    run = middle[start : start + length]
    steps = np.flatnonzero(np.abs(np.diff(run, axis=0)).max(axis=1) >= TURN) + 1
    if len(steps) != 1 or min(steps[0], length - steps[0]) < LEAST * scale or length > REACH * scale:
        return []
    bar, rest = run[: steps[0]], run[steps[0] :]
    if np.abs(rest - rest[0]).max() > SAME:
        return []
    tips = [int(0 <= k < len(inked) and inked[k]) for k in (start - 1, start + length)]  # of rounded ends
    x, right = (first + start - tips[0]) / scale, (first + start + length + tips[1]) / scale
    y, end, radius = rule.rect.y, rule.rect.bottom, rule.rect.h / 2 if all(tips) else 0.0
    a, b = to_hex(np.median(bar[:4], axis=0)), to_hex(np.median(bar[-4:], axis=0))
    whole = np.abs(bar - bar[0]).max() <= SAME
    fill = Fill(a) if whole else Fill(a, 90.0, ((0.0, a), (1.0, b)))
    split = float(first + start + steps[0]) / scale
    corners = (radius, 0.0, 0.0, radius) if radius else None
    return [
        Surface(edges(x, y, right, end), Fill(to_hex(np.median(rest, axis=0))), radius, confidence=0.8),
        Surface(edges(x, y, split, end), fill, radius, corners=corners, confidence=0.8),
    ]


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
