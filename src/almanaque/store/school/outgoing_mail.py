"""Mail of a school: what waits to be handed over, and what was."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True)
class Mail:
    """A message. `mail_to` are addresses with commas between; `sent_at` is None while it waits."""

    id: UUID
    key: str
    mail_to: str
    subject: str
    body: str
    made_at: datetime
    sent_at: datetime | None
    problem: str


def mails(connection: Connection[Any], *, waiting: bool = False, limit: int = 40) -> list[Mail]:
    """The last messages, newest first; or those that wait, oldest first."""
    order = "WHERE sent_at IS NULL ORDER BY made_at" if waiting else "ORDER BY made_at DESC"
    columns = "id, key, mail_to, subject, body, made_at, sent_at, problem"
    statement = f"SELECT {columns} FROM mail {order} LIMIT %s"  # noqa: S608 - fixed texts
    return connection.cursor(row_factory=class_row(Mail)).execute(statement.encode(), [limit]).fetchall()


def put(connection: Connection[Any], school_id: UUID, *, key: str, mail_to: str, subject: str, body: str) -> bool:
    """Let a message wait; False when it was said under this key already."""
    done = connection.execute(
        """INSERT INTO mail (school_id, id, key, mail_to, subject, body) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT ON CONSTRAINT mail_once DO NOTHING""",
        [school_id, uuid4(), key, mail_to, subject, body],
    )
    return bool(done.rowcount)


def sent(connection: Connection[Any], mail_id: UUID, *, now: datetime) -> None:
    connection.execute("UPDATE mail SET sent_at = %s, problem = '' WHERE id = %s", [now, mail_id])


def failed(connection: Connection[Any], mail_id: UUID, problem: str) -> None:
    connection.execute("UPDATE mail SET problem = %s WHERE id = %s", [problem[:300], mail_id])
