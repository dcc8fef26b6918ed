"""Coming in: an invitation's link, a first account, and a school of one's own."""

from typing import Annotated, Any
from uuid import UUID, uuid4

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse
from psycopg import Connection
from pydantic import BaseModel

from almanaque.commands.accounts.people import check_password
from almanaque.core.errors import BadInput
from almanaque.data import places
from almanaque.passwords import hash_password, matches, nobody
from almanaque.store import errors
from almanaque.store.accounts import accounts
from almanaque.store.accounts.accounts import NewSchool
from almanaque.web import forms, security
from almanaque.web.accounts.login import (
    MOST_FAILURES_OF_ADDRESS,
    MOST_FAILURES_OF_LOGIN,
    WINDOW_MINUTES,
    bound_page,
)
from almanaque.web.place.climate import read_place

router = APIRouter()
START_FIELDS = ("school_name", "latitude", "longitude", "zone", "units", "name", "login", "place")
OVER = "This invitation was used, taken back, or is older than its days. Ask for a new one."


@router.get("/invite/{secret}")
def invitation(request: Request, secret: str) -> Response:
    """What the invitation offers, and the ways to take it: a new account, or one that is there already."""
    with request.app.state.database.transaction() as connection:
        found = accounts.invited(connection, security.token_hash(secret))
    if found is None:
        raise errors.NotFound(OVER)
    if not found.school_name:
        return RedirectResponse(f"/start?invitation={secret}", status_code=303)
    return bound_page(
        request,
        "accounts/invitation.html",
        {"invited": found, "secret": secret, "error": "", "typed": {"login": "", "name": "", "has_account": ""}},
    )


class InvitationForm(BaseModel):
    """What the form sends, as it was typed."""

    login: str = ""
    name: str = ""
    password: str = ""
    has_account: str = ""


@router.post("/invite/{secret}")
def accept(request: Request, secret: str, form: Annotated[InvitationForm, Form()]) -> Response:
    """Join with a new account, or with one's login and password."""
    hashed = security.token_hash(secret)
    found = None
    try:
        with request.app.state.database.transaction() as connection:
            found = accounts.invited(connection, hashed)
            if found is None:
                raise errors.NotFound(OVER)
            account_id = (
                _known(request, connection, form.login, form.password)
                if form.has_account == "yes"
                else _new(connection, form.login, form.name, form.password)
            )
            joined = accounts.accept(connection, hashed, account_id)
            if joined is None:
                raise errors.NotFound(OVER)
            return _opened(request, connection, account_id, "/week", school_id=joined)
    except (BadInput, errors.Refused) as error:
        if found is None:
            raise
        typed = {"login": form.login, "name": form.name, "has_account": form.has_account}
        return bound_page(
            request,
            "accounts/invitation.html",
            {"invited": found, "secret": secret, "error": str(error), "typed": typed},
            status=422,
        )


@router.get("/start")
def begin(request: Request, invitation: str = "", town: str = "") -> Response:
    """A school of one's own: for coordinators, for holders of an invitation to found one, and where the server lets anybody."""
    return _start_page(request, invitation, town, {})


class FirstSchoolForm(BaseModel):
    """What the form sends, as it was typed."""

    invitation: str = ""
    school_name: str = ""
    town: str = ""
    place: str = ""
    latitude: str = ""
    longitude: str = ""
    zone: str = ""
    units: str = "metric"
    name: str = ""
    login: str = ""
    password: str = ""
    action: str = "found"


@router.post("/start")
def found_school(request: Request, sent: Annotated[FirstSchoolForm, Form()]) -> Response:
    """Make the school, and the account if nobody is logged in; or look a town up and come back to the same form."""
    typed = {
        "school_name": sent.school_name,
        "latitude": sent.latitude,
        "longitude": sent.longitude,
        "zone": sent.zone,
        "units": sent.units,
        "name": sent.name,
        "login": sent.login,
        "place": sent.place,
    }
    if sent.action == "look":
        return _start_page(request, sent.invitation, sent.town, typed)
    try:
        with request.app.state.database.transaction() as connection:
            visitor = _visitor(request, connection)
            north, east, where, chosen = _place(sent.town, sent.place, sent.latitude, sent.longitude, sent.zone)
            school = NewSchool(
                uuid4(),
                forms.name(sent.school_name, field="school_name", what="name_of_school", most=120),
                where,
                north,
                east,
                forms.one_of(sent.units, ("us", "metric"), field="units"),
                chosen,
            )
            account_id = visitor or _new(connection, sent.login, sent.name, sent.password)
            made = accounts.found_school(
                connection,
                account_id,
                school,
                invitation_hash=security.token_hash(sent.invitation) if sent.invitation else None,
                open_to_all=request.app.state.settings.open_to_all,
            )
            if not made:
                raise BadInput("accounts.set_up_by_invitation")
            return _opened(request, connection, account_id, "/school", school_id=school.id)
    except (BadInput, errors.Refused) as error:
        return _start_page(request, sent.invitation, sent.town, typed, error=str(error), status=422)


