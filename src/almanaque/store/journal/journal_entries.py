"""Notes from the garden, and what to come back to."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("journal/journal_entries")


@dataclass(frozen=True)
class JournalEntry:
    id: UUID
    bed_id: UUID | None
    bed_name: str | None
    noted_on: date
    body: str
    come_back_on: date | None
    closed_on: date | None
    noted_by: UUID | None
    noted_at: datetime


def entries(
    connection: Connection[Any], *, until: date, bed_id: UUID | None = None, limit: int = 60
) -> list[JournalEntry]:
    """Notes up to a day, newest first."""
    rows = connection.cursor(row_factory=class_row(JournalEntry))
    return rows.execute(SQL["entries"], {"until": until, "bed": bed_id, "limit": limit}).fetchall()


def to_come_back_to(connection: Connection[Any], *, day: date) -> list[JournalEntry]:
    """Open notes whose day to come back has come or is less than a week away."""
    return connection.cursor(row_factory=class_row(JournalEntry)).execute(SQL["come_back"], {"day": day}).fetchall()


def save(
    connection: Connection[Any],
    school_id: UUID,
    *,
    entry_id: UUID,
    bed_id: UUID | None,
    noted_on: date,
    body: str,
    come_back_on: date | None,
    by: UUID | None,
) -> None:
    """Keep a note. The same id with the same words is one note; with other words it is refused."""
    done = connection.execute(
        SQL["save"],
        {
            "school": school_id,
            "id": entry_id,
            "bed": bed_id,
            "day": noted_on,
            "body": body,
            "back": come_back_on,
            "by": by,
        },
    )
    if done.rowcount == 0:
        row = connection.execute("SELECT body FROM journal_entry WHERE id = %s", [entry_id]).fetchone()
        if row is None or row[0] != body:
            raise errors.IdTaken(
                "A note with this number is kept already and says something else. Write it as a new note."
            )


def close(connection: Connection[Any], entry_id: UUID, day: date) -> None:
    """Settle a note, so that it no longer comes back."""
    done = connection.execute("UPDATE journal_entry SET closed_on = %s WHERE id = %s", [day, entry_id])
    if done.rowcount == 0:
        raise errors.NotFound("There is no such note in this school.")


def come_back(connection: Connection[Any], entry_id: UUID, day: date) -> None:
    """Let a note come back on another day."""
    done = connection.execute("UPDATE journal_entry SET come_back_on = %s WHERE id = %s", [day, entry_id])
    if done.rowcount == 0:
        raise errors.NotFound("There is no such note in this school.")
