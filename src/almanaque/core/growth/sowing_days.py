"""Many candidate days of one crop weighed at once: what every year on file made of them, against the school year.

`weigh` answers for any number of first days in one pass over arrays (days, years); `fit` turns single days of it into words.
Days are ordinals of `datetime.date` here.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from functools import cache
from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth import predictive_range, verdicts
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.crop_runs import NOTHING, Behind, Outcome, ReadyBy
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.growth.verdicts import Counts, Work
from almanaque.core.growth.weather_record import Record
from almanaque.core.place.typed_freezes import TypedFreezes
from almanaque.core.school.school_year import Calendar, Span
from almanaque.core.units import Units

Ints = npt.NDArray[np.int64]
Bools = npt.NDArray[np.bool_]
Floats = npt.NDArray[np.float64]
Verdict = Literal["fits", "with care", "misses"]
VERDICTS: tuple[Verdict, ...] = ("fits", "with care", "misses")

EPOCH = date(1970, 1, 1).toordinal()
LESSONS_TO_PICK = 2  # lessons (school days where no class has a slot) that must meet the picking
STEP_DAYS = 6  # a step may be done within a week of its day
QUANTILES = (0.1, 0.5, 0.9)  # early, middle and late of the years on file


@dataclass(frozen=True)
class Setting:
    """What a verdict depends on besides the crop: the calendar with its lessons, and the weather record if there is one.

    `ready_by` says by which practice it is ripe, `covering` and `indoors_c` what the plants feel. Without a record, typed freeze
    dates and the local office's chart speak, more roughly: `chart` maps a crop's name in small letters and what is done
    (indoors, sow, set out) to the months for it.
    """

    calendar: Calendar
    record: Record | None
    units: Units
    typed: TypedFreezes | None = None
    chart: Mapping[tuple[str, str], frozenset[int]] = field(default_factory=dict)
    ready_by: ReadyBy = "warmth"
    covering: Covering | None = None
    indoors_c: float | None = None

    @property
    def measured(self) -> bool:
        """True when a record with whole seasons speaks."""
        return self.record is not None and self.record.climate.seasons > 0


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

    `quicker` and `behind` are those of `grow`: with something behind it, it stands in the bed and nobody need be there to start it.
    `set_out_after` days plants started indoors go out, if not after the usual weeks.
    """
    first_days = days if isinstance(days, np.ndarray) else np.array([d.toordinal() for d in days], dtype=np.int64)
    later = 0 if set_out_after is None or method != "indoors" else set_out_after - 7 * crop.weeks_indoors
    years = _measured(crop, method, first_days, setting, quicker, behind, later) if setting.measured else None
    found = years or _by_packet(crop, method, first_days, later)
    calendar = setting.calendar
    running = calendar.running
    bed = first_days + found.into_bed
    ripe = found.outcome == Outcome.RIPE
    came_up = found.known & (found.outcome != Outcome.NOT_UP) & (found.up < 2000)

    ripens = _quantiles(found.first, ripe, QUANTILES)
    if years is not None:
        grows = np.maximum(ripens[:, 1] - found.into_bed, 1.0)
        ripens = predictive_range.widened(crop, method, ripens, grows)
    else:
        ripens += np.array([found.spread[0], 0, found.spread[1]])
    first = _days(first_days, ripens)
    last = _days(first_days, _quantiles(found.last, ripe, QUANTILES))
    stands = _days(first_days, _quantiles(found.stands, ripe, QUANTILES))
    touched, dropped = (found.touched & ripe).sum(axis=1), (found.dropped & ripe).sum(axis=1)
    up = _days(first_days, _quantiles(found.up, came_up, QUANTILES))

    begins, ends = first_days[:, None] + found.first, first_days[:, None] + found.stands
    here = running.between(running.here, begins, ends)
    met = running.between(running.lessons, begins, ends) if calendar.slots else here
    stored = running.between(running.lessons if calendar.slots else running.here, begins, begins + crop.keeps_days)
    of = found.known.sum(axis=1)
    ripe_years = ripe.sum(axis=1)
    school_years = (ripe & (here > 0)).sum(axis=1)
    fit_years = (ripe & (met >= LESSONS_TO_PICK)).sum(axis=1)
    stored_years = (ripe & (stored >= LESSONS_TO_PICK)).sum(axis=1) if crop.keeps_days else np.zeros_like(of)
    outcomes = _by_outcome(found.outcome, found.known)

    def hands(counts: npt.NDArray[np.int32], when: Ints) -> Bools:
        return np.asarray(running.between(counts, when, when + STEP_DAYS) > 0)

    known_first = _reached(calendar, first[:, 1])
    stands_there, any_day = behind is not NOTHING, not calendar.slots

    def work(when: Ints) -> Work:
        here = hands(running.here, when) | stands_there
        return Work(_reached(calendar, when), here, hands(running.lessons, when) | (any_day or stands_there))

    seedbed_years, seedbed_break = _seedbed(calendar.breaks, method, first_days, found.up, came_up)
    first_break = _in_break(calendar.breaks, first[:, 1])

    works = {"start": work(first_days), "bed": work(bed)} if method == "indoors" else {"bed": work(bed)}
    usual = np.ones(len(first_days), dtype=bool)
    if years is not None and behind is NOTHING:
        usual = _usual(crop, method, first_days, setting)
    said = verdicts.table(
        crop,
        Counts(
            measured=years is not None,
            seasons=setting.record.climate.seasons if setting.record is not None else 0,
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
            first_reached=known_first,
            in_break=first_break >= 0,
            usual=usual,
            in_chart=_in_chart(crop, method, first_days, setting),
        ),
    )
    return Weighed(
        days=first_days,
        measured=years is not None,
        bed=bed,
        up=up,
        first=first,
        last=last,
        stands=stands,
        touched_years=touched,
        dropped_years=dropped,
        of=of,
        outcomes=outcomes,
        ripe=ripe_years,
        school_years=school_years,
        fit_years=fit_years,
        stored_years=stored_years,
        seedbed_years=seedbed_years,
        seedbed_break=seedbed_break,
        first_break=first_break,
        said=said,
        verdict=np.maximum(verdicts.worst_of(said) - verdicts.NOTE, 0).astype(np.int8),
    )


