"""What a carer's round needs: the beds in the order of the walk, each with water, picking, what to look at and the jobs for those days."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import planting_events
from almanaque.commands.week import jobs
from almanaque.commands.week.watering import BedWater, watering
from almanaque.core.errors import BadInput
from almanaque.core.growth.growth_dates import picking_window
from almanaque.core.week import carer_rounds as core
from almanaque.core.week.carer_rounds import Round
from almanaque.core.words import listed
from almanaque.core.words.days import short_day, span
from almanaque.core.year.steps import SERIES, UP
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import journal_entries
from almanaque.store.school import outgoing_mail
from almanaque.store.week import carer_rounds, tasks
from almanaque.store.week.carer_rounds import TakenRound
from almanaque.store.week.tasks import Task

AHEAD = timedelta(weeks=16)  # how far the rota looks, on every page that counts rounds: our own choice
SEEN_FOR = timedelta(days=120)  # what was seen of a plant longer ago says nothing of today: our own rule
REMIND = timedelta(days=2)  # before a round that nobody has, the school is told: our own rule


SEEN: Mapping[str, str] = {
    "emerged": "up since",
    "in flower": "in flower since",
    "ready": "ready since",
    "bolted": "bolted since",
    "first picking": "picked since",
}


@dataclass(frozen=True)
class RoundStop:
    """A bed on a round: its share of the week's water, what is ready there, what to look at, and jobs that want a carer."""

    bed: Bed
    water: BedWater | None
    litres: float
    pick: list[str]
    look: list[str]
    jobs: list[Task]
    stages: list[str]
    not_up: list[Planting]


@dataclass(frozen=True)
class Rota:
    """The rounds ahead with who has taken them."""

    rounds: list[Round]
    taken: dict[tuple[date, int], TakenRound]

    def open(self, today: date) -> list[Round]:
        """Rounds that nobody has taken yet."""
        return core.open_rounds(self.rounds, self.taken, today=today)


def ahead(connection: Connection[Any], context: Context, today: date) -> Rota:
    """The rounds to come: the one count that all pages show."""
    return rota(connection, context, today, today + AHEAD)


def rota(connection: Connection[Any], context: Context, start: date, end: date) -> Rota:
    """The rounds of the weeks from a day to a day."""
    found = core.rounds(
        context.calendar.carried_on,
        start,
        end,
        a_week=context.school.rounds_a_week,
        seedbeds=_seedbeds(connection, start, end),
    )
    monday = start - timedelta(days=start.weekday())
    return Rota(found, {row.key: row for row in carer_rounds.taken(connection, monday, end)})


def _seedbeds(connection: Connection[Any], start: date, end: date) -> list[tuple[date, date]]:
    """From when to when something sown in a bed must not dry out: what is in the ground and not up, and what is planned."""
    return [
        (p.bed_from, p.dates.emerge_to)
        for p in garden.plantings(connection, since=start, until=end)
        if p.status in ("in the ground", "planned")
        and p.dates is not None
        and p.dates.emerge_to is not None
        and not any(kind in p.events for kind in UP)
    ]


def round_at(connection: Connection[Any], context: Context, week: date, ordinal: int) -> Round:
    """The round of a week by its number. Raises NotFound when there is none: school is in, or fewer are walked."""
    for found in rota(connection, context, week, week + timedelta(days=6)).rounds:
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


@dataclass(frozen=True)
class WalkedRound:
    """What a carer says of a round: beds that were watered, plantings that were seen to be up, jobs that were done, and a line."""

    watered: Sequence[UUID] = ()
    up: Sequence[UUID] = ()
    jobs: Sequence[UUID] = ()
    note: str = ""


LONGEST_NOTE = 1000  # letters of what a carer says: our own rule


