"""Logins: one opened, listed and ended; and the marks by which a browser is known."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, scalar_row

IDLE_END = timedelta(days=7)  # nobody has used it for so long: our own rule


@dataclass(frozen=True)
class Session:
    """A login of an account. `own` is the one that asks; `new` came from a browser that was not known."""

    id: UUID
    browser: str
    begun_at: datetime
    seen_at: datetime
    own: bool
    new: bool


def open_session(
    connection: Connection[Any],
    token_hash: bytes,
    account_id: UUID,
    expires_at: datetime,
    *,
    browser: str = "",
    idle_end: timedelta = IDLE_END,
    new: bool = False,
) -> bool:
    """Open a session in the account's first school; False when the account belongs to none.

    It ends at `expires_at`, or when nobody used it for `idle_end`. `new` says that the browser was not known.
    """
    row = connection.cursor(row_factory=scalar_row).execute(
        "SELECT auth_open_session(%s, %s, %s, %s, %s, %s)",
        [token_hash, account_id, expires_at, browser[:80], idle_end, new],
    )
    return bool(row.fetchone())


def close(connection: Connection[Any], token_hash: bytes) -> None:
    connection.execute("SELECT auth_close_session(%s)", [token_hash])


def sessions(connection: Connection[Any], token_hash: bytes) -> list[Session]:
    """The logins of this session's account, its own first."""
    rows = connection.cursor(row_factory=class_row(Session))
    return rows.execute("SELECT * FROM auth_sessions(%s)", [token_hash]).fetchall()


def end(connection: Connection[Any], token_hash: bytes, session_id: UUID | None) -> int:
    """End one other login of this session's account, or all others; how many ended."""
    row = connection.cursor(row_factory=scalar_row).execute(
        "SELECT auth_end_sessions(%s, %s)", [token_hash, session_id]
    )
    return int(row.fetchone() or 0)


def known(connection: Connection[Any], token_hash: bytes) -> None:
    """Browsers that were new to this session's account are known from now on."""
    connection.execute("SELECT auth_sessions_known(%s)", [token_hash])
