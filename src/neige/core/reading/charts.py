"""Charts, found by their axes: numbers in even steps beside a plot. What is in one, labels included, is one picture."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence

from neige.core.model import Line, Rect, Rule, Surface
from neige.core.model.geometry import edges, union

TICKS = 3  # labels at least
STEP = 1.6  # px by which the distances between tick labels may differ
MOST = 16  # labels: a longer column of even numbers is a table's
NEXT = 3  # labels further down a column at which an axis may go on
EDGE = 3.0  # px by which the labels' right (or left) edges may differ
BELOW = 44.0  # px under the lowest tick label within which the other axis has its labels
MIN_WIDE = 120.0  # px
CROSSED = 4  # labels at least of each of two axes that need no lines,
EVEN = 0.1  # and of their distance that those of the lower one may differ by
STACKED = 6  # charts at most that are looked for in one column of numbers
NUMBER = re.compile(r"[-+−]?[$€£¥]?(\d[\d,. ]*)([kKmM%]?)")


def find_charts(lines: Sequence[Line], surfaces: Sequence[Surface], rules: Sequence[Rule]) -> list[Rect]:
    """The boxes of all charts (CSS px): tick labels, plot, and the labels under it."""
    ticks = [(line, v) for line in lines if (v := _number(line.text)) is not None]
    out: list[Rect] = []
    used: set[int] = set()
    for line, _ in ticks:
        if id(line) in used:
            continue
        column = [
            t
            for t in ticks
            if abs(t[0].box.right - line.box.right) <= EDGE or abs(t[0].box.x - line.box.x) <= EDGE
        ]
        used |= {id(n) for n, _ in column}  # each column is looked at once
        column.sort(key=lambda t: t[0].box.y)
        for _ in range(STACKED):  # charts one above another have their axes at one place
            axis = _axis(column)
            if not axis:
                break
            plot = _plot(axis, lines, surfaces, rules)
            if plot and not any(plot.inside(o, 0.5) for o in out):
                out.append(plot)
            of_it = {id(n) for n in axis}
            column = [t for t in column if id(t[0]) not in of_it]
    return out


def _number(text: str) -> float | None:
    found = NUMBER.fullmatch(text.strip())
    if not found:
        return None
    digits = found[1].replace(",", "").replace(" ", "")
    if digits.count(".") > 1 or not digits.strip("."):
        return None
    value = float(digits) * {"k": 1e3, "m": 1e6}.get(found[2].lower(), 1.0)
    return -value if text.strip()[0] in "-−" else value


def _axis(column: list[tuple[Line, float]]) -> list[Line]:
    """The longest run of labels, top to bottom, at even distances whose numbers fall by even amounts."""
    best: list[Line] = []
    for i in range(len(column)):
        for j in range(i + 1, min(i + 1 + NEXT, len(column))):
            pitch = column[j][0].box.cy - column[i][0].box.cy
            fall = column[i][1] - column[j][1]
            if pitch < 12 or fall <= 0:
                continue
            run = [column[i][0], column[j][0]]
            value = column[j][1]
            for line, v in column[j + 1 :]:
                if line.box.cy > run[-1].box.cy + pitch + STEP or len(run) > MOST:
                    break
                if abs(line.box.cy - run[-1].box.cy - pitch) <= STEP and abs(value - v - fall) <= 0.01 * fall:
                    run.append(line)
                    value = v
            if TICKS <= len(run) <= MOST and len(run) > len(best):
                best = run
    return best


def _plot(
    axis: list[Line], lines: Sequence[Line], surfaces: Sequence[Surface], rules: Sequence[Rule]
) -> Rect | None:
    labels = union(n.box for n in axis)
    pitch = (axis[-1].box.cy - axis[0].box.cy) / (len(axis) - 1)
    last, fall = (
        _number(axis[-1].text) or 0.0,
        (_number(axis[0].text) or 0.0) - (_number(axis[1].text) or 0.0),
    )
    ends = [
        n
        for n in lines
        if n not in axis and -4 <= n.box.y - labels.bottom <= BELOW and n.box.cx > labels.x - 4
    ]
    if last > 0 and last <= 4 * fall and abs(last / fall - round(last / fall)) < 0.01 and len(ends) < 2:
        # labels that could not be read, down to zero: the other axis is not yet there
        labels = edges(labels.x, labels.y, labels.right, labels.bottom + pitch * round(last / fall))
    hosts = [s.rect for s in surfaces if labels.inside(s.rect.grow(1), 0.98) and s.rect.w > MIN_WIDE]
    host = min(hosts, key=lambda r: r.area) if hosts else None
    grid = [
        r.rect for r in rules if r.rect.w > r.rect.h and any(abs(r.rect.cy - n.box.cy) <= 5 for n in axis)
        and r.rect.x >= labels.x - 2 and (host is None or r.rect.inside(host, 0.9))
    ]  # fmt: skip
    if grid:
        right = max(r.right for r in grid)
    elif host:
        right = host.right - max(8.0, labels.x - host.x)
    elif _even([n.box for n in ends]):
        right = max(n.box.right for n in ends)
    else:
        return None
    if right - labels.right < MIN_WIDE:
        return None
    under = [
        n.box
        for n in lines
        if labels.bottom - 4 <= n.box.y <= labels.bottom + BELOW and labels.x - 4 <= n.box.cx <= right + 20
    ]
    if len(under) < 2 and len(grid) < 2:  # a column of numbers beside nothing
        return None
    beside = [
        n for n in lines
        if n not in axis and labels.right + 4 < n.box.cx < right and labels.y - 4 <= n.box.cy <= axis[-1].box.bottom + 4
    ]  # fmt: skip
    shapes = [
        s
        for s in surfaces
        if s.rect.inside(edges(labels.right, labels.y - 20, right + 4, labels.bottom + 20), 0.95)
    ]
    crossed = not beside and len(axis) >= CROSSED and _even(under)
    if len(beside) >= len(axis) or (len(grid) + len(shapes) < 2 and not crossed):
        return None  # a table, or a list of years: what stands beside the numbers is text, or nothing is drawn there
    bottom = max((b.bottom for b in under), default=labels.bottom)
    if host and len(under) < 2:
        bottom = host.bottom - max(8.0, labels.x - host.x)
    right = max([right, *(b.right for b in under)])
    return edges(labels.x - 4, labels.y - 4, right + 2, bottom + 3)


def _even(labels: list[Rect]) -> bool:
    """Are the labels under a plot in one row, with even distances between their middles?"""
    middles = sorted(b.cx for b in labels)
    if len(middles) < CROSSED or max(b.cy for b in labels) - min(b.cy for b in labels) > 2 * STEP:
        return False
    steps = [b - a for a, b in itertools.pairwise(middles)]
    return max(steps) - min(steps) <= EVEN * max(steps)
