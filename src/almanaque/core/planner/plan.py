"""A problem to a proposal: options, choice, places in the beds, and what is said of the wishes that stay out."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from almanaque.core.garden import companions, spacing
from almanaque.core.garden.bed import Cell
from almanaque.core.garden.companions import Pair
from almanaque.core.growth import school_fit
from almanaque.core.growth.covers import Covering
from almanaque.core.planner import bars, bed_rules, greedy, search
from almanaque.core.planner.offers import BedOffer
from almanaque.core.planner.options import Options, options_of
from almanaque.core.planner.places import HeldSquares, ToPlace, places
from almanaque.core.planner.problem import Aim, PlanBed, PlanProblem, Taken, Way, Which
from almanaque.core.planner.proposal import LeftOut, Measures, PlacedWish, SeasonPlan
from almanaque.core.planner.search import SearchStep

SECOND_TRIES = 3  # at wishes for which their bed had squares enough and no place: our own choice

# Three plans that differ on purpose: the aim that each puts first.
PLANS: dict[Which, Aim] = {"surest": "chances", "most kinds": "kinds", "least summer": "summer"}


def for_aim(problem: PlanProblem, which: Which) -> PlanProblem:
    """The problem with the aim first that a plan is made for."""
    return replace(problem, aims=aims_of(which, problem.aims))


@dataclass(frozen=True)
class Progress:
    """How far it is: the proposal so far without what is said of it, the bound's gap, and whether nothing better is possible."""

    options: Options
    step: SearchStep
    number: int


def aims_of(plan: Which, aims: Sequence[Aim]) -> tuple[Aim, ...]:
    """The order of aims with the one first that a plan is made for."""
    first = PLANS[plan]
    return (first, *(aim for aim in aims if aim != first))


def first(problem: PlanProblem) -> Progress:
    """A first choice within a second, from the most promising options; it asks no solver. Raises BadInput for what cannot be asked."""
    options = options_of(_without_filling(problem), quick=True)
    chosen = greedy.first_choice(options.model, keep=options.keep)
    return Progress(
        options, SearchStep(tuple(chosen), options.model.score(chosen), greedy.bound_at_once(options.model)), 0
    )


def _without_filling(problem: PlanProblem) -> PlanProblem:
    return replace(problem, wishes=tuple(wish for wish in problem.wishes if wish.origin != "filling"))


def progress(problem: PlanProblem, *, rounds: int = search.ROUNDS) -> Iterator[Progress]:
    """Better and better choices; the first one at once. Raises BadInput for what cannot be asked."""
    options = options_of(_without_filling(problem))
    begin = _as_before(options)
    for number, step in enumerate(search.steps(options.model, keep=options.keep, begin_with=begin, rounds=rounds)):
        yield Progress(options, step, number)


def plan(problem: PlanProblem, pairs: Sequence[Pair] = (), *, rounds: int = search.ROUNDS) -> SeasonPlan:
    """The best proposal that was found. Raises BadInput for what cannot be asked."""
    *_, last = progress(problem, rounds=rounds)
    return filled(problem, proposal(last, pairs), pairs)


def filled(problem: PlanProblem, found: SeasonPlan, pairs: Sequence[Pair] = ()) -> SeasonPlan:
    """A proposal with what is left of the beds given to the wishes that only fill; they move nothing and are no part of the bound."""
    filling = tuple(wish for wish in problem.wishes if wish.origin == "filling")
    if not filling:
        return found
    by_bed: dict[str, list[Taken]] = {}
    for one in found.placed:
        taken = Taken(one.cells, one.dates.bed_from, one.dates.clear_by, one.wish.text)
        by_bed.setdefault(one.way.bed, []).append(taken)
    limits, spent = problem.limits, found.measures
    rest = replace(
        problem,
        wishes=filling,
        aims=aims_of("most kinds", problem.aims),
        beds=tuple(replace(bed, group=None, taken=(*bed.taken, *by_bed.get(bed.key, ()))) for bed in problem.beds),
        limits=replace(
            limits,
            row_covers=0,
            break_beds=None if limits.break_beds is None else max(0, limits.break_beds - spent.break_beds),
            money=None if limits.money is None else max(0, limits.money - spent.cost),
        ),
    )
    options = options_of(rest)
    chosen = greedy.improve(options.model, greedy.first_choice(options.model))
    step = SearchStep(tuple(chosen), options.model.score(chosen), 0)
    more = proposal(Progress(options, step, 0), pairs)
    placed = _in_order([*found.placed, *_joined(more.placed)])
    kinds = len({problem.crops[one.way.crop].kind for one in placed})
    return replace(found, placed=placed, measures=found.measures.with_filling(more.measures, kinds=kinds))


