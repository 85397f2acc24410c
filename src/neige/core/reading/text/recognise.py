"""Crops of text lines to strings: a CTC recogniser (class 0 is the blank), read greedily with a place and score per character."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.reading.text.detect import session

HEIGHT = 48  # px, what the network was trained on
STEP = 8  # px of a HEIGHT-high line per time step
MAX_BATCH_COLUMNS = 6400  # px of lines side by side in one call: keeps a batch under about 200 MB


@dataclass(frozen=True, slots=True)
class Spelling:
    """Characters with their centres as shares (0..1) of the crop's width, and their probabilities."""

    text: str
    places: tuple[float, ...]
    scores: tuple[float, ...]

    @property
    def confidence(self) -> float:
        return float(np.mean(self.scores)) if self.scores else 0.0

    def only(self, kept: Sequence[int]) -> Spelling:
        """The characters at some places of the text, in their order."""
        return Spelling(
            "".join(self.text[i] for i in kept),
            tuple(self.places[i] for i in kept),
            tuple(self.scores[i] for i in kept),
        )

    def without(self, stretches: Sequence[tuple[float, float]]) -> Spelling:
        """The characters that were not read in stretches of the crop (shares of its width), without spaces at the ends."""
        kept = [
            i
            for i, at in enumerate(self.places)
            if self.text[i].isspace() or not any(a <= at <= b for a, b in stretches)
        ]
        text = "".join(self.text[i] for i in kept)
        return self.only(kept[len(text) - len(text.lstrip()) : len(text.rstrip())])


class Recogniser(Protocol):
    """Crops (h, w, 3) uint8 RGB of one text line each, to what they say, in the same order."""

    def __call__(self, crops: list[NDArray[np.uint8]]) -> list[Spelling]: ...


@cache
def characters() -> list[str]:
    found: list[str] = json.loads(files("neige").joinpath("models", "characters.json").read_text("utf-8"))
    return found


def recognise(crops: list[NDArray[np.uint8]]) -> list[Spelling]:
    """Read every crop; equal crops are read once. Crops keep their shape and are scaled to HEIGHT."""
    unique: dict[bytes, int] = {}
    keys = []
    work: list[NDArray[np.float32]] = []
    for crop in crops:
        key = crop.shape[1].to_bytes(4, "big") + crop.tobytes()
        if key not in unique:
            unique[key] = len(work)
            work.append(_prepare(crop))
        keys.append(unique[key])
    read: list[Spelling | None] = [None] * len(work)
    order = sorted(range(len(work)), key=lambda i: work[i].shape[2])
    start = 0
    while start < len(order):
        end = start + 1
        while (
            end < len(order)
            and work[order[end]].shape[2] * (end + 1 - start) <= MAX_BATCH_COLUMNS
            and work[order[end]].shape[2] <= 1.25 * work[order[start]].shape[2] + 16
        ):
            end += 1
        batch = order[start:end]
        width = max(work[i].shape[2] for i in batch)
        blob = np.zeros((len(batch), 3, HEIGHT, width), np.float32)
        for row, i in enumerate(batch):
            blob[row, :, :, : work[i].shape[2]] = work[i]
        scores = session("recogniser.onnx").run(None, {"x": blob})[0]
        for row, i in enumerate(batch):
            read[i] = _decode(scores[row], work[i].shape[2])
        start = end
    return [r for k in keys if (r := read[k]) is not None]


def _prepare(crop: NDArray[np.uint8]) -> NDArray[np.float32]:
    h, w = crop.shape[:2]
    width = max(16, int(np.ceil(w * HEIGHT / h)))
    scaled = cv2.resize(
        crop, (width, HEIGHT), interpolation=cv2.INTER_AREA if h > HEIGHT else cv2.INTER_CUBIC
    )[:, :, ::-1]
    return np.ascontiguousarray((scaled.astype(np.float32) / 127.5 - 1).transpose(2, 0, 1))


def _decode(scores: NDArray[np.float32], width: int) -> Spelling:
    steps = max(1, min(len(scores), -(-width // STEP)))
    best = scores[:steps].argmax(axis=1)
    sure = scores[np.arange(steps), best]
    names = characters()
    text, places, certain = [], [], []
    t = 0
    while t < steps:
        end = t + 1
        while end < steps and best[end] == best[t]:
            end += 1
        if best[t]:
            text.append(names[best[t]])
            places.append(min(1.0, ((t + end) / 2) * STEP / width))
            certain.append(float(sure[t:end].max()))
        t = end
    return Spelling("".join(text), tuple(places), tuple(certain))
