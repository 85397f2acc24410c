"""How well does a piece of text, drawn in a face, match the ink that was measured?

Chromium's own drawing is reproduced to a correlation of 0.997 (catalogue.draw), so that a wrong weight, a neighbouring
family or a misread letter shows. Least squares against the drawing undoes anti-aliasing: the slope is the colour.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.type import fit as f
from neige.core.reading.type.catalogue import catalogue, coverage, draw, draw_onto, shape
from neige.core.reading.type.pieces import Piece

NEIGHBOURS = 4  # words to each side that say together where the line's advances begin
OFF_LINE = 1.2  # px at 1x: a word farther off than that stands where its own edges are
ACCENTED, DESCENT = 0.8, 0.26  # em above and below the baseline that letters reach
SAME_INK = 0.022  # OKLab distance under which two measured inks are one colour
WELL_DRAWN = 0.09  # residual up to which the slope of ink against drawing tells the ink's colour
STRAY = 0.04  # residual of a word from which it is looked for a fraction of a px beside its place
HOPEFUL = 0.3  # residual of a piece up to which that is worth it
WRONG = 0.6  # residual from which nothing is looked for beside its place
SLID = 0.3  # px from which a word does stand off its line
ROWS = 2  # px a baseline may be off the one the edges tell


@dataclass(frozen=True)
class Match:
    """`residual`: share of the ink's energy that the drawing leaves unexplained, 0..1; `slope`: how much farther than the
    piece's colour the ink goes; `words`: residual of each word; `pens`, `baseline`: where it was drawn, device px."""

    residual: float
    slope: float
    words: NDArray[np.float64]
    pens: NDArray[np.float64]
    baseline: int


