"""Lists: bulleted texts, rows with marks of their own, painted rows that touch, and three or more like siblings."""

from __future__ import annotations

import itertools
from collections.abc import Callable

from neige.core.model import Node, Reading
from neige.core.model.geometry import edges, union
from neige.core.model.outline import SUBHEADINGS, Run
from neige.core.outline.stacks import wrap_runs
from neige.core.outline.words import PART, node_text

PILE, PILE_EDGE, PILE_ROW, PILE_WORDS = 3, 2.5, 130.0, 40  # rows that touch: how many, px, and words of one
TICKS = "✓✔✗✘×☑"
MARKED = 3  # rows with a sign before each
LIGHT = 1.5  # times its text's size that a dot is at most
SIGN = 28.0  # px


def _loose_shape(n: Node) -> frozenset:
    return frozenset(
        (d.kind, bool(d.surface), d.tag if d.tag in ("a", "h2", "h3", "h4", "h5", "input", "img") else "")
        for d in n.walk()
    )


def find_lists(root: Node, reading: Reading) -> None:
    """Bulleted texts, navigation entries, and three or more like siblings are lists."""
    for n in root.walk():
        if n.kind not in ("block", "row", "grid") or n.tag not in (
            "div",
            "nav",
            "section",
            "main",
            "footer",
            "header",
            "aside",
        ):
            continue
        _wrap_runs(n, lambda c: bool(c.attributes.get("bullet")), 2 if n.tag != "nav" else 99, reading)
        if n.tag not in ("nav", "header"):
            wrap_runs(n, _is_marked, MARKED)
            wrap_runs(n, _row_of_pile(n), PILE)
        if (
            n.tag == "nav"
            and n.kind in ("row", "block")
            and all(c.tag in ("a", "span", "div", "img") for c in n.children)
            and not any(d.attributes.get("list") for d in n.walk())
        ):
            n.attributes["list"] = marks(n)
        elif n.tag == "div" and len(n.children) >= 3 and not n.attributes.get("band"):
            kinds = [_loose_shape(c) for c in n.children]
            plain_texts = all(c.kind == "text" for c in n.children)
            links = all(c.tag == "a" and not c.surface for c in n.children)
            same_surface = (
                all(c.surface for c in n.children)
                and len(
                    {(round(c.rect.w / 8), c.surface.fill.colour if c.surface else "") for c in n.children}
                )
                == 1
            )
            brief = all(len(node_text(c).split()) <= 12 and c.rect.h <= 90 for c in n.children)
            if links or (
                brief
                and not plain_texts
                and len(set(kinds)) == 1
                and (same_surface or n.kind in ("row", "grid") or all(len(c.walk()) > 2 for c in n.children))
                and not any(c.tag in ("a", "input", "tr", "td", "span", "img", "hr") for c in n.children)
                and not all(any(d.kind == "field" for d in c.walk()) for c in n.children)
            ):
                n.attributes["list"] = marks(n)


def marks(n: Node) -> str:
    """What a list's items have before them, as its attribute says it."""
    return "bullets" if all(c.attributes.get("bullet") and _number(c) is None for c in n.children) else "1"


def piled(a: Node, b: Node) -> bool:
    """Are two parts painted rows of one pile: as wide as each other, of about the same height, and touching?"""
    return (
        a.surface is not None
        and b.surface is not None
        and abs(a.rect.x - b.rect.x) <= PILE_EDGE
        and abs(a.rect.right - b.rect.right) <= PILE_EDGE
        and abs(b.rect.y - a.rect.bottom) <= PILE_EDGE
        and max(a.rect.h, b.rect.h) <= min(PILE_ROW, 1.7 * min(a.rect.h, b.rect.h))
    )


def _row_of_pile(n: Node) -> Callable[[Node], bool]:
    """A test for the rows of a pile in a box; one with a heading or a field is something else."""
    kids = n.children
    rows = {id(c) for pair in itertools.pairwise(kids) if piled(*pair) for c in pair}

    def test(c: Node) -> bool:
        plain = c.tag in ("div", "a") and not any(
            d.kind in ("field", "table") or d.tag in (*SUBHEADINGS, "summary", "button") for d in c.walk()
        )  # fmt: skip
        return id(c) in rows and plain and 0 < len(node_text(c).split()) <= PILE_WORDS

    return test


def _is_marked(c: Node) -> bool:
    """A row of a small sign, a tick or a dot, and a text: an entry of a list with marks of its own. The sign may be a letter."""
    if c.kind == "text" and c.tag == "p":
        return len(node_text(c).split()) > 1 and node_text(c)[0] in TICKS
    if c.kind not in ("row", "grid") or c.surface is not None or len(c.children) != 2 or c.tag != "div":
        return False
    sign, text = c.children
    bare = sign.kind == "image" or (sign.kind == "block" and sign.surface is not None and not sign.children)
    return bool(
        bare
        and max(sign.rect.w, sign.rect.h) <= SIGN
        and text.kind == "text"
        and text.tag == "p"
        and text.rect.x - sign.rect.right <= SIGN
        and sign.rect.y <= text.rect.y + text.leading
    )


