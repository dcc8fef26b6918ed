from datetime import date, time, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.school import calendar_import as rules
from almanaque.core.school.calendar_import import KINDS, CalendarEntry
from almanaque.core.school.school_year import SchoolYear, check_year
from tests.refuses import refuses

D = date.fromisoformat


def entry(kind: str, name: str, starts: str, ends: str = "") -> CalendarEntry:
    return CalendarEntry(kind, name, ((D(starts), D(ends or starts)),), "a.ics, line 9")  # type: ignore[arg-type]


YEAR = [entry("first day", "First day", "2026-08-26"), entry("last day", "Last day", "2027-06-16")]


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
            [*YEAR, entry("term", "A", "2026-08-26", "2026-12-05"), entry("term", "B", "2026-12-05", "2027-06-09")],
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


def test_staff_days_before_the_first_day_belong_to_its_year() -> None:
    (year,) = rules.assemble([*YEAR, entry("training day", "Staff days", "2026-08-20", "2026-08-21")])
    assert (year.starts, year.school_days[0]) == (D("2026-08-20"), D("2026-08-26"))
    assert [(c.name, c.kind) for c in year.closures] == [("Staff days", "training day")]


def test_a_closed_day_in_a_longer_break_is_part_of_it_and_one_that_reaches_into_it_ends_before() -> None:
    (year,) = rules.assemble(
        [
            *YEAR,
            entry("break", "Winter break", "2026-12-21", "2027-01-01"),
            entry("closed day", "Christmas Day", "2026-12-25"),
            entry("training day", "Staff", "2026-12-18", "2026-12-21"),
        ]
    )
    assert [(c.name, c.starts, c.ends) for c in year.closures] == [
        ("Staff", D("2026-12-18"), D("2026-12-20")),
        ("Winter break", D("2026-12-21"), D("2027-01-01")),
    ]


def test_half_days_count_on_school_days_only_and_the_others_are_told() -> None:
    entries = [
        *YEAR,
        entry("break", "Winter break", "2026-12-21", "2027-01-01"),
        entry("half day", "Early release", "2026-12-23"),
        entry("half day", "Early release", "2026-12-16"),
    ]
    years = rules.assemble(entries)
    assert [half.day for half in years[0].half_days] == [D("2026-12-16")]
    assert rules.half_days_left_out(entries, years) == [("Early release", D("2026-12-23"))]


def test_a_first_day_after_a_summer_begins_another_year_however_short_the_one_before() -> None:
    years = rules.assemble(
        [
            entry("first day", "First day", "2027-01-11"),
            entry("last day", "Last day", "2027-06-11"),
            entry("first day", "First day", "2027-08-25"),
            entry("last day", "Last day", "2028-06-09"),
        ]
    )
    assert [(y.school_days[0], y.school_days[-1]) for y in years] == [
        (D("2027-01-11"), D("2027-06-11")),
        (D("2027-08-25"), D("2028-06-09")),
    ]
