"""Beds promised from a day on, and themes that several plantings are part of."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class Promise:
    """A bed that must be free from `from_day` on, for `what_for`."""

    id: UUID
    bed_id: UUID
    from_day: date
    what_for: str


@dataclass(frozen=True)
class Theme:
    """A dish or a story that several beds grow their parts of, ready on one day."""

    id: UUID
    name: str
    ready_on: date
    note: str


def promises(connection: Connection[Any], bed_id: UUID | None = None) -> list[Promise]:
    rows = connection.cursor(row_factory=class_row(Promise))
    return rows.execute(
        "SELECT id, bed_id, from_day, what_for FROM bed_promise WHERE %(bed)s::uuid IS NULL OR bed_id = %(bed)s ORDER BY from_day",
        {"bed": bed_id},
    ).fetchall()


def save_promise(connection: Connection[Any], school_id: UUID, promise: Promise) -> None:
    connection.execute(
        """INSERT INTO bed_promise (school_id, id, bed_id, from_day, what_for) VALUES (%s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET bed_id = excluded.bed_id, from_day = excluded.from_day,
           what_for = excluded.what_for""",
        [school_id, promise.id, promise.bed_id, promise.from_day, promise.what_for],
    )


def delete_promise(connection: Connection[Any], promise_id: UUID) -> None:
    if connection.execute("DELETE FROM bed_promise WHERE id = %s", [promise_id]).rowcount == 0:
        raise errors.NotFound("That promise is not on the list any more.")


def themes(connection: Connection[Any]) -> list[Theme]:
    rows = connection.cursor(row_factory=class_row(Theme))
    return rows.execute("SELECT id, name, ready_on, note FROM theme ORDER BY ready_on, name").fetchall()


def theme(connection: Connection[Any], theme_id: UUID) -> Theme:
    rows = connection.cursor(row_factory=class_row(Theme))
    found = rows.execute("SELECT id, name, ready_on, note FROM theme WHERE id = %s", [theme_id]).fetchone()
    if found is None:
        raise errors.NotFound("There is no such theme in this school.")
    return found


def save_theme(connection: Connection[Any], school_id: UUID, theme: Theme) -> None:
    connection.execute(
        """INSERT INTO theme (school_id, id, name, ready_on, note) VALUES (%s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, ready_on = excluded.ready_on, note = excluded.note""",
        [school_id, theme.id, theme.name, theme.ready_on, theme.note],
    )


def delete_theme(connection: Connection[Any], theme_id: UUID) -> None:
    """Take a theme out; its plantings stay where they are."""
    connection.execute("DELETE FROM theme WHERE id = %s", [theme_id])
