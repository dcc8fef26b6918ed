"""The ledger: lines for a purpose, batches of made products with their cautions read, prices."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.harvest import products
from almanaque.store import errors
from almanaque.store.garden import garden
from almanaque.store.harvest import ledger, pickings
from almanaque.store.harvest.ledger import Ingredient, LedgerEntry, Product


def enter(connection: Connection[Any], context: Context, entry: LedgerEntry, *, today: date, by: UUID | None) -> None:
    """Keep a line of the ledger. What it was sold of must be this school's; its day cannot lie ahead. Raises BadInput, NotFound."""
    if entry.on_day > today:
        raise BadInput("harvest.ledger_in_future", field="day")
    if entry.purpose_id is not None:
        purpose = next((p for p in ledger.purposes(connection) if p.id == entry.purpose_id), None)
        if purpose is None:
            raise errors.NotFound("There is no such purpose in this school.")
        if purpose.closed_on is not None and entry.on_day > purpose.closed_on:
            raise BadInput("harvest.purpose_closed", field="purpose", purpose=purpose.name)
    if entry.harvest_id is not None:
        pickings.one(connection, entry.harvest_id)
    if entry.product_id is not None:
        ledger.product(connection, entry.product_id)
    if entry.planting_id is not None:
        garden.planting(connection, entry.planting_id)
    ledger.save_entry(connection, context.school.id, entry, by=by)


def make(connection: Connection[Any], context: Context, made: Product, *, today: date, by: UUID | None) -> None:
    """Keep a batch. Raises BadInput when its cautions were not read, or it says how to make something nobody should.

    A preserve names its tested recipe; what is in oil keeps a week at most.
    """
    if made.made_on > today:
        raise BadInput("harvest.made_in_future", field="made_on")
    if made.read_on is None:
        raise BadInput("harvest.cautions_unread", field="read")
    if made.kind in ("pickle", "jam or chutney") and not made.recipe.strip():
        raise BadInput("harvest.recipe_missing", field="recipe")
    if made.kind == "in oil" and (made.best_before is None or (made.best_before - made.made_on).days > 7):
        raise BadInput("harvest.oil_keeps_a_week", field="best_before")
    if not made.ingredients:
        raise BadInput("harvest.ingredient_missing", field="what-1")
    for ingredient in made.ingredients:
        if ingredient.planting_id is not None:
            planting = garden.planting(connection, ingredient.planting_id)
            if planting.status in ("pencilled", "planned"):
                raise BadInput("harvest.ingredient_not_in_ground", field="what-1", what=ingredient.what)
    ledger.save_product(connection, context.school.id, made, by=by)


def label_words(made: Product) -> list[str]:
    """What stands on the label: name, what is in it by weight, batch, when made and how long it keeps."""
    known = [i for i in made.ingredients if i.grams is not None]
    ordered: Sequence[Ingredient] = (
        sorted(made.ingredients, key=lambda i: i.grams or Decimal(0), reverse=True) if known else made.ingredients
    )
    lines = [made.name, "Contains: " + ", ".join(i.what for i in ordered)]
    lines.append(f"Batch {made.batch}, made {made.made_on.isoformat()}")
    if made.best_before:
        lines.append(f"Best before {made.best_before.isoformat()}")
    if made.label:
        lines.append(made.label)
    return lines


def cautions(kind: products.Kind, *, for_sale: bool = True) -> list[str]:
    """The cautions of a kind in words, each with what to do."""
    return [
        f"{f.message} {' '.join(f'{fix.label}.' for fix in f.fixes)}"
        for f in products.cautions(kind, for_sale=for_sale)
    ]
