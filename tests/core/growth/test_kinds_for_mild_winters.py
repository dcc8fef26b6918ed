"""Kinds that a grower chooses by the winter and by the length of the day: what each does in six climates."""

from datetime import date, timedelta

import pytest

from almanaque.core.growth.school_fit import judge
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.data import catalogue
from tests.places import CALENDAR, early_spring, hard_winters, made

CROPS = catalogue()
PLACES = {
    "early": early_spring(),
    "hard": hard_winters(),
    "cool coast": made(mean_c=10.0, swing_c=6.5, latitude=52.0),
    "warm rains": made(mean_c=17.0, swing_c=10.0, latitude=33.0),
    "dry mild": made(mean_c=17.0, swing_c=5.5, latitude=34.0),
    "tropics": made(mean_c=26.0, swing_c=2.0, latitude=14.0),
}
YEAR = [date(2026, 9, 1) + timedelta(days=15 * n) for n in range(24)]


def seasons(crop: str, place: str) -> list[tuple[date, date]]:
    """Days in season on which most years ripen it, each with its middle first picking."""
    kind = CROPS[crop]
    weighed = weigh(kind, kind.methods[0], YEAR, Setting(CALENDAR, PLACES[place], "us"))
    good = (weighed.ripe > weighed.of / 2) & (weighed.said["not_in_window"] == 0)
    return [(day, date.fromordinal(int(weighed.first[row, 1]))) for row, day in enumerate(YEAR) if good[row]]


# Months in which growers of such a place pick each kind; none where they do not grow it. Common practice, from memory.
PICKED: list[tuple[str, str, set[int]]] = [
    ("onion", "early", {7, 8}),
    ("onion", "hard", {7, 8}),
    ("onion", "cool coast", {8, 9}),
    ("onion", "tropics", set()),
    ("short-day-onion", "early", set()),
    ("short-day-onion", "hard", set()),
    ("short-day-onion", "warm rains", {4, 5, 6}),
    ("short-day-onion", "dry mild", {3, 4, 5}),
    ("apple", "hard", {9, 10}),
    ("apple", "cool coast", {9, 10}),
    ("apple", "dry mild", set()),
    ("low-chill-apple", "dry mild", {6, 7}),
    ("low-chill-apple", "tropics", set()),
    ("blueberry", "dry mild", set()),
    ("low-chill-blueberry", "dry mild", {4, 5, 6}),
    ("low-chill-blueberry", "warm rains", {5, 6}),
    ("low-chill-blueberry", "tropics", set()),
    ("spring-wheat", "early", {7, 8}),
    ("spring-wheat", "hard", {8, 9}),
    ("spring-wheat", "cool coast", {8, 9, 10}),
    ("spring-wheat", "warm rains", {6, 7}),
    ("spring-wheat", "dry mild", {5, 6, 7}),
    ("spring-wheat", "tropics", set()),
    ("soft-neck-garlic", "dry mild", {5, 6, 7}),
    ("soft-neck-garlic", "warm rains", {6, 7}),
    ("soft-neck-garlic", "tropics", set()),
]


@pytest.mark.parametrize(("crop", "place", "months"), PICKED)
def test_a_kind_is_picked_when_and_where_growers_pick_it(crop: str, place: str, months: set[int]) -> None:
    found = {first.month for _, first in seasons(crop, place)}
    assert found <= months
    assert bool(found) == bool(months)


def test_the_soft_neck_needs_less_cold_than_the_hard_neck() -> None:
    mild = dict(seasons("soft-neck-garlic", "dry mild"))
    hard = dict(seasons("garlic", "dry mild"))
    assert all(mild[day] <= hard[day] for day in mild.keys() & hard.keys())
    assert min(mild.values()) < min(hard.values())


@pytest.mark.parametrize("place", ["hard", "warm rains", "dry mild"])
def test_spring_wheat_is_sown_when_the_winter_lets_it_and_in_spring_ripens_after_winter_wheat(place: str) -> None:
    """In autumn where winters are mild, in spring where they are hard, as growers do: common practice, from memory."""
    sown = seasons("spring-wheat", place)
    assert any(day.month in (11, 12) for day, _ in sown) is (place != "hard")
    assert place != "hard" or min(day for day, _ in sown) >= date(2027, 3, 1)
    latest = max(first for _, first in seasons("winter-wheat", place))
    assert all(first > latest for day, first in sown if date(2027, 1, 15) <= day)


def test_an_onion_set_as_the_days_grow_short_waits_for_long_ones() -> None:
    onion = CROPS["onion"]
    weighed = weigh(onion, "cloves", [date(2026, 8, 15)], Setting(CALENDAR, PLACES["dry mild"], "us"))
    assert date.fromordinal(int(weighed.first[0, 1])).month in (5, 6)


def test_where_days_stay_short_it_is_told_that_it_makes_no_bulb() -> None:
    judged = judge(CROPS["onion"], "cloves", date(2026, 10, 15), Setting(CALENDAR, PLACES["tropics"], "us"))
    found = next(finding for finding in judged.findings if finding.code == "not_ripe")
    assert (found.case, found.severity) == ("days_too_short", "fault")
    assert "It waits for days of 13 hours" in found.reason
    cold = judge(CROPS["okra"], "direct", date(2027, 5, 15), Setting(CALENDAR, PLACES["cool coast"], "us"))
    assert all(finding.case == "" for finding in cold.findings if finding.code == "not_ripe")


@pytest.mark.parametrize("place", ["early", "hard", "cool coast", "warm rains"])
def test_of_days_that_need_care_those_in_season_come_first(place: str) -> None:
    garlic, days = CROPS["garlic"], [date(2027, 7, 1) + timedelta(days=n) for n in range(200)]
    weighed = weigh(garlic, "cloves", days, Setting(CALENDAR.carried_on, PLACES[place], "us"))
    first = days[min(range(len(days)), key=lambda n: (weighed.ranks[n], n))]
    assert first.month in (9, 10, 11)
    assert ((weighed.ranks == 0) == (weighed.verdict == 0)).all()
    assert ((weighed.ranks == 3) == (weighed.verdict == 2)).all()
