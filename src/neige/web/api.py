"""The routes under /api."""

from __future__ import annotations

import io
import mimetypes
import zipfile
from typing import Any
from uuid import UUID

from flask import Response, current_app, request
from flask_openapi3 import APIBlueprint
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.exceptions import Conflict, NotFound, ServiceUnavailable, UnprocessableEntity

from neige import __version__
from neige.core.model.codec import to_json
from neige.core.reading.pins import moved, pin_from
from neige.core.reading.type.catalogue import catalogue
from neige.core.writer import hunks
from neige.jobs.intake import check_picture
from neige.jobs.looks import difference_of
from neige.jobs.projects import add_picture, add_project
from neige.jobs.queue import cancel_build, defer_build, notify
from neige.store.database import Database, drop_orphans, get_blob
from neige.store.models import Blob, Build, Project, now
from neige.web.schemas import (
    BuildOut,
    BuildPath,
    Edit,
    Empty,
    Families,
    FamilyOut,
    FileOut,
    FilePath,
    Health,
    PictureIn,
    PictureOut,
    PinIn,
    PinOut,
    PinPath,
    Problem,
    ProjectList,
    ProjectOut,
    ProjectPath,
    Rename,
    Source,
)

# A preview is somebody's page: no scripts, no origin of its own, nothing from elsewhere.
PREVIEW_POLICY = (
    "sandbox; default-src 'none'; style-src 'self'; img-src 'self'; font-src 'self'; frame-ancestors 'self'"
)
PIN_TEXT = 20_000  # characters of a changed place
PIN_STATES = 500  # of a project that undo can go back through
Reply = Response | dict[str, Any] | tuple[dict[str, Any], int]

api = APIBlueprint(
    "api",
    __name__,
    url_prefix="/api",
    operation_id_callback=lambda name, **kw: name,
    abp_responses={422: Problem, 404: Problem},
)


def database() -> Database:
    found: Database = current_app.extensions["neige_database"]
    return found


def build_out(s: Session, b: Build) -> BuildOut:
    code = sum(
        s.scalars(
            select(Blob.size).where(
                Blob.sha256.in_([h for p, h in b.files.items() if p in ("index.html", "styles.css")])
            )
        )
    )
    return BuildOut.model_validate(
        {
            "id": b.id,
            "kind": b.kind,
            "origin": b.origin,
            "state": b.state,
            "steps": b.steps,
            "error": b.error,
            "proof": b.proof,
            "code_bytes": code,
            "created_at": b.created_at,
            "finished_at": b.finished_at,
        }
    )


def project_out(s: Session, p: Project) -> ProjectOut:
    picture = p.pictures[-1] if p.pictures else None
    written = [b for b in p.builds if b.kind == "written"]
    build = written[0] if written else None
    shown = next((b for b in written if b.state == "done"), None)
    pins = p.pin_states[p.pin_at]
    before = p.pin_states[p.pin_at - 1] if p.pin_at else None
    after = p.pin_states[p.pin_at + 1] if p.pin_at + 1 < len(p.pin_states) else None
    return ProjectOut(
        id=p.id, name=p.name, created_at=p.created_at, touched_at=p.touched_at,
        picture=PictureOut(id=picture.id, name=picture.name, width=picture.width, height=picture.height, scale=picture.scale, trim=picture.trim) if picture else None,
        build=build_out(s, build) if build else None, shown=build_out(s, shown) if shown else None,
        pins=[PinOut(**pin, says=str(pin_from(pin))) for pin in pins],
        undo=None if before is None else step_between(before, pins), redo=None if after is None else step_between(pins, after),
    )  # fmt: skip


def step_between(before: list[dict[str, Any]], after: list[dict[str, Any]]) -> str:
    """What was done between two states of a project's pins, in words."""
    added = [p for p in after if p not in before]
    if added:
        return str(pin_from(added[-1]))
    taken = [p for p in before if p not in after]
    return f"take back: {pin_from(taken[-1])}" if taken else "nothing"


def as_json(model: Any, status: int = 200) -> Response:
    return Response(model.model_dump_json(), status, mimetype="application/json")


def find_project(s: Session, project_id: UUID) -> Project:
    found = s.get(Project, project_id)
    if found is None:
        raise NotFound("There is no such project; it may have been deleted.")
    return found


def find_build(s: Session, build_id: UUID) -> Build:
    found = s.get(Build, build_id)
    if found is None:
        raise NotFound("There is no such build.")
    return found


@api.get("/health", responses={200: Health})
def health() -> Reply:
    with database().session() as s:
        s.execute(select(1))
    return as_json(Health(status="ok", version=__version__))


@api.get("/projects", responses={200: ProjectList})
def list_projects() -> Reply:
    with database().session() as s:
        projects = s.scalars(select(Project).order_by(Project.touched_at.desc())).all()
        return as_json(ProjectList(projects=[project_out(s, p) for p in projects]))


