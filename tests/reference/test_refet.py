"""Reference evapotranspiration against the library refet (0.5.0) on a grid of latitudes and days, grass reference."""

import numpy as np
import pytest
import refet

from almanaque.core.place import evapotranspiration as et
from almanaque.core.place import sun

LATITUDES = (-55, -41.6, -20, 0, 12, 35, 45.7, 55, 65)
DAYS = (1, 46, 105, 172, 196, 246, 300, 355)


@pytest.mark.parametrize("latitude", LATITUDES)
def test_radiation_above_the_atmosphere_agrees(latitude: float) -> None:
    """refet's `original` radiation follows ASCE-EWRI (2005), whose solar constant is 4.92 MJ/m²/h: 0.03 % above FAO-56."""
    for day in DAYS:
        theirs = float(refet.calcs.ra_daily(np.radians(latitude), np.array([day]), method="asce")[0])
        assert float(sun.extraterrestrial_radiation(latitude, day)) == pytest.approx(theirs, rel=1e-3, abs=0.01)


@pytest.mark.parametrize("latitude", [-41.6, -20.0, 0.0, 12.0, 35.0, 45.7])
def test_penman_monteith_agrees(latitude: float) -> None:
    """Same inputs into both; the constants of ASCE and FAO-56 (900 and 0.34) are the same for a day of short grass."""
    for day in DAYS:
        radiation = 0.6 * float(sun.extraterrestrial_radiation(latitude, day))
        mine = et.penman_monteith(et.StationSite(9.0, 23.0, 1.1, 2.4, radiation, latitude, 320, day))
        theirs = float(
            refet.Daily(
                tmin=9.0,
                tmax=23.0,
                ea=1.1,
                rs=radiation,
                uz=2.4,
                zw=2.0,
                elev=320,
                lat=latitude,
                doy=day,
                method="asce",
            ).eto()[0]
        )
        assert mine == pytest.approx(theirs, abs=0.03), day


def test_vapour_pressure_agrees() -> None:
    celsius = np.array([-10.0, 0.0, 12.5, 30.0])
    theirs = refet.calcs.sat_vapor_pressure(celsius)
    assert [et.saturation_vapour(c) for c in celsius] == pytest.approx(list(theirs), rel=1e-6)
