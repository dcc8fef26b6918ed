"""What is to come from the beds, week by week, for a kitchen or a stall: amounts as a range, from forecast and usual yield.

Masses are grams.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop
from almanaque.core.growth.growth_dates import GrowthDates, picking_window
from almanaque.core.school.school_year import week_of


@dataclass(frozen=True)
class GrowingCrop:
    """A planting that will be picked: what it takes [m²], its plants, its dates, and what it gave this season already [g]."""

    planting: str
    bed: str
    crop: Crop
    dates: GrowthDates
    area_m2: float
    plants: int
    picked_g: float = 0.0
    first_picked: date | None = None
    sure: bool = True


@dataclass(frozen=True)
class ComingShare:
    """What one planting will give in a week [g], from the least to the most that is usual, from a day of the week on.

    `sure` is False for what is not in yet.
    """

    monday: date
    planting: str
    bed: str
    crop: Crop
    low_g: float
    high_g: float
    sure: bool
    counted: str
    from_day: date


def usual_yield(crop: Crop, *, area_m2: float, plants: int, own: Sequence[float] = ()) -> tuple[float, float, str]:
    """What a planting usually gives altogether [g], least and most, and whose figure that is.

    `own` are the school's own yields [g/m²] of this crop, one a season; with three or more, their least and most are taken.
    """
    if len(own) >= 3 and area_m2 > 0:
        return min(own) * area_m2, max(own) * area_m2, f"your own {len(own)} seasons"
    if crop.yield_plant_g and plants:
        return crop.yield_plant_g[0] * plants, crop.yield_plant_g[1] * plants, "the catalogue's usual yield of a plant"
    return crop.yield_g_m2[0] * area_m2, crop.yield_g_m2[1] * area_m2, "the catalogue's usual yield of the ground"


def by_week(standing: GrowingCrop, *, today: date, until: date, own: Sequence[float] = ()) -> list[ComingShare]:
    """What a planting will give in each week from this one to the week of `until`; nothing once its usual yield is picked.

    What is picked once comes in the week of its first picking; what is picked often is spread evenly over its season, less what was
    picked. **Source:** our own rule.
    """
    low, high, counted = usual_yield(standing.crop, area_m2=standing.area_m2, plants=standing.plants, own=own)
    low, high = max(0.0, low - standing.picked_g), max(0.0, high - standing.picked_g)
    window = picking_window(standing.crop, standing.dates, today, first_picked=standing.first_picked)
    first, last = max(window.begun or window.first, today), window.best
    if standing.crop.picked == "once":
        last = window.last
    if last < today or high <= 0:
        return []
    if standing.crop.picked == "once":
        last = first
    weeks: dict[date, int] = {}
    for n in range((last - first).days + 1):
        monday = week_of(first + timedelta(days=n))[0]
        weeks[monday] = weeks.get(monday, 0) + 1
    days = sum(weeks.values())
    return [
        ComingShare(
            monday,
            standing.planting,
            standing.bed,
            standing.crop,
            low * count / days,
            high * count / days,
            standing.sure,
            counted,
            max(monday, first),
        )
        for monday, count in weeks.items()
        if monday <= until
    ]


def together(shares: Iterable[ComingShare]) -> list[ComingShare]:
    """Shares of the same crop in the same week as one, beds named in order; weeks first, then crops by name."""
    found: dict[tuple[date, str], ComingShare] = {}
    for share in shares:
        key = (share.monday, share.crop.key)
        known = found.get(key)
        if known is None:
            found[key] = share
            continue
        beds = known.bed if share.bed in known.bed.split(", ") else f"{known.bed}, {share.bed}"
        found[key] = replace(
            known,
            bed=beds,
            low_g=known.low_g + share.low_g,
            high_g=known.high_g + share.high_g,
            sure=known.sure and share.sure,
            from_day=min(known.from_day, share.from_day),
        )
    return sorted(found.values(), key=lambda s: (s.monday, s.crop.name.en))
