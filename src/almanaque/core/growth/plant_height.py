"""How tall a plant is by a day: slow at first, quick in the middle, full when picking begins."""

from datetime import date

from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import GrowthDates


def share_grown(day: date, dates: GrowthDates) -> float:
    """Share of its grown size by a day, 0 to 1: nothing until it is up, all of it at the first picking of the middle year.

    An S-shaped curve, 3u² − 2u³ of the share u of that time. **Source:** our own rule, rough.
    """
    begin = dates.emerge_to or dates.bed_from
    whole = max(1, (dates.first_pick - begin).days)
    u = min(1.0, max(0.0, (day - begin).days / whole))
    return u * u * (3 - 2 * u)


def height_mm(crop: Crop, day: date, dates: GrowthDates) -> float:
    """Height [mm] by a day. **Source:** as `share_grown`."""
    return crop.height_mm * share_grown(day, dates)
