"""The link to a read-only page of a piece."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("pieces", sa.Column("link", sa.String, nullable=True))
    op.create_unique_constraint("uq_pieces_link", "pieces", ["link"])


def downgrade() -> None:
    op.drop_constraint("uq_pieces_link", "pieces")
    op.drop_column("pieces", "link")
