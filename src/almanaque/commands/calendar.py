"""Changing terms and breaks. Everything that depends on the calendar is recomputed in the background afterwards."""

from dataclasses import replace
from typing import Any
from uuid import UUID

from psycopg import Connection

from almanaque.commands.context import Context
from almanaque.core.errors import BadInput
from almanaque.core.school_year import Span, check_year
from almanaque.store import queue, school
from almanaque.store.school import SpanKind, SpanRow, YearRow


def save_span(
    connection: Connection[Any], context: Context, kind: SpanKind, year_id: UUID, span_id: UUID, span: Span
) -> None:
    """Add or change a term or break. Raises BadInput when it ends before it starts, overlaps, or leaves its year."""
    year = _year(context, year_id)
    if not span.name.strip():
        raise BadInput("Give it a name, like Autumn term or Spring break.", field="name")
    rows = [
        *(row for row in (year.terms if kind == "term" else year.closures) if row.id != span_id),
        SpanRow(span_id, span),
    ]
    check_year((replace(year, terms=rows) if kind == "term" else replace(year, closures=rows)).core())
    school.save_span(connection, context.school.id, kind, year_id=year_id, span_id=span_id, span=span)
    queue.recompute_school(connection, context.school.id)


def delete_span(connection: Connection[Any], context: Context, kind: SpanKind, span_id: UUID) -> None:
    """Take a term or break out of the calendar."""
    school.delete_span(connection, kind, span_id)
    queue.recompute_school(connection, context.school.id)


def _year(context: Context, year_id: UUID) -> YearRow:
    found = next((year for year in context.years if year.id == year_id), None)
    if found is None:
        raise BadInput("There is no such school year. Choose one from the list.")
    return found
