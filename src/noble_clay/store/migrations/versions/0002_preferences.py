"""Preferences."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "preferences",
        sa.Column("id", sa.String, primary_key=True),
        sa.Column("values", JSONB, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("preferences")
