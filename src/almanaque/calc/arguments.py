"""What the calls of `calc` take: numbers, days and files, each with a sentence when it cannot be read."""

from datetime import date
from pathlib import Path

import numpy as np

from almanaque.core.errors import BadInput
from almanaque.core.place import readings, sun
from almanaque.core.place.climate import Climate
from almanaque.formats.place import weather_csv


def climate_of(file: str, latitude: float) -> Climate:
    """The readings of a file that can be, as a climate. What cannot be is left out, as when a file is brought in."""
    sun.check_latitude(latitude)
    name, body = Path(file).name, body_of(file, field="weather")
    found, _ = weather_csv.split(body, name, us=False).readings()
    checked = readings.check(found, today=date.max)
    if checked.swapped:
        raise BadInput("calc.temperatures_swapped_in_columns", field="weather", name=name)
    if not checked.readings:
        raise BadInput("calc.no_usable_reading", field="weather", name=name)
    first = checked.readings[0].day
    table = np.full((3, (checked.readings[-1].day - first).days + 1), np.nan)
    for reading in checked.readings:
        values = (reading.tmin_c, reading.tmax_c, reading.rain_mm)
        table[:, (reading.day - first).days] = [np.nan if value is None else value for value in values]
    return Climate(first, table[0], table[1], table[2], latitude=latitude)


def body_of(file: str, *, field: str) -> bytes:
    """A file of at most 8 MB. Raises BadInput for one that is not there, or larger."""
    path = Path(file)
    try:
        size = path.stat().st_size
        body = path.read_bytes() if size <= weather_csv.MOST_BYTES else b""
    except OSError:
        raise BadInput("calc.file_unreadable", field=field, path=path.name) from None
    if size > weather_csv.MOST_BYTES:
        raise BadInput(
            "calc.file_too_large", field=field, path=path.name, most_megabytes=weather_csv.MOST_BYTES / 1000000
        )
    return body


def number(text: str, name: str) -> float:
    try:
        return float(text.replace("−", "-"))
    except ValueError:
        raise BadInput("calc.not_a_number", field=name, name=name, text=text[:20]) from None


def day_of(text: str, name: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise BadInput("calc.not_a_day", field=name, name=name, text=text[:20]) from None


def plain(value: float) -> float | int:
    return int(value) if value == int(value) else value
