"""What a plant feels, day by day over every year on file: warmth, cold, frost, heat and light, ready to be added up.

Everything is an array along the days of the weather record, so that all sowing days of all years are answered at once: a sum
from one day to another is the difference of two running sums, and the day on which a sum is reached is a search in them.
"""

from collections.abc import Callable
from datetime import date, timedelta
from functools import cached_property

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop
from almanaque.core.growth import covers, emergence
from almanaque.core.growth.covers import Covering
from almanaque.core.place import soil_temperature, sun
from almanaque.core.place.climate import Climate

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int32]

HEAT_DAYS = 7  # the means of so many days, averaged, make a hot spell
RANGE_C = (
    5.0  # a hot week's mean lies so far below its greatest temperatures, by which crops are described: our own rule
)
SHORT_DAY_HEAT_C = 2.0  # so much more heat is borne in short days: long ones drive it into flower: our own rule
SHORT_LIGHT_H = 13.0  # days shorter than this count as short for that
CHILL_DAYS = 7  # the least temperatures of so many days, averaged, make a cold spell
CHILL_HOURS = (0.0, 7.2)  # °C; hours between them count as chill: common practice, no source
WORKABLE_C = 2.0  # soil below it is frozen, or sodden from the thaw: our own rule
STEPS = 8  # times of day at which the course of its temperature is looked at
COURSE = (1 - np.cos(np.pi * (2 * np.arange(STEPS) + 1) / STEPS)) / 2  # of a sine from the least to the greatest
SHORT_DAY_H, STILL_H, STILL_SHARE = (
    10.0,
    9.0,
    0.25,
)  # growth slows below the one, and goes on at a share below the other
LONG_DAY_H = 12.5  # lengthening days from which a plant that has had its cold shoots into flower
NO_LONG_DAY_H, ALL_LONG_DAY_H, NO_LONG_DAY_SHARE = 8.0, 15.0, 0.2
CHILL_FROM_C = -4.0  # a mean below it does not count as cold that a plant can use
FOR_SEED_C = 8.0  # at or below it the ground chills a seed
BOLTS_BELOW_C = 8.0  # a mean at or below it counts towards shooting


