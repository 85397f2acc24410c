"""The catalogue of open families that type is fitted against: faces, their instances at usual weights, shaping and drawing.

Lengths are in em unless a name says otherwise. The folder `neige/fonts` is made by tools/build_catalogue.py.
"""

from __future__ import annotations

import json
import threading
from ctypes import byref, string_at
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib.resources import files
from math import floor

import freetype
import numpy as np
import uharfbuzz as hb
from numpy.typing import NDArray

from neige.core.model import TypeStyle

AVERAGE = (0.55, 0.03, 0.52, 0.0, 0.7)  # em: stands in for a character that a face lacks


@dataclass(frozen=True, slots=True)
class Face:
    """One font file. `weight_min`, `weight_max` span a variable face; equal for a static one."""

    family: str
    category: str
    file: str
    weight_min: float
    weight_max: float
    variable: bool
    italic: bool
    licence: str
    licence_file: str
    system: bool
    ascent: float
    descent: float
    line_gap: float
    x_height: float
    cap_height: float


@dataclass(frozen=True, slots=True)
class Instance:
    """A face at one weight; `row` is its place in the metrics table."""

    face: Face
    weight: int
    row: int


@dataclass(frozen=True)
class Catalogue:
    """`table` (instances, characters, 5): advance, xmin, xmax, ymin, ymax in em; AVERAGE where a face lacks the character."""

    instances: tuple[Instance, ...]
    table: NDArray[np.float32]
    places: dict[str, int]
    families: tuple[str, ...]
    family_of: NDArray[np.int32]


@cache
def catalogue() -> Catalogue:
    folder = files("neige").joinpath("fonts")
    faces = [Face(**f) for f in json.loads(folder.joinpath("catalogue.json").read_text("utf-8"))["faces"]]
    with folder.joinpath("metrics.npz").open("rb") as stream:
        stored = np.load(stream)
        table, index, characters = stored["table"], stored["index"], stored["characters"]
    instances = tuple(Instance(faces[int(n)], int(w), i) for i, (n, w) in enumerate(index))
    table = np.where(np.isnan(table), np.array(AVERAGE, np.float32), table)
    families = tuple(sorted({f.family for f in faces}))
    family_of = np.array([families.index(i.face.family) for i in instances], np.int32)
    return Catalogue(instances, table, {str(c): i for i, c in enumerate(characters)}, families, family_of)


def font_file(name: str) -> bytes:
    return files("neige").joinpath("fonts", name).read_bytes()


@lru_cache(maxsize=64)
def _blob(file: str) -> hb.Face:
    return hb.Face(hb.Blob(font_file(file)))


@lru_cache(maxsize=400)
def _shaper(row: int) -> tuple[hb.Font, int]:
    instance = catalogue().instances[row]
    face = _blob(instance.face.file)
    font = hb.Font(face)
    if instance.face.variable:
        font.set_variations({"wght": instance.weight})
    return font, face.upem


@dataclass(frozen=True, slots=True)
class Shaped:
    """A shaped text: glyph ids, the text index each belongs to, pen positions (n,) and the total advance, in em."""

    glyphs: tuple[int, ...]
    clusters: tuple[int, ...]
    x: tuple[float, ...]
    advance: float


@lru_cache(maxsize=20_000)
def shape(row: int, text: str, tracked: bool = False) -> Shaped:
    """Shape with kerning as a browser does (and, as browsers do, without ligatures where letters are tracked)."""
    font, upem = _shaper(row)
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(font, buffer, {"liga": False, "clig": False} if tracked else {})
    pen, xs = 0, []
    for position in buffer.glyph_positions:
        xs.append((pen + position.x_offset) / upem)
        pen += position.x_advance
    return Shaped(
        tuple(i.codepoint for i in buffer.glyph_infos),
        tuple(i.cluster for i in buffer.glyph_infos),
        tuple(xs),
        pen / upem,
    )


@cache  # all of them, 21 MB: one that was let go and opened again would not have the weight and size that `_current` tells
def _drawer(file: str) -> freetype.Face:
    import io

    return freetype.Face(io.BytesIO(font_file(file)))


_current: dict[str, tuple[int, int]] = {}  # the weight and size that a file's drawer has
_drawing = threading.Lock()  # a FreeType face has one size, transform and weight at a time
_UPRIGHT = freetype.Matrix(0x10000, 0, 0, 0x10000)
_QUARTERS = tuple(freetype.Vector(q * 16, 0) for q in range(4))