@api.post("/projects", responses={201: ProjectOut})
def create_project() -> Reply:
    """Bring a picture in: multipart `file`, optional `name`, `width`, `scale`. It is decoded first; if it cannot be used, nothing is stored."""
    file = request.files.get("file")
    if file is None:
        raise UnprocessableEntity("No file came with the request: send the picture as `file`.")
    picture = check_picture(file.read(), file.filename or "picture", _number("width"), _number("scale"))
    name = (
        request.form.get("name") or picture.name.rsplit(".", 1)[0].replace("-", " ").replace("_", " ")
    ).strip()[:120] or "Untitled"
    with database().session() as s:
        project = add_project(s, name, picture)
        out = project_out(s, project)
    return as_json(out, 201)


def _number(field: str) -> float | None:
    value = request.form.get(field)
    if not value:
        return None
    try:
        return float(value)
    except ValueError as e:
        raise UnprocessableEntity(f"{field} must be a number, not “{value[:20]}”.") from e


@api.get("/projects/<uuid:project_id>", responses={200: ProjectOut})
def get_project(path: ProjectPath) -> Reply:
    with database().session() as s:
        return as_json(project_out(s, find_project(s, path.project_id)))


@api.patch("/projects/<uuid:project_id>", responses={200: ProjectOut})
def rename_project(path: ProjectPath, body: Rename) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        project.name, project.touched_at = body.name.strip(), now()
        return as_json(project_out(s, project))


@api.delete("/projects/<uuid:project_id>", responses={200: Empty})
def delete_project(path: ProjectPath) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        for b in project.builds:
            if b.state in ("queued", "running"):
                cancel_build(s, b)
        s.delete(project)
        s.flush()
        drop_orphans(s)
    return as_json(Empty())


@api.post("/projects/<uuid:project_id>/builds", responses={201: ProjectOut})
def build_again(path: ProjectPath) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        if any(b.state in ("queued", "running") and b.kind == "written" for b in project.builds):
            raise Conflict("A build of this project is already under way.")
        return as_json(_rebuild(s, project), 201)


@api.post("/projects/<uuid:project_id>/picture", responses={201: ProjectOut})
def take_picture(path: ProjectPath, body: PictureIn) -> Reply:
    """Take the project's picture in another scale, or without a frame around the page. The page is built again from it."""
    with database().session() as s:
        picture = find_project(s, path.project_id).pictures[-1]
        content, name = get_blob(s, picture.original) or b"", picture.name
    new = check_picture(
        content, name, None, body.scale, (body.trim[0], body.trim[1], body.trim[2], body.trim[3])
    )
    with database().session() as s:
        project = find_project(s, path.project_id)
        old = project.pictures[-1]
        row = add_picture(s, project, new)
        # what was pinned stays where it is in the picture, in every state that undo can go back to
        project.pin_states = [
            [to_json(moved(pin_from(p), (old.scale, old.trim), (row.scale, row.trim))) for p in state]
            for state in project.pin_states
        ]
        s.flush()
        s.refresh(project)
        return as_json(_rebuild(s, project), 201)


def set_pins(s: Session, project: Project, pins: list[dict[str, Any]]) -> ProjectOut:
    """A new state of the pins, from which there is no redo; the page is built again with it."""
    states = [*project.pin_states[: project.pin_at + 1], pins]
    project.pin_states = states[-PIN_STATES:]
    project.pin_at = len(project.pin_states) - 1
    return _rebuild(s, project)


def _rebuild(s: Session, project: Project) -> ProjectOut:
    """Queue a build with the pins as they are; one that is under way with others is no longer wanted.

    The project's row is locked before its builds', as the workers do.
    """
    s.flush()
    s.execute(select(Project.id).where(Project.id == project.id).with_for_update())
    for b in project.builds:
        if b.state in ("queued", "running") and b.kind == "written":
            cancel_build(s, b)
            b.state, b.finished_at = "cancelled", now()
    build = Build(
        project_id=project.id, picture_id=project.pictures[-1].id, pins=project.pin_states[project.pin_at]
    )
    s.add(build)
    project.touched_at = now()
    s.flush()
    defer_build(s, build)
    s.refresh(project)
    return project_out(s, project)


@api.post("/projects/<uuid:project_id>/pins", responses={201: ProjectOut})
def add_pin(path: ProjectPath, body: PinIn) -> Reply:
    """Correct something that was read. The correction holds in every later reading."""
    pin = body.model_dump(mode="json")
    try:
        pin_from(pin)
    except ValueError as e:
        raise UnprocessableEntity(f"This pin cannot be used: {e}.") from e
    with database().session() as s:
        project = find_project(s, path.project_id)
        return as_json(set_pins(s, project, [*project.pin_states[project.pin_at], pin]), 201)


