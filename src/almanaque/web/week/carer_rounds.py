"""Week: the carers' rota for breaks and closures, and the sheet of one round."""

from dataclasses import dataclass
from datetime import date
from itertools import groupby
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, Response

from almanaque.commands.week import carer_rounds as commands
from almanaque.commands.week.carer_rounds import Rota, Stop
from almanaque.core.errors import BadInput
from almanaque.core.units import format_water
from almanaque.core.week.carer_rounds import Round
from almanaque.core.week.water import hose_minutes
from almanaque.store.school import school
from almanaque.store.week import carer_rounds
from almanaque.web import forms, frame, words
from almanaque.web.desk import Desk, Room, may, parse_day

router = APIRouter()
Look = Annotated[Desk, Depends(may("look"))]
Tick = Annotated[Desk, Depends(may("tick"))]
Plan = Annotated[Desk, Depends(may("plan"))]


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


@router.get("/week/rounds")
def page(desk: Look) -> Response:
    with desk.open() as room:
        found = commands.rota(room.connection, room.context, room.day, room.day + commands.AHEAD)
        values: dict[str, Any] = {
            "breaks": breaks(found, room.today),
            "facts": gaps(room, found),
            "a_week": room.context.school.rounds_a_week,
            "numbers": [(str(n), str(n)) for n in range(1, 8)],
        }
        return frame.page(room, "week", "Carers' rounds", values, template="week/carer_rounds.html")


@router.post("/week/rounds")
def how_many(desk: Plan, a_week: Annotated[str, Form()] = "") -> Response:
    """How many rounds are walked in a week without school."""
    with desk.open() as room:
        number = forms.whole(a_week, field="a_week", least=1, most=7, what="The number of rounds in a week")
        school.save_rounds_a_week(room.connection, number)
        return frame.go(room, "/week/rounds")


@router.get("/week/rounds/{week}/{ordinal}")
def sheet(desk: Look, week: str, ordinal: int) -> Response:
    """One round: the beds in the order of the walk, to read on the phone or to print."""
    with desk.open() as room:
        return frame.page(
            room,
            "week",
            "A carer's round",
            sheet_values(room, parse_day(week, field="week"), ordinal),
            template="week/carer_round.html",
        )


@router.post("/week/rounds/{week}/{ordinal}")
def give(
    desk: Tick, week: str, ordinal: int, action: Annotated[str, Form()] = "take", by: Annotated[str, Form()] = ""
) -> Response:
    """Take a round, give it to somebody, give it back, or note that it was walked."""
    with desk.open() as room:
        walk = commands.round_at(room.context, parse_day(week, field="week"), ordinal)
        if action == "take":
            who = forms.name(by, field="by", what="who walks it: a family or a role, no child's name")
            commands.take(room.connection, room.context, walk, room.today, by=who)
        elif action == "back":
            carer_rounds.give_back(room.connection, walk.week, ordinal)
        elif action == "walked":
            commands.walked(room.connection, walk, room.today)
        else:
            raise BadInput(forms.INCOMPLETE)
        return frame.go(room, "/week/rounds")


def sheet_values(room: Room, week: date, ordinal: int) -> dict[str, Any]:
    """What the sheet of a round shows, for a member and for the holder of a pass alike. Raises NotFound."""
    walk = commands.round_at(room.context, week, ordinal)
    found = commands.stops(room.connection, room.context, walk, today=room.today)
    taken = {row.key: row for row in carer_rounds.taken(room.connection, week, week)}.get(walk.key)
    units = room.context.school.units
    return {
        "stops": [_stop(room, stop) for stop in found],
        "heading": f"{walk.closed_for}, {words.span(walk.from_day, walk.to_day)}",
        "facts": words.joined(
            [
                f"round {ordinal} of {room.context.school.rounds_a_week} in the week",
                words.count(len(found), "bed"),
                f"{format_water(sum(s.litres for s in found), units)} of water",
                f"taken by {taken.taken_by}" if taken else "nobody yet",
            ]
        ),
        "stations": [{"title": t.title, "caution": t.caution} for t in commands.station_jobs(room.connection, walk)],
        "ahead": walk.from_day > room.today,
    }


def breaks(found: Rota, today: date, *, of_pass: object = None) -> list[tuple[str, list[RoundView]]]:
    """The rounds by the break they fall into, in order."""
    return [
        (name, [_view(walk, found, today, of_pass) for walk in group])
        for name, group in groupby(found.rounds, key=lambda walk: walk.closed_for)
    ]


def gaps(room: Room, found: Rota) -> str:
    """How many rounds nobody has taken, in a sentence; empty where there are none at all."""
    if not found.rounds:
        return ""
    missing = found.open(room.today)
    if not missing:
        return f"all {words.count(len(found.rounds), 'round')} taken"
    first = words.span(missing[0].from_day, missing[0].to_day)
    return f"{len(missing)} of {words.count(len(found.rounds), 'round')} with nobody yet, the first {first}"


def _view(walk: Round, found: Rota, today: date, of_pass: object) -> RoundView:
    taken = found.taken.get(walk.key)
    return RoundView(
        walk.week.isoformat(),
        walk.ordinal,
        words.span(walk.from_day, walk.to_day),
        f"{words.span(walk.from_day, walk.to_day)}, round {walk.ordinal}",
        taken.taken_by if taken else "",
        words.short_day(taken.done_on) if taken and taken.done_on else "",
        walk.from_day <= today,
        walk.to_day < today,
        bool(taken and of_pass is not None and taken.pass_id == of_pass),
    )


def _stop(room: Room, stop: Stop) -> dict[str, Any]:
    flow = room.context.school.hose_l_min
    minutes = f"{hose_minutes(stop.litres, flow)} min hose" if stop.litres and flow else ""
    return {
        "bed_id": str(stop.bed.id),
        "name": stop.bed.name,
        "purpose": stop.bed.purpose,
        "water": words.joined([format_water(stop.litres, room.context.school.units) if stop.litres else "", minutes]),
        "pick": stop.pick,
        "look": stop.look,
        "jobs": [{"title": t.title, "caution": t.caution} for t in stop.jobs],
    }
