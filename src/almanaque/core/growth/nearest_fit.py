"""The nearest changes that would make a plan fit, and the day by which one must sow for a feast."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import Fix
from almanaque.core.growth.covers import COVERS, Covering
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.school_fit import Fit, judge
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import Ints, Weighed, ripe_on, weigh
from almanaque.core.growth.verdicts import SURE_SHARE
from almanaque.core.words import Phrase, term

SEARCH_DAYS = 150  # how far the nearest day that fits is looked for, both ways
WINTER_DAYS = 330  # how far a sowing that winters over is looked for
QUICKER = (0.9, 0.8, 0.7)  # shares of the days or warmth that a faster variety may take
Waiting = Literal["fresh", "standing", "stored"]
Aim = Literal["ready", "picked", "set out"]


def nearest_fit(crop: Crop, method: Method, start: date, setting: Setting, *, not_before: date) -> Fit | None:
    """The school day nearest to `start`, from `not_before` on, on which the crop fits; later wins a tie."""
    found = _nearest(crop, method, start, setting, not_before=not_before, within=SEARCH_DAYS)
    return judge(crop, method, found, setting) if found else None


def _nearest(
    crop: Crop, method: Method, start: date, setting: Setting, *, not_before: date, within: int, quicker: float = 1.0
) -> date | None:
    days = _here(setting, max(start - timedelta(days=within), not_before), start + timedelta(days=within))
    if not len(days):
        return None
    fitting = days[weigh(crop, method, days, setting, quicker=quicker).verdict == 0]
    if not len(fitting):
        return None
    order = np.lexsort((-fitting, np.abs(fitting - start.toordinal())))
    return date.fromordinal(int(fitting[order[0]]))


def _here(setting: Setting, first: date, last: date) -> Ints:
    """Days from the first to the last, both included, on which children are here, as ordinals."""
    days = range(first.toordinal(), last.toordinal() + 1)
    return np.array([d for d in days if setting.calendar.children_here(date.fromordinal(d))], dtype=np.int64)


@dataclass(frozen=True)
class Deadline:
    """An answer to “by when must I sow?”: the latest day, the best one, and the years in which each makes it."""

    latest: date | None
    latest_years: int
    best: date | None
    best_years: int
    of: int


def back_from(
    crop: Crop,
    method: Method,
    ready_by: date,
    setting: Setting,
    *,
    not_before: date,
    aim: Aim = "ready",
    share: float = SURE_SHARE,
) -> Deadline:
    """Sowing days that make a day: the latest with at least `share` of the years, and the best one.

    By `aim` it is *ready* for that day (picking has begun, and it still stands or keeps in store), *picked* by it (picking has
    begun), or *set out* by it. Only days on which children are here count. The best day has the most years; of those alike the
    latest. Raises BadInput for a way of starting the crop does not have.
    """
    longest = timedelta(days=max(most for _, most in crop.days.values()) + 7 * crop.weeks_indoors + 120)
    days = _here(setting, max(not_before, ready_by - longest), ready_by)
    if not len(days):
        return Deadline(None, 0, None, 0, 0)
    allowed = weigh(crop, method, days, setting)
    if aim == "set out":
        years, of = np.where(allowed.bed <= ready_by.toordinal(), allowed.of, 0), allowed.of
    else:
        years, of = ripe_on(crop, method, days, ready_by.toordinal(), setting, keeps=aim == "picked")
    nobody = [said for code, said in allowed.said.items() if code.endswith("sow_no_school")]
    years = np.where(np.max(nobody, axis=0) == 0, years, 0)
    best = int(len(days) - 1 - np.argmax(years[::-1]))
    sure = np.flatnonzero((years >= share * np.maximum(of, 1)) & (years > 0))
    latest = int(sure[-1]) if len(sure) else None
    return Deadline(
        None if latest is None else date.fromordinal(int(days[latest])),
        0 if latest is None else int(years[latest]),
        date.fromordinal(int(days[best])) if years[best] else None,
        int(years[best]),
        int(of[best]) if setting.measured else 0,
    )


def waits(crop: Crop, dates: GrowthDates, day: date) -> Waiting:
    """How what was started waits for a day after its first picking: fresh at its best, standing past it, or in store."""
    if day <= dates.last_pick:
        return "fresh"
    return "standing" if dates.stands_until is not None and day <= dates.stands_until else "stored"


def latest_fit(crop: Crop, method: Method, setting: Setting, *, not_before: date, picked_by: date) -> date | None:
    """The last school day from `not_before` on for which it fits and is first picked by `picked_by` in the middle year."""
    days = _here(setting, not_before, picked_by)
    if not len(days):
        return None
    weighed = weigh(crop, method, days, setting)
    good = days[(weighed.verdict == 0) & (weighed.first[:, 1] > 0) & (weighed.first[:, 1] <= picked_by.toordinal())]
    return date.fromordinal(int(good[-1])) if len(good) else None


def mends(fit: Fit, setting: Setting, *, not_before: date) -> Iterator[Fix]:
    """The nearest changes that would make it fit: another day, another way, a cover, a faster variety, over winter."""
    crop, start = fit.crop, fit.dates.start
    for method in (fit.method, *(m for m in crop.methods if m != fit.method)):
        day = _nearest(crop, method, start, setting, not_before=not_before, within=SEARCH_DAYS)
        if day is not None:
            how = Phrase(
                "findings.part.start" if method == fit.method else "findings.part.way", {"way": term("method", method)}
            )
            yield Fix("way_on", f"start:{method}", day.isoformat(), params={"words": how, "day": day})
    if setting.measured and setting.covering is None and setting.indoors_c is None and start >= not_before:
        yield from _under_cover(fit, setting)
    if start >= not_before:
        yield from _quicker(fit, setting)
    after = max(start + timedelta(days=SEARCH_DAYS), not_before)
    if crop.cold_days or crop.bears_c <= -9:
        days = _here(setting, after, start + timedelta(days=WINTER_DAYS))
        good = days[_over_winter(weigh(crop, fit.method, days, setting), setting)] if len(days) else days
        if len(good):
            day = date.fromordinal(int(good[0]))
            yield Fix("over_winter_on", f"start:{fit.method}", day.isoformat(), params={"day": day})


def _over_winter(weighed: Weighed, setting: Setting) -> npt.NDArray[np.bool_]:
    """Which days fit and have it stand in the bed at midwinter, before its first picking."""
    southern = setting.record is not None and setting.record.climate.southern
    first = date.fromordinal(int(weighed.days[0])).year
    stands = np.zeros(len(weighed.days), dtype=np.bool_)
    for year in range(first, first + 3):
        midwinter = date(year, 7 if southern else 1, 1).toordinal()
        stands |= (weighed.bed < midwinter) & (weighed.first[:, 1] > midwinter)
    return np.asarray(stands & (weighed.verdict == 0))


def _under_cover(fit: Fit, setting: Setting) -> Iterator[Fix]:
    for key in COVERS:
        if judge(fit.crop, fit.method, fit.dates.start, replace(setting, covering=Covering(key))).verdict == "fits":
            yield Fix("same_day_covered", "cover", key, params={"words": term("cover", key)})
            return


def _quicker(fit: Fit, setting: Setting) -> Iterator[Fix]:
    least, most = fit.crop.days[fit.method]
    for share in QUICKER:
        if weigh(fit.crop, fit.method, [fit.dates.start], setting, quicker=share).verdict[0] == 0:
            yield Fix("kind_ready_in", "variety", str(share), params={"days": round((least + most) / 2 * share)})
            return
