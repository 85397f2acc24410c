"""Lines of text to paragraphs: what a browser would have wrapped becomes one text again."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

from neige.core.model import Line, Node, Reading, Rect, TypeStyle, Word
from neige.core.model.geometry import edges, union
from neige.core.model.outline import Run
from neige.core.outline.words import PART
from neige.core.reading.colour import away, chroma
from neige.core.reading.type.catalogue import row_of, shape
from neige.core.reading.type.naming import main_style

ALIGNED = 2.2  # px by which edges or centres of one paragraph's lines may differ
FLUSH = 2.5  # px by which the ends of justified lines may differ
STRETCHED = 0.04  # em by which their spaces are wider on average than the narrowest line's
LEADING = (0.95, 2.2)  # of the size: line pitches that occur in running text
SINGLE_LEADING = 1.25  # of the size: given to a line that stands alone
BULLET = re.compile(r"^[•·▪◦‣–—-]$|^\d{1,2}[.)]$")
DOTS = "•▪◦‣"
NUMBERED = 0.5  # of the lines that begin at one place that begin with a part's number, in a list of parts
LAYOUT_UNIT = 1 / 64  # px, which Chromium lays out in
CODE = ("monospace",)
OTHER_INK = 0.1  # OKLab, between the inks of two texts
MARK = 28.0  # px: the largest box or icon that marks a line, and the farthest it may stand from it
STACK_WORDS = 6
GLUED = 0.12  # of the smaller size: words of two styles that are nearer are one;
HALF_SPACE, ROOM = 0.6, 1.2  # of a space, what is nearer has none; px that show
# fmt: off
OPEN = frozenset((  # words that no line of its own ends with
    "a", "an", "the", "of", "on", "in", "to", "and", "or", "for", "with", "by", "at", "from", "is", "are", "as", "that", "this",
    "your", "our",
))
# fmt: on
DISPLAY, DISPLAY_LEADING = 32.0, 1.3  # px: lines so large and so near to one another are one headline,
DISPLAY_OFF = 0.1  # of their size that their middles may differ: letters so large are measured less exactly
STACK_SIZE = 22.0  # px: larger lines are headings, and wrap
CLOSE, ENTRIES = 0.65, 5  # of the entries' pitch: a line that near goes on with one; so many of them
ENTRY, MIDDLE = 90.0, 4.0  # px that the entry of a bar is high at most, and off the middle of its line
FEW = 8  # parts of such an entry


@dataclass
class Draft:
    """A paragraph being built: indices into the reading's lines, top to bottom."""

    lines: list[int]


def paragraphs(reading: Reading, indices: list[int], marks: Sequence[Rect] = ()) -> list[Node]:
    """Text nodes of the given lines (all in one container), each a paragraph or a line that stands alone.

    `marks`: small boxes and icons beside them; a line that has one of its own begins something of its own.
    """
    lines = reading.lines
    apart = {i for i in indices if any(_marks(m, lines[i]) for m in marks)} | _stacked(reading, indices)
    drafts: list[Draft] = []
    for i in sorted(indices, key=lambda i: (lines[i].baseline, lines[i].box.x)):
        best = next(
            (d for d in reversed(drafts) if i not in apart and _continues(reading, d, i, indices)), None
        )
        if best:
            best.lines.append(i)
        else:
            drafts.append(Draft([i]))
    return [text_node(reading, d.lines) for d in drafts]


def _marks(mark: Rect, line: Line) -> bool:
    """Does a small mark stand right before a line, level with it?"""
    return (
        max(mark.w, mark.h) <= MARK
        and 1 <= line.box.x - mark.right <= MARK
        and abs(mark.cy - line.box.cy) <= 6
    )


