"""`calc water`: what a week on a piece of ground takes, less its rain, and how long that is with a hose or a drip line."""

import argparse
from datetime import timedelta
from typing import Any

import numpy as np

from almanaque.calc.arguments import climate_of, day_of, number
from almanaque.core.errors import BadInput
from almanaque.core.growth import growth_dates
from almanaque.core.units import LITRES_PER_GALLON, parse_length, parse_size
from almanaque.core.week import water
from almanaque.data import catalogue


def week(given: argparse.Namespace) -> dict[str, Any]:
    """The week from --week on, by the inch or by use; the coefficient is given, or that of a crop planted on a day."""
    length, width = (float(side) for side in parse_size(given.area))
    climate = climate_of(given.weather, number(given.lat, "lat"))
    first = day_of(given.week, "week")
    days = [first + timedelta(days=n) for n in range(water.WEEK)]
    found = water.week_of(climate, days, known_to=days[-1])
    depth = float(parse_length(given.depth))
    if given.school == "inch":
        need, kc = water.by_the_inch(found.weather, depth_mm=depth), None
    else:
        kc = _coefficients(given, days, southern=climate.southern)
        need = water.by_use(found.weather, kc, depth_mm=depth)
    amount = water.litres(need.give_mm, length * width / 1_000_000)
    return {
        "school": need.practice,
        "days": len(days),
        "missing_days": found.missing,
        "et0_mm": round(float(found.weather.et0_mm.sum()), 1),
        "kc": None if kc is None else round(float(kc.mean()), 3),
        "takes_mm": round(need.takes_mm, 1),
        "useful_rain_mm": round(need.rain_mm, 1),
        "give_mm": round(need.give_mm, 1),
        "litres": round(amount, 1),
        "gallons": round(amount / float(LITRES_PER_GALLON), 1),
        "hose_minutes": None if given.hose is None else water.hose_minutes(amount, _flow(given.hose, "hose")),
        "drip_minutes": None if given.drip is None else water.drip_minutes(amount, _flow(given.drip, "drip")),
    }


def _coefficients(given: argparse.Namespace, days: list[Any], *, southern: bool) -> water.Floats:
    if given.kc is not None:
        kc = number(given.kc, "kc")
        if not 0 <= kc <= 2:
            raise BadInput("calc.kc_out_of_range", field="kc")
        return np.full(len(days), kc)
    if given.crop is None or given.planted is None:
        raise BadInput("calc.kc_or_crop", field="kc")
    crop = catalogue()[given.crop]
    planted = day_of(given.planted, "planted")
    method = next((m for m in crop.methods if given.method in (None, m)), None)
    if method is None:
        raise BadInput(
            "calc.water_method_not_of_crop", field="method", crop=crop.name.en, methods=", ".join(crop.methods)
        )
    start = planted - timedelta(weeks=crop.weeks_indoors) if method == "indoors" else planted
    dates = growth_dates.forecast(crop, method, start)
    return water.coefficients(crop, dates, days, southern=southern)


def _flow(text: str, name: str) -> float:
    """A flow above 0, in litres a minute for a hose and an hour for a drip line. Raises BadInput."""
    flow = number(text, name)
    if not 0 < flow <= 10_000:
        raise BadInput("calc.flow_of_nothing", field=name, name=name)
    return flow
