"""The school: its place, its years with terms and breaks, its classes with their slots."""

from dataclasses import dataclass, field
from datetime import date, time
from typing import Any, Literal
from uuid import UUID

from psycopg import Connection, sql
from psycopg.rows import class_row, dict_row

from almanaque.core.school_year import SchoolYear, Slot, Span
from almanaque.core.units import Units
from almanaque.store import errors
from almanaque.store.sql import load

SQL = load("school")

SpanKind = Literal["term", "closure"]


@dataclass(frozen=True)
class School:
    id: UUID
    name: str
    setting: str
    zone: str
    latitude: float
    longitude: float
    units: Units
    theme: str
    weather_source: str
    weather_digest: str


@dataclass(frozen=True)
class SpanRow:
    """A term, closure or feast with its id; a feast lasts one day."""

    id: UUID
    span: Span


@dataclass(frozen=True)
class YearRow:
    id: UUID
    name: str
    starts: date
    ends: date
    terms: list[SpanRow] = field(default_factory=list)
    closures: list[SpanRow] = field(default_factory=list)
    feasts: list[SpanRow] = field(default_factory=list)

    def core(self) -> SchoolYear:
        spans = (tuple(row.span for row in rows) for rows in (self.terms, self.closures))
        return SchoolYear(self.name, self.starts, self.ends, *spans)


@dataclass(frozen=True)
class Group:
    id: UUID
    name: str
    entry_year: int | None
    head_count: int
    slots: list[Slot]


def school(connection: Connection[Any]) -> School:
    row = connection.cursor(row_factory=class_row(School)).execute(SQL["school"]).fetchone()
    if row is None:
        raise errors.NotFound("There is no such school.")
    return row


def years(connection: Connection[Any]) -> list[YearRow]:
    rows = connection.cursor(row_factory=dict_row).execute(SQL["years"]).fetchall()
    for row in rows:
        row.update({name: _spans(row[name]) for name in ("terms", "closures", "feasts")})
    return [YearRow(**row) for row in rows]


def groups(connection: Connection[Any]) -> list[Group]:
    rows = connection.cursor(row_factory=dict_row).execute(SQL["groups"]).fetchall()
    return [
        Group(
            row["id"], row["name"], row["entry_year"], row["head_count"],
            [Slot(str(row["id"]), weekday, time.fromisoformat(at), minutes) for weekday, at, minutes in row["slots"]],
        )
        for row in rows
    ]  # fmt: skip


def save_span(
    connection: Connection[Any], school_id: UUID, kind: SpanKind, *, year_id: UUID, span_id: UUID, span: Span
) -> None:
    """Write a term or closure under its id, new or changed."""
    connection.execute(
        sql.SQL(
            """INSERT INTO {table} (school_id, id, school_year_id, name, starts, ends)
               VALUES (%(school)s, %(id)s, %(year)s, %(name)s, %(starts)s, %(ends)s)
               ON CONFLICT (school_id, id) DO UPDATE
               SET name = excluded.name, starts = excluded.starts, ends = excluded.ends"""
        ).format(table=sql.Identifier(kind)),
        {
            "school": school_id, "id": span_id, "year": year_id,
            "name": span.name, "starts": span.starts, "ends": span.ends,
        },
    )  # fmt: skip


def delete_span(connection: Connection[Any], kind: SpanKind, span_id: UUID) -> None:
    done = connection.execute(sql.SQL("DELETE FROM {} WHERE id = %s").format(sql.Identifier(kind)), [span_id])
    if done.rowcount == 0:
        raise errors.NotFound("That term or break is not there any more.")


def _spans(rows: list[list[str]]) -> list[SpanRow]:
    return [
        SpanRow(UUID(row_id), Span(name, date.fromisoformat(starts), date.fromisoformat(ends)))
        for row_id, name, starts, ends in rows
    ]
