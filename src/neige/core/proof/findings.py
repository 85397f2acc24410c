"""What a person should look at on a drawn page, by cause and worst first.

Lines whose type is wrong, borders that are, and parts that are missing or too many explain what they move (see `distances`), so
that it is not said twice.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from difflib import SequenceMatcher
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from skimage.color import deltaE_ciede2000, rgb2lab

from neige.core.model import Drawing, DrawnWord, Finding, Picture, Reading, Rect, Word
from neige.core.model.geometry import union
from neige.core.proof.boxes import find_boxes
from neige.core.proof.distances import (
    LEADING,
    STEP,
    Offset,
    Placed,
    aside,
    between,
    count_words,
    explain,
    hang,
    place_lines,
    quote_line,
    quoted,
    steps,
)
from neige.core.reading.colour import from_hex, pack, to_hex, unpack

SIZE = 0.025  # relative error of a type size
WEIGHT = 150
INK = 8.0  # CIEDE2000 between inks,
FILL = 4.0  # and between fills
WIDER = 0.03  # relative width of words of the right type
LIKE = 0.6  # similarity from which one word is a misspelling of another
BULLETS = "•·▪◦‣"  # the browser draws them as markers, which are no words
SAMPLES = 5_000  # px of a surface that are looked at
PAINTED = 600.0  # px² from which a surface's fill is looked at


def find(
    reading: Reading,
    picture: Picture,
    drawing: Drawing,
    pairs: Sequence[tuple[Word, DrawnWord]],
    lost: Sequence[Word],
    extra: Sequence[DrawnWord],
    offset: Offset,
) -> list[Finding]:
    """All findings, worst first. `pairs`, `lost`, `extra`: words found, missing, and too many; `offset` is how far a found one is off."""
    far, lost, extra = _far([w for w in lost if w.text not in BULLETS], extra)
    placed = place_lines(reading, [*pairs, *far], offset)
    hang(placed)
    spelled, lost, extra = _misspelled(lost, extra)
    out = [*spelled, *_types(reading, placed), *_order(placed)]
    out += _missing(reading, placed, lost)
    out += _extra(placed, extra)
    boxes, bordered = find_boxes(reading, drawing, [(p.rect, p.dy) for p in placed])
    explain(placed, bordered)
    out += boxes + steps(placed) + aside(placed)
    out += _fills(reading, picture, drawing, placed)
    if drawing.scroll_width > drawing.width + 1:
        over = drawing.scroll_width - drawing.width
        edge = Rect(drawing.width - 8, 0, 8, drawing.height)
        out.append(Finding("overflow", f"the page is {over:.0f} px wider than its window", edge, 50_000.0))
    return sorted(out, key=lambda f: (-f.weight, f.rect.y, f.rect.x))[:200]


def _far(
    lost: Sequence[Word], extra: Sequence[DrawnWord]
) -> tuple[list[tuple[Word, DrawnWord]], list[Word], list[DrawnWord]]:
    """Words that were pushed out of reach: missing here and too many there, in the same order."""
    by_text: dict[str, list[DrawnWord]] = defaultdict(list)
    for d in extra:
        by_text[d.text].append(d)
    pairs, still = [], []
    for w in lost:
        found = by_text.get(w.text)
        if found:
            pairs.append((w, found.pop(0)))
        else:
            still.append(w)
    used = {id(d) for _, d in pairs}
    return pairs, still, [d for d in extra if id(d) not in used]


def _misspelled(
    lost: Sequence[Word], extra: Sequence[DrawnWord]
) -> tuple[list[Finding], list[Word], list[DrawnWord]]:
    """A missing word with another in its place reads otherwise."""
    out: list[Finding] = []
    still, free = [], list(extra)
    for w in lost:
        near = [
            d
            for d in free
            if abs(d.rect.cy - w.ink.cy) < 1.2 * max(w.ink.h, 8)
            and abs(d.rect.x - w.x) < max(40.0, 0.6 * w.w)
        ]
        best = min(near, key=lambda d: abs(d.rect.x - w.x) + abs(d.rect.cy - w.ink.cy), default=None)
        if best is None:
            still.append(w)
            continue
        free.remove(best)
        alike = SequenceMatcher(None, best.text, w.text).ratio() >= LIKE
        out.append(
            Finding(
                "word",
                f"it says “{best.text[:40]}”, the picture says “{w.text[:40]}”",
                w.ink,
                3000.0 + w.ink.area * (1.5 if alike else 2.0),
                best.node,
            )
        )
    return out, still, free


def _types(reading: Reading, placed: list[Placed]) -> list[Finding]:
    """Lines set otherwise than in the picture, one finding for each way and style."""
    groups: dict[tuple[str, str, str], list[Placed]] = defaultdict(list)
    for p in placed:
        sizes: list[float] = []
        weights: list[int] = []
        inks: list[str] = []
        style = reading.styles[p.line.style]
        own = [(w, d) for w, d in p.pairs if w.style == p.line.style] or p.pairs
        for _, d in own:
            sizes.append(d.size)
            weights.append(d.weight)
            inks.append(d.colour)
        size, weight = float(np.median(sizes)), float(np.median(weights))
        ink = max(set(inks), key=inks.count)
        if abs(size / style.size - 1) > SIZE:
            p.grown = LEADING * (size - style.size)
            groups["size", f"{size:g} px", f"{style.size:g} px"].append(p)
        elif abs(weight - style.weight) >= WEIGHT:
            groups["weight", f"{weight:.0f}", f"{style.weight}"].append(p)
        elif style.opacity == 1 and _apart(ink, style.colour) > INK:
            groups["colour", ink, style.colour].append(p)
        elif sum(len(w.text) for w, _ in p.pairs) >= 4 and not p.broken:
            (first, a), (last, b) = p.pairs[0], p.pairs[-1]
            seen, drawn = last.x + last.w - first.x, b.rect.right - a.rect.x
            if abs(drawn / seen - 1) > WIDER and abs(drawn - seen) > 2.5:
                groups["spacing", f"{100 * (drawn / seen - 1):+.0f} %", ""].append(p)
    out = []
    for (kind, was, wanted), lines in groups.items():
        says, n = quote_line(lines[0]), count_words(lines)
        others = len(lines) - 1
        more = f" and {others} more line{'s' if others > 1 else ''}" if others else ""
        wide = "wider" if was.startswith("+") else "narrower"
        text = {
            "size": f"{says}{more} set in {was}, the picture has {wanted}",
            "weight": f"{says}{more} set in weight {was}, the picture has {wanted}",
            "colour": f"{says}{more} in {was}, the picture has {wanted}",
            "spacing": f"{says}{more} {'run' if n > 1 else 'runs'} {was[1:]} {wide}: letter or word spacing, or another face",
        }[kind]
        heavy = {"size": 3.0, "weight": 2.0, "colour": 1.5, "spacing": 1.2}[kind]
        area = sum(p.rect.area for p in lines)
        out.append(Finding(kind, text, lines[0].rect, 2000.0 + 120.0 * n + heavy * area, lines[0].node))
        if kind != "colour":
            for p in lines:
                p.explained = True
    return out


def _order(placed: list[Placed]) -> list[Finding]:
    """Two neighbours that stand in each other's place: one went down as the other came up."""
    roots = [p for p in placed if abs(p.dy) > 6 and p.hanging]
    out: list[Finding] = []
    for i, a in enumerate(roots):
        for b in roots[i + 1 :]:
            across = abs(a.dx) > 20 and abs(b.dx) > 20 and a.dx * b.dx < 0
            if a.explained or b.explained or (a.dy * b.dy >= 0 and not across):
                continue
            seen, drawn = (
                b.line.baseline - a.line.baseline,
                (b.line.baseline + b.dy) - (a.line.baseline + a.dy),
            )
            if seen * drawn < 0:
                out.append(
                    Finding(
                        "order",
                        f"{quote_line(a)} and {quote_line(b)} stand in each other's order",
                        a.rect,
                        9000.0 + a.rect.area + b.rect.area,
                        a.node,
                    )
                )
                for p in placed:
                    if abs(p.dy) > STEP:
                        p.explained = True
                return out
    return out


