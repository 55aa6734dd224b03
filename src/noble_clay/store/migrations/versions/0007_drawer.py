"""Pieces that lie in the parts drawer: their documents say so."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    lies_there = sa.Computed("document -> 'drawer' is not null", persisted=True)
    op.add_column("pieces", sa.Column("in_drawer", sa.Boolean, lies_there, nullable=False))
    op.create_index("ix_pieces_in_drawer", "pieces", ["in_drawer"])


def downgrade() -> None:
    op.drop_column("pieces", "in_drawer")
