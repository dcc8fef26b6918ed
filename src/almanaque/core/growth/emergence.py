"""How fast a seed comes up by the temperature of the soil: each day adds a share, and when the shares make one it is up.

**Source:** Harrington & Minges (1954) for the crops of that table, interpolated in rates (1/days), so that a day at a
temperature adds the share which the table gives. For other crops a straight line between the crop's own
days at its least and at its best temperature, and a straight fall to the greatest: common practice, no source.
"""

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop

Floats = npt.NDArray[np.float64]
TEMPERATURES_C = np.array([0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0])  # the columns of the table
STOPS_BELOW_C = 3.0  # so far below the least temperature nothing goes on at all


def rates(crop: Crop, soil_c: Floats) -> Floats:
    """Share of the way to emergence that a day at a soil temperature [°C] makes [1/d]; any shape, never below 0.

    Between the coldest temperature at which a row has a figure and one that was not tried, the rate falls to 0 at the crop's
    least temperature; above the warmest figure it falls to 0 at the crop's greatest.
    """
    least, best, most = crop.germination_c
    if crop.emergence_days:
        known = [(t, 0.0 if d is None else 1.0 / d) for t, d in zip(TEMPERATURES_C, crop.emergence_days, strict=True)]
        good = [n for n, (_, rate) in enumerate(known) if rate > 0]
        first, last = good[0], good[-1]
        points = [*known[first : last + 1]]
        below = float(known[first - 1][0]) if first else known[first][0] - 5.0
        points.insert(0, (max(below, min(least, points[0][0] - 0.1)), 0.0))
        above = float(known[last + 1][0]) if last + 1 < len(known) else known[last][0] + 5.0
        points.append((min(above, max(most, points[-1][0] + 0.1)), 0.0))
    else:
        quick, slow = (1.0 / max(1, days) for days in crop.emerges)
        points = [(least - STOPS_BELOW_C, 0.0), (least, slow), (best, quick), (most, 0.0)]
    temperatures, shares = np.array(points, dtype=np.float64).T
    return np.asarray(np.interp(soil_c, temperatures, shares, left=0.0, right=0.0))


def days_at(crop: Crop, soil_c: float) -> float | None:
    """Days until it is up in soil that stays at one temperature [°C]; None where it does not come up."""
    rate = float(rates(crop, np.array([soil_c]))[0])
    return 1.0 / rate if rate > 0 else None
