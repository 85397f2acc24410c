"""What was measured in a picture. Colours are "#rrggbb" in sRGB; lengths are CSS px."""

from __future__ import annotations

from dataclasses import dataclass, field

from neige.core.model.geometry import Rect

VERSION = 3
NO_SPACE = 1.0  # px: words in two types that are nearer to each other have no space between them


@dataclass(frozen=True, slots=True)
class Word:
    """A word as the browser would place it: `x` and `w` are its advance box, `ink` is the box of its visible pixels."""

    text: str
    x: float
    w: float
    ink: Rect
    style: int
    confidence: float


@dataclass(frozen=True, slots=True)
class Line:
    """Words on one baseline.

    `box` spans the advance boxes and the content area (ascent to descent) of its main style; `ink` is what is visible.
    `x_height` and `cap_height` are px above the baseline, as fitted. `residual`: share of the ink that the fitted type, drawn,
    leaves unexplained, 0..1.
    """

    words: tuple[Word, ...]
    box: Rect
    ink: Rect
    baseline: float
    x_height: float
    cap_height: float
    style: int
    ground: str
    confidence: float
    residual: float

    @property
    def text(self) -> str:
        """What it says. Words that stand right after each other (a name and its bracket, in two types) have no space between them."""
        first, *rest = self.words
        parts = [first.text]
        for before, w in zip(self.words, rest):
            joined = w.style != before.style and w.x - before.x - before.w < NO_SPACE
            parts.append(w.text if joined else f" {w.text}")
        return "".join(parts)


@dataclass(frozen=True, slots=True)
class Underline:
    """The line under a style's words: its upper edge below the baseline and its thickness, px; `dotted`: dots as wide as it is thick."""

    top: float
    thickness: float
    dotted: bool
    colour: str


@dataclass(frozen=True, slots=True)
class TypeStyle:
    """One text style of the page; `name` says its use. `ascent` and `descent` are rounded as the browser rounds them.

    `colour` is the ink as seen on its ground; where that is white let through, `opacity` (below 1) says how much.
    `substitute`: no face of the catalogue draws these lines; this is the closest, sized so that it takes the same room.

    `under`: the underline as it was drawn, where it could be measured.

    `fitted`: heights were fitted to whole px when it was drawn, as browsers at 1x do (FreeType's light hinting).

    `fit` is the correlation of its lines, drawn in this face, with the picture's ink, 0..1; `runners` are the next families with theirs.
    """

    family: str
    category: str
    face: str
    size: float
    weight: int
    italic: bool
    tracking: float
    colour: str
    ascent: float
    descent: float
    underline: bool = False
    strike: bool = False
    uppercase: bool = False
    fit: float = 0.0
    runners: tuple[tuple[str, float], ...] = ()
    lines: int = 0
    opacity: float = 1.0
    substitute: bool = False
    name: str = "text"
    fitted: bool = False
    under: Underline | None = None

    @property
    def bordered(self) -> bool:
        """Is its underline the border of its box, which ends where the face's descent does?"""
        return self.under is not None and self.under.top >= self.descent - 0.5


@dataclass(frozen=True, slots=True)
class TypeScale:
    """`base`: size of the running text, px; `sizes`: all sizes, small to large; `ratio`: of neighbouring steps where one ratio
    explains them, else 0."""

    base: float
    sizes: tuple[float, ...]
    ratio: float = 0.0


@dataclass(frozen=True, slots=True)
class RotatedLine:
    """Text that runs up (`angle` -90) or down (90). It is reported, and left to the pictures."""

    text: str
    rect: Rect
    angle: int
    confidence: float


@dataclass(frozen=True, slots=True)
class Fill:
    """A flat colour ("" where nothing is painted), or a gradient with `stops` as (offset 0..1, colour): linear at `angle` (CSS degrees), or radial round a
    `centre` with `radii`, both as shares of the box's width and height."""

    colour: str
    angle: float = 0.0
    stops: tuple[tuple[float, str], ...] = ()
    centre: tuple[float, float] | None = None
    radii: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True, slots=True)
class Shadow:
    """A box shadow: offset, blur radius (CSS: twice the Gaussian sigma) and spread in px, colour, opacity 0..1. `under`: another one
    that the same box casts, which lies under this one."""

    dx: float
    dy: float
    blur: float
    spread: float
    colour: str
    opacity: float
    under: Shadow | None = None

    @property
    def layers(self) -> tuple[Shadow, ...]:
        """This one and those under it, the uppermost first."""
        return (self, *(self.under.layers if self.under else ()))

    @property
    def reach(self) -> float:
        """px that it falls beyond its box at most."""
        return max(s.blur + abs(s.spread) + max(abs(s.dx), abs(s.dy)) for s in self.layers)