class Conditions:
    """A place's record as a plant feels it: in the open, under a cover, or indoors at one warmth all year."""

    def __init__(self, climate: Climate, covering: Covering | None = None, *, indoors_c: float | None = None) -> None:
        self.climate = climate
        self.covering = covering
        self.in_the_sun = indoors_c is None
        self.days = len(climate.tmin_c)
        self.first_day = climate.first_day
        low, high = self._filled(climate.tmin_c), self._filled(climate.tmax_c)
        if indoors_c is not None:
            low, high = np.full(self.days, indoors_c), np.full(self.days, indoors_c)
        elif covering is not None:
            low, high = covers.under(low, high, covering, self._month, self._day)
        self.tmin_c, self.tmax_c = low, high
        self._sums: dict[tuple[object, ...], Floats] = {}
        self._next: dict[tuple[str, float], Ints] = {}

    def _filled(self, values: Floats) -> Floats:
        """Readings with the usual value of the time of year where one is missing; what rests on many is not counted."""
        gaps = np.isnan(values)
        if not gaps.any():
            return values
        of_year = self.climate.day_of_year
        sums = np.bincount(of_year[~gaps], weights=values[~gaps], minlength=366)
        counts = np.bincount(of_year[~gaps], minlength=366)
        around = np.ones(31)
        usual = np.convolve(np.tile(sums, 3), around, "same")[366:732] / np.maximum(
            1, np.convolve(np.tile(counts, 3), around, "same")[366:732]
        )
        return np.where(gaps, usual[of_year], values)

    @cached_property
    def _calendar(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        days = np.datetime64(self.first_day) + np.arange(self.days)
        months = days.astype("datetime64[M]")
        return months.astype(int) % 12 + 1, (days - months.astype("datetime64[D]")).astype(int) + 1

    @property
    def _month(self) -> npt.NDArray[np.int64]:
        return self._calendar[0]

    @property
    def _day(self) -> npt.NDArray[np.int64]:
        return self._calendar[1]

    @cached_property
    def starts(self) -> Ints:
        """Where each day of the year stands in the record: (1232, years), by month × 100 + day; −1 fills up.

        29 February stands for 28 February, so that it has as many years as its neighbours.
        """
        number = self._month * 100 + self._day
        order = np.argsort(number, kind="stable")
        keys, at, counts = np.unique(number[order], return_index=True, return_counts=True)
        table = np.full((1232, int(counts.max())), -1, dtype=np.int32)
        for key, first, count in zip(keys, at, counts, strict=True):
            table[key, :count] = order[first : first + count]
        table[229] = table[228]
        return table

    @cached_property
    def missing(self) -> Ints:
        """Running count of days without a reading, (days + 1,)."""
        gone = np.isnan(self.climate.tmin_c) | np.isnan(self.climate.tmax_c)
        return np.concatenate([[0], np.cumsum(gone)]).astype(np.int32)

    @cached_property
    def mean_c(self) -> Floats:
        return np.asarray((self.tmin_c + self.tmax_c) / 2)

    @cached_property
    def soil_c(self) -> Floats:
        """Soil temperature [°C] under what covers it; a measured one goes before in the open."""
        measured = self.climate.measured_soil_c if self.covering is None else None
        light = self.light_h if self.in_the_sun else None
        return soil_temperature.estimate(self.tmin_c, self.tmax_c, measured, light_h=light)

    @cached_property
    def light_h(self) -> Floats:
        """Hours of daylight of each day."""
        of_year = np.array(
            [sun.daylength(self.climate.latitude, date(2023, 1, 1) + timedelta(days=n)) for n in range(366)]
        )
        return of_year[self.climate.day_of_year]

    @cached_property
    def light_share(self) -> Floats:
        """How much of its growth a day allows by its light: all from 10 hours on, a quarter below 9. **Source:** our own
        rule, after the common saying that plants stand still under ten hours."""
        return np.asarray(np.interp(self.light_h, [STILL_H, SHORT_DAY_H], [STILL_SHARE, 1.0]))

    @cached_property
    def long_day_share(self) -> Floats:
        """How far a day's length drives a plant that waits for long days: from a fifth at 8 hours to all at 15.
        **Source:** our own straight line, fitted to winter wheat of CERES in three climates."""
        return np.asarray(np.interp(self.light_h, [NO_LONG_DAY_H, ALL_LONG_DAY_H], [NO_LONG_DAY_SHARE, 1.0]))

    def warmth(self, crop: Crop) -> Floats:
        """Running sum of degree-days [°C d] that a crop makes use of, (days + 1,); slowed by short days."""
        points = crop.cardinal_c

        def daily() -> Floats:
            felt = useful_warmth(self.tmin_c, self.tmax_c, points)
            return felt * (self.long_day_share if crop.long_day else self.light_share)

        return self._sum(("warmth", points, crop.long_day), daily)

    def coming_up(self, crop: Crop) -> Floats:
        """Running sum of the shares towards emergence, (days + 1,)."""
        return self._sum(
            ("up", crop.emergence, crop.germination_c, crop.emerges[0]), lambda: emergence.rates(crop, self.soil_c)
        )

    def cold(self, below_c: float) -> Floats:
        """Running count of days whose mean lies between −4 °C and a limit [°C], (days + 1,)."""
        return self._sum(
            ("cold", below_c), lambda: ((self.mean_c <= below_c) & (self.mean_c >= CHILL_FROM_C)).astype(np.float64)
        )

    def vernal(self, below_c: float) -> Floats:
        """Running count of days of cold that makes a plant ready to flower, (days + 1,): whole ones from 0 °C to 3 °C below
        the limit, less and less to 5 °C above it, and to −5 °C. **Source:** CERES wheat, row TRVRN of WHCER048.SPE, whose limit
        is 10 °C.
        """
        points = [-5.0, 0.0, below_c - 3.0, below_c + 5.0]
        return self._sum(("vernal", below_c), lambda: np.interp(self.mean_c, points, [0.0, 1.0, 1.0, 0.0]))

    def chill_hours(self) -> Floats:
        """Running sum of hours between 0 and 7.2 °C on the course of the day, (days + 1,)."""

        def daily() -> Floats:
            return np.asarray(
                24.0 * np.mean([(CHILL_HOURS[0] <= t) & (t <= CHILL_HOURS[1]) for t in self._course()], axis=0)
            )

        return self._sum(("chill hours",), daily)

    def _course(self) -> list[Floats]:
        return [self.tmin_c + share * (self.tmax_c - self.tmin_c) for share in COURSE]

    def below_least(self, least_c: float) -> Floats:
        """Running count of days on which the soil is colder than a seed needs to come up [°C], (days + 1,)."""
        return self._sum(("below least", least_c), lambda: (self.soil_c < least_c).astype(np.float64))

    @cached_property
    def workable(self) -> npt.NDArray[np.bool_]:
        """By day, whether the ground can be worked: neither frozen nor sodden from the thaw."""
        return np.asarray(self.soil_c >= WORKABLE_C)

    def seed_cold(self) -> Floats:
        """Running count of days on which the ground chills a seed, (days + 1,)."""
        return self._sum(("seed cold",), lambda: (self.soil_c <= FOR_SEED_C).astype(np.float64))

    def next_frost(self, bears_c: float) -> Ints:
        """By day, the next day (itself included) with a least temperature below `bears_c`; the record's end for none."""
        return self._first("frost", bears_c, lambda: self.tmin_c < bears_c)

    def next_heat(self, heat_c: float) -> Ints:
        """By day, the next day at which a week is too hot for a crop that suffers in weeks whose days reach `heat_c`; the end
        for none. The week's mean counts, so that cool nights help; short days let it bear more. **Source:** our own rule."""

        def hot() -> npt.NDArray[np.bool_]:
            borne = heat_c - RANGE_C + SHORT_DAY_HEAT_C * (self.light_h < SHORT_LIGHT_H)
            return _averaged(self.mean_c, HEAT_DAYS, -np.inf) > borne

        return self._first("heat", heat_c, hot)

    def next_chill(self, chills_c: float) -> Ints:
        """By day, the next day at which seven nights average below `chills_c`; the record's end for none."""
        return self._first("chill", chills_c, lambda: _averaged(self.tmin_c, CHILL_DAYS, np.inf) < chills_c)

    def next_spring(self) -> Ints:
        """By day, the next day of lengthening days that has more than 12.5 hours of light; the end for none."""

        def spring() -> npt.NDArray[np.bool_]:
            longer = np.concatenate([[False], np.diff(self.light_h) > 0])
            return longer & (self.light_h > LONG_DAY_H)

        return self._first("spring", 0.0, spring)

    def next_short_day(self, below_h: float) -> Ints:
        """By day, the next day of shortening days that has less than so many hours of light; the end for none."""

        def short() -> npt.NDArray[np.bool_]:
            shorter = np.concatenate([[False], np.diff(self.light_h) < 0])
            return shorter & (self.light_h < below_h)

        return self._first("short day", below_h, short)

    def next_long_day(self, from_h: float) -> Ints:
        """By day, the next day of lengthening days that has so many hours of light; the end for none."""

        def long() -> npt.NDArray[np.bool_]:
            longer = np.concatenate([[False], np.diff(self.light_h) > 0])
            return longer & (self.light_h >= from_h)

        return self._first("long day", from_h, long)

    @cached_property
    def midwinters(self) -> Ints:
        """Positions of the first day of each calendar half-year that is midwinter: 1 January, south of the equator 1 July."""
        found = self.starts[701 if self.climate.southern else 101]
        return np.asarray(found[found >= 0])

    def _sum(self, key: tuple[object, ...], daily: Callable[[], Floats]) -> Floats:
        if key not in self._sums:
            self._sums[key] = np.concatenate([[0.0], np.cumsum(daily())])
        return self._sums[key]

    def _first(self, kind: str, limit: float, when: Callable[[], npt.NDArray[np.bool_]]) -> Ints:
        if (kind, limit) not in self._next:
            at = np.where(when(), np.arange(self.days), self.days)
            self._next[kind, limit] = np.minimum.accumulate(at[::-1])[::-1].astype(np.int32)
        return self._next[kind, limit]


def useful_warmth(tmin_c: Floats, tmax_c: Floats, cardinal_c: tuple[float, float, float, float]) -> Floats:
    """Degree-days [°C d] of each day that a plant makes use of, over the course of the day between its two extremes.

    `cardinal_c` are the temperatures [°C] from which it grows, from which it grows no faster, from which it grows slower, and
    at which it stands still; straight lines between. **Source:** the response of crop models with four cardinal temperatures
    (CROPGRO species files); the course is half a sine.
    """
    base, best, slower, most = cardinal_c
    points, shares = [base, best, slower, most], [0.0, best - base, best - base, 0.0]
    total = np.zeros(np.broadcast(tmin_c, tmax_c).shape)
    for share in COURSE:
        total += np.interp(tmin_c + share * (tmax_c - tmin_c), points, shares)
    return np.asarray(total / STEPS)


def _averaged(values: Floats, days: int, before: float) -> Floats:
    """The mean of each day and those before it, `days` together; `before` where there are not so many."""
    sums = np.concatenate([[0.0], np.cumsum(values)])
    found = np.full(len(values), before)
    found[days - 1 :] = (sums[days:] - sums[:-days]) / days
    return found


def reached(sums: Floats, begin: Ints, need: float) -> Ints:
    """The day by which a running sum has grown by `need` since the morning of `begin`; the record's end + 1 for none.

    `begin` may hold positions beyond the record, which are not reached either.
    """
    beyond = len(sums)
    inside = np.minimum(begin, beyond - 1)
    at = np.maximum(np.searchsorted(sums, sums[inside] + need - 1e-9), inside)
    return np.where((begin >= beyond) | (at >= beyond), beyond, at).astype(np.int32)
