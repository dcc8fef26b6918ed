"""Water for beds, pots and young trees, a week at a time.

Two schools: **by the inch**, so much over the whole planted ground whatever grows there; or **by use**, what the plants take
up, which is reference evapotranspiration times a crop coefficient. Both count the rain. 1 mm on 1 m² is 1 L.

Allen, Pereira, Raes & Smith (1998), *Crop evapotranspiration*, FAO Irrigation and Drainage Paper 56, is called FAO-56 below.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Coefficients, Crop
from almanaque.core.growth.covers import CoverKey
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.place.climate import Climate
from almanaque.core.units import LITRES_PER_GALLON

Floats = npt.NDArray[np.float64]
WaterPractice = Literal["inch", "use"]

WEEK = 7  # days
MONTH_DAYS = 30.44  # of an average month
INCH_MM = 25.4  # a week: common practice, no source
HOT_WEEK_MM = 38.1  # an inch and a half where the week is hot: common practice, no source
HOT_C = 29.5  # greatest temperature of a day [°C], on the mean of the week, above which it counts as hot: our own rule
COLD_C = 8.0  # below that on the same mean nothing drinks much and nobody waters: our own rule
LEAST_RAIN = 0.2  # share of the day's ET₀ below which rain is gone before it is in the ground: FAO-56, chapter 8
SOIL_HOLDS = 0.15  # water that plants can take from loam, by volume: FAO-56, table 19, from memory
FREELY = 0.5  # share of it that they take freely: FAO-56, table 22, from memory; vegetables have 0.3 to 0.6
POT_HOLDS = 0.20  # water in potting soil, by volume: common practice, no source
POT_FACTOR = 1.3  # a pot stands in the wind on all sides: our own rule; FAO-56 has up to 1.2 and more for plants alone
TREE_L_PER_MM = 10 * float(LITRES_PER_GALLON) / 25.4  # ten gallons for each inch of trunk: common practice, no source
TREE_UNKNOWN_L = 20.0  # a trunk that nobody has measured: our own rule
TREE_YOUNG = timedelta(days=2 * 365)  # so long after planting a tree is watered by hand: common practice, no source
KEEPS_RAIN_OFF: frozenset[CoverKey] = frozenset({"tunnel", "frame"})

# Crops without a row of their own: small vegetables of FAO-56, table 12, from memory.
MIDDLING = Coefficients(kc=(0.7, 1.05, 0.95))
# Shares of a life for crops whose stages are not in the table: our own, about those of its vegetables.
STAGE_SHARES = (0.2, 0.3, 0.35, 0.15)  # of a season: initial, development, mid and late; FAO-56, table 11, from memory


@dataclass(frozen=True)
class WaterNeed:
    """A week on a bed [mm]: what it takes, the rain that counts against it, and what is left to give."""

    takes_mm: float
    rain_mm: float
    practice: WaterPractice

    @property
    def give_mm(self) -> float:
        return max(0.0, self.takes_mm - self.rain_mm)


@dataclass(frozen=True)
class Weather:
    """The days that a week's need rests on: reference evapotranspiration and rain [mm], greatest temperatures [°C]; (days,).

    A day without a reading has the usual ET₀ of its time of year and no rain.
    """

    et0_mm: Floats
    rain_mm: Floats
    tmax_c: Floats

    @property
    def hot(self) -> bool:
        return bool(len(self.tmax_c)) and float(self.tmax_c.mean()) > HOT_C

    @property
    def cold(self) -> bool:
        return bool(len(self.tmax_c)) and float(self.tmax_c.mean()) < COLD_C


@dataclass(frozen=True)
class Week:
    """The weather of some days, and how many of them had no reading."""

    weather: Weather
    missing: int


def week_of(climate: Climate, days: Sequence[date], *, known_to: date) -> Week:
    """The days of a record that a need rests on, with its readings up to a day.

    A day without a reading, or after that one, has the usual ET₀ of its month, the usual warmth of its day, and no rain.
    """
    rows = [(day - climate.first_day).days for day in days]
    known = [
        day <= known_to and 0 <= row < len(climate.tmin_c) and not np.isnan(climate.et0_mm[row])
        for day, row in zip(days, rows, strict=True)
    ]
    usual = {normal.month: normal.et0_mm / MONTH_DAYS for normal in climate.months} if not all(known) else {}
    et0 = [
        float(climate.et0_mm[row]) if here else usual.get(day.month, 0.0)
        for row, here, day in zip(rows, known, days, strict=True)
    ]
    fell = [float(np.nan_to_num(climate.rain_mm[row])) if here else 0.0 for row, here in zip(rows, known, strict=True)]
    highs = [
        float(climate.tmax_c[row]) if here else climate.normal_max_c(day)
        for row, here, day in zip(rows, known, days, strict=True)
    ]
    high = [value for value in highs if value is not None]
    return Week(Weather(np.array(et0), np.array(fell), np.array(high)), known.count(False))


def coefficient(crop: Crop, day_of_life: int, life: int) -> float:
    """Crop coefficient Kc on a day of a planting's life in the bed, of `life` days in all.

    The four stages of the crop's row are stretched to the life that it has here: what counts is where in it the day falls.
    Straight lines join the three values. What comes again each year has the middle value all through its season.
    Raises ValueError for a life that is not at least a day. **Source:** FAO-56, eq. 66, figure 34; tables 11 and 12.

    >>> from almanaque.data import catalogue
    >>> [round(coefficient(catalogue()["radish"], day, 35), 2) for day in (0, 10, 20, 35)]
    [0.7, 0.8, 0.9, 0.85]
    """
    if life < 1:
        raise ValueError("a planting's life in the bed is at least a day")
    row = crop.water or MIDDLING
    if crop.life == "perennial":
        return row.kc[1]
    first, middle, end = row.kc
    shares = [stage / sum(row.stages) for stage in row.stages] if row.stages else STAGE_SHARES
    ends = [sum(shares[: n + 1]) for n in range(3)]  # of the first, the development and the middle stage
    at = min(1.0, max(0.0, day_of_life / life))
    return float(np.interp(at, [ends[0], ends[1], ends[2], 1.0], [first, middle, middle, end]))


def coefficients(crop: Crop, dates: GrowthDates, days: Sequence[date], *, southern: bool) -> Floats:
    """The same for some days of a planting; (days,). Before it is in the bed and after its last picking the edge values hold.

    What has lost its leaves has the first value. **Source:** for that, our own rule.
    """
    life = max(1, (dates.last_pick - dates.bed_from).days)
    bare = crop.bare_in(southern=southern)
    row = crop.water or MIDDLING
    return np.array(
        [row.kc[0] if day.month in bare else coefficient(crop, (day - dates.bed_from).days, life) for day in days]
    )


def useful_rain(rain_mm: Floats, et0_mm: Floats, *, holds_mm: float) -> float:
    """Rain of some days that plants have something of [mm]: no drizzle, and of a downpour what the soil holds.

    Days without a reading count as dry. **Source:** FAO-56, chapter 8, for the drizzle; the downpour is our own rule.

    >>> useful_rain(np.array([0.5, 8.0, 60.0]), np.array([4.0, 4.0, 4.0]), holds_mm=22.5)
    30.5
    """
    fell = np.nan_to_num(rain_mm, nan=0.0)
    counts = np.where(fell > LEAST_RAIN * np.nan_to_num(et0_mm, nan=0.0), np.minimum(fell, holds_mm), 0.0)
    return float(counts.sum())


def holds(depth_mm: float) -> float:
    """Water [mm] that a bed of so much soil holds for its plants to take freely. **Source:** FAO-56, eq. 82 and 83.

    >>> holds(300)
    22.5
    """
    return depth_mm * SOIL_HOLDS * FREELY


def by_the_inch(weather: Weather, *, depth_mm: float, rained_on: bool = True) -> WaterNeed:
    """An inch a week, an inch and a half in a hot one, none in a cold one, less the rain. **Source:** common practice, no source."""
    takes = (0.0 if weather.cold else HOT_WEEK_MM if weather.hot else INCH_MM) * len(weather.et0_mm) / WEEK
    return WaterNeed(takes, _rain(weather, depth_mm, rained_on), "inch")


def by_use(weather: Weather, kc: Floats, *, depth_mm: float, rained_on: bool = True) -> WaterNeed:
    """What plants with these coefficients (days,) use, less the rain. **Source:** FAO-56, eq. 58, a week at a time."""
    return WaterNeed(float((np.nan_to_num(weather.et0_mm) * kc).sum()), _rain(weather, depth_mm, rained_on), "use")


def _rain(weather: Weather, depth_mm: float, rained_on: bool) -> float:
    return useful_rain(weather.rain_mm, weather.et0_mm, holds_mm=holds(depth_mm)) if rained_on else 0.0


def litres(depth_mm: float, area_m2: float) -> float:
    """So much water [mm] on an area, in litres.

    >>> round(litres(25.4, 0.09290304), 2)  # an inch on a square foot
    2.36
    """
    return depth_mm * area_m2


@dataclass(frozen=True)
class Pot:
    """What a pot drinks: litres a day, and how many days one watering lasts (0: more than one watering a day)."""

    litres_a_day: float
    lasts_days: int


def pot(volume_l: float, area_m2: float, et0_mm_day: float, kc: float) -> Pot:
    """A pot or tub by its soil [L] and open top [m²]. **Source:** FAO-56 with our own factor for a pot in the wind.

    >>> pot(20, 0.08, 5.0, 1.05)
    Pot(litres_a_day=0.546, lasts_days=3)
    """
    daily = et0_mm_day * kc * POT_FACTOR * area_m2
    stored = volume_l * POT_HOLDS * FREELY
    return Pot(round(daily, 3), WEEK if daily == 0 else min(WEEK, int(stored / daily)))


def young_tree(planted: date, day: date, *, trunk_mm: float | None = None, rain_mm: float = 0.0) -> float:
    """Litres a week for a tree in its first two years, less in proportion when an inch of rain is not reached; 0 later.

    **Source:** common practice, no source.

    >>> round(young_tree(date(2026, 10, 20), date(2027, 6, 1), trunk_mm=25.4), 1)
    37.9
    """
    if not timedelta(0) <= day - planted <= TREE_YOUNG:
        return 0.0
    full = TREE_UNKNOWN_L if trunk_mm is None else trunk_mm * TREE_L_PER_MM
    return full * max(0.0, 1 - rain_mm / INCH_MM)


def hose_minutes(amount_l: float, litres_a_minute: float) -> int:
    """Whole minutes with a hose or a can; raises ValueError for a flow that is not above 0.

    >>> hose_minutes(75, 10)
    8
    """
    if litres_a_minute <= 0:
        raise ValueError("a hose gives more than nothing")
    return math.ceil(round(amount_l / litres_a_minute, 6))


def drip_minutes(amount_l: float, litres_an_hour: float) -> int:
    """Whole minutes for a drip line whose emitters give so much together.

    >>> drip_minutes(30, 40)
    45
    """
    return hose_minutes(amount_l, litres_an_hour / 60)


def bottles(amount_l: float, bottle_l: float) -> int:
    """Fillings of bottles sunk at the root.

    >>> bottles(6.1, 1.5)
    5
    """
    return hose_minutes(amount_l, bottle_l)
