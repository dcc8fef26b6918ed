"""Keeping what was done to the map, taking it back and doing it again. What somebody else changed since is never written over."""

import json
from collections.abc import Sequence
from dataclasses import asdict
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.actor import Actor
from almanaque.commands.context import Context
from almanaque.commands.garden import beds, site_map
from almanaque.core.errors import BadInput
from almanaque.core.garden.bed import Rectangle
from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import Feature
from almanaque.store.garden import bed_sections, garden, ground_changes, site_features
from almanaque.store.garden.bed_sections import Section
from almanaque.store.garden.garden import Bed
from almanaque.store.garden.ground_changes import GroundChange, Snapshot, Thing
from almanaque.store.garden.site_features import FeatureRow


class MapRecorder:
    """Held around a change of the map: what is there before is read, and what is there after it is kept as one step."""

    def __init__(self, connection: Connection[Any], context: Context, actor: Actor, step: UUID) -> None:
        self.connection, self.context, self.actor, self.step = connection, context, actor, step
        garden.hold_ground(connection, context.school.id)

    def before(self, what: Thing, thing_id: UUID) -> Snapshot | None:
        return snapshot(self.connection, what, thing_id)

    def keep(self, what: Thing, thing_id: UUID, before: Snapshot | None) -> None:
        """Keep the thing as it is now beside what it was; nothing where nothing changed."""
        after = snapshot(self.connection, what, thing_id)
        if before == after:
            return
        name = str((after or before or {}).get("name", ""))
        ground_changes.add(
            self.connection,
            self.context.school.id,
            step=self.step,
            by=self.actor.by,
            what=what,
            thing_id=thing_id,
            name=name,
            before=before,
            after=after,
        )


def snapshot(connection: Connection[Any], what: Thing, thing_id: UUID) -> Snapshot | None:
    """A thing of the map as plain values; None where it is not there. A bed's version and order are no part of it."""
    if what == "bed":
        bed = next((b for b in garden.beds(connection) if b.id == thing_id), None)
        if bed is None:
            return None
        values = asdict(bed)
        values.pop("version")
        values.pop("ordinal")
        return _plain({**values, "sections": [asdict(s) for s in bed_sections.sections(connection, bed.id)]})
    row = next((r for r in site_features.features(connection) if r.id == thing_id), None)
    if row is None:
        return None
    feature = asdict(row.feature)
    feature["months_bare"] = sorted(row.feature.months_bare)
    return _plain(
        {
            "name": row.feature.name,
            "site_id": row.site_id,
            "feature": feature,
            "from_day": row.from_day,
            "to_day": row.to_day,
        }
    )


def undo(connection: Connection[Any], context: Context, actor: Actor) -> str:
    """Take the account's last step back; its words. Raises BadInput without one, and where somebody changed the same since."""
    garden.hold_ground(connection, context.school.id)
    changes = ground_changes.next_undo(connection, actor.by)
    if not changes:
        raise BadInput("garden.nothing_to_undo_on_map")
    return _step(connection, context, actor, changes, back=True)


def redo(connection: Connection[Any], context: Context, actor: Actor) -> str:
    """Do the step again that was taken back last; its words. Raises as `undo` does."""
    garden.hold_ground(connection, context.school.id)
    changes = ground_changes.next_redo(connection, actor.by)
    if not changes:
        raise BadInput("garden.nothing_to_redo_on_map")
    return _step(connection, context, actor, changes, back=False)


def _step(
    connection: Connection[Any], context: Context, actor: Actor, changes: Sequence[GroundChange], *, back: bool
) -> str:
    for change in changes:
        now, then = (change.after, change.before) if back else (change.before, change.after)
        _put(connection, context, actor, change, now, then)
    ground_changes.mark(connection, changes[0].step, undone=back)
    return words(changes)


def words(changes: Sequence[GroundChange]) -> str:
    """`Bed 8`, or `Bed 8 and 5 more`, with what was done: drawn, changed, taken off."""
    first = changes[-1] if changes[0].number > changes[-1].number else changes[0]
    did = "draw" if first.before is None else "take off" if first.after is None else "change"
    more = len({change.thing_id for change in changes}) - 1
    return f"{did} {first.name}" + (f" and {more} more" if more else "")


def _put(
    connection: Connection[Any],
    context: Context,
    actor: Actor,
    change: GroundChange,
    expected: Snapshot | None,
    wanted: Snapshot | None,
) -> None:
    if snapshot(connection, change.what, change.thing_id) != expected:
        raise BadInput("garden.changed_on_map_since", name=change.name)
    if change.what == "bed":
        if wanted is None:
            garden.delete_bed(connection, change.thing_id)
        else:
            known = next((b for b in garden.beds(connection) if b.id == change.thing_id), None)
            bed, sections = _bed(wanted, known)
            beds.write(connection, context, bed, sections, actor)
    elif wanted is None:
        site_features.delete_feature(connection, change.thing_id)
    else:
        site_map.save_feature(connection, context, _feature(change.thing_id, wanted))


def _plain(values: dict[str, Any]) -> Snapshot:
    found: Snapshot = json.loads(json.dumps(values, default=str))
    return found


def _bed(values: Snapshot, known: Bed | None) -> tuple[Bed, list[Section]]:
    fields = {key: value for key, value in values.items() if key != "sections"}
    for key in ("id", "site_id", "class_group_id"):
        fields[key] = UUID(fields[key]) if fields[key] else None
    fields["kept"] = [Rectangle(**{**part, **_days(part)}) for part in fields["kept"]]
    fields["outline_mm"] = tuple(tuple(corner) for corner in fields["outline_mm"])
    bed = Bed(**fields, version=known.version if known else 1, ordinal=known.ordinal if known else 0)
    sections = [
        Section(**{**s, "class_group_id": UUID(s["class_group_id"]) if s["class_group_id"] else None})
        for s in values["sections"]
    ]
    return bed, sections


def _feature(row_id: UUID, values: Snapshot) -> FeatureRow:
    fields = dict(values["feature"])
    shape = dict(fields["shape"])
    shape["corners_mm"] = tuple(tuple(corner) for corner in shape["corners_mm"])
    fields["shape"], fields["months_bare"] = Shape(**shape), frozenset(fields["months_bare"])
    days = _days(values)
    return FeatureRow(row_id, UUID(values["site_id"]), Feature(**fields), days["from_day"], days["to_day"])


def _days(values: Snapshot) -> dict[str, date | None]:
    return {key: date.fromisoformat(values[key]) if values.get(key) else None for key in ("from_day", "to_day")}
