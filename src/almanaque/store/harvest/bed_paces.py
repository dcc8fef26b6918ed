"""By what share of its usual time a plant ripens in a bed, as the bed's own first pickings taught."""

from collections.abc import Mapping
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.core.harvest.forecast_error import BedPace


def paces(connection: Connection[Any]) -> dict[UUID, BedPace]:
    """By bed; those that go like the others are left out."""
    rows = connection.execute("SELECT bed_id, pace::float8, plantings FROM bed_pace")
    return {bed_id: BedPace(pace, plantings) for bed_id, pace, plantings in rows}


def put(connection: Connection[Any], school_id: UUID, found: Mapping[UUID, BedPace], *, day: date) -> None:
    """Let these paces, and no others, be in use; what stays as it is keeps its day."""
    have = paces(connection)
    gone = [bed_id for bed_id in have if bed_id not in found]
    connection.execute("DELETE FROM bed_pace WHERE bed_id = ANY(%s)", [gone])
    for bed_id, one in found.items():
        if have.get(bed_id) != one:
            connection.execute(
                "INSERT INTO bed_pace (school_id, bed_id, pace, plantings, learned_on) VALUES (%s, %s, %s, %s, %s)"
                " ON CONFLICT (school_id, bed_id) DO UPDATE"
                " SET pace = excluded.pace, plantings = excluded.plantings, learned_on = excluded.learned_on",
                [school_id, bed_id, one.pace, one.plantings, day],
            )


def forget(connection: Connection[Any]) -> None:
    """All beds go alike again."""
    connection.execute("DELETE FROM bed_pace")
