from dataclasses import replace
from datetime import date, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.school.school_year import Calendar, SchoolYear, Slot, Span, check_year, grade_in, week_of
from tests.refuses import refuses

D = date.fromisoformat
YEAR = SchoolYear(
    "2026–27",
    D("2026-08-26"),
    D("2027-08-24"),
    (Span("Autumn term", D("2026-08-26"), D("2026-12-18")), Span("Spring term", D("2027-01-04"), D("2027-06-16"))),
    (
        Span("Leaf-fall break", D("2026-11-23"), D("2026-11-27")),
        Span("Winter break", D("2026-12-19"), D("2027-01-03")),
        Span("Fair", D("2027-05-14"), D("2027-05-14")),
    ),
)
NEXT = SchoolYear("2027–28", D("2027-08-25"), D("2028-08-22"), (Span("Autumn term", D("2027-08-25"), D("2027-12-17")),))
CALENDAR = Calendar(
    [NEXT, YEAR], [Slot("a", 1, time(9, 40), 45), Slot("b", 1, time(9, 0), 45), Slot("a", 4, time(11), 30)]
)


def test_school_is_in_on_weekdays_of_a_term_less_breaks() -> None:
    assert CALENDAR.in_session(D("2026-08-26"))
    assert not CALENDAR.in_session(D("2026-08-29"))  # a Saturday
    assert not CALENDAR.in_session(D("2026-11-25"))
    assert not CALENDAR.in_session(D("2027-05-14"))
    assert not CALENDAR.in_session(D("2027-07-01"))


def test_the_summer_belongs_to_the_year_that_just_ended() -> None:
    assert CALENDAR.year_of(D("2027-08-24")) is YEAR
    assert CALENDAR.year_of(D("2027-08-25")) is NEXT
    assert CALENDAR.year_of(D("2026-08-25")) is None


def test_week_one_holds_the_first_school_day() -> None:
    assert CALENDAR.week_number(D("2026-08-24")) == 1
    assert CALENDAR.week_number(D("2026-08-30")) == 1
    assert CALENDAR.week_number(D("2026-08-31")) == 2
    assert CALENDAR.week_number(D("2027-08-24")) == 1  # the Monday before the next first day
    assert CALENDAR.week_number(D("2020-01-01")) is None


def test_breaks_are_runs_of_five_days_with_their_names() -> None:
    names = [(gap.name, gap.starts) for gap in CALENDAR.breaks_between(YEAR.starts, YEAR.ends)]
    assert names == [
        ("Leaf-fall break", D("2026-11-21")),
        ("Winter break", D("2026-12-19")),
        ("Summer break", D("2027-06-17")),
    ]
    assert CALENDAR.next_break(D("2027-04-14")).name == "Summer break"
    assert CALENDAR.next_break(D("2027-07-14")).starts == D("2027-06-17")


def test_school_days_left_count_the_day_itself() -> None:
    assert CALENDAR.school_days_left(D("2027-06-16")) == 1
    assert CALENDAR.school_days_left(D("2027-06-17")) == 0
    assert CALENDAR.last_school_day(YEAR) == D("2027-06-16")
    assert CALENDAR.next_school_day(D("2027-06-17")) == D("2027-08-25")
    assert CALENDAR.next_school_day(D("2028-01-01")) is None


def test_lessons_fall_on_school_days_in_order_of_time() -> None:
    lessons = CALENDAR.lessons(D("2026-11-16"), D("2026-12-01"))
    assert [(le.day.isoformat(), le.group_id) for le in lessons] == [
        ("2026-11-17", "b"),
        ("2026-11-17", "a"),
        ("2026-11-20", "a"),
        ("2026-12-01", "b"),
        ("2026-12-01", "a"),
    ]
    assert len(CALENDAR.lessons(D("2026-11-16"), D("2026-12-01"), group_id="b")) == 2


@given(st.dates(D("2026-06-01"), D("2028-12-31")), st.integers(0, 500))
def test_counting_days_agrees_with_asking_each_day(start: date, length: int) -> None:
    end = start + timedelta(days=length)
    one_by_one = sum(CALENDAR.in_session(start + timedelta(days=n)) for n in range(length + 1))
    assert CALENDAR.school_days_between(start, end) == one_by_one


@given(st.dates(D("2026-06-01"), D("2028-12-31")))
def test_no_school_day_lies_in_a_break(day: date) -> None:
    if CALENDAR.in_session(day):
        assert not CALENDAR.breaks_between(day, day)


@given(st.dates())
def test_a_week_runs_from_monday_and_holds_its_day(day: date) -> None:
    if date(1, 1, 8) < day < date(9999, 12, 20):
        week = week_of(day)
        assert week[0].weekday() == 0
        assert day in week


@pytest.mark.parametrize(
    ("term", "says"),
    [
        (Span("Spring term", D("2027-06-16"), D("2027-01-04")), "school.span_ends_before_start"),
        (Span("Spring term", D("2027-01-04"), D("2027-09-30")), "school.span_outside_year"),
        (Span("Spring term", D("2026-12-01"), D("2027-06-16")), "school.spans_overlap"),
    ],
)
def test_terms_that_cannot_be_are_refused(term: Span, says: str) -> None:
    with refuses(says):
        check_year(SchoolYear("x", YEAR.starts, YEAR.ends, (YEAR.terms[0], term)))
    check_year(YEAR)


def test_an_empty_calendar_answers_without_failing() -> None:
    empty = Calendar([])
    assert not empty.in_session(D("2027-01-01"))
    assert empty.next_break(D("2027-01-01")) is None
    assert not empty.reaches(D("2027-01-01"))
    assert empty.school_days_left(D("2027-01-01")) == 0


def test_a_class_moves_up_by_itself() -> None:
    assert (grade_in(2025, YEAR), grade_in(2025, NEXT)) == (1, 2)


def test_a_calendar_carries_its_last_year_on_without_what_nobody_planned() -> None:
    snow = Span("Snow", D("2027-02-01"), D("2027-02-09"), "weather")
    plan = Calendar([replace(YEAR, closures=(*YEAR.closures, snow))], CALENDAR.slots)
    on = plan.carried_on
    assert plan.known == on.known == (YEAR.starts, YEAR.ends)
    assert not plan.reaches(D("2027-10-01"))
    assert on.supposed(D("2027-10-01"))
    assert not on.supposed(D("2027-08-24"))
    assert not on.supposed(D("2040-01-01"))
    assert not plan.in_session(D("2027-02-03"))
    assert on.in_session(D("2028-02-02"))
    assert not on.in_session(D("2027-11-24"))  # the leaf-fall break, 52 weeks on
    assert [day for day in YEAR.school_days if not on.in_session(day + timedelta(weeks=52))] == []
    assert on.lessons(D("2027-10-05"), D("2027-10-05"))[0].group_id == "b"
    assert [gap.name for gap in on.breaks_between(D("2028-06-17"), D("2028-06-20"))] == ["Summer break"]
    without = Calendar([replace(YEAR, terms=(), closures=())])
    assert without.carried_on is without
    with refuses("school.no_year_on_file"):
        _ = Calendar([]).known


def test_a_span_holds_its_first_and_its_last_day() -> None:
    span = Span("Break", date(2027, 3, 20), date(2027, 3, 28))
    assert [date(2027, 3, day) in span for day in (19, 20, 28, 29)] == [False, True, True, False]
