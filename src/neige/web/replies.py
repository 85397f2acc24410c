"""What the routes share: the database, projects and builds as they go over the wire, and blueprints under /api."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from flask import Response, current_app
from flask_openapi3 import APIBlueprint
from sqlalchemy import select
from sqlalchemy.orm import Session
from werkzeug.exceptions import NotFound

from neige.core.reading.pins import pin_from
from neige.store.database import Database
from neige.store.models import Blob, Build, Project, written
from neige.store.pins import pins_of
from neige.web.schemas import BuildOut, PictureOut, PinOut, Problem, ProjectOut

Reply = Response | dict[str, Any] | tuple[dict[str, Any], int]


def blueprint(name: str) -> APIBlueprint:
    """Routes under /api, whose operations are named as their functions."""
    return APIBlueprint(
        name,
        __name__,
        url_prefix="/api",
        operation_id_callback=lambda name, **kw: name,
        abp_responses={422: Problem, 404: Problem},
    )


def database() -> Database:
    found: Database = current_app.extensions["neige_database"]
    return found


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


def build_out(s: Session, b: Build) -> BuildOut:
    return builds_out(s, [b])[0]


def builds_out(s: Session, builds: Sequence[Build]) -> list[BuildOut]:
    """Builds as they are told of; how much code each has is asked for all of them at once."""
    code = {b.id: [h for p, h in b.files.items() if p in ("index.html", "styles.css")] for b in builds}
    hashes = {h for of in code.values() for h in of}
    found = s.execute(select(Blob.sha256, Blob.size).where(Blob.sha256.in_(hashes))) if hashes else ()
    sizes = {sha: size for sha, size in found}  # noqa: C416 (rows are not quite tuples)
    return [_told(b, sum(sizes.get(h, 0) for h in code[b.id])) for b in builds]


def _told(b: Build, code: int) -> BuildOut:
    return BuildOut.model_validate(
        {
            "id": b.id,
            "picture_id": b.picture_id,
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
    build = s.scalar(written(p).limit(1))
    done = build is not None and build.state == "done"
    shown = build if done else s.scalar(written(p).where(Build.state == "done").limit(1))
    pins, before, after = pins_of(s, p) or [], pins_of(s, p, -1), pins_of(s, p, 1)
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
