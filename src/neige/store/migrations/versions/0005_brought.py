"""Brought pages: somebody's own page, proven against a project's picture, is a build of its own kind."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("builds", sa.Column("kind", sa.String(16), nullable=False, server_default="written"))
    op.add_column("builds", sa.Column("origin", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("builds", "origin")
    op.drop_column("builds", "kind")
