"""Hours of direct sun against pvlib's solar position, every minute, on a grid of places and days.

pvlib (BSD licence) implements the NREL solar position algorithm of Reda and Andreas 2004. Ours looks every 10 minutes from
the centre of the disc, so a day may differ by two steps; behind a wall by one step more for each edge.
"""

import numpy as np
import pandas as pd
import pvlib
import pytest

from almanaque.core.place import shade

DAYS = ("2027-01-15", "2027-03-21", "2027-06-21", "2027-09-10", "2027-11-02")
LATITUDES = (-54.0, -37.0, 0.0, 28.0, 42.9, 51.0, 60.0, 66.0)


def positions(latitude: float, day: str) -> tuple[np.ndarray, np.ndarray]:
    """Altitude and azimuth [°] at each minute of a day at longitude 0."""
    times = pd.date_range(day, periods=24 * 60, freq="min", tz="UTC")
    found = pvlib.solarposition.get_solarposition(times, latitude, 0.0)
    return found["elevation"].to_numpy(), found["azimuth"].to_numpy()


@pytest.mark.parametrize("latitude", LATITUDES)
def test_open_ground_has_the_hours_of_a_minute_by_minute_count(latitude: float) -> None:
    for day in DAYS:
        altitude, _ = positions(latitude, day)
        minutes = (altitude > shade.LOWEST_DEG).sum() / 60
        assert shade.open_hours(pd.Timestamp(day).date(), latitude=latitude) == pytest.approx(minutes, abs=0.34), day


@pytest.mark.parametrize("latitude", [-37.0, 28.0, 42.9, 51.0])
@pytest.mark.parametrize("away_m", [1.0, 3.0, 6.0])
def test_behind_a_long_wall_the_sun_is_seen_as_geometry_says(latitude: float, away_m: float) -> None:
    """A wall 3 m high from east to west on the noon side: the sun clears it when tan(alt) > h · cos(az − noon) / distance."""
    noon = 180.0 if latitude > 0 else 0.0
    near, far = away_m * 1000, away_m * 1000 + 10
    y = (near, far) if latitude > 0 else (-far, -near)
    wall = shade.body([(-1e7, y[0]), (1e7, y[0]), (1e7, y[1]), (-1e7, y[1])], top_mm=3000)
    for day in DAYS:
        altitude, azimuth = positions(latitude, day)
        behind = np.cos(np.radians(azimuth - noon))
        clears = (behind <= 0) | (np.tan(np.radians(altitude)) > 3.0 * behind / away_m)
        minutes = ((altitude > shade.LOWEST_DEG) & clears).sum() / 60
        found = shade.hours_of_sun(np.zeros((1, 2)), [pd.Timestamp(day).date()], [wall], latitude=latitude)[0, 0]
        assert found == pytest.approx(minutes, abs=0.51), day
