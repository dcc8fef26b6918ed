"""What people say of a planting's tending: a practice is called for by what was seen, or is wanted no more. Jobs follow."""

from datetime import date, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import hold_of
from almanaque.core.errors import BadInput
from almanaque.core.year import tending as rules
from almanaque.core.year.tending import Practice
from almanaque.data import tending as table

POLLEN = "pollinate"


def practice_of(context: Context, crop: str, cover: str | None, step: str) -> Practice | None:
    """What a step of a planting's tending is; None for a step that is none."""
    return next((one for one in rules.of(context.crops[crop], table(), cover=cover) if one.step == step), None)


def no_more(
    connection: Connection[Any], context: Context, planting_id: UUID, step: str, day: date, actor: Actor
) -> None:
    """A practice is wanted no more from a day on: its open jobs go. Raises BadInput for one that has no end of its own."""
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    practice = practice_of(context, planting.crop, planting.cover, step)
    if practice is None or not practice.no_more:
        raise BadInput("garden.tending_has_no_end", field="answer")
    held.tend(planting_id, step, "ended", day)


def go_on(connection: Connection[Any], context: Context, planting_id: UUID, step: str, actor: Actor) -> None:
    """Take back that a practice is wanted no more."""
    held = hold_of(connection, context, planting_id, actor)
    if step in held.planting(planting_id).tended.ended:
        held.tend(planting_id, step, "ended", None)


def measured(
    connection: Connection[Any], context: Context, planting_id: UUID, height_mm: float, day: date, actor: Actor
) -> None:
    """What a height that was read ends: shoots are led in no more when the plant is at the top."""
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    crop = context.crops[planting.crop]
    for one in rules.of(crop, table(), cover=planting.cover):
        if rules.at_the_top(one, crop, height_mm) and one.step not in planting.tended.ended:
            held.tend(planting_id, one.step, "ended", day)


def flowers_counted(
    connection: Connection[Any],
    context: Context,
    planting_id: UUID,
    males: float,
    females: float,
    day: date,
    actor: Actor,
    *,
    visited: bool,
) -> None:
    """What a count of open flowers calls for: pollen by hand on the next mornings, where it does not come by itself."""
    held = hold_of(connection, context, planting_id, actor)
    planting = held.planting(planting_id)
    wanted = rules.wants_pollen(context.crops[planting.crop], males=males, females=females, visited=visited)
    if wanted and planting.tended.called.get(POLLEN) != day + timedelta(days=1):
        held.tend(planting_id, POLLEN, "called", day + timedelta(days=1))
    elif not wanted and POLLEN in planting.tended.called:
        held.tend(planting_id, POLLEN, "called", None)
