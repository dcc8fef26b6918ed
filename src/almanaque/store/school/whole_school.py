"""A whole school out of its tables and into them again, row by row, for the bundle and for tables as CSV."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from psycopg import Connection, sql
from psycopg.types.json import Jsonb

from almanaque.store import errors

# What is not part of a school's record: who may come in, secrets and addresses, what waits or is derived, undo.
LEFT_OUT = frozenset(
    {
        "book_version",
        "membership",
        "login_session",
        "invitation",
        "garden_pass",
        "calendar_feed",
        "print_job",
        "shared_lesson",
        "letter",
        "letter_draft",
        "open_garden",
        "home_answer",
        "class_code",
        "class_tablet",
        "sign",
        "received",
        "upload",
        "written_once",
        "mail",
        "change",
        "ground_change",
        "ground_picture",
        "audit_entry",
        "entered_once",
    }
)
PHOTOS = frozenset({"photo", "station_photo"})
NOT_SCHOOL = (
    "id",
    "created_at",
    "mail_to",
    "shares_lessons",
)  # of the school's own row: its id, when it was made here, whom it writes to, what it agreed to with others here


@dataclass(frozen=True)
class TableColumn:
    name: str
    kind: str
    required: bool


@dataclass(frozen=True)
class SchoolTable:
    """A table of the bundle with its columns, without `school_id` and without whom they point to outside the bundle."""

    name: str
    columns: tuple[TableColumn, ...]
    key: tuple[str, ...]


def tables(connection: Connection[Any]) -> list[SchoolTable]:
    """Tables of the bundle, those that others point to first."""
    return list(_tables(_catalogue(connection)))


@lru_cache(maxsize=4)
def _tables(catalogue: tuple[tuple[Any, ...], ...]) -> tuple[SchoolTable, ...]:
    columns: dict[str, list[TableColumn]] = {}
    keys: dict[str, tuple[str, ...]] = {}
    needs: dict[str, set[str]] = {}
    for table, name, kind, required, key, points in catalogue:
        columns.setdefault(table, []).append(TableColumn(name, kind, required))
        keys[table] = tuple(part for part in key if part != "school_id")
        needs.setdefault(table, set()).update(set(points) - {table})
    ordered: list[str] = []
    left = sorted(columns)
    while left:
        ready = [table for table in left if needs[table] & set(left) == set()]
        if not ready:
            raise ValueError(f"tables point at each other in a ring: {', '.join(left)}")
        ordered += ready
        left = [table for table in left if table not in ready]
    return tuple(SchoolTable(name, tuple(columns[name]), keys[name]) for name in ordered)


def _catalogue(connection: Connection[Any]) -> tuple[tuple[Any, ...], ...]:
    rows = connection.execute(
        """SELECT c.relname, a.attname, format_type(a.atttypid, a.atttypmod), a.attnotnull AND NOT a.atthasdef,
             (SELECT array_agg(k.attname ORDER BY array_position(i.indkey::int[], k.attnum::int)) FROM pg_index i
                JOIN pg_attribute k ON k.attrelid = c.oid AND k.attnum = ANY(i.indkey) WHERE i.indrelid = c.oid AND i.indisprimary)::text[],
             (SELECT coalesce(array_agg(f.confrelid::regclass::text), '{}') FROM pg_constraint f
                WHERE f.conrelid = c.oid AND f.contype = 'f' AND f.confrelid::regclass::text <> ALL(%(out)s))::text[]
           FROM pg_class c JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
           WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r' AND c.relname <> ALL(%(out)s)
             AND EXISTS (SELECT FROM pg_attribute s WHERE s.attrelid = c.oid AND s.attname = 'school_id')
             AND a.attname <> 'school_id'
             AND NOT EXISTS (SELECT FROM pg_constraint f WHERE f.conrelid = c.oid AND f.contype = 'f' AND a.attnum = ANY(f.conkey)
                             AND f.confrelid::regclass::text = ANY(%(outside)s) AND NOT a.attnotnull)
           ORDER BY c.relname, a.attnum""",
        {"out": [*LEFT_OUT, "school"], "outside": ["account", *LEFT_OUT]},
    ).fetchall()
    return tuple((t, n, k, r, tuple(key), tuple(points)) for t, n, k, r, key, points in rows)


def school_row(connection: Connection[Any]) -> dict[str, Any]:
    """The school's own row, without its id."""
    row = connection.execute(
        "SELECT to_jsonb(s) - %s::text[] FROM school s WHERE id = current_setting('almanaque.school')::uuid",
        [list(NOT_SCHOOL)],
    ).fetchone()
    found: dict[str, Any] = row[0] if row else {}
    return found


