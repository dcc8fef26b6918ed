"""What stands in a bed while and where something else is planned."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Method
from almanaque.core.findings import Finding, Fix
from almanaque.core.garden.bed import Cell
from almanaque.core.words.days import FOR_YEARS

SOURCE = "own_rule"
DAY = timedelta(days=1)


@dataclass(frozen=True)
class Occupancy:
    """A crop in the ground: its squares, from its first day in the bed to the last one expected, both included."""

    crop: str
    cells: frozenset[Cell]
    bed_from: date
    bed_to: date


def bed_taken(plan: Occupancy, method: Method, start: date, others: Sequence[Occupancy]) -> list[Finding]:
    """A fault for each crop in the ground that shares squares and days with a plan.

    `start` is the plan's first day of work, which lies before `plan.bed_from` when it is started indoors. What would
    mend it is the first start with which the plan takes its squares the day after they are free. **Source:** our own
    rule.
    """
    found = []
    for other in others:
        shared = len(plan.cells & other.cells)
        if shared and other.bed_from <= plan.bed_to and other.bed_to >= plan.bed_from:
            later = start + (other.bed_to + DAY - plan.bed_from)
            for_years = other.bed_to - plan.bed_from > FOR_YEARS
            mend = (
                Fix("other_squares")
                if for_years
                else Fix("start_on", f"start:{method}", later.isoformat(), params={"day": later})
            )
            found.append(
                Finding(
                    "bed_taken",
                    "fault",
                    plan.crop,
                    {"other": other.crop.lower(), "shared": shared, "until": other.bed_to},
                    SOURCE,
                    (mend,),
                    case="for_years" if for_years else "",
                )
            )
    return found
