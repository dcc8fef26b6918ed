"""Weeding by age and weather, bare ground before winter, drip lines. Common practice, no source."""

from datetime import timedelta

import pytest

from almanaque.core.week import bed_care
from almanaque.core.week.bed_care import LatelyOutdoors, WeededBed
from tests.places import D

TODAY = D("2027-06-14")
MILD, WET, COLD = LatelyOutdoors(14, 5), LatelyOutdoors(18, 60), LatelyOutdoors(3, 40)


def bed(up_days_ago: int, weeded_days_ago: int | None) -> WeededBed:
    weeded = TODAY - timedelta(days=weeded_days_ago) if weeded_days_ago is not None else None
    return WeededBed("Bed 2", (TODAY - timedelta(days=up_days_ago),), weeded, 3.0)


@pytest.mark.parametrize(
    ("up", "weeded", "lately", "in_days"),
    [
        (10, 2, MILD, 5),  # seedlings: a week after the last time
        (45, 2, MILD, 12),  # young: every other week
        (45, 2, WET, 5),  # young, warm and wet: every week
        (100, 2, MILD, 26),  # closed over
        (100, 2, WET, 12),
        (100, None, MILD, 0),  # never weeded: weeds are about to seed
        (10, 30, MILD, 0),
    ],
)
def test_weeding_is_due_by_the_age_of_the_plants_and_the_weather(
    up: int, weeded: int | None, lately: LatelyOutdoors, in_days: int
) -> None:
    step = bed_care.weeding(bed(up, weeded), lately, TODAY)
    assert step is not None
    assert (step.from_day - TODAY).days == in_days
    assert "roots out" in step.title
    assert "how much" in step.title


def test_nothing_is_weeded_in_the_cold_or_where_nothing_is_up() -> None:
    assert bed_care.weeding(bed(45, 20), COLD, TODAY) is None
    assert bed_care.weeding(WeededBed("Bed 2", (TODAY + timedelta(days=3),), None, 3.0), MILD, TODAY) is None


def test_the_youngest_plants_set_the_pace_and_the_ground_the_minutes() -> None:
    mixed = WeededBed("Bed 2", (TODAY - timedelta(days=100), TODAY - timedelta(days=9)), TODAY - timedelta(days=2), 3.0)
    step = bed_care.weeding(mixed, MILD, TODAY)
    assert step is not None
    assert (step.again, step.minutes) == (7, 12)
    large = bed_care.weeding(WeededBed("Plot", mixed.up, None, 60.0), MILD, TODAY)
    assert large is not None
    assert large.minutes == 40


def test_ground_that_lies_bare_over_the_winter_is_covered_before_it_freezes() -> None:
    freeze = D("2027-10-28")
    step = bed_care.winter_cover("Bed 2", 12, 16, freeze, D("2027-09-01"))
    assert step is not None
    assert (step.from_day, step.to_day) == (D("2027-09-30"), D("2027-11-11"))
    assert "12 of 16 squares" in step.title
    assert bed_care.winter_cover("Bed 2", 4, 16, freeze, D("2027-09-01")) is None
    assert bed_care.winter_cover("Bed 2", 16, 16, None, D("2027-09-01")) is None
    assert bed_care.winter_cover("Bed 2", 16, 16, freeze, D("2027-12-01")) is None


def test_a_drip_line_is_looked_at_every_other_week_while_something_stands_there() -> None:
    step = bed_care.drip_check("Bed 2", TODAY - timedelta(days=10), True, False, TODAY)
    assert step is not None
    assert (step.from_day - TODAY).days == 4
    assert bed_care.drip_check("Bed 2", None, False, False, TODAY) is None
    assert bed_care.drip_check("Bed 2", None, True, True, TODAY) is None
