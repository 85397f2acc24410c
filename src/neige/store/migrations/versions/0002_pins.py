"""Pins: a project's corrections with their history, and the ones each build was made with."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("projects", sa.Column("pin_states", JSONB, nullable=False, server_default="[[]]"))
    op.add_column("projects", sa.Column("pin_at", sa.Integer, nullable=False, server_default="0"))
    op.add_column("builds", sa.Column("pins", JSONB, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("builds", "pins")
    op.drop_column("projects", "pin_at")
    op.drop_column("projects", "pin_states")
