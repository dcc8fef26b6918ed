"""Water: need, rain that counts, pots, trees and minutes."""

from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.growth import growth_dates
from almanaque.core.place.climate import Climate
from almanaque.core.week import water
from almanaque.core.week.water import WaterNeed, Weather
from almanaque.data import catalogue

CROPS = catalogue()
D = date.fromisoformat
MONDAY = D("2027-06-07")
DAYS = [MONDAY + timedelta(days=n) for n in range(7)]


def weather(et0: float = 5.0, rain: float = 0.0, tmax: float = 25.0) -> Weather:
    return Weather(np.full(7, et0), np.full(7, rain), np.full(7, tmax))


def test_the_coefficient_rises_stays_and_falls_over_a_life_however_long_it_is_here() -> None:
    for life in (60, 120, 300):
        curve = [water.coefficient(CROPS["tomato"], day, life) for day in range(life + 1)]
        top = max(curve)
        first, last = curve.index(top), len(curve) - 1 - curve[::-1].index(top)
        assert curve[0] == pytest.approx(0.6)
        assert top == pytest.approx(1.15)
        assert curve[-1] == pytest.approx(0.8)
        assert curve[:first] == sorted(curve[:first])
        assert curve[last:] == sorted(curve[last:], reverse=True)


def test_days_outside_a_life_have_the_value_of_its_edge() -> None:
    assert water.coefficient(CROPS["tomato"], -5, 100) == water.coefficient(CROPS["tomato"], 0, 100)
    assert water.coefficient(CROPS["tomato"], 130, 100) == water.coefficient(CROPS["tomato"], 100, 100)
    with pytest.raises(ValueError, match="at least a day"):
        water.coefficient(CROPS["tomato"], 0, 0)


def test_a_crop_without_stages_or_without_a_row_has_middling_ones() -> None:
    garlic, zinnia = CROPS["garlic"], next(c for c in CROPS if c.water is None and c.life == "annual")
    assert garlic.water is not None
    assert not garlic.water.stages
    assert water.coefficient(garlic, 60, 100) == pytest.approx(garlic.water.kc[1])
    assert water.coefficient(zinnia, 0, 100) == pytest.approx(0.7)


@pytest.mark.parametrize("crop", list(CROPS), ids=lambda crop: crop.key)
def test_every_crop_has_a_coefficient_between_dry_ground_and_more_than_grass(crop: object) -> None:
    curve = [water.coefficient(crop, day, 90) for day in range(0, 91, 5)]  # type: ignore[arg-type]
    assert min(curve) >= 0.2
    assert max(curve) <= 1.25


def test_what_has_lost_its_leaves_drinks_little_on_both_sides_of_the_equator() -> None:
    crop = next(c for c in CROPS if c.bare_months and c.water)
    assert crop.water is not None
    dates = growth_dates.forecast(crop, crop.methods[0], D("2025-03-01"))
    winter, summer = [D("2027-01-10")], [D("2027-07-10")]
    for southern, bare, leafy in ((False, winter, summer), (True, summer, winter)):
        assert water.coefficients(crop, dates, bare, southern=southern)[0] == crop.water.kc[0]
        assert water.coefficients(crop, dates, leafy, southern=southern)[0] == crop.water.kc[1]


def test_drizzle_does_not_count_and_a_downpour_only_as_far_as_the_bed_holds_it() -> None:
    et0 = np.full(3, 5.0)
    assert water.useful_rain(np.array([1.0, 0.0, 0.0]), et0, holds_mm=22.5) == 0
    assert water.useful_rain(np.array([1.1, np.nan, 0.0]), et0, holds_mm=22.5) == pytest.approx(1.1)
    assert water.useful_rain(np.array([80.0, 0.0, 0.0]), et0, holds_mm=water.holds(300)) == pytest.approx(22.5)


def test_by_the_inch_rain_is_taken_off_and_a_hot_week_wants_half_as_much_again() -> None:
    assert water.by_the_inch(weather(), depth_mm=300).give_mm == pytest.approx(25.4)
    assert water.by_the_inch(weather(rain=2.0), depth_mm=300).give_mm == pytest.approx(25.4 - 14)
    assert water.by_the_inch(weather(tmax=33), depth_mm=300).give_mm == pytest.approx(38.1)
    assert water.by_the_inch(weather(rain=20), depth_mm=300).give_mm == 0


def test_in_a_cold_week_nobody_waters_by_the_inch() -> None:
    assert water.by_the_inch(weather(tmax=5), depth_mm=300).give_mm == 0
    assert water.by_the_inch(weather(tmax=9), depth_mm=300).give_mm == pytest.approx(25.4)


def test_days_without_a_reading_are_as_warm_as_usual() -> None:
    ahead = [day + timedelta(days=3650) for day in DAYS]
    assert water.week_of(climate(), ahead, known_to=ahead[-1]).weather.tmax_c.tolist() == [24.0] * 7


