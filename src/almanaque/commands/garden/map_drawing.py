"""Drawing on the map: every change is kept as a step that can be taken back, and what somebody else moved meanwhile is not written over."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any
from uuid import UUID, uuid4

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import beds, site_map
from almanaque.commands.garden.beds import BedWish
from almanaque.commands.garden.ground_changes import MapRecorder
from almanaque.core.errors import BadInput
from almanaque.core.garden import drawing
from almanaque.core.garden.bed import MOVABLE_POTS
from almanaque.core.garden.drawing import Way
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import KINDS, Feature, Thing
from almanaque.core.garden.starting_gardens import StartingGarden
from almanaque.store import errors
from almanaque.store.garden import bed_sections, garden, site_features
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed, Site
from almanaque.store.garden.ground_changes import Thing as ThingKind
from almanaque.store.garden.site_features import FeatureRow

USUAL_DEPTH_MM = {"us": 11 * 25.4, "metric": 300.0}  # of a drawn bed until somebody measures: our own rule
USUAL_CELL_MM = {"us": 304.8, "metric": 300.0}
MOVED_MEANWHILE = (
    "Someone else changed {name} in the meantime. Nothing of yours was written; here it is as it lies now."
)

BedChange = Callable[[Bed, list[Section]], tuple[Bed, Sequence[Section]]]  # what a bed and its sections are to be


@dataclass(frozen=True)
class DrawnThing:
    """What was drawn: its name, and how its shape was before; None for what is new."""

    name: str
    before: Shape | None


def place(
    connection: Connection[Any],
    context: Context,
    what: ThingKind,
    row_id: UUID,
    shape: Shape,
    actor: Actor,
    *,
    seen: Shape | None = None,
    reshaped: bool = False,
) -> DrawnThing:
    """Lay a bed or feature where it was dragged, at another turn, size or outline (`reshaped`, else its outline is stretched).

    Raises BadInput as saving does, and Stale when it does not lie any more as its person saw it.
    """
    recorder = MapRecorder(connection, context, actor, uuid4())
    before = recorder.before(what, row_id)
    now = _shape_of(connection, what, row_id)
    if seen is not None and _far(seen, now):
        raise errors.Stale(MOVED_MEANWHILE.format(name=now.label))
    corners = shape.corners_mm if reshaped else drawing.stretched(now, shape.length_mm, shape.width_mm)
    laid = replace(shape, turn_deg=shape.turn_deg % 360, corners_mm=corners, label=now.label)
    _write_shape(connection, context, what, row_id, laid, actor)
    recorder.keep(what, row_id, before)
    return DrawnThing(now.label, now)


def add_bed(connection: Connection[Any], context: Context, bed_id: UUID, kind: str, shape: Shape, actor: Actor) -> str:
    """A bed as it was drawn, named by the next free number, with the usual depth and squares; its name."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    bed = _new_bed(connection, context, bed_id, kind, shape)
    beds.write(connection, context, bed, (), actor)
    recorder.keep("bed", bed_id, None)
    return bed.name


def add_feature(
    connection: Connection[Any], context: Context, row_id: UUID, kind: str, shape: Shape, actor: Actor
) -> str:
    """A thing as it was drawn, named by its kind; its name."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    site = beds.ground_of(connection, context, None)
    taken = {row.feature.name for row in site_features.features(connection)}
    name = drawing.free_name(KINDS[kind].words.capitalize(), taken)
    site_map.save_feature(
        connection, context, FeatureRow(row_id, site.id, Feature(kind, name, replace(shape, label=name)), None, None)
    )
    recorder.keep("feature", row_id, None)
    return name


def save_feature(connection: Connection[Any], context: Context, row: FeatureRow, actor: Actor) -> None:
    """Add or change a thing by its numbers. Raises BadInput as the map does."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    before = recorder.before("feature", row.id)
    site_map.save_feature(connection, context, row)
    recorder.keep("feature", row.id, before)


