"""The history as a tree: what an edit was made after; the document, the name and the picture of what it left."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"

BEFORE = """
update edits set before_id = (
    select max(earlier.id) from edits earlier
    where earlier.piece_id = edits.piece_id and earlier.number = edits.number - 1 and earlier.id < edits.id
)
"""
"""An edit was made after the newest of one number less: making that had put away all others of its number."""


def upgrade() -> None:
    op.add_column("edits", sa.Column("before_id", sa.Integer, sa.ForeignKey("edits.id", ondelete="CASCADE")))
    op.add_column("edits", sa.Column("document", JSONB))
    op.add_column("edits", sa.Column("version", sa.String))
    op.add_column("edits", sa.Column("picture", sa.LargeBinary))
    op.create_index("ix_edits_before_id", "edits", ["before_id"])
    op.create_index("ix_edits_piece_id_number", "edits", ["piece_id", "number", "id"])
    op.execute(BEFORE)


def downgrade() -> None:
    op.drop_index("ix_edits_piece_id_number", "edits")
    for column in ("picture", "version", "document", "before_id"):
        op.drop_column("edits", column)