@dataclass(frozen=True, slots=True)
class Surface:
    """A painted rectangle. `rect` is the border box; `border` is top, right, bottom, left widths.

    `radius` is that of its corners; where they differ, `corners` has each (top left, then clockwise) and `radius` is the largest.
    `border_style`: solid, dashed or dotted. `accent`: one side (0 top, 1 right, 2 bottom, 3 left) with a border of its own width and colour.
    `shadow` is thrown outside the border box, `inner` inside the padding box (CSS: inset).
    """

    rect: Rect
    fill: Fill
    radius: float = 0.0
    border: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    border_colour: str = ""
    shadow: Shadow | None = None
    confidence: float = 1.0
    picture: int = -1  # index of the cutout painted behind its content, or -1
    corners: tuple[float, float, float, float] | None = None
    accent: tuple[int, float, str] | None = None
    border_style: str = "solid"
    inner: Shadow | None = None

    @property
    def underlines(self) -> bool:
        """Is its lower border all there is to see of it, as under the current entry of a menu?"""
        return not self.shadow and not self.radius and [n for n in range(4) if self.border[n]] == [2]


@dataclass(frozen=True, slots=True)
class Rule:
    """A thin line with free ends; its long side says which way it runs. `style`: solid or dotted."""

    rect: Rect
    colour: str
    style: str = "solid"


@dataclass(frozen=True, slots=True)
class Cutout:
    """A picture cut from the picture. `kind`: "image" (photo or illustration) or "icon".

    `backdrop`: text or controls lie on it; its pixels are cleaned of them. `radius` is that of its visible mask in px.
    `dot`: it looks the same turned by a quarter, as a dot, ring or square does. `text`: words that are part of it (a chart's
    labels, a logo's lettering). `name`, `alt`, `format` ("" for the best) and
    `quality` (0 for the usual) are what the developer chose for its file.
    """

    rect: Rect
    kind: str
    radius: float = 0.0
    backdrop: bool = False
    ground: str = "#ffffff"
    text: str = ""
    name: str = ""
    alt: str = ""
    format: str = ""
    quality: int = 0
    dot: bool = False


@dataclass(frozen=True, slots=True)
class PaletteEntry:
    """`share` of the picture's area; `role`: page, surface or text; `name` is a proposal for its token."""

    colour: str
    share: float
    role: str
    name: str = ""


@dataclass(frozen=True, slots=True)
class Contrast:
    """An ink on its ground with their contrast ratio (WCAG 2.2, 1..21) and what its smallest text needs for level AA."""

    ink: str
    ground: str
    ratio: float
    needed: float
    lines: int


@dataclass(frozen=True, slots=True)
class ColumnGrid:
    """`columns` of `column` px, `gutter` px apart, from `margin` px at the left to `end` px from the right: `width` px in all.

    `explained` is the share of edges that stand on column edges; `bands` run from side to side and break the grid.
    """

    columns: int
    column: float
    gutter: float
    margin: float
    width: float
    end: float
    explained: float
    bands: tuple[Rect, ...] = ()


@dataclass(frozen=True, slots=True)
class Gap:
    """A distance in px that begins at (x, y) and runs along `axis` ("inline" or "block"). `kind`: "between" or "padding"."""

    kind: str
    axis: str
    x: float
    y: float
    size: float


@dataclass(frozen=True, slots=True)
class SpacingScale:
    """Multiples of `step` px in use, with how often; `leftovers` fit none. `explained` is the share of distances that fit."""

    step: float
    values: tuple[tuple[float, int], ...]
    leftovers: tuple[tuple[float, int], ...]
    explained: float


@dataclass(frozen=True, slots=True)
class Reading:
    """Everything measured in one picture, back to front. `unread`: places that look like text and could not be read. `unexplained` is the share of pixels that no mark accounts for."""

    width: float
    height: float
    scale: int
    background: Fill
    surfaces: tuple[Surface, ...]
    rules: tuple[Rule, ...]
    cutouts: tuple[Cutout, ...]
    lines: tuple[Line, ...]
    styles: tuple[TypeStyle, ...]
    palette: tuple[PaletteEntry, ...]
    unexplained: float
    unread: tuple[Rect, ...] = ()
    rotated: tuple[RotatedLine, ...] = ()
    type_scale: TypeScale = TypeScale(16.0, (16.0,))
    grid: ColumnGrid | None = None
    gaps: tuple[Gap, ...] = ()
    spacing: SpacingScale = SpacingScale(4.0, (), (), 0.0)
    contrasts: tuple[Contrast, ...] = ()
    version: int = field(default=VERSION)

    @property
    def fitted(self) -> bool:
        """Were letters fitted to whole px where the picture was drawn? Only at 1x are they ever."""
        return self.scale == 1 and any(s.fitted for s in self.styles)
