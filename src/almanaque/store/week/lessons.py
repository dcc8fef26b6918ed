"""Lessons of a school's own, and which class had which one."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from almanaque.store import errors


@dataclass(frozen=True)
class Held:
    lesson: str
    class_group_id: UUID
    on_day: date


def own(connection: Connection[Any]) -> list[dict[str, Any]]:
    """The school's own outlines as plain values."""
    rows = connection.execute("SELECT key, outline FROM own_lesson ORDER BY key").fetchall()
    return [{**outline, "key": key} for key, outline in rows]


def save(connection: Connection[Any], school_id: UUID, key: str, outline: dict[str, Any]) -> None:
    """Write an outline under its key, new or changed."""
    connection.execute(
        """INSERT INTO own_lesson (school_id, key, outline) VALUES (%s, %s, %s)
           ON CONFLICT (school_id, key) DO UPDATE SET outline = excluded.outline""",
        [school_id, key, Jsonb(outline)],
    )


def delete(connection: Connection[Any], key: str) -> None:
    """Take an outline of the school's own out; one that ships with the application shows as it came."""
    if connection.execute("DELETE FROM own_lesson WHERE key = %s", [key]).rowcount == 0:
        raise errors.NotFound("That lesson is not one of your own.")


def held(connection: Connection[Any], start: date, end: date) -> list[Held]:
    """Lessons held from a day to a day, the latest first."""
    rows = connection.cursor(row_factory=class_row(Held))
    return rows.execute(
        "SELECT lesson, class_group_id, on_day FROM lesson_held WHERE on_day BETWEEN %s AND %s ORDER BY on_day DESC, lesson",
        [start, end],
    ).fetchall()


def note_held(connection: Connection[Any], school_id: UUID, row: Held) -> None:
    """Note that a class had a lesson; noted twice it counts once."""
    connection.execute(
        """INSERT INTO lesson_held (school_id, lesson, class_group_id, on_day) VALUES (%s, %s, %s, %s)
           ON CONFLICT (school_id, lesson, class_group_id, on_day) DO NOTHING""",
        [school_id, row.lesson, row.class_group_id, row.on_day],
    )


def forget_held(connection: Connection[Any], row: Held) -> None:
    """Take back what was noted by mistake."""
    connection.execute(
        "DELETE FROM lesson_held WHERE lesson = %s AND class_group_id = %s AND on_day = %s",
        [row.lesson, row.class_group_id, row.on_day],
    )
