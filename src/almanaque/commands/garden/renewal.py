"""Bringing what stands and is planned up to date after a wider change: bed by bed, each held before it is read."""

from collections.abc import Collection
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import hold
from almanaque.store.garden import garden

IN_USE = ("pencilled", "planned", "in the ground")


def renew_bed(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    *,
    today: date,
    crops: Collection[str] | None = None,
) -> int:
    """Bring every planting of a bed that is not over up to date, or those of some crops; return how many. Raises NotFound."""
    held = hold(connection, context, bed_id, Actor(None, today))
    mine = [p for p in held.plantings() if p.status in IN_USE and (crops is None or p.crop in crops)]
    for planting in mine:
        held.refresh(planting.id)
    return len(mine)


def renew(connection: Connection[Any], context: Context, *, today: date, crops: Collection[str] | None = None) -> int:
    """The same for all beds, in one transaction; return how many plantings were looked at."""
    beds = garden.beds_in_use(connection, crops=crops)
    return sum(renew_bed(connection, context, bed_id, today=today, crops=crops) for bed_id in beds)
