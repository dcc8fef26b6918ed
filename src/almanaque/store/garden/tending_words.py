"""What people said of a planting's tending: that a practice is called for, or wanted no more."""

from datetime import date
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection

Word = Literal["called", "ended"]


def say(connection: Connection[Any], school_id: UUID, planting_id: UUID, step: str, word: Word, day: date) -> None:
    """Keep a word on a practice, in the place of an earlier one of the same kind."""
    connection.execute(
        """INSERT INTO tending_word (school_id, planting_id, step, word, on_day) VALUES (%s, %s, %s, %s, %s)
           ON CONFLICT (school_id, planting_id, step, word) DO UPDATE SET on_day = excluded.on_day""",
        [school_id, planting_id, step, word, day],
    )


def unsay(connection: Connection[Any], planting_id: UUID, step: str, word: Word) -> None:
    """Take a word back."""
    connection.execute(
        "DELETE FROM tending_word WHERE planting_id = %s AND step = %s AND word = %s", [planting_id, step, word]
    )
