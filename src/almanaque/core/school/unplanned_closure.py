"""What a closure that nobody planned does to the garden: jobs without people, seedbeds at risk, pickings for carers."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date

from almanaque.core.findings import Finding, Fix
from almanaque.core.school.school_year import Calendar, SchoolYear, Span

OURS = "own_rule"


@dataclass(frozen=True)
class JobAhead:
    """An open job, the day it is meant for, and who was to do it, in words."""

    id: str
    title: str
    on_day: date
    group: str


@dataclass(frozen=True)
class PlantingAhead:
    """A planting with the days on which it needs hands. `up_by` is when the seed is up at the latest, None if it is."""

    id: str
    name: str
    sown: date
    up_by: date | None
    first_pick: date
    last_pick: date
    in_the_ground: bool


@dataclass(frozen=True)
class Effects:
    """Jobs that lose their class, and findings about seedbeds and pickings; pencil and plans not begun are not counted."""

    jobs: tuple[JobAhead, ...]
    seedbeds: tuple[Finding, ...]
    pickings: tuple[Finding, ...]

    @property
    def nothing(self) -> bool:
        return not (self.jobs or self.seedbeds or self.pickings)


def effects(closure: Span, jobs: Iterable[JobAhead], plantings: Sequence[PlantingAhead]) -> Effects:
    """What falls into the closure. A seedbed is at risk when seed is in the ground, or was to be sown, and not yet up."""
    lost = tuple(sorted((job for job in jobs if job.on_day in closure), key=lambda job: (job.on_day, job.title)))
    seedbeds, pickings = [], []
    for planting in plantings:
        if planting.up_by is not None and planting.in_the_ground and _meets(closure, planting.sown, planting.up_by):
            seedbeds.append(
                Finding(
                    "seedbed_over_break",
                    "fault",
                    planting.name,
                    {"planting": planting.name, "sown": planting.sown, "up_by": planting.up_by},
                    OURS,
                    (Fix("ask_carer_to_water"),),
                    case="closure",
                )
            )
        if planting.in_the_ground and _meets(closure, planting.first_pick, planting.last_pick):
            begin = max(planting.first_pick, closure.starts)
            pickings.append(
                Finding(
                    "picking_to_carers",
                    "care",
                    planting.name,
                    {"planting": planting.name, "begin": begin, "last_pick": min(planting.last_pick, closure.ends)},
                    OURS,
                    (Fix("name_carers"),),
                )
            )
    return Effects(lost, tuple(seedbeds), tuple(pickings))


def days_lost(years: Iterable[SchoolYear], closure: Span) -> int:
    """School days there would have been without this closure."""
    without = [replace(year, closures=tuple(c for c in year.closures if c != closure)) for year in years]
    return Calendar(without).school_days_between(closure.starts, closure.ends)


def _meets(closure: Span, start: date, end: date) -> bool:
    return start <= closure.ends and end >= closure.starts
