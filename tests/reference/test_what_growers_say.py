"""Answers that any grower knows, each tried where it is told: the figures beside the lines are common practice, from memory."""

from datetime import date, timedelta

import numpy as np
import pytest

from almanaque.core.crops.crop import Method
from almanaque.core.growth import nearest_fit
from almanaque.core.growth.covers import COVERS, Covering
from almanaque.core.growth.crop_runs import Outcome, Runs
from almanaque.core.growth.school_fit import judge
from almanaque.core.growth.setting import Leads, Setting
from almanaque.core.growth.sowing_days import Weighed, weigh
from almanaque.core.year.steps import steps as _steps
from almanaque.data import catalogue
from tests.places import CALENDAR, D, steady
from tests.reference.climates import ALWAYS, record, setting

CROPS = catalogue()
YEAR = [date(2027, 1, 1) + timedelta(days=n) for n in range(365)]
ALL = ("continental", "cool-maritime", "north-60", "humid-subtropical", "dry-mild-winter", "lowland-tropics")


def weighed(crop: str, climate: str, days: list[date] | None = None, method: Method | None = None) -> Weighed:
    return weigh(CROPS[crop], method or CROPS[crop].methods[0], days or YEAR, setting(climate))


def codes(crop: str, method: Method, day: str, climate: str) -> dict[str, str]:
    return {f.code: f.severity for f in judge(CROPS[crop], method, D(day), setting(climate)).findings}


def first_months(found: Weighed) -> set[int]:
    return {date.fromordinal(int(day)).month for day in found.first[:, 1] if day > 0}


@pytest.mark.parametrize("climate", ["continental", "cool-maritime", "north-60"])
def test_apples_are_picked_from_late_summer_to_autumn_and_never_over_the_winter(climate: str) -> None:
    found = weighed("apple", climate, YEAR[90:150])
    assert (found.ripe > 0).any()
    assert first_months(found) <= {8, 9, 10}


@pytest.mark.parametrize("crop", ["apple", "pear", "rhubarb", "currant", "blueberry"])
def test_what_needs_a_winter_never_bears_in_the_lowland_tropics_and_says_why(crop: str) -> None:
    found = weighed(crop, "lowland-tropics", YEAR[::7])
    assert (found.verdict == 2).all()
    assert codes(crop, "starts", "2027-04-01", "lowland-tropics")["no_cold"] == "fault"


def test_nothing_is_set_in_frozen_ground() -> None:
    for crop in ("asparagus", "rhubarb", "apple", "garlic", "mint"):
        method = CROPS[crop].methods[0]
        assert codes(crop, method, "2027-01-20", "north-60")["no_ground"] == "fault"


def test_outside_the_tropics_no_perennial_fits_on_every_day() -> None:
    for crop in (c for c in CROPS if c.life == "perennial"):
        for climate in ("continental", "cool-maritime", "north-60"):
            for way in crop.methods:
                assert (weighed(crop.key, climate, YEAR[::5], way).verdict > 0).any(), (crop.key, climate, way)


def test_a_season_ends_at_midwinter() -> None:
    cool = record("north-60").runs(CROPS["blackberry"], "starts", ready_by="warmth")
    days = np.datetime64(record("north-60").climate.first_day) + np.arange(len(cool.first)) + cool.first
    ripe = days[cool.outcome == Outcome.RIPE]
    assert set((ripe.astype("datetime64[M]").astype(int) % 12 + 1).tolist()) <= {8, 9, 10, 11, 12}


def test_seed_of_warm_crops_rots_in_cold_ground() -> None:
    for crop, day in (("bush-bean", "2027-03-15"), ("sweet-corn", "2027-03-10"), ("pumpkin", "2027-04-10")):
        assert codes(crop, "direct", day, "continental").get("not_up") in ("fault", "care")
        assert judge(CROPS[crop], "direct", D(day), setting("continental")).verdict == "misses"


def test_peas_and_onions_wait_where_beans_do_not() -> None:
    cold = steady(4, 8)  # soil of 6 °C, then a warm spring cannot be had: only waiting is asked
    for crop, waits in (("pea", 60), ("bush-bean", 14), ("sweet-corn", 15), ("onion", 60), ("parsnip", 60)):
        assert CROPS[crop].seed_waits == waits
    beans = cold.runs(CROPS["bush-bean"], "direct", ready_by="warmth")
    assert beans.outcome[500] == Outcome.NOT_UP


def test_before_april_nothing_is_sown_outdoors_at_60_north() -> None:
    march = [day for day in YEAR if day.month <= 3]
    for crop in (c for c in CROPS if c.life != "perennial"):
        for method in (m for m in crop.methods if m != "indoors"):
            assert not (weighed(crop.key, "north-60", march, method).verdict == 0).any(), (crop.key, method)


