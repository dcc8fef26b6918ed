from dataclasses import replace
from datetime import date, timedelta

import pytest

from almanaque.core.garden.rotation import Stood
from almanaque.core.growth import school_fit
from almanaque.core.growth.school_fit import stands_at_least_until
from almanaque.core.growth.setting import Setting
from almanaque.core.growth.sowing_days import weigh
from almanaque.core.year.shortlist import Listed, Places, Space, fits_here, not_to_sow, places_for, to_sow
from almanaque.data import catalogue
from tests.places import CALENDAR, D, early_spring

CROPS = catalogue()
EARLY = Setting(CALENDAR, early_spring(), "us")
APRIL = D("2027-04-13")
SUNNY = Space(sun_h=(9.0,) * 12, depth_mm=350)


def listed(space: Space, day: date = APRIL) -> dict[str, Listed]:
    return {item.crop.key: item for item in fits_here(CROPS, day, EARLY, space, "us")}


def test_every_crop_is_listed_once_the_best_first_and_each_that_does_not_fit_has_one_reason() -> None:
    found = fits_here(CROPS, APRIL, EARLY, SUNNY, "us")
    assert len({item.crop.key for item in found}) == len(CROPS) == len(found)
    rank = {"fits": 0, "with care": 1, "misses": 2}
    assert [rank[item.verdict] for item in found] == sorted(rank[item.verdict] for item in found)
    assert all(item.against.count(". ") <= 1 and item.against for item in found if item.verdict != "fits")
    assert {item.crop.key for item in found if item.verdict == "fits"} >= {"radish", "lettuce"}


@pytest.mark.parametrize(
    ("space", "crop", "says"),
    [
        (replace(SUNNY, depth_mm=200), "carrot", "Wants 12 in of soil; here are"),
        (replace(SUNNY, sun_h=(2.0,) * 12), "radish", "Wants 4 h of sun; here are 2.0 h in"),
        (replace(SUNNY, free_to=D("2027-05-10")), "radish", "the space is free until 10 May"),
        (replace(SUNNY, free_to=D("2027-08-01")), "rhubarb", "Stays for years"),
        (
            replace(
                SUNNY,
                history=(Stood("Brassicaceae", "Kale", frozenset({(0, 0)}), D("2026-10-01")),),
                family_names={"Brassicaceae": "Cabbage kin"},
            ),
            "radish",
            "Cabbage kin stood there a year ago; they rest 3 years.",
        ),
        (replace(SUNNY, narrow_mm=300), "pumpkin", "Grows far wider"),
    ],
)
def test_the_space_speaks_before_the_calendar(space: Space, crop: str, says: str) -> None:
    item = listed(space)[crop]
    assert item.verdict == "misses"
    assert says in item.against


def test_a_class_that_is_young_for_a_crop_makes_it_ask_for_care() -> None:
    anyone, young = listed(SUNNY), listed(replace(SUNNY, youngest=4))
    fitting = [item for item in anyone.values() if item.verdict == "fits"]
    assert {item.crop.ages_from > 4 for item in fitting} == {True, False}
    said: set[str] = set()
    for item in fitting:
        now = young[item.crop.key]
        if item.crop.ages_from > 4:
            assert now.verdict == "with care"
            said.add(now.against)
        else:
            assert now.verdict == "fits"
    assert "Usually handled from age 5." in said


def test_the_best_way_of_starting_is_shown() -> None:
    beet = listed(SUNNY)["beet"]
    grades = {method: school_fit.judge(CROPS["beet"], method, APRIL, EARLY).verdict for method in CROPS["beet"].methods}
    order = ["fits", "with care", "misses"]
    assert order.index(beet.verdict) == min(order.index(grade) for grade in grades.values())


def test_a_crop_pulled_at_once_needs_its_place_until_a_late_first_picking_and_one_picked_on_a_week_more() -> None:
    radish, chard = (school_fit.judge(CROPS[key], "direct", APRIL, EARLY) for key in ("radish", "chard"))
    assert stands_at_least_until(radish) == radish.dates.first_pick_late
    assert stands_at_least_until(chard) == chard.dates.first_pick_late + timedelta(days=7)


def test_what_to_sow_in_a_month_names_days_that_really_have_that_verdict() -> None:
    starts, ends = D("2027-04-14"), D("2027-04-30")
    found = to_sow(CROPS, starts, ends, EARLY)
    assert len(found) > 30
    assert len({item.crop.key for item in found}) == len(found)
    for item in found[:40]:
        assert starts <= item.first <= item.last <= ends
        assert CALENDAR.children_here(item.first)
        grade = {"fits": 0, "with care": 1}[item.verdict]
        assert all(weigh(item.crop, item.method, [day], EARLY).verdict[0] == grade for day in (item.first, item.last))


def test_what_misses_all_month_has_one_reason_each() -> None:
    starts, ends = D("2027-04-14"), D("2027-04-30")
    found = to_sow(CROPS, starts, ends, EARLY)
    others = not_to_sow(CROPS, found, starts, ends, EARLY)
    assert len(found) + len(others) == len(CROPS)
    assert others
    assert all(why for _, why in others)


def test_in_a_month_without_school_nothing_is_sown() -> None:
    assert to_sow(CROPS, D("2027-07-01"), D("2027-07-31"), EARLY) == []


def test_beds_are_named_that_can_take_a_crop_and_else_the_first_reason() -> None:
    radish = school_fit.judge(CROPS["radish"], "direct", APRIL, EARLY)
    carrot = school_fit.judge(CROPS["carrot"], "direct", APRIL, EARLY)
    deep, shallow = replace(SUNNY, name="Deep", depth_mm=400), replace(SUNNY, name="Shallow", depth_mm=200)
    shade = replace(deep, name="Shade", sun_h=(1.0,) * 12)
    assert places_for(radish, [deep, shallow, shade], "us") == Places(("Deep", "Shallow"))
    assert places_for(carrot, [shallow, deep], "us") == Places(("Deep",))
    nowhere = places_for(carrot, [replace(shade, free_to=D("2027-05-01")), shallow], "us")
    assert nowhere.names == ()
    assert nowhere.against.startswith("Shallow: Wants 12 in of soil; here are")
    assert places_for(carrot, [shallow], "us").against.startswith("Wants 12 in of soil; here are")
    assert places_for(carrot, [], "us") == Places((), "No bed has free squares.")


def test_a_bed_whose_class_must_not_eat_it_is_named_only_where_there_is_no_other() -> None:
    starts = school_fit.judge(CROPS["strawberry"], "starts", APRIL, EARLY)
    theirs = replace(SUNNY, name="Theirs", group="Grade 3", flags=(("must not eat", "strawberries"),))
    other = replace(SUNNY, name="Other")
    assert places_for(starts, [theirs, other], "us") == Places(("Other",))
    assert places_for(starts, [theirs], "us") == Places(("Theirs",), "Someone in Grade 3 must not eat strawberries.")
    item = listed(theirs)["strawberry"]
    assert (item.verdict, item.against) == ("with care", "Someone in Grade 3 must not eat strawberries.")
