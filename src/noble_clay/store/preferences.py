"""The maker's preferences: one record, since one maker works here."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from noble_clay.store.tables import PreferencesRow

MAKER = "maker"


def load_preferences(session: Session) -> dict[str, Any]:
    """What was kept; empty at first."""
    return session.scalar(select(PreferencesRow.values).where(PreferencesRow.id == MAKER)) or {}


def keep_preferences(session: Session, values: dict[str, Any]) -> None:
    put = insert(PreferencesRow).values(id=MAKER, values=values)
    session.execute(put.on_conflict_do_update(index_elements=["id"], set_={"values": values}))
