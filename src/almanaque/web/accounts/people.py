"""School: people with their roles, invitations by link, links to a new password, garden passes, and the log of all that."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated, cast
from uuid import UUID, uuid4
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Form, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel

from almanaque.commands.accounts import entry, passes
from almanaque.commands.accounts import people as commands
from almanaque.core.accounts.permissions import ROLES, Role
from almanaque.store import errors
from almanaque.store.accounts import accounts, audit, garden_passes
from almanaque.web import forms, frame, links, security, words
from almanaque.web.accounts.account import confirmed
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
People = Annotated[RequestScope, Depends(may("people"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]

INVITATION_DAYS = 14
MOST_LINES = 300
_UNTIL = {"term": "the end of", "break": "through"}
_WHAT: dict[audit.What, str] = {
    "login": "logged in",
    "login from new browser": "logged in from a browser that was new",
    "password changed": "changed their password",
    "second step on": "asks for a code at login from now on",
    "second step off": "asks for no code any more",
    "recovery code used": "logged in by a recovery code",
    "recovery link made": "made a link to a new password for",
    "recovery link used": "set a new password by a link",
    "session ended": "ended logins of their own",
    "invited": "invited",
    "invitation taken back": "took an invitation back",
    "joined": "joined",
    "role changed": "changed the role of",
    "let go": "let go",
    "erased": "erased",
    "pass made": "made a garden pass for",
    "pass taken back": "took a garden pass back",
    "exported": "took out",
    "restored": "brought in",
    "calendar address made": "made a calendar address for",
    "letter published": "published a letter",
    "open garden published": "published the garden by a link",
    "open garden ended": "ended a link to the garden",
}


@dataclass(frozen=True)
class LogLineView(View):
    """A line of `LogView`."""

    at: str
    who: str
    what: str
    subject: str
    about: str


@dataclass(frozen=True)
class LogView(View):
    """What `accounts/log.html` shows."""

    lines: list[LogLineView]
    kept_days: int


@router.get("/school/people")
def people(scope: Look) -> Response:
    with scope.open() as work:
        return _page(work)


@router.post("/school/people/invitations")
def invite(scope: People, label: Annotated[str, Form()] = "", role: Annotated[str, Form()] = "") -> Response:
    """Make a link by which one person joins. It is shown once: only its hash is kept."""
    with scope.open() as work:
        secret = security.new_token()
        for_whom = forms.name(label, field="label", what="name_for_whom")
        assert scope.visitor.account_id is not None  # passes have no right to invite
        accounts.invite(
            work.connection,
            uuid4(),
            token_hash=security.token_hash(secret),
            role=cast(Role, forms.one_of(role, ROLES, field="role")),
            label=for_whom,
            by=scope.visitor.account_id,
            expires_at=scope.clock.now() + timedelta(days=INVITATION_DAYS),
        )
        _noted(work, "invited", f"{for_whom}, as {role}")
        return _page(
            work, made=links.address(scope.request, f"/invite/{secret}"), made_for=for_whom, made_kind="invitation"
        )


@router.post("/school/people/invitations/{invitation_id}/revoke")
def revoke_invitation(scope: People, invitation_id: UUID) -> Response:
    with scope.open() as work:
        if not accounts.revoke_invitation(work.connection, invitation_id):
            raise errors.NotFound("That invitation was used or taken back already.")
        _noted(work, "invitation taken back")
        return frame.go(work, "/school/people")


class PassForm(BaseModel):
    """What the form sends, as it was typed."""

    label: str = ""
    group: str = ""
    when: str = "days"
    starts: str = ""
    ends: str = ""


@router.post("/school/people/passes")
def make_pass(scope: Plan, form: Annotated[PassForm, Form()]) -> Response:
    """Make a garden pass for one class or carer. It is shown once, as a link and as a QR code."""
    with scope.open() as work:
        secret = security.new_token()
        usual = passes.usual_spans(work.context.calendar, work.today)
        chosen = usual.get(cast(passes.When, form.when))
        wish = passes.PassWish(
            forms.name(form.label, field="label", what="name_for_whom"),
            forms.optional_id(form.group),
            chosen.starts if chosen else parse_day(form.starts, field="starts"),
            chosen.ends if chosen else parse_day(form.ends, field="ends"),
            scope.clock.now(),
            work.today,
        )
        passes.make(work.connection, work.context, wish, security.token_hash(secret), by=scope.visitor.account_id)
        return _page(
            work, made=links.address(scope.request, f"/p/{secret}"), made_for=wish.label, made_kind="garden pass"
        )


@router.post("/school/people/passes/{pass_id}/revoke")
def revoke_pass(scope: Plan, pass_id: UUID) -> Response:
    with scope.open() as work:
        garden_passes.revoke(work.connection, pass_id)
        _noted(work, "pass taken back")
        return frame.go(work, "/school/people")


@router.post("/school/people/{account_id}/role")
def set_role(scope: People, account_id: UUID, role: Annotated[str, Form()] = "") -> Response:
    """Another role, or none: then the person is let go from this school. The account stays."""
    with scope.open() as work:
        new = None if role == "none" else cast(Role, forms.one_of(role, ROLES, field="role"))
        commands.set_role(work.connection, work.context.school.id, account_id, new, by=scope.visitor.account_id)
    return RedirectResponse(
        "/school/people" if account_id != scope.visitor.account_id or new == "coordinator" else "/week", status_code=303
    )


@router.post("/school/people/{account_id}/erase")
def erase_person(scope: People, account_id: UUID) -> Response:
    """Erase a person who belongs to this school alone: the name goes, what was written stays."""
    with scope.open() as work:
        commands.erase_person(work.connection, work.context.school.id, account_id, by=scope.visitor.account_id)
        return frame.go(work, "/school/people")


@router.post("/school/people/{account_id}/reset")
def make_reset(scope: People, account_id: UUID, password: Annotated[str, Form()] = "") -> Response:
    """Make a link by which one of the school's people sets a new password. It is shown once: only its hash is kept."""
    confirmed(scope, password)
    with scope.open() as work:
        person = next((p for p in accounts.people(work.connection) if p.account_id == account_id), None)
        if person is None:
            raise errors.NotFound("There is no such person in this school.")
        secret = security.new_token()
        entry.make_reset(
            work.connection,
            work.context.school.id,
            account_id,
            security.token_hash(secret),
            by=scope.visitor.account_id,
            now=scope.clock.now(),
        )
        return _page(
            work, made=links.address(scope.request, f"/reset/{secret}"), made_for=person.name, made_kind="new password"
        )