def save_bed(connection: Connection[Any], context: Context, bed_id: UUID, wish: BedWish, actor: Actor) -> None:
    """Add or change a bed by its numbers. Raises BadInput as `beds.save` does."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    before = recorder.before("bed", bed_id)
    beds.save(connection, context, bed_id, wish, actor)
    recorder.keep("bed", bed_id, before)


def change_bed(
    connection: Connection[Any], context: Context, bed_id: UUID, change: BedChange, actor: Actor
) -> tuple[Bed, Sequence[Section]]:
    """Hold the ground, read a bed, write what `change` makes of it; what was written. Raises BadInput as `beds.write` does."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    before = recorder.before("bed", bed_id)
    bed, sections = change(garden.bed(connection, bed_id), bed_sections.sections(connection, bed_id))
    beds.write(connection, context, bed, sections, actor)
    recorder.keep("bed", bed_id, before)
    return bed, sections


def remove(connection: Connection[Any], context: Context, what: ThingKind, row_id: UUID, actor: Actor) -> str:
    """Take a thing off the map; its name. Raises Refused for a bed with a history."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    before = recorder.before(what, row_id)
    name = _shape_of(connection, what, row_id).label
    if what == "bed":
        garden.delete_bed(connection, row_id)
    else:
        site_features.delete_feature(connection, row_id)
    recorder.keep(what, row_id, before)
    return name


def add_garden(connection: Connection[Any], context: Context, made: StartingGarden, actor: Actor) -> None:
    """Put a starting garden on the ground, as one step; the ground grows where it is too small. Raises BadInput as drawing does."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    site = beds.ground_of(connection, context, None)
    reach = [shape.polygon.bounds for shape in (bed.shape for bed in made.beds)]
    edge = site_map.SNAP_MM[context.school.units] * 3
    width = max(site.width_mm, *(bound[2] + edge for bound in reach))
    depth = max(site.depth_mm, *(bound[3] + edge for bound in reach))
    if (width, depth) != (site.width_mm, site.depth_mm):
        garden.save_site(connection, context.school.id, replace(site, width_mm=width, depth_mm=depth))
    for start in made.beds:
        bed_id = uuid4()
        bed = replace(
            _new_bed(connection, context, bed_id, start.kind, start.shape),
            name=start.name,
            depth_mm=start.depth_mm,
            cell_mm=start.cell_mm,
            pockets=start.pockets,
        )
        beds.write(connection, context, bed, (), actor)
        recorder.keep("bed", bed_id, None)


def copy(connection: Connection[Any], context: Context, bed_id: UUID, actor: Actor) -> tuple[UUID, str]:
    """The same bed again at the first free place, without what grows in it; its id and name. Raises BadInput where none is free."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    bed = garden.bed(connection, bed_id)
    found = place_for(connection, context, bed.shape, actor.today)
    if found is None:
        raise BadInput("garden.no_free_place", name=bed.name)
    return _again(connection, context, recorder, bed, replace(bed.shape, x_mm=found[0], y_mm=found[1]), actor)


def row_of(
    connection: Connection[Any], context: Context, bed_id: UUID, count: int, gap_mm: float, way: Way, actor: Actor
) -> list[str]:
    """The bed and its copies in a row, all or none, as one step; their names. Raises BadInput where one does not fit."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    bed = garden.bed(connection, bed_id)
    shapes = drawing.in_a_row(bed.shape, count, gap_mm, way)
    return [bed.name, *(_again(connection, context, recorder, bed, shape, actor)[1] for shape in shapes[1:])]


def take_in(connection: Connection[Any], context: Context, site: Site, found: Sequence[Thing], actor: Actor) -> int:
    """Beds and features of a file, all or none, as one step; how many. Raises BadInput as `site_map.take_in` does."""
    recorder = MapRecorder(connection, context, actor, uuid4())
    kinds: list[tuple[ThingKind, UUID]] = [("bed" if t.what == "bed" else "feature", t.id) for t in found]
    before = {key: recorder.before(*key) for key in kinds}
    count = site_map.take_in(connection, context, site, found, actor)
    for key in kinds:
        recorder.keep(*key, before[key])
    return count


