"""Growing degree-days: warmth above a base temperature, added up over days.

Two practices give different numbers from the same readings, so the answer always says which was on.
**Source:** McMaster & Wilhelm (1997), *Growing degree-days: one equation, two interpretations*, Agricultural and Forest
Meteorology 87, 291–300.
"""

from typing import Literal

import numpy as np
import numpy.typing as npt

from almanaque.core.errors import BadInput

Floats = npt.NDArray[np.float64]
Interpretation = Literal[1, 2]


def daily(
    tmin_c: Floats, tmax_c: Floats, *, base_c: float, interpretation: Interpretation = 1, upper_c: float | None = None
) -> Floats:
    """Degree-days [°C d] of each day; arrays (…, days). NaN where a reading is missing.

    Interpretation 1 compares the day's mean with the base, 2 raises each of the two temperatures to the base before they
    are averaged. With `upper_c`, temperatures above it count as `upper_c`. Raises BadInput for another interpretation and
    for an upper limit below the base.

    >>> daily(np.array([2.0]), np.array([14.0]), base_c=10.0)
    array([0.])
    >>> daily(np.array([2.0]), np.array([14.0]), base_c=10.0, interpretation=2)
    array([2.])
    """
    if interpretation not in (1, 2):
        raise BadInput("place.degree_day_interpretation", field="interpretation")
    if upper_c is not None and upper_c <= base_c:
        raise BadInput("place.upper_limit_below_base", field="upper")
    low, high = tmin_c, tmax_c
    if upper_c is not None:
        low, high = np.minimum(low, upper_c), np.minimum(high, upper_c)
    if interpretation == 2:
        low, high = np.maximum(low, base_c), np.maximum(high, base_c)
    return np.maximum(0.0, (low + high) / 2 - base_c)
