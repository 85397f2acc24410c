"""How text is set: what a style changes of the type it inherits, and the class it is named by."""

from __future__ import annotations

from neige.core.model import Outline, Reading, TypeStyle
from neige.core.outline.names import slug
from neige.core.outline.words import body_style
from neige.core.reading.colour import chroma, contrast
from neige.core.writer.fonts import stack
from neige.core.writer.tokens import Colours, em, number, px, ratio, rem

PHONE, FLUID_TO = 320.0, 1200.0  # px of a screen from which on it grows, and no more
FLUID_FROM = 28.0  # px: larger type shrinks on small screens


class Typesetter:
    """Declarations for text. `base` is the style of the body, None on a page without words."""

    def __init__(self, outline: Outline, reading: Reading, colours: Colours) -> None:
        self.reading, self.colours = reading, colours
        self.base: TypeStyle | None = reading.styles[body_style(reading)] if reading.styles else None
        self.base_leading = self._base_leading(outline)
        self.names = _style_names(reading)
        self.fluid = reading.width >= 800

    @property
    def strut(self) -> float:
        """px that a line of nothing but smaller inline text is high, in which no other type is declared."""
        return self.base_leading * self.base.size if self.base else 0.0

    def _base_leading(self, outline: Outline) -> float:
        """The commonest leading of wrapped text in the body style, as a ratio to its size."""
        if self.base is None:
            return 1.5
        body = body_style(self.reading)
        votes: dict[float, int] = {}
        for n in outline.root.walk():
            if n.kind == "text" and n.style == body and len(n.lines) > 1:
                ratio = round(n.leading / self.base.size, 4)
                votes[ratio] = votes.get(ratio, 0) + len(n.lines)
        return max(votes, key=lambda r: (votes[r], -r)) if votes else 1.5

    def declarations(
        self, style: TypeStyle, leading: float, against: TypeStyle | None = None, against_leading: float = 0.0
    ) -> dict[str, str]:
        """What differs from the inherited style."""
        b = against or self.base
        assert b is not None
        out: dict[str, str] = {}
        if (style.colour, style.opacity) != (b.colour, b.opacity):
            out["color"] = self.ink(style)
        if style.family != b.family:
            out["font-family"] = stack(style)
        if style.size != b.size:
            out["font-size"] = self.size(style.size)
        if style.weight != b.weight:
            out["font-weight"] = str(style.weight)
        if style.italic != b.italic:
            out["font-style"] = "italic" if style.italic else "normal"
        if leading and (abs(leading / style.size - (against_leading or self.base_leading)) > 0.0005):
            out["line-height"] = ratio(leading, style.size)
        if abs(style.tracking - b.tracking) > 0.005:
            out["letter-spacing"] = em(style.tracking / style.size)
        if style.bordered:
            out |= self._border(style)
        elif style.underline or style.strike:
            dotted = " dotted" if style.under and style.under.dotted else ""
            out["text-decoration"] = f"underline{dotted}" if style.underline else "line-through"
        return out

    def _border(self, style: TypeStyle) -> dict[str, str]:
        """The line under a style's words where it is the border of their box."""
        line = style.under
        assert line is not None
        own = "" if line.colour == style.colour else f" {self.colours.name(line.colour)}"
        below = round(line.top - style.descent)
        return ({"padding-block-end": px(below)} if below > 0 else {}) | {
            "border-block-end": f"{px(line.thickness)} {'dotted' if line.dotted else 'solid'}{own}"
        }

    def ink(self, style: TypeStyle) -> str:
        """The colour of a style's text; white let through its ground is written as that."""
        return (
            f"rgb(255 255 255 / {style.opacity:.0%})"
            if style.opacity < 1
            else self.colours.name(style.colour)
        )

    def size(self, value: float) -> str:
        """A font size; what is large shrinks with the screen, but not at the picture's own width."""
        if not self.fluid or value < FLUID_FROM:
            return rem(value)
        low = max(20.0, 0.55 * value + 4.0) if value < 44 else 0.36 * value + 14.0
        slope = (value - low) / (min(self.reading.width, FLUID_TO) - PHONE)
        return f"clamp({rem(low)}, {rem(low - slope * PHONE)} + {number(100 * slope, 2)}vw, {rem(value)})"


def _style_names(reading: Reading) -> list[str]:
    """A class for each text style: its use, and what sets it apart from the first style of that use."""
    first: dict[str, TypeStyle] = {}
    out: list[str] = []
    grounds = {line.style: line.ground for line in reversed(reading.lines)}
    for i, s in enumerate(reading.styles):
        base = s.name.split()[0]
        base = {"body": "text", "strong": "strong-text"}.get(base, base)
        other = first.setdefault(base, s)
        apart = []
        if s is not other:
            if s.family != other.family:
                apart.append(
                    s.category.split("-")[-1][:5] if s.category != other.category else slug(s.family, 1)
                )
            if s.weight != other.weight:
                apart.append("bold" if s.weight > other.weight else "light")
            if s.italic and not other.italic:
                apart.append("italic")
            if s.colour != other.colour:
                ground = grounds.get(i, "#ffffff")
                dark, lively = contrast(ground, "#ffffff") > 4, chroma(s.colour) > 0.1
                fainter = contrast(s.colour, ground) < contrast(other.colour, ground)
                apart.append("on-dark" if dark else "accent" if lively else "quiet" if fainter else "dark")
            if not apart and s.size != other.size:
                apart.append("large" if s.size > other.size else "compact")
        out.append("-".join([base, *(a for a in apart if a)]))
    return out
