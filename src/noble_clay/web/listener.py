"""One connection that hears of every change on a channel of the database, and wakes those who wait for one."""

from __future__ import annotations

import asyncio
from contextlib import suppress

import psycopg

from noble_clay.store.database import plain_url


class Listener:
    """Listens from the first who joins on; a connection that breaks is made again."""

    def __init__(self, channel: str) -> None:
        self._channel = channel
        self._waiting: set[asyncio.Queue[str]] = set()
        self._task: asyncio.Task[None] | None = None

    def join(self) -> asyncio.Queue[str]:
        """What is told from now on, with an empty word first, and again whenever something may have been missed."""
        self._task = self._task or asyncio.create_task(self._listen())
        queue: asyncio.Queue[str] = asyncio.Queue(1000)
        self._waiting.add(queue)
        queue.put_nowait("")  # what changed before
        return queue

    def leave(self, queue: asyncio.Queue[str]) -> None:
        self._waiting.discard(queue)

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(plain_url(), autocommit=True) as connection:
                    await connection.execute(f"listen {self._channel}")
                    self._wake("")  # what changed while nobody listened
                    async for notify in connection.notifies():
                        self._wake(notify.payload)
            except (psycopg.Error, OSError):
                await asyncio.sleep(1)

    def _wake(self, word: str) -> None:
        for queue in self._waiting:
            with suppress(asyncio.QueueFull):
                queue.put_nowait(word)
