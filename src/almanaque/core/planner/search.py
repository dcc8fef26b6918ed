"""From nothing to a plan and on to a better one: each step is told, any step may be the last.

A greedy choice at once; parts of it taken out and filled in again; the bound; then parts chosen anew by a solver. No clock is asked: how
long it goes on depends on the model alone, so that the same wishes end in the same plan.
"""

import math
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from almanaque.core.planner import greedy
from almanaque.core.planner.model import ChoiceScore, Model

PART = 28  # wishes that are chosen anew at a time: our own choice
LOOKED_AT = 40  # options of a wish that are tried in a part, the most promising first: our own choice
SMALL = 2500  # options of a model that is tried as a whole: our own choice
ROUNDS = 60  # parts that are chosen anew at the most: our own choice
IDLE = 16  # of them in a row that bring nothing, after which it ends: our own choice
CLOSE = 0.004  # of the points: nearer to the bound nothing is looked for any more: our own choice


Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class SearchStep:
    """A choice on the way: its options by number, its score, the bound [points with as many musts], whether nothing better is possible."""

    chosen: tuple[int, ...]
    score: ChoiceScore
    bound: int
    proved: bool = False

    @property
    def gap(self) -> float:
        """Share of the bound by which it may fall short of the best there is; 0 where it is proved to be the best."""
        if self.proved or self.bound <= self.score.points:
            return 0.0
        return (self.bound - self.score.points) / max(1, abs(self.bound))


def steps(
    model: Model, *, keep: Sequence[int] = (), begin_with: Sequence[int] = (), rounds: int = ROUNDS
) -> Iterator[SearchStep]:
    """Better and better choices; the first one comes at once and the last one is the best that was found.

    Options in `keep` are chosen and stay. `begin_with` is a choice to start from; a greedy one is tried beside it.
    """
    fixed = {model.options[at].wish for at in keep}
    first = greedy.first_choice(model, keep=keep)
    best = max((list(begin_with), first), key=lambda chosen: model.score(chosen)) if begin_with else first
    limit = greedy.bound_at_once(model)
    yield _step(model, best, limit)
    best = greedy.improve(model, best, fixed=fixed)
    yield _step(model, best, limit)
    yield from _by_solver(model, best, fixed, rounds)


def _by_solver(model: Model, best: list[int], fixed: Collection[int], rounds: int) -> Iterator[SearchStep]:
    # The solver takes a while to read, and a first plan does not wait for it.
    from almanaque.core.planner import bound as bounds
    from almanaque.core.planner import neighbourhoods

    bounded = model
    if model.score(best).musts < len(_grantable_musts(model)):
        best, most = _most_musts(model, best, fixed)
        yield _step(model, best, greedy.bound_at_once(model))
        bounded = _with_at_most(model, most) if most is not None else model
    known = bounds.bound_of(bounded, best)
    limit = known.total
    yield _step(model, best, limit)
    free = [wish for wish in range(len(model.musts)) if model.of_wish[wish] and wish not in fixed]
    if len(model.options) <= SMALL or len(free) <= PART:
        hopeless = known.hopeless(model.total(model.score(best)))
        options = [at for wish in free for at in model.of_wish[wish] if not hopeless[at]]
        solved = neighbourhoods.best_of_part(model, best, set(free), options, effort=neighbourhoods.WHOLE_EFFORT)
        best, limit = solved.chosen, min(limit, solved.bound)
        yield _step(model, best, limit, proved=solved.proved)
        if solved.proved:
            return
    random = np.random.default_rng(2)
    idle = 0
    for _ in range(rounds):
        before = model.score(best)
        if idle >= IDLE or _step(model, best, limit).gap <= CLOSE:
            break
        part = _part(model, best, free, known.short, random)
        options = [at for wish in part for at in _promising(model, wish, known.short)]
        best = neighbourhoods.best_of_part(model, best, part, options).chosen
        idle = 0 if model.score(best) > before else idle + 1
        if not idle:
            yield _step(model, best, limit)
    yield _step(model, best, limit)


def _grantable_musts(model: Model) -> list[int]:
    """Musts that have an option at all."""
    return [wish for wish, must in enumerate(model.musts) if must and model.of_wish[wish]]


