"""Which texts are headings, and of which level."""

from __future__ import annotations

import itertools
import re
from collections import defaultdict

from neige.core.model import Node, Reading, TypeStyle
from neige.core.model.outline import HEADINGS, SUBHEADINGS
from neige.core.outline.columns import CONTENTS, ON_PAGE
from neige.core.outline.posts import titles_alike
from neige.core.outline.words import body_style, heading_styles, node_text, texts_in

FIGURE = re.compile(r"[^\w]*\d(?![\d.]*\. [^\W\d])")  # but a section's number
NEAR_LARGEST = 0.8  # of the largest heading's size: may be the page's title
FIRST_SCREEN = 700.0  # px below the first heading: farther down is no title
LEAD_WORDS, LEAD_SIZE = 8, 1.5  # words of a lead at least, and its size in parts of the text's
MINOR, MINOR_WORDS, MINOR_SIZE, MINOR_EDGE = (
    3,
    5,
    1.09,
    4.0,
)  # headings alike, words, times the text's size, px
CARD_WIDE = 160.0  # px: a card's width at least,
CARD_HEAD = 40.0  # how far its title is from its corner at most,
CARD_WORDS = 3  # and words that it says under it at least
CONTROLS = (
    "a",
    "button",
    "nav",
    "label",
    "th",
    "td",
    "span",
    "header",
)  # in which nothing is a heading
FOOT_HEAD = 1.35  # times as large as the running text a heading in the page's foot is
QUOTES, ENDS = "”\"'’)", (".", "!", "…")  # of sentences
MASTHEAD = 1.2  # times as large as the largest heading below the page's head


def give_headings(root: Node, reading: Reading) -> None:
    """Make texts headings by their size and weight, and by the marks other steps left (`head`); one h1, no level skipped."""
    ranks = heading_styles(reading)
    base = reading.styles[body_style(reading)]
    found: list[Node] = []
    opening = _below_bar(root)

    def visit(n: Node, in_control: bool, in_foot: bool = False) -> None:
        inside = in_control or (n.tag in CONTROLS and n.attributes.get("label") not in (CONTENTS, ON_PAGE))
        in_foot = in_foot or n.tag == "footer"
        # in the page's foot only what is plainly larger than its text
        small = in_foot and (ranks.get(n.style, 0.0) < FOOT_HEAD * base.size or len(node_text(n).split()) < 2)
        if (
            n.kind == "text"
            and n.tag == "p"
            and not inside
            and not small
            and n.style in ranks
            and len(n.lines) <= 4
        ):
            words = node_text(n)
            letters = sum(c.isalpha() for c in words)
            figure = (
                bool(FIGURE.match(words)) and len(words.split()) <= 3
            )  # "54 km/h" says how much, not what follows
            if (
                letters >= 3
                and not figure
                and len(words.split()) <= 16
                and not _is_sentence(words, n.style, base, reading)
                and not _stresses(n, words, base, reading)
                and letters > 0.4 * len(words.replace(" ", ""))
            ):
                found.append(n)
        elif n.kind == "text" and n.attributes.get("head") and n.tag in ("p", "span"):
            found.append(n)
        for c in n.children:
            visit(c, inside and id(c) not in opening, in_foot)

    visit(root, False)
    minor = _minor(root, reading, ranks)
    minor += [n for n in _card_titles(root, reading, ranks) if n not in minor]
    ranks = {**{n.style: reading.styles[n.style].size for n in minor}, **ranks}
    found += minor
    found += _masthead(root, found, ranks, reading)
    found += titles_alike(root, found, reading)
    found = _without_subtitles(root, found, ranks, reading)
    if not found:
        return
    ranks = {**{n.style: base.size for n in found if n.style not in ranks}, **ranks}
    top = _title(root, found, ranks)
    merged: list[float] = []
    for size in sorted({round(min(ranks[n.style], ranks[top.style]), 1) for n in found}, reverse=True):
        if not merged or merged[-1] - size > 0.06 * size:
            merged.append(size)

    def place(n: Node) -> int:
        return next(i for i, size in enumerate(merged) if size - ranks[n.style] <= 0.06 * size)

    shared = any(
        n is not top and place(n) == 0 for n in found
    )  # others as large as the title are of the second level
    for n in found:
        level = place(n) + shared
        n.tag = "h1" if n is top else f"h{min(6, max(2, level + 1))}"
        n.reasons.append(f"set at {reading.styles[n.style].size:g} px against {base.size:g} px text")
    _agree(root)
    _head_sections(root)
    _close_gaps(root)
    aside = {
        id(d)
        for n in root.walk()
        if n.kind in ("row", "grid") and any(d is top for d in n.walk())
        for c in n.children
        if c.kind == "block" and not any(d is top for d in c.walk())
        for d in c.walk()
    }
    for n in root.walk(
        document=True
    ):  # what stands before the title of the page is no heading of it, but for a column's own
        if n.tag == "h1":
            break
        if n in found and id(n) not in aside:
            n.tag = "p"


