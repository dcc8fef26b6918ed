"""Which school years a calendar speaks of, and from when to when each lasts."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from itertools import zip_longest

from almanaque.core.school.event_meaning import EventMark
from almanaque.core.school.event_words import BEGIN_THE_YEAR
from almanaque.core.school.school_year import DAY

ANOTHER_YEAR, ANOTHER_BY_NAME = timedelta(days=300), timedelta(days=120)  # after the one before: our own rule
STAFF_BEFORE = timedelta(days=45)  # staff days before the first day belong to its year: our own rule
SUMMER_AT_LEAST = timedelta(days=28)  # a shorter gap is no change of years: our own rule
EDGES = ("first day", "last day", "term", "term begins", "term ends", "back", "break", "break begins", "break ends")
USUAL_YEAR = timedelta(days=290)  # from the first day to the last, where the file says only one of them


@dataclass(frozen=True)
class YearWindow:
    """The time of one school year, both days included; `begins` is the day it is said to begin, staff days may lie before."""

    first: date
    last: date
    begins: date

    def __contains__(self, day: date) -> bool:
        return self.first <= day <= self.last


def year_windows(marks: Sequence[EventMark]) -> list[YearWindow]:
    """One for each school year that the marks, in the order of time, speak of."""
    begins: list[date] = []
    last_of_school: date | None = None
    for mark in marks:
        day = mark.event.starts
        if mark.role == "last day" and begins and mark.audience != "some":
            last_of_school = mark.event.ends
        if not (mark.role in ("first day", "term", "term begins") or after_summer(mark)):
            continue
        names_first = mark.role == "first day" or (mark.term is not None and mark.term.number in BEGIN_THE_YEAR)
        names_first = names_first or after_summer(mark)
        if after_summer(mark):
            day = weekday_from(mark.event.ends + DAY)
        if not begins:
            begins.append(day)
            continue
        gap = day - begins[-1]
        if mark.audience == "some" and gap < ANOTHER_YEAR:
            continue
        over = last_of_school is not None and last_of_school > begins[-1]
        closed = over and last_of_school is not None and day - last_of_school >= SUMMER_AT_LEAST
        if mark.role == "first day" and over and not closed and gap < ANOTHER_YEAR:
            continue  # of another term
        if gap >= ANOTHER_YEAR or (names_first and (gap >= ANOTHER_BY_NAME or (closed and mark.role == "first day"))):
            begins.append(day)
    return _bounded(marks, begins)


def returns_begin_years(marks: Sequence[EventMark]) -> list[EventMark]:
    """Where pupils return after a summer, or before anything else is told, and nothing says first day, the return is the first day."""
    said = [mark.event.starts for mark in marks if mark.role in ("first day", "term begins", "term")]
    found: list[EventMark] = []
    before: EventMark | None = None
    for mark in sorted(marks, key=lambda mark: (mark.event.starts, mark.event.ends)):
        returns = mark.role == "back" and mark.audience == "all" and (before is None or _summer_between(before, mark))
        if returns and not any(abs(day - mark.event.starts) < STAFF_BEFORE for day in said):
            mark = replace(mark, role="first day")
        found.append(mark)
        if mark.role in EDGES:
            before = mark
    return found


def _summer_between(before: EventMark, mark: EventMark) -> bool:
    return ends_school(before) and mark.event.starts - before.event.ends >= SUMMER_AT_LEAST


def after_summer(mark: EventMark) -> bool:
    """A summer break that is given whole says when school is in again."""
    return mark.role == "break" and mark.summer and mark.event.days >= SUMMER_AT_LEAST.days


def _bounded(marks: Sequence[EventMark], begins: list[date]) -> list[YearWindow]:
    days = [mark.event.starts for mark in marks if mark.role not in ("ignored", "told")]
    if not days:
        return []
    earlier = [day for day in days if not begins or day < begins[0] - STAFF_BEFORE]
    lasts = [m.event.ends for m in marks if ends_school(m) and (not begins or m.event.ends < begins[0])]
    windows = []
    if not begins or (lasts and len(earlier) > 3) or (begins and len(earlier) > 6):
        windows.append(_supposed_window(marks, earlier, lasts, begins))
    windows += [
        YearWindow(_with_staff(marks, first), (_with_staff(marks, after) if after else _year_later(first)) - DAY, first)
        for first, after in zip_longest(begins, begins[1:])
    ]
    return windows


def _supposed_window(marks: Sequence[EventMark], days: list[date], lasts: list[date], begins: list[date]) -> YearWindow:
    """The year of a file that does not say when school begins: by its last day, else by the time of its events."""
    end = begins[0] - DAY if begins else None
    if lasts:
        first = lasts[-1] - USUAL_YEAR
        first = min(first, days[0])
    else:
        summer = next((m.event.starts for m in marks if m.summer and (end is None or m.event.starts <= end)), None)
        first = min(days[0], summer - USUAL_YEAR) if summer is not None and summer > days[0] else days[0]
    first = _usual_begin(first) if first == days[0] else first
    return YearWindow(first, end or _year_later(first) - DAY, first)


def ends_school(mark: EventMark) -> bool:
    """It says when the last school day of a year or term is."""
    return mark.role == "last day" or (mark.role == "term ends" and mark.term is not None)


def _with_staff(marks: Sequence[EventMark], first: date) -> date:
    """Staff days shortly before the first day are of its year."""
    days = [
        mark.event.starts
        for mark in marks
        if mark.role == "training day" and first - STAFF_BEFORE <= mark.event.starts < first
    ]
    return min([first, *days])


def hardly_told(marks: Sequence[EventMark], window: YearWindow) -> bool:
    """A year of which the file says that it begins and next to nothing more."""
    mine = [m for m in marks if m.event.starts in window and m.role not in ("ignored", "told")]
    ends = any(ends_school(m) or m.role == "term" for m in mine)
    return not ends and len(mine) <= 4


def weekday_from(day: date) -> date:
    """The day, or the Monday after a weekend."""
    return day + DAY * ((7 - day.weekday()) if day.weekday() >= 5 else 0)


def weekday_back(day: date) -> date:
    """The day, or the Friday before a weekend."""
    return day - DAY * max(0, day.weekday() - 4)


def _usual_begin(day: date) -> date:
    """A day to begin from where nothing says it: the Monday of its week."""
    return day - DAY * day.weekday()


def _year_later(day: date) -> date:
    return day.replace(year=day.year + 1) if (day.month, day.day) != (2, 29) else date(day.year + 1, 3, 1)
