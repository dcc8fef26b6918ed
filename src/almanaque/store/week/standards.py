"""A school's curriculum codes, and which lessons cover them."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.week.standards import Standard


def standards(connection: Connection[Any]) -> list[Standard]:
    """In the order of the list that came in."""
    rows = connection.cursor(row_factory=class_row(Standard))
    return rows.execute("SELECT code, words, subject, grades FROM standard ORDER BY ordinal, code").fetchall()


def put(connection: Connection[Any], school_id: UUID, rows: Sequence[Standard], *, only: bool) -> None:
    """Take a list in; codes that are there already get its words. With `only` those that it does not name go, and leave their lessons."""
    connection.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [f"standards {school_id}"])
    if only:
        connection.execute("DELETE FROM standard WHERE code <> ALL(%s)", [[row.code for row in rows]])
    connection.cursor().executemany(
        """INSERT INTO standard (school_id, code, words, subject, grades, ordinal) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, code) DO UPDATE SET words = excluded.words, subject = excluded.subject,
             grades = excluded.grades, ordinal = excluded.ordinal""",
        [(school_id, row.code, row.words, row.subject, row.grades, n) for n, row in enumerate(rows)],
    )


def of_lessons(connection: Connection[Any]) -> dict[str, list[str]]:
    """Codes by lesson, in the order of the list."""
    found: dict[str, list[str]] = {}
    for lesson, code in connection.execute(
        """SELECT l.lesson, l.code FROM lesson_standard l JOIN standard s ON s.school_id = l.school_id AND s.code = l.code
           ORDER BY s.ordinal, s.code"""
    ):
        found.setdefault(lesson, []).append(code)
    return found


def attach(connection: Connection[Any], school_id: UUID, lesson: str, codes: Sequence[str]) -> None:
    """Say which codes a lesson covers, in place of what was said before."""
    connection.execute("DELETE FROM lesson_standard WHERE lesson = %s", [lesson])
    connection.cursor().executemany(
        "INSERT INTO lesson_standard (school_id, lesson, code) VALUES (%s, %s, %s)",
        [(school_id, lesson, code) for code in codes],
    )
