"""A form sent before being logged in is done once, however often it is sent: what came of it, for an hour."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True)
class Entered:
    """Whom a form has let in, and the school it led to; none where that is the account's first one."""

    account_id: UUID
    login: str
    school_id: UUID | None


def begin(connection: Connection[Any], number: UUID | None) -> Entered | None:
    """What came of a form that was sent before, by its number; None for the first time. One that is being done is waited for."""
    if number is None:
        return None
    rows = connection.cursor(row_factory=class_row(Entered))
    return rows.execute("SELECT * FROM auth_entered(%s)", [number]).fetchone()


def note(connection: Connection[Any], number: UUID | None, account_id: UUID, school_id: UUID | None) -> None:
    """Keep what came of it."""
    if number is not None:
        connection.execute("SELECT auth_note_entered(%s, %s, %s)", [number, account_id, school_id])
