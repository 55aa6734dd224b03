"""What the sockets have in common."""

from __future__ import annotations

from contextlib import suppress

from fastapi import WebSocket
from starlette.websockets import WebSocketDisconnect


async def until_gone(socket: WebSocket) -> None:
    """Return when the page has gone away."""
    with suppress(WebSocketDisconnect, RuntimeError):
        while True:
            await socket.receive_text()