def _missing(reading: Reading, placed: list[Placed], lost: Sequence[Word]) -> list[Finding]:
    """Words that are not on the page, those of neighbouring lines together."""
    out = []
    for group in _clusters(sorted(lost, key=lambda w: (w.ink.y, w.x)), lambda w: w.ink):
        rect = union([w.ink for w in group])
        for p in placed:
            if abs(p.step) > STEP and between(p, [w.ink for w in group]):
                p.explained = True
        n = len(group)
        text = f"{quoted(w.text for w in group)} is not on the page" + (f" ({n} words)" if n > 3 else "")
        out.append(Finding("missing", text, rect, 4000.0 + 1.5 * sum(w.ink.area for w in group)))
    return out


def _extra(placed: list[Placed], extra: Sequence[DrawnWord]) -> list[Finding]:
    out = []
    for group in _clusters(sorted(extra, key=lambda d: (d.rect.y, d.rect.x)), lambda d: d.rect):
        for p in placed:
            if abs(p.step) > STEP and between(p, [d.rect for d in group], 1.0):
                p.explained = True
        text = f"{quoted(d.text for d in group)} is not in the picture"
        rect = union([d.rect for d in group])
        out.append(Finding("extra", text, rect, 4000.0 + sum(d.rect.area for d in group), group[0].node))
    return out


