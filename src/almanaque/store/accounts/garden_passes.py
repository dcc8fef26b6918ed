"""Garden passes: links without an account for one class or carer, for some days."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection, sql
from psycopg.rows import class_row, scalar_row

from almanaque.store import errors
from almanaque.store.accounts.accounts import Visitor


@dataclass(frozen=True)
class Pass:
    """`class_group_id` is None for a carer's pass."""

    id: UUID
    label: str
    class_group_id: UUID | None
    opens_at: datetime
    expires_at: datetime
    used_at: datetime | None


def passes(connection: Connection[Any]) -> list[Pass]:
    """The passes that open the garden or will."""
    return (
        connection.cursor(row_factory=class_row(Pass))
        .execute(
            "SELECT id, label, class_group_id, opens_at, expires_at, used_at FROM garden_pass"
            " WHERE revoked_at IS NULL AND expires_at > now() ORDER BY expires_at"
        )
        .fetchall()
    )


def save(
    connection: Connection[Any],
    school_id: UUID,
    pass_id: UUID,
    *,
    label: str,
    group_id: UUID | None,
    token_hash: bytes,
    opens_at: datetime,
    expires_at: datetime,
    by: UUID | None,
) -> None:
    connection.execute(
        """INSERT INTO garden_pass (school_id, id, label, class_group_id, token_hash, opens_at, expires_at, made_by)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s)""",
        [school_id, pass_id, label, group_id, token_hash, opens_at, expires_at, by],
    )


def revoke(connection: Connection[Any], pass_id: UUID) -> None:
    """End a pass at once, wherever it is open."""
    done = connection.execute(
        "UPDATE garden_pass SET revoked_at = now() WHERE id = %s AND revoked_at IS NULL", [pass_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("That pass does not open anything any more.")


def visitor(connection: Connection[Any], token_hash: bytes) -> Visitor | None:
    """Who holds a pass that is open today; that it was used is noted."""
    rows = connection.cursor(row_factory=class_row(Visitor))
    return rows.execute("SELECT * FROM auth_pass(%s)", [token_hash]).fetchone()


def opens_at(connection: Connection[Any], token_hash: bytes) -> datetime | None:
    """From when a pass opens the garden; None for one that is unknown, over or taken back. Nothing is written."""
    rows = connection.cursor(row_factory=scalar_row).execute("SELECT auth_pass_opens(%s)", [token_hash])
    found = rows.fetchone()
    return found if isinstance(found, datetime) else None


def sign(
    connection: Connection[Any], table: Literal["journal_entry", "harvest", "task"], row_id: UUID, pass_id: UUID | None
) -> None:
    """Note on a row which pass wrote it."""
    connection.execute(
        sql.SQL("UPDATE {} SET pass_id = %s WHERE id = %s").format(sql.Identifier(table)), [pass_id, row_id]
    )
