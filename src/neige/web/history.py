"""The routes about what a project has been: its builds, how they differ, going back to one, and pages brought to be proven."""

from __future__ import annotations

import difflib

import cv2
import numpy as np
from flask import request
from sqlalchemy.orm import Session
from werkzeug.exceptions import Conflict, UnprocessableEntity

from neige.jobs.brought import check_address, open_page
from neige.jobs.queue import cancel_build, defer_build
from neige.store.database import drop_orphans, get_blob, put_blob
from neige.store.models import Build, Picture, Project, now
from neige.store.pins import keep_pins, pins_of
from neige.web.rebuilding import withdraw
from neige.web.replies import (
    Reply,
    as_json,
    blueprint,
    build_out,
    builds_out,
    database,
    find_build,
    find_project,
    project_out,
    step_between,
)
from neige.web.schemas import (
    BuildPath,
    ComparePath,
    Comparison,
    FileDiff,
    History,
    ProjectOut,
    ProjectPath,
    VersionOut,
)

APART = 8  # of 255: a channel that differs by more is drawn otherwise
DIFF_TEXT = 60_000  # characters of a difference that are shown
CODE = ("index.html", "styles.css")

history = blueprint("history")


@history.get("/projects/<uuid:project_id>/history", responses={200: History})
def list_versions(path: ProjectPath) -> Reply:
    """Every build of a project, newest first."""
    with database().session() as s:
        return as_json(_history(s, find_project(s, path.project_id)))


def _history(s: Session, project: Project) -> History:
    written = [b for b in project.builds if b.kind == "written"]
    present = next((b.id for b in written if b.state == "done"), None)
    before = dict(zip((b.id for b in written), [*written[1:], None]))
    return History(
        versions=[
            VersionOut(**told.model_dump(), says=_says(b, before.get(b.id)), present=b.id == present)
            for b, told in zip(project.builds, builds_out(s, project.builds))
        ]
    )


def _says(build: Build, before: Build | None) -> str:
    """What was done before a build, in words."""
    if build.kind == "brought":
        return f"a page of yours: {build.origin}"
    taken = next((step["what"] for step in build.steps if step["stage"] == "history"), None)
    if taken:
        return taken
    if before is None:
        return "the picture was brought in"
    if before.picture_id != build.picture_id:
        return "the picture was taken otherwise"
    return step_between(before.pins, build.pins) if before.pins != build.pins else "built again"


@history.post("/builds/<uuid:build_id>/return", responses={201: ProjectOut})
def return_to(path: BuildPath) -> Reply:
    """Go back to an earlier page: it is the page in use again, with the picture and the pins it was made with.

    Nothing is lost: what came after it stays in the history, and undo leads back to its pins.
    """
    with database().session() as s:
        old = find_build(s, path.build_id)
        if old.kind != "written" or old.state != "done":
            raise Conflict("Only a finished page of Neige's own can be gone back to.")
        project = s.get_one(Project, old.project_id, with_for_update=True)
        withdraw(s, project)
        picture = old.picture
        if picture.id != project.pictures[-1].id:  # the last picture is the one in use
            picture = Picture(
                project_id=project.id, name=picture.name, original=picture.original, preview=picture.preview,
                width=picture.width, height=picture.height, scale=picture.scale, trim=picture.trim,
            )  # fmt: skip
            s.add(picture)
            s.flush()
        if pins_of(s, project) != old.pins:
            keep_pins(s, project, old.pins)
        steps = [x for x in old.steps if x["stage"] != "history"]
        when = f"{old.finished_at or old.created_at:%d %B, %H:%M} UTC"
        s.add(
            Build(
                project_id=project.id,
                picture_id=picture.id,
                state="done",
                pins=old.pins,
                proof=old.proof,
                files=old.files,
                reading=old.reading,
                outline=old.outline,
                drawn=old.drawn,
                difference=old.difference,
                thumbnail=old.thumbnail,
                finished_at=now(),
                steps=[*steps, {"stage": "history", "what": f"gone back to the page of {when}"}],
            )
        )
        project.touched_at = now()
        s.flush()
        s.expire(project)
        out = project_out(s, project)
    return as_json(out, 201)


