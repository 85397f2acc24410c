"""Lists of posts: entries with a line between them, each a title, perhaps a summary, and by whom and when it was written."""

from __future__ import annotations

import itertools
import re

from neige.core.model import Node, Reading
from neige.core.outline.words import node_text, texts_in

LEAST = 3  # entries of a list
LONGEST = 60  # words of an entry that leads to the rest of itself
SAME = 0.03  # by which the sizes of their titles may differ
MONTHS = "jan(uary)?|feb(ruary)?|mar(ch)?|apr(il)?|may|june?|july?|aug(ust)?|sept?(ember)?|oct(ober)?|nov(ember)?|dec(ember)?"
DATE = re.compile(  # a day of a month, or a month of a year; three numbers of which none is a year are a version
    rf"\b({MONTHS})\.? \d{{1,2}}(\d\d)?\b|\b\d{{4}}-\d{{1,2}}-\d{{1,2}}\b|\b\d{{1,2}}([./])\d{{1,2}}\D\d{{4}}\b",
    re.I,
)
BY = re.compile(r"\bby$", re.I)


def titles_alike(root: Node, found: list[Node], reading: Reading) -> list[Node]:
    """The first texts of entries that are set as the titles of the other entries, whatever they say."""
    out = []
    for entries in _lists(root):
        firsts = [e[0] for e in entries if e[0].kind == "text" and e[0].tag == "p" and len(e) > 1]
        titles = [t for t in firsts if any(t is f for f in found)]
        others = [t for t in firsts if not any(t is f for f in found)]
        if len(titles) > len(others):
            style = reading.styles[titles[0].style]
            for t in others:
                s = reading.styles[t.style]
                if s.weight == style.weight and abs(s.size / style.size - 1) <= SAME:
                    out.append(t)
    return out


def link_posts(root: Node, reading: Reading) -> None:
    """The titles of short dated entries lead to the posts themselves, and a name in another ink after "by" to whose it is."""
    for entries in _lists(root):
        dated = [e for e in entries if _is_dated(e)]
        if len(dated) < LEAST:
            continue
        for e in dated:
            title = e[0]
            if title.kind == "text" and re.fullmatch(r"h[2-6]", title.tag):
                for run in title.runs:
                    run.tag = "a"
                title.reasons.append("the title of one of several dated entries")
            for text in (t for c in e[1:] for t in texts_in(c) if DATE.search(node_text(t))):
                for a, b in itertools.pairwise(text.runs):
                    other = reading.styles[a.style].colour != reading.styles[b.style].colour
                    if BY.search(a.text.rstrip()) and other and not b.tag:
                        b.tag = "a"


def _lists(root: Node) -> list[list[list[Node]]]:
    """Of every stack that lines part, the entries between these."""
    out = []
    for n in root.walk():
        if n.kind != "block" or sum(c.kind == "rule" for c in n.children) < LEAST - 1:
            continue
        entries: list[list[Node]] = [[]]
        for c in n.children:
            if c.kind == "rule":
                entries.append([])
            else:
                entries[-1].append(c)
        kept = [e for e in entries if e]
        if len(kept) >= LEAST:
            out.append(kept)
    return out


def _is_dated(entry: list[Node]) -> bool:
    texts = [t for c in entry for t in texts_in(c)]
    words = sum(len(node_text(t).split()) for t in texts)
    return len(texts) > 1 and words <= LONGEST and any(DATE.search(node_text(t)) for t in texts[1:])
