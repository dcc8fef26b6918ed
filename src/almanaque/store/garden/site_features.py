"""What stands on the ground besides beds, what parts of beds are for, when a bed is closed, and plants that nobody sowed."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any, Literal
from uuid import UUID, uuid4

from psycopg import Connection
from psycopg.rows import class_row, dict_row
from psycopg.types.json import Jsonb

from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import Feature
from almanaque.core.growth.covers import OF_FEATURE
from almanaque.store import errors
from almanaque.store.garden.garden import corners

Intent = Literal["undecided", "keep", "weed out"]


@dataclass(frozen=True)
class FeatureRow:
    """A feature with its place in the database; it stands from a day on and until the day before another."""

    id: UUID
    site_id: UUID
    feature: Feature
    from_day: date | None
    to_day: date | None

    def stands_on(self, day: date) -> bool:
        return (self.from_day is None or self.from_day <= day) and (self.to_day is None or day < self.to_day)


@dataclass(frozen=True)
class Section:
    """Part of a bed with a purpose of its own [mm from the bed's inside corner]."""

    purpose: str
    class_group_id: UUID | None
    x_mm: float
    y_mm: float
    length_mm: float
    width_mm: float


@dataclass(frozen=True)
class Closure:
    """A bed out of use from a day to a day, both included."""

    id: UUID
    bed_id: UUID
    starts: date
    ends: date
    reason: str
    paid_by: str


@dataclass(frozen=True)
class VolunteerPlant:
    """A plant nobody sowed; without a name it is unknown."""

    id: UUID
    bed_id: UUID
    x_mm: float
    y_mm: float
    width_mm: float
    name: str
    found_on: date
    gone_on: date | None
    intent: Intent


def features(connection: Connection[Any], day: date | None = None) -> list[FeatureRow]:
    """All features, or those that stand on a day; paths first, since the others lie on them."""
    rows = (
        connection.cursor(row_factory=dict_row)
        .execute(
            """SELECT id, site_id, kind, name, x_mm::float8, y_mm::float8, width_mm::float8, depth_mm::float8, from_day, to_day, turn_deg,
             outline_mm, height_mm::float8, base_mm::float8, months_bare, hose_mm::float8
           FROM feature ORDER BY kind = 'path' DESC, kind, name"""
        )
        .fetchall()
    )
    found = [_feature(row) for row in rows]
    return [row for row in found if day is None or row.stands_on(day)]


def coverings(connection: Connection[Any]) -> list[FeatureRow]:
    """Tunnels, frames and covers only."""
    return [row for row in features(connection) if row.feature.kind in OF_FEATURE]


def feature(connection: Connection[Any], feature_id: UUID) -> FeatureRow:
    for row in features(connection):
        if row.id == feature_id:
            return row
    raise errors.NotFound("That does not stand on this school's map.")


def save_feature(connection: Connection[Any], school_id: UUID, row: FeatureRow) -> None:
    thing, shape = row.feature, row.feature.shape
    connection.execute(
        """INSERT INTO feature (school_id, id, site_id, kind, name, x_mm, y_mm, width_mm, depth_mm, from_day, to_day, turn_deg,
             outline_mm, height_mm, base_mm, months_bare, hose_mm)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET kind = excluded.kind, name = excluded.name, x_mm = excluded.x_mm,
             y_mm = excluded.y_mm, width_mm = excluded.width_mm, depth_mm = excluded.depth_mm, from_day = excluded.from_day,
             to_day = excluded.to_day, turn_deg = excluded.turn_deg, outline_mm = excluded.outline_mm, height_mm = excluded.height_mm,
             base_mm = excluded.base_mm, months_bare = excluded.months_bare, hose_mm = excluded.hose_mm""",
        [
            school_id,
            row.id,
            row.site_id,
            thing.kind,
            thing.name,
            shape.x_mm,
            shape.y_mm,
            shape.length_mm,
            shape.width_mm,
            row.from_day,
            row.to_day,
            shape.turn_deg,
            Jsonb(shape.corners_mm) if shape.corners_mm else None,
            thing.height_mm,
            thing.base_mm,
            sorted(thing.months_bare),
            thing.hose_mm,
        ],
    )


def delete_feature(connection: Connection[Any], feature_id: UUID) -> None:
    if connection.execute("DELETE FROM feature WHERE id = %s", [feature_id]).rowcount == 0:
        raise errors.NotFound("That does not stand on this school's map.")


def sections(connection: Connection[Any], bed_id: UUID) -> list[Section]:
    return (
        connection.cursor(row_factory=class_row(Section))
        .execute(
            """SELECT purpose, class_group_id, x_mm::float8, y_mm::float8, length_mm::float8, width_mm::float8
           FROM section WHERE bed_id = %s ORDER BY y_mm, x_mm, purpose""",
            [bed_id],
        )
        .fetchall()
    )


def save_sections(connection: Connection[Any], school_id: UUID, bed_id: UUID, wishes: Sequence[Section]) -> None:
    """Put these sections in the place of all that a bed has."""
    connection.execute("DELETE FROM section WHERE bed_id = %s", [bed_id])
    connection.cursor().executemany(
        """INSERT INTO section (school_id, id, bed_id, purpose, class_group_id, x_mm, y_mm, length_mm, width_mm)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)""",
        [
            (school_id, uuid4(), bed_id, s.purpose, s.class_group_id, s.x_mm, s.y_mm, s.length_mm, s.width_mm)
            for s in wishes
        ],
    )


def closures(connection: Connection[Any], bed_id: UUID | None = None) -> list[Closure]:
    return (
        connection.cursor(row_factory=class_row(Closure))
        .execute(
            """SELECT id, bed_id, starts, ends, reason, paid_by FROM bed_closure
           WHERE %(bed)s::uuid IS NULL OR bed_id = %(bed)s ORDER BY starts""",
            {"bed": bed_id},
        )
        .fetchall()
    )


def save_closure(connection: Connection[Any], school_id: UUID, closure: Closure) -> None:
    connection.execute(
        """INSERT INTO bed_closure (school_id, id, bed_id, starts, ends, reason, paid_by) VALUES (%s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET starts = excluded.starts, ends = excluded.ends, reason = excluded.reason,
             paid_by = excluded.paid_by""",
        [school_id, closure.id, closure.bed_id, closure.starts, closure.ends, closure.reason, closure.paid_by],
    )


def delete_closure(connection: Connection[Any], closure_id: UUID) -> None:
    if connection.execute("DELETE FROM bed_closure WHERE id = %s", [closure_id]).rowcount == 0:
        raise errors.NotFound("That closure is not on file any more.")


def found_plants(connection: Connection[Any], bed_id: UUID, day: date | None = None) -> list[VolunteerPlant]:
    """Plants nobody sowed, in a bed, on a day or ever."""
    return (
        connection.cursor(row_factory=class_row(VolunteerPlant))
        .execute(
            """SELECT id, bed_id, x_mm::float8, y_mm::float8, width_mm::float8, name, found_on, gone_on, intent FROM found_plant
           WHERE bed_id = %(bed)s AND (%(day)s::date IS NULL OR found_on <= %(day)s AND coalesce(gone_on > %(day)s, true))
           ORDER BY found_on, y_mm, x_mm""",
            {"bed": bed_id, "day": day},
        )
        .fetchall()
    )


def save_found(connection: Connection[Any], school_id: UUID, plant: VolunteerPlant) -> None:
    connection.execute(
        """INSERT INTO found_plant (school_id, id, bed_id, x_mm, y_mm, width_mm, name, found_on, gone_on, intent)
           VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)
           ON CONFLICT (school_id, id) DO UPDATE SET name = excluded.name, width_mm = excluded.width_mm, gone_on = excluded.gone_on,
             intent = excluded.intent""",
        [
            school_id,
            plant.id,
            plant.bed_id,
            plant.x_mm,
            plant.y_mm,
            plant.width_mm,
            plant.name,
            plant.found_on,
            plant.gone_on,
            plant.intent,
        ],
    )


def name_found(connection: Connection[Any], plant_id: UUID, name: str) -> None:
    """Say what a plant is that nobody sowed. Raises NotFound for none."""
    if connection.execute("UPDATE found_plant SET name = %s WHERE id = %s", [name, plant_id]).rowcount == 0:
        raise errors.NotFound("There is no such plant in this school.")


def decide_found(connection: Connection[Any], plant_id: UUID, intent: Intent, gone_on: date | None) -> None:
    """Keep a plant that nobody sowed or weed it out, and note the day on which it was gone. Raises NotFound for none."""
    done = connection.execute(
        "UPDATE found_plant SET intent = %s, gone_on = coalesce(%s, gone_on) WHERE id = %s", [intent, gone_on, plant_id]
    )
    if done.rowcount == 0:
        raise errors.NotFound("There is no such plant in this school.")


def _feature(row: dict[str, Any]) -> FeatureRow:
    shape = Shape(
        row["x_mm"],
        row["y_mm"],
        row["width_mm"],
        row["depth_mm"],
        row["turn_deg"],
        corners(row["outline_mm"]),
        row["name"],
    )
    thing = Feature(
        row["kind"],
        row["name"],
        shape,
        row["height_mm"],
        row["base_mm"],
        frozenset(row["months_bare"]),
        row["hose_mm"],
    )
    return FeatureRow(row["id"], row["site_id"], thing, row["from_day"], row["to_day"])
