"""The routes about what was read in a build's picture: the reading, its specimens, cutouts and coverage."""

from __future__ import annotations

import io
import json
from functools import lru_cache
from uuid import UUID

import numpy as np
from flask import Response
from PIL import Image
from skimage.metrics import structural_similarity
from sqlalchemy.orm import Session
from werkzeug.exceptions import Conflict, NotFound

from neige.core.intake import open_picture
from neige.core.model import Picture, Reading
from neige.core.model.codec import from_json, to_json
from neige.core.model.pin import ROLES
from neige.core.model.reading import VERSION as READING_VERSION
from neige.core.reading.coverage import paint_back, unexplained
from neige.core.reading.overlay import png
from neige.core.reading.type.specimen import draw_specimen, specimen_rect
from neige.core.writer.cutouts import Format, formats
from neige.store.database import get_blob
from neige.web.replies import Reply, as_json, blueprint, database, find_build
from neige.web.schemas import (
    Box,
    BuildPath,
    CoverageOut,
    CutoutFilePath,
    CutoutPath,
    FormatOut,
    Formats,
    LinePath,
    OutlineOut,
    QualityQuery,
    ReadingOut,
)

FOREVER = {"Cache-Control": "private, max-age=31536000, immutable"}  # a finished build never changes
SIGNAL = (184, 57, 26)  # RGB of the map of what is unexplained

readings = blueprint("readings")


def _reading(s: Session, build_id: UUID) -> Reading:
    build = find_build(s, build_id)
    if build.reading is None:
        raise NotFound("This build has not read its picture yet.")
    stored = json.loads(get_blob(s, build.reading) or b"{}")
    if stored.get("version") != READING_VERSION:
        raise Conflict(
            "This page was built by an earlier version of Neige. Build it again to see what was read."
        )
    found: Reading = from_json(Reading, stored)
    return found


@readings.get("/builds/<uuid:build_id>/reading", responses={200: ReadingOut})
def get_reading(path: BuildPath) -> Reply:
    with database().session() as s:
        reading = _reading(s, path.build_id)
    body = to_json(reading)
    for line, out in zip(reading.lines, body["lines"]):
        out["specimen"] = to_json(specimen_rect(line))
    for style in body["styles"]:
        style["runners"] = [{"family": family, "fit": fit} for family, fit in style["runners"]]
    return as_json(ReadingOut.model_validate(body))


@readings.get("/builds/<uuid:build_id>/outline", responses={200: OutlineOut})
def get_outline(path: BuildPath) -> Reply:
    """The page's parts, as seen, written and drawn, and what the check of its outline found."""
    with database().session() as s:
        build = find_build(s, path.build_id)
        if build.outline is None:
            raise NotFound(
                "This page has no outline: it was built by an earlier version of Neige. Build it again."
            )
        stored = json.loads(get_blob(s, build.outline) or b"{}")
    return as_json(OutlineOut.model_validate({**stored, "roles": ROLES}))


@readings.get("/builds/<uuid:build_id>/lines/<int:line>/specimen")
def get_specimen(path: LinePath) -> Reply:
    """The line drawn in its fitted type, on its ground (PNG)."""
    with database().session() as s:
        reading = _reading(s, path.build_id)
    if not 0 <= path.line < len(reading.lines):
        raise NotFound("There is no such line.")
    drawn = draw_specimen(reading.lines[path.line], reading.styles, reading.scale)
    return Response(
        png(drawn), mimetype="image/png", headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )


@lru_cache(maxsize=1)
def _opened(build_id: UUID) -> tuple[Reading, Picture]:
    """A build's reading and the picture it was made of. Both are large: only the last ones are kept."""
    with database().session() as s:
        reading = _reading(s, build_id)
        row = find_build(s, build_id).picture
        content, name, scale, trim = get_blob(s, row.original) or b"", row.name, row.scale, tuple(row.trim)
    return reading, open_picture(content, name, scale=scale, trim=trim)


@lru_cache(maxsize=4)
def _coverage(build_id: UUID) -> tuple[bytes, CoverageOut]:
    reading, picture = _opened(build_id)
    mask, share, places = unexplained(reading, picture)
    rgba = np.zeros((*mask.shape, 4), np.uint8)
    rgba[mask] = (*SIGNAL, 255)
    out = io.BytesIO()
    Image.fromarray(rgba).save(out, "PNG", compress_level=4)
    grey = [p[..., 1] for p in (paint_back(reading, picture), picture.pixels)]
    ssim = float(structural_similarity(*grey)) if min(mask.shape) >= 7 else 1.0
    boxes = [Box(x=r.x, y=r.y, w=r.w, h=r.h) for r in places[:100]]
    return out.getvalue(), CoverageOut(unexplained=share, ssim=ssim, places=boxes)


@readings.get("/builds/<uuid:build_id>/coverage", responses={200: CoverageOut})
def get_coverage(path: BuildPath) -> Reply:
    return as_json(_coverage(path.build_id)[1])


@readings.get("/builds/<uuid:build_id>/unexplained")
def unexplained_image(path: BuildPath) -> Reply:
    """The map of what the reading does not explain: a PNG the size of the picture, transparent where all is well."""
    return Response(_coverage(path.build_id)[0], mimetype="image/png", headers=FOREVER)


@lru_cache(maxsize=64)
def _formats(build_id: UUID, cutout: int, quality: int) -> list[Format]:
    reading, picture = _opened(build_id)
    if not 0 <= cutout < len(reading.cutouts):
        raise NotFound("There is no such picture on this page.")
    return formats(picture, reading, reading.cutouts[cutout], quality)


@readings.get("/builds/<uuid:build_id>/cutouts/<int:cutout>/formats", responses={200: Formats})
def list_formats(path: CutoutPath, query: QualityQuery) -> Reply:
    """One of the page's pictures in every format that can hold it, with sizes; the smallest good one first."""
    found = _formats(path.build_id, path.cutout, query.quality)
    return as_json(
        Formats(
            formats=[
                FormatOut(name=f.name, quality=f.quality, bytes=len(f.content), error=f.error, good=f.good)
                for f in found
            ]
        )
    )


@readings.get("/builds/<uuid:build_id>/cutouts/<int:cutout>/as/<string:format>")
def cutout_file(path: CutoutFilePath, query: QualityQuery) -> Reply:
    """One of the page's pictures as a file of a format."""
    found = next(
        (f for f in _formats(path.build_id, path.cutout, query.quality) if f.name == path.format), None
    )
    if found is None:
        raise NotFound(f"This picture cannot be stored as {path.format}.")
    kind = "image/svg+xml" if found.name == "svg" else f"image/{found.name}"
    return Response(
        found.content,
        mimetype=kind,
        headers={**FOREVER, "Content-Security-Policy": "sandbox; default-src 'none'"},
    )
