"""Week: who looks after which station over the year, handing over, and winter homes for worms and animals."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Annotated
from uuid import uuid4

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.commands.week import station_roster as commands
from almanaque.core.errors import BadInput
from almanaque.core.week.station_roster import RosterCell
from almanaque.store.week import stations as store
from almanaque.store.week.stations import StationHome
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
LEAST_GAP = timedelta(days=7)  # a gap that is told; shorter ones are week-ends and single days: our own choice


@dataclass(frozen=True)
class RosterCellView(View):
    """Who has a station in a term, with days where it is not the whole of it, and when nobody has."""

    who: list[str]
    gaps: list[str]
    empty: bool
    passed: bool


@dataclass(frozen=True)
class RosterRowView(View):
    """A station of the roster."""

    id: str
    name: str
    cells: list[RosterCellView]
    homes: list[tuple[str, str]]
    wants_home: str


@dataclass(frozen=True)
class RosterView(View):
    """What `week/station_roster.html` is given."""

    terms: list[tuple[str, str]]
    rows: list[RosterRowView]
    groups: list[tuple[str, str]]
    stations: list[tuple[str, str]]
    on: str
    empty: int
    said: str
    error: str


@router.get("/week/stations/roster")
def page(scope: Look, said: str = "") -> Response:
    with scope.open() as work:
        return _page(work, said=said[:200])


class RosterForm(BaseModel):
    """What the forms send, as they were typed."""

    action: str = ""
    station: str = ""
    group: str = ""
    on: str = ""
    place: str = ""
    from_day: str = ""
    to_day: str = ""
    home: str = ""


@router.post("/week/stations/roster")
def change(scope: Plan, form: Annotated[RosterForm, Form()]) -> Response:
    """Fill empty terms fairly, hand a station over, name a home for the winter or take it out."""
    try:
        with scope.open() as work:
            said = _change(work, form)
            return frame.go(work, "/week/stations/roster", said=said)
    except BadInput as error:
        with scope.open() as work:
            return _page(work, error=error)


def _change(work: UnitOfWork, form: RosterForm) -> str:
    if form.action == "fill":
        given = commands.fill(work.connection, work.context, work.day, today=work.today)
        return f"{words.count(given, 'turn')} given out."
    if form.action == "hand over":
        commands.hand_over(
            work.connection,
            work.context,
            forms.row_id(form.station),
            forms.row_id(form.group),
            parse_day(form.on, field="on"),
            today=work.today,
        )
        return "Handed over."
    if form.action == "home":
        home = StationHome(
            uuid4(),
            forms.row_id(form.station),
            forms.name(form.place, field="place", what="name_of_home", most=120),
            parse_day(form.from_day, field="from_day"),
            parse_day(form.to_day, field="to_day"),
        )
        commands.give_home(work.connection, work.context, home)
        return "The home is on the roster."
    if form.action == "no home":
        store.delete_home(work.connection, forms.row_id(form.home))
        return "The home is taken out."
    raise BadInput("forms.incomplete")


def _page(work: UnitOfWork, *, said: str = "", error: BadInput | None = None) -> Response:
    found = commands.read(work.connection, work.context, work.day)
    names = work.context.group_names(work.day)
    rows = [
        RosterRowView(
            id=str(row.station.id),
            name=row.station.name,
            cells=[
                _cell(cell, names, passed=term.ends < work.today)
                for cell, term in zip(row.cells, found.terms, strict=True)
            ],
            homes=[(str(h.id), f"{h.place}, {words.span(h.from_day, h.to_day)}") for h in row.homes],
            wants_home=row.wants_home,
        )
        for row in found.rows
    ]
    view = RosterView(
        terms=[(term.name, words.span(term.starts, term.ends)) for term in found.terms],
        rows=rows,
        groups=[(str(g.id), names[str(g.id)]) for g in work.context.groups_on(work.day)],
        stations=[(row.id, row.name) for row in rows],
        on=work.today.isoformat(),
        empty=sum(cell.empty and not cell.passed for row in rows for cell in row.cells),
        said=said,
        error=error.message if error else "",
    )
    status = 422 if error else 200
    return frame.page(work, "week", "Station roster", view, template="week/station_roster.html", status=status)


def _cell(cell: RosterCell, names: dict[str, str], *, passed: bool) -> RosterCellView:
    whole = len(cell.cares) == 1 and not cell.gaps
    who = [
        names.get(care.group, "a class") + ("" if whole else f", {words.span(care.starts, care.ends)}")
        for care in cell.cares
    ]
    gaps = [words.span(first, last) for first, last in cell.gaps if last - first >= LEAST_GAP]
    return RosterCellView(who, gaps if cell.cares and not passed else [], not cell.cares, passed)
