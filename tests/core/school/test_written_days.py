"""Lists as they stand on web pages and in spreadsheets: days in the words of several languages, years from headings."""

from datetime import date

import pytest

from almanaque.core.school.written_days import ListReader, day_first
from tests.refuses import refuses

D = date.fromisoformat


def read(*lines: str, days_first: bool = True) -> list[tuple[str, str, str]]:
    reader = ListReader(day_first=days_first, year=None)
    events = reader.events(list(enumerate(lines, start=1)), "list.txt")
    return [(event.name, event.starts.isoformat(), event.ends.isoformat()) for event in events]


@pytest.mark.parametrize(
    ("line", "name", "first", "last"),
    [
        ("2026-09-07 Labor Day", "Labor Day", "2026-09-07", "2026-09-07"),
        ("Monday, September 7, 2026 - Labor Day", "Labor Day", "2026-09-07", "2026-09-07"),
        ("Sept. 7  Labor Day", "Labor Day", "2026-09-07", "2026-09-07"),
        ("Dec 21 – Jan 1  Winter break", "Winter break", "2026-12-21", "2027-01-01"),
        ("Winter break: December 21, 2026 to January 1, 2027", "Winter break", "2026-12-21", "2027-01-01"),
        ("November 25-27: Thanksgiving", "Thanksgiving", "2026-11-25", "2026-11-27"),
        ("14.10.2026 bis 23.10.2026 Herbstferien", "Herbstferien", "2026-10-14", "2026-10-23"),
        ("Herbstferien: 27.10. – 31.10.2026", "Herbstferien", "2026-10-27", "2026-10-31"),
        ("21.–31.12.2026 Weihnachtsferien", "Weihnachtsferien", "2026-12-21", "2026-12-31"),
        ("Vacances de Noël : du 19 décembre 2026 au 3 janvier 2027", "Vacances de Noël", "2026-12-19", "2027-01-03"),
        ("12 de octubre: Fiesta Nacional (festivo)", "Fiesta Nacional (festivo)", "2026-10-12", "2026-10-12"),
        ("Vacanze di Pasqua: dal 25 al 30 marzo 2027", "Vacanze di Pasqua", "2027-03-25", "2027-03-30"),
        ("August 12 - Grades 1-5 first day", "Grades 1-5 first day", "2026-08-12", "2026-08-12"),
        ("Schulschluss um 11.30 Uhr am 18.12.2026", "Schulschluss um 11.30 Uhr", "2026-12-18", "2026-12-18"),
        ("1/2 day October 7", "1/2 day", "2026-10-07", "2026-10-07"),
    ],
)
def test_a_line_is_a_name_and_its_days(line: str, name: str, first: str, last: str) -> None:
    assert read("School year 2026-27", line) == [(name, first, last)]


def test_months_stand_as_headings_with_bare_days_below() -> None:
    assert read(
        "2026-2027 Calendar",
        "August",
        "20  First day",
        "December",
        "21 - January 1  Winter break",
        "March",
        "22-26 Spring break",
    ) == [
        ("First day", "2026-08-20", "2026-08-20"),
        ("Winter break", "2026-12-21", "2027-01-01"),
        ("Spring break", "2027-03-22", "2027-03-26"),
    ]


def test_a_name_may_stand_in_the_line_before_its_days() -> None:
    assert read("Winter Break", "December 21, 2026 - January 1, 2027", "Spring Break", "March 15, 2027") == [
        ("Winter Break", "2026-12-21", "2027-01-01"),
        ("Spring Break", "2027-03-15", "2027-03-15"),
    ]


def test_several_days_in_a_line_are_several_events() -> None:
    assert read("INSET days: 1 September 2026, 4 January 2027") == [
        ("INSET days", "2026-09-01", "2026-09-01"),
        ("INSET days", "2027-01-04", "2027-01-04"),
    ]


def test_numbers_are_read_day_first_or_month_first_by_those_that_can_be_one_only() -> None:
    assert not day_first(["9/14/2026", "9/7/2026"], True)
    assert day_first(["14/9/2026"], False)
    assert day_first(["7/9/2026"], True)
    assert read("9/7/2026 Labor Day", days_first=False) == [("Labor Day", "2026-09-07", "2026-09-07")]


def test_a_day_without_any_year_is_refused_with_its_line() -> None:
    with refuses("school.list_without_year", where="list.txt, line 1"):
        read("September 7 Labor Day")


def test_a_day_that_is_none_is_refused_with_its_line() -> None:
    with refuses("school.entry_not_a_day", where="list.txt, line 2"):
        read("2026-27", "30 February Winter fair")