def _clusters(items: list, box: Callable[..., Rect]) -> list[list]:
    """Items that stand next to one another, in order."""
    out: list[list] = []
    for item in items:
        near = next(
            (g for g in out if any(box(o).grow(max(14.0, 0.9 * box(o).h)).meet(box(item)) > 0 for o in g)),
            None,
        )
        if near is None:
            out.append([item])
        else:
            near.append(item)
    return out


def _fills(reading: Reading, picture: Picture, drawing: Drawing, placed: list[Placed]) -> list[Finding]:
    """Surfaces whose fill is not the picture's, where their words (or, without words, they themselves) were drawn."""
    if not drawing.pixels.size:
        return []
    out: list[Finding] = []
    told: set[tuple[str, str]] = set()
    page = Rect(0, 0, reading.width, reading.height)
    for rect, fill in [(page, reading.background), *((s.rect, s.fill) for s in reading.surfaces)]:
        if fill.stops or rect.area < PAINTED:
            continue
        inside = [p.dy for p in placed if p.rect.inside(rect, 0.9)] or [0.0]
        dy = 0.0 if rect is page else float(np.median(inside))
        seen = _commonest(picture.pixels, rect, picture.scale)
        drawn = _commonest(drawing.pixels, Rect(rect.x, rect.y + dy, rect.w, rect.h), drawing.scale)
        if seen is None or drawn is None or _apart(seen, fill.colour) > FILL:
            continue
        if _apart(seen, drawn) > FILL and (seen, drawn) not in told:
            told.add((seen, drawn))
            what = "the page" if rect is page else f"a surface of {rect.w:.0f} × {rect.h:.0f} px"
            weight = 2500.0 + min(60_000.0, 0.3 * rect.area)
            out.append(Finding("fill", f"{what} is filled {drawn}, the picture has {seen}", rect, weight))
    return out


def _commonest(pixels: NDArray[np.uint8], rect: Rect, scale: int) -> str | None:
    """The commonest colour in a rectangle (CSS px), if it fills a fifth of it."""
    h, w = pixels.shape[:2]
    y0, y1 = max(0, round(rect.y * scale)), min(h, round(rect.bottom * scale))
    x0, x1 = max(0, round(rect.x * scale)), min(w, round(rect.right * scale))
    part = pixels[y0:y1, x0:x1]
    if part.size == 0:
        return None
    step = max(1, int(np.sqrt(part.shape[0] * part.shape[1] / SAMPLES)))
    values, counts = np.unique(pack(part[::step, ::step]), return_counts=True)
    best = int(counts.argmax())
    return to_hex(unpack(int(values[best]))) if counts[best] >= 0.2 * counts.sum() else None


@lru_cache(4096)
def _apart(a: str, b: str) -> float:
    """CIEDE2000 of two colours."""
    one, other = (rgb2lab(from_hex(c)[None, None] / 255.0) for c in (a, b))
    return float(deltaE_ciede2000(one, other)[0, 0])
