"""The routes about projects and their pictures."""

from __future__ import annotations

from flask import request
from sqlalchemy import select
from werkzeug.exceptions import Conflict, UnprocessableEntity

from neige.core.model.codec import to_json
from neige.core.reading.pins import moved, pin_from
from neige.jobs.intake import check_picture
from neige.jobs.projects import add_picture, add_project
from neige.jobs.queue import cancel_build
from neige.store.database import drop_orphans, get_blob
from neige.store.models import Build, PinState, Project, now, written
from neige.web.rebuilding import rebuild
from neige.web.replies import Reply, as_json, blueprint, database, find_project, project_out
from neige.web.schemas import Empty, PictureIn, ProjectList, ProjectOut, ProjectPath, Rename

projects = blueprint("projects")


@projects.get("/projects", responses={200: ProjectList})
def list_projects() -> Reply:
    with database().session() as s:
        found = s.scalars(select(Project).order_by(Project.touched_at.desc())).all()
        return as_json(ProjectList(projects=[project_out(s, p) for p in found]))


@projects.post("/projects", responses={201: ProjectOut})
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


@projects.get("/projects/<uuid:project_id>", responses={200: ProjectOut})
def get_project(path: ProjectPath) -> Reply:
    with database().session() as s:
        return as_json(project_out(s, find_project(s, path.project_id)))


@projects.patch("/projects/<uuid:project_id>", responses={200: ProjectOut})
def rename_project(path: ProjectPath, body: Rename) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        project.name, project.touched_at = body.name.strip(), now()
        return as_json(project_out(s, project))


@projects.delete("/projects/<uuid:project_id>", responses={200: Empty})
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


@projects.post("/projects/<uuid:project_id>/builds", responses={201: ProjectOut})
def build_again(path: ProjectPath) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        if s.scalar(written(project).where(Build.state.in_(("queued", "running"))).limit(1)):
            raise Conflict("A build of this project is already under way.")
        return as_json(rebuild(s, project), 201)


@projects.post("/projects/<uuid:project_id>/picture", responses={201: ProjectOut})
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
        for state in s.scalars(select(PinState).where(PinState.project_id == project.id)):
            state.pins = [
                to_json(moved(pin_from(p), (old.scale, old.trim), (row.scale, row.trim))) for p in state.pins
            ]
        s.flush()
        s.refresh(project)
        return as_json(rebuild(s, project), 201)
