"""The routes about pins: what the developer said of the picture, the outline and the code, to do and to undo."""

from __future__ import annotations

from uuid import UUID

from werkzeug.exceptions import Conflict, NotFound, UnprocessableEntity

from neige.core.model.codec import to_json
from neige.core.reading.pins import pin_from
from neige.core.writer import hunks, with_edits
from neige.store.database import get_blob
from neige.store.models import Build, written
from neige.store.pins import pins_of
from neige.web.rebuilding import add_pins, rebuild, set_pins
from neige.web.replies import Reply, as_json, blueprint, database, find_project
from neige.web.schemas import Edit, PinIn, PinPath, ProjectOut, ProjectPath

PIN_TEXT = 20_000  # characters of a changed place

pins = blueprint("pins")


@pins.post("/projects/<uuid:project_id>/pins", responses={201: ProjectOut})
def add_pin(path: ProjectPath, body: PinIn) -> Reply:
    """Correct something that was read. The correction holds in every later reading."""
    pin = body.model_dump(mode="json")
    try:
        pin_from(pin)
    except ValueError as e:
        raise UnprocessableEntity(f"This pin cannot be used: {e}.") from e
    with database().session() as s:
        project = find_project(s, path.project_id)
        return as_json(add_pins(s, project, pin), 201)


@pins.post("/projects/<uuid:project_id>/code", responses={201: ProjectOut})
def edit_code(path: ProjectPath, body: Edit) -> Reply:
    """Keep a file of the shown page as somebody changed it: each changed place becomes a pin."""
    with database().session() as s:
        project = find_project(s, path.project_id)
        shown = s.scalar(written(project).where(Build.state == "done").limit(1))
        if shown is None or body.name not in shown.files:
            raise Conflict("There is no finished page to change yet.")
        before = (get_blob(s, shown.files[body.name]) or b"").decode()
        new = hunks(body.name, before, body.content)
        if not new:
            raise UnprocessableEntity("Nothing was changed.")
        if any(len(text) > PIN_TEXT for pin in new for text in (pin.text, pin.to)):
            raise UnprocessableEntity("This changes too much at once to be kept as pins: change fewer lines.")
        present = [pin_from(p) for p in pins_of(s, project) or []]
        return as_json(set_pins(s, project, [to_json(p) for p in with_edits(present, new)]), 201)


@pins.delete("/projects/<uuid:project_id>/pins/<int:index>", responses={200: ProjectOut})
def remove_pin(path: PinPath) -> Reply:
    with database().session() as s:
        project = find_project(s, path.project_id)
        present = pins_of(s, project) or []
        if not 0 <= path.index < len(present):
            raise NotFound("There is no such pin.")
        return as_json(set_pins(s, project, [p for n, p in enumerate(present) if n != path.index]))


@pins.post("/projects/<uuid:project_id>/pins/undo", responses={200: ProjectOut})
def undo_pin(path: ProjectPath) -> Reply:
    return _move_pins(path.project_id, -1)


@pins.post("/projects/<uuid:project_id>/pins/redo", responses={200: ProjectOut})
def redo_pin(path: ProjectPath) -> Reply:
    return _move_pins(path.project_id, 1)


def _move_pins(project_id: UUID, by: int) -> Reply:
    with database().session() as s:
        project = find_project(s, project_id)
        if pins_of(s, project, by) is None:
            raise Conflict("There is nothing to undo." if by < 0 else "There is nothing to redo.")
        project.pin_at += by
        return as_json(rebuild(s, project))
