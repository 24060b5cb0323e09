"""Heavy work: little of it at a time, and none for somebody who has gone."""

from __future__ import annotations

import asyncio
import contextlib
from collections.abc import AsyncIterator
from weakref import WeakKeyDictionary

import anyio
from fastapi import Depends, Request

from fenwit.core.work import Abandoned, looking_up
from fenwit.store.errors import Busy

AT_ONCE, MOST_WAITING = 2, 24
"""Pieces of heavy work in one process: at a time, and waiting for their turn [-]"""
_LOOK_SECONDS = 0.25


class _Turns:
    """Whose turn it is in one event loop."""

    def __init__(self) -> None:
        self.room = anyio.Semaphore(AT_ONCE)
        self.waiting = 0


_turns: WeakKeyDictionary[asyncio.AbstractEventLoop, _Turns] = WeakKeyDictionary()


async def _heavy(request: Request) -> AsyncIterator[None]:
    # The body first: what is received after it is only that the client has gone.
    await request.body()
    turns = _turns.setdefault(asyncio.get_running_loop(), _Turns())
    if turns.waiting >= MOST_WAITING:
        raise Busy("too much is asked at once")
    turns.waiting += 1
    try:
        await turns.room.acquire()
    finally:
        turns.waiting -= 1
    gone = asyncio.Event()

    async def watch() -> None:
        while not await request.is_disconnected():
            await asyncio.sleep(_LOOK_SECONDS)
        gone.set()

    def look() -> None:
        if gone.is_set():
            raise Abandoned

    watching = asyncio.create_task(watch())
    try:
        with looking_up(look):
            yield
    finally:
        turns.room.release()
        watching.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await watching


HEAVY = Depends(_heavy)
"""A dependency of routes that take long"""
