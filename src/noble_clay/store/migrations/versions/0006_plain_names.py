"""Columns and kinds of job by plain names; what was asked of mending a mesh is its `options`."""

from __future__ import annotations

from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.alter_column("edits", "said", new_column_name="description")
    op.alter_column("jobs", "asked", new_column_name="params")
    op.execute("UPDATE jobs SET kind = 'inspect' WHERE kind = 'look_over'")
    _rename_options("wishes", "options")


def downgrade() -> None:
    _rename_options("options", "wishes")
    op.execute("UPDATE jobs SET kind = 'look_over' WHERE kind = 'inspect'")
    op.alter_column("jobs", "params", new_column_name="asked")
    op.alter_column("edits", "description", new_column_name="said")


def _rename_options(old: str, new: str) -> None:
    of_mending = "kind IN ('mend', 'rehearse')"
    op.execute(f"""UPDATE jobs SET params = replace(params::text, '"{old}":', '"{new}":')::jsonb WHERE {of_mending}""")
