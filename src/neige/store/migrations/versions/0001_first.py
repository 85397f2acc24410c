"""Projects, pictures, builds, blobs, and the queue's own schema."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from procrastinate.testing import InMemoryConnector
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.create_table(
        "blobs",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("content", sa.LargeBinary, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
    )
    op.create_table(
        "projects",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("name", sa.Text, nullable=False),
        sa.Column("created_at", moment, nullable=False),
        sa.Column("touched_at", moment, nullable=False),
    )

    def blob(name, nullable=False):
        return sa.Column(name, sa.String(64), sa.ForeignKey("blobs.sha256"), nullable=nullable)

    op.create_table(
        "pictures",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "project_id",
            sa.Uuid,
            sa.ForeignKey("projects.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("name", sa.Text, nullable=False),
        blob("original"),
        blob("preview"),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("scale", sa.Integer, nullable=False),
        sa.Column("created_at", moment, nullable=False),
    )
    op.create_table(
        "builds",
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column(
            "project_id",
            sa.Uuid,
            sa.ForeignKey("projects.id", ondelete="CASCADE"),
            nullable=False,
            index=True,
        ),
        sa.Column("picture_id", sa.Uuid, sa.ForeignKey("pictures.id", ondelete="CASCADE"), nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("job", sa.Integer),
        sa.Column("attempt", sa.Integer, nullable=False),
        sa.Column("steps", JSONB, nullable=False),
        sa.Column("error", sa.Text),
        sa.Column("proof", JSONB),
        sa.Column("files", JSONB, nullable=False),
        blob("reading", True),
        blob("drawn", True),
        blob("difference", True),
        blob("thumbnail", True),
        sa.Column("created_at", moment, nullable=False),
        sa.Column("finished_at", moment),
    )
    schema = SchemaManager(InMemoryConnector()).get_schema().replace("%", "%%")
    op.get_bind().exec_driver_sql(schema)
