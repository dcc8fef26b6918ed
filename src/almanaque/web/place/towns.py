"""Towns by the beginning of their name, and the light of a place, for whoever says where a garden lies, also before there is a school."""

from dataclasses import dataclass
from datetime import date

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse

from almanaque.core.place.sun import check_latitude, daylength
from almanaque.core.school.school_year import WEEKDAYS
from almanaque.data import places, zones
from almanaque.web import forms, frame, words
from almanaque.web.view import View

router = APIRouter()
LONGEST = 80
YEAR = 2027  # any that has no 29 February
MONTH_PX, HEIGHT_PX = 26, 72


@router.get("/towns")
def towns(name: str = "") -> JSONResponse:
    """Towns whose name begins so, the largest first: their name in full, latitude, longitude, time zone."""
    found = [
        {"words": town.words, "latitude": town.latitude, "longitude": town.longitude, "zone": town.zone}
        for town in places.find(name[:LONGEST])
    ]
    return JSONResponse(found, headers={"Cache-Control": "public, max-age=86400"})


@dataclass(frozen=True)
class PlaceLightView(View):
    """The length of the day over a year, as an area in a frame of 12 months × 24 hours, and in words."""

    width: int
    height: int
    area: str
    months: list[tuple[str, str]]
    longest: str
    shortest: str
    week_begins: str


@router.get("/towns/light")
def light(request: Request, latitude: str = "", zone: str = "") -> Response:
    """What a place means for a garden: how long its days are, and on which its weeks begin."""
    north = check_latitude(forms.number(latitude, field="latitude", what="latitude") or 0.0)
    days = [(date(YEAR, month, 15), daylength(north, date(YEAR, month, 15))) for month in range(1, 13)]
    middles = [MONTH_PX * (n + 0.5) for n in range(12)]
    line = " ".join(f"{x:.0f},{HEIGHT_PX * (1 - hours / 24):.1f}" for x, (_, hours) in zip(middles, days, strict=True))
    by_length = sorted(days, key=lambda one: one[1])
    values = PlaceLightView(
        12 * MONTH_PX,
        HEIGHT_PX,
        f"{middles[0]:.0f},{HEIGHT_PX} {line} {middles[-1]:.0f},{HEIGHT_PX}",
        [(f"{x:.0f}", words.month_name(day)[0]) for x, (day, _) in zip(middles, days, strict=True)],
        _hours(*by_length[-1]),
        _hours(*by_length[0]),
        WEEKDAYS[zones.week_begins(zone)],
    )
    return frame.bare_page(request, "place/_light.html", values)


def _hours(day: date, hours: float) -> str:
    return f"{hours:.1f} h in {words.month_name(day)}"
