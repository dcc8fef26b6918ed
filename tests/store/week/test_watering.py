"""What beds are to be given, gathered from a real database; and the stops of a carer's round."""

from dataclasses import replace
from datetime import date, timedelta

import pytest

from almanaque.commands import context
from almanaque.commands.garden import planting_events
from almanaque.commands.week import carer_rounds, watering
from almanaque.commands.week.watering import BedWater, Watering
from almanaque.commands.year import schedule
from almanaque.core.week import water
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from almanaque.store.school import school as school_store
from tests.database import bed_id
from tests.store.year.test_schedule import ACTOR, TODAY, InSchool, paint

JULY = date(2027, 7, 12)


def reckoned(in_school: InSchool, day: date = TODAY) -> Watering:
    return watering.watering(in_school[0], context.load(in_school[0]), day, today=TODAY)


def of_bed(found: Watering, name: str) -> BedWater:
    return next(bed for bed in found.beds if bed.bed.name == name)


def in_the_ground(in_school: InSchool, planting: Planting) -> Planting:
    planting_events.happened(in_school[0], in_school[1], planting.id, "started", TODAY, ACTOR)
    return garden.planting(in_school[0], planting.id)


def test_litres_are_the_depth_over_the_planted_squares(in_school: InSchool) -> None:
    for bed in reckoned(in_school).beds:
        if bed.pot is None and bed.need.rain_mm:
            assert bed.litres == pytest.approx(bed.need.give_mm * bed.planted_m2, rel=0.02), bed.bed.name


def test_what_is_only_planned_or_pencilled_gets_no_water_yet(in_school: InSchool) -> None:
    before = of_bed(reckoned(in_school), "Bed 4").planted_m2
    planned = paint(in_school, "F4", ink=True)
    paint(in_school, "F3")
    assert of_bed(reckoned(in_school), "Bed 4").planted_m2 == before
    in_the_ground(in_school, planned)
    assert of_bed(reckoned(in_school), "Bed 4").planted_m2 == pytest.approx(before + 0.0929, abs=0.001)


def test_a_square_with_two_crops_is_watered_once(in_school: InSchool) -> None:
    in_the_ground(in_school, paint(in_school, "F4", ink=True))
    before = of_bed(reckoned(in_school), "Bed 4")
    in_the_ground(in_school, paint(in_school, "F4", "carrot", ink=True, with_others=True))
    after = of_bed(reckoned(in_school), "Bed 4")
    assert after.planted_m2 == before.planted_m2
    assert after.litres == pytest.approx(before.litres)


def test_in_winter_garlic_is_left_alone(in_school: InSchool) -> None:
    found = reckoned(in_school, date(2028, 1, 12))
    assert found.litres == 0


def test_under_a_tunnel_rain_does_not_count_and_under_a_row_cover_it_does(in_school: InSchool) -> None:
    made = in_the_ground(in_school, paint(in_school, "F4", ink=True))
    open_air = of_bed(reckoned(in_school), "Bed 4").need.rain_mm
    schedule.set_cover(in_school[0], in_school[1], made.id, "row cover", ACTOR)
    assert of_bed(reckoned(in_school), "Bed 4").need.rain_mm == pytest.approx(open_air)
    schedule.set_cover(in_school[0], in_school[1], made.id, "tunnel", ACTOR)
    assert of_bed(reckoned(in_school), "Bed 4").need.rain_mm < open_air


def test_the_seven_days_before_count_up_to_today_and_a_usual_week_after_it(in_school: InSchool) -> None:
    now, later = reckoned(in_school), reckoned(in_school, JULY)
    assert (now.days[0], now.days[-1]) == (TODAY - timedelta(days=7), TODAY - timedelta(days=1))
    assert (later.days[0], later.days[-1]) == (JULY, JULY + timedelta(days=6))
    assert later.ahead
    assert later.week is not None
    assert later.week.missing == 7
    assert later.week.weather.rain_mm.sum() == 0


def test_a_pot_is_told_by_the_day_and_a_sill_is_left_out(in_school: InSchool) -> None:
    found = reckoned(in_school)
    assert of_bed(found, "Half barrel").pot is not None
    assert of_bed(found, "Bed 1").pot is None
    assert "Sill" not in [bed.bed.name for bed in found.beds]


def test_a_young_tree_is_apart_from_its_bed_and_stops_after_two_years(in_school: InSchool) -> None:
    tree = paint(in_school, "A1", "apple", bed=bed_id("Herb corner"), ink=True)
    in_the_ground(in_school, tree)
    found = reckoned(in_school)
    assert [(t.name, t.bed.name) for t in found.trees] == [("Apple, small tree", "Herb corner")]
    assert 0 < found.trees[0].litres <= water.TREE_UNKNOWN_L
    assert reckoned(in_school, TODAY + timedelta(days=740)).trees == []


def test_without_weather_every_bed_gets_its_inch(in_school: InSchool) -> None:
    bare = replace(in_school[1], record=None, school=replace(in_school[1].school, water_by="use"))
    found = watering.watering(in_school[0], bare, TODAY, today=TODAY)
    assert found.practice == "inch"
    assert found.week is None
    assert {round(bed.need.give_mm, 1) for bed in found.beds} == {25.4}


def test_minutes_and_bottles_follow_what_the_school_has(in_school: InSchool) -> None:
    school_store.save_watering(in_school[0], water_by="inch", hose_l_min=None, bottle_l=2.0)
    bed = of_bed(reckoned(in_school), "Bed 1")
    assert bed.hose_minutes is None
    assert bed.drip_minutes is None
    assert bed.bottles == water.bottles(bed.litres, 2.0)


def test_the_stops_of_a_round_share_the_week_and_follow_the_order_of_the_walk(in_school: InSchool) -> None:
    walk = carer_rounds.round_at(*in_school, JULY, 1)
    found = carer_rounds.stops(in_school[0], in_school[1], walk, today=TODAY)
    whole = reckoned(in_school, walk.from_day)
    ordinals = [stop.bed.ordinal for stop in found]
    assert ordinals == sorted(ordinals)
    assert sum(stop.litres for stop in found) == pytest.approx(whole.litres / in_school[1].school.rounds_a_week)
    assert any("Carrot" in words for stop in found for words in stop.pick)


def test_there_is_no_round_while_school_is_in(in_school: InSchool) -> None:
    with pytest.raises(errors.NotFound, match="school is in that week"):
        carer_rounds.round_at(*in_school, date(2027, 5, 10), 1)
