"""How many tried something and how many liked it; nobody by name."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True)
class Tasting:
    id: UUID
    crop: str
    on_day: date
    class_group_id: UUID | None
    how: str
    tried: int
    liked: int
    note: str


def tastings(connection: Connection[Any], *, until: date) -> list[Tasting]:
    """All tastings up to a day, the last first."""
    return (
        connection.cursor(row_factory=class_row(Tasting))
        .execute(
            "SELECT id, crop, on_day, class_group_id, how, tried, liked, note FROM tasting WHERE on_day <= %s ORDER BY on_day DESC, id",
            [until],
        )
        .fetchall()
    )


def save(connection: Connection[Any], school_id: UUID, kept: Tasting, *, by: UUID | None) -> None:
    """Keep a tasting; the same id again changes nothing."""
    connection.execute(
        "INSERT INTO tasting (school_id, id, crop, on_day, class_group_id, how, tried, liked, note, noted_by)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING",
        [
            school_id,
            kept.id,
            kept.crop,
            kept.on_day,
            kept.class_group_id,
            kept.how,
            kept.tried,
            kept.liked,
            kept.note,
            by,
        ],
    )
