"""Whole calendars: the corpus of invented districts, and what is asked before anything is kept."""

from datetime import date, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.school import calendar_import, calendar_reading
from almanaque.core.school.calendar_event import Event
from almanaque.core.school.calendar_import import CalendarEntry
from almanaque.core.school.school_year import check_year
from tests.core.school import calendar_corpus as corpus
from tests.refuses import refuses

D = date.fromisoformat
LEAST_RIGHT = 0.95


def event(name: str, starts: str, ends: str = "", **more: object) -> Event:
    return Event(name, D(starts), D(ends or starts), "a.ics, line 4", **more)  # type: ignore[arg-type]


YEAR = [event("First day of school", "2026-08-26"), event("Last day of school", "2027-06-16")]


@pytest.fixture(scope="module")
def scores() -> dict[str, tuple[int, int]]:
    """Of each calendar: how many events are right, and how many there are on either side."""
    found = {}
    for name in corpus.NAMES:
        wanted = corpus.right_answer(name)
        read = corpus.read(name)["years"]
        right = every = 0
        for number, year in enumerate([wanted, *wanted.get("more", [])]):
            ours = corpus.events_of_reading(read[number], year) if number < len(read) else set()
            theirs = corpus.events_of_answer(year)
            right, every = right + len(ours & theirs), every + len(ours | theirs)
        found[name] = (right, every)
    return found


def test_of_the_corpus_nearly_every_event_is_right_at_first(scores: dict[str, tuple[int, int]]) -> None:
    assert len(scores) >= 25
    right, every = (sum(score[side] for score in scores.values()) for side in (0, 1))
    assert right / every >= LEAST_RIGHT, {name: score for name, score in scores.items() if score[0] != score[1]}


@pytest.mark.parametrize("name", corpus.NAMES)
def test_no_year_is_wrong_without_a_question(name: str, scores: dict[str, tuple[int, int]]) -> None:
    wanted, read = corpus.right_answer(name), corpus.read(name)
    right, every = scores[name]
    assert right == every or read["questions"]
    if wanted.get("asks"):
        assert read["questions"]


def test_a_term_is_made_of_its_first_and_last_day() -> None:
    reading = calendar_reading.read(
        [
            event("Autumn term starts", "2026-09-03"),
            event("Autumn term ends", "2026-12-18"),
            event("Spring term starts", "2027-01-05"),
            event("Spring term ends", "2027-03-25"),
            event("Summer term starts", "2027-04-12"),
            event("Summer term ends", "2027-07-21"),
        ]
    )
    (year,) = calendar_import.assemble(reading.entries)
    assert [(term.name, term.starts, term.ends) for term in year.terms] == [
        ("Autumn term", D("2026-09-03"), D("2026-12-18")),
        ("Spring term", D("2027-01-05"), D("2027-03-25")),
        ("Summer term", D("2027-04-12"), D("2027-07-21")),
    ]


def test_a_break_is_made_of_its_beginning_and_the_day_school_is_in_again() -> None:
    reading = calendar_reading.read(
        [*YEAR, event("Winter Break begins", "2026-12-21"), event("Classes resume", "2027-01-05")]
    )
    (found,) = [entry for entry in reading.entries if entry.kind == "break"]
    assert (found.name, found.spans) == ("Winter break", ((D("2026-12-21"), D("2027-01-04")),))


def test_a_break_without_an_end_is_asked_about() -> None:
    reading = calendar_reading.read([*YEAR, event("Winter Break begins", "2026-12-21")])
    assert "school.break_without_end" in [question.asks.code for question in reading.questions]


def test_ends_of_marking_periods_are_told_and_make_no_terms() -> None:
    reading = calendar_reading.read(
        [*YEAR, event("End of first quarter", "2026-10-30"), event("Q2 ends", "2027-01-22")]
    )
    (year,) = calendar_import.assemble(reading.entries)
    assert [term.name for term in year.terms] == ["School year"]
    assert [phrase.code for phrase in reading.told].count("school.only_a_marker") == 2


def test_a_later_first_day_of_one_grade_is_a_note() -> None:
    reading = calendar_reading.read([*YEAR, event("Kindergarten first day", "2026-08-31")])
    assert [e.starts for e in reading.entries if e.kind == "first day"] == [D("2026-08-26")]
    assert [phrase.code for phrase in reading.told] == ["school.other_first_day"]


