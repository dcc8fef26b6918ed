"""What was sent by a form is written once, however often it is sent. Kept for three days, longer than any form stays open."""

from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.store import errors


def begin(connection: Connection[Any], school_id: UUID, request_id: UUID) -> None:
    """Write what comes under this number, unless it was written before; one that is being written is waited for.

    Raises TakenBefore with the address that the first one led to, empty for one that answered with a part of a page.
    """
    done = connection.execute(
        "INSERT INTO written_once (school_id, id) VALUES (%s, %s) ON CONFLICT DO NOTHING", [school_id, request_id]
    )
    if done.rowcount:
        return
    row = connection.execute("SELECT led_to FROM written_once WHERE id = %s", [request_id]).fetchone()
    raise errors.TakenBefore(str(row[0]) if row else "")


def look(connection: Connection[Any], request_id: UUID) -> None:
    """Raise TakenBefore for what was written under this number before; nothing is written."""
    row = connection.execute("SELECT led_to FROM written_once WHERE id = %s", [request_id]).fetchone()
    if row is not None:
        raise errors.TakenBefore(str(row[0]))


def led_to(connection: Connection[Any], request_id: UUID, address: str) -> None:
    """The page that shows what came of it."""
    connection.execute("UPDATE written_once SET led_to = %s WHERE id = %s", [address, request_id])


def forget_old(connection: Connection[Any]) -> None:
    connection.execute("DELETE FROM written_once WHERE written_at < now() - interval '3 days'")