def test_a_tunnel_keeps_the_rain_off() -> None:
    assert water.by_the_inch(weather(rain=2.0), depth_mm=300, rained_on=False).give_mm == pytest.approx(25.4)
    assert "tunnel" in water.KEEPS_RAIN_OFF
    assert "row cover" not in water.KEEPS_RAIN_OFF


def test_by_use_it_is_the_grass_times_the_crop_less_the_rain() -> None:
    need = water.by_use(weather(et0=5.0, rain=3.0), np.full(7, 0.9), depth_mm=300)
    assert need.takes_mm == pytest.approx(31.5)
    assert need.rain_mm == pytest.approx(21.0)
    assert water.litres(need.give_mm, 2.0) == pytest.approx(21.0)


@given(takes=st.floats(0, 100), rain=st.lists(st.floats(0, 100), min_size=7, max_size=7), depth=st.floats(50, 1000))
def test_more_rain_never_asks_for_more_water_and_nothing_is_ever_below_zero(
    takes: float, rain: list[float], depth: float
) -> None:
    et0 = np.full(7, 4.0)
    wetter = [fell + 3 for fell in rain]
    less, more = (water.useful_rain(np.array(r), et0, holds_mm=water.holds(depth)) for r in (rain, wetter))
    assert WaterNeed(takes, more, "use").give_mm <= WaterNeed(takes, less, "use").give_mm + 1e-9
    assert WaterNeed(takes, more, "use").give_mm >= 0


def climate(days: int = 730, missing: tuple[int, ...] = ()) -> Climate:
    low, high, rain = np.full(days, 10.0), np.full(days, 24.0), np.full(days, 2.0)
    for day in missing:
        low[day] = np.nan
    return Climate(D("2026-01-01"), low, high, rain, latitude=42.0)


def test_a_day_without_a_reading_has_the_usual_use_of_its_month_and_no_rain() -> None:
    at = (MONDAY - D("2026-01-01")).days
    whole, holed = (
        water.week_of(climate(), DAYS, known_to=DAYS[-1]),
        water.week_of(climate(missing=(at + 2,)), DAYS, known_to=DAYS[-1]),
    )
    assert whole.missing == 0
    assert holed.missing == 1
    assert holed.weather.rain_mm.tolist() == [2, 2, 0, 2, 2, 2, 2]
    assert holed.weather.et0_mm[2] == pytest.approx(whole.weather.et0_mm[2], rel=0.05)


def test_days_beyond_the_record_are_those_of_a_usual_year() -> None:
    ahead = [day + timedelta(days=3650) for day in DAYS]
    found = water.week_of(climate(), ahead, known_to=ahead[-1])
    assert found.missing == 7
    assert found.weather.rain_mm.sum() == 0
    assert found.weather.et0_mm.sum() == pytest.approx(
        water.week_of(climate(), DAYS, known_to=DAYS[-1]).weather.et0_mm.sum(), rel=0.05
    )
    assert not found.weather.hot


def test_readings_after_the_day_that_is_known_do_not_count() -> None:
    found = water.week_of(climate(), DAYS, known_to=DAYS[2])
    assert found.missing == 4
    assert found.weather.rain_mm.tolist() == [2, 2, 2, 0, 0, 0, 0]


def test_a_small_pot_must_be_watered_more_often_than_a_large_one() -> None:
    small, large = water.pot(5, 0.05, 6.0, 1.05), water.pot(60, 0.2, 6.0, 1.05)
    assert small.litres_a_day < large.litres_a_day
    assert small.lasts_days < large.lasts_days
    assert water.pot(1, 0.05, 6.0, 1.05).lasts_days == 0
    assert water.pot(5, 0.05, 0.0, 1.05).lasts_days == water.WEEK


def test_a_tree_is_watered_for_two_years_and_less_when_it_rains() -> None:
    planted = D("2026-10-20")
    full = water.young_tree(planted, D("2027-06-01"))
    assert full == water.TREE_UNKNOWN_L
    assert water.young_tree(planted, D("2027-06-01"), rain_mm=12.7) == pytest.approx(full / 2)
    assert water.young_tree(planted, D("2027-06-01"), rain_mm=40) == 0
    assert water.young_tree(planted, D("2029-06-01")) == 0
    assert water.young_tree(planted, D("2026-06-01")) == 0


@pytest.mark.parametrize(("amount", "minutes"), [(0, 0), (0.1, 1), (10, 1), (10.1, 2), (100, 10)])
def test_minutes_are_whole_and_never_too_few(amount: float, minutes: int) -> None:
    assert water.hose_minutes(amount, 10) == minutes
    assert water.drip_minutes(amount, 600) == minutes
    assert water.bottles(amount, 10) == minutes
    with pytest.raises(ValueError, match="more than nothing"):
        water.hose_minutes(amount, 0)


def test_a_day_without_a_reading_gave_no_rain() -> None:
    dry, known = np.array([np.nan, 0.0, 12.0]), np.array([0.0, 0.0, 12.0])
    need = np.array([4.0, 4.0, 4.0])
    assert water.useful_rain(dry, need, holds_mm=30.0) == water.useful_rain(known, need, holds_mm=30.0) > 0
