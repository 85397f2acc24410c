"""What goes over the wire. The front end's types are generated from these."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal, Self
from uuid import UUID

from pydantic import BaseModel, Field, model_validator

from neige.core.model import (
    ColumnGrid,
    Contrast,
    Cutout,
    Fill,
    Gap,
    PaletteEntry,
    Part,
    Rule,
    SpacingScale,
    Surface,
)

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


class PicturePath(BaseModel):
    picture_id: UUID


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
    values: list[str] = []


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
    trim: list[int]


class PictureIn(BaseModel):
    """How to take a project's picture: device px per CSS px, and what to cut off its top, right, bottom and left (device px)."""

    scale: Literal[1, 2, 3]
    trim: list[int] = Field(default=[0, 0, 0, 0], min_length=4, max_length=4)


class BuildOut(BaseModel):
    """`kind`: written by Neige, or brought: somebody's own page, from `origin`."""

    id: UUID
    picture_id: UUID
    kind: Literal["written", "brought"]
    origin: str
    state: State
    steps: list[Step]
    error: str | None
    proof: ProofOut | None
    code_bytes: int
    created_at: datetime
    finished_at: datetime | None


class PinIn(BaseModel):
    """See core.model.Pin."""

    kind: Literal[
        "retype", "type", "split", "merge", "not-text", "region", "asset", "grid", "again",
        "role", "rename", "like", "wrap", "unwrap", "join", "divide", "order", "shares", "code", "accept",
    ]  # fmt: skip
    rect: Box
    text: str = Field(default="", max_length=20_000)
    to: str = Field(default="", max_length=20_000)
    family: str = ""
    weight: int = Field(default=0, ge=0, le=1000)
    italic: bool | None = None
    size: float = Field(default=0.0, ge=0, le=1000)
    x: float = 0.0
    columns: int = Field(default=0, ge=0, le=48)
    gutter: float = Field(default=0.0, ge=0, le=2000)
    quality: int = Field(default=0, ge=0, le=100)
    name: str = Field(default="", max_length=80)
    like: Box | None = None
    shares: list[float] = Field(default=[], max_length=24)
    was: str = Field(default="", max_length=20)

    @model_validator(mode="after")
    def _only_code_is_long(self) -> Self:
        if self.kind != "code" and max(len(self.text), len(self.to)) > 2000:
            raise ValueError("a pin's words are at most 2000 characters long")
        return self


class PinOut(PinIn):
    says: str


class PinPath(BaseModel):
    project_id: UUID
    index: int


class VersionOut(BuildOut):
    """A build in a project's history. `says`: what was done before it; `present`: it is the page in use."""

    says: str
    present: bool


class History(BaseModel):
    versions: list[VersionOut]


class FileDiff(BaseModel):
    name: str
    added: int
    removed: int
    diff: str


class Comparison(BaseModel):
    """How one build's page differs from another's: its files as unified differences, and the share of px drawn otherwise."""

    files: list[FileDiff]
    assets_changed: int
    drawn_apart: float | None


class ComparePath(BaseModel):
    build_id: UUID
    other_id: UUID


class ProjectOut(BaseModel):
    """`build` is the last one begun, `shown` the last one finished; `undo` and `redo` say what they would do, if anything."""

    id: UUID
    name: str
    created_at: datetime
    touched_at: datetime
    picture: PictureOut | None
    build: BuildOut | None
    shown: BuildOut | None
    pins: list[PinOut]
    undo: str | None
    redo: str | None


class WordOut(BaseModel):
    text: str
    x: float
    w: float
    ink: Box
    style: int
    confidence: float


class LineOut(BaseModel):
    """See core.model.Line. `specimen` is the part of the picture that the line's specimen shows."""

    words: list[WordOut]
    box: Box
    ink: Box
    baseline: float
    x_height: float
    cap_height: float
    style: int
    ground: str
    confidence: float
    residual: float
    specimen: Box


class RunnerOut(BaseModel):
    family: str
    fit: float


class StyleOut(BaseModel):
    """See core.model.TypeStyle."""

    name: str
    family: str
    category: str
    size: float
    weight: int
    italic: bool
    tracking: float
    colour: str
    opacity: float
    underline: bool
    strike: bool
    uppercase: bool
    fit: float
    runners: list[RunnerOut]
    lines: int
    substitute: bool


class TypeScaleOut(BaseModel):
    base: float
    sizes: list[float]
    ratio: float


class RotatedOut(BaseModel):
    text: str
    rect: Box
    angle: int
    confidence: float


class ReadingOut(BaseModel):
    """See core.model.Reading."""

    width: float
    height: float
    scale: int
    lines: list[LineOut]
    styles: list[StyleOut]
    type_scale: TypeScaleOut
    unread: list[Box]
    rotated: list[RotatedOut]
    background: Fill
    surfaces: list[Surface]
    rules: list[Rule]
    cutouts: list[Cutout]
    palette: list[PaletteEntry]
    contrasts: list[Contrast]
    grid: ColumnGrid | None
    gaps: list[Gap]
    spacing: SpacingScale


class OutlineOut(BaseModel):
    """See core.model.Sheet."""

    parts: list[Part]
    checks: list[FindingOut]
    roles: list[str]


class Edit(BaseModel):
    """A page's file as somebody changed it by hand."""

    name: Literal["index.html", "styles.css"]
    content: str = Field(max_length=2_000_000)


class CutoutPath(BaseModel):
    build_id: UUID
    cutout: int


class CutoutFilePath(CutoutPath):
    format: Literal["svg", "png", "webp", "avif", "jpeg"]


class QualityQuery(BaseModel):
    quality: int = Field(default=0, ge=0, le=100)


class FormatOut(BaseModel):
    """See core.writer.cutouts.Format."""

    name: str
    quality: int
    bytes: int
    error: float
    good: bool


class Formats(BaseModel):
    formats: list[FormatOut]


class CoverageOut(BaseModel):
    """What the reading, painted back, does not explain: its share of the picture, SSIM of the two, and the places."""

    unexplained: float
    ssim: float
    places: list[Box]


class FamilyOut(BaseModel):
    family: str
    category: str
    weights: list[int]
    italic: bool


class Families(BaseModel):
    families: list[FamilyOut]


class LinePath(BaseModel):
    build_id: UUID
    line: int


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
