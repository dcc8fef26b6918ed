"""Files between being sent and being confirmed, once. Each new one clears away those older than a day."""

from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

Purpose = Literal["calendar", "weather", "pickings", "plantings", "chart"]


@dataclass(frozen=True)
class Upload:
    id: UUID
    name: str
    source: str
    body: bytes
    led_to: str = ""


def save(
    connection: Connection[Any],
    school_id: UUID,
    upload_id: UUID,
    purpose: Purpose,
    *,
    name: str,
    body: bytes,
    source: str = "",
) -> None:
    connection.execute("DELETE FROM upload WHERE sent_at < now() - interval '1 day'")
    connection.execute(
        "INSERT INTO upload (school_id, id, purpose, name, source, body) VALUES (%s, %s, %s, %s, %s, %s)",
        [school_id, upload_id, purpose, name, source, body],
    )


def get(connection: Connection[Any], upload_id: UUID, purpose: Purpose) -> Upload:
    """A file to look at. Raises NotFound, and TakenBefore for one that was taken in."""
    row = (
        connection.cursor(row_factory=class_row(Upload))
        .execute(
            "SELECT id, name, source, body, led_to FROM upload WHERE id = %s AND purpose = %s", [upload_id, purpose]
        )
        .fetchone()
    )
    if row is None:
        raise errors.NotFound("That file is kept for a day only. Send it again.")
    if row.led_to:
        raise errors.TakenBefore(row.led_to)
    return row


def hold(connection: Connection[Any], upload_id: UUID, purpose: Purpose) -> Upload:
    """A file to take in, held until the transaction ends, so that only one of two taps takes it. Raises as `get` does."""
    connection.execute("SELECT 1 FROM upload WHERE id = %s FOR UPDATE", [upload_id])
    return get(connection, upload_id, purpose)


def taken(connection: Connection[Any], upload_id: UUID, led_to: str) -> None:
    """The file is in; `led_to` is the address that shows what came of it."""
    connection.execute("UPDATE upload SET body = '', led_to = %s WHERE id = %s", [led_to, upload_id])
