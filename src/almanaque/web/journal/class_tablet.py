"""A child's tablet, or the projector: in by the words of a class page, into a team, for as long as the lesson lasts. No account."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Request, Response
from psycopg import Connection

from almanaque.commands import context as contexts
from almanaque.commands.accounts import entry
from almanaque.commands.accounts.entry import TooSoon
from almanaque.commands.context import Context
from almanaque.commands.journal import class_pages as commands
from almanaque.core.accounts import attempts
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_page as rules
from almanaque.core.journal.class_page import Activity
from almanaque.store import errors
from almanaque.store.journal import class_pages as store
from almanaque.store.journal.class_pages import ClassPage, ClassTeam, FoundTablet
from almanaque.web import forms, frame, security, words
from almanaque.web.view import View

router = APIRouter()
HOLDS = timedelta(hours=12)  # how long a browser keeps its token, which opens nothing after the lesson
OVER = "The lesson is over, or this page was closed. What you did is kept. Type the words of your next class page."
NAMES: dict[Activity, tuple[str, str]] = {
    "draw": ("Draw", "pencil"),
    "vote": ("Vote", "check-lg"),
    "count": ("Count", "list-check"),
    "measure": ("Measure", "rulers"),
    "sort": ("Sort", "grid-3x3"),
}


@dataclass(frozen=True)
class TabletWork:
    """An open transaction in the school of a tablet's page. `team` is None until it has chosen one."""

    connection: Connection[Any]
    context: Context
    today: date
    page: ClassPage
    teams: list[ClassTeam]
    team: ClassTeam | None


@dataclass(frozen=True)
class TabletScope:
    """A request from a tablet that came in by a code."""

    request: Request
    tablet: FoundTablet

    @contextmanager
    def open(self) -> Iterator[TabletWork]:
        """One transaction, kept when the block ends and undone when it raises."""
        with self.request.app.state.database.school(self.tablet.school_id) as connection:
            context = contexts.load(connection)
            teams = store.teams(connection, self.tablet.class_page_id)
            team = next((t for t in teams if t.id == self.tablet.class_team_id), None)
            page = store.class_page(connection, self.tablet.class_page_id)
            today = self.request.app.state.clock.today(context.school.zone)
            yield TabletWork(connection, context, today, page, teams, team)


def on_tablet(request: Request) -> TabletScope:
    """The request of a tablet whose lesson still lasts. Raises NotAllowed for all others."""
    found = find(request)
    if found is None or not found.open:
        raise security.NotAllowed(OVER)
    return TabletScope(request, found)


class NotIn(Exception):
    """Who looks at a class page without having come in, or after its lesson: led to where the words are typed."""

    def __init__(self, over: bool) -> None:
        super().__init__(OVER)
        self.leads_to = "/class?over=1" if over else "/class"


def looking(request: Request) -> TabletScope:
    """A tablet that looks at its page while the lesson lasts. Raises NotIn for all others."""
    found = find(request)
    if found is None or not found.open:
        raise NotIn(over=found is not None)
    return TabletScope(request, found)


on_tablet.right = "class"  # type: ignore[attr-defined]  # asked before anything large is parsed
Tablet = Annotated[TabletScope, Depends(on_tablet)]
Looking = Annotated[TabletScope, Depends(looking)]


def find(request: Request) -> FoundTablet | None:
    """The tablet that a request comes from, its lesson over or not."""
    token = security.cookie(request, security.CLASS_COOKIE)
    if not token:
        return None
    with request.app.state.database.transaction() as connection:
        return store.find_tablet(connection, security.token_hash(token))


def own_team(work: TabletWork) -> ClassTeam:
    """The tablet's team. Raises BadInput before it has chosen one."""
    if work.team is None:
        raise BadInput("journal.class_team_first", field="team")
    return work.team


def needs(work: TabletWork, *wanted: Activity) -> None:
    """Raise NotFound where the page does none of these."""
    if not set(wanted) & set(work.page.does):
        raise errors.NotFound("This class page does not do that.")


@dataclass(frozen=True)
class TabletTab:
    """A part of the page that a tablet can go to."""

    key: str
    name: str
    icon: str


@dataclass(frozen=True)
class TabletFrame(View):
    """What every page of a tablet shows on top. `shelf` names what waits on the tablet, by page and team."""

    form_token: str
    shelf: str
    here: str
    who: str
    team: str
    until: str
    tabs: list[TabletTab]
    error: str = ""
    error_field: str = ""


