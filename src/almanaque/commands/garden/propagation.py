"""New plantings from old ones: a division, runner, cane, cutting or offset, with where it came from; and what becomes of faded flowers."""

from dataclasses import dataclass
from datetime import date
from typing import Any, Literal, get_args
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.painting import Paint, paint
from almanaque.core.crops.crop import Crop, Method
from almanaque.core.errors import BadInput
from almanaque.store.garden import garden, lineage
from almanaque.store.garden.garden import Planting
from almanaque.store.garden.lineage import Lineage

How = Literal["division", "runner", "cane", "cutting", "offset", "own seed"]
HOWS: tuple[How, ...] = get_args(How)


@dataclass(frozen=True)
class NewPlantsWish:
    """New plants from a planting: how, where, and from which day on."""

    how: How
    bed_id: UUID
    squares: str
    start_on: date


def make(connection: Connection[Any], context: Context, from_id: UUID, wish: NewPlantsWish, actor: Actor) -> UUID:
    """Plan new plants of a planting and remember where they came from; return the new planting.

    Raises BadInput for a planting that nobody has put in yet, and as painting does.
    """
    origin = garden.planting(connection, from_id)
    crop = context.crops[origin.crop]
    if origin.status in ("pencilled", "planned"):
        raise BadInput("garden.parent_not_in_ground", crop=crop.name.en.lower())
    painted = Paint(wish.squares, origin.crop, _method(crop, wish.how), wish.start_on, True, variety=origin.variety)
    new_id = paint(connection, context, wish.bed_id, painted, actor)
    if new_id == from_id:
        raise BadInput("garden.squares_of_parent", field="squares")
    lineage.save(connection, context.school.id, Lineage(new_id, from_id, wish.how, wish.start_on))
    return new_id


def _method(crop: Crop, how: How) -> Method:
    """Plants with roots are set out as starts; seed as the crop is usually sown."""
    if how != "own seed" and "starts" in crop.methods:
        return "starts"
    return next((m for m in crop.methods if m != "starts"), crop.methods[0])


@dataclass(frozen=True)
class Relative:
    """Another planting that this one came from (`older`) or gave rise to."""

    planting: Planting
    bed_name: str
    how: str
    older: bool


def relatives(connection: Connection[Any], planting_id: UUID) -> list[Relative]:
    """Where a planting came from and what came from it, by day."""
    found = []
    for row in lineage.of(connection, planting_id):
        older = row.planting_id == planting_id
        other = garden.planting(connection, row.from_id if older else row.planting_id)
        found.append(Relative(other, garden.bed(connection, other.bed_id).name, row.how, older))
    return found
