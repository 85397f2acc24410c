"""Forms: which text names which field, and which fields and button belong together."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable

from neige.core.model import Node, Rect
from neige.core.model.geometry import edges, union
from neige.core.model.outline import HEADINGS, SUBHEADINGS
from neige.core.outline.fields import FIELD_WORDS
from neige.core.outline.words import node_text
from neige.core.reading.colour import chroma

SUBMIT = re.compile(
    r"\b(sign in|log ?in|login|submit|send|search|save|continue|register|redeem|subscribe|report)\b", re.I
)
ABOVE = 18.0  # px between a label and its field
LEGEND, LEGEND_WORDS = (
    28.0,
    10,
)  # px between the legend of a set of choices and the first of them, and its words
LABEL_OFF = 12.0  # px by which a label may begin elsewhere than its field
LABEL_BESIDE = 14.0  # px between a field and the label beside it
TICK, TICKS = (12.0, 24.0), 3  # px; squares in a column
DOING_WORDS = 3  # that such a button says at most
# fmt: off
DOING = re.compile(
    r"^(\W*)(save|cancel|discard|update|confirm|apply|reset|share|export|filters?|mark|revoke|connect|disconnect|remove|transfer|change|copy|close|dismiss|undo|refresh|invite|sort|upload|rename|archive|duplicate|clear|select|enable|disable|delete|print|follow|unfollow|bookmark|toggle|pause|mute|retry|reload|expand|collapse|approve|reject|accept|decline)\b",
    re.I,
)
# fmt: on
PARTS = ("header", "nav", "main", "aside", "footer")  # no form holds these parts of a page
TOUCH = 1.6  # px between buttons of one set
FORM = 900.0  # px: a form that holds the page's landmarks is no higher
FORM_WORDS = 60  # words that a form has at most, besides a dozen for each field
ALSO = 2  # more headings set alike, and one over a field is a heading, too


def name_fields(root: Node) -> None:
    """The text right above (or before) a field names it, also with a hint between the two. One set as the page's headings are
    stays a heading."""
    heads: dict[int, int] = {}
    for n in root.walk():
        if n.kind == "text" and n.tag in SUBHEADINGS:
            heads[n.style] = heads.get(n.style, 0) + 1
    for n in root.walk():
        kids = n.children
        for i, (a, b) in enumerate(itertools.pairwise(kids)):
            fields = [
                f
                for f in (b.walk() if b.kind in ("row", "block", "grid") and not b.surface else [b])
                if f.kind == "field"
            ]
            named = b.walk() if b.kind in ("row", "grid", "block") else []
            if any("asks" in d.attributes for d in named):  # they have their names
                continue
            if not fields or fields[0].attributes.get("type") in ("checkbox", "radio"):
                continue
            if i and _is_hint(kids[i - 1], a, fields[0]):
                a = kids[i - 1]
            elif _shares_its_line(a, fields[0]):
                a = a.children[0]
            elif fields[0].rect.y - a.rect.bottom >= ABOVE or a.rect.bottom > fields[0].rect.cy:
                continue
            if _may_name(a, fields[0]):
                headed = a.tag if a.tag in SUBHEADINGS and heads[a.style] > ALSO else ""
                _name_field(fields[0], a)
                if headed:
                    a.tag = headed
                    fields[0].attributes["label"] = fields[0].attributes.pop("name")


def _may_name(text: Node, field: Node) -> bool:
    """May a text near a field be its label? A large heading is one only of a field with nothing in it."""
    tags = ("p", "h3", "h4", "h5", "h6", *(() if field.attributes.get("placeholder") else ("h2",)))
    short = text.kind == "text" and len(text.lines) == 1 and len(node_text(text).split()) <= 6
    return short and text.tag in tags and text.rect.x < field.rect.right


def _shares_its_line(row: Node, field: Node) -> bool:
    """Are these two texts right above a field, the second at its end: its label, and a link or a hint?"""
    two = row.kind == "row" and [c.kind for c in row.children] == ["text", "text"]
    if not two or not 0 <= field.rect.y - row.rect.bottom < ABOVE:
        return False
    label, other = row.children
    ends = (
        abs(label.rect.x - field.rect.x) <= LABEL_OFF
        and abs(other.rect.right - field.rect.right) <= LABEL_OFF
    )
    return ends and label.style != other.style


def _is_hint(label: Node, hint: Node, field: Node) -> bool:
    """Is a text between another and a field said of that field: a sentence in another ink, all three one under another?"""
    texts = label.kind == hint.kind == "text" and hint.tag == "p" and label.tag in ("p", "h3", "h4")
    near = hint.rect.y - label.rect.bottom < ABOVE and field.rect.y - hint.rect.bottom < ABOVE
    flush = abs(label.rect.x - hint.rect.x) <= LABEL_OFF and abs(hint.rect.x - field.rect.x) <= LABEL_OFF
    said = len(node_text(hint).split()) > len(node_text(label).split()) and hint.style != label.style
    return texts and near and flush and said and len(label.lines) == 1


def name_beside(root: Node) -> None:
    """The text right beside a field in its row names it."""
    for n in root.walk():
        if n.kind == "row":
            for a, b in itertools.pairwise(n.children):
                t, f = (a, b) if a.kind == "text" else (b, a)
                near = b.rect.x - a.rect.right <= LABEL_BESIDE or "asks" in n.attributes
                near = near and t.kind == "text" and f.kind == "field"
                if (
                    near
                    and t.tag == "p"
                    and len(t.lines) == 1
                    and len(node_text(t).split()) <= 4
                    and not f.attributes.get("name")
                ):
                    _name_field(f, t)


def _name_field(field: Node, label: Node) -> None:
    """Make a text the label of a field, and the field what its label says."""
    label.tag = "label"
    name = node_text(label)
    field.attributes["name"] = name
    kind = next((v for k, v in FIELD_WORDS.items() if k in name.lower()), None)
    if kind and field.attributes.get("type") == "text":
        field.attributes["type"] = kind[0]
        field.attributes["autocomplete"] = kind[1]


def group_choices(root: Node) -> None:
    """Choices under one another are a set, of which one radio button is pressed; the text over them is the set's legend."""
    for n in root.walk():
        i = 0
        while n.kind == "block" and i < len(n.children):
            j = i
            while j < len(n.children) and n.children[j].attributes.get("role") == "choice":
                j += 1
            if j - i >= 2:
                _make_set(n, i, j)
            i = max(j, i + 1)


