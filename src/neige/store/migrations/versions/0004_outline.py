"""Outline: what a build's parts are, with their three faces, and what the check of it found."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("builds", sa.Column("outline", sa.String(64), sa.ForeignKey("blobs.sha256"), nullable=True))


def downgrade() -> None:
    op.drop_column("builds", "outline")
