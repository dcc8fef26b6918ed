"""Plantings as they are told to people who are away, read from the store."""

from collections.abc import Sequence
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.journal.planting_story import PickedLot, PlantingStory
from almanaque.store.garden.garden import Bed, Planting
from almanaque.store.harvest import pickings
from almanaque.store.journal import sightings

MOST_PICKINGS = 400  # newest first; more are not told one by one anyway


def read(
    connection: Connection[Any],
    context: Context,
    beds: Sequence[Bed],
    plantings: Sequence[Planting],
    *,
    group_id: UUID | None,
    today: date,
) -> dict[UUID, PlantingStory]:
    """What is known of each planting; told to a class, what it was called when it planted its own."""
    seen = sightings.of_plantings(connection, [p.id for p in plantings])
    picked: dict[UUID, list[PickedLot]] = {}
    for lot in pickings.recent(connection, until=today, limit=MOST_PICKINGS):
        grams = None if lot.grams is None else float(lot.grams)
        picked.setdefault(lot.planting_id, []).append(PickedLot(lot.picked_on, f"{lot.amount:g} {lot.unit}", grams))
    of_bed = {bed.id: bed.class_group_id for bed in beds}
    return {
        p.id: PlantingStory(
            context.crops[p.crop],
            p.method,
            p.status,
            p.start_on,
            p.dates,
            p.events,
            [s for s in seen.get(str(p.id), ()) if s.day <= today],
            picked.get(p.id, ()),
            _planted_as(context, p, of_bed.get(p.bed_id), group_id),
        )
        for p in plantings
    }


def is_theirs(planting: Planting, bed_group: UUID | None, group_id: UUID | None) -> bool:
    """Whether a planting is a class's own: it says so itself, or stands in the class's bed without saying anything."""
    return group_id is not None and (planting.class_group_id or bed_group) == group_id


def _planted_as(context: Context, planting: Planting, bed_group: UUID | None, group_id: UUID | None) -> str:
    started = planting.events.get("started")
    if started is None or not is_theirs(planting, bed_group, group_id):
        return ""
    return context.group_names(started).get(str(group_id), "")
