"""Themes: one dish or story that several beds and groups grow their parts of, all ready on one day."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix, short_day
from almanaque.core.growth.growth_dates import GrowthDates

OURS = "our own rule"
LOW_SHARE = 0.8  # of the years in which a part should be ready

# Themes to begin from, by the keys of their crops: invented for the purpose, common practice, no source.
IDEAS: dict[str, tuple[str, ...]] = {
    "Soup": ("carrot", "potato", "onion", "celery", "kale"),
    "Salad bowl": ("lettuce", "radish", "spinach", "scallion", "calendula"),
    "Maize, beans and squash": ("popcorn", "pole-bean", "winter-squash"),
    "Salsa": ("tomato", "tomatillo", "onion", "cilantro", "pepper"),
    "Bread": ("winter-wheat", "sunflower", "flax"),
    "Lunchbox": ("snow-pea", "carrot", "kohlrabi", "cucumber", "strawberry"),
}


@dataclass(frozen=True)
class ThemePart:
    """A planting that is part of a theme, with the years in which it is ready on the day, of how many on file."""

    name: str
    crop: Crop
    dates: GrowthDates
    years: int
    of: int

    def ready_on(self, day: date) -> bool:
        """True when, in the middle year, picking has begun by the day and is not over; what keeps may have been picked before."""
        return self.dates.first_pick <= day and (self.crop.cure_days > 0 or day <= self.dates.last_pick)


def findings(parts: Sequence[ThemePart], ready_on: date) -> list[Finding]:
    """What will not be there on the day, or not in four years of five."""
    said = []
    for part in parts:
        if part.ready_on(ready_on) and (not part.of or part.years >= LOW_SHARE * part.of):
            continue
        years = f" in {part.years} of {part.of} years" if part.of else ""
        dates = part.dates
        what = (
            "is not ready yet"
            if dates.first_pick > ready_on
            else "is over by then"
            if not part.ready_on(ready_on)
            else f"is ready only{years}"
        )
        said.append(
            Finding(
                "theme_not_ready",
                "care",
                part.name,
                f"On {short_day(ready_on)} it {what}.",
                f"Picking {short_day(dates.first_pick)} to {short_day(dates.last_pick)} in the middle year"
                f"{f'; ready{years}' if years else ''}.",
                OURS,
                (Fix("Another sowing day"),),
            )
        )
    return said
