"""What is not needed any more goes: ended jobs, meshes that no piece and no step of one names, findings of such."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from sqlalchemy import delete, text
from sqlalchemy.orm import Session

from noble_clay.store.jobs import ENDED
from noble_clay.store.tables import JobRow

JOB_DAYS = 30
"""Ended jobs, with what they keep for comparing before and after."""

ASSET_DAYS = 7
"""Meshes that nothing names; so long, something that is under way may still come to name them."""

_UNUSED = text("""
    delete from assets where at < :before and sha256 not in (
        select jsonb_path_query(document, '$.**.asset ? (@.type() == "string")') #>> '{}' from pieces
        union select jsonb_path_query(edit, '$.**.asset ? (@.type() == "string")') #>> '{}' from edits
        union select jsonb_path_query(inverse, '$.**.asset ? (@.type() == "string")') #>> '{}' from edits
        union select jsonb_path_query(params, '$.**.sha256 ? (@.type() == "string")') #>> '{}' from jobs
        union select jsonb_path_query(result, '$.**.sha256 ? (@.type() == "string")') #>> '{}' from jobs
    )
    returning sha256
""")
_FINDINGS = text("delete from findings where sha256 not in (select sha256 from assets)")


def tidy_up(session: Session, now: datetime | None = None) -> dict[str, int]:
    """Delete what is not needed any more; how many jobs and assets that were."""
    now = now or datetime.now(UTC)
    old = JobRow.state.in_(ENDED), JobRow.ended_at < now - timedelta(days=JOB_DAYS)
    jobs = session.scalars(delete(JobRow).where(*old).returning(JobRow.id)).all()
    assets = session.scalars(_UNUSED, {"before": now - timedelta(days=ASSET_DAYS)}).all()
    session.execute(_FINDINGS)
    return {"jobs": len(jobs), "assets": len(assets)}
