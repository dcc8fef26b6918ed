"""What is in the shed, and what a thing costs."""

from dataclasses import dataclass
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row

from almanaque.store import errors

SupplyKind = Literal["tool", "material"]


@dataclass(frozen=True)
class Supply:
    """So many of a thing, by the name the shopping list has for it; a price in minor units of the school's currency.

    At `low` or less of it, `told` is told. It may belong to a station.
    """

    id: UUID
    kind: SupplyKind
    name: str
    unit: str
    have: float
    price_minor: int | None
    low: float | None = None
    told: str = ""
    station_id: UUID | None = None


def supplies(connection: Connection[Any]) -> list[Supply]:
    return (
        connection.cursor(row_factory=class_row(Supply))
        .execute(
            "SELECT id, kind, name, unit, have::float8, price_minor, low::float8, told, station_id FROM supply ORDER BY kind DESC, name"
        )
        .fetchall()
    )


def save(connection: Connection[Any], school_id: UUID, supply: Supply) -> None:
    """Write a supply under its id; a name that is there already is refused by its constraint."""
    connection.execute(
        """INSERT INTO supply (school_id, id, kind, name, unit, have, price_minor, low, told, station_id)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET kind = excluded.kind, name = excluded.name, unit = excluded.unit,
             have = excluded.have, price_minor = excluded.price_minor, low = excluded.low, told = excluded.told,
             station_id = excluded.station_id""",
        [
            school_id,
            supply.id,
            supply.kind,
            supply.name,
            supply.unit,
            supply.have,
            supply.price_minor,
            supply.low,
            supply.told,
            supply.station_id,
        ],
    )


def delete(connection: Connection[Any], supply_id: UUID) -> None:
    if connection.execute("DELETE FROM supply WHERE id = %s", [supply_id]).rowcount == 0:
        raise errors.NotFound("That is not in the shed any more.")