def _joined(placed: Sequence[PlacedWish]) -> list[PlacedWish]:
    """What is started in one way on one day in one bed is one planting, whatever number of wishes it fills."""
    joined: dict[Way, PlacedWish] = {}
    for one in placed:
        there = joined.get(one.way)
        joined[one.way] = (
            one
            if there is None
            else replace(
                there, cells=there.cells | one.cells, plants=there.plants + one.plants, cost=there.cost + one.cost
            )
        )
    return list(joined.values())


def _in_order(placed: Sequence[PlacedWish]) -> tuple[PlacedWish, ...]:
    return tuple(sorted(placed, key=lambda p: (p.way.bed, p.dates.bed_from, p.wish.key)))


def _as_before(options: Options) -> list[int]:
    """What stays possible of the plan before, in as far as it is allowed together."""
    problem = options.problem
    choosing = greedy.Choosing(options.model, options.keep)
    for at, offer in enumerate(options.offers):
        key = problem.wishes[offer.wish].key
        same = problem.before.get(key) == offer.way(problem.beds)
        if same and choosing.has[offer.wish] == greedy.NOTHING and choosing.allows(at):
            choosing.take(at)
    return choosing.chosen


def proposal(last: Progress, pairs: Sequence[Pair] = (), *, solver: bool = True) -> SeasonPlan:
    """A choice as a proposal: with places in the beds, verdicts, and what is said of the wishes that stay out.

    Without a `solver`, which takes seconds and much memory to read, musts that clash are not looked for. Where a
    bed has squares enough and no place for one, that wish is tried elsewhere, and what was found for it is no part of the bound.
    """
    options, problem = last.options, last.options.problem
    chosen = list(last.step.chosen)
    cells, homeless = _in_places(options, chosen, pairs, solver)
    for _ in range(SECOND_TRIES):
        if not homeless:
            break
        chosen = _elsewhere(options, chosen, homeless)
        cells, homeless = _in_places(options, chosen, pairs, solver)
    chosen = [at for at in chosen if at not in homeless]
    placed = [_placed(options, at, cells[at]) for at in chosen]
    granted = {options.offers[at].wish for at in chosen}
    clash = search.clashing_musts(options.model) if solver and _musts_missing(problem, granted, options) else ()
    left = tuple(
        LeftOut(wish, tuple(bars.of_wish(options, number)))
        for number, wish in enumerate(problem.wishes)
        if number not in granted
    )
    return SeasonPlan(
        placed=_in_order(placed),
        left=left,
        measures=measures(problem, [options.offers[at] for at in chosen]),
        gap=last.step.gap,
        proved=last.step.proved and set(chosen) == set(last.step.chosen),
        clash=tuple(problem.wishes[wish] for wish in clash),
        beaten=options.beaten,
    )


def _musts_missing(problem: PlanProblem, granted: set[int], options: Options) -> bool:
    return any(
        wish.weight == "must" and number not in granted and options.model.of_wish[number]
        for number, wish in enumerate(problem.wishes)
    )


def _placed(options: Options, at: int, cells: frozenset[Cell]) -> PlacedWish:
    offer, problem = options.offers[at], options.problem
    wish, one, bed = problem.wishes[offer.wish], offer.candidate, problem.beds[offer.bed]
    setting = replace(bed.setting, covering=Covering(one.cover)) if one.cover else bed.setting
    judged = school_fit.judge(one.crop, one.method, one.dates.start, setting)
    return PlacedWish(
        wish=wish,
        way=offer.way(problem.beds),
        dates=replace(judged.dates, clear_by=one.dates.clear_by),
        held_longer=one.dates.clear_by > judged.dates.clear_by,
        cells=cells,
        plants=offer.plants,
        chance=one.chance,
        measured=one.measured,
        group=offer.group,
        verdict=judged.verdict,
        findings=judged.findings,
        rested=offer.rested,
        cost=offer.cost,
        kept=wish.key in problem.decided.kept,
    )


def _in_places(
    options: Options, chosen: Sequence[int], pairs: Sequence[Pair], solver: bool
) -> tuple[dict[int, frozenset[Cell]], set[int]]:
    """Squares of each chosen option, and those that find none."""
    by_bed: dict[int, list[int]] = {}
    for at in chosen:
        by_bed.setdefault(options.offers[at].bed, []).append(at)
    cells: dict[int, frozenset[Cell]] = {}
    for number, members in by_bed.items():
        bed = options.problem.beds[number]
        pinned = _pinned(options, bed, members)
        wanted = [_to_place(options, at, bed, members, pairs, pinned.get(at, frozenset())) for at in members]
        held = [HeldSquares(t.cells, t.starts.toordinal(), t.ends.toordinal()) for t in bed.taken]
        found = places(bed.cells, wanted, held, shade=bed.shade, solver=solver)
        cells.update({at: found[str(at)] for at in members if str(at) in found})
    return cells, {at for at in chosen if at not in cells}


