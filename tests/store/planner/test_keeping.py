"""A season's plans on the demo's garden: made by the worker, stopped, decided on, pencilled, and made again as the year moves."""

import asyncio
import os
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, timedelta
from typing import Any
from uuid import UUID, uuid4

import pytest
from psycopg import Connection

from almanaque.clock import Clock
from almanaque.commands import context as contexts
from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import bed_findings, drafts, planting_events
from almanaque.commands.growth import forecasts
from almanaque.commands.planner import asking, keeping
from almanaque.core.garden.bed import parse_cells
from almanaque.core.planner import plan
from almanaque.demo import DEMO_DAY
from almanaque.demo.season_to_plan import PLAN
from almanaque.host.postgres import Addresses
from almanaque.store import errors
from almanaque.store.db import Database
from almanaque.store.garden import bed_closures, garden
from almanaque.store.garden.bed_closures import Closure
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import ProposalRow
from almanaque.worker import planning
from tests.database import NORTH, SOUTH
from tests.refuses import refuses

ACTOR = Actor(None, DEMO_DAY)
CLOCK = Clock(DEMO_DAY)
MOST_MEMORY_KB = 300 * 1024  # of the process that makes a plan


@pytest.fixture
def north(database: Database) -> Iterator[Connection[Any]]:
    with database.school(NORTH) as connection:
        yield connection


@pytest.fixture
def context(north: Connection[Any]) -> Context:
    return contexts.load(north)


def proposal(connection: Connection[Any], which: str = "surest") -> ProposalRow:
    return season_plans.proposal(connection, PLAN, which)


def placed(row: ProposalRow) -> dict[str, dict[str, Any]]:
    """What has a place, by the words of its wish."""
    assert row.found is not None
    return {line["wish"]: line for line in row.found["placed"]}


def made_again(connection: Connection[Any], context: Context, which: str = "surest") -> dict[str, dict[str, Any]]:
    """The plan as it is made now, by the words of its wishes."""
    problem = asking.problem_of(connection, context, PLAN, which=which, today=DEMO_DAY)
    return {one.wish.text: {**vars(one), "bed": one.way.bed} for one in plan.plan(problem).placed}


def test_what_is_pencilled_is_judged_by_its_sheet_as_the_plan_said(north: Connection[Any], context: Context) -> None:
    lines = placed(proposal(north))
    came_of = dict(season_plans.planted(north, PLAN))
    every = {p.id: p for p in garden.plantings(north)}
    beds = {bed.id: bed for bed in garden.beds(north)}
    assert len(came_of) == len(lines) >= 10
    for line in lines.values():
        planting = every[came_of[line["key"]]]
        assert planting.status == "pencilled"
        assert planting.dates is not None
        assert (planting.verdict, planting.dates.first_pick.isoformat(), planting.dates.clear_by.isoformat()) == (
            line["verdict"],
            line["first_pick"]["p50"],
            line["clear_by"],
        )
    for bed in beds.values():
        there = drafts.on_table(north, garden.plantings(north, bed_id=bed.id), _draft(north))
        laid = forecasts.layouts(there, bed, context.crops)
        _, found = bed_findings.of_sheet(north, context, bed, there, laid, today=DEMO_DAY)
        for planting in there:
            if planting.id in came_of.values():
                faults = [f.code for f in found.get(planting.id, []) if f.severity == "fault"]
                assert faults == [], (bed.name, planting.crop)


def _draft(connection: Connection[Any]) -> UUID:
    (row,) = connection.execute("SELECT id FROM draft WHERE name = 'After the summer: surest'").fetchone() or (None,)
    assert row is not None
    return UUID(str(row))


def test_the_worker_makes_one_plan_after_another_and_asks_why_not(database: Database) -> None:
    with database.school(NORTH) as connection:
        keeping.ask(connection, contexts.load(connection), PLAN, today=DEMO_DAY)
        first = proposal(connection)
        assert (first.state, first.gap) == ("works", None)
        assert [proposal(connection, which).state for which in ("most kinds", "least summer")] == ["waits", "waits"]
        assert len(placed(first)) >= 10  # a first plan is there at once
    planning.make(database, CLOCK, NORTH, PLAN, "surest", first.asked)
    with database.school(NORTH) as connection:
        done = proposal(connection)
        assert (done.state, done.gap, done.proved) == ("done", 0.0, True)
        assert done.found is not None
        assert all(line["asked"] and line["findings"] for line in done.found["left"])
        queued = connection.execute(
            "SELECT args ->> 'which' FROM queue.procrastinate_jobs WHERE task_name = 'plan_season' ORDER BY id"
        ).fetchall()
    assert queued == [("surest",), ("most kinds",)]  # the next one queues behind what others asked meanwhile