@history.get("/builds/<uuid:build_id>/against/<uuid:other_id>", responses={200: Comparison})
def compare(path: ComparePath) -> Reply:
    """How a build's page differs from another's."""
    with database().session() as s:
        one, other = find_build(s, path.build_id), find_build(s, path.other_id)
        files = []
        for name in CODE:
            a, b = (_text(s, x.files.get(name)) for x in (one, other))
            lines = list(difflib.unified_diff(a.splitlines(), b.splitlines(), name, name, n=2, lineterm=""))
            added = sum(x.startswith("+") for x in lines[2:])
            removed = sum(x.startswith("-") for x in lines[2:])
            files.append(FileDiff(name=name, added=added, removed=removed, diff="\n".join(lines)[:DIFF_TEXT]))
        names = {n for x in (one, other) for n in x.files if n not in CODE}
        names -= {"brief.md", "brief.html"}
        changed = sum(one.files.get(n) != other.files.get(n) for n in names)
        drawn = [get_blob(s, x.drawn) if x.drawn else None for x in (one, other)]
        same = one.drawn == other.drawn
    apart = 0.0 if same and drawn[0] else _apart(*drawn)
    return as_json(Comparison(files=files, assets_changed=changed, drawn_apart=apart))


def _text(s: Session, sha: str | None) -> str:
    return (get_blob(s, sha) or b"").decode("utf-8", "replace") if sha else ""


def _apart(a: bytes | None, b: bytes | None) -> float | None:
    """The share of px that two drawn pages (PNG) show otherwise; what only one of them has counts."""
    if a is None or b is None:
        return None
    one, other = (cv2.imdecode(np.frombuffer(x, np.uint8), cv2.IMREAD_COLOR) for x in (a, b))
    if one is None or other is None:
        return None
    h, w = min(one.shape[0], other.shape[0]), min(one.shape[1], other.shape[1])
    whole = max(one.shape[0], other.shape[0]) * max(one.shape[1], other.shape[1])
    differs = (cv2.absdiff(one[:h, :w], other[:h, :w]).max(axis=2) > APART).sum()
    return float((differs + whole - h * w) / whole)


@history.post("/projects/<uuid:project_id>/pages", responses={201: VersionOut})
def bring_page(path: ProjectPath) -> Reply:
    """Prove a page somebody wrote against the project's picture: multipart `files` (or one ZIP), or a loopback `address`."""
    address = (request.form.get("address") or "").strip()
    uploads = request.files.getlist("files")
    if not address and not uploads:
        raise UnprocessableEntity("Bring the page's files, a ZIP of them, or a loopback address.")
    content: dict[str, bytes] = {}
    if address:
        origin = check_address(address)
    else:
        content = open_page([(f.filename or "", f.read()) for f in uploads])
        origin = (uploads[0].filename or "a page").split("/")[0][:120]
    with database().session() as s:
        project = find_project(s, path.project_id)
        build = Build(
            project_id=project.id, picture_id=project.pictures[-1].id, kind="brought", origin=origin,
            pins=pins_of(s, project) or [], files={p: put_blob(s, c) for p, c in content.items()},
        )  # fmt: skip
        s.add(build)
        s.flush()
        defer_build(s, build)
        out = VersionOut(**build_out(s, build).model_dump(), says=_says(build, None), present=False)
    return as_json(out, 201)


@history.delete("/pages/<uuid:build_id>", responses={200: History})
def drop_version(path: BuildPath) -> Reply:
    """Take a brought page out of the history. What Neige wrote stays."""
    with database().session() as s:
        build = find_build(s, path.build_id)
        if build.kind != "brought":
            raise Conflict("What was built stays in the history.")
        project = build.project
        if build.state in ("queued", "running"):
            cancel_build(s, build)
        s.delete(build)
        s.flush()
        s.expire(project)
        drop_orphans(s)
        return as_json(_history(s, project))
