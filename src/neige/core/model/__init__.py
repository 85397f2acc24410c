"""What one room hands to the next: frozen dataclasses in CSS px (origin at the picture's top left), and their JSON."""

from neige.core.model.geometry import Rect
from neige.core.model.outline import Node, Outline, Part
from neige.core.model.page import Asset, Page, Written
from neige.core.model.picture import Picture
from neige.core.model.pin import Pin
from neige.core.model.proof import Drawing, DrawnBox, DrawnNode, DrawnWord, Finding, Proof, Round, Sheet
from neige.core.model.reading import (
    ColumnGrid,
    Contrast,
    Cutout,
    Fill,
    Gap,
    Line,
    PaletteEntry,
    Reading,
    RotatedLine,
    Rule,
    Shadow,
    SpacingScale,
    Surface,
    TypeScale,
    TypeStyle,
    Underline,
    Word,
)

__all__ = [
    "Asset",
    "ColumnGrid",
    "Contrast",
    "Cutout",
    "Drawing",
    "DrawnBox",
    "DrawnNode",
    "DrawnWord",
    "Fill",
    "Finding",
    "Gap",
    "Line",
    "Node",
    "Outline",
    "Page",
    "PaletteEntry",
    "Part",
    "Picture",
    "Pin",
    "Proof",
    "Reading",
    "Rect",
    "RotatedLine",
    "Round",
    "Rule",
    "Shadow",
    "Sheet",
    "SpacingScale",
    "Surface",
    "TypeScale",
    "TypeStyle",
    "Underline",
    "Word",
    "Written",
]
