"""The weekly sheet for a kitchen or a stall that has a link: what comes, and a way to ask for something. No account, no names."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response
from psycopg import Connection

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.commands.harvest import kitchen
from almanaque.core.errors import BadInput
from almanaque.store import errors
from almanaque.store.journal import open_gardens as store
from almanaque.store.journal.open_gardens import OpenGarden
from almanaque.web import frame, words
from almanaque.web.harvest import kitchen_sheet
from almanaque.web.harvest.kitchen_sheet import KitchenWeekView, RequestForm, RequestView
from almanaque.web.journal.followed_link import NOT_INDEXED, FollowedLink, follow
from almanaque.web.view import View

router = APIRouter()


@router.post("/open/{secret}/requests")
def ask(
    request: Request,
    secret: str,
    form: Annotated[RequestForm, Form()],
    link: Annotated[FollowedLink, Depends(follow)],
) -> Response:
    """Keep what they ask for. Only a link for kitchen and stall takes it."""
    with request.app.state.database.school(link.school_id) as connection:
        made = store.open_garden(connection, link.garden_id)
        if made.audience != "kitchen":
            raise errors.NotFound("Nothing is asked for on this page.")
        context = contexts.load(connection)
        today = request.app.state.clock.today(context.school.zone)
        try:
            store.hold(connection, link.garden_id)
            kitchen.ask(connection, context, kitchen_sheet.read(form), today=today, open_garden_id=link.garden_id)
        except BadInput as error:
            return draw(request, connection, context, link.secret, made, today=today, form=form, error=error)
    return frame.see(f"/open/{link.secret}#asked")


@dataclass(frozen=True)
class KitchenPageView(View):
    """What `journal/kitchen.html` is given."""

    school: str
    today: str
    greeting: str
    secret: str
    weeks: list[KitchenWeekView]
    asked: list[RequestView]
    crops: list[tuple[str, str]]
    form: RequestForm
    error: str
    error_field: str
    until: str


def draw(
    request: Request,
    connection: Connection[Any],
    context: Context,
    secret: str,
    made: OpenGarden,
    *,
    today: date,
    form: RequestForm | None = None,
    error: BadInput | None = None,
) -> Response:
    """The page as it is today."""
    page = KitchenPageView(
        school=context.school.name,
        today=f"{words.short_day(today)} {today.year}",
        greeting=made.greeting,
        secret=secret,
        weeks=kitchen_sheet.view(context, kitchen.weeks(connection, context, today=today), today),
        asked=[kitchen_sheet.request_view(row) for row in kitchen.wanted(connection, today) if row.by_link],
        crops=[("", "something else"), *kitchen_sheet.crops_to_ask_for(context)],
        form=form or RequestForm(id=str(uuid4()), from_day=today.isoformat()),
        error=error.message if error else "",
        error_field=error.field or "" if error else "",
        until=f"{words.short_day(made.until)} {made.until.year}",
    )
    response = frame.bound_page(request, "journal/kitchen.html", page, status=422 if error else 200)
    response.headers.update(NOT_INDEXED)
    return response