def ripe_on(
    crop: Crop, method: Method, days: Ints, ready_by: int, setting: Setting, *, keeps: bool
) -> tuple[Ints, Ints]:
    """For first days the years in which picking has begun by the day `ready_by`, and how many years the record covers.

    Unless it does not matter (`keeps`), what neither stands until that day nor keeps in store does not count. Ordinals, arrays (days,).
    """
    found = _measured(crop, method, days, setting, 1.0, NOTHING) if setting.measured else None
    found = found or _by_packet(crop, method, days)
    ripe = found.outcome == Outcome.RIPE
    begun = days[:, None] + found.first <= ready_by
    waits = np.maximum(found.stands, found.first + crop.keeps_days)  # in the ground, or in store
    lasts = True if keeps else days[:, None] + waits >= ready_by
    return (ripe & begun & lasts).sum(axis=1), found.known.sum(axis=1)


@dataclass(frozen=True)
class _Years:
    """Days after the first one, arrays (days, years); `known` marks the years that are covered to the end."""

    into_bed: int
    up: Ints
    first: Ints
    last: Ints
    stands: Ints
    outcome: npt.NDArray[np.int8]
    touched: Bools
    dropped: Bools
    known: Bools
    spread: tuple[int, int]


def _measured(
    crop: Crop, method: Method, days: Ints, setting: Setting, quicker: float, behind: Behind, later: int = 0
) -> _Years | None:
    """The years of the record; None when it covers none of these days to the end. Plants go out `later` days than usual."""
    record = setting.record
    assert record is not None
    runs = record.runs(
        crop,
        method,
        ready_by=setting.ready_by,
        covering=setting.covering,
        indoors_c=setting.indoors_c,
        quicker=quicker,
        behind=behind,
    )
    rows = record.conditions(setting.covering, setting.indoors_c).starts[_month_days(days + later)]
    outcome = runs.outcome[rows]
    known = (rows >= 0) & (outcome != Outcome.UNKNOWN)
    if not known.any():
        return None
    up, first, last, stands = (kept[rows] + np.int16(later) for kept in (runs.up, runs.first, runs.last, runs.stands))
    outcome, touched = np.where(known, outcome, Outcome.UNKNOWN), known & runs.touched[rows]
    dropped = known & runs.dropped[rows]
    return _Years(runs.into_bed + later, up, first, last, stands, outcome, touched, dropped, known, runs.spread)


def _month_days(days: Ints) -> Ints:
    """Month × 100 + day of ordinals, array (days,)."""
    at = (days - EPOCH).astype("datetime64[D]")
    months = at.astype("datetime64[M]")
    number = months.astype(np.int64) % 12 + 1
    return np.asarray(number * 100 + (at - months).astype(np.int64) + 1)


def _by_packet(crop: Crop, method: Method, days: Ints, later: int = 0) -> _Years:
    """Packet days alone, as one year that nobody measured."""
    dates = (
        forecast(crop, method, date.fromordinal(int(days[0])))
        if len(days)
        else forecast(crop, method, date(2000, 1, 1))
    )
    begin = dates.start

    def offset(day: date | None) -> Ints:
        return np.full((len(days), 1), (day - begin).days if day else 0, dtype=np.int64)

    spread = ((dates.first_pick_early - dates.first_pick).days, (dates.first_pick_late - dates.first_pick).days)
    whole = np.ones((len(days), 1), dtype=bool)
    up = offset(dates.emerge_to or dates.bed_from) + later
    first, last = offset(dates.first_pick) + later, offset(dates.last_pick) + later
    stands = first + max(crop.stands_days or 0, crop.picking_days)
    none = np.zeros((len(days), 1), dtype=np.int8)
    bed = (dates.bed_from - begin).days + later
    return _Years(bed, up, first, last, stands, none, none.astype(bool), none.astype(bool), whole, spread)


