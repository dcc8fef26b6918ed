"""A school year drawn as twelve months, for the calendar and for a file that is looked at before it is kept."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date

from almanaque.core.school.month_grid import DayCell, GridMonth, month_grid
from almanaque.core.school.school_year import WEEKDAYS, SchoolYear
from almanaque.data import zones
from almanaque.web import words

SATURDAY = 5


@dataclass(frozen=True)
class GridDayView:
    """A day as its cell shows it; `row` is the row of the calendar that a click on it opens."""

    number: int
    iso: str
    css: str
    says: str
    row: str


@dataclass(frozen=True)
class GridWeekView:
    number: str
    days: list[GridDayView | None]


@dataclass(frozen=True)
class GridMonthView:
    name: str
    counted: str
    weeks: list[GridWeekView]


@dataclass(frozen=True)
class GridWeekdayView:
    letter: str
    name: str
    weekend: bool


@dataclass(frozen=True)
class YearPicture:
    """`tone` is how grave the count is: good, or asks for a look."""

    name: str
    counted: str
    weekdays: list[GridWeekdayView]
    months: list[GridMonthView]


def draw(
    year: SchoolYear, zone: str, *, asked: Collection[date] = (), rows: Mapping[date, str] | None = None
) -> YearPicture:
    """The picture of a year, its weeks as in the zone's country; `rows` tell which row of the calendar a day belongs to."""
    begins = zones.week_begins(zone)
    order = [(begins + n) % 7 for n in range(7)]
    return YearPicture(
        year.name,
        words.count(len(year.school_days), "school day"),
        [GridWeekdayView(WEEKDAYS[day][0], WEEKDAYS[day], day >= SATURDAY) for day in order],
        [_month(month, rows or {}) for month in month_grid(year, asked=asked, week_begins=begins)],
    )


def _month(month: GridMonth, rows: Mapping[date, str]) -> GridMonthView:
    return GridMonthView(
        f"{words.month_name(month.first)} {month.first.year}",
        words.count(month.school_days, "day") if month.school_days else "no school",
        [
            GridWeekView(str(number) if number else "", [_day(cell, rows) if cell else None for cell in cells])
            for number, cells in month.weeks
        ],
    )


def _day(cell: DayCell, rows: Mapping[date, str]) -> GridDayView:
    marks = [
        name
        for name, there in (
            ("begins", cell.begins),
            ("ends", cell.ends),
            ("feast", cell.feast),
            ("asked", cell.asked),
        )
        if there
    ]
    state = {"school": "school", "half": "half day", "programme": "summer programme"}.get(cell.state, "no school")
    says = f"{words.weekday_day(cell.day)}, {state}" + (f": {', '.join(cell.names)}" if cell.names else "")
    css = " ".join((f"is-{cell.state}", *(f"is-{mark}" for mark in marks)))
    return GridDayView(cell.day.day, cell.day.isoformat(), css, says, rows.get(cell.day, ""))
