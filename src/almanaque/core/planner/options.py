"""Every option of a problem: each candidate of each wish in each bed that takes it, and what bars the wishes that have none."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from almanaque.core.crops.crop import Method
from almanaque.core.errors import BadInput
from almanaque.core.garden import rotation
from almanaque.core.growth.covers import CoverKey
from almanaque.core.planner import bed_rules
from almanaque.core.planner.bed_rules import ORDER, Bar, Columns
from almanaque.core.planner.candidates import CandidateFinder, Nearest, SowingCandidate
from almanaque.core.planner.model import Model
from almanaque.core.planner.offers import BedOffer, cost_of
from almanaque.core.planner.problem import PlanBed, PlanProblem, Way, Wish
from almanaque.core.planner.rows_and_terms import About, model_of

QUICK_BEDS, QUICK_CANDIDATES = 12, 6  # of a wish, that are tried for a first plan: our own choice


@dataclass(frozen=True)
class Bars:
    """Why a wish has no option: what came nearest in any bed, and by bed the bar that its most promising candidate met."""

    nearest: Nearest | None
    by_bed: Mapping[str, tuple[Bar, SowingCandidate]]


@dataclass(frozen=True)
class Options:
    """The model with its offers in the same order, which of them a person keeps, how many candidates were beaten, and what bars the
    wishes that have none."""

    problem: PlanProblem
    model: Model
    offers: tuple[BedOffer, ...]
    keep: tuple[int, ...]
    beaten: int
    bars: Mapping[int, Bars]
    rows: tuple[About, ...]
    groups: tuple[About, ...]


def options_of(problem: PlanProblem, *, quick: bool = False) -> Options:
    """Every option of a problem; where it is to be `quick`, the most promising ones in a few beds each, enough for a first plan.

    Raises BadInput for a crop that the catalogue does not know.
    """
    finder = CandidateFinder(problem)
    offers: list[BedOffer] = []
    bars: dict[int, Bars] = {}
    keep: list[int] = []
    beaten = 0
    decided = problem.decided
    for number, wish in enumerate(problem.wishes):
        if wish.key in decided.rubbed_out:
            continue
        if wish.key in decided.kept:
            keep.append(len(offers))
            offers.append(_kept(problem, finder, number, wish))
            continue
        found, barred, dropped = _of_wish(problem, finder, number, wish, _beds_for(problem, number, wish, quick), quick)
        beaten += dropped
        offers += found
        if not found:
            bars[number] = barred
    model, rows, groups = model_of(problem, offers)
    return Options(problem, model, tuple(offers), tuple(keep), beaten, bars, rows, groups)


def _kept(problem: PlanProblem, finder: CandidateFinder, number: int, wish: Wish) -> BedOffer:
    """What a person keeps, whatever the rules say of it. Raises BadInput for a bed that may not be used."""
    way, cells = problem.decided.kept[wish.key]
    at = next((n for n, bed in enumerate(problem.beds) if bed.key == way.bed), None)
    if at is None:
        raise BadInput("planner.kept_elsewhere", field="kept", wish=wish.text)
    bed = problem.beds[at]
    one = finder.of_way(wish, way, bed.setting)
    squares = len(cells) or bed_rules.squares_of(wish, one.crop, bed)
    plants = bed_rules.plants_in(squares, one.crop, bed)
    cost = cost_of(problem, one, plants)
    return BedOffer(number, one, at, squares, plants, cost, _rested(one, bed), wish.group or bed.group)


def _beds_for(problem: PlanProblem, number: int, wish: Wish, quick: bool) -> list[int]:
    """The beds in which a wish is tried: the one that a person put it in, all in which it may stand, or its class's and a few others."""
    put = problem.decided.there.get(wish.key)
    beds = frozenset([put[0]]) if put else wish.beds
    allowed = [at for at, bed in enumerate(problem.beds) if not beds or bed.key in beds]
    if not quick or len(allowed) <= QUICK_BEDS:
        return allowed
    turn = number * QUICK_BEDS % len(allowed)
    own = [at for at in allowed if wish.group is not None and problem.beds[at].group == wish.group]
    return list(dict.fromkeys([*own, *allowed[turn:], *allowed[:turn]]))[:QUICK_BEDS]


