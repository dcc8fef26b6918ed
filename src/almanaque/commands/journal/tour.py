"""The garden tour: the beds in the order of the walk with what is due to be looked at, and what the answers do."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.garden.bed import cell_name
from almanaque.core.growth.plant_height import height_mm
from almanaque.core.journal import tour as questions
from almanaque.core.journal.sightings import Remedy, Sighting
from almanaque.core.journal.tour import Question, Toured
from almanaque.core.week import bed_care
from almanaque.core.words.days import span
from almanaque.core.year import tending
from almanaque.core.year.bloom import blooms
from almanaque.core.year.steps import as_they_stand
from almanaque.data import tending as tending_table
from almanaque.store.garden import garden, neighbour_trials, volunteer_plants
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import journal_entries, phone_entries, sightings
from almanaque.store.place import weather
from almanaque.store.week import tasks
from almanaque.store.week.tasks import Task

DONE_LOOKED_BACK = timedelta(days=21)  # longer than any rhythm of tending: our own rule
STILL_MS, STILL_LOOKED_BACK = 2.0, timedelta(days=3)  # mean wind [m/s] that shakes no flower: our own rule
HOT_DAYS, LOOKED_BACK = 3, timedelta(days=7)  # as the notes on the weather: our own rule


@dataclass(frozen=True)
class Here:
    """A planting on the tour: `height_mm` is what to expect, None of what is not up or comes again."""

    planting: Planting
    name: str
    where: str
    height_mm: float | None


@dataclass(frozen=True)
class TourStop:
    """A bed on the tour with its questions, each with today's answer, the jobs due there and what was last seen."""

    bed: Bed
    asked: list[tuple[Question, str]]
    here: list[Here]
    jobs: list[Task]
    last: Sighting | None


def tour(connection: Connection[Any], context: Context, *, today: date) -> list[TourStop]:
    """All beds in the order of the walk."""
    present = [p for p in garden.plantings(connection, since=today, until=today) if _is_there(p)]
    ids = [p.id for p in present]
    seen, endings = sightings.of_plantings(connection, ids), sightings.endings(connection, ids)
    cures: dict[str, list[Remedy]] = {}
    for remedy, planting_id, _ in sightings.remedies(connection):
        cures.setdefault(planting_id, []).append(remedy)
    due = tasks.tasks(connection, start=today - timedelta(days=14), end=today + timedelta(days=6), status="open")
    readings = weather.days(connection, context.school.weather_source, today - LOOKED_BACK, today)
    still = _is_still(readings, today)
    notes = journal_entries.to_come_back_to(connection, day=today - timedelta(days=7))  # those due by today
    given = phone_entries.answers(connection, today)
    last = _last_of_beds(connection, today)
    done = tasks.tasks(connection, start=today - DONE_LOOKED_BACK, end=today, status="done")
    of_beds = [row.seen for row in sightings.open_ones(connection, until=today) if not row.seen.planting]
    unanswered = [t for t in neighbour_trials.trials(connection) if t.answered_on in (None, today)]
    stops = []
    for bed in garden.beds(connection):
        mine = [p for p in present if p.bed_id == bed.id]
        asked: list[Question] = []
        for planting in mine:
            hot = (
                sum(r.tmax_c is not None and r.tmax_c >= context.crops[planting.crop].heat_c for r in readings)
                >= HOT_DAYS
            )
            toured = _toured(
                context,
                planting,
                bed,
                due,
                done,
                today,
                hot=hot,
                still=still,
                seen=seen.get(str(planting.id), ()),
                remedies=cures.get(str(planting.id), ()),
                ending=endings.get(str(planting.id), ""),
            )
            asked += questions.questions(toured, today, context.school.units)
        asked += [
            questions.beside(
                str(t.id), str(t.planting_id), context.crop_name(t.crop), context.crop_name(t.beside), t.against
            )
            for t in unanswered
            if any(p.id == t.planting_id and p.dates is not None and p.dates.first_pick <= today for p in mine)
        ]
        asked += [
            questions.note(str(n.id), n.body, n.noted_on) for n in notes if n.bed_id == bed.id and n.noted_on < today
        ]
        asked += [
            questions.found_plant(str(f.id), f.name, _square(bed, f.x_mm, f.y_mm), f.found_on)
            for f in volunteer_plants.found_plants(connection, bed.id, today)
            if f.intent == "undecided"
        ]
        asked += questions.troubles(
            [seen for seen in of_beds if seen.bed == str(bed.id)], bed.name, today, context.school.units
        )
        asked += [
            questions.drip_line(str(t.id), bed.name, bed_care.RESULTS)
            for t in due
            if t.bed_id == bed.id and t.routine == "drip" and t.from_day <= today
        ]
        asked += [
            questions.weeding(str(t.id), bed.name, span(t.from_day, t.to_day))
            for t in due
            if t.bed_id == bed.id and t.routine == "weeding" and t.from_day <= today
        ]
        stops.append(
            TourStop(
                bed,
                [(q, given.get(key(q), "")) for q in asked],
                [_here(context, p, today) for p in mine],
                _jobs(due, bed, asked),
                last.get(str(bed.id)),
            )
        )
    return stops


