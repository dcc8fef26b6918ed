"""When children are here: school years with terms and breaks, days in session, weeks, and lessons."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, time, timedelta
from functools import cached_property
from itertools import pairwise

from almanaque.core.errors import BadInput

DAY = timedelta(days=1)
BREAK_DAYS = 5  # from five days without school in a row on, nobody comes by: more than a long weekend
WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


@dataclass(frozen=True)
class Span:
    """A named run of days, both ends included."""

    name: str
    starts: date
    ends: date

    def __contains__(self, day: date) -> bool:
        return self.starts <= day <= self.ends

    @property
    def days(self) -> int:
        return (self.ends - self.starts).days + 1


@dataclass(frozen=True)
class Slot:
    """A class's weekly garden lesson. Weekday 0 is Monday; the time is local."""

    group_id: str
    weekday: int
    starts_at: time
    minutes: int


@dataclass(frozen=True)
class Lesson:
    """One garden lesson of one class on one day."""

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

    @cached_property
    def school_days(self) -> tuple[date, ...]:
        """Every day on which school is in, in order."""
        closed = {c.starts + DAY * n for c in self.closures for n in range(c.days)}
        return tuple(
            day
            for term in sorted(self.terms, key=lambda t: t.starts)
            for day in (term.starts + DAY * n for n in range(term.days))
            if day.weekday() < 5 and day not in closed
        )


def check_year(year: SchoolYear) -> None:
    """Raise BadInput when a term or break lies outside its year, ends before it starts, or overlaps another."""
    for kind, spans in (("term", year.terms), ("break", year.closures)):
        ordered = sorted(spans, key=lambda s: s.starts)
        for span in ordered:
            if span.ends < span.starts:
                raise BadInput(f"The {kind} “{span.name}” ends before it starts. Swap the two dates or correct one.")
            if span.starts < year.starts or span.ends > year.ends:
                raise BadInput(
                    f"The {kind} “{span.name}” lies outside the school year, which runs from "
                    f"{year.starts.isoformat()} to {year.ends.isoformat()}. Correct its dates."
                )
        for before, after in pairwise(ordered):
            if after.starts <= before.ends:
                raise BadInput(
                    f"The {kind} “{after.name}” starts before “{before.name}” ends. Change the dates of one of them."
                )


class Calendar:
    """All school years of a school, with a year's answers computed once.

    The summer belongs to the year that just ended, until the next first day.
    """

    def __init__(self, years: Iterable[SchoolYear], slots: Sequence[Slot] = ()) -> None:
        self.years = tuple(sorted(years, key=lambda year: year.starts))
        self.slots = tuple(slots)
        self._days = [day for year in self.years for day in year.school_days]
        self._known = set(self._days)
        self._slots_on: dict[int, list[Slot]] = {}
        for slot in sorted(self.slots, key=lambda s: (s.starts_at, s.group_id)):
            self._slots_on.setdefault(slot.weekday, []).append(slot)

    def in_session(self, day: date) -> bool:
        """True when school is in on this day."""
        return day in self._known

    def year_of(self, day: date) -> SchoolYear | None:
        """The school year a day belongs to; None before the first one on file."""
        at = bisect_right([year.starts for year in self.years], day) - 1
        return self.years[at] if at >= 0 else None

    def term_of(self, day: date) -> Span | None:
        year = self.year_of(day)
        return next((term for term in year.terms if day in term), None) if year else None

    def reaches(self, day: date) -> bool:
        """True while the calendar knows whether school is in: up to a year after its last year began."""
        return bool(self.years) and self.years[0].starts <= day <= self.years[-1].ends

    def school_days_between(self, start: date, end: date) -> int:
        """School days from `start` to `end`, both included."""
        return max(0, bisect_right(self._days, end) - bisect_left(self._days, start))

    def school_days_left(self, day: date) -> int:
        """School days from this day, itself included, to the end of its school year."""
        year = self.year_of(day)
        return self.school_days_between(day, year.ends) if year else 0

    def next_school_day(self, day: date) -> date | None:
        """The first school day on or after this one; None when the calendar has no more."""
        at = bisect_left(self._days, day)
        return self._days[at] if at < len(self._days) else None

    def last_school_day(self, year: SchoolYear) -> date | None:
        return year.school_days[-1] if year.school_days else None

    def breaks_between(self, start: date, end: date) -> list[Span]:
        """Runs of five days or more without school that touch the time from `start` to `end`, with their names."""
        found = []
        for gap in self._breaks:
            if gap.starts <= end and gap.ends >= start:
                found.append(gap)
        return found

    def next_break(self, day: date) -> Span | None:
        """The break that a day lies in, or the next one."""
        return next((gap for gap in self._breaks if gap.ends >= day), None)

    @cached_property
    def _breaks(self) -> tuple[Span, ...]:
        named = [closure for year in self.years for closure in year.closures]
        gaps = []
        for before, after in pairwise(self._days):
            gap = Span("", before + DAY, after - DAY)
            if gap.days >= BREAK_DAYS:
                inside = [c.name for c in named if c.starts <= gap.ends and c.ends >= gap.starts and c.days > 1]
                summer = self.year_of(before) is not self.year_of(after)
                gaps.append(Span(inside[0] if inside else "Summer break" if summer else "Break", gap.starts, gap.ends))
        if self._days and self.years[-1].ends > self._days[-1]:
            gaps.append(Span("Summer break", self._days[-1] + DAY, self.years[-1].ends))
        return tuple(gaps)

    def week_number(self, day: date) -> int | None:
        """Week of the school year: week 1 holds its first school day, weeks begin on Monday; None outside."""
        for year in reversed(self.years):
            if year.school_days:
                monday = week_of(year.school_days[0])[0]
                if day >= monday:
                    return (day - monday).days // 7 + 1
        return None

    def lessons(self, start: date, end: date, *, group_id: str | None = None) -> list[Lesson]:
        """Garden lessons from `start` to `end`, both included, on days when school is in; in order of time."""
        return [
            Lesson(day, slot.starts_at, slot.minutes, slot.group_id)
            for day in self._days[bisect_left(self._days, start) : bisect_right(self._days, end)]
            for slot in self._slots_on.get(day.weekday(), ())
            if group_id is None or slot.group_id == group_id
        ]


def week_of(day: date) -> tuple[date, ...]:
    """The seven days of the week that holds this day, from Monday."""
    monday = day - DAY * day.weekday()
    return tuple(monday + DAY * n for n in range(7))


def grade_in(entry_year: int, year: SchoolYear) -> int:
    """Grade of a class in a school year by its year of entry: 0 (kindergarten) in the year it enters."""
    return year.starts.year - entry_year
