from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from almanaque.core.errors import BadInput
from almanaque.core.place import degree_days, soil_temperature, sun
from almanaque.core.place import evapotranspiration as et
from almanaque.core.place.climate import Climate
from almanaque.demo import schools
from almanaque.standins.weather import SimulatedPlace, make
from tests.refuses import refuses

JUNE, DECEMBER = date(2027, 6, 21), date(2027, 12, 21)


def test_the_sun_does_not_set_in_the_polar_day_nor_rise_in_the_polar_night() -> None:
    assert [sun.daylength(lat, JUNE) for lat in (90, 75, -75, -90)] == [24, 24, 0, 0]
    assert [sun.daylength(lat, DECEMBER) for lat in (90, 75, -75, -90)] == [0, 0, 24, 24]


@given(st.floats(-66, 66), st.dates(date(2000, 1, 1), date(2050, 12, 31)))
def test_day_and_night_share_the_earth(latitude: float, day: date) -> None:
    north, south = sun.daylength(latitude, day, horizon_deg=0), sun.daylength(-latitude, day, horizon_deg=0)
    assert north + south == pytest.approx(24)
    assert sun.daylength(latitude, day) >= north


@pytest.mark.parametrize("latitude", [91, -90.5, float("nan"), float("inf")])
def test_a_latitude_off_the_earth_is_refused(latitude: float) -> None:
    with refuses("place.latitude_out_of_range"):
        sun.daylength(latitude, JUNE)
    with refuses("place.latitude_out_of_range"):
        Climate(JUNE, np.zeros(3), np.zeros(3), np.zeros(3), latitude=latitude)


@given(st.floats(-40, 45), st.floats(0, 25), st.floats(-55, 65), st.integers(1, 366))
def test_hargreaves_is_never_below_nothing_and_grows_with_the_days_range(
    low: float, span: float, latitude: float, day: int
) -> None:
    small, large = (
        float(
            et.hargreaves(np.array([low - extra]), np.array([low + span + extra]), latitude, np.array([float(day)]))[0]
        )
        for extra in (0, 2)
    )
    assert 0 <= small <= large


def test_penman_refuses_swapped_temperatures_and_impossible_humidity() -> None:
    with refuses("place.temperatures_swapped"):
        et.penman_monteith(et.StationSite(20, 10, 1, 2, 15, 45, 0, 180))
    with pytest.raises(BadInput, match="between 0 and 100"):
        et.vapour_from_humidity(10, 20, -5, 80)


@pytest.mark.parametrize(
    ("low", "high", "base", "first", "second"),
    [(2, 14, 10, 0, 2), (12, 20, 10, 6, 6), (-5, 5, 10, 0, 0), (8, 20, 10, 4, 5)],
)
def test_the_two_interpretations_of_degree_days(
    low: float, high: float, base: float, first: float, second: float
) -> None:
    for interpretation, wanted in ((1, first), (2, second)):
        found = degree_days.daily(
            np.array([float(low)]), np.array([float(high)]), base_c=base, interpretation=interpretation
        )
        assert found[0] == pytest.approx(wanted)


def test_degree_days_have_an_upper_limit_and_leave_gaps_open() -> None:
    found = degree_days.daily(np.array([20.0, np.nan]), np.array([40.0, 30.0]), base_c=10, upper_c=30)
    assert found[0] == 15
    assert np.isnan(found[1])
    with refuses("place.upper_limit_below_base"):
        degree_days.daily(np.zeros(1), np.ones(1), base_c=10, upper_c=10)
    with pytest.raises(BadInput, match="1 or 2"):
        degree_days.daily(np.zeros(1), np.ones(1), base_c=10, interpretation=3)  # type: ignore[arg-type]


def test_soil_lags_behind_air_and_a_measured_value_goes_before_it() -> None:
    low, high = np.full(40, 0.0), np.full(40, 10.0)
    low[20:], high[20:] = 10, 20
    soil = soil_temperature.estimate(low, high)
    assert soil[19] == pytest.approx(5)
    assert 5 < soil[22] < soil[30] < soil[39] < 15
    measured = np.full(40, np.nan)
    measured[25] = 3.0
    assert soil_temperature.estimate(low, high, measured)[25] == 3
    assert soil_temperature.estimate(low, high, measured)[26] < soil[26]


