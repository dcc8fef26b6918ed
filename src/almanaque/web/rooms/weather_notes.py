"""Week: what the weather of the last days means for what stands in the beds."""

from collections.abc import Sequence
from datetime import timedelta

from almanaque.commands import forecasts
from almanaque.core import weather_notes as core
from almanaque.core.bloom import blooms
from almanaque.core.findings import Finding
from almanaque.core.weather_notes import Seen, Standing
from almanaque.store import garden
from almanaque.store.garden import Bed, Planting
from almanaque.store.weather import WeatherDay
from almanaque.web.desk import Room


def weather_notes(room: Room, readings: Sequence[WeatherDay]) -> list[Finding]:
    """Findings from the readings of a week up to the day shown, for what is in the ground outdoors; none for days to come."""
    if not readings or room.day > room.today + timedelta(days=1):
        return []
    beds = {bed.id: bed for bed in garden.beds(room.connection)}
    present = garden.plantings(room.connection, since=readings[-1].day, until=readings[-1].day)
    standing = [
        _standing(room, planting, beds[planting.bed_id], readings)
        for planting in present
        if planting.status == "in the ground" and not beds[planting.bed_id].indoors
    ]
    return core.notes(
        standing, [Seen(r.day, r.tmin_c, r.tmax_c, r.rain_mm, r.wind_ms) for r in readings], room.context.school.units
    )


def _standing(room: Room, planting: Planting, bed: Bed, readings: Sequence[WeatherDay]) -> Standing:
    crop, dates, last = room.context.crops[planting.crop], planting.dates, readings[-1].day
    up = dates is None or dates.emerge_to is None or "emerged" in planting.events or last > dates.emerge_to
    flowers = dates is not None and any(
        bloom.starts <= last
        for bloom in blooms(
            crop,
            dates,
            readings[0].day,
            last,
            bed_to=planting.bed_to(room.today),
            southern=room.context.school.latitude < 0,
        )
    )
    covered = forecasts.setting_in(room.context, bed, planting.start_on, planting.cover).covering is not None
    return Standing(crop, bed.name, planting.bed_from, up, flowers, covered)
