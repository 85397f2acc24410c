"""Numbers of a drawn page against a picture. Public definitions: CIEDE2000 (CIE 142), SSIM (Wang et al. 2004)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment
from skimage.color import deltaE_ciede2000, rgb2lab

from neige.core.model import Drawing, DrawnWord, Picture, Pin, Proof, Reading, Round, Word
from neige.core.proof.findings import find
from neige.core.reading.colour import pack, unpack
from neige.core.reading.text.ink import spans

REACH = 60.0  # px within which equal words are the same word
SAME_PLACE = 0.3  # overlap (IoU) of a finding with one that was accepted
WINDOW = 5  # px that SSIM's window reaches from its middle
BLOCK = 64  # rows that it is computed for at once
LACKS = 0xFF00FF  # magenta: what a picture does not have always counts as wrong
HALF = 2  # colour differences are taken at half size: anti-aliasing is no difference


def prove(reading: Reading, picture: Picture, drawing: Drawing, rounds: tuple[Round, ...] = ()) -> Proof:
    """Compare a page drawn at the picture's width with the picture, and list what a person should look at, worst first."""
    seen = [
        (w, reading.styles[w.style].size, line.baseline, line.style)
        for line in reading.lines
        for w in line.words
    ]
    pairs, lost, extra = match_words([s[0] for s in seen], reading, drawing)
    offsets = np.array([_offset(w, reading, d) for w, d in pairs]).reshape(-1, 2)
    worst = np.abs(offsets).max(axis=1) if len(offsets) else np.zeros(0)
    sizes = [abs(d.size - reading.styles[w.style].size) / reading.styles[w.style].size for w, d in pairs]
    seen_at, drawn_at = (
        at_css_size(picture.pixels, picture.scale),
        at_css_size(drawing.pixels, drawing.scale),
    )
    beside = ThreadPoolExecutor(2)  # arrays here, words and boxes there: together they use two cores
    alike = beside.submit(ssim, *_same_size(seen_at, drawn_at))
    colours = beside.submit(colour_difference, seen_at, drawn_at)
    beside.shutdown(wait=False)
    findings = find(reading, picture, drawing, pairs, lost, extra, lambda w, d: _offset(w, reading, d))
    return Proof(
        picture.width, picture.height, drawing.height, len(seen), len(pairs), len(extra),
        float(np.median(np.hypot(*offsets.T))) if len(offsets) else 0.0, float(np.quantile(np.hypot(*offsets.T), 0.9)) if len(offsets) else 0.0,
        float((worst <= 2).mean()) if len(worst) else 1.0, float(np.median(sizes)) if sizes else 0.0,
        float(colours.result().mean()), alike.result(), _coverage(reading, drawing, len(pairs), len(seen)),
        max(0.0, drawing.scroll_width - drawing.width), tuple(findings), rounds,
    )  # fmt: skip


def without_accepted(proof: Proof, pins: Sequence[Pin]) -> Proof:
    """The proof without the findings that the developer said are as they should be."""
    accepted = [p for p in pins if p.kind == "accept"]
    return replace(
        proof,
        findings=tuple(
            f
            for f in proof.findings
            if not any(p.to == f.kind and p.rect.iou(f.rect) > SAME_PLACE for p in accepted)
        ),
    )


def _expected(w: Word, reading: Reading, baseline: float) -> tuple[float, float]:
    s = reading.styles[w.style]
    return w.x, baseline + (s.descent - s.ascent) / 2


def _offset(w: Word, reading: Reading, d: DrawnWord) -> tuple[float, float]:
    x, y = _expected(w, reading, _baselines(reading)[id(w)])
    return d.rect.x - x, d.rect.cy - y


_memo: dict[int, tuple[Reading, dict[int, float]]] = {}


def _baselines(reading: Reading) -> dict[int, float]:
    """Baseline of every word by id()."""
    kept = _memo.get(id(reading))
    if kept is None or kept[0] is not reading:
        _memo.clear()
        _memo[id(reading)] = (reading, {id(w): line.baseline for line in reading.lines for w in line.words})
    return _memo[id(reading)][1]


def match_words(
    words: list[Word], reading: Reading, drawing: Drawing
) -> tuple[list[tuple[Word, DrawnWord]], list[Word], list[DrawnWord]]:
    """(pairs, words not on the page, words not in the picture): equal text, nearest places, one to one."""
    by_text: dict[str, list[DrawnWord]] = defaultdict(list)
    for d in drawing.words:
        by_text[d.text].append(d)
    groups: dict[str, list[Word]] = defaultdict(list)
    for w in words:
        groups[w.text].append(w)
    pairs, lost, used = [], [], set()
    base = _baselines(reading)
    for text, ws in groups.items():
        ds = by_text.get(text, [])
        if not ds:
            lost += ws
            continue
        seen = np.array([_expected(w, reading, base[id(w)]) for w in ws])
        drawn = np.array([(d.rect.x, d.rect.cy) for d in ds])
        cost = np.hypot((seen[:, None, 0] - drawn[None, :, 0]) / 2, seen[:, None, 1] - drawn[None, :, 1])
        rows, columns = linear_sum_assignment(np.minimum(cost, 1e5))
        taken = set()
        for i, j in zip(rows, columns):
            if cost[i, j] <= REACH:
                pairs.append((ws[i], ds[j]))
                used.add(id(ds[j]))
                taken.add(i)
        lost += [w for i, w in enumerate(ws) if i not in taken]
    return pairs, lost, [d for d in drawing.words if id(d) not in used]


