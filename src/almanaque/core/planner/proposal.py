"""What the planner proposes: each wish with its place, day and chance, or with what bars it; and how good that is."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from almanaque.core.findings import Finding
from almanaque.core.garden.bed import Cell
from almanaque.core.growth.growth_dates import GrowthDates
from almanaque.core.growth.sowing_days import Verdict
from almanaque.core.planner.problem import Way, Wish


@dataclass(frozen=True)
class PlacedWish:
    """A wish with its place. `chance` is the share of years in which it comes true, `rested` the years of its family in that bed, None for
    never. `group` does the work. Where it is not `measured`, packet days speak and the chance is a guess.
    It is `held_longer` where its place is kept for the day for which it is wanted.
    """

    wish: Wish
    way: Way
    dates: GrowthDates
    cells: frozenset[Cell]
    plants: int
    chance: float
    group: str | None
    verdict: Verdict
    findings: tuple[Finding, ...]
    rested: int | None
    cost: int
    kept: bool = False
    held_longer: bool = False
    measured: bool = True


@dataclass(frozen=True)
class LeftOut:
    """A wish without a place, and what is said of it."""

    wish: Wish
    findings: tuple[Finding, ...]


@dataclass(frozen=True)
class Measures:
    """What a plan comes to, by the aims: `expected` wishes are the sum of their chances; `filled` are places that are only
    filled; their work is not in `minutes`.
    """

    wishes: int
    granted: int
    musts: int
    musts_granted: int
    expected: float
    classes: int
    sowing_classes: int
    picking_classes: int
    not_rested: int
    kinds: int
    break_beds: int
    minutes: int
    cost: int
    filled: int = 0

    def with_filling(self, more: "Measures", *, kinds: int) -> "Measures":
        """The same with what fills the rest of the beds."""
        return replace(
            self,
            filled=more.granted,
            kinds=kinds,
            break_beds=self.break_beds + more.break_beds,
            cost=self.cost + more.cost,
        )


@dataclass(frozen=True)
class SeasonPlan:
    """A plan. `gap` is the share of the best there may be by which it may fall short, `proved` whether it is the best there is.

    `clash` are wishes that must be and cannot all be.
    """

    placed: tuple[PlacedWish, ...]
    left: tuple[LeftOut, ...]
    measures: Measures
    gap: float
    proved: bool
    clash: tuple[Wish, ...] = ()
    beaten: int = 0

    @property
    def ways(self) -> Mapping[str, Way]:
        """How each wish is granted, by its key; what plans again around it begins from that."""
        return {placed.wish.key: placed.way for placed in self.placed}
