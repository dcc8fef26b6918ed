"""The choice among options: small models against every choice there is, larger ones against a second solver."""

from itertools import pairwise, product

import numpy as np
import pytest
from scipy.optimize import Bounds, LinearConstraint, milp

from almanaque.core.planner import bound, greedy, neighbourhoods, search
from almanaque.core.planner.model import ChoiceScore, Model, Option, SharedTerm
from tests.core.planner.instances import model_of


def by_hand(model: Model) -> ChoiceScore:
    """The best of all choices, each looked at."""
    each = [[None, *options] for options in model.of_wish]
    choices = ([at for at in choice if at is not None] for choice in product(*each))
    return max(model.score(choice) for choice in choices if not model.breaks(choice))


def last_of(model: Model) -> search.SearchStep:
    *_, last = search.steps(model)
    return last


@pytest.mark.parametrize("seed", range(40))
def test_a_small_model_ends_in_the_best_of_all_choices_and_says_so(seed: int) -> None:
    model = model_of(seed, beds=2, wishes=5, must_share=0.4, days=2)
    last = last_of(model)
    assert not model.breaks(last.chosen)
    assert (last.score, last.proved, last.gap) == (by_hand(model), True, 0.0)


def by_second_solver(model: Model) -> ChoiceScore:
    """The best by HiGHS (Huangfu and Hall 2018) through SciPy: musts first, then points, each proved."""
    n, terms = len(model.options), len(model.terms)
    rows: list[np.ndarray] = []
    room: list[float] = []

    def row(most: float, entries: dict[int, float]) -> None:
        line = np.zeros(n + terms)
        for column, value in entries.items():
            line[column] = value
        rows.append(line)
        room.append(most)

    for options in model.of_wish:
        row(1, dict.fromkeys(options, 1.0))
    for number, most in enumerate(model.rows):
        row(most, {at: float(dict(o.takes)[number]) for at, o in enumerate(model.options) if number in dict(o.takes)})
    for number, term in enumerate(model.terms):
        members = [at for at, option in enumerate(model.options) if number in option.counts_for]
        if term.points > 0:
            row(0, {n + number: 1.0, **dict.fromkeys(members, -1.0)})
        for at in members if term.points <= 0 or term.group is not None else ():
            row(0, {at: 1.0, n + number: -1.0})
    for group, most in enumerate(model.groups):
        row(most, {n + number: 1.0 for number, term in enumerate(model.terms) if term.group == group})
    musts = np.array([float(model.musts[o.wish]) for o in model.options] + [0.0] * terms)
    points = np.array([float(o.points) for o in model.options] + [float(term.points) for term in model.terms])
    limits = [LinearConstraint(np.array(rows), -np.inf, np.array(room))]

    def best(aim: np.ndarray) -> np.ndarray:
        found = milp(
            -aim, constraints=limits, integrality=np.ones(n + terms), bounds=Bounds(0, 1), options={"mip_rel_gap": 0}
        )
        assert found.success
        return np.round(found.x)

    granted = round(musts @ best(musts))
    limits.append(LinearConstraint(musts[None, :], granted, granted))
    return ChoiceScore(granted, round(points @ best(points)))


@pytest.mark.parametrize("first", range(0, 200, 20))
def test_two_hundred_models_end_as_a_second_solver_says(first: int) -> None:
    for seed in range(first, first + 20):
        model = model_of(1000 + seed, beds=2 + seed % 2, wishes=6 + seed % 7, must_share=0.3, days=3)
        last = last_of(model)
        assert not model.breaks(last.chosen)
        assert last.proved, seed
        assert last.score == by_second_solver(model), seed


@pytest.mark.parametrize(("beds", "wishes"), [(6, 24), (13, 40)])
def test_every_step_is_allowed_and_none_is_worse_than_the_one_before(beds: int, wishes: int) -> None:
    model = model_of(7, beds=beds, wishes=wishes)
    told = list(search.steps(model))
    assert told[0].score == model.score(greedy.first_choice(model))
    for step in told:
        assert not model.breaks(step.chosen)
        assert step.score == model.score(step.chosen)
        assert step.bound >= step.score.points
    assert all(after.score >= before.score for before, after in pairwise(told))
    assert told[-1].gap <= 0.02


def test_the_same_model_ends_in_the_same_choice() -> None:
    model = model_of(3, beds=8, wishes=45)
    assert [step.chosen for step in search.steps(model, rounds=6)] == [
        step.chosen for step in search.steps(model_of(3, beds=8, wishes=45), rounds=6)
    ]


