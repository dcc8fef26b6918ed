"""How many requests are answered at once. Those beyond wait a moment in order, and those beyond that are told to come again.

A request holds a connection of the pool while it is answered, so as many are let in as the pool has. What is turned away was not begun:
nothing of it is written.
"""

import asyncio
from collections.abc import Callable

from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

QUEUED = 60  # how many may wait: a class and its neighbours at the bell
WAIT_S = 10.0  # how long they may
RETRY_AFTER_S = 2
FREE = (
    "/static/",
    "/healthz",
    "/readyz",
    "/field/worker.js",
    "/field/manifest",
)  # what asks the database for nothing, or has its own


class Full(Exception):
    """Too many are waiting, or this one has waited too long."""


class Door:
    """Lets so many in at once. `asyncio.Semaphore` is fair: who waits longest comes next."""

    def __init__(self, at_once: int, *, queued: int = QUEUED, wait_s: float = WAIT_S) -> None:
        self._places, self._queued, self._wait_s = asyncio.Semaphore(at_once), queued, wait_s
        self._waiting = 0

    async def enter(self) -> None:
        """Wait for a place. Raises Full."""
        if not self._places.locked():
            await self._places.acquire()
            return
        if self._waiting >= self._queued:
            raise Full
        self._waiting += 1
        try:
            await asyncio.wait_for(self._places.acquire(), self._wait_s)
        except TimeoutError:
            raise Full from None
        finally:
            self._waiting -= 1

    def leave(self) -> None:
        self._places.release()


class Admission:
    """Around the application: everything but files and probes goes through the door."""

    def __init__(self, app: ASGIApp, door: Door, busy: Callable[[Request], Response]) -> None:
        self.app, self.door, self.busy = app, door, busy

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].startswith(FREE):
            await self.app(scope, receive, send)
            return
        try:
            await self.door.enter()
        except Full:
            await self.busy(Request(scope))(scope, receive, send)
            return
        try:
            await self.app(scope, receive, send)
        finally:
            self.door.leave()
