"""A project's page is built again whenever its pins or its picture change."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from neige.jobs.queue import cancel_build, defer_build
from neige.store.models import Build, Project, now
from neige.web.replies import project_out
from neige.web.schemas import ProjectOut

PIN_STATES = 500  # of a project that undo can go back through


def set_pins(s: Session, project: Project, pins: list[dict[str, Any]]) -> ProjectOut:
    """A new state of the pins; the page is built again with it."""
    keep_pins(project, pins)
    return rebuild(s, project)


def keep_pins(project: Project, pins: list[dict[str, Any]]) -> None:
    """A new state of the pins, from which there is no redo."""
    states = [*project.pin_states[: project.pin_at + 1], pins]
    project.pin_states = states[-PIN_STATES:]
    project.pin_at = len(project.pin_states) - 1


def withdraw(s: Session, project: Project) -> None:
    """What is being built is no longer wanted."""
    for b in project.builds:
        if b.state in ("queued", "running") and b.kind == "written":
            cancel_build(s, b)
            b.state, b.finished_at = "cancelled", now()


def rebuild(s: Session, project: Project) -> ProjectOut:
    """Queue a build with the pins as they are; one that is under way with others is no longer wanted.

    The project's row is locked before its builds', as the workers do.
    """
    s.flush()
    s.execute(select(Project.id).where(Project.id == project.id).with_for_update())
    withdraw(s, project)
    build = Build(
        project_id=project.id, picture_id=project.pictures[-1].id, pins=project.pin_states[project.pin_at]
    )
    s.add(build)
    project.touched_at = now()
    s.flush()
    defer_build(s, build)
    s.refresh(project)
    return project_out(s, project)
