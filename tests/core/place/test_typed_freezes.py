from datetime import date

import pytest

from almanaque.core.growth import school_fit
from almanaque.core.growth.setting import Setting
from almanaque.core.place.typed_freezes import TypedFreezes, parse_day_of_year
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from almanaque.data import catalogue
from tests.refuses import refuses

D = date.fromisoformat
NORTH = TypedFreezes("05-10", "05-26", "09-17", "09-28", "the growers' circle")
SOUTH = TypedFreezes("08-10", "08-30", "06-01", "06-20")
CALENDAR = Calendar([SchoolYear("y", D("2026-08-26"), D("2027-08-24"), (Span("T", D("2026-08-26"), D("2027-06-16")),))])


@pytest.mark.parametrize("day", ["2027-05-26", "2026-09-17", "2027-01-01", "2028-02-29"])
def test_frost_may_fall_from_the_early_first_to_the_late_last_freeze(day: str) -> None:
    assert NORTH.frost_may_fall(D(day))


@pytest.mark.parametrize(
    ("typed", "day"), [(NORTH, "2027-05-27"), (NORTH, "2027-09-16"), (SOUTH, "2027-05-31"), (SOUTH, "2027-08-31")]
)
def test_it_does_not_between_them_on_either_half_of_the_earth(typed: TypedFreezes, day: str) -> None:
    assert not typed.frost_may_fall(D(day))
    assert SOUTH.frost_may_fall(D("2027-07-01"))


def test_one_date_alone_says_nothing() -> None:
    assert not TypedFreezes("05-10", None, None, None).frost_may_fall(D("2027-01-01"))


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("12 May", "05-12"),
        ("May 12", "05-12"),
        ("29 Feb", "02-29"),
        ("10.12", None),
        ("05-12", "05-12"),
        ("May 12th", "05-12"),
        ("12th of May", "05-12"),
        ("Sep. 17, 2026", "09-17"),
        ("17 Sept", "09-17"),
        ("2027-5-12", "05-12"),
        ("5/26", "05-26"),
        ("26/5/2027", "05-26"),
        ("5/5", "05-05"),
        ("5/12", None),
        ("12/5/27", None),
        ("early May", "05-05"),
        ("Mid-May", "05-15"),
        ("end of September", "09-25"),
        ("May", None),
        ("maybe 5", None),
        ("1 May 2", None),
        ("mid year", None),
    ],
)
def test_days_of_the_year_are_read_as_people_write_them(text: str, found: str | None) -> None:
    if found:
        assert parse_day_of_year(text) == found
    else:
        with refuses("place.not_a_day_of_the_year"):
            parse_day_of_year(text)


@pytest.mark.parametrize("text", ["31 Feb", "soon", "13-40", "1 2 3"])
def test_what_is_no_day_is_refused(text: str) -> None:
    with refuses("place.not_a_day_of_the_year"):
        parse_day_of_year(text)


def judged(crop: str, day: str, **setting: object) -> dict[str, str]:
    found = school_fit.judge(
        catalogue()[crop], catalogue()[crop].methods[0], D(day), Setting(CALENDAR, None, "us", **setting)
    )  # type: ignore[arg-type]
    return {finding.code: finding.source for finding in found.findings}


def test_typed_dates_speak_of_frost_and_say_that_they_are_rougher() -> None:
    assert judged("bush-bean", "2027-05-01", typed=NORTH)["frost_risk"] == "the growers' circle"
    assert "frost_risk" not in judged("bush-bean", "2027-06-05", typed=NORTH)
    assert "frost_risk" not in judged("pea", "2027-04-01", typed=NORTH)  # it bears a freeze
    assert "no_weather" in judged("pea", "2027-04-01", typed=NORTH)


def test_a_chart_speaks_of_months_and_nothing_at_all_says_what_it_lacks() -> None:
    chart = {("pea", "sow"): frozenset({3, 4})}
    assert judged("pea", "2027-05-10", chart=chart)["not_in_chart"] == "chart"
    assert "not_in_chart" not in judged("pea", "2027-04-10", chart=chart)
    assert set(judged("pea", "2027-04-10")) >= {"no_weather"}


def test_windows_hold_in_a_year_without_a_leap_day() -> None:
    leap = TypedFreezes("02-29", "03-10", "11-01", "11-10")
    for year in (2027, 2028):
        assert leap.windows(catalogue()["spinach"], "direct", D(f"{year}-03-01"))


def test_a_day_is_read_with_its_comma() -> None:
    assert parse_day_of_year("May 10,") == parse_day_of_year("10 May") == "05-10"
