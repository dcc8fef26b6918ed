"""A school's list of codes: for which grades, attached to lessons, covered by class, subject and term."""

from datetime import date

import pytest

from almanaque.core.week.standards import Covered, Standard, check, coverage, grades_of, read_codes
from almanaque.formats.school import standards_csv
from tests.refuses import refuses

AUTUMN, SPRING = (date(2026, 8, 26), date(2027, 1, 3)), (date(2027, 1, 4), date(2027, 6, 16))
LIST = [
    Standard("M.3.1", "Multiply.", "mathematics", "3"),
    Standard("M.3.2", "Area.", "mathematics", "3-5"),
    Standard("S.K.1", "Needs of plants.", "science", "K"),
    Standard("S.1", "Ask questions.", "science", ""),
]


@pytest.mark.parametrize(
    ("text", "grades"),
    [
        ("3", {3}),
        ("K", {0}),
        ("K-2", {0, 1, 2}),
        ("3–5", {3, 4, 5}),
        ("1, 2", {1, 2}),
        ("grades 3 to 5", {3, 4, 5}),
        ("4 and 6", {4, 6}),
        ("", set()),
        ("all", set()),
        ("3-99", set(range(3, 21))),
    ],
)
def test_grades_are_read_as_lists_write_them(text: str, grades: set[int]) -> None:
    assert grades_of(text) == grades


def test_a_code_is_for_its_grades_and_without_any_for_all() -> None:
    assert LIST[1].is_for(4)
    assert not LIST[1].is_for(2)
    assert LIST[3].is_for(2)
    assert LIST[0].is_for(None)


def test_what_was_held_covers_its_codes_in_its_term() -> None:
    attached = {"area": ["M.3.1", "M.3.2"], "seeds": ["S.1"]}
    held = [
        ("area", "docks", date(2026, 9, 10)),
        ("seeds", "docks", date(2027, 4, 1)),
        ("area", "docks", date(2027, 5, 1)),
        ("nothing", "docks", date(2027, 5, 1)),
    ]
    found = coverage(LIST, attached, held, {"docks": 3, "alders": 0}, [AUTUMN, SPRING])
    assert found == [
        Covered("docks", "mathematics", 2, (frozenset({"M.3.1", "M.3.2"}), frozenset({"M.3.1", "M.3.2"})), ()),
        Covered("docks", "science", 1, (frozenset(), frozenset({"S.1"})), ()),
        Covered("alders", "science", 2, (frozenset(), frozenset()), ("S.K.1", "S.1")),
    ]
    assert [one.covered for one in found] == [2, 1, 0]


def test_nothing_more_is_expected_of_a_club_than_it_did() -> None:
    found = coverage(LIST, {"area": ["M.3.2"]}, [("area", "club", date(2026, 9, 10))], {"club": None}, [AUTUMN, SPRING])
    assert [(one.subject, one.of, one.covered) for one in found] == [("mathematics", 1, 1)]


def test_codes_are_typed_loosely_and_a_strange_one_is_named() -> None:
    assert read_codes("m.3.1, S.K.1;\nM.3.1", [row.code for row in LIST]) == ["M.3.1", "S.K.1"]
    assert read_codes(" ", ["A"]) == []
    with refuses("week.standard_unknown", field="codes", named="M.9"):
        read_codes("M.3.1, M.9", [row.code for row in LIST])


def test_a_list_comes_in_with_its_columns_in_any_order_and_goes_out_again() -> None:
    body = 'Grade Level;Standard;Description;Area\n3-5;M.3.2;Area.;mathematics\n;S.1;"Ask; questions.";science\n'
    rows = standards_csv.read(body.encode(), "list.csv")
    assert rows == [Standard("M.3.2", "Area.", "mathematics", "3-5"), Standard("S.1", "Ask; questions.", "science", "")]
    assert standards_csv.read(standards_csv.write(LIST).encode(), "list.csv") == LIST


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ("words\nx", "week.standards_no_code"),
        ("code,words\n,x", "week.standard_without_code"),
        ("code,words\nA,x\nA,y", "week.standard_twice"),
        ("code\n", "week.standards_none"),
        ("code\n" + "x" * 41, "week.standard_too_long"),
    ],
)
def test_a_list_that_cannot_be_is_refused_with_its_line(body: str, code: str) -> None:
    with refuses(code, field="file"):
        standards_csv.read(body.encode(), "list.csv")


def test_too_many_codes_are_refused() -> None:
    with refuses("week.standards_too_many", field="file"):
        check([Standard(str(n)) for n in range(3001)])
