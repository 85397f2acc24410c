"""The routes about builds: how one goes, the page it wrote, its pictures, and the archive that is handed over."""

from __future__ import annotations

import io
import mimetypes
import zipfile
from collections.abc import Callable

from flask import Response, request
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.exceptions import NotFound

from neige.jobs.looks import difference_of, thumbnail_of
from neige.jobs.queue import cancel_build, notify
from neige.store.database import get_blob
from neige.store.models import Blob, Build, Picture, now
from neige.web.replies import Reply, as_json, blueprint, build_out, database, find_build
from neige.web.schemas import BuildOut, BuildPath, FileOut, FilePath, PicturePath, Source

# A preview is somebody's page: no scripts, no origin of its own, nothing from elsewhere.
PREVIEW_POLICY = (
    "sandbox; default-src 'none'; style-src 'self'; img-src 'self'; font-src 'self'; frame-ancestors 'self'"
)

builds = blueprint("builds")


@builds.post("/builds/<uuid:build_id>/cancel", responses={200: BuildOut})
def cancel(path: BuildPath) -> Reply:
    with database().session() as s:
        build = find_build(s, path.build_id)
        if build.state in ("queued", "running"):
            cancel_build(s, build)
            build.state, build.finished_at = "cancelled", now()
            notify(s, build.id, ended=True)
        return as_json(build_out(s, build))


@builds.get("/builds/<uuid:build_id>", responses={200: BuildOut})
def get_build(path: BuildPath) -> Reply:
    with database().session() as s:
        return as_json(build_out(s, find_build(s, path.build_id)))


@builds.get("/builds/<uuid:build_id>/source", responses={200: Source})
def get_source(path: BuildPath) -> Reply:
    with database().session() as s:
        files = find_build(s, path.build_id).files
        if "index.html" not in files:
            raise NotFound("This build has not written a page yet.")
        html, css = ((get_blob(s, files[n]) or b"").decode() for n in ("index.html", "styles.css"))
        found = s.execute(select(Blob.sha256, Blob.size).where(Blob.sha256.in_(files.values())))
        sizes = {sha: size for sha, size in found.all()}  # noqa: C416 (rows are not quite tuples)
        return as_json(
            Source(
                html=html, css=css, files=[FileOut(path=p, bytes=sizes[h]) for p, h in sorted(files.items())]
            )
        )


def _image(s: Session, sha256: str | None) -> Response:
    """A picture: a blob never changes, so a browser keeps it."""
    if sha256 is None:
        raise NotFound("This picture has not been made yet.")
    headers = {"ETag": f'"{sha256}"', "Cache-Control": "private, max-age=31536000, immutable"}
    if request.headers.get("If-None-Match") == headers["ETag"]:
        return Response(status=304, headers=headers)
    return Response(get_blob(s, sha256), mimetype="image/png", headers=headers)


def _image_of(path: BuildPath, of: Callable[[Session, Build], str | None]) -> Response:
    """One of a build's pictures."""
    with database().session() as s:
        return _image(s, of(s, find_build(s, path.build_id)))


@builds.get("/pictures/<uuid:picture_id>")
def seen_image(path: PicturePath) -> Reply:
    """A picture as it was brought in; the builds made from it share it."""
    with database().session() as s:
        picture = s.get(Picture, path.picture_id)
        return _image(s, picture.preview if picture else None)


@builds.get("/builds/<uuid:build_id>/picture")
def picture_image(path: BuildPath) -> Reply:
    return _image_of(path, lambda s, build: build.picture.preview)


@builds.get("/builds/<uuid:build_id>/page")
def page_image(path: BuildPath) -> Reply:
    return _image_of(path, lambda s, build: build.drawn)


@builds.get("/builds/<uuid:build_id>/difference")
def difference_image(path: BuildPath) -> Reply:
    return _image_of(path, difference_of)


@builds.get("/builds/<uuid:build_id>/thumbnail")
def thumbnail_image(path: BuildPath) -> Reply:
    return _image_of(path, thumbnail_of)


@builds.get("/builds/<uuid:build_id>/files/<path:path>")
def page_file(path: FilePath) -> Reply:
    """A file of the written page, under a policy that lets it do nothing but be looked at."""
    with database().session() as s:
        sha = find_build(s, path.build_id).files.get(path.path)
        content = get_blob(s, sha) if sha else None
    if content is None:
        raise NotFound(f"{path.path} is not a file of this page.")
    kind = (
        {"woff2": "font/woff2", "webp": "image/webp"}.get(path.path.rsplit(".", 1)[-1])
        or mimetypes.guess_type(path.path)[0]
        or "application/octet-stream"
    )
    return Response(
        content,
        mimetype=kind,
        headers={
            "Content-Security-Policy": PREVIEW_POLICY,
            "Access-Control-Allow-Origin": "*",
            "X-Content-Type-Options": "nosniff",
        },
    )


@builds.get("/builds/<uuid:build_id>/archive.zip")
def archive(path: BuildPath) -> Reply:
    """The page with its assets and fonts; opens from disk with no network."""
    with database().session() as s:
        build = find_build(s, path.build_id)
        if not build.files:
            raise NotFound("This build has not written a page yet.")
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
            for name, sha in sorted(build.files.items()):
                entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))  # no clock: equal pages are equal files
                entry.compress_type = zipfile.ZIP_DEFLATED
                z.writestr(entry, get_blob(s, sha) or b"")
        file = "".join(c if c.isalnum() else "-" for c in build.project.name.lower()).strip("-") or "page"
    return Response(
        out.getvalue(),
        mimetype="application/zip",
        headers={
            "Content-Disposition": f'attachment; filename="{file}.zip"'.encode("ascii", "ignore").decode()
        },
    )
