"""Pickings and what became of them."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import dict_row

from almanaque.core.bed import Cell
from almanaque.core.layout import Arrangement, Follows, Wish
from almanaque.core.yields import Weight
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("harvest")


@dataclass(frozen=True)
class Picked:
    id: UUID
    planting_id: UUID
    bed_id: UUID
    bed_name: str
    bed_ordinal: int
    crop: str
    picked_on: date
    part: str
    amount: Decimal
    unit: str
    grams: Decimal | None
    estimated: bool
    class_group_id: UUID | None
    note: str
    per_square: int | None
    cell_mm: float
    arrangement: Arrangement
    spacing_from: Follows
    in_row_mm: float | None
    row_mm: float | None
    edge_mm: float | None
    wanted: int | None
    cells: frozenset[Cell]
    uses: dict[str, Decimal]

    @property
    def wish(self) -> Wish:
        """How its planting stands, as the rules read it."""
        return Wish(
            self.arrangement,
            self.spacing_from,
            self.per_square,
            self.in_row_mm,
            self.row_mm,
            None,
            self.edge_mm,
            self.wanted,
        )


@dataclass(frozen=True)
class NewPicking:
    """A picking as it is to be kept; `id` comes from whoever made it and keeps it single."""

    id: UUID
    planting_id: UUID
    picked_on: date
    part: str
    amount: Decimal
    unit: str
    weight: Weight
    class_group_id: UUID | None
    note: str
    uses: Mapping[str, Decimal]


def pickings(connection: Connection[Any], *, until: date) -> list[Picked]:
    """Every picking up to a day, newest first."""
    rows = connection.cursor(row_factory=dict_row).execute(SQL["pickings"], {"until": until}).fetchall()
    for row in rows:
        row["cells"] = frozenset((column, line) for column, line in row["cells"])
        row["uses"] = {use: Decimal(str(share)) for use, share in row["uses"].items()}
    return [Picked(**row) for row in rows]


def save(connection: Connection[Any], school_id: UUID, new: NewPicking, *, by: UUID | None) -> None:
    """Keep a picking with its uses. The same id and content is one picking; other content is refused."""
    done = connection.execute(
        SQL["save"],
        {
            "school": school_id, "id": new.id, "planting": new.planting_id, "day": new.picked_on, "part": new.part,
            "amount": new.amount, "unit": new.unit, "grams": new.weight.grams, "estimated": new.weight.estimated,
            "group": new.class_group_id, "note": new.note, "by": by,
        },
    )  # fmt: skip
    if done.rowcount == 0:
        row = connection.execute(
            "SELECT planting_id, picked_on, amount, unit, note FROM harvest WHERE id = %s", [new.id]
        ).fetchone()
        if row != (new.planting_id, new.picked_on, new.amount, new.unit, new.note):
            raise errors.IdTaken("A picking with this number is kept already and differs. Enter it as a new picking.")
        return
    connection.cursor().executemany(
        "INSERT INTO use_of_harvest (school_id, harvest_id, use, share) VALUES (%s, %s, %s, %s)",
        [(school_id, new.id, use, share) for use, share in new.uses.items()],
    )
