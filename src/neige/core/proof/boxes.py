"""How panels and pictures were drawn: their corners, borders, shadows and sizes, and pictures that are not there.

A panel is looked for where its words were drawn; several that differ in the same way are one finding.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from neige.core.model import Drawing, DrawnBox, Finding, Reading, Rect, Surface
from neige.core.model.geometry import union
from neige.core.reading.colour import from_hex

SAME = 0.78  # overlap (IoU) from which a drawn box is a panel of the picture
NEARLY = 0.5  # and from which it is that panel in another size
LEAST = 300.0  # px²: smaller panels are not looked at
STILL = 1.5  # px that a panel's lines may have moved apart
GROWN = 3.0  # px by which a panel's sides differ at least
RADIUS = 2.6  # px by which a corner may differ
OWN = 3.0  # 8-bit steps by which a border may be off its panel's colour
BORDER = 0.75  # px by which a border may
CLEAR = 0.72  # confidence of a panel from which its corners and borders are told from it
PICTURE = 40.0  # px: the shorter side of a picture that is missed
AROUND = 60.0  # px above and below a panel without words whose words tell how far it was moved


Bordered = tuple[Rect, float]  # a panel, and by how many px its border is wider than the picture's


def find_boxes(
    reading: Reading, drawing: Drawing, moved: Sequence[tuple[Rect, float]]
) -> tuple[list[Finding], list[Bordered]]:
    """(findings about panels and pictures, the panels with another border). `moved`: where lines were seen, and how far down they
    were drawn, px."""
    if not drawing.boxes:
        return [], []
    bordered: list[Bordered] = []
    groups: dict[tuple[str, str], list[tuple[Rect, int]]] = defaultdict(list)
    painted = [b for b in drawing.boxes if b.fill or b.shadow or any(b.border)]
    for s in reading.surfaces:
        if s.rect.area < LEAST or s.confidence < CLEAR or s.rect.w > 0.97 * reading.width:
            continue
        place = _moved(s.rect, _shift(s.rect, moved))
        best = max(painted, key=lambda b: b.rect.iou(place), default=None)
        if best is None:
            continue
        alike = best.rect.iou(place)
        if alike >= SAME:
            for kind, text in _differences(s, best):
                if kind != "border" or not _is_rim(s, best, drawing):
                    groups[kind, text].append((s.rect, best.node))
                    if kind == "border":
                        bordered.append((s.rect, max(best.border) - max(_border_of(s))))
        elif alike >= NEARLY and _stands_alone(best, painted) and _resized(s.rect, best.rect, moved):
            size = f"is {best.rect.w:.0f} × {best.rect.h:.0f} px, the picture has {s.rect.w:.0f} × {s.rect.h:.0f}"
            groups["resized", size].append((s.rect, best.node))
    out = [_told(kind, text, found) for (kind, text), found in groups.items()]
    return out + _missing_pictures(reading, drawing, moved), bordered


def _told(kind: str, text: str, found: list[tuple[Rect, int]]) -> Finding:
    first, node = found[0]
    more = f" and {len(found) - 1} more like it" if len(found) > 1 else ""
    heavy = {"radius": 0.02, "border": 0.05, "shadow": 0.06, "resized": 0.3}[kind]
    weight = 900.0 + heavy * sum(r.area for r, _ in found)
    return Finding(
        kind,
        f"the panel of {first.w:.0f} × {first.h:.0f} px{more} {text}",
        first,
        min(weight, 30_000.0),
        node,
    )


def _differences(s: Surface, b: DrawnBox) -> list[tuple[str, str]]:
    """(kind, what is otherwise) of a panel and the box it was drawn as."""
    out = []
    first = s.corners[0] if s.corners else s.radius
    if abs(first - b.radius) > max(RADIUS, 0.3 * first):
        out.append(("radius", f"has corners of {b.radius:.0f} px, the picture has {first:.0f}"))
    seen = _border_of(s)
    sides = [i for i in range(4) if (seen[i] > 0) != (b.border[i] > 0) or abs(seen[i] - b.border[i]) > BORDER]
    if len(sides) == 4:  # one side may belong to a neighbour
        drawn, wanted = max(b.border), max(seen)
        out.append(
            ("border", f"has {_border(drawn)}, the picture has {_border(wanted)}")
        )  # fmt: skip
    if s.shadow is not None and s.shadow.opacity >= 0.06 and not b.shadow:
        out.append(("shadow", "has no shadow, the picture has one"))
    return out


def _border_of(s: Surface) -> list[float]:
    """Its width at the top, right, bottom and left, px."""
    return [w if s.accent is None or s.accent[0] != i else s.accent[1] for i, w in enumerate(s.border)]


def _is_rim(s: Surface, b: DrawnBox, drawing: Drawing) -> bool:
    """Is a border that the picture does not show drawn in the colour of its panel? Then it shows because the fill is another, which
    is said already."""
    y, x = (round(v * drawing.scale) for v in (b.rect.cy, b.rect.x + b.border[3] / 2 - 0.5))
    if any(s.border) or not s.fill.colour or not drawing.pixels.size:
        return False
    height, width = drawing.pixels.shape[:2]
    shown = drawing.pixels[min(max(y, 0), height - 1), min(max(x, 0), width - 1)]
    return bool(np.abs(shown - from_hex(s.fill.colour)).max() <= OWN)


def _border(width: float) -> str:
    return f"a border of {width:g} px" if width else "no border"


def _shift(rect: Rect, moved: Sequence[tuple[Rect, float]]) -> float:
    """How far down what is in a box, or near it, was drawn."""
    near = [dy for r, dy in moved if r.inside(rect, 0.9)] or [
        dy for r, dy in moved if r.y < rect.bottom + AROUND and r.bottom > rect.y - AROUND
    ]
    return sorted(near)[len(near) // 2] if near else 0.0


def _resized(seen: Rect, drawn: Rect, moved: Sequence[tuple[Rect, float]]) -> bool:
    """Is a panel of another size, and not because of what was put into it, taken out, or moved inside?"""
    inside = [dy for r, dy in moved if r.inside(seen, 0.9)]
    still = not inside or max(inside) - min(inside) <= STILL
    return still and (abs(seen.w - drawn.w) > GROWN or (abs(seen.h - drawn.h) > GROWN and bool(inside)))


def _moved(r: Rect, dy: float) -> Rect:
    return Rect(r.x, r.y + dy, r.w, r.h)


def _stands_alone(box: DrawnBox, painted: list[DrawnBox]) -> bool:
    """No other painted box is nearly the same: a panel drawn by several elements has no size of its own."""
    return not any(b is not box and b.rect.iou(box.rect) > NEARLY for b in painted)


def _missing_pictures(
    reading: Reading, drawing: Drawing, moved: Sequence[tuple[Rect, float]]
) -> list[Finding]:
    shown = [b.rect for b in drawing.boxes if b.picture]
    out = []
    for c in reading.cutouts:
        if c.kind != "image" or min(c.rect.w, c.rect.h) < PICTURE:
            continue
        # where the words around it went, or where it was: what is beside it may move by itself
        places = (_moved(c.rect, _shift(c.rect, moved)), c.rect)
        if not any(place.meet(r) >= 0.3 * place.area for r in shown for place in places):
            text = f"a picture of {c.rect.w:.0f} × {c.rect.h:.0f} px is not on the page"
            out.append(Finding("picture", text, c.rect, 4000.0 + 0.5 * c.rect.area))
    return out if len(out) < 2 else [_together(out)]


def _together(found: list[Finding]) -> Finding:
    """Several missing pictures are one finding: they have one cause."""
    return Finding(
        "picture",
        f"{len(found)} pictures are not on the page, the first of {found[0].rect.w:.0f} × {found[0].rect.h:.0f} px",
        union(f.rect for f in found),
        sum(f.weight for f in found),
    )
