"""A season's plans asked for, worked at, decided on and pencilled. Nothing of it ever becomes ink by itself."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import hold_beds
from almanaque.commands.garden.painting import Paint, paint
from almanaque.commands.planner import asking
from almanaque.commands.year import schedule
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Cell, cell_name, parse_cells
from almanaque.core.planner import plan
from almanaque.core.planner.problem import Which
from almanaque.data import neighbour_pairs
from almanaque.formats.planner import proposal_json
from almanaque.store import errors, queue
from almanaque.store.garden import drafts, garden
from almanaque.store.planner import season_plans
from almanaque.store.planner.season_plans import DecisionRow, What

WHICH: tuple[Which, ...] = tuple(plan.PLANS)


def ask(connection: Connection[Any], context: Context, plan_id: UUID, *, today: date) -> None:
    """Plan a season: a first plan at once, better ones by the worker, one after another.

    Raises BadInput for what cannot be asked; nothing is asked then.
    """
    season_plans.hold(connection, plan_id)
    problem = asking.problem_of(connection, context, plan_id, today=today)
    asked = uuid4()
    for which in WHICH:
        season_plans.ask(connection, context.school.id, plan_id, asked, which)
    first = plan.proposal(plan.first(problem), neighbour_pairs(), solver=False)  # a page waits for it
    season_plans.found_so_far(
        connection,
        plan_id,
        WHICH[0],
        asked,
        state="works",
        gap=None,
        proved=False,
        found=proposal_json.kept(first),
    )
    queue.plan_season(connection, context.school.id, plan_id, WHICH[0], asked)


def decide(connection: Connection[Any], context: Context, plan_id: UUID, which: str, wish: str, what: What) -> None:
    """Keep a proposal as it is, or say that it is not to be so, not there, or not at all. Raises NotFound for one that is not there."""
    season_plans.hold(connection, plan_id)
    line = _line_of(season_plans.proposal(connection, plan_id, which).found, wish)
    told = {name: line[name] for name in ("crop", "method", "start", "bed", "cover", "squares")}
    way = (
        ""
        if what in ("kept", "rubbed out")
        else line["bed"]
        if what == "not there"
        else "|".join(map(str, told.values()))
    )
    if what != "kept":
        season_plans.take_back(connection, plan_id, wish, "kept")
    if what == "not there":
        season_plans.take_back(connection, plan_id, wish, "there")
    season_plans.decide(connection, context.school.id, plan_id, DecisionRow(wish, what, way[:500], told))


def move(
    connection: Connection[Any],
    context: Context,
    plan_id: UUID,
    which: str,
    wish: str,
    bed_id: UUID,
    by: tuple[int, int] | None,
) -> bool:
    """Put a proposal into a bed: into its own squares moved `by` columns and rows where that bed has them, else anywhere there.

    Returns whether the squares hold. Raises BadInput for a bed that the plan may not use, NotFound for a proposal that is not there.
    """
    row = season_plans.hold(connection, plan_id)
    line = _line_of(season_plans.proposal(connection, plan_id, which).found, wish)
    beds = {bed.id: bed for bed in asking.used_beds(connection, row)}
    bed, stood_in = beds.get(bed_id), beds.get(UUID(line["bed"]))
    if bed is None:
        raise BadInput("planner.not_that_bed", field="bed")
    squares: frozenset[Cell] = frozenset()
    if by is not None and stood_in is not None and stood_in.cell_mm == bed.cell_mm:
        stood = parse_cells(" ".join(line["squares"]), stood_in.grid())
        squares = frozenset((column + by[0], line_no + by[1]) for column, line_no in stood)
        if bed is stood_in and squares == stood:
            raise BadInput("planner.stays_there", field="bed")
        if not squares <= asking.squares_to_use(bed, row):
            squares = frozenset()
    for what in ("kept", "there"):
        season_plans.take_back(connection, plan_id, wish, what)
    season_plans.take_back(connection, plan_id, wish, "not there", str(bed_id))
    told = {"squares": sorted(cell_name(cell) for cell in squares)}
    season_plans.decide(connection, context.school.id, plan_id, DecisionRow(wish, "there", str(bed_id), told))
    return bool(squares)


def _line_of(found: Mapping[str, Any] | None, wish: str) -> Mapping[str, Any]:
    line = next((line for line in (found or {}).get("placed", ()) if line["key"] == wish), None)
    if line is None:
        raise errors.NotFound("This wish has no place in the plan any more. Look at it again.")
    return dict(line)


@dataclass(frozen=True)
class Pencilled:
    """The draft that a plan was pencilled into, how many plantings, and what could not be, with the reason.

    `overdue` is what is still in ink of these wishes and was not begun in time: somebody has to rub it out or begin it.
    """

    draft_id: UUID
    plantings: int
    left: tuple[str, ...]
    overdue: tuple[str, ...] = ()


def pencil(connection: Connection[Any], context: Context, plan_id: UUID, which: str, actor: Actor) -> Pencilled:
    """Pencil a plan into a draft of its own, to be chosen from there. What cannot stand any more is left out and told."""
    row = season_plans.hold(connection, plan_id)
    found = season_plans.proposal(connection, plan_id, which).found
    lines = list((found or {}).get("placed", ()))
    if not lines:
        raise BadInput("planner.nothing_to_pencil")
    held = hold_beds(connection, context, sorted({UUID(line["bed"]) for line in lines}), actor)
    draft = drafts.Draft(uuid4(), f"{row.name}: {which}"[:80], "planned", None, None)
    drafts.save(connection, context.school.id, draft)
    overdue = _overdue(connection, context, plan_id, {line["key"] for line in lines}, actor.today)
    left: list[str] = []
    count = 0
    for line in lines:
        bed_id, crop = UUID(line["bed"]), line["crop"]
        wish = Paint(
            " ".join(line["squares"]),
            crop,
            line["method"],
            date.fromisoformat(line["start"]),
            ink=False,
            draft_id=draft.id,
            class_group_id=_group(context, line["class"]),
            cover=line["cover"],
        )
        try:
            planting_id = paint(connection, context, bed_id, wish, actor)
        except BadInput as error:
            name = context.crops[crop].name.en if crop in context.crops else crop
            left.append(f"{name} in {held[bed_id].bed.name}: {error.message}")
            continue
        if line["held_longer"]:
            clear = date.fromisoformat(line["clear_by"])
            schedule.set_step(connection, context, planting_id, "clear", clear, actor)
        season_plans.came_of(connection, context.school.id, plan_id, line["key"], planting_id)
        count += 1
    return Pencilled(draft.id, count, tuple(left), overdue)


def _overdue(
    connection: Connection[Any], context: Context, plan_id: UUID, wishes: set[str], today: date
) -> tuple[str, ...]:
    """What came of these wishes before, is in ink and was not begun in time, by crop and bed."""
    came = {planting_id for wish, planting_id in season_plans.planted(connection, plan_id) if wish in wishes}
    beds = {bed.id: bed.name for bed in garden.beds(connection)}
    return tuple(
        f"{context.crops[planting.crop].name.en} in {beds[planting.bed_id]}"
        for planting in garden.plantings(connection)
        if planting.id in came and asking.overdue(planting, today)
    )


def _group(context: Context, key: str | None) -> UUID | None:
    """A class that is still there."""
    return next((group.id for group in context.groups if str(group.id) == key), None)
