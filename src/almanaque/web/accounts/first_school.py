"""Coming in: an invitation's link, a first account, and a school of one's own."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any
from uuid import UUID, uuid4

from babel.numbers import get_territory_currencies
from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import RedirectResponse
from psycopg import Connection
from pydantic import BaseModel

from almanaque.commands.accounts import entry
from almanaque.core.errors import BadInput
from almanaque.data import places, zones
from almanaque.store import errors
from almanaque.store.accounts import accounts, audit, entered_once
from almanaque.store.accounts.accounts import NewSchool, OwnAccount
from almanaque.store.accounts.entered_once import Entered
from almanaque.store.school import school as school_store
from almanaque.web import forms, frame, once, security
from almanaque.web.accounts import browsers
from almanaque.web.accounts.login import refused
from almanaque.web.htmx import led
from almanaque.web.place.climate import read_place

router = APIRouter()
START_FIELDS = ("school_name", "latitude", "longitude", "zone", "units", "name", "login", "place")
FEET_AND_INCHES = ("US", "LR", "PR")  # countries that measure so: common practice, no source
FIELD_OF = {"account_login_once": "login", "account_login_shape": "login"}  # of what the database refuses
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
    return frame.bound_page(
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
    code: str = ""


@router.post("/invite/{secret}")
def accept(request: Request, secret: str, form: Annotated[InvitationForm, Form()]) -> Response:
    """Join with a new account, or with one's login and password."""
    hashed = security.token_hash(secret)
    number = once.number_of(request)
    with request.app.state.database.transaction() as connection:
        if before := entered_once.begin(connection, number):
            return _again(request, connection, before, "/week")
        found = accounts.invited(connection, hashed)
    if found is None:
        raise errors.NotFound(OVER)
    login = entry.plain_login(form.login)
    try:
        account_id = _known(request, login, form.password, form.code) if form.has_account == "yes" else None
        made = None if account_id else _NewAccount.of(login, form.name, form.password)
        with request.app.state.database.transaction() as connection:
            if before := entered_once.begin(connection, number):
                return _again(request, connection, before, "/week")
            account_id = account_id or _made(connection, made)
            joined = accounts.accept(connection, hashed, account_id)
            if joined is None:
                raise errors.NotFound(OVER)
            entered_once.note(connection, number, account_id, joined)
            return _opened(request, connection, account_id, login, "/week", school_id=joined)
    except (BadInput, errors.Refused) as error:
        typed = {"login": form.login, "name": form.name, "has_account": form.has_account}
        values = {"invited": found, "secret": secret, "error": str(error), "typed": typed}
        page = frame.bound_page(request, "accounts/invitation.html", values, status=422)
        return refused(error, page) if isinstance(error, BadInput) else page


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
    units: str = ""
    name: str = ""
    login: str = ""
    password: str = ""
    action: str = "found"


@router.post("/start")
def found_school(request: Request, sent: Annotated[FirstSchoolForm, Form()]) -> Response:
    """Make the school, and the account if nobody is logged in; or look a town up and come back to the same form."""
    typed = sent.model_dump(include=set(START_FIELDS))
    if sent.action == "look":
        return _start_page(request, sent.invitation, sent.town, typed)
    number = once.number_of(request)
    try:
        with request.app.state.database.transaction() as connection:
            if before := entered_once.begin(connection, number):
                return led(request, _again(request, connection, before, "/beginning"))
            visitor = _visitor(request, connection)
        login = visitor.login if visitor else entry.plain_login(sent.login)
        school, problems = _read_school(sent, login, with_account=visitor is None)
        if school is None:
            return _start_page(request, sent.invitation, sent.town, typed, errors=problems, status=422)
        new = None if visitor else _NewAccount.of(login, sent.name, sent.password)
        with request.app.state.database.transaction() as connection:
            if before := entered_once.begin(connection, number):
                return led(request, _again(request, connection, before, "/beginning"))
            account_id = visitor.account_id if visitor else _made(connection, new)
            made = accounts.found_school(
                connection,
                account_id,
                school,
                invitation_hash=security.token_hash(sent.invitation) if sent.invitation else None,
                open_to_all=request.app.state.settings.open_to_all,
            )
            if not made:
                raise BadInput("accounts.set_up_by_invitation")
            entered_once.note(connection, number, account_id, school.id)
            _by_country(connection, school)
            return led(request, _opened(request, connection, account_id, login, "/beginning", school_id=school.id))
    except (BadInput, errors.Refused) as error:
        field = error.field if isinstance(error, BadInput) else FIELD_OF.get(error.constraint, "")
        return _start_page(request, sent.invitation, sent.town, typed, errors={field: str(error)}, status=422)


