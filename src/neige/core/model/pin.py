"""Corrections by the developer. A pin names what it is about by evidence (a place in the picture and what was read there),
not by a number of the last reading, so that it finds its place again in the next one."""

from __future__ import annotations

from dataclasses import dataclass

from neige.core.model.geometry import Rect

KINDS = ("retype", "type", "split", "merge", "not-text")


@dataclass(frozen=True, slots=True)
class Pin:
    """One correction of what was read.

    `kind`: "retype" (the words in `rect` say `to`), "type" (the style of the line in `rect` is set in `family`, and in `weight`,
    `italic` and `size` px where given), "split" (the line in `rect` is two, parted at `x` px), "merge" (the lines in `rect` are
    one), "not-text" (what was read in `rect` is no text). `rect` is in CSS px; `text` is what stood there when it was pinned.
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
        return {
            "split": f"{about} is two lines",
            "merge": f"{about} is one line",
            "not-text": f"{about} is no text",
        }[self.kind]
