"""How sure a first picking is: the range that holds it in eight cases of ten, from four causes that are stated openly.

The weather differs between years, which the record tells. Varieties differ, as the packet's range does. A bed is warmer or colder than
the weather station. And people pick some days after it is ready. The last three are added to the first as independent
spreads; docs/methods.md tells the figures and how they are tried.
"""

import numpy as np
import numpy.typing as npt

from almanaque.core.crops.crop import Crop, Method

Floats = npt.NDArray[np.float64]

Z = 1.2816  # half the width of the middle 80 % of a normal spread, in its standard deviations
SITE_SHARE = (
    0.05  # of the days it grows, by which a bed differs from the station, as a standard deviation: our own rule
)
SITE_DAYS = 120.0  # a season of growth; a winter that passes between does not make beds differ more: our own rule
PEOPLE_DAYS, PEOPLE_SD_DAYS = (
    3.0,
    2.6,
)  # after it is ready until somebody picks it, as the middle 80 % of waits that fall off
# exponentially with a mean of three days: our own rule
SEASON_VARIETY_DAYS = (
    6.0  # by which kinds of what comes again differ, as a standard deviation: common practice, no source
)


def variety_days(crop: Crop, method: Method, grows: Floats) -> Floats:
    """Standard deviation [d] between varieties of a crop that takes so many days, by the packet's range.

    Eight varieties of ten lie in the packet's range; in cold weather all take longer in proportion.
    """
    share, days = variety_share(crop, method)
    return share * grows + days


def variety_share(crop: Crop, method: Method) -> tuple[float, float]:
    """The same as a share of the days it takes, and days that do not depend on them."""
    if crop.season_warmth is not None:
        return 0.0, SEASON_VARIETY_DAYS
    least, most = crop.days[method]
    return (most - least) / (2 * Z) / ((least + most) / 2), 0.0


def spread_days(crop: Crop, method: Method, grows: Floats) -> Floats:
    """Standard deviation [d] of all but the weather, of plants that still have so many days to grow."""
    return _spread(variety_days(crop, method, grows), grows)


def _spread(varieties: Floats, grows: Floats) -> Floats:
    site = SITE_SHARE * np.minimum(grows, SITE_DAYS)
    return np.asarray(np.sqrt(varieties**2 + site**2 + PEOPLE_SD_DAYS**2))


def widened(crop: Crop, method: Method, ready: Floats, grows: Floats) -> Floats:
    """The range of first pickings, (days, 3): early, middle, late, from 10, 50 and 90 % of the days on which weather alone has it ready.

    The middle stays the day on which it is ready. **Source:** our own rule; tried on simulated schools in the tests.
    """
    return widened_by(variety_days(crop, method, grows), ready, grows)


def widened_by(varieties: Floats, ready: Floats, grows: Floats) -> Floats:
    """As `widened`, by the standard deviations [d] between varieties, (days,)."""
    other = Z * _spread(varieties, grows)
    low, middle, high = ready.T
    early = middle + PEOPLE_DAYS - np.sqrt((middle - low) ** 2 + other**2)
    late = middle + PEOPLE_DAYS + np.sqrt((high - middle) ** 2 + other**2)
    return np.stack([np.minimum(early, middle), middle, np.maximum(late, middle)], axis=1)