@pytest.mark.parametrize(
    ("events", "asks"),
    [
        ([YEAR[1]], "school.first_day_supposed"),
        ([YEAR[0], event("Winter break", "2026-12-21", "2027-01-01")], "school.last_day_supposed"),
        ([YEAR[0], event("Last day of school", "2026-11-20")], "school.hardly_a_year"),
        ([*YEAR, event("Last day of school", "2027-06-21")], "school.several_last_days"),
        (
            [
                event("Term 1", "2026-09-01", "2026-09-26"),
                event("Term 2", "2026-09-28", "2027-06-10"),
                event("Term 3 begins", "2027-06-11"),
            ],
            None,
        ),
        ([event("First day of school", "2026-08-29"), YEAR[1]], "school.starts_on_weekend"),
    ],
)
def test_what_a_file_leaves_open_is_asked_about(events: list[Event], asks: str | None) -> None:
    codes = [question.asks.code for question in calendar_reading.read(events, usual_days=(175, 185)).questions]
    assert asks is None or asks in codes


def test_days_far_from_the_usual_and_school_on_public_holidays_are_asked_about() -> None:
    national = {D("2026-11-26"): "Thanksgiving Day", D("2026-11-11"): "Veterans Day"}
    asked = calendar_reading.read(YEAR, national=national, usual_days=(150, 160)).questions
    assert [question.asks.code for question in asked] == ["school.unusual_year", "school.school_on_holidays"]
    assert asked[1].asks.params["names"] == ("Thanksgiving Day",)


def test_a_question_says_what_each_answer_makes_of_the_year() -> None:
    reading = calendar_reading.read([*YEAR, event("Harvest Week", "2026-10-05", "2026-10-09")])
    (question,) = [asked for asked in reading.questions if asked.answers]
    free, school = question.answers
    assert school.school_days - free.school_days == 5
    assert reading.entries[question.entries[0]].kind == free.kind == "break"


def test_half_days_of_a_pattern_are_one_line() -> None:
    weekly = [
        event("Early release", f"2026-09-{day:02}", begins=time(13, 15), lasts=timedelta(hours=1)) for day in (2, 9, 16)
    ]
    (line,) = [e for e in calendar_reading.read([*YEAR, *weekly]).entries if e.kind == "half day"]
    assert (len(line.spans), line.until) == (3, time(13, 15))


def test_a_half_day_that_names_its_weekday_and_lasts_for_months_is_those_weekdays() -> None:
    (line,) = [
        e
        for e in calendar_reading.read(
            [*YEAR, event("Early dismissal every Friday", "2026-09-01", "2026-09-30")]
        ).entries
        if e.kind == "half day"
    ]
    assert {first.weekday() for first, _ in line.spans} == {4}
    assert len(line.spans) == 4


def test_a_table_that_says_its_kinds_is_taken_by_its_word() -> None:
    given_entries = [
        CalendarEntry("term", "All", ((D("2026-08-26"), D("2027-06-16")),), "t.csv, line 2"),
        CalendarEntry("closed day", "First day of school", ((D("2026-10-05"), D("2026-10-05")),), "t.csv, line 3"),
    ]
    reading = calendar_reading.read([], given=given_entries)
    assert reading.entries == tuple(given_entries)


def test_the_rest_of_a_year_and_the_bare_beginning_of_another_are_left_out_and_told() -> None:
    reading = calendar_reading.read([*YEAR, event("First day of school", "2027-08-25")])
    assert len(calendar_import.assemble(reading.entries)) == 1
    assert "school.year_left_out" in [phrase.code for phrase in reading.told]


def test_a_calendar_of_as_many_events_as_are_read_is_read_and_one_more_is_not() -> None:
    many = [event(f"Day {n}", "2026-11-03") for n in range(calendar_import.MOST_ROWS)]
    assert len(calendar_reading.read(many).entries) >= calendar_import.MOST_ROWS
    with refuses("school.too_many_events", most=calendar_import.MOST_ROWS):
        calendar_reading.read([*many, event("One more", "2026-11-03")])


TITLES = (
    "First day of school",
    "Last day of school",
    "Autumn term begins",
    "Term 2 ends",
    "Winter break",
    "Winter break begins",
    "School resumes",
    "No school",
    "Half day",
    "Staff day",
    "Semester 1",
    "Summer break",
    "Harvest Week",
    "Soup day",
    "Band",
    "Kindergarten first day",
)


@given(
    st.lists(
        st.tuples(st.sampled_from(TITLES), st.integers(0, 800), st.sampled_from((0, 0, 0, 4, 9, 60, 120))), max_size=20
    )
)
def test_whatever_is_read_can_be_made_into_years_or_is_asked_about(found: list[tuple[str, int, int]]) -> None:
    start = D("2026-07-01")
    events = [
        Event(name, start + timedelta(at), start + timedelta(at + more), f"x, line {n}")
        for n, (name, at, more) in enumerate(found)
    ]
    reading = calendar_reading.read(events)
    try:
        years = calendar_import.assemble(reading.entries)
    except calendar_import.BadInput:
        assert reading.questions
        return
    for year in years:
        check_year(year)
