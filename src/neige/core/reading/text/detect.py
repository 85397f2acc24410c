"""Where the lines of text are: a DBNet detector (Liao et al. 2020) run at full 1x resolution on row tiles.

Shrinking the page costs recall (captions vanish), so tall pages are cut into tiles instead, at blank rows where there are any.
"""

from __future__ import annotations

from functools import cache
from importlib.resources import files

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from neige.core.reading.colour import apart

TILE = 640  # rows; larger tiles win no recall and cost memory
OVERLAP = 64  # rows shared by two tiles where no blank row could be found to cut at
PROBABILITY = 0.3  # of a pixel to be text
BOX_SCORE = 0.5  # mean probability of a box
TOUCH = 0.1  # of the height: two boxes on one line no farther apart are one
UNCLIP = 1.5  # the net predicts shrunken boxes; they grow by area * UNCLIP / perimeter
MEAN = np.array([0.485, 0.456, 0.406], np.float32)
STD = np.array([0.229, 0.224, 0.225], np.float32)

Box = tuple[float, float, float, float]


@cache
def session(name: str, threads: int = 2) -> onnxruntime.InferenceSession:
    """A warm session on one of the package's own networks."""
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = threads
    options.inter_op_num_threads = 1
    options.log_severity_level = 3
    path = files("neige").joinpath("models", name)
    return onnxruntime.InferenceSession(str(path), options, providers=["CPUExecutionProvider"])


def tiles(busy: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Row ranges covering all busy rows, each at most TILE high, cut at idle rows where possible."""
    rows = np.flatnonzero(busy)
    if rows.size == 0:
        return []
    out, y, last = [], int(rows[0]), int(rows[-1]) + 1
    while y < last:
        end = min(y + TILE, last)
        if end < last:
            idle = np.flatnonzero(~busy[y + TILE // 3 : end])
            cut = y + TILE // 3 + int(idle[-1]) if idle.size else end
            out.append((y, cut))
            y = cut if idle.size else cut - OVERLAP
        else:
            out.append((y, end))
            break
        following = rows[rows >= y]
        y = int(following[0]) if following.size else last
    return out


def detect_lines(pixels: NDArray[np.uint8]) -> list[Box]:
    """Boxes (x0, y0, x1, y1) in px of `pixels` (h, w, 3; 1x) that hold one line of text each, top to bottom."""
    height, width = pixels.shape[:2]
    jump = apart(pixels[:, 1:], pixels[:, :-1]) > 10
    busy = jump.sum(axis=1) >= 2
    padded = np.convolve(busy, np.ones(9), "same") > 0
    boxes: list[Box] = []
    for top, bottom in tiles(padded):
        columns = np.flatnonzero(jump[top:bottom].any(axis=0))
        if columns.size == 0:
            continue
        left, right = max(0, int(columns[0]) - 24), min(width, int(columns[-1]) + 26)
        top_, bottom_ = max(0, top - 8), min(height, bottom + 8)
        boxes += [
            (x0 + left, y0 + top_, x1 + left, y1 + top_)
            for x0, y0, x1, y1 in _detect(pixels[top_:bottom_, left:right])
        ]
    return _merge(boxes)


def _detect(tile: NDArray[np.uint8]) -> list[Box]:
    h, w = tile.shape[:2]
    H, W = -(-h // 32) * 32, -(-w // 32) * 32
    padded = cv2.copyMakeBorder(tile, 0, H - h, 0, W - w, cv2.BORDER_REPLICATE)[:, :, ::-1]
    blob = ((padded.astype(np.float32) / 255 - MEAN) / STD).transpose(2, 0, 1)[None]
    prob = session("detector.onnx").run(None, {"x": np.ascontiguousarray(blob)})[0][0, 0][:h, :w]
    count, labels, stats, _ = cv2.connectedComponentsWithStats(
        (prob > PROBABILITY).astype(np.uint8), connectivity=8
    )
    if count <= 1:
        return []
    means = np.bincount(labels.ravel(), prob.ravel().astype(np.float64), count) / np.maximum(
        1, stats[:, cv2.CC_STAT_AREA]
    )
    out: list[Box] = []
    for i in range(1, count):
        x, y, bw, bh, area = (int(v) for v in stats[i])
        if means[i] < BOX_SCORE or bw < 3 or bh < 3 or area < 12:
            continue
        grow = bw * bh * UNCLIP / (2 * (bw + bh))
        out.append(
            (
                max(0.0, x - grow),
                max(0.0, y - grow),
                min(float(w), x + bw + grow),
                min(float(h), y + bh + grow),
            )
        )
    return out


def _merge(boxes: list[Box]) -> list[Box]:
    """Join what two overlapping tiles saw of one line; sorted top to bottom, left to right."""
    out: list[Box] = []
    for b in sorted(boxes, key=lambda b: (b[1], b[0])):
        for i in range(len(out) - 1, max(-1, len(out) - 40), -1):
            a = out[i]
            w, h = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
            low, narrow = min(a[3] - a[1], b[3] - b[1]), min(a[2] - a[0], b[2] - b[0])
            overlapping = w > 0.3 * narrow and h > 0.6 * low
            touching = w > -TOUCH * low and h > 0.75 * low and h > 0.6 * max(a[3] - a[1], b[3] - b[1])
            if overlapping or touching:
                out[i] = (min(a[0], b[0]), min(a[1], b[1]), max(a[2], b[2]), max(a[3], b[3]))
                break
        else:
            out.append(b)
    return sorted(out, key=lambda b: (b[1], b[0]))
