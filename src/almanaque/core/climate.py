"""What the weather of a place does: freeze dates, the chance of a freeze, normals, and killing frosts.

Days run along the last axis of every array. A season of freezes runs from midsummer to midsummer of its hemisphere.
Several decades of daily readings are looked at at once.
"""

from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

FREEZE_C = 0.0  # Tmin at or below; the usual definition of a freeze
NORMAL_WINDOW = 15  # days over which a normal is smoothed
SEASON_DAYS = 366
ONE_DAY = np.timedelta64(1, "D")


@dataclass(frozen=True)
class FreezeDate:
    """One quantile of a freeze date as days after the season's first day; None when it falls among the seasons without."""

    probability: float
    day_of_season: float | None


class Climate:
    """Daily least and greatest temperature [°C] and rain [mm] of one source, as arrays of one length without gaps.

    `first_day` is the date of the first reading; a missing reading is NaN and is never filled.
    """

    def __init__(self, first_day: date, tmin_c: Floats, tmax_c: Floats, rain_mm: Floats, *, latitude: float) -> None:
        if not (len(tmin_c) == len(tmax_c) == len(rain_mm)):
            raise ValueError("tmin, tmax and rain must have one length")
        self.first_day = first_day
        self.tmin_c, self.tmax_c, self.rain_mm = tmin_c, tmax_c, rain_mm
        self.southern = latitude < 0

    def season_start(self, day: date) -> date:
        """First day of the freeze season that holds this day: 1 July in the north, 1 January in the south."""
        if self.southern:
            return date(day.year, 1, 1)
        return date(day.year if day.month >= 7 else day.year - 1, 7, 1)

    @cached_property
    def _seasons(self) -> list[tuple[date, Floats]]:
        """Each whole season's least temperatures (days,). Seasons with more than three missing days are left out."""
        last_day = self.first_day + timedelta(days=len(self.tmin_c) - 1)
        seasons = []
        start = self.season_start(self.first_day)
        while start <= last_day:
            following = start.replace(year=start.year + 1)
            begin, end = (start - self.first_day).days, (following - self.first_day).days
            if begin >= 0 and end <= len(self.tmin_c):
                values = self.tmin_c[begin:end]
                if np.isnan(values).sum() <= 3:
                    seasons.append((start, values))
            start = following
        return seasons

    @property
    def seasons(self) -> int:
        return len(self._seasons)

    @cached_property
    def _freezes(self) -> tuple[Floats, Floats]:
        """First and last freeze of each season as days after its first day (seasons,); NaN for a season without one."""
        firsts, lasts = [], []
        for _, values in self._seasons:
            days = np.flatnonzero(values <= FREEZE_C)
            firsts.append(float(days[0]) if len(days) else np.nan)
            lasts.append(float(days[-1]) if len(days) else np.nan)
        return np.array(firsts), np.array(lasts)

    @property
    def seasons_without(self) -> int:
        return int(np.isnan(self._freezes[0]).sum())

    def last_freeze(self, probability: float) -> FreezeDate:
        """Quantile of the last freeze of the cold season. A season without one counts as *never*, earlier than any."""
        return _quantile(self._freezes[1], probability, never_is_late=False)

    def first_freeze(self, probability: float) -> FreezeDate:
        """Quantile of the first freeze of the cold season. A season without one counts as later than any."""
        return _quantile(self._freezes[0], probability, never_is_late=True)

    def date_of(self, quantile: FreezeDate, season_start: date) -> date | None:
        """The quantile as a calendar day of the season that starts on `season_start`."""
        if quantile.day_of_season is None:
            return None
        return season_start + timedelta(days=round(quantile.day_of_season))

    def freeze_chance(self, day: date) -> float:
        """Share of seasons whose first freeze has come by this day and whose last is still to come.

        In spring it is the chance of a freeze still to come, in autumn the chance that one has come. 0 without seasons.
        """
        firsts, lasts = self._freezes
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
    def _normals(self) -> tuple[Floats, Floats]:
        days = np.datetime64(self.first_day) + np.arange(len(self.tmin_c)) * ONE_DAY
        of_year = (days - days.astype("datetime64[Y]").astype("datetime64[D]")).astype(int)
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


def _quantile(days: Floats, probability: float, *, never_is_late: bool) -> FreezeDate:
    """Empirical quantile with linear interpolation over seasons (as NumPy's default), seasons without sorted outside."""
    if not len(days):
        return FreezeDate(probability, None)
    ordered = np.sort(np.where(np.isnan(days), np.inf if never_is_late else -np.inf, days))
    at = probability * (len(ordered) - 1)
    low, high = ordered[int(np.floor(at))], ordered[int(np.ceil(at))]
    if not (np.isfinite(low) and np.isfinite(high)):
        return FreezeDate(probability, None)
    return FreezeDate(probability, float(low + (high - low) * (at - np.floor(at))))