def _below_bar(root: Node) -> set[int]:
    """What stands below the bar of the page's head, on the same ground (by id()): there the page is opened, and has its title."""
    head = next((n for n in root.children if n.tag == "header"), None)
    bars = [n.rect.bottom for n in head.walk() if n.tag == "nav"] if head else []
    out: set[int] = set()

    def below(n: Node) -> None:
        for c in n.children:
            if c.rect.y >= min(bars):
                out.add(id(c))
            elif c.tag not in CONTROLS:
                below(c)

    if head and bars:
        below(head)
    return out


def _agree(root: Node) -> None:
    """In like entries under one another the same text is a heading or none: what most of them say."""
    for n in root.walk():
        alike: dict[tuple[int, ...], list[list[Node]]] = defaultdict(list)
        for c in n.children:
            if c.children:
                alike[tuple(t.style for t in texts_in(c))].append(texts_in(c))
        for entries in (e for e in alike.values() if len(e) >= MINOR):
            for same in zip(*entries):
                heads = [t.tag for t in same if t.tag in SUBHEADINGS]
                plain = [t.tag for t in same if t.tag == "p"]
                if heads and plain and len(heads) + len(plain) == len(same):
                    for t in same:
                        t.tag = max(heads, key=heads.count) if len(heads) > len(plain) else "p"


def _minor(root: Node, reading: Reading, ranks: dict[int, float]) -> list[Node]:
    """Short texts only a little larger than the page's text, and as heavy: several set alike, each over something that begins
    where it does, are headings; a text that stands by itself is not."""
    base = reading.styles[body_style(reading)]
    over: dict[int, list[Node]] = defaultdict(list)
    others: set[int] = set()
    for n in root.walk():
        for i, c in enumerate(n.children):
            if c.kind != "text" or c.style in ranks or not _is_minor(reading.styles[c.style], base):
                continue
            below = n.children[i + 1] if n.kind == "block" and i + 1 < len(n.children) else None
            short = len(c.lines) == 1 and len(node_text(c).split()) <= MINOR_WORDS and c.tag == "p"
            begins = below is not None and below.kind != "rule" and abs(below.rect.x - c.rect.x) <= MINOR_EDGE
            if (
                short
                and begins
                and c.tag == "p"
                and node_text(c)[-1:].isalnum()
                and node_text(c)[0].isalpha()
            ):
                over[c.style].append(c)
            elif c.tag == "p":
                others.add(c.style)
    return [n for style, found in over.items() if len(found) >= MINOR and style not in others for n in found]


def _card_titles(root: Node, reading: Reading, ranks: dict[int, float]) -> list[Node]:
    """What cards begin with, a little larger than the page's text: their titles, if at least two cards have smaller text under
    theirs; then those that break into a second line are, too."""
    base = reading.styles[body_style(reading)]
    first: dict[int, list[Node]] = defaultdict(list)
    sure: dict[int, int] = defaultdict(int)
    for card in root.walk():
        if card.kind != "block" or card.tag != "div" or card.surface is None or card.rect.w < CARD_WIDE:
            continue
        texts = texts_in(card)
        t = texts[0] if texts else None
        if t is None or t.tag != "p" or t.style in ranks or not _is_minor(reading.styles[t.style], base):
            continue
        near = t.rect.y - card.rect.y <= CARD_HEAD and t.rect.x - card.rect.x <= CARD_HEAD
        said = node_text(t)
        if (
            near
            and len(t.lines) <= 2
            and len(said.split()) <= MINOR_WORDS * len(t.lines)
            and said[0].isalpha()
            and said[-1].isalnum()
        ):
            first[t.style] += [t] if t not in first[t.style] else []
            size = reading.styles[t.style].size
            under = [o for o in texts[1:] if o.rect.y >= t.rect.bottom]
            smaller = any(reading.styles[o.style].size < size for o in under)
            sure[t.style] += (
                len(t.lines) == 1 and smaller and sum(len(node_text(o).split()) for o in under) >= CARD_WORDS
            )
    return [n for style, found in first.items() if sure[style] >= 2 for n in found]


