"""Pieces of one picture that were cut apart: a feather beside a wordmark, a bar under a photo, points on a chart's line."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Rect, Surface
from neige.core.model.geometry import edges, union

STEP = 16  # 8-bit steps between px above and below a seam that is none
SEAMLESS = 0.35  # of its length
COVERED = 200.0  # px: a narrower picture is not looked for behind a panel
NEAR = 2.0  # px between its pieces
WHOLE = 0.9  # of what is behind the panel's upper edge that the pieces and the panel make up
TOUCH = 1.5  # px between pieces of one picture
BEYOND = 8.0  # px that a piece may reach beyond the side it touches
PIECE = (
    0.5  # of its neighbour's area that a piece has at most: pictures of like size are pictures of their own
)
MINGLED = 0.06  # of the smaller one's box that lies in the other's
SMALL = 26.0  # px: two that are no larger are an icon and its mark


def join_pieces(
    cutouts: Sequence[Cutout], texts: Sequence[Rect], told: Sequence[Rect] = ()
) -> tuple[Cutout, ...]:
    """The cutouts with pieces joined to what they touch. `texts`: ink that must stay text; `told`: places that the developer spoke about."""
    out = sorted(cutouts, key=lambda c: (-c.rect.area, c.rect.y, c.rect.x))
    joined = True
    while joined:
        joined = False
        for i, whole in enumerate(out):
            piece = next((p for p in out[i + 1 :] if _belongs(p, whole, texts, told)), None)
            if piece is not None:
                kind = "image" if "image" in (whole.kind, piece.kind) else "icon"
                words = " ".join(t for t in (whole.text, piece.text) if t)
                out[i] = replace(whole, rect=union([whole.rect, piece.rect]), kind=kind, text=words)
                out.remove(piece)
                joined = True
                break
    places = {id(c): k for k, c in enumerate(cutouts)}
    return tuple(sorted(out, key=lambda c: places.get(id(c), _first(c, cutouts))))


def _first(c: Cutout, cutouts: Sequence[Cutout]) -> int:
    return next(k for k, o in enumerate(cutouts) if o.rect.inside(c.rect, 0.99))


def _belongs(piece: Cutout, whole: Cutout, texts: Sequence[Rect], told: Sequence[Rect]) -> bool:
    a, b = piece.rect, whole.rect
    if piece.backdrop or whole.backdrop or piece.radius or any(r.meet(a) or r.meet(b) for r in told):
        return False
    if a.meet(b) >= MINGLED * a.area and not a.inside(b, 0.9):
        return not _parted(a, b, texts)  # boxes that overlap: neither can be cut out alone
    if a.area > PIECE * b.area:
        return False
    if max(a.w, a.h, b.w, b.h) <= SMALL or (piece.ground != whole.ground and not a.inside(b, 0.9)):
        return False
    across = max(a.x, b.x) - min(a.right, b.right)
    down = max(a.y, b.y) - min(a.bottom, b.bottom)
    if max(across, down) > TOUCH:
        return False
    level = b.y - BEYOND <= a.y and a.bottom <= b.bottom + BEYOND
    upright = b.x - BEYOND <= a.x and a.right <= b.right + BEYOND
    return (level or upright) and not _parted(a, b, texts)


def _parted(a: Rect, b: Rect, texts: Sequence[Rect]) -> bool:
    """Does text lie between two pieces?"""
    both = union([a, b])
    return any(t.meet(both) > t.meet(a) + t.meet(b) + 1 for t in texts)


def uncover(cutouts: Sequence[Cutout], surfaces: Sequence[Surface]) -> list[Cutout]:
    """Photos with a panel in front of them: the pieces that stand out round it are one photo, which goes on behind it."""
    out = list(cutouts)
    for whole in sorted(cutouts, key=lambda c: -c.rect.area):
        if whole not in out or whole.kind != "image" or whole.rect.w < COVERED:
            continue
        pieces = [
            c
            for c in out
            if c is not whole
            and c.kind == "image"
            and abs(c.rect.y - whole.rect.bottom) <= NEAR
            and (abs(c.rect.x - whole.rect.x) <= NEAR or abs(c.rect.right - whole.rect.right) <= NEAR)
            and c.rect.w < whole.rect.w
        ]
        if not pieces:
            continue
        lowest = max(c.rect.bottom for c in pieces)
        box = edges(whole.rect.x, whole.rect.y, whole.rect.right, lowest)
        below = edges(box.x, whole.rect.bottom, box.right, lowest)
        free = [c.rect for c in pieces if abs(c.rect.bottom - lowest) <= NEAR]
        panels = [
            s
            for s in surfaces
            if s.rect.meet(below) and not below.inside(s.rect, 0.9) and s.rect.bottom > lowest
        ]
        seen = sum(r.meet(below) for r in free)
        hidden = max((s.rect.meet(below) for s in panels), default=0.0)
        if seen + hidden >= WHOLE * below.area and hidden:
            out[out.index(whole)] = replace(whole, rect=box)
            out = [c for c in out if not any(c is p for p in pieces)]
    return out


def absorb_skies(
    surfaces: list[Surface],
    cutouts: list[Cutout],
    pixels: NDArray[np.uint8],
    text: Sequence[Rect],
    scale: int,
) -> tuple[list[Surface], list[Cutout]]:
    """A gradient right above or below a photo of its width, that goes on in it without a seam, is the photo's sky (or its ground)."""
    left, out = list(surfaces), list(cutouts)
    for s in surfaces:
        if not s.fill.stops or any(s.border) or s.picture >= 0:
            continue
        for c in out:
            a, b = s.rect, c.rect
            level = abs(a.x - b.x) <= BEYOND and abs(a.right - b.right) <= BEYOND and c.kind == "image"
            seam = None
            if a.y < b.y - BEYOND and b.y - BEYOND <= a.bottom <= b.bottom:
                seam = b.y
            elif a.bottom > b.bottom + BEYOND and b.y <= a.y <= b.bottom + BEYOND:
                seam = b.bottom
            if (
                not level
                or seam is None
                or not _goes_on(pixels, max(a.x, b.x), min(a.right, b.right), seam, scale)
            ):
                continue
            box = union([a, b])
            over = any(t.inside(box, 0.8) for t in text)
            radius = max(s.radius, c.radius)
            out = [o for o in out if o is c or not o.rect.inside(box, 0.95)]
            out[out.index(c)] = replace(c, rect=box, backdrop=over, radius=radius)
            left.remove(s)
            break
    return left, out


def _goes_on(pixels: NDArray[np.uint8], x0: float, x1: float, y: float, scale: int) -> bool:
    """Do the px on both sides of a level seam hardly differ for much of its length?"""
    row, a, b = round(y * scale), round(x0 * scale), round(x1 * scale)
    if not 3 <= row < pixels.shape[0] - 3 or b - a < 8:
        return False
    above, below = pixels[row - 3, a:b].astype(np.int16), pixels[row + 2, a:b].astype(np.int16)
    return float((np.abs(above - below).max(axis=1) <= STEP).mean()) >= SEAMLESS
