"""Commands on stations: made from a kind, changed, read, adopted; their routines become jobs like those of the beds."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID, uuid4, uuid5

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.week import jobs as sharing
from almanaque.core.week import stations as core
from almanaque.data import station_kinds
from almanaque.store.garden import shed
from almanaque.store.week import stations, tasks
from almanaque.store.week.stations import Adoption, Station, StationNote

AHEAD = timedelta(weeks=30)  # jobs are made so far ahead: our own rule
DAYS_TOLD = timedelta(days=14)  # a reading beyond its limits is told of for so long, unless a later one is in order


def new(kind: str, name: str) -> Station:
    """A station as its kind has it. Raises BadInput for a kind that is not there."""
    found = station_kinds().get(kind)
    if found is None:
        raise BadInput("week.no_such_kind_of_station", field="kind")
    return Station(
        uuid4(),
        kind,
        name.strip() or found.name,
        found.about,
        found.how_to,
        found.caution,
        found.readings,
        found.asleep,
        None,
        None,
        tuple(enumerate(found.routines, start=1)),
    )


def save(connection: Connection[Any], context: Context, station: Station, *, today: date) -> None:
    """Keep a station and bring its jobs up to date."""
    if not station.name.strip():
        raise BadInput("week.station_without_name", field="name")
    stations.save(connection, context.school.id, station)
    renew(connection, context, station, today=today)


def renew(connection: Connection[Any], context: Context, station: Station, *, today: date) -> int:
    """The station's jobs for the weeks to come: to the class that has adopted it, else fairly; return how many."""
    adopted = stations.adoptions(connection, station.id)
    names = context.group_names(today)
    keep = []
    if station.closed_on is None:
        load = tasks.work_load(connection, start=today, without=station.id)
        steps = core.jobs(
            station.name,
            station.routines,
            station.caution,
            station.asleep,
            today,
            today + AHEAD,
            southern=context.school.southern,
        )
        for number, step in steps:
            whose = next(
                (str(a.class_group_id) for a in adopted if a.from_day <= step.to_day and a.to_day >= step.from_day),
                None,
            )
            mine = replace(step, step=f"station {station.id} {number}")
            given = sharing.assign([mine], context.calendar.carried_on, adopted_by=whose, names=names, load=load)[0]
            given = replace(
                given,
                why=given.why.replace("adopted this bed", "looks after this station").replace(
                    "the bed's own class", "its own class"
                ),
            )
            tasks.save_routine(connection, context.school.id, given, routine=station.kind, bed_id=None)
            keep.append(uuid5(context.school.id, f"{station.kind}/{mine.step}/{mine.ordinal}"))
    stations.drop_jobs(connection, station.id, today, keep)
    return len(keep)


def renew_all(connection: Connection[Any], context: Context, *, today: date) -> int:
    """All stations' jobs of the weeks to come; done each night, and when the calendar changes."""
    return sum(renew(connection, context, station, today=today) for station in stations.stations(connection))


@dataclass(frozen=True)
class Value:
    """A reading as it was typed: a number or a choice."""

    name: str
    value: float | None
    choice: str = ""


def read(
    connection: Connection[Any],
    context: Context,
    station_id: UUID,
    values: Sequence[Value],
    *,
    day: date,
    today: date,
    note: str,
    by: UUID | None,
) -> list[Finding]:
    """Note readings of one day, all or none; return what they mean. Raises BadInput for one that cannot be or a day to come."""
    station = stations.station(connection, station_id)
    if day > today:
        raise BadInput("week.reading_in_future", field="day")
    if not values:
        raise BadInput("week.no_reading", field="reading")
    if len(note) > 400:
        raise BadInput("week.reading_note_too_long", field="note")
    known = {r.name: r for r in station.readings}
    for one in values:
        if one.name not in known:
            raise BadInput("week.no_such_reading")
        core.check_reading(known[one.name], one.value, one.choice)
        stations.note(
            connection,
            context.school.id,
            StationNote(uuid4(), station.id, one.name, day, one.value, one.choice, note.strip()),
            by=by,
        )
    return findings(station, stations.readings(connection, until=today, station_id=station.id), today)


def findings(station: Station, noted: Sequence[StationNote], today: date) -> list[Finding]:
    """What the last readings of a station mean."""
    found: list[Finding] = []
    for reading in station.readings:
        mine = [n for n in noted if n.name == reading.name]
        if not mine or mine[-1].on_day < today - DAYS_TOLD:
            continue
        last = mine[-1]
        told = core.judge(station.name, reading, last.value, last.choice) or core.head_count(
            station.name, reading, [n.value for n in mine if n.value is not None]
        )
        if told:
            found.append(told)
    return found


def notes(connection: Connection[Any], today: date) -> list[Finding]:
    """What stations and their supplies want somebody to do now."""
    noted = stations.readings(connection, until=today)
    found = [
        f
        for station in stations.stations(connection)
        if station.closed_on is None
        for f in findings(station, [n for n in noted if n.station_id == station.id], today)
    ]
    low = [core.running_low(s.name, s.have, s.unit, s.low, s.told) for s in shed.supplies(connection)]
    return found + [f for f in low if f is not None]


def adopt(
    connection: Connection[Any],
    context: Context,
    station_id: UUID,
    group_id: UUID,
    first: date,
    last: date,
    *,
    today: date,
) -> None:
    """Give a station to a class for some time. Raises BadInput for days out of order or already given, and for an unknown class."""
    stations.hold(connection, station_id)
    station = stations.station(connection, station_id)
    if last < first:
        raise BadInput("week.care_ends_before_start", field="to_day")
    if group_id not in {g.id for g in context.groups}:
        raise BadInput("week.no_such_class", field="group")
    if any(a.from_day <= last and a.to_day >= first for a in stations.adoptions(connection, station_id)):
        raise BadInput("week.station_taken", field="from_day")
    stations.adopt(connection, context.school.id, Adoption(uuid4(), station_id, group_id, first, last))
    renew(connection, context, station, today=today)


def end_adoption(
    connection: Connection[Any], context: Context, station_id: UUID, adoption_id: UUID, *, today: date
) -> None:
    stations.end_adoption(connection, adoption_id)
    renew(connection, context, stations.station(connection, station_id), today=today)


def step_of(station: Station) -> str:
    """How the jobs of a station are known among all jobs."""
    return f"station {station.id}"
