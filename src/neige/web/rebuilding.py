"""A project's page is built again whenever its pins or its picture change."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from neige.jobs.queue import cancel_build, defer_build
from neige.store.models import Build, Project, now, written
from neige.store.pins import Pins, keep_pins, pins_of
from neige.web.replies import project_out
from neige.web.schemas import ProjectOut


def add_pins(s: Session, project: Project, *pins: dict[str, Any]) -> ProjectOut:
    """What else the developer says; the page is built again with it."""
    return set_pins(s, project, [*(pins_of(s, project) or []), *pins])


def set_pins(s: Session, project: Project, pins: Pins) -> ProjectOut:
    """A new state of the pins; the page is built again with it."""
    keep_pins(s, project, pins)
    return rebuild(s, project)


def withdraw(s: Session, project: Project) -> None:
    """What is being built is no longer wanted."""
    for b in s.scalars(written(project).where(Build.state.in_(("queued", "running")))):
        cancel_build(s, b)
        b.state, b.finished_at = "cancelled", now()


def rebuild(s: Session, project: Project) -> ProjectOut:
    """Queue a build with the pins as they are; one that is under way with others is no longer wanted.

    The project's row is locked before its builds', as the workers do.
    """
    s.flush()
    s.execute(select(Project.id).where(Project.id == project.id).with_for_update())
    withdraw(s, project)
    build = Build(project_id=project.id, picture_id=project.pictures[-1].id, pins=pins_of(s, project) or [])
    s.add(build)
    project.touched_at = now()
    s.flush()
    defer_build(s, build)
    return project_out(s, project)