def _own_and_steady(
    p: Piece, row: int, size: float, tracking: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where each word's pen starts, by its own edges, and by the line's advances from the origin that its neighbours agree on."""
    own = f.pen_positions(p.edges, row, size, tracking)
    if len(own) < 2:
        return own, own
    text = " ".join(p.edges.texts)
    shaped = shape(row, text, abs(tracking) > 0.01)
    pens = dict(zip(reversed(shaped.clusters), reversed(shaped.x)))
    at, run = 0, []
    for word in p.edges.texts:
        run.append(pens.get(at, 0.0) * size + at * tracking)
        at += len(word) + 1
    ideal = np.array(run)
    off = own - ideal
    near = np.lib.stride_tricks.sliding_window_view(np.pad(off, NEIGHBOURS, mode="edge"), 2 * NEIGHBOURS + 1)
    return own, ideal + np.median(near, axis=1)


def _better(
    p: Piece, row: int, size: float, tracking: float, own: NDArray[np.float64], steady: NDArray[np.float64],
    off: NDArray[np.bool_], base: int,
) -> NDArray[np.float64]:  # fmt: skip
    """For words that stand off the line's advances: where their ink is better explained, here or there."""
    found = []
    for pens in (steady, np.where(off, own, steady)):
        drawn = paint(p, row, size, tracking, pens, base)
        found.append(_by_word(p, drawn * _residual(drawn, p.cover)[1], p.cover))
    return np.where(off & (found[1] < found[0]), own, steady)


def paint(
    p: Piece, row: int, size: float, tracking: float, pens: NDArray[np.float64], baseline: int, rows: int = 0
) -> NDArray[np.float32]:
    """The piece's words drawn (h + 2 rows, w) as full as a browser draws them."""
    blank = np.zeros((p.cover.shape[0] + 2 * rows, p.cover.shape[1]), np.uint8)
    x, y = p.origin
    for text, pen in zip(p.edges.texts, pens.tolist()):
        draw_onto(blank, row, text, size, tracking, pen - x, baseline - y + rows, p.fitted)
    canvas = coverage(blank)
    if p.ruled is not None:
        canvas[rows : rows + len(p.ruled)][p.ruled] = 0
    return canvas + np.float32(p.fullness) * canvas * (1 - canvas)


def match(p: Piece, row: int, size: float, tracking: float, scale: int = 1) -> Match:
    """Draw a piece in catalogue instance `row` at `size` and `tracking` (device px) where it fits best, and compare."""
    key = (row, size, tracking, scale)
    known = p.matches.get(key)
    if known is None:
        known = p.matches[key] = _match(p, row, size, tracking, scale)
    return known


def _match(p: Piece, row: int, size: float, tracking: float, scale: int) -> Match:
    own, pens = _own_and_steady(p, row, size, tracking)
    base = round(f.baseline_of(p.edges, row, size))
    off = np.abs(own - pens) > OFF_LINE * scale
    if off.any():
        pens = _better(p, row, size, tracking, own, pens, off, base)
    tall = paint(p, row, size, tracking, pens, base, ROWS)
    h = p.cover.shape[0]
    best, k = -1.0, ROWS
    for n in range(2 * ROWS + 1):
        m = tall[n : n + h]
        score = float(np.vdot(m, p.cover)) / (float(np.sqrt(np.vdot(m, m))) + 1e-6)
        if score > best + 1e-9:
            best, k = score, n
    base += ROWS - k
    drawn = tall[k : k + h]
    rows = _rows(p, row, size, base)
    drawn, cover = drawn[rows], p.cover[rows]
    residual, slope = _residual(drawn, cover)
    if residual > WRONG:
        words = _by_word(p, drawn * slope, cover)
        if words.min() > HOPEFUL:  # none of it is set so, wherever it stands
            return Match(residual, slope, words, pens, base)
    slide = _slide(drawn, cover)
    if abs(slide) > 0.06:
        moved = paint(p, row, size, tracking, pens + slide, base)[rows]
        better = _residual(moved, cover)
        if better[0] < residual:
            pens, drawn, (residual, slope) = pens + slide, moved, better
    words = _by_word(p, drawn * slope, cover)
    stray = words > STRAY
    if (
        stray.any() and len(words) > 1 and residual < HOPEFUL
    ):  # words that stand a little off the others' line of advances
        at = pens + np.where(stray, _slides(p, drawn, cover), 0.0)
        moved = paint(p, row, size, tracking, at, base)[rows]
        after, again = _by_word(p, moved * slope, cover), _residual(moved, cover)
        if again[0] < residual:
            residual, slope = again
            words = np.minimum(words, after)
            pens = np.where((np.abs(at - pens) > SLID) & (after < words + 1e-9), at, pens)
    return Match(residual, slope, words, pens, base)


def _rows(p: Piece, row: int, size: float, baseline: int) -> slice:
    """The rows that a line in this face can ink, with a little room: a neighbouring line's ink is no evidence."""
    face = catalogue().instances[row].face
    top = baseline - p.origin[1] - int(np.ceil(max(face.cap_height, 0.74, ACCENTED) * size)) - 1
    bottom = baseline - p.origin[1] + int(np.ceil(DESCENT * size)) + 1
    low = min(max(0, top), p.cover.shape[0] - 1)
    return slice(low, max(low + 1, min(p.cover.shape[0], bottom)))


def _slide(drawn: NDArray[np.float32], cover: NDArray[np.float32]) -> float:
    """Least-squares shift in px, at most half a px, that brings the drawing onto the ink: cover = s (drawn - d * d drawn/dx)."""
    dx = np.zeros_like(drawn)
    dx[:, 1:-1] = (drawn[:, 2:] - drawn[:, :-2]) / 2
    a, b, c = float((drawn * drawn).sum()), float((drawn * dx).sum()), float((dx * dx).sum())
    u, v = float((cover * drawn).sum()), float((cover * dx).sum())
    det = a * c - b * b
    if det <= 1e-6 or a < 1e-6:
        return 0.0
    s, t = (c * u - b * v) / det, (a * v - b * u) / det
    return float(np.clip(-t / s, -0.5, 0.5)) if s > 0.1 else 0.0


def _slides(p: Piece, drawn: NDArray[np.float32], cover: NDArray[np.float32]) -> NDArray[np.float64]:
    """What `_slide` says, for each word of a piece by itself: (n,) px."""
    dx = np.zeros_like(drawn)
    dx[:, 1:-1] = (drawn[:, 2:] - drawn[:, :-2]) / 2
    cuts = _cuts(p, drawn.shape[1])
    a, b, c, u, v = (
        np.add.reduceat((x * y).sum(axis=0), cuts).astype(np.float64)
        for x, y in ((drawn, drawn), (drawn, dx), (dx, dx), (cover, drawn), (cover, dx))
    )
    det = a * c - b * b
    fine = (det > 1e-6) & (a > 1e-6)
    det = np.where(fine, det, 1.0)
    s, t = (c * u - b * v) / det, (a * v - b * u) / det
    return np.where(fine & (s > 0.1), np.clip(-t / np.where(s > 0.1, s, 1.0), -0.5, 0.5), 0.0)


def _residual(drawn: NDArray[np.float32], cover: NDArray[np.float32]) -> tuple[float, float]:
    mm, mc, cc = float((drawn * drawn).sum()), float((drawn * cover).sum()), float((cover * cover).sum())
    if mm < 1e-6 or cc < 1e-6:
        return 1.0, 1.0
    # the ratio of norms, not mc / mm: a drawing a little off its place would make the ink look paler than it is
    return max(0.0, 1 - mc * mc / (mm * cc)), float(np.sqrt(cc / mm))


def _by_word(p: Piece, model: NDArray[np.float32], cover: NDArray[np.float32]) -> NDArray[np.float64]:
    """Unexplained share of each word's ink, words parted half-way between their boxes."""
    if len(p.words) == 1:
        return np.array([float(((cover - model) ** 2).sum()) / max(float((cover**2).sum()), 1e-6)])
    off = ((cover - model) ** 2).sum(axis=0)
    ink = (cover**2).sum(axis=0)
    cuts = _cuts(p, len(off))
    return np.asarray(np.add.reduceat(off, cuts) / np.maximum(np.add.reduceat(ink, cuts), 1e-6), np.float64)


def _cuts(p: Piece, width: int) -> NDArray[np.int64]:
    """The columns where words begin: half-way between their boxes."""
    middles = (p.edges.right[:-1] + p.edges.left[1:]) / 2 - p.origin[0]
    return np.clip(np.concatenate([[0], middles]).astype(np.int64), 0, width - 1)


def locate(p: Piece, n: int, row: int, size: float, tracking: float, baseline: int) -> tuple[float, float]:
    """(x of the pen in device px, normalised correlation) where word n, drawn, lies best within half an em of its box."""
    text = p.edges.texts[n]
    width = shape(row, text, abs(tracking) > 0.01).advance * size + tracking * len(text)
    lead = 2
    canvas = np.zeros((p.cover.shape[0], int(np.ceil(width)) + 2 * lead), np.float32)
    drawn = draw(row, text, size, tracking, lead, baseline - p.origin[1], canvas.shape, p.fitted)
    drawn = drawn + np.float32(p.fullness) * drawn * (1 - drawn)
    columns = np.flatnonzero(drawn.max(axis=0) > 0.05)
    if columns.size == 0:
        return float(p.edges.left[n]), 0.0
    drawn = np.ascontiguousarray(drawn[:, columns[0] : columns[-1] + 1])
    reach = 0.5 * size
    a = max(0, int(p.edges.left[n] - reach) - p.origin[0])
    b = min(p.cover.shape[1], int(np.ceil(p.edges.right[n] + reach)) - p.origin[0])
    if b - a < drawn.shape[1]:
        return float(p.edges.left[n]), 0.0
    scores = cv2.matchTemplate(np.ascontiguousarray(p.cover[:, a:b]), drawn, cv2.TM_CCORR_NORMED)[0]
    at = int(np.argmax(scores))
    return p.origin[0] + a + at - float(columns[0]) + lead, float(scores[at])


def ink_colour(p: Piece, found: Match) -> NDArray[np.float64]:
    """The ink's own colour (3,) 0..255, anti-aliasing undone: the piece's purest colour, carried on by the fitted slope, or,
    where the drawing fits badly, as far as its purest few pixels go."""
    if found.residual < WELL_DRAWN:
        slope = float(np.clip(found.slope, 0.8, 1.8))
    else:
        inked = p.cover[p.cover > 0.25]
        slope = float(np.clip(np.quantile(inked, 0.985), 1.0, 1.3)) if inked.size > 40 else 1.0
    return np.clip(p.ground + slope * (p.colour - p.ground), 0, 255)
