"""What stands in for a weather record: freeze dates that somebody typed, and the local office's month-by-month chart."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.place.typed_freezes import TypedFreezes


@dataclass(frozen=True)
class ChartEntry:
    crop: str
    month: int
    what: str


def typed_freezes(connection: Connection[Any]) -> TypedFreezes | None:
    rows = connection.cursor(row_factory=class_row(TypedFreezes))
    return rows.execute(
        "SELECT last_usual, last_late, first_early, first_usual, from_whom FROM typed_freeze"
    ).fetchone()


def save_typed_freezes(connection: Connection[Any], school_id: UUID, typed: TypedFreezes | None) -> None:
    """Keep typed dates, or forget them."""
    connection.execute("DELETE FROM typed_freeze")
    if typed is not None:
        connection.execute(
            """INSERT INTO typed_freeze (school_id, last_usual, last_late, first_early, first_usual, from_whom)
               VALUES (%s, %s, %s, %s, %s, %s)""",
            [school_id, typed.last_usual, typed.last_late, typed.first_early, typed.first_usual, typed.from_whom],
        )


def chart(connection: Connection[Any]) -> list[ChartEntry]:
    rows = connection.cursor(row_factory=class_row(ChartEntry))
    return rows.execute("SELECT crop, month, what FROM planting_chart ORDER BY crop, month, what").fetchall()


def save_chart(
    connection: Connection[Any], school_id: UUID, entries: Iterable[ChartEntry], *, only_crop: str | None = None
) -> None:
    """Put entries in the place of the whole chart, or of one crop's line."""
    connection.execute(
        "DELETE FROM planting_chart WHERE %(crop)s::text IS NULL OR crop = %(crop)s", {"crop": only_crop}
    )
    with connection.cursor() as cursor:
        cursor.executemany(
            "INSERT INTO planting_chart (school_id, crop, month, what) VALUES (%s, %s, %s, %s) ON CONFLICT DO NOTHING",
            [(school_id, e.crop, e.month, e.what) for e in entries],
        )
