"""What stands in a bed while and where something else is planned."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from almanaque.core.crops.crop import Method
from almanaque.core.findings import Finding, Fix, short_day, until
from almanaque.core.garden.bed import Cell

SOURCE = "our own rule"
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
            stays = until(other.bed_to, plan.bed_from)
            mend = (
                Fix("Choose other squares")
                if stays == "for years"
                else Fix(f"Start {short_day(later)}", f"start:{method}", later.isoformat())
            )
            found.append(
                Finding(
                    "bed_taken",
                    "fault",
                    plan.crop,
                    f"The {other.crop.lower()} still stands in {shared} of these squares.",
                    f"It is there {stays.replace('until', 'until about')}.",
                    SOURCE,
                    (mend,),
                )
            )
    return found
