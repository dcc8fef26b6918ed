"""Sowings that follow one another: every so many days, until the last that still fits; or twice a term."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.core.growth import school_fit
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh

LEAST_DAYS, MOST_DAYS, MOST_SOWINGS = 5, 90, 20  # between sowings that follow one another, and of them: our own rule


@dataclass(frozen=True)
class Sowing:
    """One of a series, with what becomes of it; `wanted` is the day the rhythm asked for, before it was moved to a school day."""

    wanted: date
    fit: Fit

    @property
    def day(self) -> date:
        return self.fit.dates.start


def every(crop: Crop, method: Method, first: date, days: int, setting: Setting, *, until: date) -> list[Sowing]:
    """Sowings from `first` on every so many days, each on the next day with children here, that do not miss the school year.

    It ends with the last one that still fits or needs care only, at most at `until`. Raises BadInput for a rhythm outside 5 to
    90 days.
    """
    if not LEAST_DAYS <= days <= MOST_DAYS:
        raise BadInput("year.rhythm_out_of_range", field="every", least_days=LEAST_DAYS, most=MOST_DAYS)
    wanted = [
        first + timedelta(days=days * n) for n in range(MOST_SOWINGS) if first + timedelta(days=days * n) <= until
    ]
    found: dict[date, date] = {}
    for day in wanted:
        here = setting.calendar.next_day_here(day)
        if here is not None and here <= until:
            found.setdefault(here, day)
    if not found:
        return []
    weighed = weigh(crop, method, list(found), setting)
    good = np.flatnonzero(weighed.verdict < 2)
    return [
        Sowing(found[day], school_fit.at(weighed, int(row), crop, method, setting))
        for row in good
        for day in [list(found)[int(row)]]
    ]


def twice_a_term(crop: Crop, method: Method, setting: Setting, starts: date, ends: date) -> list[Sowing]:
    """The first and the last day of a term that fit, when the second can follow the first in the same squares; else the first.

    **Source:** common practice: fast crops twice a term.
    """
    span = (ends - starts).days + 1
    days = [d for d in (starts + timedelta(days=n) for n in range(span)) if setting.calendar.children_here(d)]
    if not days:
        return []
    weighed = weigh(crop, method, days, setting)
    good = np.flatnonzero(weighed.verdict == 0)
    if not len(good):
        return []
    first = school_fit.at(weighed, int(good[0]), crop, method, setting)
    free = school_fit.stands_at_least_until(first)
    later = [row for row in good if days[row] > free]
    found = [Sowing(first.dates.start, first)]
    if later:
        second = school_fit.at(weighed, int(later[0]), crop, method, setting)
        found.append(Sowing(second.dates.start, second))
    return found
