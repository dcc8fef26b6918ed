"""Pictures that lie under the map: a photo from above, a scan of a plan. They are for those who plan, and go nowhere else."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.core.garden.tracing import Underlay
from almanaque.store import errors

GONE = "That picture is not under this school's map any more."


@dataclass(frozen=True)
class GroundPicture:
    """A picture with its place, without its pixels; `dim` is how pale it is shown [%]."""

    id: UUID
    site_id: UUID
    name: str
    taken_on: date
    width_px: int
    height_px: int
    x_mm: float
    y_mm: float
    mm_per_px: float
    turn_deg: float
    dim: int
    shown: bool

    @property
    def underlay(self) -> Underlay:
        return Underlay(self.x_mm, self.y_mm, self.mm_per_px, self.turn_deg, self.width_px, self.height_px)


def pictures(connection: Connection[Any]) -> list[GroundPicture]:
    """All pictures, the newest first."""
    return (
        connection.cursor(row_factory=class_row(GroundPicture))
        .execute(
            """SELECT id, site_id, name, taken_on, width_px, height_px, x_mm, y_mm, mm_per_px, turn_deg, dim, shown
               FROM ground_picture ORDER BY taken_on DESC, name"""
        )
        .fetchall()
    )


def picture(connection: Connection[Any], picture_id: UUID) -> GroundPicture:
    """One picture, held until the transaction ends. Raises NotFound."""
    connection.execute("SELECT 1 FROM ground_picture WHERE id = %s FOR UPDATE", [picture_id])
    found = next((one for one in pictures(connection) if one.id == picture_id), None)
    if found is None:
        raise errors.NotFound(GONE)
    return found


def body(connection: Connection[Any], picture_id: UUID) -> bytes:
    """The picture itself, a JPEG. Raises NotFound."""
    row = connection.execute("SELECT body FROM ground_picture WHERE id = %s", [picture_id]).fetchone()
    if row is None:
        raise errors.NotFound(GONE)
    return bytes(row[0])


def add(connection: Connection[Any], school_id: UUID, row: GroundPicture, jpeg: bytes) -> None:
    """Keep a picture under its id; one that is there already stays."""
    connection.execute(
        """INSERT INTO ground_picture (school_id, id, site_id, name, taken_on, body, width_px, height_px, x_mm, y_mm, mm_per_px,
             turn_deg, dim, shown)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING""",
        [
            school_id,
            row.id,
            row.site_id,
            row.name,
            row.taken_on,
            jpeg,
            row.width_px,
            row.height_px,
            row.x_mm,
            row.y_mm,
            row.mm_per_px,
            row.turn_deg,
            row.dim,
            row.shown,
        ],
    )


def lay(connection: Connection[Any], picture_id: UUID, place: Underlay, *, dim: int, shown: bool) -> None:
    connection.execute(
        """UPDATE ground_picture SET x_mm = %s, y_mm = %s, mm_per_px = %s, turn_deg = %s, dim = %s, shown = %s WHERE id = %s""",
        [place.x_mm, place.y_mm, place.mm_per_px, place.turn_deg, dim, shown, picture_id],
    )


def delete(connection: Connection[Any], picture_id: UUID) -> None:
    if connection.execute("DELETE FROM ground_picture WHERE id = %s", [picture_id]).rowcount == 0:
        raise errors.NotFound(GONE)
