"""From outline nodes to HTML elements and the classes that lay them out."""

from __future__ import annotations

from statistics import median

from neige.core.model import Fill, Node, Outline, Picture, Reading, Rect, Shadow, Surface, TypeStyle
from neige.core.model.page import Asset
from neige.core.outline.layout import AUTO, CENTRED
from neige.core.outline.names import slug
from neige.core.outline.words import body_style, node_text
from neige.core.reading.colour import chroma, contrast
from neige.core.writer.cutouts import Encoded, encode
from neige.core.writer.element import Element
from neige.core.writer.fonts import stack
from neige.core.writer.stylesheet import Sheet
from neige.core.writer.tokens import Colours, number, px, ratio, rem

EVEN = 0.8  # px within which gaps count as equal
FLUID_FROM = 28.0  # px: larger type shrinks on small screens
ROOMY = 160.0  # px of padding at both sides that middle what is between them
SAME_PADDING = 2.0  # px by which the words of like fields may begin otherwise
OWN_ARROW = 6.0  # px from a select's end to the arrow that browsers draw
SELECT_PAD = 4.0  # px that they put before its words
FILLED = 0.8  # of the contrast of the page's text: what is written in a field is no hint
ROOMY_FIELD = 16.0  # px of padding after a field's words at most
FAR_IN = 160.0  # px from the leading edge beyond which a place is a share of the room
BRIEF = 16  # characters: a button that says no more never breaks
OVERLAP = 12.0  # px by which a panel stands in front of what is above it, rather than touching it
NARROW_INSET = 24.0  # px: larger offsets are dropped on small screens
GUTTER = "var(--gutter)"
GUTTER_MOST = 32.0  # px that it comes to on a wide screen
OFF_MIDDLE = 1.2  # px by which a cell's content may be off its middle and still be centred
INHERITED = {"a", "span", "strong", "em", "label", "p", "li", "code", "td", "th"}


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


def box_shadow(s: Shadow) -> str:
    """A shadow's offsets, blur, spread and colour as CSS writes them."""
    r, g, b = (int(s.colour[i : i + 2], 16) for i in (1, 3, 5))
    spread = f" {px(s.spread)}" if s.spread else ""
    return f"{px(s.dx)} {px(s.dy)} {px(s.blur)}{spread} rgb({r} {g} {b} / {number(100 * s.opacity, 1)}%)"


