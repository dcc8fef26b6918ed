"""The best choice for some wishes while the others stay as they are, by CP-SAT: one worker and a deterministic limit, so that the same
model ends in the same choice on any machine.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from ortools.sat.python import cp_model

from almanaque.core.planner.model import Model

EFFORT = 0.25  # deterministic seconds of a part: our own choice
WHOLE_EFFORT = 6.0  # of a whole model that is small enough to be proved: our own choice


@dataclass(frozen=True)
class Solved:
    """The choice as a whole, whether it is proved to be the best for the free wishes, and what bound was found for it [points]."""

    chosen: list[int]
    proved: bool
    bound: float


def best_of_part(
    model: Model,
    chosen: Sequence[int],
    free: Collection[int],
    options: Collection[int],
    *,
    effort: float = EFFORT,
    stay_points: int = 0,
    granted: Collection[int] = (),
) -> Solved:
    """Choose anew for the wishes in `free`, from `options` of them; the rest of `chosen` stays.

    What is chosen now is the first try, so that the answer is never worse; but wishes in `granted` are granted at all costs, or nothing
    is changed. `stay_points` is what it costs to give a wish another option
    than it has now, so that nothing is moved for nothing.
    """
    fixed = [at for at in chosen if model.options[at].wish not in free]
    before = {at for at in chosen if model.options[at].wish in free}
    room, groups = list(model.rows), list(model.groups)
    counted: set[int] = set()
    for at in fixed:
        for row, amount in model.options[at].takes:
            room[row] -= amount
        counted.update(model.options[at].counts_for)
    for number in counted:
        group = model.terms[number].group
        if group is not None:
            groups[group] -= 1

    tried = sorted({*options, *before})
    fitting = [at for at in tried if all(room[row] >= amount for row, amount in model.options[at].takes)]
    program = cp_model.CpModel()
    x = {at: program.new_bool_var("") for at in fitting}
    by_wish: dict[int, list[int]] = {}
    by_row: dict[int, list[int]] = {}
    by_term: dict[int, list[int]] = {}
    for at in fitting:
        option = model.options[at]
        by_wish.setdefault(option.wish, []).append(at)
        for row, _ in option.takes:
            by_row.setdefault(row, []).append(at)
        for number in option.counts_for:
            if number not in counted:
                by_term.setdefault(number, []).append(at)
    for wish, members in by_wish.items():
        if wish not in granted:
            program.add_at_most_one(x[at] for at in members)
    for wish in granted:
        program.add_exactly_one(x[at] for at in by_wish.get(wish, ()))
    for row, members in by_row.items():
        amounts = [dict(model.options[at].takes)[row] for at in members]
        if sum(_most_of_each(model, members, amounts).values()) > room[row]:
            program.add(cp_model.LinearExpr.weighted_sum([x[at] for at in members], amounts) <= room[row])
    true = {number: program.new_bool_var("") for number in by_term}
    by_group: dict[int, list[int]] = {}
    for number, members in by_term.items():
        term = model.terms[number]
        if term.group is not None:
            by_group.setdefault(term.group, []).append(number)
        if term.points > 0:
            program.add_bool_or([*(x[at] for at in members), true[number].negated()])
        if term.points <= 0 or term.group is not None:
            for at in members:
                program.add_implication(x[at], true[number])
    for group, numbers in by_group.items():
        program.add(sum(true[number] for number in numbers) <= groups[group])
    worth = [model.worth(at) + (stay_points if at in before else 0) for at in fitting]
    program.maximize(
        cp_model.LinearExpr.weighted_sum([x[at] for at in fitting], worth)
        + cp_model.LinearExpr.weighted_sum([true[n] for n in by_term], [model.terms[n].points for n in by_term])
    )
    true_before = {number for at in before for number in model.options[at].counts_for}
    for at in fitting:
        program.add_hint(x[at], at in before)
    for number in by_term:
        program.add_hint(true[number], number in true_before)

    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.linearization_level = 2
    solver.parameters.max_deterministic_time = effort
    solver.parameters.random_seed = 1
    status = solver.solve(program)
    kept = sum(model.worth(at) for at in fixed) + sum(model.terms[number].points for number in counted)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Solved(list(chosen), proved=False, bound=float("inf"))
    found = [at for at in fitting if solver.boolean_value(x[at])]
    return Solved(fixed + found, status == cp_model.OPTIMAL, kept + solver.best_objective_bound)


def _most_of_each(model: Model, members: Sequence[int], amounts: Sequence[int]) -> dict[int, int]:
    """The most that each wish could take of a row."""
    most: dict[int, int] = {}
    for at, amount in zip(members, amounts, strict=True):
        wish = model.options[at].wish
        most[wish] = max(most.get(wish, 0), amount)
    return most
