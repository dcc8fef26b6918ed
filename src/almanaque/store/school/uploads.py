"""Files between being sent and being confirmed. Each new one clears away those older than a day."""

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
    row = (
        connection.cursor(row_factory=class_row(Upload))
        .execute("SELECT id, name, source, body FROM upload WHERE id = %s AND purpose = %s", [upload_id, purpose])
        .fetchone()
    )
    if row is None:
        raise errors.NotFound("That file is kept for a day only, or was saved already. Send it again.")
    return row


def delete(connection: Connection[Any], upload_id: UUID) -> None:
    connection.execute("DELETE FROM upload WHERE id = %s", [upload_id])
