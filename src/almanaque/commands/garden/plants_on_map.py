"""A tree or bush of the map becomes a plant: it stands in ground of its own, has dates, jobs, water and pickings like any other."""

from datetime import date
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import beds, planting_events
from almanaque.commands.garden.ground_changes import MapRecorder
from almanaque.commands.garden.painting import Paint, paint
from almanaque.core.crops.crop import Crop
from almanaque.core.errors import BadInput
from almanaque.core.garden import drawing
from almanaque.core.garden.layout import LayoutWish
from almanaque.core.garden.outline import Shape
from almanaque.store.garden import garden, site_features
from almanaque.store.garden.garden import Bed

KINDS = ("tree", "bush")
FOOT_MM = 600.0  # side of the ground around a trunk that is kept for it: our own rule
FOOT_DEPTH_MM = 600.0  # of soil that its roots have at least: our own rule


def crops_for(context: Context) -> list[Crop]:
    """What can stand on the map as a tree or bush: trees, shrubs and berries, by name."""
    return sorted(
        (crop for crop in context.crops if crop.group in ("trees", "berries") and crop.width_mm >= FOOT_MM),
        key=lambda crop: crop.name.en,
    )


def plant(
    connection: Connection[Any], context: Context, feature_id: UUID, crop: str, since: date, actor: Actor
) -> UUID:
    """Make a plant of a tree or bush that stands there since a day; return the bed that its foot is.

    Its place in the map is taken by the foot; the crown follows from the crop. Raises BadInput for another kind of thing, a crop that does
    not come again, and a day to come; NotFound for what is not there.
    """
    recorder = MapRecorder(connection, context, actor, uuid4())
    row = site_features.feature(connection, feature_id)
    if row.feature.kind not in KINDS or row.to_day is not None:
        raise BadInput("garden.not_a_plant", field="crop")
    grown = context.crops[crop]
    if grown not in crops_for(context):
        raise BadInput("garden.not_a_tree", field="crop", crop=grown.name.en)
    if since > actor.today:
        raise BadInput("garden.event_in_future", field="since")
    before = recorder.before("feature", feature_id)
    site_features.delete_feature(connection, feature_id)
    recorder.keep("feature", feature_id, before)
    bed = _foot(connection, row.site_id, row.feature.name, row.feature.shape)
    beds.write(connection, context, bed, (), actor)
    recorder.keep("bed", bed.id, None)
    wish = Paint("A1", crop, grown.methods[0], since, True, spacing=LayoutWish(per_square=1), from_the_past=True)
    made = paint(connection, context, bed.id, wish, Actor(actor.by, actor.today))
    planting_events.happened(connection, context, made, "started", since, Actor(actor.by, actor.today))
    return bed.id


def _foot(connection: Connection[Any], site_id: UUID, name: str, crown: Shape) -> Bed:
    """The ground around the trunk: in the middle of the crown, one square."""
    side = min(FOOT_MM, crown.length_mm, crown.width_mm)
    taken = {bed.name for bed in garden.beds(connection)}
    return Bed(
        id=uuid4(),
        site_id=site_id,
        ordinal=0,
        name=drawing.free_name(name, taken),
        purpose="",
        kind="ground",
        material="",
        built_year=None,
        x_mm=crown.x_mm + (crown.length_mm - side) / 2,
        y_mm=crown.y_mm + (crown.width_mm - side) / 2,
        length_mm=side,
        width_mm=side,
        depth_mm=FOOT_DEPTH_MM,
        cell_mm=side,
        class_group_id=None,
        version=1,
        kept=[],
    )
