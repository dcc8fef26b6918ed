"""Logging a picking, and the book that follows from all of them."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.commands.plantings import Hand
from almanaque.core import layout, yields
from almanaque.core.bed import grid_of
from almanaque.core.crops import Crop
from almanaque.core.errors import BadInput
from almanaque.core.growth import ready_until
from almanaque.store import garden, harvest
from almanaque.store.garden import Bed, Planting
from almanaque.store.harvest import NewPicking, Picked


@dataclass(frozen=True)
class PickingWish:
    """A picking as typed. `id` is made by the page and keeps it single however often it is sent."""

    id: UUID
    planting_id: UUID
    amount: str
    unit: str
    use: str
    day: date
    class_group_id: UUID | None = None
    note: str = ""


def pick(connection: Connection[Any], context: Context, wish: PickingWish, hand: Hand) -> NewPicking:
    """Keep a picking; the first of a planting is noted as its event. Raises BadInput with the field that is wrong."""
    planting = garden.planting(connection, wish.planting_id)
    crop = context.crops[planting.crop]
    if wish.day > hand.today:
        raise BadInput("A picking cannot lie in the future. Choose today or an earlier day.", field="day")
    if planting.status in ("pencilled", "planned"):
        raise BadInput(
            f"The {crop.name.en.lower()} is not in the ground yet. Tick off its sowing first.", field="planting"
        )
    if wish.day < planting.bed_from:
        raise BadInput(f"The {crop.name.en.lower()} went in later than that. Choose a later day.", field="day")
    amount = yields.parse_amount(wish.amount)
    shares = {wish.use: Decimal(1)}
    yields.check_shares(shares)
    picking = NewPicking(
        id=wish.id, planting_id=planting.id, picked_on=wish.day, part=crop.part, amount=amount, unit=wish.unit,
        weight=yields.weigh(crop, amount, wish.unit), class_group_id=wish.class_group_id, note=wish.note.strip(),
        uses=shares,
    )  # fmt: skip
    harvest.save(connection, context.school.id, picking, by=hand.by)
    if "first picking" not in planting.events:
        garden.save_event(
            connection, context.school.id, planting.id, event_id=uuid4(), kind="first picking", day=wish.day, by=hand.by
        )
    return picking


def ready(connection: Connection[Any], context: Context, day: date) -> list[tuple[Planting, Crop, Bed]]:
    """Plantings that can be picked on a day, in the order of the walk."""
    beds = {bed.id: bed for bed in garden.beds(connection)}
    found = []
    for planting in garden.plantings(connection, since=day, until=day):
        crop = context.crops[planting.crop]
        if planting.status != "in the ground" or planting.dates is None:
            continue
        if ready_until(crop, planting.dates, first_picked=planting.events.get("first picking"), day=day) is not None:
            found.append((planting, crop, beds[planting.bed_id]))
    return sorted(found, key=lambda row: (row[2].ordinal, row[1].name.en))


def in_book(picked: Picked, context: Context) -> yields.Picking:
    """A stored picking as the book's rules see it: its season is the school year of its date."""
    crop = context.crops[picked.crop]
    grid = grid_of(*_bounds(picked))
    laid = layout.lay_out(picked.cells, grid, crop, picked.wish)
    year = context.calendar.year_of(picked.picked_on)
    return yields.Picking(
        planting=str(picked.planting_id), bed=picked.bed_name, crop=crop.name.en, day=picked.picked_on,
        season=year.name if year else str(picked.picked_on.year), grams=picked.grams, estimated=picked.estimated,
        area_m2=len(picked.cells) * picked.cell_mm**2 / 1_000_000, plants=laid.plants,
    )  # fmt: skip


def _bounds(picked: Picked) -> tuple[float, float, float]:
    """A bed just large enough for the squares; only the count of plants is wanted of it."""
    columns = 1 + max((c for c, _ in picked.cells), default=0)
    rows = 1 + max((r for _, r in picked.cells), default=0)
    return columns * picked.cell_mm, rows * picked.cell_mm, picked.cell_mm
