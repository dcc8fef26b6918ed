"""Sunrise to sunset against astral (3.2) and pvlib (0.16.1), latitudes −55 to 65, through the year.

All three mean the upper edge of the disc on a level horizon with refraction. The libraries take the sun's place at each
event, we take it at noon: two minutes, and four at 65° where the sun of June grazes the horizon.
"""

from datetime import UTC, date, datetime, timedelta

import numpy as np
import pandas as pd
import pvlib
import pytest
from astral import Observer
from astral.sun import daylight

from almanaque.core.place import shade, sun

LATITUDES = (-55, -41.6, -23.5, 0, 23.5, 42.4, 55, 65)
DAYS = [date(2027, 1, 1) + timedelta(days=13 * n) for n in range(28)]
TOLERANCE_H = {65: 4 / 60}


@pytest.mark.parametrize("latitude", LATITUDES)
def test_astral_agrees(latitude: float) -> None:
    for day in DAYS:
        start, end = daylight(Observer(latitude, 0.0), date=day, tzinfo=UTC)
        hours = (end - start).total_seconds() / 3600 % 24
        assert sun.daylength(latitude, day) == pytest.approx(hours, abs=TOLERANCE_H.get(latitude, 2 / 60)), day


@pytest.mark.parametrize("latitude", LATITUDES)
def test_pvlib_agrees(latitude: float) -> None:
    times = pd.DatetimeIndex([datetime(d.year, d.month, d.day, 12, tzinfo=UTC) for d in DAYS])
    found = pvlib.solarposition.sun_rise_set_transit_spa(times, latitude, 0.0)
    for day, sunrise, sunset in zip(DAYS, found["sunrise"], found["sunset"], strict=True):
        hours = (sunset - sunrise).total_seconds() / 3600 % 24
        assert sun.daylength(latitude, day) == pytest.approx(hours, abs=TOLERANCE_H.get(latitude, 2 / 60)), day


def test_declination_agrees_with_pvlib() -> None:
    """Spencer's series knows the day of the year alone, so it drifts by up to a quarter of a day within the leap cycle."""
    for day in DAYS:
        theirs = pvlib.solarposition.declination_spencer71(day.timetuple().tm_yday)
        assert sun.declination(day) == pytest.approx(float(theirs) * 57.29578, abs=0.35)


@pytest.mark.parametrize("latitude", LATITUDES)
def test_the_suns_place_agrees_with_pvlib(latitude: float) -> None:
    """Altitude and azimuth at local solar time against pvlib's SPA at the instant of that solar time; 0.3° and, for the
    azimuth, the same as an arc on the sky. We hold the declination of noon through the day."""
    for day in DAYS[::4]:
        transit = pvlib.solarposition.sun_rise_set_transit_spa(
            pd.DatetimeIndex([datetime(day.year, day.month, day.day, 12, tzinfo=UTC)]), latitude, 0.0
        )["transit"].iloc[0]
        for hour in (6.5, 9.0, 12.0, 15.5, 18.0):
            moment = pd.DatetimeIndex([transit + timedelta(hours=hour - 12)])
            theirs = pvlib.solarposition.get_solarposition(moment, latitude, 0.0, method="nrel_numpy").iloc[0]
            altitude, azimuth = sun.position(latitude, day, np.array([hour]))
            assert altitude[0] == pytest.approx(theirs["elevation"], abs=0.3), (day, hour)
            arc = (azimuth[0] - theirs["azimuth"] + 180) % 360 - 180
            assert arc * np.cos(np.radians(altitude[0])) == pytest.approx(0, abs=0.3), (day, hour)


@pytest.mark.parametrize("latitude", LATITUDES)
def test_hours_of_direct_sun_in_the_open_agree_with_pvlib(latitude: float) -> None:
    """Both count ten-minute steps with the sun above half a degree; two steps of difference are allowed, three at 65°."""
    for day in DAYS[::4]:
        start = datetime(day.year, day.month, day.day, 0, 5, tzinfo=UTC)
        times = pd.DatetimeIndex([start + timedelta(minutes=10 * n) for n in range(144)])
        elevation = pvlib.solarposition.get_solarposition(times, latitude, 0.0, method="nrel_numpy")["elevation"]
        theirs = (elevation > shade.LOWEST_DEG).sum() / 6
        assert shade.open_hours(day, latitude=latitude) == pytest.approx(
            theirs, abs=(3 if latitude == 65 else 2) / 6 + 1e-9
        ), day
