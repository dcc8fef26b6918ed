"""`calc freeze`, `daylength`, `degree-days` and `et0`: what the weather of a place says."""

import argparse
from datetime import date
from typing import Any

import numpy as np

from almanaque.calc.arguments import climate_of, day_of, number, plain
from almanaque.core.errors import BadInput
from almanaque.core.place import evapotranspiration, sun
from almanaque.core.place.evapotranspiration import StationSite
from almanaque.core.place.freezes import FreezeDate
from almanaque.core.units import parse_temperature


def freeze(given: argparse.Namespace) -> dict[str, Any]:
    """Quantiles of the last and first freeze as MM-DD of a common year; null where it falls among seasons without one."""
    threshold = float(parse_temperature(given.threshold, bare_unit="C"))
    climate = climate_of(given.weather, number(given.lat, "lat"))
    freezes = climate.freezes(threshold)
    start = date(2001, 1, 1) if climate.southern else date(2000, 7, 1)  # named by a season without a 29 February

    def shown(quantile: FreezeDate) -> str | None:
        day = climate.date_of(quantile, start)
        return f"{day:%m-%d}" if day else None

    return {
        "threshold_c": plain(threshold),
        "seasons": freezes.seasons,
        "last": {**{f"p{p}": shown(freezes.last(p / 100)) for p in (10, 50, 90)}, "without": freezes.last_without},
        "first": {**{f"p{p}": shown(freezes.first(p / 100)) for p in (10, 50, 90)}, "without": freezes.first_without},
    }


def daylength(given: argparse.Namespace) -> dict[str, Any]:
    return {"hours": round(sun.daylength(number(given.lat, "lat"), day_of(given.date, "date")), 3)}


def degree_days_between(given: argparse.Namespace) -> dict[str, Any]:
    start, end = day_of(given.from_, "from"), day_of(given.to, "to")
    if end < start:
        raise BadInput("calc.to_before_from", field="to")
    climate = climate_of(given.weather, 0.0)
    base = float(parse_temperature(given.base, bare_unit="C"))
    total, missing = climate.warmth(start, end, base_c=base, interpretation=2 if given.interpretation == "2" else 1)
    return {
        "degree_days": round(total, 2),
        "base_c": plain(base),
        "days": (end - start).days + 1,
        "missing_days": missing,
        "interpretation": int(given.interpretation),
    }


def et0(given: argparse.Namespace) -> dict[str, Any]:
    low, high = (float(parse_temperature(getattr(given, name), bare_unit="C")) for name in ("tmin", "tmax"))
    if low > high:
        raise BadInput("calc.temperatures_swapped", field="tmin")
    latitude = sun.check_latitude(number(given.lat, "lat"))
    of_year = day_of(given.date, "date").timetuple().tm_yday
    if given.method == "hargreaves":
        value = float(
            evapotranspiration.hargreaves(np.array([low]), np.array([high]), latitude, np.array([float(of_year)]))[0]
        )
    else:
        value = evapotranspiration.penman_monteith(
            StationSite(
                low,
                high,
                _vapour(given, low, high),
                _wind(given),
                _radiation(given, low, high, latitude, of_year),
                latitude,
                number(given.elevation, "elevation"),
                of_year,
            )
        )
    return {"et0_mm_day": round(value, 3), "method": given.method}


def _vapour(given: argparse.Namespace, low: float, high: float) -> float:
    """Actual vapour pressure [kPa] by what is given: itself, humidity, the dew point, or the least temperature in its place."""
    if given.vapour is not None:
        return number(given.vapour, "vapour")
    if given.rhmin is not None and given.rhmax is not None:
        return evapotranspiration.vapour_from_humidity(
            low, high, number(given.rhmin, "rhmin"), number(given.rhmax, "rhmax")
        )
    dew = low if given.dewpoint is None else float(parse_temperature(given.dewpoint, bare_unit="C"))
    return evapotranspiration.vapour_from_dewpoint(dew)


def _wind(given: argparse.Namespace) -> float:
    """Wind at 2 m [m/s]; 2 m/s where it is not known, as FAO-56 advises."""
    if given.wind is None:
        return 2.0
    speed, height = number(given.wind, "wind"), number(given.wind_height, "wind-height")
    if not 0 <= speed <= 120 or not 0.5 <= height <= 100:
        raise BadInput("calc.wind_out_of_range", field="wind")
    return speed if height == 2 else evapotranspiration.wind_at_2m(speed, height)


def _radiation(given: argparse.Namespace, low: float, high: float, latitude: float, of_year: int) -> float:
    """Solar radiation [MJ/m²/day]: measured, from sunshine, or from the temperatures."""
    if given.radiation is not None:
        return number(given.radiation, "radiation")
    if given.sunshine is not None:
        return evapotranspiration.radiation_from_sunshine(number(given.sunshine, "sunshine"), latitude, of_year)
    return evapotranspiration.radiation_from_temperatures(low, high, latitude, of_year)
