"""The tables. Blobs are content-addressed: one row per SHA-256, shared by whoever refers to it."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import DateTime, ForeignKey, Integer, LargeBinary, Select, String, Text, select
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


def now() -> datetime:
    return datetime.now(UTC)


class Base(DeclarativeBase):
    pass


class Blob(Base):
    __tablename__ = "blobs"
    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)
    size: Mapped[int] = mapped_column(Integer)


class Project(Base):
    """A piece of work. `pin_at` is the state of its pins that holds (see `PinState`): undo and redo move it."""

    __tablename__ = "projects"
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str] = mapped_column(Text)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    touched_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    pin_at: Mapped[int] = mapped_column(Integer, default=0)
    pictures: Mapped[list[Picture]] = relationship(
        back_populates="project", cascade="all, delete-orphan", order_by="Picture.created_at"
    )
    builds: Mapped[list[Build]] = relationship(
        back_populates="project", cascade="all, delete-orphan", order_by="Build.created_at.desc()"
    )


class PinState(Base):
    """The `n`th list of pins that a project has had; a project that has none of a number had no pins then."""

    __tablename__ = "pin_states"
    project_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True
    )
    n: Mapped[int] = mapped_column(Integer, primary_key=True)
    pins: Mapped[list[dict[str, Any]]] = mapped_column(JSONB)


class Picture(Base):
    """`trim`: device px cut off at the top, right, bottom and left of the original (a browser's or device's frame)."""

    __tablename__ = "pictures"
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    project_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("projects.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(Text)
    original: Mapped[str] = mapped_column(ForeignKey("blobs.sha256"))
    preview: Mapped[str] = mapped_column(ForeignKey("blobs.sha256"))
    width: Mapped[int] = mapped_column(Integer)
    height: Mapped[int] = mapped_column(Integer)
    scale: Mapped[int] = mapped_column(Integer)
    trim: Mapped[list[int]] = mapped_column(JSONB, default=lambda: [0, 0, 0, 0])
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    project: Mapped[Project] = relationship(back_populates="pictures")


class Build(Base):
    """One run of the pipeline. `state`: queued, running, done, failed, cancelled. `attempt` guards against a job run twice.

    `kind`: "written" by Neige, or "brought": somebody's own page, from `origin` (a file's name, or a loopback address).

    `files` maps paths to blobs; `drawn`, `difference` and `thumbnail` are PNG blobs; `steps` lists what was found so far; `pins` are the
    corrections it was made with; `reading` and `outline` (parts and checks) are JSON blobs.
    """

    __tablename__ = "builds"
    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    project_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("projects.id", ondelete="CASCADE"), index=True)
    picture_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("pictures.id", ondelete="CASCADE"))
    state: Mapped[str] = mapped_column(String(16), default="queued")
    kind: Mapped[str] = mapped_column(String(16), default="written")
    origin: Mapped[str] = mapped_column(Text, default="")
    job: Mapped[int | None] = mapped_column(Integer)
    attempt: Mapped[int] = mapped_column(Integer, default=0)
    pins: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)
    steps: Mapped[list[dict[str, str]]] = mapped_column(JSONB, default=list)
    error: Mapped[str | None] = mapped_column(Text)
    proof: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    files: Mapped[dict[str, str]] = mapped_column(JSONB, default=dict)
    reading: Mapped[str | None] = mapped_column(ForeignKey("blobs.sha256"))
    outline: Mapped[str | None] = mapped_column(ForeignKey("blobs.sha256"))
    drawn: Mapped[str | None] = mapped_column(ForeignKey("blobs.sha256"))
    difference: Mapped[str | None] = mapped_column(ForeignKey("blobs.sha256"))
    thumbnail: Mapped[str | None] = mapped_column(ForeignKey("blobs.sha256"))
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    finished_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    project: Mapped[Project] = relationship(back_populates="builds")
    picture: Mapped[Picture] = relationship()


def written(project: Project) -> Select[Build]:
    """The builds of Neige's own pages of a project, the latest first."""
    return (
        select(Build)
        .where(Build.project_id == project.id, Build.kind == "written")
        .order_by(Build.created_at.desc())
    )
