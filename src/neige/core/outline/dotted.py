"""Short texts side by side with a dot between them are a list, and the dots are drawn by its style."""

from __future__ import annotations

from dataclasses import replace

from neige.core.model import Node
from neige.core.outline.stacks import link_whole
from neige.core.outline.words import node_text, texts_in, words_of

APART = (12.0, 48.0)  # px between entries
EVEN = 2.0  # px by which the distances may differ
LEAVES = 3  # of an entry at most: a mark or two and its words
WORDS = 12  # of an entry at most
DOTS = "•·"
HOLDERS = ("div", "p", "span")


def list_dotted(root: Node) -> None:
    """Rows in which a dot was seen before at least one entry but the first become lists whose entries have dots between them."""
    for n in root.walk():
        unpacked = _unpacked(n)
        kids = [c for c, _ in unpacked]
        if n.kind != "row" or n.tag not in HOLDERS or n.attributes.get("list") or len(kids) < 2:
            continue
        dots = [_dot(c) for c in kids]
        gaps = [gap for _, gap in unpacked[1:]]
        even = max(gaps) - min(gaps) <= EVEN and APART[0] <= min(gaps) and max(gaps) <= APART[1]
        if dots[0] or not any(dots) or not even or not all(map(_is_entry, kids)):
            continue
        n.attributes |= {"list": "1", "dotted": next(d for d in dots if d)}
        n.reasons.append("dots between short texts")
        n.children = kids
        for c, gap in unpacked:
            c.gap = gap
            if bullet := c.attributes.pop("bullet", ""):
                c.attributes["parted"] = bullet  # its line may begin with it
            if c.kind == "row" and c.tag == "div" and any(t.tag == "a" for t in texts_in(c)):
                link_whole(c)


def _unpacked(n: Node) -> list[tuple[Node, float]]:
    """What is in a row, with the gap before it; entries with dots before them may have been put together in it, and a dot before an
    entry that begins with a picture is a text of its own."""
    out: list[tuple[Node, float]] = []
    for c in n.children:
        for k, (d, gap) in enumerate(_unpacked(c) if _is_group(c) else [(c, 0.0)]):
            before = gap if k else c.gap
            if len(out) > 1 and _is_dot(out[-1][0]):
                (dot, lead), d = out.pop(), replace(d)
                d.attributes = {**d.attributes, "bullet": node_text(dot), "dot": node_text(dot)}
                before += lead + dot.rect.w
            out.append((d, before))
    return out


def _is_group(c: Node) -> bool:
    """A row of entries with dots before them."""
    parts = c.kind == "row" and c.surface is None and c.tag in HOLDERS and bool(c.children)
    return parts and (all(map(_dot, c.children)) or any(map(_is_dot, c.children)))


def _is_dot(c: Node) -> bool:
    return c.kind == "text" and node_text(c) in (*DOTS,)


def _dot(c: Node) -> str:
    """The dot before an entry, "" for none; a number or another sign is none."""
    if not c.attributes.get("bullet"):
        return ""
    return c.attributes.get("dot") or (DOTS[0] if c.attributes["bullet"] in DOTS else "")


def _is_entry(c: Node) -> bool:
    """One line of text, or a mark and one."""
    texts = texts_in(c)
    leaves = [d for d in c.walk() if not d.children]
    plain = c.surface is None and c.kind in ("text", "row") and len(leaves) <= LEAVES
    return plain and len(texts) == 1 and len(texts[0].lines) == 1 and len(words_of(c)) <= WORDS
