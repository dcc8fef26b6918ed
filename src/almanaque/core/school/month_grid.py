"""A school year as months of days, for whoever draws it: which days are school, and what begins, ends or is served on them."""

from collections.abc import Collection
from dataclasses import dataclass
from datetime import date
from typing import Literal

from almanaque.core.school.school_year import DAY, SUMMER_PROGRAMME, Calendar, SchoolYear

State = Literal["school", "half", "programme", "off", "weekend", "outside"]


@dataclass(frozen=True)
class DayCell:
    """One day: its state, whether a term begins or ends on it, something is served, or is asked about it; `names` say why."""

    day: date
    state: State
    begins: bool
    ends: bool
    feast: bool
    asked: bool
    names: tuple[str, ...]


@dataclass(frozen=True)
class GridMonth:
    """A month with its school days counted.

    Each week has its number, None without school, and seven places from the day on which weeks begin.
    """

    first: date
    school_days: int
    weeks: tuple[tuple[int | None, tuple[DayCell | None, ...]], ...]


def month_grid(year: SchoolYear, *, asked: Collection[date] = (), week_begins: int = 0) -> tuple[GridMonth, ...]:
    """The twelve months from the one in which the year begins; weeks begin on this weekday, 0 for Monday."""
    cells = _Cells(year, frozenset(asked))
    first = year.starts.replace(day=1)
    found = []
    for _ in range(12):
        following = (first + 31 * DAY).replace(day=1)
        found.append(_month(first, following, cells, week_begins))
        first = following
    return tuple(found)


class _Cells:
    """What is known of each day of a year, looked up once."""

    def __init__(self, year: SchoolYear, asked: frozenset[date]) -> None:
        self.year, self.asked = year, asked
        self.calendar = Calendar([year])
        self.school, self.programme = set(year.school_days), set(year.programme_days)
        self.halves = {half.day: half for half in year.half_days}
        terms = [term for term in year.terms if term.kind != SUMMER_PROGRAMME]
        self.begins, self.ends = {term.starts: term for term in terms}, {term.ends: term for term in terms}

    def of(self, day: date) -> DayCell:
        names = [span.name for span in (*self.year.closures, *self.year.feasts) if day in span]
        if day in self.begins:
            names.append(f"{self.begins[day].name} begins")
        if day in self.ends:
            names.append(f"{self.ends[day].name} ends")
        half = self.halves.get(day)
        if half is not None:
            names.append(half.name)
        feast = any(day in span for span in self.year.feasts)
        return DayCell(
            day, self._state(day), day in self.begins, day in self.ends, feast, day in self.asked, tuple(names)
        )

    def _state(self, day: date) -> State:
        if day in self.school:
            return "half" if day in self.halves else "school"
        if day in self.programme:
            return "programme"
        if not self.year.starts <= day <= self.year.ends:
            return "outside"
        return "weekend" if day.weekday() >= 5 else "off"


def _month(first: date, following: date, cells: _Cells, week_begins: int) -> GridMonth:
    begins = first - DAY * ((first.weekday() - week_begins) % 7)
    weeks = []
    count = 0
    while begins < following:
        days = [begins + DAY * n for n in range(7)]
        row = tuple(cells.of(day) if first <= day < following else None for day in days)
        here = [cell for cell in row if cell is not None and cell.state in ("school", "half")]
        count += len(here)
        if any(cell is not None and cell.state != "outside" for cell in row):
            weeks.append((cells.calendar.week_number(here[0].day) if here else None, row))
        begins += 7 * DAY
    return GridMonth(first, count, tuple(weeks))