def _gather_items(children: list[Node], test: Callable[[Node], bool]) -> list[Node]:
    """Join what follows a bulleted text, indented like it, to its item: a list item may have several paragraphs."""
    out: list[Node] = []
    margin = min(c.rect.x for c in children)
    for c in children:
        head = out[-1] if out else None
        first = head.children[0] if head is not None and head.children and not test(c) else head
        if (
            head is not None
            and first is not None
            and test(head)
            and not test(c)
            and c.kind == "text"
            and c.tag == "p"
            and first.kind == "text"
            and first.tag == "p"
            and c.rect.x - margin > 12
            and not _is_part(c)
            and abs(c.rect.x - first.rect.x) <= 3
            and (c.rect.y - head.rect.bottom) < 3 * max(c.leading, 12.0)
        ):
            if head.kind == "text":
                item = Node("block", head.rect, children=[head], gap=head.gap, inset=head.inset, width="fill")
                item.attributes["bullet"] = head.attributes["bullet"]
                head.gap = head.inset = 0.0
                head.tag = "p"
                out[-1] = head = item
            c.inset = 0.0
            head.children.append(c)
            head.rect = union([head.rect, c.rect])
        else:
            out.append(c)
    return out


def _wrap_runs(n: Node, test: Callable[[Node], bool], least: int, reading: Reading) -> None:
    """Put runs of bulleted children of a block into a list node of their own."""
    if n.kind != "block" or not any(test(c) for c in n.children):
        return
    n.children = _gather_items(n.children, test)
    out: list[Node] = []
    run: list[Node] = []

    numbers = [k for c in n.children if test(c) and (k := _number(c)) is not None]
    counted = len(numbers) > 1 and all(b == a + 1 for a, b in itertools.pairwise(numbers)) and n.tag != "nav"
    counted = counted and not any(map(_is_part, n.children))  # else they are the numbers of chapters

    def close() -> None:
        number = _number(run[0]) if run else None
        headed = any(c.kind == "text" and c.tag[0] == "h" for c in run)  # numbers of chapters
        if headed:
            for c in run:
                _put_sign_back(c, reading)
            out.extend(run)
        elif len(run) >= least or (counted and number is not None):  # its items may have texts between them
            box = union(c.rect for c in run)
            node = Node("block", box, tag="div", children=list(run), width="fill", gap=run[0].gap)
            node.attributes["list"] = "bullets" if number is None else "ol"
            if number is not None and number != 1:
                node.attributes["start"] = str(number)
            run[0].gap = 0.0
            out.append(node)
        else:
            for c in run:
                if n.tag != "nav" or _number(c) is not None:
                    _put_sign_back(c, reading)
            out.extend(run)
        run.clear()

    for c in n.children:
        if test(c):
            before, number = (_number(run[-1]), _number(c)) if run else (None, None)
            if (run and (before is None) != (number is None)) or (
                before is not None and number != before + 1
            ):
                close()
            run.append(c)
        else:
            close()
            out.append(c)
    close()
    if (
        len(out) == 1
        and out[0] is not n
        and out[0].attributes.get("list")
        and n.surface is None
        and n.tag == "div"
        and not n.attributes.get("band")
    ):
        n.attributes |= {k: v for k, v in out[0].attributes.items() if k in ("list", "start")}
        return
    n.children = out


def _number(item: Node) -> int | None:
    """What an item is numbered with."""
    bullet = item.attributes.get("bullet", "").rstrip(".)")
    return int(bullet) if bullet.isdigit() else None


def _is_part(c: Node) -> bool:
    """Does a text begin with the number of a chapter's part?"""
    return c.kind == "text" and any(map(PART.fullmatch, node_text(c).split()[:1]))


def _put_sign_back(text: Node, reading: Reading) -> None:
    """A number that counts nothing, or a lone dot in another colour, is a word of its text."""
    if text.kind != "text" or not text.attributes.get("bullet"):
        return
    first = reading.lines[text.lines[0]].words[0]
    light = reading.styles[first.style].colour != reading.styles[text.style].colour and (
        reading.styles[first.style].size <= LIGHT * reading.styles[text.style].size
    )
    if first.text == text.attributes["bullet"] and (light or _number(text) is not None):
        text.runs.insert(0, Run(text.attributes.pop("bullet"), first.style))
        text.inset -= text.rect.x - first.x
        text.rect = edges(first.x, text.rect.y, text.rect.right, text.rect.bottom)
