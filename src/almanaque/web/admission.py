"""How many requests are answered at once. Those beyond wait a moment in order, and those beyond that are told to come again.

A request holds a connection of the pool while its answer is made, so as many are let in as the pool has. What is turned away was not begun:
nothing of it is written.
"""

import asyncio
from collections.abc import Callable

from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

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


class Full(HTTPException):
    """Too many are waiting, or this one has waited too long."""

    def __init__(self) -> None:
        super().__init__(503)


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
    """Around the application: everything but files and probes goes through the door, when all of it has been received.

    The place is free again when the answer begins: who sends or reads slowly keeps nobody out.
    """

    def __init__(self, app: ASGIApp, door: Door, busy: Callable[[Request], Response]) -> None:
        self.app, self.door, self.busy = app, door, busy

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["path"].startswith(FREE):
            await self.app(scope, receive, send)
            return
        visit = Visit(self.door, receive, send)
        try:
            if scope["method"] in ("GET", "HEAD", "OPTIONS"):
                await visit.enter()
            await self.app(scope, visit.receive, visit.send)
        except Full:  # before anything was answered
            await self.busy(Request(scope))(scope, receive, send)
        finally:
            visit.leave()


class Visit:
    """One request on its way through the door."""

    def __init__(self, door: Door, receive: Receive, send: Send) -> None:
        self._door, self._receive, self._send = door, receive, send
        self._inside = self._been = False

    async def enter(self) -> None:
        """Go in, once. Raises Full."""
        if not self._been:
            await self._door.enter()
            self._inside = self._been = True

    def leave(self) -> None:
        if self._inside:
            self._door.leave()
        self._inside = False

    async def receive(self) -> Message:
        """The next part of the request; the last one only when there is a place."""
        message = await self._receive()
        if message["type"] == "http.request" and not message.get("more_body", False):
            await self.enter()
        return message

    async def send(self, message: Message) -> None:
        """The next part of the answer; when it begins its transaction is over."""
        if message["type"] == "http.response.start":
            self.leave()
        await self._send(message)