@router.get("/school/log")
def log(scope: People) -> Response:
    """Who logged in, changed people, took data out: the last entries."""
    with scope.open() as work:
        zone = ZoneInfo(work.context.school.zone)
        view = LogView(
            [
                LogLineView(
                    words.moment(one.at.astimezone(zone)),
                    one.name or "the server",
                    _WHAT[one.what],
                    one.subject,
                    one.about,
                )
                for one in audit.entries(work.connection, limit=MOST_LINES)
            ],
            audit.KEPT_DAYS,
        )
        return frame.page(work, "school", "Log", view, template="accounts/log.html")


def _days_left(work: UnitOfWork, moment: datetime) -> str:
    """`for 13 more days`: by the real clock, also where the demo's day stands still."""
    return f"for {words.count(max(1, (moment - work.scope.clock.now()).days + 1), 'more day')}"


def _noted(work: UnitOfWork, what: audit.What, about: str = "") -> None:
    audit.note(work.connection, work.context.school.id, work.scope.visitor.account_id, what, about)


def _pass_days(work: UnitOfWork, one: garden_passes.Pass) -> str:
    """`14 Apr to 17 Jun 2027`, as the school counts them."""
    first, last = (
        passes.day_of(work.context.school.zone, at, now=work.scope.clock.now(), today=work.today)
        for at in (one.opens_at, one.expires_at - timedelta(seconds=1))
    )
    return f"until {words.short_day(last)}" if first <= work.today else words.span(first, last)


def _page(work: UnitOfWork, *, made: str = "", made_for: str = "", made_kind: str = "") -> Response:
    names = work.context.group_names(work.today)
    may_invite, may_pass = work.scope.may("people"), work.scope.may("plan")
    values = {
        "made": made,
        "made_for": made_for,
        "made_kind": made_kind,
        "qr": links.qr_path(made) if made else None,
        "people": accounts.people(work.connection),
        "roles": ROLES,
        "me": work.scope.visitor.account_id,
        "invitations": [
            {"id": str(i.id), "label": i.label, "role": i.role, "until": _days_left(work, i.expires_at)}
            for i in (accounts.invitations(work.connection) if may_invite else [])
        ],
        "passes": [
            {
                "id": str(p.id),
                "label": p.label,
                "who": names.get(str(p.class_group_id), "a carer"),
                "until": _pass_days(work, p),
                "used": f"last used {words.short_day(p.used_at.date())}" if p.used_at else "not used yet",
            }
            for p in (garden_passes.passes(work.connection) if may_pass else [])
        ],
        "role_options": [(role, role) for role in ROLES],
        "pass_options": [("", "carers")] + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)],
        "when_options": [
            (key, f"now until {words.short_day(span.ends)}, {_UNTIL[key]} {span.name}")
            for key, span in passes.usual_spans(work.context.calendar, work.today).items()
        ]
        + [("days", "the days that I give")],
        "pass_starts": work.today.isoformat(),
        "pass_ends": (work.today + timedelta(days=passes.USUAL_DAYS - 1)).isoformat(),
        "invitation_days": INVITATION_DAYS,
    }
    return frame.page(work, "school", "People", values, template="accounts/people.html")
