"""Journal: class pages there are, and a new one, made for a group and a lesson."""

from dataclasses import dataclass
from datetime import datetime, time, timedelta
from typing import Annotated
from uuid import uuid4
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel, Field

from almanaque.commands.journal import class_pages as commands
from almanaque.commands.journal.class_pages import ClassPageWish
from almanaque.core.errors import BadInput
from almanaque.core.journal import class_counts, class_page, class_sorting
from almanaque.core.journal.class_sorting import SortBy
from almanaque.core.school.school_year import Lesson
from almanaque.store.garden import garden
from almanaque.store.journal import class_pages as store
from almanaque.store.journal.class_pages import ClassPage
from almanaque.store.school import turn_of_year
from almanaque.web import forms, frame, words
from almanaque.web.journal.class_tablet import NAMES
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Note = Annotated[RequestScope, Depends(may("note"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
SEASON = timedelta(days=90)  # in which what is drawn would be begun, unless said otherwise: our own choice
DOES = {
    "draw": "Draw plans in teams",
    "vote": "Vote: a ballot for each child",
    "count": "Count at the bed",
    "measure": "Measure",
    "sort": "Sort plants into heaps",
}
SORTS: dict[SortBy, str] = {"part": "which part we eat", "season": "cool or warm weather", "kin": "kin of each other"}


class ClassPageForm(BaseModel):
    """What the form of a new page sends, as it was typed."""

    id: str = ""
    group: str = ""
    on_day: str = ""
    until: str = ""
    does: list[str] = Field(default_factory=list)
    teams: str = ""
    bed: str = ""
    columns: str = "8"
    rows: str = "6"
    season_from: str = ""
    season_to: str = ""
    ballot: str = ""
    counts: list[str] = Field(default_factory=list)
    count_bed: str = ""
    sorts_by: str = "part"


@router.get("/journal/classes")
def page(scope: Look, group: str = "", on: str = "", bed: str = "") -> Response:
    """Class pages there are, and the form of a new one: for a class and a lesson when a link names them."""
    with scope.open() as work:
        return _list(work, _begun(work, group, on, bed))


@router.post("/journal/classes")
def make(scope: Note, form: Annotated[ClassPageForm, Form()]) -> Response:
    try:
        with scope.open() as work:
            page_id = forms.row_id(form.id)
            commands.make(
                work.connection,
                work.context,
                page_id,
                _wish(form),
                key=scope.request.app.state.settings.secret,
                now=scope.clock.now().astimezone(ZoneInfo(work.context.school.zone)),
                today=work.today,
                by=scope.visitor.account_id,
            )
            return frame.leave(work, f"/journal/classes/{page_id}")
    except BadInput as error:
        with scope.open() as work:
            return _list(work, form, error=error)


def _wish(form: ClassPageForm) -> ClassPageWish:
    return ClassPageWish(
        class_group_id=forms.row_id(form.group),
        on_day=parse_day(form.on_day, field="on_day"),
        until=forms.clock_time(form.until, field="until"),
        does=form.does,
        teams=form.teams,
        season=(parse_day(form.season_from, field="season_from"), parse_day(form.season_to, field="season_to")),
        bed_id=forms.optional_id(form.bed),
        dream=(
            forms.whole(form.columns, field="columns", least=1, most=99, what="squares_along"),
            forms.whole(form.rows, field="columns", least=1, most=99, what="squares_along"),
        ),
        ballot_id=forms.optional_id(form.ballot),
        counts=form.counts,
        count_bed_id=forms.optional_id(form.count_bed),
        sorts_by=next((key for key in class_sorting.SORTS if key == form.sorts_by), "part"),
    )


def _begun(work: UnitOfWork, group: str, on: str, bed: str) -> ClassPageForm:
    """The form as it opens: the lesson that a link names, else the class's next one today, else three quarters of an hour from now."""
    groups = work.context.groups_on(work.today)
    chosen = next((g for g in groups if str(g.id) == group), None)
    day = parse_day(on, field="on") if on else work.today
    lessons = work.context.calendar.lessons(day, day, group_id=str(chosen.id) if chosen else None)
    now = work.scope.clock.now().astimezone(ZoneInfo(work.context.school.zone))
    to_come = [lesson for lesson in lessons if day != work.today or _end(lesson) > now.time()]
    if chosen is None and to_come:
        chosen = next((g for g in groups if str(g.id) == to_come[0].group_id), None)
    chosen = chosen or next(iter(groups), None)
    ends = _end(to_come[0]) if to_come else _in_a_while(now)
    beds = [b for b in garden.beds(work.connection) if not b.indoors]
    own = next((b for b in beds if chosen is not None and b.class_group_id == chosen.id), next(iter(beds), None))
    starts = max(day, work.today)
    ballot = next((b for b in turn_of_year.ballots(work.connection) if b.closed_on is None), None)
    return ClassPageForm(
        id=str(uuid4()),
        group=str(chosen.id) if chosen else "",
        on_day=day.isoformat(),
        until=f"{ends:%H:%M}",
        does=["draw"],
        teams="\n".join(class_page.suggested_teams([t.name for t in chosen.teams] if chosen else [])),
        bed=bed or (str(own.id) if own else ""),
        season_from=starts.isoformat(),
        season_to=(starts + SEASON).isoformat(),
        ballot=str(ballot.id) if ballot else "",
        counts=["height", "visitors"],
        count_bed=bed or (str(own.id) if own else ""),
    )


def _end(lesson: Lesson) -> time:
    """When a lesson is over."""
    return (datetime.combine(lesson.day, lesson.starts_at) + timedelta(minutes=lesson.minutes)).time()


def _in_a_while(now: datetime) -> time:
    """When a lesson that begins now is over; on the same day."""
    ends = now + timedelta(minutes=class_page.USUAL_MINUTES)
    return ends.time() if ends.date() == now.date() else time(23, 59)


@dataclass(frozen=True)
class ClassPageLine:
    """A class page in the list."""

    id: str
    who: str
    when: str
    does: str
    is_open: bool


@dataclass(frozen=True)
class ClassPagesView(View):
    """What `journal/class_pages.html` is given."""

    pages: list[ClassPageLine]
    form: ClassPageForm
    groups: list[tuple[str, str]]
    beds: list[tuple[str, str]]
    ballots: list[tuple[str, str]]
    activities: list[tuple[str, str, bool]]
    counts: list[tuple[str, str, bool]]
    sorts: list[tuple[str, str]]
    error: str
    error_field: str


def _list(work: UnitOfWork, form: ClassPageForm, *, error: BadInput | None = None) -> Response:
    names = work.context.group_names(work.today)
    now = work.scope.clock.now()
    view = ClassPagesView(
        pages=[_line(work, one, now) for one in store.class_pages(work.connection)],
        form=form,
        groups=[(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.today)],
        beds=[(str(b.id), b.name) for b in garden.beds(work.connection) if not b.indoors],
        ballots=[(str(b.id), b.name) for b in turn_of_year.ballots(work.connection) if b.closed_on is None],
        activities=[(key, DOES[key], key in form.does) for key in class_page.ACTIVITIES],
        counts=[(key, class_counts.KINDS[key].name, key in form.counts) for key in class_counts.COUNT_KEYS],
        sorts=list(SORTS.items()),
        error=error.message if error else "",
        error_field=error.field if error else "",
    )
    status = 422 if error else 200
    return frame.page(work, "journal", "Class pages", view, template="journal/class_pages.html", status=status)


def _line(work: UnitOfWork, one: ClassPage, now: datetime) -> ClassPageLine:
    held = store.code(work.connection, one.id)
    names = work.context.group_names(one.on_day)
    return ClassPageLine(
        id=str(one.id),
        who=names.get(str(one.class_group_id), "a class"),
        when=f"{words.weekday_day(one.on_day)} {one.on_day.year}",
        does=", ".join(NAMES[key][0].lower() for key in one.does),
        is_open=held is not None and held.is_open(now),
    )
