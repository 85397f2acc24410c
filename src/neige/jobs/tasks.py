"""Building a page as a job: progress is committed as it comes, the result in one transaction or not at all."""

from __future__ import annotations

import json
import os
import time
import uuid
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from typing import Any

from procrastinate import JobContext, RetryStrategy
from procrastinate.exceptions import JobAborted
from procrastinate.job_context import AbortReason
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from neige.browser import draw_files, draw_page, draw_site
from neige.core.errors import NeigeError
from neige.core.model import Drawing, Page, Pin, Proof, Reading, Sheet
from neige.core.model import Picture as Raster
from neige.core.model.codec import to_json
from neige.core.model.pin import OUTLINED, READ
from neige.core.pipeline import Build as Built
from neige.core.pipeline import Settled, prove_page
from neige.core.pipeline import build as build_page
from neige.core.reading import Scan
from neige.core.reading.pins import pin_from
from neige.jobs.queue import notify, queue
from neige.jobs.strips import Strips
from neige.store.database import Database, get_blob, put_blobs
from neige.store.models import Build, Picture, Project, now

PAUSE = 0.25  # seconds between two reports of progress: each is a transaction
SCANS = 3  # kept in memory; a scan holds a few arrays the size of its picture


Steps = list[dict[str, str]]


@cache
def database() -> Database:
    return Database(os.environ["NEIGE_DATABASE_URL"])


@dataclass(frozen=True)
class Kept:
    """What this worker found in a picture: a pin need not wait for the networks, nor one of the outline for the type.

    `reading` was made with the pins of what was read in `read_pins`; `settled` is the outline that came of it with those in
    `outline_pins`. An edit of the code waits for neither.
    """

    picture: Raster
    scan: Scan
    reading: Reading
    read_pins: tuple[Pin, ...]
    settled: Settled | None = None
    outline_pins: tuple[Pin, ...] = ()
    stored: bytes = b""  # the reading as it is stored


_strips = Strips()
_beside = ThreadPoolExecutor(1)  # where pages are encoded, one after another
_kept: dict[tuple[str, int, tuple[int, ...]], Kept] = {}


def _keep(key: tuple[str, int, tuple[int, ...]], found: Kept) -> None:
    _kept.pop(key, None)
    _kept[key] = found
    while len(_kept) > SCANS:
        _kept.pop(next(iter(_kept)))


class Superseded(Exception):
    """Another attempt at the same build has begun; this one's result is not wanted."""


@queue.task(
    name="build",
    pass_context=True,
    retry=RetryStrategy(max_attempts=3, retry_exceptions=[OSError, RuntimeError]),
)
def run_build(context: JobContext, build_id: str) -> None:
    """Run one build to its end. Safe to run twice: only the latest attempt may write, and a finished build is left alone."""
    key = uuid.UUID(build_id)
    with database().session() as s:
        build = s.get(Build, key, with_for_update=True)
        if build is None or build.state in ("done", "cancelled"):
            return
        build.attempt += 1
        build.state, build.steps, build.error = "running", [], None
        attempt = build.attempt
        picture = s.get_one(Picture, build.picture_id)
        name, scale, trim = picture.name, picture.scale, tuple(picture.trim)
        pins = [pin_from(p) for p in build.pins]
        close_ups = {p.name: get_blob(s, p.name) or b"" for p in pins if p.kind == "again" and p.name}
        brought = build.kind == "brought"
        content_of = {path: get_blob(s, sha) or b"" for path, sha in build.files.items()} if brought else {}
        origin = build.origin
        key_of_scan = (picture.original, picture.scale, trim)
        kept, read_pins = _kept.get(key_of_scan), tuple(p for p in pins if p.kind in READ)
        outline_pins = tuple(p for p in pins if p.kind in OUTLINED)
        content = get_blob(s, picture.original) if kept is None or brought else None
        notify(s, key)
    steps: Steps = []
    reported = time.monotonic()

    def progress(stage: str, what: str) -> None:
        nonlocal reported
        if context.should_abort():
            raise JobAborted()
        steps.append({"stage": stage, "what": what})
        if time.monotonic() - reported < PAUSE:
            return
        reported = time.monotonic()
        with database().session() as s:
            done: Any = s.execute(
                update(Build).where(Build.id == key, Build.attempt == attempt).values(steps=list(steps))
            )
            if done.rowcount == 0:
                raise Superseded()
            notify(s, key)

    known = kept.reading if kept and kept.read_pins == read_pins else None
    try:
        if brought:

            def draw(width: float, fitted: bool) -> Drawing:
                if content_of:
                    return draw_files(content_of, width, fitted=fitted)
                return draw_site(origin, width, fitted=fitted)

            proven = prove_page(
                content or b"", name, draw, scale=scale, trim=trim, pins=pins,
                scanned=kept.scan if kept else None, known=known, close_ups=close_ups, progress=progress,
            )  # fmt: skip
            if proven[4] is not None:  # the picture was read for this: the next build need not
                _keep(key_of_scan, Kept(proven[0], proven[4], proven[1], read_pins))
            _finish_proof(key, attempt, steps, *proven[1:4])
            return
        encoding: list[tuple[Drawing, Future[bytes]]] = []

        def render(page: Page, width: float, *, scale: int = 1, pixels: bool = True) -> Drawing:
            """Draw a page, and begin to encode it if the browser has not: the proof takes as long."""
            drawing = draw_page(page, width, scale=scale, pixels=pixels)
            if pixels and not drawing.png:
                encoding.append((drawing, _beside.submit(_strips.png, drawing.pixels)))
            return drawing

        result = build_page(
            content or b"",
            name,
            render,
            scale=scale,
            trim=trim,
            pins=pins,
            opened=kept.picture if kept else None,
            scanned=kept.scan if kept else None,
            known=known,
            settled=kept.settled if kept and known and kept.outline_pins == outline_pins else None,
            close_ups=close_ups,
            progress=progress,
        )
        same = kept is not None and kept.reading is result.reading
        stored = kept.stored if kept is not None and same else b""
        stored = stored or json.dumps(to_json(result.reading)).encode()
        left = (result.scanned, result.reading, read_pins, result.settled, outline_pins, stored)
        _keep(key_of_scan, Kept(result.picture, *left))
        drawn = next((png.result() for d, png in encoding if d is result.drawing), result.drawing.png)
        _finish(key, attempt, steps, result, stored, drawn)
    except Superseded:
        return
    except JobAborted:
        if context.abort_reason() == AbortReason.USER_REQUEST:
            _end(key, attempt, steps, "cancelled", None)
        raise
    except NeigeError as e:
        _end(key, attempt, steps, "failed", str(e))
    except Exception as e:
        _end(
            key,
            attempt,
            steps,
            "failed",
            f"an internal error stopped the build ({type(e).__name__}); the worker's log has the details",
        )
        raise


