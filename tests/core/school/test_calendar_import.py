from datetime import date, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import as rules
from almanaque.core.school.calendar_import import KINDS, CalendarEntry, Event
from almanaque.core.school.school_year import SchoolYear, check_year
from tests.refuses import refuses

D = date.fromisoformat


def event(name: str, starts: str, ends: str = "", until: time | None = None) -> Event:
    return Event(name, D(starts), D(ends or starts), "a.ics, line 4", until)


def entry(kind: str, name: str, starts: str, ends: str = "") -> CalendarEntry:
    return CalendarEntry(kind, name, ((D(starts), D(ends or starts)),), "a.ics, line 9")  # type: ignore[arg-type]


YEAR = [entry("first day", "First day", "2026-08-26"), entry("last day", "Last day", "2027-06-16")]


@pytest.mark.parametrize(
    ("title", "kind"),
    [
        ("No school – Founders' Day", "closed day"),
        ("NO SCHOOL: storm", "closed day"),
        ("First day of school", "first day"),
        ("Last Day for students", "last day"),
        ("Spring break", "break"),
        ("Spring Break — no school", "break"),
        ("First day of Winter break", "break"),
        ("Early release 12:30", "half day"),
        ("Staff training day", "training day"),
        ("Soup day", "feast"),
        ("Summer program begins", "summer programme"),
        ("Autumn term", "term"),
        ("Band practice", "ignored"),
        ("Breakfast club", "ignored"),
        ("Holiday", "closed day"),
        ("Terminal exam", "ignored"),
    ],
)
def test_the_longest_word_in_a_title_decides(title: str, kind: str) -> None:
    assert rules.recognise(title) == kind


def test_a_schools_own_words_are_used() -> None:
    own = {**rules.WORDS, "feast": ("pancake morning",)}
    assert rules.recognise("Pancake morning", words=own) == "feast"
    assert rules.recognise("Soup day", words=own) == "ignored"


def test_days_of_one_name_around_a_weekend_become_one_run() -> None:
    days = [event("Winter break", f"2026-12-{n}") for n in (21, 22, 23, 24, 25, 28, 29)]
    (found,) = rules.gather(days)
    assert found.spans == ((D("2026-12-21"), D("2026-12-29")),)


def test_what_comes_again_is_one_line_while_it_is_ignored_and_single_days_once_it_means_something() -> None:
    weekly = [event("Band", f"2026-09-{n:02}") for n in (2, 9, 16)] + [
        event("Early release", f"2026-09-{n:02}") for n in (2, 9)
    ]
    found = rules.gather(weekly)
    assert [(e.name, len(e.spans)) for e in found] == [("Band", 3), ("Early release", 1), ("Early release", 1)]


def test_a_long_closed_day_is_a_break() -> None:
    assert rules.gather([event("No school", "2026-11-23", "2026-11-27")])[0].kind == "break"


def test_a_half_day_ends_when_its_event_does_or_its_title_says_or_at_noon() -> None:
    found = rules.gather(
        [
            event("Half day", "2026-09-02", until=time(11, 30)),
            event("Early release 1:15 pm", "2026-09-03"),
            event("Early dismissal", "2026-09-04"),
        ]
    )
    assert [e.until for e in found] == [time(11, 30), time(13, 15), time(12, 0)]


def test_without_terms_the_time_from_first_to_last_day_is_one() -> None:
    (year,) = rules.assemble(
        [
            *YEAR,
            entry("break", "Winter break", "2026-12-19", "2027-01-03"),
            entry("half day", "x", "2026-10-21"),
            entry("feast", "Soup day", "2026-11-18"),
        ]
    )
    assert (year.name, year.starts, year.ends) == ("2026–27", D("2026-08-26"), D("2027-08-25"))
    assert [(t.name, t.starts, t.ends) for t in year.terms] == [("School year", D("2026-08-26"), D("2027-06-16"))]
    assert (year.closures[0].kind, year.half_days[0].until, year.feasts[0].name) == ("break", time(12, 0), "Soup day")


def test_several_first_and_last_days_make_terms() -> None:
    (year,) = rules.assemble(
        [
            *YEAR,
            entry("last day", "Last day of semester", "2026-12-18"),
            entry("first day", "First day of spring", "2027-01-05"),
        ]
    )
    assert [(t.name, t.starts, t.ends) for t in year.terms] == [
        ("Term 1", D("2026-08-26"), D("2026-12-18")),
        ("Term 2", D("2027-01-05"), D("2027-06-16")),
    ]


def test_a_later_first_day_begins_another_year_and_ends_the_one_before() -> None:
    years = rules.assemble(
        [*YEAR, entry("first day", "First day", "2027-08-25"), entry("last day", "Last day", "2028-06-14")]
    )
    assert [(y.name, y.ends) for y in years] == [("2026–27", D("2027-08-24")), ("2027–28", D("2028-08-24"))]


