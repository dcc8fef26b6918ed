"""Nothing large is parsed for somebody who may not send it: login and right are asked for before the first byte is read.

A form as people fill it in is small, and is parsed whoever they are by now, so that what they wrote can be given back to them.
"""

import re
from collections.abc import Awaitable, Callable, Iterable

from fastapi import Request, Response
from starlette.concurrency import run_in_threadpool

from almanaque.web.security import FORM_BYTES, NotAllowed, NotLoggedIn, Receive, Scope, Send

Asks = Callable[[Request], object]


class Entitled:
    """Around the application: a write that is not small is refused with `refuse` before it is read where `wanted` raises."""

    def __init__(
        self,
        app: Callable[[Scope, Receive, Send], Awaitable[None]],
        wanted: Iterable[tuple[re.Pattern[str], Asks]],
        refuse: Callable[[Request, Exception], Response],
    ) -> None:
        self.app, self.wanted, self.refuse = app, tuple(wanted), refuse

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["method"] == "POST" and not _is_small(scope):
            request = Request(scope)
            try:
                for pattern, asks in self.wanted:
                    if pattern.fullmatch(scope["path"]):
                        await run_in_threadpool(asks, request)
                        break
            except (NotLoggedIn, NotAllowed) as error:
                await self.refuse(request, error)(scope, receive, send)
                return
        await self.app(scope, receive, send)


def _is_small(scope: Scope) -> bool:
    """It says so itself; what says nothing of its size may be of any."""
    announced = next((value for name, value in scope["headers"] if name == b"content-length"), b"")
    return announced.isdigit() and int(announced) <= FORM_BYTES
