"""What one room hands to the next: frozen dataclasses in CSS px (origin at the picture's top left), and their JSON."""

from neige.core.model.geometry import Rect
from neige.core.model.outline import Node, Outline
from neige.core.model.page import Asset, Page
from neige.core.model.picture import Picture
from neige.core.model.pin import Pin
from neige.core.model.proof import Drawing, DrawnNode, DrawnWord, Finding, Proof, Round
from neige.core.model.reading import (
    Cutout,
    Fill,
    Line,
    PaletteEntry,
    Reading,
    RotatedLine,
    Rule,
    Shadow,
    Surface,
    TypeScale,
    TypeStyle,
    Word,
)

__all__ = [
    "Asset",
    "Cutout",
    "Drawing",
    "DrawnNode",
    "DrawnWord",
    "Fill",
    "Finding",
    "Line",
    "Node",
    "Outline",
    "Page",
    "PaletteEntry",
    "Picture",
    "Pin",
    "Proof",
    "Reading",
    "Rect",
    "RotatedLine",
    "Round",
    "Rule",
    "Shadow",
    "Surface",
    "TypeScale",
    "TypeStyle",
    "Word",
]
