"""The map's shade through the shown day: where it lies every half hour by the clock, and how much of each bed is in it."""

from datetime import date, datetime, time, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

import numpy as np
from fastapi import APIRouter, Depends, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel

from almanaque.commands.garden import sunlight
from almanaque.commands.garden.sunlight import Light
from almanaque.core.place import shade, sun
from almanaque.store.garden import garden, plantings_then
from almanaque.store.garden.garden import Bed
from almanaque.web.request_scope import RequestScope, UnitOfWork, may

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
STEP_H = 0.5
LOWEST_DEG = 3.0  # under it shadows are longer than any garden: our own choice
LOOKS_AHEAD = timedelta(days=14)  # for the next day with lessons: our own choice
FARTHEST_MM = 200_000.0  # from the site's corner to which shadows are drawn: our own choice


class ShadeStep(BaseModel):
    """A moment: hours of the clock, where the sun stands [°], outlines of shade by site [mm], and squares in shade by bed."""

    clock: float
    altitude: float
    azimuth: float
    shade: dict[str, str]
    beds: dict[str, int]


class ShadeDay(BaseModel):
    """A day by its half hours: names and squares of its beds, the moments at which the sun is up, and lessons by the clock."""

    day: date
    beds: dict[str, tuple[str, int]]
    steps: list[ShadeStep]
    lessons: list[tuple[float, float, str]]


@router.get("/garden/shade.json")
def shade_day(scope: Look) -> Response:
    """The shade of the ribbon's day."""
    with scope.open() as work:
        return JSONResponse(by_hour(work).model_dump(mode="json"))


def by_hour(work: UnitOfWork) -> ShadeDay:
    beds = [bed for bed in garden.beds(work.connection) if bed.stood_on(work.day) and not bed.indoors]
    present = plantings_then.as_they_stood(
        garden.plantings(work.connection, since=work.day, until=work.day), work.day, work.today
    )
    lights = [
        sunlight.light(work.connection, work.context, place, beds, present, day=work.day)
        for place in garden.sites(work.connection)
    ]
    school = work.context.school
    offset = datetime.combine(work.day, time(12), tzinfo=ZoneInfo(school.zone)).utcoffset()
    steps = []
    for number in range(int(24 / STEP_H)):
        clock = number * STEP_H
        hour = sun.solar_hour(
            work.day, clock, longitude=school.longitude, utc_offset_h=offset.total_seconds() / 3600 if offset else 0.0
        )
        step = _step(work.day, clock, hour, lights, beds)
        if step is not None:
            steps.append(step)
    return ShadeDay(
        day=work.day,
        beds={str(bed.id): (bed.name, len(bed.grid(work.day).cells)) for bed in beds},
        steps=steps,
        lessons=_lessons(work),
    )


def _lessons(work: UnitOfWork) -> list[tuple[float, float, str]]:
    """Lessons of the day, or of the next day that has some, by the hours of the clock."""
    names = work.context.group_names(work.day)
    found = work.context.calendar.carried_on.lessons(work.day, work.day + LOOKS_AHEAD)
    first = found[0].day if found else work.day
    hours = [(one.starts_at.hour + one.starts_at.minute / 60, one) for one in found if one.day == first]
    return [(at, at + one.minutes / 60, names.get(one.group_id, "a class")) for at, one in hours]


def _step(day: date, clock: float, hour: float, lights: list[Light], beds: list[Bed]) -> ShadeStep | None:
    paths: dict[str, str] = {}
    counted: dict[str, int] = {}
    altitude = azimuth = 0.0
    for light in lights:
        heights, ways = sun.position(light.latitude, day, np.array([hour]))
        altitude, azimuth = float(heights[0]), float(ways[0])
        if altitude < LOWEST_DEG:
            return None
        paths[str(light.place.id)] = outlines(light, day, altitude, azimuth)
        counted.update({str(key): number for key, number in light.in_shade(beds, day, altitude, azimuth).items()})
    if not lights:
        return None
    return ShadeStep(clock=clock, altitude=round(altitude, 1), azimuth=round(azimuth, 1), shade=paths, beds=counted)


def outlines(light: Light, day: date, altitude: float, azimuth: float) -> str:
    """Everything that is in shade on a site when the sun stands so high and in that direction [°], as one path [mm]."""
    return "".join(
        _path(shade.shadow(body, altitude, azimuth, north_deg=light.place.north_deg))
        for body in light.bodies(day)
        if day.month not in body.months_bare
    )


def _path(corners: list[tuple[float, float]]) -> str:
    held = [(max(-FARTHEST_MM, min(FARTHEST_MM, x)), max(-FARTHEST_MM, min(FARTHEST_MM, y))) for x, y in corners]
    return "M" + "L".join(f"{round(x, -1):.0f} {round(y, -1):.0f}" for x, y in held) + "Z"
