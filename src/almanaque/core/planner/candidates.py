"""Ways to grant a wish, without regard to beds: crop × way of starting × week, weighed by the years on file.

Of all days of a week the best one speaks for it, a lesson of the class where it has one. What another candidate beats in everything is
dropped.
"""

from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method
from almanaque.core.growth import school_fit
from almanaque.core.growth.covers import Covering, CoverKey
from almanaque.core.growth.growth_dates import GrowthDates, leaves_bed
from almanaque.core.growth.school_fit import Fit
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import Ints, Weighed, ripe_on, weigh
from almanaque.core.planner.problem import PlanProblem, Way, Wish, crops_of
from almanaque.core.year import steps

CHANCE_BY_PACKET = (0.9, 0.6, 0.0)  # of a verdict without weather on file: our own rule
LEAST_CHANCE = (
    0.5  # of the years in which a wish comes true that need not be; what is lost more often misses: our own rule
)
# Left of its worth where a day fits, asks for care in season, asks for care outside the usual weeks of growers, or misses: our own rule.
LEFT_BY_RANK = (1.0, 0.97, 0.5, 0.0)
MISSES = 2  # the verdict that no candidate may have
MOST_OF_WISH = 60  # candidates of one wish that go on to the beds: our own choice
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class SowingCandidate:
    """A crop started in one way on one day, whatever the bed.

    `chance` is the share of years in which the wish comes true by it, `left` what is left of its worth where the day asks for care.

    `minutes` of work fall into weeks (their Mondays), `picked_in` and `stands_in` are breaks by their number in the calendar.
    """

    crop: Crop
    method: Method
    cover: CoverKey | None
    dates: GrowthDates
    chance: float
    left: float
    minutes: Mapping[date, int]
    picked_in: frozenset[int]
    stands_in: frozenset[int]

    @property
    def promise(self) -> float:
        """What it is worth of the whole wish: its chance, less where the day asks for care."""
        return self.chance * self.left

    @property
    def measured(self) -> bool:
        """False where packet days alone speak, and the chance is a guess by the verdict."""
        return self.dates.of_years > 0

    @property
    def first(self) -> int:
        """The first day in the bed, as an ordinal."""
        return self.dates.bed_from.toordinal()

    @property
    def last(self) -> int:
        """The last day on which it holds its place, as an ordinal."""
        return self.dates.clear_by.toordinal()


@dataclass(frozen=True)
class Nearest:
    """The day that came nearest to doing: as it is judged, and its `chance` where it would live but seldom comes true; else None."""

    judged: Fit
    chance: float | None

    @property
    def rank(self) -> tuple[bool, float, str]:
        """The least comes nearest."""
        return self.chance is None, -(self.judged.n if self.chance is None else self.chance), self.judged.crop.key


@dataclass(frozen=True)
class Found:
    """The candidates of a wish, how many were beaten by better ones, and what came nearest where there are none."""

    candidates: tuple[SowingCandidate, ...]
    beaten: int
    nearest: Nearest | None


