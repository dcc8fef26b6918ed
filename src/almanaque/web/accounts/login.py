"""Logging in and out, choosing a school, and moving the demo day."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import RedirectResponse
from psycopg import Connection

from almanaque.core.errors import BadInput
from almanaque.core.words import Phrase
from almanaque.passwords import matches, nobody
from almanaque.store.accounts import accounts
from almanaque.web import frame, security
from almanaque.web.request_scope import RequestScope, may, parse_day

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]

WINDOW_MINUTES = 15
MOST_FAILURES_OF_LOGIN = 6
MOST_FAILURES_OF_ADDRESS = 40
WRONG = "That login name and password do not belong together. Check both and try again."
TOO_OFTEN = Phrase("accounts.too_often", {"minutes": WINDOW_MINUTES})
NO_SCHOOL = "This account belongs to no school yet. Ask a school's coordinator to add you."


def bound_page(request: Request, template: str, values: dict[str, Any], *, status: int = 200) -> Response:
    """A page before logging in; a visitor without any cookie of ours gets one, so that its form can be bound to it."""
    token, bound = security.form_token(request), ""
    if not token:
        bound = security.new_token()
        token = security.sign(request.app.state.settings.secret, bound)
    response = frame.bare_page(request, template, {**values, "form_token": token}, status=status)
    if bound:
        security.set_cookie(response, request, security.FORM_COOKIE, bound, lasts=None)
    return response


def _login_page(request: Request, *, login: str = "", error: str = "", status: int = 200, to: str = "") -> Response:
    demo = request.app.state.clock.demo_day is not None
    values = {"login": login, "error": error, "to": to, "demo": demo, "open": request.app.state.settings.open_to_all}
    return bound_page(request, "accounts/login.html", values, status=status)


@router.get("/login")
def login_page(request: Request, to: str = "") -> Response:
    return _login_page(request, to=to)


@router.post("/login")
def log_in(
    request: Request,
    login: Annotated[str, Form()] = "",
    password: Annotated[str, Form()] = "",
    to: Annotated[str, Form()] = "",
) -> Response:
    login = login.strip().lower()[:120]
    address = f"address {request.client.host if request.client else '?'}"
    with request.app.state.database.transaction() as connection:
        blocked = (
            accounts.failures(connection, f"login {login}", minutes=WINDOW_MINUTES) >= MOST_FAILURES_OF_LOGIN
            or accounts.failures(connection, address, minutes=WINDOW_MINUTES) >= MOST_FAILURES_OF_ADDRESS
        )
        account = None if blocked else accounts.account(connection, login)
    if blocked:
        return _login_page(request, login=login, error=str(TOO_OFTEN), status=429, to=to)
    right = matches(account.password_hash if account else nobody(), password[:200])
    if account is None or not right:
        with request.app.state.database.transaction() as connection:
            accounts.note_failure(connection, f"login {login}")
            accounts.note_failure(connection, address)
        return _login_page(request, login=login, error=WRONG, status=401, to=to)
    token = security.new_token()
    expires = request.app.state.clock.now() + security.SESSION_LASTS
    with request.app.state.database.transaction() as connection:
        _close_all(request, connection)
        opened = accounts.open_session(connection, security.token_hash(token), account.account_id, expires)
    if not opened:
        return _login_page(request, login=login, error=NO_SCHOOL, status=403)
    response = RedirectResponse(_inside(to), status_code=303)
    security.set_cookie(response, request, security.SESSION_COOKIE, token, lasts=security.SESSION_LASTS)
    response.delete_cookie(security.PASS_COOKIE, path="/")
    return response


@router.post("/logout")
def log_out(request: Request) -> Response:
    """End the session, and the garden pass that this browser may hold besides."""
    with request.app.state.database.transaction() as connection:
        _close_all(request, connection)
    response = RedirectResponse("/login", status_code=303)
    for name in (security.SESSION_COOKIE, security.PASS_COOKIE):
        response.delete_cookie(name, path="/")
    return response


def _close_all(request: Request, connection: Connection[Any]) -> None:
    """End what this browser has been let in with."""
    for name in (security.SESSION_COOKIE, security.PASS_COOKIE):
        token = request.cookies.get(name)
        if token:
            accounts.close_session(connection, security.token_hash(token))


@router.post("/schools")
def choose_school(scope: Look, school: Annotated[str, Form()] = "") -> Response:
    with scope.database.transaction() as connection:
        chosen = accounts.choose_school(connection, scope.token_hash, _uuid(school))
    if not chosen:
        raise BadInput("accounts.not_your_school")
    return RedirectResponse("/week", status_code=303)


@router.post("/demo-day")
def move_demo_day(scope: Look, request: Request, day: Annotated[str, Form()] = "") -> Response:
    """Let the demo stand on another day, for this visitor alone."""
    if scope.clock.demo_day is None:
        raise BadInput("accounts.time_moves_in_demo_only")
    with scope.database.transaction() as connection:
        accounts.set_demo_day(connection, scope.token_hash, parse_day(day))
    return RedirectResponse("/week", status_code=303)


def _inside(to: str) -> str:
    """Only a path of our own is followed after logging in."""
    return (
        to if to.startswith("/") and not to.startswith(("//", "/\\")) and "\n" not in to and "\r" not in to else "/week"
    )


def _uuid(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("accounts.not_your_school") from None
