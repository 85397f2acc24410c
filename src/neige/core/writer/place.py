"""Where parts go: what puts a node in its parent, and what lays out its children."""

from __future__ import annotations

from neige.core.model import Node, Rect
from neige.core.outline.places import AUTO
from neige.core.writer.tokens import fluid, number, rem

EVEN = 0.8  # px within which gaps count as equal
ROOMY = 160.0  # px of padding at both sides that middle what is between them
FAR_IN = 160.0  # px from the leading edge beyond which a place is a share of the room
MARGIN = 48.0  # px from the page's side within which what floats is placed from there
OVERLAP = 12.0  # px by which a panel stands in front of what is above it, rather than touching it
NARROWER = (
    4.0  # px by which every part of a stack is narrower than the stack, if none makes it as wide as it is
)
ON = 0.8  # of a part that lies on a picture
NARROW_INSET = 24.0  # px: larger offsets are dropped on small screens
BESIDE = 64.0  # px at most between an icon and the text that stays beside it
GUTTER = "var(--gutter)"
GUTTER_MOST = 32.0  # px that it comes to on a wide screen


def place(n: Node, parent: Node) -> tuple[dict[str, str], dict[str, str]]:
    """Declarations that put `n` where it belongs in its parent, and what changes on small screens."""
    if n.attributes.get("floats"):
        return _afloat(n, parent.rect), {}
    out: dict[str, str] = {}
    narrow: dict[str, str] = {}
    if n.attributes.get("front"):  # else what follows in the document is painted over it
        out["position"] = "relative"
    lead, end, reach = (float(n.attributes.get(k, 0)) for k in ("lead", "end", "reach"))
    if end:
        out["margin-inline-end"] = rem(-end)
        narrow["margin-inline-end"] = "0"  # it may stand at the end of any line
    if reach and n.kind == "row":
        out["margin-block-end"] = rem(-reach)
    if n.attributes.get("beyond"):
        out["margin-block-end"] = rem(-float(n.attributes["beyond"]))
    if n.attributes.get("read"):  # the document has it elsewhere than it is drawn
        out["order"], narrow["order"] = str(parent.children.index(n) + 1), "0"
    if parent.kind in ("block", "td"):
        start: str | None = None
        if n.attributes.get("aside"):
            start, narrow["margin-inline-start"] = rem(float(n.attributes["aside"])), "0"
        elif (n.width in ("max", "hug") and n.align == "center") or n.width == "center":
            out["margin-inline"] = "auto"
        elif n.attributes.get("at") == "end" or (
            n.width in ("max", "hug") and n.align == "end" and n.kind != "text"
        ):
            start = "auto"
        elif n.kind == "row" and n.align == "end" and n.width == "fill" and _is_entries(n):
            start, out["inline-size"] = "auto", "fit-content"  # what is free beside its entries is not theirs
        elif abs(n.inset - lead) > 0.05:
            start = rem(n.inset - lead) if lead else _inset(n, parent)
            if n.inset > NARROW_INSET:  # a list in a list stays one
                narrow["margin-inline-start"] = rem(NARROW_INSET) if n.attributes.get("list") else "0"
        above = n.gap - (reach if n.kind == "row" else 0.0)
        if abs(above) > 0.05:
            out["margin-block-start"] = rem(above)
        if n.gap < -OVERLAP and not n.surface and not _on_picture(n, parent):
            narrow["margin-block-start"] = "1rem"  # it begins beside what is before it, where there is room
        if n.gap < -OVERLAP and n.surface:
            narrow["margin-block-start"] = "0"
            if not n.attributes.get("behind"):  # in front of the picture that it stands on
                out["position"] = "relative"
        if start:
            out["margin-inline-start"] = start
        if n.attributes.get("outset") and n.width != "center":  # else it reaches as far to both sides
            outset = float(n.attributes["outset"])
            if start and start != "auto":
                out["margin-inline-start"] = rem(n.inset - outset)
            else:
                out["margin-inline"] = rem(-outset)
                narrow["margin-inline"] = "0"
        _limit(n, out)
        if n.inset > 0.05 and n.kind != "field" and out.get("inline-size") == "100%":
            del out["inline-size"]  # it takes what its inset leaves
        if n.width == "contained":
            out["inline-size"] = f"min(100% - 2 * {GUTTER}, {rem(n.rect.w + lead + end)})"
            out["margin-inline"] = "auto"
    elif parent.kind == "row":
        if n.gap == AUTO:
            out["margin-inline-start"] = "auto"
        elif abs(n.tweak.get("before", 0.0) - lead) > 0.05:
            out["margin-inline-start"] = rem(n.tweak.get("before", 0.0) - lead)
            if n.tweak.get("before", 0.0) > NARROW_INSET:
                narrow["margin-inline-start"] = "0"
        if abs(n.inset - reach) > 0.05:
            out["margin-block-start"] = rem(n.inset - reach)
        if n.attributes.get("type") in ("checkbox", "radio"):
            pass  # it has a width of its own
        elif n.width == "grow" and n.attributes.get("list") and n.children[-1].gap == AUTO:
            out["flex"] = "1"  # its last entry stands at the end of whatever room there is
        elif n.width == "grow":
            out["flex"] = f"0 1 {rem(n.rect.w)}"
            if parent.width == "hug":  # which is as wide as what is in it, whatever that would like to be
                out |= {"flex": "0 1 auto", "inline-size": rem(n.rect.w)}
            if n.kind == "field":
                out["min-inline-size"] = "0"  # a field's own idea of its width must not outgrow its place
        elif n.width == "max":
            _limit(n, out)
        elif n.kind == "image":
            out["flex"] = "none"
        elif n.kind == "block" and n.surface is None and _wider_than_any(n):
            out["min-inline-size"] = rem(n.rect.w)
        elif n.kind == "block" and n.surface is not None and n.children and _is_wordless(n):
            out["flex"] = f"0 1 {rem(n.rect.w)}"  # nothing in it makes it as wide as it is
    elif parent.kind == "grid":
        if abs(n.inset - reach) > 0.05:
            out["margin-block-start"] = rem(n.inset - reach)
        if n.tweak.get("before", 0.0) - lead:
            out["margin-inline-start"] = rem(n.tweak.get("before", 0.0) - lead)
        if n.width in ("max", "hug"):
            _limit(n, out)
    return out, narrow


