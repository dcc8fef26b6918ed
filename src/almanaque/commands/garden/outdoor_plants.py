"""What stands outdoors in the ground, as the rules on the weather see it."""

from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.week.weather_notes import OutdoorPlant
from almanaque.core.year.bloom import blooms
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting


def standing(
    connection: Connection[Any], context: Context, first: date, last: date, *, today: date
) -> list[OutdoorPlant]:
    """Plantings in the ground outdoors on `last`; whether one flowers is asked of the days since `first`."""
    beds = {bed.id: bed for bed in garden.beds(connection)}
    return [
        _standing(context, planting, beds[planting.bed_id], first, last, today)
        for planting in garden.plantings(connection, since=last, until=last)
        if planting.status == "in the ground" and not beds[planting.bed_id].indoors
    ]


def _standing(context: Context, planting: Planting, bed: Bed, first: date, last: date, today: date) -> OutdoorPlant:
    crop, dates = context.crops[planting.crop], planting.dates
    up = dates is None or dates.emerge_to is None or "emerged" in planting.events or last > dates.emerge_to
    flowers = dates is not None and any(
        bloom.starts <= last
        for bloom in blooms(crop, dates, first, last, bed_to=planting.bed_to(today), southern=context.school.southern)
    )
    covered = forecasts.setting_in(context, bed, planting.start_on, planting.cover).covering is not None
    return OutdoorPlant(crop, bed.name, planting.bed_from, up, flowers, covered)
