"""Drafts: rival pencil plans, each somebody's."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import NAMESPACE_URL, UUID, uuid5

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

FIRST = "Pencil plan"


@dataclass(frozen=True)
class Draft:
    """`plantings` are those still in pencil. A closed draft was chosen from, or put aside."""

    id: UUID
    name: str
    made_by: str
    class_group_id: UUID | None
    closed_on: date | None
    plantings: int = 0


def drafts(connection: Connection[Any]) -> list[Draft]:
    """All drafts, open ones first, in the order in which they were begun."""
    return (
        connection.cursor(row_factory=class_row(Draft))
        .execute(
            """SELECT d.id, d.name, d.made_by, d.class_group_id, d.closed_on,
             (SELECT count(*) FROM planting p WHERE p.school_id = d.school_id AND p.draft_id = d.id AND p.status = 'pencilled') AS plantings
           FROM draft d ORDER BY d.closed_on IS NOT NULL, d.created_at, d.name"""
        )
        .fetchall()
    )


def draft(connection: Connection[Any], draft_id: UUID | None) -> Draft:
    """A draft, or without an id the first open one; in a school that has none, the one it will begin with.

    Raises NotFound for an id that is not there.
    """
    every = drafts(connection)
    found = [d for d in every if (d.id == draft_id if draft_id else d.closed_on is None)]
    if found:
        return found[0]
    row = connection.execute("SELECT current_setting('almanaque.school')::uuid").fetchone()
    first = Draft(uuid5(NAMESPACE_URL, f"first draft of {row[0] if row else ''}"), FIRST, "", None, None)
    if draft_id not in (None, first.id) or any(d.id == first.id for d in every):
        raise errors.NotFound("There is no such draft in this school. Begin one under Drafts.")
    return first


def hold(connection: Connection[Any]) -> None:
    """Let nobody else open, close or rename drafts until the transaction ends."""
    connection.execute("SELECT FROM draft ORDER BY id FOR NO KEY UPDATE")


def ensure(connection: Connection[Any], school_id: UUID, wish: Draft) -> None:
    """Write the draft that a school begins with, if it is not there yet."""
    connection.execute(
        "INSERT INTO draft (school_id, id, name) VALUES (%s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING",
        [school_id, wish.id, wish.name],
    )


def save(connection: Connection[Any], school_id: UUID, wish: Draft) -> None:
    connection.execute(
        """INSERT INTO draft (school_id, id, name, made_by, class_group_id, closed_on) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, made_by = excluded.made_by,
             class_group_id = excluded.class_group_id, closed_on = excluded.closed_on""",
        [school_id, wish.id, wish.name, wish.made_by, wish.class_group_id, wish.closed_on],
    )


def delete(connection: Connection[Any], draft_id: UUID) -> None:
    """Take a draft out that holds nothing. Raises Refused for one that has plantings, pencilled or chosen from it."""
    used = connection.execute("SELECT EXISTS (SELECT FROM planting WHERE draft_id = %s)", [draft_id]).fetchone()
    if used and used[0]:
        raise errors.Refused(
            "Something was planned in this draft. Rub it out first, or close the draft.", constraint=""
        )
    if connection.execute("DELETE FROM draft WHERE id = %s", [draft_id]).rowcount == 0:
        raise errors.NotFound("There is no such draft in this school.")
