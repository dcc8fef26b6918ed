from datetime import date, timedelta

import numpy as np

from almanaque.core.place.climate import Climate


def climate(freezes: dict[str, float], first: str = "2000-07-01", years: int = 4, latitude: float = 45.0) -> Climate:
    """A place that is 10 °C at night and 20 °C by day but for the nights given."""
    start = date.fromisoformat(first)
    days = (start.replace(year=start.year + years) - start).days
    tmin = np.full(days, 10.0)
    for day, value in freezes.items():
        tmin[(date.fromisoformat(day) - start).days] = value
    return Climate(start, tmin, np.full(days, 20.0), np.zeros(days), latitude=latitude)


FROSTY = climate(
    {
        "2000-10-10": -1,
        "2001-04-20": 0,
        "2001-10-20": -1,
        "2002-04-10": -3,
        "2002-10-30": 0,
        "2003-04-30": -1,
        "2003-11-09": -2,
        "2004-05-10": 0,
    }
)


def test_a_freeze_is_a_night_at_or_below_zero() -> None:
    start = date(2000, 7, 1)
    assert FROSTY.seasons == 4
    assert FROSTY.date_of(FROSTY.last_freeze(0), start) == date(2001, 4, 10)
    assert FROSTY.date_of(FROSTY.last_freeze(1), start) == date(2001, 5, 11)  # 10 May of a leap year is day 314
    assert FROSTY.date_of(FROSTY.first_freeze(0), start) == date(2000, 10, 10)


def test_quantiles_are_interpolated_between_seasons() -> None:
    last = FROSTY.last_freeze(0.5).day_of_season
    days = [(date(2001, 4, 20) - date(2000, 7, 1)).days, (date(2003, 4, 30) - date(2002, 7, 1)).days]
    assert last == sum(days) / 2


def test_a_season_without_a_freeze_counts_as_never() -> None:
    mild = climate({"2000-10-10": -1, "2001-04-20": -1})
    assert mild.seasons_without == 3
    assert mild.last_freeze(0.5).day_of_season is None
    assert mild.date_of(mild.last_freeze(0.5), date(2000, 7, 1)) is None
    assert mild.last_freeze(1.0).day_of_season == (date(2001, 4, 20) - date(2000, 7, 1)).days
    assert mild.first_freeze(0.0).day_of_season == (date(2000, 10, 10) - date(2000, 7, 1)).days


def test_the_chance_rises_in_autumn_and_falls_in_spring() -> None:
    assert FROSTY.freeze_chance(date(2020, 9, 1)) == 0
    assert FROSTY.freeze_chance(date(2020, 10, 25)) == 0.5
    assert FROSTY.freeze_chance(date(2021, 1, 1)) == 1
    assert FROSTY.freeze_chance(date(2021, 4, 25)) == 0.5
    assert FROSTY.freeze_chance(date(2021, 6, 1)) == 0


def test_south_of_the_equator_a_season_runs_with_the_calendar_year() -> None:
    south = climate({"2001-06-10": -1, "2002-08-01": -1}, first="2001-01-01", years=2, latitude=-41)
    assert south.season_start(date(2001, 11, 5)) == date(2001, 1, 1)
    assert south.seasons == 2
    assert south.freeze_chance(date(2005, 6, 10)) == 0.5


def test_years_colder_counts_only_years_that_cover_the_time() -> None:
    assert FROSTY.years_colder(date(2030, 4, 1), date(2030, 5, 20), -0.5) == (2, 4)
    assert FROSTY.years_colder(date(2030, 4, 1), date(2030, 5, 20), -20) == (0, 4)
    assert FROSTY.years_colder(date(2030, 10, 1), date(2031, 5, 20), -2.5) == (1, 4)
    assert FROSTY.years_colder(date(2030, 5, 2), date(2030, 5, 1), 0) == (0, 0)


def test_normals_are_means_over_years_and_around_the_day() -> None:
    assert FROSTY.normal_max_c(date(2031, 7, 4)) == 20
    assert FROSTY.normal_mean_c(date(2031, 7, 4)) == 15


def test_missing_readings_are_left_out_and_never_filled() -> None:
    start = date(2000, 7, 1)
    tmin = np.full(365, np.nan)
    empty = Climate(start, tmin, tmin, tmin, latitude=45)
    assert empty.seasons == 0
    assert empty.freeze_chance(date(2001, 1, 1)) == 0
    assert empty.normal_mean_c(date(2001, 1, 1)) is None
    assert empty.years_colder(start, start + timedelta(days=9), 0) == (0, 0)
