"""How a planting day came out: plants that went in, those left over, and distances measured between them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection


@dataclass(frozen=True)
class Planted:
    """`apart_mm` are distances between neighbours as measured [mm]; `left_over` is None when nobody counted."""

    planting_id: UUID
    plants: int
    left_over: int | None
    apart_mm: tuple[float, ...]


def planted(connection: Connection[Any], planting_ids: Sequence[UUID]) -> dict[UUID, Planted]:
    """What was noted of some plantings; those of which nothing was noted are not in it."""
    rows = connection.execute(
        "SELECT planting_id, plants, left_over, apart_mm::float8[] FROM planted WHERE planting_id = ANY(%s)",
        [list(planting_ids)],
    ).fetchall()
    return {row[0]: Planted(row[0], row[1], row[2], tuple(row[3])) for row in rows}


def forget(connection: Connection[Any], planting_id: UUID) -> None:
    """Take out what was noted of a planting, because it did not go in after all."""
    connection.execute("DELETE FROM planted WHERE planting_id = %s", [planting_id])


def save(connection: Connection[Any], school_id: UUID, row: Planted) -> None:
    """Write how a planting came out; what was noted before is replaced."""
    connection.execute(
        """INSERT INTO planted (school_id, planting_id, plants, left_over, apart_mm) VALUES (%s, %s, %s, %s, %s)
           ON CONFLICT (school_id, planting_id) DO UPDATE
           SET plants = excluded.plants, left_over = excluded.left_over, apart_mm = excluded.apart_mm""",
        [school_id, row.planting_id, row.plants, row.left_over, list(row.apart_mm)],
    )
