"""How a piece lies on the bed, when its maker has said so."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("pieces", sa.Column("bed", JSONB, nullable=True))


def downgrade() -> None:
    op.drop_column("pieces", "bed")