def _stacked(reading: Reading, indices: list[int]) -> set[int]:
    """Lines of a list without bullets: three or more short ones of one style, evenly under one another, each with a new beginning."""
    lines, styles = reading.lines, reading.styles
    out: set[int] = set()
    short = sorted(
        (i for i in indices if len(lines[i].words) <= STACK_WORDS), key=lambda i: lines[i].baseline
    )
    for i in short:
        size = styles[lines[i].style].size
        if i in out or size >= STACK_SIZE:
            continue
        run = [i]
        for j in short:
            a, b = lines[run[-1]], lines[j]
            pitch = b.baseline - a.baseline
            level = min(abs(a.box.x - b.box.x), abs(a.box.cx - b.box.cx)) <= ALIGNED
            if b.style != a.style or not level or not LEADING[0] * size <= pitch <= LEADING[1] * size:
                continue
            if len(run) > 1 and abs(pitch - (a.baseline - lines[run[-2]].baseline)) > 1.2:
                continue
            run.append(j)
        if len(run) > 2:  # what is much nearer to a line above it goes on with that
            first, second = lines[run[0]], lines[run[1]]
            near = CLOSE * (second.baseline - first.baseline)
            if any(
                0 < first.baseline - lines[k].baseline <= near
                and lines[k].style == first.style
                and abs(lines[k].box.x - first.box.x) <= ALIGNED
                for k in indices
            ):
                run = run[1:]
        anew = all((t := lines[k].words[0].text)[:1].isupper() or t[:1].isdigit() for k in run)
        open_ended = any(
            lines[k].words[-1].text in OPEN or lines[k].words[-1].text.endswith((",", ";", "-")) for k in run
        )
        follows = any(
            k not in run and lines[k].style == lines[i].style and abs(lines[k].box.x - lines[i].box.x) <= ALIGNED
            and 0 < lines[k].baseline - lines[run[-1]].baseline <= LEADING[1] * size
            for k in indices
        )  # fmt: skip
        if len(run) >= 3 and anew and not open_ended and not follows:
            out |= set(run)
    return out


def _continues(reading: Reading, draft: Draft, i: int, indices: list[int]) -> bool:
    lines, styles = reading.lines, reading.styles
    last, new = lines[draft.lines[-1]], lines[i]
    a, b = styles[last.style], styles[new.style]
    same_size = abs(a.size - b.size) <= 0.04 * a.size
    alike = same_size and a.italic == b.italic and (a.weight >= 600) == (b.weight >= 600)
    if not alike and not (same_size and _mixed(reading, last, new)):
        return False
    told = chroma(a.colour) > 0.1 and a.colour != b.colour and len(last.words) < 4
    if not _mixed(reading, last, new) and (told or away(a.colour, b.colour) > OTHER_INK):
        return False
    pitch = new.baseline - last.baseline
    if not LEADING[0] * a.size <= pitch <= LEADING[1] * a.size:
        return False
    sign, numbered = new.words[0].text, lines[draft.lines[0]].words[0].text[:1].isdigit()
    if BULLET.match(sign) or (numbered and PART.fullmatch(sign)):
        return False
    if len(draft.lines) > 1:
        usual = (last.baseline - lines[draft.lines[0]].baseline) / (len(draft.lines) - 1)
        if abs(pitch - usual) > 1.6:
            return False
    x0, x1 = _span(last)
    y0, y1 = _span(new)
    first = lines[draft.lines[0]]
    left = abs(x0 - y0) <= ALIGNED or (
        len(draft.lines) == 1
        and BULLET.match(first.words[0].text)
        and len(first.words) > 1
        and abs(first.words[1].x - y0) <= ALIGNED
    )
    unmarked = left and len(first.words) > 1 and _is_unmarked(reading, first, indices)
    display = a.size >= DISPLAY and pitch <= DISPLAY_LEADING * a.size
    centre = abs((x0 + x1) / 2 - (y0 + y1) / 2) <= (DISPLAY_OFF * a.size if display else ALIGNED)
    right = abs(x1 - y1) <= ALIGNED
    if not (left or centre or right):
        return False
    for k in indices:  # nothing else may stand on these lines in between
        other = lines[k]
        if (
            k != i
            and k not in draft.lines
            and last.baseline < other.baseline < new.baseline - 2
            and min(other.box.right, max(x1, y1)) - max(other.box.x, min(x0, y0)) > 2
        ):
            return False
    members = [_span(lines[k]) for k in draft.lines] + [(y0, y1)]
    width = max(e - s for s, e in members)
    space = 0.25 * a.size
    if (x1 - x0) + space + new.words[0].w < width - 1.5:
        return False  # the next word would have fitted: the writer broke the line here
    if display:
        return True
    score = 0.0
    start = new.words[0].text
    mean_words = (len(last.words) + len(new.words)) / 2
    score += 2.0 if start[:1].islower() else 0.0
    score += 2.0 if len(last.words) >= 5 else (0.6 if len(last.words) >= 3 else 0.0)
    score -= 1.5 if start[:1].isupper() and mean_words <= 3.5 else 0.0
    score -= 1.5 if pitch > 1.8 * a.size else 0.0
    score += 1.0 if len(draft.lines) > 1 else 0.0
    score += 1.2 if centre and not left and a.size > 20 else 0.0
    score += 1.0 if a.size >= 22 and pitch <= 1.4 * a.size else 0.0
    score -= 1.0 if last.words[-1].text.endswith((".", ":")) and len(last.words) < 5 else 0.0
    score += 1.5 if last.words[-1].text in OPEN or last.words[-1].text.endswith((",", "-")) else 0.0
    score += 2.0 if unmarked else 0.0
    score += 1.5 if pitch <= CLOSE * _entry_pitch(reading, new, indices) else 0.0
    return score > 0.5


