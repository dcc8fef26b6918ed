"""Stations, their routines, readings and adoptions."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, dict_row
from psycopg.types.json import Jsonb

from almanaque.core.week.stations import Routine, StationReading
from almanaque.store import errors


@dataclass(frozen=True)
class Station:
    """A station with its numbered routines. `asleep` are months as the school counts them north of the equator."""

    id: UUID
    kind: str
    name: str
    about: str
    how_to: str
    caution: str
    readings: tuple[StationReading, ...]
    asleep: tuple[int, ...]
    photo_id: UUID | None
    closed_on: date | None
    routines: tuple[tuple[int, Routine], ...]


@dataclass(frozen=True)
class StationNote:
    """A reading as it was noted."""

    id: UUID
    station_id: UUID
    name: str
    on_day: date
    value: float | None
    choice: str
    note: str


@dataclass(frozen=True)
class Adoption:
    id: UUID
    station_id: UUID
    class_group_id: UUID
    from_day: date
    to_day: date


_STATIONS = """SELECT s.id, s.kind, s.name, s.about, s.how_to, s.caution, s.readings, s.asleep, s.photo_id, s.closed_on,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(r.number, r.what, r.every, r.minutes, r.resting) ORDER BY r.number), '[]')
   FROM station_routine r WHERE r.school_id = s.school_id AND r.station_id = s.id) AS routines
  FROM station s WHERE %(id)s::uuid IS NULL OR s.id = %(id)s ORDER BY s.closed_on NULLS FIRST, s.name, s.id"""


def stations(connection: Connection[Any]) -> list[Station]:
    """All stations by name, those that are closed last."""
    rows = connection.cursor(row_factory=dict_row).execute(_STATIONS, {"id": None}).fetchall()
    return [_station(row) for row in rows]


def station(connection: Connection[Any], station_id: UUID) -> Station:
    row = connection.cursor(row_factory=dict_row).execute(_STATIONS, {"id": station_id}).fetchone()
    if row is None:
        raise errors.NotFound("There is no such station in this school.")
    return _station(row)


def save(connection: Connection[Any], school_id: UUID, kept: Station) -> None:
    """Write a station with exactly its routines."""
    connection.execute(
        """INSERT INTO station (school_id, id, kind, name, about, how_to, caution, readings, asleep, photo_id, closed_on)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, about = excluded.about, how_to = excluded.how_to,
             caution = excluded.caution, readings = excluded.readings, asleep = excluded.asleep, photo_id = excluded.photo_id,
             closed_on = excluded.closed_on""",
        [
            school_id,
            kept.id,
            kept.kind,
            kept.name,
            kept.about,
            kept.how_to,
            kept.caution,
            Jsonb([asdict(r) for r in kept.readings]),
            list(kept.asleep),
            kept.photo_id,
            kept.closed_on,
        ],
    )
    connection.execute("DELETE FROM station_routine WHERE station_id = %s", [kept.id])
    connection.cursor().executemany(
        "INSERT INTO station_routine (school_id, station_id, number, what, every, minutes, resting) VALUES (%s, %s, %s, %s, %s, %s, %s)",
        [(school_id, kept.id, number, r.what, r.every, r.minutes, r.resting) for number, r in kept.routines],
    )


def readings(
    connection: Connection[Any], *, until: date, station_id: UUID | None = None, limit: int = 400
) -> list[StationNote]:
    """Readings noted up to a day, oldest first; of the last `limit`."""
    rows = (
        connection.cursor(row_factory=class_row(StationNote))
        .execute(
            """SELECT id, station_id, name, on_day, value::float8, choice, note FROM station_reading
           WHERE on_day <= %(until)s AND (%(station)s::uuid IS NULL OR station_id = %(station)s)
           ORDER BY on_day DESC, noted_at DESC, id LIMIT %(limit)s""",
            {"until": until, "station": station_id, "limit": limit},
        )
        .fetchall()
    )
    return rows[::-1]


def note(connection: Connection[Any], school_id: UUID, noted: StationNote, *, by: UUID | None) -> None:
    connection.execute(
        """INSERT INTO station_reading (school_id, id, station_id, name, on_day, value, choice, note, noted_by)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [school_id, noted.id, noted.station_id, noted.name, noted.on_day, noted.value, noted.choice, noted.note, by],
    )


