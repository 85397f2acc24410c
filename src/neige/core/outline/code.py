"""Blocks of code: lines of fixed pitch under one another, with their spaces and their empty lines."""

from __future__ import annotations

import itertools
import re
import statistics
from collections import Counter

from neige.core.model import Node, Reading, Word
from neige.core.model.geometry import edges
from neige.core.model.outline import Run
from neige.core.outline.paragraphs import baseline_offset

LEAST = 2  # rows
SAME_ROW = 0.3  # of the size by which baselines of one row may differ
SAME_SIZE = 0.3  # px
EVEN = 0.12  # of the rows' distance by which it may differ
EMPTY = 5.0  # times the size from one row to the next at most: there may be empty ones between them
INDENT = 0.8  # characters that a row is indented at least
CODE = re.compile(r"[{}()\[\];=<>$#|&]|::|->|--")  # what hardly a sentence has
TELLING = 3  # letters of a word that tells how wide a character is
SAMPLES = 3  # places beside words of one style that tell its padding
PAD = (0.6, 2.5)  # px of it, where nothing is painted
GLUED = 0.6  # of a space, what is nearer has none
CODED = 0.5  # of the rows that have it, where none is indented


def pad_code(root: Node, reading: Reading) -> None:
    """Give words of code in prose the room that is beside each of them: a padding without a ground."""
    pads = _pads(reading)
    if not pads:
        return
    texts = (n for n in root.walk() if n.kind == "text" and n.style not in pads)
    for n in (n for n in texts if reading.styles[n.style].category != "monospace"):
        own = [pads.get(r.style, 0.0) if r.box is None else 0.0 for r in n.runs]
        for run, following, mine, next_one in itertools.zip_longest(n.runs, n.runs[1:], own, own[1:]):
            run.padding = (0.0, mine, 0.0, mine) if mine else run.padding
            if run.room and following and (mine or next_one):
                left = round(run.room - mine - next_one)
                run.room = float(left) if abs(left) > 1 else 0.0


def _pads(reading: Reading) -> dict[int, float]:
    """Styles of code, with the px by which their words in prose stand farther from what is beside them than its other words do."""
    styles = reading.styles
    found: dict[int, list[float]] = {}
    for line in reading.lines:
        beside = list(itertools.pairwise(line.words))
        plain = [b.x - a.x - a.w for a, b in beside if a.style == b.style == line.style]
        if not plain or styles[line.style].category == "monospace":
            continue
        space = statistics.median(plain)
        for a, b in beside:
            code = [w for w in (a, b) if styles[w.style].category == "monospace"]
            gap = b.x - a.x - a.w
            if len(code) == 1:
                found.setdefault(code[0].style, []).append(gap if gap < GLUED * space else gap - space)
    pads = {k: statistics.median(v) for k, v in found.items() if len(v) >= SAMPLES}
    return {k: max(1.0, float(round(v))) for k, v in pads.items() if PAD[0] <= v <= PAD[1]}


def code_between(reading: Reading, indices: list[int]) -> list[Node]:
    """The blocks of code among lines of prose, without a box of their own: rows of fixed pitch that are indented as no paragraph
    is, or say what no sentence says. On a page whose prose is of fixed pitch only the latter tells.
    """
    lines, styles = reading.lines, reading.styles
    letters: Counter[bool] = Counter()
    for line in lines:
        for w in line.words:
            letters[styles[w.style].category == "monospace"] += len(w.text)
    if not letters[True]:
        return []
    prose = letters[True] >= letters[False]

    def fixed(i: int) -> bool:
        return all(styles[w.style].category == "monospace" for w in lines[i].words)

    groups: list[list[int]] = []
    for i in sorted(indices, key=lambda i: lines[i].baseline):
        box, base, size = lines[i].box, lines[i].baseline, styles[lines[i].style].size
        above = [
            g for g in groups if any(lines[k].box.x < box.right and lines[k].box.right > box.x for k in g)
        ]
        last = max(above, key=lambda g: lines[g[-1]].baseline, default=None)
        joins = (
            last is not None
            and fixed(i)
            and fixed(last[-1])
            and base - lines[last[-1]].baseline <= EMPTY * size
        )
        if joins and last is not None:
            last.append(i)
        else:
            groups.append([i])
    found = [
        code_block(reading, g)
        for g in groups
        if len(g) >= LEAST and fixed(g[0]) and _like_code(reading, g, prose)
    ]
    return [n for n in found if n is not None]


