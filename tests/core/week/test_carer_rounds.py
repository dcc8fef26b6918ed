"""Carers' rounds: which weeks, how many, and which are still open."""

from datetime import date, timedelta

import pytest

from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from almanaque.core.week import carer_rounds

D = date.fromisoformat
YEAR = SchoolYear(
    "2026-27",
    D("2026-08-31"),
    D("2027-06-18"),
    (
        Span("Autumn", D("2026-08-31"), D("2026-12-18"), "term"),
        Span("Spring", D("2027-01-04"), D("2027-06-18"), "term"),
    ),
    (Span("Spring break", D("2027-04-05"), D("2027-04-09"), "break"),),
)
CALENDAR = Calendar([YEAR])


def test_weeks_without_a_school_day_have_their_rounds_and_others_none() -> None:
    found = carer_rounds.rounds(CALENDAR, D("2027-03-29"), D("2027-04-18"), a_week=2)
    assert [(r.week, r.ordinal, r.closed_for) for r in found] == [
        (D("2027-04-05"), 1, "Spring break"),
        (D("2027-04-05"), 2, "Spring break"),
    ]


@pytest.mark.parametrize("a_week", range(1, 8))
def test_the_rounds_of_a_week_share_its_seven_days_without_gap_or_overlap(a_week: int) -> None:
    found = carer_rounds.rounds(CALENDAR, D("2027-04-05"), D("2027-04-11"), a_week=a_week)
    days = [r.from_day + timedelta(days=n) for r in found for n in range((r.to_day - r.from_day).days + 1)]
    assert len(found) == a_week
    assert days == [D("2027-04-05") + timedelta(days=n) for n in range(7)]


def test_a_week_with_a_single_school_day_is_the_classes_own() -> None:
    short = Calendar(
        [
            SchoolYear(
                "y", YEAR.starts, YEAR.ends, YEAR.terms, (Span("Break", D("2027-04-05"), D("2027-04-08"), "break"),)
            )
        ]
    )
    assert carer_rounds.rounds(short, D("2027-04-05"), D("2027-04-11"), a_week=2) == []


def test_the_summer_has_rounds_until_the_first_day_of_the_year_that_is_carried_on() -> None:
    found = carer_rounds.rounds(CALENDAR.carried_on, D("2027-06-14"), D("2027-09-20"), a_week=1)
    assert found[0].week == D("2027-06-21")
    assert found[-1].week == D("2027-08-23")
    assert {r.closed_for for r in found} == {"Summer break"}


def test_outside_the_calendar_there_are_none() -> None:
    assert carer_rounds.rounds(CALENDAR, D("2024-07-01"), D("2024-07-31"), a_week=2) == []
    assert carer_rounds.rounds(Calendar([]), D("2027-07-01"), D("2027-07-31"), a_week=2) == []


def test_a_sudden_closure_makes_rounds_of_the_weeks_it_takes() -> None:
    closed = (*YEAR.closures, Span("Storm damage", D("2027-05-03"), D("2027-06-18"), "until further notice"))
    shut = Calendar([SchoolYear("y", YEAR.starts, YEAR.ends, YEAR.terms, closed)]).carried_on
    found = carer_rounds.rounds(shut, D("2027-05-03"), D("2027-06-27"), a_week=2)
    assert len(found) == 16
    assert found[0].closed_for == "Storm damage"


def test_what_is_taken_or_over_is_not_open() -> None:
    found = carer_rounds.rounds(CALENDAR, D("2027-04-05"), D("2027-04-11"), a_week=3)
    assert carer_rounds.open_rounds(found, {found[2].key}, today=D("2027-04-07")) == [found[1]]


@pytest.mark.parametrize("a_week", [0, 8])
def test_no_round_or_more_than_one_a_day_is_refused(a_week: int) -> None:
    with pytest.raises(ValueError, match="1 to 7"):
        carer_rounds.rounds(CALENDAR, D("2027-04-05"), D("2027-04-11"), a_week=a_week)
