"""The sheet for kitchen and stall: from which day, who brings it, ways to eat that are safe."""

from datetime import timedelta

import pytest

from almanaque.core.growth.growth_dates import forecast
from almanaque.core.harvest import kitchen_sheet
from almanaque.core.harvest.coming_harvest import GrowingCrop, by_week
from almanaque.data import catalogue, ways_to_eat
from tests.places import CALENDAR, D

CROPS, WAYS = catalogue(), ways_to_eat()


def test_a_line_says_least_and_most_from_which_day_and_the_class_that_brings_it() -> None:
    dates = forecast(CROPS["radish"], "direct", D("2027-04-13"))
    standing = GrowingCrop("p", "Bed 2", CROPS["radish"], dates, 1.0, 16)
    (share,) = by_week(standing, today=D("2027-04-20"), until=D("2027-06-01"))
    (line,) = kitchen_sheet.lines([share], share.monday, CALENDAR, adopted={"Bed 2": "b"}, ways=WAYS)
    assert line.from_day == dates.first_pick
    assert 0 < line.low_g < line.high_g
    assert line.bringer.day is not None
    assert line.from_day <= line.bringer.day <= share.monday + timedelta(days=6)
    assert [part for part, _ in line.ways] == ["root", "leaf", "pod"]
    assert kitchen_sheet.lines([share], share.monday + timedelta(days=7), CALENDAR, adopted={}, ways=WAYS) == []


def test_the_bed_s_own_class_brings_it_before_any_other_and_nobody_does_in_a_break() -> None:
    monday = D("2027-04-12")
    sunday = monday + timedelta(days=6)
    first = CALENDAR.lessons(monday, sunday)[0]
    assert kitchen_sheet.bringer(CALENDAR, monday, sunday, []).day == first.day
    assert kitchen_sheet.bringer(CALENDAR, monday, sunday, ["b"]).group_id == "b"
    summer = D("2027-07-12")
    assert kitchen_sheet.bringer(CALENDAR, summer, summer + timedelta(days=6), ["b"]) == kitchen_sheet.Bringer(
        None, None
    )


def test_everything_that_is_eaten_has_a_way_to_eat_it() -> None:
    lacking = {
        crop.key
        for crop in CROPS
        if crop.food_group != "not for eating" and crop.group not in ("cover crops", "flowers") and crop.key not in WAYS
    }
    assert lacking == set()


@pytest.mark.parametrize(
    ("crop", "part", "word"),
    [
        ("pole-bean", "dry bean", "boiled hard"),
        ("bush-bean", "main", "raw beans make ill"),
        ("lima-bean", "main", "raw they are poisonous"),
        ("rhubarb", "main", "leaves are poisonous"),
        ("potato", "main", "green ones"),
        ("eggplant", "main", "never raw"),
        ("olive", "main", "brine"),
        ("zucchini", "main", "bitter"),
        ("cherry-tomato", "main", "under five"),
        ("broad-bean", "main", "favism"),
        ("husk-cherry", "main", "green ones"),
    ],
)
def test_what_can_hurt_says_so(crop: str, part: str, word: str) -> None:
    assert word in WAYS[crop][part]
