"""Alembic runs on the connection it is given (see store.database); the queue's own tables are left out of comparisons."""

from typing import Any

from alembic import context

from neige.store.models import Base


def ours(name: str | None, kind: str, parents: Any) -> bool:
    return kind != "table" or not (name or "").startswith("procrastinate_")


context.configure(
    connection=context.config.attributes["connection"], target_metadata=Base.metadata, include_name=ours
)
with context.begin_transaction():
    context.run_migrations()
