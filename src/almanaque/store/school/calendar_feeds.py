"""Private addresses of the calendar. Only the hash of a token is kept."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

What = Literal["calendar", "plan", "both"]


@dataclass(frozen=True)
class Feed:
    id: UUID
    label: str
    what: What
    made_at: datetime
    read_at: datetime | None


@dataclass(frozen=True)
class FeedSchool:
    school_id: UUID
    what: What


def feeds(connection: Connection[Any]) -> list[Feed]:
    """The addresses that still work."""
    return (
        connection.cursor(row_factory=class_row(Feed))
        .execute(
            "SELECT id, label, what, made_at, read_at FROM calendar_feed WHERE revoked_at IS NULL ORDER BY made_at"
        )
        .fetchall()
    )


def save(
    connection: Connection[Any],
    school_id: UUID,
    feed_id: UUID,
    *,
    label: str,
    what: str,
    token_hash: bytes,
    by: UUID | None,
) -> None:
    connection.execute(
        "INSERT INTO calendar_feed (school_id, id, label, what, token_hash, made_by) VALUES (%s, %s, %s, %s, %s, %s)",
        [school_id, feed_id, label, what, token_hash, by],
    )


def revoke(connection: Connection[Any], feed_id: UUID) -> None:
    done = connection.execute(
        "UPDATE calendar_feed SET revoked_at = now() WHERE id = %s AND revoked_at IS NULL", [feed_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("That address does not work any more.")


def school_of(connection: Connection[Any], token_hash: bytes) -> FeedSchool | None:
    """The school that an address shows; None for one that is unknown or revoked."""
    rows = connection.cursor(row_factory=class_row(FeedSchool))
    return rows.execute("SELECT * FROM auth_feed(%s)", [token_hash]).fetchone()
