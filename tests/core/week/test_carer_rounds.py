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


def test_of_a_week_partly_closed_the_closed_days_have_their_round() -> None:
    short = Calendar(
        [
            SchoolYear(
                "y", YEAR.starts, YEAR.ends, YEAR.terms, (Span("Break", D("2027-04-05"), D("2027-04-08"), "break"),)
            )
        ]
    )
    found = carer_rounds.rounds(short, D("2027-04-05"), D("2027-04-11"), a_week=2)
    assert [(r.ordinal, r.from_day, r.to_day) for r in found] == [(1, D("2027-04-05"), D("2027-04-08"))]


def closed(*spans: tuple[str, str]) -> Calendar:
    shut = tuple(Span("Storm", D(first), D(last), "until further notice") for first, last in spans)
    return Calendar([SchoolYear("y", YEAR.starts, YEAR.ends, YEAR.terms, shut)])


def test_a_closure_from_a_thursday_has_a_round_before_its_first_monday() -> None:
    found = carer_rounds.rounds(closed(("2027-05-06", "2027-05-18")), D("2027-05-03"), D("2027-05-23"), a_week=2)
    assert [(r.week, r.ordinal, r.from_day, r.to_day) for r in found] == [
        (D("2027-05-03"), 11, D("2027-05-06"), D("2027-05-09")),
        (D("2027-05-10"), 1, D("2027-05-10"), D("2027-05-12")),
        (D("2027-05-10"), 2, D("2027-05-13"), D("2027-05-16")),
        (D("2027-05-17"), 1, D("2027-05-17"), D("2027-05-18")),
    ]


def test_every_closed_day_but_a_week_end_beside_school_is_in_one_round() -> None:
    found = carer_rounds.rounds(closed(("2027-05-04", "2027-05-26")), D("2027-04-26"), D("2027-06-06"), a_week=3)
    days = [r.from_day + timedelta(days=n) for r in found for n in range((r.to_day - r.from_day).days + 1)]
    assert days == [D("2027-05-04") + timedelta(days=n) for n in range(23)]
    assert len({r.key for r in found}) == len(found)


def test_a_long_week_end_has_none_and_four_days_have_one() -> None:
    assert carer_rounds.rounds(closed(("2027-05-07", "2027-05-07")), D("2027-05-03"), D("2027-05-16"), a_week=7) == []
    found = carer_rounds.rounds(closed(("2027-05-06", "2027-05-07")), D("2027-05-03"), D("2027-05-16"), a_week=2)
    assert [(r.from_day, r.to_day) for r in found] == [(D("2027-05-06"), D("2027-05-09"))]


def test_a_seedbed_is_looked_after_daily_until_it_is_up_unless_nobody_was_there_to_sow_it() -> None:
    shut = closed(("2027-05-06", "2027-05-18"))
    sown = (D("2027-05-01"), D("2027-05-08"))
    found = carer_rounds.rounds(shut, D("2027-05-03"), D("2027-05-23"), a_week=2, seedbeds=[sown])
    daily = [r for r in found if r.seedbed]
    assert [(r.from_day, r.ordinal) for r in daily] == [
        (D("2027-05-06"), 24),
        (D("2027-05-07"), 25),
        (D("2027-05-08"), 26),
    ]
    later = (D("2027-05-10"), D("2027-05-20"))
    assert not any(
        r.seedbed for r in carer_rounds.rounds(shut, D("2027-05-03"), D("2027-05-23"), a_week=2, seedbeds=[later])
    )


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
