"""The routes about no project: health, the families that type can be set in, and what changes as it happens."""

from __future__ import annotations

from flask import Response, current_app
from sqlalchemy import select
from werkzeug.exceptions import ServiceUnavailable

from neige import __version__
from neige.core.reading.type.catalogue import catalogue
from neige.web.replies import Reply, as_json, blueprint, database
from neige.web.schemas import Families, FamilyOut, Health

general = blueprint("general")


@general.get("/health", responses={200: Health})
def health() -> Reply:
    with database().session() as s:
        s.execute(select(1))
    return as_json(Health(status="ok", version=__version__))


@general.get("/fonts", responses={200: Families})
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


@general.get("/events")
def events() -> Reply:
    """Server-sent events: `build` with {"build": id, "ended": whether it has} whenever one changes; null means look at everything again."""
    hub = current_app.extensions["neige_events"]
    if hub.full():
        raise ServiceUnavailable("Too many open event streams.")
    return Response(
        hub.stream(),
        mimetype="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )
