"""Trim: what is cut off a picture's four sides."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("pictures", sa.Column("trim", JSONB, nullable=False, server_default="[0, 0, 0, 0]"))


def downgrade() -> None:
    op.drop_column("pictures", "trim")