def _make_set(holder: Node, first: int, end: int) -> None:
    rows = holder.children[first:end]
    fields = [f for r in rows for f in r.walk() if f.kind == "field"]
    above = holder.children[first - 1] if first else None
    if all(f.attributes.get("type") == "radio" for f in fields):
        for f in fields:
            f.attributes["set"] = node_text(above or rows[0])
    if above is None or not _is_legend(above, rows[0]):
        return
    above.tag = "legend"
    part = [above, *rows]
    left = min(c.rect.x - c.inset for c in part)
    box = union(c.rect for c in part)
    group = Node(
        "block", edges(left, box.y, box.right, box.bottom), tag="fieldset", children=part, width="fill"
    )
    group.gap, above.gap = above.gap, 0.0
    holder.children[first - 1 : end] = [group]


def _is_legend(text: Node, row: Node) -> bool:
    plain = text.kind == "text" and text.tag in ("p", *SUBHEADINGS) and text.surface is None
    near = row.rect.y - text.rect.bottom <= LEGEND and abs(text.rect.x - row.rect.x) <= LABEL_OFF
    return plain and near and len(text.lines) == 1 and len(node_text(text).split()) <= LEGEND_WORDS


def find_forms(root: Node) -> None:
    """The smallest box around two or more fields with a button (or a field right beside its button) is a form; forms never nest."""

    def visit(n: Node) -> tuple[int, bool]:
        """(fields not yet in a form, whether a form is inside)."""
        count, holds = 0, False
        for c in n.children:
            k, h = visit(c)
            count, holds = count + k, holds or h
        if n.kind == "field":
            return 1, False
        if n.tag in ("form", "search"):
            return 0, True
        wordy = len(node_text(n).split()) > FORM_WORDS + 12 * count
        part = n.kind == "block" and count >= 2 and not holds
        boxed = n.tag in ("div", "section")
        if part and (n.tag == "main" or (wordy and boxed)) and _part_forms(n):
            return 0, True
        if part and boxed and not wordy and _is_headed(n) and _part_forms(n, whole=True):
            for b in n.walk():  # what is below the form does the same in another way
                b.tag = "button" if b.attributes.get("role") == "button" else b.tag
            return 0, True
        if (
            holds
            or not count
            or n.kind not in ("block", "row", "grid")
            or n.tag not in ("div", "section")
            or "list" in n.attributes
        ):
            return count, holds
        buttons = [c for c in n.walk() if c.attributes.get("role") == "button"]
        beside = any(c.attributes.get("role") == "button" for c in n.children) and any(
            f.kind == "field" and f.attributes.get("type") not in ("checkbox", "radio") for f in n.walk()
        )
        if any(c.tag in ("nav", "main", "header", "h1") for c in n.walk()) and n.rect.h > FORM:
            return count, holds
        if wordy:
            return count, holds
        if (count >= 2 and buttons) or (count == 1 and beside):
            n.tag = "form"
            for b in buttons:
                b.tag = "button"
            return 0, True
        return count, False

    # a word beside a field that says what to do, whose box could not be told from what it lies on
    for n in root.walk():
        entry = n.kind == "row" and any(c.kind == "field" for c in n.children) and len(n.children) == 2
        for c in n.children if entry else []:
            if c.kind == "text" and c.surface is None and SUBMIT.fullmatch(node_text(c)):
                c.tag = "button"
                c.attributes["role"] = "button"
    visit(root)

    # a lone field beside its button inside a larger set of fields is part of that set's form
    def fields(n: Node) -> int:
        return sum(1 for f in n.walk() if f.kind == "field")

    def widen(n: Node) -> None:
        for c in n.children:
            widen(c)
        inner = [f for f in n.walk() if f.tag in ("form", "search")]
        if (
            n.tag == "div"
            and len(inner) == 1
            and inner[0].attributes.get("label") != "Search"
            and not any(d.tag in PARTS for d in n.walk())
            and fields(n) >= fields(inner[0]) + 3
            and "list" not in n.attributes
            and n.kind in ("block", "row", "grid")
        ):
            inner[0].tag, n.tag = "div", "form"

    widen(root)
    _unnest(root)
    for form in (n for n in root.walk() if n.tag == "form"):
        buttons = [c for c in form.walk() if c.attributes.get("role") == "button"]
        if len(buttons) == 1:
            buttons[0].tag = "button"  # whatever it says, it sends the form
    for n in root.walk():
        if (
            n.attributes.get("role") == "button"
            and n.tag == "a"
            and SUBMIT.search(node_text(n))
            and any(f.kind == "field" for f in root.walk())
        ):
            n.tag = "button"
        if n.tag in ("a", "button", "label", "span") and n.kind != "text":
            for c in n.walk()[1:]:  # interactive content does not nest
                if c.tag in ("a", "button", "p", "div", *HEADINGS):
                    c.tag = "span"
                for r in c.runs:
                    r.tag = "" if r.tag == "a" else r.tag
        if n.kind == "text" and n.tag in ("a", "button"):
            for r in n.runs:
                r.tag = "" if r.tag == "a" else r.tag


