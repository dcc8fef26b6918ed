"""Half days, summer programmes, sudden closures and slots in time; the calendar's answers against asking each day."""

from dataclasses import replace
from datetime import date, time, timedelta

from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.school.school_year import (
    BREAK_DAYS,
    SUMMER_PROGRAMME,
    Calendar,
    HalfDay,
    SchoolYear,
    Slot,
    Span,
    check_year,
)
from tests.refuses import refuses

D = date.fromisoformat
DAY = timedelta(days=1)
NORTH = SchoolYear(
    "2026–27",
    D("2026-08-26"),
    D("2027-08-24"),
    (
        Span("Autumn", D("2026-08-26"), D("2026-12-18")),
        Span("Spring", D("2027-01-04"), D("2027-06-16")),
        Span("Garden weeks", D("2027-06-28"), D("2027-07-16"), SUMMER_PROGRAMME),
    ),
    (
        Span("Leaf-fall break", D("2026-11-23"), D("2026-11-27"), "break"),
        Span("Storm", D("2026-11-26"), D("2026-12-01"), "weather"),
    ),
    (HalfDay("Parents' evening", D("2026-10-21"), time(12, 0)),),
    (Span("Soup day", D("2026-11-18"), D("2026-11-18")),),
)
SOUTH = SchoolYear(
    "2028",
    D("2028-02-01"),
    D("2029-01-31"),
    (Span("Term 1", D("2028-02-01"), D("2028-06-30")), Span("Term 2", D("2028-07-17"), D("2028-12-15"))),
)
SLOTS = [
    Slot("morning", 2, time(9, 0), 45),
    Slot("noon", 2, time(11, 30), 45),
    Slot("club", 2, time(9, 30), 60, in_terms=False, in_programme=True),
    Slot("later", 4, time(9, 0), 45, from_day=D("2027-01-01")),
    Slot("left", 4, time(10, 0), 45, to_day=D("2026-10-30")),
]
CALENDAR = Calendar([SOUTH, NORTH], SLOTS)


def test_a_lesson_that_ends_exactly_when_the_half_day_does_is_held() -> None:
    half = replace(NORTH, half_days=(HalfDay("Early", D("2026-10-21"), time(10, 45)),))
    slots = [Slot("just", 2, time(10, 0), 45), Slot("late", 2, time(10, 1), 45)]
    held = Calendar([half], slots).lessons(D("2026-10-21"), D("2026-10-21"))
    assert [lesson.group_id for lesson in held] == ["just"]


def test_on_a_half_day_only_lessons_that_end_in_time_are_held() -> None:
    assert [le.group_id for le in CALENDAR.lessons(D("2026-10-21"), D("2026-10-21"))] == ["morning"]
    assert [le.group_id for le in CALENDAR.lessons(D("2026-10-14"), D("2026-10-14"))] == ["morning", "noon"]
    assert CALENDAR.half_day(D("2026-10-21")) == time(12, 0)
    assert CALENDAR.half_day(D("2026-10-22")) is None
    assert CALENDAR.in_session(D("2026-10-21"))


def test_in_a_summer_programme_children_are_here_but_school_is_not_in() -> None:
    assert CALENDAR.children_here(D("2027-06-30"))
    assert not CALENDAR.in_session(D("2027-06-30"))
    assert [le.group_id for le in CALENDAR.lessons(D("2027-06-28"), D("2027-07-02"))] == ["club"]
    assert CALENDAR.school_days_left(D("2027-06-17")) == 0
    assert CALENDAR.days_here_between(D("2027-06-17"), D("2027-08-24")) == 15
    gaps = [(gap.starts, gap.ends) for gap in CALENDAR.breaks_between(D("2027-06-17"), D("2027-08-24"))]
    assert gaps[0] == (D("2027-06-17"), D("2027-06-27"))
    assert CALENDAR.next_day_here(D("2027-06-17")) == D("2027-06-28")


