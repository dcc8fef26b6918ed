"""Ballots that children filled in, at a class page or at home, and what they wished for besides."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.journal.class_ballots import ChildBallot
from almanaque.store import errors


@dataclass(frozen=True)
class CastBallot:
    """A ballot as it lies in the box. It came from home when it has no tablet."""

    id: UUID
    class_group_id: UUID
    dots: list[str]
    wish: str
    cast_on: date
    from_home: bool

    @property
    def filled(self) -> ChildBallot:
        return ChildBallot(tuple(self.dots), self.wish)


_COLUMNS = """SELECT id, class_group_id, dots, wish, cast_on, tablet IS NULL AS from_home FROM child_ballot
  WHERE taken_back_at IS NULL AND"""


def cast(connection: Connection[Any], ballot_id: UUID, group_id: UUID | None = None) -> list[CastBallot]:
    """What lies in the box of a ballot, of one class or of all, in the order of coming in."""
    rows = connection.cursor(row_factory=class_row(CastBallot))
    return rows.execute(
        f"{_COLUMNS} ballot_id = %s AND (%s::uuid IS NULL OR class_group_id = %s) ORDER BY cast_on, id",
        [ballot_id, group_id, group_id],
    ).fetchall()


def has_cast(connection: Connection[Any], ballot_id: UUID, group_id: UUID, reader: bytes) -> bool:
    """True for a browser at home whose ballot lies in the box: a second one takes its place."""
    row = connection.execute(
        """SELECT 1 FROM child_ballot
           WHERE ballot_id = %s AND class_group_id = %s AND reader = %s AND taken_back_at IS NULL""",
        [ballot_id, group_id, reader],
    ).fetchone()
    return row is not None


def hold(connection: Connection[Any], ballot_id: UUID) -> None:
    """Let nobody else put a ballot in until the transaction ends."""
    connection.execute("SELECT FROM ballot WHERE id = %s FOR NO KEY UPDATE", [ballot_id])


def save(
    connection: Connection[Any],
    school_id: UUID,
    ballot_id: UUID,
    group_id: UUID,
    ballot_of: UUID,
    filled: ChildBallot,
    *,
    day: date,
    tablet: UUID | None = None,
    reader: bytes | None = None,
) -> None:
    """Put a ballot into the box under its number; sent again it is in there once. A browser at home has one, which it may change."""
    connection.execute(
        """INSERT INTO child_ballot (school_id, id, ballot_id, class_group_id, tablet, reader, dots, wish, cast_on)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING"""
        if reader is None
        else """INSERT INTO child_ballot (school_id, id, ballot_id, class_group_id, tablet, reader, dots, wish, cast_on)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT ON CONSTRAINT child_ballot_once DO UPDATE SET dots = excluded.dots, wish = excluded.wish,
             cast_on = excluded.cast_on, taken_back_at = NULL""",
        [school_id, ballot_of, ballot_id, group_id, tablet, reader, list(filled.dots), filled.wish, day],
    )


def take_out(connection: Connection[Any], ballot_id: UUID, child_ballot_id: UUID) -> None:
    """Take one ballot out of the box, such as one that was filled in for fun."""
    done = connection.execute(
        "UPDATE child_ballot SET taken_back_at = now() WHERE id = %s AND ballot_id = %s AND taken_back_at IS NULL",
        [child_ballot_id, ballot_id],
    )
    if done.rowcount == 0:
        raise errors.NotFound("That ballot is not in the box any more.")
