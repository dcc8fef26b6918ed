"""Sessions, form tokens, response headers and the limit on what may be sent.

A session is a random token in a cookie; the database keeps only its hash. A form token is an HMAC over that cookie (or,
before logging in, over a cookie of its own), so that a page of another site cannot write in somebody's name.
"""

import hashlib
import hmac
import re
import secrets
from collections.abc import AsyncIterator, Awaitable, Callable, Iterable, Iterator, MutableMapping
from dataclasses import dataclass
from datetime import timedelta
from ipaddress import IPv6Address, ip_address, ip_network
from typing import Any, TypeVar

from fastapi import APIRouter, Request, Response
from starlette.datastructures import FormData
from starlette.exceptions import HTTPException
from starlette.routing import BaseRoute

from almanaque.core.errors import BadInput
from almanaque.web.written_fields import is_written

SESSION_COOKIE = "almanaque_session"
# Beside the session's, so that following the link of a pass logs nobody out.
PASS_COOKIE = "almanaque_pass"  # noqa: S105 - the name of a cookie
FORM_COOKIE = "almanaque_form"
HALF_COOKIE = "almanaque_half"  # the password was right, the code is still asked for
CLASS_COOKIE = "almanaque_class"  # a tablet that came in by a class's code
KNOWN_COOKIE = "almanaque_known"  # this browser has logged in to these accounts before
TOKEN_FIELD = "form_token"  # noqa: S105 - the name of a form field
TOKEN_HEADER = "X-Form-Token"  # noqa: S105 - the name of a header
SESSION_LASTS = timedelta(days=14)
SAFE_METHODS = frozenset({"GET", "HEAD", "OPTIONS"})
BODY_LIMIT = 1_000_000
FORM_BYTES = 300_000  # what a form sends beside its file
MOST_FIELDS = 1000
HERE = frozenset({"127.0.0.1", "localhost"})  # whoever asks by these sits at this computer
LONGEST_LINE = 10_000  # characters of a value without a line's end: far more than any of ours holds

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
ONLY_HTTPS = {"Strict-Transport-Security": "max-age=31536000"}


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


@dataclass(frozen=True)
class Takes:
    """What an address takes: bytes of the whole body, and fields of a form."""

    size: int = BODY_LIMIT
    fields: int = MOST_FIELDS


Endpoint = TypeVar("Endpoint", bound=Callable[..., Any])


def takes(*, size: int = BODY_LIMIT, fields: int = MOST_FIELDS) -> Callable[[Endpoint], Endpoint]:
    """Say at a route that it takes more than usual: a file's own limit [bytes] and a little for the form, or many fields."""

    def declare(endpoint: Endpoint) -> Endpoint:
        endpoint.__dict__["takes"] = Takes(size, fields)
        return endpoint

    return declare


def declared(router: APIRouter) -> Iterator[tuple[re.Pattern[str], Takes]]:
    """What the routes of a module that write have declared, by the pattern of their addresses."""
    for route in router.routes:
        found = getattr(getattr(route, "endpoint", None), "takes", None)
        if found is not None:
            yield _pattern(route), found


def wanted(router: APIRouter) -> Iterator[tuple[re.Pattern[str], Callable[[Request], object]]]:
    """What asks for the visitor's right at each address of a module that writes, by the pattern of the address."""
    for route in router.routes:
        if "POST" in (getattr(route, "methods", None) or ()):
            for needed in getattr(route, "dependant").dependencies:  # noqa: B009 - not every kind of route has it
                if hasattr(needed.call, "right"):
                    yield _pattern(route), needed.call


def _pattern(route: BaseRoute) -> re.Pattern[str]:
    return re.compile(re.sub(r"\{[^}]+\}", "[^/]+", getattr(route, "path", "")))


def new_token() -> str:
    return secrets.token_urlsafe(32)


def token_hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def form_token(request: Request) -> str:
    """The token that forms of this visitor must carry; empty before there is any cookie to bind it to."""
    bound = next((found for name in (SESSION_COOKIE, PASS_COOKIE, FORM_COOKIE) if (found := cookie(request, name))), "")
    return sign(request.app.state.settings.secret, bound) if bound else ""


def sign(secret: str, bound: str) -> str:
    return hmac.new(secret.encode(), bound.encode(), "sha256").hexdigest()


