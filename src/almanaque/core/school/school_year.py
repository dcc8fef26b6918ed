"""When children are here: school years with terms, breaks and half days, days in session, weeks, and lessons."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, time, timedelta
from functools import cached_property
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from almanaque.core.errors import BadInput
from almanaque.core.words import Phrase

Ints = npt.NDArray[np.int32]
Longs = npt.NDArray[np.int64]
DAY = timedelta(days=1)
BREAK_DAYS = 5  # from five days without school in a row on, nobody comes by: more than a long weekend
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


SUMMER_PROGRAMME = "summer programme"  # a term of its own kind: only the groups that take part are here
SUDDEN = ("weather", "until further notice")  # closures that nobody planned; they may lie over a break
CARRIED_YEARS = 6  # as long as a tree or a row of asparagus is waited for
CARRIED_BY = timedelta(weeks=52)  # keeps the weekdays


@dataclass(frozen=True)
class Span:
    """A named run of days, both ends included. `kind` tells terms and closures apart among themselves."""

    name: str
    starts: date
    ends: date
    kind: str = ""

    def __contains__(self, day: date) -> bool:
        return self.starts <= day <= self.ends

    @property
    def days(self) -> int:
        return (self.ends - self.starts).days + 1


@dataclass(frozen=True)
class HalfDay:
    """A school day that ends early: lessons that would last beyond `until` (local time) are not held."""

    name: str
    day: date
    until: time


@dataclass(frozen=True)
class Slot:
    """A group's weekly garden lesson. Weekday 0 is Monday; the time is local.

    It is held in terms, in the summer programme, or in both, and only from `from_day` to `to_day` where they are given:
    a class has no lesson before it enters and none after it has left.
    """

    group_id: str
    weekday: int
    starts_at: time
    minutes: int
    from_day: date | None = None
    to_day: date | None = None
    in_terms: bool = True
    in_programme: bool = False

    def held_on(self, day: date) -> bool:
        return (self.from_day is None or self.from_day <= day) and (self.to_day is None or day <= self.to_day)

    @property
    def ends_at(self) -> time:
        """The time of day at which it ends; one that would last beyond midnight ends just before it."""
        minutes = min(self.starts_at.hour * 60 + self.starts_at.minute + self.minutes, 24 * 60 - 1)
        return time(minutes // 60, minutes % 60)


@dataclass(frozen=True)
class Lesson:
    """One garden lesson of one group on one day."""

    day: date
    starts_at: time
    minutes: int
    group_id: str


@dataclass(frozen=True)
class SchoolYear:
    """One school year. School is in on Monday to Friday of a term, less breaks and closures."""

    name: str
    starts: date
    ends: date
    terms: tuple[Span, ...]
    closures: tuple[Span, ...] = ()
    half_days: tuple[HalfDay, ...] = ()
    feasts: tuple[Span, ...] = ()

    @cached_property
    def school_days(self) -> tuple[date, ...]:
        """Every day on which school is in, in order."""
        return self._open_days(term for term in self.terms if term.kind != SUMMER_PROGRAMME)

    @cached_property
    def programme_days(self) -> tuple[date, ...]:
        """Every day of the summer programme, in order."""
        return self._open_days(term for term in self.terms if term.kind == SUMMER_PROGRAMME)

    def _open_days(self, terms: Iterable[Span]) -> tuple[date, ...]:
        closed = {c.starts + DAY * n for c in self.closures for n in range(c.days)}
        return tuple(
            day
            for term in sorted(terms, key=lambda t: t.starts)
            for day in (term.starts + DAY * n for n in range(term.days))
            if day.weekday() < 5 and day not in closed
        )


def check_year(year: SchoolYear) -> None:
    """Raise BadInput when anything lies outside its year, ends before it starts, or overlaps another of its kind."""
    planned = tuple(closure for closure in year.closures if closure.kind not in SUDDEN)
    for kind, spans, alone in (("term", year.terms, year.terms), ("break", year.closures, planned)):
        for span in spans:
            if span.ends < span.starts:
                raise BadInput("school.span_ends_before_start", kind=Phrase(f"school.{kind}"), span=span.name)
            _check_inside(year, kind, span.name, span.starts, span.ends)
        for before, after in pairwise(sorted(alone, key=lambda s: s.starts)):
            if after.starts <= before.ends:
                raise BadInput(
                    "school.spans_overlap", kind=Phrase(f"school.{kind}"), after=after.name, before=before.name
                )
    for half in year.half_days:
        _check_inside(year, "half_day", half.name, half.day, half.day)
    for feast in year.feasts:
        _check_inside(year, "feast", feast.name, feast.starts, feast.ends)


def _check_inside(year: SchoolYear, kind: str, name: str, starts: date, ends: date) -> None:
    if starts < year.starts or ends > year.ends:
        raise BadInput(
            "school.span_outside_year", kind=Phrase(f"school.{kind}"), name=name, starts=year.starts, ends=year.ends
        )


class Calendar:
    """All school years of a school, with a year's answers computed once.

    School is in on the days of terms; children are *here* on those days, and on those of a summer programme in which a group has
    lessons. The summer belongs to the year that just ended, until the next first day.
    """

    def __init__(
        self, years: Iterable[SchoolYear], slots: Sequence[Slot] = (), *, known_to: date | None = None
    ) -> None:
        self.years = tuple(sorted(years, key=lambda year: year.starts))
        self.slots = tuple(slots)
        self._known_to = known_to or (self.years[-1].ends if self.years else None)
        self._starts = [year.starts for year in self.years]
        self._school = [day for year in self.years for day in year.school_days]
        self._in_school = set(self._school)
        # Nobody is there for a programme in which no group has a lesson; where no lesson is on file at all, it is taken for held.
        held = not self.slots or any(slot.in_programme for slot in self.slots)
        programme = {day for year in self.years for day in year.programme_days if held} - self._in_school
        self._days = sorted(self._in_school | programme)
        self._here = set(self._days)
        self._half: dict[date, time] = {half.day: half.until for year in self.years for half in year.half_days}
        self._slots_on: dict[int, list[Slot]] = {}
        for slot in sorted(self.slots, key=lambda s: (s.starts_at, s.group_id)):
            self._slots_on.setdefault(slot.weekday, []).append(slot)

    def in_session(self, day: date) -> bool:
        """True when school is in on this day."""
        return day in self._in_school

    def children_here(self, day: date) -> bool:
        """True when school is in or the summer programme meets."""
        return day in self._here

    def half_day(self, day: date) -> time | None:
        """The time at which a half day ends; None for a whole one."""
        return self._half.get(day)

    def year_of(self, day: date) -> SchoolYear | None:
        """The school year a day belongs to; None before the first one on file."""
        at = bisect_right(self._starts, day) - 1
        return self.years[at] if at >= 0 else None

    def term_of(self, day: date) -> Span | None:
        year = self.year_of(day)
        return next((term for term in year.terms if day in term), None) if year else None

    def reaches(self, day: date) -> bool:
        """True while the calendar knows whether school is in: up to the end of its last year."""
        return bool(self.years) and self.years[0].starts <= day <= self.years[-1].ends

    @property
    def known(self) -> tuple[date, date]:
        """First and last day that somebody has said something about. Raises BadInput without a school year."""
        if not self.years or self._known_to is None:
            raise BadInput("school.no_year_on_file")
        return self.years[0].starts, self._known_to

    def supposed(self, day: date) -> bool:
        """True for a day that only a year carried on reaches: nobody has said yet when school is in then."""
        return self._known_to is not None and day > self._known_to and self.reaches(day)

    @cached_property
    def carried_on(self) -> "Calendar":
        """The same calendar with its last year's terms and planned breaks moved on by 52 weeks, again and again, for six years.

        Plans that ripen after the last year on file are judged by it. **Source:** our own rule.
        """
        if not self.years or not self.years[-1].school_days:
            return self
        more = [_moved_on(self.years[-1], CARRIED_BY * n) for n in range(1, CARRIED_YEARS + 1)]
        return Calendar((*self.years, *more), self.slots, known_to=self._known_to)

    def school_days_between(self, start: date, end: date) -> int:
        """School days from `start` to `end`, both included."""
        return _between(self._school, start, end)

    def days_here_between(self, start: date, end: date) -> int:
        """Days from `start` to `end`, both included, on which children are here."""
        return _between(self._days, start, end)

    def school_days_left(self, day: date) -> int:
        """School days from this day, itself included, to the end of its school year."""
        year = self.year_of(day)
        return self.school_days_between(day, year.ends) if year else 0

    def next_school_day(self, day: date) -> date | None:
        """The first school day on or after this one; None when the calendar has no more."""
        return _first_from(self._school, day)

    def next_day_here(self, day: date) -> date | None:
        """The first day on or after this one on which children are here; None when the calendar has no more."""
        return _first_from(self._days, day)

    def last_school_day(self, year: SchoolYear) -> date | None:
        return year.school_days[-1] if year.school_days else None

    def breaks_between(self, start: date, end: date) -> list[Span]:
        """Runs of five days or more with no children here that touch the time from `start` to `end`, with their names."""
        at = bisect_left(self._break_ends, start)
        found = []
        while at < len(self._breaks) and self._breaks[at].starts <= end:
            found.append(self._breaks[at])
            at += 1
        return found

    def next_break(self, day: date) -> Span | None:
        """The break that a day lies in, or the next one."""
        at = bisect_left(self._break_ends, day)
        return self._breaks[at] if at < len(self._breaks) else None

    @property
    def breaks(self) -> tuple[Span, ...]:
        """All runs of five days or more with no children here, in order."""
        return self._breaks

    @cached_property
    def running(self) -> "Running":
        """Running counts of days here and of lessons, for rules that look at many days at once."""
        if not self.years:
            return Running(0, np.zeros(1, dtype=np.int32), np.zeros(1, dtype=np.int32))
        first = self.years[0].starts
        length = (self.years[-1].ends - first).days + 1
        here, lessons = np.zeros(length, dtype=np.int32), np.zeros(length, dtype=np.int32)
        for day in self._days:
            at = (day - first).days
            here[at] = 1
            lessons[at] = sum(self._held(slot, day) for slot in self._slots_on.get(day.weekday(), ()))
        return Running(first.toordinal(), _running(here), _running(lessons))

    @cached_property
    def _break_ends(self) -> list[date]:
        return [gap.ends for gap in self._breaks]

    @cached_property
    def _breaks(self) -> tuple[Span, ...]:
        return tuple(gap for gap in self._gaps if gap.days >= BREAK_DAYS or gap.ends == self.years[-1].ends)

    @cached_property
    def _gaps(self) -> tuple[Span, ...]:
        """All runs of days with no children here that hold a day on which they would be: breaks, long week-ends, single days."""
        named = [closure for year in self.years for closure in year.closures]
        gaps = []
        for before, after in pairwise(self._days):
            gap = Span("", before + DAY, after - DAY)
            if any((gap.starts + DAY * n).weekday() < 5 for n in range(min(gap.days, 7))):
                touching = [c for c in named if c.starts <= gap.ends and c.ends >= gap.starts]
                inside = [c.name for c in touching if c.days > 1 or gap.days < BREAK_DAYS]
                summer = self.year_of(before) is not self.year_of(after) or before not in self._in_school
                gaps.append(Span(inside[0] if inside else "Summer break" if summer else "Break", gap.starts, gap.ends))
        if self._days and self.years[-1].ends > self._days[-1]:
            gaps.append(Span("Summer break", self._days[-1] + DAY, self.years[-1].ends))
        return tuple(gaps)

    def closed_between(self, start: date, end: date, *, least: int) -> list[Span]:
        """Runs of at least so many days with no children here that touch the time from `start` to `end`, with their names."""
        return [gap for gap in self._gaps if gap.days >= least and gap.starts <= end and gap.ends >= start]

    def week_number(self, day: date) -> int | None:
        """Week of the school year: week 1 holds its first school day, weeks begin on Monday; None outside."""
        at = bisect_right(self._first_mondays, day) - 1
        return (day - self._first_mondays[at]).days // 7 + 1 if at >= 0 else None

    @cached_property
    def _first_mondays(self) -> list[date]:
        """The Monday of week 1 of each year that has school days."""
        return [week_of(year.school_days[0])[0] for year in self.years if year.school_days]

    def lessons(self, start: date, end: date, *, group_id: str | None = None) -> list[Lesson]:
        """Garden lessons from `start` to `end`, both included, in order of time.

        In terms and in the summer programme, each with the groups that meet then; on a half day those that end in time.
        """
        return [
            Lesson(day, slot.starts_at, slot.minutes, slot.group_id)
            for day in self._days[bisect_left(self._days, start) : bisect_right(self._days, end)]
            for slot in self._slots_on.get(day.weekday(), ())
            if (group_id is None or slot.group_id == group_id) and self._held(slot, day)
        ]

    def lessons_before(self, day: date, until: date, *, group_id: str) -> int:
        """How many lessons a group still has from this day, itself included, before `until`."""
        return len(self.lessons(day, until - DAY, group_id=group_id))

    def _held(self, slot: Slot, day: date) -> bool:
        meets = slot.in_terms if day in self._in_school else slot.in_programme
        half = self._half.get(day)
        return meets and slot.held_on(day) and (half is None or slot.ends_at <= half)


@dataclass(frozen=True)
class Running:
    """Counts up to each morning from the first day on file (`first`, an ordinal), arrays (days + 1,)."""

    first: int
    here: Ints
    lessons: Ints

    def between(self, counts: Ints, start: Longs, end: Longs) -> Longs:
        """How many from `start` to `end`, both included, arrays of ordinals; days beyond the calendar count none."""
        return self.both_between(counts, counts, start, end)[0]

    def both_between(self, counts: Ints, others: Ints, start: Longs, end: Longs) -> tuple[Longs, Longs]:
        """The same of two counts at once."""
        last = len(self.here) - 1
        low = np.minimum(np.maximum(start - self.first, 0), last)
        high = np.minimum(np.maximum(end + (1 - self.first), 0), last)
        one = np.maximum(0, counts[high] - counts[low])
        return one, one if others is counts else np.maximum(0, others[high] - others[low])


def _moved_on(year: SchoolYear, by: timedelta) -> SchoolYear:
    """A year's terms and the closures somebody planned, so much later."""

    def moved(spans: Iterable[Span]) -> tuple[Span, ...]:
        return tuple(replace(span, starts=span.starts + by, ends=span.ends + by) for span in spans)

    planned = (closure for closure in year.closures if closure.kind not in SUDDEN)
    return SchoolYear(f"after {year.name}", year.starts + by, year.ends + by, moved(year.terms), moved(planned))


def _running(daily: Ints) -> Ints:
    return np.concatenate([[0], np.cumsum(daily)]).astype(np.int32)


def _between(days: Sequence[date], start: date, end: date) -> int:
    return max(0, bisect_right(days, end) - bisect_left(days, start))


def _first_from(days: Sequence[date], day: date) -> date | None:
    at = bisect_left(days, day)
    return days[at] if at < len(days) else None


def week_of(day: date) -> tuple[date, ...]:
    """The seven days of the week that holds this day, from Monday."""
    monday = day - DAY * day.weekday()
    return tuple(monday + DAY * n for n in range(7))


def grade_in(entry_year: int, year: SchoolYear) -> int:
    """Grade of a class in a school year by its year of entry: 0 (kindergarten) in the year it enters."""
    return year.starts.year - entry_year
