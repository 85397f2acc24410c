"""Logos: walls of boxes of one size, each with lettering that no face of the page draws, and a mark with a name beside it in a
face that nothing else is set in. They are pictures, whatever they say."""

from __future__ import annotations

import statistics
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from neige.core.model import Cutout, Line, Rect, Surface, TypeStyle
from neige.core.model.geometry import union
from neige.core.reading.colour import away_from, from_hex

TILE = (140.0, 60.0)  # px: the largest tile
WIDER = 1.25  # times as wide as high at least: initials stand in squares
SAME = 1.5  # px by which the sizes of tiles may differ
TILES, WALL = 2, 8  # at least, and so many that all of their size are logos
LETTERED = 0.12  # residual of a line from which it is lettering,
SET = 0.05  # on a page whose lines mostly leave less
UNDRAWN = 0.5  # residual of a word from which it is lettering, wherever it stands
LARGER, WELL = 1.15, 0.1  # times as large as the smallest lines that leave no more
ILL_DRAWN, MUCH_LARGER = (
    0.25,
    2.0,
)  # residual of a word from which it is if a mark stands before it, and times as large
INKED, MOST_OF = 40, 0.7  # 8-bit steps from the ground, and of the word's height, that a mark has
HEAD = 160.0  # px from the page's top within which its own logo stands
MARK, SQUARE = (14.0, 64.0), 1.3  # px: the height of a mark before the name; times as long as wide at most
BESIDE, LEVEL = 0.8, 0.2  # of the name's size between them; of it, that their middles differ by
NAME = 3  # words of a name beside a mark
OTHERS = 8  # lines of other text, which tell the page's faces
OWN = 3  # lines of a style at most: what more are set in is type


def without_logos(
    lines: Sequence[Line], styles: Sequence[TypeStyle], surfaces: Sequence[Surface]
) -> list[Line]:
    """The lines without those that are logos in several tiles."""
    if not lines or statistics.median(n.residual for n in lines) > SET:
        return list(lines)
    tiles = [
        s.rect
        for s in surfaces
        if s.rect.w <= TILE[0] and s.rect.h <= TILE[1] and s.rect.w >= WIDER * s.rect.h and not s.fill.stops
    ]
    lettered: list[Rect] = []
    for n in lines:
        box = min((r for r in tiles if n.ink.inside(r, 0.95)), key=lambda r: r.area, default=None)
        own = styles[n.style].lines <= OWN and len(n.words) <= 2
        if box and own and n.residual > LETTERED and box not in lettered:
            lettered.append(box)

    def alike(box: Rect, others: Sequence[Rect]) -> list[Rect]:
        return [r for r in others if abs(r.w - box.w) <= SAME and abs(r.h - box.h) <= SAME]

    walls = [r for r in lettered if len(alike(r, lettered)) >= TILES]
    large = [r for r in lettered if len(alike(r, lettered)) >= WALL]
    walls += [r for r in tiles if alike(r, large)]  # what a face happens to draw is a logo there, too
    return [n for n in lines if not any(n.ink.inside(r, 0.95) for r in walls)]


def is_wordmark(
    line: Line, lines: Sequence[Line], styles: Sequence[TypeStyle], pixels: NDArray[np.uint8], scale: int
) -> bool:
    """Is this a lone word at the page's top in lettering that no face draws and nothing else shares: a logo, so a picture? Large
    words with a mark right before them are already if they are drawn badly. `pixels`: (h, w, 3), `scale` px to a CSS px."""
    small = min((n.x_height for n in lines if n.residual < WELL), default=99.0)
    alone = len(line.words) == 1 and line.box.y < HEAD and styles[line.style].lines == 1
    if not alone or line.x_height <= LARGER * small:
        return False
    badly = line.residual > ILL_DRAWN and line.x_height > MUCH_LARGER * small
    return line.residual > UNDRAWN or (badly and _follows_mark(line, pixels, scale))


def _follows_mark(line: Line, pixels: NDArray[np.uint8], scale: int) -> bool:
    """Does something nearly as high as a word stand right before it, and nothing before that?"""
    r = line.ink
    y0, y1 = (max(0, round(v * scale)) for v in (r.y, r.bottom))
    x0, x1 = (max(0, round(v * scale)) for v in (r.x - 2 * r.h, r.x - 1))
    part = pixels[y0:y1, x0:x1].astype(np.int16)
    if not part.size:
        return False
    drawn = away_from(part, np.array(from_hex(line.ground))) > INKED
    columns = np.flatnonzero(drawn.any(axis=0))
    rows = np.flatnonzero(drawn.any(axis=1))
    if not columns.size or rows[-1] - rows[0] < MOST_OF * r.h * scale:
        return False
    wide = columns[-1] - columns[0] + 1
    return bool(
        columns[0] > 0 and x1 - x0 - columns[-1] <= BESIDE * r.h * scale and wide <= SQUARE * r.h * scale
    )


def join_marks(
    lines: Sequence[Line], surfaces: Sequence[Surface], cutouts: Sequence[Cutout]
) -> tuple[list[Surface], list[Cutout]]:
    """(surfaces, cutouts) with the disc or square at the page's top left that holds a mark, and the site's name beside it, as one
    picture: a logo."""
    left, marks = list(surfaces), list(cutouts)
    for s in surfaces:
        r = s.rect
        square = MARK[0] <= r.h <= MARK[1] and max(r.w, r.h) <= SQUARE * min(r.w, r.h) and r.y < HEAD / 2
        inside = [c for c in marks if c.rect.inside(r.grow(1), 0.9)] if square else []
        if len(inside) != 1 or inside[0].kind != "icon" or inside[0].backdrop or s.shadow or any(s.border):
            continue
        level = [n for n in lines if abs(n.ink.cy - r.cy) <= LEVEL * r.h]
        named = [n for n in level if 0 <= n.ink.x - r.right <= BESIDE * r.h and len(n.words) <= NAME]
        first = not any(n.ink.x < r.right for n in level) and not any(
            c.rect.right <= r.x and abs(c.rect.cy - r.cy) <= r.h / 2 for c in marks
        )
        if named and first:
            left.remove(s)
            marks[marks.index(inside[0])] = Cutout(r, "image", s.radius, ground=inside[0].ground)
            break
    return left, marks


def find_signs(lines: Sequence[Line], styles: Sequence[TypeStyle], surfaces: Sequence[Surface]) -> list[Rect]:
    """The places (CSS px) at the page's top where a mark and a name in a face of its own stand beside each other."""
    out = []
    for n in lines:
        face, size = styles[n.style].family, styles[n.style].size
        others = [o for o in lines if o is not n]
        if len(n.words) != 1 or n.box.y > HEAD or not n.text.isalpha() or len(others) < OTHERS:
            continue
        if any(styles[w.style].family == face for o in others for w in o.words):
            continue
        marks = [
            s.rect
            for s in surfaces
            if MARK[0] <= s.rect.h <= MARK[1]
            and max(s.rect.w, s.rect.h) <= SQUARE * min(s.rect.w, s.rect.h)
            and 0 <= n.ink.x - s.rect.right <= BESIDE * size
            and abs(s.rect.cy - n.ink.cy) <= LEVEL * size
        ]
        if marks:
            out.append(union([n.ink, max(marks, key=lambda r: r.area)]))
    return out
