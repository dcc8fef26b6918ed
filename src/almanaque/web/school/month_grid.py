"""A school year drawn as twelve months, for the calendar and for a file that is looked at before it is kept."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date

from almanaque.core.school.month_grid import DayCell, GridMonth, month_grid
from almanaque.core.school.school_year import SchoolYear
from almanaque.web import words


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
class YearPicture:
    """`tone` is how grave the count is: good, or asks for a look."""

    name: str
    counted: str
    months: list[GridMonthView]


def draw(year: SchoolYear, *, asked: Collection[date] = (), rows: Mapping[date, str] | None = None) -> YearPicture:
    """The picture of a year; `rows` tell which row of the calendar a day belongs to."""
    return YearPicture(
        year.name,
        words.count(len(year.school_days), "school day"),
        [_month(month, rows or {}) for month in month_grid(year, asked=asked)],
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