def test_a_slot_is_held_only_in_its_time() -> None:
    fridays = {
        le.day: le.group_id for le in CALENDAR.lessons(D("2026-10-01"), D("2027-02-01")) if le.day.weekday() == 4
    }
    assert fridays[D("2026-10-30")] == "left"
    assert D("2026-11-06") not in fridays
    assert fridays[D("2027-01-08")] == "later"


def test_a_closure_nobody_planned_may_lie_over_a_break() -> None:
    check_year(NORTH)
    assert not CALENDAR.in_session(D("2026-12-01"))
    assert CALENDAR.in_session(D("2026-12-02"))
    overlapping = SchoolYear(
        "x",
        NORTH.starts,
        NORTH.ends,
        NORTH.terms,
        (NORTH.closures[0], Span("Trip", D("2026-11-27"), D("2026-11-30"), "holiday")),
    )
    with refuses("school.spans_overlap"):
        check_year(overlapping)


def test_half_days_and_feasts_lie_in_their_year() -> None:
    for part in (
        {"half_days": (HalfDay("Late", D("2027-09-01"), time(12)),)},
        {"feasts": (Span("Late", D("2027-09-01"), D("2027-09-01")),)},
    ):
        with refuses("school.span_outside_year"):
            check_year(SchoolYear("x", NORTH.starts, NORTH.ends, NORTH.terms, (), **part))


def test_a_year_that_begins_in_february_has_its_leap_day() -> None:
    assert CALENDAR.in_session(D("2028-02-29"))
    assert CALENDAR.week_number(D("2028-02-29")) == 5
    assert CALENDAR.year_of(D("2029-01-15")) == SOUTH


def test_lessons_before_a_date_do_not_count_the_date() -> None:
    assert CALENDAR.lessons_before(D("2026-10-14"), D("2026-10-21"), group_id="noon") == 1
    assert CALENDAR.lessons_before(D("2026-10-14"), D("2026-10-29"), group_id="noon") == 2  # the 21st is a half day


def test_a_lesson_until_after_midnight_ends_before_it() -> None:
    assert Slot("x", 0, time(23, 0), 120).ends_at == time(23, 59)


@given(st.dates(D("2026-06-01"), D("2029-03-01")), st.integers(0, 400))
def test_every_count_agrees_with_asking_each_day(start: date, length: int) -> None:
    days = [start + DAY * n for n in range(length + 1)]
    end = days[-1]
    assert CALENDAR.school_days_between(start, end) == sum(map(CALENDAR.in_session, days))
    assert CALENDAR.days_here_between(start, end) == sum(map(CALENDAR.children_here, days))
    year = CALENDAR.year_of(start)
    if year:
        rest = [start + DAY * n for n in range(max(0, (year.ends - start).days + 1))]
        assert CALENDAR.school_days_left(start) == sum(map(CALENDAR.in_session, rest))
    by_day = [le for day in days for le in CALENDAR.lessons(day, day)]
    assert CALENDAR.lessons(start, end) == by_day


@given(st.dates(D("2026-08-26"), D("2028-12-15")))
def test_the_next_break_is_the_first_run_of_days_without_children(day: date) -> None:
    gap = CALENDAR.next_break(day)
    assert gap is not None
    assert gap.days >= BREAK_DAYS
    assert not any(CALENDAR.children_here(gap.starts + DAY * n) for n in range(gap.days))
    assert CALENDAR.children_here(gap.starts - DAY)
    before = [day + DAY * n for n in range(max(0, (gap.starts - day).days))]
    runs = "".join("x" if CALENDAR.children_here(d) else "." for d in before)
    assert "." * BREAK_DAYS not in runs.lstrip(".") if day < gap.starts else day <= gap.ends


@given(st.dates(D("2026-08-01"), D("2029-01-31")))
def test_week_numbers_go_up_by_one_on_mondays(day: date) -> None:
    now, then = CALENDAR.week_number(day), CALENDAR.week_number(day + DAY)
    if now is not None and then is not None and then != 1:
        assert then - now == (1 if (day + DAY).weekday() == 0 else 0)
