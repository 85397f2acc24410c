"""Reading: a `Picture` to a `Reading`: what is there, measured. No HTML words in here."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from neige.core.beside import beside
from neige.core.errors import PinError
from neige.core.intake import open_picture
from neige.core.model import Cutout, Line, Picture, Pin, Reading, Rect, RotatedLine, TypeStyle
from neige.core.model.geometry import union
from neige.core.reading.charts import find_charts
from neige.core.reading.grid import find_grid
from neige.core.reading.icons import box_columns, tell_dots
from neige.core.reading.illustrations import join_illustrations
from neige.core.reading.logos import find_signs, is_wordmark, join_marks, without_logos
from neige.core.reading.mistaken import is_cross, is_marks, is_slanted, without_glass, without_tick
from neige.core.reading.palette import contrasts, find_palette
from neige.core.reading.pins import apply_pins, choose_assets
from neige.core.reading.screens import find_screens
from neige.core.reading.spacing import find_gaps, panels_of, scale_of_gaps, text_boxes
from neige.core.reading.surfaces import (
    Ground,
    SurfaceScan,
    find_panels,
    find_pictures,
    scan_gradients,
    scan_surfaces,
)
from neige.core.reading.surfaces.pictured import in_picture
from neige.core.reading.surfaces.pieces import join_pieces
from neige.core.reading.text.again import read_again
from neige.core.reading.text.beside import read_beside
from neige.core.reading.text.boxed import lift_boxed
from neige.core.reading.text.bullets import read_bullets
from neige.core.reading.text.detect import Box, detect_lines
from neige.core.reading.text.inlaid import read_inlaid
from neige.core.reading.text.lines import drop_repeats, read_lines
from neige.core.reading.text.on_gradient import even_gradients
from neige.core.reading.text.part import part_lines
from neige.core.reading.text.prompts import read_prompts
from neige.core.reading.text.raw import RawLine
from neige.core.reading.text.recognise import Recogniser, recognise
from neige.core.reading.text.rotated import read_rotated
from neige.core.reading.type.company import signs_of_code
from neige.core.reading.type.lost import find_lost
from neige.core.reading.type.missed import find_missed
from neige.core.reading.type.naming import name_styles, scale_of
from neige.core.reading.type.styles import set_type
from neige.core.reading.type.underline import without_underlines

__all__ = ["Scan", "read", "scan"]

Progress = Callable[[str, str], None]
SMALL_PHOTO = (
    0.4  # of the page's width: words in a smaller photo belong to it unless they are plainly set type
)
ICON = 32.0  # px: a letter or two within a mark no larger are its shapes
DRAWN_WIDE = 0.4  # of its ink's width: narrower, a line was drawn one letter on the other
SURE, SAYS = 0.99, 8  # confidence and letters of two lines on a photo that speak for all on it,
FAIRLY_SET = 0.8  # and the correlation of one of them
READABLE = 0.9  # confidence of a line on a photo that others are set on
EDGE, CUT_WORDS = 2.0, 4  # px from the picture's edge; marks there that are a line of words
SET_TYPE = 0.86  # correlation of a line with its drawing from which it is plainly set type


@dataclass(frozen=True)
class Scan:
    """What costs most and no pin changes: the recognised words (device px), and the scan of the surfaces, which may still be
    under way. Kept to read again. `pixels`: the picture, with the text on gradients on flat ground. `marks`: what was read in what
    looked like icons, by its box; each reading adds to it."""

    raw: list[RawLine]
    unread: list[Box]
    rotated: tuple[RotatedLine, ...]
    surfaces: Future[SurfaceScan]
    pixels: NDArray[np.uint8]
    marks: dict[Box, list[RawLine]] = field(default_factory=dict)


def scan(
    picture: Picture, *, recogniser: Recogniser = recognise, progress: Progress = lambda stage, what: None
) -> Scan:
    """The part of a reading that only the pixels decide."""
    under_way = beside(scan_gradients, picture)  # networks and type here, array work there
    at_1x = picture.pixels
    if picture.scale > 1:
        size = (round(picture.width), round(picture.height))
        at_1x = np.ascontiguousarray(cv2.resize(picture.pixels, size, interpolation=cv2.INTER_AREA))
    boxes: list[Box] = [tuple(v * picture.scale for v in b) for b in detect_lines(at_1x)]  # type: ignore[misc]
    progress("text", f"{len(boxes)} places with text")
    turned, boxes = read_rotated(picture.pixels, boxes, recogniser)
    gradients = under_way.result()
    surfaces = beside(scan_surfaces, picture, gradients)
    pixels = even_gradients(boxes, picture.pixels, gradients.working, gradients.ramps)
    raw, unread = read_lines(pixels, boxes, recogniser, picture.noise)
    raw = drop_repeats(read_beside(raw, pixels, recogniser, picture.noise))
    raw = read_bullets(raw, pixels, picture.scale)
    raw = read_prompts(raw, pixels, picture.scale)
    progress("text", f"{sum(len(r.words) for r in raw)} words")
    rotated = tuple(
        RotatedLine(text, _css(box, picture.scale), angle, round(sure, 3))
        for text, box, angle, sure in turned
    )
    return Scan(raw, unread, rotated, surfaces, pixels)


def _css(b: Box, scale: int) -> Rect:
    return Rect(b[0] / scale, b[1] / scale, (b[2] - b[0]) / scale, (b[3] - b[1]) / scale)


def read(
    picture: Picture,
    *,
    pins: Sequence[Pin] = (),
    scanned: Scan | None = None,
    recogniser: Recogniser = recognise,
    close_ups: Mapping[str, bytes] | None = None,
    progress: Progress = lambda stage, what: None,
) -> Reading:
    """Measure everything in a picture.

    `pins` outrank what is inferred; `close_ups` are the pictures that pins of kind "again" name; `scanned` is an earlier `scan` of the same picture; `recogniser` reads crops of text
    lines; `progress(stage, what)` is told what was found. All lengths of the result are CSS px at the picture's scale,
    origin top left.
    """
    found = scanned or scan(picture, recogniser=recogniser, progress=progress)

    def again(pin: Pin, place: Box, lines: list[RawLine]) -> list[RawLine]:
        close_up = None
        if pin.name:
            content = (close_ups or {}).get(pin.name)
            if content is None:
                raise PinError(
                    f"The close-up “{pin.name[:40]}” is not there any more: take the correction back, or give it again."
                )
            close_up = open_picture(content, "close-up", scale=1).pixels
        return read_again(lines, found.pixels, place, close_up, recogniser, picture.noise, picture.scale)

    everything = found.surfaces.result()
    raw = apply_pins(found.raw, pins, picture.scale, again)
    raw = read_inlaid(raw, everything.regions, picture.pixels, picture.scale, recogniser, picture.noise)
    raw = lift_boxed(raw, everything.regions, picture.pixels, picture.scale)
    lines, styles = set_type(raw, found.pixels, picture.scale, pins)
    pinned = [p.rect for p in pins if p.kind == "retype"]
    set_lines = lines = [
        n for n in lines if n.box.w >= DRAWN_WIDE * n.ink.w or any(n.ink.inside(r, 0.6) for r in pinned)
    ]
    progress("type", f"{len(styles)} text styles")
    crosses = [n.ink for n in lines if is_cross(n, styles[n.style], lines, styles)]
    lines = [
        without_glass(without_tick(n, styles), styles)
        for n in lines
        if not (
            is_wordmark(n, lines, styles, found.pixels, picture.scale)
            or is_marks(n)
            or is_slanted(n, lines)
            or n.ink in crosses
        )
        or any(n.ink.inside(r, 0.6) for r in pinned)
    ]
    panels = find_panels(picture, [w.ink for line in lines for w in line.words], everything)
    told = [(p.rect, p.to) for p in pins if p.kind == "region"]
    charts = [
        c for c in find_charts(lines, panels.surfaces, panels.rules) if not any(r.meet(c) for r, _ in told)
    ]
    screens = find_screens(lines, styles, panels.surfaces, picture.width)
    signs = [s for s in find_signs(lines, styles, panels.surfaces) if not any(r.meet(s) for r in pinned)]
    drawn = [*charts, *(s for s in [*screens, *signs] if not any(r.meet(s) for r, _ in told))]
    known = [*((c, "image") for c in drawn), *told]
    shown = [n for n in lines if not any(n.box.inside(r, 0.6) for r, kind in known if kind != "surface")]
    shown = without_logos(shown, styles, panels.surfaces)
    ground = find_pictures(picture, panels, [w.ink for line in shown for w in line.words], everything, known)
    shown = _keep_set_type(shown, styles, ground, picture)
    marks_left, shown, styles = find_missed(
        ground.cutouts,
        picture.pixels,
        picture.scale,
        shown,
        styles,
        recogniser,
        picture.noise,
        ground.surfaces,
        [*signs, *crosses, *(p.rect for p in pins if p.kind in ("not-text", "region"))],
        found.marks,
    )
    marks_left, shown, styles = find_lost(
        marks_left, ground.surfaces, picture.pixels, picture.scale, shown, styles
    )
    shown = signs_of_code(shown, styles)
    unread = tuple(_css(b, picture.scale) for b in found.unread) + ground.lost
    marks_left, cut_off = _without_cut_lines(marks_left, styles, picture.height, unread)
    panels_left, marks_left = join_marks(shown, ground.surfaces, marks_left)
    surfaces, drawings = join_illustrations(panels_left, marks_left, shown, picture.width)
    rules = [r for r in ground.rules if not in_picture(r.rect, surfaces, drawings)]
    rules = without_underlines(rules, shown, styles)
    ground = replace(ground, surfaces=surfaces, rules=tuple(rules), cutouts=drawings)
    styles = name_styles(styles, shown)
    pieces = join_pieces(ground.cutouts, [w.ink for n in shown for w in n.words], [r for r, _ in told])
    boxed = box_columns(
        tell_dots(pieces, picture.pixels, picture.scale), shown, styles, picture.pixels, picture.scale
    )
    cutouts = choose_assets([_with_words(c, set_lines, shown) for c in boxed], pins)
    whole = [p.rect for p in pins if p.kind in ("retype", "merge")]
    lines = part_lines(shown, styles, ground.surfaces, whole)
    panels_in = panels_of(ground.surfaces)
    marks = [*text_boxes(lines, styles), *(s.rect for s in ground.surfaces), *(c.rect for c in cutouts)]
    gaps = find_gaps(marks, panels_in)
    grid = find_grid(picture.width, ground.surfaces, [c.rect for c in cutouts], lines, pins)
    progress("surfaces", f"{len(ground.surfaces)} surfaces, {len(cutouts)} images and icons")
    return Reading(
        picture.width, picture.height, picture.scale, ground.background, ground.surfaces, ground.rules, cutouts, tuple(lines), tuple(styles),
        tuple(find_palette(picture, ground.background, ground.surfaces, styles)), round(ground.unexplained, 5), unread + cut_off,
        found.rotated, scale_of(styles, lines), grid, tuple(gaps), scale_of_gaps(gaps), tuple(contrasts(lines, styles)),
    )  # fmt: skip


def _without_cut_lines(
    marks: list[Cutout], styles: Sequence[TypeStyle], height: float, unread: Sequence[Rect] = ()
) -> tuple[list[Cutout], tuple[Rect, ...]]:
    """(the marks without what is left of the words of a line that the picture's edge cuts through, the place of that line).
    `unread`: places with text that could not be read."""
    high = max((s.size for s in styles), default=0.0)
    left, cut = list(marks), list[Rect]()
    low = [c for c in marks if c.kind == "icon" and c.rect.h < high and not c.backdrop]
    for words in (
        [c for c in low if c.rect.y <= EDGE],
        [c for c in low if c.rect.bottom >= height - EDGE],
    ):
        beside = any(abs(r.cy - c.rect.cy) < c.rect.h for r in unread for c in words)
        if words and (beside or len(words) >= CUT_WORDS):
            cut.append(union(c.rect for c in words))
            left = [c for c in left if c not in words]
    return left, tuple(cut)


def _with_words(c: Cutout, lines: Sequence[Line], shown: Sequence[Line]) -> Cutout:
    """A cutout with the words that are part of it; it is a backdrop if set text lies on it."""
    drawn = {id(n) for n in shown}
    own = [n for n in lines if id(n) not in drawn and n.ink.inside(c.rect, 0.6)]
    text = " ".join(n.text for n in sorted(own, key=lambda n: (round(n.baseline / 8), n.box.x)))
    over = c.backdrop and any(n.box.inside(c.rect, 0.7) for n in shown)
    return replace(c, backdrop=over, text=text)


def _keep_set_type(
    lines: list[Line], styles: list[TypeStyle], ground: Ground, picture: Picture
) -> list[Line]:
    """Leave lettering that is part of a small photo to the photo, and a letter or two in an icon to the icon. Where one line is
    plainly set on a photo, or two that say something could be read without a doubt, so are the others that could be read."""
    icons = [c.rect for c in ground.cutouts if c.kind == "icon" and max(c.rect.w, c.rect.h) <= ICON]
    lines = [n for n in lines if len(n.text) > 2 or not any(n.ink.inside(r, 0.95) for r in icons)]
    small = [c.rect for c in ground.cutouts if c.kind == "image" and c.rect.w < SMALL_PHOTO * picture.width]
    plain = {id(line) for line in lines if styles[line.style].fit >= SET_TYPE}

    def captioned(photo: Rect) -> bool:
        on = [n for n in lines if n.box.inside(photo, 0.8)]
        sure = [n for n in on if n.confidence >= SURE and len(n.text) >= SAYS]
        fits = any(styles[n.style].fit >= FAIRLY_SET for n in sure)
        return any(id(n) in plain for n in on) or (len(sure) >= 2 and fits)

    def set_on(line: Line, photo: Rect) -> bool:
        return captioned(photo) and line.confidence >= READABLE

    return [
        line
        for line in lines
        if id(line) in plain or all(set_on(line, r) for r in small if line.box.inside(r, 0.8))
    ]
