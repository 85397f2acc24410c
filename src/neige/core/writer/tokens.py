"""Custom properties for the page's colours, and lengths in rem."""

from __future__ import annotations

import colorsys
import math
from dataclasses import dataclass, field

from neige.core.model import Reading
from neige.core.reading.colour import chroma, contrast, from_hex

BASE = 16.0  # px of one rem
LONG = 64.0  # px: a longer gap shrinks with the window


def rem(px: float) -> str:
    """A length in rem to four decimals, away from nought: browsers lay out in 64ths of a px and cut off what is beyond, and half a
    px cut short would put a text that belongs on the next px on the one before."""
    if abs(px) < 0.02:
        return "0"
    value = math.copysign(math.ceil(round(abs(px) / BASE * 10_000, 3)) / 10_000, px)
    return f"{value:.4f}".rstrip("0").rstrip(".") + "rem"


def fluid(px: float, page: float) -> str:
    """A length in rem that shrinks with windows narrower than the page (px) it was seen on, if it is a long one."""
    if px <= LONG:
        return rem(px)
    return f"min({rem(px)}, {number(math.ceil(px / page * 10_000) / 100, 2)}vw)"


def ratio(length: float, size: float) -> str:
    """A line height as the shortest ratio to its font's size that a browser, which lays out in 64ths of a px, makes it of."""
    for places in range(1, 5):
        value = math.ceil(round(length / size * 10**places, 6)) / 10**places
        if value * size - length < 1 / 64:
            return number(value, places)
    return number(length / size)


def px(value: float) -> str:
    text = f"{round(value, 2):.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("0", "-0") else f"{text}px"


def number(value: float, places: int = 4) -> str:
    return f"{value:.{places}f}".rstrip("0").rstrip(".") or "0"


def em(value: float) -> str:
    """A length in em; none has no unit."""
    digits = number(value)
    return "0" if float(digits) == 0 else f"{digits}em"


def hue_name(colour: str) -> str:
    """A plain word for a colour."""
    r, g, b = (float(v) / 255 for v in from_hex(colour))
    h, lightness, s = colorsys.rgb_to_hls(r, g, b)
    if chroma(colour) < 0.02 or s < 0.06:
        return "white" if lightness > 0.985 else "black" if lightness < 0.02 else "grey"
    names = (
        (15, "red"),
        (42, "orange"),
        (66, "yellow"),
        (160, "green"),
        (196, "teal"),
        (255, "blue"),
        (290, "violet"),
        (340, "pink"),
        (361, "red"),
    )
    return next(n for limit, n in names if h * 360 < limit)


@dataclass
class Colours:
    """Colours in use, each with one name; near-duplicates keep their own value but the main roles come first."""

    names: dict[str, str] = field(default_factory=dict)

    def name(self, colour: str, hint: str = "") -> str:
        """`var(--…)` of a colour."""
        if colour not in self.names:
            base = hint or hue_name(colour)
            taken = set(self.names.values())
            name, n = base, 2
            while name in taken:
                name, n = f"{base}-{n}", n + 1
            self.names[colour] = name
        return f"var(--color-{self.names[colour]})"


def page_colours(reading: Reading, ink: str) -> Colours:
    """Colours named by role: page, ink, the accent (most used strong colour); everything else by its hue as it comes up."""
    colours = Colours()
    colours.name(reading.background.colour, "page")
    colours.name(ink, "ink")
    weight: dict[str, float] = {}
    for s in reading.surfaces:
        if chroma(s.fill.colour) > 0.09 and s.rect.area < 0.2 * reading.width * reading.height:
            weight[s.fill.colour] = weight.get(s.fill.colour, 0.0) + s.rect.area**0.5
    for t in reading.styles:
        if chroma(t.colour) > 0.09:
            weight[t.colour] = weight.get(t.colour, 0.0) + 20.0 * t.lines
    if weight:
        colours.name(max(sorted(weight), key=lambda c: weight[c]), "accent")
    white = "#ffffff"
    if any(s.fill.colour == white for s in reading.surfaces) and reading.background.colour != white:
        colours.name(white, "surface")
    muted = [
        t
        for t in reading.styles
        if chroma(t.colour) < 0.06
        and 2.5 < contrast(t.colour, reading.background.colour) < contrast(ink, reading.background.colour) - 2
    ]
    if muted:
        colours.name(max(muted, key=lambda t: t.lines).colour, "ink-muted")
    return colours
