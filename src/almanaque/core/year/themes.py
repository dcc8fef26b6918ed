"""Themes: one dish or story that several beds and groups grow their parts of, all ready on one day."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop
from almanaque.core.findings import Finding, Fix
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.verdicts import SURE_SHARE
from almanaque.core.words import Phrase

OURS = "own_rule"

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
        """True when, in the middle year, picking has begun by the day, and it still stands then or keeps in store."""
        dates = self.dates
        stored = dates.first_pick + timedelta(days=self.crop.keeps_days)
        return dates.first_pick <= day <= max(dates.stands_until or dates.last_pick, dates.last_pick, stored)


def findings(parts: Sequence[ThemePart], ready_on: date) -> list[Finding]:
    """What will not be there on the day, or not in four years of five."""
    said = []
    for part in parts:
        if part.ready_on(ready_on) and (not part.of or part.years >= SURE_SHARE * part.of):
            continue
        years = Phrase("findings.part.in_years", {"n": part.years, "of": part.of}) if part.of else ""
        dates = part.dates
        case = "not_yet" if dates.first_pick > ready_on else "over" if not part.ready_on(ready_on) else "in_few_years"
        said.append(
            Finding(
                "theme_not_ready",
                "care",
                part.name,
                {
                    "ready_on": ready_on,
                    "first_pick": dates.first_pick,
                    "last_pick": dates.last_pick,
                    "years": years,
                    "ready": Phrase("findings.part.ready_in_years", {"years": years}) if years else "",
                },
                OURS,
                (Fix("other_sowing_day"),),
                case=case,
            )
        )
    return said
