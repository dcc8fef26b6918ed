"""Many candidate days weighed at once: what every year on file made of them, against the school year.

`weigh` answers for any number of first days of a crop in one pass over arrays (days, years), `weigh_ways` for many crops and
ways of starting them; `school_fit` turns single days of it into words. Days are ordinals of `datetime.date` here.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth import predictive_range, verdicts, years_on_file
from almanaque.core.growth.crop_runs import NOTHING, Behind, Outcome
from almanaque.core.growth.setting import Setting, chart_months
from almanaque.core.growth.verdicts import Counts, Work
from almanaque.core.growth.year_counts import (
    by_outcome,
    day_numbers,
    days_from,
    in_break,
    month_days,
    quantiles,
    reached,
    seedbed,
)
from almanaque.core.growth.years_on_file import WayYears

Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
Floats = npt.NDArray[np.float64]
Verdict = Literal["fits", "with care", "misses"]
VERDICTS: tuple[Verdict, ...] = ("fits", "with care", "misses")

Way = tuple[Crop, Method]
ROWS_AT_ONCE = 4000  # ways × days that are weighed together, so that their arrays stay in a core's own memory
LESSONS_TO_PICK = 2  # lessons (school days where no class has a slot) that must meet the picking
STEP_DAYS = 6  # a step may be done within a week of its day
QUANTILES = (0.1, 0.5, 0.9)  # early, middle and late of the years on file


@dataclass(frozen=True)
class Weighed:
    """Candidate days, arrays (days,), (days, 3) for 10, 50 and 90 % and (days, kinds) by `Outcome`. −1 stands for none.

    `of` counts the years that the record covers to the end, `ripe` those that ripen, `school_years` those in which children
    are here on some day of the picking, `fit_years` those in which it meets its lessons, `stored_years` those in which what was
    lifted and stored does. `seedbed_years` are those in which the
    seed is still coming up when the break `seedbed_break` begins; `first_break` holds the middle first picking. `last` is the end of
    its best, `stands` until when it may stand. `said` tells how grave each code is, as `verdicts.table` has it.
    """

    days: Ints
    measured: bool
    bed: Ints
    up: Ints
    first: Ints
    last: Ints
    stands: Ints
    touched_years: Ints
    dropped_years: Ints
    of: Ints
    outcomes: Ints
    ripe: Ints
    school_years: Ints
    fit_years: Ints
    stored_years: Ints
    seedbed_years: Ints
    seedbed_break: Ints
    first_break: Ints
    said: Mapping[str, verdicts.Grave]
    verdict: npt.NDArray[np.int8]

    @property
    def ranks(self) -> npt.NDArray[np.int8]:
        """Which day to begin with, the least first: 0 fits; of those that need care 1 in season and 2 outside it; 3 misses."""
        out_of_season = (self.said["not_in_window"] != verdicts.NONE) | (self.said["not_in_chart"] > verdicts.NOTE)
        return np.where(self.verdict == 1, 1 + out_of_season, np.where(self.verdict == 2, 3, 0)).astype(np.int8)

    def verdict_of(self, at: int) -> Verdict:
        return VERDICTS[int(self.verdict[at])]


def weigh(
    crop: Crop,
    method: Method,
    days: Sequence[date] | Ints,
    setting: Setting,
    *,
    quicker: float = 1.0,
    behind: Behind = NOTHING,
    set_out_after: int | None = None,
) -> Weighed:
    """Weigh first days of a crop. Raises BadInput when it is not started that way. Without a record, packet days speak.

    `quicker` and `behind` are those of `grow`: with something behind it, it stands in the bed and nobody need be there to start it;
    which variety it is and how warm its bed, the days behind it have told nobody.
    `set_out_after` days plants started indoors go out, if not after the usual weeks.
    """
    first_days = _ordinals(days)
    later = 0 if set_out_after is None or method != "indoors" else set_out_after - 7 * crop.weeks_indoors
    years = (
        years_on_file.measured(crop, method, first_days, setting, quicker, behind, later) if setting.measured else None
    )
    found = years or years_on_file.by_packet(crop, method, first_days, setting, later)
    standing = behind is not NOTHING
    return _weigh(
        [(crop, method)],
        [found],
        first_days,
        setting,
        measured=years is not None,
        standing=standing,
        grown_days=behind.days,
    )[0]


def weigh_ways(ways: Sequence[Way], days: Sequence[date] | Ints, setting: Setting) -> list[Weighed]:
    """Weigh the same first days for many ways of starting crops, in their order: as `weigh` does for each, in far fewer steps."""
    first_days = _ordinals(days)
    at_once = max(1, ROWS_AT_ONCE // max(1, len(first_days)))
    found: dict[int, Weighed] = {}
    for begin in range(0, len(ways), at_once):
        part = range(begin, min(begin + at_once, len(ways)))
        years = (
            {n: years_on_file.measured(*ways[n], first_days, setting, 1.0, NOTHING) for n in part}
            if setting.measured
            else {}
        )
        on_file = [n for n in part if years.get(n)]
        by_packet = [n for n in part if not years.get(n)]
        for numbers, measured in ((on_file, True), (by_packet, False)):
            if numbers:
                stacked = [years.get(n) or years_on_file.by_packet(*ways[n], first_days, setting) for n in numbers]
                asked = [ways[n] for n in numbers]
                found |= zip(
                    numbers, _weigh(asked, stacked, first_days, setting, measured=measured, standing=False), strict=True
                )
    return [found[n] for n in range(len(ways))]


def _ordinals(days: Sequence[date] | Ints) -> Ints:
    return days if isinstance(days, np.ndarray) else np.array([d.toordinal() for d in days], dtype=np.int64)


def _weigh(
    ways: Sequence[Way],
    by_way: "Sequence[WayYears]",
    first_days: Ints,
    setting: Setting,
    *,
    measured: bool,
    standing: bool,
    grown_days: int = 0,
) -> list[Weighed]:
    """Weigh each way of starting on each day, the ways below one another; `standing` is what is in the bed already."""
    calendar = setting.calendar
    running = calendar.running
    many = len(first_days)

    def each(values: Iterable[float | bool]) -> npt.NDArray[Any]:
        """A value of each way for all its days."""
        return np.repeat(np.array(list(values)), many)

    found = by_way[0].below(by_way[1:])
    days = np.tile(first_days, len(ways))
    into_bed = each(years.into_bed for years in by_way)
    bed = days + into_bed
    ripe = found.outcome == Outcome.RIPE
    came_up = found.known & (found.outcome != Outcome.NOT_UP) & (found.up < 2000)

    ripens = quantiles(found.first, ripe, QUANTILES)
    if measured:
        grows = np.maximum(ripens[:, 1] - into_bed + grown_days, 1.0)
        shares = [predictive_range.variety_share(crop, method) for crop, method in ways]
        varieties = each(share for share, _ in shares) * grows + each(days for _, days in shares)
        ripens = predictive_range.widened_by(varieties, ripens, grows)
    else:
        ripens[:, 0] += each(years.spread[0] for years in by_way)
        ripens[:, 2] += each(years.spread[1] for years in by_way)
    first = days_from(days, ripens)
    last = days_from(days, quantiles(found.last, ripe, QUANTILES))
    stands = days_from(days, quantiles(found.stands, ripe, QUANTILES))
    touched, dropped = (found.touched & ripe).sum(axis=1), (found.dropped & ripe).sum(axis=1)
    up = days_from(days, quantiles(found.up, came_up, QUANTILES))

    begins, ends = days[:, None] + found.first, days[:, None] + found.stands
    lessons = running.lessons if calendar.slots else running.here
    here, met = running.both_between(running.here, lessons, begins, ends)
    keeps = each(crop.keeps_days for crop, _ in ways)
    stored = np.zeros_like(met)
    kept = keeps > 0
    stored[kept] = running.between(lessons, begins[kept], begins[kept] + keeps[kept][:, None])
    of = found.known.sum(axis=1)
    ripe_years = ripe.sum(axis=1)
    school_years = (ripe & (here > 0)).sum(axis=1)
    fit_years = (ripe & (met >= LESSONS_TO_PICK)).sum(axis=1)
    stored_years = (ripe & (stored >= LESSONS_TO_PICK)).sum(axis=1) * (keeps > 0)
    outcomes = by_outcome(found.outcome, found.known)

    def hands(counts: npt.NDArray[np.int32], when: Ints) -> Bools:
        return np.asarray(running.between(counts, when, when + STEP_DAYS) > 0)

    no_lesson_needed = standing or not calendar.slots

    def work(when: Ints, needed: Bools | bool = True) -> Work:
        """A work on its days; where it is not `needed`, nothing can speak against it."""
        spared = ~np.asarray(needed)
        here = hands(running.here, when) | standing | spared
        return Work(reached(calendar, when) | spared, here, hands(running.lessons, when) | no_lesson_needed | spared)

    works = {"bed": work(bed)}
    indoors = each(method == "indoors" for _, method in ways)
    if indoors.any():
        works = {"start": work(days, indoors), **works}
    seedbed_years, seedbed_break = seedbed(
        calendar.breaks, days, found.up, came_up & each(method == "direct" for _, method in ways)[:, None]
    )
    first_break = in_break(calendar.breaks, first[:, 1])
    usual = np.ones(len(days), dtype=bool)
    if measured and not standing:
        usual = np.concatenate([_usual(crop, method, first_days, setting) for crop, method in ways])
    said = verdicts.table(
        Counts(
            measured=measured,
            chart_leads=setting.leads != "record",
            seasons=setting.record.climate.seasons if setting.record is not None else 0,
            for_guests=each(crop.for_guests for crop, _ in ways),
            of=of,
            outcomes=outcomes,
            touched=touched,
            dropped=dropped,
            ripe=ripe_years,
            school_years=school_years,
            fit_years=fit_years,
            stored_years=stored_years,
            seedbed_years=seedbed_years,
            works=works,
            first_reached=reached(calendar, first[:, 1]),
            in_break=first_break >= 0,
            usual=usual,
            in_chart=np.concatenate([_in_chart(crop, method, first_days, setting) for crop, method in ways]),
        ),
    )
    verdict = np.maximum(verdicts.worst_of(said) - verdicts.NOTE, 0).astype(np.int8)
    return [
        Weighed(
            days=first_days,
            measured=measured,
            bed=bed[rows],
            up=up[rows],
            first=first[rows],
            last=last[rows],
            stands=stands[rows],
            touched_years=touched[rows],
            dropped_years=dropped[rows],
            of=of[rows],
            outcomes=outcomes[rows],
            ripe=ripe_years[rows],
            school_years=school_years[rows],
            fit_years=fit_years[rows],
            stored_years=stored_years[rows],
            seedbed_years=seedbed_years[rows],
            seedbed_break=seedbed_break[rows],
            first_break=first_break[rows],
            said={code: graves[rows] for code, graves in said.items()},
            verdict=verdict[rows],
        )
        for rows in (slice(n * many, (n + 1) * many) for n in range(len(ways)))
    ]


def ripe_on(
    crop: Crop, method: Method, days: Ints, ready_by: int, setting: Setting, *, keeps: bool
) -> tuple[Ints, Ints]:
    """For first days the years in which picking has begun by the day `ready_by`, and how many years the record covers.

    Unless it does not matter (`keeps`), what neither stands until that day nor keeps in store does not count. Ordinals, arrays (days,).
    """
    found = years_on_file.measured(crop, method, days, setting, 1.0, NOTHING) if setting.measured else None
    found = found or years_on_file.by_packet(crop, method, days, setting)
    ripe = found.outcome == Outcome.RIPE
    begun = days[:, None] + found.first <= ready_by
    waits = np.maximum(found.stands, found.first + crop.keeps_days)  # in the ground, or in store
    lasts = True if keeps else days[:, None] + waits >= ready_by
    return (ripe & begun & lasts).sum(axis=1), found.known.sum(axis=1)


def _in_chart(crop: Crop, method: Method, days: Ints, setting: Setting) -> Bools:
    """Whether each day lies in the chart's months; True where the chart says nothing or stands in for a record."""
    months = chart_months(crop, method, setting)
    if months is None or not setting.measured:
        return np.ones(len(days), dtype=bool)
    return np.isin(month_days(days) // 100, list(months))


def _usual(crop: Crop, method: Method, days: Ints, setting: Setting) -> Bools:
    """Whether each day lies in the usual weeks by the freezes on file; True where these tell nothing."""
    if setting.leads == "chart" and chart_months(crop, method, setting) is not None:
        return np.ones(len(days), dtype=bool)
    open_days = setting.record.usual_weeks.open_days(crop, method) if setting.record is not None else None
    if open_days is None:
        return np.ones(len(days), dtype=bool)
    return np.asarray(open_days[day_numbers()[month_days(days)]])
