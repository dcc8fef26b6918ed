"""Which squares of a bed are free for a time."""

from collections.abc import Iterable
from datetime import date
from typing import Any

from psycopg import Connection

from almanaque.core.garden.bed import Cell
from almanaque.store.garden import garden
from almanaque.store.garden.garden import Bed, Planting


def free_cells(connection: Connection[Any], bed: Bed, starts: date, ends: date, today: date) -> list[Cell]:
    """Squares in which nothing stands or is planned in ink or pencil from a day to a day, row by row."""
    return among(garden.plantings(connection, bed_id=bed.id, since=starts, until=ends), bed, starts, ends, today)


def among(present: Iterable[Planting], bed: Bed, starts: date, ends: date, today: date) -> list[Cell]:
    """The same, of plantings that were read before; those of other beds do not count."""
    taken = {
        cell
        for planting in present
        if planting.bed_id == bed.id
        and planting.status not in ("finished", "lost")
        and planting.overlaps(starts, ends, today)
        for cell in planting.cells
    }
    return [cell for cell in bed.grid(starts).cells if cell not in taken]
