"""Meshes that were read, and what became of them: put into the piece or left; none of before is asked about again."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("jobs", sa.Column("settled", sa.Boolean, nullable=False, server_default=sa.true()))
    op.alter_column("jobs", "settled", server_default=sa.false())


def downgrade() -> None:
    op.drop_column("jobs", "settled")
