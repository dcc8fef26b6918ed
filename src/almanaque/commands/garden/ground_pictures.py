"""Laying pictures under the map: how many, and where one first lies."""

from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.garden import beds
from almanaque.core.errors import BadInput
from almanaque.core.garden import tracing
from almanaque.store.garden import garden, ground_pictures
from almanaque.store.garden.ground_pictures import GroundPicture

MOST_PICTURES = 12  # under one map: our own rule
USUAL_DIM = 50  # how pale a picture first is [%]: our own rule


def add(
    connection: Connection[Any],
    context: Context,
    picture_id: UUID,
    jpeg: bytes,
    size_px: tuple[int, int],
    *,
    name: str,
    taken_on: date,
) -> None:
    """Lay a picture under the map, as large as the ground takes it. Raises BadInput for one too many."""
    garden.hold_ground(connection, context.school.id)
    if len(ground_pictures.pictures(connection)) >= MOST_PICTURES:
        raise BadInput("garden.too_many_pictures", field="file", most=MOST_PICTURES)
    site = beds.ground_of(connection, context, None)
    place = tracing.fitted(*size_px, site.width_mm, site.depth_mm)
    row = GroundPicture(
        picture_id,
        site.id,
        name,
        taken_on,
        *size_px,
        place.x_mm,
        place.y_mm,
        place.mm_per_px,
        place.turn_deg,
        USUAL_DIM,
        shown=True,
    )
    ground_pictures.add(connection, context.school.id, row, jpeg)
