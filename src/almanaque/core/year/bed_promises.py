"""Summer first: a bed promised from a day on, what may stand there before, and what must go."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed_planting import BedPlanting

OURS = "own_rule"
CLEAR_DAYS = 2  # a bed is cleared, fed and watered before what it was promised for goes in


@dataclass(frozen=True)
class Promised:
    """From which day on the bed must be free, and for what."""

    from_day: date
    what_for: str


def last_day_to_clear(promise: Promised) -> date:
    """The last day on which the bed can be cleared for it. **Source:** our own rule, two days before."""
    return promise.from_day - timedelta(days=CLEAR_DAYS)


def in_the_way(me: BedPlanting, promises: Sequence[Promised]) -> list[Finding]:
    """Care for what stands in a bed beyond the day from which it is promised; what begins after that day is no matter."""
    found = []
    for promise in promises:
        if me.bed_from < promise.from_day <= me.bed_to and me.crop.life != "perennial":
            early = last_day_to_clear(promise)
            found.append(
                Finding(
                    "bed_promised",
                    "care",
                    me.name,
                    {"bed_to": me.bed_to, "what_for": promise.what_for, "from_day": promise.from_day, "early": early},
                    OURS,
                    (Fix("what_may_stand_before", "page", "/year/summer"),),
                    case="ready" if me.first_pick <= early else "",
                )
            )
    return found
