"""What many days come to over the years on file: quantiles, counts, and where they fall in the calendar.

Arrays (days, years) in, (days,) out.
"""

from collections.abc import Sequence
from datetime import date
from functools import cache, lru_cache

import numpy as np
import numpy.typing as npt

from almanaque.core.growth.crop_runs import Outcome
from almanaque.core.school.school_year import Calendar, Span

Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
Floats = npt.NDArray[np.float64]
EPOCH = date(1970, 1, 1).toordinal()


def quantiles(values: Ints, counted: Bools, wanted: Sequence[float]) -> Floats:
    """Empirical quantiles along the years with linear interpolation, (days, quantiles); NaN where nothing counts."""
    kept = np.sort(np.where(counted, values, np.iinfo(values.dtype).max), axis=1)
    last = counted.sum(axis=1)[:, None] - 1
    at = np.maximum(last, 0) * np.asarray(wanted)
    low = at.astype(np.int64)
    rows = np.arange(len(values))[:, None]
    below = kept[rows, low].astype(np.float64)
    above = kept[rows, np.minimum(low + 1, np.maximum(last, 0))]
    return np.where(last >= 0, below + (at - low) * (above - below), np.nan)


def days_from(start: Ints, offsets: Floats) -> Ints:
    """Ordinals of days after the start; −1 where there are none."""
    none = np.isnan(offsets)
    return np.where(none, -1, start[:, None] + np.rint(np.where(none, 0.0, offsets)).astype(np.int64))


def by_outcome(outcome: npt.NDArray[np.int8], known: Bools) -> Ints:
    """How many years came to each outcome, (days, kinds), of those that are known."""
    kinds, days = len(Outcome), len(outcome)
    cells = (np.arange(days)[:, None] * kinds + outcome)[known]
    return np.bincount(cells, minlength=days * kinds).reshape(days, kinds).astype(np.int64)


def month_days(days: Ints) -> Ints:
    """Month × 100 + day of ordinals, array (days,); many ways are asked about the same days, one after another."""
    return _month_days(np.asarray(days, dtype=np.int64).tobytes())


@lru_cache(maxsize=64)
def _month_days(ordinals: bytes) -> Ints:
    days = np.frombuffer(ordinals, dtype=np.int64)
    at = (days - EPOCH).astype("datetime64[D]")
    months = at.astype("datetime64[M]")
    number = months.astype(np.int64) % 12 + 1
    found = np.asarray(number * 100 + (at - months).astype(np.int64) + 1)
    found.setflags(write=False)
    return found


@cache
def day_numbers() -> Ints:
    """The number of each day in a year with 29 February, from 0, by month × 100 + day."""
    found = np.zeros(1300, dtype=np.int64)
    leap_year = np.arange(date(2028, 1, 1).toordinal(), date(2029, 1, 1).toordinal(), dtype=np.int64)
    found[month_days(leap_year)] = np.arange(len(leap_year))
    return found


def reached(calendar: Calendar, days: Ints) -> Bools:
    if not calendar.years:
        return np.zeros(len(days), dtype=bool)
    return np.asarray((days >= calendar.years[0].starts.toordinal()) & (days <= calendar.years[-1].ends.toordinal()))


def seedbed(breaks: Sequence[Span], days: Ints, up: Ints, came_up: Bools) -> tuple[Ints, Ints]:
    """In how many years seed is still coming up when the first break after its sowing begins, and which break that is."""
    none = np.full(len(days), -1, dtype=np.int64)
    if not breaks:
        return np.zeros(len(days), dtype=np.int64), none
    starts = np.array([gap.starts.toordinal() for gap in breaks], dtype=np.int64)
    following = np.searchsorted(starts, days, side="right")
    begins = np.append(starts, np.iinfo(np.int64).max)[following]
    over = came_up & (days[:, None] + up >= begins[:, None])
    years = over.sum(axis=1)
    return years, np.where(years > 0, following, none)


def in_break(breaks: Sequence[Span], days: Ints) -> Ints:
    """Which break holds each day, by number; −1 for none."""
    if not breaks:
        return np.full(len(days), -1, dtype=np.int64)
    ends = np.array([gap.ends.toordinal() for gap in breaks], dtype=np.int64)
    starts = np.array([gap.starts.toordinal() for gap in breaks], dtype=np.int64)
    at = np.minimum(np.searchsorted(ends, days), len(breaks) - 1)
    return np.where((starts[at] <= days) & (days <= ends[at]), at, -1)
