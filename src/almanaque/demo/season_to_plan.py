"""The demo's season to plan: what is wished for after the summer, three plans of it, and the surest of them in pencil."""

from datetime import date
from typing import Any
from uuid import uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.planner import asking, keeping, wish_sources
from almanaque.core.planner import plan
from almanaque.core.planner.problem import AIMS, Kind, Weight
from almanaque.core.planner.why_not import why_not
from almanaque.data import neighbour_pairs
from almanaque.demo import DEMO_DAY
from almanaque.demo.shapes import demo_id
from almanaque.formats.planner import proposal_json
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import SeasonPlanRow, WishRow

SCHOOL = "Brindlecombe School"
PLAN = demo_id(SCHOOL, "season plan", "After the summer")
# What was typed: label, crops or a kind, squares, class, day, how much it counts.
TYPED: tuple[tuple[str, tuple[str, ...], Kind, int, str | None, str | None, Weight], ...] = (
    ("Carrots for the soup day", ("carrot",), "crop", 4, "Docks", "2027-11-17", "must"),
    ("Something quick", (), "quick", 2, "Ferns", None, "would like"),
    ("Garlic for next summer", ("garlic",), "crop", 4, "Birches", None, "would like"),
    ("Pumpkins", ("pumpkin",), "crop", 9, "Elders", "2027-10-20", "would like"),
    ("Leeks or kale for winter", ("leek", "kale"), "crop", 4, None, None, "if room"),
)


def write(connection: Connection[Any], context: Context) -> None:
    """Write the wish list, the three plans, and the surest one into a draft of its own."""
    row = SeasonPlanRow(
        PLAN,
        "After the summer",
        date(2027, 8, 25),
        date(2027, 11, 30),
        None,
        [],
        {},
        {"minutes": 90, "break_beds": 3},
        list(AIMS),
    )
    season_plans.save(connection, context.school.id, row)
    lines = [
        WishRow(
            id=demo_id(SCHOOL, "season wish", label),
            plan_id=PLAN,
            number=number,
            label=label,
            crops=list(crops),
            kind=kind,
            squares=squares,
            plants=None,
            grams=None,
            a_week=False,
            kinds=None,
            fill=False,
            group_id=demo_id(SCHOOL, "group", group) if group else None,
            bed_id=None,
            ready_by=date.fromisoformat(day) if day else None,
            ready_to=None,
            weight=weight,
            votes=0,
            origin="typed",
        )
        for number, (label, crops, kind, squares, group, day, weight) in enumerate(TYPED, start=1)
    ]
    season_plans.add_wishes(connection, context.school.id, lines)
    wish_sources.take_in(connection, context, row, f"ballot:{demo_id(SCHOOL, 'ballot')}", today=DEMO_DAY)
    problem = asking.problem_of(connection, context, PLAN, today=DEMO_DAY)
    for which in keeping.WHICH:
        *_, last = plan.progress(plan.for_aim(problem, which))
        found = plan.proposal(last, neighbour_pairs())
        known = last.options.problem.wishes
        said = {left.wish.key: why_not(last.options, last.step.chosen, known.index(left.wish)) for left in found.left}
        asked = uuid4()
        season_plans.ask(connection, context.school.id, PLAN, asked, which)
        season_plans.found_so_far(
            connection,
            PLAN,
            which,
            asked,
            state="done",
            gap=found.gap,
            proved=found.proved,
            found=proposal_json.kept(found, said),
        )
    keeping.pencil(connection, context, PLAN, "surest", Actor(None, DEMO_DAY))
