"""What a week's weather means for what stands there."""

from dataclasses import replace
from datetime import date, timedelta

import pytest

from almanaque.core.week import weather_notes
from almanaque.core.week.weather_notes import OutdoorPlant, SeenDay
from almanaque.data import catalogue

CROPS = catalogue()
FIRST = date(2027, 6, 1)


def week(
    *, low: float | None = 10, high: float | None = 20, rain: float | None = 3, wind: float | None = 2, days: int = 7
) -> list[SeenDay]:
    return [SeenDay(FIRST + timedelta(days=n), low, high, rain, wind) for n in range(days)]


def stands(key: str, **more: object) -> OutdoorPlant:
    usual = {"since": FIRST - timedelta(days=30), "up": True, "in_flower": False, **more}
    return OutdoorPlant(CROPS[key], "Bed 1", **usual)  # type: ignore[arg-type]


def codes(standing: list[OutdoorPlant], days: list[SeenDay]) -> list[str]:
    return [finding.code for finding in weather_notes.notes(standing, days, "us")]


def test_an_ordinary_week_says_nothing() -> None:
    assert codes([stands("tomato", in_flower=True), stands("lettuce"), stands("carrot", up=False)], week()) == []


def test_a_night_colder_than_a_crop_bears_is_told_with_its_day() -> None:
    found = weather_notes.notes([stands("tomato"), stands("kale")], week(low=-1), "us")
    assert [f.code for f in found] == ["froze"]
    assert found[0].message == "It went down to 30 °F on 1 Jun: Tomato in Bed 1."
    assert "wait three days" in found[0].fixes[0].label
    assert codes([stands("tomato", under_cover=True)], week(low=-1)) == []
    assert codes([stands("tomato", since=FIRST + timedelta(days=20))], week(low=-1)) == []


def test_three_hot_days_make_cool_crops_bolt_and_flowers_drop() -> None:
    hot = week(high=36)
    assert codes([stands("lettuce")], hot) == ["heat_now"]
    assert codes([stands("lettuce")], hot[:2]) == []
    message = weather_notes.notes([stands("tomato", in_flower=True)], week(high=43), "us")[0].message
    assert message.startswith("Flowers drop in such heat: Tomato")


@pytest.mark.parametrize("bad", [{"high": 12}, {"wind": 9}, {"rain": 8}])
def test_four_days_without_bees_ask_for_a_brush_where_insects_must_come(bad: dict) -> None:
    days = [*week(**bad, days=4), *week()[4:]]
    squash, radish = stands("zucchini", in_flower=True), stands("radish", in_flower=True)
    found = weather_notes.notes([squash, radish], days, "us")
    assert [f.code for f in found] == ["no_bees"]
    assert "4 of the last 7 days" in found[0].message
    assert "from male flowers to female ones" in found[0].fixes[0].label
    assert codes([squash], days[1:]) == []
    assert codes([stands("zucchini")], days) == []


def test_a_seedbed_that_is_not_up_and_gets_no_rain_is_told() -> None:
    dry = week(rain=0)
    assert codes([stands("carrot", up=False)], dry) == ["seedbed_dry"]
    assert weather_notes.notes([stands("carrot", up=False)], dry, "us")[0].message.startswith("No rain in 4 days")
    assert weather_notes.notes([stands("carrot", up=False)], week(rain=0.4), "metric")[0].message.startswith(
        "2 mm of rain in 4 days"
    )
    assert codes([stands("carrot", up=True)], dry) == []
    assert codes([stands("carrot", up=False)], week(rain=0, high=8)) == []
    assert codes([stands("carrot", up=False)], week(rain=1)) == []
    assert codes([stands("carrot", up=False, since=FIRST + timedelta(days=9))], dry) == []


def test_a_downpour_on_seed_is_told_and_under_a_cover_it_is_not() -> None:
    days = [*week(days=6), SeenDay(FIRST + timedelta(days=6), 10, 20, 45, 2)]
    assert codes([stands("carrot", up=False)], days) == ["washed"]
    assert codes([stands("carrot", up=False, under_cover=True)], days) == []


def test_what_nobody_read_says_nothing() -> None:
    blank = week(low=None, high=None, rain=None, wind=None)
    assert codes([stands("tomato", in_flower=True), stands("carrot", up=False), stands("lettuce")], blank) == []
    assert codes([stands("tomato")], []) == []


def test_the_worst_comes_first_and_names_are_said_once_each() -> None:
    found = weather_notes.notes(
        [stands("carrot", up=False), stands("tomato"), stands("pepper"), stands("tomato")],
        week(low=-1, rain=0),
        "metric",
    )
    assert [f.code for f in found] == ["froze", "seedbed_dry"]
    assert found[0].subject.count("Tomato") == 1
    assert " and " in found[0].subject


def test_rain_of_the_limit_itself_keeps_the_bees_at_home() -> None:
    wet = [replace(day, rain_mm=weather_notes.WET_MM) for day in week()]
    dry = [replace(day, rain_mm=weather_notes.WET_MM - 0.1) for day in week()]
    flower = [stands("zucchini", in_flower=True)]
    assert ("no_bees" in codes(flower, wet), "no_bees" in codes(flower, dry)) == (True, False)
