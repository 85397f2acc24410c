"""Corrections by the developer. A pin names what it is about by evidence (a place in the picture and what was read there),
not by a number of the last reading, so that it finds its place again in the next one."""

from __future__ import annotations

from dataclasses import dataclass

from neige.core.model.geometry import Rect

KINDS = ("retype", "type", "split", "merge", "not-text", "region", "asset", "grid")
FORMATS = ("", "svg", "png", "webp", "avif", "jpeg")
REGIONS = ("image", "icon", "surface", "ignore")


@dataclass(frozen=True, slots=True)
class Pin:
    """One correction of what was read.

    `kind`: "retype" (the words in `rect` say `to`), "type" (the style of the line in `rect` is set in `family`, and in `weight`,
    `italic` and `size` px where given), "split" (the line in `rect` is two, parted at `x` px), "merge" (the lines in `rect` are
    one), "not-text" (what was read in `rect` is no text), "region" (`rect` holds what `to` says, one of REGIONS: one picture, one
    icon, one painted surface, nothing of interest), "asset" (the cutout in `rect` is stored as `to`, one of FORMATS, at `quality`,
    under `name`, and `text` describes it), "grid" (the column grid spans `rect` from side to side: `columns` of them,
    `gutter` px apart). `rect` is in CSS px; `text` is what stood there when it was pinned.
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

    def __str__(self) -> str:
        """What it changes, in words."""
        about = f"“{self.text[:40]}”"
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