def _most_musts(model: Model, best: list[int], fixed: Collection[int]) -> tuple[list[int], int | None]:
    """A choice with as many musts as can be granted together, and that number where it is proved."""
    from almanaque.core.planner import neighbourhoods

    free = {wish for wish in _grantable_musts(model) if wish not in fixed}
    bare = [at for at in best if model.musts[model.options[at].wish] or model.options[at].wish in fixed]
    options = [at for wish in free for at in model.of_wish[wish]]
    solved = neighbourhoods.best_of_part(model, bare, free, options, effort=neighbourhoods.WHOLE_EFFORT)
    choosing = greedy.Choosing(model, solved.chosen)
    greedy.fill_in(choosing, greedy.by_worth(model))
    musts = model.score(solved.chosen).musts
    most = math.floor((solved.bound + 1e-6) / model.must_points)
    found = max((choosing.chosen, best), key=model.score)
    return found, musts if solved.proved or most <= musts else None


def _with_at_most(model: Model, musts: int) -> Model:
    """The model with one more row: no more musts than can be granted together, so that the bound does not hope for them."""
    row = len(model.rows)
    return replace(
        model,
        rows=(*model.rows, musts),
        options=tuple(
            replace(option, takes=(*option.takes, (row, 1))) if model.musts[option.wish] else option
            for option in model.options
        ),
    )


def clashing_musts(model: Model) -> tuple[int, ...]:
    """The fewest musts that cannot all be granted though each could be; empty when all can. Two, nearly always."""
    from almanaque.core.planner import neighbourhoods

    musts = _grantable_musts(model)

    def together(some: Sequence[int]) -> bool:
        """Whether these can be granted together, as far as the solver gets."""
        options = [at for wish in some for at in model.of_wish[wish]]
        solved = neighbourhoods.best_of_part(model, [], set(some), options)
        return model.score(solved.chosen).musts == len(some)

    for at, one in enumerate(musts):
        for other in musts[:at]:
            if _apart(model, one, other):
                return other, one
    if together(musts):
        return ()
    needed = list(musts)
    for wish in musts:
        less = [other for other in needed if other != wish]
        if not together(less):
            needed = less
    return tuple(needed)


def _apart(model: Model, one: int, other: int) -> bool:
    """Whether two wishes cannot be granted together even where nothing else is."""
    for first in model.of_wish[one]:
        choosing = greedy.Choosing(model, [first])
        if any(choosing.allows(second) for second in model.of_wish[other]):
            return False
    return True


def _promising(model: Model, wish: int, short: Floats) -> list[int]:
    return sorted(model.of_wish[wish], key=lambda at: (short[at], at))[:LOOKED_AT]


def _part(
    model: Model, chosen: Sequence[int], free: Sequence[int], short: Floats, random: np.random.Generator
) -> set[int]:
    """Wishes to be chosen anew together: one that could be better off, and those that stand where it could stand."""
    has = {model.options[at].wish: at for at in chosen}
    loss = np.array(
        [
            short[has[wish]] if wish in has else 1.0 + max((model.worth(at) for at in model.of_wish[wish]), default=0)
            for wish in free
        ]
    )
    share = loss / loss.sum() if loss.sum() > 0 else np.full(len(free), 1 / len(free))
    first = int(random.choice(free, p=0.7 * share + 0.3 / len(free)))
    part = {first}
    rows = {row for at in _promising(model, first, short)[:6] for row, _ in model.options[at].takes}
    while len(part) < PART:
        near = [
            wish
            for wish in free
            if wish not in part and wish in has and any(row in rows for row, _ in model.options[has[wish]].takes)
        ]
        left_out = [wish for wish in free if wish not in part and wish not in has]
        if not near and not left_out:
            others = [wish for wish in free if wish not in part]
            if not others:
                break
            near = others
        joins = [int(w) for w in random.permutation(near)[: max(1, (PART - len(part)) * 2 // 3)]] if near else []
        joins += [int(w) for w in random.permutation(left_out)[: max(0, (PART - len(part)) // 3)]] if left_out else []
        part.update(joins[: PART - len(part)])
        for wish in joins[:4]:
            rows |= {row for at in _promising(model, wish, short)[:3] for row, _ in model.options[at].takes}
    return part


def _step(model: Model, chosen: Sequence[int], limit: float, *, proved: bool = False) -> SearchStep:
    score = model.score(chosen)
    most = math.floor(limit + 1e-6) - score.musts * model.must_points
    return SearchStep(tuple(sorted(chosen)), score, max(score.points, most), proved)