@pytest.mark.parametrize("crop", ["tomato", "pepper", "cucumber", "basil"])
def test_tender_plants_are_not_set_out_in_a_mild_january(crop: str) -> None:
    january = YEAR[:31]
    found = weighed(crop, "dry-mild-winter", january, "starts")
    assert (found.verdict == 2).all()


def test_without_weather_nothing_simply_fits() -> None:
    plain = Setting(ALWAYS, None, "metric")
    for crop in CROPS:
        assert (weigh(crop, crop.methods[0], YEAR[::30], plain).verdict > 0).all()
    said = judge(CROPS["tomato"], "starts", D("2027-01-15"), plain)
    assert [fix.action for f in said.findings if f.code == "no_weather" for fix in f.fixes] == ["page"]


def test_four_years_of_weather_never_speak_for_all() -> None:
    short = Setting(ALWAYS, steady(11, 20, years=4), "metric")
    judged = judge(CROPS["radish"], "direct", D("2027-05-02"), short)
    assert judged.verdict == "with care"
    assert [f.code for f in judged.findings if f.severity == "care"] == ["few_years"]


def test_april_potatoes_wait_in_the_ground_for_september() -> None:
    school = Setting(CALENDAR, record("continental"), "metric")
    judged = judge(CROPS["potato"], "cloves", D("2027-04-20"), school)
    assert judged.verdict != "misses"
    assert judged.dates.first_pick.month in (7, 8)
    assert judged.dates.stands_until is not None
    assert judged.dates.stands_until >= D("2027-09-05")


@pytest.mark.parametrize(
    ("crop", "method", "place"),
    [("carrot", "direct", "continental"), ("beet", "direct", "cool-maritime"), ("potato", "cloves", "sound")],
)
def test_what_waits_for_the_lessons_of_september_keeps_its_bed_until_then(
    crop: str, method: Method, place: str
) -> None:
    school = Setting(CALENDAR, record(place), "metric")
    judged = judge(CROPS[crop], method, D("2027-03-25"), school)
    back = next(day for n in range(120) if CALENDAR.in_session(day := D("2027-08-01") + timedelta(days=n)))
    assert judged.dates.last_pick < back <= (judged.dates.stands_until or back)
    assert back < judged.dates.clear_by < back + timedelta(weeks=4)
    steps = _steps(judged.crop, method, judged.dates, plants=9, squares=9, units="metric")
    last = {step.step: step.to_day for step in steps if step.step in ("first picking", "picking", "clear")}
    assert last["clear"] == judged.dates.clear_by
    if judged.crop.picked == "once":
        assert last["first picking"] >= back


@pytest.mark.parametrize(("crop", "method"), [("carrot", "direct"), ("beet", "direct"), ("cabbage", "starts")])
def test_roots_and_heads_stand_for_a_day_in_november(crop: str, method: Method) -> None:
    found = nearest_fit.back_from(
        CROPS[crop], method, D("2027-11-10"), setting("cool-maritime"), not_before=D("2027-03-01")
    )
    assert found.latest is not None
    assert found.latest_years >= 0.8 * found.of


def test_roots_stand_until_the_ground_freezes_hard_and_leeks_through_a_mild_winter() -> None:
    for crop, method, climate, least in (
        ("carrot", "direct", "continental", "2027-11-01"),
        ("parsnip", "direct", "cool-maritime", "2028-01-01"),
        ("leek", "starts", "cool-maritime", "2028-01-15"),
        ("winter-squash", "direct", "continental", "2027-09-20"),
        ("onion", "cloves", "continental", "2027-08-01"),
    ):
        start = {"leek": "2027-06-01", "winter-squash": "2027-05-25", "carrot": "2027-07-01"}.get(crop, "2027-04-10")
        dates = judge(CROPS[crop], method, D(start), setting(climate)).dates  # type: ignore[arg-type]
        assert dates.stands_until is not None
        assert dates.stands_until >= D(least), (crop, dates)


@pytest.mark.parametrize("crop", ["parsnip", "leek"])
def test_what_flowers_in_its_second_year_does_not_stand_into_it(crop: str) -> None:
    method = CROPS[crop].methods[0]
    dates = judge(CROPS[crop], method, D("2027-05-15"), setting("cool-maritime")).dates
    assert dates.stands_until is not None
    assert dates.stands_until < D("2028-05-01")