class Builder:
    """Writes one outline. `sheet` and `assets` fill up while elements are made."""

    def __init__(
        self, outline: Outline, reading: Reading, picture: Picture, colours: Colours, encoded: Encoded
    ) -> None:
        self.outline, self.reading, self.picture, self.colours = outline, reading, picture, colours
        self.encoded = encoded
        self.sheet = Sheet()
        self.assets: list[Asset] = []
        self.base: TypeStyle | None = reading.styles[body_style(reading)] if reading.styles else None
        self.base_leading = self._base_leading()
        self.fields = 0
        self.files: dict[int, tuple[str, tuple[int, int]]] = {}
        self.by_content: dict[bytes, str] = {}
        self.style_names = _style_names(reading)
        self.fluid = reading.width >= 800
        self.ids: set[str] = set()
        self.names: dict[int, str] = {}
        self.field_looks = self._field_looks()
        self.unbroken: set[int] = set()
        self._keep_lines(outline.root)
        self._own(outline.root, "page")

    def _keep_lines(self, n: Node) -> None:
        """Rows of nothing but single lines: their words stay on one line wherever there is room for the row."""
        texts = [t for t in n.walk() if t.kind == "text"]
        if n.kind == "row" and texts and all(len(t.lines) == 1 for t in texts):
            if any(len(self.reading.lines[t.lines[0]].words) > 1 for t in texts):
                self.unbroken.add(id(n))
            return
        for c in n.children:
            self._keep_lines(c)

    def _field_looks(self) -> dict[int, tuple[float, int]]:
        """(padding before the words, text style) of every field: those that are painted alike share both, empty ones too."""
        groups: list[list[Node]] = []
        for n in self.outline.root.walk():
            if n.kind == "field" and n.surface and n.attributes.get("type") not in ("checkbox", "radio"):
                like = next((g for g in groups if self._painted_alike(g[0], n)), None)
                if like is None:
                    groups.append(like := [])
                like.append(n)
        out: dict[int, tuple[float, int]] = {}
        for group in groups:
            written = [n for n in group if n.lines]
            left = median(n.padding[3] for n in written or group)
            styles = [n.style for n in written]
            usual = max(sorted(set(styles)), key=styles.count) if styles else group[0].style
            for n in group:
                near = abs(n.padding[3] - left) <= SAME_PADDING or not n.lines
                out[id(n)] = (
                    left if near else n.padding[3],
                    n.style if n.lines and n.style != usual and not near else usual,
                )
        return out

    @staticmethod
    def _painted_alike(a: Node, b: Node) -> bool:
        s, t = a.surface, b.surface
        assert s is not None and t is not None
        return (s.fill.colour, s.border, s.border_colour) == (t.fill.colour, t.border, t.border_colour) and (
            abs(a.rect.h - b.rect.h) <= 1
        )

    def _own(self, n: Node, name: str) -> None:
        own = (
            n.name
            if n.name and n.name not in ("button", "badge", "field", "icon", "picture", "content")
            else name
        )
        self.names[id(n)] = own
        for c in n.children:
            self._own(c, own)

    # ---- text
    def _base_leading(self) -> float:
        """The commonest leading of wrapped text in the body style, as a ratio to its size."""
        if self.base is None:
            return 1.5
        body = body_style(self.reading)
        votes: dict[float, int] = {}
        for n in self.outline.root.walk():
            if n.kind == "text" and n.style == body and len(n.lines) > 1:
                ratio = round(n.leading / self.base.size, 4)
                votes[ratio] = votes.get(ratio, 0) + len(n.lines)
        return max(votes, key=lambda r: (votes[r], -r)) if votes else 1.5

    def type_declarations(
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
            out["letter-spacing"] = f"{number(style.tracking / style.size)}em"
        if style.underline or style.strike:
            out["text-decoration"] = "underline" if style.underline else "line-through"
        return out

    def ink(self, style: TypeStyle) -> str:
        """The colour of a style's text; white let through its ground is written as that."""
        return (
            f"rgb(255 255 255 / {style.opacity:.0%})"
            if style.opacity < 1
            else self.colours.name(style.colour)
        )

    def size(self, value: float) -> str:
        if not self.fluid or value < FLUID_FROM:
            return rem(value)
        low = max(20.0, 0.55 * value + 4.0) if value < 44 else 0.36 * value + 14.0
        slope = (value - low) / (1200 - 320)
        return f"clamp({rem(low)}, {rem(low - slope * 320)} + {number(100 * slope, 2)}vw, {rem(value)})"

    def runs(self, node: Node) -> list[Element | str]:
        """Inline content: text, and elements where the style changes or something is painted around it."""
        out: list[Element | str] = []
        main = self.reading.styles[node.style]
        for r in node.runs:
            space = "" if r is node.runs[-1] or r.glue else " "
            style = self.reading.styles[r.style]
            if r.style == node.style and not r.tag and r.box is None:
                out.append(r.text + space)
                continue
            declarations = self.type_declarations(style, 0.0, main) if r.style != node.style else {}
            if r.tag == "strong" and declarations.get("font-weight") == "700":
                declarations.pop("font-weight")
            if r.tag == "em":
                declarations.pop("font-style", None)
            if style.family != main.family or abs(style.size - main.size) > 0.01:
                declarations["line-height"] = (
                    "1"  # another face or size must not push its line's neighbours away
                )
            if r.box is not None:
                declarations |= self.paint(r.box) | {"padding": self._tight_padding(r.padding)}
            name = "link" if r.tag == "a" else r.tag or ("mark" if r.box else self.style_names[r.style])
            cls = self.sheet.named(name, declarations)
            attributes = ({"class": cls} if cls else {}) | ({"href": "#"} if r.tag == "a" else {})
            out.append(Element(r.tag or "span", attributes, [r.text]))
            if space:
                out.append(space)
        return out

    # ---- surfaces
    def paint(self, s: Surface, skip_fill: bool = False) -> dict[str, str]:
        out: dict[str, str] = {}
        widths = list(s.border)
        sides = ("block-start", "inline-end", "block-end", "inline-start")
        if s.accent:
            widths[s.accent[0]] = 0.0
        if any(widths):
            colour = self.colours.name(
                s.border_colour, "rule" if "rule" not in self.colours.names.values() else ""
            )
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
            path, _ = self.file(s.picture)
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

    def file(self, index: int, words: str = "") -> tuple[str, tuple[int, int]]:
        """(path, CSS size) of a cutout; equal pictures share one file."""
        if index in self.files:
            return self.files[index]
        cutout = self.reading.cutouts[index]
        if index not in self.encoded:
            self.encoded[index] = encode(self.picture, self.reading, cutout)
        content, extension, size = self.encoded[index]
        if content in self.by_content:
            path = self.by_content[content]
        else:
            base = slug(cutout.name, 6) or slug(words, 3) or ("backdrop" if cutout.backdrop else "picture")
            if cutout.kind == "icon" and not cutout.name:
                base = f"{base}-icon" if base != "picture" else "icon"
            taken = {a.path for a in self.assets}
            path, n = f"assets/{base}.{extension}", 2
            while path in taken:
                path, n = f"assets/{base}-{n}.{extension}", n + 1
            self.assets.append(Asset(path, content))
            self.by_content[content] = path
        self.files[index] = (path, size)
        return path, size

    # ---- placing a node in its parent
    def place(self, n: Node, parent: Node, first: bool) -> tuple[dict[str, str], dict[str, str]]:
        """Declarations that put `n` where it belongs in its parent, and what changes on small screens."""
        out: dict[str, str] = {}
        narrow: dict[str, str] = {}
        if n.attributes.get("end"):
            out["margin-inline-end"] = rem(-float(n.attributes["end"]))
        if n.attributes.get("read"):  # the document has it elsewhere than it is drawn
            out["order"], narrow["order"] = str(parent.children.index(n) + 1), "0"
        if parent.kind in ("block", "td"):
            start: str | None = None
            if (n.width in ("max", "hug") and n.align == "center") or n.width == "center":
                out["margin-inline"] = "auto"
            elif n.attributes.get("at") == "end" or (
                n.width in ("max", "hug") and n.align == "end" and n.kind != "text"
            ):
                start = "auto"
            elif abs(n.inset) > 0.05:
                start = self._inset(n, parent)
                if n.inset > NARROW_INSET:
                    narrow["margin-inline-start"] = "0"
            if abs(n.gap) > 0.05:
                out["margin-block-start"] = rem(n.gap)
            if n.gap < -OVERLAP and n.surface:  # in front of the picture that it stands on
                out["position"], narrow["margin-block-start"] = "relative", "0"
            if start:
                out["margin-inline-start"] = start
            if n.attributes.get("outset") and n.width != "center":  # else it reaches as far to both sides
                outset = float(n.attributes["outset"])
                if start and start != "auto":
                    out["margin-inline-start"] = rem(n.inset - outset)
                else:
                    out["margin-inline"] = rem(-outset)
                    narrow["margin-inline"] = "0"
            self._limit(n, out)
            if n.inset > 0.05 and n.kind != "field" and out.get("inline-size") == "100%":
                del out["inline-size"]  # it takes what its inset leaves
            if n.width == "contained":
                out["inline-size"] = f"min(100% - 2 * {GUTTER}, {rem(n.rect.w)})"
                out["margin-inline"] = "auto"
        elif parent.kind == "row":
            if n.gap == AUTO:
                out["margin-inline-start"] = "auto"
            elif abs(n.tweak.get("before", 0.0)) > 0.05:
                out["margin-inline-start"] = rem(n.tweak["before"])
                if n.tweak["before"] > NARROW_INSET:
                    narrow["margin-inline-start"] = "0"
            above = n.inset - float(n.attributes.get("reach", 0))
            if abs(above) > 0.05:
                out["margin-block-start"] = rem(above)
            if n.kind == "row" and n.attributes.get("reach"):
                out["margin-block-end"] = rem(-float(n.attributes["reach"]))
            if n.attributes.get("type") in ("checkbox", "radio"):
                pass  # it has a width of its own
            elif n.width == "grow":
                out["flex"] = f"0 1 {rem(n.rect.w)}"
                if parent.width == "hug":  # which is as wide as what is in it, whatever that would like to be
                    out |= {"flex": "0 1 auto", "inline-size": rem(n.rect.w)}
                if n.kind == "field":
                    out["min-inline-size"] = "0"  # a field's own idea of its width must not outgrow its place
            elif n.width == "max":
                self._limit(n, out)
            elif n.kind == "image":
                out["flex"] = "none"
        elif parent.kind == "grid":
            if abs(n.inset) > 0.05:
                out["margin-block-start"] = rem(n.inset)
            if n.tweak.get("before"):
                out["margin-inline-start"] = rem(n.tweak["before"])
            if n.width in ("max", "hug"):
                self._limit(n, out)
        return out, narrow

    def _inset(self, n: Node, parent: Node) -> str:
        """How far from its parent's edge a part begins: far in it is a share of the room, so that it never leaves it."""
        sides = (
            parent.padding[1]
            + parent.padding[3]
            + (sum(parent.surface.border[1::2]) if parent.surface else 0)
        )
        room = parent.rect.w - sides
        if n.kind == "text" or n.inset < max(FAR_IN, 0.3 * room) or parent.width in ("hug", "max"):
            return rem(n.inset)
        return f"{number(100 * n.inset / room, 2)}%"

    def _limit(self, n: Node, out: dict[str, str]) -> None:
        if n.kind == "text" and not n.surface:
            if n.attributes.get("measure"):
                out["max-inline-size"] = rem(float(n.attributes["measure"]))
                if n.align == "center":
                    out["margin-inline"] = "auto"
        elif n.kind in ("block", "row", "grid", "field", "table", "rule") and n.width in ("max", "center"):
            out["max-inline-size"] = rem(n.rect.w + 2 * float(n.attributes.get("outset", 0)))
            if (
                n.kind in ("field", "rule")
                or (n.kind == "block" and not n.children)
                or n.align in ("center", "end")
                or n.width == "center"
                or n.surface
            ):
                out["inline-size"] = "100%"
        elif n.kind in ("block", "row", "grid") and n.width == "hug":
            out["inline-size"] = "fit-content"

    # ---- inside a node
    def inside(self, n: Node) -> tuple[dict[str, str], dict[str, str], dict[str, str]]:
        """Declarations that lay out a container's children: (always, small screens, medium screens)."""
        out: dict[str, str] = {}
        narrow: dict[str, str] = {}
        medium: dict[str, str] = {}
        self._padding(n, out, narrow)
        if n.kind == "block" and any(c.attributes.get("read") for c in n.children):
            out |= {"display": "flex", "flex-direction": "column"}
        elif n.kind == "block" and n.children and n.children[0].gap < 0 and n.padding[0] <= 0:
            out["display"] = "flow-root"  # what reaches above it must not pull it up as well
        if id(n) in self.unbroken:
            out["white-space"], medium["white-space"] = "nowrap", "normal"
        if n.kind == "row":
            out["display"] = "flex"
            if not (n.surface and n.tag in ("a", "button", "span")):
                medium["flex-wrap"] = "wrap"
            gaps = [c.gap for c in n.children[1:] if c.gap != AUTO]
            gap = self._common(gaps)
            if gaps:
                out["gap"] = (
                    f"{rem(min(12.0, gap))} {rem(gap)}" if abs(min(12.0, gap) - gap) > 0.05 else rem(gap)
                )
            together = all(c.gap != AUTO for c in n.children)  # else what is free lies between them
            for i, c in enumerate(n.children):
                extra = 0.0 if c.gap == AUTO else c.gap if i == 0 else c.gap - gap
                if i == 0 and n.align in ("center", "end") and (together or n.surface):
                    extra = 0.0
                c.tweak["before"] = extra if i == 0 or abs(extra) > EVEN else 0.0
            if n.cross != "stretch":
                out["align-items"] = {"start": "flex-start", "end": "flex-end"}.get(n.cross, n.cross)
            if n.align in ("center", "end") and together:
                out["justify-content"] = {"end": "flex-end"}.get(n.align, n.align)
        elif n.kind == "grid":
            out["display"] = "grid"
            out["grid-template-columns"] = self._tracks(n.columns)
            if n.column_gap > 0.05:
                out["column-gap"] = rem(n.column_gap)
            if n.cross != "stretch":
                out["align-items"] = n.cross
            rail = any(c < 0 and -c <= 110 for c in n.columns)
            flexible = [c for c in n.columns if c > 0]
            if rail and len(n.columns) == 2:
                pass  # an icon beside its text stays beside it
            else:
                narrow["grid-template-columns"] = "minmax(0, 1fr)"
                narrow["gap"] = "1.5rem"
                if len(flexible) >= 4:
                    medium["grid-template-columns"] = "repeat(2, minmax(0, 1fr))"
                    medium["gap"] = "1.5rem"
        if n.kind == "block" and not n.children and n.surface and n.rect.h > 0:
            out["min-block-size"] = rem(n.rect.h)
            if n.width == "hug" or n.rect.w < 60:
                out["inline-size"] = rem(n.rect.w)
        return out, narrow, medium

    def _common(self, gaps: list[float]) -> float:
        """The gap most children have (within EVEN), else the smallest, never below zero."""
        if not gaps:
            return 0.0
        best = max(gaps, key=lambda g: (sum(abs(g - o) <= EVEN for o in gaps), -g))
        near = [g for g in gaps if abs(g - best) <= EVEN]
        return max(0.0, sum(near) / len(near)) if len(near) * 2 >= len(gaps) else max(0.0, min(gaps))

    def _tracks(self, columns: list[float]) -> str:
        flexible = [c for c in columns if c > 0]
        if len(flexible) == len(columns) and max(columns) - min(columns) <= 1.2:
            return f"repeat({len(columns)}, minmax(0, 1fr))"
        unit = min(flexible) if flexible else 1.0
        return " ".join(rem(-c) if c < 0 else f"minmax(0, {number(c / unit, 4)}fr)" for c in columns)

    def _padding(self, n: Node, out: dict[str, str], narrow: dict[str, str]) -> None:
        top, right, bottom, left = n.padding
        if (
            n.attributes.get("band")
            and n.rect.w > 0.97 * self.reading.width
            and abs(left - right) < 1.5
            and left >= GUTTER_MOST
        ):
            content = self.reading.width - left - right - (sum(n.surface.border[1::2]) if n.surface else 0)
            if top > 0.05 or bottom > 0.05:
                out["padding-block"] = rem(top) if abs(top - bottom) < 0.06 else f"{rem(top)} {rem(bottom)}"
            out["padding-inline"] = f"max({GUTTER}, (100% - {rem(content)}) / 2)"
            return
        if min(left, right) > ROOMY and abs(left - right) < 2 and n.width == "fill" and abs(n.inset) < 0.05:
            # what stands in the middle of a wide box does so at every width
            content = n.rect.w - left - right - (sum(n.surface.border[1::2]) if n.surface else 0)
            if top > 0.05 or bottom > 0.05:
                out["padding-block"] = rem(top) if abs(top - bottom) < 0.06 else f"{rem(top)} {rem(bottom)}"
            out["padding-inline"] = f"max({GUTTER}, (100% - {rem(content)}) / 2)"
            return
        sides = (top, right, bottom, left)
        if all(v < 0.05 for v in sides):
            return
        if abs(top - bottom) < 0.06 and abs(left - right) < 0.06:
            out["padding"] = rem(top) if abs(top - left) < 0.06 else f"{rem(top)} {rem(right)}"
        else:
            out["padding"] = " ".join(rem(v) for v in sides)
        if max(left, right) > 40:
            narrow["padding-inline"] = (
                GUTTER if n.attributes.get("band") or max(left, right) > 80 else "1.5rem"
            )

    # ---- elements
    def element(self, n: Node, parent: Node, first: bool, wrap_item: bool = False) -> Element:
        """The element of a node; `wrap_item`: as an entry of a list."""
        inner, inner_narrow, medium = self.inside(n) if n.kind in ("block", "row", "grid") else ({}, {}, {})
        placed, placed_narrow = self.place(n, parent, first)
        if n.kind == "text" and not n.surface:
            return self._text(n, parent, placed, placed_narrow, wrap_item)
        if n.kind == "image":
            return self._image(n, placed, placed_narrow, wrap_item)
        if n.kind == "rule":
            return self._rule(n, parent, placed, placed_narrow, wrap_item)
        if n.kind == "field":
            return self._field(n, parent, placed, placed_narrow, wrap_item)
        if n.kind == "table":
            return self._table(n, placed)
        return self._container(n, parent, placed, placed_narrow, inner, inner_narrow, medium, wrap_item)

    def contents(self, n: Node, items: bool = False) -> list[Element | str]:
        """The elements of a node's children, in the document's order; `items`: each as an entry of a list."""
        made = {id(c): self.element(c, n, i == 0, items) for i, c in enumerate(n.children)}
        return [made[id(c)] for c in n.in_reading_order()]

    def _text(
        self, n: Node, parent: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool
    ) -> Element:
        style = self.reading.styles[n.style]
        declarations = self.type_declarations(style, n.leading)
        if n.tag.startswith("h") and len(n.tag) == 2 and "font-weight" not in declarations:
            declarations["font-weight"] = str(style.weight)
        if n.tag.startswith("h") and len(n.tag) == 2 and "font-size" not in declarations:
            declarations["font-size"] = self.size(style.size)
        type_class = self.sheet.named(self.style_names[n.style], declarations)
        own: dict[str, str] = {}
        if n.align in ("center", "end"):
            own["text-align"] = n.align
        if wrap_item and n.tag == "a" and parent.kind == "block":
            # as blocks they are as high as their own lines, not as the list's
            own |= {"display": "block", "inline-size": "fit-content"}
        if n.attributes.get("pad"):
            own.pop("inline-size", None)
            block, inline = (float(v) for v in n.attributes["pad"].split())
            own["display"] = "block"
            own["padding"] = rem(block) if block == inline else f"{rem(block)} {rem(inline)}"
            if n.attributes.get("reach"):
                own["margin-block-end"] = rem(-float(n.attributes["reach"]))
        if n.tag == "pre":
            own["overflow-x"] = "auto"
        if n.attributes.get("under"):  # a line of its own
            gap, thick, colour = n.attributes["under"].split()
            own["padding-block-end"] = rem(float(gap))
            own["border-block-end"] = f"{px(float(thick))} solid {self.colours.name(colour)}"
            if n.width == "hug":
                own |= {"display": "block", "inline-size": "fit-content"}
                n.attributes["nowrap"] = "1"
        own_narrow: dict[str, str] = {}
        if n.attributes.get("nowrap"):
            own["white-space"] = "nowrap"
            own_narrow["white-space"] = "normal"
        tag = n.tag
        block_link = tag in ("a", "span", "label") and parent.kind in ("block", "td") and not wrap_item
        if block_link:
            hugs = {"inline-size": "fit-content"} if n.align != "end" and tag == "a" else {}
            if hugs and n.align == "center":
                hugs["margin-inline"] = "auto"
            placed = {"display": "block"} | hugs | placed
        part = (
            "title" if tag[0] == "h" and len(tag) == 2 else {"a": "link", "label": "label"}.get(tag, "text")
        )
        linked_item = wrap_item and tag != "p"
        if linked_item:
            own_class = self.sheet.named(f"{self.owner(parent)}__{part}", own, {}, own_narrow)
            spot = self.sheet.named(f"{self.owner(parent)}__item", placed, narrow)
        else:
            spot = self.sheet.named(f"{self.owner(parent)}__{part}", {**placed, **own}, narrow, own_narrow)
        attributes: dict[str, str] = {}
        if tag == "a":
            attributes["href"] = "#"
        if tag == "label" and n.attributes.get("for"):
            attributes["for"] = n.attributes["for"]
        content = self.runs(n)
        if tag == "pre":
            content = [Element("code", {}, content)]
        if wrap_item and tag == "p":
            return self._finish(Element("li", attributes, content, n.id), type_class, spot)
        if wrap_item:
            inner = self._finish(Element(tag, attributes, content, n.id), type_class, own_class)
            return self._finish(Element("li", {}, [inner]), spot)
        return self._finish(Element(tag, attributes, content, n.id), type_class, spot)

    def owner(self, n: Node) -> str:
        """The name of the nearest named part around a node's children: what their classes begin with."""
        return self.names.get(id(n)) or "page"

    def _finish(self, e: Element, *classes: str) -> Element:
        names = [c for c in classes if c]
        if names:
            e.attributes = {"class": " ".join(dict.fromkeys(names)), **e.attributes}
        return e

    def _container(
        self,
        n: Node,
        parent: Node,
        placed: dict[str, str],
        placed_narrow: dict[str, str],
        inner: dict[str, str],
        inner_narrow: dict[str, str],
        medium: dict[str, str],
        wrap_item: bool,
    ) -> Element:
        paint = self.paint(n.surface) if n.surface and n.tag != "body" else {}
        if n.surface and n.surface.shadow and n.tag in ("header", "nav", "aside"):
            paint["position"] = "relative"  # its shadow falls on what comes after it
        hug = n.tag in ("a", "button", "span") and n.surface is not None
        texts = [c for c in n.children if c.kind == "text"]
        tag = "li" if wrap_item and n.tag == "div" else n.tag
        listing = n.attributes.get("list")
        attributes: dict[str, str] = {}
        if n.tag == "a":
            attributes["href"] = "#"
        if n.tag == "button":
            attributes |= (
                {"type": "button", "aria-expanded": "false"}
                if n.attributes.get("opens")
                else {"type": "button" if n.attributes.get("press") else "submit"}
            )
        if n.attributes.get("open"):
            attributes["open"] = ""
        if n.tag == "nav":
            attributes["aria-label"] = n.attributes.get("label", "Main")
        elif n.tag in ("a", "button") and n.attributes.get("label"):
            attributes["aria-label"] = n.attributes["label"]
        if hug and len(n.children) == 1 and len(texts) == 1 and len(texts[0].lines) >= 1:
            t = texts[0]
            style = self.reading.styles[t.style]
            inner = {k: v for k, v in inner.items() if k.startswith("padding")}
            pad = n.padding
            centred = abs(t.rect.cx - n.rect.cx) <= CENTRED
            if n.width == "fill" and parent.kind in ("block", "td"):  # its width comes from what it is in
                beside = min(ROOMY_FIELD, pad[1], pad[3]) if centred else min(pad[1], pad[3])
                pad = pad[0], beside, pad[2], beside if centred else pad[3]
            inner["padding"] = self._tight_padding(pad)
            declared = {
                "display": "block"
                if n.width == "fill" and parent.kind in ("block", "td")
                else "inline-block",
                **inner,
                **paint,
                **self.type_declarations(style, t.leading),
            }
            if n.width != "fill" or centred:
                declared["text-align"] = "center"
            if len(t.lines) == 1 and (t.attributes.get("nowrap") or len(node_text(n)) <= BRIEF):
                declared["white-space"] = "nowrap"
            if n.tag == "button" and declared["display"] == "block":
                declared["inline-size"] = "100%"  # a button hugs its words even as a block
            if n.width in ("hug", "max") and parent.kind == "block":
                declared["display"] = "block"
                declared["inline-size"] = "fit-content"
                placed.pop("inline-size", None)
            if n.width == "max":
                placed.pop("max-inline-size", None)
                placed.pop("inline-size", None)
            role = n.attributes.get("role", "chip")
            roomy = {"padding-inline": "1.25rem"} if max(pad[1], pad[3]) > 40 else {}
            variant = self.sheet.named(f"{role}-{slug(node_text(n), 1) or 'plain'}", declared, roomy)
            spot = self.sheet.named(f"{self.owner(parent)}__{role}", placed, placed_narrow)
            e = Element(n.tag, attributes, self.runs(t), n.id)
            self._finish(e, role if role == "button" else "", variant, spot)
            return Element("li", {}, [e]) if wrap_item else e
        if n.tag in ("a", "button", "span") and "display" not in inner:
            inner = {"display": "block", **inner}
        if listing and n.tag not in ("nav",):
            tag = "ol" if listing == "ol" else "ul"
            if listing in ("bullets", "ol"):
                inner["list-style"] = "decimal" if listing == "ol" else "disc"
            if n.attributes.get("start"):
                attributes["start"] = n.attributes["start"]
        block = n.name or f"{self.owner(n)}__{'group' if n.kind == 'block' else n.kind}"
        if n.attributes.get("role") == "button":
            block = f"button-{slug(node_text(n), 1) or 'icon'}"
        declared = {**inner, **paint}
        children = n.children
        items = bool(listing)
        if n.tag == "nav" and listing:
            outer = Element("nav", attributes, [], n.id)
            ul = Element("ul", {}, self.contents(n, True))
            self._finish(ul, self.sheet.named(f"{block}__list", declared, inner_narrow, medium))
            outer.children = [ul]
            return self._finish(outer, self.sheet.named(block, placed, placed_narrow))
        narrow = {**placed_narrow, **inner_narrow}
        cls = self.sheet.named(block, {**placed, **declared}, narrow, medium)
        e = Element(tag, attributes, [], n.id)
        e.children = self.contents(n, items)
        if tag == "div" and not children and n.surface:
            attributes["aria-hidden"] = "true"
        self._finish(e, "button" if n.attributes.get("role") == "button" else "", cls)
        if wrap_item and tag != "li":
            return Element("li", {}, [e])
        return e

    def _tight_padding(self, pad: tuple[float, float, float, float]) -> str:
        top, right, bottom, left = pad
        side = (left + right) / 2 if abs(left - right) <= 3 else None
        if abs(top - bottom) <= 2.5 and side is not None and abs(top - bottom) < 0.06:
            return f"{rem(top)} {rem(side)}"
        if side is not None:
            return f"{rem(top)} {rem(side)} {rem(bottom)}"
        return " ".join(rem(v) for v in pad)

    def _image(self, n: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool) -> Element:
        cutout = self.reading.cutouts[n.cutout]
        path, (w, h) = self.file(n.cutout, n.attributes.get("words", ""))
        painted: dict[str, str] = {}
        if cutout.radius:
            painted["border-radius"] = "50%"
        if n.surface:
            painted |= {"padding": self._tight_padding(n.padding)} | self.paint(n.surface)
            w, h = round(n.rect.w), round(n.rect.h)
        words = cutout.alt or n.attributes.get("alt", "") or cutout.text[:120]
        e = Element("img", {"src": path, "width": str(w), "height": str(h), "alt": words}, [], n.id)
        name = n.name or "picture"
        if n.attributes.get("linked"):
            self._finish(e, self.sheet.named(name, painted))
            link = (
                {"display": "block"} | ({} if n.width == "fill" else {"inline-size": "fit-content"}) | placed
            )
            if n.attributes.get("pad"):
                block, inline = (float(v) for v in n.attributes["pad"].split())
                link |= {
                    "padding": f"{rem(block)} {rem(inline)}",
                    "margin-block-end": rem(-float(n.attributes["reach"])),
                }
            e = Element("a", {"class": self.sheet.named(f"{name}-link", link, narrow), "href": "#"}, [e])
        else:
            self._finish(e, self.sheet.named(name, placed | painted, narrow))
        return Element("li", {}, [e]) if wrap_item else e

    def _rule(
        self, n: Node, parent: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool
    ) -> Element:
        colour = self.colours.name(
            n.surface.fill.colour if n.surface else "#000000",
            "rule" if "rule" not in self.colours.names.values() else "",
        )
        flat = n.rect.w >= n.rect.h
        declared = {**placed, "block-size" if flat else "min-block-size": px(n.rect.h), "background": colour}
        if not flat or parent.kind == "row":
            declared["inline-size"] = px(n.rect.w) if not flat else rem(n.rect.w)
        e = Element("hr", {}, [], n.id)
        self._finish(e, self.sheet.named("rule", declared, narrow))
        return Element("li", {}, [e]) if wrap_item else e

    def _field(
        self, n: Node, parent: Node, placed: dict[str, str], narrow: dict[str, str], wrap_item: bool
    ) -> Element:
        self.fields += 1
        kind = n.attributes.get("type", "text")
        name = (
            slug(n.attributes.get("name", "") or n.attributes.get("placeholder", ""), 3)
            or f"field-{self.fields}"
        )
        ident, k = name, 2
        while ident in self.ids:
            ident, k = f"{name}-{k}", k + 1
        self.ids.add(ident)
        n.attributes["id"] = ident
        attributes = {"id": ident, "name": ident}
        if n.attributes.get("set"):
            attributes["name"] = slug(n.attributes["set"], 3)
        if n.tag == "input":
            attributes["type"] = kind
        border = n.surface.border if n.surface else (0.0, 0.0, 0.0, 0.0)
        declared: dict[str, str] = {}
        arrow, end = n.attributes["arrow"].split() if n.tag == "select" else ("", "0")
        own_arrow = n.tag == "select" and float(end) <= OWN_ARROW
        if kind in ("checkbox", "radio"):
            declared |= {
                "flex": "none",
                "inline-size": rem(n.rect.w),
                "block-size": rem(n.rect.h),
                "appearance": "none",
            }
            if n.attributes.get("checked"):
                attributes["checked"] = ""
            if n.attributes.get("role"):
                attributes["role"] = n.attributes["role"]
            if n.attributes.get("checked", "1") != "1":
                declared["appearance"] = "auto"
                declared["accent-color"] = self.colours.name(n.attributes["checked"])
        else:
            left, text_style = self.field_looks.get(id(n), (n.padding[3], n.style))
            if own_arrow:
                left = max(0.0, left - SELECT_PAD)
            style = self.reading.styles[text_style]
            leading = float(round(style.size * 1.25))
            vertical = max(0.0, (n.rect.h - border[0] - border[2] - leading) / 2)
            if n.tag == "textarea":
                line = self.reading.lines[n.lines[0]] if n.lines else None
                top = line.baseline - 0.95 * style.size - n.rect.y - border[0] if line else vertical
                vertical = max(0.0, min(top, 24.0))
                declared |= {"block-size": rem(n.rect.h), "resize": "vertical"}
            declared |= {
                "padding": self._tight_padding((vertical, min(left, ROOMY_FIELD), vertical, left))
            } | self.type_declarations(style, leading)
            if own_arrow:  # browsers take no line height there
                declared |= {
                    "block-size": rem(n.rect.h),
                    "padding": f"0 {rem(min(left, ROOMY_FIELD))} 0 {rem(left)}",
                }
                declared.pop("line-height", None)
            if "inline-size" not in placed and not (parent.kind == "row" and "flex" in placed):
                placed["inline-size"] = "100%" if n.width == "fill" else rem(n.rect.w)
            if n.width == "hug":
                placed["inline-size"] = rem(n.rect.w)
            if n.attributes.get("autocomplete"):
                attributes["autocomplete"] = n.attributes["autocomplete"]
        said = n.attributes.get("placeholder", "") if n.tag != "select" else ""
        filled = bool(said) and self._is_value(n, said)
        if filled and n.tag == "input":
            attributes["value"] = said
        elif said and not filled:
            attributes["placeholder"] = said
        if not n.attributes.get("name"):
            attributes["aria-label"] = (
                n.attributes.get("placeholder")
                or n.attributes.get("label")
                or ("Choice" if kind in ("checkbox", "radio") else "Entry")
            )
        if n.surface:
            declared |= self.paint(n.surface)
        if n.attributes.get("knob"):
            colour, radius, place = n.attributes["knob"].split()
            at = f"calc(100% - {rem(float(place))})" if n.attributes.get("checked") else rem(float(place))
            disc = f"{self.colours.name(colour)} {rem(float(radius) - 0.5)}, transparent {rem(float(radius) + 0.5)}"
            declared["background"] = (
                f"radial-gradient(circle at {at} center, {disc}) {declared['background']}"
            )
        e = Element(n.tag, attributes, [said] if filled and n.tag == "textarea" else [], n.id)
        hint = declared.pop("color", "") if said and not filled else ""
        if n.tag == "select":
            e.children = [Element("option", {}, [n.attributes["choices"]])]
            if not own_arrow:
                path, _ = self.file(int(arrow), "arrow")
                declared["appearance"] = "none"
                if "background" in declared:
                    declared["background"] += f' url("{path}") no-repeat right {rem(float(end))} center'
        elif n.attributes.get("mark"):
            icon, side, inset = n.attributes["mark"].split()
            path, _ = self.file(int(icon), "search")
            declared["background"] = (
                f'{declared.get("background", "none")} url("{path}") no-repeat {side} {rem(float(inset))} center'
            )
        if "margin-inline" in placed and parent.kind == "block":
            placed = {"display": "block"} | placed  # a margin of `auto` centres blocks only
        look = self.sheet.named("field" if kind not in ("checkbox", "radio") else kind, declared)
        if hint:
            rule = f".{look}::placeholder {{\n  color: {hint};\n  opacity: 1;\n}}\n"
            self.sheet.raw += [] if rule in self.sheet.raw else [rule]
        spot = self.sheet.named(f"{self.owner(parent)}__field", placed, narrow)
        self._finish(e, look, spot)
        return Element("li", {}, [e]) if wrap_item else e

    def _is_value(self, n: Node, said: str) -> bool:
        """Has a field been filled in? What only hints at what to write is paler than the page's text."""
        if (
            not n.lines
            or self.base is None
            or said.endswith(("…", "..."))
            or said == n.attributes.get("name")
        ):
            return False
        if n.attributes.get("type") in ("search", "password"):
            return False
        ground = self.reading.lines[n.lines[0]].ground
        ink = self.reading.styles[n.style].colour
        return contrast(ink, ground) >= FILLED * contrast(self.base.colour, ground)

    def _table(self, n: Node, placed: dict[str, str]) -> Element:
        block = n.name or "data-table"
        table = Element("table", {}, [], n.id)
        total = sum(n.columns) or 1.0
        for i, w in enumerate(n.columns, start=1):
            self.sheet.raw.append(
                f".{block} :is(th, td):nth-child({i}) {{\n  inline-size: {number(100 * w / total, 2)}%;\n}}\n"
            )
        rows = []
        head = n.children[0] if n.children and all(td.tag == "th" for td in n.children[0].children) else None
        for tr in n.children:
            cells: list[Element | str] = []
            for td in tr.children:
                declared = {"block-size": rem(tr.tweak.get("height", tr.rect.h))}
                if any(v > 0.05 for v in td.padding):
                    declared["padding-inline"] = (
                        rem(td.padding[3])
                        if abs(td.padding[1] - td.padding[3]) < 0.05
                        else f"{rem(td.padding[3])} {rem(td.padding[1])}"
                    )
                if td.align != "start":
                    declared["text-align"] = td.align
                if td.children:
                    first, last = td.children[0].rect, td.children[-1].rect
                    if abs((first.y + last.bottom) / 2 - td.rect.cy) > OFF_MIDDLE and first.y >= td.rect.y:
                        declared |= {"vertical-align": "top", "padding-block-start": rem(first.y - td.rect.y)}
                drop = td.tweak.get("drop", 0.0)
                if abs(drop) > 0.2 and "vertical-align" not in declared:
                    declared[f"padding-block-{'start' if drop > 0 else 'end'}"] = rem(abs(drop))
                if td.surface:
                    declared |= self.paint(
                        td.surface, skip_fill=td.surface.fill.colour == self.reading.background.colour
                    )
                head_cell = td.tag == "th" and bool(td.children)  # an empty corner is no head of anything
                scope = {"scope": "col" if tr is head else "row"} if head_cell else {}
                cell = Element("th" if head_cell else "td", scope, [], td.id)
                if len(td.children) == 1 and td.children[0].kind == "text" and td.children[0].tag == "p":
                    t = td.children[0]
                    declared |= self.type_declarations(self.reading.styles[t.style], t.leading)
                    if t.attributes.get("nowrap"):
                        declared["white-space"] = "nowrap"
                    cell.children = self.runs(t)
                    self._finish(
                        cell,
                        self.sheet.named(
                            f"{block}__cell",
                            declared,
                            {},
                            {"white-space": "normal"} if t.attributes.get("nowrap") else {},
                        ),
                    )
                else:
                    cell.children = [self.element(c, td, i == 0) for i, c in enumerate(td.children)]
                    self._finish(cell, self.sheet.named(f"{block}__cell", declared))
                cells.append(cell)
            row = Element("tr", {}, cells, tr.id)
            if tr.surface:
                self._finish(row, self.sheet.named(f"{block}__row", self.paint(tr.surface)))
            rows.append(row)
        parts: list[Element | str] = [Element("thead", {}, [rows.pop(0)])] if head else []
        parts.append(Element("tbody", {}, list(rows)))
        table.children = parts
        self._finish(table, block)
        lattice = any(td.surface and any(td.surface.border[1::2]) for tr in n.children for td in tr.children)
        self.sheet.named(
            block, {"inline-size": "100%"} | ({"border-collapse": "collapse"} if lattice else {})
        )
        box = Element(
            "div", {"class": self.sheet.named("table-scroll", {**placed, "overflow-x": "auto"})}, [table]
        )
        return box
