"""Asking a school's weather station for its readings, and telling of frost, heat, rain and low supplies by mail."""

import json
from collections.abc import Callable
from datetime import date, datetime, timedelta
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden.outdoor_plants import standing
from almanaque.commands.week import stations
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding, Fix
from almanaque.core.place import weather_station
from almanaque.core.place.readings import Reading
from almanaque.core.week import weather_alarms
from almanaque.core.week.weather_notes import SeenDay
from almanaque.store.place import weather, weather_stations
from almanaque.store.place.weather_stations import WeatherStation
from almanaque.store.school import outgoing_mail

Fetch = Callable[[str], bytes]
BEFORE = timedelta(days=14)
SILENT = timedelta(hours=24)
MOST_BYTES = 200_000


class NoAnswer(Exception):
    """The station did not answer, or not as one does; `str(error)` says how."""


def poll(
    connection: Connection[Any], context: Context, row: WeatherStation, fetch: Fetch, *, today: date, now: datetime
) -> int:
    """Ask one station and keep what can be; return how many days were kept. A station that does not answer is noted, no more."""
    try:
        body = fetch(row.device)
        if len(body) > MOST_BYTES:
            raise NoAnswer("The station's answer is too long.")
        days = weather_station.parse(json.loads(body))
    except (NoAnswer, BadInput, ValueError) as error:
        problem = str(error) if isinstance(error, NoAnswer | BadInput) else "The station's answer cannot be read."
        weather_stations.asked(connection, row.source, now=now, problem=problem)
        return 0
    before = [
        Reading(d.day, d.tmin_c, d.tmax_c, d.rain_mm, d.wind_ms, d.soil_c)
        for d in weather.days(connection, row.source, today - BEFORE, today)
    ]
    found = weather_station.examine(days, before=before, today=today)
    if found.readings:
        weather.copy_in(connection, context.school.id, row.source, found.readings)
    weather_stations.note_doubts(connection, context.school.id, row.source, found.doubts)
    weather_stations.asked(connection, row.source, now=now, problem="")
    return len(found.readings)


def findings(connection: Connection[Any], context: Context, *, today: date, now: datetime) -> list[Finding]:
    """What the stations of a school want somebody to know at once: frost, heat, rain, doubtful readings, silence."""
    found: list[Finding] = []
    for row in weather_stations.devices(connection):
        days = weather.days(connection, row.source, today - timedelta(days=2), today)
        seen = [SeenDay(d.day, d.tmin_c, d.tmax_c, d.rain_mm, d.wind_ms) for d in days]
        found += weather_alarms.alarms(
            standing(connection, context, today, today, today=today), seen, today, context.school.units
        )
        doubts = weather_stations.doubts(connection, row.source, today - timedelta(days=1))
        if doubts:
            said = "; ".join(f"{weather_station.FIELDS.get(d.what, 'day')} {d.value} {d.why}" for d in doubts[:3])
            found.append(
                Finding(
                    "reading_doubtful",
                    "note",
                    row.source,
                    {"station": row.source, "doubt": said},
                    "own_rule",
                    (Fix("look_at_the_station"),),
                )
            )
        if row.asked_at is not None and (row.answered_at is None or row.asked_at - row.answered_at > SILENT):
            found.append(
                Finding(
                    "station_silent",
                    "care",
                    row.source,
                    {"station": row.source, "problem": f" {row.problem}" if row.problem else ""},
                    "own_rule",
                    (Fix("look_at_its_battery"),),
                )
            )
    return found


def tell(connection: Connection[Any], context: Context, *, today: date, now: datetime) -> int:
    """Let mail wait for what cannot wait until somebody looks: each thing once a day. Return how many messages are new."""
    if not context.school.mail_to.strip():
        return 0
    told = [
        f
        for f in findings(connection, context, today=today, now=now)
        if f.code in ("frost_warning", "heat_warning", "rain_warning", "station_silent")
    ]
    told += [f for f in stations.notes(connection, today) if f.code in ("running_low", "head_count")]
    new = 0
    for found in told:
        fixes = "\n".join(f"- {fix.label}." for fix in found.fixes)
        body = (
            f"{found.message}\n{found.reason}\n\n{fixes}\n\n{context.school.name}, "
            f"by Almanaque. Change who gets this under School, Weather."
        )
        new += outgoing_mail.put(
            connection,
            context.school.id,
            key=f"{found.code}/{found.subject}/{today}"[:120],
            mail_to=context.school.mail_to,
            subject=f"{context.school.name}: {found.message}"[:200],
            body=body,
        )
    return new
