"""Week: what the weather of the last days means for what stands in the beds, and what the station wants somebody to know."""

from collections.abc import Sequence
from datetime import timedelta

from almanaque.commands.garden.outdoor_plants import standing
from almanaque.commands.place import weather_station
from almanaque.core.findings import Finding
from almanaque.core.week import weather_notes as core
from almanaque.core.week.weather_notes import SeenDay
from almanaque.store.place.weather import WeatherDay
from almanaque.web.request_scope import UnitOfWork


def weather_notes(work: UnitOfWork, readings: Sequence[WeatherDay]) -> list[Finding]:
    """Findings from the readings of a week up to the day shown, for what is in the ground outdoors; none for days to come."""
    told = (
        weather_station.findings(work.connection, work.context, today=work.today, now=work.scope.clock.now())
        if not work.moved
        else []
    )
    if not readings or work.day > work.today + timedelta(days=1):
        return told
    here = standing(work.connection, work.context, readings[0].day, readings[-1].day, today=work.today)
    seen = [SeenDay(r.day, r.tmin_c, r.tmax_c, r.rain_mm, r.wind_ms) for r in readings]
    return told + core.notes(here, seen, work.context.school.units)