def _unnest(root: Node) -> None:
    """Of two forms one in the other, one is none: the outer one if it holds a part of the page. (A browser drops the inner one's
    beginning, and at its end closes the outer one and all that is in it.)"""
    for n in [n for n in root.walk() if n.tag == "form"]:
        inner = [f for f in n.walk()[1:] if f.tag == "form"]
        whole = any(d.tag in PARTS for d in n.walk())
        for f in [n] if inner and whole else inner:
            f.tag = "div"


def tick_columns(root: Node) -> None:
    """Like small framed squares under one another, each in its row, are boxes to tick."""
    squares = [n for n in root.walk() if _is_square(n)]
    for n in squares:
        like = [m for m in squares if abs(m.rect.cx - n.rect.cx) <= 1.5 and abs(m.rect.w - n.rect.w) <= 1]
        if len(like) >= TICKS:
            n.kind, n.tag = "field", "input"
            n.attributes |= {"type": "checkbox", "label": "Select"}


def _is_square(n: Node) -> bool:
    s, r = n.surface, n.rect
    bare = s is not None and not n.children and n.kind == "block" and n.tag == "div"
    size = TICK[0] <= r.w <= TICK[1] and abs(r.w - r.h) <= 1
    return bool(bare and s and size and all(s.border) and s.radius < 0.4 * r.w)


def join_buttons(root: Node) -> None:
    """Buttons with words that touch in one row, framed, are a set of things to do here, not places to go."""
    for n in root.walk():
        kids = n.children
        touch = n.kind == "row" and len(kids) >= 2 and all(
            c.attributes.get("role") == "button" and c.surface is not None and all(c.surface.border) for c in kids
        )  # fmt: skip
        words = touch and all(node_text(c)[:1].isalpha() for c in kids)
        if words and all(abs(b.rect.x - a.rect.right) <= TOUCH for a, b in itertools.pairwise(kids)):
            for c in kids:
                c.tag = "button"
                c.attributes["press"] = "1"


