"""Will the children be here when it is sown, and here when it is ready? A verdict with its reasons, and what would mend it.

`sowing_days.weigh` looks at every year on file; here a weighed day becomes dates and a verdict; `fit_findings` says why.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.findings import Finding
from almanaque.core.growth import fit_findings
from almanaque.core.growth.growth_dates import GrowthDates, forecast, leaves_bed
from almanaque.core.growth.season_to_date import SeasonToDate
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import LESSONS_TO_PICK, Verdict, Way, Weighed, weigh, weigh_ways
from almanaque.core.school.school_year import Calendar


@dataclass(frozen=True)
class Fit:
    """Dates, verdict, and the findings behind it, worst first. Picking meets its lessons in `n` of `of` years on file."""

    crop: Crop
    method: Method
    dates: GrowthDates
    verdict: Verdict
    findings: tuple[Finding, ...]

    @property
    def n(self) -> int:
        return self.dates.fit_years

    @property
    def of(self) -> int:
        return self.dates.of_years


def judge(crop: Crop, method: Method, start: date, setting: Setting) -> Fit:
    """Judge one way and day of starting a crop. Raises BadInput when the crop is not started that way."""
    return at(weigh(crop, method, [start], setting), 0, crop, method, setting)


def judge_ways(ways: Sequence[Way], start: date, setting: Setting) -> list[Fit]:
    """`judge` many ways of starting on the same day, in their order."""
    weighed = weigh_ways(ways, [start], setting)
    return [at(each, 0, crop, method, setting) for each, (crop, method) in zip(weighed, ways, strict=True)]


def at(weighed: Weighed, row: int, crop: Crop, method: Method, setting: Setting) -> Fit:
    """One of many weighed days in words."""
    dates = dates_of(weighed, row, crop, method, setting.calendar)
    findings = fit_findings.of_start(weighed, row, crop, method, dates, setting)
    return Fit(crop, method, dates, weighed.verdict_of(row), tuple(findings))


def dates_of(weighed: Weighed, row: int, crop: Crop, method: Method, calendar: Calendar) -> GrowthDates:
    """The dates of one of many weighed days, its place kept until the lessons in which it is picked."""
    return _until_its_lessons(crop, dates_at(weighed, row, crop, method), calendar)


def going_on(crop: Crop, method: Method, before: GrowthDates, far: SeasonToDate, setting: Setting) -> Fit:
    """Judge what stands in the bed: from how far it is by this season's weather, with every year's weather to come.

    `before` are its dates by its first day alone, which stand where no year on file ripens it. Who starts it is no matter any more.
    """
    weighed = weigh(crop, method, [far.day], setting, behind=far.behind)
    ahead = dates_at(weighed, 0, crop, method) if weighed.ripe[0] else before
    dates = replace(
        ahead,
        start=before.start,
        bed_from=before.bed_from,
        fit_years=int(weighed.fit_years[0]),
        of_years=int(weighed.of[0]),
    )
    if before.emerge_from is not None:
        early, late = (_day(int(weighed.up[0, column])) for column in (0, 2))
        dates = replace(
            dates, emerge_from=far.up_on or early or before.emerge_from, emerge_to=far.up_on or late or before.emerge_to
        )
    dates = _until_its_lessons(crop, dates, setting.calendar)
    findings = fit_findings.of_standing(weighed, crop, method, dates, setting)
    return Fit(crop, method, dates, weighed.verdict_of(0), tuple(findings))


def dates_at(weighed: Weighed, row: int, crop: Crop, method: Method) -> GrowthDates:
    """The dates of a weighed day; packet days where no year on file ripens it."""
    start = date.fromordinal(int(weighed.days[row]))
    plain = forecast(
        crop, method, start, set_out=date.fromordinal(int(weighed.bed[row])) if method == "indoors" else None
    )
    of, n = int(weighed.of[row]) if weighed.measured else 0, int(weighed.fit_years[row]) if weighed.measured else 0
    if not weighed.measured:
        return _later(plain, crop, int(weighed.first[row, 1]) - plain.first_pick.toordinal())
    early, late = int(weighed.up[row, 0]), int(weighed.up[row, 2])
    if method == "direct" or (method == "cloves" and early > 0):
        plain = replace(plain, emerge_from=_day(early) or plain.emerge_from, emerge_to=_day(late) or plain.emerge_to)
    if not weighed.ripe[row]:
        return replace(plain, fit_years=n, of_years=of)
    first = [date.fromordinal(int(d)) for d in weighed.first[row]]
    last = max(date.fromordinal(int(weighed.last[row, 1])), first[1])
    return replace(
        plain,
        first_pick_early=first[0],
        first_pick=first[1],
        first_pick_late=first[2],
        last_pick=last,
        clear_by=leaves_bed(crop, plain.bed_from, last),
        stands_until=max(last, date.fromordinal(int(weighed.stands[row, 1]))),
        fit_years=n,
        of_years=of,
    )


def _later(dates: GrowthDates, crop: Crop, days: int) -> GrowthDates:
    """The dates with the first picking, and all that follows it, so many days later: by the pace of the place."""
    if not days:
        return dates
    by = timedelta(days=days)
    return replace(
        dates,
        first_pick_early=dates.first_pick_early + by,
        first_pick=dates.first_pick + by,
        first_pick_late=dates.first_pick_late + by,
        last_pick=dates.last_pick + by,
        clear_by=leaves_bed(crop, dates.bed_from, dates.last_pick + by),
        stands_until=dates.stands_until + by if dates.stands_until else None,
    )


def _until_its_lessons(crop: Crop, dates: GrowthDates, calendar: Calendar) -> GrowthDates:
    """The dates with the bed kept for what may stand until the lessons in which it is picked, where these come after its best.

    As a potato of April does that is dug in September: the verdict rests on it, so its place must. **Source:** our own rule.
    """
    if crop.life == "perennial" or crop.for_guests or dates.stands_until is None:
        return dates
    running = calendar.running
    counts = running.lessons if calendar.slots else running.here
    before = counts[min(max(0, dates.first_pick.toordinal() - running.first), len(counts) - 1)]
    at = int(np.searchsorted(counts, before + LESSONS_TO_PICK))
    if at == len(counts):
        return dates
    enough = date.fromordinal(running.first + at - 1)  # counts are those of the mornings
    if not dates.last_pick < enough <= dates.stands_until:
        return dates
    return replace(dates, clear_by=leaves_bed(crop, dates.bed_from, enough))


def _day(ordinal: int) -> date | None:
    return date.fromordinal(ordinal) if ordinal > 0 else None


def stands_at_least_until(judged: Fit) -> date:
    """The day until which a crop must have its place: the late end of its first picking, a week more when it is picked on.

    **Source:** our own rule.
    """
    dates = judged.dates
    enough = dates.first_pick_late + timedelta(days=0 if judged.crop.picked == "once" else 7)
    return min(dates.clear_by, enough)


def is_picked_by_children(dates: GrowthDates, calendar: Calendar) -> bool:
    """True when children are here on some day from the first picking until nothing stands to be picked any more."""
    here = calendar.next_day_here(dates.first_pick)
    return here is not None and here <= (dates.stands_until or dates.last_pick)


def fits(crop: Crop, method: Method, start: date, setting: Setting) -> bool:
    """True when nothing speaks against it."""
    return bool(weigh(crop, method, [start], setting).verdict[0] == 0)
