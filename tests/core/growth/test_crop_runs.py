from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from almanaque.core.crops.crop import Crop
from almanaque.core.crops.own_crops import OwnCrop, changed_crop
from almanaque.core.growth.conditions import Conditions
from almanaque.core.growth.covers import Covering
from almanaque.core.growth.crop_runs import Behind, Outcome, Runs, grow, needs
from almanaque.core.growth.weather_record import Record, _KeptRuns
from almanaque.core.place.climate import Climate
from almanaque.data import catalogue
from tests.places import early_spring, hard_winters, steady
from tests.refuses import refuses

CROPS = catalogue()
WAYS = [(crop, method) for crop in CROPS for method in crop.methods]
EARLY, HARD = early_spring(), hard_winters()


def row(record: Record, day: str) -> int:
    return (date.fromisoformat(day) - record.climate.first_day).days


def outcome(record: Record, crop: str, method: str, day: str, **more: object) -> Outcome:
    runs = record.runs(CROPS[crop], method, ready_by="warmth", **more)  # type: ignore[arg-type]
    return Outcome(int(runs.outcome[row(record, day)]))


def test_at_the_packets_warmth_a_crop_takes_the_packets_days() -> None:
    record = steady(10.5, 20.5)  # packets speak of days with a night
    runs = record.runs(CROPS["radish"], "direct", ready_by="warmth")
    at = row(record, "2003-05-01")
    assert runs.outcome[at] == Outcome.RIPE
    assert abs(int(runs.first[at]) - 27.5) <= 1
    assert abs(int(runs.up[at]) - 6) <= 1  # six days at 15 °C in the table
    starts = record.runs(CROPS["cabbage"], "starts", ready_by="warmth")
    least, most = CROPS["cabbage"].days["starts"]
    assert abs(int(starts.first[at]) - (least + most) / 2) <= 1


def test_the_packet_school_counts_days_but_not_those_in_which_the_ground_holds_the_seed() -> None:
    warm, cold = steady(12, 20), steady(3, 9)
    at = row(warm, "2003-05-01")
    assert int(warm.runs(CROPS["radish"], "direct", ready_by="packet").first[at]) == 28
    runs = cold.runs(CROPS["radish"], "direct", ready_by="packet")
    assert int(runs.first[at]) == max(28, int(runs.up[at]) + 1)
    assert warm.runs(CROPS["radish"], "direct", ready_by="packet").spread == (-2, 2)


def test_frost_heat_and_lack_of_warmth_end_a_crop_each_by_its_name() -> None:
    assert outcome(steady(12, 22, cold={"2003-06-20": -1.0}), "tomato", "starts", "2003-06-01") == Outcome.FROZEN
    assert outcome(steady(16, 32), "spinach", "direct", "2003-05-01") == Outcome.HEAT
    assert outcome(steady(6, 9), "pepper", "starts", "2003-05-01") == Outcome.NOT_RIPE
    assert outcome(steady(3, 12), "pepper", "starts", "2003-05-01") == Outcome.CHILLED
    assert outcome(steady(1, 4), "radish", "direct", "2003-05-01") == Outcome.NOT_UP
    assert outcome(steady(-4, 0), "radish", "direct", "2003-05-01") == Outcome.NO_GROUND
    assert outcome(steady(12, 18), "garlic", "cloves", "2003-05-01") == Outcome.NO_COLD
    assert outcome(HARD, "kale", "direct", "2003-10-01") in (Outcome.BOLTED, Outcome.FROZEN)


def test_a_seed_in_the_ground_bears_the_frost_that_its_plant_would_not() -> None:
    cold = {"2003-05-02": -3.0}
    assert outcome(steady(16, 26, cold=cold), "bush-bean", "direct", "2003-05-01") == Outcome.RIPE
    assert outcome(steady(16, 26, cold={"2003-05-20": -3.0}), "bush-bean", "direct", "2003-05-01") == Outcome.FROZEN


def test_seed_that_wants_a_winter_comes_up_after_it() -> None:
    assert outcome(HARD, "milkweed", "direct", "2003-11-01") == Outcome.RIPE
    assert outcome(HARD, "milkweed", "direct", "2003-05-01") == Outcome.NOT_UP


def test_picking_ends_with_the_first_killing_night() -> None:
    record = steady(14, 24, cold={"2003-09-10": -1.0})
    runs = record.runs(CROPS["tomato"], "starts", ready_by="warmth")
    at = row(record, "2003-06-01")
    assert runs.outcome[at] == Outcome.RIPE
    assert int(runs.last[at]) == row(record, "2003-09-09") - at


