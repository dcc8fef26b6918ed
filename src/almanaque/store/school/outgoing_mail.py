"""Mail of a school: what waits to be handed over, and what was."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store.sql import load

SQL = load("school/outgoing_mail")


@dataclass(frozen=True)
class Mail:
    """A message. `mail_to` are addresses with commas between; it waits while it was neither sent nor given up.

    `tries` counts how often it was refused, `problem` says why the last time, `next_try_at` when it is offered again.
    """

    id: UUID
    key: str
    mail_to: str
    subject: str
    body: str
    made_at: datetime
    sent_at: datetime | None
    problem: str
    tries: int = 0
    next_try_at: datetime | None = None
    given_up_at: datetime | None = None


# How the keys of messages begin that only their receiver may read: they are listed nowhere and not kept.
SECRET = "reset "  # noqa: S105
MOST_TRIES = 8
FIRST_WAIT = timedelta(minutes=10)  # doubled with every try: the last is about a day and a half after the first
OLD_NEWS = timedelta(days=3)  # a warning is of no use any more: our own rule


def mails(connection: Connection[Any], *, limit: int = 40) -> list[Mail]:
    """The last messages, newest first, without those that only their receiver may read."""
    return (
        connection.cursor(row_factory=class_row(Mail))
        .execute(SQL["mails"], {"limit": limit, "secret": SECRET})
        .fetchall()
    )


def due(connection: Connection[Any], *, limit: int = 40) -> list[Mail]:
    """Messages to hand over now: those that wait longest for their turn first, so that a refused one lets others pass."""
    return connection.cursor(row_factory=class_row(Mail)).execute(SQL["due"], {"limit": limit}).fetchall()


def put(connection: Connection[Any], school_id: UUID, *, key: str, mail_to: str, subject: str, body: str) -> bool:
    """Let a message wait; False when it was said under this key already."""
    done = connection.execute(
        """INSERT INTO mail (school_id, id, key, mail_to, subject, body) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT ON CONSTRAINT mail_once DO NOTHING""",
        [school_id, uuid4(), key, mail_to, subject, body],
    )
    return bool(done.rowcount)


def sent(connection: Connection[Any], mail_id: UUID, *, now: datetime) -> None:
    connection.execute(SQL["sent"], {"now": now, "mail": mail_id, "secret": SECRET})


def refused(connection: Connection[Any], mail_id: UUID, problem: str, *, for_good: bool) -> None:
    """It was not taken: offer it again later, and after the last try, or when it can never be taken, no more."""
    connection.execute(
        SQL["refused"],
        {"problem": problem[:300], "mail": mail_id, "wait": FIRST_WAIT, "most": MOST_TRIES, "for_good": for_good},
    )


def nobody_there(connection: Connection[Any], problem: str) -> None:
    """There is no mail server to offer anything to: that is no message's fault and counts as no try, but old news is given up."""
    connection.execute(SQL["nobody_there"], {"problem": problem[:300], "old": OLD_NEWS})


def offer_again(connection: Connection[Any]) -> None:
    """Begin anew with the messages that were given up."""
    connection.execute(SQL["offer_again"])


def counts(connection: Connection[Any]) -> tuple[int, int]:
    """How many messages wait, and how many were given up."""
    row = connection.execute(SQL["counts"]).fetchone()
    return (int(row[0]), int(row[1])) if row else (0, 0)
