"""Adding and changing beds and the ground they lie on."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden.held_bed import HeldBed, hold
from almanaque.core.errors import BadInput
from almanaque.core.garden import bed as core_bed
from almanaque.core.garden import outline
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.outline import Point
from almanaque.store.garden import bed_sections, garden, site_features
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed, Site

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
    turn_deg: float = 0.0
    outline_mm: tuple[Point, ...] = ()
    volume_l: float | None = None
    pockets: int | None = None
    light_h: float | None = None
    warmth_c: float | None = None
    drip_l_h: float | None = None
    sections: tuple[Section, ...] = ()


def save(connection: Connection[Any], context: Context, bed_id: UUID, wish: BedWish, actor: Actor) -> None:
    """Add or change a bed; what is planned on it gets its jobs anew.

    Raises BadInput when it would lie outside the site or in another bed, when a kept part lies outside it, and when a
    planting would lose its squares.
    """
    garden.hold_ground(connection, context.school.id)
    known = next((b for b in garden.beds(connection) if b.id == bed_id), None)
    site = ground_of(connection, context, known.site_id if known else None)
    bed = Bed(
        bed_id,
        site.id,
        known.ordinal if known else 0,
        wish.name,
        wish.purpose,
        wish.kind,
        wish.material,
        wish.built_year,
        wish.x_mm,
        wish.y_mm,
        wish.length_mm,
        wish.width_mm,
        wish.depth_mm,
        wish.cell_mm,
        wish.class_group_id,
        known.version if known else 1,
        list(wish.kept),
        wish.turn_deg,
        wish.outline_mm,
        wish.volume_l,
        wish.pockets,
        wish.light_h,
        wish.warmth_c,
        wish.drip_l_h,
    )
    write(connection, context, bed, wish.sections, actor)


def write(connection: Connection[Any], context: Context, bed: Bed, sections: Sequence[Section], actor: Actor) -> None:
    """Write a bed as it is to be, after the checks that `save` names. Whoever reads what it was holds the ground before."""
    garden.hold_ground(connection, context.school.id)
    beds = garden.beds(connection)
    site = ground_of(connection, context, bed.site_id)
    held = hold(connection, context, bed.id, actor) if any(b.id == bed.id for b in beds) else None
    if bed.outline_mm:
        outline.check_outline(bed.outline_mm, bed.length_mm, bed.width_mm)
    others = [b.shape for b in beds if b.id != bed.id and b.site_id == site.id and not b.indoors]
    outline.check_place(bed.shape, [] if bed.indoors else others, site.width_mm, site.depth_mm)
    core_bed.check_warmth(bed.warmth_c)
    core_bed.check_kept(bed.length_mm, bed.width_mm, bed.kept, outline_mm=bed.outline_mm)
    core_bed.check_kept(
        bed.length_mm,
        bed.width_mm,
        [Rectangle(s.x_mm, s.y_mm, s.length_mm, s.width_mm, s.purpose) for s in sections],
        what="sections",
        outline_mm=bed.outline_mm,
    )
    _check_plants(context, bed)
    if bed.pockets:
        bed = replace(bed, cell_mm=math.sqrt(bed.length_mm * bed.width_mm / bed.pockets))
    grid = bed.grid()
    if not grid.columns or not grid.rows or len(grid.outside) == grid.columns * grid.rows:
        raise BadInput("garden.bed_smaller_than_square", field="cell")
    if held is not None:
        _keep_plantings(held, bed)
    garden.save_bed(connection, context.school.id, bed)
    garden.save_kept(connection, context.school.id, bed.id, bed.kept)
    bed_sections.save_sections(connection, context.school.id, bed.id, sections)
    if held is not None:
        held.changed_itself()
        for planting in held.plantings():
            if planting.status in OPEN:
                held.refresh(planting.id)


def save_site(
    connection: Connection[Any],
    context: Context,
    *,
    name: str,
    width_mm: float,
    depth_mm: float,
    north_deg: float = 0.0,
    corner: tuple[float, float] | None = None,
) -> None:
    """Name the ground, say how large it is, where north lies and where its top-left corner. Raises BadInput when a
    bed would lie outside."""
    outline.check_site(width_mm, depth_mm)
    garden.hold_ground(connection, context.school.id)
    if corner is not None and not (-90 <= corner[0] <= 90 and -180 <= corner[1] <= 180):
        raise BadInput("garden.corner_not_on_earth", field="corner")
    site = ground_of(connection, context, None)
    for bed in garden.beds(connection):
        if bed.site_id == site.id:
            outline.check_place(bed.shape, [], width_mm, depth_mm)
    for row in site_features.features(connection):
        if row.site_id == site.id:
            outline.check_place(replace(row.feature.shape, label=row.feature.name), [], width_mm, depth_mm)
    latitude, longitude = corner or (None, None)
    garden.save_site(
        connection,
        context.school.id,
        replace(
            site,
            name=name,
            width_mm=width_mm,
            depth_mm=depth_mm,
            north_deg=north_deg % 360,
            latitude=latitude,
            longitude=longitude,
        ),
    )


def ground_of(connection: Connection[Any], context: Context, site_id: UUID | None) -> Site:
    """The ground a bed lies on; a school without any gets one."""
    sites: Sequence[Site] = garden.sites(connection)
    found = next((s for s in sites if s.id == site_id), None) or next(iter(sites), None)
    if found is None:
        found = Site(uuid4(), "School garden", *FIRST_SITE[context.school.units])
        garden.save_site(connection, context.school.id, found)
    return found


def _keep_plantings(held: HeldBed, after: Bed) -> None:
    """Refuse a change by which a planting would lose squares, or one that is over would count its yield on other ground.

    What is over is told first, since nobody can clear it away. What is kept now may lie where something grew before.
    """
    grid, before, context = after.grid(), held.bed, held.context
    everywhere = {(column, row) for column in range(grid.columns) for row in range(grid.rows)} - grid.outside
    resized = abs(after.cell_mm - before.cell_mm) > 1e-3
    field = "cell" if resized else "size"
    plantings = held.plantings()
    for planting in plantings:
        if planting.status not in OPEN and (resized or planting.cells - everywhere):
            raise BadInput("garden.yield_counted_by_squares", field=field, crop=_crop(context, planting))
    for planting in plantings:
        during = [part for part in after.kept if part.overlaps(planting.bed_from, planting.bed_to(held.actor.today))]
        lost = planting.cells - set(replace(after, kept=during).grid().cells)
        if planting.status not in OPEN or not (resized or lost):
            continue
        if resized:
            raise BadInput("garden.stands_in_old_squares", field=field, crop=_crop(context, planting))
        first = core_bed.cell_name(min(lost, key=lambda cell: (cell[1], cell[0])))
        raise BadInput("garden.would_lose_its_place", field=field, crop=_crop(context, planting), square=first)


def _check_plants(context: Context, bed: Bed) -> None:
    for part in bed.kept:
        if part.crop is not None and part.crop not in context.crops:
            raise BadInput("garden.kept_plant_unknown", field="crop", crop=part.crop[:40])


def _crop(context: Context, planting: garden.Planting) -> str:
    return context.crops[planting.crop].name.en.lower()
