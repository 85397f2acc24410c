"""The queue lives in the same PostgreSQL as the records, so that a record and its job are committed together."""

from __future__ import annotations

import json
import uuid
from typing import Any

from procrastinate import App, PsycopgConnector
from sqlalchemy import text
from sqlalchemy.orm import Session

from neige.store.database import plain_url
from neige.store.models import Build

STALLED = 20.0  # seconds without a heartbeat after which a worker counts as dead
HEARTBEAT = 4.0  # seconds
CHANNEL = "neige_builds"

# never opened here: jobs are deferred over the session's own connection, and the worker brings its own connector
queue = App(connector=PsycopgConnector(), import_paths=["neige.jobs.tasks"])


def worker_connector(url: str) -> PsycopgConnector:
    return PsycopgConnector(conninfo=plain_url(url))


def defer_build(session: Session, build: Build) -> None:
    """Queue the work of a build in the session's own transaction."""
    from neige.jobs.tasks import run_build

    raw: Any = session.connection().connection.driver_connection
    build.job = run_build.configure(connection=raw).defer(build_id=str(build.id))
    notify(session, build.id)


def cancel_build(session: Session, build: Build) -> None:
    raw: Any = session.connection().connection.driver_connection
    if build.job is not None:
        queue.job_manager.cancel_job_by_id(build.job, abort=True, connection=raw)


def notify(session: Session, build_id: uuid.UUID, ended: bool = False) -> None:
    """Tell every listening server, when this transaction commits, that a build has changed, or that it has ended."""
    told = json.dumps({"build": str(build_id), "ended": ended})
    session.execute(text("select pg_notify(:c, :p)"), {"c": CHANNEL, "p": told})
