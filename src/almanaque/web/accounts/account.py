"""One's own account: name, password, second step, where one is logged in, and erasing it."""

from dataclasses import dataclass
from typing import Annotated, Any
from uuid import UUID

import pyotp
from fastapi import APIRouter, Depends, Form, Response
from fastapi.responses import RedirectResponse
from psycopg import Connection

from almanaque.commands.accounts import entry
from almanaque.commands.accounts import people as commands
from almanaque.core.accounts.password_rules import SHORTEST
from almanaque.core.school.server_health import ago
from almanaque.store import errors
from almanaque.store.accounts import accounts, audit, sessions
from almanaque.store.accounts.accounts import OwnAccount
from almanaque.web import forms, frame, links, security
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]


@dataclass(frozen=True)
class LoginView(View):
    """A login of this account."""

    id: str
    browser: str
    said: str
    own: bool
    new: bool


@dataclass(frozen=True)
class AccountView(View):
    """What `accounts/account.html` shows."""

    login: str
    name: str
    second_step: bool
    codes_left: int
    logins: list[LoginView]
    least: int


@dataclass(frozen=True)
class SecondStepView(View):
    """What `accounts/second_step.html` shows: the secret as a code to scan and in groups of four to type, then the recovery codes."""

    secret: str
    spelled: str
    qr: tuple[str, int]
    codes: list[str]


@router.get("/account")
def own_account(scope: Look) -> Response:
    with scope.open() as work:
        own = _held(work.connection, scope)
        view = AccountView(
            own.login,
            own.name,
            bool(own.totp_secret),
            own.codes_left,
            [_login(work, one) for one in sessions.sessions(work.connection, scope.token_hash)],
            SHORTEST,
        )
        return frame.page(work, "account", "Your account", view, template="accounts/account.html")


@router.post("/account")
def change_name(scope: Look, name: Annotated[str, Form()] = "") -> Response:
    with scope.open() as work:
        accounts.change_account(
            work.connection, scope.token_hash, name=forms.name(name, what="name", most=120), password_hash=None
        )
        return frame.go(work, "/account")


@router.post("/account/password")
def change_password(
    scope: Look, password: Annotated[str, Form()] = "", new_password: Annotated[str, Form()] = ""
) -> Response:
    """Another password for those who know the old one. Every other login ends."""
    own = confirmed(scope, password)
    hashed = entry.new_password(new_password, login=own.login)
    with scope.open() as work:
        commands.change_password(work.connection, scope.token_hash, own, hashed)
        return frame.go(work, "/account")


@router.post("/account/erase")
def erase(scope: Look, password: Annotated[str, Form()] = "") -> Response:
    """Erase one's own account: the name goes, what was written stays."""
    own = confirmed(scope, password)
    with scope.open() as work:
        commands.erase_own(work.connection, own)
    response = RedirectResponse("/login", status_code=303)
    security.drop_cookie(response, scope.request, security.SESSION_COOKIE)
    return response


@router.get("/account/second-step")
def second_step(scope: Look) -> Response:
    """A new secret for the phone; it holds once the phone has shown a right code of it."""
    with scope.open() as work:
        return _second_step(work, pyotp.random_base32())


@router.post("/account/second-step")
def begin_second_step(
    scope: Look,
    secret: Annotated[str, Form()] = "",
    code: Annotated[str, Form()] = "",
    password: Annotated[str, Form()] = "",
) -> Response:
    """Sent twice it shows the same recovery codes, since they come from the secret: so it is drawn twice, too."""
    own = confirmed(scope, password)
    key = scope.request.app.state.settings.secret
    codes = entry.recovery_codes(secret[:64], key)
    entry.begin_second_step(
        scope.database.transaction, own, scope.token_hash, secret[:64], code[:20], codes, now=scope.clock.now()
    )
    with scope.open(only_looks=True) as work:
        return _second_step(work, "", codes)


@router.post("/account/second-step/end")
def end_second_step(scope: Look, password: Annotated[str, Form()] = "") -> Response:
    own = confirmed(scope, password)
    with scope.open() as work:
        entry.end_second_step(work.connection, own, scope.token_hash)
        return frame.go(work, "/account")


@router.post("/account/logins/end")
def end_logins(scope: Look, login: Annotated[str, Form()] = "") -> Response:
    """End another login of this account, or all others."""
    with scope.open() as work:
        chosen: UUID | None = forms.optional_id(login)
        if not sessions.end(work.connection, scope.token_hash, chosen) and chosen is not None:
            raise errors.NotFound("That login has ended already.")
        audit.note(work.connection, work.context.school.id, scope.visitor.account_id, "session ended")
        return frame.go(work, "/account")


@router.post("/account/logins/known")
def logins_known(scope: Look) -> Response:
    """The logins from browsers that were new were one's own."""
    with scope.open() as work:
        sessions.known(work.connection, scope.token_hash)
        return frame.go(work, "/account")


def confirmed(scope: RequestScope, password: str, *, field: str = "password") -> OwnAccount:
    """The visitor's own account, once the password was given again. Raises TooSoon and BadInput, and TakenBefore for a form that
    was written before: what it has changed may be the password itself."""
    scope.refuse_taken()
    own = _own(scope)
    entry.confirm(scope.database.transaction, own, password, field=field)
    return own


def _own(scope: RequestScope) -> OwnAccount:
    with scope.database.transaction() as connection:
        return _held(connection, scope)


def _held(connection: Connection[Any], scope: RequestScope) -> OwnAccount:
    own = accounts.own_account(connection, scope.token_hash)
    if own is None:
        raise security.NotLoggedIn
    return own


def _login(work: UnitOfWork, one: sessions.Session) -> LoginView:
    now = work.scope.clock.now()
    said = "this one" if one.own else f"used {ago(now - one.seen_at)}"
    return LoginView(
        str(one.id), one.browser or "a browser", f"{said}; began {ago(now - one.begun_at)}", one.own, one.new
    )


def _second_step(work: UnitOfWork, secret: str, codes: list[str] | None = None) -> Response:
    own = _held(work.connection, work.scope)
    address = pyotp.TOTP(secret).provisioning_uri(name=own.login, issuer_name="Almanaque") if secret else ""
    spelled = " ".join(secret[at : at + 4] for at in range(0, len(secret), 4))
    view = SecondStepView(
        secret, spelled, links.qr_path(address) if address else ("", 0), [f"{c[:5]} {c[5:]}" for c in codes or []]
    )
    return frame.page(work, "account", "Second step", view, template="accounts/second_step.html")
