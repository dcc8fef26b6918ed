"""School: the place and its climate, the year of this place, and what stands in for a weather record."""

from dataclasses import dataclass
from datetime import date
from typing import Annotated, Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from fastapi import APIRouter, Depends, Form, Response
from pydantic import BaseModel

from almanaque.core.errors import BadInput
from almanaque.core.place.climate import THRESHOLDS_C, Climate
from almanaque.core.place.sun import check_latitude
from almanaque.core.place.typed_freezes import TypedFreezes, parse_day_of_year
from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.data import places
from almanaque.standins.weather import SOURCE_NAME
from almanaque.store import queue
from almanaque.store.place import planting_chart, weather
from almanaque.store.school import school as store
from almanaque.web import forms, frame, words
from almanaque.web.place import climate_picture
from almanaque.web.request_scope import RequestScope, UnitOfWork, may
from almanaque.web.view import View

router = APIRouter()
Look = Annotated[RequestScope, Depends(may("look"))]
Change = Annotated[RequestScope, Depends(may("calendar"))]
Plan = Annotated[RequestScope, Depends(may("plan"))]
PROBABILITIES = (0.1, 0.5, 0.9)


@router.get("/school/climate")
def year_of_this_place(scope: Look, compare: str = "") -> Response:
    """Temperature band, rain, freeze risk and daylength over the school year, with this year's readings drawn over."""
    with scope.open() as work:
        context = work.context
        sources = weather.sources(work.connection)
        drawn = compare if compare in {s.name for s in sources} else _own_source(sources, context.school.weather_source)
        year = context.calendar.year_of(work.day)
        start = year.starts if year and work.day <= year.ends else date(work.day.year, 1, 1)
        end = year.ends if year and work.day <= year.ends else date(work.day.year, 12, 31)
        readings = weather.days(work.connection, drawn, start, min(end, work.today)) if drawn else []
        values = {
            "picture": climate_picture.draw(
                context.climate,
                start,
                end,
                readings,
                calendar=context.calendar,
                units=context.school.units,
                latitude=context.school.latitude,
            ),
            "freezes": _freezes(context.climate, work.day, context.school.units)
            if context.climate and context.climate.seasons
            else None,
            "months": _months(context.climate, context.school.units) if context.climate else [],
            "typed": context.typed,
            "source": context.school.weather_source,
            "simulated": context.school.weather_source == SOURCE_NAME,
            "sources": [s.name for s in sources],
            "drawn": drawn,
            "headers": _headers(context.school.units),
        }
        return frame.page(work, "school", "The year of this place", values, template="place/climate.html")


@router.get("/school/place")
def place(scope: Look, name: str = "") -> Response:
    with scope.open() as work:
        return _place_page(work, name)


class PlaceForm(BaseModel):
    """What the form sends, as it was typed."""

    place_name: str = ""
    latitude: str = ""
    longitude: str = ""
    zone: str = ""
    units: str = ""
    school_name: str = ""
    setting: str = ""
    theme: str = ""


@router.post("/school/place")
def save_place(scope: Change, form: Annotated[PlaceForm, Form()]) -> Response:
    """Where the school lies, how it measures, what it is called."""
    with scope.open() as work:
        north, east, zone = read_place(form.latitude, form.longitude, form.zone)
        store.save_school(
            work.connection,
            {
                "name": forms.name(form.school_name, field="school_name", most=120),
                "setting": forms.optional_name(form.setting, field="setting", most=120),
                "theme": forms.optional_name(form.theme, field="theme"),
                "place_name": forms.optional_name(form.place_name, field="place_name", most=120),
                "latitude": north,
                "longitude": east,
                "zone": zone,
                "units": forms.one_of(form.units, ("us", "metric"), field="units"),
            },
        )
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/place")


class TypedFreezesForm(BaseModel):
    """What the form sends, as it was typed."""

    last_usual: str = ""
    last_late: str = ""
    first_early: str = ""
    first_usual: str = ""
    from_whom: str = ""


