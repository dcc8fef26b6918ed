"""What a bed fills into a page for pupils: its size, its squares, what stands in it, and when that is ready."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.growth import forecasts
from almanaque.core.crops.crop import Crop
from almanaque.core.units import format_area, format_length, format_water
from almanaque.core.week.pupil_pages import BedInWords
from almanaque.core.week.water import INCH_MM
from almanaque.core.words import listed
from almanaque.core.words.days import short_day
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting

AHEAD = timedelta(days=45)  # within which what is planned counts as the bed's: our own choice


@dataclass(frozen=True)
class BedOfPupils:
    """A bed with what stands in it, or soon will, and the words that it fills in."""

    bed: Bed
    plantings: Sequence[Planting]
    crops: Sequence[Crop]
    words: BedInWords


def read(
    connection: Connection[Any], context: Context, bed: Bed, day: date, *, usual: Sequence[str] = ()
) -> BedOfPupils:
    """What there is in a bed on a day; `usual` are crops that the lesson names, which come first."""
    present = [
        p
        for p in garden.plantings(connection, bed_id=bed.id, since=day, until=day + AHEAD)
        if p.status in ("in the ground", "planned")
    ]
    present.sort(key=lambda p: (p.crop not in usual, p.bed_from > day, -len(p.cells)))
    crops = [context.crops[key] for key in dict.fromkeys(p.crop for p in present)]
    return BedOfPupils(bed, present, crops, _words(context, bed, present, crops))


def fullest_day(found: BedOfPupils, day: date, *, today: date) -> date:
    """The day on which most of what a bed holds stands ready, so that there is something to colour in; else the day itself."""
    ready = {p.dates.first_pick for p in found.plantings if p.dates is not None and p.dates.first_pick >= day}
    return max(
        sorted(ready), key=lambda on: sum(len(p.cells) for p in found.plantings if p.stands_on(on, today)), default=day
    )


def _words(context: Context, bed: Bed, present: Sequence[Planting], crops: Sequence[Crop]) -> BedInWords:
    units, grid = context.school.units, bed.grid()
    first = present[0] if present else None
    crop = crops[0] if crops else None
    laid = forecasts.layout_of(first, bed, context.crops[first.crop], units) if first else None
    rain = f"{format_area(bed.area_m2, units)} × {'1 in' if units == 'us' else '25 mm'}"
    water = format_water(bed.area_m2 * (INCH_MM if units == "us" else 25.0), units)
    names = [c.name.en.lower() for c in crops]
    return BedInWords(
        bed=bed.name,
        length=format_length(bed.length_mm, units),
        width=format_length(bed.width_mm, units),
        around=format_length(2 * (bed.length_mm + bed.width_mm), units),
        area=format_area(bed.area_m2, units),
        squares=str(len(grid.cells)),
        crop=crop.name.en.lower() if crop else "your plant",
        plants=str(laid.plants) if laid else "0",
        per_square=laid.words if laid else "as the packet says",
        apart=format_length(crop.thin_to_mm or crop.spacing_mm, units, feet=False) if crop else "a hand's width",
        ready=short_day(first.dates.first_pick) if first and first.dates else "by its forecast",
        names=listed(names) if names else "what stands there",
        parts=listed([f"{c.name.en.lower()}: {c.part}" for c in crops]) if crops else "what the garden has",
        sign=crop.ready_sign if crop else "By its own sign.",
        inch_of_rain=f"{rain} is about {water}",
    )
