"""Jobs, their files, findings of mesh assets, and the queue's own tables."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.create_table(
        "jobs",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("piece_id", sa.String, sa.ForeignKey("pieces.id", ondelete="CASCADE"), index=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False, index=True),
        sa.Column("progress", sa.Float, nullable=False),
        sa.Column("step", sa.String, nullable=False),
        sa.Column("attempt", sa.Integer, nullable=False),
        sa.Column("cancel", sa.Boolean, nullable=False),
        sa.Column("asked", JSONB, nullable=False),
        sa.Column("result", JSONB),
        sa.Column("error", sa.String),
        sa.Column("created_at", moment, server_default=sa.func.now(), nullable=False),
        sa.Column("started_at", moment),
        sa.Column("ended_at", moment),
        sa.Column("beat_at", moment),
    )
    op.create_table(
        "job_files",
        sa.Column("job_id", sa.String, sa.ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("name", sa.String, primary_key=True),
        sa.Column("block", sa.Integer, primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "findings",
        sa.Column("sha256", sa.String, primary_key=True),
        sa.Column("values", JSONB, nullable=False),
    )
    # Many statements at once, with signs that SQLAlchemy would read as its own: given to the driver as they are.
    op.get_bind().connection.driver_connection.execute(SchemaManager.get_schema())  # type: ignore[union-attr]


def downgrade() -> None:
    for table in ("findings", "job_files", "jobs"):
        op.drop_table(table)