def _of_wish(
    problem: PlanProblem, finder: CandidateFinder, number: int, wish: Wish, beds: Sequence[int], quick: bool
) -> tuple[list[BedOffer], Bars, int]:
    covers: tuple[CoverKey | None, ...] = (None, "row cover") if problem.limits.row_covers else (None,)
    offers: list[BedOffer] = []
    by_bed: dict[str, tuple[Bar, SowingCandidate]] = {}
    nearest: Nearest | None = None
    beaten = 0
    seen: dict[Hashable, tuple[tuple[SowingCandidate, ...], Columns]] = {}
    for at in beds:
        bed = problem.beds[at]
        if bed.setting.felt not in seen:
            found = finder.found(wish, bed.setting, covers)
            some = found.candidates[:QUICK_CANDIDATES] if quick else found.candidates
            seen[bed.setting.felt] = some, Columns.of(some)
            beaten += found.beaten
            nearest = nearest or found.nearest
        candidates, columns = seen[bed.setting.felt]
        if candidates:
            mine, bar = _in_bed(problem, number, wish, at, bed, candidates, columns)
            offers += mine
            if bar is not None:
                by_bed[bed.key] = bar
    return offers, Bars(nearest, by_bed), beaten


def _in_bed(
    problem: PlanProblem,
    number: int,
    wish: Wish,
    at: int,
    bed: PlanBed,
    candidates: Sequence[SowingCandidate],
    columns: Columns,
) -> tuple[list[BedOffer], tuple[Bar, SowingCandidate] | None]:
    """The offers of a bed, and where there are none what its most promising candidate met."""
    group = wish.group or bed.group
    crops = {one.crop.key: one.crop for one in candidates}
    sizes = {key: bed_rules.squares_of(wish, crop, bed) for key, crop in crops.items()}
    plants = {key: bed_rules.plants_in(sizes[key], crop, bed) for key, crop in crops.items()}
    costs: dict[tuple[str, Method], int] = {}
    rests: dict[tuple[str, int], int | None] = {}  # by family and first day: many candidates share them
    of_crop = {key: bed_rules.bar_of_crop(crop, bed, problem.class_of(group)) for key, crop in crops.items()}
    squares = np.array([sizes[one.crop.key] for one in candidates], dtype=np.int64)
    bars = bed_rules.bars_of_days(bed, columns, squares, free_from=problem.span.free_from, today=problem.today)
    forbidden = (wish.key, bed.key) in problem.decided.not_there
    offers: list[BedOffer] = []
    met: tuple[int, SowingCandidate] | None = None
    for one, many, bar in zip(candidates, squares.tolist(), bars.tolist(), strict=True):
        crop_bar = of_crop[one.crop.key]
        here = 1 + ORDER.index(crop_bar) if crop_bar else int(bar)
        way = Way(one.crop.key, one.method, one.dates.start, bed.key, one.cover)
        if not here and (forbidden or (wish.key, way) in problem.decided.not_so):
            here = 1 + ORDER.index("forbidden")
        if here:
            if met is None or here > met[0]:
                met = here, one
            continue
        key = one.crop.key
        bought = key, one.method
        if bought not in costs:
            costs[bought] = cost_of(problem, one, plants[key])
        kin = one.crop.family, one.first
        if kin not in rests:
            rests[kin] = _rested(one, bed)
        offers.append(BedOffer(number, one, at, many, plants[key], costs[bought], rests[kin], group))
    return offers, None if offers or met is None else (ORDER[met[0] - 1], met[1])


def _rested(one: SowingCandidate, bed: PlanBed) -> int | None:
    found = rotation.years_rested(one.crop.family, None, one.dates.bed_from, bed.history)
    return None if found is None else found[0]
