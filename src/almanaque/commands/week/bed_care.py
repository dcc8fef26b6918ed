"""The jobs that a bed has as a whole (weeding, a cover for bare ground, its drip line), and what was found on its drip line."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from typing import Any
from uuid import UUID, uuid5

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import free_squares
from almanaque.commands.week import jobs
from almanaque.commands.week.jobs import JobReport
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import MOVABLE_POTS
from almanaque.core.journal.sightings import Sighting
from almanaque.core.week import bed_care as rules
from almanaque.core.week import jobs as sharing
from almanaque.core.week.bed_care import LatelyOutdoors, WeededBed
from almanaque.core.year.steps import Step
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import sightings
from almanaque.store.journal.sightings import NotedBy
from almanaque.store.place import weather
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task

KINDS = ("weeding", "bare ground", "drip")
LINE = "drip line"  # how a trouble of one begins
LONGEST_PLACE = 400  # letters
LOOKED_BACK = timedelta(days=14)


@dataclass(frozen=True)
class DripLook:
    """What was found on a bed's drip line: the result, where, and when."""

    bed_id: UUID
    day: date
    result: str
    place: str


@dataclass(frozen=True)
class _Over:
    """A bed's jobs of a kind that are over: how many, and the day of the last."""

    times: int = 0
    last: date | None = None


def renew_all(connection: Connection[Any], context: Context, *, today: date) -> int:
    """Each bed's next jobs: to the class that adopted it, else fairly; done each night. Return how many."""
    beds = [bed for bed in garden.beds(connection) if not bed.indoors and bed.kind not in MOVABLE_POTS]
    present = [p for p in garden.plantings(connection, since=today) if p.status in ("planned", "in the ground")]
    over = _over(tasks.of_beds(connection, KINDS))
    lately = _lately(connection, context, today)
    load = tasks.work_load(connection, start=today, without=context.school.id)
    names, count, keep = context.group_names(today), 0, []
    for bed in beds:
        adopted = str(bed.class_group_id) if bed.class_group_id else None
        for step in _steps(context, bed, [p for p in present if p.bed_id == bed.id], over, lately, today):
            mine = replace(step, step=f"bed {bed.id}")
            given = sharing.assign([mine], context.calendar.carried_on, adopted_by=adopted, names=names, load=load)[0]
            tasks.save_routine(connection, context.school.id, given, routine=step.step, bed_id=bed.id)
            keep.append(uuid5(context.school.id, f"{step.step}/{mine.step}/{mine.ordinal}"))
            count += 1
    tasks.drop_of_beds(connection, KINDS, keep)
    return count


def _steps(
    context: Context,
    bed: Bed,
    plantings: Sequence[Planting],
    over: Mapping[tuple[UUID, str], _Over],
    lately: LatelyOutdoors,
    today: date,
) -> list[Step]:
    standing = [p for p in plantings if p.status == "in the ground"]
    up = tuple(day for p in standing if (day := _up_on(p)) is not None)
    weeded, looked, covered = (over.get((bed.id, kind), _Over()) for kind in ("weeding", "drip", "bare ground"))
    found = [rules.weeding(WeededBed(bed.name, up, weeded.last, bed.area_m2, weeded.times), lately, today)]
    freeze = _next_freeze(context, today)
    if freeze is not None and not bed.pockets:
        bare = free_squares.among(plantings, bed, freeze, freeze + timedelta(days=rules.BARE_DAYS), today)
        if covered.last is None or covered.last < freeze - rules.COVER_BEFORE:
            squares = len(bed.grid(freeze).cells)
            found.append(rules.winter_cover(bed.name, len(bare), squares, freeze, today))
    if bed.drip_l_h:
        cold = lately.mean_c is not None and lately.mean_c < rules.STILL_C
        found.append(rules.drip_check(bed.name, looked.last, bool(standing), cold, today, times=looked.times))
    return [step for step in found if step is not None]


def _up_on(planting: Planting) -> date | None:
    """When it came up as far as anybody knows; what was set out is up."""
    if planting.dates is None:
        return None
    return planting.events.get("emerged") or planting.dates.emerge_to or planting.dates.bed_from


def _over(found: Sequence[Task]) -> dict[tuple[UUID, str], _Over]:
    """What is not needed counts like what was done: somebody looked."""
    over: dict[tuple[UUID, str], _Over] = {}
    for task in found:
        if task.bed_id is not None and task.routine is not None:
            before = over.get((task.bed_id, task.routine), _Over())
            over[task.bed_id, task.routine] = _Over(before.times + 1, task.done_on or task.from_day)
    return over


def _lately(connection: Connection[Any], context: Context, today: date) -> LatelyOutdoors:
    """The last two weeks as they were read; without readings what is usual then."""
    days = weather.days(connection, context.school.weather_source, today - LOOKED_BACK, today)
    means = [(d.tmin_c + d.tmax_c) / 2 for d in days if d.tmin_c is not None and d.tmax_c is not None]
    rain = [d.rain_mm for d in days if d.rain_mm is not None]
    mean = sum(means) / len(means) if means else context.climate.normal_mean_c(today) if context.climate else None
    return LatelyOutdoors(mean, sum(rain) if rain else None)


def _next_freeze(context: Context, today: date) -> date | None:
    """The usual day of the first freeze of the winter that comes or has just begun; None where there is none, or no weather."""
    if context.climate is None:
        return None
    day = today - rules.COVER_AFTER
    start = context.climate.season_start(day)
    for season in (start, context.climate.season_start(start + timedelta(days=370))):
        found = context.climate.date_of(context.climate.first_freeze(0.5), season)
        if found is not None and found >= day:
            return found
    return None


def drip_found(
    connection: Connection[Any],
    context: Context,
    task_id: UUID,
    result: str,
    place: str,
    *,
    sighting_id: UUID,
    at: datetime,
    day: date,
    actor: Actor,
) -> None:
    """Keep what was found on a drip line, and where. What is not in order comes back on the next tour, once; what is, is settled.

    Raises BadInput for a result that is none, for a job that is another one, and for a day still to come.
    """
    task = tasks.task(connection, task_id)
    if result not in rules.RESULTS or task.routine != "drip" or task.bed_id is None:
        raise BadInput("journal.answer_unknown", field="answer")
    place = place.strip()[:LONGEST_PLACE]
    jobs.tell(connection, context, task_id, JobReport("done", False, task.minutes_taken, result, place), day, actor)
    what, known = f"{LINE} {result}", False
    for row in sightings.open_ones(connection, until=day):
        if row.seen.bed == str(task.bed_id) and row.seen.what.startswith(LINE):
            known = known or row.seen.what == what
            if row.seen.what != what:
                sightings.close(connection, row.seen.root, day)
    if result != "in order" and not known:
        back = day + timedelta(days=1)
        seen = Sighting(str(sighting_id), "damage", day, bed=str(task.bed_id), what=what, note=place, come_back_on=back)
        sightings.save(connection, context.school.id, seen, NotedBy(actor.by, at))


def drip_looks(connection: Connection[Any]) -> dict[UUID, DripLook]:
    """What was found last on each bed's drip line."""
    found: dict[UUID, DripLook] = {}
    for task in tasks.of_beds(connection, ("drip",)):
        if task.bed_id is not None and task.done_on is not None and task.amount:
            look = DripLook(task.bed_id, task.done_on, task.amount, task.note)
            if task.bed_id not in found or found[task.bed_id].day <= look.day:
                found[task.bed_id] = look
    return found
