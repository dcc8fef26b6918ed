"""A school year as months of days."""

from datetime import date, timedelta

import pytest

from almanaque.core.school.month_grid import month_grid
from almanaque.core.school.school_year import SchoolYear, Span

YEAR = SchoolYear(
    "2026–27",
    date(2026, 9, 1),
    date(2027, 8, 31),
    (Span("all of it", date(2026, 9, 1), date(2027, 6, 18), "term"),),
    (Span("Winter break", date(2026, 12, 21), date(2027, 1, 1), "break"),),
)


@pytest.mark.parametrize("begins", [0, 5, 6])
def test_every_day_stands_once_under_its_weekday_wherever_weeks_begin(begins: int) -> None:
    months = month_grid(YEAR, week_begins=begins)
    found = [cell for month in months for _, week in month.weeks for cell in week if cell is not None]
    assert [cell.day for cell in found] == [YEAR.starts + timedelta(days=n) for n in range(365)]
    for month in months:
        for _, week in month.weeks:
            assert all(cell is None or (cell.day.weekday() - begins) % 7 == at for at, cell in enumerate(week))


def test_the_months_count_their_school_days_and_a_term_begins_and_ends() -> None:
    months = month_grid(YEAR, asked=[date(2026, 9, 2)])
    assert sum(month.school_days for month in months) == len(YEAR.school_days)
    cells = {cell.day: cell for month in months for _, week in month.weeks for cell in week if cell is not None}
    assert (cells[date(2026, 9, 1)].begins, cells[date(2027, 6, 18)].ends, cells[date(2026, 9, 2)].asked) == (
        True,
        True,
        True,
    )
    assert (cells[date(2026, 12, 22)].state, cells[date(2026, 12, 22)].names) == ("off", ("Winter break",))
    assert (cells[date(2026, 9, 5)].state, cells[date(2027, 7, 5)].state) == ("weekend", "off")