class CandidateFinder:
    """Finds candidates; what several wishes ask is weighed once."""

    def __init__(self, problem: PlanProblem) -> None:
        self._problem = problem
        self._weighed: dict[tuple[str, Method, Hashable], tuple[Ints, Weighed | None]] = {}
        self._dated: dict[tuple[str, Method, Hashable, int], SowingCandidate] = {}
        self._lessons: dict[str, frozenset[int]] = {}
        self._found: dict[Hashable, Found] = {}
        self._breaks = [
            (number, gap.starts, gap.ends)
            for number, gap in enumerate(problem.calendar.breaks)
            if gap.ends >= problem.span.starts
        ]

    def found(self, wish: Wish, setting: Setting, covers: Sequence[CoverKey | None] = (None,)) -> Found:
        """All candidates of a wish where plants feel what `setting` says, the most promising first."""
        must = wish.weight == "must"
        asked = (wish.crops, wish.kind, wish.group, wish.ready_by, wish.ready_to, must, setting.felt, tuple(covers))
        if asked not in self._found:
            self._found[asked] = self._find(wish, setting, covers)
        return self._found[asked]

    def _find(self, wish: Wish, setting: Setting, covers: Sequence[CoverKey | None]) -> Found:
        good: list[SowingCandidate] = []
        nearest: Nearest | None = None
        for crop in crops_of(wish, self._problem.crops):
            if crop.key in self._problem.barred:
                continue
            for method in crop.methods:
                for cover in covers:
                    here = replace(setting, covering=Covering(cover)) if cover else setting
                    candidates, missed = self._of_way(wish, crop, method, cover, here)
                    good += candidates
                    if missed is not None and (nearest is None or missed.rank < nearest.rank):
                        nearest = missed
        kept = _unbeaten(good)
        best = sorted(kept, key=lambda c: (-c.promise, c.last - c.first, c.dates.start, c.crop.key, c.method))
        return Found(tuple(best[:MOST_OF_WISH]), len(good) - len(kept), None if good else nearest)

    def of_way(self, wish: Wish, way: Way, setting: Setting) -> SowingCandidate:
        """One way as a candidate, whatever the rules say of it. Raises BadInput when its crop is not started that way."""
        crop = self._problem.crops[way.crop]
        here = replace(setting, covering=Covering(way.cover)) if way.cover else setting
        days = np.array([way.start.toordinal()], dtype=np.int64)
        weighed = weigh(crop, way.method, days, here)
        one = self._candidate(
            crop, way.method, way.cover, school_fit.dates_of(weighed, 0, crop, way.method, here.calendar)
        )
        chance = float(self._chance(wish, crop, way.method, days, weighed, here)[0])
        left = LEFT_BY_RANK[weighed.ranks[0]]
        return replace(one, chance=chance, left=left, dates=_kept_for_its_day(wish, crop, one.dates))

    def _of_way(
        self, wish: Wish, crop: Crop, method: Method, cover: CoverKey | None, setting: Setting
    ) -> tuple[list[SowingCandidate], Nearest | None]:
        days, weighed = self._weigh(crop, method, setting)
        if weighed is None:
            return [], None
        chance = self._chance(wish, crop, method, days, weighed, setting)
        span = self._problem.span
        inside = (weighed.bed >= span.starts.toordinal()) & (weighed.bed <= span.ends.toordinal())
        least = 0.0 if wish.weight == "must" and not wish.ready_by else LEAST_CHANCE
        allowed = inside & (weighed.verdict < MISSES) & (chance > 0) & (chance >= least)
        rows = self._one_a_week(wish, days, allowed, chance * np.array(LEFT_BY_RANK)[weighed.ranks])
        if rows:
            found = [self._date(crop, method, cover, setting, row) for row in rows]
            return [
                replace(
                    one,
                    chance=float(chance[row]),
                    left=LEFT_BY_RANK[weighed.ranks[row]],
                    dates=_kept_for_its_day(wish, crop, one.dates),
                )
                for one, row in zip(found, rows, strict=True)
            ], None
        if not inside.any():
            return [], None
        lives = inside & (weighed.verdict < MISSES)
        among = np.flatnonzero(lives if lives.any() else inside)
        row = int(among[np.argmax(chance[among] if lives.any() else weighed.fit_years[among])])
        judged = school_fit.at(weighed, row, crop, method, setting)
        return [], Nearest(judged, float(chance[row]) if lives.any() else None)

    def _weigh(self, crop: Crop, method: Method, setting: Setting) -> tuple[Ints, Weighed | None]:
        key = (crop.key, method, setting.felt)
        if key not in self._weighed:
            before = timedelta(weeks=crop.weeks_indoors + 1) if method == "indoors" else timedelta(0)
            first = max(self._problem.today, self._problem.span.starts - before)
            days = np.array(
                [
                    day
                    for day in range(first.toordinal(), self._problem.span.ends.toordinal() + 1)
                    if self._problem.calendar.children_here(date.fromordinal(day))
                ],
                dtype=np.int64,
            )
            self._weighed[key] = days, weigh(crop, method, days, setting) if len(days) else None
        return self._weighed[key]

    def _chance(self, wish: Wish, crop: Crop, method: Method, days: Ints, weighed: Weighed, setting: Setting) -> Floats:
        """Share of years in which the wish comes true, by day."""
        if not weighed.measured:
            chance = np.array(CHANCE_BY_PACKET)[weighed.verdict]
        elif _nobody_picks(crop):
            chance = weighed.ripe / np.maximum(weighed.of, 1)
        else:
            chance = weighed.fit_years / np.maximum(weighed.of, 1)
        for day in (wish.ready_by, wish.ready_to):
            if day is not None:
                years, of = ripe_on(crop, method, days, day.toordinal(), setting, keeps=False)
                chance = np.minimum(chance, years / np.maximum(of, 1))
        return np.asarray(chance, dtype=np.float64)

    def _one_a_week(self, wish: Wish, days: Ints, allowed: npt.NDArray[np.bool_], promise: Floats) -> list[int]:
        """Rows of the days that speak for their weeks: in a lesson of the class where it has one that week."""
        lessons = self._lessons_of(wish.group) if wish.group else frozenset[int]()
        best: dict[int, tuple[tuple[bool, float, int], int]] = {}
        for row in np.flatnonzero(allowed).tolist():
            day = int(days[row])
            rank = (day not in lessons, -float(promise[row]), day)
            week = (day - 1) // 7  # the first ordinal was a Monday
            if week not in best or rank < best[week][0]:
                best[week] = (rank, row)
        return [row for _, row in best.values()]

    def _lessons_of(self, group: str) -> frozenset[int]:
        if group not in self._lessons:
            lessons = self._problem.calendar.lessons(self._problem.today, self._problem.span.ends, group_id=group)
            self._lessons[group] = frozenset(lesson.day.toordinal() for lesson in lessons)
        return self._lessons[group]

    def _date(self, crop: Crop, method: Method, cover: CoverKey | None, setting: Setting, row: int) -> SowingCandidate:
        """A candidate with its dates; its chance depends on the wish and is set by that."""
        key = (crop.key, method, setting.felt, row)
        if key not in self._dated:
            _, weighed = self._weigh(crop, method, setting)
            assert weighed is not None
            dates = school_fit.dates_of(weighed, row, crop, method, setting.calendar)
            self._dated[key] = self._candidate(crop, method, cover, dates)
        return self._dated[key]

    def _candidate(self, crop: Crop, method: Method, cover: CoverKey | None, dates: GrowthDates) -> SowingCandidate:
        picked = [] if _nobody_picks(crop) else self._breaks_in(dates.first_pick, dates.last_pick)
        return SowingCandidate(
            crop=crop,
            method=method,
            cover=cover,
            dates=dates,
            chance=0.0,
            left=1.0,
            minutes=self._minutes(crop, method, dates),
            picked_in=frozenset(picked),
            stands_in=frozenset(self._breaks_in(dates.bed_from, min(dates.last_pick, dates.clear_by))),
        )

    def _breaks_in(self, first: date, last: date) -> list[int]:
        return [number for number, starts, ends in self._breaks if starts <= last and first <= ends]

    def _minutes(self, crop: Crop, method: Method, dates: GrowthDates) -> dict[date, int]:
        found: dict[date, int] = {}
        for step in steps.steps(crop, method, dates, plants=1, squares=1, units=self._problem.units):
            if step.job:
                monday = step.from_day - timedelta(days=step.from_day.weekday())
                found[monday] = found.get(monday, 0) + step.minutes
        return found