async def guard_writes(request: Request) -> AsyncIterator[None]:
    """Refuse any write that does not come from one of our own pages. Stands before every route, and closes the form after it."""
    if request.method in SAFE_METHODS:
        yield
        return
    site = request.headers.get("Sec-Fetch-Site", "same-origin")
    if site != "same-origin" or not _is_ours(request, request.headers.get("Origin")):
        raise ForgedForm
    form = await request.form(max_fields=request.app.state.takes(request.url.path).fields, max_files=2)
    try:
        _check_form(request, form)
        yield
    finally:
        await form.close()


def _is_ours(request: Request, origin: str | None) -> bool:
    """A page of ours sent it: of the addresses that are set, else of the host that was asked. Old browsers do not say."""
    if origin is None:
        return True
    allowed = request.app.state.settings.allowed_origins
    if origin in allowed:
        return True
    same = origin.partition("://")[2] == request.headers.get("Host")
    return same and (not allowed or request.url.hostname in HERE)


def _check_form(request: Request, form: FormData) -> None:
    request.state.form = form
    # Kept for the error page, so that what somebody wrote is not lost with the answer.
    request.state.typed = [
        (name, value)
        for name, value in form.multi_items()
        if isinstance(value, str) and value.strip() and is_written(name)
    ]
    if any("\0" in value for _, value in form.multi_items() if isinstance(value, str)):
        raise BadInput("forms.strange_character")
    for name, line in form.multi_items():
        if isinstance(line, str) and len(line) > LONGEST_LINE and "\n" not in line:
            raise BadInput("forms.line_too_long", field=name, most=LONGEST_LINE)
    value = form.get(TOKEN_FIELD, "")
    given = request.headers.get(TOKEN_HEADER, "") or (value if isinstance(value, str) else "")
    wanted = form_token(request)
    if not wanted or not hmac.compare_digest(given.encode(), wanted.encode()):
        raise ForgedForm


def cookie(request: Request, name: str) -> str:
    """What the browser holds under a name of ours; empty for nothing."""
    return request.cookies.get(_held_as(request, name), "")


def set_cookie(response: Response, request: Request, name: str, value: str, *, lasts: timedelta | None) -> None:
    """Let the browser hold something: for so long, or until it is closed."""
    response.set_cookie(
        _held_as(request, name),
        value,
        max_age=int(lasts.total_seconds()) if lasts else None,
        httponly=True,
        samesite="lax",
        secure=request.app.state.settings.secure_cookies,
        path="/",
    )


def drop_cookie(response: Response, request: Request, name: str) -> None:
    response.delete_cookie(
        _held_as(request, name),
        path="/",
        httponly=True,
        samesite="lax",
        secure=request.app.state.settings.secure_cookies,
    )


def _held_as(request: Request, name: str) -> str:
    """Under https the name says that only this host, over https, can have set it."""
    return f"__Host-{name}" if request.app.state.settings.secure_cookies else name


def visitor_address(request: Request) -> str:
    """The visitor's address; of IPv6 the network, of which one household or school has a whole one."""
    host = request.client.host if request.client else ""
    try:
        found = ip_address(host)
    except ValueError:
        return host[:60] or "?"
    return str(ip_network(f"{found}/64", strict=False)) if isinstance(found, IPv6Address) else str(found)


class Limits:
    """What each address takes: as its route declares, else the usual."""

    def __init__(self, declared: Iterable[tuple[re.Pattern[str], Takes]]) -> None:
        self._declared = tuple(declared)

    def __call__(self, path: str) -> Takes:
        return next((found for pattern, found in self._declared if pattern.fullmatch(path)), Takes())


Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]


class Shell:
    """Around the whole application: security headers on every answer, and no body above the limit."""

    def __init__(
        self, app: Callable[[Scope, Receive, Send], Awaitable[None]], takes: Limits, *, only_https: bool = False
    ) -> None:
        self.app, self.takes = app, takes
        self.headers = {**HEADERS, **(ONLY_HTTPS if only_https else {})}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        seen = 0
        limit = self.takes(scope["path"]).size
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
                    (k.lower().encode(), v.encode())
                    for k, v in self.headers.items()
                    if k.lower().encode() not in present
                ]
                if b"cache-control" not in present:
                    extra.append((b"cache-control", b"no-store"))
                message["headers"] = [*message["headers"], *extra]
            await send(message)

        await self.app(scope, limited, with_headers)
