"""A planting day in the database: which plans go in, for whom, and what is noted of them."""

from datetime import date, timedelta

import pytest

from almanaque.commands.garden import planting_events
from almanaque.commands.week import planting_day
from almanaque.core.errors import BadInput
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Planting
from almanaque.store.week import planting_day_results
from almanaque.store.week.planting_day_results import Planted
from tests.database import NORTH, bed_id
from tests.refuses import refuses
from tests.store.year.test_schedule import ACTOR, BED_4, TODAY, InSchool, paint

BED_7 = bed_id("Bed 7")


def sheet(in_school: InSchool, day: date, bed: object = BED_4) -> planting_day.RunSheet | None:
    return planting_day.run_sheet(in_school[0], in_school[1], garden.bed(in_school[0], bed), day, today=TODAY)  # type: ignore[arg-type]


def noted(in_school: InSchool, planting: Planting, **more: object) -> Planted:
    row = Planted(planting.id, **{"plants": 30, "left_over": None, "apart_mm": (), **more})  # type: ignore[arg-type]
    planting_day.came_out(in_school[0], in_school[1], [row], TODAY, ACTOR)
    return row


def test_the_days_of_a_bed_are_those_of_its_sowing_and_setting_out(in_school: InSchool) -> None:
    for day in planting_day.days(in_school[0], BED_7, TODAY):
        found = sheet(in_school, day, BED_7)
        assert found is not None
        assert found.day == day
        assert {g.planting.bed_id for g in found.goes} == {BED_7}


def test_the_holes_of_the_squares_are_the_plants_of_the_plan(in_school: InSchool) -> None:
    made = paint(in_school, "F3-F4", "carrot", ink=True)
    found = sheet(in_school, TODAY)
    assert found is not None
    mine = next(g for g in found.goes if g.planting.id == made.id)
    assert sum(mine.to_plant.holes.values()) == mine.layout.plants
    assert set(mine.to_plant.holes) == set(made.cells)


def test_one_plant_for_a_block_of_squares_is_one_hole(in_school: InSchool) -> None:
    made = paint(in_school, "E3-F4", "kale", date(2027, 5, 4), ink=True)
    found = sheet(in_school, made.bed_from)
    assert found is not None
    assert sum(next(g for g in found.goes if g.planting.id == made.id).to_plant.holes.values()) == 1


def test_pencil_and_what_is_in_the_ground_do_not_go_in(in_school: InSchool) -> None:
    pencil = paint(in_school, "F3")
    after = sheet(in_school, TODAY)
    assert after is None or pencil.id not in {g.planting.id for g in after.goes}
    made = paint(in_school, "F4", ink=True)
    noted(in_school, made)
    later = sheet(in_school, TODAY)
    assert later is None or made.id not in {g.planting.id for g in later.goes}


def test_what_is_noted_puts_it_in_the_ground_and_taken_back_it_is_gone(in_school: InSchool) -> None:
    made = paint(in_school, "F4", "carrot", ink=True)
    row = noted(in_school, made, left_over=2, apart_mm=(76.2, 76.2, 76.2))
    assert garden.planting(in_school[0], made.id).events == {"started": TODAY}
    assert planting_day_results.planted(in_school[0], [made.id]) == {made.id: row}
    noted(in_school, made, plants=28)
    assert planting_day_results.planted(in_school[0], [made.id])[made.id].plants == 28
    planting_events.did_not_happen(in_school[0], in_school[1], made.id, "started", ACTOR)
    assert planting_day_results.planted(in_school[0], [made.id]) == {}
    assert garden.planting(in_school[0], made.id).status == "planned"


def test_distances_that_came_out_wrong_are_told(in_school: InSchool) -> None:
    made = paint(in_school, "F4", "carrot", ink=True)
    row = Planted(made.id, 16, None, (30.0, 32.0, 28.0))
    said = planting_day.came_out(in_school[0], in_school[1], [row], TODAY, ACTOR)
    assert [f.code for f in said] == ["distances_off"]


def test_nothing_at_all_is_refused_and_nothing_is_kept(in_school: InSchool) -> None:
    made = paint(in_school, "F4", ink=True)
    for rows in ([], [Planted(made.id, 0, None, ())]):
        with pytest.raises(BadInput):
            planting_day.came_out(in_school[0], in_school[1], rows, TODAY, ACTOR)
    assert garden.planting(in_school[0], made.id).events == {}
    with refuses("garden.event_in_future"):
        planting_day.came_out(
            in_school[0], in_school[1], [Planted(made.id, 5, None, ())], TODAY + timedelta(days=1), ACTOR
        )
    assert planting_day_results.planted(in_school[0], [made.id]) == {}


def test_another_school_reads_none_of_it(in_school: InSchool) -> None:
    made = paint(in_school, "F4", ink=True)
    noted(in_school, made)
    in_school[0].execute("SELECT set_config('almanaque.school', %s, true)", [str(bed_id("x"))])
    assert planting_day_results.planted(in_school[0], [made.id]) == {}
    in_school[0].execute("SELECT set_config('almanaque.school', %s, true)", [str(NORTH)])
