"""Daily readings as they come from a file or a thermometer: what cannot be is listed and left out, never mended.

A gap stays a gap; two different readings for one day leave the day out, because nobody can know which one is right.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import pairwise

LEAST_C, GREATEST_C = -90.0, 60.0  # beyond the records of the earth (WMO: −89.2 and 56.7 °C)
MOST_RAIN_MM = 2000.0  # in a day (WMO record: 1,825 mm)
MOST_WIND_MS = 120.0  # beyond the record of the earth (WMO: 113 m/s)
SWAPPED_SHARE = 0.5  # from this share of the days on, the two columns are swapped and not the readings


@dataclass(frozen=True)
class Reading:
    """One day: least and greatest temperature [°C], rain [mm], mean wind [m s⁻¹], soil temperature [°C]; None unread."""

    day: date
    tmin_c: float | None
    tmax_c: float | None
    rain_mm: float | None
    wind_ms: float | None = None
    soil_c: float | None = None
    where: str = ""


@dataclass(frozen=True)
class Problem:
    """A line that was left out, or a value of it, with the reason."""

    where: str
    message: str


@dataclass(frozen=True)
class Checked:
    """Readings in order of their days, what was left out, and the runs of days between them that have none."""

    readings: tuple[Reading, ...]
    problems: tuple[Problem, ...]
    gaps: tuple[tuple[date, date], ...]
    swapped: bool

    @property
    def missing_days(self) -> int:
        return sum((end - start).days + 1 for start, end in self.gaps)


def check(given: Sequence[Reading], *, today: date) -> Checked:
    """Sort the possible from the impossible.

    `swapped` is true when the least is above the greatest on half the days or more: then the columns are to blame.
    """
    both = [r for r in given if r.tmin_c is not None and r.tmax_c is not None]
    wrong = [r for r in both if r.tmin_c is not None and r.tmax_c is not None and r.tmin_c > r.tmax_c]
    swapped = bool(both) and len(wrong) >= SWAPPED_SHARE * len(both)
    problems: list[Problem] = []
    by_day: dict[date, Reading] = {}
    doubled: set[date] = set()
    for reading in given:
        message = _fault(reading, today)
        if message:
            problems.append(Problem(reading.where, message))
            continue
        before = by_day.get(reading.day)
        if before is None:
            by_day[reading.day] = reading
        elif _values(before) != _values(reading):
            doubled.add(reading.day)
            problems.append(
                Problem(
                    reading.where,
                    f"a second reading for {reading.day.isoformat()} that differs from that of {before.where}; the day is left out",
                )
            )
    kept = tuple(by_day[day] for day in sorted(by_day) if day not in doubled)
    gaps = tuple(
        (before.day + timedelta(days=1), after.day - timedelta(days=1))
        for before, after in pairwise(kept)
        if (after.day - before.day).days > 1
    )
    return Checked(kept, tuple(problems), gaps, swapped)


def _fault(reading: Reading, today: date) -> str:
    """Why a reading cannot be; empty when it can."""
    low, high = reading.tmin_c, reading.tmax_c
    if low is not None and high is not None and low > high:
        return f"the least temperature ({low:g} °C) is above the greatest ({high:g} °C)"
    for name, value in (
        ("least temperature", low),
        ("greatest temperature", high),
        ("soil temperature", reading.soil_c),
    ):
        if value is not None and not LEAST_C <= value <= GREATEST_C:
            return f"a {name} of {value:g} °C cannot be; check the unit"
    if reading.rain_mm is not None and not 0 <= reading.rain_mm <= MOST_RAIN_MM:
        return f"{reading.rain_mm:g} mm of rain in a day cannot be"
    if reading.wind_ms is not None and not 0 <= reading.wind_ms <= MOST_WIND_MS:
        return f"a wind of {reading.wind_ms:g} m/s cannot be"
    if reading.day > today:
        return f"{reading.day.isoformat()} is still to come"
    if all(value is None for value in _values(reading)):
        return "there is no value in the line"
    return ""


def _values(reading: Reading) -> tuple[float | None, ...]:
    return reading.tmin_c, reading.tmax_c, reading.rain_mm, reading.wind_ms, reading.soil_c
