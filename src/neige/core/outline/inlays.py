"""Boxes inside a line of text: a word of code on its tint, a key, a badge in a sentence. They belong to the run, not to the page."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from statistics import median

from neige.core.model import Line, Node, Reading, Surface, TypeStyle, Word
from neige.core.model.outline import Run
from neige.core.outline.paragraphs import BULLET, is_close, room_between, stand_glued

TALLEST = 2.0  # of the type's size: higher boxes hold lines, they are not in one
SPILL = 1.5  # px by which a word may overlap its box's edge
OPENING, CLOSING = "([{\"'“‘", ".,;:!?)]}\"'”’…"


@dataclass(frozen=True)
class Inlay:
    """`surface` around the words `first` to `last` of a line; `before` and `after` are the punctuation outside of it."""

    surface: Surface
    first: int
    last: int
    before: str = ""
    after: str = ""


ENDING = 2  # letters
COVERS = 0.6  # px that a box may reach over the word beside it
Looks = dict[tuple, list[tuple[Run, tuple[float, float, float, float]]]]


def find_inlays(reading: Reading) -> dict[int, list[Inlay]]:
    """The boxes inside lines that go on beside them, by line."""
    out: dict[int, list[Inlay]] = {}
    for i, line in enumerate(reading.lines):
        size = reading.styles[line.style].size
        found: dict[int, Inlay] = {}
        for s in reading.surfaces:
            if (
                s.picture < 0
                and 0.8 * size <= s.rect.h <= TALLEST * size
                and abs(s.rect.cy - line.baseline + 0.3 * size) < 0.4 * size
            ):
                inlay = _around(line, s)
                if inlay:  # the last of two at one place lies on top
                    found[inlay.first] = inlay
        if found:
            out[i] = [found[k] for k in sorted(found)]
    looks = {(n.surface.fill.colour, n.surface.border_colour) for found in out.values() for n in found}
    for s in reading.surfaces:  # what is all of the last line of a paragraph
        like = (s.fill.colour, s.border_colour) in looks and s.picture < 0
        last = _ends_paragraph(reading, s) if like else None
        if last is not None and last not in out:
            words = reading.lines[last].words
            spills = _end(words[-1]) > s.rect.right + SPILL
            after = words[-1].text[len(words[-1].text.rstrip(CLOSING)) :] if spills else ""
            out[last] = [Inlay(s, 0, len(words) - 1, "", after)]
    return out


def _ends_paragraph(reading: Reading, s: Surface) -> int | None:
    """The line that is all in a box, right under the beginning of another."""
    for i, line in enumerate(reading.lines):
        size = reading.styles[line.style].size
        own = abs(s.rect.cy - line.baseline + 0.3 * size) < 0.4 * size and s.rect.h <= TALLEST * size
        if own and abs(line.box.x - s.rect.x) <= size and abs(line.box.right - s.rect.right) <= size:
            above = (
                n
                for n in reading.lines
                if 0.9 * size < line.baseline - n.baseline < TALLEST * size
                and abs(n.box.x - line.box.x) <= size
                and n.box.right > line.box.right
            )
            return i if next(above, None) is not None else None
    return None


def _around(line: Line, s: Surface) -> Inlay | None:
    """The words of `line` that a surface is drawn around, if others stand beside it at a space's distance."""
    box, words = s.rect, line.words
    middles = [w.ink.cx if w.text in CLOSING else w.x + w.w / 2 for w in words]  # a stop is where its ink is
    inside = [k for k, x in enumerate(middles) if box.x < x < box.right]
    if not inside or len(inside) == len(words):
        return None
    first, last = inside[0], inside[-1]
    before = after = ""
    if words[first].x < box.x - SPILL:
        before = words[first].text[: len(words[first].text) - len(words[first].text.lstrip(OPENING))]
    if _end(words[last]) > box.right + SPILL:
        after = words[last].text[len(words[last].text.rstrip(CLOSING)) :]
    if (words[first].x < box.x - SPILL and not before) or (
        _end(words[last]) > box.right + SPILL and not after
    ):
        return None
    beside = [k for k in (first - 1, last + 1) if 0 <= k < len(words)]
    gaps = [max(box.x - words[k].x - words[k].w, words[k].x - box.right) for k in beside]
    return Inlay(s, first, last, before, after) if min(gaps) <= 0.6 * box.h else None


def _end(w: Word) -> float:
    """Where a word ends: its ink says so even where a box's padding parts its punctuation from it."""
    return max(w.x + w.w, w.ink.right)


