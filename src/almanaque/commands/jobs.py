"""Ticking a job off, and what follows for its planting."""

from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands import events
from almanaque.commands.context import Context
from almanaque.commands.plantings import Hand
from almanaque.core.errors import BadInput
from almanaque.store import garden, tasks
from almanaque.store.tasks import TaskStatus

# A job that is done tells what happened to its planting.
TELLS = {"sow": "started", "start indoors": "started", "transplant": "set out", "clear": "cleared"}


def tick(
    connection: Connection[Any], context: Context, task_id: UUID, status: TaskStatus, day: date, hand: Hand
) -> None:
    """Mark a job done, not needed, or open again; sowing, setting out and clearing move the planting with it.

    Raises BadInput for a day still to come.
    """
    if day > hand.today:
        raise BadInput("A job can be ticked off from its day on. Move the ribbon back to today.", field="day")
    before = tasks.task(connection, task_id)
    if before.status == status:
        return
    done_on = day if status == "done" else None
    planting_id, step = tasks.set_status(
        connection, task_id, status, day=done_on, by=hand.by if status == "done" else None
    )
    if planting_id is None or step not in TELLS:
        return
    planting = garden.planting(connection, planting_id)
    kind = "started" if step == "transplant" and planting.method == "starts" else TELLS[step]
    if status == "done" and kind not in planting.events:
        events.happened(connection, context, planting_id, kind, day, hand)
    elif before.status == "done" and kind in planting.events:
        events.did_not_happen(connection, context, planting_id, kind, hand)
