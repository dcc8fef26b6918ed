"""A ballot for a child who is away, by the link of the class's open garden: two dots, once from each browser, counted with the class."""

from dataclasses import dataclass
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response

from almanaque.commands import context as contexts
from almanaque.commands.journal import class_ballots as commands
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_ballots
from almanaque.formats.crops import portraits
from almanaque.store import errors
from almanaque.store.journal import open_gardens
from almanaque.store.school import turn_of_year
from almanaque.web import frame
from almanaque.web.journal import open_garden_page
from almanaque.web.journal.class_tablet_counts import BallotChoice, ChildBallotForm
from almanaque.web.journal.followed_link import NOT_INDEXED, FollowedLink, follow, followed
from almanaque.web.view import View

router = APIRouter()


@dataclass(frozen=True)
class HomeBallotView(View):
    """What `journal/home_ballot.html` is given."""

    school: str
    ballot: str
    ended: bool
    choices: list[BallotChoice]
    dots: list[str]
    wish: str
    each: int
    secret: str
    thanks: bool
    error: str


@router.get("/open/{secret}/ballot")
def page(request: Request, secret: str, thanks: str = "") -> Response:
    return _page(request, followed(request), ChildBallotForm(), thanks=bool(thanks))


@router.post("/open/{secret}/ballot")
def cast(
    request: Request,
    secret: str,
    form: Annotated[ChildBallotForm, Form()],
    link: Annotated[FollowedLink, Depends(follow)],
) -> Response:
    """Put this browser's ballot in; sent again it takes the place of the first."""
    try:
        with request.app.state.database.school(link.school_id) as connection:
            context = contexts.load(connection)
            made = open_gardens.open_garden(connection, link.garden_id)
            if made.ballot_id is None or made.class_group_id is None:
                raise errors.NotFound("There is nothing to vote on at this page.")
            on_it = [crop for crop, _ in turn_of_year.ballot_crops(connection, made.ballot_id)]
            commands.cast(
                connection,
                context,
                made.ballot_id,
                made.class_group_id,
                uuid4(),
                class_ballots.read(form.dots, form.wish, on_it),
                day=request.app.state.clock.today(context.school.zone),
                reader=open_garden_page.reader(request, link),
            )
    except BadInput as error:
        return _page(request, link, form, error=error)
    return frame.see(f"/open/{link.secret}/ballot?thanks=1")


def _page(
    request: Request,
    link: FollowedLink,
    form: ChildBallotForm,
    *,
    thanks: bool = False,
    error: BadInput | None = None,
) -> Response:
    with request.app.state.database.school(link.school_id) as connection:
        context = contexts.load(connection)
        made = open_gardens.open_garden(connection, link.garden_id)
        if made.ballot_id is None:
            raise errors.NotFound("There is nothing to vote on at this page.")
        ballot = turn_of_year.ballot(connection, made.ballot_id)
        crops = [c for c, _ in turn_of_year.ballot_crops(connection, made.ballot_id) if c in context.crops]
    view = HomeBallotView(
        school=context.school.name,
        ballot=ballot.name,
        ended=ballot.closed_on is not None,
        choices=sorted(
            (BallotChoice(c, context.crops[c].name.en, portraits.in_hand(context.crops[c], px=96)) for c in crops),
            key=lambda choice: choice.name,
        ),
        dots=form.dots,
        wish=form.wish,
        each=class_ballots.DOTS,
        secret=link.secret,
        thanks=thanks,
        error=error.message if error else "",
    )
    response = frame.bound_page(request, "journal/home_ballot.html", view, status=422 if error else 200)
    response.headers.update(NOT_INDEXED)
    open_garden_page.know_reader(request, response)
    return response
