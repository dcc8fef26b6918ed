"""What a kitchen or a stall asked for."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class RequestRow:
    """A request: a crop or only a word, an amount as it was written and in grams where it is one, between two days.

    `by_link` is True for one that came in by the kitchen's link.
    """

    id: UUID
    crop: str | None
    what: str
    grams: Decimal | None
    amount: str
    from_day: date
    to_day: date
    asked_on: date
    closed_on: date | None
    by_link: bool


def requests(connection: Connection[Any]) -> list[RequestRow]:
    """All requests, those that are wanted first."""
    rows = connection.cursor(row_factory=class_row(RequestRow))
    return rows.execute(
        """SELECT id, crop, what, grams, amount, from_day, to_day, asked_on, closed_on, open_garden_id IS NOT NULL AS by_link
           FROM kitchen_request ORDER BY from_day, asked_on, id"""
    ).fetchall()


def add(connection: Connection[Any], school_id: UUID, row: RequestRow, *, open_garden_id: UUID | None = None) -> None:
    """Keep a request under its number; sent again it is there once."""
    connection.execute(
        """INSERT INTO kitchen_request (school_id, id, crop, what, grams, amount, from_day, to_day, open_garden_id, asked_on)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [
            school_id,
            row.id,
            row.crop,
            row.what,
            row.grams,
            row.amount,
            row.from_day,
            row.to_day,
            open_garden_id,
            row.asked_on,
        ],
    )


def close(connection: Connection[Any], request_id: UUID, day: date | None) -> None:
    """Settle a request on a day, or with no day open it again. Raises NotFound."""
    done = connection.execute("UPDATE kitchen_request SET closed_on = %s WHERE id = %s", [day, request_id])
    if done.rowcount == 0:
        raise errors.NotFound("There is no such request in this school.")


def by_link_on(connection: Connection[Any], open_garden_id: UUID, day: date, *, besides: UUID) -> int:
    """How many came in by a link on a day, besides one that is sent again."""
    row = connection.execute(
        "SELECT count(*) FROM kitchen_request WHERE open_garden_id = %s AND asked_on = %s AND id <> %s",
        [open_garden_id, day, besides],
    ).fetchone()
    return int(row[0]) if row else 0