def press_words(root: Node) -> None:
    """A button that says what is done here and now (saved, filtered, taken back) leads nowhere."""
    for n in root.walk():
        if n.tag != "a" or n.attributes.get("role") != "button" or n.surface is None:
            continue
        said = node_text(n).lower()
        if DOING.match(said) and len(said.split()) <= DOING_WORDS and "your" not in said:  # that is to go for
            n.tag = "button"
            n.reasons.append("says what is done here")


def send_forms(root: Node) -> None:
    """In each form one button sends it; every other button of the page does something without leaving it."""
    for form in (n for n in root.walk() if n.tag in ("form", "search")):
        fields = [f for f in form.walk() if f.kind == "field"]
        lone = len(fields) == 1  # beside it a mark is enough
        buttons = [
            b
            for b in form.walk()
            if b.tag == "button" and not {"opens", "press"} & b.attributes.keys() and (lone or node_text(b))
        ]
        if buttons:
            _sender([f.rect for f in fields], buttons).attributes["sends"] = "1"


def _sender(fields: list[Rect], buttons: list[Node]) -> Node:
    """The button that sends a form is in the first row of them after its last field, the liveliest there."""
    end = max((r.cy for r in fields), default=0.0) - LABEL_OFF
    after = [b for b in buttons if b.rect.cy >= end] or buttons[-1:]
    first = min(b.rect.cy for b in after)
    row = [b for b in after if b.rect.cy <= first + LABEL_OFF]
    return max(
        row, key=lambda b: chroma(b.surface.fill.colour) if b.surface and b.surface.fill.colour else 0.0
    )


def _part_forms(holder: Node, whole: bool = False) -> bool:
    """Part the fields of a wide box, with their labels and the button that sends them, from what is above and below them; of
    several groups of fields, between which a heading stands, each is a form of its own. The buttons of a box that is a form as a
    `whole` are all the form's."""
    kids = holder.children

    def any_of(c: Node, test: Callable[[Node], bool]) -> bool:
        return any(test(d) for d in c.walk())

    def asks(c: Node) -> bool:
        return any_of(c, lambda d: d.kind == "field" or d.tag in ("label", "legend"))

    def sends(c: Node) -> bool:
        return any_of(c, lambda d: d.attributes.get("role") == "button")

    runs: list[list[int]] = []
    for i in (i for i, c in enumerate(kids) if asks(c)):
        apart = runs and any(any_of(c, _heads) for c in kids[runs[-1][-1] + 1 : i])
        if runs and not apart:
            runs[-1].append(i)
        else:
            runs.append([i])
    made = []
    for run in runs:
        first, last = run[0], run[-1]
        for i in range(last + 1, len(kids) if whole else min(last + 3, len(kids))):
            if any_of(kids[i], _heads):
                break
            last = i if sends(kids[i]) else last
        part = kids[first : last + 1]
        buttons = [d for c in part for d in c.walk() if d.attributes.get("role") == "button"]
        words = sum(len(node_text(c).split()) for c in part)
        other = any(any_of(c, lambda d: d.tag in ("nav", "table", "h1", "form")) for c in part)
        if not buttons or other or words > FORM_WORDS + 12 * len(run) or (len(run) < 2 and len(runs) > 1):
            continue
        box = union(c.rect for c in part)
        left = min(box.x, holder.rect.x + holder.padding[3])
        box = edges(left, box.y, holder.rect.right - holder.padding[1], box.bottom)
        form = Node("block", box, tag="form", children=part, width="fill", gap=part[0].gap)
        part[0].gap = 0.0
        for b in buttons:
            b.tag = "button"
        made.append((part[0], len(part), form))
    for start, n, form in made:
        i = holder.children.index(start)
        holder.children[i : i + n] = [form]
    return bool(made)


def _is_headed(box: Node) -> bool:
    """Does something stand in a box before the first part that asks? It is the box's, and what is to fill in is below."""
    asks = (any(d.kind == "field" or d.tag in ("label", "legend") for d in c.walk()) for c in box.children)
    return not next(asks, True)


def _heads(n: Node) -> bool:
    return bool(re.fullmatch(r"h[1-4]", n.tag))