@pytest.mark.parametrize(
    ("crop", "method", "first", "last"),
    [
        ("lettuce", "direct", "2027-04-15", "2027-05-10"),
        ("pea", "direct", "2027-04-01", "2027-04-25"),
        ("spinach", "direct", "2027-04-01", "2027-04-25"),
        ("broccoli", "starts", "2027-04-15", "2027-05-05"),
        ("potato", "cloves", "2027-04-10", "2027-05-15"),
        ("spinach", "direct", "2027-08-15", "2027-09-01"),
    ],
)
def test_cool_crops_have_their_spring_and_autumn_in_a_continental_climate(
    crop: str, method: Method, first: str, last: str
) -> None:
    days = [day for day in YEAR if D(first) <= day <= D(last)]
    assert (weighed(crop, "continental", days, method).verdict < 2).all()


def test_cool_crops_are_spoilt_by_a_continental_summer() -> None:
    days = [day for day in YEAR if D("2027-06-05") <= day <= D("2027-07-05")]
    for crop in ("spinach", "lettuce", "pea"):
        verdicts = weighed(crop, "continental", days, "direct").verdict
        assert (verdicts > 0).all(), crop
        assert (verdicts == 2).mean() >= 0.4, crop


@pytest.mark.parametrize(("crop", "least"), [("radish", 20), ("carrot", 52), ("cabbage", 52), ("zucchini", 38)])
def test_no_warmth_ripens_in_less_than_four_fifths_of_the_packet(crop: str, least: int) -> None:
    method = CROPS[crop].methods[0] if crop != "cabbage" else "starts"
    for climate in ALL:
        runs: Runs = record(climate).runs(CROPS[crop], method, ready_by="warmth")
        ripe = runs.outcome == Outcome.RIPE
        if ripe.any():
            assert int(runs.first[ripe].min()) - runs.into_bed >= least


@pytest.mark.parametrize(
    ("climate", "earliest", "latest"),
    [
        ("continental", "06-25", "07-20"),
        ("cool-maritime", "07-10", "08-05"),
        ("humid-subtropical", "05-10", "06-05"),
        ("dry-mild-winter", "05-25", "06-25"),
    ],
)
def test_garlic_set_in_autumn_is_lifted_when_growers_lift_it(climate: str, earliest: str, latest: str) -> None:
    dates = judge(CROPS["garlic"], "cloves", D("2026-10-20"), setting(climate)).dates
    assert f"2027-{earliest}" <= dates.first_pick.isoformat() <= f"2027-{latest}"


def test_garlic_and_wheat_set_in_july_are_not_in_their_season() -> None:
    for crop, method in (("garlic", "cloves"), ("winter-wheat", "direct")):
        for climate in ("continental", "cool-maritime", "dry-mild-winter"):
            day = [D("2027-07-10")]
            assert weighed(crop, climate, day, method).verdict[0] > 0  # type: ignore[arg-type]


def test_a_young_potato_comes_again_after_a_frost_and_a_young_bean_does_not() -> None:
    frost = steady(8, 20, cold={"2003-05-28": -3.0})
    at = (D("2003-05-01") - date(2001, 1, 1)).days
    assert frost.runs(CROPS["potato"], "cloves", ready_by="warmth").outcome[at] == Outcome.RIPE
    assert frost.runs(CROPS["bush-bean"], "direct", ready_by="warmth").outcome[at] == Outcome.FROZEN


def test_a_light_frost_touches_what_hardens_and_kills_what_is_tender() -> None:
    frost = steady(6, 18, cold={"2003-05-28": -5.0})
    at = (D("2003-05-01") - date(2001, 1, 1)).days
    lettuce = frost.runs(CROPS["lettuce"], "starts", ready_by="warmth")
    assert (lettuce.outcome[at], bool(lettuce.touched[at])) == (Outcome.RIPE, True)
    tomato = frost.runs(CROPS["tomato"], "starts", ready_by="warmth")
    assert (tomato.outcome[at], bool(tomato.touched[at])) == (Outcome.FROZEN, False)


def test_a_cover_never_makes_frost_worse() -> None:
    place = record("continental")
    bare = place.conditions()
    for key in COVERS:
        covered = place.conditions(Covering(key))
        assert (covered.tmin_c >= bare.tmin_c).all()
        for limit in (-6.0, -0.5, 2.0):
            assert (covered.next_frost(limit) >= bare.next_frost(limit)).all()


def test_asters_wait_for_short_days_wherever_they_stand() -> None:
    for climate in ("continental", "cool-maritime", "north-60"):
        assert first_months(weighed("aster", climate, YEAR[100:130])) <= {8, 9}