def _start_page(
    request: Request, invitation: str, town: str, typed: dict[str, str], *, error: str = "", status: int = 200
) -> Response:
    with request.app.state.database.transaction() as connection:
        visitor = _visitor(request, connection)
        invited = accounts.invited(connection, security.token_hash(invitation)) if invitation else None
    usable = bool(invited and not invited.school_name)
    found = places.find(town[:80]) if town.strip() else []
    values = {
        "invitation": invitation if usable else "",
        "has_account": visitor is not None,
        "town": town,
        "towns": [(f"{p.latitude},{p.longitude},{p.zone}", p.words) for p in found],
        "typed": {**dict.fromkeys(START_FIELDS, ""), **typed},
        "error": error,
        "allowed": usable or visitor is not None or request.app.state.settings.open_to_all,
    }
    return bound_page(request, "accounts/first_school.html", values, status=status)


def _place(town: str, place: str, latitude: str, longitude: str, zone: str) -> tuple[float, float, str, str]:
    """Latitude, longitude, zone and the town's name: by the town chosen, or as typed."""
    if place and not latitude.strip():
        north, _, rest = place.partition(",")
        east, _, chosen_zone = rest.partition(",")
        same = [p for p in places.find(town[:80]) if f"{p.latitude},{p.longitude}" == f"{north},{east}"]
        return (*read_place(north, east, chosen_zone), same[0].words if same else "")
    return (*read_place(latitude, longitude, zone), "")


def _visitor(request: Request, connection: Connection[Any]) -> UUID | None:
    token = request.cookies.get(security.SESSION_COOKIE, "")
    found = accounts.visitor(connection, security.token_hash(token)) if token else None
    return found.account_id if found else None


def _new(connection: Connection[Any], login: str, name: str, password: str) -> UUID:
    account_id = uuid4()
    check_password(password)
    accounts.make_account(
        connection,
        account_id,
        login=login.strip().lower(),
        name=forms.name(name, what="your_name", most=120),
        password_hash=hash_password(password),
    )
    return account_id


def _known(request: Request, connection: Connection[Any], login: str, password: str) -> UUID:
    """The account of somebody who has one; as slow and as limited as logging in is."""
    login = login.strip().lower()[:120]
    limits = {
        f"address {request.client.host if request.client else '?'}": MOST_FAILURES_OF_ADDRESS,
        f"login {login}": MOST_FAILURES_OF_LOGIN,
    }
    if any(accounts.failures(connection, key, minutes=WINDOW_MINUTES) >= most for key, most in limits.items()):
        raise BadInput("accounts.too_often", minutes=WINDOW_MINUTES)
    account = accounts.account(connection, login)
    if not matches(account.password_hash if account else nobody(), password[:200]) or account is None:
        with request.app.state.database.transaction() as other:  # kept although this transaction is undone
            for key in limits:
                accounts.note_failure(other, key)
        raise BadInput("accounts.login_wrong", field="login")
    return account.account_id


def _opened(request: Request, connection: Connection[Any], account_id: UUID, path: str, *, school_id: UUID) -> Response:
    """A session of the account in the school that was just joined or founded; the browser's old one ends."""
    old = request.cookies.get(security.SESSION_COOKIE)
    if old:
        accounts.close_session(connection, security.token_hash(old))
    token = security.new_token()
    expires = request.app.state.clock.now() + security.SESSION_LASTS
    accounts.open_session(connection, security.token_hash(token), account_id, expires)
    accounts.choose_school(connection, security.token_hash(token), school_id)
    response = RedirectResponse(path, status_code=303)
    security.set_cookie(response, request, security.SESSION_COOKIE, token, lasts=security.SESSION_LASTS)
    return response
