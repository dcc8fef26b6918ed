"""Daily weather by source, in and out as arrays."""

import hashlib
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any
from uuid import UUID

import numpy as np
from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.climate import Climate


@dataclass(frozen=True)
class WeatherDay:
    day: date
    tmin_c: float
    tmax_c: float
    rain_mm: float


def copy_in(
    connection: Connection[Any], school_id: UUID, source: str, first_day: date, tmin: Any, tmax: Any, rain: Any
) -> None:
    """Store a run of days (arrays of one length) by COPY and note the digest on which cached answers depend."""
    with connection.cursor().copy(
        "COPY weather_day (school_id, source, day, tmin_c, tmax_c, rain_mm) FROM STDIN"
    ) as copy:
        for index, (low, high, fell) in enumerate(zip(tmin, tmax, rain, strict=True)):
            day = first_day + timedelta(days=index)
            copy.write_row((school_id, source, day, float(low), float(high), float(fell)))
    digest = hashlib.sha256(b"".join(np.asarray(part, dtype=float).tobytes() for part in (tmin, tmax, rain)))
    connection.execute(
        "UPDATE school SET weather_source = %s, weather_digest = %s WHERE id = %s",
        [source, digest.hexdigest()[:24], school_id],
    )


def climate(connection: Connection[Any], source: str, *, latitude: float) -> Climate | None:
    """Every reading of a source as one run of days with NaN for gaps; None without readings."""
    rows = connection.execute(
        "SELECT day, tmin_c, tmax_c, rain_mm FROM weather_day WHERE source = %s ORDER BY day", [source]
    ).fetchall()
    if not rows:
        return None
    first = rows[0][0]
    table = np.full((3, (rows[-1][0] - first).days + 1), np.nan)
    at = np.array([(row[0] - first).days for row in rows])
    for index in range(3):
        table[index, at] = [row[index + 1] for row in rows]
    return Climate(first, table[0], table[1], table[2], latitude=latitude)


def days(connection: Connection[Any], source: str, start: date, end: date) -> list[WeatherDay]:
    """Readings from `start` to `end`, both included."""
    return (
        connection.cursor(row_factory=class_row(WeatherDay))
        .execute(
            "SELECT day, tmin_c, tmax_c, rain_mm FROM weather_day WHERE source = %s AND day BETWEEN %s AND %s ORDER BY day",
            [source, start, end],
        )
        .fetchall()
    )
