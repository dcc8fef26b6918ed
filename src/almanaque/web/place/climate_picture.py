"""The year of this place over the school year: usual range, freeze risk, daylength, rain, and this year's readings. Pixels."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from itertools import groupby

import numpy as np

from almanaque.core.place.climate import Climate
from almanaque.core.place.sun import daylength
from almanaque.core.school.school_year import Calendar
from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.store.place.weather import WeatherDay
from almanaque.web import words

WIDTH, LEFT, RIGHT = 1180.0, 52.0, 44.0
SEASON_TOP, SEASON_HEIGHT = 2.0, 20.0
WARM_TOP, WARM_BOTTOM = 34.0, 244.0
RAIN_TOP, RAIN_BOTTOM = 266.0, 330.0
LIGHT_TOP, LIGHT_BOTTOM = 352.0, 412.0
HEIGHT = 438.0
STEP_DAYS = 3
SAME_DEGREES = 0.3  # a smaller difference is not worth words


@dataclass(frozen=True)
class ClimateTick:
    at: float
    label: str


@dataclass(frozen=True)
class ClimateBand:
    """A run of days as a bar; `kind` is its class in the style sheet."""

    x: float
    width: float
    label: str
    kind: str


@dataclass(frozen=True)
class ClimateBar:
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class ClimateLine:
    x: float
    top: float
    bottom: float


@dataclass(frozen=True)
class PlaceYear:
    """Everything the template draws, and in sentences what there is to see."""

    width: float
    height: float
    left: float
    right: float
    band: str
    mean: str
    freeze_risk: str
    freeze_y: float | None
    warm_ticks: list[ClimateTick]
    rain_ticks: list[ClimateTick]
    light_ticks: list[ClimateTick]
    months: list[ClimateTick]
    breaks: list[ClimateBand]
    seasons: list[ClimateBand]
    light: str
    normal_rain: list[ClimateBar]
    own_rain: list[ClimateBar]
    own_days: list[ClimateLine]
    sentence: str
    own_sentence: str


def draw(
    climate: Climate | None,
    start: date,
    end: date,
    readings: Sequence[WeatherDay],
    *,
    calendar: Calendar,
    units: Units,
    latitude: float,
) -> PlaceYear:
    """Draw the days from `start` to `end`; without a climate, daylength and this year's readings alone."""
    days = (end - start).days + 1

    def x(day: date) -> float:
        return round(LEFT + (WIDTH - LEFT - RIGHT) * (day - start).days / days, 1)

    sample = [start + timedelta(days=n) for n in range(0, days, STEP_DAYS)]
    whole = [(r.day, r.tmin_c, r.tmax_c) for r in readings if r.tmin_c is not None and r.tmax_c is not None]
    low, high = _range(climate, whole)
    y = _scale(low, high, WARM_TOP, WARM_BOTTOM)
    lengths = [daylength(latitude, day) for day in sample]
    shortest, longest = max(0.0, min(lengths) - 1), min(24.0, max(lengths) + 1)
    light_y = _scale(shortest, longest, LIGHT_TOP, LIGHT_BOTTOM)
    normal_rain, own_rain, rain_ticks = _rain(climate, readings, start, end, x, units)
    band, mean, risk = _curves(climate, sample, x, y)
    return PlaceYear(
        WIDTH,
        HEIGHT,
        LEFT,
        WIDTH - RIGHT,
        band,
        mean,
        risk,
        y(0.0) if low < 0 < high else None,
        [ClimateTick(y(c), label) for c, label in _degrees(low, high, units)],
        rain_ticks,
        [
            ClimateTick(light_y(hours), f"{hours} h")
            for hours in (0, 4, 8, 12, 16, 20, 24)
            if shortest <= hours <= longest
        ],
        [
            ClimateTick(x(day), words.month(day))
            for day in (start + timedelta(days=n) for n in range(days))
            if day.day == 1
        ],
        [
            ClimateBand(
                x(max(gap.starts, start)),
                x(min(gap.ends, end) + timedelta(days=1)) - x(max(gap.starts, start)),
                gap.name,
                "break",
            )
            for gap in calendar.breaks_between(start, end)
        ],
        _seasons(climate, start, days, x),
        _path([(x(day), light_y(hours)) for day, hours in zip(sample, lengths, strict=True)]),
        normal_rain,
        own_rain,
        [ClimateLine(x(day), y(noon), y(night)) for day, night, noon in whole],
        _sentence(climate, start, end, units, lengths, sample),
        _own_sentence(climate, whole, units),
    )


def _range(climate: Climate | None, whole: Sequence[tuple[date, float, float]]) -> tuple[float, float]:
    """Least and greatest temperature of the picture [°C]."""
    lows, highs = [row[1] for row in whole], [row[2] for row in whole]
    if climate is not None:
        lows.append(float(np.nanmin(climate.bands.low)) if not np.isnan(climate.bands.low).all() else 0.0)
        highs.append(float(np.nanmax(climate.bands.high)) if not np.isnan(climate.bands.high).all() else 25.0)
    return min([*lows, 0.0]) - 2, max([*highs, 20.0]) + 2


def _scale(low: float, high: float, top: float, bottom: float) -> Callable[[float], float]:
    return lambda value: round(bottom - (value - low) / (high - low) * (bottom - top), 1)


