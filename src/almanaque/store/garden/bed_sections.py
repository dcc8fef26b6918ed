"""Sections of a bed: which part a group looks after."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection
from psycopg.rows import class_row


@dataclass(frozen=True)
class Section:
    """Part of a bed with a purpose of its own [mm from the bed's inside corner]."""

    purpose: str
    class_group_id: UUID | None
    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float


def sections(connection: Connection[Any], bed_id: UUID) -> list[Section]:
    return (
        connection.cursor(row_factory=class_row(Section))
        .execute(
            """SELECT purpose, class_group_id, x_mm::float8, y_mm::float8, length_mm::float8, width_mm::float8
           FROM section WHERE bed_id = %s ORDER BY y_mm, x_mm, purpose""",
            [bed_id],
        )
        .fetchall()
    )


def save_sections(connection: Connection[Any], school_id: UUID, bed_id: UUID, wishes: Sequence[Section]) -> None:
    """Put these sections in the place of all that a bed has."""
    connection.execute("DELETE FROM section WHERE bed_id = %s", [bed_id])
    connection.cursor().executemany(
        """INSERT INTO section (school_id, id, bed_id, purpose, class_group_id, x_mm, y_mm, length_mm, width_mm)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            (school_id, uuid4(), bed_id, s.purpose, s.class_group_id, s.x_mm, s.y_mm, s.length_mm, s.width_mm)
            for s in wishes
        ],
    )
