"""What the server itself did last, for whoever asks how it is: its nightly round, a backup."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from psycopg import Connection
from psycopg.rows import class_row

What = Literal["each night", "backup"]


@dataclass(frozen=True)
class LastDone:
    done_at: datetime
    detail: str


def last(connection: Connection[Any], what: What) -> LastDone | None:
    """When this was last done, None for never."""
    rows = connection.cursor(row_factory=class_row(LastDone))
    return rows.execute("SELECT done_at, detail FROM upkeep WHERE what = %s", [what]).fetchone()


def done(connection: Connection[Any], what: What, detail: str = "") -> None:
    """Note that this was done now."""
    connection.execute(
        """INSERT INTO upkeep (what, done_at, detail) VALUES (%s, now(), %s)
           ON CONFLICT (what) DO UPDATE SET done_at = excluded.done_at, detail = excluded.detail""",
        [what, detail],
    )


def overdue(connection: Connection[Any], what: What, *, hours: int) -> bool:
    """True when it was not done within so many hours."""
    row = connection.execute(
        "SELECT NOT EXISTS (SELECT FROM upkeep WHERE what = %s AND done_at > now() - make_interval(hours => %s))",
        [what, hours],
    ).fetchone()
    return bool(row and row[0])
