"""School: people with their roles, invitations by link, garden passes, and one's own account."""

from datetime import datetime, timedelta
from typing import Annotated, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Response
from fastapi.responses import RedirectResponse

from almanaque.commands.accounts import people as commands
from almanaque.core.accounts.permissions import ROLES, Role
from almanaque.core.errors import BadInput
from almanaque.store import errors
from almanaque.store.accounts import accounts, garden_passes
from almanaque.web import forms, frame, links, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
People = Annotated[RequestScope, Depends(may("people"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]

INVITATION_DAYS = 14
MOST_PASS_DAYS = 120


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
        return _page(
            work, made=links.address(scope.request, f"/invite/{secret}"), made_for=for_whom, made_kind="invitation"
        )


@router.post("/school/people/invitations/{invitation_id}/revoke")
def revoke_invitation(scope: People, invitation_id: UUID) -> Response:
    with scope.open() as work:
        if not accounts.revoke_invitation(work.connection, invitation_id):
            raise errors.NotFound("That invitation was used or taken back already.")
        return frame.go(work, "/school/people")


@router.post("/school/people/passes")
def make_pass(
    scope: Plan,
    label: Annotated[str, Form()] = "",
    group: Annotated[str, Form()] = "",
    days: Annotated[str, Form()] = "",
) -> Response:
    """Make a garden pass for one class or carer. It is shown once, as a link and as a QR code."""
    with scope.open() as work:
        group_id = forms.optional_id(group)
        if group_id is not None and group_id not in {g.id for g in work.context.groups}:
            raise BadInput("accounts.no_such_group", field="group")
        lasts = forms.whole(days, field="days", least=1, most=MOST_PASS_DAYS, what="days_of_pass")
        for_whom = forms.name(label, field="label", what="name_for_whom")
        secret = security.new_token()
        garden_passes.save(
            work.connection,
            work.context.school.id,
            uuid4(),
            label=for_whom,
            group_id=group_id,
            token_hash=security.token_hash(secret),
            expires_at=scope.clock.now() + timedelta(days=lasts),
            by=scope.visitor.account_id,
        )
        return _page(
            work, made=links.address(scope.request, f"/p/{secret}"), made_for=for_whom, made_kind="garden pass"
        )


@router.post("/school/people/passes/{pass_id}/revoke")
def revoke_pass(scope: Plan, pass_id: UUID) -> Response:
    with scope.open() as work:
        garden_passes.revoke(work.connection, pass_id)
        return frame.go(work, "/school/people")


@router.post("/school/people/{account_id}/role")
def set_role(scope: People, account_id: UUID, role: Annotated[str, Form()] = "") -> Response:
    """Another role, or none: then the person is let go from this school. The account stays."""
    with scope.open() as work:
        new = None if role == "none" else cast(Role, forms.one_of(role, ROLES, field="role"))
        commands.set_role(work.connection, account_id, new)
    return RedirectResponse(
        "/school/people" if account_id != scope.visitor.account_id or new == "coordinator" else "/week", status_code=303
    )


@router.post("/school/people/{account_id}/erase")
def erase_person(scope: People, account_id: UUID) -> Response:
    """Erase a person who belongs to this school alone: the name goes, what was written stays."""
    with scope.open() as work:
        commands.erase_person(work.connection, account_id, by=scope.visitor.account_id)
        return frame.go(work, "/school/people")


@router.get("/account")
def own_account(scope: Look) -> Response:
    with scope.open() as work:
        return frame.page(work, "account", "Your account", {"own": _own(work)}, template="accounts/account.html")


@router.post("/account")
def change_account(
    scope: Look,
    name: Annotated[str, Form()] = "",
    password: Annotated[str, Form()] = "",
    new_password: Annotated[str, Form()] = "",
) -> Response:
    """Change one's name, and one's password for those who know the old one."""
    with scope.open() as work:
        commands.change_own(
            work.connection,
            scope.token_hash,
            _own(work),
            name=forms.name(name, what="name", most=120),
            password=password,
            new_password=new_password,
        )
        return frame.go(work, "/account")


@router.post("/account/erase")
def erase(scope: Look, password: Annotated[str, Form()] = "") -> Response:
    """Erase one's own account: the name goes, what was written stays."""
    with scope.open() as work:
        commands.erase_own(work.connection, _own(work), password=password)
    response = RedirectResponse("/login", status_code=303)
    response.delete_cookie(security.SESSION_COOKIE, path="/")
    return response


def _days_left(work: UnitOfWork, moment: datetime) -> str:
    """`for 13 more days`: by the real clock, also where the demo's day stands still."""
    return f"for {words.count(max(1, (moment - work.scope.clock.now()).days + 1), 'more day')}"


def _own(work: UnitOfWork) -> accounts.OwnAccount:
    own = accounts.own_account(work.connection, work.scope.token_hash)
    if own is None:
        raise security.NotLoggedIn
    return own


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
                "until": _days_left(work, p.expires_at),
                "used": f"last used {words.short_day(p.used_at.date())}" if p.used_at else "not used yet",
            }
            for p in (garden_passes.passes(work.connection) if may_pass else [])
        ],
        "role_options": [(role, role) for role in ROLES],
        "pass_options": [("", "carers")] + [(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)],
        "most_days": MOST_PASS_DAYS,
        "invitation_days": INVITATION_DAYS,
    }
    return frame.page(work, "school", "People", values, template="accounts/people.html")
