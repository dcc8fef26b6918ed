"""Plants that nobody sowed, where they stand on a bed and what is to become of them."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

Intent = Literal["undecided", "keep", "weed out"]


@dataclass(frozen=True)
class VolunteerPlant:
    """A plant nobody sowed; without a name it is unknown."""

    id: UUID
    bed_id: UUID
    x_mm: float
    y_mm: float
    width_mm: float
    name: str
    found_on: date
    gone_on: date | None
    intent: Intent


def found_plants(connection: Connection[Any], bed_id: UUID, day: date | None = None) -> list[VolunteerPlant]:
    """Plants nobody sowed, in a bed, on a day or ever."""
    return (
        connection.cursor(row_factory=class_row(VolunteerPlant))
        .execute(
            """SELECT id, bed_id, x_mm::float8, y_mm::float8, width_mm::float8, name, found_on, gone_on, intent FROM found_plant
           WHERE bed_id = %(bed)s AND (%(day)s::date IS NULL OR found_on <= %(day)s AND coalesce(gone_on > %(day)s, true))
           ORDER BY found_on, y_mm, x_mm""",
            {"bed": bed_id, "day": day},
        )
        .fetchall()
    )


def save_found(connection: Connection[Any], school_id: UUID, plant: VolunteerPlant) -> None:
    connection.execute(
        """INSERT INTO found_plant (school_id, id, bed_id, x_mm, y_mm, width_mm, name, found_on, gone_on, intent)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, width_mm = excluded.width_mm, gone_on = excluded.gone_on,
             intent = excluded.intent""",
        [
            school_id,
            plant.id,
            plant.bed_id,
            plant.x_mm,
            plant.y_mm,
            plant.width_mm,
            plant.name,
            plant.found_on,
            plant.gone_on,
            plant.intent,
        ],
    )


def name_found(connection: Connection[Any], plant_id: UUID, name: str) -> None:
    """Say what a plant is that nobody sowed. Raises NotFound for none."""
    if connection.execute("UPDATE found_plant SET name = %s WHERE id = %s", [name, plant_id]).rowcount == 0:
        raise errors.NotFound("There is no such plant in this school.")


def decide_found(connection: Connection[Any], plant_id: UUID, intent: Intent, gone_on: date | None) -> None:
    """Keep a plant that nobody sowed or weed it out, and note the day on which it was gone. Raises NotFound for none."""
    done = connection.execute(
        "UPDATE found_plant SET intent = %s, gone_on = coalesce(%s, gone_on) WHERE id = %s", [intent, gone_on, plant_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such plant in this school.")
