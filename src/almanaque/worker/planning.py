"""A season's plan made in a process of its own: it may take long and much memory, and must not hold up what is owed to others.

Between two steps the child keeps what it has found and asks whether anybody has stopped it. It ends with the worker.
"""

import asyncio
import os
import sys
from collections.abc import Iterator
from uuid import UUID

import structlog

from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.planner import asking, keeping
from almanaque.core.errors import BadInput
from almanaque.core.findings import Finding
from almanaque.core.planner import plan
from almanaque.core.planner.plan import Progress
from almanaque.core.planner.problem import PlanProblem, Which
from almanaque.core.planner.proposal import SeasonPlan
from almanaque.core.planner.why_not import why_not
from almanaque.data import neighbour_pairs
from almanaque.formats.planner import proposal_json
from almanaque.store import errors, queue
from almanaque.store.db import Database
from almanaque.store.planner import season_plans

log = structlog.get_logger()
MOST_ASKED = 40  # wishes left out of which is asked why, each up to some seconds: our own choice


async def in_a_child(database: Database, school_id: str, plan_id: str, which: Which, asked: str) -> None:
    """Make one plan in a child process. Raises RuntimeError where that fails; who waits for it is told, however the child ended."""
    child = await asyncio.create_subprocess_exec(
        sys.executable, "-m", "almanaque", "plan-season", school_id, plan_id, which, asked, env=dict(os.environ)
    )
    try:
        code = await child.wait()
    except asyncio.CancelledError:
        child.terminate()
        await child.wait()
        raise
    if code:
        await asyncio.to_thread(_failed, database, UUID(school_id), UUID(plan_id), which, UUID(asked))
        raise RuntimeError(f"the planner ended with {code}")


def _failed(database: Database, school_id: UUID, plan_id: UUID, which: Which, asked: UUID) -> None:
    """Say that a plan could not be made, and ask for the next one of the season."""
    with database.school(school_id) as connection:
        season_plans.failed(connection, plan_id, which, asked)
    _following(database, school_id, plan_id, which, asked)


def _following(database: Database, school_id: UUID, plan_id: UUID, which: Which, asked: UUID) -> None:
    for following in keeping.WHICH[keeping.WHICH.index(which) + 1 :][:1]:
        with database.school(school_id) as connection:
            queue.plan_season(connection, school_id, plan_id, following, asked)


def make(database: Database, clock: Clock, school_id: UUID, plan_id: UUID, which: Which, asked: UUID) -> None:
    """Make one plan, keeping what is found on the way, then ask for the next one of the season."""
    with database.school(school_id) as connection:
        if not season_plans.begin(connection, plan_id, which, asked):
            return
        context = contexts.load(connection)
        try:
            problem = asking.problem_of(
                connection, context, plan_id, which=which, today=clock.today(context.school.zone)
            )
        except (BadInput, errors.NotFound):  # wishes or beds were taken out since it was asked for
            season_plans.failed(connection, plan_id, which, asked)
            return
    _work(database, school_id, plan_id, which, asked, plan.for_aim(problem, which))
    _following(database, school_id, plan_id, which, asked)


def _work(database: Database, school_id: UUID, plan_id: UUID, which: Which, asked: UUID, problem: PlanProblem) -> None:
    pairs = neighbour_pairs()
    last: Progress | None = None
    for last in plan.progress(problem):
        with database.school(school_id) as connection:
            going_on = season_plans.found_so_far(
                connection,
                plan_id,
                which,
                asked,
                state="works",
                gap=last.step.gap,
                proved=last.step.proved,
                found=proposal_json.kept(plan.proposal(last, pairs)) if last.number == 0 else None,
            )
        if not going_on:
            break
    assert last is not None
    found = plan.filled(problem, plan.proposal(last, pairs), pairs)
    said: dict[str, list[Finding]] = {}

    def keep(state: season_plans.State) -> bool:
        with database.school(school_id) as connection:
            return season_plans.found_so_far(
                connection,
                plan_id,
                which,
                asked,
                state=state,
                gap=found.gap,
                proved=found.proved,
                found=proposal_json.kept(found, said),
            )

    if keep("works"):
        for key, told in _asked_why(last, found):
            said[key] = told
            if not keep("works"):
                break
    keep("done")


def _asked_why(last: Progress, found: SeasonPlan) -> Iterator[tuple[str, list[Finding]]]:
    """What bars each wish that is left out, and what would let it in."""
    known = {wish.key: number for number, wish in enumerate(last.options.problem.wishes)}
    for left in found.left[:MOST_ASKED]:
        if left.wish.key in known:
            yield left.wish.key, why_not(last.options, last.step.chosen, known[left.wish.key])