def test_a_southern_year_is_named_by_one_number() -> None:
    terms = [
        entry("term", f"Term {n}", a, b)
        for n, (a, b) in enumerate((("2027-02-02", "2027-04-09"), ("2027-04-26", "2027-12-15")), 1)
    ]
    (year,) = rules.assemble(terms)
    assert (year.name, year.starts, year.ends) == ("2027", D("2027-02-02"), D("2028-02-01"))


@pytest.mark.parametrize(
    ("entries", "says"),
    [
        ([], "school.no_begin_of_school"),
        ([entry("break", "Winter break", "2026-12-19", "2027-01-03")], "school.no_begin_of_school"),
        ([YEAR[0]], "school.no_end_of_school"),
        (
            [*YEAR, entry("break", "A", "2026-12-01", "2026-12-05"), entry("break", "B", "2026-12-05", "2026-12-09")],
            "school.spans_overlap",
        ),
    ],
)
def test_what_says_too_little_or_contradicts_itself_is_refused(entries: list[CalendarEntry], says: str) -> None:
    with refuses(says):
        rules.assemble(entries)


def test_an_event_outside_every_year_is_named_and_not_lost() -> None:
    stray = entry("break", "Old break", "2025-12-20", "2025-12-28")
    years = rules.assemble([*YEAR, stray])
    assert rules.left_outside([*YEAR, stray], years) == [stray]


def test_29_february_begins_and_ends_a_year() -> None:
    (year,) = rules.assemble(
        [entry("first day", "First day", "2028-02-29"), entry("last day", "Last day", "2028-12-15")]
    )
    assert year.ends == D("2029-02-28")


@given(st.lists(st.tuples(st.sampled_from(KINDS), st.integers(0, 700), st.integers(0, 20)), max_size=25))
def test_whatever_is_assembled_is_a_year_that_holds_together(given_entries: list[tuple[str, int, int]]) -> None:
    start = D("2026-08-01")
    entries = [
        CalendarEntry(kind, f"e{n}", ((start + timedelta(at), start + timedelta(at + length)),), "x")
        for n, (kind, at, length) in enumerate(given_entries)
    ]  # type: ignore[arg-type]
    try:
        years = rules.assemble(entries)
    except BadInput:
        return
    for year in years:
        check_year(year)
        assert year.terms


def test_words_of_ones_own_decide_and_the_first_line_of_an_event_is_named() -> None:
    day = date(2026, 11, 3)
    events = [
        Event("Moot", on, on, where)
        for on, where in ((day, "a.csv, line 2"), (day + timedelta(days=40), "a.csv, line 9"))
    ]
    assert [entry.kind for entry in rules.gather(events)] == ["ignored"]
    (entry,) = rules.gather(events)
    assert entry.where == "a.csv, line 2"
    assert {entry.kind for entry in rules.gather(events, words={**rules.WORDS, "closed day": ("moot",)})} == {
        "closed day"
    }


def test_words_of_ones_own_are_not_too_many_and_not_too_long() -> None:
    rules.check_words("break", ["x" * rules.LONGEST_WORD] * rules.MOST_WORDS)
    for phrases in (["x"] * (rules.MOST_WORDS + 1), ["x" * (rules.LONGEST_WORD + 1)]):
        with refuses("school.too_many_marking_words", field="words_break", kind="break"):
            rules.check_words("break", phrases)


def test_an_entry_outside_all_years_is_named_with_its_line() -> None:
    year = SchoolYear("2026–27", D("2026-08-26"), D("2027-08-24"), (), ())
    inside, outside = entry("break", "Winter break", "2026-12-19"), entry("break", "Old break", "2020-01-01")
    rules.check_all_inside([inside], [year])
    with refuses("school.entry_outside_years", where=outside.where, name="Old break", day=D("2020-01-01")):
        rules.check_all_inside([inside, outside], [year])


def test_a_span_may_last_a_day_and_not_end_before_it() -> None:
    one = entry("break", "Winter break", "2026-12-19")
    rules.check_span(one, D("2026-12-19"), D("2026-12-19"))
    with refuses("school.row_ends_before_start", where=one.where, entry="Winter break"):
        rules.check_span(one, D("2026-12-19"), D("2026-12-18"))


@pytest.mark.parametrize(
    ("title", "found"),
    [
        ("Dismissal at 12:30", time(12, 30)),
        ("Out at 1 pm", time(13, 0)),
        ("Out at 1:15 p.m.", time(13, 15)),
        ("Late start 10 a.m.", time(10, 0)),
        ("Room 31", None),
        ("Bus 25:10", None),
    ],
)
def test_a_time_in_a_title_ends_the_half_day(title: str, found: time | None) -> None:
    assert rules._time_in(title) == found


def test_a_calendar_of_as_many_events_as_are_read_is_read_and_one_more_is_not() -> None:
    many = [event(f"Day {n}", "2026-11-03") for n in range(rules.MOST_ROWS)]
    assert len(rules.gather(many)) == rules.MOST_ROWS
    with refuses("school.too_many_events", most=rules.MOST_ROWS):
        rules.gather([*many, event("One more", "2026-11-03")])