def at_css_size(pixels: NDArray[np.uint8], scale: int) -> NDArray[np.uint8]:
    if scale == 1:
        return pixels
    return np.ascontiguousarray(
        cv2.resize(pixels, (pixels.shape[1] // scale, pixels.shape[0] // scale), interpolation=cv2.INTER_AREA)
    )


def _same_size(a: NDArray[np.uint8], b: NDArray[np.uint8]) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Both on a canvas as large as the larger; what one lacks is magenta, so that it always counts as wrong."""
    h, w = max(a.shape[0], b.shape[0]), max(a.shape[1], b.shape[1])

    def pad(p: NDArray[np.uint8]) -> NDArray[np.uint8]:
        down, across = h - p.shape[0], w - p.shape[1]
        lacks = (LACKS >> 16, LACKS >> 8 & 255, LACKS & 255)
        return (
            np.asarray(cv2.copyMakeBorder(p, 0, down, 0, across, cv2.BORDER_CONSTANT, value=lacks), np.uint8)
            if down or across
            else p
        )

    return pad(a), pad(b)


class _Compared(NamedTuple):
    """Two pictures that were compared, and what came of it for each of their rows."""

    x: NDArray[Any]
    y: NDArray[Any]
    found: NDArray[Any]


# by what was compared: of two pages drawn one after another most rows are alike
_last: dict[str, _Compared] = {}


def _anew(
    what: str, x: NDArray[Any], y: NDArray[Any], known: NDArray[Any]
) -> tuple[NDArray[Any], NDArray[np.bool_]]:
    """(what is `known` of each row from the last time, which rows are to be compared anew)."""
    last = _last.get(what)
    anew = np.ones(len(x), bool)
    if last is not None and last.x.shape[1:] == x.shape[1:]:
        n = min(len(x), len(last.x))
        anew[:n] = (x[:n] != last.x[:n]).any(axis=1) | (y[:n] != last.y[:n]).any(axis=1)
        anew[-1] |= len(x) < len(last.x)  # what is within reach of the end
        known[:n] = last.found[:n]
    return known, anew


def colour_difference(a: NDArray[np.uint8], b: NDArray[np.uint8]) -> NDArray[np.float32]:
    """CIEDE2000 map at half size. Equal pixels are skipped: most of a good page; each pair of colours is compared once, and rows
    that were compared the last time are not compared again. What one picture lacks is magenta."""
    height, width = (max(1, max(a.shape[i], b.shape[i]) // HALF) for i in (0, 1))
    x, y = (_filled(_halved(p), height, width) for p in (a, b))
    out, anew = _anew("colour", x, y, np.zeros(x.shape, np.float32))
    out[anew] = _colours_apart(x[anew], y[anew])
    _last["colour"] = _Compared(x, y, out)
    return out


_halves: list[tuple[NDArray[np.uint8], NDArray[np.int32]]] = []


def _halved(pixels: NDArray[np.uint8]) -> NDArray[np.int32]:
    """A picture at half size, its colours packed. Those of the last two are kept: one of them is compared with many pages."""
    kept = next((half for whole, half in _halves if whole is pixels), None)
    if kept is not None:
        return kept
    height, width = (max(1, n // HALF) for n in pixels.shape[:2])
    even = pixels[: height * HALF, : width * HALF]
    half = pack(np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), np.uint8))
    _halves[:] = [*_halves[-1:], (pixels, half)]
    return half


def _filled(packed: NDArray[np.int32], height: int, width: int) -> NDArray[np.int32]:
    """Packed colours on a canvas that may be larger."""
    if packed.shape == (height, width):
        return packed
    out = np.full((height, width), LACKS, np.int32)
    out[: packed.shape[0], : packed.shape[1]] = packed[:height, :width]
    return out


def _colours_apart(x: NDArray[np.int32], y: NDArray[np.int32]) -> NDArray[np.float32]:
    """CIEDE2000 of packed colours."""
    out = np.zeros(x.shape, np.float32)
    differs = x != y
    pairs, which = np.unique(x[differs].astype(np.int64) << 24 | y[differs], return_inverse=True)
    if len(pairs):
        out[differs] = deltaE_ciede2000(*(_lab(p) for p in (pairs >> 24, pairs & 0xFFFFFF)))[which]
    return out


def _lab(packed: NDArray[np.int64]) -> NDArray[np.float32]:
    """CIE Lab (n, 3) of packed colours (n,); each colour is converted once."""
    colours, which = np.unique(packed, return_inverse=True)
    return np.asarray(rgb2lab((unpack(colours) / 255).astype(np.float32)[None])[0][which], np.float32)


def ssim(a: NDArray[np.uint8], b: NDArray[np.uint8]) -> float:
    """Mean SSIM of luma, Gaussian window of sigma 1.5. It is 1 where both are alike all over the window: only the rows where they
    differ, and those in reach of them, are computed, and of these only what was not computed the last time."""
    x, y = (np.asarray(cv2.cvtColor(p, cv2.COLOR_RGB2GRAY), np.uint8) for p in (a, b))
    height, width = x.shape
    lost, anew = _anew("structure", x, y, np.zeros(height))

    def around(rows: NDArray[np.bool_]) -> NDArray[np.bool_]:
        return np.asarray(
            cv2.dilate(rows.astype(np.uint8)[:, None], np.ones((2 * WINDOW + 1, 1), np.uint8))[:, 0] > 0
        )

    anew = around(anew)
    lost[anew] = 0.0
    differs = x != y
    for first, last in spans(around(differs.any(axis=1)) & anew):
        for top in range(first, last, BLOCK):  # as much as stays near the processor
            bottom = min(top + BLOCK, last)
            start, end = max(0, top - WINDOW), min(height, bottom + WINDOW)
            for left, right in spans(_joined(around(differs[start:end].any(axis=0)))):
                near, far = max(0, left - WINDOW), min(width, right + WINDOW)
                part = _ssim_map(x[start:end, near:far], y[start:end, near:far])
                within = part[top - start : bottom - start, left - near : right - near]
                lost[top:bottom] += (1.0 - within).sum(axis=1, dtype=np.float64)
    _last["structure"] = _Compared(x, y, lost)
    return 1.0 - float(lost.sum()) / (height * width)


def _joined(profile: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """A profile without gaps too small to be worth leaving out."""
    out = profile.copy()
    for start, end in spans(~profile):
        out[start:end] = end - start < BLOCK and start > 0 and end < len(profile)
    return out


def _ssim_map(x: NDArray[np.uint8], y: NDArray[np.uint8]) -> NDArray[np.float32]:
    """SSIM at every pixel of two grey pictures."""

    def blur(p: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.GaussianBlur(p, (2 * WINDOW + 1,) * 2, 1.5), np.float32)

    a, b = x.astype(np.float32), y.astype(np.float32)
    mx, my = blur(a), blur(b)
    squares = mx * mx + my * my
    both = mx * my
    spread, cov = blur(a * a + b * b) - squares, blur(a * b) - both
    c1, c2 = 6.5025, 58.5225
    return np.asarray(((2 * both + c1) * (2 * cov + c2)) / ((squares + c1) * (spread + c2)))


def likeness(picture: Picture, drawing: Drawing) -> float:
    """Structural similarity of a picture and a drawn page, 0..1; what one lacks counts as wrong."""
    return ssim(
        *_same_size(at_css_size(picture.pixels, picture.scale), at_css_size(drawing.pixels, drawing.scale))
    )


def difference_map(picture: NDArray[np.uint8], page: NDArray[np.uint8], scale: int = 1) -> NDArray[np.uint8]:
    """A picture (h, w, 3) of where a page and its picture (at `scale`) differ: paper where they agree, deepening to the signal
    colour at CIEDE2000 20."""
    a, b = _same_size(at_css_size(picture, scale), page)
    small = np.clip(colour_difference(a, b) / 20.0, 0, 1).astype(np.float32)
    strength = cv2.resize(small, (a.shape[1], a.shape[0]), interpolation=cv2.INTER_LINEAR)[..., None]
    faint = (
        255
        - (255 - cv2.cvtColor(cv2.cvtColor(a, cv2.COLOR_RGB2GRAY), cv2.COLOR_GRAY2RGB).astype(np.float32))
        * 0.12
    )
    return np.rint(faint * (1 - strength) + np.array([199, 62, 29], np.float32) * strength).astype(np.uint8)


def _coverage(reading: Reading, drawing: Drawing, found: int, seen: int) -> float:
    """Area-weighted share of the picture's marks that the page has too: words by text, boxes and pictures by an element at IoU 0.6."""
    boxes = [n.rect for n in drawing.nodes.values()]
    total = covered = 0.0
    for mark in [s.rect for s in reading.surfaces] + [c.rect for c in reading.cutouts]:
        weight = mark.area**0.5
        total += weight
        if any(mark.iou(b) >= 0.6 for b in boxes):
            covered += weight
    words = sum(w.ink.area**0.5 for line in reading.lines for w in line.words)
    total += words
    covered += words * found / max(1, seen)
    return covered / total if total else 1.0
