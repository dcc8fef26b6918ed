"""Marked places from which a bed is photographed again and again, such as a post or a corner."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class Viewpoint:
    """A marked place; `last_photo_id` is what was taken from it last."""

    id: UUID
    bed_id: UUID
    name: str
    last_photo_id: UUID | None


def viewpoints(connection: Connection[Any]) -> list[Viewpoint]:
    """All of them, by name."""
    rows = connection.cursor(row_factory=class_row(Viewpoint))
    return rows.execute(
        """SELECT v.id, v.bed_id, v.name,
             (SELECT f.id FROM photo f WHERE f.school_id = v.school_id AND f.viewpoint_id = v.id
              ORDER BY f.noted_on DESC, f.noted_at DESC, f.id LIMIT 1) AS last_photo_id
           FROM viewpoint v ORDER BY v.name, v.id"""
    ).fetchall()


def ensure(connection: Connection[Any], school_id: UUID, viewpoint_id: UUID, bed_id: UUID, name: str) -> UUID:
    """The place of that name at a bed, made with this id when there is none; a phone may have made it without a signal."""
    connection.execute(
        "INSERT INTO viewpoint (school_id, id, bed_id, name) VALUES (%s, %s, %s, %s) ON CONFLICT DO NOTHING",
        [school_id, viewpoint_id, bed_id, name],
    )
    row = connection.execute(
        "SELECT id FROM viewpoint WHERE bed_id = %s AND (id = %s OR name = %s) ORDER BY id = %s DESC LIMIT 1",
        [bed_id, viewpoint_id, name, viewpoint_id],
    ).fetchone()
    if row is None:
        raise errors.NotFound("There is no such place at that bed. Choose one from the list.")
    found: UUID = row[0]
    return found
