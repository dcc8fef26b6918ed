"""The roster of stations over a year: read, filled fairly, handed over from class to class, and where animals spend the winter."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.week import stations as station_commands
from almanaque.core.errors import BadInput
from almanaque.core.week import station_roster as rules
from almanaque.core.week.station_roster import Care, RosterCell, RosterTerm
from almanaque.store.week import stations as store
from almanaque.store.week.stations import Adoption, Station, StationHome

DAY = timedelta(days=1)
LONGEST_HOME = timedelta(days=400)  # our own rule


@dataclass(frozen=True)
class RosterRow:
    """A station with its cell for each term, its homes, and whether it wants one in a break that is named."""

    station: Station
    cells: Sequence[RosterCell]
    homes: Sequence[StationHome]
    wants_home: str


@dataclass(frozen=True)
class Roster:
    """The roster of a school year."""

    terms: Sequence[RosterTerm]
    rows: Sequence[RosterRow]


def terms_of(context: Context, day: date) -> list[RosterTerm]:
    """The terms of the school year of a day, or of the next one; a term reaches to the next one's first day, the last to the year's end."""
    year = context.calendar.year_of(day) or next((y for y in context.calendar.years if y.starts > day), None)
    if year is None:
        return []
    terms = sorted(year.terms, key=lambda term: term.starts)
    ends = [later.starts - DAY for later in terms[1:]] + [max(year.ends, terms[-1].ends)] if terms else []
    return [RosterTerm(term.name, term.starts, end) for term, end in zip(terms, ends, strict=True)]


def read(connection: Connection[Any], context: Context, day: date) -> Roster:
    """Who looks after which station in the school year of a day."""
    terms, cares, homes = terms_of(context, day), _cares(connection), store.homes(connection)
    rows = []
    for station in store.stations(connection):
        if station.closed_on is not None:
            continue
        mine = [home for home in homes if home.station_id == station.id]
        rows.append(
            RosterRow(
                station,
                [rules.cell(str(station.id), term, cares) for term in terms],
                [home for home in mine if home.to_day >= day],
                _wants_home(context, station, mine, day),
            )
        )
    return Roster(terms, rows)


def _wants_home(context: Context, station: Station, homes: Sequence[StationHome], day: date) -> str:
    """The next break for which no home is named for a station with animals; empty for all others."""
    if station.kind not in rules.LIVING:
        return ""
    gap = next((gap for gap in context.calendar.carried_on.breaks if gap.ends >= day), None)
    if gap is None or not rules.homeless(gap.starts, gap.ends, [(home.from_day, home.to_day) for home in homes]):
        return ""
    return gap.name


def _cares(connection: Connection[Any]) -> list[Care]:
    return [Care(str(a.station_id), str(a.class_group_id), a.from_day, a.to_day) for a in store.adoptions(connection)]


def fill(connection: Connection[Any], context: Context, day: date, *, today: date) -> int:
    """Give stations that nobody has in a whole term to come to classes, fairly; return how many were given."""
    for station in store.stations(connection):
        store.hold(connection, station.id)
    open_ones = [s for s in store.stations(connection) if s.closed_on is None]
    terms = [term for term in terms_of(context, day) if term.ends >= today]
    groups = [str(g.id) for g in context.groups_on(max(day, today)) if g.kind == "class"]
    found = rules.fair([str(s.id) for s in open_ones], terms, groups, _cares(connection))
    for care in found:
        first = max(care.starts, today)
        given = Adoption(uuid4(), UUID(care.station), UUID(care.group), first, care.ends)
        store.adopt(connection, context.school.id, given)
    for station in open_ones:
        if any(care.station == str(station.id) for care in found):
            station_commands.renew(connection, context, station, today=today)
    return len(found)


def hand_over(
    connection: Connection[Any], context: Context, station_id: UUID, group_id: UUID, on: date, *, today: date
) -> None:
    """Give a station to another class from a day on, for as long as the one before would have had it; else to the term's end.

    Raises BadInput for a day that has passed, an unknown class, and the class that has it already.
    """
    store.hold(connection, station_id)
    station = store.station(connection, station_id)
    if group_id not in {g.id for g in context.groups}:
        raise BadInput("week.no_such_class", field="group")
    if on < today:
        raise BadInput("week.hand_over_passed", field="on")
    present = next((a for a in store.adoptions(connection, station_id) if a.from_day <= on <= a.to_day), None)
    if present is not None and present.class_group_id == group_id:
        raise BadInput("week.hand_over_same", field="group")
    term = next((t for t in terms_of(context, on) if t.starts <= on <= t.ends), None)
    last = present.to_day if present else term.ends if term else on + timedelta(days=90)
    later = [a.from_day for a in store.adoptions(connection, station_id) if a.from_day > on]
    if present is not None and present.from_day == on:
        store.end_adoption(connection, present.id)
    elif present is not None:
        store.end_adoption_on(connection, present.id, on - DAY)
    last = min([last, *(first - DAY for first in later)])
    store.adopt(connection, context.school.id, Adoption(uuid4(), station_id, group_id, on, last))
    station_commands.renew(connection, context, station, today=today)


def give_home(connection: Connection[Any], context: Context, home: StationHome) -> None:
    """Say where a station is for some time. Raises BadInput for days out of order, too long, or where it has a home already."""
    store.hold(connection, home.station_id)
    store.station(connection, home.station_id)
    if home.to_day < home.from_day:
        raise BadInput("week.care_ends_before_start", field="to_day")
    if home.to_day - home.from_day > LONGEST_HOME:
        raise BadInput("week.home_too_long", field="to_day")
    mine = [h for h in store.homes(connection) if h.station_id == home.station_id]
    if any(h.from_day <= home.to_day and h.to_day >= home.from_day for h in mine):
        raise BadInput("week.home_taken", field="from_day")
    store.save_home(connection, context.school.id, home)
