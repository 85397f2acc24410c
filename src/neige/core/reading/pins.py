"""Pins applied to raw lines, before their type is fitted: a corrected text makes the fit more exact too. Device px in here."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import fields, replace
from typing import Any

import numpy as np

from neige.core.model import Cutout, Pin, Rect
from neige.core.model.pin import FORMATS, KINDS, REGIONS, ROLES, WRITTEN
from neige.core.reading.text.detect import Box
from neige.core.reading.text.raw import RawLine, RawWord, around
from neige.core.reading.type.catalogue import catalogue

Again = Callable[[Pin, Box, list[RawLine]], list[RawLine]]
INSIDE = 0.6  # of a line's or word's box that must lie in a pin's rectangle for the pin to be about it


def pin_from(value: Any) -> Pin:
    """A pin from its JSON; fields that its kind does not need may be left out. ValueError says what is wrong."""
    if not isinstance(value, dict) or value.get("kind") not in KINDS:
        raise ValueError(f"a pin's kind is one of {', '.join(KINDS)}")
    unknown = set(value) - {f.name for f in fields(Pin)}
    if unknown:
        raise ValueError(f"a pin has no {', '.join(sorted(unknown))}")
    rect = value.get("rect")
    if not isinstance(rect, dict) or set(rect) != {"x", "y", "w", "h"}:
        raise ValueError("a pin needs its rect: x, y, w and h in CSS px")
    place = Rect(**{k: float(v) for k, v in rect.items()})
    like = value.get("like")
    if like is not None and (not isinstance(like, dict) or set(like) != {"x", "y", "w", "h"}):
        raise ValueError("`like` is the place of another part: x, y, w and h in CSS px")
    pin = Pin(
        **{
            **value,
            "rect": place,
            "like": Rect(**{k: float(v) for k, v in like.items()}) if like else None,
            "shares": tuple(float(v) for v in value.get("shares") or ()),
        }
    )
    if pin.kind == "type" and pin.family and pin.family not in catalogue().families:
        raise ValueError(f"there is no family {pin.family!r} in the catalogue")
    if pin.kind == "type" and not (pin.family or pin.weight or pin.size or pin.italic is not None):
        raise ValueError("a pin of kind type says what to set: family, weight, italic or size")
    if pin.kind == "retype" and not pin.to.strip():
        raise ValueError("a pin of kind retype needs `to`, what the words say")
    if pin.kind == "region" and pin.to not in REGIONS:
        raise ValueError(f"a pin of kind region says in `to` what the place is: {', '.join(REGIONS)}")
    if pin.kind == "region" and min(place.w, place.h) < 1:
        raise ValueError("a pin of kind region needs a place at least 1 px wide and high")
    if pin.kind == "again" and min(place.w, place.h) < 4:
        raise ValueError("a pin of kind again needs a place at least 4 px wide and high")
    if pin.kind == "asset" and (pin.to not in FORMATS or not 0 <= pin.quality <= 100):
        raise ValueError(
            f"a pin of kind asset has a format ({', '.join(FORMATS[1:])}) and a quality from 1 to 100"
        )
    if pin.kind == "grid" and not (1 <= pin.columns <= 48 and 0 <= pin.gutter < place.w):
        raise ValueError("a pin of kind grid needs 1 to 48 columns and a gutter narrower than the grid")
    if pin.kind == "role" and pin.to not in ROLES:
        raise ValueError(f"a pin of kind role says in `to` what the part is: {', '.join(ROLES)}")
    if pin.kind == "rename" and not pin.name.strip():
        raise ValueError("a pin of kind rename needs a `name`")
    if pin.kind in ("like", "order") and pin.like is None:
        raise ValueError(f"a pin of kind {pin.kind} needs `like`, the other part's place")
    if pin.kind == "order" and pin.to not in ("before", "after"):
        raise ValueError("a pin of kind order says in `to` whether the part comes before or after the other")
    if pin.kind == "shares" and (len(pin.shares) < 2 or min(pin.shares) <= 0):
        raise ValueError("a pin of kind shares needs a share above 0 for each of two columns or more")
    if pin.kind == "code" and (pin.name not in ("index.html", "styles.css") or not pin.text):
        raise ValueError(
            "a pin of kind code names its file, index.html or styles.css, and the lines that it changes"
        )
    return pin


def apply_pins(
    lines: list[RawLine], pins: Sequence[Pin], scale: int, again: Again = lambda pin, place, lines: lines
) -> list[RawLine]:
    """The lines as corrected, in the pins' order. A pin that finds nothing in its place changes nothing.

    `again` reads a place (device px) anew for a pin of that kind, and returns all lines.
    """
    for pin in pins:
        rect = _device(pin.rect, scale)
        if pin.kind == "again":
            lines = again(pin, rect, lines)
            continue
        hit = [n for n, line in enumerate(lines) if _share(line.box, rect) >= INSIDE]
        if pin.kind == "not-text":
            lines = [line for n, line in enumerate(lines) if n not in hit]
        elif pin.kind == "retype":
            lines = _retype(lines, hit, rect, pin.to)
        elif pin.kind == "split" and hit:
            lines = [
                part
                for n, line in enumerate(lines)
                for part in (_split(line, pin.x * scale) if n in hit else [line])
            ]
        elif pin.kind == "merge" and len(hit) > 1:
            one = _merge([lines[n] for n in hit])
            lines = [one if n == hit[0] else line for n, line in enumerate(lines) if n not in hit[1:]]
    return sorted(lines, key=lambda n: (n.box[1], n.box[0]))


def choose_assets(cutouts: Sequence[Cutout], pins: Sequence[Pin]) -> tuple[Cutout, ...]:
    """The cutouts with what was chosen for their files."""
    out = list(cutouts)
    for pin in pins:
        if pin.kind == "asset" and out:
            best = max(range(len(out)), key=lambda i: out[i].rect.iou(pin.rect))
            if out[best].rect.iou(pin.rect) > INSIDE:
                out[best] = replace(
                    out[best], name=pin.name, alt=pin.text, format=pin.to, quality=pin.quality
                )
    return tuple(out)


def moved(pin: Pin, before: tuple[int, Sequence[int]], after: tuple[int, Sequence[int]]) -> Pin:
    """The same correction in a picture taken anew. `before`, `after`: its scale and what is trimmed off it, in device px."""
    if pin.kind in WRITTEN:
        return pin  # its place is a line of a file
    (old, old_trim), (new, new_trim) = before, after
    k = old / new
    dx, dy = (old_trim[3] - new_trim[3]) / new, (old_trim[0] - new_trim[0]) / new
    r = pin.rect
    place = Rect(r.x * k + dx, r.y * k + dy, r.w * k, r.h * k)
    other = pin.like
    like = Rect(other.x * k + dx, other.y * k + dy, other.w * k, other.h * k) if other else None
    along = dy if pin.kind == "divide" else dx
    x = pin.x * k + along if pin.x else 0.0
    return replace(pin, rect=place, like=like, x=x, gutter=pin.gutter * k, size=pin.size * k)


def is_about(pin: Pin, box: Box, scale: int) -> bool:
    """Does a pin's rectangle cover a box (device px)?"""
    return _share(box, _device(pin.rect, scale)) >= INSIDE


