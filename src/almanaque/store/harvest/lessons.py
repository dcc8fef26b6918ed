"""What a school that agreed tells others of its crops, and what the others near by say together."""

from collections.abc import Mapping
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.harvest.learned_shift import OF_NEIGHBOURS, Nearby, Shift

WITHIN_KM = 60.0  # as the crow flies, so that weather and soil are still alike: our own rule


def tell(connection: Connection[Any], school_id: UUID, shares: Mapping[str, Shift]) -> None:
    """Put what the school's own pickings say in the place of what it told before; nothing takes all of it back."""
    connection.execute("DELETE FROM shared_lesson WHERE NOT crop = ANY (%s)", [list(shares)])
    with connection.cursor() as cursor:
        cursor.executemany(
            "INSERT INTO shared_lesson (school_id, crop, share, unsure) VALUES (%s, %s, %s, %s)"
            " ON CONFLICT (school_id, crop) DO UPDATE SET share = excluded.share, unsure = excluded.unsure",
            [(school_id, crop, max(-1.0, min(1.0, one.share)), min(10.0, one.unsure)) for crop, one in shares.items()],
        )


def near_by(connection: Connection[Any]) -> list[Nearby]:
    """What schools near by that agreed found, by crop; nothing for a school that did not agree."""
    rows = connection.cursor(row_factory=class_row(Nearby))
    return rows.execute(
        "SELECT crop, share, unsure, schools FROM lessons_near_by(%s, %s) ORDER BY crop", [WITHIN_KM, OF_NEIGHBOURS]
    ).fetchall()