@lru_cache(maxsize=40_000)
def _glyph(
    row: int, size64: int, glyph: int, quarter: int, fitted: bool
) -> tuple[NDArray[np.uint8], int, int]:
    """Coverage of one glyph at `size64` / 64 px, moved right by `quarter` quarter px: (array, left, top) as FreeType says.

    The binding's wrappers cost more than FreeType's work, so its own structures are read.
    """
    with _drawing:
        instance = catalogue().instances[row]
        file = instance.face.file
        face = _drawer(file)
        weight, size = _current.get(file, (0, 0))
        if instance.face.variable and weight != instance.weight:
            axes = face.get_variation_info().axes
            face.set_var_design_coords([instance.weight if a.tag == "wght" else a.default for a in axes])
            size = 0
        if size != size64:
            face.set_char_size(size64)
        _current[file] = instance.weight, size64
        raw = face._FT_Face
        freetype.FT_Set_Transform(raw, byref(_UPRIGHT), byref(_QUARTERS[quarter]))
        how = freetype.FT_LOAD_TARGET_LIGHT if fitted else freetype.FT_LOAD_NO_HINTING
        error = freetype.FT_Load_Glyph(raw, glyph, how | freetype.FT_LOAD_NO_BITMAP | freetype.FT_LOAD_RENDER)
        if error:
            raise freetype.FT_Exception(error)
        slot = raw.contents.glyph.contents
        bitmap = slot.bitmap
        rows, width, pitch = bitmap.rows, bitmap.width, bitmap.pitch
        if not rows or not width:
            return np.zeros((0, 0), np.uint8), slot.bitmap_left, slot.bitmap_top
        content = string_at(bitmap.buffer, rows * pitch)
        array = np.frombuffer(content, np.uint8).reshape(rows, pitch)[:, :width]
        return array, slot.bitmap_left, slot.bitmap_top


def draw(
    row: int,
    text: str,
    size_dev: float,
    tracking_dev: float,
    x: float,
    baseline: float,
    shape_hw: tuple[int, int],
    fitted: bool = False,
) -> NDArray[np.float32]:
    """Coverage (h, w) in 0..1 of `text` drawn at `size_dev` px with its pen starting at `x` on row `baseline`.

    Horizontal positions are rounded to a quarter px, the baseline to a whole px, as Chromium does. `fitted`: heights are
    fitted to whole px (FreeType's light hinting), as Chromium does at 1x: its own drawing of a line correlates 0.998 with
    this one at every size, where one that is not fitted drops to 0.9 at sizes whose x-height lies between two px.
    """
    canvas = np.zeros(shape_hw, np.uint8)
    draw_onto(canvas, row, text, size_dev, tracking_dev, x, round(baseline), fitted)
    return coverage(canvas)


def coverage(canvas: NDArray[np.uint8]) -> NDArray[np.float32]:
    """A canvas of glyphs in 0..1."""
    return canvas.astype(np.float32) / np.float32(255)


def draw_onto(
    canvas: NDArray[np.uint8], row: int, text: str, size_dev: float, tracking_dev: float, x: float, base: int,
    fitted: bool = False,
) -> None:  # fmt: skip
    """Add `text` to a canvas (h, w), as `draw` says: what costs most of deciding on type, so bytes until all is drawn."""
    height, width = canvas.shape
    shaped = shape(row, text, abs(tracking_dev) > 0.01)
    size64 = max(64, round(size_dev * 64))
    for glyph, cluster, pen in zip(shaped.glyphs, shaped.clusters, shaped.x):
        quarters = floor((x + pen * size_dev + cluster * tracking_dev) * 4 + 0.5)
        array, left, top = _glyph(row, size64, glyph, quarters & 3, fitted)
        h, w = array.shape
        y0, x0 = base - top, (quarters >> 2) + left
        y1, x1 = y0 + h, x0 + w
        if y0 < 0 or x0 < 0 or y1 > height or x1 > width:
            a, b, c, d = max(0, y0), max(0, x0), min(height, y1), min(width, x1)
            if c <= a or d <= b:
                continue
            array, y0, x0, y1, x1 = array[a - y0 : c - y0, b - x0 : d - x0], a, b, c, d
        place = canvas[y0:y1, x0:x1]
        np.maximum(place, array, out=place)


def row_of(style: TypeStyle) -> int:
    """The catalogue instance that a style is set in."""
    return next(
        i.row for i in catalogue().instances if i.face.file == style.face and i.weight == style.weight
    )