def test_soil_keeps_the_day_before_over_a_gap() -> None:
    found = soil_temperature.estimate(np.array([np.nan, 4.0, np.nan]), np.array([np.nan, 6.0, np.nan]))
    assert np.isnan(found[0])
    assert list(found[1:]) == [5, 5]


def south() -> Climate:
    """The southern demo school's own place."""
    made = make(schools.TALLOWBANK.weather, date(1990, 1, 1), date(2020, 12, 31))
    return Climate(made.first_day, made.tmin_c, made.tmax_c, made.rain_mm, latitude=-41.6)


def test_in_the_south_freezes_fall_from_june_to_august() -> None:
    climate = south()
    first, last = (climate.date_of(q, date(2020, 1, 1)) for q in (climate.first_freeze(0.5), climate.last_freeze(0.5)))
    assert first is not None
    assert last is not None
    assert first.month in (5, 6)
    assert last.month in (8, 9)
    assert climate.seasons == 31


def test_colder_thresholds_freeze_later_and_stop_earlier() -> None:
    climate = south()
    lasts = [climate.freezes(c).last(0.5).day_of_season for c in (2.0, 0.0, -2.0)]
    firsts = [climate.freezes(c).first(0.5).day_of_season for c in (2.0, 0.0, -2.0)]
    assert lasts == sorted(lasts, reverse=True)
    assert firsts == sorted(firsts)


def test_warmth_counts_the_days_without_a_reading() -> None:
    climate = south()
    assert climate.warmth(date(1989, 12, 30), date(1990, 1, 2), base_c=0)[1] == 2
    assert climate.warmth(date(2021, 1, 1), date(2021, 1, 3), base_c=0) == (0, 3)


def test_a_month_with_more_than_three_days_missing_is_left_out_of_its_normal() -> None:
    made = make(SimulatedPlace(3, 10.0, 6.0, 12.0, 15, 0.3, 6.0), date(1990, 1, 1), date(1992, 12, 31))
    low = made.tmin_c.copy()
    low[3:7] = np.nan
    climate = Climate(made.first_day, low, made.tmax_c, made.rain_mm, latitude=45)
    assert [m.years for m in climate.months] == [2, *([3] * 11)]
    assert climate.bands.low[200] < climate.bands.mean[200] < climate.bands.high[200]


def test_a_time_is_held_against_the_usual_range_of_its_days() -> None:
    climate = south()
    days = [date(2021, 1, 1) + timedelta(days=n) for n in range(60)]
    means = [climate.normal_mean_c(day) or 0 for day in days]
    usual = climate.against_usual([(day, mean - 1, mean + 1) for day, mean in zip(days, means, strict=True)])
    warm = climate.against_usual([(day, mean + 20, mean + 24) for day, mean in zip(days, means, strict=True)])
    assert usual is not None
    assert warm is not None
    assert (usual.days, usual.difference_c, usual.share_inside) == (60, pytest.approx(0), 1)
    assert (warm.difference_c, warm.share_inside) == (pytest.approx(22), 0)
    assert climate.against_usual([]) is None


def test_seasons_follow_the_normal_mean() -> None:
    climate = south()
    assert [climate.season_on(date(2027, month, 15)) for month in (1, 7)] == ["warm", "cool"]


# Sundial against clock [minutes] on days near its turning points, as almanacs print them, from memory to the half minute.
@pytest.mark.parametrize(
    ("day", "minutes"),
    [
        ("2027-02-11", -14.2),
        ("2027-04-15", 0.0),
        ("2027-05-14", 3.7),
        ("2027-07-26", -6.5),
        ("2027-11-03", 16.4),
        ("2027-12-25", 0.0),
    ],
)
def test_the_equation_of_time_is_that_of_the_almanacs(day: str, minutes: float) -> None:
    assert sun.equation_of_time(date.fromisoformat(day)) == pytest.approx(minutes, abs=0.7)


def test_solar_noon_lies_where_longitude_and_zone_put_it() -> None:
    day = date(2027, 6, 8)
    # 9° west of the middle of its zone, an hour of summer time: about 13:36 by the clock, less the equation of time.
    assert sun.solar_hour(day, 13.6, longitude=-84.0, utc_offset_h=-4.0) == pytest.approx(12.0, abs=0.1)
