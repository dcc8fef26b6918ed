"""Soil temperature at sowing depth, estimated from air; a measured one goes before it.

The ground follows the air with a delay and smooths it: each day it goes a share of the way towards the day's mean.
**Source:** a first-order lag; the share of a day is our own choice, common practice, no source. It is for bare moist soil
at about 5 to 10 cm and is wrong under snow, mulch or glass. Where days are long the sun warms bare ground above the air's mean, by
up to 2 °C: common practice, no source.
"""

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

SUN_HOURS, SUN_C = (
    (9.0, 15.0),
    2.0,
)  # hours of daylight between which the ground is warmed above the air, and by how much [°C]
SHARE_A_DAY = 0.16  # of the way to the day's mean, a memory of about six days


def estimate(
    tmin_c: Floats, tmax_c: Floats, measured_c: Floats | None = None, *, light_h: Floats | None = None
) -> Floats:
    """Soil temperature [°C] for each day; arrays (days,), with the hours of daylight where the sun reaches the ground.

    A measured value is taken as it is, and goes on from there.

    A day without air readings keeps the day before; NaN before the first reading.
    """
    means = (tmin_c + tmax_c) / 2
    found = np.full(len(means), np.nan)
    sun = np.zeros(len(means)) if light_h is None else np.interp(light_h, SUN_HOURS, (0.0, SUN_C))
    at = np.nan
    for day, mean in enumerate(means):
        if not np.isnan(mean):
            at = mean if np.isnan(at) else at + SHARE_A_DAY * (mean - at)
        if measured_c is not None and not np.isnan(measured_c[day]):
            at = measured_c[day] - sun[day]
        found[day] = at + sun[day]
    return found
