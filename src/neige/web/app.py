"""The application: `create_app(database_url)`. Every API error is an RFC 9457 problem document."""

from __future__ import annotations

import logging
import os
from pathlib import Path
from typing import Any

from flask import Flask, Response, send_from_directory
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError
from werkzeug.exceptions import HTTPException

from neige import __version__
from neige.core.errors import NeigeError
from neige.store.database import Database
from neige.web.builds import builds
from neige.web.close_ups import close_ups
from neige.web.events import Events
from neige.web.general import general
from neige.web.history import history
from neige.web.pins import pins
from neige.web.projects import projects
from neige.web.readings import readings
from neige.web.schemas import Problem

STATIC = Path(__file__).parent / "static"
MAX_UPLOAD = 100 * 1024 * 1024
PAGE_POLICY = "default-src 'self'; img-src 'self' blob: data:; font-src 'self' data:; style-src 'self' 'unsafe-inline'; frame-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
log = logging.getLogger(__name__)
Reply = Response | dict[str, Any] | tuple[dict[str, Any], int]


def problem(status: int, title: str, detail: str = "", code: str = "error") -> Response:
    body = Problem(title=title, status=status, detail=detail, code=code).model_dump_json()
    return Response(body, status, mimetype="application/problem+json")


def _invalid(error: ValidationError) -> Response:
    first = error.errors()[0]
    place = ".".join(str(p) for p in first["loc"])
    return problem(422, "That request is not valid", f"{place}: {first['msg']}", "invalid")


def create_app(database_url: str) -> Flask:
    """No connection is made before the first request, so the OpenAPI document can be written with no database at all."""
    app = OpenAPI(
        __name__,
        info=Info(title="Neige", version=__version__),
        doc_ui=False,
        static_folder=None,
        validation_error_model=Problem,
        validation_error_callback=_invalid,
    )
    app.config["MAX_CONTENT_LENGTH"] = MAX_UPLOAD
    app.extensions["neige_database"] = Database(database_url)
    app.extensions["neige_events"] = Events(database_url)
    for routes in (general, projects, pins, close_ups, builds, readings, history):
        app.register_api(routes)

    @app.errorhandler(HTTPException)
    def http(e: HTTPException) -> Response:
        return problem(e.code or 500, e.name, e.description or "", "http")

    @app.errorhandler(NeigeError)
    def expected(e: NeigeError) -> Response:
        return problem(422, "That cannot be used", str(e), e.code)

    @app.errorhandler(DBAPIError)
    def database(e: DBAPIError) -> Response:
        log.warning("database error: %s", e)
        return problem(
            503, "The database is not answering", "It is tried again with the next request.", "database"
        )

    @app.after_request
    def guard(response: Response) -> Response:
        response.headers.setdefault("X-Content-Type-Options", "nosniff")
        response.headers.setdefault("Referrer-Policy", "no-referrer")
        response.headers.setdefault("Content-Security-Policy", PAGE_POLICY)
        return response

    def front_end(path: str) -> Response:
        """Built files as they are; every other address is a deep link into the one page."""
        if path and (STATIC / path).is_file():
            return send_from_directory(STATIC, path, max_age=31_536_000 if path.startswith("assets/") else 0)
        if path.startswith(("api/", "assets/")):
            return problem(404, "Not found", f"/{path} is not here", "http")
        return send_from_directory(STATIC, "index.html", max_age=0)

    app.add_url_rule("/", "index", front_end, defaults={"path": ""})
    app.add_url_rule("/<path:path>", "front_end", front_end)
    return app


def application() -> Flask:
    """For gunicorn: `neige.web.app:application()` with NEIGE_DATABASE_URL set."""
    return create_app(os.environ["NEIGE_DATABASE_URL"])
