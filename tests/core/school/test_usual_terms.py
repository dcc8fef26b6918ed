"""Usual school years to begin with: they hold together, hold today, and have about as many days as is usual."""

from datetime import date, timedelta

import pytest

from almanaque.core.school.school_year import check_year
from almanaque.core.school.usual_terms import usual_year
from almanaque.data import usual_school_year


@pytest.mark.parametrize(
    ("country", "southern"),
    [
        ("US", False),
        ("CA", False),
        ("GB", False),
        ("AU", True),
        ("NZ", True),
        ("DE", False),
        ("FR", False),
        ("AR", True),
        ("", False),
    ],
)
def test_a_usual_year_holds_today_on_every_day_and_has_a_usual_number_of_days(country: str, southern: bool) -> None:
    low, high = usual_school_year.days(country)
    for n in range(0, 730, 11):
        today = date(2026, 1, 1) + timedelta(days=n)
        year = usual_year(country, southern=southern, today=today)
        check_year(year)
        last = year.terms[-1].ends
        assert today <= last, (country, today, year)
        assert last - today < timedelta(days=400)
        assert year.terms[0].starts.weekday() == 0
        assert low - 12 <= len(year.school_days) <= high + 25, (country, len(year.school_days))


def test_terms_of_a_southern_year_lie_in_one_calendar_year() -> None:
    year = usual_year("AU", southern=True, today=date(2027, 3, 1))
    assert year.name == "2027"
    assert [term.name for term in year.terms] == ["Term 1", "Term 2", "Term 3", "Term 4"]