def _curves(
    climate: Climate | None, sample: Sequence[date], x: Callable[[date], float], y: Callable[[float], float]
) -> tuple[str, str, str]:
    """The usual range as an area, the normal mean and the freeze risk as lines; empty without a climate."""
    if climate is None:
        return "", "", ""
    bands, of_year = climate.bands, [(day - date(day.year, 1, 1)).days for day in sample]
    if any(np.isnan(values[of_year]).any() for values in (bands.low, bands.mean, bands.high)):
        return "", "", ""
    upper = [(x(day), y(float(bands.high[n]))) for day, n in zip(sample, of_year, strict=True)]
    lower = [(x(day), y(float(bands.low[n]))) for day, n in zip(sample, of_year, strict=True)]
    risk_y = _scale(0.0, 1.0, WARM_TOP, WARM_BOTTOM)
    risk = _path([(x(day), risk_y(climate.freeze_chance(day))) for day in sample]) if climate.seasons else ""
    return (
        f"{_path(upper)} {_path(lower[::-1]).replace('M', 'L', 1)}Z",
        _path([(x(day), y(float(bands.mean[n]))) for day, n in zip(sample, of_year, strict=True)]),
        risk,
    )


def _rain(
    climate: Climate | None,
    readings: Sequence[WeatherDay],
    start: date,
    end: date,
    x: Callable[[date], float],
    units: Units,
) -> tuple[list[ClimateBar], list[ClimateBar], list[ClimateTick]]:
    """Normal rain of each month as a wide bar, this year's as a narrow one in it."""
    normal = {m.month: m.rain_mm for m in climate.months if m.rain_mm == m.rain_mm} if climate is not None else {}
    own: dict[tuple[int, int], float] = {}
    for reading in readings:
        if reading.rain_mm is not None:
            key = (reading.day.year, reading.day.month)
            own[key] = own.get(key, 0.0) + reading.rain_mm
    most = max([*normal.values(), *own.values(), 50.0])
    y = _scale(0.0, most, RAIN_TOP, RAIN_BOTTOM)
    wide, narrow = [], []
    first = start.replace(day=1)
    while first <= end:
        following = (first + timedelta(days=32)).replace(day=1)
        left, right = x(max(first, start)), x(min(following, end + timedelta(days=1)))
        if first.month in normal and right - left > 12:
            top = y(normal[first.month])
            wide.append(ClimateBar(left + 4, top, right - left - 8, round(RAIN_BOTTOM - top, 1)))
        mine = own.get((first.year, first.month))
        if mine is not None and right - left > 12:
            top = y(mine)
            narrow.append(ClimateBar(round((left + right) / 2 - 8, 1), top, 16, round(RAIN_BOTTOM - top, 1)))
        first = following
    step = 50.0 if units == "metric" else 50.8
    ticks = [ClimateTick(y(step * n), format_rain(step * n, units)) for n in range(1, int(most // step) + 1)]
    return wide, narrow, ticks[:3]


def _degrees(low: float, high: float, units: Units) -> list[tuple[float, str]]:
    step = 10 if units == "metric" else 20
    edges = [c * 1.8 + 32 for c in (low, high)] if units == "us" else [low, high]
    values = range(int(edges[0] // step + 1) * step, int(edges[1]) + 1, step)
    return [((v - 32) / 1.8 if units == "us" else float(v), f"{v}°") for v in values]


def _seasons(climate: Climate | None, start: date, days: int, x: Callable[[date], float]) -> list[ClimateBand]:
    """Runs of days that are warm enough for warm crops, for cool ones, or too cold."""
    if climate is None:
        return []
    names = {"warm": "warm season", "cool": "cool season", "cold": "too cold to grow"}
    found = []
    every = (start + timedelta(days=n) for n in range(days))
    for word, run in groupby(every, key=climate.season_on):
        mine = list(run)
        width = round(x(mine[-1] + timedelta(days=1)) - x(mine[0]), 1)
        if word is not None:
            found.append(ClimateBand(x(mine[0]), width, names[word] if width > 90 else "", word))
    return found


def _path(points: Sequence[tuple[float, float]]) -> str:
    return "M" + " L".join(f"{a:.1f} {b:.1f}" for a, b in points)


def _sentence(
    climate: Climate | None, start: date, end: date, units: Units, lengths: Sequence[float], sample: Sequence[date]
) -> str:
    longest, shortest = max(lengths), min(lengths)
    light = (
        f"The longest day has {longest:.1f} hours of light ({words.short_day(sample[lengths.index(longest)])}), "
        f"the shortest {shortest:.1f} ({words.short_day(sample[lengths.index(shortest)])})."
    )
    if climate is None or not climate.months:
        return f"No weather on file, so temperature, rain and freezes are not drawn. {light}"
    warmest, coldest = max(climate.months, key=lambda m: m.tmax_c), min(climate.months, key=lambda m: m.tmin_c)
    month = words.month_name(date(2001, warmest.month, 1)), words.month_name(date(2001, coldest.month, 1))
    return (
        f"{month[0]} is the warmest month, {format_temperature(warmest.tmax_c, units)} on a normal afternoon; {month[1]} the coldest, "
        f"{format_temperature(coldest.tmin_c, units)} on a normal night. {light}"
    )


def _own_sentence(climate: Climate | None, whole: Sequence[tuple[date, float, float]], units: Units) -> str:
    """How this year's readings stand to the usual range: weather is one year, climate is what to expect."""
    if not whole:
        return ""
    said = f"This year's readings cover {words.count(len(whole), 'day')}"
    against = climate.against_usual(whole) if climate else None
    if against is None:
        return said + "."
    degrees = abs(against.difference_c) * (1.8 if units == "us" else 1)
    unit = "°F" if units == "us" else "°C"
    way = f"{degrees:.1f} {unit} {'warmer' if against.difference_c > 0 else 'colder'} than usual on average"
    said += ": as warm as usual" if degrees < SAME_DEGREES else f": {way}"
    return f"{said}; {round(100 * against.share_inside)} of 100 days lay wholly within the usual range."