def place_for(connection: Connection[Any], context: Context, shape: Shape, today: date) -> tuple[float, float] | None:
    """Where a bed like this fits first, with a path around it; None where it fits nowhere."""
    site = beds.ground_of(connection, context, None)
    others = [bed.shape for bed in garden.beds(connection) if bed.site_id == site.id and not bed.indoors]
    others += [
        row.feature.shape
        for row in site_features.features(connection, today)
        if row.site_id == site.id and not KINDS[row.feature.kind].over_bed
    ]
    left, top, right, bottom = replace(shape, x_mm=0.0, y_mm=0.0).polygon.bounds
    found = drawing.free_place(
        right - left, bottom - top, others, site.width_mm, site.depth_mm, step_mm=site_map.SNAP_MM[context.school.units]
    )
    return None if found is None else (found[0] - left, found[1] - top)


def _again(
    connection: Connection[Any], context: Context, recorder: MapRecorder, bed: Bed, shape: Shape, actor: Actor
) -> tuple[UUID, str]:
    new_id = uuid4()
    taken = {other.name for other in garden.beds(connection)}
    again = replace(
        bed,
        id=new_id,
        name=_next_name(bed.kind, taken),
        x_mm=shape.x_mm,
        y_mm=shape.y_mm,
        kept=[],
        version=1,
        class_group_id=None,
        purpose="",
    )
    beds.write(connection, context, again, (), actor)
    recorder.keep("bed", new_id, None)
    return new_id, again.name


def _new_bed(connection: Connection[Any], context: Context, bed_id: UUID, kind: str, shape: Shape) -> Bed:
    site = beds.ground_of(connection, context, None)
    units = context.school.units
    name = _next_name(kind, {bed.name for bed in garden.beds(connection)})
    small = min(shape.length_mm, shape.width_mm) < USUAL_CELL_MM[units] * 1.5
    return Bed(
        id=bed_id,
        site_id=site.id,
        ordinal=0,
        name=name,
        purpose="",
        kind=kind,
        material="",
        built_year=None,
        x_mm=shape.x_mm,
        y_mm=shape.y_mm,
        length_mm=shape.length_mm,
        width_mm=shape.width_mm,
        depth_mm=USUAL_DEPTH_MM[units],
        cell_mm=USUAL_CELL_MM[units],
        class_group_id=None,
        version=1,
        kept=[],
        turn_deg=shape.turn_deg % 360,
        outline_mm=shape.corners_mm,
        pockets=1 if kind == "container" and (small or shape.corners_mm) else None,
    )


def _next_name(kind: str, taken: set[str]) -> str:
    word = "Pot" if kind in MOVABLE_POTS else "Bed"
    return next(name for n in range(1, len(taken) + 2) if (name := f"{word} {n}") not in taken)


def _shape_of(connection: Connection[Any], what: ThingKind, row_id: UUID) -> Shape:
    if what == "bed":
        return garden.bed(connection, row_id).shape
    feature = site_features.feature(connection, row_id).feature
    return replace(feature.shape, label=feature.name)


def _write_shape(
    connection: Connection[Any], context: Context, what: ThingKind, row_id: UUID, shape: Shape, actor: Actor
) -> None:
    if what == "bed":
        bed = replace(
            garden.bed(connection, row_id),
            x_mm=shape.x_mm,
            y_mm=shape.y_mm,
            length_mm=shape.length_mm,
            width_mm=shape.width_mm,
            turn_deg=shape.turn_deg,
            outline_mm=shape.corners_mm,
        )
        beds.write(connection, context, bed, bed_sections.sections(connection, bed.id), actor)
        return
    row = site_features.feature(connection, row_id)
    site_map.save_feature(connection, context, replace(row, feature=replace(row.feature, shape=shape)))


def _far(seen: Shape, now: Shape) -> bool:
    """True when a thing lies, or is, other than it was seen; a tenth of a millimetre is rounding."""
    pairs = (
        (seen.x_mm, now.x_mm),
        (seen.y_mm, now.y_mm),
        (seen.length_mm, now.length_mm),
        (seen.width_mm, now.width_mm),
        (seen.turn_deg, now.turn_deg),
    )
    return any(abs(a - b) > 0.1 for a, b in pairs)