def test_a_run_that_the_record_does_not_cover_is_not_counted() -> None:
    record = steady(10, 20, years=2)
    runs = record.runs(CROPS["radish"], "direct", ready_by="warmth")
    assert runs.outcome[0] == Outcome.RIPE
    assert runs.outcome[-1] == Outcome.UNKNOWN
    climate = record.climate
    low = climate.tmin_c.copy()
    low[5:20] = np.nan
    gaps = Record(Climate(climate.first_day, low, climate.tmax_c, climate.rain_mm, latitude=45))
    assert gaps.runs(CROPS["radish"], "direct", ready_by="warmth").outcome[0] == Outcome.UNKNOWN


def test_a_published_figure_counts_from_sowing() -> None:
    corn = CROPS["sweet-corn"]
    record = steady(21, 21)
    first = int(record.runs(corn, "direct", ready_by="warmth").first[row(record, "2003-05-01")])
    assert 0.95 * 1400 / 1.8 <= first * (21 - 10) <= 1600 / 1.8  # 1,400 to 1,600 °F above 50 °F, from sowing
    assert needs(corn, "direct") < corn.degree_days["direct"]


def test_a_way_of_starting_that_it_has_not_is_refused() -> None:
    with refuses("growth.crop_not_started_that_way"):
        grow(CROPS["carrot"], "starts", Conditions(EARLY.climate), ready_by="warmth")


def test_a_tunnel_makes_it_earlier_and_keeps_light_frost_off() -> None:
    open_air = EARLY.runs(CROPS["lettuce"], "direct", ready_by="warmth")
    tunnel = EARLY.runs(CROPS["lettuce"], "direct", ready_by="warmth", covering=Covering("tunnel"))
    at = row(EARLY, "2003-03-20")
    assert int(tunnel.up[at]) < int(open_air.up[at])
    assert int(tunnel.first[at]) < int(open_air.first[at])
    frost = steady(3, 15, cold={"2003-05-05": -1.5})
    assert frost.conditions(Covering("row cover")).tmin_c.min() == pytest.approx(0.5)


def test_plants_on_a_sill_feel_its_warmth_and_no_frost() -> None:
    indoors = HARD.conditions(indoors_c=19.0)
    assert set(indoors.tmin_c) == {19.0}
    assert outcome(HARD, "basil", "direct", "2003-01-10", indoors_c=19.0) == Outcome.RIPE


def test_a_hard_winter_kills_what_is_tender_and_spares_what_comes_from_its_root() -> None:
    assert outcome(HARD, "artichoke", "starts", "2003-05-20") == Outcome.FROZEN
    assert outcome(EARLY, "rhubarb", "starts", "2003-04-20") == Outcome.RIPE
    assert outcome(HARD, "rhubarb", "starts", "2003-05-20") == Outcome.RIPE


def test_what_comes_again_is_picked_in_the_first_season_after_it_is_established() -> None:
    runs = EARLY.runs(CROPS["strawberry"], "starts", ready_by="warmth")
    spring, autumn = row(EARLY, "2003-04-15"), row(EARLY, "2003-08-28")
    picked = [EARLY.climate.first_day + timedelta(days=at + int(runs.first[at])) for at in (spring, autumn)]
    assert picked[0] == picked[1]
    assert picked[0].year == 2004
    assert picked[0].month in (5, 6)


def test_a_quicker_variety_is_ready_sooner() -> None:
    at = row(EARLY, "2003-05-20")
    usual = EARLY.runs(CROPS["pumpkin"], "direct", ready_by="warmth")
    quick = EARLY.runs(CROPS["pumpkin"], "direct", ready_by="warmth", quicker=0.8)
    assert int(quick.first[at]) < int(usual.first[at])


def test_from_the_day_it_is_up_the_seedbed_counts_no_more() -> None:
    at = row(EARLY, "2003-04-15")
    runs = EARLY.runs(CROPS["carrot"], "direct", ready_by="warmth")
    up = at + int(runs.up[at])
    seen = EARLY.runs(CROPS["carrot"], "direct", ready_by="warmth", behind=Behind(up=1.0))
    assert up + int(seen.first[up]) == at + int(runs.first[at])
    assert int(seen.up[up]) == 0


@pytest.mark.parametrize(("crop", "method"), WAYS, ids=[f"{c.key}-{m}" for c, m in WAYS])
def test_on_the_same_weather_a_later_start_is_never_ready_earlier_where_both_survive(crop: Crop, method: str) -> None:
    for ready_by in ("warmth", "packet"):
        runs: Runs = EARLY.runs(crop, method, ready_by=ready_by)  # type: ignore[arg-type]
        ripe = np.flatnonzero(runs.outcome == Outcome.RIPE)
        assert (np.diff(ripe + runs.first[ripe]) >= 0).all()
        up = np.flatnonzero(~np.isin(runs.outcome, (Outcome.NOT_UP, Outcome.UNKNOWN)))
        assert (np.diff(up + runs.up[up].astype(np.int64)) >= 0).all()
        assert (runs.last[ripe] >= runs.first[ripe]).all()


