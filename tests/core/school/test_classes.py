from datetime import date

import pytest

from almanaque.core.school import classes
from almanaque.core.school.classes import Cohort, Grades, check_slot_days, flag_words
from almanaque.core.school.school_year import Calendar, SchoolYear, Span
from tests.refuses import refuses

D = date.fromisoformat


def year(first: int) -> SchoolYear:
    return SchoolYear(
        f"{first}–{(first + 1) % 100}",
        date(first, 8, 26),
        date(first + 1, 8, 24),
        (Span("T", date(first, 8, 26), date(first + 1, 6, 16)),),
    )


CALENDAR = Calendar([year(n) for n in (2024, 2025, 2026, 2027)])
GRADES = Grades(5)
ALDERS, DOCKS, NEW, CLUB = (
    Cohort("a", "Alders", 2021),
    Cohort("d", "Docks", 2024),
    Cohort("g", "Gentians", 2027),
    Cohort("c", "Garden club", None),
)
BEFORE, AFTER = D("2027-08-24"), D("2027-08-25")


def test_a_class_moves_up_on_the_first_day_of_the_new_year() -> None:
    assert classes.label(DOCKS, D("2027-08-25"), CALENDAR, GRADES) == "Grade 2"
    assert classes.label(DOCKS, D("2027-08-26"), CALENDAR, GRADES) == "Grade 3"
    assert classes.label(CLUB, D("2027-08-26"), CALENDAR, GRADES) == "Garden club"


@pytest.mark.parametrize(
    ("cohort", "here_then", "here_now"),
    [(ALDERS, True, False), (DOCKS, True, True), (NEW, False, True), (CLUB, True, True)],
)
def test_the_leaving_grade_leaves_and_the_new_one_arrives(cohort: Cohort, here_then: bool, here_now: bool) -> None:
    assert classes.here_on(cohort, D("2027-08-25"), CALENDAR, GRADES) is here_then
    assert classes.here_on(cohort, D("2027-08-26"), CALENDAR, GRADES) is here_now


def test_a_planting_keeps_who_planted_it() -> None:
    today = D("2027-09-10")
    assert classes.planted_by(DOCKS, D("2027-04-10"), today, CALENDAR, GRADES) == "last year's Grade 2, now Grade 3"
    assert classes.planted_by(DOCKS, D("2025-10-01"), today, CALENDAR, GRADES) == "Grade 1 of 2025–26, now Grade 3"
    assert classes.planted_by(ALDERS, D("2027-04-10"), today, CALENDAR, GRADES) == "last year's Grade 5, who have left"
    assert classes.planted_by(DOCKS, D("2027-09-01"), today, CALENDAR, GRADES) == "Grade 3"
    assert classes.planted_by(CLUB, D("2025-10-01"), today, CALENDAR, GRADES) == "Garden club"


def test_the_turn_of_the_year_lists_who_moves_leaves_and_arrives() -> None:
    turn = classes.turn_of_year(CALENDAR.years[-1], [ALDERS, DOCKS, NEW, CLUB], GRADES)
    assert (turn.moving, turn.leaving, turn.arriving, turn.entry_missing) == (
        (("d", "Grade 2", "Grade 3"),),
        ("a",),
        ("g",),
        False,
    )
    assert classes.turn_of_year(CALENDAR.years[-1], [ALDERS, DOCKS], GRADES).entry_missing


def test_a_class_has_lessons_from_entering_to_leaving() -> None:
    assert classes.stay(ALDERS, CALENDAR, GRADES) == (None, D("2027-08-24"))
    assert classes.stay(NEW, CALENDAR, GRADES) == (D("2027-08-26"), None)
    assert classes.stay(Cohort("x", "Old", 2015), CALENDAR, GRADES)[1] == D("2024-08-25")
    assert classes.stay(Cohort("x", "Far", 2031), CALENDAR, GRADES)[0] == date(2031, 1, 1)


def test_two_classes_of_one_grade_keep_their_own_names_beside_it() -> None:
    other = Cohort("e", "Elders", 2024)
    assert classes.labels([DOCKS, other, CLUB], D("2027-04-01"), CALENDAR, GRADES) == {
        "d": "Grade 2 (Docks)",
        "e": "Grade 2 (Elders)",
        "c": "Garden club",
    }


def test_grades_are_called_as_the_school_calls_them() -> None:
    assert (Grades(5).name(0), Grades(5).name(3), Grades(5, "Year", 1).name(0)) == ("Kindergarten", "Grade 3", "Year 1")


def test_a_weekly_lesson_may_last_a_day_and_not_end_before_it() -> None:
    for first, last in ((None, None), (None, D("2027-01-01")), (D("2027-01-01"), D("2027-01-01"))):
        check_slot_days(first, last)
    with refuses("school.slot_ends_before_start", field="to_day"):
        check_slot_days(D("2027-01-02"), D("2027-01-01"))


def test_flags_are_told_without_a_name() -> None:
    assert flag_words([("may not handle", "knives"), ("must not eat", "strawberries")]) == [
        "No knives with this group.",
        "Someone here must not eat strawberries.",
    ]


def test_the_last_grade_still_moves_up_before_it_leaves() -> None:
    grades = Grades(5, "Grade", 0)
    year = SchoolYear("2027–28", D("2027-08-25"), D("2028-08-22"), (), ())
    by_grade = {2027 - entry: entry for entry in range(2018, 2030)}
    cohorts = [Cohort(str(grade), f"Class of {entry}", entry) for grade, entry in by_grade.items() if 0 <= grade <= 6]
    turn = classes.turn_of_year(year, cohorts, grades)
    assert sorted(moved[0] for moved in turn.moving) == ["1", "2", "3", "4", "5"]
    assert (turn.leaving, turn.arriving) == (("6",), ("0",))
