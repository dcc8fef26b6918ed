"""Groups of children by year of entry: which grade they are in, when they move up, leave and arrive.

A class moves up on the first day of a new school year; beds and plantings keep who planted them. Groups without a year of
entry (clubs, mixed and special classes, a whole school, guests) stay as they are.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal, get_args

from almanaque.core.errors import BadInput
from almanaque.core.school.school_year import Calendar, SchoolYear, grade_in

GroupKind = Literal["class", "club", "mixed class", "special class", "whole school", "guests"]
GROUP_KINDS: tuple[GroupKind, ...] = get_args(GroupKind)
FlagKind = Literal["may not handle", "must not touch", "must not eat"]
AGE_OF_FIRST_GRADE = 6  # years; kindergarten is a year younger: common practice, no source
FLAG_KINDS: tuple[FlagKind, ...] = get_args(FlagKind)


@dataclass(frozen=True)
class Grades:
    """The grades of a school, counted from 0 for the year of entry to `last`; `word` is how the school calls one.

    `first_number` is what the first of them is called: 0 reads as Kindergarten where the word is Grade.
    """

    last: int = 5
    word: str = "Grade"
    first_number: int = 0

    def name(self, grade: int) -> str:
        """`Grade 3`; `Kindergarten` for the one below 1."""
        number = grade + self.first_number
        return "Kindergarten" if number == 0 else f"{self.word} {number}"


@dataclass(frozen=True)
class Cohort:
    """A group as the rules see it. `entry_year` is the calendar year in which it entered; None for ungraded ones."""

    id: str
    name: str
    entry_year: int | None


def grade_on(cohort: Cohort, day: date, calendar: Calendar, grades: Grades) -> int | None:
    """The grade on a day, from 0; None for ungraded groups, before the class enters, and after it has left."""
    year = calendar.year_of(day)
    if cohort.entry_year is None or year is None:
        return None
    grade = grade_in(cohort.entry_year, year)
    return grade if 0 <= grade <= grades.last else None


def here_on(cohort: Cohort, day: date, calendar: Calendar, grades: Grades) -> bool:
    """True while the group belongs to the school: always for ungraded ones, from entering to leaving for classes."""
    return (
        cohort.entry_year is None
        or calendar.year_of(day) is None
        or grade_on(cohort, day, calendar, grades) is not None
    )


def stay(cohort: Cohort, calendar: Calendar, grades: Grades) -> tuple[date | None, date | None]:
    """First and last day at the school as far as the calendar tells; None where it does not."""
    if cohort.entry_year is None:
        return None, None
    enters = next((year.starts for year in calendar.years if year.starts.year == cohort.entry_year), None)
    leaves = next((year.ends for year in calendar.years if grade_in(cohort.entry_year, year) == grades.last), None)
    known = [year for year in calendar.years if grade_in(cohort.entry_year, year) >= 0]
    if not known and calendar.years:  # it enters after the calendar ends
        enters = date(cohort.entry_year, 1, 1)
    if calendar.years and grade_in(cohort.entry_year, calendar.years[0]) > grades.last:
        leaves = calendar.years[0].starts - timedelta(days=1)
    return enters, leaves


def label(cohort: Cohort, day: date, calendar: Calendar, grades: Grades) -> str:
    """What the group is called on a day: by its grade then, or by its name."""
    grade = grade_on(cohort, day, calendar, grades)
    return cohort.name if grade is None else grades.name(grade)


def labels(cohorts: Sequence[Cohort], day: date, calendar: Calendar, grades: Grades) -> dict[str, str]:
    """Labels of all groups by id; two classes of one grade get their own names behind it."""
    found = {cohort.id: label(cohort, day, calendar, grades) for cohort in cohorts}
    here = [found[c.id] for c in cohorts if here_on(c, day, calendar, grades)]
    return {
        c.id: f"{found[c.id]} ({c.name})" if found[c.id] != c.name and here.count(found[c.id]) > 1 else found[c.id]
        for c in cohorts
    }


def cohort_words(cohort: Cohort, today: date, calendar: Calendar, grades: Grades) -> str:
    """A class through all its years by one name: `now Grade 3`, `entered 2019, has left`; others by their name."""
    if cohort.entry_year is None:
        return cohort.name
    now = grade_on(cohort, today, calendar, grades)
    if now is not None:
        return f"now {grades.name(now)}"
    year = calendar.year_of(today)
    left = year is not None and grade_in(cohort.entry_year, year) > grades.last
    return f"entered {cohort.entry_year}, has left" if left else f"enters {cohort.entry_year}"


def planted_by(cohort: Cohort, planted: date, today: date, calendar: Calendar, grades: Grades) -> str:
    """Who planted it in the words of today: `last year's Grade 2, now Grade 3`, `Grade 5 of 2025–26, who have left`."""
    then, now = (grade_on(cohort, day, calendar, grades) for day in (planted, today))
    if then is None:
        return cohort.name
    name = grades.name(then)
    year_then, year_now = calendar.year_of(planted), calendar.year_of(today)
    if year_then is None or year_now is None or year_then is year_now:
        return name
    before = _year_before(year_now, calendar)
    whose = f"last year's {name}" if year_then is before else f"{name} of {year_then.name}"
    if now is not None:
        return f"{whose}, now {grades.name(now)}"
    return f"{whose}, who have left" if planted < today else name


@dataclass(frozen=True)
class Turn:
    """What changes on the first day of a school year: (id, from, to) of those who move up, ids that leave and arrive.

    `entry_missing` is true when no class of that year of entry is on file yet.
    """

    year: SchoolYear
    moving: tuple[tuple[str, str, str], ...]
    leaving: tuple[str, ...]
    arriving: tuple[str, ...]
    entry_missing: bool


def turn_of_year(year: SchoolYear, cohorts: Sequence[Cohort], grades: Grades) -> Turn:
    """Moving up, leaving and arriving on the first day of `year`."""
    moving, leaving, arriving = [], [], []
    for cohort in cohorts:
        if cohort.entry_year is None:
            continue
        grade = grade_in(cohort.entry_year, year)
        if grade == 0:
            arriving.append(cohort.id)
        elif grade == grades.last + 1:
            leaving.append(cohort.id)
        elif 0 < grade <= grades.last:
            moving.append((cohort.id, grades.name(grade - 1), grades.name(grade)))
    entry_missing = bool(moving or leaving) and not arriving
    return Turn(year, tuple(moving), tuple(leaving), tuple(arriving), entry_missing)


def check_slot_days(first: date | None, last: date | None) -> None:
    """Raise BadInput for a weekly lesson that ends before it begins."""
    if first and last and last < first:
        raise BadInput("school.slot_ends_before_start", field="to_day")


def flag_words(flags: Sequence[tuple[FlagKind, str]]) -> list[str]:
    """Sentences for what a group may not handle, and what someone in it must not touch or eat; never a name.

    >>> flag_words([("may not handle", "knives"), ("must not eat", "strawberries")])
    ['No knives with this group.', 'Someone here must not eat strawberries.']
    """
    return [
        f"No {what} with this group." if kind == "may not handle" else f"Someone here {kind} {what}."
        for kind, what in flags
    ]


def _year_before(year: SchoolYear, calendar: Calendar) -> SchoolYear | None:
    at = calendar.years.index(year)
    return calendar.years[at - 1] if at else None


Flags = Mapping[str, Sequence[tuple[FlagKind, str]]]
