"""Links to a new password, for whoever lost theirs. Only their hashes are kept; each works once."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, scalar_row


@dataclass(frozen=True)
class Reset:
    """Whose password a link makes anew, and whether the account has a second step, which ends with it."""

    login: str
    second_step: bool


def make(connection: Connection[Any], account_id: UUID, token_hash: bytes, expires_at: datetime) -> bool:
    """For a person of the transaction's school who belongs to no other; False for anybody else. Earlier links end."""
    row = connection.cursor(row_factory=scalar_row).execute(
        "SELECT auth_make_reset(%s, %s, %s)", [account_id, token_hash, expires_at]
    )
    return bool(row.fetchone())


def make_by_mail(connection: Connection[Any], login: str, token_hash: bytes, expires_at: datetime) -> UUID | None:
    """For whoever logs in by this name; return the school whose mail may carry it, None for an unknown login."""
    row = connection.cursor(row_factory=scalar_row).execute(
        "SELECT auth_make_reset_by_mail(%s, %s, %s)", [login, token_hash, expires_at]
    )
    found = row.fetchone()
    return found if isinstance(found, UUID) else None


def reset(connection: Connection[Any], token_hash: bytes) -> Reset | None:
    """What a link opens; None for one that is unknown, used or over."""
    rows = connection.cursor(row_factory=class_row(Reset))
    return rows.execute("SELECT * FROM auth_reset_link(%s)", [token_hash]).fetchone()


def use(connection: Connection[Any], token_hash: bytes, password_hash: str) -> UUID | None:
    """Let the new password hold and end every login; return the account, None for a link that is over."""
    row = connection.cursor(row_factory=scalar_row).execute(
        "SELECT auth_use_reset(%s, %s)", [token_hash, password_hash]
    )
    found = row.fetchone()
    return found if isinstance(found, UUID) else None