def rows(connection: Connection[Any], table: SchoolTable) -> list[dict[str, Any]]:
    """All rows of a table in the order of its key; bytes are written as \\x and hexadecimal digits."""
    chosen = sql.SQL(", ").join(sql.Identifier(c.name) for c in table.columns)
    order = sql.SQL(", ").join(sql.Identifier(name) for name in table.key or [c.name for c in table.columns])
    statement = sql.SQL("SELECT to_jsonb(t) FROM (SELECT {} FROM {} ORDER BY {}) t").format(
        chosen, sql.Identifier(table.name), order
    )
    return [row[0] for row in connection.execute(statement)]


def counts(connection: Connection[Any], present: Sequence[SchoolTable]) -> list[int]:
    """How many rows each of the tables holds for this school, in one question."""
    counted = (sql.SQL("(SELECT count(*) FROM {})").format(sql.Identifier(table.name)) for table in present)
    row = connection.execute(sql.SQL("SELECT {}").format(sql.SQL(", ").join(counted))).fetchone()
    return list(row or ())


def is_used(connection: Connection[Any]) -> bool:
    """True for a school that holds plantings, pickings or notes already."""
    row = connection.execute(
        "SELECT EXISTS (SELECT FROM planting) OR EXISTS (SELECT FROM harvest) OR EXISTS (SELECT FROM journal_entry)"
    ).fetchone()
    return bool(row and row[0])


def empty(connection: Connection[Any], present: Sequence[SchoolTable]) -> None:
    """Take everything out that the bundle may bring, those that point to others first, and the undo that belongs to it."""
    connection.execute("DELETE FROM change")
    for table in reversed(present):
        connection.execute(sql.SQL("DELETE FROM {}").format(sql.Identifier(table.name)))


def save_school(connection: Connection[Any], values: Mapping[str, Any]) -> None:
    """Write the school's own row anew, its id and name of the day it was made kept."""
    known = set(school_row(connection))
    if strange := set(values) - known:
        raise errors.Refused(
            f"The school has no “{min(strange)[:40]}”. The bundle is of another version.", constraint=""
        )
    chosen = sorted(values)
    sets = sql.SQL(", ").join(sql.SQL("{0} = r.{0}").format(sql.Identifier(name)) for name in chosen)
    connection.execute(
        sql.SQL(
            "UPDATE school s SET {} FROM jsonb_populate_record(NULL::school, %s) r WHERE s.id = current_setting('almanaque.school')::uuid"
        ).format(sets),
        [Jsonb(dict(values))],
    )


def save_rows(connection: Connection[Any], table: SchoolTable, values: Sequence[Mapping[str, Any]]) -> None:
    """Write rows as they were. Columns that a row leaves out get their default."""
    if not values:
        return
    given = [c.name for c in table.columns if any(c.name in row for row in values)]
    chosen = sql.SQL(", ").join(sql.Identifier(name) for name in given)
    picked = sql.SQL(", ").join(sql.SQL("r.{}").format(sql.Identifier(name)) for name in given)
    connection.execute(
        sql.SQL(
            "INSERT INTO {0} (school_id, {1}) SELECT current_setting('almanaque.school')::uuid, "
            "{2} FROM jsonb_populate_recordset(NULL::{0}, %s) r"
        ).format(sql.Identifier(table.name), chosen, picked),
        [Jsonb([dict(row) for row in values])],
    )
