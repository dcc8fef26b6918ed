"""Decades of made-up daily weather from a seed, the same on every machine. It is shown as such on screen.

A yearly wave, a slow swing from year to year, and day-to-day weather that remembers yesterday; rain falls on some days
and makes them duller. The numbers describe no real place.
"""

from dataclasses import dataclass
from datetime import date

import numpy as np
import numpy.typing as npt

SOURCE_NAME = "simulated station"  # how its readings are called wherever they are shown
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class SimulatedPlace:
    """The climate to make up: yearly mean and half swing of the daily mean [°C], daily range [°C], rain per wet day [mm]."""

    seed: int
    mean_c: float
    swing_c: float
    daily_range_c: float
    warmest_day_of_year: int
    wet_share: float
    rain_mm: float


@dataclass(frozen=True)
class Readings:
    """Arrays (days,) from `first_day` on, without gaps."""

    first_day: date
    tmin_c: Floats
    tmax_c: Floats
    rain_mm: Floats


def place_at(latitude: float, longitude: float) -> SimulatedPlace:
    """A climate to make up for a place on earth, by its latitude alone: a rough wave, for trying things out.

    The same place gives the same readings on every machine. **Source:** none; the numbers are invented.
    """
    from_equator = abs(latitude)
    return SimulatedPlace(
        seed=round(1000 * (latitude + 90)) * 400_000 + round(1000 * (longitude + 180)),
        mean_c=27.0 - 0.0062 * from_equator**2,
        swing_c=1.0 + 0.26 * from_equator,
        daily_range_c=9.5,
        warmest_day_of_year=203 if latitude >= 0 else 20,
        wet_share=0.33,
        rain_mm=7.0,
    )


def make(place: SimulatedPlace, first_day: date, last_day: date) -> Readings:
    """Readings for every day from first to last, both included. The same place and first day give the same numbers."""
    days = (last_day - first_day).days + 1
    random = np.random.default_rng(place.seed)
    at = np.arange(days)
    of_year = (first_day.timetuple().tm_yday + at - place.warmest_day_of_year) / 365.2425
    yearly = place.mean_c + place.swing_c * np.cos(2 * np.pi * of_year)
    years = days // 365 + 2
    offset = np.interp(at, np.arange(years) * 365.2425, random.normal(0, 0.8, years))
    noise = random.normal(0, 1, days)
    weather = np.empty(days)
    weather[0] = noise[0]
    for day in range(1, days):
        weather[day] = 0.72 * weather[day - 1] + 0.69 * noise[day]
    wet = random.random(days) < place.wet_share
    rain = np.where(wet, random.gamma(0.8, place.rain_mm / 0.8, days), 0.0)
    mean = yearly + offset + 2.9 * weather
    half_range = np.maximum(1.5, place.daily_range_c / 2 + random.normal(0, 1.2, days) - 1.6 * wet)
    tmin, tmax, fell = (np.round(part, 1).astype(np.float64) for part in (mean - half_range, mean + half_range, rain))
    return Readings(first_day, tmin, tmax, fell)