def _device(rect: Rect, scale: int) -> Box:
    return (rect.x * scale, rect.y * scale, (rect.x + rect.w) * scale, (rect.y + rect.h) * scale)


def _share(box: Box, rect: Box) -> float:
    w = min(box[2], rect[2]) - max(box[0], rect[0])
    h = min(box[3], rect[3]) - max(box[1], rect[1])
    return max(0.0, w) * max(0.0, h) / max((box[2] - box[0]) * (box[3] - box[1]), 1e-6)


def _retype(lines: list[RawLine], hit: list[int], rect: Box, text: str) -> list[RawLine]:
    """Put other words in the place of whole lines, or of those words of a line that lie in the rectangle."""
    new = text.split()
    out = []
    for n, line in enumerate(lines):
        about = [w for w in line.words if _share(w.box, rect) >= INSIDE]
        if not about or (hit and n not in hit):
            out.append(line)
            continue
        at = line.words.index(about[0])
        words = [w for w in line.words if w not in about]
        words[at:at] = _spelled(about, new)
        if words:
            out.append(replace(line, words=tuple(words), box=around([w.box for w in words]), confidence=1.0))
    return out


def _spelled(old: list[RawWord], texts: list[str]) -> list[RawWord]:
    """Words with given texts on the ink of others: one to one if as many, else shared out by their lengths."""
    if not texts:
        return []
    if len(texts) == len(old):
        return [replace(w, text=t, confidence=1.0, pinned=True) for w, t in zip(old, texts)]
    box = around([w.box for w in old])
    lengths = np.array([len(t) for t in texts], float)
    ends = np.cumsum(lengths + 0.5) / (lengths + 0.5).sum()
    starts = np.concatenate([[0.0], ends[:-1]])
    span = box[2] - box[0]
    return [
        replace(
            old[0], text=t, confidence=1.0, pinned=True,
            box=(box[0] + a * span, box[1], box[0] + b * span - 0.25 * span * 0.5 / float((lengths + 0.5).sum()), box[3]),
        )
        for t, a, b in zip(texts, starts.tolist(), ends.tolist())
    ]  # fmt: skip


def _split(line: RawLine, x: float) -> list[RawLine]:
    parts = [tuple(w for w in line.words if (w.box[0] + w.box[2]) / 2 < x)]
    parts.append(line.words[len(parts[0]) :])
    return [replace(line, words=p, box=around([w.box for w in p])) for p in parts if p]


def _merge(lines: list[RawLine]) -> RawLine:
    words = tuple(sorted((w for line in lines for w in line.words), key=lambda w: w.box[0]))
    first = max(lines, key=lambda n: len(re.sub(r"\s", "", n.text)))
    return replace(first, words=words, box=around([w.box for w in words]))
