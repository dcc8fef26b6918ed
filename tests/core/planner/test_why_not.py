"""Why a wish has no place: the things in its way by name, what it would cost the others, and the change that lets it in."""

from dataclasses import replace

import pytest

from almanaque.core.garden.site_suitability import Closed
from almanaque.core.planner import bars, plan, why_not
from almanaque.core.planner.plan import Progress
from almanaque.core.planner.problem import Decided, PlanLimits, PlanProblem, PlanSpan
from almanaque.core.planner.search import SearchStep
from tests import places
from tests.core.planner.gardens import D, bed, problem, wish
from tests.core.planner.test_plan import record


def asked(one: PlanProblem) -> tuple[Progress, dict[str, list[str]]]:
    """The last step, and by wish what is said of those that stay out."""
    *_, last = plan.progress(one)
    granted = {last.options.offers[at].wish for at in last.step.chosen}
    said = {
        w.key: [f"{f.code}.{f.case}" for f in why_not.why_not(last.options, last.step.chosen, n)]
        for n, w in enumerate(one.wishes)
        if n not in granted
    }
    return last, said


def test_a_full_bed_names_who_holds_it_and_what_would_give_way() -> None:
    small = bed("1", record("early spring"), feet=(2, 2))
    one = problem(
        [small], [wish("a", "tomato", squares=4, weight="must", text="tomatoes"), wish("b", "pepper", squares=4)]
    )
    last, said = asked(one)
    assert said == {"b": ["wish_left_out.no_squares", "wish_enters.beside", "wish_enters.more_squares"]}
    first, second, third = why_not.why_not(last.options, last.step.chosen, 1)
    assert first.message.startswith("Bed 1 is full from ")
    assert first.reason == "tomatoes hold its squares."
    assert "tomatoes would go without" in second.message
    assert third.message.startswith("If 4 more squares of Bed 1 were free from ")


def test_a_class_without_time_names_its_week_and_the_minutes_that_are_missing() -> None:
    here = bed("1", record("early spring"), group="two")
    wishes = [wish("a", "tomato", squares=1, group="two", weight="must"), wish("b", "pepper", squares=1, group="two")]
    _, said = asked(
        problem([here], wishes, limits=PlanLimits(minutes=54), span=PlanSpan(D("2027-05-03"), D("2027-05-14")))
    )
    assert "b" in said
    assert said["b"][0] == "wish_left_out.no_minutes"
    assert said["b"][1:] == ["wish_enters.beside", "wish_enters.more_work"]


@pytest.mark.parametrize(
    ("limits", "case"),
    [
        (PlanLimits(sill_plants=0), "no_sills"),
        (PlanLimits(money=0), "no_money"),
        (PlanLimits(break_beds=0), "no_picked"),
        (PlanLimits(watered_beds=0), "no_watered"),
    ],
)
def test_each_limit_is_named_by_what_there_is_not_more_of(limits: PlanLimits, case: str) -> None:
    here = bed("1", places.hard_winters())
    crop = {"no_sills": "leek", "no_money": "leek"}.get(case, "tomato")
    span = PlanSpan(D("2027-02-15"), D("2027-05-20"))
    one = problem([here], [wish("a", crop, squares=2)], limits=limits, prices={crop: 300}, span=span)
    if case == "no_sills":
        indoors = one.crops[crop].model_copy(update={"methods": ("indoors",)})
        one = replace(one, crops=replace(one.crops, crops={**one.crops.crops, crop: indoors}))
    _, said = asked(one)
    assert said["a"][0] == f"wish_left_out.{case}"


def test_what_no_day_suits_names_the_nearest_and_a_cover_that_would_do() -> None:
    here = bed("1", record("hard winters"))
    last, said = asked(problem([here], [wish("a", "cilantro", squares=1, ready_by=D("2027-10-30"))]))
    if "a" in said:
        assert said["a"][0].startswith("wish_barred.")
    assert last.options.bars or last.step.chosen


def test_what_a_closing_bars_would_have_a_place_were_the_bed_free() -> None:
    shut = replace(bed("1", record("early spring")), closed=(Closed(D("2027-04-01"), D("2027-10-01"), "rebuilt"),))
    span = PlanSpan(D("2027-04-01"), D("2027-06-30"))
    last, said = asked(problem([shut], [wish("a", "tomato", squares=1)], span=span))
    assert said == {"a": ["wish_barred.closed", "wish_enters.if_free"]}
    enters = why_not.why_not(last.options, last.step.chosen, 0)[-1]
    assert enters.message.startswith("If Bed 1 were free from ")


def test_what_cannot_be_ready_in_time_is_told_from_when_on_it_could_be() -> None:
    here = bed("1", record("early spring"))
    _, said = asked(problem([here], [wish("a", "tomato", squares=1, ready_by=D("2027-04-30"))]))
    assert said == {"a": ["wish_barred.not_ready", "wish_enters.another_day"]}


def test_what_adds_nothing_is_told_to_have_room() -> None:
    here = bed("1", record("hard winters"))
    last = list(plan.progress(problem([here], [wish("a", "tomato", squares=1)])))[-1]
    nothing = replace(last, step=SearchStep((), last.options.model.score(()), 0))
    said = why_not.why_not(nothing.options, (), 0)
    assert [f"{f.code}.{f.case}" for f in said] == ["wish_left_out.adds_nothing", "wish_enters.free"]


def test_what_was_rubbed_out_says_so_alone() -> None:
    here = bed("1", record("hard winters"))
    one = problem([here], [wish("a", "tomato", squares=1)], decided=Decided(rubbed_out=frozenset({"a"})))
    _, said = asked(one)
    assert said == {"a": ["wish_left_out.rubbed_out"]}


@pytest.mark.parametrize(
    "bar", ["lead", "shallow", "narrow", "spreads", "little_sun", "manure", "forbidden", "flagged"]
)
def test_each_bar_of_a_bed_is_named(bar: str) -> None:
    here = bed("1", record("early spring"), group="two")
    crop = {"spreads": "mint", "narrow": "pumpkin"}.get(bar, "tomato")
    changes = {
        "lead": {"lead": True},
        "shallow": {"depth_mm": 60.0},
        "narrow": {"narrow_mm": 150.0},
        "little_sun": {"sun_h": (2.0,) * 12},
        "manure": {"manured_on": (D("2027-08-01"), D("2027-06-01"), D("2027-05-15"))},
    }
    here = replace(here, **changes.get(bar, {}))
    one = problem([here], [wish("a", crop, squares=4)])
    if bar == "forbidden":
        one = replace(one, decided=Decided(not_there=frozenset({("a", "1")})))
    if bar == "flagged":
        one = replace(one, classes=(replace(one.classes[0], flags=[("must not touch", "tomatoes")]),))
    last = list(plan.progress(one))[-1]
    assert [finding.case for finding in bars.of_wish(last.options, 0)] == [bar]


def test_many_beds_are_counted() -> None:
    beds = [bed(str(n), record("early spring"), depth_mm=60.0) for n in range(1, 7)]
    last = list(plan.progress(problem(beds, [wish("a", "tomato", squares=1)])))[-1]
    (told,) = bars.of_wish(last.options, 0)
    assert told.message == "Bed 1, Bed 2, Bed 3 and 3 more beds: not soil enough for the roots of tomato."
