"""Things on the map: adding, changing and moving features and beds; closures; plants that nobody sowed."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import beds as bed_commands
from almanaque.commands.garden.held_bed import hold
from almanaque.core.errors import BadInput
from almanaque.core.garden import outline
from almanaque.core.garden.site import KINDS, Feature, SiteFrame, Thing
from almanaque.core.units import format_length
from almanaque.store.garden import bed_closures, bed_sections, garden, site_features, volunteer_plants
from almanaque.store.garden.bed_closures import Closure
from almanaque.store.garden.garden import Bed, Site
from almanaque.store.garden.site_features import FeatureRow
from almanaque.store.garden.volunteer_plants import VolunteerPlant

SNAP_MM = {"us": 304.8, "metric": 100.0}  # a foot, or 10 cm
NUDGE_MM = {"us": 25.4, "metric": 10.0}  # one inch, or one centimetre
LEAST_MM = 10.0


def save_feature(connection: Connection[Any], context: Context, row: FeatureRow) -> None:
    """Add or change a feature. Raises BadInput for one that lies outside its site or whose outline is none."""
    garden.hold_ground(connection, context.school.id)
    site = site_of(connection, row.site_id)
    check_feature(row.feature, site)
    if row.from_day and row.to_day and row.to_day < row.from_day:
        raise BadInput("garden.gone_before_there", field="to_day")
    site_features.save_feature(connection, context.school.id, row)


def check_feature(feature: Feature, site: Site) -> None:
    """Raise BadInput for what cannot stand on this site."""
    shape = feature.shape
    if feature.kind not in KINDS:
        raise BadInput("garden.feature_kind_missing", field="kind")
    if min(shape.length_mm, shape.width_mm) < LEAST_MM:
        raise BadInput("garden.feature_without_size", field="size", feature=feature.name)
    if feature.height_mm is not None and feature.base_mm >= feature.height_mm:
        raise BadInput("garden.base_above_top", field="base")
    if shape.corners_mm:
        outline.check_outline(shape.corners_mm, shape.length_mm, shape.width_mm)
    outline.check_place(replace(shape, label=feature.name), [], site.width_mm, site.depth_mm)


def site_of(connection: Connection[Any], site_id: UUID) -> Site:
    found = next((site for site in garden.sites(connection) if site.id == site_id), None)
    if found is None:
        raise BadInput("garden.no_such_site")
    return found


def close_bed(connection: Connection[Any], context: Context, closure: Closure, actor: Actor) -> None:
    """Take a bed out of use for some days."""
    held = hold(connection, context, closure.bed_id, actor)
    if closure.ends < closure.starts:
        raise BadInput("garden.closure_ends_before_start", field="ends")
    bed_closures.save_closure(connection, context.school.id, closure)
    held.touched()


def found_here(connection: Connection[Any], context: Context, plant: VolunteerPlant, actor: Actor) -> None:
    """Put a plant that nobody sowed on the sheet. Raises BadInput for one outside the bed or found in the future."""
    held = hold(connection, context, plant.bed_id, actor)
    bed = held.bed
    if plant.found_on > actor.today:
        raise BadInput("garden.found_in_future", field="found_on")
    if not (0 <= plant.x_mm <= bed.length_mm and 0 <= plant.y_mm <= bed.width_mm):
        size = f"{format_length(bed.length_mm, context.school.units)} x {format_length(bed.width_mm, context.school.units)}"
        raise BadInput("garden.place_outside_bed", field="at", bed=bed.name, size=size)
    volunteer_plants.save_found(connection, context.school.id, plant)
    held.touched()


def change_found(
    connection: Connection[Any],
    context: Context,
    bed_id: UUID,
    plant_id: UUID,
    *,
    name: str,
    intent: volunteer_plants.Intent,
    gone: bool,
    actor: Actor,
) -> None:
    """Name it, decide on it, or note that it is gone."""
    held = hold(connection, context, bed_id, actor)
    plant = next((p for p in volunteer_plants.found_plants(connection, bed_id) if p.id == plant_id), None)
    if plant is None:
        raise BadInput("garden.volunteer_plant_gone")
    volunteer_plants.save_found(
        connection, context.school.id, replace(plant, name=name, intent=intent, gone_on=actor.today if gone else None)
    )
    held.touched()


def things(connection: Connection[Any], site: Site, day: date | None = None) -> list[Thing]:
    """Beds and features of a site as files carry them; with a day only the features that stand then."""
    beds = [
        Thing(
            bed.id,
            "bed",
            bed.kind,
            bed.name,
            bed.shape,
            {
                "purpose": bed.purpose,
                "material": bed.material,
                "built_year": bed.built_year,
                "depth_mm": bed.depth_mm,
                "cell_mm": bed.cell_mm,
                "volume_l": bed.volume_l,
                "pockets": bed.pockets,
            },
        )
        for bed in garden.beds(connection)
        if bed.site_id == site.id
    ]
    rows = [
        Thing(
            row.id,
            "feature",
            row.feature.kind,
            row.feature.name,
            row.feature.shape,
            {
                "height_mm": row.feature.height_mm,
                "base_mm": row.feature.base_mm,
                "months_bare": sorted(row.feature.months_bare),
                "hose_mm": row.feature.hose_mm,
                "from_day": row.from_day.isoformat() if row.from_day else None,
                "to_day": row.to_day.isoformat() if row.to_day else None,
            },
        )
        for row in site_features.features(connection, day)
        if row.site_id == site.id
    ]
    return beds + rows


def frame_of(site: Site) -> SiteFrame:
    return SiteFrame(site.name, site.width_mm, site.depth_mm, site.north_deg)


def take_in(connection: Connection[Any], context: Context, site: Site, found: Sequence[Thing], actor: Actor) -> int:
    """Write beds and features that came in a file, all or none; return how many.

    What the school knows by its id is changed, and keeps what the file does not say: its purpose's class, what is kept.
    """
    garden.hold_ground(connection, context.school.id)
    known = {bed.id: bed for bed in garden.beds(connection)}
    for thing in found:
        values = dict(thing.known)
        if thing.what == "bed":
            shape = thing.shape
            bed = known.get(thing.id) or Bed(
                thing.id, site.id, 0, thing.name, "", thing.kind, "", None, 0, 0, 0, 0, 1, 1, None, 1, []
            )
            bed = replace(
                bed,
                name=thing.name,
                kind=thing.kind,
                x_mm=shape.x_mm,
                y_mm=shape.y_mm,
                length_mm=shape.length_mm,
                width_mm=shape.width_mm,
                turn_deg=shape.turn_deg,
                outline_mm=shape.corners_mm,
                **values,
            )
            bed_commands.write(connection, context, bed, bed_sections.sections(connection, bed.id), actor)
        else:
            first, last = values.pop("from_day"), values.pop("to_day")
            feature = Feature(
                thing.kind, thing.name, thing.shape, **{**values, "months_bare": frozenset(values["months_bare"])}
            )
            save_feature(connection, context, FeatureRow(thing.id, site.id, feature, first, last))
    return len(found)
