"""Corrections by the developer. A pin names what it is about by evidence (a place in the picture and what was read there),
not by a number of the last reading, so that it finds its place again in the next one."""

from __future__ import annotations

from dataclasses import dataclass

from neige.core.model.geometry import Rect
from neige.core.model.outline import HEADINGS

READ = (
    "retype",
    "type",
    "split",
    "merge",
    "not-text",
    "region",
    "asset",
    "grid",
    "again",
)  # of what was read,
OUTLINED = (
    "role",
    "rename",
    "like",
    "wrap",
    "unwrap",
    "join",
    "divide",
    "order",
    "shares",
)  # of the outline,
WRITTEN = ("code",)  # of what was written,
PROVEN = ("accept",)  # and of what was found
KINDS = (*READ, *OUTLINED, *WRITTEN, *PROVEN)
TEXT_ROLES = (
    *HEADINGS,
    "p",
    "a",
    "button",
    "label",
    "time",
    "address",
    "blockquote",
    "code",
    "strong",
    "span",
)
AREA_ROLES = (
    "header", "nav", "main", "section", "article", "aside", "footer", "form", "search", "figure", "ul", "ol", "blockquote", "address", "a",
    "button", "div",
)  # fmt: skip
ROLES = tuple(dict.fromkeys((*TEXT_ROLES, *AREA_ROLES)))
FORMATS = ("", "svg", "png", "webp", "avif", "jpeg")
REGIONS = ("image", "icon", "surface", "ignore")


@dataclass(frozen=True, slots=True)
class Pin:
    """One correction.

    `kind`: "retype" (the words in `rect` say `to`), "type" (the style of the line in `rect` is set in `family`, and in `weight`,
    `italic` and `size` px where given), "split" (the line in `rect` is two, parted at `x` px), "merge" (the lines in `rect` are
    one), "not-text" (what was read in `rect` is no text), "region" (`rect` holds what `to` says, one of REGIONS: one picture, one
    icon, one painted surface, nothing of interest), "asset" (the cutout in `rect` is stored as `to`, one of FORMATS, at `quality`,
    under `name`, and `text` describes it), "again" (`rect` is read anew, from the close-up picture `name` if there is one), "grid" (the column grid spans `rect` from side to side: `columns` of them,
    `gutter` px apart).

    Of the outline: "role" (the part in `rect` is `to`, an element), "rename" (it is called `name`), "like" (it is the same component
    as the part in `like`), "wrap" (the parts in `rect` are a group), "unwrap" (the group in `rect` is none), "join" (the texts in
    `rect` are one), "divide" (the text in `rect` is two, the second from `x` px below the page's top), "order" (the part in `rect`
    comes `to`, before or after, the one in `like` in the document), "shares" (the columns of the grid in `rect` have `shares` of
    its width). `was` is the element that the part was.

    Of the code: "code" (in the file `name` the lines `text` read `to`). Of the proof: "accept" (the finding of kind `to` in `rect`,
    which said `text`, is as it should be).

    `rect` is in CSS px; `text` is what stood there when it was pinned.
    """

    kind: str
    rect: Rect
    text: str = ""
    to: str = ""
    family: str = ""
    weight: int = 0
    italic: bool | None = None
    size: float = 0.0
    x: float = 0.0
    columns: int = 0
    gutter: float = 0.0
    quality: int = 0
    name: str = ""
    like: Rect | None = None
    shares: tuple[float, ...] = ()
    was: str = ""

    def __str__(self) -> str:
        """What it changes, in words."""
        about = f"“{self.text[:40]}”"
        if self.kind in OUTLINED:
            return self._of_outline(
                f"{self.was or 'part'} {about}" if self.text else f"the {self.was or 'part'}"
            )
        if self.kind == "code":
            new, old = self.to.strip().splitlines(), self.text.strip().splitlines()
            changed = next((line.strip() for line in new if line not in old), "")
            return f"{self.name}: {f'“{changed[:50]}”' if changed else 'lines taken out'}"
        if self.kind == "accept":
            return f"accepted: {self.text[:60] or self.to}"
        if self.kind == "retype":
            return f"{about} reads “{self.to[:40]}”"
        if self.kind == "type":
            parts = [
                self.family,
                str(self.weight or ""),
                "italic" if self.italic else "",
                f"{self.size:g} px" if self.size else "",
            ]
            return f"{about} is set in {' '.join(p for p in parts if p)}"
        if self.kind == "region":
            r = self.rect
            what = {"image": "one picture", "icon": "one icon", "surface": "a surface", "ignore": "left out"}[
                self.to
            ]
            return f"the place at {r.x:g}, {r.y:g} ({r.w:g} × {r.h:g} px) is {what}"
        if self.kind == "again":
            r = self.rect
            return f"the place at {r.x:.0f}, {r.y:.0f} is read again{' from a close-up' if self.name else ''}"
        if self.kind == "asset":
            parts = [
                f"named {self.name}" if self.name else "",
                f"described as “{self.text[:40]}”" if self.text else "",
                f"stored as {self.to.upper()}" if self.to else "",
                f"at quality {self.quality}" if self.quality else "",
            ]
            r = self.rect
            what = ", ".join(p for p in parts if p) or "as it was chosen"
            return f"the picture at {r.x:g}, {r.y:g} is {what}"
        if self.kind == "grid":
            return f"the grid has {self.columns} columns, {self.gutter:g} px apart, from {self.rect.x:g} to {self.rect.right:g} px"
        return {
            "split": f"{about} is two lines",
            "merge": f"{about} is one line",
            "not-text": f"{about} is no text",
        }[self.kind]

    def _of_outline(self, about: str) -> str:
        if self.kind == "role":
            return f"{about} is {self.to}"
        if self.kind == "rename":
            return f"{about} is called {self.name}"
        if self.kind == "order":
            return f"{about} comes {self.to} its neighbour"
        if self.kind == "shares":
            total = sum(self.shares) or 1.0
            return f"the columns are {' : '.join(f'{100 * s / total:.0f}' for s in self.shares)} %"
        return {
            "like": f"{about} is like another part",
            "wrap": f"the parts from {about} on are a group",
            "unwrap": f"{about} is no group",
            "join": f"{about} and what follows are one text",
            "divide": f"{about} is two texts",
        }[self.kind]
