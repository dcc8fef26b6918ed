"""Week: the carers' rota for breaks and closures, and the sheet of one round."""

from dataclasses import dataclass
from datetime import date
from itertools import groupby
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, Form, Response
from starlette.datastructures import FormData

from almanaque.commands.week import carer_rounds as commands
from almanaque.commands.week.carer_rounds import Rota, RoundStop, WalkedRound
from almanaque.core.errors import BadInput
from almanaque.core.units import format_water
from almanaque.core.week.carer_rounds import Round
from almanaque.core.week.water import hose_minutes
from almanaque.store.school import school
from almanaque.store.week import carer_rounds
from almanaque.web import forms, frame, words
from almanaque.web.request_scope import RequestScope, UnitOfWork, may, parse_day
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Tick = Annotated[RequestScope, Depends(may("tick"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]


@dataclass(frozen=True)
class RoundView:
    """A round as the rota shows it."""

    week: str
    ordinal: int
    days: str
    name: str
    by: str
    walked: str
    begun: bool
    over: bool
    mine: bool
    offered: bool
    short: str


@router.get("/week/rounds")
def page(scope: Look) -> Response:
    with scope.open() as work:
        found = commands.ahead(work.connection, work.context, work.day)
        values: dict[str, Any] = {
            "breaks": breaks(found, work.today, of=_own(scope), every=scope.may("plan")),
            "facts": gaps(work, found),
            "a_week": work.context.school.rounds_a_week,
            "numbers": [(str(n), str(n)) for n in range(1, 8)],
        }
        return frame.page(work, "week", "Carers' rounds", values, template="week/carer_rounds.html")


@router.post("/week/rounds")
def how_many(scope: Plan, a_week: Annotated[str, Form()] = "") -> Response:
    """How many rounds are walked in a week without school."""
    with scope.open() as work:
        number = forms.whole(a_week, field="a_week", least=1, most=7, what="rounds_in_a_week")
        school.save_rounds_a_week(work.connection, number)
        return frame.go(work, "/week/rounds")


@router.get("/week/rounds/{week}/{ordinal}")
def sheet(scope: Look, week: str, ordinal: int) -> Response:
    """One round: the beds in the order of the walk, to read on the phone or to print."""
    with scope.open() as work:
        return frame.page(
            work,
            "week",
            "A carer's round",
            sheet_values(work, parse_day(week, field="week"), ordinal),
            template="week/carer_round.html",
        )


@router.post("/week/rounds/{week}/{ordinal}")
def give(
    scope: Tick, week: str, ordinal: int, action: Annotated[str, Form()] = "take", by: Annotated[str, Form()] = ""
) -> Response:
    """Take a round, give it to somebody, give it back, offer it to others, or say what was done on it; others' only for who plans."""
    only = None if scope.may("plan") else _own(scope)
    with scope.open() as work:
        walk = commands.round_at(work.connection, work.context, parse_day(week, field="week"), ordinal)
        if action == "take":
            who = forms.name(by, field="by", what="who_walks")
            commands.take(work.connection, work.context, walk, work.today, by=who, account_id=_own(scope))
        elif action == "back":
            carer_rounds.give_back(work.connection, walk.week, ordinal, account_id=only)
        elif action in ("offer", "keep"):
            carer_rounds.offer(work.connection, walk.week, ordinal, action == "offer", account_id=only)
        elif action == "walked":
            said = read_walked(scope.request.state.form)
            commands.walked(work.connection, work.context, walk, said, work.actor(), account_id=only)
        else:
            raise BadInput("forms.incomplete")
        return frame.go(work, "/week/rounds")


@dataclass(frozen=True)
class RoundStationView(View):
    """A row of `RoundSheetView`."""

    title: str
    caution: str


@dataclass(frozen=True)
class RoundJobView(View):
    """A row of `RoundStopView`."""

    id: str
    title: str
    caution: str


@dataclass(frozen=True)
class RoundStopView(View):
    """Filled by `_stop`, read by its template."""

    bed_id: str
    name: str
    purpose: str
    water: str
    pick: list[str]
    look: list[str]
    jobs: list[RoundJobView]
    stages: list[str]
    up: list[tuple[str, str]]


@dataclass(frozen=True)
class RoundSheetView(View):
    """Filled by `sheet_values`, read by its template."""

    stops: list[RoundStopView]
    heading: str
    facts: str
    stations: list[RoundStationView]
    ahead: bool
    tell: bool
    mine: bool
    week: str
    ordinal: int


def _own(scope: RequestScope) -> UUID:
    """The visitor's account: only a pass has none, and a pass has pages of its own."""
    assert scope.visitor.account_id is not None
    return scope.visitor.account_id


def sheet_values(work: UnitOfWork, week: date, ordinal: int) -> RoundSheetView:
    """What the sheet of a round shows. To the holder of a pass it never says who walks it. Raises NotFound."""
    walk = commands.round_at(work.connection, work.context, week, ordinal)
    found = commands.stops(work.connection, work.context, walk, today=work.today)
    taken = {row.key: row for row in carer_rounds.taken(work.connection, week, week)}.get(walk.key)
    units = work.context.school.units
    return RoundSheetView(
        stops=[_stop(work, stop) for stop in found],
        heading=f"{walk.closed_for}, {words.span(walk.from_day, walk.to_day)}",
        facts=words.joined(
            [
                "a short round to the seedbeds" if walk.seedbed else "a round",
                words.count(len(found), "bed"),
                f"{format_water(sum(s.litres for s in found), units)} of water",
                _whose(taken, work.scope.visitor.pass_id),
            ]
        ),
        stations=[
            RoundStationView(title=t.title, caution=t.caution) for t in commands.station_jobs(work.connection, walk)
        ],
        ahead=walk.from_day > work.today,
        tell=walk.from_day <= work.today and taken is not None and taken.done_on is None,
        mine=taken is not None and taken.pass_id == work.scope.visitor.pass_id,
        week=week.isoformat(),
        ordinal=ordinal,
    )


def read_walked(form: FormData) -> WalkedRound:
    """What a carer ticked and wrote on the sheet of a round; ids that are none are left out."""

    def ids(name: str) -> list[UUID]:
        return [UUID(value) for value in map(str, form.getlist(name)) if forms.is_id(value)]

    return WalkedRound(ids("watered"), ids("up"), ids("jobs"), str(form.get("note", "")))


def _whose(taken: carer_rounds.TakenRound | None, of_pass: UUID | None) -> str:
    if taken is None:
        return "nobody yet"
    if of_pass is None:
        return f"taken by {taken.taken_by}"
    return "yours" if taken.pass_id == of_pass else "taken"


def breaks(found: Rota, today: date, *, of: UUID | None, every: bool = False) -> list[tuple[str, list[RoundView]]]:
    """The rounds by the break they fall into, in order. Those that `of`, a pass or an account, took are its own; or all of them."""
    return [
        (name, [_view(walk, found, today, of, every) for walk in group])
        for name, group in groupby(found.rounds, key=lambda walk: walk.closed_for)
    ]


def gaps(work: UnitOfWork, found: Rota) -> str:
    """How many rounds nobody has taken, in a sentence; empty where there are none at all."""
    if not found.rounds:
        return ""
    missing = found.open(work.today)
    if not missing:
        return f"all {words.count(len(found.rounds), 'round')} taken"
    first = words.span(missing[0].from_day, missing[0].to_day)
    return f"{len(missing)} of {words.count(len(found.rounds), 'round')} with nobody yet, the first {first}"


def _view(walk: Round, found: Rota, today: date, of: UUID | None, every: bool) -> RoundView:
    taken = found.taken.get(walk.key)
    return RoundView(
        walk.week.isoformat(),
        walk.ordinal,
        words.span(walk.from_day, walk.to_day),
        f"{words.span(walk.from_day, walk.to_day)}, round {walk.ordinal} of its week",
        taken.taken_by if taken else "",
        words.short_day(taken.done_on) if taken and taken.done_on else "",
        walk.from_day <= today,
        walk.to_day < today,
        bool(taken and (every or (of is not None and of in (taken.pass_id, taken.account_id)))),
        bool(taken and taken.offered and not taken.done_on),
        "seedbeds" if walk.seedbed else "",
    )


def _stop(work: UnitOfWork, stop: RoundStop) -> RoundStopView:
    flow = work.context.school.hose_l_min
    minutes = f"{hose_minutes(stop.litres, flow)} min hose" if stop.litres and flow else ""
    return RoundStopView(
        bed_id=str(stop.bed.id),
        name=stop.bed.name,
        purpose=stop.bed.purpose,
        water=words.joined([format_water(stop.litres, work.context.school.units) if stop.litres else "", minutes]),
        pick=stop.pick,
        look=stop.look,
        jobs=[RoundJobView(id=str(t.id), title=t.title, caution=t.caution) for t in stop.jobs],
        stages=stop.stages,
        up=[(str(p.id), work.context.crops[p.crop].name.en) for p in stop.not_up],
    )