COLDER = [c for c in CROPS if not c.cold_days and not c.seed_cold_days and c.season_warmth is None]


@settings(max_examples=25, deadline=None)
@given(st.sampled_from(COLDER), st.floats(0.5, 6), st.integers(0, 300))
def test_below_the_optimum_colder_is_never_earlier(crop: Crop, colder: float, offset: int) -> None:
    # Days that stay below the temperature at which the seed is quickest and more warmth stops to help.
    best = min(crop.germination_c[1], crop.upper_c, 20.0)
    wave = best - 5 + 4 * np.sin(np.arange(1200) / 365 * 2 * np.pi)
    runs = []
    for means in (wave, wave - colder):
        climate = Climate(date(2001, 1, 1), means - 1, means + 1, np.zeros(1200), latitude=45)
        tough = crop.model_copy(update={"bears_c": -40.0, "heat_c": 45.0, "bolts_after_cold_days": 0})
        runs.append(grow(tough, crop.methods[0], Conditions(climate), ready_by="warmth"))
    warm, cold = runs
    if cold.outcome[offset] == Outcome.RIPE:
        assert warm.outcome[offset] == Outcome.RIPE
        assert cold.first[offset] >= warm.first[offset]


@pytest.mark.parametrize(
    "key", ["radish", "garlic", "winter-wheat", "tomato", "spinach", "strawberry", "kale", "apple"]
)
def test_south_of_the_equator_the_mirrored_weather_gives_the_mirrored_answer(key: str) -> None:
    crop, north = CROPS[key], EARLY.climate
    later = 183  # the same weather half a year on, at the same latitude south
    south = Record(
        Climate(
            north.first_day + timedelta(days=later), north.tmin_c, north.tmax_c, north.rain_mm, latitude=-north.latitude
        )
    )
    one = EARLY.runs(crop, crop.methods[0], ready_by="warmth")
    two = south.runs(crop, crop.methods[0], ready_by="warmth")
    both = (one.outcome == Outcome.RIPE) & (two.outcome == Outcome.RIPE)
    assert both.sum() > 0.95 * (one.outcome == Outcome.RIPE).sum()
    apart = np.abs(one.first[both].astype(int) - two.first[both].astype(int))
    assert np.quantile(apart, 0.98) <= 3
    assert np.quantile(apart, 0.95) <= 2  # the seasons north and south differ in length by days


def test_answers_are_kept_by_what_they_depend_on() -> None:
    radish = CROPS["radish"]
    assert EARLY.runs(radish, "direct", ready_by="warmth") is EARLY.runs(radish, "direct", ready_by="warmth")
    quick = changed_crop(radish, OwnCrop("radish", None, {"days": {"direct": (20, 22)}}))
    assert EARLY.runs(quick, "direct", ready_by="warmth") is not EARLY.runs(radish, "direct", ready_by="warmth")
    assert HARD.runs(radish, "direct", ready_by="warmth") is not EARLY.runs(radish, "direct", ready_by="warmth")
    assert EARLY.conditions() is EARLY.conditions()


def test_a_leap_day_has_as_many_years_as_its_neighbours() -> None:
    starts = EARLY.conditions().starts
    assert (starts[229] == starts[228]).all()
    assert (starts[228] >= 0).sum() >= 30


def test_polar_days_and_nights_do_not_break_the_light() -> None:
    record = steady(5, 15, latitude=70.0)
    assert outcome(record, "radish", "direct", "2003-06-01") == Outcome.RIPE
    share = record.conditions().light_share
    assert share.min() == 0.25
    assert share.max() == 1.0


def test_in_the_tropics_nothing_freezes_and_what_needs_cold_says_so() -> None:
    tropics = steady(22, 31, latitude=8.0)
    assert outcome(tropics, "winter-wheat", "direct", "2003-10-01") == Outcome.NO_COLD
    assert outcome(tropics, "garlic", "cloves", "2003-10-01") in (Outcome.NO_COLD, Outcome.NOT_UP)
    assert outcome(tropics, "sweet-potato", "starts", "2003-10-01") == Outcome.RIPE
    assert outcome(tropics, "lettuce", "direct", "2003-10-01") in (Outcome.HEAT, Outcome.NOT_UP)


def test_answers_are_kept_by_the_memory_they_take() -> None:
    radish, beet = (EARLY.runs(CROPS[key], "direct", ready_by="warmth") for key in ("radish", "beet"))
    kept = _KeptRuns(2 * radish.nbytes + 10)
    for key in ("a", "b"):
        kept.put((key,), radish)
    kept.put(("b",), beet)
    assert kept.get(("a",)) is radish
    kept.put(("c",), beet)
    assert kept.get(("b",)) is None  # the one asked for longest ago goes first
    assert kept.get(("a",)) is radish
    assert kept.get(("c",)) is beet
