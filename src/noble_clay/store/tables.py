"""The tables."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import DateTime, ForeignKey, Identity, LargeBinary, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    pass


class PieceRow(Base):
    """A piece as it stands now. position: how many of its live edits are applied; the rest can be redone."""

    __tablename__ = "pieces"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    revision: Mapped[int] = mapped_column(default=0)
    position: Mapped[int] = mapped_column(default=0)
    demo: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    changed_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    binned_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    thumbnail: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    thumbnail_revision: Mapped[int | None]
    soundness: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    soundness_revision: Mapped[int | None]


class EditRow(Base):
    """One accepted edit. Never changed but for `live`: an edit undone and then overtaken by another is no longer."""

    __tablename__ = "edits"
    __table_args__ = (UniqueConstraint("piece_id", "request_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    piece_id: Mapped[str] = mapped_column(ForeignKey("pieces.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    revision: Mapped[int]
    request_id: Mapped[str]
    edit: Mapped[dict[str, Any]] = mapped_column(JSONB)
    inverse: Mapped[dict[str, Any]] = mapped_column(JSONB)
    said: Mapped[str]
    chosen: Mapped[list[str]] = mapped_column(JSONB)
    live: Mapped[bool] = mapped_column(default=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class PreferencesRow(Base):
    """What the maker has changed of the preferences."""

    __tablename__ = "preferences"

    id: Mapped[str] = mapped_column(primary_key=True)
    values: Mapped[dict[str, Any]] = mapped_column(JSONB)


class AssetRow(Base):
    """A mesh brought in or mended, as GLB."""

    __tablename__ = "assets"

    sha256: Mapped[str] = mapped_column(primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
