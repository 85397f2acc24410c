"""Pin states: each in a row of its own, so that a change writes one of them; blobs are not compressed, for most of them are."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pin_states",
        sa.Column("project_id", sa.Uuid, sa.ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("n", sa.Integer, primary_key=True),
        sa.Column("pins", JSONB, nullable=False),
    )
    op.execute(
        """insert into pin_states (project_id, n, pins) select p.id, s.at - 1, s.pins
        from projects p, jsonb_array_elements(p.pin_states) with ordinality as s(pins, at)"""
    )
    op.drop_column("projects", "pin_states")
    op.execute("alter table blobs alter column content set storage external")


def downgrade() -> None:
    op.add_column("projects", sa.Column("pin_states", JSONB, nullable=False, server_default="[[]]"))
    op.execute(
        """update projects p set pin_states = s.states, pin_at = p.pin_at - s.first
        from (select project_id, jsonb_agg(pins order by n) as states, min(n) as first from pin_states group by 1) s
        where s.project_id = p.id"""
    )
    op.drop_table("pin_states")
    op.execute("alter table blobs alter column content set storage extended")