def _is_minor(s: TypeStyle, base: TypeStyle) -> bool:
    return s.size >= MINOR_SIZE * base.size and s.weight >= base.weight and not s.underline and not s.italic


def _title(root: Node, found: list[Node], ranks: dict[int, float]) -> Node:
    """The page's title: the first heading that is not much smaller than the largest, or, where that is far down, the first."""
    largest = max(ranks[n.style] for n in found)
    first, *_ = order = [n for n in root.walk(document=True) if n in found]
    top = next(n for n in order if ranks[n.style] >= NEAR_LARGEST * largest)
    return top if top.rect.y - first.rect.y <= FIRST_SCREEN else first


def _is_sentence(words: str, style: int, base: TypeStyle, reading: Reading) -> bool:
    """Whole sentences a little larger than the text and no heavier are a lead, not a heading."""
    s = reading.styles[style]
    return (
        len(words.split()) >= LEAD_WORDS
        and words.rstrip(QUOTES).endswith(ENDS)
        and s.size <= LEAD_SIZE * base.size
        and s.weight <= base.weight + 100
    )


def _stresses(n: Node, words: str, base: TypeStyle, reading: Reading) -> bool:
    """A sentence with bold words in it ("Ana Tarn measured 142 cm."), as large as the text, is none, either."""
    plain = any(
        reading.styles[r.style].weight <= base.weight + 100 and len(r.text.strip()) > 1 for r in n.runs
    )
    size = reading.styles[n.style].size
    return plain and words.rstrip(QUOTES).endswith(ENDS) and size <= MINOR_SIZE * base.size


def _masthead(root: Node, found: list[Node], ranks: dict[int, float], reading: Reading) -> list[Node]:
    """The name across a newspaper's head is the page's title: no other text is as large, and it stands in the middle."""
    largest = max((reading.styles[n.style].size for n in found), default=0.0)
    head = next((n for n in root.children if n.tag == "header"), None)
    return [
        t
        for t in (texts_in(head) if head else [])
        if t.style in ranks
        and t.tag == "p"
        and reading.styles[t.style].size >= MASTHEAD * largest > 0
        and abs(t.rect.cx - root.rect.cx) <= 0.05 * root.rect.w
    ][:1]


def _without_subtitles(
    root: Node, found: list[Node], ranks: dict[int, float], reading: Reading
) -> list[Node]:
    """A smaller text right under a heading belongs to it: a subtitle, if something else comes
    under the two of them or it is much lighter."""
    out = list(found)
    for n in root.walk():
        for i, (a, b) in enumerate(itertools.pairwise(n.children)):
            if a not in out or b not in out or b.attributes.get("head"):
                continue
            size = reading.styles[b.style].size
            lighter = reading.styles[a.style].weight >= reading.styles[b.style].weight + 200
            followed = i + 2 < len(n.children) or lighter
            if b.gap <= 0.7 * size and ranks[b.style] < ranks[a.style] - 0.5 and followed:
                out.remove(b)
    return out


def _head_sections(root: Node) -> None:
    """The largest heading of a section of the page is one of the second level, however small it is beside that of another."""
    for n in root.walk():
        if n.tag != "section":
            continue
        heads = [t for t in texts_in(n) if t.tag in SUBHEADINGS]
        top = min((int(t.tag[1]) for t in heads), default=2)
        if top > 2 and heads[0].tag == f"h{top}" and not any(t.tag == "h1" for t in texts_in(n)):
            for t in heads:
                t.tag = f"h{int(t.tag[1]) - top + 2}"


def _close_gaps(root: Node) -> None:
    """No level is skipped on the way down, and headings that looked alike under one parent stay alike."""
    above: list[tuple[int, int]] = []  # (level by looks, level given)
    for n in root.walk():
        if n.tag not in HEADINGS:
            continue
        seen = int(n.tag[1])
        while above and above[-1][0] > seen:
            above.pop()
        if not above:
            given = min(seen, 2)
        elif above[-1][0] == seen:
            given = above[-1][1]
        else:
            given = above[-1][1] + 1
        above.append((seen, given))
        n.tag = f"h{min(6, given)}"
