"""What no choice can be better than: the linear program over the model, its columns brought in as they are needed.

What rows are worth at its optimum also tells which options cannot be part of any choice better than one that is known.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from ortools.linear_solver import pywraplp

from almanaque.core.planner import greedy
from almanaque.core.planner.model import Model

FIRST_OF_WISH = 24  # options of a wish in the first linear program: our own choice
MORE_OF_WISH = 12  # that join it at a time: our own choice
IDLE = 2  # rounds in a row that bring little, after which it ends: our own choice
ROUNDS = 12  # after which the bound is taken as it is, which is one all the same: our own choice
MOST_PAIRS = 3000  # of terms that cost and wishes, up to which the program shares out what they cost: our own choice
CLOSE_SHARE = 0.0005  # of the points by which the bound may lie above the program's optimum: our own choice
HAIR = 1e-6

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Bound:
    """`total` is what no choice exceeds, musts and all.

    `short` (options,) is by how much a choice with that option falls short of it at the least.
    """

    total: float
    short: Floats

    def hopeless(self, known: int) -> npt.NDArray[np.bool_]:
        """The options with which no choice can be better than a known total."""
        return np.asarray(self.total - self.short < known + 1 - HAIR)


def bound_of(model: Model, chosen: Sequence[int] = ()) -> Bound:
    """The bound by the linear program. `chosen`, a good choice that is known, makes it quicker.

    In a large model what a term costs is not shared out by the program itself but by what its last optimum used, round by round: each
    way of sharing gives a bound, and the least one is kept.
    """
    if not model.options:
        return Bound(float(greedy.bound_at_once(model)), np.zeros(0))
    there = _first_columns(model, chosen)
    shared = np.zeros((len(model.terms), len(model.musts))) if _pairs(model) > MOST_PAIRS else None
    best: Bound | None = None
    last, idle = float("inf"), 0
    for turn in range(ROUNDS):
        columns = np.flatnonzero(there).tolist()
        optimum, prices, used = _program(model, columns, shared)
        bound, beyond = _relaxed(model, prices)
        if best is None or bound.total < best.total:
            best = bound
        more = _more_columns(model, beyond, there)
        if shared is None and (not more or best.total - optimum <= CLOSE_SHARE * (1 + optimum % model.must_points)):
            break
        there[more] = True
        idle = idle + 1 if last - best.total <= CLOSE_SHARE * (1 + optimum % model.must_points) else 0
        if idle >= IDLE:
            break
        last = best.total
        if shared is not None:
            shared = _shared_anew(model, shared, used, 1.0 / (1 + turn))
    assert best is not None
    return best


def _pairs(model: Model) -> int:
    """How many wishes each term that costs something is shared by, all told."""
    costs = [term.points < 0 and term.group is None for term in model.terms]
    return len({(n, option.wish) for option in model.options for n in option.counts_for if costs[n]})


def _shared_anew(model: Model, shared: Floats, used: Floats, step: float) -> Floats:
    """What each wish bears of what a term costs, moved towards those that used it."""
    squares = used**2
    sums = squares.sum(axis=1, keepdims=True)
    costs = np.array([max(0, -term.points) if term.group is None else 0 for term in model.terms], dtype=np.float64)
    target = costs[:, None] * squares / np.maximum(sums, HAIR)
    return np.asarray(np.where(sums > HAIR, (1 - step) * shared + step * target, shared))


def _first_columns(model: Model, chosen: Sequence[int]) -> npt.NDArray[np.bool_]:
    there = np.zeros(len(model.options), dtype=bool)
    there[list(chosen)] = True
    for options in model.of_wish:
        there[sorted(options, key=lambda at: (-model.options[at].points, at))[:FIRST_OF_WISH]] = True
    return there


def _more_columns(model: Model, beyond: Floats, there: npt.NDArray[np.bool_]) -> list[int]:
    """Options that are worth more than all they take, `beyond` 0; the best of each wish first."""
    found: list[int] = []
    for options in model.of_wish:
        good = [at for at in options if beyond[at] > HAIR and not there[at]]
        found += sorted(good, key=lambda at: (-beyond[at], at))[:MORE_OF_WISH]
    return found


@dataclass(frozen=True)
class _Prices:
    """What things are worth: a wish, a unit of a row, a place in a group, a term's being gained, paying it for a wish (terms, wishes)."""

    wishes: Floats
    rows: Floats
    groups: Floats
    gained: Floats
    paid: Floats


