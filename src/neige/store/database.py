"""Engine, sessions, migrations and blobs."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from importlib.resources import files
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from neige.store.models import Blob

MIGRATION_LOCK = 7_316_482  # any constant: two starters must not migrate at once


def sqlalchemy_url(url: str) -> str:
    """`postgresql://…` with the driver spelled out."""
    return re.sub(r"^postgres(ql)?(\+\w+)?://", "postgresql+psycopg://", url)


def plain_url(url: str) -> str:
    """`postgresql://…` as libpq takes it."""
    return re.sub(r"^postgres(ql)?(\+\w+)?://", "postgresql://", url)


class Database:
    """One engine. Connections are checked before use, so that a restarted PostgreSQL is found again by itself."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine: Engine = create_engine(
            sqlalchemy_url(url),
            pool_pre_ping=True,
            pool_size=10,
            max_overflow=30,
            connect_args={"connect_timeout": 5},
        )

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A transaction: committed at the end, rolled back on any error."""
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            yield session

    def migrate(self) -> None:
        """Bring the schema up to date; safe to run from several processes at once."""
        config = Config()
        config.set_main_option("script_location", str(files("neige").joinpath("store", "migrations")))
        with self.engine.begin() as connection:
            connection.execute(text("select pg_advisory_xact_lock(:n)"), {"n": MIGRATION_LOCK})
            config.attributes["connection"] = connection
            command.upgrade(config, "head")


def put_blob(session: Session, content: bytes) -> str:
    """Store content once; its SHA-256."""
    return put_blobs(session, [content])[0]


def put_blobs(session: Session, contents: Sequence[bytes]) -> list[str]:
    """Store each content once; their SHA-256. What is there already is not sent again."""
    if not contents:
        return []
    digests = [hashlib.sha256(c).hexdigest() for c in contents]
    session.execute(text("lock table blobs in row share mode"))  # nothing of this is an orphan until the end
    there = set(session.scalars(select(Blob.sha256).where(Blob.sha256.in_(digests))))
    new = {d: c for d, c in zip(digests, contents) if d not in there}
    if new:
        rows = [{"sha256": d, "content": c, "size": len(c)} for d, c in new.items()]
        session.execute(insert(Blob).on_conflict_do_nothing(), rows)
    return digests


def get_blob(session: Session, sha256: str) -> bytes | None:
    found = session.get(Blob, sha256)
    return found.content if found else None


def drop_orphans(session: Session) -> int:
    """Delete blobs that nothing refers to any more; how many. Whoever is storing some is waited for."""
    session.execute(text("lock table blobs in exclusive mode"))
    result: Any = session.execute(
        text(
            """delete from blobs where sha256 not in (
            select unnest(array[original, preview]) from pictures
            union select b from builds, unnest(array[reading, outline, drawn, difference, thumbnail]) b where b is not null
            union select f.value from builds, jsonb_each_text(files) f
            union select coalesce(p ->> 'name', '') from builds, jsonb_array_elements(pins) p where p ->> 'kind' = 'again'
            union select coalesce(p ->> 'name', '') from pin_states, jsonb_array_elements(pins) p where p ->> 'kind' = 'again')"""
        )
    )
    return int(result.rowcount)
