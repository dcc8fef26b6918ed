"""A week of readings at the beds: a bar from least to greatest temperature, rain under it, the freezing line. Pixels."""

from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.store.weather import WeatherDay
from almanaque.web import words

WIDTH, HEIGHT, TOP, FOOT, RAIN_HEIGHT, MOST_RAIN_MM = 316.0, 138.0, 18.0, 20.0, 40.0, 30.0


@dataclass(frozen=True)
class DayShape:
    x: float
    top: float
    bottom: float
    rain_y: float
    rain_height: float
    letter: str
    high: str


@dataclass(frozen=True)
class WeekOfWeather:
    width: float
    height: float
    base: float
    freeze_y: float | None
    freeze_label: str
    days: list[DayShape]
    sentence: str


def draw(days: Sequence[WeatherDay], *, units: Units) -> WeekOfWeather | None:
    """Draw the readings; None without any."""
    if not days:
        return None
    low, high = min(d.tmin_c for d in days), max(d.tmax_c for d in days)
    low, high = min(low, 0.0) - 1, max(high, low + 8)
    base = HEIGHT - FOOT
    step = WIDTH / max(len(days), 7)

    def y(celsius: float) -> float:
        return round(TOP + (high - celsius) / (high - low) * (base - TOP), 1)

    shapes = []
    for index, day in enumerate(days):
        rain = round(min(day.rain_mm, MOST_RAIN_MM) / MOST_RAIN_MM * RAIN_HEIGHT, 1)
        shapes.append(
            DayShape(round(step * (index + 0.5), 1), y(day.tmax_c), y(day.tmin_c), round(base - rain, 1), rain,
                     words.weekday(day.day), format_temperature(day.tmax_c, units).split()[0])
        )  # fmt: skip
    coldest = min(days, key=lambda d: d.tmin_c)
    rain_mm = sum(d.rain_mm for d in days)
    return WeekOfWeather(
        WIDTH, HEIGHT, base, y(0.0), format_temperature(0, units), shapes,
        f"Coldest night {words.weekday_day(coldest.day)}, {format_temperature(coldest.tmin_c, units)}; "
        f"{format_rain(rain_mm, units)} of rain in {words.count(len(days), 'day')}.",
    )  # fmt: skip