def adoptions(connection: Connection[Any], station_id: UUID | None = None) -> list[Adoption]:
    return (
        connection.cursor(row_factory=class_row(Adoption))
        .execute(
            """SELECT id, station_id, class_group_id, from_day, to_day FROM adoption
           WHERE %(station)s::uuid IS NULL OR station_id = %(station)s ORDER BY from_day, id""",
            {"station": station_id},
        )
        .fetchall()
    )


def hold(connection: Connection[Any], station_id: UUID) -> None:
    """Let nobody else change a station or who looks after it until the transaction ends."""
    connection.execute("SELECT FROM station WHERE id = %s FOR UPDATE", [station_id])


def adopt(connection: Connection[Any], school_id: UUID, adoption: Adoption) -> None:
    connection.execute(
        "INSERT INTO adoption (school_id, id, station_id, class_group_id, from_day, to_day) VALUES (%s, %s, %s, %s, %s, %s)",
        [school_id, adoption.id, adoption.station_id, adoption.class_group_id, adoption.from_day, adoption.to_day],
    )


def end_adoption(connection: Connection[Any], adoption_id: UUID) -> None:
    if connection.execute("DELETE FROM adoption WHERE id = %s", [adoption_id]).rowcount == 0:
        raise errors.NotFound("That adoption is not on file any more.")


def drop_jobs(connection: Connection[Any], station_id: UUID, since: date, keep: Sequence[UUID]) -> None:
    """Take out the station's jobs to come that nobody has touched and that no routine asks for any more."""
    connection.execute(
        """DELETE FROM task WHERE step LIKE %s AND routine IS NOT NULL AND status = 'open' AND NOT hand_set AND from_day >= %s
           AND NOT id = ANY(%s)""",
        [f"station {station_id}%", since, list(keep)],
    )


def _station(row: dict[str, Any]) -> Station:
    made = tuple(StationReading(**{**r, "choices": tuple(r["choices"])}) for r in row["readings"])
    routines = tuple((r[0], Routine(r[1], r[2], r[3], r[4])) for r in row["routines"])
    return Station(**{**row, "readings": made, "asleep": tuple(row["asleep"]), "routines": routines})


def end_adoption_on(connection: Connection[Any], adoption_id: UUID, last: date) -> None:
    """Let an adoption end on a day that lies within it."""
    connection.execute("UPDATE adoption SET to_day = %s WHERE id = %s", [last, adoption_id])


@dataclass(frozen=True)
class StationHome:
    """Where a station is from a day to a day, both included, while it cannot stay outside."""

    id: UUID
    station_id: UUID
    place: str
    from_day: date
    to_day: date


def homes(connection: Connection[Any]) -> list[StationHome]:
    rows = connection.cursor(row_factory=class_row(StationHome))
    return rows.execute(
        "SELECT id, station_id, place, from_day, to_day FROM station_home ORDER BY from_day, id"
    ).fetchall()


def save_home(connection: Connection[Any], school_id: UUID, home: StationHome) -> None:
    connection.execute(
        "INSERT INTO station_home (school_id, id, station_id, place, from_day, to_day) VALUES (%s, %s, %s, %s, %s, %s)",
        [school_id, home.id, home.station_id, home.place, home.from_day, home.to_day],
    )


def delete_home(connection: Connection[Any], home_id: UUID) -> None:
    if connection.execute("DELETE FROM station_home WHERE id = %s", [home_id]).rowcount == 0:
        raise errors.NotFound("That is not on file any more.")