@pytest.mark.parametrize("seed", range(12))
def test_the_bound_holds_whatever_it_is_made_from(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    model = model_of(seed, beds=3, wishes=9, days=3)
    best = model.total(last_of(model).score)
    assert best <= bound.bound_of(model).total <= greedy.bound_at_once(model)
    monkeypatch.setattr(bound, "FIRST_OF_WISH", 1)
    monkeypatch.setattr(bound, "ROUNDS", 1)
    assert best <= bound.bound_of(model).total + 1e-6
    monkeypatch.setattr(bound, "MOST_PAIRS", -1)  # what terms cost shared out round by round
    monkeypatch.setattr(bound, "ROUNDS", 5)
    assert best <= bound.bound_of(model).total + 1e-6


def test_what_is_hopeless_is_in_no_better_choice() -> None:
    model = model_of(5, beds=3, wishes=8, days=3)
    best = last_of(model)
    known = bound.bound_of(model)
    hopeless = known.hopeless(model.total(best.score) - 1)
    assert not any(hopeless[at] for at in best.chosen)


def test_no_must_gives_way_to_whatever_is_none() -> None:
    model = Model(
        (True, False, False),
        (Option(0, 1, ((0, 4),)), Option(1, 900, ((0, 3),)), Option(2, 900, ((0, 1),))),
        (4,),
    )
    assert last_of(model).score == ChoiceScore(1, 1)


def test_a_wish_that_only_costs_is_not_granted_but_a_must_is() -> None:
    terms = (SharedTerm(-50),)
    assert last_of(Model((False,), (Option(0, 20, (), (0,)),), (), terms)).score == ChoiceScore(0, 0)
    assert last_of(Model((True,), (Option(0, 20, (), (0,)),), (), terms)).score == ChoiceScore(1, -30)


def test_a_term_is_gained_or_paid_once() -> None:
    options = (Option(0, 10, (), (0, 1)), Option(1, 10, (), (0, 1)))
    model = Model((False, False), options, (), (SharedTerm(100), SharedTerm(-5)))
    assert last_of(model).score == ChoiceScore(0, 115)


def test_only_so_many_terms_of_a_group_may_be_true() -> None:
    options = tuple(Option(n, 10, (), (n,)) for n in range(4))
    model = Model((False,) * 4, options, (), tuple(SharedTerm(0, 0) for _ in range(4)), (2,))
    last = last_of(model)
    assert (last.score, len(last.chosen), last.proved) == (ChoiceScore(0, 20), 2, True)
    assert model.breaks(range(3)) == "group 0 has more than 2"


def test_what_a_person_keeps_stays() -> None:
    model = model_of(11, beds=3, wishes=12)
    worst = min((at for at in range(len(model.options))), key=lambda at: model.options[at].points)
    for step in search.steps(model, keep=[worst], rounds=4):
        assert worst in step.chosen


def test_a_choice_to_begin_with_is_never_made_worse() -> None:
    model = model_of(12, beds=4, wishes=16)
    good = last_of(model)
    again = list(search.steps(model, begin_with=good.chosen, rounds=2))
    assert again[0].score >= good.score
    part = neighbourhoods.best_of_part(model, good.chosen, {0, 1, 2}, [])
    assert model.score(part.chosen) >= good.score


def test_musts_that_clash_are_named_two_where_two_do() -> None:
    one_bed = Model((True, True, True), tuple(Option(n, 5, ((0, 3),)) for n in range(3)), (5,))
    assert search.clashing_musts(one_bed) == (0, 1)
    assert last_of(one_bed).score.musts == 1
    three = Model((True, True, True), tuple(Option(n, 5, ((0, 2),)) for n in range(3)), (5,))
    assert search.clashing_musts(three) == (0, 1, 2)
    last = last_of(three)
    assert (last.score, last.proved, last.gap) == (ChoiceScore(2, 10), True, 0.0)
    free = Model((True, True), tuple(Option(n, 5, ((0, 2),)) for n in range(2)), (5,))
    assert search.clashing_musts(free) == ()


def test_nothing_to_choose_from_is_a_plan_of_nothing() -> None:
    last = last_of(Model((False, True), ()))
    assert (last.chosen, last.score, last.gap) == ((), ChoiceScore(0, 0), 0.0)


def test_what_breaks_a_rule_is_told() -> None:
    model = Model((False, False), (Option(0, 1, ((0, 2),)), Option(0, 1), Option(1, 1, ((0, 2),))), (3,))
    assert model.breaks([0, 1]) == "a wish is granted twice"
    assert model.breaks([0, 2]) == "row 0 holds 4 of 3"
    assert model.breaks([1, 2]) == ""
