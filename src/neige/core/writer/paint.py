"""How surfaces are painted: fills, borders, corners and shadows as CSS writes them."""

from __future__ import annotations

from dataclasses import replace

from neige.core.model import Fill, Rect, Shadow, Surface
from neige.core.writer.cutouts import Files
from neige.core.writer.tokens import Colours, number, px, rem


def box_shadow(s: Shadow) -> str:
    """A shadow's offsets, blur, spread and colour as CSS writes them, with those that lie under it."""
    if s.under:
        return ", ".join(box_shadow(replace(layer, under=None)) for layer in s.layers)
    r, g, b = (int(s.colour[i : i + 2], 16) for i in (1, 3, 5))
    spread = f" {px(s.spread)}" if s.spread else ""
    return f"{px(s.dx)} {px(s.dy)} {px(s.blur)}{spread} rgb({r} {g} {b} / {number(100 * s.opacity, 1)}%)"


class Painter:
    """Declarations for what is painted, in the page's named colours."""

    def __init__(self, colours: Colours, files: Files) -> None:
        self.colours, self.files = colours, files

    def paint(self, s: Surface, skip_fill: bool = False) -> dict[str, str]:
        """A surface's declarations; `skip_fill`: all but its background."""
        out: dict[str, str] = {}
        widths = list(s.border)
        sides = ("block-start", "inline-end", "block-end", "inline-start")
        if s.accent:
            widths[s.accent[0]] = 0.0
        if any(widths):
            colour = self.rule_colour(s.border_colour)
            if len(set(widths)) == 1:
                out["border"] = f"{px(widths[0])} {s.border_style} {colour}"
            else:
                for side, w in zip(sides, widths):
                    if w:
                        out[f"border-{side}"] = f"{px(w)} {s.border_style} {colour}"
        if s.accent:
            at, width, ink = s.accent
            out[f"border-{sides[at]}"] = f"{px(width)} solid {self.colours.name(ink)}"
        if s.corners:
            out["border-radius"] = " ".join(rem(r) if r else "0" for r in s.corners)
        elif s.radius:
            out["border-radius"] = (
                "50%" if abs(s.radius - s.rect.w / 2) < 1 and abs(s.rect.w - s.rect.h) < 2 else rem(s.radius)
            )
        if s.picture >= 0:
            path, _ = self.files.at(s.picture)
            out["background"] = f'{self.colours.name(s.fill.colour)} url("{path}") center / cover'
        elif not skip_fill and s.fill.colour:
            out["background"] = self.fill(s.fill, s.rect)
        shadows = [
            *([box_shadow(s.shadow)] if s.shadow else []),
            *([f"inset {box_shadow(s.inner)}"] if s.inner else []),
        ]
        if shadows:
            out["box-shadow"] = ", ".join(shadows)
        return out

    def fill(self, fill: Fill, box: Rect) -> str:
        """A background as CSS writes it on `box`."""
        if not fill.stops:
            return self.colours.name(fill.colour)
        parts = []
        for at, colour in fill.stops:
            place = "" if at in (0.0, 1.0) else f" {number(100 * at, 1)}%"
            parts.append(colour + place)
        if fill.centre is not None:
            return f"radial-gradient({', '.join([*_ending_shape(fill, box), *parts])})"
        return f"linear-gradient({number(fill.angle, 1)}deg, {', '.join(parts)})"

    def rule_colour(self, colour: str) -> str:
        """The colour of a line; the first that asks is named for it."""
        return self.colours.name(colour, "rule" if "rule" not in self.colours.names.values() else "")


def _ending_shape(fill: Fill, box: Rect) -> list[str]:
    """The first argument of a radial gradient: nothing where the shape and the centre are those CSS takes by itself."""
    assert fill.centre is not None
    across, down = fill.radii
    usual = all(abs(r - 2**0.5 * max(c, 1 - c)) < 0.03 * r for r, c in zip(fill.radii, fill.centre))
    round_ = abs(across * box.w - down * box.h) < 0.015 * across * box.w
    shape = "circle" if round_ else "" if usual else f"{number(100 * across, 1)}% {number(100 * down, 1)}%"
    middle = all(abs(c - 0.5) < 0.005 for c in fill.centre)
    place = "" if middle else "at " + " ".join(f"{number(100 * c, 1)}%" for c in fill.centre)
    return [" ".join(filter(None, (shape, place)))] if shape or place else []