def _by_outcome(outcome: npt.NDArray[np.int8], known: Bools) -> Ints:
    """How many years came to each outcome, (days, kinds), of those that are known."""
    kinds, days = len(Outcome), len(outcome)
    cells = (np.arange(days)[:, None] * kinds + outcome)[known]
    return np.bincount(cells, minlength=days * kinds).reshape(days, kinds).astype(np.int64)


def _quantiles(values: Ints, counted: Bools, wanted: Sequence[float]) -> Floats:
    """Empirical quantiles along the years with linear interpolation, (days, quantiles); NaN where nothing counts."""
    kept = np.sort(np.where(counted, values, np.iinfo(values.dtype).max), axis=1)
    last = counted.sum(axis=1)[:, None] - 1
    at = np.maximum(last, 0) * np.asarray(wanted)
    low = at.astype(np.int64)
    rows = np.arange(len(values))[:, None]
    below = kept[rows, low].astype(np.float64)
    above = kept[rows, np.minimum(low + 1, np.maximum(last, 0))]
    return np.where(last >= 0, below + (at - low) * (above - below), np.nan)


def _days(start: Ints, offsets: Floats) -> Ints:
    """Ordinals of days after the start; −1 where there are none."""
    none = np.isnan(offsets)
    return np.where(none, -1, start[:, None] + np.rint(np.where(none, 0.0, offsets)).astype(np.int64))


CHART_WORDS: dict[Method, str] = {"direct": "sow", "cloves": "sow", "indoors": "indoors", "starts": "set out"}


def chart_months(crop: Crop, method: Method, setting: Setting) -> frozenset[int] | None:
    """The months of the local office's chart for a way of starting a crop; None where it has none."""
    return setting.chart.get((crop.name.en.lower(), CHART_WORDS[method]))


def _in_chart(crop: Crop, method: Method, days: Ints, setting: Setting) -> Bools:
    """Whether each day lies in the chart's months; True where the chart says nothing or stands in for a record."""
    months = chart_months(crop, method, setting)
    if months is None or not setting.measured:
        return np.ones(len(days), dtype=bool)
    return np.isin(_month_days(days) // 100, list(months))


def _usual(crop: Crop, method: Method, days: Ints, setting: Setting) -> Bools:
    """Whether each day lies in the usual weeks by the freezes on file; True where these tell nothing."""
    open_days = setting.record.usual_weeks.open_days(crop, method) if setting.record is not None else None
    if open_days is None:
        return np.ones(len(days), dtype=bool)
    return np.asarray(open_days[_day_numbers()[_month_days(days)]])


@cache
def _day_numbers() -> Ints:
    """The number of each day in a year with 29 February, from 0, by month × 100 + day."""
    found = np.zeros(1300, dtype=np.int64)
    leap_year = np.arange(date(2028, 1, 1).toordinal(), date(2029, 1, 1).toordinal(), dtype=np.int64)
    found[_month_days(leap_year)] = np.arange(len(leap_year))
    return found


def _reached(calendar: Calendar, days: Ints) -> Bools:
    if not calendar.years:
        return np.zeros(len(days), dtype=bool)
    return np.asarray((days >= calendar.years[0].starts.toordinal()) & (days <= calendar.years[-1].ends.toordinal()))


def _seedbed(breaks: Sequence[Span], method: Method, days: Ints, up: Ints, came_up: Bools) -> tuple[Ints, Ints]:
    """In how many years the seed is still coming up when the first break after its sowing begins, and which break that is."""
    none = np.full(len(days), -1, dtype=np.int64)
    if method != "direct" or not breaks:
        return np.zeros(len(days), dtype=np.int64), none
    starts = np.array([gap.starts.toordinal() for gap in breaks], dtype=np.int64)
    following = np.searchsorted(starts, days, side="right")
    begins = np.append(starts, np.iinfo(np.int64).max)[following]
    over = came_up & (days[:, None] + up >= begins[:, None])
    years = over.sum(axis=1)
    return years, np.where(years > 0, following, none)


def _in_break(breaks: Sequence[Span], days: Ints) -> Ints:
    """Which break holds each day, by number; −1 for none."""
    if not breaks:
        return np.full(len(days), -1, dtype=np.int64)
    ends = np.array([gap.ends.toordinal() for gap in breaks], dtype=np.int64)
    starts = np.array([gap.starts.toordinal() for gap in breaks], dtype=np.int64)
    at = np.minimum(np.searchsorted(ends, days), len(breaks) - 1)
    return np.where((starts[at] <= days) & (days <= ends[at]), at, -1)
