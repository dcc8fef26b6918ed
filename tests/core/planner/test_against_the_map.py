"""A plan is never worse than the map that the turn of the year proposes for the same wishes, counted by the planner's own aims."""

from dataclasses import replace

import pytest

from almanaque.core.crops.crop import Crop
from almanaque.core.planner import plan, search
from almanaque.core.planner.greedy import NOTHING, Choosing
from almanaque.core.planner.model import ChoiceScore
from almanaque.core.planner.options import Options, options_of
from almanaque.core.planner.problem import PlanBed, Wish
from almanaque.core.year import next_season_map
from almanaque.core.year.next_season_map import MapWish, RestedBed
from almanaque.data import catalogue
from tests.core.planner.gardens import D, problem, stood
from tests.core.planner.test_plan import CLIMATES, WISHES, garden

HISTORY = ("tomato", "carrot", "kale", "bush-bean", "lettuce", "onion", "potato")


def lived_in(climate: str, turn: int) -> list[PlanBed]:
    """A garden where something stood in each bed in each of two years."""
    beds = garden(climate)
    return [
        replace(
            one,
            history=[stood(HISTORY[(at + turn + year) % len(HISTORY)], f"{2026 - year}-09-20", one) for year in (0, 1)],
        )
        for at, one in enumerate(beds)
    ]


def mapped(options: Options) -> ChoiceScore:
    """What the map is worth: each wish in the bed that the map gives it, on the best day that is left there."""
    asked = options.problem

    def crop(wish: Wish) -> Crop:
        return catalogue()[wish.crops[0]]

    named = [(number, wish) for number, wish in enumerate(asked.wishes) if wish.kind == "crop"]
    wanted = [
        MapWish(crop(wish).key, crop(wish).family, wish.squares or 1, D("2027-04-01"), str(number), wish.votes)
        for number, wish in named
    ]
    ground = [RestedBed(one.key, one.name, tuple(sorted(one.cells)), one.history) for one in asked.beds]
    placed, _ = next_season_map.propose(wanted, ground, rest_years=asked.rest_years)
    assert placed
    choosing = Choosing(options.model)
    for one in placed:
        number = int(one.wish.why)
        there = [
            at
            for at in options.model.of_wish[number]
            if asked.beds[options.offers[at].bed].key == one.bed and choosing.allows(at)
        ]
        if there and choosing.has[number] == NOTHING:
            choosing.take(max(there, key=options.model.worth))
    found = options.model.score(choosing.chosen)
    assert found.points > 0
    return found


@pytest.mark.parametrize("turn", range(3))
@pytest.mark.parametrize("climate", CLIMATES)
def test_a_plan_is_never_worse_than_the_map_of_the_turn_of_the_year(climate: str, turn: int) -> None:
    options = options_of(problem(lived_in(climate, turn), WISHES))
    *_, last = search.steps(options.model, keep=(), begin_with=[], rounds=2)
    assert options.model.score(list(last.chosen)) >= mapped(options)
    first = plan.first(options.problem)
    assert first.options.model.score(list(first.step.chosen)) >= mapped(options)