def _end(key: uuid.UUID, attempt: int, steps: Steps, state: str, error: str | None) -> None:
    with database().session() as s:
        s.execute(
            update(Build)
            .where(Build.id == key, Build.attempt == attempt)
            .values(state=state, error=error, steps=list(steps), finished_at=now())
        )
        notify(s, key, ended=True)


def _finish(key: uuid.UUID, attempt: int, steps: Steps, result: Built, reading: bytes, drawn: bytes) -> None:
    """Store what a build made; `reading` and `drawn` as they are stored: what else is made of the page's picture is made when
    somebody asks for it (see `looks`)."""
    files = result.files()
    outline = json.dumps(to_json(Sheet(result.parts, result.checks))).encode()
    proof = to_json(result.proof)
    with database().session() as s:
        build = _mine(s, key, attempt)
        if build is None:
            return
        hashes = put_blobs(s, [reading, outline, drawn, *(a.content for a in files)])
        build.reading, build.outline, build.drawn = hashes[:3]
        build.files = dict(zip((a.path for a in files), hashes[3:]))
        _done(s, build, steps, proof)
        s.execute(update(Project).where(Project.id == build.project_id).values(touched_at=now()))


def _finish_proof(
    key: uuid.UUID, attempt: int, steps: Steps, reading: Reading, drawing: Drawing, proof: Proof
) -> None:
    """Store how a brought page was drawn and proven; its files stay as they came."""
    with database().session() as s:
        build = _mine(s, key, attempt)
        if build is None:
            return
        stored = json.dumps(to_json(reading)).encode()
        build.reading, build.drawn = put_blobs(s, [stored, drawing.png])
        _done(s, build, steps, to_json(proof))


def _mine(s: Session, key: uuid.UUID, attempt: int) -> Build | None:
    """The build, locked, if this attempt at it is the one that counts."""
    # the project's row before its build's, as the server does: two orders would be a deadlock
    s.execute(select(Project.id).join(Build).where(Build.id == key).with_for_update(of=Project))
    build = s.get(Build, key, with_for_update=True)
    return build if build is not None and build.attempt == attempt and build.state == "running" else None


def _done(s: Session, build: Build, steps: Steps, proof: Any) -> None:
    build.proof, build.steps = proof, list(steps)
    build.state, build.finished_at = "done", now()
    notify(s, build.id, ended=True)


@queue.periodic(cron="* * * * * */5")
@queue.task(name="rescue", queueing_lock="rescue", pass_context=False)
async def rescue(timestamp: int) -> None:
    """Give the jobs of dead workers back to the queue (nothing else does)."""
    from neige.jobs.queue import STALLED

    for job in await queue.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED):
        await queue.job_manager.retry_job(job)