def _done_lately(found: Iterable[Task]) -> dict[str, date]:
    """The last day on which each step was done, or done in part."""
    lately: dict[str, date] = {}
    for task in found:
        day = task.done_on or task.part_done_on
        if day is not None:
            lately[task.step] = max(day, lately.get(task.step, day))
    return lately


def _jobs(due: Iterable[Task], bed: Bed, asked: Sequence[Question]) -> list[Task]:
    """The jobs of a bed that are not asked about as questions already."""
    questioned = {q.subject for q in asked if q.code in ("step", "drip", "weed")}
    return [t for t in due if t.bed_id == bed.id and str(t.id) not in questioned]


def key(question: Question) -> str:
    """What tells a question from others of the same day."""
    return f"{question.code}:{question.subject}"


def _is_still(readings: Sequence[weather.WeatherDay], today: date) -> bool:
    """True when the last days had hardly any wind, or nobody reads it."""
    lately = [r.wind_ms for r in readings if r.day > today - STILL_LOOKED_BACK and r.wind_ms is not None]
    return not lately or max(lately) < STILL_MS


def _is_there(planting: Planting) -> bool:
    return planting.status == "in the ground" and planting.dates is not None


def _last_of_beds(connection: Connection[Any], today: date) -> dict[str, Sighting]:
    last: dict[str, Sighting] = {}
    for found in sightings.sightings(connection, since=today - timedelta(days=60), until=today):
        last.setdefault(found.seen.bed, found.seen)
    return last


def _square(bed: Bed, x_mm: float, y_mm: float) -> str:
    grid = bed.grid()
    return cell_name((int(x_mm // grid.pitch_x_mm), int(y_mm // grid.pitch_y_mm)))


def _where(planting: Planting) -> str:
    count = len(planting.cells)
    return f"{count} square{'s' if count != 1 else ''}"


def _here(context: Context, planting: Planting, today: date) -> Here:
    crop, dates = context.crops[planting.crop], planting.dates
    expected = height_mm(crop, today, dates) if dates is not None and crop.life != "perennial" else 0.0
    return Here(planting, crop.name.en, _where(planting), expected if expected > 0 else None)


def _toured(
    context: Context,
    planting: Planting,
    bed: Bed,
    due: Iterable[Task],
    done: Iterable[Task],
    today: date,
    *,
    hot: bool,
    still: bool,
    seen: Sequence[Sighting],
    remedies: Sequence[Remedy],
    ending: str,
) -> Toured:
    crop, dates = context.crops[planting.crop], planting.dates
    assert dates is not None
    mine = [t for t in due if t.planting_id == planting.id]
    open_jobs = {(t.step, t.ordinal): str(t.id) for t in mine}
    steps = [
        (dated, open_jobs.get((dated.step.step, dated.step.ordinal), ""))
        for dated in as_they_stand(
            forecasts.steps_of(context, planting, bed, dates, today),
            events=planting.events,
            by_hand=planting.steps,
            today=today,
            method=planting.method,
        )
    ]
    southern = context.school.southern
    flowers = any(
        b.starts <= today for b in blooms(crop, dates, today, today, bed_to=planting.bed_to(today), southern=southern)
    )
    flowers = flowers or any(s.kind == "stage" and s.what == "in flower" for s in seen)
    return Toured(
        str(planting.id),
        crop,
        planting.method,
        _where(planting),
        dates,
        planting.events,
        steps,
        seen,
        remedies,
        ending,
        flowers,
        hot,
        still=still or planting.cover is not None,
        practices={one.step: one for one in tending.of(crop, tending_table(), cover=planting.cover)},
        done_lately=_done_lately([*mine, *(t for t in done if t.planting_id == planting.id)]),
    )
