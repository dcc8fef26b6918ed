"""A client that answers in its own thread: what the application hands to other threads runs on the spot.

A request through the usual test client changes threads some twelve times, which takes as long as most answers. Tests in
which two requests run at once have a database of their own and keep the usual client.
"""

import asyncio
from collections.abc import Callable, MutableMapping
from typing import Any
from urllib.parse import unquote

import anyio.to_thread
import httpx2
from fastapi import FastAPI
from fastapi.testclient import TestClient

BASE = "http://testserver"
Message = MutableMapping[str, Any]
_loops: set[asyncio.AbstractEventLoop] = set()
_in_a_thread = anyio.to_thread.run_sync


async def _on_the_spot(call: Callable[..., Any], *args: Any, **how: Any) -> Any:
    """As `anyio.to_thread.run_sync`, without another thread where one of our loops asks."""
    if asyncio.get_running_loop() in _loops:
        return call(*args)
    return await _in_a_thread(call, *args, **how)


class InlineTransport(httpx2.BaseTransport):
    """Answers each request from the application, whole, before it returns."""

    def __init__(self, app: FastAPI) -> None:
        self.app, self.loop = app, asyncio.new_event_loop()
        _loops.add(self.loop)
        anyio.to_thread.run_sync = _on_the_spot
        self.lifespan = app.router.lifespan_context(app)
        self.loop.run_until_complete(self.lifespan.__aenter__())

    def close(self) -> None:
        self.loop.run_until_complete(self.lifespan.__aexit__(None, None, None))
        _loops.discard(self.loop)
        self.loop.close()

    def handle_request(self, request: httpx2.Request) -> httpx2.Response:
        answer = self.loop.run_until_complete(self._answer(request, request.read()))
        return httpx2.Response(**answer, request=request)

    async def _answer(self, request: httpx2.Request, body: bytes) -> dict[str, Any]:
        url = request.url
        scope = {
            "type": "http",
            "asgi": {"version": "3.0"},
            "http_version": "1.1",
            "method": request.method,
            "path": unquote(url.path),
            "raw_path": url.raw_path.split(b"?", 1)[0],
            "root_path": "",
            "scheme": url.scheme,
            "query_string": url.query,
            "headers": [(name.lower().encode(), value.encode()) for name, value in request.headers.multi_items()],
            "client": ("testclient", 50000),
            "server": (url.host, url.port or 80),
            "state": {},
        }
        asked = [{"type": "http.request", "body": body, "more_body": False}]
        said: list[Message] = []

        async def receive() -> Message:
            return asked.pop() if asked else {"type": "http.disconnect"}

        async def send(message: Message) -> None:
            said.append(message)

        try:
            await self.app(scope, receive, send)
        except Exception:  # the application answers first, then raises for the server's log
            if not said:
                raise
        start = next(message for message in said if message["type"] == "http.response.start")
        content = b"".join(message.get("body", b"") for message in said if message["type"] == "http.response.body")
        headers = [(name.decode(), value.decode()) for name, value in start.get("headers", [])]
        return {"status_code": start["status"], "headers": headers, "content": content}


class InlineClient(TestClient):
    """`TestClient` over an `InlineTransport`; its answers are not compressed."""

    def __init__(self, app: FastAPI) -> None:
        super().__init__(app, base_url=BASE, headers={"accept-encoding": "identity"})
        self._transport = InlineTransport(app)

    def __enter__(self) -> "InlineClient":
        return self

    def __exit__(self, *_: object) -> None:
        self._transport.close()
