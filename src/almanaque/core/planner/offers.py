"""A way to grant a wish in a bed, and what it is worth by each aim.

Each aim counts three times the next one, so that the order of aims decides and near ties fall to the next. Musts stand above them all.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from almanaque.core.planner.candidates import SowingCandidate
from almanaque.core.planner.problem import AIMS, Aim, PlanBed, PlanProblem, Way, Weight

# What single things weigh by their aim, before the order of aims: our own rule.
WHOLE_WISH: dict[Weight, int] = {"must": 100, "would like": 100, "if room": 30}
WHOLE_FILLING = 10  # of what only fills what is left: our own rule
FILLING_DAYS = 120  # in the bed that are worth all of that: our own rule
NOT_RESTED = 20  # of each year that a family has rested too short in a bed: our own rule
ALL_VOTES = 60  # of the wish with the most votes: our own rule
OWN_BED = 20  # of the class's own bed: our own rule
OLD_SEED = 20  # of seed that would grow too old: our own rule
MINUTES_A_POINT, PRICE_A_POINT = 10, 20  # minutes of work, minor units of money: our own rule
STAYS = 8  # of what stays as it was in the plan before: our own rule
STEEP = 3  # how often an aim counts the next one: our own rule


@dataclass(frozen=True, slots=True)
class BedOffer:
    """An option of the model in the garden's terms: a wish by a candidate in a bed. `rested` are years of its family there."""

    wish: int
    candidate: SowingCandidate
    bed: int
    squares: int
    plants: int
    cost: int
    rested: int | None
    group: str | None

    def way(self, beds: Sequence[PlanBed]) -> Way:
        one = self.candidate
        return Way(one.crop.key, one.method, one.dates.start, beds[self.bed].key, one.cover)


def cost_of(problem: PlanProblem, one: SowingCandidate, plants: int) -> int:
    """What seed or starts cost [minor units]: nothing where there is seed, whole packets else; 0 where no price is known."""
    crop, price = one.crop, problem.prices.get(one.crop.key, 0)
    if one.method == "starts":
        return price * plants
    if crop.key in problem.at_hand or not price:
        return 0
    seeds = plants / (crop.germination * crop.survival)
    return price * max(1, -(-int(seeds) // (crop.packet_seeds or max(1, int(seeds)))))


def weights(aims: Sequence[Aim]) -> dict[Aim, int]:
    """What a point of each aim counts, by the order of aims."""
    return {aim: STEEP ** (len(aims) - 1 - place) for place, aim in enumerate(aims)}


def worth(problem: PlanProblem, offer: BedOffer) -> dict[Aim, int]:
    """What an offer is worth by itself, by aim; terms that it shares with others are not in it."""
    wish, one, bed = problem.wishes[offer.wish], offer.candidate, problem.beds[offer.bed]
    whole: float = WHOLE_WISH[wish.weight]
    if wish.origin == "filling":
        whole = WHOLE_FILLING * min(1.0, (one.last - one.first) / FILLING_DAYS)
    found: dict[Aim, int] = dict.fromkeys(AIMS, 0)
    found["chances"] = round(whole * one.promise)
    if problem.before.get(wish.key) == offer.way(problem.beds):
        found["chances"] += STAYS
    if offer.rested is not None and one.crop.life != "perennial":
        found["rotation"] -= NOT_RESTED * max(0, problem.rest_years - offer.rested)
    most_votes = problem.most_votes
    found["likes"] += round(ALL_VOTES * wish.votes / most_votes) if most_votes else 0
    found["likes"] += OWN_BED if offer.group is not None and offer.group == bed.group else 0
    found["likes"] += OLD_SEED if one.crop.key in problem.old_seed else 0
    found["work"] -= round(sum(one.minutes.values()) / MINUTES_A_POINT)
    found["cost"] -= round(offer.cost / PRICE_A_POINT)
    return found
