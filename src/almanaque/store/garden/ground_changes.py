"""What was done to the map: each thing before and after a step, so that its account can take the step back and do it again."""

from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb

Thing = Literal["bed", "feature"]
Snapshot = dict[str, Any]


@dataclass(frozen=True)
class GroundChange:
    """One thing in a step; `before` is None for what was added, `after` for what was taken off."""

    number: int
    step: UUID
    what: Thing
    thing_id: UUID
    name: str
    before: Snapshot | None
    after: Snapshot | None


def add(
    connection: Connection[Any],
    school_id: UUID,
    *,
    step: UUID,
    by: UUID | None,
    what: Thing,
    thing_id: UUID,
    name: str,
    before: Snapshot | None,
    after: Snapshot | None,
) -> None:
    """Keep a change; what its account had undone can then no more be done again. Those of a month ago go."""
    connection.execute(
        "DELETE FROM ground_change WHERE undone AND account_id IS NOT DISTINCT FROM %s AND step <> %s", [by, step]
    )
    connection.execute("DELETE FROM ground_change WHERE at < now() - interval '30 days'")
    connection.execute(
        """INSERT INTO ground_change (school_id, step, account_id, what, thing_id, name, before, after)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s)""",
        [school_id, step, by, what, thing_id, name, *(Jsonb(s) if s is not None else None for s in (before, after))],
    )


def next_undo(connection: Connection[Any], by: UUID | None) -> list[GroundChange]:
    """The changes of an account's last step of a day that was not taken back, the last first; empty without any."""
    return _step(connection, by, undone=False, newest=True)


def next_redo(connection: Connection[Any], by: UUID | None) -> list[GroundChange]:
    """The changes of the first step that was taken back, in their order; empty without any."""
    return _step(connection, by, undone=True, newest=False)


def mark(connection: Connection[Any], step: UUID, *, undone: bool) -> None:
    connection.execute("UPDATE ground_change SET undone = %s WHERE step = %s", [undone, step])


def _step(connection: Connection[Any], by: UUID | None, *, undone: bool, newest: bool) -> list[GroundChange]:
    order = "DESC" if newest else "ASC"
    row = connection.execute(
        f"""SELECT step FROM ground_change WHERE account_id IS NOT DISTINCT FROM %s AND undone = %s
            AND at > now() - interval '16 hours' ORDER BY number {order} LIMIT 1""",  # noqa: S608 - one of two words of ours
        [by, undone],
    ).fetchone()
    if row is None:
        return []
    return (
        connection.cursor(row_factory=class_row(GroundChange))
        .execute(
            f"""SELECT number, step, what, thing_id, name, before, after FROM ground_change WHERE step = %s
                ORDER BY number {order}""",  # noqa: S608 - one of two words of ours
            [row[0]],
        )
        .fetchall()
    )
