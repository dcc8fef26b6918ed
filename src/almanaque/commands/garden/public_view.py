"""What a visitor may see of the garden: what grows where and what will become of it. No people, no notes."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.journal import planting_story
from almanaque.core.journal.sightings import Sighting
from almanaque.core.units import format_length
from almanaque.core.words.days import short_day
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.journal import sightings
from almanaque.store.week import stations


@dataclass(frozen=True)
class Grows:
    """A planting as a visitor reads of it: `height` how high it should be by now, `look_for` the sign by which it is ready, `picture` an
    address that pages add."""

    crop: Crop
    dates: GrowthDates | None
    name: str
    variety: str
    botanical: str
    since: str
    stage: str
    ahead: str
    part: str
    caution: str
    height: str = ""
    look_for: str = ""
    picture: str = ""


@dataclass(frozen=True)
class PublicBed:
    """A bed, or a bed with one planting, with what grows there."""

    bed: str
    purpose: str
    grows: list[Grows]


def bed(connection: Connection[Any], context: Context, bed_id: UUID, *, today: date) -> PublicBed:
    """A bed with all that stands in it. Raises NotFound for one that is gone."""
    found = garden.bed(connection, bed_id)
    return _shown(connection, context, found, _standing(connection, today, bed_id), today)


def planting(connection: Connection[Any], context: Context, planting_id: UUID, *, today: date) -> PublicBed:
    """One planting in its bed."""
    found = garden.planting(connection, planting_id)
    return _shown(connection, context, garden.bed(connection, found.bed_id), [found], today)


def whole(connection: Connection[Any], context: Context, *, today: date) -> list[PublicBed]:
    """All beds with what stands in them."""
    return [_shown(connection, context, b, _standing(connection, today, b.id), today) for b in garden.beds(connection)]


@dataclass(frozen=True)
class ShownStation:
    """A station as a visitor reads of it."""

    name: str
    about: str
    how_to: str
    caution: str
    last: list[str]


def station(connection: Connection[Any], station_id: UUID) -> ShownStation:
    """What a station is, how it is done, and its last readings. Raises NotFound for one that is closed or gone."""
    found = stations.station(connection, station_id)
    if found.closed_on is not None:
        raise errors.NotFound("That station is closed.")
    noted = stations.readings(connection, until=date.max, station_id=station_id)
    last = []
    for reading in found.readings:
        mine = [n for n in noted if n.name == reading.name]
        if mine:
            unit = "" if reading.unit in ("", "count") else f" {reading.unit}"
            last.append(
                f"{reading.name}: {mine[-1].choice or f'{mine[-1].value:g}{unit}'}, {short_day(mine[-1].on_day)}"
            )
    return ShownStation(found.name, found.about, found.how_to, found.caution, last)


def _standing(connection: Connection[Any], today: date, bed_id: UUID) -> list[Planting]:
    present = garden.plantings(connection, bed_id=bed_id, since=today, until=today)
    return [p for p in present if p.status == "in the ground"]


def _shown(
    connection: Connection[Any], context: Context, where: Bed, standing: list[Planting], today: date
) -> PublicBed:
    seen = sightings.of_plantings(connection, [p.id for p in standing])
    return PublicBed(where.name, where.purpose, [_grows(context, p, seen.get(str(p.id), []), today) for p in standing])


def _grows(context: Context, one: Planting, seen: list[Sighting], today: date) -> Grows:
    crop = context.crops[one.crop]
    stages = [s for s in seen if s.kind == "stage"]
    began = one.events.get("set out") or one.events.get("started") or one.bed_from
    return Grows(
        crop,
        one.dates,
        crop.name.en,
        one.variety,
        crop.botanical,
        f"since {short_day(began)} {began.year}",
        stages[-1].what if stages else "",
        _ahead(crop, one, today),
        "" if crop.for_guests else crop.part,
        _caution(crop),
        _height(context, crop, one, today),
        "" if crop.for_guests else crop.ready_sign,
    )


def _height(context: Context, crop: Crop, one: Planting, today: date) -> str:
    """How high it should be by now, beside how high it gets; nothing of what comes again each year, or is not up."""
    units = context.school.units
    shown = planting_story.should_be(crop, one.dates, today, units) if one.status == "in the ground" else ""
    return f"about {shown} high by now, {format_length(crop.height_mm, units)} when it is grown" if shown else ""


def _ahead(crop: Crop, one: Planting, today: date) -> str:
    """When it will be ready, in words; for bees and butterflies, that it is for them."""
    if crop.for_guests:
        return "for bees and butterflies"
    if one.status != "in the ground":
        return "over for this year" if one.status in ("finished", "lost") else "not planted yet"
    if one.dates is None or crop.life == "perennial":
        return ""
    if today >= one.dates.first_pick_early:
        return "may be ready now"
    return f"ready about {short_day(one.dates.first_pick_early)} to {short_day(one.dates.first_pick_late)}"


def _caution(crop: Crop) -> str:
    return planting_story.cautions(crop) or "Look, smell and touch; taste only what a gardener gives you."
