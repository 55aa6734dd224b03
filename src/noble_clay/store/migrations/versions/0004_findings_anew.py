"""Findings tell how much each flaw matters: those kept before are forgotten, and looked for again when asked for."""

from __future__ import annotations

from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.execute("DELETE FROM findings")


def downgrade() -> None:
    op.execute("DELETE FROM findings")