def _relaxed(model: Model, prices: _Prices) -> tuple[Bound, Floats]:
    """The bound that prices give, whatever they are (Lagrange), and by how much each option is worth more than it takes."""
    arrays = model.arrays
    wish_of = np.repeat(np.arange(len(model.musts)), np.diff(arrays.starts))
    left = arrays.worth - (arrays.amounts * np.append(prices.rows, 0.0)[arrays.rows]).sum(axis=1)
    left = left + np.append(prices.gained, 0.0)[arrays.terms].sum(axis=1)
    paid = np.vstack([prices.paid, np.zeros((1, len(model.musts)))])
    left = left - paid[arrays.terms, wish_of[:, None]].sum(axis=1)
    best = np.zeros(len(model.musts))
    np.maximum.at(best, wish_of, left)
    of_group = np.array([0.0 if term.group is None else prices.groups[term.group] for term in model.terms])
    points = np.array([float(term.points) for term in model.terms])
    terms = np.maximum(0.0, points - prices.gained + prices.paid.sum(axis=1) - of_group)
    total = (
        best.sum()
        + terms.sum()
        + (prices.rows * np.array(model.rows, dtype=np.float64)).sum()
        + (prices.groups * np.array(model.groups, dtype=np.float64)).sum()
    )
    short, beyond = np.empty(len(left)), np.empty(len(left))
    short[arrays.order] = best[wish_of] - left
    beyond[arrays.order] = left - prices.wishes[wish_of]
    return Bound(float(total), short), beyond


def _program(model: Model, columns: Sequence[int], shared: Floats | None) -> tuple[float, _Prices, Floats]:
    """Optimum and prices of the linear program over some of the options, and how far each term is used by each wish.

    `shared` (terms, wishes) is what a wish bears of a term's cost; None leaves that to the program.
    """
    solver = pywraplp.Solver.CreateSolver("CLP")
    infinity = solver.infinity()
    objective = solver.Objective()
    objective.SetMaximization()
    wishes = [solver.Constraint(-infinity, 1.0) for _ in model.musts]
    rows = [solver.Constraint(-infinity, float(room)) for room in model.rows]
    groups = [solver.Constraint(-infinity, float(most)) for most in model.groups]
    apart = [shared is not None and term.points < 0 and term.group is None for term in model.terms]
    true = [solver.NumVar(0.0, 1.0, "") for _ in model.terms]
    gained, paid = {}, {}
    for number, term in enumerate(model.terms):
        if apart[number]:
            continue
        objective.SetCoefficient(true[number], float(term.points))
        if term.group is not None:
            groups[term.group].SetCoefficient(true[number], 1.0)
        if term.points > 0:
            gained[number] = solver.Constraint(-infinity, 0.0)
            gained[number].SetCoefficient(true[number], 1.0)
    variables = []
    for at in columns:
        option = model.options[at]
        variable = solver.NumVar(0.0, infinity, "")  # its wish holds it to 1
        variables.append(variable)
        borne = 0.0 if shared is None else float(shared[list(option.counts_for), option.wish].sum())
        objective.SetCoefficient(variable, float(model.worth(at)) - borne)
        wishes[option.wish].SetCoefficient(variable, 1.0)
        for row, amount in option.takes:
            rows[row].SetCoefficient(variable, float(amount))
        for number in option.counts_for:
            if number in gained:
                gained[number].SetCoefficient(variable, -1.0)
            if not apart[number] and (model.terms[number].points <= 0 or model.terms[number].group is not None):
                key = (number, option.wish)
                if key not in paid:
                    paid[key] = solver.Constraint(-infinity, 0.0)
                    paid[key].SetCoefficient(true[number], -1.0)
                paid[key].SetCoefficient(variable, 1.0)
    solved = solver.Solve() == pywraplp.Solver.OPTIMAL

    def worth(constraints: Sequence[pywraplp.Constraint]) -> Floats:
        return np.array([max(0.0, one.dual_value()) if solved else 0.0 for one in constraints], dtype=np.float64)

    used = np.zeros((len(model.terms), len(model.musts)))
    for at, variable in zip(columns, variables, strict=True):
        share = variable.solution_value() if solved else 0.0
        if share > HAIR:
            option = model.options[at]
            used[list(option.counts_for), option.wish] += share
    gains, pays = np.zeros(len(model.terms)), np.zeros((len(model.terms), len(model.musts)))
    gains[list(gained)] = worth(list(gained.values()))
    for (number, wish), price in zip(paid, worth(list(paid.values())), strict=True):
        pays[number, wish] = price
    if shared is not None:
        pays += shared
    return (
        objective.Value() if solved else 0.0,
        _Prices(worth(wishes), worth(rows), worth(groups), gains, pays),
        used,
    )
