from dataclasses import replace

import pytest

from almanaque.core.growth.chart_beside_record import where_they_differ
from almanaque.core.growth.setting import Setting
from tests.core.growth.test_school_fit import CROPS, EARLY, HARD, PLAIN
from tests.places import D

# Beans rot in cold ground, peas bear it; both places' last freezes and what growers do there: common practice, no source.


def said(setting: Setting, crop: str, months: set[int], after: str = "2027-01-01") -> str:
    chart = {(CROPS[crop].name.en.lower(), "sow"): frozenset(months)}
    found = where_they_differ(CROPS[crop], "direct", replace(setting, chart=chart), after=D(after))
    return f"{found.case}: {found.message}" if found else ""


def test_a_chart_that_begins_too_early_is_told_in_how_many_years_and_why() -> None:
    assert said(EARLY, "sweet-corn", {4, 5}) == (
        "lost: The local chart has it from 1 Apr; started on that day, in 9 of 30 years on file "
        "the ground was still too cold for its seed."
    )
    assert "in 31 of 31 years on file the ground was still frozen or sodden" in said(HARD, "carrot", {3, 4})


def test_seed_that_waits_in_cold_ground_is_told_apart_from_seed_that_is_lost() -> None:
    assert said(HARD, "sweet-corn", {5, 6}).startswith("waits: The local chart has it from 1 May; in 7 of 30 years")


def test_a_chart_that_begins_weeks_later_than_the_weather_asks_for_is_told_from_when() -> None:
    assert said(HARD, "bush-bean", {6, 7}) == (
        "later: The local chart has it from 1 Jun; by the weather on file it may be started from 7 May, "
        "and ripens then in 30 of 30 years."
    )


def test_summer_heat_is_a_reason_too() -> None:
    assert "the heat spoilt it" in said(EARLY, "spinach", {6})


@pytest.mark.parametrize("months", [set(), set(range(1, 13)), {5}])
def test_where_they_agree_or_no_chart_speaks_nothing_is_said(months: set[int]) -> None:
    assert said(EARLY, "bush-bean", months) == ""


def test_months_over_the_turn_of_the_year_begin_in_the_old_one() -> None:
    assert "from 1 Nov;" in said(EARLY, "pea", {11, 12, 1}, after="2027-01-15")
    assert "from 1 Apr 2028" not in said(EARLY, "sweet-corn", {4}, after="2027-04-01")


def test_without_a_record_the_chart_has_nobody_to_differ_from() -> None:
    assert said(PLAIN, "bush-bean", {2}) == ""
