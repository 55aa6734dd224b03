"""The tables."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import Computed, DateTime, ForeignKey, Identity, Index, LargeBinary, UniqueConstraint, false, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    pass


class PieceRow(Base):
    """A piece as it stands now. position: how many of its live edits are applied; the rest can be redone. bed: how
    it lies for printing, once that was said. in_drawer: it is a part of the maker's drawer, as its document says.
    link: to its read-only page, where it has one.
    """

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
    bed: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    link: Mapped[str | None] = mapped_column(unique=True)
    in_drawer: Mapped[bool] = mapped_column(Computed("document -> 'drawer' is not null", persisted=True), index=True)


class EditRow(Base):
    """One accepted edit: a step of its piece's history, which is a tree.

    before_id: the step that it was made after; None for the first. number: how many steps lead to it, itself counted.
    live: it is on the line that undo and redo go along. inverse: the edit of the kind `restore` that takes it back.
    document: the piece as it left it, of every so many steps. version: what the maker calls that. picture: of that,
    once somebody looked.
    """

    __tablename__ = "edits"
    __table_args__ = (
        UniqueConstraint("piece_id", "request_id"),
        Index("ix_edits_piece_id_number", "piece_id", "number", "id"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    piece_id: Mapped[str] = mapped_column(ForeignKey("pieces.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    revision: Mapped[int]
    request_id: Mapped[str]
    edit: Mapped[dict[str, Any]] = mapped_column(JSONB)
    inverse: Mapped[dict[str, Any]] = mapped_column(JSONB)
    description: Mapped[str]
    chosen: Mapped[list[str]] = mapped_column(JSONB)
    live: Mapped[bool] = mapped_column(default=True)
    before_id: Mapped[int | None] = mapped_column(ForeignKey("edits.id", ondelete="CASCADE"), index=True)
    document: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True), deferred=True)
    version: Mapped[str | None]
    picture: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class PreferencesRow(Base):
    """What the maker has changed of the preferences."""

    __tablename__ = "preferences"

    id: Mapped[str] = mapped_column(primary_key=True)
    values: Mapped[dict[str, Any]] = mapped_column(JSONB)


class JobRow(Base):
    """Long work: what is to be done, how far it is, and what came of it.

    state: waiting, running, done, failed or cancelled. attempt: counts the workers that took it; only the last may end
    it. beat_at: when its worker last said that it lives. params, result: as the kind has them. settled: a mesh that was
    read was put into the piece, or left.
    """

    __tablename__ = "jobs"

    id: Mapped[str] = mapped_column(primary_key=True)
    piece_id: Mapped[str | None] = mapped_column(ForeignKey("pieces.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    name: Mapped[str]
    state: Mapped[str] = mapped_column(default="waiting", index=True)
    progress: Mapped[float] = mapped_column(default=0.0)
    step: Mapped[str] = mapped_column(default="")
    attempt: Mapped[int] = mapped_column(default=0)
    cancel: Mapped[bool] = mapped_column(default=False)
    params: Mapped[dict[str, Any]] = mapped_column(JSONB)
    result: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    error: Mapped[str | None]
    created_at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    started_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    beat_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    settled: Mapped[bool] = mapped_column(default=False, server_default=false())


class JobFileRow(Base):
    """A file that belongs to a job, in blocks: what was sent (`input`), and what came of it for the view."""

    __tablename__ = "job_files"

    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    name: Mapped[str] = mapped_column(primary_key=True)
    block: Mapped[int] = mapped_column(primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class FindingsRow(Base):
    """What was found in a mesh asset, with the places."""

    __tablename__ = "findings"

    sha256: Mapped[str] = mapped_column(primary_key=True)
    values: Mapped[dict[str, Any]] = mapped_column(JSONB)


class AssetRow(Base):
    """A mesh brought in or mended, as GLB; or a reference picture."""

    __tablename__ = "assets"

    sha256: Mapped[str] = mapped_column(primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
