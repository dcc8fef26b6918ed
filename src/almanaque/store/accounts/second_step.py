"""The second step of logging in: the secret that makes codes, and recovery codes that work once."""

from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import scalar_row


def use_step(connection: Connection[Any], account_id: UUID, step: int) -> bool:
    """A code of this step of time was given; False when it, or a later one, was used before."""
    row = connection.cursor(row_factory=scalar_row).execute("SELECT auth_use_step(%s, %s)", [account_id, step])
    return bool(row.fetchone())


def use_recovery_code(connection: Connection[Any], account_id: UUID, code_hash: bytes) -> bool:
    """Use one of the account's recovery codes up; False when it has no such one."""
    row = connection.cursor(row_factory=scalar_row).execute(
        "SELECT auth_use_recovery_code(%s, %s)", [account_id, code_hash]
    )
    return bool(row.fetchone())


def set_second_step(
    connection: Connection[Any], token_hash: bytes, secret: str | None, step: int | None, codes: list[bytes]
) -> None:
    """Ask the session's account for codes from now on, or for none any more; its recovery codes are replaced by these."""
    connection.execute("SELECT auth_set_second_step(%s, %s, %s, %s)", [token_hash, secret, step, codes])
