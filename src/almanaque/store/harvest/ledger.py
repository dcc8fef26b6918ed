"""The ledger: purposes, entries, made products and local prices. Amounts are minor units of the school's currency."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import class_row, dict_row

from almanaque.core.harvest.money import Kind
from almanaque.core.harvest.products import Kind as ProductKind
from almanaque.store import errors


@dataclass(frozen=True)
class Purpose:
    id: UUID
    name: str
    goal_minor: int | None
    note: str
    closed_on: date | None


@dataclass(frozen=True)
class LedgerEntry:
    """A line of the ledger. `amount_minor` is above 0; `kind` says whether it came or went."""

    id: UUID
    purpose_id: UUID | None
    kind: Kind
    on_day: date
    what: str
    amount_minor: int
    whom: str
    harvest_id: UUID | None = None
    product_id: UUID | None = None
    planting_id: UUID | None = None
    taken_back_on: date | None = None


@dataclass(frozen=True)
class Ingredient:
    planting_id: UUID | None
    what: str
    grams: Decimal | None


@dataclass(frozen=True)
class Product:
    """A batch of something made. `read_on` is the day on which its cautions were read."""

    id: UUID
    name: str
    kind: ProductKind
    batch: str
    made_on: date
    best_before: date | None
    amount: Decimal
    unit: str
    recipe: str
    label: str
    read_on: date | None
    ingredients: tuple[Ingredient, ...]


@dataclass(frozen=True)
class Price:
    crop: str
    unit: str
    price_minor: int
    said_by: str
    on_day: date


def purposes(connection: Connection[Any]) -> list[Purpose]:
    """All purposes, those that are closed last."""
    return (
        connection.cursor(row_factory=class_row(Purpose))
        .execute("SELECT id, name, goal_minor, note, closed_on FROM purpose ORDER BY closed_on NULLS FIRST, name, id")
        .fetchall()
    )


def save_purpose(connection: Connection[Any], school_id: UUID, purpose: Purpose) -> None:
    connection.execute(
        "INSERT INTO purpose (school_id, id, name, goal_minor, note, closed_on) VALUES (%s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, goal_minor = excluded.goal_minor, note = excluded.note,"
        " closed_on = excluded.closed_on",
        [school_id, purpose.id, purpose.name, purpose.goal_minor, purpose.note, purpose.closed_on],
    )


def entries(connection: Connection[Any], *, until: date) -> list[LedgerEntry]:
    """Every line up to a day, newest first, those that were taken back among them."""
    return (
        connection.cursor(row_factory=class_row(LedgerEntry))
        .execute(
            "SELECT id, purpose_id, kind, on_day, what, amount_minor, whom, harvest_id, product_id, planting_id, taken_back_on"
            " FROM ledger_entry WHERE on_day <= %s ORDER BY on_day DESC, noted_at DESC, id",
            [until],
        )
        .fetchall()
    )


def save_entry(connection: Connection[Any], school_id: UUID, entry: LedgerEntry, *, by: UUID | None) -> bool:
    """Keep a line; False when the same one is kept already. Other content under its id is refused."""
    done = connection.execute(
        "INSERT INTO ledger_entry (school_id, id, purpose_id, kind, on_day, "
        "what, amount_minor, whom, harvest_id, product_id, planting_id, noted_by)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING",
        [
            school_id,
            entry.id,
            entry.purpose_id,
            entry.kind,
            entry.on_day,
            entry.what,
            entry.amount_minor,
            entry.whom,
            entry.harvest_id,
            entry.product_id,
            entry.planting_id,
            by,
        ],
    )
    if done.rowcount == 0:
        row = connection.execute(
            "SELECT kind, on_day, what, amount_minor FROM ledger_entry WHERE id = %s", [entry.id]
        ).fetchone()
        if row != (entry.kind, entry.on_day, entry.what, entry.amount_minor):
            raise errors.IdTaken("A line with this number is kept already and differs. Enter it as a new one.")
        return False
    return True


def take_back(connection: Connection[Any], entry_id: UUID, day: date | None) -> None:
    """Mark a line as wrong, or as right after all (None); it stays in the ledger."""
    done = connection.execute("UPDATE ledger_entry SET taken_back_on = %s WHERE id = %s", [day, entry_id])
    if done.rowcount == 0:
        raise errors.NotFound("There is no such line in this school's ledger.")


_PRODUCTS = """SELECT p.id, p.name, p.kind, p.batch, p.made_on, p.best_before, p.amount, p.unit, p.recipe, p.label, p.read_on,
  (SELECT coalesce(jsonb_agg(jsonb_build_array(i.planting_id, i.what, i.grams::text) ORDER BY i.number), '[]')
   FROM ingredient i WHERE i.school_id = p.school_id AND i.product_id = p.id) AS ingredients
  FROM product p WHERE %(id)s::uuid IS NULL OR p.id = %(id)s ORDER BY p.made_on DESC, p.batch, p.id"""


def products(connection: Connection[Any]) -> list[Product]:
    """All batches, the last made first."""
    return [
        _product(row) for row in connection.cursor(row_factory=dict_row).execute(_PRODUCTS, {"id": None}).fetchall()
    ]


def product(connection: Connection[Any], product_id: UUID) -> Product:
    row = connection.cursor(row_factory=dict_row).execute(_PRODUCTS, {"id": product_id}).fetchone()
    if row is None:
        raise errors.NotFound("There is no such batch in this school.")
    return _product(row)


def _product(row: dict[str, Any]) -> Product:
    row["ingredients"] = tuple(
        Ingredient(UUID(planting) if planting else None, what, Decimal(grams) if grams else None)
        for planting, what, grams in row["ingredients"]
    )
    return Product(**row)


def save_product(connection: Connection[Any], school_id: UUID, made: Product, *, by: UUID | None) -> None:
    """Keep a batch with exactly its ingredients; the same id again changes nothing."""
    done = connection.execute(
        "INSERT INTO product (school_id, id, name, kind, batch, made_on, best_before, amount, unit, recipe, label, read_on, noted_by)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s) ON CONFLICT (school_id, id) DO NOTHING",
        [
            school_id,
            made.id,
            made.name,
            made.kind,
            made.batch,
            made.made_on,
            made.best_before,
            made.amount,
            made.unit,
            made.recipe,
            made.label,
            made.read_on,
            by,
        ],
    )
    if done.rowcount == 1:
        _save_ingredients(connection, school_id, made.id, made.ingredients)


def _save_ingredients(
    connection: Connection[Any], school_id: UUID, product_id: UUID, ingredients: Sequence[Ingredient]
) -> None:
    connection.cursor().executemany(
        "INSERT INTO ingredient (school_id, product_id, number, planting_id, what, grams) VALUES (%s, %s, %s, %s, %s, %s)",
        [
            (school_id, product_id, number, i.planting_id, i.what, i.grams)
            for number, i in enumerate(ingredients, start=1)
        ],
    )


def prices(connection: Connection[Any]) -> list[Price]:
    return (
        connection.cursor(row_factory=class_row(Price))
        .execute("SELECT crop, unit, price_minor, said_by, on_day FROM local_price ORDER BY crop")
        .fetchall()
    )


def save_price(connection: Connection[Any], school_id: UUID, price: Price) -> None:
    connection.execute(
        "INSERT INTO local_price (school_id, crop, unit, price_minor, said_by, on_day) VALUES (%s, %s, %s, %s, %s, %s)"
        " ON CONFLICT (school_id, crop) DO UPDATE SET unit = excluded.unit, price_minor = excluded.price_minor,"
        " said_by = excluded.said_by, on_day = excluded.on_day",
        [school_id, price.crop, price.unit, price.price_minor, price.said_by, price.on_day],
    )
