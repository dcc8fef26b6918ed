"""What phones have sent: each entry under the id that the phone gave it, taken once."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection

Before = Literal["new", "same", "other"]


@dataclass(frozen=True)
class Received:
    """An entry's identity: who noted it, when, and the digest of what it says; the question of the tour it answers, if one."""

    id: UUID
    kind: str
    digest: str
    account_id: UUID
    noted_on: date
    noted_at: datetime
    question: str = ""
    answer: str = ""


def take(connection: Connection[Any], school_id: UUID, entry: Received) -> Before:
    """Write down that an entry came. `same` came before; `other` is another one under the same id, which is not taken.

    Two that come at once wait for one another: the second sees what became of the first.
    """
    done = connection.execute(
        """INSERT INTO received (school_id, id, kind, digest, account_id, noted_on, noted_at, question, answer)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [
            school_id,
            entry.id,
            entry.kind,
            entry.digest,
            entry.account_id,
            entry.noted_on,
            entry.noted_at,
            entry.question,
            entry.answer,
        ],
    )
    if done.rowcount:
        return "new"
    row = connection.execute("SELECT digest FROM received WHERE id = %s", [entry.id]).fetchone()
    return "same" if row is not None and row[0] == entry.digest else "other"


def answers(connection: Connection[Any], day: date) -> dict[str, str]:
    """The questions answered on a day, each with the last answer."""
    rows = connection.execute(
        "SELECT question, answer FROM received WHERE noted_on = %s AND question <> '' ORDER BY noted_at, received_at",
        [day],
    )
    return dict(rows.fetchall())