def walked(
    connection: Connection[Any],
    context: Context,
    walk: Round,
    said: WalkedRound,
    actor: Actor,
    *,
    pass_id: UUID | None = None,
    account_id: UUID | None = None,
) -> None:
    """Tick a round off with what was done on it; where a pass or an account is named, one that it took itself only.

    What was done goes where the tour reads it: jobs are ticked, seedlings are up, and a note of the journal says the rest. Said
    again it is written once. Raises BadInput for one that is still to come.
    """
    if walk.from_day > actor.today:
        raise BadInput("week.round_to_come")
    if len(said.note) > LONGEST_NOTE:
        raise BadInput("week.round_note_too_long", field="note", most=LONGEST_NOTE)
    carer_rounds.walked(connection, walk.week, walk.ordinal, actor.today, pass_id=pass_id, account_id=account_id)
    found = stops(connection, context, walk, today=actor.today)
    for task in {t.id for stop in found for t in stop.jobs} & set(said.jobs):
        jobs.tick(connection, context, task, "done", actor.today, actor)
    for planting in {p.id for stop in found for p in stop.not_up} & set(said.up):
        planting_events.happened(connection, context, planting, "emerged", actor.today, actor)
    watered = [stop.bed.name for stop in found if stop.bed.id in set(said.watered)]
    words = [f"watered {listed(watered)}"] if watered else []
    words += [said.note.strip()] if said.note.strip() else []
    if words:
        entry = uuid5(context.school.id, f"round {walk.week} {walk.ordinal}")
        body = f"Carers' round: {'; '.join(words)}"
        journal_entries.save(
            connection,
            context.school.id,
            entry_id=entry,
            bed_id=None,
            noted_on=actor.today,
            body=body,
            come_back_on=None,
            by=actor.by,
        )


def remind(connection: Connection[Any], context: Context, today: date) -> int:
    """Tell the school by mail of rounds that begin within two days and that nobody has; each once. How many were told."""
    if not context.school.mail_to.strip():
        return 0
    told = 0
    for walk in rota(connection, context, today, today + REMIND).open(today):
        if not today <= walk.from_day <= today + REMIND:
            continue
        days = span(walk.from_day, walk.to_day)
        said = f"Nobody has the round of {days} yet"
        told += outgoing_mail.put(
            connection,
            context.school.id,
            key=f"round/{walk.week}/{walk.ordinal}",
            mail_to=context.school.mail_to,
            subject=f"{context.school.name}: {said}"[:200],
            body=f"{said} ({walk.closed_for}).\n\nOffer it under Week, Carers' rounds, or by a garden pass for carers.\n\n"
            f"{context.school.name}, by Almanaque. Change who gets this under School, Weather.",
        )
    return told


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
            [_stage(context, planting, walk) for planting in standing],
            [planting for planting in standing if _is_seedbed(planting, walk)],
        )
        if stop.not_up or (not walk.seedbed and (stop.litres or stop.pick or stop.look or stop.jobs)):
            found.append(stop)
    return found


def station_jobs(connection: Connection[Any], walk: Round) -> list[Task]:
    """The stations' jobs that want a carer in the days of a round."""
    found = tasks.tasks(connection, start=walk.from_day, end=walk.to_day, status="open")
    return [t for t in found if t.carer and t.routine is not None and t.bed_id is None]


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
    return [
        f"{context.crops[p.crop].name.en}: keep the seedbed moist; say when it is up"
        for p in standing
        if _is_seedbed(p, walk)
    ]


def _is_seedbed(planting: Planting, walk: Round) -> bool:
    """True for what was sown in the bed and may come up in the days of a round."""
    dates = planting.dates
    if dates is None or dates.emerge_to is None:
        return False
    if planting.status != "in the ground" and planting.start_on >= walk.from_day:
        return False  # nobody is there to sow it
    if any(kind in planting.events for kind in UP):
        return False
    return dates.bed_from <= walk.to_day and dates.emerge_to >= walk.from_day


def _stage(context: Context, planting: Planting, walk: Round) -> str:
    """What a planting really is in the days of a round: not sown yet, not up, growing, ready, or past its best."""
    name, dates = context.crops[planting.crop].name.en, planting.dates
    if planting.status == "planned" or dates is None:
        return f"{name}: not there yet, to be started {short_day(planting.start_on)}"
    seen = max(
        (
            (day, kind)
            for kind, day in planting.events.items()
            if kind in SEEN and walk.to_day - SEEN_FOR <= day <= walk.to_day
        ),
        default=None,
    )
    if seen is None and dates.emerge_to is not None and walk.from_day <= dates.emerge_to:
        began = planting.events.get("started", planting.start_on)
        return f"{name}: sown {short_day(began)}, should be up {span(dates.emerge_from or dates.emerge_to, dates.emerge_to)}"
    if walk.from_day > dates.last_pick:
        return f"{name}: past its best, left standing"
    if walk.to_day >= dates.first_pick:
        return f"{name}: ready"
    word = f"{SEEN[seen[1]]} {short_day(seen[0])}, " if seen else ""
    return f"{name}: {word}growing, ready about {short_day(dates.first_pick)}"
