"""Taking the calendar out: files, and private addresses that calendar programs read along."""

from typing import Annotated, cast
from uuid import UUID, uuid4

from fastapi import APIRouter, Depends, Form, Request, Response

from almanaque.commands import context as contexts
from almanaque.commands.school import calendar_export
from almanaque.commands.school.calendar_export import What
from almanaque.formats.school import calendar_csv, ical_out
from almanaque.store import errors
from almanaque.store.accounts import audit
from almanaque.store.school import calendar_feeds
from almanaque.web import forms, frame, links, security, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
WHAT: tuple[What, ...] = ("calendar", "plan", "both")
WHAT_WORDS = {"calendar": "school calendar", "plan": "garden plan", "both": "calendar and plan"}


@router.get("/school/calendar.ics")
def calendar_file(scope: Look, what: str = "both") -> Response:
    with scope.open() as work:
        chosen = cast(What, forms.one_of(what, WHAT, field="what"))
        return _ics(_body(work, chosen, scope.request), f"{work.context.school.name} {WHAT_WORDS[chosen]}")


@router.get("/school/calendar.csv")
def calendar_table(scope: Look, year: str = "") -> Response:
    """One school year as a table that the import takes back."""
    with scope.open() as work:
        found = next((y for y in work.context.years if y.name == year), None) or next(
            (y for y in work.context.years if y.starts <= work.day <= y.ends), None
        )
        if found is None:
            raise errors.NotFound("There is no such school year.")
        return Response(
            calendar_csv.write(found.core()),
            media_type="text/csv; charset=utf-8",
            headers={"Content-Disposition": f'attachment; filename="calendar-{found.starts.year}.csv"'},
        )


@router.get("/school/feeds")
def addresses(scope: Plan) -> Response:
    with scope.open() as work:
        return _page(work)


@router.post("/school/feeds")
def make(scope: Plan, label: Annotated[str, Form()] = "", what: Annotated[str, Form()] = "both") -> Response:
    """Make a private address. It is shown once: only its hash is kept."""
    with scope.open() as work:
        chosen = forms.one_of(what, WHAT, field="what")
        secret = security.new_token()
        calendar_feeds.save(
            work.connection,
            work.context.school.id,
            uuid4(),
            label=forms.name(label, field="label", what="who_reads"),
            what=chosen,
            token_hash=security.token_hash(secret),
            by=scope.visitor.account_id,
        )
        audit.note(
            work.connection, work.context.school.id, scope.visitor.account_id, "calendar address made", label.strip()
        )
        return _page(work, made=links.address(scope.request, f"/feeds/{secret}.ics"))


@router.post("/school/feeds/{feed_id}/revoke")
def revoke(scope: Plan, feed_id: UUID) -> Response:
    with scope.open() as work:
        calendar_feeds.revoke(work.connection, feed_id)
        return frame.go(work, "/school/feeds")


@router.get("/feeds/{secret}.ics")
def feed(request: Request, secret: str) -> Response:
    """The calendar for whoever holds the address; without a login, and gone once it is revoked."""
    database = request.app.state.database
    with database.transaction() as connection:
        found = calendar_feeds.school_of(connection, security.token_hash(secret))
    if found is None:
        raise errors.NotFound("This address does not show a calendar any more.")
    with database.school(found.school_id) as connection:
        context = contexts.load(connection)
        events = calendar_export.events(connection, context, found.what)
        body = ical_out.write(
            f"{context.school.name}, {WHAT_WORDS[found.what]}", events, stamp=request.app.state.clock.now()
        )
    return _ics(body, "calendar", inline=True)


def _body(work: UnitOfWork, what: What, request: Request) -> bytes:
    events = calendar_export.events(work.connection, work.context, what)
    return ical_out.write(
        f"{work.context.school.name}, {WHAT_WORDS[what]}",
        events,
        stamp=work.scope.clock.now(),
        address=links.address(request, "/school"),
    )


def _ics(body: bytes, name: str, *, inline: bool = False) -> Response:
    plain = "".join(c if c.isalnum() and c.isascii() else "-" for c in name).strip("-").lower()
    way = "inline" if inline else "attachment"
    return Response(
        body,
        media_type="text/calendar; charset=utf-8",
        headers={"Content-Disposition": f'{way}; filename="{plain}.ics"'},
    )


def _page(work: UnitOfWork, *, made: str = "") -> Response:
    values = {
        "made": made,
        "what_words": WHAT_WORDS,
        "feeds": [
            {
                "id": str(f.id),
                "label": f.label,
                "what": WHAT_WORDS[f.what],
                "made": words.short_day(f.made_at.date()),
                "read": words.short_day(f.read_at.date()) if f.read_at else "",
            }
            for f in calendar_feeds.feeds(work.connection)
        ],
    }
    return frame.page(work, "school", "Take the calendar out", values, template="school/calendar_feeds.html")
