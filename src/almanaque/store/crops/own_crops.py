"""A school's own figures, varieties and crops."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, scalar_row
from psycopg.types.json import Jsonb

from almanaque.core.crops.own_crops import OwnCrop
from almanaque.store import errors


@dataclass(frozen=True)
class OwnCropRow:
    """One row: figures for a crop of the catalogue, or a crop that begins from another's values."""

    id: UUID
    crop: str
    based_on: str | None
    figures: dict[str, Any]
    note: str

    @property
    def own(self) -> OwnCrop:
        return OwnCrop(self.crop, self.based_on, self.figures)


def rows(connection: Connection[Any]) -> list[OwnCropRow]:
    cursor = connection.cursor(row_factory=class_row(OwnCropRow))
    return cursor.execute("SELECT id, crop, based_on, figures, note FROM own_crop ORDER BY crop").fetchall()


def save(connection: Connection[Any], school_id: UUID, row: OwnCropRow) -> None:
    """Write a crop's own figures, new or in the place of those before."""
    connection.execute(
        """INSERT INTO own_crop (school_id, id, crop, based_on, figures, note) VALUES (%s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, crop) DO UPDATE SET figures = excluded.figures, note = excluded.note""",
        [school_id, row.id, row.crop, row.based_on, Jsonb(row.figures), row.note],
    )


def forget(connection: Connection[Any], crop: str) -> None:
    """Go back to the catalogue's figures, or take out a crop of the school's own. Raises Refused while something grows by it."""
    used = connection.cursor(row_factory=scalar_row).execute(
        """SELECT EXISTS (SELECT FROM own_crop o JOIN planting p ON p.school_id = o.school_id AND p.crop = o.crop
                          WHERE o.crop = %s AND o.based_on IS NOT NULL)""",
        [crop],
    )
    if used.fetchone():
        raise errors.Refused("Something was planted as this crop, so it stays with its history.", constraint="")
    connection.execute("DELETE FROM own_crop WHERE crop = %s", [crop])