def _pinned(options: Options, bed: PlanBed, members: Sequence[int]) -> dict[int, frozenset[Cell]]:
    """The squares that a person gave: those of what is kept, then of what was put there in as far as they are free all the while."""
    decided, wishes = options.problem.decided, options.problem.wishes
    keys = {at: wishes[options.offers[at].wish].key for at in members}
    pinned = {at: decided.kept[key][1] for at, key in keys.items() if key in decided.kept}
    for at, key in keys.items():
        put = decided.there.get(key)
        if put is None or at in pinned or len(put[1]) != options.offers[at].squares:
            continue
        one = options.offers[at].candidate
        free = bed_rules.free_all_the_while(bed, one.dates.bed_from, one.dates.clear_by)
        others = [(options.offers[other].candidate, cells) for other, cells in pinned.items()]
        if put[1] <= free and not any(o.first <= one.last and one.first <= o.last and put[1] & c for o, c in others):
            pinned[at] = put[1]
    return pinned


def _to_place(
    options: Options, at: int, bed: PlanBed, members: Sequence[int], pairs: Sequence[Pair], pinned: frozenset[Cell]
) -> ToPlace:
    offer, problem = options.offers[at], options.problem
    one = offer.candidate
    tired = [
        stood.cells
        for stood in bed.history
        if stood.family == one.crop.family
        and stood.bed_to < one.dates.bed_from
        and one.dates.bed_from.year - stood.bed_to.year < problem.rest_years
    ]
    return ToPlace(
        key=str(at),
        first=one.first,
        last=one.last,
        squares=offer.squares,
        height_mm=one.crop.height_mm,
        block=_block(offer, bed),
        pinned=pinned,
        tired=frozenset().union(*tired),
        kin=frozenset(
            str(other)
            for other in members
            if options.offers[other].candidate.crop.family == one.crop.family and other != at
        ),
        shuns=frozenset(
            str(other) for other in members if other != at and _bad_neighbours(offer, options.offers[other], pairs)
        ),
    )


def _block(offer: BedOffer, bed: PlanBed) -> int:
    if offer.plants >= offer.squares:
        return 1
    return spacing.read_square(offer.candidate.crop.spacing_mm, bed.grid.cell_mm).block


def _bad_neighbours(one: BedOffer, other: BedOffer, pairs: Sequence[Pair]) -> bool:
    """Whether two are known to harm each other; what is only tradition keeps nothing apart."""
    said = companions.of_crops(one.candidate.crop, other.candidate.crop, pairs, "evidence")
    return any(pair.effect == "bad" for pair in said)


def _elsewhere(options: Options, chosen: Sequence[int], homeless: set[int]) -> list[int]:
    """The choice with the wishes that found no place in another bed, where there is one."""
    choosing = greedy.Choosing(options.model, [at for at in chosen if at not in homeless])
    for lost in sorted(homeless):
        wish, bed = options.offers[lost].wish, options.offers[lost].bed
        others = [at for at in options.model.of_wish[wish] if options.offers[at].bed != bed and choosing.allows(at)]
        if others:
            choosing.take(max(others, key=lambda at: (options.model.worth(at), -at)))
    return choosing.chosen


def measures(problem: PlanProblem, offers: Sequence[BedOffer]) -> Measures:
    """What a choice comes to, in things that can be counted."""
    wishes = problem.wishes
    known = {one.key for one in problem.classes}
    picking = [o for o in offers if o.candidate.crop.food_group != "not for eating"]
    rest = problem.rest_years
    return Measures(
        wishes=len(wishes),
        granted=len(offers),
        musts=sum(wish.weight == "must" for wish in wishes),
        musts_granted=sum(wishes[o.wish].weight == "must" for o in offers),
        expected=round(sum(o.candidate.chance for o in offers), 2),
        classes=len(known),
        sowing_classes=len({o.group for o in offers} & known),
        picking_classes=len({o.group for o in picking} & known),
        not_rested=sum(o.rested is not None and o.rested < rest for o in offers),
        kinds=len({o.candidate.crop.kind for o in offers}),
        break_beds=len({(o.bed, number) for o in offers for number in o.candidate.picked_in}),
        minutes=sum(sum(o.candidate.minutes.values()) for o in offers),
        cost=sum(o.cost for o in offers),
    )
