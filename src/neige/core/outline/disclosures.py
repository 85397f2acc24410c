"""What opens: questions under one another, each with a chevron or a plus at its end, are `details` with a `summary`.

They work without a script, and nothing is moved on the page. Messages that can be put away look much the same, but each has a
colour of its own: what is at their end closes them.
"""

from __future__ import annotations

from neige.core.model import Fill, Node, Surface
from neige.core.model.geometry import edges, union
from neige.core.outline.words import node_text

LEAST = 3  # questions
MARK = 30.0  # px: the largest sign at a question's end
IN_LINE = 4.0  # px by which the signs' middles may differ
WORDS = 20  # that a question says at most
ANSWER = 5  # parts that a question and its answer are
OWN = 0.7  # of several boxes with fills of their own: messages
APART = 40.0  # px between the words and their sign at least


def find_disclosures(root: Node) -> None:
    """Tag runs of questions in a block. A question with an answer under it is open."""
    for n in root.walk():
        if n.kind != "block" or n.tag in ("nav", "header", "footer"):
            continue
        entries = [(c, head) for c in n.children if (head := _head(c)) is not None]
        if len(entries) < LEAST:
            continue
        middles = sorted(head.children[-1].rect.cx for _, head in entries)
        usual = middles[len(middles) // 2]
        entries = [(c, h) for c, h in entries if abs(h.children[-1].rect.cx - usual) <= IN_LINE]
        if len(entries) < LEAST or len(entries) < 0.6 * len(n.children):
            continue
        if _are_messages([entry for entry, _ in entries]):
            for _, head in entries:
                head.children[-1].attributes |= {"linked": "button", "alt": "Dismiss"}
            n.reasons.append("texts in colours of their own, each with a sign at its end that closes it")
            continue
        for entry, head in entries:
            _disclose(n, entry, head)
        _take_open(root, n, usual)
        n.attributes.pop("list", None)
        n.reasons.append("texts under one another, each with a sign at its end that opens it")


def _are_messages(entries: list[Node]) -> bool:
    """Has each of several boxes its own colour, or nearly so? Questions share one."""
    fills = [e.surface.fill for e in entries if e.surface and (e.surface.fill.colour or e.surface.fill.stops)]
    return len(fills) == len(entries) and len({(f.colour, f.stops) for f in fills}) > OWN * len(entries)


def _take_open(root: Node, closed: Node, middle: float) -> None:
    """A question above those that are closed, with its answer under it, is the open one of them."""
    holder = next((p for p in root.walk() if any(c is closed for c in p.children)), None)
    if holder is None or holder.kind != "block":
        return
    at = next(i for i, c in enumerate(holder.children) if c is closed)
    heads = [i for i in range(max(0, at - ANSWER), at) if _head(holder.children[i]) is holder.children[i]]
    if not heads or abs(holder.children[heads[-1]].children[-1].rect.cx - middle) > IN_LINE:
        return
    head, answer = holder.children[heads[-1]], holder.children[heads[-1] + 1 : at]
    if not answer or any(c.kind not in ("text", "block") or c.surface for c in answer):
        return
    head.tag, head.children[0].tag = "summary", "span"
    entry = Node(
        "block", union(c.rect for c in (head, *answer)), tag="details", children=[head, *answer], gap=head.gap,
        width="fill", attributes={"open": "1"},
    )  # fmt: skip
    head.gap, closed.gap, below = 0.0, 0.0, closed.gap
    first = closed.children[0]
    if (
        closed.surface is not None and closed.surface.border[0]
    ):  # the line over the closed ones is the open one's
        line = closed.surface.border[0]
        entry.rect = edges(entry.rect.x, entry.rect.y, entry.rect.right, entry.rect.bottom + below + line)
        side = (0.0, 0.0, line, 0.0)
        entry.surface = Surface(entry.rect, Fill(""), border=side, border_colour=closed.surface.border_colour)
        entry.padding = (0.0, 0.0, below, 0.0)
        first.gap, closed.surface, closed.padding = closed.padding[0], None, (0.0, 0.0, 0.0, 0.0)
    else:
        first.gap = below
    closed.gap, entry.gap = entry.gap, 0.0
    closed.children.insert(0, entry)
    closed.rect = union([closed.rect, entry.rect])
    del holder.children[heads[-1] : at]


def _head(entry: Node) -> Node | None:
    """The row of a question and its sign: the entry itself, or the first thing in it."""
    row = entry
    while row.kind == "block" and row.children and row.tag in ("div", "li"):
        row = row.children[0]
    if row.kind not in ("row", "grid") or len(row.children) != 2 or row.tag != "div":
        return None
    words, sign = row.children
    small = (
        sign.kind == "image" and max(sign.rect.w, sign.rect.h) <= MARK and not sign.attributes.get("linked")
    )
    asks = words.kind == "text" and 1 <= len(node_text(words).split()) <= WORDS and len(words.lines) <= 2
    return row if small and asks and sign.rect.x - words.rect.right >= APART else None


def _disclose(holder: Node, entry: Node, head: Node) -> None:
    head.children[0].tag = "span"
    if entry is head:  # nothing is seen of its answer
        box = Node(
            "block", entry.rect, tag="details", children=[entry], gap=entry.gap, inset=entry.inset,
            width=entry.width, align=entry.align, surface=entry.surface, padding=entry.padding,
        )  # fmt: skip
        entry.gap = entry.inset = 0.0
        entry.surface, entry.padding, entry.width = None, (0.0, 0.0, 0.0, 0.0), "fill"
        entry.tag = "summary"
        holder.children[holder.children.index(entry)] = box
        return
    entry.tag, head.tag = "details", "summary"
    inner = entry
    while head not in inner.children:  # the summary must be the first thing in it
        inner = inner.children[0]
    if inner is not entry:
        inner.children.remove(head)
        head.gap, head.inset = inner.gap + head.gap, inner.inset + head.inset
        entry.children = [head, *([inner] if inner.children else []), *entry.children[1:]]
        inner.gap = 0.0
    if len(entry.children) > 1:
        entry.attributes["open"] = "1"
