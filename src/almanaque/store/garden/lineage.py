"""Which planting another one came from."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True)
class Lineage:
    """`planting_id` came from `from_id` on a day, as a division, runner, cane, cutting, offset or from its own seed."""

    planting_id: UUID
    from_id: UUID
    how: str
    on_day: date


def of(connection: Connection[Any], planting_id: UUID) -> list[Lineage]:
    """Where a planting came from, and what came from it."""
    return (
        connection.cursor(row_factory=class_row(Lineage))
        .execute(
            (
                "SELECT planting_id, from_id, how, on_day FROM lineage WHERE "
                "planting_id = %(id)s OR from_id = %(id)s ORDER BY on_day, planting_id"
            ),
            {"id": planting_id},
        )
        .fetchall()
    )


def save(connection: Connection[Any], school_id: UUID, descent: Lineage) -> None:
    connection.execute(
        "INSERT INTO lineage (school_id, planting_id, from_id, how, on_day) VALUES (%s, %s, %s, %s, %s)",
        [school_id, descent.planting_id, descent.from_id, descent.how, descent.on_day],
    )