def test_the_office_s_chart_is_heard_beside_the_record() -> None:
    chart = {("radish", "sow"): frozenset({5, 6})}
    both = Setting(ALWAYS, record("continental"), "metric", chart=chart)
    april, may = (judge(CROPS["radish"], "direct", D(f"2027-{day}"), both) for day in ("04-20", "05-05"))
    said = next(f for f in april.findings if f.code == "not_in_chart")
    assert (april.verdict, said.severity) == (
        judge(CROPS["radish"], "direct", D("2027-04-20"), setting("continental")).verdict,
        "note",
    )
    assert "It has May, June" in said.reason
    assert "of 37 years on file" in said.reason
    assert "not_in_chart" not in {f.code for f in may.findings}


def test_a_school_lets_the_office_lead_or_asks_for_both() -> None:
    """Radish by a chart that has it in May and June only; the usual weeks by the freezes on file begin in April."""
    chart = {("radish", "sow"): frozenset({1, 5, 6})}

    def care(day: str, leads: Leads) -> set[str]:
        followed = Setting(ALWAYS, record("continental"), "metric", chart=chart, leads=leads)
        judged = judge(CROPS["radish"], "direct", D(day), followed)
        return {f.code for f in judged.findings if f.severity == "care"} & {"not_in_chart", "not_in_window"}

    assert [care("2027-04-25", leads) for leads in ("record", "chart", "all")] == [
        set(),
        {"not_in_chart"},
        {"not_in_chart"},
    ]
    assert [care("2027-01-20", leads) for leads in ("record", "chart", "all")] == [
        {"not_in_window"},
        set(),
        {"not_in_window"},
    ]
    frozen = Setting(ALWAYS, record("continental"), "metric", chart=chart, leads="chart")
    assert judge(CROPS["radish"], "direct", D("2027-01-20"), frozen).verdict == "misses", "a chart thaws no ground"
    said = judge(CROPS["radish"], "direct", D("2027-04-25"), frozen).findings
    assert "which you follow" in next(f.message for f in said if f.code == "not_in_chart")


@pytest.mark.parametrize(
    ("crop", "method", "day", "weeks"),
    [
        ("garlic", "cloves", "2026-10-12", 20),
        ("onion", "cloves", "2027-03-25", 16),
        ("apple", "starts", "2027-04-12", 8),
    ],
)
def test_what_is_lifted_in_the_summer_break_and_keeps_asks_for_carers_and_does_not_miss(
    crop: str, method: Method, day: str, weeks: int
) -> None:
    school = Setting(CALENDAR, record("continental"), "metric")
    judged = judge(CROPS[crop], method, D(day), school)
    assert judged.verdict != "misses"
    said = [f for f in judged.findings if f.code == "ready_to_store"]
    if crop == "garlic":
        assert said[0].severity == "care"
        assert f"{weeks} weeks or more" in said[0].reason
    assert CROPS[crop].keeps_weeks == weeks


def test_what_does_not_keep_still_misses_in_the_summer_break() -> None:
    school = Setting(CALENDAR, record("cool-maritime"), "metric")
    judged = judge(CROPS["lettuce"], "direct", D("2027-04-28"), school)
    assert {f.code for f in judged.findings if f.severity == "fault"} == {"ready_no_school"}


def test_storage_is_told_for_fifteen_crops_and_only_for_what_keeps() -> None:
    keeps = {crop.key: crop.keeps_weeks for crop in CROPS if crop.keeps_weeks}
    assert len(keeps) >= 15
    # Weeks that handbooks give at the least, from memory: roots in sand over the winter, squash till February, garlic till spring.
    for key, least, most in (
        ("carrot", 8, 24),
        ("potato", 12, 30),
        ("winter-squash", 8, 26),
        ("garlic", 16, 32),
        ("pear", 1, 12),
    ):
        assert least <= keeps[key] <= most  # type: ignore[operator]
    assert not {"lettuce", "tomato", "pea", "strawberry", "basil", "spinach"} & set(keeps)


def test_garlic_set_in_late_spring_does_not_wait_a_year_for_its_bulbs() -> None:
    days = [day for day in YEAR if D("2027-05-01") <= day <= D("2027-06-20")]
    assert (weighed("garlic", "continental", days, "cloves").verdict == 2).all()
    # Where summers are cool, spring garlic is known, with smaller bulbs: not its usual time.
    assert (weighed("garlic", "cool-maritime", days, "cloves").verdict > 0).all()


def test_in_a_subtropical_summer_beans_and_cucumbers_drop_their_flowers_and_okra_does_not() -> None:
    for crop in ("bush-bean", "cucumber"):
        april, june = (codes(crop, "direct", f"2027-{day}", "humid-subtropical") for day in ("04-01", "06-05"))
        assert "flowers_drop" not in april
        assert june["flowers_drop"] == "care"
    assert "flowers_drop" not in codes("okra", "direct", "2027-05-05", "humid-subtropical")
    assert "flowers_drop" not in codes("bush-bean", "direct", "2027-06-05", "cool-maritime")