def _is_unmarked(reading: Reading, first: Line, indices: list[int]) -> bool:
    """Does a line without a sign that follows `first` go on with it, since what begins there begins with a dot or a part's number?"""
    sign = first.words[0].text
    if sign in DOTS or not PART.fullmatch(sign):
        return sign in DOTS
    begin = [n for n in (reading.lines[k] for k in indices) if abs(n.box.x - first.box.x) <= ALIGNED]
    parts = [n for n in begin if PART.fullmatch(n.words[0].text)]
    return len(parts) >= ENTRIES and len(parts) >= NUMBERED * len(begin)


def _entry_pitch(reading: Reading, line: Line, indices: list[int]) -> float:
    """How far apart most lines of a line's style are that begin where it does, if they are several; else nothing."""
    level = [
        n.baseline
        for n in (reading.lines[k] for k in indices)
        if n.style == line.style and abs(n.box.x - line.box.x) <= ALIGNED
    ]
    steps = sorted(b - a for a, b in itertools.pairwise(sorted(level)))
    return steps[len(steps) // 2] if len(steps) >= ENTRIES else 0.0


def _mixed(reading: Reading, a: Line, b: Line) -> bool:
    """True if the two lines share a style somewhere: emphasis or a link changes the style inside one text."""
    return bool({w.style for w in a.words} & {w.style for w in b.words})


def _span(line: Line) -> tuple[float, float]:
    """From where to where a line's words are, without what may be the sign of an item before them."""
    signed = len(line.words) > 1 and BULLET.match(line.words[0].text)
    return line.words[1 if signed else 0].x, line.words[-1].x + line.words[-1].w


def _spans(lines: Sequence[Line], bullet: bool, hang: float = 0.0) -> list[tuple[float, float]]:
    """From where to where the words of a text's lines are; `bullet`: without the sign that the first begins with; `hang`: px by
    which the first begins before the others, which are given as if they began there, too."""
    words = [line.words for line in lines]
    first = 1 if bullet else 0
    return [(w[0].x - hang if n else w[first].x, w[-1].x + w[-1].w) for n, w in enumerate(words)]


def _hang(lines: Sequence[Line]) -> float:
    """How far (px) the first line's sign, a dash or a number that is a word of the text, hangs out before all the others."""
    sign, *words = lines[0].words
    if not words or not BULLET.match(sign.text) or len(lines) < 2:
        return 0.0
    level = all(abs(line.words[0].x - words[0].x) <= ALIGNED for line in lines[1:])
    return words[0].x - sign.x if level else 0.0


def text_node(reading: Reading, indices: list[int]) -> Node:
    """One text node of lines `indices` (top to bottom)."""
    lines = [reading.lines[i] for i in indices]
    letters: dict[int, int] = {}
    for line in lines:
        for w in line.words:
            letters[w.style] = letters.get(w.style, 0) + len(w.text)
    main = main_style(letters, reading.styles)
    style = reading.styles[main]
    leading = (
        (lines[-1].baseline - lines[0].baseline) / (len(lines) - 1)
        if len(lines) > 1
        else float(round(style.size * SINGLE_LEADING))
    )
    bulleted = (
        len(lines[0].words) > 1
        and bool(BULLET.match(lines[0].words[0].text))
        and not lines[0].words[0].text.startswith(("–", "—", "-"))
        and _as_marker(reading, lines[0])
    )
    bullet = lines[0].words[0].text if bulleted else ""
    runs: list[Run] = []
    for n, line in enumerate(lines):
        last: Word | None = None
        for w in line.words[1:] if n == 0 and bulleted else line.words:
            if runs and runs[-1].style == w.style:
                runs[-1].text += " " + w.text
            else:
                if last is not None:
                    runs[-1].glue, room = room_between(last, w, style, reading)
                    runs[-1].room = room if len(lines) == 1 else 0.0
                runs.append(Run(w.text, w.style))
            last = w
    hang = 0.0 if bulleted else _hang(lines)
    spans = _spans(lines, bulleted, hang)
    x0, x1 = min(s for s, _ in spans), max(e for _, e in spans)
    top = lines[0].baseline - baseline_offset(style.ascent, style.descent, leading)
    node = Node(
        "text",
        edges(x0, top, x1, top + leading * len(lines)),
        tag="p",
        runs=runs,
        lines=list(indices),
        style=main,
        leading=leading,
    )
    if bullet:
        node.attributes["bullet"] = bullet
    if hang:
        node.attributes["hang"] = f"{round(2 * hang) / 2:g}"
    node.align = _alignment(spans)
    if len(lines) > 2:
        _justify(node, reading)
    return node


def _spans_of(node: Node, lines: Sequence[Line]) -> list[tuple[float, float]]:
    """From where to where the words of a node's lines are."""
    return _spans(lines, "bullet" in node.attributes, float(node.attributes.get("hang", 0)))


def justify_alike(root: Node, reading: Reading) -> None:
    """Mark texts as justified whose lines end where those of other justified texts in their style do: a few lines, whose spaces
    happen to be hardly wider, say little by themselves."""
    texts = [n for n in root.walk() if n.kind == "text" and len(n.lines) > 1]
    told = [n for n in texts if n.attributes.get("justify")]
    ends = {(n.style, round(n.rect.right)) for n in told}
    for n in (n for n in texts if not n.attributes.get("justify")):
        if any(k == n.style and abs(n.rect.right - x) <= FLUSH for k, x in ends):
            _justify(n, reading, 0.0)


def _justify(node: Node, reading: Reading, least: float = STRETCHED) -> None:
    """Mark a text whose lines are set from edge to edge: all but the last end at one place, because their spaces are wider than
    its by `least` em."""
    lines = [reading.lines[i] for i in node.lines]
    spans = _spans_of(node, lines)
    lefts, rights = [s for s, _ in spans], [e for _, e in spans[:-1]]
    flush = max(lefts) - min(lefts) <= FLUSH and max(rights) - min(rights) <= FLUSH
    if not flush or spans[-1][1] > max(rights) + FLUSH:
        return
    size = reading.styles[node.style].size
    spaces = [[b.x - a.x - a.w for a, b in itertools.pairwise(line.words)] for line in lines]
    natural = min((sum(g) / len(g) for g in spaces if g), default=0.0)
    wider = [sum(g) / len(g) - natural for g in spaces[:-1] if g]
    if wider and sum(wider) / len(wider) >= least * size:
        node.attributes["justify"] = "1"


def stand_glued(a: Word, b: Word, reading: Reading) -> bool:
    """Do two words of code stand without a space between them, in inks of their own?"""
    code = all(reading.styles[w.style].category == "monospace" for w in (a, b))
    return code and b.x - a.x - a.w < HALF_SPACE * a.w / len(a.text)


def is_close(gap: float, main: TypeStyle) -> bool:
    """Is there no space in a gap between words of a text set in `main`?"""
    return gap < HALF_SPACE * (shape(row_of(main), " ").advance * main.size + main.tracking)


def room_between(a: Word, b: Word, main: TypeStyle, reading: Reading) -> tuple[bool, float]:
    """Do two words of two styles stand without a space between them, and how many px are they farther apart than that?"""
    gap = b.x - a.x - a.w
    space = shape(row_of(main), " ").advance * main.size + main.tracking
    if gap < GLUED * min(reading.styles[w.style].size for w in (a, b)):
        return True, 0.0
    glue = gap < HALF_SPACE * space
    room = gap if glue else gap - space
    return glue, float(round(room)) if abs(room) > ROOM else 0.0  # whole px, so that parts alike share it


def _as_marker(reading: Reading, line: Line) -> bool:
    """The browser sets a list's numbers like its text: one in bold before plain text is written, not counted. (A plain one before
    bold words is counted: these begin an item.)"""
    number, text = (reading.styles[w.style] for w in line.words[:2])
    return not line.words[0].text[0].isdigit() or not number.weight >= 600 > text.weight


def baseline_offset(ascent: float, descent: float, leading: float) -> float:
    """From the top of a line box to its baseline (CSS 2.2, 10.8.1: half the leading goes above). Chromium takes whole px of it, the
    lower ones: with a px more or less in 17 px of letters and 20 of leading texts would be half a px off, and then one."""
    return math.floor((leading - (ascent + descent)) / 2 + LAYOUT_UNIT / 2) + ascent


def _alignment(spans: list[tuple[float, float]]) -> str:
    """ "start", "center" or "end", by which of the lines' edges spread least; "" if one line cannot tell."""
    if len(spans) < 2:
        return ""
    lefts, rights = [s for s, _ in spans], [e for _, e in spans]
    centres = [(s + e) / 2 for s, e in spans]
    spread = {
        "start": max(lefts) - min(lefts),
        "center": max(centres) - min(centres),
        "end": max(rights) - min(rights),
    }
    return min(
        ("start", "center", "end"),
        key=lambda k: (spread[k] > ALIGNED, spread[k] if spread[k] > ALIGNED else 0),
    )


def wrap_bounds(reading: Reading, node: Node) -> tuple[float, float]:
    """The widths (px) of a box in which the text breaks as it was seen: at least the first, less than the second."""
    lines = [reading.lines[i] for i in node.lines]
    return line_bounds(reading, lines, _spans_of(node, lines))


def line_bounds(
    reading: Reading, lines: Sequence[Line], spans: Sequence[tuple[float, float]] = ()
) -> tuple[float, float]:
    """What `wrap_bounds` says, of lines that are no node yet, or of ones whose `spans` are known."""
    spans = spans or [_span(line) for line in lines]
    low = max(e - s for s, e in spans)
    high = 1e9
    for a, b, (s, e) in zip(lines, lines[1:], spans):
        space = 0.25 * reading.styles[a.style].size
        first = b.words[0]
        high = min(high, e - s + space + first.w)
    return low, max(high, low + 0.5)


def _inner(node: Node) -> Rect:
    """A box; of one that is only a line under what is in it, which reaches beyond that to both sides, what is in it."""
    if node.surface is None or not node.surface.underlines or not node.children:
        return node.rect
    own = union(c.rect for c in node.children)
    level = node.rect.h <= ENTRY and abs(own.cx - node.rect.cx) <= MIDDLE and len(node.walk()) <= FEW
    return edges(own.x, node.rect.y, own.right, node.rect.bottom) if level else node.rect


def tight(node: Node, reading: Reading) -> Rect:
    """The box that cuts go by: for text the letters' own height, so that leading closes no gaps."""
    if node.kind != "text" or not node.lines:
        return _inner(node)
    boxes = []
    for i in node.lines:
        line = reading.lines[i]
        size = reading.styles[line.style].size
        boxes.append(
            edges(line.box.x, line.baseline - 0.74 * size, line.box.right, line.baseline + 0.2 * size)
        )
    return union(boxes)
