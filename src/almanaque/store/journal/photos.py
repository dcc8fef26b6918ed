"""Photos: their facts, and their bytes only where they are shown."""

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection, sql
from psycopg.rows import class_row

from almanaque.store import errors


@dataclass(frozen=True)
class Photo:
    """A photo without its bytes."""

    id: UUID
    bed_id: UUID | None
    planting_id: UUID | None
    noted_on: date
    caption: str
    width: int
    height: int
    bed_name: str
    crop: str
    viewpoint_id: UUID | None = None
    viewpoint: str = ""


def photos(
    connection: Connection[Any],
    *,
    since: date | None = None,
    until: date | None = None,
    bed_id: UUID | None = None,
    planting_id: UUID | None = None,
    station_id: UUID | None = None,
    limit: int = 60,
) -> list[Photo]:
    """Photos taken between two days, newest first."""
    return (
        connection.cursor(row_factory=class_row(Photo))
        .execute(
            """SELECT f.id, f.bed_id, f.planting_id, f.noted_on, f.caption, f.width, f.height, coalesce(b.name, '') AS bed_name,
             coalesce(p.crop, '') AS crop, f.viewpoint_id, coalesce(v.name, '') AS viewpoint
           FROM photo f LEFT JOIN bed b ON b.school_id = f.school_id AND b.id = f.bed_id
           LEFT JOIN planting p ON p.school_id = f.school_id AND p.id = f.planting_id
           LEFT JOIN viewpoint v ON v.school_id = f.school_id AND v.id = f.viewpoint_id
           WHERE (%(since)s::date IS NULL OR f.noted_on >= %(since)s) AND (%(until)s::date IS NULL OR f.noted_on <= %(until)s)
             AND (%(station)s::uuid IS NULL OR EXISTS (SELECT FROM station_photo t
               WHERE t.school_id = f.school_id AND t.photo_id = f.id AND t.station_id = %(station)s))
             AND (%(bed)s::uuid IS NULL OR f.bed_id = %(bed)s) AND (%(planting)s::uuid IS NULL OR f.planting_id = %(planting)s)
           ORDER BY f.noted_on DESC, f.noted_at DESC, f.id LIMIT %(limit)s""",
            {
                "since": since,
                "until": until,
                "bed": bed_id,
                "planting": planting_id,
                "station": station_id,
                "limit": limit,
            },
        )
        .fetchall()
    )


def save(
    connection: Connection[Any],
    school_id: UUID,
    photo: Photo,
    *,
    picture: bytes,
    small: bytes,
    by: UUID | None,
    at: datetime,
) -> None:
    connection.execute(
        """INSERT INTO photo (school_id, id, bed_id, planting_id, noted_on, caption, width, height, picture, small, noted_by, noted_at,
             viewpoint_id)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            school_id,
            photo.id,
            photo.bed_id,
            photo.planting_id,
            photo.noted_on,
            photo.caption,
            photo.width,
            photo.height,
            picture,
            small,
            by,
            at,
            photo.viewpoint_id,
        ],
    )


def save_of_station(connection: Connection[Any], school_id: UUID, photo_id: UUID, station_id: UUID) -> None:
    """Say that a photo shows a station."""
    connection.execute(
        "INSERT INTO station_photo (school_id, photo_id, station_id) VALUES (%s, %s, %s) ON CONFLICT DO NOTHING",
        [school_id, photo_id, station_id],
    )


def picture(connection: Connection[Any], photo_id: UUID, size: Literal["picture", "small"]) -> bytes:
    """The bytes of a photo, a JPEG. Raises NotFound for one of another school."""
    row = connection.execute(
        sql.SQL("SELECT {} FROM photo WHERE id = %s").format(sql.Identifier(size)), [photo_id]
    ).fetchone()
    if row is None:
        raise errors.NotFound("There is no such photo in this school.")
    return bytes(row[0])


def delete(connection: Connection[Any], photo_id: UUID) -> None:
    if connection.execute("DELETE FROM photo WHERE id = %s", [photo_id]).rowcount == 0:
        raise errors.NotFound("There is no such photo in this school.")
