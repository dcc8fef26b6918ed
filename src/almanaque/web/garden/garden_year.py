"""A year of the garden that can be watched: where each plant stands and how it looks by the day; and twelve months on a sheet."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Annotated
from uuid import UUID

import numpy as np
from fastapi import APIRouter, Depends, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from almanaque.commands.garden import sunlight
from almanaque.commands.growth.forecasts import layout_of
from almanaque.core.crops.crop import Crop
from almanaque.core.place import sun
from almanaque.formats.crops import portraits
from almanaque.store.garden import garden, plantings_then, site_features
from almanaque.store.garden.garden import Bed, Planting
from almanaque.web import forms, frame, words
from almanaque.web.garden import site_map_picture
from almanaque.web.garden.shade_by_hour import LOWEST_DEG, outlines
from almanaque.web.garden.site_map_picture import SiteMap
from almanaque.web.pictures import plants_standing
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
MOST_PLANTS = 2400  # that are played; of more, each second or third: our own choice
MOST_ON_A_MONTH = 900  # plants on each of twelve small maps: our own choice
DAY = timedelta(days=1)
SHADE_EVERY = timedelta(days=28)  # between shades of noon that are sent: our own choice
NOON = 12.0  # by the sun
STEP = timedelta(days=7)  # between looks that are sent; the page goes evenly from one to the next


class PlayedBed(BaseModel):
    """Where a bed lies on its site [mm], and its turn [degrees] about its middle."""

    site: str
    x: float
    y: float
    turn: float
    middle: tuple[float, float]


class PlayedPlanting(BaseModel):
    """Places [mm from the bed's inside corner, x and y in turn], first and last day, and looks as (day, picture, side in mm).

    `picking` and `cover` are spans of days. Until its first look it is sown and not up.
    """

    bed: str
    points: list[int]
    first: int
    last: int
    looks: list[tuple[int, int, int]]
    picking: tuple[int, int] | None = None
    cover: tuple[int, int] | None = None


class PlayedCover(BaseModel):
    """A cover of the map [outline in mm on its site], from day to day."""

    site: str
    path: str
    first: int
    last: int


class PlayedShade(BaseModel):
    """The shade of noon by site [outlines in mm], from a day on."""

    day: int
    paths: dict[str, str]


class PlayedYear(BaseModel):
    """Everything that is needed to draw the garden on any day of a school year; days are numbered from its `first`."""

    first: date
    days: int
    breaks: list[tuple[int, int, str]]
    pictures: list[str]
    beds: dict[str, PlayedBed]
    plantings: list[PlayedPlanting]
    covers: list[PlayedCover]
    shade: list[PlayedShade]


@router.get("/garden/year.json")
def year(scope: Look, bed: str = "") -> Response:
    """The school year of the ribbon's day, of the garden or of one bed."""
    with scope.open() as work:
        return JSONResponse(played(work, only=forms.optional_id(bed)).model_dump(mode="json"))


def played(work: UnitOfWork, *, only: UUID | None = None) -> PlayedYear:
    """The school year that holds the ribbon's day, or the year from that day where none is on file."""
    first, last = span_of(work)
    every_bed = garden.beds(work.connection)
    beds = {bed.id: bed for bed in every_bed if (not bed.indoors if only is None else bed.id == only)}
    pictures: dict[str, int] = {}
    laid = []
    standing = _plantings(work, first, last)
    for planting in standing:
        if planting.bed_id in beds:
            bed, crop = beds[planting.bed_id], work.context.crops[planting.crop]
            laid.append((planting, bed, crop, layout_of(planting, bed, crop).positions_mm))
    every = 1 + sum(len(places) for _, _, _, places in laid) // MOST_PLANTS
    found = []
    for planting, bed, crop, places in sorted(laid, key=lambda one: one[2].height_mm):
        starts, ends = max(planting.bed_from, first), min(planting.bed_to(work.today), last)
        looks = _looks(crop, planting, starts, ends, first, pictures, southern=work.context.school.southern)
        found.append(
            PlayedPlanting(
                bed=str(bed.id),
                points=[round(value) for x, y in places[::every] for value in (x, y)],
                first=(starts - first).days,
                last=(ends - first).days,
                looks=looks,
                picking=_picking(planting, starts, ends, first),
                cover=((starts - first).days, (ends - first).days) if planting.cover else None,
            )
        )
    return PlayedYear(
        first=first,
        days=(last - first).days + 1,
        breaks=[
            ((gap.starts - first).days, (gap.ends - first).days, gap.name)
            for gap in work.context.setting.calendar.breaks
            if gap.starts <= last and gap.ends >= first
        ],
        pictures=list(pictures),
        beds={str(bed.id): _bed(bed) for bed in beds.values()},
        plantings=found,
        covers=[] if only else _covers(work, first, last),
        shade=[] if only else _shade(work, list(beds.values()), standing, first, last),
    )


def _picking(planting: Planting, starts: date, ends: date, first: date) -> tuple[int, int] | None:
    """When it is picked, as it was or as it is forecast; None outside its time in the bed."""
    if planting.dates is None:
        return None
    begins = max(starts, planting.events.get("first picking", planting.dates.first_pick))
    over = min(ends, max(begins, planting.dates.last_pick))
    return ((begins - first).days, (over - first).days) if begins <= over else None


def _covers(work: UnitOfWork, first: date, last: date) -> list[PlayedCover]:
    """Covers that lie on the map at some time of the year."""
    found = []
    for row in work.context.over_beds:
        starts, ends = max(row.from_day or first, first), min((row.to_day or last + DAY) - DAY, last)
        if starts <= ends:
            corners = row.feature.shape.polygon.exterior.coords
            path = "M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in corners) + "Z"
            days = ((starts - first).days, (ends - first).days)
            found.append(PlayedCover(site=str(row.site_id), path=path, first=days[0], last=days[1]))
    return found


def _shade(work: UnitOfWork, beds: list[Bed], plantings: list[Planting], first: date, last: date) -> list[PlayedShade]:
    """The shade of noon every few weeks, with plants as tall as they are by then."""
    found = []
    places = garden.sites(work.connection)
    for number in range((last - first).days // SHADE_EVERY.days + 1):
        day = first + SHADE_EVERY * number
        present = [p for p in plantings if p.stands_on(day, work.today)]
        paths = {}
        for place in places:
            light = sunlight.light(work.connection, work.context, place, beds, present, day=day)
            heights, ways = sun.position(light.latitude, day, np.array([NOON]))
            if heights[0] > LOWEST_DEG:
                paths[str(place.id)] = outlines(light, day, float(heights[0]), float(ways[0]))
        found.append(PlayedShade(day=(day - first).days, paths=paths))
    return found


def span_of(work: UnitOfWork) -> tuple[date, date]:
    """First and last day of the school year that holds the ribbon's day."""
    found = work.context.calendar.year_of(work.day)
    if found is None or work.day > found.ends:
        return work.day, work.day + timedelta(days=364)
    return found.starts, found.ends


def _plantings(work: UnitOfWork, first: date, last: date) -> list[Planting]:
    every = garden.plantings(work.connection, since=first, until=last)
    return [
        p
        for p in every
        if p.status in ("planned", "in the ground", "finished") and p.bed_from <= last and p.bed_to(work.today) >= first
    ]


def _looks(
    crop: Crop, planting: Planting, starts: date, ends: date, first: date, pictures: dict[str, int], *, southern: bool
) -> list[tuple[int, int, int]]:
    """How a planting looks every week, the last day included; what is not up yet is left out."""
    days = [starts + STEP * number for number in range((ends - starts).days // STEP.days + 1)]
    found = []
    for day in [*days, ends]:
        look = portraits.look_on(crop, day, planting.dates, plants_standing.MAP_PX_PER_MM, southern=southern)
        if look is not None:
            number = pictures.setdefault(look.href, len(pictures))
            found.append(((day - first).days, number, round(look.side_mm)))
    return found


def _bed(bed: Bed) -> PlayedBed:
    shape = bed.shape
    return PlayedBed(
        site=str(bed.site_id),
        x=round(shape.x_mm, 1),
        y=round(shape.y_mm, 1),
        turn=shape.turn_deg,
        middle=(round(shape.length_mm / 2, 1), round(shape.width_mm / 2, 1)),
    )


@dataclass(frozen=True)
class MonthMaps:
    """The garden on a day of a month."""

    words: str
    maps: list[SiteMap]


@dataclass(frozen=True)
class YearSheetView(View):
    """What `garden/year_sheet.html` is given."""

    name: str
    months: list[MonthMaps]


@router.get("/garden/year")
def year_sheet(scope: Look) -> Response:
    """Twelve months on one sheet, still, for paper."""
    with scope.open() as work:
        first, last = span_of(work)
        beds = garden.beds(work.connection)
        plantings = _plantings(work, first, last)
        sites = garden.sites(work.connection)
        months = []
        for day in _middles(first, last):
            there = [bed for bed in beds if bed.stood_on(day) and not bed.indoors]
            present = plantings_then.as_they_stood(
                [p for p in plantings if p.stands_on(day, work.today)], day, work.today
            )
            looks = plants_standing.looks(work.context, there, present, day, work.today, most=MOST_ON_A_MONTH)
            features = site_features.features(work.connection, day)
            maps = [
                site_map_picture.draw(
                    place,
                    there,
                    features,
                    units=work.context.school.units,
                    words={str(bed.id): "" for bed in there},
                    short={str(bed.id): "" for bed in there},
                    planted={},
                    looks=looks,
                )
                for place in sites
            ]
            months.append(MonthMaps(f"{words.month_name(day)} {day.year}", maps))
        view = YearSheetView(words.span(first, last), months)
        return frame.page(work, "garden", "The garden through the year", view, template="garden/year_sheet.html")


def _middles(first: date, last: date) -> Sequence[date]:
    """The middle of each month that lies in the span, twelve at the most."""
    found: list[date] = []
    month = first.replace(day=1)
    while month <= last and len(found) < 12:
        middle = month + timedelta(days=14)
        if first <= middle <= last:
            found.append(middle)
        month = (month + timedelta(days=32)).replace(day=1)
    return found or [first]
