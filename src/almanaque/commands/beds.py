"""Adding and changing beds and the ground they lie on."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands import forecasts
from almanaque.commands.context import Context
from almanaque.commands.plantings import Hand
from almanaque.core import bed as core_bed
from almanaque.core.bed import Rectangle
from almanaque.core.errors import BadInput
from almanaque.store import garden
from almanaque.store.garden import Bed, Site

FIRST_SITE = {
    "us": (12_192.0, 9_144.0),
    "metric": (12_000.0, 9_000.0),
}  # 40 ft x 30 ft, or 12 m x 9 m, until somebody measures
OPEN = ("pencilled", "planned", "in the ground")


@dataclass(frozen=True)
class BedWish:
    """A bed as it was typed, lengths read [mm]; x and y are its inside top-left corner on the site."""

    name: str
    purpose: str
    kind: str
    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float
    depth_mm: float
    cell_mm: float
    material: str
    built_year: int | None
    class_group_id: UUID | None
    kept: tuple[Rectangle, ...]


def save(connection: Connection[Any], context: Context, bed_id: UUID, wish: BedWish, hand: Hand) -> None:
    """Add or change a bed; what is planned on it gets its jobs anew.

    Raises BadInput when it would lie outside the site or in another bed, when a kept part lies outside it, and when a
    planting would lose its squares.
    """
    beds = garden.beds(connection)
    known = next((b for b in beds if b.id == bed_id), None)
    site = _site(connection, context, known.site_id if known else None)
    if known is not None:
        garden.lock_bed(connection, bed_id, version=hand.version)
    bed = Bed(
        bed_id, site.id, known.ordinal if known else 0, wish.name, wish.purpose, wish.kind, wish.material, wish.built_year,
        wish.x_mm, wish.y_mm, wish.length_mm, wish.width_mm, wish.depth_mm, wish.cell_mm, wish.class_group_id,
        known.version if known else 1, list(wish.kept),
    )  # fmt: skip
    others = [
        Rectangle(b.x_mm, b.y_mm, b.length_mm, b.width_mm, b.name)
        for b in beds
        if b.id != bed_id and b.site_id == site.id
    ]
    mine = Rectangle(wish.x_mm, wish.y_mm, wish.length_mm, wish.width_mm, wish.name)
    core_bed.check_place(mine, others, site.width_mm, site.depth_mm)
    core_bed.check_kept(bed.length_mm, bed.width_mm, wish.kept)
    grid = bed.grid()
    if not grid.columns or not grid.rows:
        raise BadInput("The bed is smaller than one of its squares. Choose smaller squares.", field="cell")
    if known is not None:
        _keep_plantings(connection, context, known, bed)
    garden.save_bed(connection, context.school.id, bed)
    garden.save_kept(connection, context.school.id, bed_id, wish.kept)
    if known is not None:
        garden.record_change(
            connection,
            context.school.id,
            bed_id,
            change_id=uuid4(),
            command="the bed itself was changed",
            before={},
            by=hand.by,
        )
        for planting in garden.plantings(connection, bed_id=bed_id):
            if planting.status in OPEN:
                forecasts.refresh(connection, context, planting, bed, today=hand.today)


def save_site(connection: Connection[Any], context: Context, *, name: str, width_mm: float, depth_mm: float) -> None:
    """Name the ground and say how large it is. Raises BadInput when a bed would lie outside."""
    core_bed.check_site(width_mm, depth_mm)
    site = _site(connection, context, None)
    for bed in garden.beds(connection):
        if bed.site_id == site.id:
            core_bed.check_place(
                Rectangle(bed.x_mm, bed.y_mm, bed.length_mm, bed.width_mm, bed.name), [], width_mm, depth_mm
            )
    garden.save_site(connection, context.school.id, replace(site, name=name, width_mm=width_mm, depth_mm=depth_mm))


def _site(connection: Connection[Any], context: Context, site_id: UUID | None) -> Site:
    """The ground a bed lies on; a school without any gets one."""
    sites: Sequence[Site] = garden.sites(connection)
    found = next((s for s in sites if s.id == site_id), None) or next(iter(sites), None)
    if found is None:
        found = Site(uuid4(), "School garden", *FIRST_SITE[context.school.units])
        garden.save_site(connection, context.school.id, found)
    return found


def _keep_plantings(connection: Connection[Any], context: Context, before: Bed, after: Bed) -> None:
    """Refuse a change by which a planting would lose squares, or one that is over would count its yield on other ground.

    What is over is told first, since nobody can clear it away. What is kept now may lie where something grew before.
    """
    grid = after.grid()
    everywhere = {(column, row) for column in range(grid.columns) for row in range(grid.rows)}
    resized = after.cell_mm != before.cell_mm
    field = "cell" if resized else "size"
    plantings = garden.plantings(connection, bed_id=before.id)
    for planting in plantings:
        if planting.status not in OPEN and (resized or planting.cells - everywhere):
            raise BadInput(
                f"The yield of {_crop(context, planting)} that grew here is counted by its squares. Add the rebuilt bed as a new one.",
                field=field,
            )
    for planting in plantings:
        lost = planting.cells - set(grid.cells)
        if planting.status not in OPEN or not (resized or lost):
            continue
        if resized:
            what = "stands in squares of the old size. Clear or rub it out before the squares change."
        else:
            first = core_bed.cell_name(min(lost, key=lambda cell: (cell[1], cell[0])))
            what = f"at {first} would lose its place. Move or rub it out first."
        raise BadInput(f"The {_crop(context, planting)} {what}", field=field)


def _crop(context: Context, planting: garden.Planting) -> str:
    return context.crops[planting.crop].name.en.lower()
