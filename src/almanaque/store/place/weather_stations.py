"""Sources that a station fills: which device it is, when it answered last, and what it said that cannot be."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.place.weather_station import Doubt
from almanaque.store import errors


@dataclass(frozen=True)
class WeatherStation:
    """A source that is asked for readings. `problem` says why it last did not answer."""

    source: str
    device: str
    asked_at: datetime | None
    answered_at: datetime | None
    problem: str


def all_schools(connection: Connection[Any]) -> list[UUID]:
    """Every school's id, in a transaction of no school; for the worker's rounds."""
    return [row[0] for row in connection.execute("SELECT school_id FROM all_schools()").fetchall()]


def devices(connection: Connection[Any]) -> list[WeatherStation]:
    return (
        connection.cursor(row_factory=class_row(WeatherStation))
        .execute(
            "SELECT name AS source, device, asked_at, answered_at, problem FROM weather_source WHERE device <> '' ORDER BY name"
        )
        .fetchall()
    )


def link(connection: Connection[Any], source: str, device: str) -> None:
    """Let a source be filled by a device, or by none."""
    done = connection.execute("UPDATE weather_source SET device = %s, problem = '' WHERE name = %s", [device, source])
    if done.rowcount == 0:
        raise errors.NotFound("That source is not there any more.")


def asked(connection: Connection[Any], source: str, *, now: datetime, problem: str) -> None:
    """Note that a device was asked, and what went wrong if something did."""
    connection.execute(
        "UPDATE weather_source SET asked_at = %(now)s, answered_at = CASE WHEN "
        "%(problem)s = '' THEN %(now)s ELSE answered_at END, problem = %(problem)s"
        " WHERE name = %(source)s",
        {"now": now, "problem": problem[:300], "source": source},
    )


def doubts(connection: Connection[Any], source: str, since: date) -> list[Doubt]:
    """What was left out of a source since a day, the latest first."""
    return (
        connection.cursor(row_factory=class_row(Doubt))
        .execute(
            "SELECT day, what, value, why FROM weather_doubt WHERE source = %s AND day >= %s ORDER BY day DESC, what LIMIT 60",
            [source, since],
        )
        .fetchall()
    )


def note_doubts(connection: Connection[Any], school_id: UUID, source: str, found: Sequence[Doubt]) -> None:
    connection.cursor().executemany(
        """INSERT INTO weather_doubt (school_id, source, day, what, value, why) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, source, day, what) DO UPDATE SET value = excluded.value, why = excluded.why""",
        [(school_id, source, d.day, d.what, d.value, d.why[:200]) for d in found],
    )
