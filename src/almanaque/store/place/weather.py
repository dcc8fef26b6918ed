"""Daily weather by source, in and out as arrays."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Literal
from uuid import UUID

import numpy as np
from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.place.climate import Climate
from almanaque.core.place.readings import Reading
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("place/weather")

# Reads a table that exists only while readings are stored, so it does not stand among the prepared blocks.
SourceKind = Literal["garden", "region", "simulated"]


@dataclass(frozen=True)
class WeatherDay:
    day: date
    tmin_c: float | None
    tmax_c: float | None
    rain_mm: float | None
    wind_ms: float | None
    wind_from: str | None
    soil_c: float | None


@dataclass(frozen=True)
class Source:
    """A source and what it holds: `missing` counts the days between its first and last that have no reading."""

    name: str
    kind: SourceKind
    about: str
    days: int
    first_day: date | None
    last_day: date | None
    by_hand: int
    missing: int


def save_source(connection: Connection[Any], school_id: UUID, name: str, kind: SourceKind, about: str = "") -> None:
    connection.execute(
        """INSERT INTO weather_source (school_id, name, kind, about) VALUES (%s, %s, %s, %s)
           ON CONFLICT (school_id, name) DO UPDATE SET kind = excluded.kind, about = excluded.about""",
        [school_id, name, kind, about],
    )


def delete_source(connection: Connection[Any], name: str) -> None:
    """Take a source out with all its readings."""
    connection.execute("DELETE FROM weather_day WHERE source = %s", [name])
    if connection.execute("DELETE FROM weather_source WHERE name = %s", [name]).rowcount == 0:
        raise errors.NotFound("That source is not there any more.")


def sources(connection: Connection[Any]) -> list[Source]:
    return connection.cursor(row_factory=class_row(Source)).execute(SQL["sources"]).fetchall()


def copy_in(connection: Connection[Any], school_id: UUID, source: str, readings: Iterable[Reading]) -> None:
    """Store readings and merge them into their source, all in one statement."""
    rows = list(readings)
    values: dict[str, list[Any]] = {"day": [r.day for r in rows]}
    for name in ("tmin_c", "tmax_c", "rain_mm", "wind_ms", "soil_c"):
        values[name] = [None if (value := getattr(r, name)) is None else float(value) for r in rows]
    connection.execute(SQL["merge"], {"school": school_id, "source": source, **values})
    refresh_digest(connection, source)


def save_by_hand(
    connection: Connection[Any], school_id: UUID, source: str, reading: Reading, *, wind_from: str | None
) -> None:
    """One day from thermometer, rain gauge and vane."""
    connection.execute(
        SQL["by_hand"],
        {
            "school": school_id,
            "source": source,
            "day": reading.day,
            "tmin_c": reading.tmin_c,
            "tmax_c": reading.tmax_c,
            "rain_mm": reading.rain_mm,
            "wind_ms": reading.wind_ms,
            "wind_from": wind_from,
            "soil_c": reading.soil_c,
        },
    )
    refresh_digest(connection, source)


def refresh_digest(connection: Connection[Any], source: str) -> None:
    """Note the fingerprint of the readings, if they are those that the school's answers rest on."""
    row = connection.execute(SQL["digest"], {"source": source}).fetchone()
    connection.execute(
        "UPDATE school SET weather_digest = %s WHERE weather_source = %s", [str(row[0])[:24] if row else "", source]
    )


def choose(connection: Connection[Any], source: str) -> None:
    """Let the school's answers rest on a source; an empty name lets them rest on none."""
    connection.execute("UPDATE school SET weather_source = %s", [source])
    refresh_digest(connection, source)


def climate(connection: Connection[Any], source: str, *, latitude: float) -> Climate | None:
    """Every reading of a source as one run of days with NaN for gaps; None without readings."""
    rows = connection.execute(
        "SELECT day, tmin_c, tmax_c, rain_mm, soil_c FROM weather_day WHERE source = %s ORDER BY day", [source]
    ).fetchall()
    if not rows:
        return None
    first = rows[0][0]
    table = np.full((4, (rows[-1][0] - first).days + 1), np.nan)
    at = np.array([(row[0] - first).days for row in rows])
    for index in range(4):
        table[index, at] = [np.nan if row[index + 1] is None else row[index + 1] for row in rows]
    return Climate(first, table[0], table[1], table[2], latitude=latitude, measured_soil_c=table[3])


def days(connection: Connection[Any], source: str, start: date, end: date) -> list[WeatherDay]:
    """Readings from `start` to `end`, both included."""
    return (
        connection.cursor(row_factory=class_row(WeatherDay))
        .execute(
            "SELECT day, tmin_c, tmax_c, rain_mm, wind_ms, wind_from, soil_c FROM weather_day"
            " WHERE source = %s AND day BETWEEN %s AND %s ORDER BY day",
            [source, start, end],
        )
        .fetchall()
    )


def gaps(connection: Connection[Any], source: str) -> list[tuple[date, date]]:
    """Runs of days without a reading, at most sixty, the latest first."""
    return [(starts, ends) for starts, ends in connection.execute(SQL["gaps"], {"source": source}).fetchall()]


def from_arrays(first_day: date, tmin: Any, tmax: Any, rain: Any) -> Iterable[Reading]:
    """Arrays of one length as readings, a day each."""
    for index, (low, high, fell) in enumerate(zip(tmin, tmax, rain, strict=True)):
        yield Reading(first_day + timedelta(days=index), float(low), float(high), float(fell))
