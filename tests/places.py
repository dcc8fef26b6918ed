"""Made-up climates and a school year for the tests of growth and fit. The numbers describe no real place."""

from datetime import date, time

import numpy as np

from almanaque.core.growth.weather_record import Record
from almanaque.core.place.climate import Climate
from almanaque.core.school.school_year import Calendar, SchoolYear, Slot, Span
from almanaque.standins import weather

D = date.fromisoformat
YEARS = [
    SchoolYear(
        "2026–27",
        D("2026-08-26"),
        D("2027-08-24"),
        (Span("Autumn term", D("2026-08-26"), D("2026-12-18")), Span("Spring term", D("2027-01-04"), D("2027-06-16"))),
        (Span("Spring break", D("2027-03-20"), D("2027-03-28")),),
    ),
    SchoolYear(
        "2027–28",
        D("2027-08-25"),
        D("2028-08-22"),
        (Span("Autumn term", D("2027-08-25"), D("2027-12-17")), Span("Spring term", D("2028-01-03"), D("2028-06-14"))),
    ),
]
SLOTS = [Slot("a", 1, time(9, 40), 45), Slot("b", 3, time(9, 40), 45)]
CALENDAR = Calendar(YEARS, SLOTS)


def steady(
    least_c: float, greatest_c: float, *, years: int = 10, latitude: float = 45.0, cold: dict[str, float] | None = None
) -> Record:
    """A place with the same weather every day since 2001, but for single cold nights."""
    days = 365 * years + years // 4 + 1
    tmin = np.full(days, float(least_c))
    for day, value in (cold or {}).items():
        tmin[(D(day) - date(2001, 1, 1)).days] = value
    return Record(Climate(date(2001, 1, 1), tmin, np.full(days, float(greatest_c)), np.zeros(days), latitude=latitude))


def made(
    *, mean_c: float, swing_c: float, latitude: float, seed: int = 7, years: int = 30, warmest: int = 203
) -> Record:
    """Decades of made-up weather from 1990 on."""
    place = weather.SimulatedPlace(
        seed=seed,
        mean_c=mean_c,
        swing_c=swing_c,
        daily_range_c=10.5,
        warmest_day_of_year=warmest,
        wet_share=0.33,
        rain_mm=8.0,
    )
    found = weather.make(place, date(1990, 1, 1), date(1990 + years, 6, 30))
    return Record(Climate(found.first_day, found.tmin_c, found.tmax_c, found.rain_mm, latitude=latitude))


def hard_winters() -> Record:
    """Continental: Januaries of −5 °C, last freezes in the first days of May."""
    return made(mean_c=8.5, swing_c=13.5, latitude=44.0)


def mild_winters() -> Record:
    """Januaries of 8 °C and long warm springs."""
    return made(mean_c=18.0, swing_c=10.0, latitude=32.0)


def early_spring() -> Record:
    """Continental with a median last freeze early in April."""
    return made(mean_c=12.0, swing_c=12.5, latitude=40.0)
