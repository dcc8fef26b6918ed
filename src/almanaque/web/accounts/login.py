"""Logging in, with the second step where an account has one, and out; choosing a school, and moving the demo day."""

import base64
import hmac
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Request, Response
from fastapi.responses import RedirectResponse

from almanaque.commands.accounts import entry
from almanaque.core.errors import BadInput
from almanaque.store.accounts import accounts
from almanaque.store.accounts.accounts import Account
from almanaque.web import frame, security
from almanaque.web.accounts import browsers
from almanaque.web.request_scope import RequestScope, may, parse_day

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]

HALF_LASTS_S = 600
LONGEST_TO = 1000  # characters of an address to go on to, so that a cookie holds it
NO_SCHOOL = "This account belongs to no school yet. Ask a school's coordinator to add you."


def refused(error: BadInput, response: Response) -> Response:
    """The page again: with when to come back for somebody who has to wait."""
    if isinstance(error, entry.TooSoon):
        response.status_code = 429
        response.headers["Retry-After"] = str(error.seconds)
    return response


def _login_page(request: Request, *, login: str = "", error: str = "", status: int = 200, to: str = "") -> Response:
    settings = request.app.state.settings
    values = {
        "login": login,
        "error": error,
        "to": to,
        "by_label": to.startswith("/garden/plantings/"),
        "demo": request.app.state.clock.demo_day is not None,
        "open": settings.open_to_all,
    }
    return frame.bound_page(request, "accounts/login.html", values, status=status)


@router.get("/login")
def login_page(request: Request, to: str = "") -> Response:
    return _login_page(request, to=to)


@router.post("/login")
def log_in(
    request: Request,
    login: Annotated[str, Form()] = "",
    password: Annotated[str, Form()] = "",
    to: Annotated[str, Form()] = "",
    shared: Annotated[str, Form()] = "",
) -> Response:
    transaction = request.app.state.database.transaction
    login = entry.plain_login(login)
    try:
        account = entry.by_password(transaction, login, password, browsers.browser(request, login))
    except BadInput as error:
        return refused(error, _login_page(request, login=login, error=str(error), status=401, to=to))
    if account.totp_secret:
        response = frame.see("/login/code")
        half = _half(request, account, login, to=inside(to), shared=shared == "1")
        security.set_cookie(response, request, security.HALF_COOKIE, half, lasts=None)
        return response
    return _let_in(request, account, login, to=inside(to), shared=shared == "1")


def _let_in(request: Request, account: Account, login: str, *, to: str, shared: bool) -> Response:
    with request.app.state.database.transaction() as connection:
        response = browsers.let_in(request, connection, account.account_id, login, to=to, shared=shared)
    return response or _login_page(request, login=login, error=NO_SCHOOL, status=403)


@router.get("/login/code")
def code_page(request: Request) -> Response:
    """The second step of an account that has one."""
    return _code_page(request) if _whose(request) else frame.see("/login")


@router.post("/login/code")
def give_code(request: Request, code: Annotated[str, Form()] = "") -> Response:
    whose = _whose(request)
    if whose is None:
        return frame.see("/login")
    account, login, to, shared = whose
    try:
        entry.by_code(request.app.state.database.transaction, account, code, now=request.app.state.clock.now())
    except BadInput as error:
        return refused(error, _code_page(request, error=str(error), status=401))
    return _let_in(request, account, login, to=to, shared=shared)


def _code_page(request: Request, *, error: str = "", status: int = 200) -> Response:
    return frame.bound_page(request, "accounts/login_code.html", {"error": error}, status=status)


def _half(request: Request, account: Account, login: str, *, to: str, shared: bool) -> str:
    """That the password of an account was right, for some minutes: signed, and worth nothing once it has another password."""
    until = int(request.app.state.clock.now().timestamp()) + HALF_LASTS_S
    to = to if len(to) <= LONGEST_TO else "/week"
    said = f"{account.account_id}|{until}|{int(shared)}|{login}|{to}"
    return f"{_half_signed(request, said, account)}.{base64.urlsafe_b64encode(said.encode()).decode()}"


def _half_signed(request: Request, said: str, account: Account) -> str:
    return security.sign(request.app.state.settings.secret, f"half {said} {account.password_hash}")


def _whose(request: Request) -> tuple[Account, str, str, bool] | None:
    """Who still owes the second step, where it leads, and whether the computer is shared; None for nobody, or too late."""
    signed, _, packed = security.cookie(request, security.HALF_COOKIE).partition(".")
    try:
        said = base64.urlsafe_b64decode(packed.encode()).decode()
        who, until, shared, login, to = said.split("|", 4)
        account_id, over = UUID(who), int(until) < request.app.state.clock.now().timestamp()
    except ValueError:
        return None
    if over:
        return None
    with request.app.state.database.transaction() as connection:
        account = accounts.account_by_id(connection, account_id)
    if account is None or not hmac.compare_digest(signed.encode(), _half_signed(request, said, account).encode()):
        return None
    return account, login, inside(to), shared == "1"


@router.post("/logout")
def log_out(request: Request) -> Response:
    """End the session, and the garden pass that this browser may hold besides."""
    with request.app.state.database.transaction() as connection:
        browsers.close_all(request, connection)
    response = RedirectResponse("/login", status_code=303)
    for name in (security.SESSION_COOKIE, security.PASS_COOKIE):
        security.drop_cookie(response, request, name)
    return response


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


def inside(to: str) -> str:
    """Only a path of our own is followed after logging in."""
    return (
        to if to.startswith("/") and not to.startswith(("//", "/\\")) and "\n" not in to and "\r" not in to else "/week"
    )


def _uuid(text: str) -> UUID:
    try:
        return UUID(text)
    except ValueError:
        raise BadInput("accounts.not_your_school") from None
