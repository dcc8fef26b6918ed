"""Week: what the weather of the last days means for what stands in the beds, and what the station wants somebody to know."""

from collections.abc import Sequence
from datetime import timedelta

from almanaque.commands.garden.outdoor_plants import standing
from almanaque.commands.place import weather_station
from almanaque.core.findings import Finding
from almanaque.core.week import weather_notes as core
from almanaque.core.week.weather_notes import Seen
from almanaque.store.place.weather import WeatherDay
from almanaque.web.desk import Room


def weather_notes(room: Room, readings: Sequence[WeatherDay]) -> list[Finding]:
    """Findings from the readings of a week up to the day shown, for what is in the ground outdoors; none for days to come."""
    told = (
        weather_station.findings(room.connection, room.context, today=room.today, now=room.desk.clock.now())
        if not room.moved
        else []
    )
    if not readings or room.day > room.today + timedelta(days=1):
        return told
    here = standing(room.connection, room.context, readings[0].day, readings[-1].day, today=room.today)
    seen = [Seen(r.day, r.tmin_c, r.tmax_c, r.rain_mm, r.wind_ms) for r in readings]
    return told + core.notes(here, seen, room.context.school.units)