def shown(scope: TabletScope, work: TabletWork, here: str, error: BadInput | None = None) -> TabletFrame:
    """The top of a tablet's page."""
    names = work.context.group_names(work.page.on_day)
    return TabletFrame(
        form_token=security.form_token(scope.request),
        shelf=f"{work.page.id} {work.team.id if work.team else ''}",
        here=here,
        who=names.get(str(work.page.class_group_id), ""),
        team=work.team.name if work.team else "",
        until=words.clock(work.page.until),
        tabs=_tabs(work.page),
        error=error.message if error else "",
        error_field=error.field if error else "",
    )


def _tabs(page: ClassPage) -> list[TabletTab]:
    """What this page does, counting and measuring on one, then the board or the gallery."""
    found: list[TabletTab] = []
    for activity in page.does:
        key = "count" if activity == "measure" else activity
        if key not in [tab.key for tab in found]:
            both = {"count", "measure"} <= set(page.does)
            name, icon = NAMES[activity]
            found.append(TabletTab(key, "Count and measure" if both and key == "count" else name, icon))
    if "draw" in page.does:
        found.append(TabletTab("gallery", "Gallery", "image"))
    if {"count", "measure", "sort"} & set(page.does):
        found.append(TabletTab("board", "Board", "bar-chart-steps"))
    return found


def first_of(page: ClassPage) -> str:
    """Where a tablet begins."""
    return f"/class/{_tabs(page)[0].key}"


@router.get("/class")
def join_page(request: Request, code: str = "", over: bool = False) -> Response:
    """Where the words of a class page are typed; a tablet that is in goes on where it was."""
    found = find(request)
    if found is not None and found.open and not code:
        return frame.see("/class/team")
    return _join(request, code=rules.plain_code(code), message=OVER if over else "")


@router.post("/class")
def join(request: Request, code: Annotated[str, Form()] = "") -> Response:
    """Let a browser in by the words of a page; wrong ones are counted by where they come from."""
    typed, key = rules.plain_code(code), request.app.state.settings.secret
    transaction = request.app.state.database.transaction
    limits = {f"address class {security.visitor_address(request)}": attempts.CLASS_CODE}
    try:
        entry.try_once(transaction, limits)
        with transaction() as connection:
            where = store.find(connection, commands.code_hash(key, typed))
            if where is None:
                raise BadInput("journal.class_code_wrong", field="code")
            entry.right(connection, limits)
        token = security.new_token()
        with request.app.state.database.school(where[0]) as connection:
            commands.join(connection, where[0], where[1], uuid4(), security.token_hash(token))
    except BadInput as error:
        return _join(request, code=typed, message=error.message, status=429 if isinstance(error, TooSoon) else 422)
    response = frame.see("/class/team")
    security.set_cookie(response, request, security.CLASS_COOKIE, token, lasts=HOLDS)
    return response


def _join(request: Request, *, code: str, message: str = "", status: int = 200) -> Response:
    values = {"code": code.replace("-", " "), "message": message}
    return frame.bound_page(request, "journal/class_join.html", values, status=status)


@dataclass(frozen=True)
class ClassTeamsView(View):
    """What `journal/class_team.html` is given."""

    top: TabletFrame
    teams: list[tuple[str, str]]
    first: str


@router.get("/class/team")
def team_page(scope: Looking) -> Response:
    """Which team a tablet is; a projector chooses none."""
    with scope.open() as work:
        view = ClassTeamsView(
            top=shown(scope, work, "team"),
            teams=[(str(team.id), team.name) for team in work.teams],
            first=first_of(work.page),
        )
    return frame.bare_page(scope.request, "journal/class_team.html", view)


@router.post("/class/team")
def choose_team(scope: Tablet, team: Annotated[str, Form()] = "") -> Response:
    with scope.open() as work:
        store.choose_team(work.connection, scope.tablet.tablet_id, work.page.id, forms.row_id(team))
        return frame.see(first_of(work.page))


@router.post("/class/leave")
def leave(request: Request) -> Response:
    """Let this browser hold the class page no longer, for the next class."""
    response = frame.see("/class")
    security.drop_cookie(response, request, security.CLASS_COOKIE)
    return response
