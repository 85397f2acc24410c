"""What all layout goes by: edges that are one, the gap that is all that is free, and where text stands in its room."""

from __future__ import annotations

from neige.core.model import Node, Reading
from neige.core.outline.paragraphs import wrap_bounds

AUTO = -10_000.0  # a gap: all that is free
NEAR = 2.5  # px: two edges this close are meant to be one
FAR_SIDE, NEAR_SIDE = 0.4, 0.1  # of the room before what stands at the end, and of that the room after it
OFF_MIDDLE = 8.0  # px from which text about a middle has one of its own
UNSURE_ROWS = 0.75  # px by which the height of all of them together may be wrong
EVEN_ROWS = 1.05  # px by which the heights of rows may differ that are as high as each other
SPARE = 2.0  # px that a column's longest line leaves free at least


def place_text(
    child: Node, reading: Reading, x0: float, x1: float, left: float, centred: bool, alone: bool
) -> None:
    """Text stands at the leading edge, the middle or the trailing edge; wrapped text gets a measure where the box has another."""
    right = x1 - child.rect.right
    if child.align == "center" or (
        child.align == "" and centred and left > 6 and (left > 0.02 * (x1 - x0) or alone)
    ):
        child.align = "center"
    elif child.align == "end" or (child.align == "" and abs(right) <= NEAR and left > 24):
        child.align = "end"
    elif child.align == "" and left > FAR_SIDE * (x1 - x0) and 0 < right < NEAR_SIDE * left:
        child.align, child.attributes["end"] = "end", f"{-right:.2f}"
    else:
        child.align = "start"
    child.width, child.inset = "fill", 0.0
    if child.align == "start" and left > 1.0:
        child.inset = left
    if len(child.lines) > 1 and child.tag != "pre":
        low, high = wrap_bounds(reading, child)
        room = x1 - x0 - child.inset
        if not low + 0.3 <= room < high - 0.3:
            child.width = "max"
            measure = min((low + high) / 2, low + 24.0)
            child.attributes["measure"] = f"{measure:.2f}"
            if child.align == "center" and abs(child.rect.cx - (x0 + x1) / 2) > OFF_MIDDLE:
                measure = max(low + 0.3, min(measure, child.rect.w + 2 * left))
                child.attributes["measure"] = f"{measure:.2f}"
                aside = max(0.0, left - (measure - child.rect.w) / 2)
                child.attributes["aside"] = f"{aside:.2f}"  # about a middle that is not the box's
