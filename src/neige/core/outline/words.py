"""What is written in a part of the outline, and which of the page's styles are its text and its headings."""

from __future__ import annotations

import re
from collections import defaultdict

from neige.core.model import Node, Reading

COPYRIGHT = re.compile(
    r"©|\(c\) |copyright|all rights reserved|^(generated|powered|built|made|created) (by|with|using)\b", re.I
)
TURN = re.compile(
    r"[‹«←<·]?\s*(previous|prev|next|older|newer)( (posts?|entries|articles?|pages?))?\W*", re.I
)
ACTION = re.compile(
    r"^(sign|log|buy|get|start|send|submit|subscribe|add|download|learn|read|view|see|find|join|contact|continue|try|search|save|report|upgrade|generate|redeem|choose|create|edit|delete|cancel|apply|book|order|shop|explore|register|reset)\b",
    re.I,
)
PROSE = 0.1  # of a page's letters that are not of one width
PART = re.compile(r"\d{1,2}(\.\d{1,2})+\.?")  # the number of a chapter's part
ADDRESS = re.compile(r"[\w.+-]+@[\w-]+(\.[\w-]+)+", re.ASCII)  # of e-mail


def texts_in(node: Node) -> list[Node]:
    return [n for n in node.walk() if n.kind == "text"]


def node_text(node: Node) -> str:
    return "".join(r.text + ("" if r.glue else " ") for n in texts_in(node) for r in n.runs).rstrip()


def words_of(node: Node) -> list[str]:
    return node_text(node).split()


def body_style(reading: Reading) -> int:
    """The style most letters are set in; on a page with prose not one of code."""
    letters: dict[int, int] = defaultdict(int)
    for line in reading.lines:
        for w in line.words:
            letters[w.style] += len(w.text)
    prose = {k: n for k, n in letters.items() if reading.styles[k].category != "monospace"}
    if sum(prose.values()) >= PROSE * sum(letters.values()):
        letters = defaultdict(int, prose)
    return max(letters, key=lambda k: (letters[k], -k)) if letters else 0


def heading_styles(reading: Reading) -> dict[int, float]:
    """Styles fit for headings, with their visual rank: size first, weight next."""
    if not reading.styles:
        return {}
    base = reading.styles[body_style(reading)]
    letters: dict[int, int] = defaultdict(int)
    for line in reading.lines:
        for w in line.words:
            letters[w.style] += len(w.text)
    total = sum(letters.values())
    out = {}
    for i, s in enumerate(reading.styles):
        larger = s.size >= 1.17 * base.size
        heavier = s.weight >= base.weight + 200 and s.size >= 1.02 * base.size
        both = s.weight >= base.weight + 100 and s.size >= 1.1 * base.size
        display = s.family != base.family and s.weight >= base.weight + 200 and s.size >= 0.97 * base.size
        if (larger or heavier or both or display) and letters[i] < 0.3 * total and not s.underline:
            out[i] = s.size + (s.weight - 400) / 200
    return out
