"""Names for text styles by their use on the page, and the scale that their sizes make."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from neige.core.model import Line, TypeScale, TypeStyle

CODE = 0.5  # what a letter of code counts
SAME_SIZE = 0.02  # of a size: nearer sizes are one step of the scale
STEP_ERROR = 0.1  # mean share of a step by which sizes may miss a modular scale
RATIOS = (1.067, 1.125, 1.2, 1.25, 1.333, 1.414, 1.5, 1.618)  # the usual modular scales


def main_style(letters: Mapping[int, float], styles: Sequence[TypeStyle]) -> int:
    """The style of a line or a text whose words have several, by how many `letters` each style has. Code counts half: it stands in
    a text more often than a text in code."""
    code = {k for k in letters if styles[k].category == "monospace"}
    return max(letters, key=lambda k: (letters[k] * (CODE if k in code else 1.0), -k))


def body_of(lines: Sequence[Line]) -> int:
    """The running text's style: the one with most letters."""
    letters: dict[int, int] = defaultdict(int)
    for line in lines:
        for w in line.words:
            letters[w.style] += len(w.text)
    return max(letters, key=lambda k: (letters[k], -k)) if letters else 0


def name_styles(styles: Sequence[TypeStyle], lines: Sequence[Line]) -> list[TypeStyle]:
    """Name every style by its size against the running text's and by what sets it apart; equal names are numbered by size."""
    if not styles:
        return []
    body = styles[body_of(lines)]
    names = [_name(s, body) for s in styles]
    out = list(styles)
    for name in set(names):
        same = sorted(
            (n for n, x in enumerate(names) if x == name),
            key=lambda n: (-styles[n].size, -styles[n].lines, n),
        )
        for k, n in enumerate(same):
            out[n] = replace(styles[n], name=name if k == 0 else f"{name} {k + 1}")
    return out


def _name(s: TypeStyle, body: TypeStyle) -> str:
    ratio = s.size / body.size
    if s.category == "monospace" and body.category != "monospace":
        return "code"
    if ratio >= 2.4:
        return "display"
    if ratio >= 1.6:
        return "title"
    if ratio >= 1.3:
        return "subtitle"
    if ratio >= 1.1:
        return "lead" if s.weight <= body.weight + 100 else "subtitle"
    if s.uppercase and (ratio < 1 or s.tracking > 0.2):
        return "label"
    if ratio <= 0.86:
        return "caption"
    if ratio < 0.97:
        return "small"
    if s.weight >= body.weight + 200:
        return "strong"
    return "link" if s.underline else "body" if s.colour == body.colour else "text"


def scale_of(styles: Sequence[TypeStyle], lines: Sequence[Line]) -> TypeScale:
    """The steps that the page's sizes make, near-duplicates merged, and the one ratio that explains them, if there is one."""
    if not styles:
        return TypeScale(16.0, (16.0,))
    base = styles[body_of(lines)].size
    steps: list[float] = []
    for size in sorted({s.size for s in styles if not s.substitute} | {base}):
        if steps and size - steps[-1] < SAME_SIZE * size:
            continue
        steps.append(size)
    if len(steps) < 3:
        return TypeScale(base, tuple(steps))
    logs = np.log(np.array(steps) / base)
    for ratio in sorted(RATIOS, reverse=True):  # the coarsest that fits says most
        at = logs / np.log(ratio)
        off = float(np.abs(at - np.round(at)).mean())
        if off < STEP_ERROR and len(set(np.round(at).tolist())) == len(steps):
            return TypeScale(base, tuple(steps), ratio)
    return TypeScale(base, tuple(steps))
