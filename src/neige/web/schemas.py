"""What goes over the wire. The front end's types are generated from these."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel, Field

State = Literal["queued", "running", "done", "failed", "cancelled"]


class Problem(BaseModel):
    """RFC 9457."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str = ""
    code: str = "error"


class ProjectPath(BaseModel):
    project_id: UUID


class BuildPath(BaseModel):
    build_id: UUID


class FilePath(BaseModel):
    build_id: UUID
    path: str


class Rename(BaseModel):
    name: str = Field(min_length=1, max_length=120)


class Step(BaseModel):
    stage: str
    what: str


class Box(BaseModel):
    x: float
    y: float
    w: float
    h: float


class FindingOut(BaseModel):
    kind: str
    text: str
    rect: Box
    weight: float
    node: int


class RoundOut(BaseModel):
    error: float
    kept: bool
    changes: int


class ProofOut(BaseModel):
    """See core.model.Proof for what each number means."""

    width: float
    height: float
    drawn_height: float
    words_seen: int
    words_found: int
    words_extra: int
    position_px: float
    position_p90_px: float
    within_2px: float
    size_error: float
    delta_e: float
    ssim: float
    coverage: float
    overflow_px: float
    findings: list[FindingOut]
    rounds: list[RoundOut]
    version: int


class PictureOut(BaseModel):
    id: UUID
    name: str
    width: int
    height: int
    scale: int


class BuildOut(BaseModel):
    id: UUID
    state: State
    steps: list[Step]
    error: str | None
    proof: ProofOut | None
    code_bytes: int
    created_at: datetime
    finished_at: datetime | None


class ProjectOut(BaseModel):
    id: UUID
    name: str
    created_at: datetime
    touched_at: datetime
    picture: PictureOut | None
    build: BuildOut | None


class ProjectList(BaseModel):
    projects: list[ProjectOut]


class FileOut(BaseModel):
    path: str
    bytes: int


class Source(BaseModel):
    html: str
    css: str
    files: list[FileOut]


class Health(BaseModel):
    status: str
    version: str


class Empty(BaseModel):
    pass


Json = dict[str, Any]
