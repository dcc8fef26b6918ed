"""What flowers when for bees and butterflies: bloom by planting, gaps over the season, hosts and nectar together."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Crop, turned
from almanaque.core.findings import Finding, Fix
from almanaque.core.growth.growth_dates import GrowthDates

LONGEST_GAP_DAYS = 10  # a gap in bloom that bees do not mind: our own rule
OURS = "bloom_rule"
DAY = timedelta(days=1)


@dataclass(frozen=True)
class Bloom:
    """A planting in flower from a day to a day; without nectar it only feeds caterpillars."""

    name: str
    starts: date
    ends: date
    nectar: bool
    host_for: str


def blooms(crop: Crop, dates: GrowthDates, starts: date, ends: date, *, bed_to: date, southern: bool) -> list[Bloom]:
    """When a planting flowers between two days, as far as the catalogue tells.

    A plant that comes again flowers in its months, from the year after it came into the bed when these have begun; others some
    days after they are sown, or a shorter time after they are set out. **Source:** the crop's own figures.
    """
    found = []
    if crop.blooms:
        months = turned(crop.blooms, southern=southern)
        day = starts
        while day <= ends:
            if day.month in months and dates.bed_from < day <= bed_to:
                begin = day
                while day <= ends and day.month in months and day <= bed_to:
                    day += DAY
                found.append(Bloom(crop.name.en, begin, day - DAY, crop.nectar, crop.host_for))
            else:
                day += DAY
    elif crop.bloom_days is not None:
        after, length = crop.bloom_days
        grown = 0 if dates.emerge_to is not None else 7 * crop.weeks_indoors or round(0.4 * after)
        begin = dates.bed_from + timedelta(days=max(0, after - grown))
        end = min(begin + timedelta(days=length), bed_to)
        if begin <= ends and end >= starts and begin <= end:
            found.append(Bloom(crop.name.en, max(begin, starts), min(end, ends), crop.nectar, crop.host_for))
    return found


@dataclass(frozen=True)
class Gap:
    starts: date
    ends: date

    @property
    def days(self) -> int:
        return (self.ends - self.starts).days + 1


def gaps(found: Sequence[Bloom], starts: date, ends: date) -> list[Gap]:
    """Times between two days, both included, of more than ten days in which nothing with nectar flowers."""
    open_from, holes = starts, []
    for bloom in sorted((b for b in found if b.nectar), key=lambda b: b.starts):
        if bloom.starts > open_from:
            holes.append(Gap(open_from, min(bloom.starts, ends + DAY) - DAY))
        open_from = max(open_from, bloom.ends + DAY)
        if open_from > ends:
            break
    if open_from <= ends:
        holes.append(Gap(open_from, ends))
    return [gap for gap in holes if gap.days > LONGEST_GAP_DAYS]


def findings(found: Sequence[Bloom], hosts: Sequence[tuple[str, str]], starts: date, ends: date) -> list[Finding]:
    """What is missing for guests: bloom over the season, and hosts beside nectar.

    `hosts` are plants that stand there with whose caterpillars eat them.
    """
    said = [
        Finding(
            "bloom_gap",
            "care",
            "Bloom",
            {"starts": gap.starts, "ends": gap.ends, "days": gap.days},
            OURS,
            (Fix("choose_for_then"),),
        )
        for gap in gaps(found, starts, ends)
    ]
    if any(b.nectar for b in found) and not hosts:
        said.append(
            Finding(
                "no_host",
                "care",
                "Caterpillars",
                {},
                OURS,
                (Fix("add_a_host"),),
            )
        )
    if hosts and not any(b.nectar for b in found):
        said.append(
            Finding(
                "no_nectar",
                "care",
                "Butterflies",
                {},
                OURS,
                (Fix("add_nectar"),),
            )
        )
    return said