def _read_school(
    sent: FirstSchoolForm, login: str, *, with_account: bool
) -> tuple[NewSchool | None, Mapping[str, str]]:
    """The school that is wished for; None where something cannot be, and a sentence for each field that cannot."""
    problems = forms.Problems()
    name = problems.read(forms.name, sent.school_name, field="school_name", what="name_of_school", most=120)
    place = problems.read(_place, sent.town, sent.place, sent.latitude, sent.longitude, sent.zone)
    usual = _usual_units(place[2]) if place else "metric"
    units = problems.read(forms.one_of, sent.units or usual, ("us", "metric"), field="units")
    if with_account:
        problems.read(forms.name, sent.name, what="your_name", most=120)
        problems.read(entry.check_password, sent.password, login=login, field="password")
    if problems.by_field or name is None or place is None or units is None:
        return None, problems.by_field
    north, east, zone, town = place
    return NewSchool(uuid4(), name, zone, north, east, units, town), {}


def _start_page(
    request: Request,
    invitation: str,
    town: str,
    typed: Mapping[str, str],
    *,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
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
        "errors": errors or {},
        "allowed": usable or visitor is not None or request.app.state.settings.open_to_all,
    }
    return frame.bound_page(request, "accounts/first_school.html", values, status=status)


def _place(town: str, place: str, latitude: str, longitude: str, zone: str) -> tuple[float, float, str, str]:
    """Latitude, longitude, zone and the town's name: by the town chosen, or as typed."""
    if not place and not latitude.strip():
        raise BadInput("accounts.town_not_chosen", field="town")
    if place and not latitude.strip():
        north, _, rest = place.partition(",")
        east, _, chosen_zone = rest.partition(",")
        same = [p for p in places.find(town[:80]) if f"{p.latitude},{p.longitude}" == f"{north},{east}"]
        return (*read_place(north, east, chosen_zone), same[0].words if same else "")
    return (*read_place(latitude, longitude, zone), "")


def _usual_units(zone: str) -> str:
    return "us" if zones.country_of(zone) in FEET_AND_INCHES else "metric"


def _by_country(connection: Connection[Any], school: NewSchool) -> None:
    """The money of the country; everything else that follows from it is asked when it is wanted."""
    country = zones.country_of(school.zone)
    currency = next(iter(get_territory_currencies(country)), "USD") if country else "USD"
    connection.execute("SELECT set_config('almanaque.school', %s, true)", [str(school.id)])
    school_store.save_school(connection, {"currency": currency})


def _visitor(request: Request, connection: Connection[Any]) -> OwnAccount | None:
    token = security.cookie(request, security.SESSION_COOKIE)
    return accounts.own_account(connection, security.token_hash(token)) if token else None


@dataclass(frozen=True)
class _NewAccount:
    """An account that will be made, its password hashed already."""

    login: str
    name: str
    password_hash: str

    @classmethod
    def of(cls, login: str, name: str, password: str) -> "_NewAccount":
        """Raises BadInput for a name or a password that will not do."""
        named = forms.name(name, what="your_name", most=120)
        return cls(login, named, entry.new_password(password, login=login, field="password"))


def _made(connection: Connection[Any], new: _NewAccount | None) -> UUID:
    assert new is not None  # whoever has no account makes one
    account_id = uuid4()
    accounts.make_account(connection, account_id, login=new.login, name=new.name, password_hash=new.password_hash)
    return account_id


def _known(request: Request, login: str, password: str, code: str) -> UUID:
    """The account of somebody who has one; as limited as logging in is, and with the second step where it has one."""
    transaction = request.app.state.database.transaction
    account = entry.by_password(transaction, login, password, browsers.browser(request, login))
    if account.totp_secret:
        if not code.strip():
            raise BadInput("accounts.code_needed", field="code")
        entry.by_code(transaction, account, code, now=request.app.state.clock.now())
    return account.account_id


def _opened(
    request: Request, connection: Connection[Any], account_id: UUID, login: str, path: str, *, school_id: UUID
) -> Response:
    """A session of the account in the school that was just joined or founded; the browser's old one ends."""
    audit.note_everywhere(connection, account_id, "joined", only=school_id)
    return _again(request, connection, Entered(account_id, login, school_id), path)


def _again(request: Request, connection: Connection[Any], entered: Entered, path: str) -> Response:
    """Let in whom the form has made a way for: this time, or when it was sent before."""
    response = browsers.let_in(
        request, connection, entered.account_id, entered.login, to=path, first=True, school_id=entered.school_id
    )
    assert response is not None  # it belongs to a school now
    return response
