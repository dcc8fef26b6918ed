"""A new password for whoever lost theirs: by a coordinator's link, or by mail where login names are addresses and mail is set up."""

from datetime import timedelta
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Form, Request, Response

from almanaque.commands.accounts import entry
from almanaque.core.accounts import attempts as rules
from almanaque.core.accounts.password_rules import SHORTEST
from almanaque.core.errors import BadInput
from almanaque.store import errors
from almanaque.store.accounts import accounts, audit, resets
from almanaque.store.school import outgoing_mail
from almanaque.web import frame, links, once, security
from almanaque.web.accounts import browsers
from almanaque.web.accounts.login import refused

router = APIRouter()
OVER = "This link was used, replaced by a later one, or is older than its days. Ask for a new one."
SUBJECT = "A new password for Almanaque"
BODY = """Somebody, probably you, asked for a new password for the login {login}.

This link sets one. It works once, within {hours} hour:

{link}

If it was not you, do nothing: the password you have stays.
"""


@router.get("/reset/{secret}")
def reset_page(request: Request, secret: str) -> Response:
    return _reset_page(request, secret)


@router.post("/reset/{secret}")
def set_password(request: Request, secret: str, new_password: Annotated[str, Form()] = "") -> Response:
    """Set the new password and be logged in with it. Every other login ends, and the second step."""
    hashed = security.token_hash(secret)
    transaction = request.app.state.database.transaction
    try:
        entered = entry.use_reset(transaction, hashed, new_password, once.number_of(request))
    except BadInput as error:
        return _reset_page(request, secret, error=str(error), status=422)
    with transaction() as connection:
        response = browsers.let_in(request, connection, entered.account_id, entered.login, to="/week", first=True)
    return response or frame.see("/login")


def _reset_page(request: Request, secret: str, *, error: str = "", status: int = 200) -> Response:
    with request.app.state.database.transaction() as connection:
        found = resets.reset(connection, security.token_hash(secret))
    if found is None:
        raise errors.NotFound(OVER)
    values = {
        "secret": secret,
        "login": found.login,
        "second_step": found.second_step,
        "error": error,
        "least": SHORTEST,
    }
    return frame.bound_page(request, "accounts/reset.html", values, status=status)


@router.get("/forgotten")
def forgotten(request: Request) -> Response:
    return _forgotten_page(request)


@router.post("/forgotten")
def send_link(request: Request, login: Annotated[str, Form()] = "") -> Response:
    """Mail a link to whoever logs in by an address. The answer is the same for a login that nobody has."""
    if not request.app.state.settings.mails_links:
        return _forgotten_page(request)
    login = entry.plain_login(login)
    transaction = request.app.state.database.transaction
    limits = {
        f"forgotten {login}": rules.LINK_BY_MAIL,
        f"forgotten at {security.visitor_address(request)}": rules.ADDRESS,
    }
    try:
        entry.try_once(transaction, limits)
    except BadInput as error:
        return refused(error, _forgotten_page(request, login=login, error=str(error)))
    if "@" in login:
        _mail_link(request, login)
    return _forgotten_page(request, login=login, sent=True)


def _mail_link(request: Request, login: str) -> None:
    secret = security.new_token()
    ends = request.app.state.clock.now() + timedelta(hours=entry.RESET_BY_MAIL_HOURS)
    database = request.app.state.database
    with database.transaction() as connection:
        known = accounts.account(connection, login)
    if known is None:
        return
    with database.transaction() as connection:
        school_id = resets.make_by_mail(connection, login, security.token_hash(secret), ends)
    if school_id is None:
        return
    link = links.address(request, f"/reset/{secret}")
    body = BODY.format(login=login, link=link, hours=entry.RESET_BY_MAIL_HOURS)
    with database.school(school_id) as connection:
        audit.note(connection, school_id, None, "recovery link made", "by mail", subject=known.account_id)
        outgoing_mail.put(
            connection, school_id, key=f"{outgoing_mail.SECRET}{uuid4()}", mail_to=login, subject=SUBJECT, body=body
        )


def _forgotten_page(request: Request, *, login: str = "", error: str = "", sent: bool = False) -> Response:
    values = {"mails": request.app.state.settings.mails_links, "login": login, "error": error, "sent": sent}
    return frame.bound_page(request, "accounts/forgotten.html", values)
