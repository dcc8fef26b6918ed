"""The log of a school: who logged in, changed people, took data out. It is written and read, never changed."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

What = Literal[
    "login",
    "login from new browser",
    "password changed",
    "second step on",
    "second step off",
    "recovery code used",
    "recovery link made",
    "recovery link used",
    "session ended",
    "invited",
    "invitation taken back",
    "joined",
    "role changed",
    "let go",
    "erased",
    "pass made",
    "pass taken back",
    "exported",
    "restored",
    "calendar address made",
    "letter published",
    "open garden published",
    "open garden ended",
]
KEPT_DAYS = 400  # a school year and the weeks around it: our own rule


@dataclass(frozen=True)
class AuditEntry:
    """Names are as they are today: whose it was, empty for the server itself, and the one it was done to, if to a person."""

    id: int
    at: datetime
    name: str
    what: What
    subject: str
    about: str


def note(
    connection: Connection[Any],
    school_id: UUID,
    account_id: UUID | None,
    what: What,
    about: str = "",
    *,
    subject: UUID | None = None,
) -> None:
    """Write into the log of the transaction's school, with the person it was done to. `about` is cut to 200 characters and names
    nobody who has an account."""
    connection.execute(
        "INSERT INTO audit_entry (school_id, account_id, what, about, subject_id) VALUES (%s, %s, %s, %s, %s)",
        [school_id, account_id, what, about[:200], subject],
    )


def note_everywhere(
    connection: Connection[Any], account_id: UUID, what: What, about: str = "", *, only: UUID | None = None
) -> None:
    """Write into the logs of all schools that the account belongs to, or of one of them, before any school is chosen."""
    connection.execute("SELECT auth_audit(%s, %s, %s, %s)", [account_id, only, what, about[:200]])


def entries(connection: Connection[Any], *, limit: int) -> list[AuditEntry]:
    """The last entries of the transaction's school, newest first."""
    rows = connection.cursor(row_factory=class_row(AuditEntry))
    return rows.execute("SELECT * FROM auth_audit_entries(%s)", [limit]).fetchall()


def forget(connection: Connection[Any]) -> None:
    """Drop what is older than the log is kept."""
    connection.execute("SELECT auth_forget_audit(%s)", [KEPT_DAYS])
