"""Warnings that cannot wait for the next look at Week: frost, heat and heavy rain by the last readings at the beds."""

from collections.abc import Sequence
from datetime import date

from almanaque.core.findings import Finding, Fix
from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.core.week.weather_notes import OutdoorPlant, SeenDay

NEAR_FROST_C = 3.0  # a night as cold as this is often followed by a freeze near the ground: common practice, no source
HOT_C = 32.0  # children work in the shade from here on, by most schools' rules: common practice, no source
HEAVY_RAIN_MM = 30.0  # of one day: our own rule
FRESH_DAYS = 1  # a warning is about yesterday and today only
OURS = "own_rule"


def alarms(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], today: date, units: Units) -> list[Finding]:
    """What to tell at once, by the readings of yesterday and today; each kind once."""
    fresh = [d for d in days if 0 <= (today - d.day).days <= FRESH_DAYS]
    found = [_frost(standing, fresh, units), _heat(fresh, units), _rain(fresh, units)]
    return [one for one in found if one is not None]


def _frost(standing: Sequence[OutdoorPlant], days: Sequence[SeenDay], units: Units) -> Finding | None:
    cold = min((d for d in days if d.tmin_c is not None), key=lambda d: d.tmin_c or 0.0, default=None)
    if cold is None or cold.tmin_c is None or cold.tmin_c > NEAR_FROST_C:
        return None
    # Clear nights follow one another; near the ground it is two degrees colder than at the hut.
    tender = sorted({s.name for s in standing if s.up and not s.under_cover and s.crop.bears_c > cold.tmin_c - 2.0})
    return Finding(
        "frost_warning",
        "fault" if tender else "care",
        "frost",
        {"cold": format_temperature(cold.tmin_c, units), "day": cold.day},
        OURS,
        (Fix("cover_before_evening", params={"tender": tender}) if tender else Fix("look_at_hardening_off"),),
    )


def _heat(days: Sequence[SeenDay], units: Units) -> Finding | None:
    hot = max((d for d in days if d.tmax_c is not None), key=lambda d: d.tmax_c or 0.0, default=None)
    if hot is None or hot.tmax_c is None or hot.tmax_c < HOT_C:
        return None
    return Finding(
        "heat_warning",
        "care",
        "heat",
        {"warmth": format_temperature(hot.tmax_c, units), "day": hot.day},
        OURS,
        (Fix("garden_early"),),
    )


def _rain(days: Sequence[SeenDay], units: Units) -> Finding | None:
    wet = max((d for d in days if d.rain_mm is not None), key=lambda d: d.rain_mm or 0.0, default=None)
    if wet is None or wet.rain_mm is None or wet.rain_mm < HEAVY_RAIN_MM:
        return None
    return Finding(
        "rain_warning",
        "care",
        "rain",
        {"rain": format_rain(wet.rain_mm, units), "day": wet.day},
        OURS,
        (Fix("keep_off_the_beds"),),
    )
