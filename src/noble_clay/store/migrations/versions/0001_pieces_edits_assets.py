"""Pieces, their edits, and mesh assets."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None


def _time(name: str, **options: Any) -> sa.Column[Any]:
    return sa.Column(name, sa.DateTime(timezone=True), **options)


def upgrade() -> None:
    op.create_table(
        "pieces",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("demo", sa.Boolean, nullable=False),
        _time("created_at", server_default=sa.func.now(), nullable=False),
        _time("changed_at", server_default=sa.func.now(), nullable=False),
        _time("binned_at"),
        sa.Column("thumbnail", sa.LargeBinary),
        sa.Column("thumbnail_revision", sa.Integer),
        sa.Column("soundness", JSONB),
        sa.Column("soundness_revision", sa.Integer),
    )
    op.create_table(
        "edits",
        sa.Column("id", sa.Integer, sa.Identity(), primary_key=True),
        sa.Column("piece_id", sa.String, sa.ForeignKey("pieces.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("request_id", sa.String, nullable=False),
        sa.Column("edit", JSONB, nullable=False),
        sa.Column("inverse", JSONB, nullable=False),
        sa.Column("said", sa.String, nullable=False),
        sa.Column("chosen", JSONB, nullable=False),
        sa.Column("live", sa.Boolean, nullable=False),
        _time("at", server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("piece_id", "request_id"),
    )
    op.create_table(
        "assets",
        sa.Column("sha256", sa.String, primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
        _time("at", server_default=sa.func.now(), nullable=False),
    )


def downgrade() -> None:
    for table in ("assets", "edits", "pieces"):
        op.drop_table(table)
