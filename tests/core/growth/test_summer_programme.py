"""A summer programme counts as school for groups that have lessons in it, and the verdict says that it is the programme."""

from dataclasses import replace
from datetime import date, time

import pytest

from almanaque.core.growth import school_fit
from almanaque.core.growth.setting import Setting
from almanaque.core.school.school_year import SUMMER_PROGRAMME, Calendar, SchoolYear, Slot, Span
from almanaque.data import catalogue

D = date.fromisoformat
YEAR = SchoolYear(
    "2026–27",
    D("2026-08-26"),
    D("2027-08-24"),
    (
        Span("School year", D("2026-08-26"), D("2027-06-11"), "term"),
        Span("Summer programme", D("2027-06-21"), D("2027-07-30"), SUMMER_PROGRAMME),
    ),
)
TERMS = Slot("ferns", 2, time(10), 45)
PROGRAMME = replace(TERMS, group_id="club", in_terms=False, in_programme=True)


@pytest.mark.parametrize(("slots", "here"), [((), True), ((TERMS,), False), ((TERMS, PROGRAMME), True)])
def test_nobody_is_here_in_a_programme_in_which_no_group_has_a_lesson(slots: tuple[Slot, ...], here: bool) -> None:
    calendar = Calendar([YEAR], slots)
    assert calendar.children_here(D("2027-07-07")) is here
    assert calendar.in_session(D("2027-07-07")) is False
    assert any(gap.starts <= D("2027-07-07") <= gap.ends for gap in calendar.breaks) is not here


def test_what_is_ready_in_the_programme_says_so() -> None:
    crop = catalogue()["radish"]
    setting = Setting(Calendar([YEAR], (TERMS, PROGRAMME)).carried_on, None, "metric")
    codes = {finding.code for finding in school_fit.judge(crop, "direct", D("2027-06-05"), setting).findings}
    assert "in_summer_programme" in codes
    earlier = school_fit.judge(crop, "direct", D("2027-04-10"), setting).findings
    assert "in_summer_programme" not in {finding.code for finding in earlier}