def _kept_for_its_day(wish: Wish, crop: Crop, dates: GrowthDates) -> GrowthDates:
    """The dates with its place held until the day for which it is wanted, where it stands so long; what is stored leaves the bed."""
    day = wish.ready_to or wish.ready_by
    if day is None or crop.life == "perennial" or dates.stands_until is None or dates.stands_until < day:
        return dates
    return replace(dates, clear_by=max(dates.clear_by, leaves_bed(crop, dates.bed_from, day)))


def _nobody_picks(crop: Crop) -> bool:
    """Grown for guests or for the soil."""
    return crop.for_guests or crop.group == "cover crops"


def _unbeaten(candidates: Iterable[SowingCandidate]) -> list[SowingCandidate]:
    """Those that no other one of the same crop beats: later into the bed, sooner out of it, with as good a chance, in no break more."""
    kept: dict[str, list[SowingCandidate]] = {}
    for one in sorted(candidates, key=lambda c: (c.last - c.first, -c.promise, c.dates.start, c.method, c.cover or "")):
        same = kept.setdefault(one.crop.key, [])
        if not any(_beats(other, one) for other in same):
            same.append(one)
    return [one for same in kept.values() for one in same]


def _beats(one: SowingCandidate, other: SowingCandidate) -> bool:
    return (
        one.cover in (None, other.cover)
        and one.first >= other.first
        and one.last <= other.last
        and one.promise >= other.promise
        and one.picked_in <= other.picked_in
        and one.stands_in <= other.stands_in
        and (one.method != "indoors" or other.method == "indoors")
    )
