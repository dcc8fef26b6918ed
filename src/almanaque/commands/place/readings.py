"""Readings of the weather kept: from a file, by hand, from the simulated station; and the sources they come from."""

import re
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.place import readings as rules
from almanaque.core.place.readings import Checked, Reading
from almanaque.standins import weather as standin
from almanaque.standins.weather import SOURCE_NAME
from almanaque.store import queue
from almanaque.store.place import weather, weather_stations
from almanaque.store.place.weather import SourceKind
from almanaque.store.school import school

STATION_YEARS, STATION_FROM = 30, date(2001, 1, 1)  # the station begins on 1 January thirty years ago
OWN_SOURCE = "garden weather hut"
MAIL_ADDRESS = re.compile(r"[^@\s,<>\"]{1,64}@[A-Za-z0-9.-]{1,190}")
MOST_ADDRESSES = 8


def keep_file(
    connection: Connection[Any], context: Context, source: str, checked: Checked, *, kind: SourceKind, name: str
) -> None:
    """Store what a file holds. Raises BadInput for columns that were swapped and for a file without a reading that can be."""
    if checked.swapped:
        raise BadInput("place.readings_swapped", name=name)
    if not checked.readings:
        raise BadInput("place.readings_cannot_be", name=name)
    if source == SOURCE_NAME:
        raise BadInput("place.source_of_station")
    known = next((one for one in weather.sources(connection) if one.name == source), None)
    weather.save_source(connection, context.school.id, source, known.kind if known else kind, f"From {name}.")
    weather.copy_in(connection, context.school.id, source, checked.readings)


def keep_by_hand(
    connection: Connection[Any], context: Context, reading: Reading, *, wind_from: str | None, today: date
) -> str:
    """Keep a day that was read by hand; return its source. Raises BadInput for a reading that cannot be, or none at all."""
    problems = rules.check([reading], today=today).problems
    if problems and not (wind_from and "no value" in problems[0].message):
        raise BadInput("place.reading_cannot_be", field="tmin", problem=problems[0].message)
    source = next((one.name for one in weather.sources(connection) if one.kind == "garden"), OWN_SOURCE)
    if source == OWN_SOURCE:
        weather.save_source(connection, context.school.id, source, "garden", "Read by hand in the garden.")
    weather.save_by_hand(connection, context.school.id, source, reading, wind_from=wind_from)
    if source == context.school.weather_source:
        queue.recompute_school(connection, context.school.id)
    return source


def from_simulated_station(connection: Connection[Any], context: Context, *, today: date) -> None:
    """Take its readings up to yesterday. Raises BadInput when they are on file."""
    school, yesterday = context.school, today - timedelta(days=1)
    known = next((one for one in weather.sources(connection) if one.name == SOURCE_NAME), None)
    if known is not None and known.last_day is not None and known.last_day >= yesterday:
        raise BadInput("place.station_up_to_date")
    first = STATION_FROM.replace(year=today.year - STATION_YEARS)
    made = standin.make(standin.place_at(school.latitude, school.longitude), first, yesterday)
    weather.save_source(connection, school.id, SOURCE_NAME, "simulated", "Made up by latitude, for trying things out.")
    weather.copy_in(
        connection, school.id, SOURCE_NAME, weather.from_arrays(first, made.tmin_c, made.tmax_c, made.rain_mm)
    )
    if not school.weather_source:
        weather.choose(connection, SOURCE_NAME)
    queue.recompute_school(connection, school.id)


def delete_source(connection: Connection[Any], context: Context, source: str, *, sure: bool) -> None:
    """Take a source out with its readings. Raises BadInput while answers rest on it, and when nobody said that they may go."""
    if source == context.school.weather_source:
        raise BadInput("place.source_in_use")
    if not sure:
        raise BadInput("place.source_deletion_unticked", field="sure", source=source[:60])
    weather.delete_source(connection, source)


def link_device(connection: Connection[Any], context: Context, source: str, device: str) -> None:
    """Let a source of the garden's own, new or known, be filled by a device. Raises BadInput."""
    if not re.fullmatch(r"[A-Za-z0-9-]{0,64}", device):
        raise BadInput("place.device_name", field="device")
    known = next((one for one in weather.sources(connection) if one.name == source), None)
    if known is not None and known.kind != "garden":
        raise BadInput("place.source_of_garden", field="source")
    if known is None:
        weather.save_source(connection, context.school.id, source, "garden", "Filled by a station.")
    weather_stations.link(connection, source, device)


def warn_by_mail(connection: Connection[Any], addresses: Sequence[str]) -> None:
    """Say who gets warnings. Raises BadInput for too many addresses, and for what is none."""
    if len(addresses) > MOST_ADDRESSES or any(not MAIL_ADDRESS.fullmatch(one) for one in addresses):
        raise BadInput("place.too_many_addresses", field="mail_to", most=MOST_ADDRESSES)
    school.set_mail_to(connection, ", ".join(addresses))