def lay_in(root: Node, reading: Reading, inlays: dict[int, list[Inlay]]) -> None:
    """Give the texts' runs the boxes that lie in their lines; like boxes share their padding."""
    looks: Looks = defaultdict(list)
    for node in root.walk():
        if node.kind != "text" or not any(i in inlays for i in node.lines):
            continue
        if node.tag == "pre":
            node.runs = _in_code(node, reading, inlays, looks)
            continue
        runs: list[Run] = []
        for i in node.lines:
            words = reading.lines[i].words
            skip = (
                1
                if i == node.lines[0] and node.attributes.get("bullet") and BULLET.match(words[0].text)
                else 0
            )
            boxes = {k: b for b in inlays.get(i, []) for k in range(b.first, b.last + 1)}
            for k in range(skip, len(words)):
                w, b = words[k], boxes.get(k)
                after = words[k + 1] if k + 1 < len(words) and k + 1 not in boxes else None
                stop = (
                    after is not None
                    and after.style != w.style
                    and room_between(w, after, reading.styles[node.style], reading)[0]
                )
                if b is None:
                    glued = k + 1 < len(words) and stand_glued(w, words[k + 1], reading)
                    box = boxes[k + 1].surface.rect if k + 1 in boxes else None
                    opens = box is not None and _touch(w, box.x - w.x - w.w, reading.styles[node.style])
                    _append(runs, w.text, w.style, glued or stop or opens)
                    continue
                right = b.surface.rect.right
                stop |= after is not None and _touch(after, after.x - right, reading.styles[node.style])
                text, linked = w.text, reading.styles[node.style].underline
                beside = w.style if linked and not reading.styles[w.style].underline else node.style
                if k == b.first and b.before:
                    _append(runs, b.before, beside, glue=True)
                    text = text[len(b.before) :]
                if k == b.last and b.after:
                    text = text[: -len(b.after)]
                if k == b.first:
                    runs.append(Run(text, w.style, box=b.surface))
                    looks[_look(b.surface, w.style)].append((runs[-1], _room(reading.lines[i], b, reading)))
                else:
                    runs[-1].text += " " + text
                if k == b.last:
                    runs[-1].glue = bool(b.after) or stop
                if k == b.last and b.after:
                    _append(runs, b.after, beside)
        node.runs = runs
    for members in looks.values():
        padding = tuple(max(0.0, median(p[side] for _, p in members)) for side in range(4))
        for run, _ in members:
            run.padding = (padding[0], padding[1], padding[2], padding[3])


def _touch(w: Word, gap: float, main: TypeStyle) -> bool:
    """Does a sign or an ending ("s") stand at the edge of a box in its line, without a space? One that the box covers tells nothing,
    but a stop, whose ink is narrower than it."""
    short = len(w.text) <= ENDING or not any(c.isalnum() for c in w.text)
    covers = SPILL if w.text[0] in CLOSING else COVERS
    return short and gap >= -covers and is_close(gap, main)


def _in_code(node: Node, reading: Reading, inlays: dict[int, list[Inlay]], looks: Looks) -> list[Run]:
    """The runs of a block of code with boxes round some of its words; every space and line break in it stays."""
    said = "".join(r.text for r in node.runs)
    styles = [r.style for r in node.runs for _ in r.text]
    spans: list[tuple[int, int, Inlay, int]] = []
    at = 0
    for i in node.lines:
        begins, ends = [], []
        for w in reading.lines[i].words:
            at = said.find(w.text, at)
            if at < 0:
                return node.runs
            begins.append(at)
            at += len(w.text)
            ends.append(at)
        for b in inlays.get(i, []):
            spans.append((begins[b.first] + len(b.before), ends[b.last] - len(b.after), b, i))
    runs: list[Run] = []

    def put(a: int, b: int) -> None:
        while a < b:
            last = next((n for n in range(a, b) if styles[n] != styles[a]), b)
            runs.append(Run(said[a:last], styles[a], glue=True))
            a = last

    at = 0
    for start, end, inlay, i in sorted(spans, key=lambda s: s[0]):
        if end > start >= at:
            put(at, start)
            runs.append(Run(said[start:end], styles[start], glue=True, box=inlay.surface))
            room = _room(reading.lines[i], inlay, reading)
            looks[_look(inlay.surface, styles[start])].append((runs[-1], room))
            at = end
    put(at, len(said))
    return runs


def _append(runs: list[Run], text: str, style: int, glue: bool = False) -> None:
    last = runs[-1] if runs else None
    if last and last.style == style and last.box is None and not last.glue:
        last.text += " " + text
        last.glue = glue
    else:
        runs.append(Run(text, style, glue=glue))


def _look(s: Surface, style: int) -> tuple:
    return style, s.fill.colour, s.border, s.border_colour, round(s.radius)


def _room(line: Line, b: Inlay, reading: Reading) -> tuple[float, float, float, float]:
    """Padding (top, right, bottom, left): from the border to the letters' own area, as an inline box has it."""
    s, style = b.surface, reading.styles[line.words[b.first].style]
    first, last = line.words[b.first], line.words[b.last]
    left, right = first.x - s.rect.x - s.border[3], s.rect.right - s.border[1] - last.x - last.w
    if b.before:
        left = right
    if b.after:
        right = left
    return (
        line.baseline - style.ascent - s.rect.y - s.border[0],
        right,
        s.rect.bottom - s.border[2] - line.baseline - style.descent,
        left,
    )


def without_inlays(reading: Reading, inlays: dict[int, list[Inlay]]) -> Reading:
    """The reading with only those surfaces that lie on the page."""
    taken = {b.surface.rect for boxes in inlays.values() for b in boxes}
    return replace(reading, surfaces=tuple(s for s in reading.surfaces if s.rect not in taken))
