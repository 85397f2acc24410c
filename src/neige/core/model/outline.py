"""The semantic tree of a page with its layout intent. Lengths are CSS px at the picture's width; no CSS strings in here."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from neige.core.model.geometry import Rect
from neige.core.model.reading import Surface

VERSION = 1
HEADINGS = tuple(f"h{n}" for n in range(1, 7))  # tags,
SUBHEADINGS = HEADINGS[1:]  # and those below the page's title


@dataclass
class Run:
    """A stretch of text in one style inside a text node; `tag` is "" or an inline element (a, strong, code, em).

    `glue`: the next run follows without a space. `room`: px that it stands farther off than its space is wide. `box`: what is painted around it, with `padding` (top, right, bottom, left).
    """

    text: str
    style: int
    tag: str = ""
    glue: bool = False
    room: float = 0.0
    box: Surface | None = None
    padding: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)


@dataclass
class Node:
    """One element.

    `kind`: "block" (children stacked), "row" (children side by side), "grid" (columns in shares), "text", "image",
    "rule", "field", "table", "tr", "td".
    `rect`: border box seen in the picture; for text the box from the first line's top to the last line's bottom.
    `padding`: top, right, bottom, left. `gap`: space before this node along its parent's main axis.
    `inset`: offset of the leading edge from the parent's content edge across the main axis (-1: not set).
    `columns`: shares of a grid's columns in px.
    """

    kind: str
    rect: Rect
    tag: str = "div"
    name: str = ""
    children: list[Node] = field(default_factory=list)
    surface: Surface | None = None
    runs: list[Run] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    style: int = -1
    leading: float = 0.0
    align: str = "start"
    cutout: int = -1
    padding: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    gap: float = 0.0
    inset: float = 0.0
    columns: list[float] = field(default_factory=list)
    column_gap: float = 0.0
    cross: str = "start"
    width: str = "fill"
    attributes: dict[str, str] = field(default_factory=dict)
    reasons: list[str] = field(default_factory=list)
    id: int = -1
    tweak: dict[str, float] = field(default_factory=dict)

    def copy(self) -> Node:
        """A copy of this node and everything under it, that shares nothing which can be changed."""
        out = Node.__new__(Node)
        out.__dict__ = self.__dict__ | {
            "children": [c.copy() for c in self.children],
            "runs": [replace(r) for r in self.runs],
            "lines": list(self.lines),
            "columns": list(self.columns),
            "attributes": dict(self.attributes),
            "reasons": list(self.reasons),
            "tweak": dict(self.tweak),
        }
        return out

    def in_reading_order(self) -> list[Node]:
        """The children as the document has them: as they are drawn, unless the developer said otherwise."""
        return [
            c
            for _, c in sorted(enumerate(self.children), key=lambda p: int(p[1].attributes.get("read", p[0])))
        ]

    def walk(self, *, document: bool = False) -> list[Node]:
        """This node and everything under it, in the order they are drawn in, or in that of the document."""
        out = [self]
        for child in self.in_reading_order() if document else self.children:
            out.extend(child.walk(document=document))
        return out


@dataclass
class Outline:
    """The page: `root` stands for body; `title` and `language` are for the head; `unmet`: pins that could not be followed, and why."""

    root: Node
    title: str
    language: str = "en"
    version: int = VERSION
    unmet: list[str] = field(default_factory=list)

    def copy(self) -> Outline:
        """A copy that shares nothing which can be changed."""
        return replace(self, root=self.root.copy(), unmet=list(self.unmet))


@dataclass(frozen=True, slots=True)
class Part:
    """A part of the page with its three faces: `rect` as seen, `tag`, `classes` and `lines` (first and last in index.html) as
    written, `drawn` as the browser laid it out. `parent` is -1 at the top; `name` may be "", `text` is the beginning of its words.
    """

    id: int
    parent: int
    depth: int
    kind: str
    tag: str
    name: str
    text: str
    rect: Rect
    drawn: Rect | None
    classes: tuple[str, ...]
    lines: tuple[int, int]
    padding: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    columns: tuple[float, ...] = ()
    column_gap: float = 0.0
    reasons: tuple[str, ...] = ()