def _like_code(reading: Reading, indices: list[int], prose: bool) -> bool:
    boxes = [reading.lines[i].box for i in indices]
    advance = _advance([w for i in indices for w in reading.lines[i].words])
    left = min(b.x for b in boxes)
    indented = any(b.x - left >= INDENT * advance for b in boxes)
    signs = sum(bool(CODE.search(reading.lines[i].text)) for i in indices)
    return signs >= CODED * len(indices) or (indented and signs > 0 and not prose)


def _advance(words: list[Word]) -> float:
    """How wide a character is, px; signs that stand alone (the lines of a table in code) hardly tell."""
    told = [w for w in words if len(w.text) >= TELLING] or [w for w in words if w.text]
    return statistics.median(w.w / len(w.text) for w in told)


def code_block(reading: Reading, indices: list[int]) -> Node | None:
    """The text node, a `pre`, of lines, if all of them are code; `indices` are those of the reading's lines."""
    lines, styles = reading.lines, reading.styles
    if len(indices) < LEAST or any(styles[lines[i].style].category != "monospace" for i in indices):
        return None
    sizes = [styles[lines[i].style].size for i in indices]
    if max(sizes) - min(sizes) > SAME_SIZE:
        return None
    rows: list[list[int]] = []
    for i in sorted(indices, key=lambda i: (lines[i].baseline, lines[i].box.x)):
        if rows and abs(lines[rows[-1][0]].baseline - lines[i].baseline) <= SAME_ROW * sizes[0]:
            rows[-1].append(i)
        else:
            rows.append([i])
    tops = [lines[row[0]].baseline for row in rows]
    steps = [b - a for a, b in itertools.pairwise(tops)]
    if len(rows) < LEAST:
        return None
    single = [s for s in steps if s < 1.5 * min(steps)]
    pitch = statistics.fmean(single)  # baselines fall on whole px, the distance between them need not
    if any(abs(s / pitch - round(s / pitch)) > EVEN for s in steps) or pitch > 2.2 * sizes[0]:
        return None
    pitch = (tops[-1] - tops[0]) / sum(round(s / pitch) for s in steps)
    words = [w for i in indices for w in lines[i].words]
    advance = _advance(words)
    left = min(w.x for w in words)
    usual = max((w.style for w in words), key=lambda k: sum(len(w.text) for w in words if w.style == k))
    ordered = [i for row in rows for i in sorted(row, key=lambda i: lines[i].box.x)]
    runs: list[Run] = []

    def put(text: str, style: int) -> None:
        if runs and runs[-1].style == style:
            runs[-1].text += text
        elif text:
            runs.append(Run(text, style, glue=True))

    for n, row in enumerate(rows):
        column = 0
        for w in sorted((w for i in row for w in lines[i].words), key=lambda w: w.x):
            at = max(column, round((w.x - left) / advance))
            if at > column or not runs:
                put(" " * (at - column), w.style if column and runs and runs[-1].style == w.style else usual)
            put(w.text, w.style)
            column = at + len(w.text)
        if n + 1 < len(rows):
            put("\n" * max(1, round(steps[n] / pitch)), usual)
    style = styles[usual]
    top = tops[0] - baseline_offset(style.ascent, style.descent, pitch)
    box = edges(
        left, top, max(w.x + w.w for w in words), top + pitch * round((tops[-1] - tops[0]) / pitch + 1)
    )
    node = Node(
        "text",
        box,
        tag="pre",
        style=usual,
        lines=ordered,
        runs=runs,
        leading=pitch,
        align="start",
        width="fill",
    )
    node.reasons.append("lines of fixed pitch")
    return node