def _is_entries(n: Node) -> bool:
    """Is a row nothing but a list's entries, on no ground of its own?"""
    return bool(n.attributes.get("list")) and n.surface is None


def _afloat(n: Node, page: Rect) -> dict[str, str]:
    """Where a part is that floats: at the page's nearer side, or as far from its middle, and as far down as it was seen."""
    left, right = n.rect.x - page.x, page.right - n.rect.right
    side, at = "inset-inline-start" if left <= right else "inset-inline-end", rem(min(left, right))
    if min(left, right) > MARGIN:
        off = n.rect.x - page.cx
        end = rem(n.rect.w)
        at = f"clamp(0rem, 50% {'-' if off < 0 else '+'} {rem(abs(off))}, 100% - {end})"
        side = "inset-inline-start"
    down = {"inset-block-start": rem(n.rect.y), side: at}
    return {"position": "absolute", **down, "inline-size": rem(n.rect.w), "block-size": rem(n.rect.h)}


def _wider_than_any(n: Node) -> bool:
    """Does a stack begin with one of its parts and end with another, so that none makes it as wide as it is?"""
    boxes = [c.rect for c in n.children]
    return len(boxes) > 1 and all(b.w < n.rect.w - NARROWER for b in boxes)


def _is_wordless(n: Node) -> bool:
    return all(c.kind == "block" for c in n.walk())


def inside(n: Node, width: float, unbroken: bool) -> tuple[dict[str, str], dict[str, str], dict[str, str]]:
    """Declarations that lay out a container's children: (always, small screens, medium screens).

    `width`: the page's, px. `unbroken`: its words stay on one line where there is room.
    """
    out: dict[str, str] = {}
    narrow: dict[str, str] = {}
    medium: dict[str, str] = {}
    _padding(n, width, out, narrow)
    if n.kind == "block" and any(c.attributes.get("read") for c in n.children):
        out |= {"display": "flex", "flex-direction": "column"}
    elif n.kind == "block" and n.children and n.children[0].gap < 0 and n.padding[0] <= 0:
        out["display"] = "flow-root"  # what reaches above it must not pull it up as well
    if unbroken:
        out["white-space"], medium["white-space"] = "nowrap", "normal"
    if n.kind == "row":
        out["display"] = "flex"
        if not (n.surface and n.tag in ("a", "button", "span")):
            medium["flex-wrap"] = "wrap"
        gaps = [c.gap for c in n.children[1:] if c.gap != AUTO]
        gap = _common(gaps)
        if gaps:
            out["gap"] = f"{rem(min(12.0, gap))} {rem(gap)}" if abs(min(12.0, gap) - gap) > 0.05 else rem(gap)
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
        out["grid-template-columns"] = _tracks(n.columns)
        if n.column_gap > 0.05:
            out["column-gap"] = fluid(n.column_gap, width)
        if n.cross != "stretch":
            out["align-items"] = n.cross
        rail = any(c < 0 and -c <= 110 for c in n.columns)
        flexible = [c for c in n.columns if c > 0]
        if rail and len(n.columns) == 2 and n.column_gap <= BESIDE:
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


