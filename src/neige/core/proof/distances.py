"""How far lines stand from each other on a drawn page, where that is not the picture's, and what has its cause elsewhere.

One wrong gap moves everything below it: each line is compared with the line above it, and where the distance between the two is
not the picture's, everything that hangs on it is one finding.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from neige.core.model import DrawnWord, Finding, Line, Reading, Rect, Word
from neige.core.model.geometry import union
from neige.core.proof.boxes import Bordered

STEP = 1.2  # px by which a distance may differ
ASIDE = 2.2  # px by which a line may stand aside
BELOW = 150.0  # px that a wrong line reaches down
LEADING = 1.6  # of a type's size: how high a row of it is at most
SLACK = 1.0  # px by which what a border moves may be moved otherwise
ROW = 60.0  # px within which equal steps are one

Offset = Callable[[Word, DrawnWord], tuple[float, float]]


@dataclass(eq=False)
class Placed:
    """A line of the picture with the words that were found of it. `dx`, `dy`: how far off it was drawn; `broken`: over several lines."""

    number: int
    line: Line
    pairs: list[tuple[Word, DrawnWord]]
    dx: float
    dy: float
    broken: bool
    above: Placed | None = None
    step: float = 0.0
    explained: bool = False
    grown: float = 0.0  # px by which its row may be too high, because its type is
    hanging: list[Placed] = field(default_factory=list)

    @property
    def rect(self) -> Rect:
        return self.line.ink

    @property
    def node(self) -> int:
        return self.pairs[0][1].node


def place_lines(reading: Reading, pairs: Iterable[tuple[Word, DrawnWord]], offset: Offset) -> list[Placed]:
    of_word = {id(w): n for n, line in enumerate(reading.lines) for w in line.words}
    by_line: dict[int, list[tuple[Word, DrawnWord]]] = defaultdict(list)
    for w, d in pairs:
        by_line[of_word[id(w)]].append((w, d))
    out = []
    for n, found in by_line.items():
        found.sort(key=lambda p: p[0].x)
        offs = np.array([offset(w, d) for w, d in found])
        dy = float(np.median(offs[:, 1]))
        off = np.abs(offs[:, 1] - dy) > 0.6 * reading.lines[n].box.h
        left, right = float(offs[0, 0]), float(offs[-1, 0])
        out.append(Placed(n, reading.lines[n], found, min(left, right, key=abs), dy, bool(off.any())))
    return sorted(out, key=lambda p: (p.rect.y, p.rect.x))


def hang(placed: list[Placed]) -> None:
    """Give every line the one it stands under, and how much the distance between them is off."""
    for p in placed:
        over = [
            q
            for q in placed
            if q.line.baseline < p.line.baseline - 2
            and min(q.rect.right, p.rect.right) > max(q.rect.x, p.rect.x)
        ]
        p.above = max(over, key=lambda q: (q.line.baseline, -abs(q.rect.x - p.rect.x)), default=None)
        p.step = p.dy - (p.above.dy if p.above else 0.0)
    for p in placed:
        root: Placed | None = p
        while root is not None and abs(root.step) <= STEP:
            root = root.above
        if root is not None:
            root.hanging.append(p)


def quoted(words: Iterable[str]) -> str:
    text = " ".join(words)
    return f"“{text[:48]}{'…' if len(text) > 48 else ''}”"


def quote_line(p: Placed) -> str:
    return quoted(w.text for w, _ in p.pairs)


def count_words(lines: Iterable[Placed]) -> int:
    return sum(len(p.pairs) for p in lines)


def _moves(n: int) -> str:
    return f": moves {n} words" if n > 1 else ""


def between(p: Placed, rects: Iterable[Rect], shift: float = 0.0) -> bool:
    """Does one of the rects lie between a line and the one above it (in the page's terms, if shifted)?"""
    top = (p.above.rect.y + (p.above.dy if shift else 0.0)) if p.above else 0.0
    bottom = p.rect.y + (p.dy if shift else 0.0)
    return any(top - 4 <= r.cy <= bottom + 4 for r in rects)


def steps(placed: list[Placed]) -> list[Finding]:
    """Distances that are not the picture's, those of one row or one paragraph together."""
    causes = [p for p in placed if abs(p.step) > STEP and not p.explained]
    # a line of another size makes the row it stands in higher or lower, and so moves what is below that
    wrong = [p.rect for p in placed if p.explained]
    causes = [p for p in causes if not any(0 <= p.rect.y - r.y <= BELOW for r in wrong)]
    grown = [q for q in placed if q.grown]
    causes = [p for p in causes if not any(_could_move(q.grown, p) and between(p, [q.rect]) for q in grown)]
    groups: list[list[Placed]] = []
    for p in causes:
        for g in groups:
            q = g[-1]
            row = abs(p.rect.y - g[0].rect.y) <= ROW and abs(p.step - q.step) <= 1.0
            pitch = p.above in g and p.node == q.node and p.step * q.step > 0
            if row or pitch:
                g.append(p)
                break
        else:
            groups.append([p])
    out = []
    for g in groups:
        head = g[0]
        hanging = {id(h): h for p in g for h in p.hanging}
        n = count_words(hanging.values())
        more = head.step > 0
        pitch = len(g) > 1 and all(p.node == head.node and p.above in g for p in g[1:])
        if (pitch and head.node >= 0) or head.broken:
            kind, text = (
                "line height",
                f"the lines of {quote_line(head)} stand {abs(head.step):.1f} px {'farther' if more else 'less far'} apart",
            )
        else:
            kind = "gap"
            text = f"the gap above {quote_line(head)} is {abs(head.step):.0f} px too {'large' if more else 'small'}"
        strong = min(1.0, 0.3 + abs(head.step) / 12)
        weight = strong * (1500.0 + 90.0 * n + sum(h.rect.area for h in hanging.values()) * 0.3)
        out.append(Finding(kind, text + _moves(n), head.rect, weight, head.node))
    return out


def _could_move(by: float, p: Placed) -> bool:
    """May something that is `by` px higher than in the picture be why a line is as far from the one above it as it is?"""
    return p.step * by > 0 and abs(p.step) <= abs(by) + SLACK


def explain(placed: list[Placed], bordered: Sequence[Bordered]) -> None:
    """What is moved by a panel's border that is wider than the picture's, or narrower, has its cause there."""
    for panel, wider in bordered:
        for p in placed:
            down = _could_move(2 * wider, p)
            beside = p.rect.inside(panel, 0.9) and abs(p.dx - wider) <= SLACK
            over = p.above.rect.y if p.above else 0.0
            p.explained |= (
                down and any(over < y <= p.rect.bottom for y in (panel.y, panel.bottom))
            ) or beside


def aside(placed: list[Placed]) -> list[Finding]:
    """Lines that stand too far left or right, what moved together together."""
    off = [p for p in placed if abs(p.dx) > ASIDE and not p.explained and not p.broken]
    groups: list[list[Placed]] = []
    for p in off:
        near = next(
            (
                g
                for g in groups
                if any(abs(q.dx - p.dx) <= 1.2 and abs(q.rect.y - p.rect.y) <= 160 for q in g)
            ),
            None,
        )
        if near is None:
            groups.append([p])
        else:
            near.append(p)
    out = []
    for g in groups:
        n, dx = count_words(g), float(np.median([p.dx for p in g]))
        more = f" and {len(g) - 1} more lines stand" if len(g) > 1 else " stands"
        weight = min(1.0, 0.3 + abs(dx) / 12) * (1200.0 + 80.0 * n + 0.3 * sum(p.rect.area for p in g))
        text = f"{quote_line(g[0])}{more} {abs(dx):.1f} px too far {'right' if dx > 0 else 'left'}"
        out.append(Finding("moved", text, union([p.rect for p in g]), weight, g[0].node))
    return out
