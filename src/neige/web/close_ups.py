"""Close-up pictures of single places: kept, and read instead of what the picture itself shows there."""

from __future__ import annotations

from flask import request
from werkzeug.exceptions import UnprocessableEntity

from neige.core.reading.pins import pin_from
from neige.jobs.intake import check_picture
from neige.store.database import put_blob
from neige.web.rebuilding import add_pins
from neige.web.replies import Reply, as_json, blueprint, database, find_project
from neige.web.schemas import ProjectOut, ProjectPath

close_ups = blueprint("close_ups")


@close_ups.post("/projects/<uuid:project_id>/close-ups", responses={201: ProjectOut})
def add_close_up(path: ProjectPath) -> Reply:
    """Read a place again from a larger picture of it: multipart `file`, and `x`, `y`, `w`, `h` in CSS px of the project's picture."""
    file = request.files.get("file")
    if file is None:
        raise UnprocessableEntity("No file came with the request: send the close-up as `file`.")
    picture = check_picture(file.read(), file.filename or "close-up", scale=1.0)
    try:
        rect = {k: float(request.form[k]) for k in ("x", "y", "w", "h")}
        pin = {"kind": "again", "rect": rect, "text": "", "to": ""}
        pin_from(pin)
    except (KeyError, ValueError) as e:
        raise UnprocessableEntity(
            "A close-up needs its place in the picture: x, y, w and h in CSS px."
        ) from e
    with database().session() as s:
        project = find_project(s, path.project_id)
        pin["name"] = put_blob(s, picture.content)
        return as_json(add_pins(s, project, pin), 201)