def test_a_plan_that_was_stopped_or_asked_for_anew_is_not_gone_on_with(database: Database) -> None:
    with database.school(NORTH) as connection:
        context = contexts.load(connection)
        keeping.ask(connection, context, PLAN, today=DEMO_DAY)
        old = proposal(connection)
        keeping.ask(connection, context, PLAN, today=DEMO_DAY)
    planning.make(database, CLOCK, NORTH, PLAN, "surest", old.asked)
    with database.school(NORTH) as connection:
        now = proposal(connection)
        assert (now.asked == old.asked, now.gap) == (False, None)
        season_plans.stop(connection, PLAN)
        waited = proposal(connection, "most kinds")
        assert (waited.state, waited.stop) == ("done", True)
        assert proposal(connection).state == "done"  # at once, whether or not anybody works at it
        assert placed(waited)
    planning.make(database, CLOCK, NORTH, PLAN, "most kinds", waited.asked)
    planning.make(database, CLOCK, NORTH, PLAN, "surest", now.asked)
    with database.school(NORTH) as connection:
        assert proposal(connection, "most kinds") == waited
        assert proposal(connection).state == "done"
        assert placed(proposal(connection))


def test_a_stop_ends_it_with_the_best_that_was_found(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    with database.school(NORTH) as connection:
        keeping.ask(connection, contexts.load(connection), PLAN, today=DEMO_DAY)
        asked = proposal(connection).asked
    steps = 0
    whole = plan.progress

    def stopped_after_one(problem: plan.PlanProblem, **more: Any) -> Iterator[plan.Progress]:
        nonlocal steps
        for step in whole(problem, **more):
            steps += 1
            with database.school(NORTH) as connection:
                season_plans.stop(connection, PLAN)
            yield step

    monkeypatch.setattr(plan, "progress", stopped_after_one)
    planning.make(database, CLOCK, NORTH, PLAN, "surest", asked)
    with database.school(NORTH) as connection:
        assert proposal(connection).state == "done"
        assert placed(proposal(connection))
    assert steps == 1


def test_a_plan_whose_process_is_killed_says_so_and_the_next_one_is_asked_for(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    with database.school(NORTH) as connection:
        keeping.ask(connection, contexts.load(connection), PLAN, today=DEMO_DAY)
        first = proposal(connection)
    killed = [sys.executable, "-c", "import os, signal; os.kill(os.getpid(), signal.SIGKILL)"]
    begin = asyncio.create_subprocess_exec
    monkeypatch.setattr(asyncio, "create_subprocess_exec", lambda *_, **__: begin(*killed))
    with pytest.raises(RuntimeError, match="ended with -9"):
        asyncio.run(planning.in_a_child(database, str(NORTH), str(PLAN), "surest", str(first.asked)))
    with database.school(NORTH) as connection:
        left = proposal(connection)
        assert left.state == "failed"
        assert left.found == first.found  # what was there stays
        queued = connection.execute(
            "SELECT args ->> 'which' FROM queue.procrastinate_jobs WHERE task_name = 'plan_season' ORDER BY id"
        ).fetchall()
    assert queued == [("surest",), ("most kinds",)]


def test_a_child_process_makes_a_plan_within_its_memory(demo: Addresses, database: Database) -> None:
    with database.school(NORTH) as connection:
        keeping.ask(connection, contexts.load(connection), PLAN, today=DEMO_DAY)
        asked = proposal(connection).asked
    # What the kernel counts from the start of the program on, not from the copy of this process that became it.
    told = (
        "import sys; from pathlib import Path; from almanaque.cli import main; assert not main(sys.argv[1:]); "
        "print(Path('/proc/self/status').read_text().partition('VmHWM:')[2].split()[0])"
    )
    words = [sys.executable, "-c", told, "plan-season", str(NORTH), str(PLAN), "surest", str(asked)]
    here = {
        **os.environ,
        "PYTHONPATH": "src",
        "ALMANAQUE_DATABASE_URL": demo.app,
        "ALMANAQUE_DEMO_DAY": DEMO_DAY.isoformat(),
    }
    done = subprocess.run(words, env=here, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert int(done.stdout.split()[-1]) < MOST_MEMORY_KB
    with database.school(NORTH) as connection:
        assert proposal(connection).state == "done"


def test_decisions_hold_in_the_next_plan(north: Connection[Any], context: Context) -> None:
    keys = {wish: line["key"] for wish, line in placed(proposal(north)).items()}
    before = placed(proposal(north))
    keeping.decide(north, context, PLAN, "surest", keys["Radish"], "rubbed out")
    keeping.decide(north, context, PLAN, "surest", keys["Mizuna"], "not there")
    keeping.decide(north, context, PLAN, "surest", keys["Kale"], "kept")
    again = made_again(north, context)
    assert "Radish" not in again
    assert again.get("Mizuna", {}).get("bed") != before["Mizuna"]["bed"]
    assert again["Kale"]["bed"] == before["Kale"]["bed"]
    assert again["Kale"]["kept"]
    stayed = [wish for wish, line in again.items() if line["bed"] == before.get(wish, {}).get("bed")]
    assert len(stayed) >= len(before) - 4  # as little as possible is moved
    season_plans.take_back(north, PLAN, keys["Radish"])
    assert "Radish" in made_again(north, context)
    with pytest.raises(errors.NotFound):
        keeping.decide(north, context, PLAN, "surest", "nobody's", "kept")


def test_what_is_moved_stands_there_and_the_rest_goes_around_it(north: Connection[Any], context: Context) -> None:
    before = placed(proposal(north))
    radish, beds = before["Radish"], {bed.name: bed for bed in garden.beds(north)}
    here = next(bed for bed in beds.values() if str(bed.id) == radish["bed"])
    there = next(
        bed
        for bed in beds.values()
        if not bed.indoors and bed is not here and bed.cell_mm == here.cell_mm and bed.depth_mm >= here.depth_mm
    )
    corner = there.grid().cells[0]
    stood = parse_cells(" ".join(radish["squares"]), here.grid())
    first = min(stood)
    by = (corner[0] - first[0], corner[1] - first[1])
    assert keeping.move(north, context, PLAN, "surest", radish["key"], there.id, by)
    again = made_again(north, context)
    assert again["Radish"]["bed"] == str(there.id)
    assert again["Radish"]["cells"] == {(column + by[0], row + by[1]) for column, row in stood}
    stayed = [wish for wish, line in again.items() if line["bed"] == before.get(wish, {}).get("bed")]
    assert len(stayed) >= len(before) - 4  # as little as possible is moved
    # Somewhere off the bed: then anywhere in it. Its own place is no move, and a bed that is not the plan's no bed.
    assert not keeping.move(north, context, PLAN, "surest", radish["key"], there.id, (by[0] - 90, by[1]))
    assert made_again(north, context)["Radish"]["bed"] == str(there.id)
    with refuses("planner.stays_there"):
        keeping.move(north, context, PLAN, "surest", radish["key"], here.id, (0, 0))
    with refuses("planner.not_that_bed"):
        keeping.move(north, context, PLAN, "surest", radish["key"], uuid4(), None)
    keeping.decide(north, context, PLAN, "surest", radish["key"], "not there")
    assert [line.what for line in season_plans.decisions(north, PLAN) if line.wish == radish["key"]] == ["not there"]


def test_only_the_parts_that_may_be_used_are_planted(north: Connection[Any], context: Context) -> None:
    row = season_plans.plan(north, PLAN)
    used = [line["bed"] for line in placed(proposal(north)).values()]
    bed = next(bed for bed in garden.beds(north) if str(bed.id) == max(used, key=used.count))
    season_plans.save(north, NORTH, replace(row, bed_ids=[bed.id], parts={str(bed.id): "A1-B4"}))
    part = parse_cells("A1-B4", bed.grid())
    lines = made_again(north, context).values()
    assert lines
    assert all(line["cells"] <= part for line in lines)
    season_plans.save(north, NORTH, replace(row, parts={str(bed.id): "Z9"}))
    with refuses("planner.part_wrong"):
        asking.problem_of(north, context, PLAN, today=DEMO_DAY)


def test_as_the_year_moves_what_is_in_ink_stays_and_what_died_is_planned_again(
    north: Connection[Any], context: Context
) -> None:
    lines = placed(proposal(north))
    came_of = dict(season_plans.planted(north, PLAN))
    kale, radish = came_of[lines["Kale"]["key"]], came_of[lines["Radish"]["key"]]
    drafts.choose(north, context, [kale, radish], ACTOR)
    again = made_again(north, context)
    assert "Kale" not in again
    assert "Radish" not in again
    # What stands in ink keeps its squares.
    held = {p.id: p for p in garden.plantings(north)}[kale]
    for one in again.values():
        if one["bed"] == str(held.bed_id):
            meets = one["dates"].bed_from <= held.bed_to(DEMO_DAY) and held.bed_from <= one["dates"].clear_by
            assert not (meets and one["cells"] & held.cells)
    planting_events.happened(north, context, radish, "started", DEMO_DAY, ACTOR)
    planting_events.happened(north, context, radish, "lost", DEMO_DAY, ACTOR)
    assert "Radish" in made_again(north, context)


def test_what_was_not_begun_within_a_week_is_planned_again(north: Connection[Any], context: Context) -> None:
    lines = placed(proposal(north))
    radish = dict(season_plans.planted(north, PLAN))[lines["Radish"]["key"]]
    drafts.choose(north, context, [radish], ACTOR)
    start = date.fromisoformat(lines["Radish"]["start"])

    def asked_on(day: date) -> set[str]:
        return {wish.text for wish in asking.problem_of(north, context, PLAN, today=day).wishes}

    assert "Radish" not in asked_on(start + timedelta(days=7))
    late = start + timedelta(days=8)
    assert "Radish" in asked_on(late)  # a week was lost to snow, or nobody came to it
    bed = {b.id: b.name for b in garden.beds(north)}[UUID(lines["Radish"]["bed"])]
    done = keeping.pencil(north, context, PLAN, "surest", replace(ACTOR, today=late))
    assert done.overdue == (f"Radish in {bed}",)
    planting_events.happened(north, context, radish, "started", DEMO_DAY, ACTOR)
    assert "Radish" not in asked_on(start + timedelta(days=8))


def test_a_bed_that_closes_is_planned_around(north: Connection[Any], context: Context) -> None:
    bed = UUID(placed(proposal(north))["Kale"]["bed"])
    bed_closures.save_closure(north, NORTH, Closure(uuid4(), bed, date(2027, 9, 1), date(2027, 12, 31), "rebuilt", ""))
    assert all(one["bed"] != str(bed) for one in made_again(north, context).values())


def test_a_plan_whose_wishes_are_all_in_ink_is_not_made_again(north: Connection[Any], context: Context) -> None:
    one = season_plans.wishes(north, PLAN)[0]
    for other in season_plans.wishes(north, PLAN)[1:]:
        season_plans.delete_wish(north, PLAN, other.id)
    carrot = dict(season_plans.planted(north, PLAN))[str(one.id)]
    drafts.choose(north, context, [carrot], ACTOR)
    with refuses("planner.all_granted"):
        keeping.ask(north, context, PLAN, today=DEMO_DAY)


def test_a_plan_without_wishes_or_of_another_school_is_not_made(database: Database) -> None:
    with database.school(NORTH) as connection:
        context = contexts.load(connection)
        empty = replace(season_plans.plan(connection, PLAN), id=uuid4(), name="Empty")
        season_plans.save(connection, NORTH, empty)
        with refuses("planner.no_wish"):
            keeping.ask(connection, context, empty.id, today=DEMO_DAY)
        with pytest.raises(errors.NotFound):
            keeping.pencil(connection, context, empty.id, "surest", ACTOR)
    with database.school(SOUTH) as connection, pytest.raises(errors.NotFound):
        season_plans.plan(connection, PLAN)
