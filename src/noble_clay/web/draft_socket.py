"""Drafts over a socket: what a piece would be while parts of it are dragged; the newest question wins.

A question is JSON: `n` counts up, `revision` is what the edit is made on, `edit` as for `/edits`. An answer is binary:
`n` (uint32, little-endian) and the draft of `noble_clay.solvers.draft_bytes`; or JSON, `n` and why not, a `message`.
"""

from __future__ import annotations

import asyncio
import struct
from contextlib import suppress
from typing import Annotated, Any

from fastapi import APIRouter, WebSocket
from pydantic import BaseModel, Field, ValidationError
from sqlalchemy.exc import SQLAlchemyError
from starlette.concurrency import run_in_threadpool
from starlette.websockets import WebSocketDisconnect

from noble_clay.core.errors import ClayError
from noble_clay.store import pieces as store
from noble_clay.web.pieces import PieceId
from noble_clay.web.state import Workshop, answered

router = APIRouter()


class DraftQuestion(BaseModel):
    n: Annotated[int, Field(ge=0, lt=2**32)]
    revision: int
    edit: dict[str, Any]


class _Newest:
    """Holds the newest question; the ones that it overtakes are never answered."""

    def __init__(self) -> None:
        self._question: DraftQuestion | None = None
        self._there = asyncio.Event()

    def put(self, question: DraftQuestion) -> None:
        self._question = question
        self._there.set()

    async def take(self) -> DraftQuestion:
        await self._there.wait()
        self._there.clear()
        assert self._question is not None
        return self._question


@router.websocket("/api/pieces/{piece_id}/drafts")
async def drafts(socket: WebSocket, piece_id: PieceId) -> None:
    """Answer until the page goes away."""
    await socket.accept()
    newest = _Newest()
    answering = asyncio.create_task(_answer(socket, piece_id, newest))
    try:
        while True:
            text = await socket.receive_text()
            try:
                newest.put(DraftQuestion.model_validate_json(text))
            except ValidationError:
                await socket.send_json({"n": -1, "message": "this is no question for a draft"})
    except (WebSocketDisconnect, RuntimeError):  # gone, also in the middle of an answer
        pass
    finally:
        answering.cancel()


async def _answer(socket: WebSocket, piece_id: str, newest: _Newest) -> None:
    shop: Workshop = socket.app.state.workshop
    with suppress(WebSocketDisconnect, RuntimeError):
        while True:
            question = await newest.take()
            try:
                draft = await _draft(shop, piece_id, question)
                await socket.send_bytes(struct.pack("<I", question.n) + draft)
            except (ClayError, SQLAlchemyError) as error:
                message = str(error) if isinstance(error, ClayError) else "the database does not answer just now"
                await socket.send_json({"n": question.n, "message": message})


async def _draft(shop: Workshop, piece_id: str, question: DraftQuestion) -> bytes:
    found = await answered(shop.desk.draft(piece_id, question.revision, None, question.edit))
    if found is None:
        kept = await shop.load(piece_id)
        if kept.revision != question.revision:
            raise store.StaleRevision("the piece has changed since")
        document = await run_in_threadpool(kept.piece.dump)
        found = await answered(shop.desk.draft(piece_id, question.revision, document, question.edit))
    draft: bytes = found
    return draft
