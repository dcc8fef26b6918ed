"""Times in which a bed is closed for work on it."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class Closure:
    """A bed out of use from a day to a day, both included."""

    id: UUID
    bed_id: UUID
    starts: date
    ends: date
    reason: str
    paid_by: str


def closures(connection: Connection[Any], bed_id: UUID | None = None) -> list[Closure]:
    return (
        connection.cursor(row_factory=class_row(Closure))
        .execute(
            """SELECT id, bed_id, starts, ends, reason, paid_by FROM bed_closure
           WHERE %(bed)s::uuid IS NULL OR bed_id = %(bed)s ORDER BY starts""",
            {"bed": bed_id},
        )
        .fetchall()
    )


def save_closure(connection: Connection[Any], school_id: UUID, closure: Closure) -> None:
    connection.execute(
        """INSERT INTO bed_closure (school_id, id, bed_id, starts, ends, reason, paid_by) VALUES (%s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET starts = excluded.starts, ends = excluded.ends, reason = excluded.reason,
             paid_by = excluded.paid_by""",
        [school_id, closure.id, closure.bed_id, closure.starts, closure.ends, closure.reason, closure.paid_by],
    )


def delete_closure(connection: Connection[Any], closure_id: UUID) -> None:
    if connection.execute("DELETE FROM bed_closure WHERE id = %s", [closure_id]).rowcount == 0:
        raise errors.NotFound("That closure is not on file any more.")
