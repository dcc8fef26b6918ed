"""What stands on the ground besides beds: sheds, trees, paths, covers."""

from dataclasses import dataclass
from datetime import date
from typing import Any
from uuid import UUID

from psycopg import Connection
from psycopg.rows import dict_row
from psycopg.types.json import Jsonb

from almanaque.core.garden.outline import Shape
from almanaque.core.garden.site import Feature
from almanaque.core.growth.covers import OF_FEATURE
from almanaque.store import errors
from almanaque.store.garden.garden import corners


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