@api.post("/projects/<uuid:project_id>/code", responses={201: ProjectOut})
def edit_code(path: ProjectPath, body: Edit) -> Reply:
    """Keep a file of the shown page as somebody changed it: each changed place becomes a pin."""
    with database().session() as s:
        project = find_project(s, path.project_id)
        shown = next((b for b in project.builds if b.state == "done" and b.kind == "written"), None)
        if shown is None or body.name not in shown.files:
            raise Conflict("There is no finished page to change yet.")
        before = (get_blob(s, shown.files[body.name]) or b"").decode()
        new = [to_json(pin) for pin in hunks(body.name, before, body.content)]
        if not new:
            raise UnprocessableEntity("Nothing was changed.")
        if any(len(pin[k]) > PIN_TEXT for pin in new for k in ("text", "to")):
            raise UnprocessableEntity("This changes too much at once to be kept as pins: change fewer lines.")
        return as_json(set_pins(s, project, [*project.pin_states[project.pin_at], *new]), 201)


@api.delete("/projects/<uuid:project_id>/pins/<int:index>", responses={200: ProjectOut})
def remove_pin(path: PinPath) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        pins = project.pin_states[project.pin_at]
        if not 0 <= path.index < len(pins):
            raise NotFound("There is no such pin.")
        return as_json(set_pins(s, project, [p for n, p in enumerate(pins) if n != path.index]))


@api.post("/projects/<uuid:project_id>/pins/undo", responses={200: ProjectOut})
def undo_pin(path: ProjectPath) -> Reply:
    return _move_pins(path.project_id, -1)


@api.post("/projects/<uuid:project_id>/pins/redo", responses={200: ProjectOut})
def redo_pin(path: ProjectPath) -> Reply:
    return _move_pins(path.project_id, 1)


def _move_pins(project_id: UUID, by: int) -> Reply:
    with database().session() as s:
        project = find_project(s, project_id)
        at = project.pin_at + by
        if not 0 <= at < len(project.pin_states):
            raise Conflict("There is nothing to undo." if by < 0 else "There is nothing to redo.")
        project.pin_at = at
        return as_json(_rebuild(s, project))


@api.get("/fonts", responses={200: Families})
def list_fonts() -> Reply:
    """The families that type can be set in."""
    cat = catalogue()
    out = []
    for family in cat.families:
        of = [i for i in cat.instances if i.face.family == family]
        weights = sorted({i.weight for i in of if not i.face.italic})
        out.append(
            FamilyOut(
                family=family,
                category=of[0].face.category,
                weights=weights,
                italic=any(i.face.italic for i in of),
            )
        )
    return as_json(Families(families=out))


@api.post("/builds/<uuid:build_id>/cancel", responses={200: BuildOut})
def cancel(path: BuildPath) -> Reply:
    with database().session() as s:
        build = find_build(s, path.build_id)
        if build.state in ("queued", "running"):
            cancel_build(s, build)
            build.state, build.finished_at = "cancelled", now()
            notify(s, build.id)
        return as_json(build_out(s, build))


@api.get("/builds/<uuid:build_id>", responses={200: BuildOut})
def get_build(path: BuildPath) -> Reply:
    with database().session() as s:
        return as_json(build_out(s, find_build(s, path.build_id)))


@api.get("/builds/<uuid:build_id>/source", responses={200: Source})
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


def _image(sha256: str | None) -> Response:
    if sha256 is None:
        raise NotFound("This picture has not been made yet.")
    etag = f'"{sha256}"'
    headers = {"ETag": etag, "Cache-Control": "private, max-age=31536000, immutable"}
    if request.headers.get("If-None-Match") == etag:
        return Response(status=304, headers=headers)
    with database().session() as s:
        return Response(get_blob(s, sha256), mimetype="image/png", headers=headers)


@api.get("/builds/<uuid:build_id>/picture")
def picture_image(path: BuildPath) -> Reply:
    with database().session() as s:
        sha = find_build(s, path.build_id).picture.preview
    return _image(sha)


@api.get("/builds/<uuid:build_id>/page")
def page_image(path: BuildPath) -> Reply:
    with database().session() as s:
        sha = find_build(s, path.build_id).drawn
    return _image(sha)


@api.get("/builds/<uuid:build_id>/difference")
def difference_image(path: BuildPath) -> Reply:
    with database().session() as s:
        sha = difference_of(s, find_build(s, path.build_id))
    return _image(sha)


@api.get("/builds/<uuid:build_id>/thumbnail")
def thumbnail_image(path: BuildPath) -> Reply:
    with database().session() as s:
        sha = find_build(s, path.build_id).thumbnail
    return _image(sha)


@api.get("/builds/<uuid:build_id>/files/<path:path>")
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


@api.get("/builds/<uuid:build_id>/archive.zip")
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


@api.get("/events")
def events() -> Reply:
    """Server-sent events: `build` with {"build": id} whenever one changes; null means look at everything again."""
    hub = current_app.extensions["neige_events"]
    if hub.full():
        raise ServiceUnavailable("Too many open event streams.")
    return Response(
        hub.stream(),
        mimetype="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )
