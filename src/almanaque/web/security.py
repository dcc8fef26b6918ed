"""Sessions, form tokens, response headers and the limit on what may be sent.

A session is a random token in a cookie; the database keeps only its hash. A form token is an HMAC over that cookie (or,
before logging in, over a cookie of its own), so that a page of another site cannot write in somebody's name.
"""

import hashlib
import hmac
import secrets
from collections.abc import AsyncIterator, Awaitable, Callable, MutableMapping
from datetime import timedelta
from typing import Any

from fastapi import Request, Response
from starlette.datastructures import FormData
from starlette.exceptions import HTTPException

from almanaque.core.errors import BadInput

SESSION_COOKIE = "almanaque_session"
# Beside the session's, so that following the link of a pass logs nobody out.
PASS_COOKIE = "almanaque_pass"  # noqa: S105 - the name of a cookie
FORM_COOKIE = "almanaque_form"
TOKEN_FIELD = "form_token"  # noqa: S105 - the name of a form field
TOKEN_HEADER = "X-Form-Token"  # noqa: S105 - the name of a header
SESSION_LASTS = timedelta(days=14)
SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
BODY_LIMIT = 1_000_000
PHOTO_LIMIT = 12_300_000
# Addresses that take files, or the many rows of a file's preview: the file's own limit and a little for the form.
LARGER_LIMITS = {
    "/school/import": 2_200_000,
    "/school/import/save": 4_000_000,
    "/school/weather/import": 8_200_000,
    "/school/formats/school": 64_000_000,
    "/school/formats/past": 4_200_000,
    "/field/photos": PHOTO_LIMIT,
}
MOST_FIELDS = {"/school/import/save": 60_000}
TYPED = (
    "body",
    "note",
    "name",
    "amount",
    "squares",
    "about",
    "evidence",
    "gives",
    "label",
    "what",
    "greeting",
    "how_to",
    "caution",
    "task",
)  # fields people write in

CONTENT_SECURITY_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; manifest-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": CONTENT_SECURITY_POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
}


class NotLoggedIn(Exception):
    """Send the visitor to the login page and back."""


class NotAllowed(Exception):
    """The role does not allow it; `str(error)` says what it would take."""


class ForgedForm(Exception):
    """A write whose form token or origin is not ours."""


class TooLarge(HTTPException):
    """More was sent than the address takes; `limit` in bytes."""

    def __init__(self, limit: int = BODY_LIMIT) -> None:
        super().__init__(413)
        self.limit = limit


def new_token() -> str:
    return secrets.token_urlsafe(32)


def token_hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def form_token(request: Request) -> str:
    """The token that forms of this visitor must carry; empty before there is any cookie to bind it to."""
    bound = next(
        (found for name in (SESSION_COOKIE, PASS_COOKIE, FORM_COOKIE) if (found := request.cookies.get(name))), ""
    )
    return sign(request.app.state.settings.secret, bound) if bound else ""


def sign(secret: str, bound: str) -> str:
    return hmac.new(secret.encode(), bound.encode(), "sha256").hexdigest()


async def guard_writes(request: Request) -> AsyncIterator[None]:
    """Refuse any write that does not come from one of our own pages. Stands before every route, and closes the form after it."""
    if request.method in SAFE_METHODS:
        yield
        return
    site = request.headers.get("Sec-Fetch-Site", "same-origin")
    origin = request.headers.get("Origin")
    if site != "same-origin" or (origin is not None and origin.partition("://")[2] != request.headers.get("Host")):
        raise ForgedForm
    form = await request.form(max_fields=MOST_FIELDS.get(request.url.path, 1000), max_files=2)
    try:
        _check_form(request, form)
        yield
    finally:
        await form.close()


def _check_form(request: Request, form: FormData) -> None:
    request.state.form = form
    # Kept for the error page, so that what somebody wrote is not lost with the answer.
    request.state.typed = [
        (name, value)
        for name, value in form.multi_items()
        if name in TYPED and isinstance(value, str) and value.strip()
    ]
    if any("\0" in value for _, value in form.multi_items() if isinstance(value, str)):
        raise BadInput("The text holds a character that no keyboard makes and nothing can keep. Type it anew.")
    value = form.get(TOKEN_FIELD, "")
    given = request.headers.get(TOKEN_HEADER, "") or (value if isinstance(value, str) else "")
    wanted = form_token(request)
    if not wanted or not hmac.compare_digest(given.encode(), wanted.encode()):
        raise ForgedForm


def set_cookie(response: Response, request: Request, name: str, value: str, *, lasts: timedelta | None) -> None:
    response.set_cookie(
        name,
        value,
        max_age=int(lasts.total_seconds()) if lasts else None,
        httponly=True,
        samesite="lax",
        secure=request.app.state.settings.secure_cookies,
        path="/",
    )


def limit_for(path: str) -> int:
    """How many bytes an address takes; that of a station may bring a picture."""
    if path.startswith("/week/stations/") and path.count("/") == 3:
        return PHOTO_LIMIT
    return LARGER_LIMITS.get(path, BODY_LIMIT)


Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]


class Shell:
    """Around the whole application: security headers on every answer, and no body above the limit."""

    def __init__(self, app: Callable[[Scope, Receive, Send], Awaitable[None]]) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        seen = 0
        limit = limit_for(scope["path"])
        announced = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")

        async def limited() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            # What announces itself as too large is not read at all.
            if seen > limit or (announced.isdigit() and int(announced) > limit):
                raise TooLarge(limit)
            return message

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                present = {name.lower() for name, _ in message["headers"]}
                extra = [
                    (k.lower().encode(), v.encode()) for k, v in HEADERS.items() if k.lower().encode() not in present
                ]
                if b"cache-control" not in present:
                    extra.append((b"cache-control", b"no-store"))
                message["headers"] = [*message["headers"], *extra]
            await send(message)

        await self.app(scope, limited, with_headers)