@router.post("/school/freezes")
def save_freezes(scope: Change, form: Annotated[TypedFreezesForm, Form()]) -> Response:
    """Freeze dates that somebody knows, for a school without a weather record; all empty forgets them."""
    with scope.open() as work:
        days = [
            parse_day_of_year(text, field=field)
            for field, text in (
                ("last_usual", form.last_usual),
                ("last_late", form.last_late),
                ("first_early", form.first_early),
                ("first_usual", form.first_usual),
            )
        ]
        typed = (
            TypedFreezes(
                days[0], days[1], days[2], days[3], forms.optional_name(form.from_whom, field="from_whom", most=200)
            )
            if any(days)
            else None
        )
        planting_chart.save_typed_freezes(work.connection, work.context.school.id, typed)
        queue.recompute_school(work.connection, work.context.school.id)
        return frame.go(work, "/school/place")


def read_place(latitude: str, longitude: str, zone: str) -> tuple[float, float, str]:
    """Latitude, longitude and zone as typed. Raises BadInput for latitude 91 and for zones that do not exist."""
    north = forms.number(latitude, field="latitude", what="latitude")
    east = forms.number(longitude, field="longitude", what="longitude")
    if north is None or east is None:
        raise BadInput("place.no_place", field="latitude")
    check_latitude(north)
    if not -180 <= east <= 180:
        raise BadInput("place.longitude_out_of_range", field="longitude", east=east)
    try:
        if not zone.strip() or zone.strip().startswith(("/", ".")):
            raise ValueError
        ZoneInfo(zone.strip())
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise BadInput("place.no_time_zone", field="zone", zone=zone.strip()[:40]) from None
    return north, east, zone.strip()


def _own_source(sources: list[weather.Source], chosen: str) -> str:
    """The source to draw over the climate: the garden's own, else the one that answers rest on."""
    return next((s.name for s in sources if s.kind == "garden" and s.days), chosen)


@dataclass(frozen=True)
class FreezeRowView(View):
    """Filled by `_freezes`, read by its template."""

    threshold: str
    last: list[str]
    first: list[str]
    seasons: int
    without: str
    words: str


def _freezes(climate: Climate, day: date, units: Units) -> list[FreezeRowView]:
    """Quantiles of the last and first freeze at three thresholds, in words."""
    start = climate.season_start(day)
    rows = []
    for threshold in THRESHOLDS_C:
        found = climate.freezes(threshold)

        def shown(quantile: Any) -> str:
            at = climate.date_of(quantile, start)
            return words.short_day(at) if at else "none"

        last, first = [shown(found.last(p)) for p in PROBABILITIES], [shown(found.first(p)) for p in PROBABILITIES]
        rows.append(
            FreezeRowView(
                threshold=format_temperature(threshold, units),
                last=last,
                first=first,
                seasons=found.seasons,
                without=f"{found.last_without} of {len(found.lasts)} years had none" if found.last_without else "",
                words=f"One year in ten still froze after {last[2]}." if last[2] != "none" else "",
            )
        )
    return rows


def _months(climate: Climate, units: Units) -> list[list[str]]:
    rows = []
    for m in climate.months:
        rain = f"{format_rain(m.rain_mm, units)}" if m.rain_mm == m.rain_mm else "–"
        rows.append(
            [
                words.month_name(date(2001, m.month, 1)),
                format_temperature(m.tmin_c, units),
                format_temperature(m.tmax_c, units),
                rain,
                format_rain(m.et0_mm, units),
                format_temperature(m.soil_c, units),
                f"{m.warmth * (1.8 if units == 'us' else 1):.0f}",
                str(m.years),
            ]
        )
    return rows


def _headers(units: Units) -> list[str]:
    base = "50 °F" if units == "us" else "10 °C"
    return ["Month", "Night", "Day", "Rain", "Water use", "Soil", f"Warmth above {base}", "Years"]


def _place_page(work: UnitOfWork, name: str) -> Response:
    school = work.context.school
    typed = work.context.typed
    values = {
        "school": school,
        "typed": {
            f: _month_day(getattr(typed, f)) if typed else ""
            for f in ("last_usual", "last_late", "first_early", "first_usual")
        },
        "from_whom": typed.from_whom if typed else "",
        "asked": name,
        "towns": places.find(name[:80]) if name.strip() else [],
        "has_record": bool(work.context.climate and work.context.climate.seasons),
    }
    return frame.page(work, "school", "Place", values, template="place/place.html")


def _month_day(text: str | None) -> str:
    return words.short_day(date(2028, int(text[:2]), int(text[3:]))) if text else ""