def tight_padding(pad: tuple[float, float, float, float]) -> str:
    """Padding (top, right, bottom, left; px) of what hugs its words: sides that hardly differ are one."""
    top, right, bottom, left = pad
    side = (left + right) / 2 if abs(left - right) <= 3 else None
    if abs(top - bottom) <= 2.5 and side is not None and abs(top - bottom) < 0.06:
        return f"{rem(top)} {rem(side)}"
    if side is not None:
        return f"{rem(top)} {rem(side)} {rem(bottom)}"
    return " ".join(rem(v) for v in pad)


def _inset(n: Node, parent: Node) -> str:
    """How far from its parent's edge a part begins: far in it is a share of the room, so that it never leaves it."""
    sides = (
        parent.padding[1] + parent.padding[3] + (sum(parent.surface.border[1::2]) if parent.surface else 0)
    )
    room = parent.rect.w - sides
    if n.kind == "text" or n.inset < max(FAR_IN, 0.3 * room) or parent.width in ("hug", "max"):
        return rem(n.inset)
    return f"{number(100 * n.inset / room, 2)}%"


def _limit(n: Node, out: dict[str, str]) -> None:
    if n.kind == "text" and not n.surface:
        if n.attributes.get("justify"):
            out["max-inline-size"] = rem(round(n.rect.w))
        elif n.attributes.get("measure"):
            out["max-inline-size"] = rem(float(n.attributes["measure"]))
            if n.align == "center" and not n.attributes.get("aside"):
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


def _common(gaps: list[float]) -> float:
    """The gap most children have (within EVEN), else the smallest, never below zero."""
    if not gaps:
        return 0.0
    best = max(gaps, key=lambda g: (sum(abs(g - o) <= EVEN for o in gaps), -g))
    near = [g for g in gaps if abs(g - best) <= EVEN]
    return max(0.0, sum(near) / len(near)) if len(near) * 2 >= len(gaps) else max(0.0, min(gaps))


def _tracks(columns: list[float]) -> str:
    flexible = [c for c in columns if c > 0]
    if len(flexible) == len(columns) and max(columns) - min(columns) <= 1.2:
        return f"repeat({len(columns)}, minmax(0, 1fr))"
    unit = min(flexible) if flexible else 1.0
    return " ".join(rem(-c) if c < 0 else f"minmax(0, {number(c / unit, 4)}fr)" for c in columns)


def _on_picture(n: Node, parent: Node) -> bool:
    """Does a part stand on the picture before it?"""
    at = parent.children.index(n)
    before = parent.children[at - 1] if at else n
    return before.kind == "image" and n.rect.inside(before.rect, ON)


def _along(axis: str, start: float, end: float) -> dict[str, str]:
    """Padding (px) of two opposite sides that differ, or of one of them."""
    if end < 0.05:
        return {f"padding-{axis}-start": rem(start)}
    if start < 0.05:
        return {f"padding-{axis}-end": rem(end)}
    return {f"padding-{axis}": f"{rem(start)} {rem(end)}"}


def _padding(n: Node, width: float, out: dict[str, str], narrow: dict[str, str]) -> None:
    top, right, bottom, left = n.padding
    if (
        n.attributes.get("band")
        and n.rect.w > 0.97 * width
        and abs(left - right) < 1.5
        and left >= GUTTER_MOST
    ):
        content = width - left - right - (sum(n.surface.border[1::2]) if n.surface else 0)
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
    elif max(left, right) > FAR_IN:
        out["padding-block"] = rem(top) if abs(top - bottom) < 0.06 else f"{rem(top)} {rem(bottom)}"
        start, end = (fluid(v, width) if v > FAR_IN else rem(v) for v in (left, right))
        out["padding-inline"] = start if start == end else f"{start} {end}"
    elif max(top, bottom) < 0.05:
        out |= _along("inline", left, right)
    elif max(left, right) < 0.05:
        out |= _along("block", top, bottom)
    else:
        out["padding"] = " ".join(rem(v) for v in sides)
    if max(left, right) > 40:
        narrow["padding-inline"] = GUTTER if n.attributes.get("band") or max(left, right) > 80 else "1.5rem"
