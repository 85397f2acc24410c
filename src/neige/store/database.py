"""Engine, sessions, migrations and blobs."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text
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
    digest = hashlib.sha256(content).hexdigest()
    session.execute(
        insert(Blob).values(sha256=digest, content=content, size=len(content)).on_conflict_do_nothing()
    )
    return digest


def get_blob(session: Session, sha256: str) -> bytes | None:
    found = session.get(Blob, sha256)
    return found.content if found else None


def drop_orphans(session: Session) -> int:
    """Delete blobs that nothing refers to any more; how many."""
    result: Any = session.execute(
        text(
            """delete from blobs b where not exists (select 1 from pictures p where p.original = b.sha256 or p.preview = b.sha256)
            and not exists (select 1 from builds u where u.reading = b.sha256 or u.outline = b.sha256 or u.drawn = b.sha256
            or u.difference = b.sha256 or u.thumbnail = b.sha256 or exists (select 1 from jsonb_each_text(u.files) f where f.value = b.sha256))
            and not exists (select 1 from projects j where j.pin_states::text like '%' || b.sha256 || '%')
            and not exists (select 1 from builds u where u.pins::text like '%' || b.sha256 || '%')"""
        )
    )
    return int(result.rowcount)
