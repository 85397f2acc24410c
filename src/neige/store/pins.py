"""The pins of a project: the list that holds, those before and after it, and a change of it."""

from __future__ import annotations

from typing import Any

from sqlalchemy import delete
from sqlalchemy.orm import Session

from neige.store.models import PinState, Project

STATES = 500  # of a project that undo can go back through
Pins = list[dict[str, Any]]


def pins_of(s: Session, project: Project, by: int = 0) -> Pins | None:
    """The pins that hold, or those `by` states from them; None if there never were any such."""
    found = s.get(PinState, (project.id, project.pin_at + by))
    if found is not None:
        return found.pins
    return [] if by == 0 else None


def keep_pins(s: Session, project: Project, pins: Pins) -> None:
    """A new state of the pins, from which there is no redo."""
    if s.get(PinState, (project.id, project.pin_at)) is None:
        s.add(PinState(project_id=project.id, n=project.pin_at, pins=[]))
    mine = PinState.project_id == project.id
    at = project.pin_at + 1
    s.execute(delete(PinState).where(mine, (PinState.n >= at) | (PinState.n <= at - STATES)))
    s.add(PinState(project_id=project.id, n=at, pins=pins))
    project.pin_at = at
