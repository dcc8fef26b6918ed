"""What the weather of a place does: freeze dates, the chance of a freeze, normals, degree-days, and killing frosts.

Days run along the last axis of every array. A season of freezes runs from midsummer to midsummer of its hemisphere, so
that it holds one winter: its first half has the first freeze, its second the last. Several decades of daily readings are
looked at at once.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property, lru_cache
from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.place import degree_days, evapotranspiration, freezes, soil_temperature
from almanaque.core.place.degree_days import Interpretation
from almanaque.core.place.freezes import FreezeDate, Freezes, FreezeTable, HalfSeasons
from almanaque.core.place.sun import check_latitude

Floats = npt.NDArray[np.float64]

FREEZE_C = 0.0  # Tmin at or below; the usual definition of a freeze
THRESHOLDS_C = (0.0, 2.0, -2.0)  # a freeze; frost on the ground while the air at 2 m is above it; a killing one
NORMAL_WINDOW = 15  # days over which a normal is smoothed
MISSING_ALLOWED = 3  # days that may be missing from half a season, or from a month, before it is left out
SEASON_DAYS = 366  # rows of a season, the leap day among them
WARM_C, COOL_C = 16.0, 5.0  # normal mean from which warm crops, and cool crops, grow on; our own limits
ONE_DAY = np.timedelta64(1, "D")
Season = Literal["warm", "cool", "cold"]


@dataclass(frozen=True)
class MonthNormal:
    """Means of a month over the years on file: temperatures [°C], rain and ET₀ [mm in the month], soil [°C].

    `warmth` is degree-days above 10 °C [°C d]; `years` tells how many months it rests on.
    """

    month: int
    tmin_c: float
    tmax_c: float
    rain_mm: float
    et0_mm: float
    soil_c: float
    warmth: float
    years: int


@dataclass(frozen=True)
class Against:
    """Readings of a time against the usual: mean difference [°C], and the share of days wholly within the usual range."""

    days: int
    difference_c: float
    share_inside: float


@dataclass(frozen=True)
class Bands:
    """The year of the place: arrays (366,) by day of the year, over all years and 15 days around.

    `low` is the least temperature that one night in ten falls below, `high` the greatest that one day in ten exceeds;
    `mean` the normal mean, all [°C].
    """

    low: Floats
    mean: Floats
    high: Floats


class Climate:
    """Daily least and greatest temperature [°C] and rain [mm] of one source, as arrays of one length without gaps.

    `first_day` is the date of the first reading; a missing reading is NaN and is never filled.
    """

    def __init__(
        self,
        first_day: date,
        tmin_c: Floats,
        tmax_c: Floats,
        rain_mm: Floats,
        *,
        latitude: float,
        measured_soil_c: Floats | None = None,
    ) -> None:
        if not (len(tmin_c) == len(tmax_c) == len(rain_mm)):
            raise ValueError("tmin, tmax and rain must have one length")
        self.first_day = first_day
        self.tmin_c, self.tmax_c, self.rain_mm = tmin_c, tmax_c, rain_mm
        self.measured_soil_c = measured_soil_c
        self.latitude = check_latitude(latitude)
        self.southern = latitude < 0

    @property
    def last_day(self) -> date:
        return self.first_day + timedelta(days=len(self.tmin_c) - 1)

    def season_start(self, day: date) -> date:
        """First day of the freeze season that holds this day: 1 July in the north, 1 January in the south."""
        if self.southern:
            return date(day.year, 1, 1)
        return date(day.year if day.month >= 7 else day.year - 1, 7, 1)

    def _midwinter(self, season_start: date) -> date:
        """First day of the second half of a season."""
        return date(season_start.year, 7, 1) if self.southern else date(season_start.year + 1, 1, 1)

    @cached_property
    def _halves(self) -> list[HalfSeasons]:
        """Every season that the record touches."""
        found = []
        start = self.season_start(self.first_day)
        while start <= self.last_day:
            middle, following = self._midwinter(start), start.replace(year=start.year + 1)
            found.append(HalfSeasons(start, middle, self._whole(start, middle), self._whole(middle, following)))
            start = following
        return found

    def _whole(self, start: date, until: date) -> Floats | None:
        """Least temperatures from `start` to the day before `until`; None when more than three are missing."""
        begin, end = (start - self.first_day).days, (until - self.first_day).days
        if begin < 0 or end > len(self.tmin_c):
            return None
        values = self.tmin_c[begin:end]
        return values if np.isnan(values).sum() <= MISSING_ALLOWED else None

    @cached_property
    def _kept_freezes(self) -> dict[float, FreezeTable]:
        return {}

    def freezes(self, threshold_c: float = FREEZE_C) -> Freezes:
        """First and last freezes: nights with Tmin at or below the threshold [°C]."""
        return self._freeze_table(threshold_c).freezes

    def _freeze_table(self, threshold_c: float) -> FreezeTable:
        kept = self._kept_freezes
        if threshold_c not in kept:
            kept[threshold_c] = freezes.table(self._halves, threshold_c)
        return kept[threshold_c]

    @property
    def seasons(self) -> int:
        """Seasons on which the freeze dates rest."""
        return self.freezes().seasons

    @property
    def seasons_without(self) -> int:
        """Seasons on file without any freeze."""
        return self.freezes().last_without

    def last_freeze(self, probability: float) -> FreezeDate:
        """Quantile of the last freeze of the cold season at 0 °C."""
        return self.freezes().last(probability)

    def first_freeze(self, probability: float) -> FreezeDate:
        """Quantile of the first freeze of the cold season at 0 °C."""
        return self.freezes().first(probability)

    def date_of(self, quantile: FreezeDate, season_start: date) -> date | None:
        """The quantile as a calendar day of the season that starts on `season_start`."""
        if quantile.day_of_season is None:
            return None
        return season_start + timedelta(days=round(quantile.day_of_season))

    def freeze_chance(self, day: date) -> float:
        """Share of seasons whose first freeze has come by this day and whose last is still to come.

        In spring it is the chance of a freeze still to come, in autumn the chance that one has come. 0 without seasons.
        """
        firsts, lasts = self._freeze_table(FREEZE_C).whole
        if not len(firsts):
            return 0.0
        at = (day - self.season_start(day)).days
        with np.errstate(invalid="ignore"):
            return float(((firsts <= at) & (lasts >= at)).sum() / len(firsts))

    def normal_mean_c(self, day: date) -> float | None:
        """Mean of least and greatest temperature [°C] for the time of year, over 15 days and all years; None without."""
        value = self._normals[0][_day_of_year(day)]
        return None if np.isnan(value) else float(value)

    def normal_max_c(self, day: date) -> float | None:
        """Greatest temperature of a normal day [°C] for the time of year; None without readings."""
        value = self._normals[1][_day_of_year(day)]
        return None if np.isnan(value) else float(value)

    @cached_property
    def _days(self) -> npt.NDArray[np.datetime64]:
        return np.asarray(np.datetime64(self.first_day) + np.arange(len(self.tmin_c)) * ONE_DAY)

    @cached_property
    def day_of_year(self) -> npt.NDArray[np.int64]:
        """Day of the year of each reading, from 0."""
        return np.asarray((self._days - self._days.astype("datetime64[Y]").astype("datetime64[D]")).astype(np.int64))

    @cached_property
    def et0_mm(self) -> Floats:
        """Reference evapotranspiration [mm day⁻¹] of each day from temperatures alone (Hargreaves)."""
        return evapotranspiration.hargreaves(
            self.tmin_c, self.tmax_c, self.latitude, np.asarray(self.day_of_year + 1, dtype=np.float64)
        )

    @cached_property
    def soil_c(self) -> Floats:
        """Soil temperature [°C] of each day, estimated from air; a measured one goes before it."""
        return soil_temperature.estimate(self.tmin_c, self.tmax_c, self.measured_soil_c)

    def warmth(self, start: date, end: date, *, base_c: float, interpretation: Interpretation = 1) -> tuple[float, int]:
        """Degree-days [°C d] from `start` to `end`, both included, with the number of days that had no reading."""
        low, high = ((day - self.first_day).days for day in (start, end))
        rows = slice(max(0, low), max(0, high + 1))
        values = degree_days.daily(self.tmin_c[rows], self.tmax_c[rows], base_c=base_c, interpretation=interpretation)
        return float(np.nansum(values)), (end - start).days + 1 - int((~np.isnan(values)).sum())

    @cached_property
    def months(self) -> tuple[MonthNormal, ...]:
        """Monthly normals of the months that have whole months on file; one with more than three days missing is left out."""
        of_month = self._days.astype("datetime64[M]").astype(int)
        warmth = degree_days.daily(self.tmin_c, self.tmax_c, base_c=10.0)
        series = np.vstack([self.tmin_c, self.tmax_c, self.rain_mm, self.et0_mm, self.soil_c, warmth])
        first = of_month[0]
        counts = np.bincount(of_month - first)
        lengths = np.array([_month_days(month + first) for month in range(len(counts))])
        sums, present = [], []
        for values in series:
            good = ~np.isnan(values)
            sums.append(np.bincount((of_month - first)[good], weights=values[good], minlength=len(counts)))
            present.append(np.bincount((of_month - first)[good], minlength=len(counts)))
        total, days = np.array(sums), np.array(present)
        found = []
        for month in range(12):
            mine = (np.arange(len(counts)) + first) % 12 == month
            enough = mine & (days[:2] >= lengths - MISSING_ALLOWED).all(axis=0)
            if not enough.any():
                continue
            with np.errstate(invalid="ignore", divide="ignore"):
                daily = np.where(days > 0, total / days, np.nan)[:, enough]
            rained = daily[2][days[2][enough] >= lengths[enough] - MISSING_ALLOWED]
            low, high, _, et0, soil, warm = (float(np.nanmean(row)) for row in daily)
            length = _month_days(month + 12 * 31)  # of a year without a leap day
            rain = float(rained.mean()) * length if len(rained) else float("nan")
            found.append(MonthNormal(month + 1, low, high, rain, et0 * length, soil, warm * length, int(enough.sum())))
        return tuple(found)

    @cached_property
    def bands(self) -> Bands:
        """The usual range of the year, by day of the year."""
        half = NORMAL_WINDOW // 2
        low, high = np.full(SEASON_DAYS, np.nan), np.full(SEASON_DAYS, np.nan)
        at = np.argsort(self.day_of_year, kind="stable")
        edges = np.searchsorted(self.day_of_year[at], np.arange(SEASON_DAYS + 1))
        lows = [self.tmin_c[at[edges[d] : edges[d + 1]]] for d in range(SEASON_DAYS)]
        highs = [self.tmax_c[at[edges[d] : edges[d + 1]]] for d in range(SEASON_DAYS)]
        for day in range(SEASON_DAYS):
            around = [(day + offset) % SEASON_DAYS for offset in range(-half, half + 1)]
            for into, of, q in ((low, lows, 0.1), (high, highs, 0.9)):
                values = np.concatenate([of[d] for d in around])
                values = values[~np.isnan(values)]
                if len(values):
                    into[day] = np.quantile(values, q)
        return Bands(low, self._normals[0], high)

    def season_on(self, day: date) -> Season | None:
        """Warm enough for warm crops, for cool ones, or too cold, by the normal mean of the day; None without one."""
        mean = float(self.bands.mean[_day_of_year(day)])
        return None if np.isnan(mean) else "warm" if mean >= WARM_C else "cool" if mean >= COOL_C else "cold"

    def against_usual(self, readings: Sequence[tuple[date, float, float]]) -> Against | None:
        """Readings (day, least, greatest) against the usual range of their days; None where that is not known."""
        if not readings:
            return None
        of_year = [_day_of_year(day) for day, _, _ in readings]
        low, high = np.array([r[1] for r in readings]), np.array([r[2] for r in readings])
        usual_low, mean, usual_high = (part[of_year] for part in (self.bands.low, self.bands.mean, self.bands.high))
        if np.isnan(mean).any():
            return None
        inside = (usual_low <= low) & (high <= usual_high)
        return Against(len(readings), float(((low + high) / 2 - mean).mean()), float(inside.mean()))

    @cached_property
    def _normals(self) -> tuple[Floats, Floats]:
        of_year = self.day_of_year
        means = []
        for values in ((self.tmin_c + self.tmax_c) / 2, self.tmax_c):
            good = ~np.isnan(values)
            sums = np.bincount(of_year[good], weights=values[good], minlength=SEASON_DAYS)
            counts = np.bincount(of_year[good], minlength=SEASON_DAYS).astype(float)
            half = NORMAL_WINDOW // 2
            around = np.ones(NORMAL_WINDOW)
            wrapped_sums = np.convolve(np.concatenate([sums[-half:], sums, sums[:half]]), around, mode="valid")
            wrapped_counts = np.convolve(np.concatenate([counts[-half:], counts, counts[:half]]), around, mode="valid")
            with np.errstate(invalid="ignore", divide="ignore"):
                means.append(np.where(wrapped_counts > 0, wrapped_sums / wrapped_counts, np.nan))
        return means[0], means[1]

    @cached_property
    def _by_year(self) -> tuple[int, Floats]:
        """Least temperatures (years, 731): each calendar year and the next, from 1 January; NaN beyond the record."""
        first_year = self.first_day.year
        last_year = (self.first_day + timedelta(days=len(self.tmin_c) - 1)).year
        table = np.full((last_year - first_year + 1, 731), np.nan)
        for row, year in enumerate(range(first_year, last_year + 1)):
            begin = (date(year, 1, 1) - self.first_day).days
            part = self.tmin_c[max(0, begin) : max(0, begin + 731)]
            offset = max(0, -begin)
            table[row, offset : offset + len(part)] = part
        return first_year, table

    def years_colder(self, start: date, end: date, bears_c: float) -> tuple[int, int]:
        """In how many years, of how many on file, some night from `start` to `end` fell below `bears_c` [°C].

        Only years whose record covers the whole time count. A time longer than 366 days is judged by its first 366.
        """
        at = _day_of_year(start)
        span = min((end - start).days, SEASON_DAYS)
        if span < 0:
            return 0, 0
        _, table = self._by_year
        window = table[:, at : at + span + 1]
        covered = ~np.isnan(window).any(axis=1)
        return int((window[covered].min(axis=1) < bears_c).sum()) if covered.any() else 0, int(covered.sum())


def _day_of_year(day: date) -> int:
    return (day - date(day.year, 1, 1)).days


@lru_cache(maxsize=4096)
def _month_days(months_since_1970: int) -> int:
    """Length of a month counted from January 1970."""
    year, month = 1970 + months_since_1970 // 12, months_since_1970 % 12 + 1
    following = date(year + month // 12, month % 12 + 1, 1)
    return (following - date(year, month, 1)).days
