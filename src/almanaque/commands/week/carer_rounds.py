"""What a carer's round needs: the beds in the order of the walk, each with water, picking, what to look at and the jobs for those days."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.week.watering import BedWater, watering
from almanaque.core.errors import BadInput
from almanaque.core.growth.growth_dates import picking_window
from almanaque.core.week import carer_rounds as core
from almanaque.core.week.carer_rounds import Round
from almanaque.core.year.steps import SERIES, UP
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.week import carer_rounds, tasks
from almanaque.store.week.carer_rounds import TakenRound
from almanaque.store.week.tasks import Task

AHEAD = timedelta(weeks=26)  # how far the rota looks


@dataclass(frozen=True)
class RoundStop:
    """A bed on a round: its share of the week's water, what is ready there, what to look at, and jobs that want a carer."""

    bed: Bed
    water: BedWater | None
    litres: float
    pick: list[str]
    look: list[str]
    jobs: list[Task]


@dataclass(frozen=True)
class Rota:
    """The rounds ahead with who has taken them."""

    rounds: list[Round]
    taken: dict[tuple[date, int], TakenRound]

    def open(self, today: date) -> list[Round]:
        """Rounds that nobody has taken yet."""
        return core.open_rounds(self.rounds, self.taken, today=today)


def rota(connection: Connection[Any], context: Context, start: date, end: date) -> Rota:
    """The rounds of the weeks from a day to a day."""
    found = core.rounds(context.calendar.carried_on, start, end, a_week=context.school.rounds_a_week)
    monday = start - timedelta(days=start.weekday())
    return Rota(found, {row.key: row for row in carer_rounds.taken(connection, monday, end)})


def round_at(context: Context, week: date, ordinal: int) -> Round:
    """The round of a week by its number. Raises NotFound when there is none: school is in, or fewer are walked."""
    for found in core.rounds(context.calendar.carried_on, week, week, a_week=context.school.rounds_a_week):
        if found.key == (week, ordinal):
            return found
    raise errors.NotFound("There is no such round: school is in that week, or fewer rounds are walked.")


def take(
    connection: Connection[Any],
    context: Context,
    walk: Round,
    today: date,
    *,
    by: str,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Give a round to somebody. Raises BadInput for one that is over, Refused when another has it already."""
    if walk.to_day < today:
        raise BadInput("week.round_over")
    carer_rounds.take(
        connection, context.school.id, walk.week, walk.ordinal, by=by, pass_id=pass_id, account_id=account_id
    )


def walked(
    connection: Connection[Any],
    walk: Round,
    today: date,
    *,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Tick a round off; where a pass or an account is named, one that it took itself only.

    Raises BadInput for one that is still to come.
    """
    if walk.from_day > today:
        raise BadInput("week.round_to_come")
    carer_rounds.walked(connection, walk.week, walk.ordinal, today, pass_id=pass_id, account_id=account_id)


def stops(connection: Connection[Any], context: Context, walk: Round, *, today: date) -> list[RoundStop]:
    """The beds of a round in the order of the walk; those that want nothing are left out."""
    amounts = watering(connection, context, walk.from_day, today=today)
    water = {bed.bed.id: bed for bed in amounts.beds}
    trees = [(tree.bed.id, tree.litres) for tree in amounts.trees]
    present: dict[UUID, list[Planting]] = {}
    for planting in garden.plantings(connection, since=walk.from_day, until=walk.to_day):
        if planting.status in ("in the ground", "planned"):
            present.setdefault(planting.bed_id, []).append(planting)
    mine = [
        t
        for t in tasks.tasks(connection, start=walk.from_day, end=walk.to_day, status="open")
        if t.carer and t.step not in SERIES
    ]
    a_week = context.school.rounds_a_week
    found = []
    for bed in garden.beds(connection):
        standing = present.get(bed.id, [])
        litres = ((water[bed.id].litres if bed.id in water else 0) + sum(x for b, x in trees if b == bed.id)) / a_week
        stop = RoundStop(
            bed,
            water.get(bed.id),
            litres,
            _ready(context, standing, walk),
            _watch(context, standing, walk),
            [task for task in mine if task.bed_id == bed.id],
        )
        if stop.litres or stop.pick or stop.look or stop.jobs:
            found.append(stop)
    return found


def station_jobs(connection: Connection[Any], walk: Round) -> list[Task]:
    """The stations' jobs that want a carer in the days of a round."""
    found = tasks.tasks(connection, start=walk.from_day, end=walk.to_day, status="open")
    return [t for t in found if t.carer and t.routine is not None]


def _ready(context: Context, standing: Sequence[Planting], walk: Round) -> list[str]:
    found = []
    for planting in standing:
        crop = context.crops[planting.crop]
        if planting.dates is None or planting.status != "in the ground" or crop.for_guests:
            continue
        picked = planting.events.get("first picking")
        window = picking_window(crop, planting.dates, walk.from_day, first_picked=picked)
        if window.opens <= walk.to_day and window.last >= walk.from_day:
            found.append(f"{crop.name.en}: {crop.ready_sign}")
    return found


def _watch(context: Context, standing: Sequence[Planting], walk: Round) -> list[str]:
    """Seedbeds that must not dry out, and beds with no seedling yet."""
    found = []
    for planting in standing:
        dates = planting.dates
        if dates is None or dates.emerge_to is None or any(kind in planting.events for kind in UP):
            continue
        if dates.bed_from <= walk.to_day and dates.emerge_to >= walk.from_day:
            found.append(f"{context.crops[planting.crop].name.en}: keep the seedbed moist; say when it is up")
    return found
