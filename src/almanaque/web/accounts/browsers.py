"""What a request says of the browser it comes from, and letting it in: its marks, its session, its cookies.

A browser that has logged in to an account holds a mark for it, by which its tries are counted apart from everybody else's and
by which a login from anywhere else is noticed. The mark opens nothing.
"""

import hmac
import secrets
from datetime import timedelta
from typing import Any
from uuid import UUID

from fastapi import Request, Response
from psycopg import Connection

from almanaque.commands.accounts.entry import Browser
from almanaque.store.accounts import accounts, audit, sessions
from almanaque.web import frame, security

KNOWN_LASTS = timedelta(days=400)
MOST_KNOWN = 8  # accounts that one browser is known to; a shared computer forgets the first one for a ninth
SHARED_IDLE, SHARED_LASTS = timedelta(hours=2), timedelta(hours=12)  # a computer that others use after us
SYSTEMS = {
    "iPhone": "iPhone",
    "iPad": "iPad",
    "Android": "Android",
    "CrOS": "ChromeOS",
    "Windows": "Windows",
    "Mac OS": "macOS",
    "Linux": "Linux",
}
BROWSERS = {
    "Edg": "Edge",
    "Firefox": "Firefox",
    "FxiOS": "Firefox",
    "CriOS": "Chrome",
    "Chrome": "Chrome",
    "Safari": "Safari",
}


def browser(request: Request, login: str) -> Browser:
    """Where a try at this login name comes from."""
    return Browser(security.visitor_address(request), _known_as(request, login))


def said_of(request: Request) -> str:
    """`Firefox on Linux`, as the browser says it of itself."""
    agent = request.headers.get("User-Agent", "")
    name = next((word for sign, word in BROWSERS.items() if sign in agent), "a browser")
    system = next((word for sign, word in SYSTEMS.items() if sign in agent), "")
    return f"{name} on {system}" if system else name


def let_in(
    request: Request,
    connection: Connection[Any],
    account_id: UUID,
    login: str,
    *,
    to: str,
    shared: bool = False,
    first: bool = False,
    school_id: UUID | None = None,
) -> Response | None:
    """Open a session and lead on; what this browser was let in with before ends. None for an account without a school.

    On a `shared` computer the session ends with the browser, or soon after nobody uses it. `first` says that the account was only
    just made or opened by a link, so its browser is no news. It begins in the school that is named, else in the account's first.
    """
    close_all(request, connection)
    token = security.new_token()
    lasts = SHARED_LASTS if shared else security.SESSION_LASTS
    new = not first and not _known_as(request, login)
    opened = sessions.open_session(
        connection,
        security.token_hash(token),
        account_id,
        request.app.state.clock.now() + lasts,
        browser=said_of(request),
        idle_end=SHARED_IDLE if shared else sessions.IDLE_END,
        new=new,
    )
    if not opened:
        return None
    if school_id is not None:
        accounts.choose_school(connection, security.token_hash(token), school_id)
    audit.note_everywhere(connection, account_id, "login from new browser" if new else "login", said_of(request))
    response = frame.see(to)
    security.set_cookie(response, request, security.SESSION_COOKIE, token, lasts=None if shared else lasts)
    security.set_cookie(response, request, security.KNOWN_COOKIE, _marked(request, login), lasts=KNOWN_LASTS)
    for name in (security.PASS_COOKIE, security.HALF_COOKIE):
        security.drop_cookie(response, request, name)
    return response


def close_all(request: Request, connection: Connection[Any]) -> None:
    """End the session that this browser holds."""
    if token := security.cookie(request, security.SESSION_COOKIE):
        sessions.close(connection, security.token_hash(token))


def _known_as(request: Request, login: str) -> str:
    """The mark of this browser for a login name; empty for one that has never logged in to it."""
    for mark in security.cookie(request, security.KNOWN_COOKIE).split("~"):
        nonce, _, signed = mark.partition(".")
        if signed and hmac.compare_digest(signed.encode(), _signed(request, login, nonce).encode()):
            return nonce[:40]
    return ""


def _marked(request: Request, login: str) -> str:
    """The marks of this browser with one for this login name, the newest first."""
    known = _known_as(request, login)
    kept = [m for m in security.cookie(request, security.KNOWN_COOKIE).split("~") if m and m.partition(".")[0] != known]
    nonce = known or secrets.token_urlsafe(12)
    return "~".join([f"{nonce}.{_signed(request, login, nonce)}", *kept][:MOST_KNOWN])


def _signed(request: Request, login: str, nonce: str) -> str:
    return security.sign(request.app.state.settings.secret, f"known {login} {nonce}")[:32]
