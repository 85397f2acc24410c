"""Words and lines before their type is known. Everything here is in device px."""

from __future__ import annotations

from dataclasses import dataclass, replace

from neige.core.reading.text.detect import Box


@dataclass(frozen=True, slots=True)
class RawWord:
    """Text with the box of its ink (x0, y0, x1, y1) and its own colour."""

    text: str
    box: Box
    colour: tuple[float, float, float]
    confidence: float
    underline: bool = False
    strike: bool = False
    pinned: bool = False  # a person said what it says
    inlaid: tuple[float, float, float] | None = None  # the colour of the box in the line that it is in
    apart: bool = False  # underlined like the word before it, but not between them: another link


@dataclass(frozen=True, slots=True)
class RawLine:
    """Words on one baseline before their type is known."""

    words: tuple[RawWord, ...]
    box: Box
    ground: tuple[float, float, float]
    flat: bool
    confidence: float
    pictured: bool = False  # its ground is a picture, but its ink could be told from it
    bullet: Box | None = None  # of the dot before it, which is no word,
    mark: str = "•"  # and what it is: a disc, a ring ("◦") or a square ("▪")

    @property
    def text(self) -> str:
        return " ".join(w.text for w in self.words)


def around(boxes: list[Box]) -> Box:
    """The smallest box that holds all."""
    return (
        min(b[0] for b in boxes),
        min(b[1] for b in boxes),
        max(b[2] for b in boxes),
        max(b[3] for b in boxes),
    )


def shift(line: RawLine, dx: float, dy: float) -> RawLine:
    def move(b: Box) -> Box:
        return (b[0] + dx, b[1] + dy, b[2] + dx, b[3] + dy)

    return replace(line, box=move(line.box), words=tuple(replace(w, box=move(w.box)) for w in line.words))
