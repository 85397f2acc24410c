"""Ink without what is no letter: rules, underlines, lines of dots, outlines of buttons."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

INKED = 0.18  # cover from which a pixel counts as ink when boxes are drawn around it
FRAMED = 0.86  # of a box's width and height that an outline round its words takes
HOLLOW = 0.3  # of its box that an outline covers at most
DOTS, ALTERNATE = 13, 0.85  # px in which ink and ground take turns, and the share of px where they do
CROWDED = 0.35  # of the px above or below a line of dots that may be ink
BROKEN = 0.4  # of the run that starts an underline: its pieces between descenders are as long


def letters_and_rules(
    inked: NDArray[np.bool_], across: float, down: float, dotted: NDArray[np.bool_] | None = None
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Ink without its long straight runs (borders, rules, underlines), and the horizontal runs that were taken out.

    No letter has a horizontal run longer than an em or a vertical one taller than the line; `across` and `down` are those limits,
    `dotted` the lines of dots, if they are known.
    """
    mask = inked.astype(np.uint8)

    def runs(kernel: tuple[int, int]) -> NDArray[np.uint8]:
        # what lies outside the crop is no ink; odd, for the middle of an even length is one end's, and a run loses that end
        kernel = (kernel[0] - 1) | 1, (kernel[1] - 1) | 1
        opened = cv2.morphologyEx(
            mask, cv2.MORPH_OPEN, np.ones(kernel, np.uint8), borderType=cv2.BORDER_CONSTANT, borderValue=0
        )
        return np.asarray(opened, np.uint8)

    none = np.zeros_like(mask)
    flat = runs((1, max(3, round(across)))) if inked.shape[1] > across else none
    flat = flat | (dotted_lines(inked) if dotted is None else dotted)
    level = flat.max(axis=1, keepdims=True)
    if level.any():  # a line that gives way to descenders goes on in shorter runs on the same rows
        flat = flat | runs((1, max(3, round(BROKEN * across)))) & level
    tall = runs((max(3, round(down)), 1)) if inked.shape[0] > down else none
    if flat.mean() + tall.mean() > 0.4:  # solid ink: there is nothing else
        return inked, np.zeros_like(inked)
    return inked & (flat == 0) & (tall == 0), flat > 0


def dotted_lines(inked: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Lines of dots of one px a px apart (h, w), with hardly any ink right above and below them."""
    mask = inked.astype(np.uint8)
    if mask.shape[1] <= DOTS:
        return np.zeros_like(inked)
    turns = np.pad(np.abs(np.diff(mask.astype(np.int8), axis=1)), ((0, 0), (0, 1))).astype(np.float32)
    busy = cv2.blur(turns, (DOTS, 1), borderType=cv2.BORDER_CONSTANT) >= ALTERNATE
    if not busy.any():
        return np.zeros_like(inked)
    reach = np.ones((1, DOTS), np.uint8)
    rows = cv2.dilate(busy.astype(np.uint8), reach)
    beside = np.pad(mask, ((1, 1), (0, 0)))
    crowded = cv2.blur(np.maximum(beside[:-2], beside[2:]).astype(np.float32), (DOTS, 1)) > CROWDED
    no_dots = cv2.dilate((busy & crowded).astype(np.uint8), reach)
    return np.asarray((rows > 0) & (no_dots == 0))


def unframed(inked: NDArray[np.bool_], width: float, height: float) -> NDArray[np.bool_]:
    """Ink without the outline of a button that was detected as one with its words: as large as the box, and nearly all hollow."""
    _count, labels, stats, _ = cv2.connectedComponentsWithStats(inked.astype(np.uint8), connectivity=8)
    w, h, area = stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT], stats[:, cv2.CC_STAT_AREA]
    frame = (w >= FRAMED * width) & (h >= FRAMED * height) & (w > 1.3 * height) & (area < HOLLOW * w * h)
    frame[0] = False
    return inked & ~frame[labels] if frame.any() else inked
