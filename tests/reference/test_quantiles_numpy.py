"""Freeze-date quantiles against numpy.quantile (linear interpolation, its default), for seasons that all have a freeze."""

from datetime import date

import numpy as np
import pytest

from almanaque.core.place.climate import Climate
from almanaque.standins.weather import SimulatedPlace, make

PLACE = SimulatedPlace(
    seed=11, mean_c=6, swing_c=13, daily_range_c=11, warmest_day_of_year=203, wet_share=0.3, rain_mm=6
)


@pytest.mark.parametrize("probability", [0.1, 0.25, 0.5, 0.9])
def test_last_and_first_freeze_agree(probability: float) -> None:
    made = make(PLACE, date(1990, 1, 1), date(2020, 12, 31))
    climate = Climate(made.first_day, made.tmin_c, made.tmax_c, made.rain_mm, latitude=45)
    lasts, firsts = [], []
    for year in range(1989, 2021):
        begin, end = ((date(y, 7, 1) - made.first_day).days for y in (year, year + 1))
        nights = np.flatnonzero(made.tmin_c[max(0, begin) : end] <= 0) + max(0, -begin)
        if year < 2020:  # the record ends at midwinter, so its last autumn has a first freeze and no last one
            lasts.append(nights[-1])
        if year > 1989:  # and it begins at midwinter
            firsts.append(nights[0])
    assert climate.seasons == len(firsts) == len(lasts) == 31
    assert climate.last_freeze(probability).day_of_season == pytest.approx(np.quantile(lasts, probability))
    assert climate.first_freeze(probability).day_of_season == pytest.approx(np.quantile(firsts, probability))


def test_the_made_up_weather_is_the_same_everywhere_and_looks_like_weather() -> None:
    once, twice = (make(PLACE, date(1990, 1, 1), date(1999, 12, 31)) for _ in range(2))
    assert (once.tmin_c == twice.tmin_c).all()
    assert (once.tmin_c <= once.tmax_c).all()
    assert (once.rain_mm >= 0).all()
    assert once.tmin_c.min() > -45
    july = [day for day in range(len(once.tmax_c)) if (np.datetime64("1990-01-01") + day).astype(object).month == 7]
    assert np.mean(once.tmax_c[july]) > np.mean(once.tmax_c) + 8
