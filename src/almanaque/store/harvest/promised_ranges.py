"""The forecast of a planting as it was when it was started, which what comes is measured against."""

from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core.growth.range_moved import Cause, PromisedRange


def keep(connection: Connection[Any], planting_id: UUID, *, day: date, corrected: int) -> None:
    """Keep the forecast as it is now, to be measured against what comes; the first one stays."""
    connection.execute(
        "INSERT INTO forecast_made (school_id, planting_id, made_on, first_pick_early, first_pick, first_pick_late, last_pick, corrected)"
        " SELECT school_id, planting_id, %s, least(first_pick_early, first_pick), "
        "first_pick, greatest(first_pick_late, first_pick), last_pick, %s"
        " FROM forecast WHERE planting_id = %s ON CONFLICT (school_id, planting_id) DO NOTHING",
        [day, corrected, planting_id],
    )


def promise(connection: Connection[Any], planting_id: UUID) -> PromisedRange | None:
    """The range of the first picking as it was kept when the planting was started."""
    row = connection.execute(
        "SELECT made_on, first_pick_early, first_pick, first_pick_late, corrected FROM forecast_made WHERE planting_id = %s",
        [planting_id],
    ).fetchone()
    return PromisedRange(*row) if row else None


def keep_last(connection: Connection[Any], planting_id: UUID, *, cause: Cause | None) -> None:
    """Keep the range as the forecast has it now, the last one before the first picking, and what moved it since the promise."""
    connection.execute(
        "UPDATE forecast_made m SET last_early = least(f.first_pick_early, f.first_pick), last_first = f.first_pick,"
        " last_late = greatest(f.first_pick_late, f.first_pick), moved_by = %s"
        " FROM forecast f WHERE f.school_id = m.school_id AND f.planting_id = m.planting_id AND m.planting_id = %s",
        [cause, planting_id],
    )


def forget_last(connection: Connection[Any], planting_id: UUID) -> None:
    """No first picking after all."""
    connection.execute(
        "UPDATE forecast_made SET last_early = NULL, last_first = NULL, last_late = NULL, moved_by = NULL WHERE planting_id = %s",
        [planting_id],
    )


def forget(connection: Connection[Any], planting_id: UUID) -> None:
    connection.execute("DELETE FROM forecast_made WHERE planting_id = %s", [planting_id])
