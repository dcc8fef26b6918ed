"""Soil temperature at sowing depth, estimated from air; a measured one goes before it.

The ground follows the air with a delay and smooths it: each day it goes a share of the way towards the day's mean.
**Source:** a first-order lag; the share of a day is our own choice, common practice, no source. It is for bare moist soil
at about 5 to 10 cm and is wrong under snow, mulch or glass.
"""

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

SHARE_A_DAY = 0.16  # of the way to the day's mean, a memory of about six days


def estimate(tmin_c: Floats, tmax_c: Floats, measured_c: Floats | None = None) -> Floats:
    """Soil temperature [°C] for each day; arrays (days,). A measured value is taken as it is, and goes on from there.

    A day without air readings keeps the day before; NaN before the first reading.
    """
    means = (tmin_c + tmax_c) / 2
    found = np.full(len(means), np.nan)
    at = np.nan
    for day, mean in enumerate(means):
        if not np.isnan(mean):
            at = mean if np.isnan(at) else at + SHARE_A_DAY * (mean - at)
        if measured_c is not None and not np.isnan(measured_c[day]):
            at = measured_c[day]
        found[day] = at
    return found
