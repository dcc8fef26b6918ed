"""A week of readings at the beds: a bar from least to greatest temperature, rain under it, the freezing line. Pixels."""

from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.units import Units, format_rain, format_temperature
from almanaque.store.place.weather import WeatherDay
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
    """Draw the readings; None without any. A day with no temperatures is left out, one with no rain has no bar."""
    whole = [
        (d.day, d.tmin_c, d.tmax_c, d.rain_mm or 0.0) for d in days if d.tmin_c is not None and d.tmax_c is not None
    ]
    if not whole:
        return None
    low, high = min(row[1] for row in whole), max(row[2] for row in whole)
    low, high = min(low, 0.0) - 1, max(high, low + 8)
    base = HEIGHT - FOOT
    step = WIDTH / max(len(whole), 7)

    def y(celsius: float) -> float:
        return round(TOP + (high - celsius) / (high - low) * (base - TOP), 1)

    shapes = []
    for index, (day, night, noon, fell) in enumerate(whole):
        rain = round(min(fell, MOST_RAIN_MM) / MOST_RAIN_MM * RAIN_HEIGHT, 1)
        shapes.append(
            DayShape(
                round(step * (index + 0.5), 1),
                y(noon),
                y(night),
                round(base - rain, 1),
                rain,
                words.weekday(day),
                format_temperature(noon, units).split()[0],
            )
        )
    coldest = min(whole, key=lambda row: row[1])
    rain_mm = sum(row[3] for row in whole)
    return WeekOfWeather(
        WIDTH,
        HEIGHT,
        base,
        y(0.0),
        format_temperature(0, units),
        shapes,
        f"Coldest night {words.weekday_day(coldest[0])}, {format_temperature(coldest[1], units)}; "
        f"{format_rain(rain_mm, units)} of rain in {words.count(len(whole), 'day')}.",
    )
