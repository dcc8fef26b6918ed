from datetime import date

import pytest

from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import forecast
from almanaque.core.year.steps import DONE_BY, SETTABLE, Step, as_they_stand, done_steps, steps
from almanaque.data import catalogue
from tests.places import D

CROPS = catalogue()


def steps_of(key: str, method: str, start: str, **more: object) -> list[Step]:
    crop = CROPS[key]
    return list(steps(crop, method, forecast(crop, method, D(start)), plants=9, squares=1, units="us", **more))  # type: ignore[arg-type]


def test_a_long_stay_indoors_is_potted_up_half_way_and_a_short_one_is_not() -> None:
    tomato = {s.step: s for s in steps_of("tomato", "indoors", "2027-03-30")}
    assert tomato["start indoors"].from_day < tomato["pot up"].from_day < tomato["harden off"].from_day
    assert "pot up" not in {s.step for s in steps_of("pumpkin", "indoors", "2027-05-01")}


def test_garlic_loses_its_scapes_before_it_is_dug_and_is_cured_after() -> None:
    garlic = {s.step: s for s in steps_of("garlic", "cloves", "2026-10-06")}
    assert garlic["scape"].to_day < garlic["first picking"].from_day
    assert (garlic["cure"].to_day - garlic["cure"].from_day).days == CROPS["garlic"].cure_days


def test_a_perennial_is_cut_back_in_its_months_and_divided_after_its_years_half_a_year_on_in_the_south() -> None:
    north = {(s.step, s.ordinal): s for s in steps_of("coneflower", "starts", "2027-05-05")}
    assert (north["cut back", 1].from_day, north["divide", 1].from_day) == (D("2028-03-01"), D("2031-03-15"))
    south = {(s.step, s.ordinal): s for s in steps_of("coneflower", "starts", "2027-11-05", southern=True)}
    assert (south["cut back", 1].from_day, south["divide", 1].from_day) == (D("2028-09-01"), D("2031-09-15"))
    assert ("clear", 1) not in north


def test_a_plant_that_comes_again_has_its_jobs_anew_each_year() -> None:
    berry = CROPS["strawberry"]
    dates = forecast(berry, "starts", D("2025-08-28"))

    def season(day: str) -> dict[tuple[str, int], date]:
        found = steps(berry, "starts", dates, plants=9, squares=1, units="us", since=D(day))
        return {(s.step, s.ordinal): s.from_day for s in found if s.step in ("first picking", "cut back", "divide")}

    first, second = season("2026-03-01"), season("2027-03-01")
    assert not set(first) & set(second) - {("divide", 1)}
    years = {step: day.year for (step, _), day in second.items()}
    assert (years["first picking"], years["cut back"], years["divide"]) == (2027, 2027, 2028)
    assert {day.year for (step, _), day in season("2028-06-01").items() if step == "divide"} == {2031}


def test_what_comes_again_is_taken_out_only_on_a_day_that_somebody_set() -> None:
    dates = forecast(CROPS["rhubarb"], "starts", D("2026-04-20"))
    assert (dates.clear_by - dates.bed_from).days > 29 * 365
    wanted = {"plants": 1, "squares": 4, "units": "us", "since": D("2028-03-01")}
    without = {s.step for s in steps(CROPS["rhubarb"], "starts", dates, **wanted)}  # type: ignore[arg-type]
    assert "clear" not in without
    out = next(
        s
        for s in steps(CROPS["rhubarb"], "starts", dates, by_hand={"clear": D("2028-10-02")}, **wanted)
        if s.step == "clear"
    )  # type: ignore[arg-type]
    assert (out.from_day, out.to_day) == (D("2028-10-02"), D("2028-10-08"))
    assert out.title == "Take the rhubarb out, roots and all"


def test_scouting_is_looked_out_for_and_no_job_of_its_own() -> None:
    found = {s.step: s for s in steps_of("kale", "starts", "2027-04-10")}
    assert not found["scout"].job
    assert all(s.job for name, s in found.items() if name != "scout")


def test_a_day_set_by_hand_stays_and_steps_stay_in_order() -> None:
    found = steps_of("tomato", "indoors", "2027-03-30", by_hand={"support": D("2027-07-01")})
    support = next(s for s in found if s.step == "support")
    assert (support.from_day, support.to_day) == (D("2027-07-01"), D("2027-07-07"))
    other = [s for s in steps_of("tomato", "indoors", "2027-03-30") if s.step != "support"]
    assert [s for s in found if s.step != "support"] == other


def test_what_happened_makes_steps_done_and_what_passed_over() -> None:
    wanted = steps_of("carrot", "direct", "2027-03-30")
    stand = as_they_stand(
        wanted,
        events={"started": D("2027-03-30")},
        by_hand={"thin": D("2027-05-05")},
        today=D("2027-04-14"),
        method="direct",
    )
    by = {(d.step.step, d.step.ordinal): d for d in stand}
    assert (by["sow", 1].state, by["sow", 1].done_on) == ("done", D("2027-03-30"))
    assert by["prepare bed", 1].state == "done"
    assert by["keep moist", 1].state == "over"
    assert by["thin", 1].state == "set by hand"
    assert by["first picking", 1].state == "planned"


@pytest.mark.parametrize("crop", list(CROPS), ids=lambda crop: crop.key)
def test_steps_come_in_the_order_of_their_days_and_what_can_be_set_or_done_is_a_step(crop: Crop) -> None:
    for method in crop.methods:
        found = steps_of(crop.key, method, "2027-04-13")
        assert [s.from_day for s in found] == sorted(s.from_day for s in found)
        assert len({(s.step, s.ordinal) for s in found}) == len(found)
    names = {s.step for s in found}
    assert names & set(SETTABLE)
    assert {step for made in DONE_BY.values() for step in made} & names


def test_plants_sown_indoors_are_not_in_the_bed_until_they_are_set_out() -> None:
    assert done_steps({"started": D("2027-03-30")}, "indoors") == {
        "start indoors": D("2027-03-30"),
        "sow": D("2027-03-30"),
    }
    assert "transplant" in done_steps({"started": date(2027, 3, 30), "set out": D("2027-05-18")}, "indoors")


def test_what_comes_again_is_taken_out_within_a_week_of_the_day_that_is_set() -> None:
    day = D("2029-10-01")
    clear = next(s for s in steps_of("strawberry", "starts", "2027-04-13", by_hand={"clear": day}) if s.step == "clear")
    assert (clear.from_day, (clear.to_day - clear.from_day).days) == (day, 6)


def test_one_square_and_several() -> None:
    crop = CROPS["lettuce"]
    for squares, said in ((1, "1 square"), (4, "4 squares")):
        found = steps(crop, "direct", forecast(crop, "direct", D("2027-04-13")), plants=4, squares=squares, units="us")
        assert any(said in step.title and "1 squares" not in step.title for step in found)
