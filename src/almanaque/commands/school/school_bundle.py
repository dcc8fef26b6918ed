"""A whole school out as a bundle and into another, empty one; tables as CSV."""

import json
from datetime import date
from typing import Any

import psycopg
from psycopg import Connection

from almanaque.commands import context as contexts
from almanaque.commands.context import Context
from almanaque.core.errors import BadInput, CoreError
from almanaque.formats import csv_table
from almanaque.formats.confined import confined
from almanaque.formats.school import school_bundle
from almanaque.formats.school.school_bundle import Bundle
from almanaque.store import migrate, queue
from almanaque.store.garden import garden
from almanaque.store.harvest import pickings
from almanaque.store.journal import timeline
from almanaque.store.school import turn_of_year, whole_school
from almanaque.store.school.whole_school import PHOTOS, SchoolTable
from almanaque.store.week import stations

# Names of columns that do not say their unit by themselves, as the tables' headers say them.
UNITS = {
    "grams": "mass_g",
    "minutes": "minutes_min",
    "latitude": "latitude_deg",
    "longitude": "longitude_deg",
    "litres": "volume_L",
    "bottle_l": "bottle_L",
    "share": "share_of_1",
    "head_count": "children",
    "wind": "wind_km_h",
    "humidity": "humidity_percent",
    "goal_minor": "goal_minor_units",
    "price_minor": "price_minor_units",
    "amount_minor": "amount_minor_units",
}


def export(connection: Connection[Any], *, day: date, photos: bool = True) -> bytes:
    """The whole school as one file."""
    present = [t for t in whole_school.tables(connection) if photos or t.name not in PHOTOS]
    rows = {table.name: whole_school.rows(connection, table) for table in present}
    if not photos and "station" in rows:
        rows["station"] = [{**row, "photo_id": None} for row in rows["station"]]
    return school_bundle.write(
        Bundle(migrate.latest(), whole_school.school_row(connection), rows, day.isoformat(), photos)
    )


def bring_in(connection: Connection[Any], context: Context, body: bytes) -> dict[str, int]:
    """Fill an unused school from a bundle, all of it or nothing; return the number of rows by table.

    Raises BadInput when the school holds plantings, pickings or notes, and for a bundle that cannot be.
    """
    if whole_school.is_used(connection):
        raise BadInput("school.bundle_into_used_school", field="file")
    present = whole_school.tables(connection)
    known = {table.name: [column.name for column in table.columns] for table in present}
    found = confined(school_bundle.read, cpu_s=60, memory_mb=1500)(body, known=known, schema=migrate.latest())
    turn_of_year.let_in(connection, "whole")
    try:
        whole_school.empty(connection, present)
        whole_school.save_school(connection, found.school)
        for table in present:
            whole_school.save_rows(connection, table, found.tables.get(table.name, []))
        _look_at_everything(connection)
    except psycopg.DataError as error:
        raise BadInput("school.bundle_value", field="file", problem=_first_line(error)) from None
    except (TypeError, ValueError, KeyError, AttributeError, IndexError) as error:
        raise BadInput("school.bundle_does_not_fit", field="file", kind=type(error).__name__) from None
    queue.recompute_school(connection, context.school.id)
    return {name: len(rows) for name, rows in found.tables.items() if rows}


def _look_at_everything(connection: Connection[Any]) -> None:
    """Read what came in as the pages do, so that a row nobody could show is found before it is kept."""
    try:
        context = contexts.load(connection)
        garden.beds(connection)
        garden.plantings(connection)
        stations.stations(connection)
        timeline.timeline(connection, until=date(2150, 1, 1), limit=5)
        _ = context.calendar.carried_on
        if wrong := pickings.unbalanced(connection):
            raise BadInput("school.bundle_uses", wrong=wrong)
    except CoreError as error:
        raise BadInput("school.bundle_part", field="file", problem=error) from None


def _first_line(error: psycopg.Error) -> str:
    return str(error).splitlines()[0][:120] if str(error) else "it is of another kind"


def tables(connection: Connection[Any]) -> list[tuple[SchoolTable, int]]:
    """Tables with their number of rows."""
    present = whole_school.tables(connection)
    return list(zip(present, whole_school.counts(connection, present), strict=True))


def table_csv(connection: Connection[Any], name: str) -> str | None:
    """One table with units in its header; None when there is no such table."""
    table = next((t for t in whole_school.tables(connection) if t.name == name), None)
    if table is None:
        return None
    plain = _plain(table)
    header = [UNITS.get(column.name, column.name) for column in plain.columns]
    return csv_table.write(
        header, [[_cell(row[c.name]) for c in plain.columns] for row in whole_school.rows(connection, plain)]
    )


def _plain(table: SchoolTable) -> SchoolTable:
    return SchoolTable(table.name, tuple(c for c in table.columns if c.kind != "bytea"), table.key)


def _cell(value: Any) -> Any:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, dict | list):
        return json.dumps(value, ensure_ascii=False)
    return value
